"""Rim brakes: reach to the track, the track itself, the bolt. All safety."""

from __future__ import annotations

from unkett.core.calc.base import SLACK
from unkett.core.calc.brakes import reach_from_bolt
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    both_ends,
    goes,
    goes_if,
    missing,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.rules.ends import holder
from unkett.core.vocabulary import Area

PAD_SLOT_MM = 6.0
BOLTED = ("dual_pivot",)
ON_BOSSES = ("linear_pull", "cantilever", "u_brake")
RIM_BRAKES = (*BOLTED, *ON_BOSSES)


@rule(
    "rim-brake-reach",
    title="Pads reach the rim",
    plain=(
        "A bolted brake must reach from its bolt to the track (bolt radius less half the rim size). Bosses are "
        "placed for one rim size; the pads' slots give 6 mm of radius."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        holder=holder(optional("bridge_radius_mm"), optional("post_bsd_mm")),
        caliper=at("{end}_caliper", "type", optional("reach_mm")),
        rim=at("{end}_rim", "bsd_mm"),
    ),
    messages={
        "reaches": "The pads must reach {needed_mm:.1f} mm; the brake reaches {low_mm:g} to {high_mm:g}.",
        "too_far": "The pads must reach {needed_mm:.1f} mm; the brake reaches only {low_mm:g} to {high_mm:g}.",
        "same_size": "The bosses are placed for this rim size.",
        "in_slot": "The track is {off_mm:.1f} mm off what the bosses are placed for: within the pads' slots.",
        "off_slot": "The track is {off_mm:.1f} mm off what the bosses are placed for: out of the pads' slots.",
        "unknown": "Where the brake sits, or how far it reaches, is not measured.",
    },
    figures={
        "needed_mm": "bolt radius − rim size / 2",
        "low_mm": "brake's reach, pads up",
        "high_mm": "brake's reach, pads down",
        "off_mm": "half the difference of the rim sizes",
    },
    sources=("brake-practice", "rims-iso"),
    safety=True,
)
def rim_brake_reach(holder: View, caliper: View, rim: View) -> Outcome | None:
    if caliper.type in ON_BOSSES:
        return _on_bosses(holder, rim)
    if caliper.type not in BOLTED:
        return None
    pairs = ((holder, "bridge_radius_mm"), (caliper, "reach_mm"))
    asks = missing(*pairs)
    if asks:
        return unmeasured("unknown", *asks)
    needed = reach_from_bolt(bridge_radius_mm=holder.bridge_radius_mm, bsd_mm=rim.bsd_mm).reach_mm
    low, high = caliper.reach_mm
    figures = {"needed_mm": needed, "low_mm": low, "high_mm": high}
    if low - SLACK <= needed <= high + SLACK:
        return goes("reaches", **figures)
    return no_go("too_far", way_out(caliper, "reach_mm", "has", needed), **figures)


def _on_bosses(holder: View, rim: View) -> Outcome:
    if holder.post_bsd_mm is None:
        return unmeasured("unknown", (holder, "post_bsd_mm"))
    off = abs(rim.bsd_mm - holder.post_bsd_mm) / 2
    if off <= SLACK:
        return goes("same_size")
    if off <= PAD_SLOT_MM + SLACK:
        return goes_if("in_slot", need("move the pads in their slots, fully on the track"), off_mm=off)
    return no_go("off_slot", way_out(rim, "bsd_mm", "==", holder.post_bsd_mm), off_mm=off)


@rule(
    "rim-brake-track",
    title="Rim has a brake track",
    plain="A rim brake wants a rim with a braking track; a rim without one never carries a rim brake.",
    area=Area.BRAKES,
    reads=both_ends(caliper=at("{end}_caliper", "type"), rim=at("{end}_rim", optional("brake_track"))),
    messages={
        "track": "The rim has a brake track.",
        "no_track": "The rim has no brake track.",
        "unknown": "Whether the rim has a brake track is not known.",
    },
    sources=("brake-practice",),
    safety=True,
)
def rim_brake_track(caliper: View, rim: View) -> Outcome | None:
    if caliper.type not in RIM_BRAKES:
        return None
    if rim.brake_track is None:
        return unmeasured("unknown", (rim, "brake_track"))
    return goes("track") if rim.brake_track else no_go("no_track", way_out(rim, "brake_track", "==", True))


@rule(
    "rim-brake-bolt",
    title="Brake bolt suits its hole",
    plain="Recessed bolts want an 8 mm hole behind, nutted ones go through. Where either is unknown it is looked at.",
    area=Area.BRAKES,
    reads=both_ends(
        holder=holder(optional("brake_bolt")), caliper=at("{end}_caliper", "type", optional("bolt"))
    ),
    messages={
        "same": "The brake's bolt is the one for this hole ({caliper.bolt}).",
        "other": "A {caliper.bolt} bolt does not suit a {holder.brake_bolt} hole.",
    },
    sources=("brake-practice",),
    safety=True,
)
def rim_brake_bolt(holder: View, caliper: View) -> Outcome | None:
    if caliper.type not in BOLTED or caliper.bolt is None or holder.brake_bolt is None:
        return None
    if caliper.bolt == holder.brake_bolt:
        return goes("same")
    return no_go("other", way_out(caliper, "bolt", "==", holder.brake_bolt))
