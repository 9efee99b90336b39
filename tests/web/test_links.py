"""A customer's link: it shows one plan, takes an answer, ends; a customer handed out and removed; a bike's log."""

import csv
import io
import random
from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from unkett.web.bikes.models import Bike
from unkett.web.plans.links import address_of_link, give_link, link_by, withdraw_link
from unkett.web.plans.models import CustomerLink, Plan
from unkett.web.plans.services import move_plan, swap_part
from unkett.web.tasks.models import Task
from unkett.web.workshop.models import Customer, LogEntry
from unkett.web.workshop.services import change_customer


@pytest.fixture
def quoted(owner, plan, catalogue) -> Plan:
    part = catalogue["Eight"].pk
    made = swap_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="cassette", part_id=part)
    return move_plan(actor=owner, plan_id=plan.pk, version=made.version, to="quoted")


def address(link) -> str:
    return reverse("workshop:look", args=[address_of_link(link)])


def test_a_customer_says_yes(client, owner, quoted) -> None:
    client.force_login(owner)
    url = reverse("plans:link-give", args=[quoted.pk])
    assert client.post(url, {"days": "900", "once": ""}).status_code == 422
    assert client.post(url, {"days": "14", "once": ""}).status_code == 302
    link = CustomerLink.objects.get()
    assert address(link) in client.get(reverse("plans:quote", args=[quoted.pk])).text
    customer = Client()
    shown = customer.get(address(link))
    assert "Eight" in shown.text
    assert "Total" in shown.text
    assert shown["Referrer-Policy"] == "same-origin"
    assert "no-store" in shown["Cache-Control"]
    for hidden in (">Yard<", "Sign out", reverse("bikes:stand", args=[quoted.bike_id])):
        assert hidden not in shown.text
    answer = {"answer": "yes", "says": "please", "version": quoted.version}
    assert customer.post(address(link), {**answer, "answer": ""}).status_code == 422
    assert customer.post(address(link), {**answer, "answer": "question", "says": ""}).status_code == 422
    assert customer.post(address(link), {**answer, "version": quoted.version - 1}).status_code == 422
    assert customer.post(address(link), answer).status_code == 302
    quoted.refresh_from_db()
    assert (quoted.state, quoted.agreements.count()) == ("agreed", 1)
    assert "You said" in customer.get(address(link)).text
    assert (
        customer.post(address(link), {**answer, "answer": "no", "version": quoted.version}).status_code == 422
    )
    error = client.get(reverse("plans:quote", args=[quoted.pk])).text
    assert "The customer says" in error
    assert "please" in error
    assert LogEntry.objects.filter(verb="customer says yes", actor=None).exists()


def test_a_question_leaves_the_plan_as_it_is(owner, quoted) -> None:
    link = give_link(actor=owner, plan_id=quoted.pk)
    data = {"answer": "question", "says": "why so much?", "version": quoted.version}
    assert Client().post(address(link), data).status_code == 302
    quoted.refresh_from_db()
    assert quoted.state == "quoted"


def test_a_link_opens_nothing_else_and_ends(client, owner, bike, quoted) -> None:
    link = give_link(actor=owner, plan_id=quoted.pk)
    customer = Client()
    assert customer.get(address(link)).status_code == 200
    for name in ("plans:show", "plans:quote", "plans:parts-list"):
        assert customer.get(reverse(name, args=[quoted.pk])).status_code == 302
    withdraw_link(actor=owner, link_id=link.pk)
    assert customer.get(address(link)).status_code == 404
    assert customer.post(address(link), {"answer": "yes", "version": quoted.version}).status_code == 404
    late = give_link(actor=owner, plan_id=quoted.pk)
    CustomerLink.objects.filter(pk=late.pk).update(until=timezone.now() - timedelta(minutes=1))
    assert customer.get(address(late)).status_code == 404
    gone = give_link(actor=owner, plan_id=quoted.pk)
    Bike.objects.update(status="removed")
    assert customer.get(address(gone)).status_code == 404


def test_nobody_finds_a_link_by_trying(owner, quoted) -> None:
    link = give_link(actor=owner, plan_id=quoted.pk)
    good = address_of_link(link)
    pick = random.Random(7)
    signs = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_~:."
    assert link_by(good) is not None
    for _ in range(400):
        at = pick.randrange(len(good))
        other = good[:at] + pick.choice(signs) + good[at + 1 :]
        assert other == good or link_by(other) is None
    for text in (
        "",
        "~",
        str(link.pk),
        f"{link.pk}~",
        good + "~",
        good[:-1],
        good.swapcase(),
        "1" * 500,
        "\x00",
        "é~é",
    ):
        assert link_by(text) is None
    again = give_link(actor=owner, plan_id=quoted.pk)
    assert link_by(f"{again.pk}~{good.partition('~')[2]}") is None  # one link's sign is not another's


def test_a_customer_is_handed_out_and_removed(client, owner, bike, quoted) -> None:
    client.force_login(owner)
    customer = bike.customer
    known = {"name": "Ebba Holm", "reach": "+1 555 0100", "note": "early riser"}
    change_customer(actor=owner, customer_id=customer.pk, version=1, values=known)
    customer.refresh_from_db()
    Task.objects.create(workshop=owner.workshop, sort="quote-pdf", about_id=quoted.pk, found={"pdf": "x"})
    LogEntry.objects.create(
        workshop=owner.workshop, verb="note", about="bike", about_id=bike.pk, about_name="Ebba Holm's bike",
        before={"who": ["told EBBA HOLM twice"]}, after={"n": 1},
    )  # fmt: skip
    out = client.get(reverse("customers:kept", args=[customer.pk])).json()
    assert (out["reach"], out["bikes"][0]["name"]) == ("+1 555 0100", "Pier bike")
    url = reverse("customers:forget", args=[customer.pk])
    assert client.post(url, {"version": 1, "once": ""}).status_code == 404  # not as the hand saw it
    assert client.post(url, {"version": customer.version, "once": ""}).status_code == 302
    bike.refresh_from_db()
    assert bike.customer_id is None
    assert not Customer.objects.exists()
    assert not Task.objects.filter(sort="quote-pdf").exists()
    for line in LogEntry.objects.all():
        text = f"{line.about_name} {line.before} {line.after}".lower()
        assert "ebba" not in text
        assert "0100" not in text
        assert "riser" not in text
    assert LogEntry.objects.get(verb="note").before == {"who": ["told a removed customer twice"]}


def test_a_bikes_log_has_before_and_after(client, owner, bike, quoted) -> None:
    client.force_login(owner)
    url = reverse("bikes:log", args=[bike.pk])
    assert "swap" in client.get(url).text
    rows = list(csv.reader(io.StringIO(client.get(url, {"as": "csv"}).text)))
    assert rows[0] == ["at", "who", "did", "about", "name", "before", "after"]
    assert [row[2] for row in rows[1:]][:2] == ["state", "swap"]
    assert '"quoted"' in rows[1][6]
