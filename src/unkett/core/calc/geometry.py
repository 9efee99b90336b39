"""Frame geometry: trail, another fork, bar position, effective seat angle, dropper fit."""

from __future__ import annotations

import math
from typing import Any

from attrs import frozen

from unkett.core.calc.base import SLACK, Input, Result, Step, calculation
from unkett.core.calc.fields import ANGLE, HEAD_ANGLE, LENGTH, OFFSET
from unkett.core.errors import bad
from unkett.core.vocabulary.types import ListOf, Number, Record

RADIUS = Number(unit="mm", low=50.0, high=600.0)


@frozen(kw_only=True)
class Trail(Result):
    trail_mm: float


def trail_of(*, wheel_radius_mm: float, head_angle_deg: float, offset_mm: float) -> float:
    """Trail in mm on level ground: (R cos HA − offset) / sin HA."""
    angle = math.radians(head_angle_deg)
    return (wheel_radius_mm * math.cos(angle) - offset_mm) / math.sin(angle)


@calculation(
    "trail",
    says="Trail from wheel radius, head angle and fork offset.",
    inputs=(
        Input(name="wheel_radius_mm", type=RADIUS, says="Outer radius with tyre."),
        Input(name="head_angle_deg", type=HEAD_ANGLE, says="Head angle."),
        Input(name="offset_mm", type=OFFSET, says="Axle square off the steerer axis."),
    ),
    source="(R cos HA − offset) / sin HA",
)
def trail(*, wheel_radius_mm: float, head_angle_deg: float, offset_mm: float) -> Trail:
    """How far the contact patch trails the steering axis on the ground."""
    value = trail_of(wheel_radius_mm=wheel_radius_mm, head_angle_deg=head_angle_deg, offset_mm=offset_mm)
    formula = f"({wheel_radius_mm:g} × cos {head_angle_deg:g}° − {offset_mm:g}) / sin {head_angle_deg:g}°"
    return Trail(trail_mm=value, trace=(Step("trail_mm", value, "mm", formula),))


@frozen(kw_only=True)
class ForkSwap(Result):
    rotation_deg: float
    head_angle_deg: float
    seat_angle_deg: float | None
    trail_mm: float | None
    bb_rise_mm: float | None
    reach_change_mm: float | None
    wheelbase_mm: float


@calculation(
    "fork_swap",
    says="What another fork does to the frame's geometry.",
    inputs=(
        Input(name="head_angle_deg", type=HEAD_ANGLE, says="Head angle now."),
        Input(
            name="seat_angle_deg",
            type=Number(unit="°", low=40.0, high=100.0),
            says="Seat angle now.",
            optional=True,
        ),
        Input(name="wheelbase_mm", type=Number(unit="mm", low=300.0, high=3500.0), says="Axle to axle now."),
        Input(name="a2c_from_mm", type=LENGTH, says="Axle to crown now."),
        Input(name="a2c_to_mm", type=LENGTH, says="Axle to crown then."),
        Input(
            name="lower_stack_change_mm",
            type=Number(unit="mm", low=-200.0, high=200.0),
            says="Change of the lower cup's height.",
            optional=True,
            default=0.0,
        ),
        Input(name="offset_from_mm", type=OFFSET, says="Fork offset now.", optional=True),
        Input(name="offset_to_mm", type=OFFSET, says="Fork offset then.", optional=True),
        Input(name="wheel_radius_mm", type=RADIUS, says="For the trail.", optional=True),
        Input(
            name="rear_centre_mm",
            type=LENGTH,
            says="The stay's horizontal part, for the rise.",
            optional=True,
        ),
        Input(name="bb_drop_mm", type=OFFSET, says="Bracket drop, for the rise.", optional=True),
        Input(name="stack_mm", type=LENGTH, says="Stack, for the reach.", optional=True),
        Input(
            name="level_from_mm",
            type=OFFSET,
            says="How much higher the front axle stands than the rear one now.",
            optional=True,
            default=0.0,
        ),
        Input(
            name="level_to_mm",
            type=OFFSET,
            says="The same then, by other wheels.",
            optional=True,
            default=0.0,
        ),
    ),
    source="points in the plane, the new fork laid on, turned until both wheels stand on the ground",
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
            Step("longer_mm", longer, "mm", f"{a2c_to_mm:g} − {a2c_from_mm:g} + {lower_stack_change_mm:g}"),
            Step("axle_down_mm", down, "mm", "longer × sin HA − offset change × cos HA"),
            Step("axle_forward_mm", across, "mm", "wheelbase + longer × cos HA + offset change × sin HA"),
            Step("rotation_deg", turn_deg, "°", "atan(down / forward)"),
            Step("head_angle_deg", new_head, "°", f"{head_angle_deg:g} − rotation"),
        ),
    )


