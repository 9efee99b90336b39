"""A wheel as one thing: hub, rim and spokes of one piece, and what goes over to it from the wheel it replaces."""

from __future__ import annotations

from unkett.core.build import Build
from unkett.core.vocabulary import SLOTS

ENDS = ("front", "rear")
BUILT_OF = ("hub", "rim", "spokes")
GOES_OVER = ("tyre", "valve", "rotor")


def wheel_slots(end: str) -> tuple[str, str, str]:
    """Return the slots that a wheel is built of: its hub, its rim and its spokes."""
    return f"{end}_hub", f"{end}_rim", f"{end}_spokes"


def end_of_wheel(slot: str) -> str:
    """Return the end of a slot that a ready-built wheel fills, or nothing."""
    end, _, kind = slot.partition("_")
    return end if end in ENDS and kind in BUILT_OF else ""


def goes_over(build: Build, end: str) -> list[str]:
    """Return the slots whose part goes over from an old wheel to its successor, as far as the bike has them."""
    slots = [f"{end}_{kind}" for kind in GOES_OVER] + (["cassette"] if end == "rear" else [])
    return [slot for slot in slots if slot in SLOTS and slot in build.filled()]
