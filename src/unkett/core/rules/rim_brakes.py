"""Rim brakes: reach to the track, the track itself, the bolt, the room between the arms. All safety."""

from __future__ import annotations

from unkett.core.calc.brakes import reach_from_bolt
from unkett.core.calc.wheels import nominal_within, real_width
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, end_of, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

PAD_SLOT_MM = limit_of("pad_slot_mm")
BOLTED = ("dual_pivot",)
ON_BOSSES = ("linear_pull", "cantilever", "u_brake")
RIM_BRAKES = (*BOLTED, *ON_BOSSES)

REACH = rule(
    "rim-brake-reach",
    title="Pads reach the rim",
    plain=(
        "A bolted brake must reach from its bolt to the track (bolt radius less half the rim size). Bosses are "
        "placed for one rim size; the pads' slots give {pad_slot_mm} mm of radius."
    ),
    why="Pads that miss the track cut the tyre or dive into the spokes.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(holder=HOLDER, caliper="{end}_caliper", rim="{end}_rim"),
    messages={
        "reaches": "The pads must reach {needed_mm:.1f} mm; the brake reaches {low_mm:g} to {high_mm:g}.",
        "too_far": "Brake reach {low_mm:g}–{high_mm:g} mm; needs {needed_mm:.1f} mm.",
        "same_size": "The bosses are placed for this rim size.",
        "in_slot": "The track is {off_mm:.1f} mm off what the bosses are placed for: within the pads' slots.",
        "off_slot": "The track is {off_mm:.1f} mm off what the bosses are placed for: out of the pads' slots.",
    },
    figures={
        "needed_mm": ("bolt radius − rim size / 2", "mm"),
        "low_mm": ("brake's reach, pads up", "mm"),
        "high_mm": ("brake's reach, pads down", "mm"),
        "off_mm": ("half the difference of the rim sizes", "mm"),
    },
    sources=("brake-practice", "rims-iso"),
    safety=True,
)


@REACH.clause("caliper.type", silences=True)
def is_rim_brake(caliper: View) -> Outcome | None:
    return None if caliper.type in RIM_BRAKES else SILENT


@REACH.clause("caliper.type rim.bsd_mm", asks="holder.bridge_radius_mm caliper.reach_mm")
def from_the_bolt(caliper: View, rim: View, holder: View) -> Outcome | None:
    if caliper.type not in BOLTED:
        return None
    require(holder, "bridge_radius_mm")
    needed = reach_from_bolt(bridge_radius_mm=require(holder).bridge_radius_mm, bsd_mm=rim.bsd_mm).reach_mm
    low, high = require(caliper).reach_mm
    figures = {"needed_mm": needed, "low_mm": low, "high_mm": high}
    if low - SLACK <= needed <= high + SLACK:
        return goes("reaches", **figures)
    return no_go("too_far", way_out(caliper, "reach_mm", "has", needed), **figures)


@REACH.clause("caliper.type rim.bsd_mm", asks="holder.post_bsd_mm")
def on_bosses(caliper: View, rim: View, holder: View) -> Outcome | None:
    if caliper.type not in ON_BOSSES:
        return None
    off = abs(rim.bsd_mm - require(holder).post_bsd_mm) / 2
    if off <= SLACK:
        return goes("same_size")
    if off <= PAD_SLOT_MM + SLACK:
        return goes_if("in_slot", need("move the pads in their slots, fully on the track"), off_mm=off)
    return no_go("off_slot", way_out(rim, "bsd_mm", "==", require(holder).post_bsd_mm), off_mm=off)


TRACK = rule(
    "rim-brake-track",
    title="Rim has a brake track",
    plain="A rim brake wants a rim with a braking track; a rim without one never carries a rim brake.",
    why="A rim without a track wears through quickly and brakes badly while it does.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(caliper="{end}_caliper", rim="{end}_rim"),
    messages={"track": "The rim has a brake track.", "no_track": "The rim has no brake track."},
    sources=("brake-practice",),
    safety=True,
)


@TRACK.clause("caliper.type", asks="rim.brake_track", silences=True)
def track(caliper: View, rim: View) -> Outcome | None:
    if caliper.type not in RIM_BRAKES:
        return SILENT
    return (
        goes("track")
        if require(rim).brake_track
        else no_go("no_track", way_out(rim, "brake_track", "==", True))
    )


