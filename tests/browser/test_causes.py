"""A complaint narrowed down on the real pages: chosen by its words, checked by key, measured, put on the job."""

import pytest
from playwright.sync_api import Page, expect

from unkett.web.bikes.complaints import given_answers
from unkett.web.bikes.models import Bike

pytestmark = pytest.mark.own_database


def test_from_the_riders_words_to_the_job(bike, signed_in: Page) -> None:
    page = signed_in
    Bike.objects.filter(pk=bike.pk).update(complaint="It jumps up the hill.")
    page.goto(f"/bikes/{bike.pk}/")
    page.get_by_role("navigation", name="Work on this bike").get_by_role("link", name="Causes").click()
    page.get_by_role("button", name="Chain skips under load").click()
    check = page.get_by_role("region", name="The next check")
    title = check.get_by_role("heading").inner_text()
    page.keyboard.press("Space")  # nothing found
    expect(check.get_by_role("heading")).not_to_have_text(title)
    for _ in range(4):
        if "Gauge the chain" in check.get_by_role("heading").inner_text():
            break
        before = check.get_by_role("heading").inner_text()
        page.keyboard.press("1")
        expect(check.get_by_role("heading")).not_to_have_text(before)
    expect(check.get_by_role("heading")).to_contain_text("Gauge the chain")
    check.get_by_label("Reading").fill("0,8")
    check.get_by_role("button", name="Save").click()
    expect(page.get_by_role("complementary", name="Suspects")).to_contain_text("Chain worn past its limit")
    page.get_by_role("button", name="Put it on the job").first.click()
    expect(page.get_by_role("complementary", name="Suspects")).to_contain_text("On the job")
    bike.refresh_from_db()
    assert "chain_worn" in bike.looked
    assert ("gauge_chain", "past its limit") in [(one.check.code, one.result) for one in given_answers(bike)]
    page.get_by_role("button", name="Take off: Chain skips under load").click()
    expect(page.get_by_role("main")).to_contain_text("Nothing is complained of yet")
