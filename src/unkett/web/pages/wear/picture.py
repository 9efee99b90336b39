"""A series drawn: readings over days or kilometres, the limit, the straight line and where it may meet the limit."""

from __future__ import annotations

import datetime
from functools import cached_property

from attrs import frozen

from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import ZERO, Series

WIDTH, HEIGHT, EDGE = 520.0, 150.0, 34.0
SPREAD_MOST = 4.0  # the picture shows at most so many times what was measured over


@frozen(kw_only=True, slots=False)
class Picture:
    """Places in the units of the drawing."""

    series: Series
    before: tuple[WearReading, ...] = ()  # of the piece that was there before

    @property
    def by_km(self) -> bool:
        return self.series.outlook.by == "km"

    @property
    def xs(self) -> tuple[float, ...]:
        return self.series.outlook.along

    @cached_property
    def old(self) -> tuple[tuple[float, WearReading], ...]:
        """The readings of the piece before on this picture's axis; those that have no place on it are left out."""
        if self.by_km:
            return tuple((row.km, row) for row in self.before if row.km is not None)
        return tuple((float((row.on - ZERO).days), row) for row in self.before)

    @cached_property
    def span(self) -> tuple[float, float]:
        first, last = min([self.xs[0], *(at for at, _ in self.old)]), self.xs[-1]
        far = [one for one in (self.series.outlook.at, self.series.outlook.high) if one is not None]
        most = first + max(last - first, 30.0) * SPREAD_MOST
        return first, max(
            last + max(last - first, 10.0) * 0.1, *(min(one * 1.0, most) for one in far), first + 1
        )

    @cached_property
    def range(self) -> tuple[float, float]:
        values = [row.value for row in (*self.series.rows, *(row for _, row in self.old))]
        if self.series.limit is not None:
            values.append(self.series.limit.value)
        low, high = min(values), max(values)
        room = (high - low or 1.0) * 0.15
        return low - room, high + room

    def x(self, at: float) -> float:
        low, high = self.span
        return round(EDGE + (min(max(at, low), high) - low) / (high - low) * (WIDTH - 2 * EDGE), 1)

    def y(self, value: float) -> float:
        low, high = self.range
        return round(HEIGHT - 20 - (min(max(value, low), high) - low) / (high - low) * (HEIGHT - 40), 1)

    @property
    def points(self) -> list[tuple[float, float, str]]:
        rows = zip(self.xs, self.series.rows, strict=True)
        return [(self.x(at), self.y(row.value), f"{row.value:g}") for at, row in rows]

    @property
    def old_points(self) -> list[tuple[float, float, str]]:
        return [(self.x(at), self.y(row.value), f"{row.value:g}") for at, row in self.old]

    @property
    def old_line(self) -> str:
        """The readings of the piece before, joined."""
        return " ".join(f"{x:g},{y:g}" for x, y, _ in self.old_points)

    @property
    def ticks(self) -> list[tuple[float, str, str]]:
        """Where the axis is reported: kilometres, or days of the calendar; place, text and how it is anchored."""
        low, high = self.span
        marks = [(low, "start"), ((low + high) / 2, "middle"), (high, "end")]
        return [(self.x(at), self._in_words(at), anchor) for at, anchor in marks]

    def _in_words(self, at: float) -> str:
        if self.by_km:
            return f"{at:.0f} km"
        return f"{ZERO + datetime.timedelta(days=round(at)):%-d %b %Y}"

    @property
    def limit_y(self) -> float | None:
        return None if self.series.limit is None else self.y(self.series.limit.value)

    @property
    def line(self) -> tuple[float, float, float, float] | None:
        """The straight line from the first reading to the limit, or to the edge."""
        made = self.series.outlook.forecast
        if made is None or made.slope_per_unit is None:
            return None
        values = [row.value for row in self.series.rows]
        x_mean, y_mean = sum(self.xs) / len(self.xs), sum(values) / len(values)
        first, last = self.span
        end = last if self.series.outlook.at is None else min(last, self.series.outlook.at)
        ends = [(at, y_mean + made.slope_per_unit * (at - x_mean)) for at in (first, end)]
        return self.x(ends[0][0]), self.y(ends[0][1]), self.x(ends[1][0]), self.y(ends[1][1])

    @property
    def band(self) -> tuple[float, float] | None:
        """From the earliest to the latest place where the limit may be met: x and width."""
        low, high = self.series.outlook.low, self.series.outlook.high
        if low is None and high is None:
            return None
        left = self.x(self.span[0] if low is None else low)
        right = self.x(self.span[1] if high is None else high)
        return left, max(2.0, right - left)
