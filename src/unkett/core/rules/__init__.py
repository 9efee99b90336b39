"""All rules, registered by id. A new module is imported here; nothing else needs to know of it."""

from unkett.core.rules import (
    axles,
    bottom_bracket,
    calipers,
    cassette,
    chain,
    chain_guide,
    chainline,
    cockpit,
    damage,
    derailleur,
    fork,
    front_derailleur,
    headset,
    levers,
    lines,
    motor,
    mudguards,
    rim_brakes,
    rings,
    rotors,
    seat,
    shifting,
    spokes,
    steering,
    tyres,
)
from unkett.core.rules.base import RULES, Rule, refuse_unfinished
from unkett.core.rules.declared import refuse_undeclared

__all__ = [
    "RULES",
    "Rule",
    "axles",
    "bottom_bracket",
    "calipers",
    "cassette",
    "chain",
    "chain_guide",
    "chainline",
    "cockpit",
    "damage",
    "derailleur",
    "fork",
    "front_derailleur",
    "headset",
    "levers",
    "lines",
    "motor",
    "mudguards",
    "rim_brakes",
    "rings",
    "rotors",
    "seat",
    "shifting",
    "spokes",
    "steering",
    "tyres",
]

refuse_unfinished()
refuse_undeclared()
