"""The wear book's sense: what is read of a part, where it is worn, and when a straight line gets there."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.build import Build
from unkett.core.calc.wear import WearForecast, wear_forecast
from unkett.core.errors import InputError, bad
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import table

SINGLE, NARROW_FROM = 1, 11  # sprockets: one alone, and from which on a chain wears out sooner


@frozen(kw_only=True)
class WearSort:
    """Something read of a part again and again; `way` says on which side of its limit it is worn."""

    code: str
    title: str
    slots: tuple[str, ...]
    unit: str
    way: str
    low: float
    high: float
    limit_setting: str = ""  # the workshop's setting that says where it is worn
    read_as: str = ""

    def accept(self, value: float) -> float:
        """The reading, or InputError where it is none of this sort."""
        if not self.low <= value <= self.high:
            raise bad(
                "value",
                f"{value:g} given; {self.low:g} to {self.high:g} {self.unit} allowed".replace("  ", " "),
            )
        return value

    def is_worn(self, value: float, limit: float) -> bool:
        """Whether a reading has met its limit; never where the sort has no worn side."""
        return self.way != "none" and (value >= limit if self.way == "up" else value <= limit)


@functools.cache
def sorts() -> Mapping[str, WearSort]:
    """Every sort of reading, by code."""
    rows = table("wear_sorts").rows
    names = ("code", "title", "unit", "way", "low", "high", "limit_setting", "read_as")
    made = [
        WearSort(slots=tuple(row["slots"]), **{name: row[name] for name in names if name in row})
        for row in rows
    ]
    return {one.code: one for one in made}


@frozen(kw_only=True)
class Limit:
    """Where a part is worn, and who says so."""

    value: float
    said_by: str


def limit_of(sort: WearSort, build: Build, slot: str, settings: Settings = DEFAULTS) -> Limit | None:
    """The limit of a reading on this bike; None where there is none, or what it hangs on is not known."""
    part = build.filled().get(slot)
    attrs: Mapping[str, Any] = part.attrs if part else {}
    if sort.code == "chain_pct":
        return _chain_limit(build, settings)
    if sort.code == "rotor_mm":
        if attrs.get("thickness_min_mm") is not None:
            return Limit(value=float(attrs["thickness_min_mm"]), said_by="stamped on the rotor")
        if attrs.get("thickness_mm") is None:
            return None
        wears = settings.number("rotor_wears_mm")
        value = round(float(attrs["thickness_mm"]) - wears, 2)
        return Limit(value=value, said_by=f"assumed: {wears:g} mm under its new thickness")
    if not sort.limit_setting:
        return None
    said_by = "the workshop's setting" if sort.limit_setting in settings.own else "common practice"
    return Limit(value=settings.number(sort.limit_setting), said_by=said_by)


def _chain_limit(build: Build, settings: Settings) -> Limit | None:
    cassette = build.filled().get("cassette")
    teeth = cassette.attrs.get("teeth") if cassette else None
    speeds = cassette.attrs.get("speeds") if cassette else None
    count = len(teeth) if teeth and len(teeth) == SINGLE else speeds
    if count is None:
        return None
    names = ("chain_worn_single_pct", "chain_worn_wide_pct", "chain_worn_narrow_pct")
    name = names[0] if count == SINGLE else names[2] if count >= NARROW_FROM else names[1]
    return Limit(
        value=settings.number(name),
        said_by=f"{count} sprocket{'s' if count > 1 else ''}, by the workshop's setting",
    )


@frozen(kw_only=True)
class Reading:
    """One reading: on which day (counted from any day), at which distance where it is known, and how much."""

    day: float
    value: float
    km: float | None = None


@frozen(kw_only=True)
class Outlook:
    """Where a part stands: worn or not, and when it will be by the straight line through its readings.

    `by` is `km` where every reading has its distance, else `day`; figures are days or kilometres on the readings' own
    axis. None where it does not get there.
    """

    worn: bool
    by: str = "day"
    at: float | None = None
    low: float | None = None
    high: float | None = None
    forecast: WearForecast | None = None


def outlook(sort: WearSort, readings: Sequence[Reading], limit: Limit | None) -> Outlook:
    """What the readings of one part say; a forecast wants two readings at least, on two days or distances."""
    if not readings or limit is None or sort.way == "none":
        return Outlook(worn=False)
    last = readings[-1].value
    worn = sort.is_worn(last, limit.value)
    by = "km" if all(one.km is not None for one in readings) else "day"
    points = tuple((float(one.km or 0.0) if by == "km" else one.day, one.value) for one in readings)
    try:
        made = wear_forecast(readings=points, limit=limit.value)
    except InputError:
        return Outlook(worn=worn, by=by)
    wears = made.slope_per_unit is not None and (made.slope_per_unit > 0) == (sort.way == "up")
    if not wears or made.slope_per_unit == 0:
        return Outlook(worn=worn, by=by, forecast=made)
    return Outlook(worn=worn, by=by, at=made.reaches_limit_at, low=made.low, high=made.high, forecast=made)
