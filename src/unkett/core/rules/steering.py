"""Headset, fork, stem and steerer. All safety."""

from __future__ import annotations

import re
from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.steering import steerer_cut
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
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
from unkett.core.standards import lookup, table
from unkett.core.vocabulary import Area

SIZE_TOLERANCE_MM = 0.1
CLEARANCE_MM = 3.0
CLEARANCE_LEAST_MM = 2.0
CLEARANCE_MOST_MM = 5.0
CARBON_SPACERS_MM = 30.0
SPARE_SPACERS_MM = 15.0


def cup(code: str) -> tuple[str, str]:
    """A headset code's type and bore: 'ZS44/28.6' gives ('ZS', 'ZS44')."""
    bare = code.split("/")[0]
    return bare[:2], bare


def carried(code: str | None) -> float | None:
    """What stands after the slash, in mm; None where nothing does."""
    if code is None or "/" not in code:
        return None
    row = lookup("headset_carries", "code").get(code.split("/")[1])
    if row is not None:
        return float(row["mm"])
    return float(re.sub(r"[^\d.]", "", code.split("/")[1]))


@rule(
    "headset-fit",
    title="Headset sits in the head tube",
    plain=(
        "Upper and lower each want the frame's bore. External and flush cups of one bore interchange, which changes "
        "the stack. A bearing straight in the frame wants its own diameter and seat angle; 36° and 45° never mix."
    ),
    area=Area.STEERING,
    reads={
        "frame": ("headset_upper", "headset_lower", optional("headset_seat_deg")),
        "headset": ("upper", "lower", optional("bearing_angle_deg")),
    },
    messages={
        "fits": "Both cups are the frame's.",
        "other_cup": "The {place} cup is {head} in a {tube} head tube: the stack changes.",
        "other_bore": "A {head} does not go in a {tube} head tube ({place}).",
        "own_bearing": "{tube} takes its own bearing only, not a {head} ({place}).",
        "other_angle": "A {headset.bearing_angle_deg:g}° bearing on a {frame.headset_seat_deg:g}° seat does not hold.",
        "angle_unknown": "The seat's or the bearing's angle is not known; 36° and 45° never mix.",
    },
    figures={
        "place": "which end of the head tube",
        "head": "code of the headset",
        "tube": "code of the head tube",
    },
    sources=("headsets",),
    safety=True,
)
def headset_fit(frame: View, headset: View) -> Outcome:
    looks = [
        _cup_fit("upper", frame, headset, frame.headset_upper, headset.upper),
        _cup_fit("lower", frame, headset, frame.headset_lower, headset.lower),
        goes("fits"),
    ]
    return worst_outcome(looks) or goes("fits")


def _cup_fit(place: str, frame: View, headset: View, tube_code: str, head_code: str) -> Outcome | None:
    (tube_type, tube), (head_type, head) = cup(tube_code), cup(head_code)
    figures = {"place": place, "head": head, "tube": tube}
    way = way_out(headset, place, "==", tube)
    groups = {code: lookup("headset_bores", "code").get(code, {}).get("group", code) for code in (tube, head)}
    if "IS" in (tube_type, head_type):
        if tube != head:
            return no_go("own_bearing", way, **figures)
        pairs = ((frame, "headset_seat_deg"), (headset, "bearing_angle_deg"))
        asks = missing(*pairs)
        if asks:
            return unmeasured("angle_unknown", *asks, **figures)
        if not near(frame.headset_seat_deg, headset.bearing_angle_deg, 0.5):
            return no_go(
                "other_angle", way_out(headset, "bearing_angle_deg", "==", frame.headset_seat_deg), **figures
            )
        return None
    if groups[tube] != groups[head]:
        return no_go("other_bore", way, **figures)
    if tube_type != head_type:
        return goes_if("other_cup", need("work the steerer length out again: the stack changes"), **figures)
    return None


