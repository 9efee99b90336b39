"""Every calculation by name."""

from unkett.core.calc import (
    bar,
    bracket,
    brakes,
    chain,
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
    "bracket",
    "brakes",
    "chain",
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
