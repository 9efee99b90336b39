"""The gear picture: every gear where it really is, by how far it carries and how much the chain leans in it.

Across, development on a stretched scale, so that a step of so many per cent is the same distance everywhere; upwards,
the chain's lean in degrees with the quiet band shaded. Each ring is one curve through its sprockets, gears that nearly
double one another stand above one another.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from attrs import frozen

from unkett.core.bike.figures import SetUp
from unkett.core.calc.gears import Gear
from unkett.core.scene import Box, Circle, Path, Point, Scene, Segment, Shape, Text
from unkett.core.settings import DEFAULTS, Settings

WIDTH = 1240.0
LEFT, RIGHT = 96.0, 92.0
TOP, PLOT = 74.0, 300.0
LANE = 26.0  # height of a ring's line where its lean is not known
FOOT = 64.0
MARKS_M = (0.8, 1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 10, 12)
BOLD, THIN = 5.5, 4.0  # radius of a gear's dot
# Where a gear's teeth stand from its dot, by set: the teeth of none write over another's.
TEETH_AT = {"stands": 17, "planned": -10, "third": -22, "fourth": 29}
STEP_PCT = 10.0  # the step that the scale under the picture shows


@frozen
class Upright:
    """A development that is wanted, and what for."""

    development_m: float
    says: str
    anchor: str = "start"


@frozen(kw_only=True)
class _Plot:
    """Where a development and a lean land on the picture."""

    low: float
    span: float
    most_deg: float

    @classmethod
    def of(cls, setups: Sequence[SetUp], wanted: Sequence[Upright], settings: Settings) -> _Plot:
        reach = [gear.development_m for setup in setups for gear in setup.table.gears]
        reach += [one.development_m for one in wanted]
        low = math.log(min(reach) * 0.94)
        leans = [abs(angle) for setup in setups for angle in setup.angles.values()]
        most = max([settings.number("chain_angle_avoid_deg"), *leans]) * 1.12
        return cls(low=low, span=math.log(max(reach) * 1.06) - low, most_deg=most)

    def x(self, development_m: float) -> float:
        return LEFT + (math.log(development_m) - self.low) / self.span * (WIDTH - LEFT - RIGHT)

    def y(self, lean_deg: float) -> float:
        return TOP + PLOT / 2 * (1 - lean_deg / self.most_deg)

    @property
    def middle_m(self) -> float:
        return math.exp(self.low + self.span / 2)


def gear_scene(setups: list[SetUp], settings: Settings = DEFAULTS, wanted: Sequence[Upright] = ()) -> Scene:
    """Up to four set-ups over one another, what is planned last and boldest. Raises ValueError for no gears."""
    if not any(setup.table.gears for setup in setups):
        raise ValueError("no gears to draw")
    plot = _Plot.of(setups, wanted, settings)
    leaning = any(setup.angles for setup in setups)
    shapes: list[Shape] = _bands(plot, settings) if leaning else []
    y = TOP + PLOT if leaning else TOP
    drawn: list[Shape] = []
    for setup in setups:
        if setup.angles:
            drawn += _leaning(setup, plot)
        else:
            drawn += [Text(at=(8, y + 18), text="lean open", role="axis", anchor="start")]
            lanes = sorted({gear.ring for gear in setup.table.gears})
            drawn += _in_lanes(setup, plot, y, lanes)
            y += LANE * len(lanes) + 12
    base = y + 10
    shapes += (
        _ground(plot, base) + _uprights(plot, base, wanted) + drawn + _names(setups) + _legend(base, plot)
    )
    said = "; ".join(
        f"{setup.label} {setup.table.gears[0].development_m:.2f} to {setup.table.gears[-1].development_m:.2f} m "
        f"in {len(setup.table.gears)} gears"
        for setup in setups
    )
    return Scene(
        width=WIDTH, height=base + FOOT, title="Gears", says=said.capitalize() + ".", shapes=tuple(shapes)
    )


def _bands(plot: _Plot, settings: Settings) -> list[Shape]:
    """Return the quiet band in the middle and where the chain is not to be, each named at its edge."""
    noisy, avoid = (settings.number(f"chain_angle_{name}_deg") for name in ("noisy", "avoid"))
    right = WIDTH - RIGHT
    shapes: list[Shape] = [
        Box(
            corner=(LEFT, plot.y(noisy)),
            width=right - LEFT,
            height=plot.y(-noisy) - plot.y(noisy),
            role="quiet-band",
        )
    ]
    for sign in (1, -1):
        edge, end = plot.y(sign * avoid), plot.y(sign * plot.most_deg)
        shapes.append(
            Box(corner=(LEFT, min(edge, end)), width=right - LEFT, height=abs(edge - end), role="far-band")
        )
    shapes += [
        Segment(start=(LEFT, plot.y(0)), end=(right, plot.y(0)), role="grid"),
        Text(at=(right + 8, plot.y(0) + 4), text="straight", role="axis", anchor="start"),
        Text(at=(right + 8, plot.y(noisy) + 14), text=f"quiet to {noisy:g}°", role="axis", anchor="start"),
        Text(at=(right + 8, plot.y(avoid) + 4), text=f"{avoid:g}°, over it", role="axis", anchor="start"),
        Text(at=(right + 8, plot.y(avoid) + 18), text="keep out", role="axis", anchor="start"),
        Text(at=(LEFT - 8, TOP + 12), text="towards", role="axis", anchor="end"),
        Text(at=(LEFT - 8, TOP + 26), text="the wheel", role="axis", anchor="end"),
        Text(at=(LEFT - 8, TOP + PLOT - 18), text="away", role="axis", anchor="end"),
        Text(at=(LEFT - 8, TOP + PLOT - 4), text="from it", role="axis", anchor="end"),
    ]
    return shapes


def _leaning(setup: SetUp, plot: _Plot) -> list[Shape]:
    """Return a curve for each ring and a dot for each gear; near doubles are joined upright."""
    places = {
        gear: (
            plot.x(gear.development_m),
            plot.y(setup.angles[gear.ring, gear.sprocket]),
        )
        for gear in setup.table.gears
    }
    return _curves(setup, places) + _twins(setup, places) + _dots(setup, places)


def _in_lanes(setup: SetUp, plot: _Plot, y: float, lanes: list[int]) -> list[Shape]:
    """Return the same with each ring on a level line of its own: the lean is not known."""
    places = {
        gear: (
            plot.x(gear.development_m),
            y + LANE * (len(lanes) - lanes.index(gear.ring)),
        )
        for gear in setup.table.gears
    }
    return _curves(setup, places) + _dots(setup, places)


Places = dict[Gear, Point]


def _curves(setup: SetUp, places: Places) -> list[Shape]:
    shapes: list[Shape] = []
    for ring in sorted({gear.ring for gear in setup.table.gears}):
        run = [places[gear] for gear in setup.table.gears if gear.ring == ring]
        shapes.append(Path(points=tuple(run), role=f"curve-{setup.state}"))
        x, y = run[-1]
        shapes.append(
            Text(at=(x + 11, y + 5), text=f"ring {ring}", role=f"row-{setup.state}", anchor="start")
        )
    return shapes


def _twins(setup: SetUp, places: Places) -> list[Shape]:
    """Return an upright stroke between neighbours that are nearly the same gear on two rings."""
    pairs = itertools.pairwise(zip(setup.table.gears, setup.overlaps, strict=True))
    return [
        Segment(start=places[a], end=places[b], role="twin")
        for (a, near_a), (b, near_b) in pairs
        if near_a and near_b and a.ring != b.ring
    ]


def _dots(setup: SetUp, places: Places) -> list[Shape]:
    stands = setup.state == "stands"
    shapes: list[Shape] = []
    for gear, overlaps in zip(setup.table.gears, setup.overlaps, strict=True):
        x, y = places[gear]
        role = f"gear-{setup.state} hollow" if overlaps else f"gear-{setup.state}"
        title = _said(setup, gear, overlaps)
        shapes.append(Circle(centre=(x, y), radius=THIN if stands else BOLD, role=role, title=title))
        at = (x, y + TEETH_AT[setup.state])
        shapes.append(Text(at=at, text=str(gear.hub_gear or gear.sprocket), role=f"teeth-{setup.state}"))
    return shapes


def _said(setup: SetUp, gear: Gear, overlaps: bool) -> str:
    angle = setup.angles.get((gear.ring, gear.sprocket))
    leans = "" if angle is None else f", chain {abs(angle):.1f}°"
    near = ", nearly the same as its neighbour" if overlaps else ""
    return f"{gear.name}: {gear.development_m:.2f} m{leans}{near}"


def _ground(plot: _Plot, base: float) -> list[Shape]:
    """Return the scale of development."""
    shapes: list[Shape] = []
    for mark in MARKS_M:
        if plot.low <= math.log(mark) <= plot.low + plot.span:
            x = plot.x(mark)
            shapes.append(Segment(start=(x, TOP), end=(x, base), role="grid"))
            shapes.append(Text(at=(x, base + 18), text=f"{mark:g} m", role="mark"))
    return shapes


def _uprights(plot: _Plot, base: float, wanted: Sequence[Upright]) -> list[Shape]:
    shapes: list[Shape] = []
    for one in wanted:
        x = plot.x(one.development_m)
        inward = 6 if one.anchor == "start" else -6
        shapes.append(Segment(start=(x, TOP - 26), end=(x, base), role="wanted"))
        shapes.append(Text(at=(x + inward, TOP - 14), text=one.says, role="axis", anchor=one.anchor))
    return shapes


def _names(setups: list[SetUp]) -> list[Shape]:
    """Return which stroke is which set-up."""
    shapes: list[Shape] = []
    x = LEFT
    for setup in setups:
        shapes.append(Segment(start=(x, 18), end=(x + 26, 18), role=f"span-{setup.state}"))
        shapes.append(Text(at=(x + 34, 23), text=setup.label, role=f"state-{setup.state}", anchor="start"))
        x += 60 + 8.2 * len(setup.label)
    return shapes


def _legend(base: float, plot: _Plot) -> list[Shape]:
    """Return a step to measure distances by, what a hollow dot is, what the scale is."""
    y = base + 46
    step = plot.x(plot.middle_m * (1 + STEP_PCT / 100)) - plot.x(plot.middle_m)
    return [
        Segment(start=(LEFT, y - 4), end=(LEFT + step, y - 4), role="dimension"),
        Segment(start=(LEFT, y - 9), end=(LEFT, y + 1), role="dimension"),
        Segment(start=(LEFT + step, y - 9), end=(LEFT + step, y + 1), role="dimension"),
        Text(at=(LEFT + step + 8, y), text=f"a step of {STEP_PCT:g} %", role="axis", anchor="start"),
        Circle(centre=(LEFT + step + 150, y - 4), radius=BOLD, role="gear-planned hollow"),
        Text(at=(LEFT + step + 162, y), text="within 3 % of a neighbour", role="axis", anchor="start"),
        Text(
            at=(WIDTH - RIGHT, y),
            text="development, metres per turn of the crank; upwards, the chain's lean",
            role="axis",
            anchor="end",
        ),
    ]
