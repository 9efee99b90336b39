"""Damage: what takes a part out of use, whatever it fits. Safety."""

from __future__ import annotations

from unkett.core.errors import CoreError
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import ENDS, required
from unkett.core.rules.view import View
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS, Area, enums, kind_of
from unkett.core.vocabulary.words import in_sentence, listed

_JOINT_OF_KIND = {
    "frame": "frame", "fork": "fork", "headset": "headset", "spacers": "steerer", "stem": "steerer",
    "handlebar": "bar", "grips": "bar", "seatpost": "post", "saddle": "saddle", "shock": "shock",
    "shock_spring": "shock",
    "dropper_lever": "post", "dropper_line": "post", "bottom_bracket": "bracket", "crank": "bracket",
    "pedals": "bracket", "chainrings": "rings", "chain_guide": "rings", "front_derailleur": "rings",
    "chain": "chain", "cassette": "cassette", "rear_derailleur": "shifting", "motor": "motor",
    "derailleur_hanger": "shifting", "battery": "shifting", "bracket_bearings": "bracket", "cleats": "bracket",
    "seat_clamp": "post", "belt": "chain", "linkage": "shock", "timing_rings": "bracket", "timing_chain": "bracket",
    "captain_bracket": "captain_bracket", "captain_crank": "captain_bracket",
}  # fmt: skip
_JOINT_OF_WHEEL_PART = {
    "hub": "axle", "rim": "spokes", "spokes": "spokes", "tyre": "tyre", "mudguard": "tyre", "rotor": "brake",
    "caliper": "brake", "brake_adapter": "brake", "brake_lever": "lever", "brake_line": "lever",
    "axle": "axle", "hub_bearings": "axle", "valve": "tyre", "rack": "axle", "light": "axle",
}  # fmt: skip
_JOINT_OF_SLOT = {
    "rear_shifter": "shifting",
    "front_shifter": "rings",
    "rear_shift_line": "shifting",
    "front_shift_line": "rings",
}


def joint_of_slot(slot: str) -> str:
    """Return the joint at which a part's own state is reported."""
    end, _, kind = slot.partition("_")
    if slot in _JOINT_OF_SLOT:
        return _JOINT_OF_SLOT[slot]
    if end in ENDS and kind in _JOINT_OF_WHEEL_PART:
        return f"{end}_{_JOINT_OF_WHEEL_PART[kind]}"
    if slot not in _JOINT_OF_KIND:
        raise CoreError(f"slot {slot}: rules/damage.py does not say at which joint its own state is told")
    return _JOINT_OF_KIND[slot]


_SLOTS = tuple(SLOTS)

SOUND = rule(
    "sound",
    title="Part is sound",
    plain=(
        "A crack in anything that carries the rider or stops the bike, a dent or a crash on carbon, a bent bar, stem, "
        "post or fork, a leaking brake, a stripped thread that holds a wheel, a bar or a brake, pads, rims and tyres "
        "worn through: not ridden until changed. Other damage is looked at. What was looked at and found whole is "
        "sound; what nobody looked at is not spoken of."
    ),
    why="A damaged part fails without warning, and the ones named here take the rider with them.",
    area=Area.STEERING,
    joint=tuple(joint_of_slot(slot) for slot in _SLOTS),
    parts=tuple(
        {
            "part": required(slot)
            if "material" in kind_of(slot).attributes
            else required(slot, material="damage")
        }
        for slot in _SLOTS
    ),
    messages={
        "whole": "Looked at: no damage.",
        "forbidden": "{What}: not ridden until changed.",
        "carbon": "{What} on carbon: not ridden until changed.",
        "material_unknown": "{What}: it depends on the material, which is not known.",
        "look": "{What}: looked at before it is ridden.",
    },
    figures={"What": ("the damage found", "")},
    sources=("damage",),
    safety=True,
)
ON_CARBON = ("dent", "crash")


def _in_words(damage: tuple[str, ...]) -> str:
    says = listed([in_sentence(enums.DAMAGE.title(damage_code)) for damage_code in dict.fromkeys(damage)])
    return says[:1].upper() + says[1:]


@SOUND.clause(given="part.damage", may="part.material")
def sound(part: View) -> Outcome | None:
    found: tuple[str, ...] = part.damage
    if not found:
        return goes("whole")
    kind = SLOTS[part.slot].kind
    rows = lookup("damage", "code")
    whole = way_out(part, "damage", "==", [])
    forbidden = tuple(finding for finding in found if kind in rows[finding]["forbids"])
    if forbidden:
        return no_go("forbidden", whole, What=_in_words(forbidden))
    on_carbon = tuple(finding for finding in found if finding in ON_CARBON)
    if on_carbon and "material" in kind_of(part.slot).attributes:
        if part.material == "carbon":
            return no_go("carbon", whole, What=_in_words(on_carbon))
        if part.material is None:
            return unmeasured("material_unknown", (part, "material"), What=_in_words(on_carbon))
    return goes_if("look", need("look at the damage", damage=list(found)), What=_in_words(found))
