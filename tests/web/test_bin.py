"""Parts that lie in a box: what they are worth, what they are kept with, their labels; scanned from anywhere."""

from decimal import Decimal

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.web.bikes.fitting import take_off
from unkett.web.bikes.models import BikePart
from unkett.web.plans.services import take_part
from unkett.web.workshop.models import LogLine


@pytest.fixture
def lying(client, owner, bike) -> BikePart:
    """The bike's chain on the bench."""
    client.force_login(owner)
    take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    return BikePart.objects.get(where="bench")


def keep(client, part, **typed):
    shown = client.get(reverse("bench:list")).text
    form = next(form for form in forms_of(shown) if form.action.endswith(f"{part.pk}/keep/"))
    return client.post(form.action, {**form.fields, **typed})


def test_a_part_has_a_box_a_value_and_what_it_is_kept_with(client, bike, lying) -> None:
    cassette = bike.fitted.get(slot="cassette")
    typed = {"box": "C 12", "value": "7,50", "mass_g": "262", "kept_with": cassette.label.lower()}
    assert keep(client, lying, **typed).status_code == 302
    lying.refresh_from_db()
    assert (lying.box, lying.value, lying.mass_g, lying.kept_with) == ("C 12", Decimal("7.50"), 262, cassette)
    shown = client.get(reverse("bench:list")).text
    assert 'Worth <b class="num">7.50</b>' in shown
    labels = client.get(reverse("bench:labels"), {"part": lying.pk}).text
    assert "box C 12" in labels
    assert f"with {cassette.label}" in labels
    assert 'class="qr"' in labels


@pytest.mark.parametrize(
    "typed", [{"value": "-1"}, {"value": "much"}, {"mass_g": "-4"}, {"kept_with": "P0"}, {"kept_with": "X1"},
              {"box": "x" * 41}],
)  # fmt: skip
def test_what_cannot_be_read_is_told_beside_the_part(client, lying, typed) -> None:
    answer = keep(client, lying, **typed)
    assert answer.status_code == 422
    assert 'class="wrong"' in answer.text
    lying.refresh_from_db()
    assert (lying.box, lying.value, lying.mass_g, lying.kept_with) == ("", None, None, None)


def test_a_label_opens_its_part_wherever_it_is(client, bike, lying, stranger) -> None:
    rings = bike.fitted.get(slot="cassette")
    assert client.get("/", {"find": lying.label}).url == f"/bench/#{lying.label}"
    assert client.get("/", {"find": rings.label.lower()}).url == reverse(
        "bikes:part-edit", args=[bike.pk, "cassette"]
    )
    assert client.get("/", {"find": "P99999999"}).status_code == 200
    client.force_login(stranger)
    assert client.get("/", {"find": rings.label}).status_code == 200


def test_a_reserved_part_names_its_plan(client, owner, plan, lying) -> None:
    take_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="chain", part_id=lying.pk)
    assert reverse("plans:show", args=[plan.pk]) in client.get(reverse("bench:list")).text


def test_a_part_is_scrapped_with_why(client, lying) -> None:
    url = reverse("bench:part-leave", args=[lying.pk])
    assert client.post(url, {"to": "scrapped", "why": "x" * 201, "once": ""}).status_code == 422
    assert client.post(url, {"to": "scrapped", "why": "past its limit", "once": ""}).status_code == 302
    lying.refresh_from_db()
    assert lying.where == "scrapped"
    assert LogLine.objects.get(verb="scrap").after["why"] == "past its limit"
