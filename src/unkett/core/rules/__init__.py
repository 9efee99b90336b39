"""All rules, registered by id. A new module is imported here; nothing else needs to know of it."""

from unkett.core.rules import (
    bracket,
    cassette,
    chain,
    cockpit,
    derailleur,
    discs,
    front,
    levers,
    lines,
    motor,
    rim_brakes,
    rings,
    seat,
    shifting,
    sound,
    steering,
    tyres,
    wheels,
)
from unkett.core.rules.base import RULES, Rule, refuse_unfinished
from unkett.core.rules.declared import refuse_undeclared

__all__ = [
    "RULES",
    "Rule",
    "bracket",
    "cassette",
    "chain",
    "cockpit",
    "derailleur",
    "discs",
    "front",
    "levers",
    "lines",
    "motor",
    "rim_brakes",
    "rings",
    "seat",
    "shifting",
    "sound",
    "steering",
    "tyres",
    "wheels",
]

refuse_unfinished()
refuse_undeclared()
