"""A plan's states, and its changes carried out slot by slot: the bike then is as planned."""

from datetime import UTC, datetime

import pytest
from django.urls import reverse

from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import bench_of, current_bike
from unkett.web.bikes.services import record_measure
from unkett.web.plans import carrying, services
from unkett.web.plans.models import MAY_GO, Plan, State
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import LogEntry
from unkett.web.workshop.services import log


def go(owner, plan, *states) -> Plan:
    """The plan brought through these states."""
    for to in states:
        version = Plan.objects.get(pk=plan.pk).version
        plan = services.move_plan(actor=owner, plan_id=plan.pk, version=version, to=to)
    return plan


@pytest.fixture
def on_stand(owner, plan, catalogue) -> Plan:
    """A plan with another cassette and no chain, on the stand."""
    part = catalogue["Wide nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    services.empty_slot(actor=owner, plan_id=plan.pk, version=2, slot="chain")
    return go(owner, plan, "agreed", "on stand")


def at(*day: int) -> datetime:
    return datetime(*day, 12, tzinfo=UTC)


def carry(owner, plan, slot) -> Plan:
    fresh = Plan.objects.select_related("bike").get(pk=plan.pk)
    return carrying.apply_changes(
        actor=owner, plan_id=plan.pk, version=fresh.version, bike_version=fresh.bike.version, slot=slot
    )


# every pair of states by hand: where a plan may go from where
ALLOWED = {
    "draft": {"quoted", "agreed", "dropped"},
    "quoted": {"agreed", "draft", "dropped"},
    "agreed": {"gathering", "on stand", "draft", "dropped"},
    "gathering": {"ready", "on stand", "agreed", "dropped"},
    "ready": {"on stand", "gathering", "dropped"},
    "on stand": {"checked", "gathering", "dropped"},
    "checked": {"handed over", "on stand"},
    "handed over": set(),
    "dropped": {"draft"},
}


@pytest.mark.parametrize("start", State.values)
def test_a_plan_goes_where_it_may_and_nowhere_else(owner, plan, start) -> None:
    assert set(MAY_GO) == set(State)
    for to in State.values:
        Plan.objects.filter(pk=plan.pk).update(state=start, version=1, state_by=None)
        if to in ALLOWED[start]:
            services.move_plan(actor=owner, plan_id=plan.pk, version=1, to=to)
            stored = Plan.objects.get(pk=plan.pk)
            assert (stored.state, stored.state_by) == (to, owner)
            line = LogEntry.objects.latest("pk")
            assert (line.verb, line.before, line.after) == ("state", {"state": start}, {"state": to})
        else:
            with pytest.raises(Refused, match="does not go there"):
                services.move_plan(actor=owner, plan_id=plan.pk, version=1, to=to)


def test_a_copy_is_a_draft_with_the_same_changes(client, owner, on_stand) -> None:
    carry(owner, on_stand, "cassette")
    client.force_login(owner)
    answer = client.post(reverse("plans:plan-copy", args=[on_stand.pk]))
    new = Plan.objects.latest("pk")
    assert answer.url == reverse("plans:show", args=[new.pk])
    assert (new.state, new.name) == ("draft", f"{on_stand.name}, copy")

    def error(plan) -> list:
        return [(c.slot, c.empties, c.name, c.price, c.catalogue_part_id) for c in plan.changes.all()]

    assert error(new) == error(on_stand)
    assert [slot for slot, empties, *_ in error(new) if empties] == ["chain"]
    assert not new.changes.exclude(fitted=None).exists()  # nothing of it is carried out
    services.take_back(actor=owner, plan_id=new.pk, version=1, slot="chain")
    assert {change.slot for change in on_stand.changes.all()} == {"cassette", "chain"}


def test_only_a_draft_is_changed(owner, plan, catalogue) -> None:
    for to in ("quoted", "agreed", "gathering"):
        plan = go(owner, plan, to)
        with pytest.raises(Refused, match="Take it back to a draft"):
            services.swap_part(
                actor=owner,
                plan_id=plan.pk,
                version=plan.version,
                slot="cassette",
                part_id=catalogue["Eight"].pk,
            )


def test_a_change_is_carried_out_and_the_old_part_lies_on_the_bench(owner, bike, on_stand, catalogue) -> None:
    old = bike.fitted.get(slot="cassette")
    before = planned(owner, on_stand.pk)
    carry(owner, on_stand, "cassette")
    new = BikePart.objects.get(bike=bike, slot="cassette")
    assert new.pk != old.pk
    assert (new.name, new.catalogue_part) == ("Wide nine", catalogue["Wide nine"])
    assert set(new.origins.values()) == {"stated"}
    assert [lying.pk for lying in bench_of(owner)] == [old.pk]
    after = planned(owner, on_stand.pk)
    assert after.done == {"cassette"}
    assert after.check == before.check
    assert Bike.objects.get(pk=bike.pk).verdict == current_bike(owner, bike.pk).check.verdict.value
    with pytest.raises(Refused, match="Not carried out yet: chain"):
        go(owner, on_stand, "checked")
    with pytest.raises(Refused, match="done already"):
        carry(owner, on_stand, "cassette")
    carry(owner, on_stand, "chain")
    assert current_bike(owner, bike.pk).build.to_json()["parts"] == before.build.to_json()["parts"]
    assert "chain" in Bike.objects.get(pk=bike.pk).empty
    assert go(owner, on_stand, "checked", "handed over").state == "handed over"


def test_what_is_undone_on_the_bike_is_to_be_done_again(owner, bike, on_stand) -> None:
    old = bike.fitted.get(slot="cassette")
    carry(owner, on_stand, "cassette")
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert bike.fitted.get(slot="cassette").pk == old.pk
    assert planned(owner, on_stand.pk).done == frozenset()
    carry(owner, on_stand, "cassette")
    assert planned(owner, on_stand.pk).done == {"cassette"}


def test_a_fork_that_is_carried_out_turns_the_frame_as_the_plan_said(owner, bike, plan) -> None:
    """A fork 20 mm longer leans a frame of 72° and 1000 mm back; the stored angle is the one that was planned."""
    readings = {
        "frame": {"head_angle_deg": 72, "seat_angle_deg": 73, "wheelbase_mm": 1000, "bb_drop_mm": 70},
        "fork": {"axle_to_crown_mm": 390, "offset_mm": 45},
    }
    version = 1
    for slot, attrs in readings.items():
        for attr, value in attrs.items():
            record_measure(
                actor=owner, bike_id=bike.pk, version=version, slot=slot, attr=attr, value=value, really=True
            )
            version += 1
    longer = {"axle_to_crown_mm": 410, "offset_mm": 45}
    plan.changes.create(slot="fork", kind="fork", name="Longer", attrs=longer)
    go(owner, plan, "agreed", "on stand")
    then = planned(owner, plan.pk).build.filled()["frame"].attrs["head_angle_deg"]
    assert 70.9 < then < 71.1  # about 1° for each 19 mm
    carry(owner, plan, "fork")
    frame = bike.fitted.get(slot="frame")
    assert frame.attrs["head_angle_deg"] == pytest.approx(then)
    assert frame.origins["head_angle_deg"] == "assumed"  # worked out, to be measured
    assert frame.origins["chainstay_mm"] == "stated"
    assert planned(owner, plan.pk).build.filled()["frame"].attrs["head_angle_deg"] == pytest.approx(then)


def test_carrying_out_is_refused_off_the_stand_and_on_stale_versions(owner, bike, plan, catalogue) -> None:
    part = catalogue["Wide nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    with pytest.raises(Refused, match="not on the stand"):
        carry(owner, plan, "cassette")
    go(owner, plan, "agreed", "on stand")
    with pytest.raises(NotThere):
        carry(owner, plan, "chain")
    version = Plan.objects.get(pk=plan.pk).version
    wanted = {"actor": owner, "plan_id": plan.pk, "slot": "cassette"}
    with pytest.raises(Conflict):
        carrying.apply_changes(**wanted, version=version, bike_version=9)
    with pytest.raises(Conflict):
        carrying.apply_changes(**wanted, version=1, bike_version=1)
    assert bike.fitted.get(slot="cassette").name == "Nine"
    assert Plan.objects.get(pk=plan.pk).version == version


def test_the_page_brings_a_plan_from_draft_to_done(client, owner, bike, plan, catalogue) -> None:
    client.force_login(owner)
    part = catalogue["Wide nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    url, move = reverse("plans:show", args=[plan.pk]), reverse("plans:plan-move", args=[plan.pk])
    assert client.post(move, {"version": 2, "to": "agreed"}).status_code == 302
    page = client.get(url).text
    assert "Start work" in page
    assert "Change the cassette" not in page
    client.post(move, {"version": 3, "to": "on stand"})
    assert "Carried out: cassette" in client.get(url).text
    done = reverse("plans:change-apply", args=[plan.pk, "cassette"])
    assert client.post(done, {"version": 4, "bike_version": 1}).status_code == 302
    assert bike.fitted.get(slot="cassette").name == "Wide nine"
    assert "Carried out: cassette" not in client.get(url).text


def test_history_shows_what_stood_on_any_day(client, owner, bike, on_stand) -> None:
    """Three days, set by hand in the log: the bike entered, a cassette fitted, the bike a day later."""
    log(owner, "take in", bike)
    LogEntry.objects.filter(about="bike", about_id=bike.pk).update(at=at(2026, 3, 1))
    carry(owner, on_stand, "cassette")
    LogEntry.objects.filter(moves__part__kind="cassette").update(at=at(2026, 3, 5))
    client.force_login(owner)
    url = reverse("bikes:history", args=[bike.pk])

    def stood(day: str) -> str:
        text = client.get(url, {"on": day}).text
        return text[text.index('class="sheet stood"') : text.index('scope="col">When')]

    old = current_bike(owner, bike.pk)
    assert "not written down yet" in stood("2026-02-28")
    assert "Wide nine" not in stood("2026-03-04")
    assert "Chain" in stood("2026-03-04")
    assert "Wide nine" in stood("2026-03-05")
    assert old.build.parts["cassette"].name == "Wide nine"
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert "Wide nine" not in stood("2126-01-01")
    assert client.get(url, {"on": "yesterday"}).status_code == 200