@rule(
    "steerer-fit",
    title="Fork goes in the headset",
    plain=(
        "The steerer must be the upper cup's, the crown race the fork's seat. A race larger than the seat takes "
        "a reducer where one is made; a smaller one does not go. A straight fork in a tapered head tube takes "
        "such a reducer."
    ),
    area=Area.STEERING,
    reads={
        "headset": (
            optional("upper"),
            optional("lower"),
            optional("steerer_upper_mm"),
            optional("crown_race_mm"),
        ),
        "fork": ("steerer_upper_mm", "crown_race_mm"),
    },
    messages={
        "fits": "Steerer {fork.steerer_upper_mm:g} and crown race {fork.crown_race_mm:g} mm are the headset's.",
        "other_steerer": "The upper cup takes a {takes_mm:g} mm steerer; the fork's is {fork.steerer_upper_mm:g}.",
        "reducer": "The headset's race is {takes_mm:g} mm, the fork's seat {fork.crown_race_mm:g}.",
        "other_race": "The headset's race is {takes_mm:g} mm; the fork's seat is {fork.crown_race_mm:g}.",
        "unknown": "What the headset takes is not measured.",
    },
    figures={"takes_mm": "what the headset takes"},
    sources=("headsets", "steering-practice"),
    safety=True,
)
def steerer_fit(headset: View, fork: View) -> Outcome:
    upper = headset.steerer_upper_mm if headset.steerer_upper_mm is not None else carried(headset.upper)
    race = headset.crown_race_mm if headset.crown_race_mm is not None else carried(headset.lower)
    looks: list[Outcome | None] = [goes("fits")]
    if upper is not None and not near(upper, fork.steerer_upper_mm, SIZE_TOLERANCE_MM):
        way = way_out(headset, "steerer_upper_mm", "==", fork.steerer_upper_mm)
        looks.append(no_go("other_steerer", way, takes_mm=upper))
    if race is not None and not near(race, fork.crown_race_mm, SIZE_TOLERANCE_MM):
        looks.append(_reducer(headset, fork, race))
    asks = [
        (headset, name)
        for name, value in (("steerer_upper_mm", upper), ("crown_race_mm", race))
        if value is None
    ]
    if asks:
        looks.append(unmeasured("unknown", *asks))
    return worst_outcome(looks) or goes("fits")


def _reducer(headset: View, fork: View, race: float) -> Outcome:
    for row in table("crown_reducers").rows:
        if near(row["race_mm"], race, SIZE_TOLERANCE_MM) and near(
            row["seat_mm"], fork.crown_race_mm, SIZE_TOLERANCE_MM
        ):
            ring = need("reducer crown race", race_mm=row["race_mm"], size_mm=row["seat_mm"])
            return goes_if("reducer", ring, takes_mm=race)
    return no_go("other_race", way_out(headset, "crown_race_mm", "==", fork.crown_race_mm), takes_mm=race)


@rule(
    "fork-length",
    title="Fork is no longer than the frame allows",
    plain=(
        "Axle to crown must not exceed the frame's limit; more travel than the fork's internals allow does not "
        "go: less overlap of the bushings, a damper pulled apart."
    ),
    area=Area.STEERING,
    reads={
        "frame": ("fork_a2c_max_mm",),
        "fork": ("axle_to_crown_mm", optional("travel_mm"), optional("travel_max_mm")),
    },
    messages={
        "within": "{fork.axle_to_crown_mm:g} mm axle to crown; up to {frame.fork_a2c_max_mm:g} is allowed.",
        "too_long": "{fork.axle_to_crown_mm:g} mm axle to crown is over the {frame.fork_a2c_max_mm:g} allowed.",
        "too_much_travel": "{fork.travel_mm:g} mm of travel; the fork allows {fork.travel_max_mm:g}.",
    },
    sources=("maker-limits",),
    safety=True,
)
def fork_length(frame: View, fork: View) -> Outcome:
    if fork.axle_to_crown_mm > frame.fork_a2c_max_mm + SLACK:
        return no_go("too_long", way_out(fork, "axle_to_crown_mm", "<=", frame.fork_a2c_max_mm))
    if None not in (fork.travel_mm, fork.travel_max_mm) and fork.travel_mm > fork.travel_max_mm + SLACK:
        return no_go("too_much_travel", way_out(fork, "travel_mm", "<=", fork.travel_max_mm))
    return goes("within")


