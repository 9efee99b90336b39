"""The suspension at the stand: the next change follows as the sag is typed, is saved, and another rider is set."""

import re

import pytest
from playwright.sync_api import Page, expect

from unkett.web.bikes.models import Bike, SetUp

pytestmark = pytest.mark.own_database("demo")


def test_from_a_sag_to_the_next_pressure_and_another_rider(island: Page, expected_faults) -> None:
    page, bike = island, Bike.objects.get(name="Moor trail")
    page.goto(f"/bikes/{bike.pk}/")
    page.get_by_role("link", name="Suspension").click()
    shock = page.get_by_test_id("end-shock")
    tries = page.locator("#next-shock .sprung-try")
    expect(tries).to_have_text(re.compile(r"Try 13\.6 bar\."))
    shock.get_by_label("Sag").fill("14")
    expect(tries).to_have_text("Ride, then read the ring after the hardest hit.")
    shock.get_by_label("Hardest hit").fill("30")
    expect(tries).to_have_text(re.compile("0 volume spacers"))
    expected_faults.append("422")
    shock.get_by_label("Pressure").fill("1O")
    expect(page.locator("#next-shock .wrong")).to_be_visible()
    shock.get_by_label("Pressure").fill("13,6")
    shock.get_by_label("Why changed").fill("as worked out")
    shock.get_by_role("button", name="Save").click()
    expect(page.get_by_test_id("records-shock")).to_contain_text("as worked out")
    assert bike.fitted.get(slot="shock").attrs["set_pressure_bar"] == 13.6
    page.get_by_label("Mass with kit").fill("95")
    page.get_by_role("button", name="Make a set-up").click()
    expect(page.get_by_role("heading", name="Set-ups")).to_be_visible()
    expect(page.get_by_text("Rider of 95 kg").first).to_be_visible()
    assert SetUp.objects.get(bike=bike, name="Rider of 95 kg").settings["bike"] == {"mass_kg": 95.0}
