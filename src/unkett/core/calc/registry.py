"""Every calculation by name."""

from unkett.core.calc import (
    bar,
    bottom_bracket,
    brakes,
    chain,
    chainline,
    climbing,
    cutting,
    dropper,
    gears,
    geometry,
    lines,
    spokes,
    steering,
    torque,
    wear,
    wheels,
)
from unkett.core.calc.base import CALCULATIONS

__all__ = [
    "CALCULATIONS",
    "bar",
    "bottom_bracket",
    "brakes",
    "chain",
    "chainline",
    "climbing",
    "cutting",
    "dropper",
    "gears",
    "geometry",
    "lines",
    "spokes",
    "steering",
    "torque",
    "wear",
    "wheels",
]
