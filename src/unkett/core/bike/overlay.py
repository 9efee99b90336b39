"""Changes laid over a bike as it stands: what they pull along with them is part of the bike as planned."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from attrs import evolve

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import wheel_radius
from unkett.core.build import Build, Part
from unkett.core.calc.geometry import ForkSwap, fork_swap
from unkett.core.errors import InputError

LENGTHS = ("length_left_mm", "length_right_mm")


def to_lace(spokes: Part) -> Part:
    """These spokes, still to be cut and laced to the lengths worked out."""
    kept = {name: value for name, value in spokes.attrs.items() if name not in LENGTHS}
    return evolve(spokes, attrs={**kept, "to_lace": True})


def with_changes(build: Build, changes: Mapping[str, Part | None]) -> Build:
    """Return the bike with other parts in some slots, or with nothing fitted there (None).

    Another hub or rim is laced again: the spokes that stand there are still to be cut, to the lengths worked out.
    Another fork, lower cup or wheel turns the frame: its angles, wheelbase, drop, stack and reach are those it
    will have.
    """
    then = build
    for slot, part in changes.items():
        then = then.with_part(slot, part)
    for end in ("front", "rear"):
        spokes = then.parts.get(f"{end}_spokes")
        relaced = changes.get(f"{end}_hub") or changes.get(f"{end}_rim")
        if spokes is not None and relaced and f"{end}_spokes" not in changes:
            then = then.with_part(f"{end}_spokes", to_lace(spokes))
    frame = then.parts.get("frame")
    if frame is None or "frame" in changes:
        return then
    turned = _turned(Facts(build), Facts(then))
    return then.with_part("frame", evolve(frame, attrs={**frame.attrs, **turned})) if turned else then


def left_over(now: Build, then: Build) -> tuple[str, ...]:
    """Return the slots of `then` whose parts only served what the change took away, in the order of taking them off.

    With a single chainring, or without its front derailleur, nobody shifts at the front: derailleur, shifter and cable
    come off. A single sprocket without gears in the hub has no use for derailleur, shifter and cable at the rear.
    """
    before, after = Facts(now), Facts(then)
    found: tuple[str, ...] = ()
    rings = [len(one.get("chainrings", "teeth") or ()) for one in (before, after)]
    lost = "front_derailleur" in now.filled() and "front_derailleur" not in then.filled()
    if (rings[0] != 1 and rings[1] == 1) or lost:
        found += ("front_derailleur", "front_shifter", "front_shift_line")
    cogs = [after.get("cassette", "sprockets"), before.get("cassette", "sprockets")]
    geared_hub = (after.get("rear_hub", "internal_gears") or 1) > 1
    if cogs[0] == 1 and cogs[1] != 1 and not geared_hub:
        found += ("rear_derailleur", "rear_shifter", "rear_shift_line")
    filled = then.filled()
    return tuple(slot for slot in found if slot in filled and now.filled().get(slot) == filled[slot])


def swap_of(old: Facts, new: Facts) -> ForkSwap | None:
    """Return what other fork, lower cup and wheels do to the frame; None where its angle, its wheelbase or a
    fork's length is not known.

    What is not measured of offsets, cups and wheels on both sides is taken as equal. Raises InputError where no bike
    stands on the result.
    """
    head, wheelbase, drop, stay = (
        old.get("frame", name) for name in ("head_angle_deg", "wheelbase_mm", "bb_drop_mm", "chainstay_mm")
    )
    lengths = [state.get("fork", "axle_to_crown_mm") for state in (old, new)]
    same = old.filled.get("fork") == new.filled.get("fork")
    if head is None or wheelbase is None or (None in lengths and not same):
        return None
    if None in lengths:
        lengths = [1.0, 1.0]  # the same fork, of whatever length
    offsets = [state.get("fork", "offset_mm") for state in (old, new)]
    stacks = [state.get("headset", "stack_lower_mm") for state in (old, new)]
    levels = [_level(state) for state in (old, new)]
    return fork_swap(
        head_angle_deg=head,
        seat_angle_deg=old.get("frame", "seat_angle_deg"),
        wheelbase_mm=wheelbase,
        a2c_from_mm=lengths[0],
        a2c_to_mm=lengths[1],
        lower_stack_change_mm=0.0 if None in stacks else stacks[1] - stacks[0],
        offset_from_mm=None if None in offsets else offsets[0],
        offset_to_mm=None if None in offsets else offsets[1],
        wheel_radius_mm=wheel_radius(new, "front"),
        rear_centre_mm=None
        if drop is None or stay is None or stay < abs(drop)
        else math.sqrt(stay**2 - drop**2),
        bb_drop_mm=drop,
        stack_mm=old.get("frame", "stack_mm"),
        level_from_mm=0.0 if None in levels else float(levels[0] or 0.0),
        level_to_mm=0.0 if None in levels else float(levels[1] or 0.0),
    )


def _level(facts: Facts) -> float | None:
    """Return how much higher the front axle stands than the rear one, in mm."""
    front, rear = wheel_radius(facts, "front"), wheel_radius(facts, "rear")
    return None if front is None or rear is None else front - rear


def _turned(old: Facts, new: Facts) -> dict[str, Any]:
    """Return the frame's figures as the bike will stand; none where nothing turns it or it cannot be worked out."""
    try:
        swap = swap_of(old, new)
    except InputError:
        return {}
    if swap is None or (
        abs(swap.rotation_deg) < 1e-9 and swap.wheelbase_mm == old.get("frame", "wheelbase_mm")
    ):
        return {}
    out = {"head_angle_deg": swap.head_angle_deg, "wheelbase_mm": swap.wheelbase_mm}
    if swap.seat_angle_deg is not None:
        out["seat_angle_deg"] = swap.seat_angle_deg
    if swap.bb_rise_mm is not None:
        out["bb_drop_mm"] = old.get("frame", "bb_drop_mm") - swap.bb_rise_mm
    stack, reach = old.get("frame", "stack_mm"), old.get("frame", "reach_mm")
    if stack is not None and reach is not None and swap.reach_change_mm is not None:
        turn = math.radians(swap.rotation_deg)
        out["reach_mm"] = reach + swap.reach_change_mm
        out["stack_mm"] = stack * math.cos(turn) + reach * math.sin(turn)
    return out
