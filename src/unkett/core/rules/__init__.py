"""All rules, registered by id. A new module is imported here; nothing else needs to know of it."""

from unkett.core.rules import cassette, chain, derailleur, rings
from unkett.core.rules.base import RULES, Rule

__all__ = ["RULES", "Rule", "cassette", "chain", "derailleur", "rings"]
