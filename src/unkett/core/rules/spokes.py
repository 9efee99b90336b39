"""Spokes: holes, lacing and length."""

from __future__ import annotations

from unkett.core.calc.spokes import (
    LACING_CAUTION_DEG,
    LACING_LIMIT_DEG,
    flange_to_rim,
    leaving_angle,
    spoke_length,
)
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import at_both_ends, both_ends, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, table
from unkett.core.vocabulary import Area

HOLE_UNDER_MM = limit_of("spoke_hole_under_mm")
PLAY_MM = limit_of("spoke_play_mm")
PLAY_WASHERS_MM = limit_of("spoke_play_washers_mm")
NIPPLE_OFF_MM = limit_of("nipple_off_mm")
SPOKE_CLOSE_MM = limit_of("spoke_close_mm")
SPOKE_FAR_MM = limit_of("spoke_far_mm")


HOLES = rule(
    "spoke-holes",
    title="Hub and rim have as many holes",
    plain="Hub and rim must have the same number of spoke holes.",
    why="A wheel with another number of holes in hub and rim cannot be laced evenly.",
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(hub="{end}_hub", rim="{end}_rim"),
    messages={
        "as_built": "A complete wheel, as its manufacturer built it.",
        "same": "{hub.holes} holes in hub and rim.",
        "other": "{hub.holes} holes in the hub, {rim.holes} in the rim.",
    },
    sources=("wheel-building",),
    safety=True,
    one_piece="as_built",
)


@HOLES.clause("hub.holes rim.holes")
def holes(hub: View, rim: View) -> Outcome:
    if hub.holes == rim.holes:
        return goes("same")
    return no_go("other", way_out(rim, "holes", "==", hub.holes), way_out(hub, "holes", "==", rim.holes))


LACING = rule(
    "spoke-lacing",
    title="Spokes lace into the hub",
    plain=(
        "Heads must be the hub's sort; a straight-pull hub fixes the crosses. Spokes that leave at "
        "{lacing_limit_deg}° or more under their neighbour's head cannot be laced; from {lacing_caution_deg}° they "
        "lean on it. The thread must pass the hub's hole; the wire may have {spoke_play_mm} mm of play in it, to "
        "{spoke_play_washers_mm} mm with washers under the heads; the nipples are threaded for the wire."
    ),
    why="A spoke that leaves its flange wrongly breaks at the head.",
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(hub="{end}_hub", spokes="{end}_spokes"),
    messages={
        "as_built": "A complete wheel, as its manufacturer built it.",
        "laces": "Heads are the hub's and the spokes leave at {leaves_deg:.0f}°.",
        "other_head": "Spokes: {spokes.head}. Hub: {hub.spoke_head}. Incompatible.",
        "fixed": "The hub fixes {hub.crosses_fixed} crosses; the spokes are for {spokes.crosses}.",
        "too_many": "{spokes.crosses} crosses with {hub.holes} holes leave at {leaves_deg:.0f}°: it cannot be laced.",
        "leans": (
            "{spokes.crosses} crosses with {hub.holes} holes "
            "leave at {leaves_deg:.0f}°: they lean on the next head."
        ),
        "hole_tight": "Hub holes {hub.spoke_hole_mm:g} mm; the spoke's thread needs {thread_mm:g} mm: try one.",
        "hole_small": "Hub holes {hub.spoke_hole_mm:g} mm; the spoke's thread needs {thread_mm:g} mm.",
        "head_loose": "Play of the wire in the hub's holes {play_mm:.1f} mm: washers under the heads.",
        "head_too_loose": "Play of the wire in the hub's holes {play_mm:.1f} mm: the heads pull through.",
        "nipples": "Nipples for {spokes.nipple_gauge_mm:g} mm; spokes {spokes.gauge_mm:g} mm.",
    },
    figures={
        "leaves_deg": ("crosses × 720 / holes", "°"),
        "thread_mm": ("hole that the thread needs", "mm"),
        "play_mm": ("hole − wire", "mm"),
    },
    sources=("wheel-building",),
    safety=True,
    one_piece="as_built",
)


@LACING.clause("hub.spoke_head spokes.head")
def heads(hub: View, spokes: View) -> Outcome | None:
    if hub.spoke_head == spokes.head:
        return None
    return no_go("other_head", way_out(spokes, "head", "==", hub.spoke_head))


