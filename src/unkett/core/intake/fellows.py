"""What a part has in common with others of the same bike: taken over with one tap instead of typed twice.

A tap says what the hand sees: it stands in there, or it is the same as at the front. Joints where a size that is
nearly right still goes together and then fails on the road are left out (bar clamp, stem on the steerer, post in
the seat tube, rails, fluid): both sides of those are read.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.vocabulary import KINDS, SLOTS

Attrs = Mapping[str, Any]
Place = tuple[str, str]  # slot, attribute

# By kind, what the rear one shares with the front one; the rest belongs to its end, or to its wear.
_OF_BOTH_ENDS: dict[str, frozenset[str]] = {
    "hub": frozenset({"rotor_mount", "holes", "spoke_head"}),
    "brake_line": frozenset({"type", "fluid", "hose_fitting"}),
}
_OF_ONE_ALONE = frozenset({"damage", "measured_mm", "width_measured_mm"})
_ALIKE = ("brake_lever", "brake_line", "caliper", "rotor", "tyre", "rim", "hub", "mudguard")

FELLOWS: tuple[tuple[Place, Place], ...] = (
    (("frame", "bb_shell"), ("bottom_bracket", "shell")),
    (("frame", "headset_upper"), ("headset", "upper")),
    (("frame", "headset_lower"), ("headset", "lower")),
    (("frame", "rear_axle_kind"), ("rear_hub", "axle_kind")),
    (("frame", "rear_axle_dia_mm"), ("rear_hub", "axle_dia_mm")),
    (("frame", "rear_spacing_mm"), ("rear_hub", "spacing_mm")),
    (("fork", "axle_kind"), ("front_hub", "axle_kind")),
    (("fork", "axle_dia_mm"), ("front_hub", "axle_dia_mm")),
    (("fork", "spacing_mm"), ("front_hub", "spacing_mm")),
    (("fork", "design_bsd_mm"), ("frame", "design_bsd_mm")),
    (("fork", "steerer_upper_mm"), ("headset", "steerer_upper_mm")),
    (("fork", "crown_race_mm"), ("headset", "crown_race_mm")),
    (("crank", "spindle"), ("bottom_bracket", "spindle")),
    (("crank", "ring_mount"), ("chainrings", "mount")),
    (("front_brake_lever", "clamp_mm"), ("rear_shifter", "clamp_mm")),
    (("front_brake_lever", "fits_bar"), ("rear_shifter", "fits_bar")),
    (("handlebar", "grip_mm"), ("rear_shifter", "clamp_mm")),
    *(
        pair
        for end in ("front", "rear")
        for pair in (
            ((f"{end}_rim", "bsd_mm"), (f"{end}_tyre", "bsd_mm")),
            ((f"{end}_rim", "holes"), (f"{end}_hub", "holes")),
            ((f"{end}_rotor", "mount"), (f"{end}_hub", "rotor_mount")),
        )
    ),
)
_ONE_PIECE = {"rear_brake_lever": "rear_shifter", "front_brake_lever": "front_shifter"}


def front_of(slot: str) -> str | None:
    """Return the slot at the front that one at the rear can be alike to; None for others."""
    end, _, kind = slot.partition("_")
    return f"front_{kind}" if end == "rear" and kind in _ALIKE else None


def alike(slot: str, front: Attrs) -> dict[str, Any]:
    """Return what a rear part is that is the same as the front one."""
    kind = SLOTS[slot].kind
    shared = _OF_BOTH_ENDS.get(kind, frozenset(KINDS[kind].attributes) - _OF_ONE_ALONE)
    return {name: value for name, value in front.items() if name in shared}


def beside(slot: str) -> tuple[tuple[str, Place], ...]:
    """Return by attribute of a slot, where on its fellows the same figure stands."""
    out = [
        (mine[1], other)
        for one, two in FELLOWS
        for mine, other in ((one, two), (two, one))
        if mine[0] == slot
    ]
    return tuple(out)


def taken_over(slot: str, parts: Mapping[str, Attrs]) -> dict[str, Any]:
    """Return what the parts beside it, by slot, tell of the part in a slot."""
    words = {attr: parts.get(other, {}).get(name) for attr, (other, name) in beside(slot)}
    return {attr: value for attr, value in words.items() if value is not None}


def one_with(slot: str) -> str | None:
    """Return the slot whose part may be one piece with the part in this one: a lever that brakes and shifts."""
    return _ONE_PIECE.get(slot)
