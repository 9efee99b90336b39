"""The front derailleur: mount, cable, rings, chain and lever."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    fill,
    goes,
    goes_if,
    missing,
    near,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
    worst_outcome,
)
from unkett.core.rules.chain import chain_class
from unkett.core.vocabulary import Area

BAND_TOLERANCE_MM = 0.3
OUTER_OVER_TEETH = 1
OUTER_UNDER_TEETH = 4
DIFFERENCE_OVER_TEETH = 1
BANDS_MM = {"band_28_6": 28.6, "band_31_8": 31.8, "band_34_9": 34.9}


@rule(
    "front-derailleur",
    title="Front derailleur fits frame, rings, chain and lever",
    plain=(
        "Mount and cable direction must be the frame's (a band must fit the tube); rings, largest ring, "
        "difference and chain must be the derailleur's; lever and derailleur of one pull family. One tooth "
        "over goes if looked at, more does not. Two rings with no derailleur: by hand, on a touring bike."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "chainrings": ("teeth",),
        "front_derailleur": at(
            "front_derailleur",
            *(
                optional(name)
                for name in ("mount", "cable_from", "rings", "outer_max_teeth", "ring_difference_max_teeth")
            ),
            *(optional(name) for name in ("speeds", "actuation", "pull_family")),
            may_be_empty=True,
        ),
        "frame": at(
            "frame",
            optional("fd_mount"),
            optional("fd_cable_from"),
            optional("seat_tube_od_mm"),
            may_be_empty=True,
        ),
        "chain": at("chain", optional("speeds"), may_be_empty=True),
        "front_shifter": at("front_shifter", optional("mode"), optional("pull_family"), may_be_empty=True),
        "bike": at("bike", optional("use")),
    },
    messages={
        "fits": "Mount, cable, rings, chain and lever are this derailleur's.",
        "by_hand": "{count} rings and no front derailleur: shifted by hand.",
        "none": "{count} rings and no front derailleur to shift between them.",
        "other_mount": "A {front_derailleur.mount} derailleur does not mount on this frame ({frame.fd_mount}).",
        "other_cable": "Its cable comes from {front_derailleur.cable_from}, the frame's from {frame.fd_cable_from}.",
        "too_many_rings": "{count} rings; the derailleur serves {front_derailleur.rings}.",
        "outer_over": "A {outer}-tooth ring is one over the derailleur's {limit}.",
        "outer_too_large": "A {outer}-tooth ring is too large for a derailleur made for {limit}.",
        "outer_small": "A {outer}-tooth ring is far under the derailleur's {limit}: look at the cage's curve.",
        "difference_over": "The rings differ by {differ}, one more than the derailleur's {limit}.",
        "difference_too_large": "The rings differ by {differ}; the derailleur takes {limit}.",
        "other_chain": "The derailleur is not made for this chain ({chain.speeds}-speed).",
        "other_family": "Lever and derailleur are of two pull families.",
        "unknown": "Not all that decides about the front derailleur is measured.",
    },
    figures={
        "count": "rings there",
        "outer": "largest ring",
        "limit": "derailleur's figure",
        "differ": "largest ring − smallest ring",
    },
    sources=("maker-limits",),
)
def front_derailleur(
    chainrings: View, front_derailleur: View, frame: View, chain: View, front_shifter: View, bike: View
) -> Outcome | None:
    count = len(chainrings.teeth)
    if front_derailleur.empty:
        if count == 1:
            return None
        if bike.use == "touring":
            return goes_if("by_hand", need("shift the front by hand, standing"), count=count)
        return no_go("none", fill("front_derailleur", "rings", ">=", count), count=count)
    views = (chainrings, front_derailleur, frame, chain, front_shifter)
    return worst_outcome([*_looks(*views), goes("fits", count=count)])


def _looks(rings: View, fd: View, frame: View, chain: View, shifter: View) -> Iterator[Outcome | None]:
    """Each thing that is looked at, one outcome each; None where it is in order."""
    if not frame.empty:
        yield _mount(fd, frame)
        yield _cable(fd, frame)
    count = len(rings.teeth)
    if fd.rings is None:
        yield unmeasured("unknown", (fd, "rings"))
    elif count > fd.rings:
        yield no_go("too_many_rings", way_out(fd, "rings", ">=", count), count=count)
    yield _outer(fd, max(rings.teeth))
    if count > 1:
        yield _difference(fd, max(rings.teeth) - min(rings.teeth))
    if not chain.empty:
        yield _chain(fd, chain)
    if not shifter.empty:
        yield _lever(fd, shifter)


def _mount(fd: View, frame: View) -> Outcome | None:
    if fd.mount is None:
        return unmeasured("unknown", (fd, "mount"))
    if fd.mount == frame.fd_mount:
        return None
    band = BANDS_MM.get(fd.mount)
    if band is not None and (frame.fd_mount in (None, "none") or frame.fd_mount in BANDS_MM):
        if frame.seat_tube_od_mm is not None and near(frame.seat_tube_od_mm, band, BAND_TOLERANCE_MM):
            return None
        if frame.seat_tube_od_mm is None and frame.fd_mount in (None, "none"):
            return unmeasured("unknown", (frame, "seat_tube_od_mm"))
    if frame.fd_mount is None:
        return unmeasured("unknown", (frame, "fd_mount"))
    return no_go("other_mount", way_out(fd, "mount", "==", frame.fd_mount))


def _cable(fd: View, frame: View) -> Outcome | None:
    if fd.actuation == "electronic" or "either" in (fd.cable_from, frame.fd_cable_from):
        return None
    asks = [
        (view, name)
        for view, name in ((fd, "cable_from"), (frame, "fd_cable_from"))
        if getattr(view, name) is None
    ]
    if asks:
        return unmeasured("unknown", *asks)
    if fd.cable_from == frame.fd_cable_from:
        return None
    return no_go("other_cable", way_out(fd, "cable_from", "in", [frame.fd_cable_from, "either"]))


def _outer(fd: View, outer: int) -> Outcome | None:
    limit = fd.outer_max_teeth
    if limit is None:
        return unmeasured("unknown", (fd, "outer_max_teeth"))
    figures = {"outer": outer, "limit": limit}
    if outer > limit + OUTER_OVER_TEETH:
        return no_go("outer_too_large", way_out(fd, "outer_max_teeth", ">=", outer), **figures)
    if outer > limit:
        return goes_if("outer_over", need("set the cage 1–3 mm over the large ring and look"), **figures)
    if outer < limit - OUTER_UNDER_TEETH:
        return goes_if("outer_small", need("look at the cage's curve against the ring"), **figures)
    return None


def _difference(fd: View, differ: int) -> Outcome | None:
    limit = fd.ring_difference_max_teeth
    if limit is None:
        return unmeasured("unknown", (fd, "ring_difference_max_teeth"))
    figures: dict[str, Any] = {"differ": differ, "limit": limit}
    if differ > limit + DIFFERENCE_OVER_TEETH:
        return no_go(
            "difference_too_large", way_out(fd, "ring_difference_max_teeth", ">=", differ), **figures
        )
    if differ > limit:
        return goes_if("difference_over", need("look at the cage's tail in small/small"), **figures)
    return None


def _chain(fd: View, chain: View) -> Outcome | None:
    asks = missing((fd, "speeds"), (chain, "speeds"))
    if asks:
        return unmeasured("unknown", *asks)
    if chain_class(chain.speeds) in {chain_class(one) for one in fd.speeds}:
        return None
    return no_go("other_chain", way_out(fd, "speeds", "has", chain.speeds))


def _lever(fd: View, shifter: View) -> Outcome | None:
    if fd.actuation == "electronic" or shifter.mode in ("electronic", "friction"):
        return None
    asks = missing((fd, "pull_family"), (shifter, "pull_family"))
    if asks:
        return unmeasured("unknown", *asks)
    if fd.pull_family == shifter.pull_family:
        return None
    return no_go("other_family", way_out(shifter, "pull_family", "==", fd.pull_family))
