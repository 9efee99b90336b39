"""A line in space: arcs no tighter than its radius, through the points it must pass."""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Sequence

from attrs import evolve, frozen

from unkett.core.calc.lines import Vector, along, between, turn_between, unit

RADIUS_MM = {"brake_housing": 60.0, "shift_housing": 50.0, "hose": 50.0, "bare": 20.0}  # laid with


LEAST_MM = {
    "brake_housing": 40.0,
    "shift_housing": 35.0,
    "hose": 25.0,
    "bare": 15.0,
}  # under it the bend is too tight


BAR_TURN_DEG = (-90, -45, 45, 90)  # beside straight on


U_TURN_DEG = 140.0  # a turn beyond it is laid as two


STEPS = 10  # of an arc drawn


USED_MU = 0.10


SETTLED_MM = 0.05  # of a corner that is looked for


@frozen(kw_only=True)
class Spot:
    """A place of a route: where, which way a line leaves it, whether it turns with the bar or the fork."""

    name: str
    at: Vector
    way: Vector | None = None
    turns: bool = False
    own: bool = False  # put there by hand

    def turned(self, axis: tuple[Vector, Vector], angle_deg: float) -> Spot:
        """Return the place with the bar turned."""
        if not self.turns or not angle_deg:
            return self
        start, way = axis
        at = along(start, _rotated(between(start, self.at), way, angle_deg), 1.0)
        return evolve(self, at=at, way=_rotated(self.way, way, angle_deg) if self.way else None)


def _rotated(vector: Vector, axis: Vector, angle_deg: float) -> Vector:
    """Return a vector turned round a direction."""
    angle = math.radians(angle_deg)
    c, s = math.cos(angle), math.sin(angle)
    dot = sum(a * b for a, b in zip(vector, axis, strict=True))
    cross = (
        axis[1] * vector[2] - axis[2] * vector[1],
        axis[2] * vector[0] - axis[0] * vector[2],
        axis[0] * vector[1] - axis[1] * vector[0],
    )
    turned = [v * c + k * s + a * dot * (1 - c) for v, k, a in zip(vector, cross, axis, strict=True)]
    return (turned[0], turned[1], turned[2])


@frozen(kw_only=True)
class Curve:
    """A piece as it is laid: its corners with the radius of the bend at each inner one."""

    points: tuple[Vector, ...]
    radii: tuple[float, ...]

    @functools.cached_property
    def turns(self) -> tuple[float, ...]:
        """The turn at each inner corner in radians."""
        ways = [between(a, b) for a, b in zip(self.points, self.points[1:], strict=False)]
        return tuple(turn_between(a, b) for a, b in itertools.pairwise(ways))

    @property
    def turns_deg(self) -> tuple[float, ...]:
        return tuple(math.degrees(turn) for turn in self.turns)

    @property
    def length_mm(self) -> float:
        runs = sum(math.dist(a, b) for a, b in zip(self.points, self.points[1:], strict=False))
        bends = zip(self.radii, self.turns, strict=True)
        return runs + sum(radius * (turn - 2 * math.tan(turn / 2)) for radius, turn in bends)

    @functools.cached_property
    def drawn(self) -> list[Vector]:
        """Points along the curve, close enough to be drawn as strokes."""
        out = [self.points[0]]
        for n, (radius, turn) in enumerate(zip(self.radii, self.turns, strict=True), start=1):
            here = self.points[n]
            if radius <= 0 or turn < 1e-6:
                out.append(here)
                continue
            take = radius * math.tan(turn / 2)
            into, away = unit(between(self.points[n - 1], here)), unit(between(here, self.points[n + 1]))
            side = unit(along((0.0, 0.0, 0.0), between(along((0, 0, 0), into, math.cos(turn)), away), 1.0))
            start = along(here, into, -take)
            for step in range(STEPS + 1):
                angle = turn * step / STEPS
                spot = along(start, into, radius * math.sin(angle))
                out.append(along(spot, side, radius * (1 - math.cos(angle))))
        return [*out, self.points[-1]]


def shortest_curve(
    points: Sequence[Vector], start: Vector | None, end: Vector | None, radius: float
) -> Curve:
    """Return the shortest line through points that leaves and arrives in given directions, with bends of a radius.

    Where a bend has no room it is laid as wide as it goes. Never fails.
    """
    corners = [points[0]]
    for point in points[1:]:
        if math.dist(point, corners[-1]) > 1e-6:
            corners.append(point)
    if len(corners) < 2:
        return Curve(points=(points[0], along(points[0], (1.0, 0.0, 0.0), 1e-3)), radii=())
    head = _led_out(corners[0], start, corners[1], radius) if start else []
    tail = _led_out(corners[-1], _back(end), corners[-2], radius)[::-1] if end else []
    whole = [corners[0], *head, *corners[1:-1], *tail, corners[-1]]
    return _rounded(whole, radius)


def _back(way: Vector) -> Vector:
    return (-way[0], -way[1], -way[2])


def _led_out(at: Vector, way: Vector, goal: Vector, radius: float) -> list[Vector]:
    """Return the corners of the bend that turns a direction towards a goal: none where it leads there, two for a U."""
    towards = between(at, goal)
    turn = turn_between(way, towards)
    if turn < 1e-3:
        return []
    if math.degrees(turn) > U_TURN_DEG:
        ahead = along(at, way, radius)
        dot = sum(a * b for a, b in zip(towards, way, strict=True))
        beside = between(along((0, 0, 0), way, dot), towards)
        beside = unit(beside) if math.hypot(*beside) > 1e-6 else (0.0, -1.0, 0.0)
        return [ahead, along(ahead, beside, 2 * radius)]
    far = radius * math.tan(turn / 2)
    for _ in range(30):
        corner = along(at, way, far)
        turn = min(turn_between(way, between(corner, goal)), math.radians(U_TURN_DEG))
        wanted = radius * math.tan(turn / 2)
        if abs(wanted - far) < SETTLED_MM:
            break
        far += (wanted - far) * 0.8
    return [along(at, way, max(far, 1e-3))]


def _rounded(corners: Sequence[Vector], radius: float) -> Curve:
    points = [corners[0]]
    for corner in corners[1:]:
        if math.dist(corner, points[-1]) > 1e-6:
            points.append(corner)
    runs = [math.dist(a, b) for a, b in itertools.pairwise(points)]
    bare = Curve(points=tuple(points), radii=tuple(0.0 for _ in points[1:-1]))
    tans = [math.tan(min(turn, math.radians(179)) / 2) for turn in bare.turns]
    radii = [radius] * len(tans)
    for _ in range(4):  # bends that share a run share its room
        for n, run in enumerate(runs):
            ends = [place for place in (n - 1, n) if 0 <= place < len(tans)]
            taken = sum(radii[place] * tans[place] for place in ends)
            if taken > run:
                for place in ends:
                    radii[place] *= run / taken
    return Curve(points=tuple(points), radii=tuple(radii))
