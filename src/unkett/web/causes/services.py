"""The search for the cause of what a bike's rider complains of: worked out from all that is kept, and taken on."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from unkett.core.bike.wear import limit_of, sorts
from unkett.core.diagnose.asked import Asked, read_key
from unkett.core.diagnose.search import Causes, Suspect, causes_of, complaint_stops
from unkett.core.diagnose.tables import Check, Tables, shipped
from unkett.core.errors import InputError
from unkett.core.intake.inspection import TICKS, places
from unkett.web.bikes.complaints import (
    BECAUSE,
    answers_of,
    given_answers,
    open_complaints,
    say,
    settling,
    try_again,
)
from unkett.web.bikes.inspection import Found, defects_of, found_on, look_over
from unkett.web.bikes.intake import profile_of
from unkett.web.bikes.models import Bike, ClosedCase, OwnWeight
from unkett.web.bikes.queries import CurrentBike, current_bike, current_bike_of, settings_of
from unkett.web.plans.models import Plan
from unkett.web.plans.services import start_plan
from unkett.web.wear.queries import wear_of
from unkett.web.wear.services import read_wear
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

WEIGHT_MOST = 10.0
CASES_LEAST = 30  # closed cases of a complaint from which its counts are offered as weights
OFFERED = ((0.25, 3.0), (0.08, 2.0), (0.0, 1.0))  # share of the cases from which a weight is offered


def tables_of(workshop: Workshop) -> Tables:
    """Return the tables with this workshop's own weights over them."""
    own: dict[str, dict[str, float]] = {}
    causes, complaints = shipped().causes, shipped().complaints
    for row in OwnWeight.objects.filter(workshop=workshop):
        if row.complaint in complaints and row.cause in causes:
            own.setdefault(row.complaint, {})[row.cause] = row.weight
    return shipped().with_own(own) if own else shipped()


def asked_of(actor: User, stands: CurrentBike) -> Asked:
    """Return what is known of a bike's complaints: its build, ticks, readings, what checks said and what was mended."""
    bike = stands.bike
    readings = [(one.slot, one.sort.code, one.last.value) for one in wear_of(actor, bike, stands.build)]
    return Asked(
        complaints=tuple(one.reported for one in open_complaints(bike)),
        answers=answers_of(bike),
        build=stands.build,
        ticks=tuple((one.slot, one.defect) for one in defects_of(bike)[0]),
        readings=tuple(readings),
        mended=frozenset(bike.search.get("mended", ())),
    )


def search_of(actor: User, stands: CurrentBike) -> Causes:
    """The causes of what a bike's rider complains of, as far as they are known now; no runs without a complaint."""
    if not open_complaints(stands.bike):
        return Causes(runs=(), stops=())
    return causes_of(asked_of(actor, stands), tables_of(actor.workshop), settings_of(actor))


def stops_of(found: Causes) -> list[str]:
    """Why the bike is not ridden; nothing where it may be. A complaint's stop ends only when it is tried as gone."""
    return list(dict.fromkeys(stop.line for stop in found.stops))


def first_stops(actor: User, bikes: Iterable[Bike]) -> dict[int, str]:
    """Of each of these bikes that is not ridden, the first reason. Where a complaint forbids it nothing is searched."""
    complained, found = [bike.pk for bike in bikes if bike.search.get("complaints")], {}
    for bike in Bike.objects.filter(pk__in=complained):
        own = complaint_stops([one.reported for one in open_complaints(bike)], shipped())
        stops = own or search_of(actor, current_bike_of(bike, settings_of(actor))).stops
        if stops:
            found[bike.pk] = stops[0].line
    return found


def held_by_complaint(found: Causes) -> dict[str, list[str]]:
    """Return by complaint (with its end) the causes that hold."""
    held: dict[str, list[str]] = {}
    for run in found.runs:
        for words in run.complaints:
            weights = shipped().complaints[words.code].weights
            held[words.key] = [
                one.cause.code for one in run.causes if one.holds and one.cause.code in weights
            ]
    return held


def _held(found: Causes, cause: str, end: str | None) -> tuple[Suspect, list[str]]:
    """Return a cause that holds, with the complaints it may be the cause of. Raises NotThere."""
    for run in found.runs:
        for one in run.causes:
            if one.holds and one.cause.code == cause and run.end == end:
                titles = [shipped().complaints[words.code].title for words in run.complaints]
                return one, titles
    raise NotThere


@frozen(kw_only=True)
class Settled:
    """How a cause was taken on; a plan where one was opened."""

    how: str
    plan: Plan | None = None


@transaction.atomic
def settle(*, actor: User, bike_id: int, version: int, cause: str, end: str | None) -> Settled:
    """Take a held cause on: its defect becomes a tick of the inspection, or a plan is opened for its part.

    A cause that the check itself has mended is only noted. Raises NotThere where it does not hold.
    """
    require(actor, "change-bikes")
    stands = current_bike(actor, bike_id)
    one, complaints = _held(search_of(actor, stands), cause, end)
    because = f"{BECAUSE}{'; '.join(complaints)}"
    mended_by = _mended_by(stands.bike, cause)
    if mended_by is not None:
        settling(actor=actor, bike_id=bike_id, version=version, cause=cause, how="check")
        return Settled(how=f"done by the check “{mended_by.title}”")
    if one.cause.defect:
        bike = _tick(actor, stands, version, one, because)
        settling(actor=actor, bike_id=bike_id, version=bike.version, cause=cause, how="tick")
        return Settled(how="on the inspection")
    settling(actor=actor, bike_id=bike_id, version=version, cause=cause, how="plan")
    plan = start_plan(actor=actor, bike_id=bike_id, name=one.cause.title[:80])
    plan.note = because
    plan.save(update_fields=["note"])
    return Settled(how="a plan", plan=plan)


