"""Frame geometry: trail, another fork, bar position, effective seat angle, dropper fit."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import HEAD_ANGLE, LENGTH, OFFSET
from unkett.core.errors import bad
from unkett.core.vocabulary.types import Number

RADIUS = Number(unit="mm", low=50.0, high=600.0)


@frozen(kw_only=True)
class Trail(Result):
    trail_mm: float = figure("mm", "Trail")


def trail_of(*, wheel_radius_mm: float, head_angle_deg: float, offset_mm: float) -> float:
    """Trail in mm on level ground: (R cos HA − offset) / sin HA."""
    angle = math.radians(head_angle_deg)
    return (wheel_radius_mm * math.cos(angle) - offset_mm) / math.sin(angle)


@calculation(
    "trail",
    title="Trail",
    says="Trail from wheel radius, head angle and fork offset.",
    inputs=(
        Input(name="wheel_radius_mm", title="Wheel radius", type=RADIUS, says="Outer radius with tyre."),
        Input(
            name="head_angle_deg",
            title="Head angle",
            known=(("frame", "head_angle_deg"),),
            type=HEAD_ANGLE,
            says="Head angle.",
        ),
        Input(
            name="offset_mm",
            title="Offset",
            known=(("fork", "offset_mm"),),
            type=OFFSET,
            says="Axle square off the steerer axis.",
        ),
    ),
    formula="(R cos HA − offset) / sin HA",
    sources=("plane-geometry",),
)
def trail(*, wheel_radius_mm: float, head_angle_deg: float, offset_mm: float) -> Trail:
    """Return how far the contact patch trails the steering axis on the ground."""
    value = trail_of(wheel_radius_mm=wheel_radius_mm, head_angle_deg=head_angle_deg, offset_mm=offset_mm)
    formula = f"({wheel_radius_mm:g} × cos {head_angle_deg:g}° − {offset_mm:g}) / sin {head_angle_deg:g}°"
    return Trail(trail_mm=value, trace=(TraceLine("trail_mm", value, "mm", formula),))


@frozen(kw_only=True)
class ForkSwap(Result):
    rotation_deg: float = figure("°", "Frame turns back")
    head_angle_deg: float = figure("°", "Head angle")
    seat_angle_deg: float | None = figure("°", "Seat angle")
    trail_mm: float | None = figure("mm", "Trail")
    bb_rise_mm: float | None = figure("mm", "Bracket rises")
    reach_change_mm: float | None = figure("mm", "Reach changes")
    wheelbase_mm: float = figure("mm", "Wheelbase")


@calculation(
    "fork_swap",
    title="Fork swap",
    page="steering",
    says="What another fork does to the frame's geometry.",
    inputs=(
        Input(
            name="head_angle_deg",
            title="Head angle",
            known=(("frame", "head_angle_deg"),),
            type=HEAD_ANGLE,
            says="Head angle now.",
        ),
        Input(
            name="seat_angle_deg",
            title="Seat angle",
            known=(("frame", "seat_angle_deg"),),
            type=Number(unit="°", low=40.0, high=100.0),
            says="Seat angle now.",
            optional=True,
        ),
        Input(
            name="wheelbase_mm",
            title="Wheelbase",
            known=(("frame", "wheelbase_mm"),),
            type=Number(unit="mm", low=300.0, high=3500.0),
            says="Axle to axle now.",
        ),
        Input(
            name="a2c_from_mm",
            title="Axle to crown now",
            known=(("fork", "axle_to_crown_mm"),),
            type=LENGTH,
            says="Axle to crown now.",
        ),
        Input(
            name="a2c_to_mm",
            title="Axle to crown then",
            then=(("fork", "axle_to_crown_mm"),),
            type=LENGTH,
            says="Axle to crown then.",
        ),
        Input(
            name="lower_stack_change_mm",
            title="Lower cup higher by",
            type=Number(unit="mm", low=-200.0, high=200.0),
            says="Change of the lower cup's height.",
            optional=True,
            default=0.0,
        ),
        Input(
            name="offset_from_mm",
            title="Offset now",
            known=(("fork", "offset_mm"),),
            type=OFFSET,
            says="Fork offset now.",
            optional=True,
        ),
        Input(
            name="offset_to_mm",
            title="Offset then",
            then=(("fork", "offset_mm"),),
            type=OFFSET,
            says="Fork offset then.",
            optional=True,
        ),
        Input(
            name="wheel_radius_mm", title="Wheel radius", type=RADIUS, says="For the trail.", optional=True
        ),
        Input(
            name="rear_centre_mm",
            title="Stay, measured level",
            type=LENGTH,
            says="The stay's horizontal part, for the rise.",
            optional=True,
        ),
        Input(
            name="bb_drop_mm",
            title="Bracket drop",
            known=(("frame", "bb_drop_mm"),),
            type=OFFSET,
            says="Bracket drop, for the rise.",
            optional=True,
        ),
        Input(
            name="stack_mm",
            title="Stack",
            known=(("frame", "stack_mm"),),
            type=LENGTH,
            says="Stack, for the reach.",
            optional=True,
        ),
        Input(
            name="level_from_mm",
            title="Front axle higher now by",
            type=OFFSET,
            says="How much higher the front axle stands than the rear one now.",
            optional=True,
            default=0.0,
        ),
        Input(
            name="level_to_mm",
            title="Front axle higher then by",
            type=OFFSET,
            says="The same then, by other wheels.",
            optional=True,
            default=0.0,
        ),
    ),
    formula="points in the plane, the new fork laid on, turned until both wheels stand on the ground",
    sources=("plane-geometry",),
)
def fork_swap(
    *,
    head_angle_deg: float,
    seat_angle_deg: float | None = None,
    wheelbase_mm: float,
    a2c_from_mm: float,
    a2c_to_mm: float,
    lower_stack_change_mm: float = 0.0,
    offset_from_mm: float | None = None,
    offset_to_mm: float | None = None,
    wheel_radius_mm: float | None = None,
    rear_centre_mm: float | None = None,
    bb_drop_mm: float | None = None,
    stack_mm: float | None = None,
    level_from_mm: float = 0.0,
    level_to_mm: float = 0.0,
) -> ForkSwap:
    """Angles get smaller with a longer fork. An offset given once stands for both forks.

    Trail wants the wheel's radius and an offset, the rise the rear centre and the drop.
    """
    angle = math.radians(head_angle_deg)
    longer = a2c_to_mm - a2c_from_mm + lower_stack_change_mm
    old_offset = offset_from_mm if offset_from_mm is not None else offset_to_mm
    new_offset = offset_to_mm if offset_to_mm is not None else offset_from_mm
    forward = (new_offset or 0.0) - (old_offset or 0.0)
    across = wheelbase_mm + longer * math.cos(angle) + forward * math.sin(angle)
    down = longer * math.sin(angle) - forward * math.cos(angle) - level_from_mm
    span = math.hypot(across, down)
    if abs(level_to_mm) >= span:
        raise bad(
            "level_to_mm", f"{level_to_mm:g} mm given; less than the {span:.0f} mm between the axles allowed"
        )
    turn = math.asin(level_to_mm / span) + math.atan2(down, across)
    turn_deg = math.degrees(turn)
    new_head = head_angle_deg - turn_deg
    if not 0 < new_head < 180:
        raise bad("a2c_to_mm", f"turns the head angle to {new_head:.0f}°; no bike stands on that")
    new_trail = None
    if wheel_radius_mm is not None and new_offset is not None:
        new_trail = trail_of(wheel_radius_mm=wheel_radius_mm, head_angle_deg=new_head, offset_mm=new_offset)
    rise = None
    if rear_centre_mm is not None and bb_drop_mm is not None:
        rise = rear_centre_mm * math.sin(turn) + bb_drop_mm * (1 - math.cos(turn))
    return ForkSwap(
        rotation_deg=turn_deg,
        head_angle_deg=new_head,
        seat_angle_deg=None if seat_angle_deg is None else seat_angle_deg - turn_deg,
        trail_mm=new_trail,
        bb_rise_mm=rise,
        reach_change_mm=None if stack_mm is None else -stack_mm * math.sin(turn),
        wheelbase_mm=across * math.cos(turn) + down * math.sin(turn),
        trace=(
            TraceLine(
                "longer_mm", longer, "mm", f"{a2c_to_mm:g} − {a2c_from_mm:g} + {lower_stack_change_mm:g}"
            ),
            TraceLine("axle_down_mm", down, "mm", "longer × sin HA − offset change × cos HA"),
            TraceLine(
                "axle_forward_mm", across, "mm", "wheelbase + longer × cos HA + offset change × sin HA"
            ),
            TraceLine("rotation_deg", turn_deg, "°", "atan(down / forward)"),
            TraceLine("head_angle_deg", new_head, "°", f"{head_angle_deg:g} − rotation"),
        ),
    )


@frozen(kw_only=True)
class SeatAngle(Result):
    effective_deg: float = figure("°", "Effective seat angle")


@calculation(
    "seat_angle",
    title="Seat angle",
    says="Effective seat angle with the saddle moved level, forward positive.",
    inputs=(
        Input(
            name="saddle_forward_mm",
            title="Saddle moved forward",
            type=OFFSET,
            says="How far forward of the tube's line.",
        ),
        Input(
            name="saddle_height_mm",
            title="Saddle height",
            known=(("bike", "saddle_height_mm"),),
            type=Number(unit="mm", low=100.0, high=1500.0),
            says="Along the tube.",
        ),
        Input(
            name="seat_angle_deg",
            title="Seat angle",
            known=(("frame", "seat_angle_deg"),),
            type=Number(unit="°", low=40.0, high=100.0),
            says="Seat tube angle.",
        ),
    ),
    formula="atan2(H sin SA, H cos SA − forward)",
    sources=("plane-geometry",),
)
def seat_angle(*, saddle_forward_mm: float, saddle_height_mm: float, seat_angle_deg: float) -> SeatAngle:
    """Return the saddle at its height along the tube, then moved level."""
    angle = math.radians(seat_angle_deg)
    up = saddle_height_mm * math.sin(angle)
    back = saddle_height_mm * math.cos(angle) - saddle_forward_mm
    effective = math.degrees(math.atan2(up, back))
    return SeatAngle(
        effective_deg=effective,
        trace=(
            TraceLine("up_mm", up, "mm", f"{saddle_height_mm:g} × sin {seat_angle_deg:g}°"),
            TraceLine(
                "back_mm",
                back,
                "mm",
                f"{saddle_height_mm:g} × cos {seat_angle_deg:g}° − {saddle_forward_mm:g}",
            ),
            TraceLine("effective_deg", effective, "°", "atan2(up, back)"),
        ),
    )
