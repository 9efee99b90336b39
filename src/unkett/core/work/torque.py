"""Which torque a step shows: what the part states, else the table's."""

from __future__ import annotations

from typing import Any

from unkett.core.standards import lookup
from unkett.core.work.step import Torque

LOWER_END = "friction_paste"  # carbon in its paste: the lower end of a range
SINGLE = 0.9  # of a printed single figure, which is a most


def stated(said: Any) -> Torque:
    """Return a torque that a part states: a pair is taken in its middle, a single figure, a most, at 90 %."""
    if isinstance(said, (list, tuple)):
        low, high = (float(one) for one in said)
        return Torque(low=low, high=high, target=round((low + high) / 2, 2), said_by="part")
    return Torque(low=float(said), high=float(said), target=round(SINGLE * float(said), 2), said_by="part")


def from_table(code: str, *, lower_end: bool = False) -> Torque:
    """Return a torque of the table, in its middle; at the lower end carbon in its friction paste."""
    row = lookup("tightening", "code")[code]
    low, high = float(row["low_nm"]), float(row["high_nm"])
    if lower_end:
        return Torque(low=low, high=low, target=low, said_by="table")
    return Torque(low=low, high=high, target=round((low + high) / 2, 2), said_by="table")
