"""The wear book of a bike: each part's readings with its limit and its outlook; what is due in the yard."""

from __future__ import annotations

import datetime
from collections import defaultdict
from functools import cached_property

from attrs import frozen
from django.db.models import F, Q
from django.utils import timezone

from unkett.core.bike.wear import Limit, Outlook, Reading, WearSort, limit_of, outlook, sorts
from unkett.core.build import Build
from unkett.core.settings import Settings
from unkett.web.bikes.models import Bike, Status
from unkett.web.bikes.queries import settings_of
from unkett.web.wear.models import WearReading
from unkett.web.workshop.models import User

DUE_SHOWN = 50
SOON = datetime.timedelta(days=42)
ZERO = datetime.date(2000, 1, 1)  # days are counted from here


@frozen(kw_only=True, slots=False)
class Series:
    """The readings of one part and sort, oldest first."""

    bike: Bike
    slot: str
    sort: WearSort
    rows: tuple[WearReading, ...]
    limit: Limit | None
    outlook: Outlook

    @property
    def last(self) -> WearReading:
        return self.rows[-1]

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
        """The day of a distance, at the pace between the first and the last reading."""
        first, last = self.rows[0], self.rows[-1]
        assert first.km is not None
        assert last.km is not None
        days, ridden = (last.on - first.on).days, last.km - first.km
        if days <= 0 or ridden <= 0:
            return None
        return (last.on - ZERO).days + (km - last.km) * days / ridden


def _series(bike: Bike, build: Build, settings: Settings, rows: list[WearReading]) -> Series:
    sort = sorts()[rows[0].sort]
    limit = limit_of(sort, build, rows[0].slot, settings)
    readings = [Reading(day=(row.on - ZERO).days, value=row.value, km=row.km) for row in rows]
    return Series(
        bike=bike, slot=rows[-1].slot, sort=sort, rows=tuple(rows), limit=limit,
        outlook=outlook(sort, readings, limit),
    )  # fmt: skip


def wear_of(actor: User, bike: Bike, build: Build) -> list[Series]:
    """The series of the parts that are on a bike, what is worn first."""
    rows = WearReading.objects.filter(bike=bike, struck=False, part__bike=bike).select_related("by")
    by_part: dict[tuple[int, str], list[WearReading]] = defaultdict(list)
    for row in rows:
        by_part[row.part_id, row.sort].append(row)
    settings = settings_of(actor)
    found = [_series(bike, build, settings, one) for one in by_part.values()]
    return sorted(found, key=lambda one: (not one.outlook.worn, one.due or datetime.date.max, one.slot))


def series_of(actor: User, bike: Bike, part_id: int, sort: str) -> Series | None:
    """The series of one part and sort on the bike it is on now; None without readings."""
    rows = list(WearReading.objects.filter(part_id=part_id, sort=sort, struck=False).select_related("by"))
    if not rows:
        return None
    return _series(bike, bike.build(list(bike.fitted.all())), settings_of(actor), rows)


def wear_due(actor: User) -> list[WearReading]:
    """The last readings of what was worn, or will be within six weeks, as they stood when they were read."""
    until = timezone.localdate() + SOON
    mine = WearReading.objects.filter(
        latest=True, struck=False, part__bike=F("bike"), bike__status=Status.HERE
    )
    found = mine.filter(Q(worn=True) | Q(due__lte=until), bike__workshop_id=actor.workshop_id)
    named = found.select_related("bike").only("slot", "sort", "value", "due", "worn", "bike__name")
    return list(named.order_by("-worn", "due", "pk")[:DUE_SHOWN])
