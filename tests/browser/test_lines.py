"""Lines in the browser: a stem planned, the brake line's change seen; a guide dragged; the cut list opened."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import open_page
from unkett.web.bikes.models import Bike

pytestmark = pytest.mark.own_database


def test_a_stem_is_changed_and_the_line_comes_out_too_long(island: Page) -> None:
    page = island
    open_page(page, "Coast audax", "Stand")
    page.get_by_role("button", name="Plan a change").click()
    page.get_by_role("heading", name="Steering", exact=True).click()
    page.get_by_role("link", name="Change the stem", exact=True).click()
    page.get_by_role("region", name="Stem").get_by_role("link", name="Change a figure of it").click()
    page.get_by_role("textbox", name="Length").first.fill("50")
    page.get_by_role("button", name="Add to plan").click()
    page.get_by_role("navigation", name="Work on this bike").get_by_role(
        "link", name="Cables & hoses"
    ).click()
    line = page.get_by_role("region", name="Rear brake line")
    change = line.locator('[data-number="change"]')
    expect(change).to_contain_text("-")
    expect(line).to_contain_text("mm")
    page.get_by_role("link", name="Cut list").click()
    expect(page.get_by_role("region", name="Brake housing, coil, 5 mm")).to_be_visible()


def test_a_guide_is_dragged_and_kept(island: Page) -> None:
    page = island
    open_page(page, "Coast audax", "Cables & hoses")
    bike = Bike.objects.get(name="Coast audax")
    before = bike.fitted.get(slot="rear_shift_line").attrs["need_mm"]
    box = page.locator('[data-handle="rear_shift_line:stay_stop"]').bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 60, steps=4)
    with page.expect_navigation():
        page.mouse.up()
    expect(page.get_by_role("region", name="Rear shift line")).to_be_visible()
    line = bike.fitted.get(slot="rear_shift_line")
    assert line.attrs["points_mm"][0]["point"] == "stay_stop"
    assert line.attrs["need_mm"] != before
    assert line.attrs["points_mm"][0]["up_mm"] < -60  # the stop stood some 20 mm over the bracket