def _mended_by(bike: Bike, cause: str) -> Check | None:
    """Return the check that showed a cause and mended it by being done."""
    for one in given_answers(bike):
        if cause in one.check.mends and one.check.word(one.result or "", cause) == "shows":
            return one.check
    return None


def _tick(actor: User, stands: CurrentBike, version: int, one: Suspect, because: str) -> Bike:
    """Tick the cause's defect on the inspection, beside what is ticked already."""
    bike, code = stands.bike, one.cause.defect
    kept = found_on(bike)
    if code not in kept:
        there = places(TICKS[code], profile_of(bike))
        slot = next((slot for slot in one.slots if slot in there), None)
        if slot is None:
            raise Refused(f"{TICKS[code].title}: the bike has no part for it yet; write it down first.")
        kept[code] = Found(slots=(slot,), how=TICKS[code].how, note=because[:400])
    return look_over(actor=actor, bike_id=bike.pk, version=version, found=kept)


@transaction.atomic
def try_complaints(*, actor: User, bike_id: int, version: int, said: Mapping[str, str]) -> Bike:
    """Ask the complaints again after the work; a named mechanic says so."""
    require(actor, "countersign")
    held = held_by_complaint(search_of(actor, current_bike(actor, bike_id)))
    return try_again(actor=actor, bike_id=bike_id, version=version, said=said, held=held)


@transaction.atomic
def measured(
    *, actor: User, bike_id: int, version: int, key: str, value: float, instrument: str = ""
) -> tuple[str, Bike]:
    """Keep what a check measured: the reading in the wear log, and the result that its limit makes of it.

    Raises NotThere for a check that no sort of reading belongs to, InputError naming `value`.
    """
    stands = current_bike(actor, bike_id)
    check = shipped().checks.get(read_key(key)[0])
    if check is None or check.reads not in sorts():
        raise NotThere
    sort = sorts()[check.reads]
    slot = next((slot for slot in sort.slots if slot in stands.build.parts), None)
    if slot is None:
        raise Refused(f"{sort.title}: the bike has no part for it yet; write it down first.")
    sort.accept(value)
    limit = limit_of(sort, stands.build, slot, settings_of(actor))
    if limit is None:
        raise InputError.of({"value": ["its limit is not known for this bike: choose the result by hand"]})
    worn = sort.is_worn(value, limit.value)
    shows = [one for one in check.results if "shows" in check.words.get(one, {}).values()]
    result = shows[0] if worn and shows else check.results[0]
    say(actor=actor, bike_id=bike_id, version=version, key=key, result=result, value=value)
    read_wear(
        actor=actor, bike_id=bike_id, slot=slot, sort=sort.code, value=value, on=timezone.localdate(),
        instrument=instrument,
    )  # fmt: skip
    return result, Bike.objects.get(pk=bike_id)


# the workshop's own weights


@frozen(kw_only=True)
class CauseWeight:
    """A cause under a complaint: its weight, the one that ships, how often it held, and what is offered."""

    cause: str
    title: str
    weight: float
    ships: float
    cases: int
    offered: float | None

    @property
    def is_own(self) -> bool:
        return self.weight != self.ships


def cases_of(workshop: Workshop) -> dict[str, int]:
    """Return how many closed cases there are of each complaint."""
    rows = ClosedCase.objects.filter(workshop=workshop).order_by()
    return dict(rows.values_list("complaint").annotate(number=Count("pk")))


def counted(workshop: Workshop, complaint: str) -> tuple[int, list[CauseWeight]]:
    """Return the closed cases of a complaint and, by cause, what they say; weights are offered from thirty on."""
    tables, own = shipped(), tables_of(workshop)
    rows = list(
        ClosedCase.objects.filter(workshop=workshop, complaint=complaint).values_list("causes", flat=True)
    )
    found = Counter(code for causes in rows for code in causes)
    ships = tables.complaints[complaint].weights
    out = []
    for code, weight in own.complaints[complaint].weights.items():
        offered = None
        if len(rows) >= CASES_LEAST:
            share = found[code] / len(rows)
            offered = next((figure for least, figure in OFFERED if share >= least and share > 0), 1.0)
        out.append(
            CauseWeight(
                cause=code,
                title=tables.causes[code].title,
                weight=weight,
                ships=ships.get(code, 0.0),
                cases=found[code],
                offered=offered if offered != weight else None,
            )
        )
    return len(rows), sorted(out, key=lambda one: (-one.weight, one.title))


def weigh(*, actor: User, complaint: str, weights: Mapping[str, float]) -> None:
    """Keep a workshop's own weights of a complaint's causes; one that is as it ships is forgotten again.

    Raises NotThere for an unknown complaint or cause, InputError naming the cause for a weight out of range.
    """
    require(actor, "change-settings")
    if complaint not in shipped().complaints or not set(weights) <= set(shipped().causes):
        raise NotThere
    faults = {
        cause: [f"{weight:g} given; 0 to {WEIGHT_MOST:g} allowed"]
        for cause, weight in weights.items()
        if not 0 <= weight <= WEIGHT_MOST
    }
    if faults:
        raise InputError.of(faults)
    ships = shipped().complaints[complaint].weights
    with transaction.atomic():
        before: dict[str, Any] = {}
        for cause, weight in weights.items():
            mine = OwnWeight.objects.filter(workshop=actor.workshop, complaint=complaint, cause=cause)
            before[cause] = mine.values_list("weight", flat=True).first()
            if weight == ships.get(cause, 0.0):
                mine.delete()
            else:
                OwnWeight.objects.update_or_create(
                    workshop=actor.workshop, complaint=complaint, cause=cause, defaults={"weight": weight}
                )
        log(actor, "weigh", actor.workshop, before=before, after=dict(weights))
