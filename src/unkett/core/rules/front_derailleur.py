"""The front derailleur: mount, cable, rings, chainline, chain and lever."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.chain import chain_class, class_title
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, fill, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup
from unkett.core.vocabulary import Area
from unkett.core.vocabulary.words import a

BAND_TOLERANCE_MM = limit_of("band_off_mm")
OUTER_OVER_TEETH = limit_of("outer_over_teeth")
OUTER_UNDER_TEETH = limit_of("outer_under_teeth")
DIFFERENCE_OVER_TEETH = limit_of("outer_difference_over_teeth")
LINE_CLOSE_MM = limit_of("front_line_close_mm")
LINE_FAR_MM = limit_of("front_line_far_mm")
BANDS_MM = {code: row["diameter_mm"] for code, row in lookup("derailleur_bands", "code").items()}

FRONT = rule(
    "front-derailleur",
    title="Front derailleur fits frame, rings, chain and lever",
    plain=(
        "Mount and cable direction must be the frame's. A band must not be smaller than the tube; a larger one takes "
        "its shim, a braze-on derailleur on a round tube a band adapter, a plate goes behind any threaded cup. Rings, "
        "largest ring, difference, chainline and chain must be the derailleur's; the lever must have a position for "
        "each ring and be of one pull family. Two rings with no derailleur: by hand, on a touring bike."
    ),
    why="A cage at the wrong place or with the wrong pull rubs in most gears and throws the chain.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "rings": required("chainrings"),
        "fd": optional("front_derailleur"),
        "frame": optional("frame"),
        "chain": optional("chain"),
        "shifter": optional("front_shifter"),
        "crank": optional("crank"),
        "bike": BIKE,
    },
    messages={
        "fits": "Mount, cable, rings, chain and lever are this derailleur's.",
        "by_hand": "{count} rings and no front derailleur: shifted by hand.",
        "none": "{count} rings and no front derailleur to shift between them.",
        "no_mount": "There is nothing to hold a front derailleur.",
        "other_mount": "Derailleur: {fd.mount}. Frame: {frame.fd_mount}. Incompatible.",
        "no_cup": "The derailleur's plate sits behind a threaded cup; this shell has no thread.",
        "band_small": "Band {band_mm:g} mm; tube {tube_mm:g} mm.",
        "band_shim": "Band {band_mm:g} mm; tube {tube_mm:g} mm: fit its shim.",
        "band_adapter": "A braze-on derailleur on a round tube needs a band adapter.",
        "other_cable": "Its cable comes {fd.cable_from}, the frame's {frame.fd_cable_from}.",
        "too_many_rings": "{count} rings; the derailleur serves {fd.rings}.",
        "outer_over": "A ring of {outer} teeth is one over the derailleur's {limit}.",
        "outer_too_large": "A ring of {outer} teeth is too large for a derailleur made for {limit}.",
        "outer_small": "A ring of {outer} teeth is far under the derailleur's {limit}: look at the cage's curve.",
        "difference_over": "The rings differ by {differ}, one more than the derailleur's {limit}.",
        "difference_too_large": "Chainring difference {differ} T; front derailleur maximum {limit} T.",
        "line_off": "The rings' line is {off_mm:.1f} mm off the derailleur's.",
        "line_too_far": "The rings' line is {off_mm:.1f} mm off the derailleur's: it does not reach.",
        "chain_off": "The derailleur is made for another chain than {a_chain}, by one class.",
        "other_chain": "The derailleur is not made for {a_chain} chain.",
        "other_family": "Lever and derailleur are of two pull families.",
        "few_positions": "The lever has {shifter.speeds} positions for {count} rings.",
        "friction_positions": "A friction lever for {shifter.speeds} rings must reach {count}.",
    },
    figures={
        "count": ("rings there", ""),
        "outer": ("largest ring", ""),
        "limit": ("derailleur's figure", ""),
        "differ": ("largest ring − smallest ring", ""),
        "band_mm": ("diameter of the band", "mm"),
        "tube_mm": ("seat tube outside", "mm"),
        "off_mm": ("distance of the two chainlines", "mm"),
        "a_chain": ("class of the chain", ""),
    },
    sources=("maker-limits",),
)


@FRONT.clause("rings.count fd", may="bike.use", silences=True)
def fitted(rings: View, fd: View, bike: View) -> Outcome | None:
    count = rings.count
    if count == 1 and fd.empty:
        return SILENT
    if require(fd).there:
        return goes("fits", count=count)
    if bike.use == "touring":
        return goes_if("by_hand", need("shift the front by hand, standing"), count=count)
    return no_go("none", fill("front_derailleur", "rings", ">=", count), count=count)


@FRONT.clause("fd.mount", asks="frame.fd_mount frame.seat_tube_od_mm frame.bb_shell")
def mount(fd: View, frame: View) -> Outcome | None:
    if fd.mount == "none":
        return no_go("no_mount", way_out(fd, "mount", "!=", "none"))
    if frame.empty:
        return None
    if fd.mount == "bb_plate":
        if lookup("bracket_shells", "code")[require(frame).bb_shell].get("drive_thread"):
            return None
        return no_go("no_cup", way_out(fd, "mount", "==", frame.fd_mount or "braze_on"))
    if fd.mount in BANDS_MM:
        return _band(fd, frame)
    if fd.mount == require(frame).fd_mount:
        return None
    if fd.mount == "braze_on" and (require(frame).fd_mount == "none" or require(frame).fd_mount in BANDS_MM):
        return goes_if("band_adapter", need("band adapter", where="round the seat tube"))
    return no_go("other_mount", way_out(fd, "mount", "==", require(frame).fd_mount))


def _band(fd: View, frame: View) -> Outcome | None:
    """A band against the tube: by its diameter where that is measured, else by what the frame is said to take."""
    band, own = BANDS_MM[fd.mount], frame.fd_mount
    tube = frame.seat_tube_od_mm
    if tube is None and own in BANDS_MM:
        tube = BANDS_MM[own]
    if tube is not None and band < tube - BAND_TOLERANCE_MM - SLACK:
        return no_go("band_small", way_out(fd, "mount", "==", own or "braze_on"), band_mm=band, tube_mm=tube)
    if own not in (None, "none") and own not in BANDS_MM:
        return no_go("other_mount", way_out(fd, "mount", "==", own))
    tube = tube or require(frame).seat_tube_od_mm
    if near(tube, band, BAND_TOLERANCE_MM):
        return None
    shim = need("band shim", size_mm=tube, where="between band and seat tube")
    return goes_if("band_shim", shim, band_mm=band, tube_mm=tube)


@FRONT.clause("fd", asks="fd.actuation fd.cable_from frame.fd_cable_from")
def cable(fd: View, frame: View) -> Outcome | None:
    if fd.empty or frame.empty or fd.actuation == "electronic":
        return None
    if "either" in (fd.cable_from, frame.fd_cable_from):
        return None
    if require(fd).cable_from == require(frame).fd_cable_from:
        return None
    return no_go("other_cable", way_out(fd, "cable_from", "in", [require(frame).fd_cable_from, "either"]))


@FRONT.clause("rings.count fd.rings")
def served(rings: View, fd: View) -> Outcome | None:
    if rings.count <= fd.rings:
        return None
    return no_go("too_many_rings", way_out(fd, "rings", ">=", rings.count), count=rings.count)


@FRONT.clause("rings.largest_teeth fd.outer_max_teeth")
def outer(rings: View, fd: View) -> Outcome | None:
    largest, limit = rings.largest_teeth, fd.outer_max_teeth
    figures = {"outer": largest, "limit": limit}
    if largest > limit + OUTER_OVER_TEETH:
        return no_go("outer_too_large", way_out(fd, "outer_max_teeth", ">=", largest), **figures)
    if largest > limit:
        return goes_if("outer_over", need("set the cage 1–3 mm over the large ring and look"), **figures)
    if largest < limit - OUTER_UNDER_TEETH:
        return goes_if("outer_small", need("look at the cage's curve against the ring"), **figures)
    return None


@FRONT.clause("rings.count rings.largest_teeth rings.smallest_teeth fd", asks="fd.ring_difference_max_teeth")
def difference(rings: View, fd: View) -> Outcome | None:
    if rings.count == 1 or fd.empty:
        return None
    differ, limit = rings.largest_teeth - rings.smallest_teeth, require(fd).ring_difference_max_teeth
    figures: dict[str, Any] = {"differ": differ, "limit": limit}
    if differ > limit + DIFFERENCE_OVER_TEETH:
        way = way_out(fd, "ring_difference_max_teeth", ">=", differ)
        return no_go("difference_too_large", way, **figures)
    if differ > limit:
        return goes_if("difference_over", need("look at the cage's tail in small/small"), **figures)
    return None


@FRONT.clause(given="fd.chainline_mm crank.chainline_mm")
def chainline(fd: View, crank: View) -> Outcome | None:
    off = abs(fd.chainline_mm - crank.chainline_mm)
    if off <= LINE_CLOSE_MM + SLACK:
        return None
    if off <= LINE_FAR_MM + SLACK:
        return goes_if("line_off", need("look whether the cage reaches both rings"), off_mm=off)
    return no_go("line_too_far", way_out(fd, "chainline_mm", "==", crank.chainline_mm), off_mm=off)


@FRONT.clause("fd.speeds chain.speeds")
def chain_width(fd: View, chain: View) -> Outcome | None:
    has, made_for = chain_class(chain.speeds), [chain_class(count) for count in fd.speeds]
    off = min(abs(has - size) for size in made_for)
    if off == 0:
        return None
    says = a(class_title(has))
    if off == 1:
        return goes_if("chain_off", need("look whether the chain rubs the cage"), a_chain=says)
    return no_go("other_chain", way_out(fd, "speeds", "has", chain.speeds), a_chain=says)


@FRONT.clause("fd shifter", asks="fd.pull_family shifter.pull_family", may="fd.actuation shifter.mode")
def lever(fd: View, shifter: View) -> Outcome | None:
    if (
        fd.empty
        or shifter.empty
        or fd.actuation == "electronic"
        or shifter.mode in ("electronic", "friction")
    ):
        return None
    if require(fd).pull_family == require(shifter).pull_family:
        return None
    return no_go("other_family", way_out(shifter, "pull_family", "==", require(fd).pull_family))


@FRONT.clause("rings.count shifter fd", asks="shifter.speeds", may="shifter.mode")
def positions(rings: View, shifter: View, fd: View) -> Outcome | None:
    friction = shifter.mode == "friction"
    if fd.empty or shifter.empty or shifter.mode == "electronic" or (friction and not shifter.speeds):
        return None
    if require(shifter).speeds >= rings.count:
        return None
    if friction:
        return goes_if(
            "friction_positions", need("look whether the lever reaches every ring"), count=rings.count
        )
    return no_go("few_positions", way_out(shifter, "speeds", ">=", rings.count), count=rings.count)
