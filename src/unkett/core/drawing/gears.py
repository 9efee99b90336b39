"""The gear picture: up to four set-ups on one scale of development, with overlaps and chain angles marked."""

from __future__ import annotations

import math

from unkett.core.calc.gears import Gear
from unkett.core.figures import SetUp
from unkett.core.scene import Box, Line, Path, Scene, Shape, Text
from unkett.core.settings import DEFAULTS, Settings

WIDTH = 1240.0
LEFT, RIGHT = 104.0, 24.0
ROW = 46.0
GAP = 18.0
TOP = 22.0
FOOT = 46.0
MARKS_M = (0.8, 1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 10, 12)
NARROW = 13.0  # neighbouring labels closer than this stand in two heights
BOLD = 7.0
THIN = 3.0


class _Scale:
    """Development in metres to a place on the picture; equal steps in per cent are equally wide."""

    def __init__(self, low_m: float, high_m: float) -> None:
        self.low = math.log(low_m * 0.94)
        self.span = math.log(high_m * 1.06) - self.low

    def x(self, development_m: float) -> float:
        return LEFT + (math.log(development_m) - self.low) / self.span * (WIDTH - LEFT - RIGHT)


def _angle_mark(x: float, y: float, angle: float | None, settings: Settings) -> list[Shape]:
    """Under a gear: a chevron where the chain leans noisily, a cross where the gear is to be avoided."""
    if angle is None or abs(angle) <= settings.number("chain_angle_noisy_deg"):
        return []
    if abs(angle) <= settings.number("chain_angle_avoid_deg"):
        return [Path(points=((x - 4, y + 17), (x, y + 12), (x + 4, y + 17)), role="leans")]
    return [
        Line(start=(x - 4, y + 12), end=(x + 4, y + 20), role="leans-far"),
        Line(start=(x - 4, y + 20), end=(x + 4, y + 12), role="leans-far"),
    ]


def _row(
    setup: SetUp, gears: list[tuple[Gear, bool]], scale: _Scale, y: float, settings: Settings
) -> list[Shape]:
    """One ring's gears as ticks on a line, teeth above, overlapping ones hollow, leaning ones marked below."""
    state = setup.state
    shapes: list[Shape] = [
        Text(at=(LEFT - 14, y + 5), text=f"ring {gears[0][0].ring}", role=f"row-{state}", anchor="end"),
        Line(
            start=(scale.x(gears[0][0].development_m), y),
            end=(scale.x(gears[-1][0].development_m), y),
            role=f"span-{state}",
        ),
    ]
    last, high = -math.inf, False
    for gear, overlaps in gears:
        x = scale.x(gear.development_m)
        high = not high if x - last < NARROW else False
        last = x
        angle = setup.angles.get((gear.ring, gear.sprocket))
        leans = "" if angle is None else f", chain {abs(angle):.1f}°"
        title = f"{gear.ring}/{gear.sprocket}: {gear.development_m:.2f} m{leans}" + (
            ", nearly the same as its neighbour" if overlaps else ""
        )
        width = THIN if state == "stands" else BOLD
        role = f"gear-{state} hollow" if overlaps else f"gear-{state}"
        shapes.append(Box(corner=(x - width / 2, y - 8), width=width, height=16, role=role, title=title))
        shapes.append(Text(at=(x, y - (22 if high else 12)), text=str(gear.sprocket), role=f"teeth-{state}"))
        shapes += _angle_mark(x, y, angle, settings)
    return shapes


def gear_scene(setups: list[SetUp], settings: Settings = DEFAULTS) -> Scene:
    """Every set-up on one scale, a row per ring, largest ring first. Raises ValueError for none."""
    gears = [gear for setup in setups for gear in setup.table.gears]
    if not gears:
        raise ValueError("no gears to draw")
    low, high = min(gear.development_m for gear in gears), max(gear.development_m for gear in gears)
    scale = _Scale(low, high)
    shapes: list[Shape] = []
    y = TOP + ROW / 2
    for setup in setups:
        shapes.append(Text(at=(8, y - 12), text=setup.label, role=f"state-{setup.state}", anchor="start"))
        y += 16
        marked = list(zip(setup.table.gears, setup.overlaps, strict=True))
        for ring in sorted({gear.ring for gear in setup.table.gears}, reverse=True):
            shapes += _row(setup, [pair for pair in marked if pair[0].ring == ring], scale, y, settings)
            y += ROW
        y += GAP
    base = y - GAP
    for mark in MARKS_M:
        if low * 0.94 <= mark <= high * 1.06:
            x = scale.x(mark)
            shapes.insert(0, Line(start=(x, TOP), end=(x, base), role="grid"))
            shapes.append(Text(at=(x, base + 18), text=f"{mark:g}", role="mark"))
    shapes += _legend(base + 36, settings)
    said = "; ".join(
        f"{setup.label} {setup.table.gears[0].development_m:.2f} to {setup.table.gears[-1].development_m:.2f} m "
        f"in {len(setup.table.gears)} gears"
        for setup in setups
    )
    return Scene(
        width=WIDTH, height=base + FOOT, title="Gears", says=said.capitalize() + ".", shapes=tuple(shapes)
    )


def _legend(y: float, settings: Settings) -> list[Shape]:
    noisy = settings.number("chain_angle_noisy_deg")
    avoid = settings.number("chain_angle_avoid_deg")
    return [
        Box(corner=(LEFT, y - 11), width=BOLD, height=12, role="gear-planned hollow"),
        Text(at=(LEFT + 14, y), text="within 3 % of a neighbour", role="axis", anchor="start"),
        Path(points=((LEFT + 206, y - 2), (LEFT + 210, y - 7), (LEFT + 214, y - 2)), role="leans"),
        Text(at=(LEFT + 222, y), text=f"chain leans over {noisy:g}°", role="axis", anchor="start"),
        Line(start=(LEFT + 380, y - 9), end=(LEFT + 388, y - 1), role="leans-far"),
        Line(start=(LEFT + 380, y - 1), end=(LEFT + 388, y - 9), role="leans-far"),
        Text(at=(LEFT + 396, y), text=f"over {avoid:g}°: keep out of it", role="axis", anchor="start"),
        Text(
            at=(WIDTH - RIGHT, y), text="development, metres per turn of the crank", role="axis", anchor="end"
        ),
    ]
