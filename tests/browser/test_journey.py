"""The whole job in the browser: change a cassette, know what follows, find it again."""

import re

import pytest
from playwright.sync_api import Page, expect

from unkett.web.plans.models import Plan
from unkett.web.plans.services import swap_part

pytestmark = pytest.mark.django_db(transaction=True)


def test_change_a_cassette_and_find_it_tomorrow(bike, catalogue, signed_in: Page) -> None:
    page = signed_in
    page.get_by_role("link", name="Pier bike").click()
    page.get_by_label("Chain: links").fill("110")
    page.get_by_role("button", name="Keep").first.click()
    expect(page.get_by_role("heading", name="What it needs")).to_be_visible()

    page.get_by_role("button", name="Plan a change").click()
    page.get_by_role("link", name="Change the cassette").click()
    drawer = page.locator(".drawer")
    eight = drawer.locator(".candidate", has_text="Eight")
    expect(eight).to_have_attribute("data-verdict", "no_go")
    expect(drawer.locator(".candidate", has_text="Wide nine")).to_have_attribute("data-verdict", "goes_if")
    drawer.get_by_label("Narrow by words").fill("wide")
    expect(drawer.locator(".candidate")).to_have_count(1)
    drawer.get_by_role("button", name="Plan it: Wide nine").click()

    expect(drawer).to_have_count(0)
    changes = page.locator(".changes")
    expect(changes).to_contain_text("because you changed the cassette")
    expect(page.locator("[data-number=chain] td").last).to_have_text(re.compile("^110"))
    expect(page.locator("[data-number=low] td").last).to_have_text("2.45")
    finding = page.locator('[data-rule="largest-sprocket"]')
    finding.get_by_text("where from?").click()
    expect(finding.locator(".where-panel")).to_contain_text("largest-sprocket")

    page.get_by_role("link", name="Chain", exact=False).first.click()
    expect(page.locator(".cut")).to_contain_text("Leave it as long as it is.")
    page.get_by_role("link", name="Gears").click()
    expect(page.get_by_role("img", name="Gears", exact=True)).to_be_visible()

    page.get_by_role("link", name=re.compile("^Plan")).first.click()
    page.get_by_text("Name and note").click()
    page.get_by_label("Name", exact=True).fill("For the pier ramp")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="For the pier ramp")).to_be_visible()

    page.get_by_role("button", name="Sign out").click()
    page.get_by_label("Name").fill("olla")
    page.get_by_label("Password").fill("a long pass phrase")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("table").get_by_role("link", name="For the pier ramp").click()
    expect(page.locator(".changes")).to_contain_text("Wide nine")
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_role("status")).to_contain_text("This plan is discarded")
    page.get_by_role("button", name="Take it up again").click()
    expect(page.get_by_role("button", name="Discard")).to_be_visible()
    assert Plan.objects.get().changes.get().name == "Wide nine"


def test_the_second_editor_is_told(signed_in: Page, plan, mechanic, catalogue, expected_faults) -> None:
    expected_faults.append("409")  # the browser notes the refused request in its console
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("link", name="Change the cassette").click()
    swap_part(actor=mechanic, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk)
    page.get_by_role("button", name="Plan it: Eight").click()
    told = page.get_by_role("alert")
    expect(told).to_contain_text("Mads changed this plan at")
    told.get_by_role("link", name="Show it as it is now").click()
    expect(page.locator(".changes")).to_contain_text("Wide nine")


def test_by_keyboard_only(bike, signed_in: Page) -> None:
    page = signed_in
    page.keyboard.press("/")
    page.keyboard.type("pier")
    page.keyboard.press("Enter")
    page.wait_for_url("**find=pier")
    page.get_by_role("link", name="Pier bike").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Measure next")).to_be_visible()
    page.keyboard.press("m")
    page.keyboard.type("110")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="What goes").click()
    expect(page.locator('[data-rule="chain-length"]')).to_have_attribute("data-verdict", "goes")
    page.keyboard.press("n")
    expect(page.locator(".finding:focus")).to_have_count(1)
    page.keyboard.press("w")
    expect(page.locator(".finding:focus .where-panel")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
