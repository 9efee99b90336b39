"""One bike from the wish to the ride: every page and paper says the same; nothing is typed twice."""

import re

import pytest
from django.template.loader import render_to_string
from playwright.sync_api import Page, expect

from tests.conftest import BUILD
from tests.web.ticking import tick_all
from unkett.web.catalogue.services import add_parts
from unkett.web.jobs.models import Job, JobStep
from unkett.web.pages.quote import pdf
from unkett.web.plans.models import Plan, State
from unkett.web.supply.services import keep_supplier
from unkett.web.tasks.services import do_next

pytestmark = pytest.mark.own_database


@pytest.fixture
def shelf(owner, workshop, catalogue) -> None:
    """A wide cassette, a derailleur that reaches it three days away, and a counter to order over."""
    cage = {**BUILD["parts"]["rear_derailleur"]["attrs"], "sprocket_max_teeth": 42}
    wide = {"speeds": 9, "teeth": [12, 14, 16, 18, 21, 24, 28, 34, 42], "mount": "spline9"}
    entries = [
        {"kind": "rear_derailleur", "name": "Long cage", "attrs": cage, "price": "40.00", "days": 3},
        {"kind": "cassette", "name": "Very wide nine", "attrs": wide, "price": "50.00"},
    ]
    add_parts(workshop, entries)
    keep_supplier(actor=owner, supplier_id=None, name="By phone", url="")


def amount(text: str) -> str:
    """The sum in a text, such as 123.45."""
    found = re.findall(r"\d+\.\d{2}", text)
    assert found, text
    return found[-1]


def test_from_the_wish_to_the_ride_one_total_one_day(
    bike, plan, shelf, owner, signed_in: Page, monkeypatch
) -> None:
    page = signed_in
    typed: list[str] = []

    def write(label: str, value: str) -> None:
        typed.append(value)
        page.get_by_label(label).fill(value)

    # the wish, and what is found
    page.goto(f"/plans/{plan.pk}/ways/")
    write("Largest at least", "42")
    page.get_by_role("button", name="Find ways").click()
    expect(page.get_by_test_id("going-on")).to_be_visible()
    assert do_next()
    card = page.get_by_test_id("way").first
    expect(card).to_contain_text("Very wide nine")
    total, minutes, ready = (card.get_by_test_id(name).inner_text() for name in ("total", "minutes", "ready"))
    card.get_by_role("button", name="Add as option").click()
    page.wait_for_url(re.compile(rf"/plans/(?!{plan.pk}/)\d+/$"))
    option = Plan.objects.get(letter="B")

    # the plan, its options, its quote
    row = page.locator("[data-number]")
    assert amount(page.locator('[data-number="total"]').inner_text()) == total
    assert page.locator('[data-number="minutes"] td').last.inner_text() == minutes
    assert page.locator('[data-number="ready"] td').last.inner_text() == ready
    assert row.count() >= 6
    page.get_by_role("link", name="Side by side").click()
    for error in (total, f"{minutes} min", ready):
        expect(page.get_by_role("table")).to_contain_text(error)
    page.goto(f"/plans/{option.pk}/quote/")
    assert page.get_by_test_id("gross").inner_text() == total
    assert page.get_by_test_id("minutes").inner_text() == minutes
    assert page.get_by_test_id("ready").inner_text() == ready

    # the paper and the customer, who says yes
    papers: list[str] = []
    monkeypatch.setattr(
        pdf,
        "pdf_from",
        lambda name, error: papers.append(render_to_string(name, error)) or {"pdf": "JVBERi0="},
    )
    page.get_by_role("button", name="Make a PDF").click()
    expect(page.get_by_text("The PDF is being made")).to_be_visible()
    assert do_next()
    assert total in papers[0]
    assert option.bike.name in papers[0]
    page.get_by_role("button", name="Make a link").click()
    address = page.get_by_label(re.compile("^Link until")).input_value()
    customer = page.context.browser.new_page()  # type: ignore[union-attr]
    customer.goto(address)
    assert customer.get_by_test_id("gross").inner_text() == total
    assert customer.get_by_test_id("ready").inner_text() == ready
    expect(customer.get_by_text("easier uphill").first).to_be_visible()
    customer.get_by_label("Yes, do it").check()
    customer.get_by_role("button", name="Send").click()
    expect(customer.get_by_text("You said")).to_be_visible()

    # the Yard says so; the parts are ordered and come
    page.goto("/")
    page.get_by_test_id("news").get_by_role("button", name=re.compile("Open the quote")).click()
    assert page.get_by_test_id("gross").inner_text() == total
    assert page.get_by_test_id("ready").inner_text() == ready
    page.goto(f"/plans/{option.pk}/parts-list/")
    assert page.get_by_test_id("ready").inner_text() == ready
    for ref in page.get_by_role("checkbox").all():
        if not ref.get_attribute("value").startswith("rear_derailleur"):  # type: ignore[union-attr]
            ref.uncheck()  # the rest is in the drawer
    page.get_by_role("button", name="Order from By phone").click()
    page.get_by_role("button", name="I have sent it").click()
    page.get_by_role("button", name="Receive: Long cage").click()
    page.goto("/")
    news = page.get_by_test_id("news")
    expect(news).to_contain_text("All parts are here")
    news.get_by_role("link", name="Open the job").click()

    # the job and the schedule
    page.get_by_role("button", name="Make the job sheet").click()
    expect(page.get_by_role("main")).to_contain_text(f"{minutes} min of hands left")
    expect(page.get_by_role("main")).to_contain_text(f"promised {ready.split(' ', 1)[1]}")
    job = Job.objects.get(plan=option)
    assert sum(step.content["minutes"] for step in job.steps.all()) == int(minutes)
    page.goto("/days/")
    page.get_by_role("button", name="Update schedule").click()
    expect(page.get_by_role("main")).to_contain_text("making it")
    assert do_next()
    page.goto("/days/")
    session = page.get_by_role("listitem").filter(has_text=bike.name).first
    if not session.is_visible():  # the day's hours are over
        page.get_by_role("navigation", name="Days").get_by_role("link").nth(1).click()
    expect(session).to_contain_text(f"promised {ready}")
    tick_all(owner, job)
    JobStep.objects.filter(job=job).update(countersigned_by=owner, countersigned_at=job.made)
    page.goto(f"/plans/{option.pk}/job/")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("heading", name="Hand-over sheet")).to_be_visible()
    assert Plan.objects.get(pk=option.pk).state == State.HANDED_OVER

    # afterwards: the customer, the quote as it was agreed
    customer.goto(address)
    expect(customer.get_by_role("heading", name="What was done")).to_be_visible()
    assert customer.get_by_test_id("gross").inner_text() == total
    customer.close()
    page.goto(f"/plans/{option.pk}/quote/")
    assert page.get_by_test_id("gross").inner_text() == total
    assert page.get_by_test_id("minutes").inner_text() == minutes
    assert typed == ["42"]  # every other number was known
