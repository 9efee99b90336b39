"""Chainrings on the crank."""

from __future__ import annotations

import functools
from typing import Any

from unkett.core.calc.gears import smallest_ring
from unkett.core.rules.base import (
    Outcome,
    View,
    goes,
    goes_if,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.standards import lookup
from unkett.core.vocabulary import Area

Mounts = tuple[str, ...]


def mounts_by_ring(value: Any, rings: int) -> Mounts:
    """One mount for all rings, or one by ring, as a tuple by ring."""
    return tuple(value) if isinstance(value, tuple) else (value,) * rings


def seats_for(crank_mount: Any, ring_mounts: Mounts, seats: int | None) -> list[int | None]:
    """For each ring the seat it can take (by place), or None; seats are used once, outermost first."""
    own = mounts_by_ring(crank_mount, seats or len(ring_mounts))
    free = list(range(len(own)))
    taken: list[int | None] = []
    for mount in ring_mounts:
        hit = next((seat for seat in free if own[seat] == mount), None)
        if hit is not None:
            free.remove(hit)
        taken.append(hit)
    return taken


@rule(
    "ring-mount",
    title="Rings bolt to the crank",
    plain=(
        "Bolt circle and bolt count must be equal, ring by ring; a maker's direct mount fits only its equal. "
        "A ring must have enough teeth to clear the bolts. One ring on a crank made for more goes with "
        "shorter bolts or spacers."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "crank": ("ring_mount", optional("rings")),
        "chainrings": ("mount", "teeth", optional("threaded_in")),
    },
    messages={
        "mounted": "{mounts}: rings and crank are alike.",
        "fewer_rings": "{rings} ring on a crank made for {seats}: shorter bolts or spacers.",
        "other_mount": "A {ring_mount} ring does not bolt to a {crank_mount} crank.",
        "mount_unknown": "{rings} rings, but not the mount of each is measured.",
        "too_many": "{rings} rings on a crank made for {seats}.",
        "too_small": "A {teeth}-tooth ring does not clear a {bcd_mm:g} mm bolt circle; {least} is the least.",
        "threaded_unknown": "{teeth} teeth clear {bcd_mm:g} mm only if the bolts thread into the ring itself.",
    },
    figures={
        "mounts": "mounts of the rings",
        "rings": "rings there",
        "seats": "rings the crank is made for",
        "ring_mount": "mount of the ring that does not fit",
        "crank_mount": "mount of the crank",
        "teeth": "teeth of the ring",
        "bcd_mm": "bolt circle",
        "least": "smallest ring that clears it",
    },
    sources=("bolt-circles",),
)
def ring_mount(crank: View, chainrings: View) -> Outcome:
    rings = len(chainrings.teeth)
    mounts = mounts_by_ring(chainrings.mount, rings)[:rings]
    seats = crank.rings
    figures: dict[str, Any] = {"mounts": ", ".join(dict.fromkeys(mounts)), "rings": rings, "seats": seats}
    if len(mounts) < rings:
        return unmeasured("mount_unknown", (chainrings, "mount"), **figures)
    if seats is not None and rings > seats:
        return no_go("too_many", way_out(crank, "rings", ">=", rings), **figures)
    for mount, seat in zip(mounts, seats_for(crank.ring_mount, mounts, seats), strict=False):
        if seat is None:
            own = mounts_by_ring(crank.ring_mount, 1)
            ways = (way_out(chainrings, "mount", "==", own[0]), way_out(crank, "ring_mount", "==", mount))
            return no_go("other_mount", *ways, ring_mount=mount, crank_mount=", ".join(own), **figures)
    small = _too_small(chainrings, mounts, figures)
    if small is not None:
        return small
    if seats is not None and rings < seats:
        bolts = need("shorter ring bolts, or spacers of a ring's thickness", count=seats - rings)
        sides = need("bolt heads and spacers the right way round, ring tab in line with the arm")
        return goes_if("fewer_rings", bolts, sides, **figures)
    return goes("mounted", **figures)


@functools.cache
def least_teeth(bcd_mm: float) -> int:
    """The smallest ring of a bolt circle, worked out once."""
    return smallest_ring(bcd_mm=bcd_mm).teeth


def _too_small(chainrings: View, mounts: Mounts, figures: dict[str, Any]) -> Outcome | None:
    """The outcome for a ring that does not clear its bolts, or None."""
    for mount, teeth in zip(mounts, chainrings.teeth, strict=False):
        row = lookup("ring_mounts", "code").get(mount)
        if row is None:
            continue
        least = least_teeth(row["bcd_mm"])
        if teeth >= least:
            continue
        own = {"teeth": teeth, "bcd_mm": row["bcd_mm"], "least": least, **figures}
        if teeth >= row.get("threaded_min_teeth", least):
            if chainrings.threaded_in:
                continue
            if chainrings.threaded_in is None:
                return unmeasured("threaded_unknown", (chainrings, "threaded_in"), **own)
        return no_go("too_small", way_out(chainrings, "teeth", "min>=", least), **own)
    return None
