"""The wear log's sense: what is read of a part, where it is worn, and when a straight line gets there."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.build import Build, Part, values_in
from unkett.core.calc.wear import WearForecast, chain_limit_setting, wear_forecast
from unkett.core.errors import InputError, bad
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import table


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
    attr: str = ""  # the part's attribute that carries its last reading
    read_as: str = ""
    service: bool = False  # at its limit it is serviced, not worn out

    def accept(self, value: float) -> float:
        """Return the reading, or InputError where it is none of this sort."""
        if not self.low <= value <= self.high:
            raise bad(
                "value",
                f"{value:g} given; {self.low:g} to {self.high:g} {self.unit} allowed".replace("  ", " "),
            )
        return value

    def is_worn(self, value: float, limit: float) -> bool:
        """Return whether a reading has met its limit; never where the sort has no worn side."""
        return self.way != "none" and (value >= limit if self.way == "up" else value <= limit)


@functools.cache
def sorts() -> Mapping[str, WearSort]:
    """Return every sort of reading, by code."""
    rows = table("wear_sorts").rows
    names = ("code", "title", "unit", "way", "low", "high", "limit_setting", "attr", "read_as", "service")
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
    """Return the limit of a reading on this bike; None where there is none, or what it hangs on is not known."""
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
    if sort.service:
        every = settings.number(f"{slot}_service_h")
        said_by = f"{every:g} h after the last service, by the workshop's setting"
        return Limit(value=float(attrs.get("hours_at_service") or 0.0) + every, said_by=said_by)
    if not sort.limit_setting:
        return None
    said_by = "the workshop's setting" if sort.limit_setting in settings.own else "common practice"
    return Limit(value=settings.number(sort.limit_setting), said_by=said_by)


def _chain_limit(build: Build, settings: Settings) -> Limit | None:
    cassette, chain = build.filled().get("cassette"), build.filled().get("chain")
    count = values_in("cassette", cassette).get("sprockets") if cassette else None
    count = count or (chain.attrs.get("speeds") if chain else None)
    if count is None:
        return None
    return Limit(
        value=settings.number(chain_limit_setting(count)),
        said_by=f"{count} sprocket{'s' if count > 1 else ''}, by the workshop's setting",
    )


def worn_out(slot: str, part: Part, settings: Settings = DEFAULTS) -> bool:
    """Return whether a part is at its limit by the last reading that it carries, so that it is not fitted again."""
    alone = Build(parts={slot: part})
    for sort in sorts().values():
        value = part.attrs.get(sort.attr) if slot in sort.slots and not sort.service else None
        limit = None if value is None else limit_of(sort, alone, slot, settings)
        if value is not None and limit is not None and sort.is_worn(value, limit.value):
            return True
    return False


@frozen(kw_only=True)
class Reading:
    """One reading: on which day (counted from any day), at which distance if known, how much, on which bike."""

    day: float
    value: float
    km: float | None = None
    bike: int = 0


def axis_of(readings: Sequence[Reading]) -> tuple[str, tuple[float, ...]]:
    """Return what a piece's readings are laid out along, `km` or `day`, and where each lies.

    Kilometres where every reading has its distance. A piece that went from one bike to another lay in the bin between
    them: nothing is counted there, and all is shown on the odometer (or the calendar) of the bike it is on now.
    """
    by = "km" if all(one.km is not None for one in readings) else "day"
    own = [float(one.km or 0.0) if by == "km" else one.day for one in readings]
    along = own[-1:]
    for number in range(len(readings) - 2, -1, -1):
        stayed = readings[number].bike == readings[number + 1].bike
        along.insert(0, along[0] - (own[number + 1] - own[number] if stayed else 0.0))
    return by, tuple(along)


@frozen(kw_only=True)
class Outlook:
    """Where a part stands: worn or not, and when it will be by the straight line through its readings.

    `by` is `km` where every reading has its distance, else `day`; `along` says where each reading lies, see `axis_of`,
    and the figures are on the same axis. None where the line does not get there.
    """

    worn: bool
    by: str = "day"
    along: tuple[float, ...] = ()
    at: float | None = None
    low: float | None = None
    high: float | None = None
    forecast: WearForecast | None = None


def outlook(sort: WearSort, readings: Sequence[Reading], limit: Limit | None) -> Outlook:
    """Return what the readings of one part say; a forecast wants two readings at least, on two days or distances."""
    if not readings:
        return Outlook(worn=False)
    by, along = axis_of(readings)
    if limit is None or sort.way == "none":
        return Outlook(worn=False, by=by, along=along)
    last = readings[-1].value
    worn = sort.is_worn(last, limit.value)
    points = tuple((at, one.value) for at, one in zip(along, readings, strict=True))
    try:
        made = wear_forecast(readings=points, limit=limit.value)
    except InputError:
        return Outlook(worn=worn, by=by, along=along)
    wears = made.slope_per_unit is not None and (made.slope_per_unit > 0) == (sort.way == "up")
    if not wears or made.slope_per_unit == 0:
        return Outlook(worn=worn, by=by, along=along, forecast=made)
    return Outlook(
        worn=worn, by=by, along=along, at=made.reaches_limit_at, low=made.low, high=made.high, forecast=made
    )
