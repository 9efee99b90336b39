"""Points and outlines that the side view is drawn with, in millimetres with y up."""

from __future__ import annotations

import math
from collections.abc import Iterable

from unkett.core.scene import Path, Point


def tube(start: Point, end: Point, wide: float, wide_end: float | None = None) -> tuple[Point, ...]:
    """Return the outline of a tube between two points, in millimetres."""
    far = wide if wide_end is None else wide_end
    length = math.dist(start, end) or 1.0
    across = (-(end[1] - start[1]) / length, (end[0] - start[0]) / length)

    def beside(point: Point, half: float) -> Point:
        return (point[0] + across[0] * half, point[1] + across[1] * half)

    return (beside(start, wide / 2), beside(end, far / 2), beside(end, -far / 2), beside(start, -wide / 2))


def between(start: Point, end: Point, share: float) -> Point:
    return (start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)


def moved(point: Point, forward: float, up: float) -> Point:
    return (point[0] + forward, point[1] + up)


def polygon(points: Iterable[Point], role: str) -> Path:
    return Path(points=tuple(points), role=role, closed=True)
