"""Spokes: length, lacing with its picture, tension left to right."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Cautioned, Input, Result, TraceLine, Values, calculation, figure
from unkett.core.errors import bad
from unkett.core.scene import Circle, Point, Scene, Segment, Shape, Text
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary.types import Number, Whole


def flange_to_rim(*, offset_mm: float, drilling_mm: float | None, side: str) -> float:
    """Flange to the rim's holes sideways in mm: holes drilled off to the left come nearer the left flange."""
    drilled = drilling_mm or 0.0
    return abs(offset_mm - drilled if side == "left" else offset_mm + drilled)


LACING_SIZE = 430.0
LACING_MIDDLE = LACING_SIZE / 2


def lacing_scene(
    *, title: str, erd_mm: float, pcd_mm: float, spokes: int, crosses: int, length_mm: float
) -> Scene:
    """Hub holes of one flange and the rim holes of that side; one pair is drawn bold with its length.

    Neighbouring hub holes lean opposite ways; a spoke's hub hole and rim hole stand crosses × 720° ÷ spokes
    apart, as the length's formula has it.
    """
    scale = (LACING_SIZE - 60) / erd_mm
    holes = spokes // 2
    step, lean = 2 * math.pi / holes, 4 * math.pi * crosses / spokes

    def at(radius_mm: float, angle: float) -> Point:
        return (
            LACING_MIDDLE + radius_mm * scale * math.sin(angle),
            LACING_MIDDLE - radius_mm * scale * math.cos(angle),
        )

    shapes: list[Shape] = [
        Circle(
            centre=(LACING_MIDDLE, LACING_MIDDLE),
            radius=erd_mm / 2 * scale,
            role="side-rim",
            title=f"effective diameter {erd_mm:g} mm",
        ),
        Circle(
            centre=(LACING_MIDDLE, LACING_MIDDLE),
            radius=(pcd_mm / 2 + 4) * scale,
            role="part",
            title="flange",
        ),
        Circle(
            centre=(LACING_MIDDLE, LACING_MIDDLE),
            radius=pcd_mm / 2 * scale,
            role="side-hub",
            title=f"hole circle {pcd_mm:g} mm",
        ),
    ]
    for hole in range(holes):
        angle = hole * step
        way = 1 if hole % 2 == 0 else -1
        role = "spoke-shown" if hole < 2 else "spoke" if way > 0 else "spoke-back"
        shapes.append(Segment(start=at(pcd_mm / 2, angle), end=at(erd_mm / 2, angle + way * lean), role=role))
        shapes.append(Circle(centre=at(pcd_mm / 2, angle), radius=2, role="axle"))
        shapes.append(Circle(centre=at(erd_mm / 2, angle + way * lean), radius=2, role="axle"))
    words = "radial" if crosses == 0 else f"{crosses} cross"
    shapes.append(
        Text(at=(LACING_MIDDLE, LACING_SIZE - 6), text=f"{words}, {length_mm:.1f} mm", role="cut-text")
    )
    says = f"{spokes} spokes in the wheel, {words}, {length_mm:.1f} mm on this side."
    return Scene(width=LACING_SIZE, height=LACING_SIZE, title=title, says=says, shapes=tuple(shapes))


LACING_LIMIT_DEG = limit_of("lacing_limit_deg")
LACING_CAUTION_DEG = limit_of("lacing_caution_deg")
FLANGE = Number(unit="mm", low=0.0, high=200.0)


def leaving_angle(crosses: int, spokes: int) -> float:
    """Angle in degrees at which a spoke leaves its hole; `spokes` is the hub's whole count. Source: wheel-building."""
    return crosses * 720 / spokes


@frozen(kw_only=True)
class SpokeLength(Cautioned):
    length_mm: float = figure("mm", "Spoke length")
    leaves_deg: float = figure("°", "Leaves the flange at")


def _lacing(inputs: Values, answer: Values) -> Scene:
    return lacing_scene(
        title="Lacing",
        erd_mm=inputs["erd_mm"],
        pcd_mm=inputs["pcd_mm"],
        spokes=inputs["spokes"],
        crosses=inputs["crosses"],
        length_mm=answer["length_mm"],
    )


