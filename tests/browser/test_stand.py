"""The drawing as the interface: a clash found by mouse and by keyboard alone, a bike taken in, a part moved
and undone.
"""

import re

import pytest
from playwright.sync_api import Page, expect

from unkett.web.bikes.models import Bike

pytestmark = pytest.mark.own_database


def test_a_clash_is_found_from_the_drawing_by_mouse(island: Page) -> None:
    page = island
    page.get_by_role("link", name="Harbour post no. 4", exact=True).click()
    drawing = page.get_by_role("group", name="Side view")
    mark = drawing.get_by_role("link", name=re.compile("^Shifting at the rear: No-go"))
    mark.hover()
    mark.click()
    panel = page.locator("#joint")
    expect(panel.get_by_role("heading", name="Shifting at the rear")).to_be_visible()
    expect(panel).to_contain_text("Shifter 8 positions; cassette 9 sprockets")
    expect(panel.get_by_role("term").filter(has_text="Rear shifter")).to_be_visible()
    expect(mark).to_have_attribute("aria-current", "true")
    panel.get_by_role("link", name="Next joint:").click()
    expect(panel.get_by_role("heading", name="Chain")).to_be_visible()
    panel.get_by_role("link", name="All joints").click()
    expect(panel.get_by_role("heading", name="Problems")).to_be_visible()
    page.get_by_role("navigation", name="Joints of this bike").get_by_role(
        "link", name="Bracket and crank"
    ).click()
    expect(panel.get_by_role("img", name="Across the bracket")).to_be_visible()


def test_a_finger_beside_a_mark_means_that_mark(island: Page) -> None:
    page = island
    page.get_by_role("link", name="Harbour post no. 4", exact=True).click()
    mark = page.get_by_role("group", name="Side view").get_by_role(
        "link", name=re.compile("^Post in the seat")
    )
    box = mark.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.click(x - 21, y)  # 44 px across, so 22 to each side
    title = page.locator("#joint [data-joint-title]")
    expect(title).to_have_attribute("data-joint-title", "post")
    page.get_by_role("link", name="All joints").click()
    expect(title).to_have_count(0)
    page.mouse.click(x - 80, y)
    page.wait_for_timeout(300)
    expect(title).to_have_count(0)


