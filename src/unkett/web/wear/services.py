"""Readings written down in the wear log, and struck out."""

from __future__ import annotations

import datetime
import math
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.bike.wear import WearSort, sorts
from unkett.core.errors import bad
from unkett.web.bikes.models import Bike, BikePart, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import put_measured
from unkett.web.bikes.writing import Parts, finish, write_bike
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import Series, series_of
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import LogEntry, User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

GEAR_SLOT = "rear_derailleur"
KM_MAX = 1_000_000.0
INSTRUMENT_MAX = 60


@transaction.atomic
def read_wear(
    *,
    actor: User,
    bike_id: int,
    slot: str,
    sort: str,
    value: float,
    km: float | None = None,
    on: datetime.date | None = None,
    instrument: str = "",
) -> WearReading:
    """Write a reading down. Raises NotThere; InputError naming the value, the distance or the day."""
    require(actor, "read-wear")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    chosen = sorts().get(sort)
    part = BikePart.objects.filter(bike=bike, slot=slot).first() if bike else None
    if bike is None or part is None or chosen is None or slot not in chosen.slots:
        raise NotThere
    if km is not None and not 0 <= km <= KM_MAX:
        raise bad("km", f"{km:g} given; 0 to {KM_MAX:g} allowed")
    day = on or timezone.localdate()
    if day > timezone.localdate():
        raise bad("on", "that day is still to come")
    return _kept(actor, bike, part, chosen, value, km=km, on=day, instrument=instrument[:INSTRUMENT_MAX])


def _kept(
    actor: User, bike: Bike, part: BikePart, sort: WearSort, value: float, **more: object
) -> WearReading:
    if not math.isfinite(value):
        raise bad("value", f"{value} given; enter a figure")
    made = WearReading.objects.create(
        bike=bike, part=part, slot=part.slot, sort=sort.code, value=sort.accept(value), by=actor, **more
    )
    series = _refresh_outlook(actor, made)
    line = log(actor, "read wear", bike, after={"slot": part.slot, "sort": sort.code, "value": value})
    _onto_the_part(actor, made, series, line)
    return made


def _refresh_outlook(actor: User, about: WearReading) -> Series | None:
    """Keep the outlook of a part with the last of its readings; return its series, None where none is left."""
    series = series_of(actor, about.part_id, about.sort)
    WearReading.objects.filter(part_id=about.part_id, sort=about.sort).update(
        latest=False, worn=False, due=None
    )
    if series is not None:
        stands = {"latest": True, "worn": series.outlook.worn, "due": series.due}
        WearReading.objects.filter(pk=series.last.pk).update(**stands)
    return series


def _onto_the_part(actor: User, about: WearReading, series: Series | None, line: LogEntry) -> None:
    """Let the part carry its last reading, so that rules and searches know it; its bike is judged again."""
    attr = sorts()[about.sort].attr
    part = BikePart.objects.get(pk=about.part_id)
    if not attr:
        return
    attrs = {name: value for name, value in part.attrs.items() if name != attr}
    if series is not None:
        attrs[attr] = series.last.value
    rode = _ridden_since(part, series)
    if attrs == part.attrs and not rode:
        return
    origins = {name: origin for name, origin in part.origins.items() if name != attr}
    instruments = {name: said for name, said in part.instruments.items() if name != attr}
    if series is not None:
        origins[attr] = Origin.MEASURED
        instruments |= {attr: series.last.instrument} if series.last.instrument else {}
    if part.bike_id is None:
        part.attrs, part.origins, part.instruments = attrs, origins, instruments
        part.save(update_fields=["attrs", "origins", "instruments"])
        return
    bike = Bike.objects.select_for_update().get(pk=part.bike_id)
    parts = Parts(actor, [bike])
    on_bike = parts.in_slot(bike, part.slot)
    assert on_bike is not None
    parts.change(on_bike, attrs=attrs, origins=origins, instruments=instruments)
    cassette = parts.in_slot(bike, "cassette") if rode else None
    if cassette is not None and "unused" in cassette.attrs:
        parts.change(cassette, attrs={k: v for k, v in cassette.attrs.items() if k != "unused"})
    parts.save()
    finish(bike, parts, actor, None)
    parts.record(line)


