"""What hands do: a part of one's own into the bike and out again, wheels swapped, pressed twice, tapped, gone back."""

import pytest
from playwright.sync_api import Browser, Page, expect

from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.services import record_measure
from unkett.web.plans.models import Plan

pytestmark = pytest.mark.own_database


def test_a_part_of_ones_own_is_planned_carried_out_and_undone(signed_in: Page, bike, plan) -> None:
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("link", name="Change the chain", exact=True).click()
    page.get_by_role("region", name="Chain").get_by_role("link", name="Type or measure one").click()
    page.get_by_label("Name", exact=True).fill("Off the wall")
    page.get_by_label("Speeds").first.fill("9")
    page.get_by_role("textbox", name="Links").fill("112")
    page.get_by_role("button", name="Add to plan").click()
    changes = page.get_by_role("region", name="Changes")
    expect(changes).to_contain_text("Off the wall")
    expect(changes).to_contain_text("typed here")
    page.get_by_role("button", name="Mark as agreed").click()
    page.get_by_role("button", name="Start work").click()
    page.get_by_label("Removed parts").select_option("scrapped")
    page.get_by_role("button", name="Carried out: everything that is left").click()
    expect(page.get_by_role("button", name="Carried out")).to_have_count(0)
    assert bike.fitted.get(slot="chain").name == "Off the wall"
    assert BikePart.objects.filter(where="scrapped").count() == 1
    page.get_by_role("link", name="Stand", exact=False).first.click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Undo")).to_have_count(0)
    assert bike.fitted.get(slot="chain").name != "Off the wall"
    assert not BikePart.objects.filter(where="scrapped").exists()


def test_two_sets_of_wheels_are_swapped(island: Page) -> None:
    page = island
    page.get_by_role("link", name="Coast audax", exact=True).click()
    page.get_by_role("link", name="Set-ups").click()
    summer = page.get_by_role("region", name="Audax wheels")
    winter = page.get_by_role("region", name="Winter wheels")
    expect(summer).to_contain_text("on the bike")
    expect(page.get_by_role("row").filter(has_text="Front tyre")).to_contain_text("37")
    winter.get_by_role("button", name="Put it on: Winter wheels").click()
    expect(winter).to_contain_text("on the bike")
    expect(winter.get_by_role("button", name="Put it on: Winter wheels")).to_have_count(0)
    bike = Bike.objects.get(name="Coast audax")
    assert bike.fitted.get(slot="front_tyre").name == "Sound 37-622"
    summer.get_by_role("button", name="Put it on: Audax wheels").click()
    expect(summer).to_contain_text("on the bike")
    assert bike.fitted.get(slot="front_tyre").name == "32-622 tyre"


def test_pressed_twice_is_done_once(signed_in: Page, bike) -> None:
    page = signed_in
    page.goto(f"/bikes/{bike.pk}/")
    page.get_by_role("button", name="Plan a change").dblclick()
    page.get_by_role("region", name="Changes").wait_for()
    assert Plan.objects.filter(bike=bike).count() == 1


def test_back_after_a_conflict_is_not_a_conflict_again(
    signed_in: Page, bike, mechanic, expected_faults
) -> None:
    expected_faults.append("409")
    page = signed_in
    page.goto(f"/bikes/{bike.pk}/parts/chain/")
    page.get_by_role("textbox", name="Links").fill("112")
    record_measure(actor=mechanic, bike_id=bike.pk, version=1, slot="frame", attr="chainstay_mm", value=431)
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("main")).to_contain_text("Somebody changed this bike")
    expect(page.get_by_role("button", name="Save mine anyway")).to_be_visible()
    page.go_back()  # the form is the bike's as it is now: what is typed there is not refused again
    page.get_by_role("textbox", name="Links").fill("110")
    page.get_by_role("button", name="Save", exact=True).click()
    page.wait_for_url(f"**/bikes/{bike.pk}/")
    page.go_back()
    page.get_by_role("textbox", name="Links").fill("112")
    page.get_by_role("button", name="Save", exact=True).click()
    page.wait_for_url(f"**/bikes/{bike.pk}/")
    kept = {part.slot: part.attrs for part in bike.fitted.all()}
    assert (kept["chain"]["links"], kept["frame"]["chainstay_mm"]) == (112, 431)


def test_a_reading_kept_leaves_the_hand_where_it_was(signed_in: Page, bike) -> None:
    page = signed_in
    page.goto(f"/bikes/{bike.pk}/")
    page.get_by_role("heading", name="Drivetrain").last.click()
    page.get_by_label("Chain: links").fill("110")
    page.get_by_role("button", name="Save").first.click()
    page.get_by_role("button", name="Undo").wait_for()
    page.wait_for_load_state()
    expect(page.locator("details.area[open]").filter(has_text="Drivetrain")).to_have_count(1)
    if page.locator("[data-measure]").count():
        expect(page.locator("[data-measure]:focus")).to_have_count(1)


def test_a_tapped_mark_opens_in_sight_on_a_phone(browser: Browser, site, island: Page) -> None:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=site.url
    )
    context.add_cookies(island.context.cookies())
    page = context.new_page()
    page.goto(f"/bikes/{Bike.objects.get(name='Coast audax').pk}/")
    drawing = page.locator("#side svg")
    box = drawing.bounding_box()
    assert box is not None
    assert box["x"] >= 0
    assert box["x"] + box["width"] <= 390  # the whole bike
    page.locator('.joint-mark[data-joint="fork"]').tap()
    title = page.locator("#joint [data-joint-title]")
    expect(title).to_be_in_viewport()
    context.close()


def test_what_was_unfolded_on_a_plan_stays_so(signed_in: Page, plan, catalogue) -> None:
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("heading", name="Wheels", exact=True).click()
    expect(page.get_by_role("link", name="Change the front tyre")).to_be_visible()
    page.get_by_role("link", name="Change the cassette").click()
    page.get_by_role("button", name="Add to plan: Eight").click()
    expect(page.get_by_role("region", name="Changes")).to_contain_text("Eight")
    expect(page.get_by_role("link", name="Change the front tyre")).to_be_visible()
    expect(page.get_by_role("link", name="Change the cassette")).to_be_focused()


def test_a_slot_that_nothing_stands_in_is_planned_too(signed_in: Page, plan) -> None:
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.locator("select[name=slot]").select_option("spacers")
    page.get_by_role("button", name="Plan something there").click()
    page.get_by_role("link", name="Type or measure one").click()
    page.get_by_label("Below the stem").fill("10")
    page.get_by_role("button", name="Add to plan").click()
    expect(page.get_by_role("region", name="Changes")).to_contain_text("Spacers")
    assert plan.changes.get().attrs == {"below_mm": 10}
