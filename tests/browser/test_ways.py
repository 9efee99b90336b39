"""From a wish to the bike: ways, an option, its quote, agreed, carried out, and found in the bike's history."""

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import BUILD
from unkett.web.bikes.models import BikePart
from unkett.web.catalogue.services import add_parts
from unkett.web.tasks.services import do_next

pytestmark = pytest.mark.own_database


def test_from_a_wish_to_the_bike(bike, catalogue, workshop, signed_in: Page) -> None:
    cage = {**BUILD["parts"]["rear_derailleur"]["attrs"], "sprocket_max_teeth": 42}
    wide = {"speeds": 9, "teeth": [12, 14, 16, 18, 21, 24, 28, 34, 42], "mount": "spline9"}
    entries = [
        {"kind": "rear_derailleur", "name": "Long cage", "attrs": cage, "price": "40.00", "days": 3},
        {"kind": "cassette", "name": "Very wide nine", "attrs": wide, "price": "50.00"},
    ]
    add_parts(workshop, entries)
    page = signed_in
    page.get_by_role("link", name="Pier bike").click()
    page.get_by_role("button", name="Plan a change").click()
    page.get_by_role("link", name="Find ways").click()
    page.get_by_label("Largest at least").fill("42")
    page.get_by_role("button", name="Find ways").click()
    expect(page.get_by_role("heading", name="Searching")).to_be_visible()
    assert do_next()  # what the background process does
    card = page.get_by_test_id("way")
    expect(card).to_have_count(1)
    expect(card).to_contain_text("191.70")
    card.get_by_role("button", name="Add as option").click()

    expect(page.get_by_role("heading", name="option B")).to_be_visible()
    expect(page.get_by_role("region", name="Changes")).to_contain_text("Very wide nine")
    page.get_by_role("link", name="Quote").click()
    # as the card said: 90.00, 3.00 and 89 minutes at 45.00 an hour, with 20 %
    expect(page.get_by_test_id("gross")).to_have_text("191.70")
    page.get_by_role("button", name="Mark as agreed").click()
    expect(page.get_by_text("frozen as it was then")).to_be_visible()
    page.get_by_role("textbox", name="What").fill("Bent hanger")
    page.get_by_label("Minutes").fill("20")
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Mark as agreed: Bent hanger").click()
    expect(page.get_by_test_id("gross")).to_have_text("209.70")  # and 15.00 with 20 %

    page.get_by_role("link", name="Back to the plan").click()
    page.get_by_role("button", name="Start work").click()
    page.get_by_role("button", name="Carried out: everything that is left").click()
    expect(page.get_by_role("button", name="Mark as checked")).to_be_visible()
    page.get_by_role("navigation", name="Work on this bike").get_by_role("link", name="Stand").click()
    page.get_by_role("link", name="History").click()
    expect(page.get_by_role("main")).to_contain_text("Very wide nine")
    fitted = BikePart.objects.filter(bike=bike, slot__in=("cassette", "rear_derailleur"))
    assert sorted(fitted.values_list("name", flat=True)) == ["Long cage", "Very wide nine"]