BOLT = rule(
    "rim-brake-bolt",
    title="Brake bolt suits its hole",
    plain=(
        "Recessed bolts want a hole of {bolt_hole_mm} mm behind, nutted ones go through. Where either is "
        "unknown it is looked at."
    ),
    why="A bolt that does not reach its nut holds the brake by a few threads.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(holder=HOLDER, caliper="{end}_caliper"),
    messages={
        "same": "The brake bolt fits this hole.",
        "other": "The brake's bolt is {caliper.bolt}, its hole {holder.brake_bolt}.",
    },
    sources=("brake-practice",),
    safety=True,
)


@BOLT.clause("caliper.type", given="caliper.bolt holder.brake_bolt", silences=True)
def bolt(caliper: View, holder: View) -> Outcome | None:
    if caliper.type not in BOLTED:
        return SILENT
    if caliper.bolt == holder.brake_bolt:
        return goes("same")
    return no_go("other", way_out(caliper, "bolt", "==", holder.brake_bolt))


ROOM = rule(
    "rim-brake-room",
    title="Rim and tyre have room in the brake",
    plain=(
        "The rim's outside width must lie in the caliper's range. A dual-pivot brake must clear the tyre's height. A "
        "cantilever wants a hanger for its straddle cable: in front at fork or headset, behind at the frame."
    ),
    why="A brake that cannot open around the tyre rubs, or cannot be released to take the wheel out.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(
        caliper="{end}_caliper",
        rim="{end}_rim",
        tyre=optional("{end}_tyre"),
        holder=HOLDER,
        headset=optional("headset"),
    ),
    messages={
        "room": "The rim fits between the pads.",
        "rim": "Rim {rim.outer_width_mm:g} mm wide outside; brake takes {low_mm:g} to {high_mm:g} mm.",
        "tyre": "Tyre {tyre_mm:.1f} mm high; {caliper.tyre_max_mm:g} mm clear the brake.",
        "no_hanger": "A cantilever brake needs a cable hanger; there is none.",
        "hanger_unknown": "A cantilever brake needs a cable hanger. Not recorded: whether there is one.",
    },
    figures={
        "low_mm": ("narrowest rim for the brake", "mm"),
        "high_mm": ("widest rim for the brake", "mm"),
        "tyre_mm": ("tyre's height, as its real width", "mm"),
    },
    sources=("brake-practice",),
    safety=True,
)


@ROOM.clause("caliper.type", silences=True)
def pinches_a_rim(caliper: View) -> Outcome | None:
    return None if caliper.type in RIM_BRAKES else SILENT


@ROOM.clause("caliper.type", asks="rim.outer_width_mm caliper.rim_width_mm")
def rim_width(caliper: View, rim: View) -> Outcome | None:
    if caliper.type not in RIM_BRAKES:
        return None
    require(caliper, "rim_width_mm")
    low, high = require(caliper).rim_width_mm
    if low - SLACK <= require(rim).outer_width_mm <= high + SLACK:
        return goes("room")
    return no_go(
        "rim", way_out(caliper, "rim_width_mm", "has", require(rim).outer_width_mm), low_mm=low, high_mm=high
    )


@ROOM.clause(
    "caliper.type tyre",
    asks="caliper.tyre_max_mm tyre.width_mm",
    may="tyre.width_measured_mm rim.inner_width_mm",
)
def tyre_height(caliper: View, tyre: View, rim: View) -> Outcome | None:
    if caliper.type not in BOLTED or tyre.empty:
        return None
    height = real_width(
        nominal_mm=tyre.width_mm, measured_mm=tyre.width_measured_mm, inner_mm=rim.inner_width_mm
    )
    if height is None:
        require(tyre, "width_mm")
    require(caliper, "tyre_max_mm")
    if height is None or height <= require(caliper).tyre_max_mm + SLACK:
        return None
    nominal = nominal_within(require(caliper).tyre_max_mm, tyre.width_mm, height)
    return no_go("tyre", way_out(tyre, "width_mm", "<=", nominal), tyre_mm=height)


@ROOM.clause("caliper.type", may="holder.cable_hanger headset.cable_hanger")
def cable_hanger(caliper: View, holder: View, headset: View) -> Outcome | None:
    if caliper.type != "cantilever":
        return None
    places = [holder, headset] if end_of(holder) == "front" else [holder]
    has = [view.cable_hanger for view in places]
    if True in has:
        return None
    unknown = [(view, "cable_hanger") for view, value in zip(places, has, strict=True) if value is None]
    if unknown:
        return unmeasured("hanger_unknown", *unknown)
    return no_go("no_hanger", way_out(holder, "cable_hanger", "==", True))
