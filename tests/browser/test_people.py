"""From the first start to the first bike; an apprentice invited; a customer who says yes."""

import re

import pytest
from playwright.sync_api import Page, expect

from unkett.web.plans.services import move_plan, swap_part
from unkett.web.workshop.models import User

pytestmark = pytest.mark.own_database
PASSWORD = "a phrase for the quay"


def test_a_workshop_is_set_up_and_takes_its_first_bike_in(page: Page, settings, db) -> None:
    settings.CONFIG = {**settings.CONFIG, "set_up_code": "abcd-efgh-jkmn"}
    page.goto("/")
    page.get_by_role("link", name="Set up your workshop").click()
    for label, text in (
        ("Code printed at the start", "abcd-efgh-jkmn"),
        ("Name of the workshop", "North Quay"),
        ("Your name", "Sigga"),
        ("Name to sign in by", "sigga"),
        ("Password, 12 characters or more", PASSWORD),
    ):
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="Set it up").click()
    expect(page.get_by_role("heading", name="Yard")).to_be_visible()
    page.get_by_role("link", name="New intake").first.click()
    page.get_by_label("Name of the bike").fill("Ferry bike")
    for group in page.locator("fieldset.choice").all():
        group.locator("input").first.check()
    page.get_by_role("button", name="Go to the inspection").click()
    page.get_by_role("heading", level=1).wait_for()
    page.goto("/")
    expect(page.get_by_role("link", name="Ferry bike", exact=True)).to_be_visible()


def test_an_apprentice_is_invited_and_sees_no_more_than_hers(signed_in: Page, browser, site, bike) -> None:
    page = signed_in
    page.get_by_role("link", name="Team").click()
    page.get_by_label("Name").fill("Tam")
    page.get_by_role("form", name="Invite somebody").get_by_label("Role").select_option("apprentice")
    page.get_by_role("button", name="Make a link").click()
    link = page.get_by_label("Link for Tam", exact=True).input_value()
    context = browser.new_context(base_url=site.url)
    hers = context.new_page()
    hers.goto(link)
    expect(hers.get_by_text("as apprentice")).to_be_visible()
    hers.get_by_label("Name to sign in by").fill("tam")
    hers.get_by_label("Password, 12 characters or more").fill(PASSWORD)
    hers.get_by_role("button", name="Join").click()
    expect(hers.get_by_role("heading", name="Yard")).to_be_visible()
    expect(hers.get_by_role("link", name="Team")).to_have_count(0)
    assert hers.goto("/people/").status == 403
    context.close()
    assert User.objects.get(username="tam").role == "apprentice"
    page.reload()
    expect(page.get_by_label("Role of Tam", exact=True)).to_have_value("apprentice")


def test_a_customer_says_yes_to_a_quote(signed_in: Page, browser, site, owner, plan, catalogue) -> None:
    made = swap_part(
        actor=owner, plan_id=plan.pk, version=plan.version, slot="cassette", part_id=catalogue["Eight"].pk
    )
    move_plan(actor=owner, plan_id=plan.pk, version=made.version, to="quoted")
    page = signed_in
    page.goto(f"/plans/{plan.pk}/quote/")
    page.get_by_role("button", name="Make a link").click()
    link = page.get_by_label(re.compile("^Link until")).input_value()
    context = browser.new_context(base_url=site.url, viewport={"width": 390, "height": 800})
    theirs = context.new_page()
    theirs.goto(link)
    expect(theirs.get_by_text("Eight")).to_be_visible()
    theirs.get_by_label("Yes, do it").check()
    theirs.get_by_label("What you would like to say or ask").fill("On Friday, please")
    theirs.get_by_role("button", name="Send").click()
    expect(theirs.get_by_text("You said")).to_be_visible()
    context.close()
    page.reload()
    expect(page.get_by_text("On Friday, please")).to_be_visible()
    plan.refresh_from_db()
    assert plan.state == "agreed"
