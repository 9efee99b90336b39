"""The whole job in the browser: change a cassette, know what follows, find it again."""

import re

import pytest
from playwright.sync_api import Page, expect

from unkett.core.formats.reader import build_from
from unkett.web.bikes.services import store_build
from unkett.web.plans.models import Plan
from unkett.web.plans.services import swap_part

pytestmark = pytest.mark.own_database


def test_change_a_cassette_and_find_it_tomorrow(bike, catalogue, signed_in: Page) -> None:
    page = signed_in
    page.get_by_role("link", name="Pier bike").click()
    page.get_by_label("Chain: links").fill("110")
    page.get_by_role("button", name="Save").first.click()
    expect(page.get_by_role("heading", name="Needs")).to_be_visible()

    page.get_by_role("button", name="Plan a change").click()
    page.get_by_role("link", name="Change the cassette").click()
    drawer = page.get_by_role("region", name="Cassette")
    candidates = drawer.get_by_role("listitem")
    expect(candidates.filter(has_text="Eight").get_by_role("img", name="No-go")).to_be_visible()
    expect(candidates.filter(has_text="Wide nine").get_by_role("img", name="Go if")).to_be_visible()
    drawer.get_by_label("Narrow by words").fill("wide")
    expect(candidates).to_have_count(1)
    drawer.get_by_role("button", name="Add to plan: Wide nine").click()

    expect(drawer).to_have_count(0)
    changes = page.get_by_role("region", name="Changes")
    expect(changes).to_contain_text("because you changed the cassette")
    numbers = page.get_by_role("region", name="Numbers, now and planned")
    expect(numbers.get_by_role("row", name="chain, links").get_by_role("cell").last).to_contain_text("110")
    expect(numbers.get_by_role("row", name="lowest gear").get_by_role("cell").last).to_have_text("2.45")
    finding = page.get_by_role("complementary").get_by_role("listitem").filter(has_text="sprocket 36 T").first
    finding.get_by_text("where from?").click()
    expect(finding).to_contain_text("Rule largest-sprocket")

    page.get_by_role("link", name="Chain", exact=False).first.click()
    expect(page.get_by_role("status")).to_contain_text("Leave it as long as it is.")
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
    expect(page.get_by_role("region", name="Changes")).to_contain_text("Wide nine")
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("This plan is discarded")).to_be_visible()
    page.get_by_role("button", name="Restore").click()
    expect(page.get_by_role("button", name="Discard")).to_be_visible()
    assert Plan.objects.get().changes.get().name == "Wide nine"


def test_a_drawer_opened_from_a_folded_area_closes_and_opens_again(signed_in: Page, plan) -> None:
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("heading", name="Wheels", exact=True).click()
    drawer = page.get_by_role("region", name="Front tyre")
    for _ in range(2):
        page.get_by_role("link", name="Change the front tyre").click()
        expect(drawer).to_be_visible()
        drawer.get_by_role("link", name="Close").click()
        expect(drawer).to_have_count(0)


def test_what_is_accepted_leaves_the_list_and_the_yard_calls_it_settled(signed_in: Page, owner) -> None:
    parts = {
        "cassette": {
            "attrs": {"speeds": 9, "teeth": [11, 12, 14, 16, 18, 21, 24, 28, 32], "mount": "spline9"}
        },
        "rear_hub": {"attrs": {"freehub": "spline9_road11"}},
        "chain": {"attrs": {"speeds": 9}},
    }
    bike = store_build(owner, build_from({"name": "Short stack", "parts": parts}))
    page = signed_in
    page.goto(f"/bikes/{bike.pk}/")
    page.get_by_text("Accept as is").click()
    page.get_by_label("Why it may stay so").fill("Rides with the spacer the customer brings")
    page.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_role("heading", name="Needs")).to_have_count(0)
    page.get_by_role("heading", name="Accepted").click()
    expect(page.get_by_text("Rides with the spacer the customer brings")).to_be_visible()
    page.get_by_role("link", name="Yard", exact=True).click()
    row = page.get_by_role("row").filter(has_text="Short stack")
    expect(row.get_by_role("img", name="Not measured")).to_be_visible()  # 27 parts are not recorded
    expect(row).to_contain_text("1 accepted")


def test_the_second_editor_is_reported(signed_in: Page, plan, mechanic, catalogue, expected_faults) -> None:
    expected_faults.append("409")  # the browser notes the refused request in its console
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("link", name="Change the cassette").click()
    page.get_by_role("button", name="Add to plan: Eight").wait_for()
    swap_part(actor=mechanic, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk)
    page.get_by_role("button", name="Add to plan: Eight").click()
    error = page.get_by_role("alert")
    expect(error).to_contain_text("Mads changed this plan at")
    error.get_by_role("link", name="Reload").click()
    expect(page.get_by_role("region", name="Changes")).to_contain_text("Wide nine")


def test_by_keyboard_only(bike, signed_in: Page) -> None:
    page = signed_in
    page.wait_for_load_state()  # the keys are heard once the page is whole
    page.keyboard.press("/")
    expect(page.locator('[data-key="/"]')).to_be_focused()
    page.keyboard.type("pier")
    page.keyboard.press("Enter")
    page.wait_for_url("**find=pier")
    page.get_by_role("link", name="Pier bike").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Measure next", exact=True)).to_be_visible()
    page.wait_for_load_state()  # the keys are heard once the page is whole
    page.keyboard.press("m")
    expect(page.get_by_label("Chain: links")).to_be_focused()
    page.keyboard.type("110")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Undo").wait_for()  # the page as it is after the reading
    page.wait_for_load_state()
    page.get_by_role("heading", name="Go").click()
    goes = (
        page.get_by_role("listitem")
        .filter(has_text="110 links")
        .filter(has=page.get_by_role("img", name="Go", exact=True))
    )
    expect(goes.first).to_be_visible()
    page.keyboard.press("n")
    asking = page.get_by_role("listitem").and_(page.locator(":focus"))
    expect(asking).to_have_count(1)
    page.keyboard.press("w")
    expect(asking.get_by_text(re.compile("^Rule [a-z-]+"))).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
