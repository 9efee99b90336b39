"""Slots where somebody looked and found nothing fitted, and damage that takes a part out of use."""

import pytest
from django.urls import reverse

from tests.conftest import BUILD
from tests.web.forms import forms_of
from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import record_empty, store_build
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import Conflict, Refused
from unkett.web.workshop.models import LogEntry


def now(bike) -> Bike:
    return Bike.objects.get(pk=bike.pk)


def test_what_is_taken_off_is_known_to_be_gone_until_it_is_undone(owner, bike, catalogue) -> None:
    fitting.take_off(actor=owner, bike_id=bike.pk, version=1, slot="cassette")
    assert now(bike).empty == ["cassette"]
    assert "cassette" not in current_bike(owner, bike.pk).check.open_slots
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert now(bike).empty == []
    fitting.take_off(actor=owner, bike_id=bike.pk, version=3, slot="cassette")
    part_id = catalogue["Eight"].pk
    fitting.fill_part(actor=owner, bike_id=bike.pk, version=4, slot="cassette", part_id=part_id)
    assert now(bike).empty == []


def test_nothing_fitted_is_one_tap_on_the_stand(client, owner, bike) -> None:
    client.force_login(owner)
    stand = reverse("bikes:stand", args=[bike.pk])
    url = reverse("bikes:part-nothing", args=[bike.pk, "pedals"])
    form = next(one for one in forms_of(client.get(stand).text) if one.action == url)
    assert client.post(url, form.fields).url == stand
    assert now(bike).empty == ["pedals"]
    assert LogEntry.objects.filter(verb="look").get().after == {"pedals": "nothing fitted"}
    page = client.get(stand).text
    assert not [one for one in forms_of(page) if one.action == url]
    assert "Pedals: no part fitted" in page  # what Undo would take back
    again = next(
        one
        for one in forms_of(client.get(reverse("bikes:part-edit", args=[bike.pk, "pedals"])).text)
        if one.action == url
    )
    client.post(url, again.fields)
    assert now(bike).empty == []


def test_what_cannot_be_empty_is_refused(client, owner, bike) -> None:
    with pytest.raises(Refused, match="take the cassette off first"):
        record_empty(actor=owner, bike_id=bike.pk, version=1, slot="cassette", empty=True)
    with pytest.raises(Conflict):
        record_empty(actor=owner, bike_id=bike.pk, version=7, slot="pedals", empty=True)
    client.force_login(owner)
    sofa = reverse("bikes:part-nothing", args=[bike.pk, "sofa"])
    assert client.post(sofa, {"version": 1, "empty": 1}).status_code == 404
    assert (now(bike).empty, now(bike).version) == ([], 1)


def test_a_question_whether_one_is_fitted_is_answered_where_it_stands(client, owner) -> None:
    """Two rings and no front derailleur recorded: the finding asks, and takes both answers."""
    parts = {**BUILD["parts"], "chainrings": {"attrs": {"teeth": [46, 30]}}}
    bike = store_build(owner, build_from({**BUILD, "parts": parts}))
    client.force_login(owner)
    stand = reverse("bikes:stand", args=[bike.pk])
    url = reverse("bikes:part-nothing", args=[bike.pk, "front_derailleur"])
    page = client.get(stand + "?all=1").text
    assert "Front derailleur: is one fitted?" in page
    form = next(one for one in forms_of(page) if one.action == url)
    client.post(url, form.fields)
    found = {f.rule: f for f in current_bike(owner, bike.pk).check.findings}
    assert found["front-derailleur"].key == "none"


def test_the_intake_takes_nothing_fitted_as_an_answer(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:intake-station", args=[bike.pk, "drive"])
    shown = next(form for form in forms_of(client.get(url).text) if "pedals.thread" in form.fields)
    assert client.post(url, {**shown.fields, "pedals.nothing": "1"}).status_code == 302
    assert now(bike).empty == ["pedals"]
    form = next(form for form in forms_of(client.get(url).text) if "pedals.thread" in form.fields)
    assert form.fields["pedals.nothing"] == "1"
    answer = client.post(url, {**form.fields, "pedals.thread": "9_16"})
    assert answer.status_code == 422
    assert "one of the two" in answer.text
    assert now(bike).version == 2
    form.fields.pop("pedals.nothing")
    assert client.post(url, {**form.fields, "pedals.thread": "9_16"}).status_code == 302
    assert now(bike).empty == []


def test_a_file_keeps_empty_slots_and_what_others_wrote(client, owner) -> None:
    given = {
        **BUILD,
        "empty": ["front_derailleur", "shock"],
        "rider": {"mass_kg": 80, "x_shoe": 43},
        "lever_hand": {"front": "left", "x_why": "habit"},
        "x_shelf": "3A",
        "parts": {**BUILD["parts"], "x_shed": {"row": 2}},
    }
    bike = store_build(owner, build_from(given))
    client.force_login(owner)
    out = client.get(reverse("bikes:build-file", args=[bike.pk])).json()
    assert set(out["empty"]) == {"front_derailleur", "shock"}
    assert (out["rider"], out["lever_hand"]) == (given["rider"], given["lever_hand"])
    assert (out["x_shelf"], out["parts"]["x_shed"]) == ("3A", {"row": 2})
    copy = fitting.copy_bike(actor=owner, bike_id=bike.pk, name="")
    assert client.get(reverse("bikes:build-file", args=[copy.pk])).json() == {**out, "name": copy.name}


def test_a_moved_part_fills_the_slot_it_comes_to(owner, bike) -> None:
    other = store_build(owner, build_from({"parts": {}, "empty": ["cassette"]}))
    fitting.move_part(actor=owner, bike_id=bike.pk, version=1, slot="cassette", to_bike_id=other.pk)
    assert (now(bike).empty, now(other).empty) == (["cassette"], [])


def test_a_crack_forbids_at_once(client, owner, bike, plan) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-edit", args=[bike.pk, "frame"])
    fields = next(form for form in forms_of(client.get(url).text) if "part-form" in form.css).fields
    assert client.post(url, {**fields, "damage": ["crack", "dent"]}).status_code == 302
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["damage"] == ["crack", "dent"]
    assert now(bike).verdict == "no_go"
    says = "Crack: not ridden until changed."
    assert says in client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert says in client.get(reverse("bikes:stand", args=[bike.pk]) + "?all=1").text  # to print
    assert says in client.get(reverse("bikes:yard")).text
    assert says in {f.says for f in planned(owner, plan.pk).check.findings}
    fields = next(form for form in forms_of(client.get(url).text) if "part-form" in form.css).fields
    assert client.post(url, {**fields, "damage": "none"}).status_code == 302
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["damage"] == []
    assert now(bike).verdict != "no_go"
    fields = next(form for form in forms_of(client.get(url).text) if "part-form" in form.css).fields
    answer = client.post(url, {**fields, "damage": ["none", "crack"]})
    assert answer.status_code == 422
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["damage"] == []
