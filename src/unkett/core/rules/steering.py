"""Stem, steerer, anchor and spacers. All safety."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.steering import steerer_cut
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, table
from unkett.core.vocabulary import Area

SIZE_TOLERANCE_MM = limit_of("steering_off_mm")
QUILL_TOLERANCE_MM = limit_of("quill_off_mm")
CLEARANCE_MM = limit_of("steerer_clearance_mm")
CLEARANCE_LEAST_MM = limit_of("steerer_clearance_least_mm")
CLEARANCE_MOST_MM = limit_of("steerer_clearance_most_mm")
CARBON_SPACERS_MM = limit_of("carbon_spacers_mm")
SPARE_SPACERS_MM = limit_of("spare_spacers_mm")


STEM = rule(
    "stem-steerer",
    title="Stem holds on the steerer",
    plain=(
        "A threadless stem clamps a threadless steerer of its own size, or a smaller one through a sleeve that is "
        "made. A quill goes in a threaded steerer of its size. Never a clamp on a thread, never a quill without one."
    ),
    why="A stem that slips on its steerer leaves the rider with a bar that does not steer.",
    area=Area.STEERING,
    joint="steerer",
    parts={"stem": "stem", "fork": "fork"},
    messages={
        "clamps": "The stem clamps {stem.steerer_mm:g} mm, the steerer is {fork.steerer_upper_mm:g}.",
        "quill": "A {stem.steerer_mm:g} mm quill goes in a {fork.steerer_upper_mm:g} mm threaded steerer.",
        "sleeve": "The stem clamps {stem.steerer_mm:g} mm, the steerer is {fork.steerer_upper_mm:g}: a sleeve is made.",
        "on_thread": "A clamp does not hold on a threaded steerer.",
        "quill_in_threadless": "A quill does not hold in a threadless steerer.",
        "no_quill": "A quill of {stem.steerer_mm:g} mm goes in no steerer.",
        "other_size": "Stem {stem.steerer_mm:g} mm; steerer {fork.steerer_upper_mm:g} mm.",
    },
    sources=("steering-practice",),
    safety=True,
)


@STEM.clause("stem.mount fork.steerer_threaded")
def thread(stem: View, fork: View) -> Outcome | None:
    if (stem.mount == "quill") == bool(fork.steerer_threaded):
        return None
    if stem.mount == "quill":
        return no_go("quill_in_threadless", way_out(stem, "mount", "==", "threadless"))
    return no_go("on_thread", way_out(stem, "mount", "==", "quill"))


@STEM.clause("stem.mount stem.steerer_mm fork.steerer_upper_mm")
def stem_size(stem: View, fork: View) -> Outcome:
    size, steerer = stem.steerer_mm, fork.steerer_upper_mm
    if stem.mount == "quill":
        rows = table("quills").rows
        if any(
            near(row["quill_mm"], size, QUILL_TOLERANCE_MM)
            and near(row["steerer_mm"], steerer, QUILL_TOLERANCE_MM)
            for row in rows
        ):
            return goes("quill")
        quills = [row["quill_mm"] for row in rows if near(row["steerer_mm"], steerer, QUILL_TOLERANCE_MM)]
        if not quills:
            return no_go("other_size", way_out(stem, "mount", "==", "threadless"))
        return no_go("other_size", way_out(stem, "steerer_mm", "in", quills))
    if near(size, steerer, SIZE_TOLERANCE_MM):
        return goes("clamps")
    for row in table("stem_sleeves").rows:
        clamp = near(row["clamp_mm"], size, SIZE_TOLERANCE_MM)
        if clamp and near(row["steerer_mm"], steerer, SIZE_TOLERANCE_MM):
            return goes_if("sleeve", need("stem sleeve", size_mm=steerer, where="between steerer and stem"))
    return no_go("other_size", way_out(stem, "steerer_mm", "==", steerer))


@STEM.clause("stem.mount stem.steerer_mm")
def quill_size(stem: View) -> Outcome | None:
    """Return a quill of a size that no steerer takes."""
    sizes = [row["quill_mm"] for row in table("quills").rows]
    if stem.mount != "quill" or any(near(size, stem.steerer_mm, QUILL_TOLERANCE_MM) for size in sizes):
        return None
    return no_go("no_quill", way_out(stem, "steerer_mm", "in", sizes))


@STEM.clause("stem.steerer_mm fork.steerer_upper_mm")
def any_size(stem: View, fork: View) -> Outcome | None:
    """Sizes that hold neither as a clamp nor as a quill."""
    size, steerer = stem.steerer_mm, fork.steerer_upper_mm
    pairs = [(row["quill_mm"], row["steerer_mm"], QUILL_TOLERANCE_MM) for row in table("quills").rows]
    pairs += [(row["clamp_mm"], row["steerer_mm"], SIZE_TOLERANCE_MM) for row in table("stem_sleeves").rows]
    pairs.append((steerer, steerer, SIZE_TOLERANCE_MM))
    if any(near(of, size, within) and near(tube, steerer, within) for of, tube, within in pairs):
        return None
    return no_go("other_size", way_out(stem, "steerer_mm", "==", steerer))


LENGTH = rule(
    "steerer-length",
    title="Steerer is as long as its stack",
    plain=(
        "Lower stack, head tube, upper stack, spacers and stem, less {steerer_clearance_least_mm} to "
        "{steerer_clearance_most_mm} mm so that the cap presses the stack. A shorter steerer does not go. A longer "
        "one is cut, which cannot be undone, or takes spacers above. A threaded steerer must reach through head tube "
        "and cups."
    ),
    why=(
        "Without a gap under the cap the bearings cannot be preloaded; a short steerer is not gripped by the "
        "whole stem."
    ),
    area=Area.STEERING,
    joint="steerer",
    parts={"frame": "frame", "headset": "headset", "spacers": "spacers", "stem": "stem", "fork": "fork"},
    messages={
        "right": "Steerer {fork.steerer_length_mm:g} mm; needs {wanted_mm:.1f} mm.",
        "short": "Steerer {short_mm:.1f} mm too short; needs {wanted_mm:.1f} mm.",
        "short_at_least": "The steerer is {short_mm:.1f} mm short of the {wanted_mm:.1f} mm that is sure already.",
        "long": "Steerer {over_mm:.1f} mm too long; needs {wanted_mm:.1f} mm.",
        "thread_short": "The threaded steerer is {short_mm:.1f} mm too short for head tube and cups.",
    },
    figures={
        "wanted_mm": (
            "lower + head tube + upper + spacers + clamp − {steerer_clearance_mm}, as far as it is known",
            "mm",
        ),
        "short_mm": ("wanted − steerer", "mm"),
        "over_mm": ("steerer − wanted", "mm"),
    },
    sources=("steering-practice",),
    safety=True,
)
_TUBE = "headset.stack_lower_mm frame.head_tube_length_mm headset.stack_upper_mm"
_STACK = f"{_TUBE} spacers.below_mm stem.clamp_height_mm spacers.above_mm"


@LENGTH.clause(may=f"fork.steerer_threaded fork.steerer_length_mm {_TUBE}")
def through_the_cups(fork: View, headset: View, frame: View) -> Outcome | None:
    sizes = (
        headset.stack_lower_mm,
        frame.head_tube_length_mm,
        headset.stack_upper_mm,
        fork.steerer_length_mm,
    )
    if not fork.steerer_threaded or None in sizes:
        return None
    tube = headset.stack_lower_mm + frame.head_tube_length_mm + headset.stack_upper_mm
    if fork.steerer_length_mm >= tube - SLACK:
        return None
    short = tube - fork.steerer_length_mm
    return no_go("thread_short", way_out(fork, "steerer_length_mm", ">=", tube), short_mm=short)


@LENGTH.clause("stem.mount", silences=True)
def has_a_quill(stem: View) -> Outcome | None:
    return SILENT if stem.mount == "quill" else None


@LENGTH.clause("fork.steerer_length_mm stem.mount", may=_STACK)
def short_already(fork: View, stem: View, headset: View, frame: View, spacers: View) -> Outcome | None:
    """Shorter than what is known of the stack, whatever else is in it."""
    if stem.mount == "quill":
        return None
    known = [
        value
        for value in (
            headset.stack_lower_mm,
            frame.head_tube_length_mm,
            headset.stack_upper_mm,
            spacers.below_mm,
            stem.clamp_height_mm,
            spacers.above_mm,
        )
        if value is not None
    ]
    if len(known) == len(_STACK.split()):
        return None
    least = sum(known) - CLEARANCE_MM
    short = least - fork.steerer_length_mm
    if short <= CLEARANCE_MOST_MM - CLEARANCE_MM + SLACK:
        return None
    way = way_out(fork, "steerer_length_mm", ">=", least)
    return no_go("short_at_least", way, wanted_mm=least, short_mm=short)


@LENGTH.clause(f"stem.mount {_STACK} fork.steerer_length_mm")
def stack(stem: View, headset: View, frame: View, spacers: View, fork: View) -> Outcome | None:
    if stem.mount == "quill":
        return None
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
        cut = need("cut the steerer", either=1, size_mm=round(over, 1), where="at the top")
        leave = f"leave {SPARE_SPACERS_MM:g} mm for later changes"
        spare = need("spacers above the stem", either=1, size_mm=round(over, 1), caution=leave)
        return goes_if("long", cut, spare, **figures)
    return goes("right", **figures)


ANCHOR = rule(
    "steerer-anchor",
    title="Anchor suits the steerer",
    plain=(
        "A star-fangled nut splits a carbon steerer and has no place in a threaded one or beside a quill: carbon "
        "takes an expander plug. The plug must lie within the clamp's height, so that it backs the tube where the "
        "stem grips."
    ),
    why="The wrong anchor splits the steerer, or lets go when the cap is tightened.",
    area=Area.STEERING,
    joint="steerer",
    parts={"headset": "headset", "fork": "fork", "stem": optional("stem"), "spacers": optional("spacers")},
    messages={
        "suits": "The anchor suits the steerer.",
        "splits": "A star-fangled nut splits a carbon steerer.",
        "in_thread": "A star-fangled nut has no place in a threaded steerer or beside a quill.",
        "too_deep": "The plug sits below the stem's clamp, where it backs nothing.",
        "plug_unknown": "Not recorded: whether the plug sits within the stem's clamp.",
    },
    figures={"reach_mm": ("spacers above + clamp height", "mm")},
    sources=("steering-practice",),
    safety=True,
)


@ANCHOR.clause("headset.anchor", asks="fork.steerer_material fork.steerer_threaded", may="stem.mount")
def star_nut(headset: View, fork: View, stem: View) -> Outcome | None:
    if headset.anchor != "star_nut":
        return None
    expander = way_out(headset, "anchor", "==", "expander")
    if fork.steerer_material == "carbon":
        return no_go("splits", expander)
    if fork.steerer_threaded or stem.mount == "quill":
        if fork.steerer_threaded:
            return no_go("in_thread", way_out(fork, "steerer_threaded", "==", False))
        return no_go("in_thread", way_out(stem, "mount", "==", "threadless"))
    require(fork, "steerer_material")
    if stem.mount != "threadless":
        require(fork, "steerer_threaded")
    return goes("suits")


@ANCHOR.clause(
    "headset.anchor",
    may="headset.plug_in_clamp headset.anchor_depth_mm stem.clamp_height_mm spacers.above_mm",
)
def plug(headset: View, stem: View, spacers: View) -> Outcome | None:
    if headset.anchor != "expander":
        return None
    deeper = way_out(headset, "plug_in_clamp", "==", True)
    if headset.plug_in_clamp is not None:
        return goes("suits") if headset.plug_in_clamp else no_go("too_deep", deeper)
    depth, clamp = headset.anchor_depth_mm, stem.clamp_height_mm
    if depth is None or clamp is None:
        return unmeasured("plug_unknown", (headset, "plug_in_clamp"))
    reach = clamp + (spacers.above_mm or 0.0)
    return (
        goes("suits", reach_mm=reach) if depth <= reach + SLACK else no_go("too_deep", deeper, reach_mm=reach)
    )


SPACERS = rule(
    "stem-spacers",
    title="Spacers under the stem are within the limit",
    plain="The maker's limit wins; a carbon steerer without a figure takes {carbon_spacers_mm} mm at most.",
    why="A tall stack of spacers bends the steerer at the clamp until it breaks.",
    area=Area.STEERING,
    joint="steerer",
    parts={"spacers": "spacers", "stem": "stem", "fork": "fork"},
    messages={
        "within": "{spacers.below_mm:g} mm of spacers under the stem.",
        "nothing_above": "Carbon steerer, nothing above the stem: the clamp's edge is where the steerer ends.",
        "too_many": "{spacers.below_mm:g} mm of spacers under the stem; maximum {limit_mm:g} mm.",
    },
    figures={"limit_mm": ("maker's limit, or {carbon_spacers_mm} mm on carbon", "mm")},
    sources=("steering-practice", "maker-limits"),
    safety=True,
)


@SPACERS.clause(given="spacers.above_mm", asks="fork.steerer_material", may="stem.mount")
def nothing_above(spacers: View, stem: View, fork: View) -> Outcome | None:
    """Return the edge of a clamp that ends with the steerer crushes carbon."""
    if spacers.above_mm > SLACK or stem.mount == "quill" or require(fork).steerer_material != "carbon":
        return None
    return goes_if("nothing_above", need("one spacer above the stem"))


@SPACERS.clause("spacers.below_mm", asks="fork.steerer_material", may="stem.max_spacers_mm")
def spacers_below(spacers: View, stem: View, fork: View) -> Outcome:
    limit = stem.max_spacers_mm
    if limit is None and spacers.below_mm > CARBON_SPACERS_MM + SLACK:
        limit = CARBON_SPACERS_MM if require(fork).steerer_material == "carbon" else None
    if limit is None or spacers.below_mm <= limit + SLACK:
        return goes("within")
    return no_go("too_many", way_out(spacers, "below_mm", "<=", limit), limit_mm=limit)
