"""All calculations, registered by name."""

from unkett.core.calc import bracket, brakes, chain, gears, steering, wheels
from unkett.core.calc.base import CALCULATIONS

__all__ = ["CALCULATIONS", "bracket", "brakes", "chain", "gears", "steering", "wheels"]
