"""What a picture is made of. The web turns a scene into SVG; a test reads the numbers."""

from __future__ import annotations

import math

from attrs import field, frozen

Point = tuple[float, float]


@frozen(kw_only=True)
class Line:
    """A straight stroke."""

    start: Point
    end: Point
    role: str


@frozen(kw_only=True)
class Circle:
    """A circle."""

    centre: Point
    radius: float
    role: str
    title: str = ""


@frozen(kw_only=True)
class Box:
    """An upright rectangle by its upper left corner."""

    corner: Point
    width: float
    height: float
    role: str
    title: str = ""


@frozen(kw_only=True)
class Path:
    """A run of straight strokes, closed or open."""

    points: tuple[Point, ...]
    role: str
    closed: bool = False


@frozen(kw_only=True)
class Text:
    """A short text; `anchor` is start, middle or end."""

    at: Point
    text: str
    role: str
    anchor: str = "middle"


Shape = Line | Circle | Box | Path | Text


@frozen(kw_only=True)
class Scene:
    """A picture: its size, its shapes in drawing order, and what it says in words."""

    width: float
    height: float
    title: str
    says: str
    shapes: tuple[Shape, ...] = field(factory=tuple)


def belt_path(
    *, left: Point, left_radius: float, right: Point, right_radius: float, steps: int = 48
) -> tuple[Point, ...]:
    """The outline of a belt round two wheels, both runs tangent to both; right lies level or to the right.

    Raises ValueError where one wheel holds the other.
    """
    distance = math.dist(left, right)
    if distance <= abs(right_radius - left_radius):
        raise ValueError("one wheel lies inside the other")
    tilt = math.atan2(right[1] - left[1], right[0] - left[0])
    lean = math.acos((left_radius - right_radius) / distance)

    def arc(centre: Point, radius: float, start: float, end: float) -> list[Point]:
        angles = [start + (end - start) * n / steps for n in range(steps + 1)]
        return [(centre[0] + radius * math.cos(a), centre[1] + radius * math.sin(a)) for a in angles]

    round_right = arc(right, right_radius, tilt - lean, tilt + lean)
    round_left = arc(left, left_radius, tilt + lean, tilt + 2 * math.pi - lean)
    return (*round_right, *round_left)
