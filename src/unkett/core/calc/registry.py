"""Every calculation by name."""

from unkett.core.calc import (
    bracket,
    brakes,
    chain,
    climbing,
    cutting,
    gears,
    geometry,
    steering,
    torque,
    wear,
    wheels,
)
from unkett.core.calc.base import CALCULATIONS

__all__ = [
    "CALCULATIONS",
    "bracket",
    "brakes",
    "chain",
    "climbing",
    "cutting",
    "gears",
    "geometry",
    "steering",
    "torque",
    "wear",
    "wheels",
]
