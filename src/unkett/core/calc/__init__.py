"""All calculations, registered by name."""

from unkett.core.calc import chain, gears
from unkett.core.calc.base import CALCULATIONS

__all__ = ["CALCULATIONS", "chain", "gears"]
