"""Chainrings: on the crank and in the frame."""

from __future__ import annotations

import functools
from typing import Any

from unkett.core.calc.gears import smallest_ring
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, unmeasured, way_out
from unkett.core.rules.ovals import OVAL_TEETH, counted_teeth, ring_in_words
from unkett.core.rules.roles import required
from unkett.core.rules.view import View, require
from unkett.core.standards import lookup
from unkett.core.vocabulary import Area, enums
from unkett.core.vocabulary.words import in_sentence, listed

Mounts = tuple[str, ...]

MOUNT = rule(
    "ring-mount",
    title="Rings bolt to the crank",
    plain=(
        "Bolt circle and bolt count must be equal, ring by ring; a maker's direct mount fits only its equal. "
        "A ring must have enough teeth to clear the bolts. One ring on a crank made for more goes with "
        "shorter bolts or spacers."
    ),
    why="A ring that is not bolted all round bends under load and throws the chain.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={"crank": "crank", "rings": required("chainrings")},
    messages={
        "mounted": "Chainrings and crank match: {mounts}.",
        "fewer_rings": "{count} of {seats} seats used: fit shorter bolts, or spacers of a chainring's thickness.",
        "other_mount": "Chainring: {ring_mount}. Crank: {crank_mount}. Incompatible.",
        "too_many": "{count} chainrings on a crank made for {seats}.",
        "mount_unknown": "{count} chainrings: measure the mount of each.",
        "threaded_unknown": "A chainring this small clears only if the bolts thread into it.",
        "too_small": "Chainring {teeth} T; minimum {least} T on a {bcd_mm:g} mm bolt circle.",
    },
    figures={
        "mounts": ("mounts of the rings", ""),
        "count": ("rings there", ""),
        "seats": ("rings the crank is made for", ""),
        "ring_mount": ("mount of the ring that does not fit", ""),
        "crank_mount": ("mount of the crank", ""),
        "teeth": ("teeth of the ring", ""),
        "bcd_mm": ("bolt circle", "mm"),
        "least": ("smallest ring that clears it", ""),
    },
    sources=("bolt-circles",),
)


def _by_ring(value: Any, rings: int) -> Mounts:
    """One mount for all rings, or one by ring, as a tuple by ring."""
    return tuple(value) if isinstance(value, tuple) else (value,) * rings


def _worded(mounts: Mounts) -> str:
    return listed([in_sentence(enums.RING_MOUNT.title(mount)) for mount in dict.fromkeys(mounts)], "or")


def _other(rings: View, crank: View, mount: str, own: Mounts) -> Outcome:
    ways = (way_out(rings, "mount", "==", own[0]), way_out(crank, "ring_mount", "==", mount))
    return no_go("other_mount", *ways, ring_mount=_worded((mount,)), crank_mount=_worded(own))


@MOUNT.clause("rings.count crank.rings")
def seats(rings: View, crank: View) -> Outcome | None:
    if rings.count <= crank.rings:
        return None
    return no_go("too_many", way_out(crank, "rings", ">=", rings.count), count=rings.count, seats=crank.rings)


@MOUNT.clause("rings.mount crank.ring_mount")
def any_seat(rings: View, crank: View) -> Outcome | None:
    """Return a mount that is none of the crank's, however many rings there are."""
    own = _by_ring(crank.ring_mount, 1)
    stray = next((mount for mount in _by_ring(rings.mount, 1)[:1] if mount not in own), None)
    return None if stray is None else _other(rings, crank, stray, own)


@MOUNT.clause("rings.count rings.mount crank.ring_mount", may="crank.rings")
def bolted(rings: View, crank: View) -> Outcome | None:
    count, made_for = rings.count, crank.rings
    mounts = _by_ring(rings.mount, count)[:count]
    own = _by_ring(crank.ring_mount, made_for or count)
    free = list(own)
    for mount in mounts:
        if mount not in free:
            return None if made_for is not None and count > made_for else _other(rings, crank, mount, own)
        free.remove(mount)
    if made_for is not None and count < made_for:
        bolts = need("shorter ring bolts, or spacers of a ring's thickness", count=made_for - count)
        sides = need("bolt heads and spacers the right way round, ring tab in line with the arm")
        return goes_if("fewer_rings", bolts, sides, count=count, seats=made_for)
    return goes("mounted", mounts=_worded(mounts), count=count, seats=made_for)


@functools.cache
def least_teeth(bcd_mm: float) -> int:
    """Return the smallest ring of a bolt circle, worked out once."""
    return smallest_ring(bcd_mm=bcd_mm).teeth


@MOUNT.clause("rings.teeth rings.mount", may="rings.threaded_in")
def clear_of_bolts(rings: View) -> Outcome | None:
    unread = False
    for mount, teeth in zip(_by_ring(rings.mount, len(rings.teeth)), rings.teeth, strict=False):
        row = lookup("ring_mounts", "code").get(mount)
        if row is None or teeth >= least_teeth(row["bcd_mm"]):
            continue
        least = least_teeth(row["bcd_mm"])
        if teeth >= row.get("threaded_min_teeth", least) and rings.threaded_in is not False:
            unread = unread or rings.threaded_in is None
            continue
        way = way_out(rings, "teeth", "min>=", least)
        return no_go("too_small", way, teeth=teeth, bcd_mm=row["bcd_mm"], least=least)
    return unmeasured("threaded_unknown", (rings, "threaded_in")) if unread else None


@MOUNT.clause("rings.count rings.mount")
def mount_of_each(rings: View) -> Outcome | None:
    """A list of mounts shorter than the rings leaves one unmeasured."""
    if len(_by_ring(rings.mount, rings.count)) >= rings.count:
        return None
    return unmeasured("mount_unknown", (rings, "mount"), count=rings.count)


CLEARANCE = rule(
    "ring-clearance",
    title="Rings clear the chainstay",
    plain=(
        "The largest ring must not exceed the frame's limit for this number of rings, an oval one counting two "
        "teeth more; {ring_room_mm} mm must stay free under load. A frame without a stated limit is looked at by hand."
    ),
    why="A ring that flexes into the chainstay saws through it.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={"frame": "frame", "rings": required("chainrings")},
    messages={
        "within": "Chainring {ring}; frame maximum {limit} T.",
        "too_large": "Chainring {ring}; frame maximum {limit} T with this many chainrings.",
    },
    figures={
        "largest": ("largest ring, more when oval", ""),
        "ring": ("largest ring in words: how an oval one counts", ""),
        "limit": ("frame's limit for this number of rings", ""),
    },
    sources=("maker-limits",),
)


@CLEARANCE.clause(
    "rings.count rings.largest_teeth", asks="rings.shape", may="frame.chainring_max_teeth", silences=True
)
def ring_clearance(frame: View, rings: View) -> Outcome | None:
    limit, largest = (frame.chainring_max_teeth or {}).get(rings.count), rings.largest_teeth
    if limit is None:
        return SILENT
    if largest <= limit < largest + OVAL_TEETH:
        require(rings, "shape")
    counted = counted_teeth(largest, rings.shape)
    figures = {"largest": counted, "limit": limit, "ring": ring_in_words(largest, rings.shape)}
    if counted <= limit:
        return goes("within", **figures)
    most = limit - (counted - largest)
    return no_go("too_large", way_out(rings, "largest_teeth", "<=", most), **figures)
