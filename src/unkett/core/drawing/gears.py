"""The gear picture: every gear on one scale of development, as it stands over as it is planned."""

from __future__ import annotations

import math

from unkett.core.calc.gears import Gear, Gears
from unkett.core.drawing.scene import Box, Line, Scene, Shape, Text

WIDTH = 1240.0
LEFT, RIGHT = 104.0, 24.0
ROW = 46.0
GAP = 18.0
TOP = 22.0
FOOT = 46.0
MARKS_M = (0.8, 1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 10, 12)
NARROW = 13.0  # neighbouring labels closer than this stand in two heights


class _Scale:
    """Development in metres to a place on the picture; equal steps in per cent are equally wide."""

    def __init__(self, low_m: float, high_m: float) -> None:
        self.low = math.log(low_m * 0.94)
        self.span = math.log(high_m * 1.06) - self.low

    def x(self, development_m: float) -> float:
        return LEFT + (math.log(development_m) - self.low) / self.span * (WIDTH - LEFT - RIGHT)


def _row(gears: list[Gear], scale: _Scale, y: float, label: str, state: str) -> list[Shape]:
    """One ring's gears as ticks on a line, teeth above."""
    shapes: list[Shape] = [
        Text(at=(LEFT - 14, y + 5), text=label, role=f"row-{state}", anchor="end"),
        Line(
            start=(scale.x(gears[0].development_m), y),
            end=(scale.x(gears[-1].development_m), y),
            role=f"span-{state}",
        ),
    ]
    last, high = -math.inf, False
    for gear in gears:
        x = scale.x(gear.development_m)
        high = not high if x - last < NARROW else False
        last = x
        title = f"{gear.ring}/{gear.sprocket}: {gear.development_m:.2f} m"
        width = 7.0 if state == "planned" else 3.0
        shapes.append(
            Box(corner=(x - width / 2, y - 8), width=width, height=16, role=f"gear-{state}", title=title)
        )
        shapes.append(Text(at=(x, y - (22 if high else 12)), text=str(gear.sprocket), role=f"teeth-{state}"))
    return shapes


def gear_scene(stands: Gears | None, planned: Gears | None) -> Scene:
    """Both gear tables on one scale, a row per ring, largest ring first; thin as it stands, bold as planned."""
    tables = [
        (state, table) for state, table in (("stands", stands), ("planned", planned)) if table is not None
    ]
    all_gears = [gear for _, table in tables for gear in table.gears]
    low = min(gear.development_m for gear in all_gears)
    high = max(gear.development_m for gear in all_gears)
    scale = _Scale(low, high)
    shapes: list[Shape] = []
    y = TOP + ROW / 2
    for state, table in tables:
        words = "as it stands" if state == "stands" else "as planned"
        shapes.append(Text(at=(8, y - 12), text=words, role=f"state-{state}", anchor="start"))
        y += 16
        for ring in sorted({gear.ring for gear in table.gears}, reverse=True):
            of_ring = [gear for gear in table.gears if gear.ring == ring]
            shapes += _row(of_ring, scale, y, f"ring {ring}", state)
            y += ROW
        y += GAP
    base = y - GAP
    for mark in MARKS_M:
        if low * 0.94 <= mark <= high * 1.06:
            x = scale.x(mark)
            shapes.insert(0, Line(start=(x, TOP), end=(x, base), role="grid"))
            shapes.append(Text(at=(x, base + 18), text=f"{mark:g}", role="mark"))
    shapes.append(
        Text(
            at=(WIDTH - RIGHT, base + 36),
            text="development, metres per turn of the crank",
            role="axis",
            anchor="end",
        )
    )
    said = "; ".join(
        f"{'as it stands' if state == 'stands' else 'as planned'} {table.gears[0].development_m:.2f} to "
        f"{table.gears[-1].development_m:.2f} m in {len(table.gears)} gears"
        for state, table in tables
    )
    return Scene(
        width=WIDTH, height=base + FOOT, title="Gears", says=said.capitalize() + ".", shapes=tuple(shapes)
    )