@LACING.clause("spokes.crosses hub.spoke_head", asks="hub.crosses_fixed")
def fixed_crosses(hub: View, spokes: View) -> Outcome | None:
    if hub.spoke_head != "straight_pull" or require(hub).crosses_fixed == spokes.crosses:
        return None
    return no_go("fixed", way_out(spokes, "crosses", "==", require(hub).crosses_fixed))


@LACING.clause("spokes.crosses hub.holes")
def leaving(hub: View, spokes: View) -> Outcome:
    leaves = leaving_angle(spokes.crosses, hub.holes)
    if leaves >= LACING_LIMIT_DEG - SLACK:
        most = int(LACING_LIMIT_DEG / leaving_angle(1, hub.holes) - SLACK)
        return no_go("too_many", way_out(spokes, "crosses", "<=", most), leaves_deg=leaves)
    if leaves >= LACING_CAUTION_DEG - SLACK:
        return goes_if("leans", need("look at the heads: they may lean"), leaves_deg=leaves)
    return goes("laces", leaves_deg=leaves)


def _thread_hole(gauge_mm: float) -> float:
    """The hole that the thread of a gauge needs, by the table; of a wire between two gauges that of the thicker."""
    rows = sorted(table("spoke_threads").rows, key=lambda row: row["gauge_mm"])
    thicker = [row["thread_mm"] for row in rows if row["gauge_mm"] >= gauge_mm - NIPPLE_OFF_MM - SLACK]
    return float(thicker[0] if thicker else rows[-1]["thread_mm"])


@LACING.clause("spokes.gauge_mm", given="hub.spoke_hole_mm")
def wire_in_hole(spokes: View, hub: View) -> Outcome | None:
    thread, play = _thread_hole(spokes.gauge_mm), hub.spoke_hole_mm - spokes.gauge_mm
    figures = {"thread_mm": thread, "play_mm": play}
    if hub.spoke_hole_mm < thread - HOLE_UNDER_MM - SLACK:
        return no_go("hole_small", way_out(hub, "spoke_hole_mm", ">=", thread), **figures)
    if play > PLAY_WASHERS_MM + SLACK:
        way = way_out(spokes, "gauge_mm", ">=", round(hub.spoke_hole_mm - PLAY_WASHERS_MM, 2))
        return no_go("head_too_loose", way, **figures)
    if hub.spoke_hole_mm < thread - SLACK:
        return goes_if("hole_tight", need("try one spoke in the hub's hole"), **figures)
    if play > PLAY_MM + SLACK:
        return goes_if("head_loose", need("washers under the spoke heads"), **figures)
    return None


@LACING.clause("spokes.gauge_mm", given="spokes.nipple_gauge_mm")
def nipples(spokes: View) -> Outcome | None:
    if near(spokes.gauge_mm, spokes.nipple_gauge_mm, NIPPLE_OFF_MM):
        return None
    return no_go("nipples", way_out(spokes, "nipple_gauge_mm", "==", spokes.gauge_mm))


LENGTH = rule(
    "spoke-length",
    title="Spokes are as long as this wheel wants",
    plain=(
        "Each side's spokes against the length worked out from hub, rim and crossing: within {spoke_close_mm} mm "
        "they go, to {spoke_far_mm} mm if nipples and ends are looked at, beyond not. The rotor's side of a disc "
        "wheel and the driven side of a rear wheel are never laced radially. Straight-pull spokes are the hub "
        "maker's business."
    ),
    why=(
        "A spoke that is too short holds by a few threads; one too long stands out of the nipple and "
        "punctures the tube."
    ),
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(
        hub="{end}_hub", rim="{end}_rim", spokes="{end}_spokes", rotor=optional("{end}_rotor")
    ),
    messages={
        "as_built": "A complete wheel, as its manufacturer built it.",
        "to_lace": "Rebuild the wheel with spokes cut to the calculated lengths.",
        "right": "{side} spokes {has_mm:g} mm; calculated {wanted_mm:.1f} mm.",
        "close": "{side} spokes {has_mm:g} mm, {off_mm:.1f} mm too {way}; needed {wanted_mm:.1f} mm.",
        "off": "{side} spokes {has_mm:g} mm; needed {wanted_mm:.1f} mm: {off_mm:.1f} mm too {way}.",
        "radial_disc": "Never lace a disc wheel radially on the rotor side.",
        "radial_driven": "Never lace a driven wheel radially on the drive side.",
    },
    figures={
        "side": ("side of the wheel", ""),
        "has_mm": ("length of the spokes there", "mm"),
        "wanted_mm": ("length worked out for hub, rim and crosses", "mm"),
        "off_mm": ("difference of the two", "mm"),
        "way": ("long or short", ""),
    },
    sources=("wheel-building",),
    safety=True,
    one_piece="as_built",
)