@calculation(
    "spoke_length",
    title="Spoke length",
    page="wheels",
    says="Length of a spoke of one side.",
    inputs=(
        Input(
            name="erd_mm",
            title="Effective diameter",
            known=(("rear_rim", "erd_mm"),),
            type=Number(unit="mm", low=100.0, high=800.0),
            says="Effective rim diameter.",
        ),
        Input(
            name="pcd_mm",
            title="Flange hole circle",
            known=(("rear_hub", "flange_pcd_right_mm"),),
            type=FLANGE,
            says="Hole circle of the flange.",
        ),
        Input(
            name="offset_mm",
            title="Flange to hub centre",
            known=(("rear_hub", "flange_offset_right_mm"),),
            type=FLANGE,
            says="Flange to hub centre; add or take off the rim's drilling offset.",
        ),
        Input(
            name="spokes",
            title="Spokes in the wheel",
            known=(("rear_hub", "holes"),),
            type=Whole(low=8, high=96, even=True),
            says="Spokes in the wheel.",
        ),
        Input(
            name="crosses",
            title="Crosses",
            known=(("rear_spokes", "crosses"),),
            type=Whole(low=0, high=10),
            says="Spokes that a spoke crosses.",
        ),
        Input(
            name="hole_mm",
            title="Spoke hole",
            known=(("rear_hub", "spoke_hole_mm"),),
            type=Number(unit="mm", low=0.0, high=10.0),
            says="Spoke hole of the flange.",
            optional=True,
            default=2.6,
        ),
    ),
    picture=_lacing,
    formula="√(R² + r² + w² − 2Rr·cos(720°·x/n)) − h/2",
    sources=("wheel-building",),
)
def spoke_length(
    *, erd_mm: float, pcd_mm: float, offset_mm: float, spokes: int, crosses: int, hole_mm: float = 2.6
) -> SpokeLength:
    """Inside of the bend to the thread's end, in mm. 100° or more cannot be laced; from 85° a caution."""
    leaves = leaving_angle(crosses, spokes)
    if leaves >= LACING_LIMIT_DEG - SLACK:
        raise bad(
            "crosses", f"{crosses} crosses with {spokes} spokes leave at {leaves:.1f}°; it cannot be laced"
        )
    rim, flange = erd_mm / 2, pcd_mm / 2
    square = rim**2 + flange**2 + offset_mm**2 - 2 * rim * flange * math.cos(math.radians(leaves))
    length = math.sqrt(square) - hole_mm / 2
    caution = "spokes lean on the next head" if leaves >= LACING_CAUTION_DEG - SLACK else None
    return SpokeLength(
        length_mm=length,
        leaves_deg=leaves,
        caution=caution,
        trace=(
            TraceLine("leaves_deg", leaves, "°", f"{crosses} × 720 / {spokes}"),
            TraceLine("hole_to_nipple_mm", math.sqrt(square), "mm", "√(R² + r² + w² − 2Rr·cos)"),
            TraceLine("length_mm", length, "mm", f"less half the hole, {hole_mm:g} / 2"),
        ),
    )


@frozen(kw_only=True)
class TensionRatio(Result):
    left_to_right_pct: float = figure("%", "Left tension as part of the right")


@calculation(
    "tension_ratio",
    title="Tension ratio",
    says="Tension of the left spokes as a percentage of the right, with equal counts.",
    inputs=(
        Input(
            name="offset_left_mm",
            title="Left flange to centre",
            known=(("rear_hub", "flange_offset_left_mm"),),
            type=Number(unit="mm", low=0.1, high=200.0),
            says="Left flange to centre.",
        ),
        Input(
            name="offset_right_mm",
            title="Right flange to centre",
            known=(("rear_hub", "flange_offset_right_mm"),),
            type=Number(unit="mm", low=0.1, high=200.0),
            says="Right flange to centre.",
        ),
    ),
    formula="sideways balance: tension ∝ 1 / offset",
    sources=("mechanics",),
)
def tension_ratio(*, offset_left_mm: float, offset_right_mm: float) -> TensionRatio:
    """right offset / left offset × 100."""
    ratio = offset_right_mm / offset_left_mm * 100
    step = TraceLine("left_to_right_pct", ratio, "%", f"{offset_right_mm:g} / {offset_left_mm:g} × 100")
    return TensionRatio(left_to_right_pct=ratio, trace=(step,))
