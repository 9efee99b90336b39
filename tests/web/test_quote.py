"""The quote of a plan, agreed and frozen; extra work; its PDF; the buy-to-sell ledger."""

from decimal import Decimal

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.rules.outcome import need_words
from unkett.web.bikes.queries import settings_of
from unkett.web.plans import quoting, services
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Agreement, Plan, SaleBook
from unkett.web.plans.queries import planned
from unkett.web.tasks.services import do_next


@pytest.fixture
def page(client, owner, plan, catalogue):
    """The quote of a plan with one chain: its address."""
    client.force_login(owner)
    services.swap_part(
        actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=catalogue["Chain of 114"].pk
    )
    return reverse("plans:quote", args=[plan.pk])


def version(plan) -> int:
    return Plan.objects.get(pk=plan.pk).version


def gross(text) -> str:
    return text.split('data-testid="gross">')[1].split("<")[0]


def add(client, plan, **typed):
    data = {"version": version(plan), "title": "Clean the drive", "price": "", "minutes": "", "once": ""}
    return client.post(reverse("plans:quote-add", args=[plan.pk]), {**data, **typed})


def test_a_quote_adds_parts_labour_and_tax(client, page) -> None:
    """16.00 and consumables 3.00; the chain takes 4 + 7 + 12 + 6 = 29 minutes, 21.75 at 45.00 an hour, the job itself
    4 + 6 + 10 + 8 = 28, 21.00: 61.75, with 20 % 12.35: 74.10.
    """
    shown = client.get(page).text
    assert "Chain: Chain of 114" in shown
    assert gross(shown) == "74.10"


def test_what_is_agreed_is_frozen_and_later_work_is_a_line_to_agree(
    client, page, plan, owner, catalogue
) -> None:
    """Later work of 30 minutes is 22.50 with 20 % = 27.00: 74.10 + 27.00 = 101.10 once agreed."""
    shown = client.get(page).text
    form = next(form for form in forms_of(shown) if form.fields.get("to") == "agreed")
    assert client.post(form.action, form.fields).url == page
    assert Agreement.objects.get().content["rows"][0]["title"] == "Chain: Chain of 114"
    catalogue["Chain of 114"].price = Decimal(99)
    catalogue["Chain of 114"].save()
    plan.changes.update(price=99)
    owner.workshop.settings = {"labour_per_hour": 90.0}
    owner.workshop.save()
    assert gross(client.get(page).text) == "74.10"
    add(client, plan, title="Bent hanger", minutes="30")
    shown = client.get(page).text
    assert (gross(shown), shown.count('data-testid="to-agree"')) == ("74.10", 1)
    form = next(form for form in forms_of(shown) if form.action.endswith("/agree/"))
    client.post(form.action, form.fields)
    assert gross(client.get(page).text) == "101.10"
    add(client, plan, title="Bell straightened", minutes="10", price="3", given="on")
    shown = client.get(page).text
    assert gross(shown) == "101.10"
    assert "no charge" in shown


def test_a_quote_follows_the_plan_again_once_it_is_taken_back(client, page, plan, owner) -> None:
    for to in ("agreed", "draft"):
        services.move_plan(actor=owner, plan_id=plan.pk, version=version(plan), to=to)
    plan.changes.update(price=Decimal(26))
    shown = client.get(page).text
    assert gross(shown) == "86.10"
    assert "Agreed before and taken back" in shown


@pytest.mark.parametrize("typed", [{"title": ""}, {"price": "-1"}, {"minutes": "many"}, {"minutes": "99999"}])
def test_a_line_that_cannot_be_read_is_reported_and_not_stored(client, page, plan, typed) -> None:
    answer = add(client, plan, **typed)
    assert answer.status_code == 422
    assert not plan.quote_lines.exists()


def test_a_line_is_taken_off_until_it_is_agreed(client, page, plan, owner) -> None:
    add(client, plan, price="12")
    line = plan.quote_lines.get()
    assert gross(client.get(page).text) == "88.50"
    form = next(form for form in forms_of(client.get(page).text) if form.action.endswith("/drop/"))
    client.post(form.action, form.fields)
    assert not plan.quote_lines.filter(pk=line.pk).exists()


def test_the_pdf_is_made_in_the_background_and_tells_what_is_to_pay(client, page, plan) -> None:
    client.post(reverse("plans:quote-pdf", args=[plan.pk]))
    assert "is being made" in client.get(page).text
    assert do_next()
    link = reverse("plans:quote-file", args=[plan.pk, 1])[: -len("1/quote.pdf")]
    shown = client.get(page).text
    href = next(part for part in shown.split('"') if part.startswith(link) and part.endswith("quote.pdf"))
    answer = client.get(href)
    assert answer["Content-Type"] == "application/pdf"
    assert answer.content.startswith(b"%PDF-")
    assert len(answer.content) > 2000
    add(client, plan, price="1")
    assert "The quote as PDF" not in client.get(page).text


def keep(client, bike, **typed):
    book = SaleBook.objects.filter(bike=bike).first()
    data = {
        "version": book.version if book else 0,
        "bought": "80",
        "bought_on": "2026-03-01",
        "minutes": "210",
        "once": "",
    }
    return client.post(reverse("bikes:resale-keep", args=[bike.pk]), {**data, **typed})


def test_a_resale_record_tells_what_a_bike_earned(client, owner, bike) -> None:
    """80.00 + 45.50 − 20.00 = 105.50; sold for 200.00: 94.50, in 3 h 30 min 27.00 an hour; 10 days on the market."""
    client.force_login(owner)
    url = reverse("bikes:resale", args=[bike.pk])
    assert "No resale record yet" in client.get(url).text
    assert keep(client, bike).status_code == 302
    for title, value, goes_in in (("Wheel from the bin", "45,50", "on"), ("Old wheel", "20", "")):
        data = {"title": title, "value": value, "once": ""} | ({"goes_in": "on"} if goes_in else {})
        assert client.post(reverse("bikes:resale-add", args=[bike.pk]), data).status_code == 302
    assert "105.50" in client.get(url).text
    sold = {"on_market": "2026-03-10", "sold": "200", "sold_on": "2026-03-20"}
    assert keep(client, bike, **sold).status_code == 302
    shown = client.get(url).text
    assert ("94.50" in shown, "27.00" in shown) == (True, True)
    listed = client.get(reverse("bikes:resales")).text
    assert "94.50" in listed
    assert '<td class="num">10</td>' in listed


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"bought": "-1"}, "greater"),
        ({"sold": "5"}, "go together"),
        ({"on_market": "2026-02-01"}, "follow each other"),
        ({"bought_on": "never"}, "date"),
        ({"version": "7"}, "changed this record"),
    ],
)
def test_a_resale_record_that_cannot_be_is_reported_and_not_stored(client, owner, bike, typed, says) -> None:
    client.force_login(owner)
    answer = keep(client, bike, **typed)
    assert answer.status_code in (409, 422)
    assert says in answer.text
    assert not SaleBook.objects.exists()


def test_a_quote_counts_what_the_joints_need(owner, plan, bike, catalogue) -> None:
    """A cassette of eight under a nine-speed chain is a compromise to accept: a line of its own at nothing."""
    services.swap_part(
        actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Eight"].pk
    )
    found = planned(owner, plan.pk)
    quote = PlanCost(found=found, settings=settings_of(owner)).quote
    asked = [need_words(need["what"]) for one in found.difference.new for need in one.needs]
    error = [row.title.lower() for row in quote.rows if row.sort in (quoting.NEED, quoting.ACCEPT)]
    assert sorted(error) == sorted([*asked, "consumables: grease, threadlocker, cable ends"])