_OF_WHEEL = "hub.holes rim.erd_mm"


@LENGTH.clause(may="hub.spoke_head spokes.head", silences=True)
def bent_heads(hub: View, spokes: View) -> Outcome | None:
    return SILENT if "straight_pull" in (hub.spoke_head, spokes.head) else None


@LENGTH.clause("spokes rotor", may="spokes.crosses spokes.crosses_left")
def radial_disc(spokes: View, rotor: View) -> Outcome | None:
    name = "crosses" if spokes.crosses_left is None else "crosses_left"
    if rotor.empty or getattr(spokes, name) != 0:
        return None
    return no_go("radial_disc", way_out(spokes, name, ">=", 1))


@LENGTH.clause("spokes", may="spokes.crosses spokes.crosses_right")
def radial_driven(spokes: View) -> Outcome | None:
    name = "crosses" if spokes.crosses_right is None else "crosses_right"
    if spokes.slot != "rear_spokes" or getattr(spokes, name) != 0:
        return None
    return no_go("radial_driven", way_out(spokes, name, ">=", 1))


def _side(side: str, hub: View, rim: View, spokes: View) -> Outcome | None:
    own = getattr(spokes, f"crosses_{side}")
    if "straight_pull" in (hub.spoke_head, spokes.head):
        return None
    wants = spoke_length(
        erd_mm=rim.erd_mm,
        pcd_mm=getattr(hub, f"flange_pcd_{side}_mm"),
        offset_mm=flange_to_rim(
            offset_mm=getattr(hub, f"flange_offset_{side}_mm"), drilling_mm=rim.drilling_offset_mm, side=side
        ),
        spokes=hub.holes,
        crosses=require(spokes).crosses if own is None else own,
        hole_mm=hub.spoke_hole_mm or 2.6,
    ).length_mm
    if spokes.to_lace:
        work = [need("relace the wheel")] if side == "left" else []
        return goes_if(
            "to_lace",
            need("spokes", side=side, size_mm=round(wants, 1)),
            *work,
            side=side.capitalize(),
            wanted_mm=wants,
        )
    has = getattr(require(spokes), f"length_{side}_mm")
    off = has - wants
    figures = {
        "side": side.capitalize(),
        "has_mm": has,
        "wanted_mm": wants,
        "off_mm": abs(off),
        "way": "long" if off > 0 else "short",
    }
    if near(off, 0.0, SPOKE_CLOSE_MM):
        return goes("right", **figures)
    if near(off, 0.0, SPOKE_FAR_MM):
        return goes_if("close", need("look at nipples and spoke ends", side=side), **figures)
    return no_go("off", way_out(spokes, f"length_{side}_mm", "==", round(wants, 1)), **figures)


@LENGTH.clause(
    f"hub.flange_pcd_left_mm hub.flange_offset_left_mm {_OF_WHEEL} spokes",
    asks="spokes.crosses spokes.length_left_mm",
    may="spokes.to_lace spokes.crosses_left rim.drilling_offset_mm hub.spoke_hole_mm hub.spoke_head spokes.head",
)
def left_side(hub: View, rim: View, spokes: View) -> Outcome | None:
    return _side("left", hub, rim, spokes)


@LENGTH.clause(
    f"hub.flange_pcd_right_mm hub.flange_offset_right_mm {_OF_WHEEL} spokes",
    asks="spokes.crosses spokes.length_right_mm",
    may="spokes.to_lace spokes.crosses_right rim.drilling_offset_mm hub.spoke_hole_mm hub.spoke_head spokes.head",
)
def right_side(hub: View, rim: View, spokes: View) -> Outcome | None:
    return _side("right", hub, rim, spokes)