@frozen(kw_only=True)
class BarPlace:
    """Where the bar's clamp centre lies from the steerer axis at the top of the headset."""

    forward_mm: float
    up_mm: float


@frozen(kw_only=True)
class BarPosition(Result):
    before: BarPlace
    after: BarPlace
    change: BarPlace

    def to_json(self) -> dict[str, Any]:
        out = super().to_json()
        return {
            "format": out["format"],
            "from": out["before"],
            "to": out["after"],
            "change": out["change"],
            "trace": out["trace"],
        }


def bar_place(
    *, head_angle_deg: float, length_mm: float, angle_deg: float, spacers_mm: float, clamp_height_mm: float
) -> BarPlace:
    """Forward and up of the bar for one stem; a positive stem angle rises."""
    head, stem = math.radians(head_angle_deg), math.radians(head_angle_deg - angle_deg)
    along = spacers_mm + clamp_height_mm / 2
    return BarPlace(
        forward_mm=length_mm * math.sin(stem) - along * math.cos(head),
        up_mm=length_mm * math.cos(stem) + along * math.sin(head),
    )


def _stem_inputs(ending: str, optional: bool) -> tuple[Input, ...]:
    says = " then; as now where it is missing." if optional else " now."
    return (
        Input(name=f"head_angle_deg{ending}", type=HEAD_ANGLE, says=f"Head angle{says}", optional=optional),
        Input(name=f"length_mm{ending}", type=LENGTH, says=f"Stem length{says}", optional=optional),
        Input(name=f"angle_deg{ending}", type=ANGLE, says=f"Stem angle{says}", optional=optional),
        Input(
            name=f"spacers_mm{ending}", type=LENGTH, says=f"Spacers under the stem{says}", optional=optional
        ),
    )


@calculation(
    "bar_position",
    says="Bar position of two stem set-ups and the change between them.",
    inputs=(
        *_stem_inputs("", False),
        Input(name="clamp_height_mm", type=LENGTH, says="Stem clamp.", optional=True, default=40.0),
        *_stem_inputs("_to", True),
        Input(
            name="clamp_height_mm_to",
            type=LENGTH,
            says="Stem clamp then; as now where missing.",
            optional=True,
        ),
    ),
    source="forward = l·sin(HA − a), up = l·cos(HA − a); spacers along the steerer",
)
def bar_position(
    *,
    head_angle_deg: float,
    length_mm: float,
    angle_deg: float,
    spacers_mm: float,
    clamp_height_mm: float = 40.0,
    head_angle_deg_to: float | None = None,
    length_mm_to: float | None = None,
    angle_deg_to: float | None = None,
    spacers_mm_to: float | None = None,
    clamp_height_mm_to: float | None = None,
) -> BarPosition:
    """From the steerer axis at the top of the headset; the stem's clamp centre lies at spacers + clamp / 2."""
    before = bar_place(
        head_angle_deg=head_angle_deg,
        length_mm=length_mm,
        angle_deg=angle_deg,
        spacers_mm=spacers_mm,
        clamp_height_mm=clamp_height_mm,
    )
    after = bar_place(
        head_angle_deg=head_angle_deg if head_angle_deg_to is None else head_angle_deg_to,
        length_mm=length_mm if length_mm_to is None else length_mm_to,
        angle_deg=angle_deg if angle_deg_to is None else angle_deg_to,
        spacers_mm=spacers_mm if spacers_mm_to is None else spacers_mm_to,
        clamp_height_mm=clamp_height_mm if clamp_height_mm_to is None else clamp_height_mm_to,
    )
    change = BarPlace(forward_mm=after.forward_mm - before.forward_mm, up_mm=after.up_mm - before.up_mm)
    return BarPosition(
        before=before,
        after=after,
        change=change,
        trace=(
            Step("from_forward_mm", before.forward_mm, "mm", "l·sin(HA − a) − (spacers + clamp/2)·cos HA"),
            Step("from_up_mm", before.up_mm, "mm", "l·cos(HA − a) + (spacers + clamp/2)·sin HA"),
            Step("to_forward_mm", after.forward_mm, "mm", "the same for the second set"),
            Step("to_up_mm", after.up_mm, "mm", "the same for the second set"),
        ),
    )


