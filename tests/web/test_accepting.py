"""A "Goes if" that a person takes as it is: settled until its day, or until a part or figure of it changes."""

import datetime

import pytest
from django.urls import reverse
from django.utils import timezone

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.accepting import accept_finding, reopen_finding
from unkett.web.bikes.models import Bike
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.bikes.verdicts import renew_batch
from unkett.web.plans.queries import planned
from unkett.web.plans.services import start_plan, swap_part
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import LogEntry

REF = "freehub-seat:cassette:rear_hub"  # a 9-speed stack is 1.85 mm short of the longer body
NINE = [11, 12, 14, 16, 18, 21, 24, 28, 32]


@pytest.fixture
def stack(owner) -> Bike:
    """A bike whose worst finding is one Goes if."""
    parts = {
        "cassette": {"attrs": {"speeds": 9, "teeth": NINE, "mount": "spline9"}},
        "rear_hub": {"attrs": {"freehub": "spline9_road11"}},
        "chain": {"attrs": {"speeds": 9}},
    }
    return store_build(owner, build_from({"name": "Short stack", "parts": parts}))


def accept(owner, bike, **given) -> Bike:
    version = Bike.objects.get(pk=bike.pk).version
    wanted = {"version": version, "finding": REF, "reason": "a spacer is on order", "until": None} | given
    return accept_finding(actor=owner, bike_id=bike.pk, **wanted)


def verdicts(owner, bike) -> tuple[str, str, str]:
    """Of the finding, of the Stand, of the Yard."""
    check = current_bike(owner, bike.pk).check
    finding = next(finding for finding in check.findings if finding.ref == REF)
    return finding.verdict.value, check.verdict.value, Bike.objects.get(pk=bike.pk).verdict


def test_accepted_it_is_settled_and_stays_in_the_record(owner, stack) -> None:
    assert verdicts(owner, stack) == ("goes_if", "goes_if", "goes_if")
    accept(owner, stack)
    assert verdicts(owner, stack) == ("goes", "goes", "goes")
    finding = next(f for f in current_bike(owner, stack.pk).check.findings if f.ref == REF)
    assert "Accepted by Olla on" in finding.accepted
    assert finding.accepted.endswith(": a spacer is on order")
    assert finding.needs == ()
    assert LogEntry.objects.get(verb="accept").after["reason"] == "a spacer is on order"
    reopen_finding(actor=owner, bike_id=stack.pk, version=2, finding=REF)
    assert verdicts(owner, stack) == ("goes_if", "goes_if", "goes_if")
    fitting.undo(actor=owner, bike_id=stack.pk, version=3)
    assert verdicts(owner, stack) == ("goes", "goes", "goes")


def test_it_ends_with_another_part_or_figure(owner, stack, catalogue) -> None:
    accept(owner, stack)
    part = Bike.objects.get(pk=stack.pk).fitted.get(slot="cassette")
    fitting.take_off(actor=owner, bike_id=stack.pk, version=2, slot="cassette")
    fitting.fit_part(actor=owner, bike_id=stack.pk, version=3, slot="cassette", part_id=part.pk)
    assert verdicts(owner, stack)[0] == "goes"  # the very same part
    fitting.take_off(actor=owner, bike_id=stack.pk, version=4, slot="cassette")
    eight = catalogue["Eight"].pk
    fitting.fill_part(actor=owner, bike_id=stack.pk, version=5, slot="cassette", part_id=eight)
    assert verdicts(owner, stack) != ("goes", "goes", "goes")
    fitting.undo(actor=owner, bike_id=stack.pk, version=6)
    fitting.fit_part(actor=owner, bike_id=stack.pk, version=7, slot="cassette", part_id=part.pk)
    assert verdicts(owner, stack)[0] == "goes"
    record_measure(actor=owner, bike_id=stack.pk, version=8, slot="rear_hub", attr="freehub", value="spline9")
    record_measure(
        actor=owner, bike_id=stack.pk, version=9, slot="rear_hub", attr="freehub", value="spline9_road11"
    )
    assert verdicts(owner, stack)[0] == "goes"  # the same figures again
    twin = {"kind": "cassette", "attrs": {"speeds": 9, "teeth": NINE, "mount": "spline9"}}
    Bike.objects.get(pk=stack.pk).fitted.filter(slot="cassette").update(where="scrapped", bike=None, slot="")
    Bike.objects.get(pk=stack.pk).fitted.create(workshop=owner.workshop, slot="cassette", **twin)
    assert verdicts(owner, stack)[0] == "goes_if"  # like it, but another part


def test_it_ends_after_its_day_in_the_yard_too(owner, stack, monkeypatch) -> None:
    today = timezone.localdate()
    accept(owner, stack, until=today + datetime.timedelta(days=2))
    for days, verdict in ((0, "goes"), (2, "goes"), (3, "goes_if")):
        day = today + datetime.timedelta(days=days)
        monkeypatch.setattr(timezone, "localdate", lambda day=day: day)
        assert renew_batch(owner.workshop) == (days == 3)
        assert verdicts(owner, stack) == (verdict, verdict, verdict), days
    assert Bike.objects.get(pk=stack.pk).accepted_until is None


def test_a_plan_keeps_it_unless_it_changes_a_part_of_it(owner, stack, catalogue) -> None:
    accept(owner, stack)
    plan = start_plan(actor=owner, bike_id=stack.pk)

    def said() -> str:
        return next(f.verdict.value for f in planned(owner, plan.pk).check.findings if f.ref == REF)

    assert said() == "goes"
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk)
    assert said() == "goes_if"


REFUSED = [
    ({"reason": "  "}, InputError, "reason"),
    ({"reason": "x" * 401}, InputError, "401 characters"),
    ({"until": datetime.date(2020, 1, 1)}, InputError, "1 Jan 2020 is past"),
    ({"finding": "freehub-seat:frame"}, NotThere, ""),
    ({"finding": "axle-fit:frame:rear_hub"}, Refused, "Only a"),
    ({"version": 7}, Conflict, "Somebody changed"),
]


def test_what_may_not_be_accepted_is_refused(owner, bike) -> None:
    for given, error, says in REFUSED:
        with pytest.raises(error) as error:
            accept(owner, bike, **given)
        assert says in str(error.value)
    with pytest.raises(NotThere):
        reopen_finding(actor=owner, bike_id=bike.pk, version=1, finding=REF)
    assert Bike.objects.get(pk=bike.pk).accepted == []


def test_by_the_pages_forms(client, owner, stack) -> None:
    client.force_login(owner)
    stand = reverse("bikes:stand", args=[stack.pk])
    accepts = reverse("bikes:finding-accept", args=[stack.pk])
    (form,) = [form for form in forms_of(client.get(stand).text) if form.action == accepts]
    assert client.post(accepts, {**form.fields, "reason": " "}).status_code == 422
    assert (
        client.post(accepts, {**form.fields, "reason": "rides so", "until": "yesterday"}).status_code == 422
    )
    assert client.post(accepts, {**form.fields, "reason": "rides so"}).url == stand
    text = client.get(stand).text
    assert ": rides so</p>" in text
    assert "Cassette needs a 1.85 mm spacer" in text
    assert not [form for form in forms_of(text) if form.action == accepts]
    again = reverse("bikes:finding-reopen", args=[stack.pk])
    (form,) = [form for form in forms_of(text) if form.action == again]
    assert client.post(again, form.fields).url == stand
    assert verdicts(owner, stack)[0] == "goes_if"