@rule(
    "stem-steerer",
    title="Stem holds on the steerer",
    plain=(
        "A threadless stem clamps a threadless steerer of its own size, or a smaller one through a sleeve that is "
        "made. A quill goes in a threaded steerer of its size. Never a clamp on a thread, never a quill without one."
    ),
    area=Area.STEERING,
    reads={"stem": ("mount", "steerer_mm"), "fork": ("steerer_upper_mm", "steerer_threaded")},
    messages={
        "clamps": "The stem clamps {stem.steerer_mm:g} mm, the steerer is {fork.steerer_upper_mm:g}.",
        "quill": "A {stem.steerer_mm:g} mm quill goes in a {fork.steerer_upper_mm:g} mm threaded steerer.",
        "sleeve": "The stem clamps {stem.steerer_mm:g} mm, the steerer is {fork.steerer_upper_mm:g}: a sleeve is made.",
        "on_thread": "A clamp does not hold on a threaded steerer.",
        "quill_in_threadless": "A quill does not hold in a threadless steerer.",
        "other_size": "The stem is for {stem.steerer_mm:g} mm; the steerer is {fork.steerer_upper_mm:g}.",
    },
    sources=("steering-practice",),
    safety=True,
)
def stem_steerer(stem: View, fork: View) -> Outcome:
    size, steerer = stem.steerer_mm, fork.steerer_upper_mm
    if stem.mount == "quill":
        if not fork.steerer_threaded:
            return no_go("quill_in_threadless", way_out(stem, "mount", "==", "threadless"))
        rows = table("quills").rows
        if any(near(row["quill_mm"], size, 0.2) and near(row["steerer_mm"], steerer, 0.2) for row in rows):
            return goes("quill")
        return no_go("other_size", *[way_out(stem, "steerer_mm", "==", row["quill_mm"]) for row in rows[:1]])
    if fork.steerer_threaded:
        return no_go("on_thread", way_out(stem, "mount", "==", "quill"))
    if near(size, steerer, SIZE_TOLERANCE_MM):
        return goes("clamps")
    for row in table("stem_sleeves").rows:
        if near(row["clamp_mm"], size, SIZE_TOLERANCE_MM) and near(
            row["steerer_mm"], steerer, SIZE_TOLERANCE_MM
        ):
            return goes_if("sleeve", need("sleeve", size_mm=steerer, where="between steerer and stem"))
    return no_go("other_size", way_out(stem, "steerer_mm", "==", steerer))


@rule(
    "steerer-length",
    title="Steerer is as long as its stack",
    plain=(
        "Lower stack, head tube, upper stack, spacers and stem, less 2 to 5 mm so that the cap presses the stack. "
        "A shorter steerer does not go. A longer one is cut, which cannot be undone, or takes spacers above."
    ),
    area=Area.STEERING,
    reads={
        "frame": (optional("head_tube_length_mm"),),
        "headset": (optional("stack_upper_mm"), optional("stack_lower_mm")),
        "spacers": (optional("below_mm"), optional("above_mm")),
        "stem": ("mount", optional("clamp_height_mm")),
        "fork": (optional("steerer_length_mm"),),
    },
    messages={
        "right": "The steerer is {fork.steerer_length_mm:g} mm, the stack wants {wanted_mm:.1f}.",
        "short": "The steerer is {short_mm:.1f} mm short of the {wanted_mm:.1f} mm its stack wants.",
        "long": "The steerer is {over_mm:.1f} mm longer than the {wanted_mm:.1f} mm its stack wants.",
        "unknown": "Not all of the stack is measured: stacks, head tube, spacers, clamp, steerer.",
    },
    figures={
        "wanted_mm": "lower + head tube + upper + spacers + clamp − 3",
        "short_mm": "wanted − steerer",
        "over_mm": "steerer − wanted",
    },
    sources=("steering-practice",),
    safety=True,
)
def steerer_length(frame: View, headset: View, spacers: View, stem: View, fork: View) -> Outcome | None:
    if stem.mount == "quill":
        return None
    pairs = (
        (headset, "stack_lower_mm"),
        (frame, "head_tube_length_mm"),
        (headset, "stack_upper_mm"),
        (spacers, "below_mm"),
        (stem, "clamp_height_mm"),
        (spacers, "above_mm"),
        (fork, "steerer_length_mm"),
    )
    asks = missing(*pairs)
    if asks:
        return unmeasured("unknown", *asks)
    result = steerer_cut(
        lower_stack_mm=headset.stack_lower_mm,
        head_tube_mm=frame.head_tube_length_mm,
        upper_stack_mm=headset.stack_upper_mm,
        spacers_below_mm=spacers.below_mm,
        clamp_height_mm=stem.clamp_height_mm,
        spacers_above_mm=spacers.above_mm,
        clearance_mm=CLEARANCE_MM,
        steerer_mm=fork.steerer_length_mm,
    )
    over = result.cut_off_mm or 0.0
    figures: dict[str, Any] = {
        "wanted_mm": result.length_mm,
        "over_mm": max(0.0, over),
        "short_mm": max(0.0, -over),
    }
    if over < CLEARANCE_MM - CLEARANCE_MOST_MM - SLACK:
        ways = (
            way_out(fork, "steerer_length_mm", ">=", result.length_mm),
            way_out(spacers, "below_mm", "<=", max(0.0, spacers.below_mm + over)),
        )
        return no_go("short", *ways, **figures)
    if over > CLEARANCE_MM - CLEARANCE_LEAST_MM + SLACK:
        cut = need(
            "cut off", size_mm=round(over, 1), where="at the top", caution="cannot be undone: measure twice"
        )
        spare = need("or spacers above the stem", caution=f"leave {SPARE_SPACERS_MM:g} mm for later changes")
        return goes_if("long", cut, spare, **figures)
    return goes("right", **figures)


