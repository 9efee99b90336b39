"""The inspection: what is looked at before anything is measured, one tick list per area, as a table.

Where a tick names damage or a feel, that goes on the part: damage is what the rule `sound` judges.
"""

from __future__ import annotations

from attrs import frozen

from unkett.core.intake import BikeProfile
from unkett.core.standards import table

AREAS = {
    "drive": "Drive",
    "gears": "Gears",
    "brakes": "Brakes",
    "wheels": "Wheels",
    "steering": "Steering",
    "seat": "Seat",
    "frame": "Frame",
}
HOWS = {"must": "must be done", "should": "should be done", "may": "may be done"}


@frozen(kw_only=True)
class Tick:
    """One thing an inspection may find: on which parts, what it does to them, and how much it matters as a rule."""

    code: str
    area: str
    title: str
    slots: tuple[str, ...]
    how: str
    damage: str = ""
    feel: str = ""
    searched: bool = False  # reached by a search for a cause, not asked on the walk round the bike


TICKS: dict[str, Tick] = {
    row["code"]: Tick(
        code=row["code"],
        area=row["area"],
        title=row["title"],
        slots=tuple(row["slots"]),
        how=row["how"],
        damage=row.get("damage", ""),
        feel=row.get("feel", ""),
        searched=row.get("searched", False),
    )
    for row in table("look_over").rows
}


def places(tick: Tick, profile: BikeProfile) -> tuple[str, ...]:
    """Return the parts of such a bike that a tick may be on."""
    return tuple(slot for slot in tick.slots if slot == "bike" or profile.has(slot))
