"""Readings written down in the wear book, and struck out."""

from __future__ import annotations

import datetime
import math
from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from unkett.core.bike.wear import WearSort, sorts
from unkett.core.errors import bad
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import put_measured
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import series_of
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User
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
        raise bad("value", f"{value} given; a figure is wanted")
    made = WearReading.objects.create(
        bike=bike, part=part, slot=part.slot, sort=sort.code, value=sort.accept(value), by=actor, **more
    )
    _stand_anew(actor, made)
    log(actor, "read wear", bike, after={"slot": part.slot, "sort": sort.code, "value": value})
    return made


def _stand_anew(actor: User, about: WearReading) -> None:
    """Where the part stands by all its readings is kept with the last of them."""
    bike = Bike.objects.get(pk=about.bike_id)
    series = series_of(actor, bike, about.part_id, about.sort)
    WearReading.objects.filter(part_id=about.part_id, sort=about.sort).update(
        latest=False, worn=False, due=None
    )
    if series is not None:
        stands = {"latest": True, "worn": series.outlook.worn, "due": series.due}
        WearReading.objects.filter(pk=series.last.pk).update(**stands)


LIMIT_SETTINGS = frozenset(
    {one.limit_setting for one in sorts().values()}
    | {"rotor_wears_mm", "chain_worn_single_pct", "chain_worn_wide_pct", "chain_worn_narrow_pct"}
)  # the settings that say where something is worn


def refresh_limits(task: Task, report: Report) -> dict[str, int]:
    """In the background: where every part here stands, by the limits as they are now."""
    actor = task.made_by
    if actor is None:
        raise NotThere
    mine = WearReading.objects.filter(latest=True, struck=False, part__bike=F("bike"))
    number = 0
    for about in mine.filter(bike__workshop_id=task.workshop_id).order_by("pk").iterator(200):
        if report.unwanted():
            break
        with transaction.atomic():
            _stand_anew(actor, about)
        number += 1
    return {"readings": number}


def keep_what_was_read(
    actor: User, bike_id: int, slot: str, word: str, value: float, on: datetime.date, instrument: str = ""
) -> WearReading | None:
    """A reading typed elsewhere, such as at a step of a job, lands here where it is one of the book's sorts.

    `word` is what was asked for. Call it inside the action's transaction.
    """
    for sort in sorts().values():
        here = next((one for one in (slot, *sort.slots) if one in sort.slots and _same_end(one, slot)), None)
        if here is not None and word in (sort.read_as, sort.code) and sort.low <= value <= sort.high:
            part = BikePart.objects.filter(bike_id=bike_id, slot=here).select_related("bike").first()
            if part is None or part.bike is None:
                return None
            return _kept(actor, part.bike, part, sort, value, on=on, instrument=instrument[:INSTRUMENT_MAX])
    return None


def _same_end(one: str, other: str) -> bool:
    """Whether two slots are of one wheel, where both are of a wheel."""
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
    """What an electronic gear says of itself: speeds and protocol on the rear derailleur, its battery in the wear book.

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
    """A reading was wrong: it counts no more, and stays to be seen. Raises NotThere."""
    require(actor, "read-wear")
    mine = WearReading.objects.filter(bike__in=bikes_seen_by(actor)).select_for_update(of=("self",))
    one = mine.filter(pk=reading_id).first()
    if one is None:
        raise NotThere
    one.struck = True
    one.save(update_fields=["struck"])
    _stand_anew(actor, one)
    log(actor, "strike reading", one.bike, before={"sort": one.sort, "value": one.value})
    return one