@rule(
    "steerer-anchor",
    title="Anchor suits the steerer",
    plain=(
        "A star-fangled nut splits a carbon steerer: carbon takes an expander plug. The plug must lie within the "
        "clamp's height, so that it backs the tube where the stem grips."
    ),
    area=Area.STEERING,
    reads={
        "headset": ("anchor", optional("anchor_depth_mm")),
        "fork": (optional("steerer_material"),),
        "stem": at("stem", optional("clamp_height_mm"), may_be_empty=True),
        "spacers": at("spacers", optional("above_mm"), may_be_empty=True),
    },
    messages={
        "suits": "The anchor suits the steerer.",
        "splits": "A star-fangled nut splits a carbon steerer.",
        "too_deep": "The plug sits {headset.anchor_depth_mm:g} mm down, below the stem's clamp ({reach_mm:g} mm).",
        "unknown": "The steerer's material is not known; a star-fangled nut splits carbon.",
    },
    figures={"reach_mm": "spacers above + clamp height"},
    sources=("steering-practice",),
    safety=True,
)
def steerer_anchor(headset: View, fork: View, stem: View, spacers: View) -> Outcome:
    if headset.anchor == "expander":
        depth, clamp = headset.anchor_depth_mm, stem.clamp_height_mm
        if depth is None or clamp is None:
            return goes("suits")
        reach = clamp + (spacers.above_mm or 0.0)
        if depth > reach + SLACK:
            return no_go("too_deep", way_out(headset, "anchor_depth_mm", "<=", reach), reach_mm=reach)
        return goes("suits", reach_mm=reach)
    if fork.steerer_material is None:
        return unmeasured("unknown", (fork, "steerer_material"))
    if fork.steerer_material == "carbon":
        return no_go("splits", way_out(headset, "anchor", "==", "expander"))
    return goes("suits")


@rule(
    "stem-spacers",
    title="Spacers under the stem are within the limit",
    plain="The maker's limit wins; a carbon steerer without a figure takes 30 mm at most.",
    area=Area.STEERING,
    reads={
        "spacers": ("below_mm",),
        "stem": (optional("max_spacers_mm"),),
        "fork": (optional("steerer_material"),),
    },
    messages={
        "within": "{spacers.below_mm:g} mm of spacers under the stem.",
        "too_many": "{spacers.below_mm:g} mm of spacers under the stem; {limit_mm:g} is the most.",
        "unknown": "The steerer's material is not known; carbon takes 30 mm at most.",
    },
    figures={"limit_mm": "maker's limit, or 30 mm on carbon"},
    sources=("steering-practice", "maker-limits"),
    safety=True,
)
def stem_spacers(spacers: View, stem: View, fork: View) -> Outcome:
    limit = stem.max_spacers_mm
    if limit is None and spacers.below_mm > CARBON_SPACERS_MM + SLACK:
        if fork.steerer_material is None:
            return unmeasured("unknown", (fork, "steerer_material"))
        limit = CARBON_SPACERS_MM if fork.steerer_material == "carbon" else None
    if limit is None or spacers.below_mm <= limit + SLACK:
        return goes("within")
    return no_go("too_many", way_out(spacers, "below_mm", "<=", limit), limit_mm=limit)
