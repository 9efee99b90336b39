"""Cables and hoses: the path in straight runs and arcs, its length, what bends cost, the change from an old line."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH, OFFSET
from unkett.core.errors import bad
from unkett.core.standards import SLACK
from unkett.core.vocabulary.enums import Enumeration
from unkett.core.vocabulary.types import Choice, Either, ListOf, Number, Record

Vector = tuple[float, float, float]
HOUSINGS = ("housing", "shift_housing", "brake_housing")
SEGMENT = Choice(
    of=Enumeration(
        name="segment",
        codes={
            "housing": "Housing",
            "shift_housing": "Shift housing",
            "brake_housing": "Brake housing",
            "bare": "Bare inner",
            "hose": "Hose",
        },
    )
)


@frozen(kw_only=True)
class LinePath(Result):
    length_mm: float = figure("mm", "Length")
    turns_deg: tuple[float, ...] = figure("°", "Turns")
    total_deg: float = figure("°", "Turns together")


def between(a: Vector, b: Vector) -> Vector:
    """From one point to another."""
    return (b[0] - a[0], b[1] - a[1], b[2] - a[2])


def along(a: Vector, way: Vector, far: float) -> Vector:
    """Return a point so many times a vector from another."""
    return (a[0] + way[0] * far, a[1] + way[1] * far, a[2] + way[2] * far)


def unit(way: Vector) -> Vector:
    """Return the direction of a vector. Raises ZeroDivisionError for none."""
    length = math.hypot(*way)
    return (way[0] / length, way[1] / length, way[2] / length)


def turn_between(a: Vector, b: Vector) -> float:
    """Return the angle between two directions in radians, 0 to π; exact near both ends."""
    one, two = unit(a), unit(b)
    apart = math.hypot(*between(one, two))
    together = math.hypot(one[0] + two[0], one[1] + two[1], one[2] + two[2])
    return 2 * math.atan2(apart, together)


def turns_of(points: Sequence[Vector]) -> list[float]:
    """Return the turn at every inner point in radians. Raises ZeroDivisionError where two points are one."""
    runs = [between(a, b) for a, b in itertools.pairwise(points)]
    return [turn_between(a, b) for a, b in itertools.pairwise(runs)]


@calculation(
    "line_path",
    title="Line path",
    page="lines",
    says="Length and turns of a line laid in straight runs joined by arcs.",
    inputs=(
        Input(
            name="points_mm",
            title="Points along the way",
            type=ListOf(item=ListOf(item=OFFSET, least=3, most=3), least=2, most=60),
            says="Forward, up and sideways of each point, in the order of the line.",
        ),
        Input(
            name="radius_mm",
            title="Radius of the bends",
            type=Either(
                one=Number(unit="mm", low=0.0, high=2000.0),
                other=ListOf(item=Number(unit="mm", low=0.0, high=2000.0), least=0, most=58),
            ),
            says="One for all inner points, or one for each.",
        ),
    ),
    formula="each turn θ takes r·tan(θ/2) of both its runs and gives r·θ back",
    sources=("plane-geometry",),
)
def line_path(*, points_mm: tuple[tuple[float, ...], ...], radius_mm: float | tuple[float, ...]) -> LinePath:
    """Straight runs joined by arcs that touch both.

    Raises InputError naming `points_mm[i]` for two arcs that do not fit on one run, a turn of 180° and a point that
    stands twice, `radius_mm` where its number is not that of the inner points.
    """
    points: list[Vector] = [(point[0], point[1], point[2]) for point in points_mm]
    inner = len(points) - 2
    radii = list(radius_mm) if isinstance(radius_mm, (tuple, list)) else [radius_mm] * inner
    if len(radii) != inner:
        raise bad("radius_mm", f"{len(radii)} given; {inner} wanted, one for each inner point")
    runs = [math.dist(a, b) for a, b in itertools.pairwise(points)]
    for n, run in enumerate(runs):
        if run <= SLACK:
            raise bad(f"points_mm[{n + 1}]", "the same point as the one before it")
    turns = turns_of(points)
    for n, turn in enumerate(turns, start=1):
        if math.pi - turn < 1e-9:
            raise bad(f"points_mm[{n}]", "a turn of 180°: the line runs back on itself")
    taken = [radius * math.tan(turn / 2) for radius, turn in zip(radii, turns, strict=True)]
    ends = [0.0, *taken, 0.0]
    for n, run in enumerate(runs):
        if ends[n] + ends[n + 1] > run + SLACK:
            place = n + 1 if n < inner else n
            says = f"its bend takes {ends[n] + ends[n + 1]:.1f} mm of a run of {run:.1f} mm"
            raise bad(f"points_mm[{place}]", says)
    arcs = [radius * turn for radius, turn in zip(radii, turns, strict=True)]
    straight = math.fsum(runs) - 2 * math.fsum(taken)
    length = straight + math.fsum(arcs)
    degrees = tuple(math.degrees(turn) for turn in turns)
    return LinePath(
        length_mm=length,
        turns_deg=degrees,
        total_deg=math.fsum(degrees),
        trace=(
            TraceLine("runs_mm", math.fsum(runs), "mm", "sum of the runs from point to point"),
            TraceLine("straight_mm", straight, "mm", "runs − 2 × Σ r·tan(θ/2)"),
            TraceLine("arcs_mm", math.fsum(arcs), "mm", "Σ r·θ"),
            TraceLine("length_mm", length, "mm", "straight + arcs"),
            TraceLine("total_deg", math.fsum(degrees), "°", "sum of the turns"),
        ),
    )


@frozen(kw_only=True)
class LineDrag(Result):
    total_deg: float = figure("°", "Bends in all")
    ratio: float = figure("", "Force that arrives")
    loss_pct: float = figure("%", "Lost")


@calculation(
    "line_drag",
    title="Line drag",
    page="lines",
    says="How much of the lever's pull the bends of a cable's housing leave.",
    inputs=(
        Input(
            name="turns_deg",
            title="Bends",
            known=(("rear_brake_line", "turns_deg"), ("front_brake_line", "turns_deg")),
            type=ListOf(item=Number(unit="°", low=0.0, high=3600.0), least=0),
            says="Angle of every bend; none for a straight line.",
        ),
        Input(
            name="mu",
            title="Friction",
            type=Number(unit="", low=0.0, high=1.0),
            says="Friction: new lined 0.06, used 0.10, dirty 0.15.",
            optional=True,
            default=0.06,
        ),
    ),
    formula="belt friction: force out / in = exp(−μθ)",
    sources=("belt-friction",),
)
def line_drag(*, turns_deg: tuple[float, ...], mu: float = 0.06) -> LineDrag:
    """exp(−μ·θ) with θ the sum of all bends in radians."""
    total = math.fsum(turns_deg)
    ratio = math.exp(-mu * math.radians(total))
    return LineDrag(
        total_deg=total,
        ratio=ratio,
        loss_pct=(1 - ratio) * 100,
        trace=(
            TraceLine("total_deg", total, "°", "sum of the bends"),
            TraceLine("ratio", ratio, "", f"exp(−{mu:g} × {math.radians(total):.4f})"),
            TraceLine("loss_pct", (1 - ratio) * 100, "%", "(1 − ratio) × 100"),
        ),
    )


@frozen(kw_only=True)
class LineLength(Result):
    housing_mm: float = figure("mm", "Housing")
    bare_mm: float = figure("mm", "Bare cable")
    hose_mm: float = figure("mm", "Hose")
    inner_mm: float = figure("mm", "Inner cable")


@calculation(
    "line_length",
    title="Line length",
    page="lines",
    says="Lengths of housing, bare inner, hose and the inner to cut.",
    inputs=(
        Input(
            name="segments",
            title="Pieces along the way",
            type=ListOf(item=Record(fields={"type": SEGMENT, "length_mm": LENGTH})),
            says="The path from control to component.",
        ),
        Input(
            name="lever_mm",
            title="Inside the lever",
            type=LENGTH,
            says="Inner inside the lever: 60 drop-lever brake, 45 shift.",
        ),
        Input(
            name="past_clamp_mm",
            title="Past the clamp",
            type=LENGTH,
            says="Inner past the clamp.",
            optional=True,
            default=50.0,
        ),
        Input(
            name="spare_mm",
            title="Spare",
            type=LENGTH,
            says="Spare for a later change, inner only.",
            optional=True,
            default=0.0,
        ),
    ),
    formula="inner = housing + bare + lever + past the clamp + spare",
    sources=("line-routes",),
)
def line_length(
    *,
    segments: tuple[dict[str, object], ...],
    lever_mm: float,
    past_clamp_mm: float = 50.0,
    spare_mm: float = 0.0,
) -> LineLength:
    """A line of hose only has no inner."""

    def total(*types: str) -> float:
        return math.fsum(float(str(piece["length_mm"])) for piece in segments if piece["type"] in types)

    housing, bare, hose = total(*HOUSINGS), total("bare"), total("hose")
    pulled = any(piece["type"] != "hose" for piece in segments)
    inner = housing + bare + lever_mm + past_clamp_mm + spare_mm if pulled else 0.0
    return LineLength(
        housing_mm=housing,
        bare_mm=bare,
        hose_mm=hose,
        inner_mm=inner,
        trace=(
            TraceLine("housing_mm", housing, "mm", "sum of the housing"),
            TraceLine("bare_mm", bare, "mm", "sum of the bare inner"),
            TraceLine("hose_mm", hose, "mm", "sum of the hose"),
            TraceLine(
                "inner_mm", inner, "mm", f"housing + bare + {lever_mm:g} + {past_clamp_mm:g} + {spare_mm:g}"
            ),
        ),
    )


POINT = ListOf(item=OFFSET, most=2)
PLACE = Record(fields={"lever_xy_mm": POINT, "entry_xy_mm": POINT, "rest_mm": LENGTH})


@frozen(kw_only=True)
class LineChange(Result):
    new_mm: float = figure("mm", "Line then")
    change_mm: float = figure("mm", "Change")


@calculation(
    "line_change",
    title="Line change",
    page="lines",
    says="A line's new length from the old line and the change of its path.",
    inputs=(
        Input(name="old_mm", title="Line now", type=LENGTH, says="The old line, measured when it comes off."),
        Input(
            name="from",
            title="As it runs now",
            type=PLACE,
            says="Lever exit, frame entry and the rest of the path now.",
        ),
        Input(name="to", title="As it will run", type=PLACE, says="The same then."),
    ),
    formula="change of the straight distance lever to entry + change of the rest",
    sources=("plane-geometry",),
)
def line_change(**given: object) -> LineChange:
    """Raises InputError for a point that is no pair."""

    def path(name: str) -> float:
        place = given[name]
        assert isinstance(place, dict)
        for point in ("lever_xy_mm", "entry_xy_mm"):
            if len(place[point]) != 2:
                raise bad(f"{name}.{point}", "enter a pair [x, y]")
        return math.dist(place["lever_xy_mm"], place["entry_xy_mm"]) + float(place["rest_mm"])

    old = given["old_mm"]
    assert isinstance(old, (int, float))
    before, after = path("from"), path("to")
    change = after - before
    return LineChange(
        new_mm=old + change,
        change_mm=change,
        trace=(
            TraceLine("path_from_mm", before, "mm", "lever to entry + rest"),
            TraceLine("path_to_mm", after, "mm", "lever to entry + rest"),
            TraceLine("change_mm", change, "mm", "to − from"),
            TraceLine("new_mm", old + change, "mm", f"{old:g} + change"),
        ),
    )
