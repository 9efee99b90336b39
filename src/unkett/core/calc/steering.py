"""Steerer length: what stands between the crown race seat and the top cap. Room between toe and front tyre."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH, OFFSET
from unkett.core.errors import bad
from unkett.core.vocabulary.types import Number


@frozen(kw_only=True)
class SteererCut(Result):
    length_mm: float = figure("mm", "Steerer wanted")
    cut_off_mm: float | None = figure("mm", "Cut off")


@calculation(
    "steerer_cut",
    title="Steerer cut",
    says="Length of the steerer from its crown race seat, and what to cut off.",
    inputs=(
        Input(
            name="lower_stack_mm",
            title="Lower stack",
            known=(("headset", "stack_lower_mm"),),
            type=LENGTH,
            says="Lower cup and race.",
        ),
        Input(
            name="head_tube_mm",
            title="Head tube",
            known=(("frame", "head_tube_length_mm"),),
            type=LENGTH,
            says="Head tube.",
        ),
        Input(
            name="upper_stack_mm",
            title="Upper stack with its cover",
            known=(("headset", "stack_upper_mm"),),
            type=LENGTH,
            says="Upper cup with its cover.",
        ),
        Input(
            name="spacers_below_mm",
            title="Spacers below",
            known=(("spacers", "below_mm"),),
            type=LENGTH,
            says="Spacers under the stem.",
        ),
        Input(
            name="clamp_height_mm",
            title="Stem height at the steerer",
            known=(("stem", "clamp_height_mm"),),
            type=LENGTH,
            says="Stem clamp.",
        ),
        Input(
            name="spacers_above_mm",
            title="Spacers above",
            known=(("spacers", "above_mm"),),
            type=LENGTH,
            says="Spacers over the stem.",
        ),
        Input(
            name="clearance_mm",
            title="Tube under the top",
            type=Number(unit="mm", low=0.0, high=20.0),
            says="Tube below the top edge, so that the cap presses the stack.",
            optional=True,
            default=3.0,
        ),
        Input(
            name="steerer_mm",
            title="Steerer now",
            known=(("fork", "steerer_length_mm"),),
            type=LENGTH,
            says="Length it has now.",
            optional=True,
        ),
    ),
    formula="sum of the stack less the clearance",
    sources=("steering-practice",),
)
def steerer_cut(
    *,
    lower_stack_mm: float,
    head_tube_mm: float,
    upper_stack_mm: float,
    spacers_below_mm: float,
    clamp_height_mm: float,
    spacers_above_mm: float,
    clearance_mm: float = 3.0,
    steerer_mm: float | None = None,
) -> SteererCut:
    """Cutting cannot be undone. A negative cut-off means that the steerer is too short."""
    stack = (
        lower_stack_mm + head_tube_mm + upper_stack_mm + spacers_below_mm + clamp_height_mm + spacers_above_mm
    )
    length = stack - clearance_mm
    cut_off = None if steerer_mm is None else steerer_mm - length
    trace = [
        TraceLine(
            "stack_mm", stack, "mm", "lower + head tube + upper + spacers below + clamp + spacers above"
        ),
        TraceLine("length_mm", length, "mm", f"stack − {clearance_mm:g}"),
    ]
    if steerer_mm is not None:
        trace.append(TraceLine("cut_off_mm", cut_off, "mm", f"{steerer_mm:g} − length"))
    return SteererCut(length_mm=length, cut_off_mm=cut_off, trace=tuple(trace))


SHOE_PAST_PEDAL_MM = 90.0  # a shoe of 290 mm, the ball of the foot over the axle; a cleat far back is more


@frozen(kw_only=True)
class ToeRoom(Result):
    front_centre_mm: float = figure("mm", "Bracket to front axle")
    room_mm: float = figure("mm", "Toe to tyre")


@calculation(
    "toe_room",
    title="Toe room",
    page="steering",
    says="Room between the rider's toe and the front tyre when the bar is turned; below 0 they meet.",
    inputs=(
        Input(
            name="wheelbase_mm",
            title="Wheelbase",
            known=(("frame", "wheelbase_mm"),),
            type=Number(unit="mm", low=300.0, high=3500.0),
            says="Axle to axle.",
        ),
        Input(
            name="chainstay_mm",
            title="Chainstay",
            known=(("frame", "chainstay_mm"),),
            type=Number(unit="mm", low=100.0, high=3500.0),
            says="Bracket to axle.",
        ),
        Input(
            name="bb_drop_mm",
            title="Bracket drop",
            known=(("frame", "bb_drop_mm"),),
            type=OFFSET,
            says="Bracket under the line of the axles.",
        ),
        Input(
            name="wheel_radius_mm",
            title="Wheel radius",
            type=Number(unit="mm", low=50.0, high=600.0),
            says="Outer radius of the front wheel; a mudguard adds to it.",
        ),
        Input(
            name="crank_mm",
            title="Crank length",
            known=(("crank", "arm_mm"),),
            type=Number(unit="mm", low=80.0, high=250.0),
            says="Crank arm.",
        ),
        Input(
            name="shoe_mm",
            title="Shoe past the pedal",
            type=Number(unit="mm", low=0.0, high=250.0),
            says="Shoe in front of the pedal's axle.",
            optional=True,
            default=SHOE_PAST_PEDAL_MM,
        ),
    ),
    formula="front centre − wheel radius − crank − shoe past the pedal, toe on the line to the axle",
    sources=("plane-geometry",),
)
def toe_room(
    *,
    wheelbase_mm: float,
    chainstay_mm: float,
    bb_drop_mm: float,
    wheel_radius_mm: float,
    crank_mm: float,
    shoe_mm: float = SHOE_PAST_PEDAL_MM,
) -> ToeRoom:
    """Front centre = √((wheelbase − √(stay² − drop²))² + drop²), the axles level.

    The least room there is: the toe on the line from bracket to front axle, the tyre turned into it.
    Raises InputError for a stay shorter than the drop or a wheelbase shorter than the stay reaches back.
    """
    if chainstay_mm <= abs(bb_drop_mm):
        raise bad(
            "chainstay_mm", f"{chainstay_mm:g} given; more than the drop of {abs(bb_drop_mm):g} allowed"
        )
    back = math.sqrt(chainstay_mm**2 - bb_drop_mm**2)
    if wheelbase_mm <= back:
        raise bad(
            "wheelbase_mm", f"{wheelbase_mm:g} given; more than the {back:.0f} behind the bracket allowed"
        )
    front = math.hypot(wheelbase_mm - back, bb_drop_mm)
    room = front - wheel_radius_mm - crank_mm - shoe_mm
    return ToeRoom(
        front_centre_mm=front,
        room_mm=room,
        trace=(
            TraceLine("behind_the_bracket_mm", back, "mm", f"√({chainstay_mm:g}² − {bb_drop_mm:g}²)"),
            TraceLine(
                "front_centre_mm", front, "mm", f"√(({wheelbase_mm:g} − {back:.1f})² + {bb_drop_mm:g}²)"
            ),
            TraceLine(
                "room_mm", room, "mm", f"{front:.1f} − {wheel_radius_mm:g} − {crank_mm:g} − {shoe_mm:g}"
            ),
        ),
    )