def _ridden_since(part: BikePart, series: Series | None) -> bool:
    """Return whether a chain was read before on its bike, so that the cassette under it is no longer unused."""
    if series is None or series.sort.code != "chain_pct":
        return False
    return len({row.on for row in series.rows if row.bike_id == part.bike_id}) > 1


LIMIT_SETTINGS = frozenset(
    {one.limit_setting for one in sorts().values()}
    | {"rotor_wears_mm", "chain_worn_single_pct", "chain_worn_wide_pct", "chain_worn_narrow_pct"}
)  # the settings that say where something is worn


def refresh_limits(task: Task, report: Report) -> dict[str, int]:
    """In the background: where every part here stands, by the limits as they are now."""
    actor = task.made_by
    if actor is None:
        raise NotThere
    mine = WearReading.objects.filter(latest=True, struck=False)
    number = 0
    for about in mine.filter(part__workshop_id=task.workshop_id).order_by("pk").iterator(200):
        if report.unwanted():
            break
        with transaction.atomic():
            _refresh_outlook(actor, about)
        number += 1
    return {"readings": number}


def keep_what_was_read(
    actor: User, bike_id: int, slot: str, word: str, value: float, on: datetime.date, instrument: str = ""
) -> WearReading | None:
    """Return a reading typed elsewhere, such as at a step of a job, lands here where it is one of the book's sorts.

    `word` is what was asked for. Call it inside the action's transaction.
    """
    for sort in sorts().values():
        here = next((one for one in (slot, *sort.slots) if one in sort.slots and _same_end(one, slot)), None)
        if (
            here is not None
            and word in (sort.read_as, sort.code, sort.attr)
            and sort.low <= value <= sort.high
        ):
            part = BikePart.objects.filter(bike_id=bike_id, slot=here).select_related("bike").first()
            if part is None or part.bike is None:
                return None
            return _kept(actor, part.bike, part, sort, value, on=on, instrument=instrument[:INSTRUMENT_MAX])
    return None


def _same_end(one: str, other: str) -> bool:
    """Return whether two slots are of one wheel, where both are of a wheel."""
    ends = [slot.partition("_")[0] for slot in (one, other)]
    return ends[0] == ends[1] or not {"front", "rear"} >= set(ends)


@transaction.atomic
def read_gear(
    *,
    actor: User,
    bike_id: int,
    version: int,
    battery: float | None = None,
    speeds: int | None = None,
    protocol: str = "",
    instrument: str = "",
) -> Bike:
    """Keep what an electronic gear says of itself: speeds and protocol on the rear derailleur, its battery in the
    wear log.

    Raises NotThere for a bike without an electronic rear derailleur; InputError naming the field.
    """
    said = {name: value for name, value in (("speeds", speeds), ("protocol", protocol.strip())) if value}

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, GEAR_SLOT)
        if part is None or part.attrs.get("actuation") != "electronic":
            raise NotThere
        pairs = {
            attr: put_measured(bike, parts, GEAR_SLOT, attr, value, True, instrument)
            for attr, value in said.items()
        }
        return (
            {GEAR_SLOT: {attr: before for attr, (before, _) in pairs.items()}},
            {GEAR_SLOT: {attr: after for attr, (_, after) in pairs.items()}},
        )

    bike = write_bike(actor, bike_id, version, "read gear", "Electronic gear read", action)
    part = BikePart.objects.get(bike=bike, slot=GEAR_SLOT)
    if battery is not None:
        _kept(
            actor, bike, part, sorts()["battery_pct"], battery,
            on=timezone.localdate(), instrument=instrument[:INSTRUMENT_MAX],
        )  # fmt: skip
    return bike


@transaction.atomic
def void_reading(*, actor: User, reading_id: int) -> WearReading:
    """Void a reading: it no longer counts, and can still be seen. Raises NotThere."""
    require(actor, "read-wear")
    mine = WearReading.objects.filter(bike__in=bikes_seen_by(actor)).select_for_update(of=("self",))
    one = mine.filter(pk=reading_id).first()
    if one is None:
        raise NotThere
    one.struck = True
    one.save(update_fields=["struck"])
    line = log(actor, "strike reading", one.bike, before={"sort": one.sort, "value": one.value})
    _onto_the_part(actor, one, _refresh_outlook(actor, one), line)
    return one
