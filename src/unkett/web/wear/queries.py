"""The wear log of a bike: each part's readings with its limit and its outlook; what is due in the yard."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterable
from functools import cached_property
from itertools import pairwise

from attrs import frozen
from django.db.models import Q
from django.utils import timezone

from unkett.core.bike.wear import Limit, Outlook, Reading, WearSort, limit_of, outlook, sorts
from unkett.core.build import Build
from unkett.core.settings import Settings
from unkett.web.bikes.models import Bike, BikePart, Status
from unkett.web.bikes.queries import settings_of
from unkett.web.wear.models import WearReading
from unkett.web.workshop.models import User

DUE_SHOWN = 50
SOON = datetime.timedelta(days=42)
ZERO = datetime.date(2000, 1, 1)  # days are counted from here


@frozen(kw_only=True, slots=False)
class Series:
    """The readings of one part and sort, oldest first, on whichever bikes it was."""

    slot: str
    sort: WearSort
    rows: tuple[WearReading, ...]
    limit: Limit | None
    outlook: Outlook

    @property
    def last(self) -> WearReading:
        return self.rows[-1]

    @property
    def past(self) -> float:
        """How far the last reading is past its limit; 0 where it is not, or has none."""
        if self.limit is None or not self.outlook.worn:
            return 0.0
        return round(abs(self.last.value - self.limit.value), 2)

    @cached_property
    def due(self) -> datetime.date | None:
        """The day on which the limit is met: by the days, or by the distance ridden a day so far."""
        return self.day_of(self.outlook.at)

    @property
    def earliest(self) -> datetime.date | None:
        return self.day_of(self.outlook.low)

    @property
    def latest(self) -> datetime.date | None:
        return self.day_of(self.outlook.high)

    def day_of(self, at: float | None) -> datetime.date | None:
        if at is None:
            return None
        days = at if self.outlook.by == "day" else self._day_at(at)
        if days is None or not 0 < days < 40_000:
            return None
        return ZERO + datetime.timedelta(days=round(days))

    def _day_at(self, km: float) -> float | None:
        """Return the day of a distance, at the pace between readings on the same bike."""
        pairs = [(one, two) for one, two in pairwise(self.rows) if one.bike_id == two.bike_id]
        days = sum((two.on - one.on).days for one, two in pairs)
        ridden = sum((two.km or 0.0) - (one.km or 0.0) for one, two in pairs)
        if days <= 0 or ridden <= 0:
            return None
        return (self.last.on - ZERO).days + (km - (self.last.km or 0.0)) * days / ridden


def _series(build: Build, slot: str, settings: Settings, rows: list[WearReading]) -> Series:
    sort = sorts()[rows[0].sort]
    limit = limit_of(sort, build, slot, settings)
    readings = [
        Reading(day=(row.on - ZERO).days, value=row.value, km=row.km, bike=row.bike_id) for row in rows
    ]
    return Series(slot=slot, sort=sort, rows=tuple(rows), limit=limit, outlook=outlook(sort, readings, limit))


def wear_of(actor: User, bike: Bike, build: Build) -> list[Series]:
    """Return the series of the parts that are on a bike, what is worn first."""
    rows = WearReading.objects.filter(struck=False, part__bike=bike).select_related("by", "part")
    by_part: dict[tuple[str, str], list[WearReading]] = defaultdict(list)
    for row in rows:
        by_part[row.part.slot, row.sort].append(row)
    settings = settings_of(actor)
    found = [_series(build, slot, settings, one) for (slot, _), one in by_part.items()]
    return sorted(found, key=lambda one: (not one.outlook.worn, one.due or datetime.date.max, one.slot))


def series_of(actor: User, part_id: int, sort: str) -> Series | None:
    """The series of one part and sort, by the bike it is on now or by itself in the bin; None without readings."""
    mine = WearReading.objects.filter(part_id=part_id, sort=sort, struck=False)
    rows = list(mine.select_related("by", "part__bike"))
    if not rows:
        return None
    part = rows[0].part
    if part.bike is None:
        slot = rows[-1].slot
        return _series(Build(parts={slot: part.as_part()}), slot, settings_of(actor), rows)
    return _series(part.bike.build(list(part.bike.fitted.all())), part.slot, settings_of(actor), rows)


def wear_of_part(actor: User, part: BikePart) -> list[Series]:
    """Return the series of one part, wherever it is."""
    codes = (
        WearReading.objects.filter(part=part, struck=False).order_by("sort").values_list("sort", flat=True)
    )
    found = (series_of(actor, part.pk, code) for code in codes.distinct())
    return [one for one in found if one is not None]


def piece_before(actor: User, bike: Bike, series: Series) -> list[WearReading]:
    """The readings of the piece that was in a series' slot before it, oldest first; nothing where none was read."""
    mine = WearReading.objects.filter(
        bike=bike, slot=series.slot, sort=series.sort.code, struck=False, part__workshop_id=actor.workshop_id
    ).exclude(part_id=series.last.part_id)
    rows = list(mine.filter(on__lte=series.rows[0].on).select_related("part"))
    return [row for row in rows if row.part_id == rows[-1].part_id]


def wear_marks(actor: User, part_ids: Iterable[int]) -> dict[int, list[WearReading]]:
    """Return by part its last readings, of each sort one, as they stood when they were read."""
    latest = WearReading.objects.filter(
        part__in=[*part_ids], part__workshop_id=actor.workshop_id, latest=True, struck=False
    )
    found: dict[int, list[WearReading]] = defaultdict(list)
    for row in latest.order_by("sort"):
        found[row.part_id].append(row)
    return dict(found)


def wear_due(actor: User) -> list[WearReading]:
    """The last readings of what was worn, or will be within six weeks, as they stood when they were read."""
    until = timezone.localdate() + SOON
    mine = WearReading.objects.filter(
        latest=True, struck=False, part__bike__status=Status.HERE, part__workshop_id=actor.workshop_id
    )
    found = mine.filter(Q(worn=True) | Q(due__lte=until))
    named = found.select_related("part__bike").only(
        "slot", "sort", "value", "due", "worn", "part__slot", "part__bike__name"
    )
    return list(named.order_by("-worn", "due", "pk")[:DUE_SHOWN])
