"""What a picture is made of. The web turns a scene into SVG; a test reads the numbers."""

from __future__ import annotations

import math

from attrs import field, frozen

Point = tuple[float, float]


@frozen(kw_only=True)
class Segment:
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
    handle: str = ""  # what a hand moves by it


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


@frozen(kw_only=True)
class Mark:
    """A verdict on the drawing that can be opened: its place, its shape's code, and what it opens."""

    at: Point
    radius: float
    reach: float  # of the ground that is hit, at least the radius
    verdict: str
    name: str
    title: str
    count: int = 0
    chosen: bool = False

    @property
    def role(self) -> str:
        return f"mark-{self.verdict}"


Shape = Segment | Circle | Box | Path | Text | Mark


@frozen(kw_only=True)
class Scene:
    """A picture: its size, its shapes in drawing order, and what it says in words."""

    width: float
    height: float
    title: str
    says: str
    shapes: tuple[Shape, ...] = field(factory=tuple)
    shows: tuple[float, float, float, float] | None = (
        None  # left, top, width and height of what is shown of it
    )

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, width and height of what is shown: all of it, or a part that is drawn large."""
        return self.shows or (0.0, 0.0, self.width, self.height)

    @property
    def long(self) -> bool:
        """Whether it wants the whole breadth of a page to be read."""
        return self.width > 2.8 * self.height


@frozen(kw_only=True)
class Wheel:
    """A wheel that a belt runs round: `clockwise` as the picture shows it when y points up."""

    centre: Point
    radius: float
    clockwise: bool = True

    @property
    def sense(self) -> int:
        return 1 if self.clockwise else -1


def _run(start: Wheel, end: Wheel) -> tuple[float, float, float]:
    """Return the straight run between two wheels: its direction, and the signed radii at its ends."""
    across = math.dist(start.centre, end.centre)
    rise = end.sense * end.radius - start.sense * start.radius
    if across <= abs(rise):
        raise ValueError("one wheel lies inside the other")
    towards = math.atan2(end.centre[1] - start.centre[1], end.centre[0] - start.centre[0])
    return towards + math.asin(rise / across), start.sense * start.radius, end.sense * end.radius


def belt_round(wheels: tuple[Wheel, ...], step_deg: float = 6.0) -> tuple[Point, ...]:
    """Return the outline of a belt round wheels in running order, every run tangent to both its wheels; y up.

    Raises ValueError where one wheel holds the next.
    """
    runs = [_run(wheel, wheels[(n + 1) % len(wheels)]) for n, wheel in enumerate(wheels)]
    points: list[Point] = []
    for n, wheel in enumerate(wheels):
        arrives, leaves = runs[n - 1][0] + math.pi / 2, runs[n][0] + math.pi / 2
        turn = (arrives - leaves) * wheel.sense % (2 * math.pi)
        pieces = max(1, math.ceil(math.degrees(turn) / step_deg))
        for piece in range(pieces + 1):
            angle = arrives - wheel.sense * turn * piece / pieces
            reach = wheel.sense * wheel.radius
            points.append(
                (wheel.centre[0] + reach * math.cos(angle), wheel.centre[1] + reach * math.sin(angle))
            )
    return tuple(points)


def belt_path(*, left: Point, left_radius: float, right: Point, right_radius: float) -> tuple[Point, ...]:
    """Return the outline of a belt round two wheels, both runs tangent to both. Raises ValueError where one holds
    the other.
    """
    return belt_round(
        (Wheel(centre=left, radius=left_radius), Wheel(centre=right, radius=right_radius)), step_deg=4.0
    )


def dimension(start: Point, end: Point, text: str) -> list[Shape]:
    """Return a level dimension line with its number over it."""
    (x1, y), (x2, _) = start, end
    return [
        Segment(start=(x1, y), end=(x2, y), role="dimension"),
        Segment(start=(x1, y - 6), end=(x1, y + 6), role="dimension"),
        Segment(start=(x2, y - 6), end=(x2, y + 6), role="dimension"),
        Text(at=((x1 + x2) / 2, y - 8), text=text, role="note"),
    ]


def upright(start: Point, end: Point, text: str, *, right: bool = True) -> list[Shape]:
    """Return an upright dimension line with its number beside it."""
    (x, y1), (_, y2) = start, end
    return [
        Segment(start=(x, y1), end=(x, y2), role="dimension"),
        Segment(start=(x - 6, y1), end=(x + 6, y1), role="dimension"),
        Segment(start=(x - 6, y2), end=(x + 6, y2), role="dimension"),
        Text(
            at=(x + (9 if right else -9), (y1 + y2) / 2 + 4),
            text=text,
            role="note",
            anchor="start" if right else "end",
        ),
    ]