def test_a_clash_is_found_by_keyboard_alone_and_planned_away(island: Page) -> None:
    page = island
    page.keyboard.press("/")
    page.keyboard.type("post no. 4")
    page.keyboard.press("Enter")
    page.wait_for_url("**find=post**")
    page.get_by_role("link", name="Harbour post no. 4", exact=True).focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/bikes/*/")
    page.wait_for_load_state()
    page.keyboard.press("j")
    reached = set()
    for key in ["ArrowLeft", "ArrowDown"] * 12:
        name = page.evaluate("document.activeElement.dataset.joint")
        reached.add(name)
        if name == "shifting":
            break
        page.keyboard.press(key)
    assert "shifting" in reached
    page.keyboard.press("Enter")
    panel = page.locator("#joint")
    expect(panel.get_by_role("heading", name="Shifting at the rear")).to_be_visible()
    page.keyboard.press("Escape")
    expect(panel.get_by_role("heading", name="Shifting at the rear")).to_have_count(0)
    page.keyboard.press("n")
    expect(page.get_by_role("listitem").and_(page.locator(":focus"))).to_contain_text("Shifter 8 positions")


def test_the_chain_runs_in_the_chosen_gear(island: Page) -> None:
    page = island
    page.get_by_role("link", name="Coast audax", exact=True).click()
    chain = page.locator("#side .d-side-chain")
    before = chain.get_attribute("points")
    page.get_by_label("chain in").focus()
    page.keyboard.press("ArrowDown")
    expect(chain).not_to_have_attribute("points", before or "")
    with page.expect_download() as download:
        page.get_by_role("link", name="Drawing as SVG").click()
    text = download.value.path().read_text()
    assert text.startswith("<svg xmlns")
    assert "<a " not in text  # a file's picture has no links


def test_a_wrong_field_of_the_intake_keeps_the_rest(island: Page, expected_faults) -> None:
    expected_faults.append("422")
    page = island
    page.get_by_role("link", name="New intake").click()
    for title in ("Gravel", "Derailleur, one ring", "Discs, hydraulic"):
        page.get_by_role("radio", name=title, exact=True).check()
    page.get_by_label("Name of the bike").fill("Dune gravel")
    page.get_by_label("Rider's complaint").fill("Squeals in the wet.")
    page.get_by_role("button", name="Go to the inspection").click()
    page.get_by_role("link", name="Frame").last.click()
    expect(page.get_by_label("Rear brake bolt radius")).to_have_count(0)  # that is a rim brake's
    page.get_by_label(re.compile("^Chainstay")).fill("43")
    frame = page.get_by_role("group", name="Frame")
    frame.get_by_label("Bracket shell", exact=True).select_option("bsa")
    page.get_by_role("button", name=re.compile("^Save and")).click()
    expect(page.get_by_role("alert").get_by_text("Check this reading: 43 mm").first).to_be_visible()
    page.get_by_label(re.compile("^Chainstay")).fill("43cm")
    page.get_by_label(re.compile("^Bracket shell width")).fill("68")
    page.get_by_role("button", name=re.compile("^Save and")).click()
    expect(page.locator(".fault:visible")).to_have_count(0)
    bike = Bike.objects.get(name="Dune gravel")
    page.goto(f"/bikes/{bike.pk}/intake/drive/")
    bracket = page.get_by_role("group", name="Bottom bracket")
    bracket.get_by_label(re.compile("^Shell it fits")).select_option("italian")
    bracket.locator("summary").last.click()
    bracket.get_by_label(re.compile("^Shell widths")).fill("70")
    page.get_by_role("button", name=re.compile("^Save and")).click()
    expect(page.locator(".fault:visible")).to_have_count(0)
    page.goto(f"/bikes/{bike.pk}/")
    # an Italian bracket in a threaded inch shell
    expect(page.get_by_role("main").get_by_role("img", name="No-go").first).to_be_visible()
    expect(page.get_by_text("Squeals in the wet.")).to_be_visible()
    frame = bike.fitted.get(slot="frame")
    assert frame.attrs == {"bb_shell": "bsa", "bb_shell_width_mm": 68, "chainstay_mm": 430}


def test_a_part_is_edited_moved_and_undone(island: Page) -> None:
    page = island
    page.get_by_role("link", name="School loan bike 7", exact=True).click()
    page.locator("summary", has_text="Drivetrain").last.click()
    page.get_by_role("link", name="Edit the chain", exact=True).click()
    page.get_by_role("textbox", name="Links").fill("104")
    page.get_by_label("Wear", exact=True).fill("0.8 % on the gauge")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("status")).to_contain_text("Chain edited")
    page.keyboard.press("u")
    expect(page.get_by_role("status")).to_have_count(0)
    bike = Bike.objects.get(name="School loan bike 7")
    assert "links" not in bike.fitted.get(slot="chain").attrs
    page.goto(f"/bikes/{bike.pk}/parts/rear_derailleur/")
    page.get_by_label("To which bike").select_option("North road custom")
    page.get_by_role("button", name="Move", exact=True).click()
    expect(page.get_by_role("navigation", name="Work on this bike")).to_contain_text("North road custom")
    assert not bike.fitted.filter(slot="rear_derailleur").exists()
    page.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(page.get_by_role("status")).to_have_count(0)
    assert bike.fitted.filter(slot="rear_derailleur").exists()


def test_what_a_plan_changes_stands_out(island: Page) -> None:
    page = island
    page.get_by_role("complementary", name="Plans in work").get_by_role("link", name="Longer fork").click()
    page.get_by_text("Now and planned").click()
    expect(page.locator("#side .d-side-tube.new").first).to_be_visible()
    page.get_by_role("group", name="Side view").get_by_role(
        "link", name=re.compile("^Fork in the frame: No-go")
    ).click()
    expect(page.locator("#joint")).to_contain_text("Axle-to-crown 561 mm is too long; maximum 560 mm")