@frozen(kw_only=True)
class SeatAngle(Result):
    effective_deg: float


@calculation(
    "seat_angle",
    says="Effective seat angle with the saddle moved level, forward positive.",
    inputs=(
        Input(name="saddle_forward_mm", type=OFFSET, says="How far forward of the tube's line."),
        Input(
            name="saddle_height_mm", type=Number(unit="mm", low=100.0, high=1500.0), says="Along the tube."
        ),
        Input(name="seat_angle_deg", type=Number(unit="°", low=40.0, high=100.0), says="Seat tube angle."),
    ),
    source="atan2(H sin SA, H cos SA − forward)",
)
def seat_angle(*, saddle_forward_mm: float, saddle_height_mm: float, seat_angle_deg: float) -> SeatAngle:
    """The saddle at its height along the tube, then moved level."""
    angle = math.radians(seat_angle_deg)
    up = saddle_height_mm * math.sin(angle)
    back = saddle_height_mm * math.cos(angle) - saddle_forward_mm
    effective = math.degrees(math.atan2(up, back))
    return SeatAngle(
        effective_deg=effective,
        trace=(
            Step("up_mm", up, "mm", f"{saddle_height_mm:g} × sin {seat_angle_deg:g}°"),
            Step(
                "back_mm",
                back,
                "mm",
                f"{saddle_height_mm:g} × cos {seat_angle_deg:g}° − {saddle_forward_mm:g}",
            ),
            Step("effective_deg", effective, "°", "atan2(up, back)"),
        ),
    )


def seat_room(*, saddle_height_mm: float, seat_tube_mm: float, rail_height_mm: float) -> Step:
    """Collar to rail in mm: what shows of the post at this saddle height."""
    room = saddle_height_mm - seat_tube_mm - rail_height_mm
    return Step("room_mm", room, "mm", f"{saddle_height_mm:g} − {seat_tube_mm:g} − {rail_height_mm:g}")


@frozen(kw_only=True)
class DropperFit(Result):
    room_mm: float
    best: dict[str, float] | None


@calculation(
    "dropper_fit",
    says="The largest dropper travel that fits under the saddle.",
    inputs=(
        Input(name="saddle_height_mm", type=LENGTH, says="Bracket centre to saddle top."),
        Input(name="seat_tube_mm", type=LENGTH, says="Bracket centre to the top of the seat tube."),
        Input(name="rail_height_mm", type=LENGTH, says="Saddle top over its rails."),
        Input(
            name="travels",
            type=ListOf(
                item=Record(
                    fields={
                        "travel_mm": LENGTH,
                        "stack_mm": LENGTH,
                        "body_mm": LENGTH,
                        "min_insertion_mm": LENGTH,
                    },
                    optional=frozenset({"min_insertion_mm"}),
                )
            ),
            says="Posts to choose from: travel, stack (collar to rail, extended), body (below the collar).",
        ),
        Input(name="depth_mm", type=LENGTH, says="Open depth of the seat tube."),
        Input(
            name="min_insertion_mm",
            type=LENGTH,
            says="Least insertion of a post that states none of its own.",
            optional=True,
            default=0.0,
        ),
    ),
    source="room = saddle height − seat tube − rail height; insertion = body − raised",
)
def dropper_fit(
    *,
    saddle_height_mm: float,
    seat_tube_mm: float,
    rail_height_mm: float,
    travels: tuple[dict[str, float], ...],
    depth_mm: float,
    min_insertion_mm: float = 0.0,
) -> DropperFit:
    """A post fits when its stack is within the room and its insertion between its least and the depth."""
    there = seat_room(
        saddle_height_mm=saddle_height_mm, seat_tube_mm=seat_tube_mm, rail_height_mm=rail_height_mm
    )
    room = there.value
    best: dict[str, float] | None = None
    for post in travels:
        raised = room - post["stack_mm"]
        insertion = post["body_mm"] - raised
        least = post.get("min_insertion_mm", min_insertion_mm)
        fits = raised >= -SLACK and insertion <= depth_mm + SLACK and insertion >= least - SLACK
        if fits and (best is None or post["travel_mm"] > best["travel_mm"]):
            best = {**post, "insertion_mm": insertion, "raised_mm": max(0.0, raised)}
    trace = [there]
    if best is not None:
        trace.append(Step("raised_mm", best["raised_mm"], "mm", "room − stack"))
        trace.append(Step("insertion_mm", best["insertion_mm"], "mm", "body − raised"))
    return DropperFit(room_mm=room, best=best, trace=tuple(trace))
