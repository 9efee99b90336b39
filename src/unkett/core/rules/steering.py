"""Headset, fork, stem and steerer. All safety."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.geometry import fork_swap
from unkett.core.calc.headset import TAPERED_MM, Cup, carried, cup_of
from unkett.core.calc.steering import steerer_cut
from unkett.core.rules.base import beside, rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.view import View, require
from unkett.core.standards import table
from unkett.core.vocabulary import Area

SIZE_TOLERANCE_MM = 0.1
QUILL_TOLERANCE_MM = 0.2
TAPERED_CUP_MM = 43.9  # bore of the least cup below that a tapered steerer goes through
SEAT_TOLERANCE_DEG = 0.5
SHORT_FORK_MM = 20.0
TOO_SHORT_FORK_MM = 40.0
CLEARANCE_MM = 3.0
CLEARANCE_LEAST_MM = 2.0
CLEARANCE_MOST_MM = 5.0
CARBON_SPACERS_MM = 30.0
SPARE_SPACERS_MM = 15.0

HEADSET = rule(
    "headset-fit",
    title="Headset sits in the head tube",
    plain=(
        "Upper and lower each want the frame's bore. External and flush cups of one bore interchange, which changes "
        "the stack; one-inch cups of 29.8 and 30.1 mm are measured "
        "first. A bearing straight in the frame wants its own "
        "diameter and seat angle; 36° and 45° never mix. A tapered fork wants an external cup of 44 mm below, or a "
        "larger one."
    ),
    area=Area.STEERING,
    joint="headset",
    parts={"frame": "frame", "headset": "headset", "fork": beside("fork")},
    messages={
        "fits": "The cups are the frame's.",
        "other_cup": "The {place} cup is {head} in a {tube} head tube: the stack changes.",
        "other_bore": "{head} does not go in a {tube} head tube ({place}).",
        "own_bearing": "{tube} takes its own bearing only, not {head} ({place}).",
        "other_angle": "A {headset.bearing_angle_deg:g}° bearing on a {frame.headset_seat_deg:g}° seat does not hold.",
        "code_unknown": "{code} ({place}) stands in no table: measure the bore.",
        "one_inch": "{head} and {tube} ({place}) differ by 0.2 to 0.3 mm: measure both.",
        "tapered_cup": "A tapered race does not fit in {head}: EC44 below or larger is wanted.",
        "tapered_fork": "A tapered fork does not go through {tube}: the bore below is too small.",
    },
    figures={
        "place": ("which end of the head tube", ""),
        "head": ("code of the headset", ""),
        "tube": ("code of the head tube", ""),
        "code": ("code that stands in no table", ""),
    },
    sources=("headsets",),
    safety=True,
)


def _mates(place: str, frame: View, headset: View) -> Outcome | None:
    """One end of the head tube: bores, then cups, then the seat's angle."""
    tube, head = cup_of(getattr(frame, f"headset_{place}")), cup_of(getattr(headset, place))
    figures = {"place": place, "head": head.code, "tube": tube.code}
    for cup, view, name in ((tube, frame, f"headset_{place}"), (head, headset, place)):
        if cup.bore_mm is None:
            return unmeasured("code_unknown", (view, name), code=cup.code, **figures)
    way = way_out(headset, place, "==", tube.code)
    if "IS" in (tube.sort, head.sort):
        return _straight_in(tube, head, frame, headset, way, figures)
    if {tube.code, head.code} == {"EC29", "EC30"}:
        return unmeasured("one_inch", (frame, f"headset_{place}"), (headset, place), **figures)
    if tube.group != head.group:
        return no_go("other_bore", way, **figures)
    if tube.sort != head.sort:
        return goes_if("other_cup", need("work the steerer length out again: the stack changes"), **figures)
    return goes("fits")


def _straight_in(
    tube: Cup, head: Cup, frame: View, headset: View, way: Any, figures: dict[str, str]
) -> Outcome:
    """A bearing straight in the frame: the same code and the same seat."""
    if tube.code != head.code:
        return no_go("own_bearing", way, **figures)
    require(frame, "headset_seat_deg")
    require(headset, "bearing_angle_deg")
    if near(require(frame).headset_seat_deg, require(headset).bearing_angle_deg, SEAT_TOLERANCE_DEG):
        return goes("fits")
    angle = way_out(headset, "bearing_angle_deg", "==", require(frame).headset_seat_deg)
    return no_go("other_angle", angle, **figures)


@HEADSET.look("frame.headset_upper headset.upper", asks="frame.headset_seat_deg headset.bearing_angle_deg")
def upper(frame: View, headset: View) -> Outcome | None:
    return _mates("upper", frame, headset)


@HEADSET.look("frame.headset_lower headset.lower", asks="frame.headset_seat_deg headset.bearing_angle_deg")
def lower(frame: View, headset: View) -> Outcome | None:
    return _mates("lower", frame, headset)


@HEADSET.look(
    may=(
        "frame.headset_seat_deg headset.bearing_angle_deg "
        "frame.headset_upper frame.headset_lower headset.upper headset.lower"
    )
)
def two_angles(frame: View, headset: View) -> Outcome | None:
    """Unequal angles where any end is known to take or to be a bearing straight in the frame."""
    codes = (frame.headset_upper, frame.headset_lower, headset.upper, headset.lower)
    straight = any(code is not None and cup_of(code).sort == "IS" for code in codes)
    if not straight or None in (frame.headset_seat_deg, headset.bearing_angle_deg):
        return None
    if near(frame.headset_seat_deg, headset.bearing_angle_deg, SEAT_TOLERANCE_DEG):
        return None
    return no_go("other_angle", way_out(headset, "bearing_angle_deg", "==", frame.headset_seat_deg))


def _takes_tapered(cup: Cup, *, as_cup: bool) -> bool:
    """Whether a tapered steerer goes through; as a cup 44 mm must be external, in the frame the bore alone counts."""
    if cup.bore_mm is None or cup.bore_mm > TAPERED_CUP_MM + 1:
        return True
    return cup.bore_mm >= TAPERED_CUP_MM and (not as_cup or cup.sort == "EC")


@HEADSET.look("headset.lower", may="headset.crown_race_mm")
def tapered_cup(headset: View) -> Outcome | None:
    race = headset.crown_race_mm or carried(headset.lower)
    cup = cup_of(headset.lower)
    if race is None or race < TAPERED_MM or cup.sort == "IS" or _takes_tapered(cup, as_cup=True):
        return None
    return no_go("tapered_cup", way_out(headset, "lower", "==", "EC44/40"), head=cup.code)


@HEADSET.look("frame.headset_lower", may="fork.crown_race_mm")
def tapered_fork(frame: View, fork: View) -> Outcome | None:
    cup = cup_of(frame.headset_lower)
    if fork.crown_race_mm is None or fork.crown_race_mm < TAPERED_MM or _takes_tapered(cup, as_cup=False):
        return None
    return no_go("tapered_fork", way_out(fork, "crown_race_mm", "<=", 30.0), tube=cup.code)


STEERER = rule(
    "steerer-fit",
    title="Fork goes in the headset",
    plain=(
        "The steerer must be the upper cup's, the crown race the fork's seat. A race larger than the seat takes "
        "a reducer where one is made; a smaller one does not go. A straight fork in a tapered head tube takes "
        "such a reducer."
    ),
    area=Area.STEERING,
    joint="headset",
    parts={"headset": "headset", "fork": "fork"},
    messages={
        "fits": "Steerer and crown race are the headset's.",
        "other_steerer": "The upper cup takes a {takes_mm:g} mm steerer; the fork's is {fork.steerer_upper_mm:g}.",
        "reducer": "The headset's race is {takes_mm:g} mm, the fork's seat {fork.crown_race_mm:g}.",
        "other_race": "The headset's race is {takes_mm:g} mm; the fork's seat is {fork.crown_race_mm:g}.",
    },
    figures={"takes_mm": ("what the headset takes", "mm")},
    sources=("headsets", "steering-practice"),
    safety=True,
)


@STEERER.look("fork.steerer_upper_mm", asks="headset.steerer_upper_mm", may="headset.upper")
def at_the_top(headset: View, fork: View) -> Outcome:
    takes = headset.steerer_upper_mm or carried(headset.upper) or require(headset).steerer_upper_mm
    if near(takes, fork.steerer_upper_mm, SIZE_TOLERANCE_MM):
        return goes("fits")
    way = way_out(headset, "steerer_upper_mm", "==", fork.steerer_upper_mm)
    return no_go("other_steerer", way, takes_mm=takes)


@STEERER.look("fork.crown_race_mm", asks="headset.crown_race_mm", may="headset.lower")
def at_the_crown(headset: View, fork: View) -> Outcome:
    race = headset.crown_race_mm or carried(headset.lower) or require(headset).crown_race_mm
    if near(race, fork.crown_race_mm, SIZE_TOLERANCE_MM):
        return goes("fits")
    for row in table("crown_reducers").rows:
        seat = near(row["seat_mm"], fork.crown_race_mm, SIZE_TOLERANCE_MM)
        if seat and near(row["race_mm"], race, SIZE_TOLERANCE_MM):
            ring = need("reducer crown race", race_mm=row["race_mm"], size_mm=row["seat_mm"])
            return goes_if("reducer", ring, takes_mm=race)
    return no_go("other_race", way_out(headset, "crown_race_mm", "==", fork.crown_race_mm), takes_mm=race)


FORK = rule(
    "fork-length",
    title="Fork is as long as the frame allows",
    plain=(
        "Axle to crown must not exceed the frame's limit. A fork shorter than the frame's least length (where none is "
        "given, 20 mm under the length it is designed for) steepens the angles; over 40 mm shorter does not go. More "
        "travel than the fork's internals allow does not go: less overlap of the bushings, a damper pulled apart."
    ),
    area=Area.STEERING,
    joint="fork",
    parts={"frame": "frame", "fork": "fork"},
    messages={
        "within": "{fork.axle_to_crown_mm:g} mm axle to crown; up to {frame.fork_a2c_max_mm:g} is allowed.",
        "too_long": "{fork.axle_to_crown_mm:g} mm axle to crown is over the {frame.fork_a2c_max_mm:g} allowed.",
        "short": "{fork.axle_to_crown_mm:g} mm axle to crown is {short_mm:g} mm short{angles}.",
        "too_short": (
            "{fork.axle_to_crown_mm:g} mm axle to crown is "
            "{short_mm:g} mm shorter than the frame is made for."
        ),
        "too_much_travel": "{fork.travel_mm:g} mm of travel; the fork allows {fork.travel_max_mm:g}.",
    },
    figures={
        "short_mm": ("least or designed length − axle to crown", "mm"),
        "angles": ("what the head angle becomes", ""),
        "head_angle_deg": ("head angle with this fork", "°"),
    },
    sources=("maker-limits", "steering-practice"),
    safety=True,
)


@FORK.look("frame.fork_a2c_max_mm fork.axle_to_crown_mm")
def longest(frame: View, fork: View) -> Outcome:
    if fork.axle_to_crown_mm > frame.fork_a2c_max_mm + SLACK:
        return no_go("too_long", way_out(fork, "axle_to_crown_mm", "<=", frame.fork_a2c_max_mm))
    return goes("within")


@FORK.look(
    "fork.axle_to_crown_mm frame",
    asks="frame.fork_a2c_design_mm",
    may="frame.fork_a2c_min_mm frame.fork_a2c_max_mm frame.head_angle_deg frame.wheelbase_mm",
)
def shortest(frame: View, fork: View) -> Outcome | None:
    """A fork within 20 mm of the longest allowed cannot be short of what the frame is made for."""
    has, design, least = fork.axle_to_crown_mm, frame.fork_a2c_design_mm, frame.fork_a2c_min_mm
    if design is not None and has < design - TOO_SHORT_FORK_MM - SLACK:
        way = way_out(fork, "axle_to_crown_mm", ">=", design - SHORT_FORK_MM)
        return no_go("too_short", way, short_mm=design - has)
    if least is None:
        most = frame.fork_a2c_max_mm
        if design is None and most is not None and has >= most - SHORT_FORK_MM - SLACK:
            return None
        least = require(frame).fork_a2c_design_mm - SHORT_FORK_MM
    if has >= least - SLACK:
        return None
    steeper = need("handling with steeper angles")
    against = least if design is None else design
    return goes_if("short", steeper, short_mm=against - has, **_angles(frame, against, has))


def _angles(frame: View, from_mm: float, to_mm: float) -> dict[str, Any]:
    """What the head angle becomes, in words and as a figure, where the frame's own is known."""
    if None in (frame.head_angle_deg, frame.wheelbase_mm):
        return {"angles": ""}
    swap = fork_swap(
        head_angle_deg=frame.head_angle_deg,
        wheelbase_mm=frame.wheelbase_mm,
        a2c_from_mm=from_mm,
        a2c_to_mm=to_mm,
    )
    says = f": the head angle becomes {swap.head_angle_deg:.1f}°"
    return {"angles": says, "head_angle_deg": swap.head_angle_deg}


@FORK.look("fork", asks="fork.travel_mm fork.travel_max_mm")
def travel(fork: View) -> Outcome | None:
    """A fork with neither figure is taken as rigid; one with either is sprung, and both must be known."""
    has, most = fork.travel_mm, fork.travel_max_mm
    if has == 0 or (has is None and not most):
        return None
    if require(fork).travel_mm > require(fork).travel_max_mm + SLACK:
        return no_go("too_much_travel", way_out(fork, "travel_mm", "<=", most))
    return None


STEM = rule(
    "stem-steerer",
    title="Stem holds on the steerer",
    plain=(
        "A threadless stem clamps a threadless steerer of its own size, or a smaller one through a sleeve that is "
        "made. A quill goes in a threaded steerer of its size. Never a clamp on a thread, never a quill without one."
    ),
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
        "other_size": "The stem is for {stem.steerer_mm:g} mm; the steerer is {fork.steerer_upper_mm:g}.",
    },
    sources=("steering-practice",),
    safety=True,
)


@STEM.look("stem.mount fork.steerer_threaded")
def thread(stem: View, fork: View) -> Outcome | None:
    if (stem.mount == "quill") == bool(fork.steerer_threaded):
        return None
    if stem.mount == "quill":
        return no_go("quill_in_threadless", way_out(stem, "mount", "==", "threadless"))
    return no_go("on_thread", way_out(stem, "mount", "==", "quill"))


@STEM.look("stem.mount stem.steerer_mm fork.steerer_upper_mm")
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
        return no_go("other_size", way_out(stem, "steerer_mm", "in", [row["quill_mm"] for row in rows]))
    if near(size, steerer, SIZE_TOLERANCE_MM):
        return goes("clamps")
    for row in table("stem_sleeves").rows:
        clamp = near(row["clamp_mm"], size, SIZE_TOLERANCE_MM)
        if clamp and near(row["steerer_mm"], steerer, SIZE_TOLERANCE_MM):
            return goes_if("sleeve", need("stem sleeve", size_mm=steerer, where="between steerer and stem"))
    return no_go("other_size", way_out(stem, "steerer_mm", "==", steerer))


@STEM.look("stem.mount stem.steerer_mm")
def quill_size(stem: View) -> Outcome | None:
    """A quill of a size that no steerer takes."""
    sizes = [row["quill_mm"] for row in table("quills").rows]
    if stem.mount != "quill" or any(near(size, stem.steerer_mm, QUILL_TOLERANCE_MM) for size in sizes):
        return None
    return no_go("no_quill", way_out(stem, "steerer_mm", "in", sizes))


@STEM.look("stem.steerer_mm fork.steerer_upper_mm")
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
        "Lower stack, head tube, upper stack, spacers and stem, less 2 to 5 mm so that the cap presses the stack. "
        "A shorter steerer does not go. A longer one is cut, which cannot be undone, or takes spacers above. A "
        "threaded steerer must reach through head tube and cups."
    ),
    area=Area.STEERING,
    joint="steerer",
    parts={"frame": "frame", "headset": "headset", "spacers": "spacers", "stem": "stem", "fork": "fork"},
    messages={
        "right": "The steerer is {fork.steerer_length_mm:g} mm, the stack wants {wanted_mm:.1f}.",
        "short": "The steerer is {short_mm:.1f} mm short of the {wanted_mm:.1f} mm its stack wants.",
        "short_at_least": "The steerer is {short_mm:.1f} mm short of the {wanted_mm:.1f} mm that is sure already.",
        "long": "The steerer is {over_mm:.1f} mm longer than the {wanted_mm:.1f} mm its stack wants.",
        "thread_short": "The threaded steerer is {short_mm:.1f} mm too short for head tube and cups.",
    },
    figures={
        "wanted_mm": ("lower + head tube + upper + spacers + clamp − 3, as far as it is known", "mm"),
        "short_mm": ("wanted − steerer", "mm"),
        "over_mm": ("steerer − wanted", "mm"),
    },
    sources=("steering-practice",),
    safety=True,
)
_TUBE = "headset.stack_lower_mm frame.head_tube_length_mm headset.stack_upper_mm"
_STACK = f"{_TUBE} spacers.below_mm stem.clamp_height_mm spacers.above_mm"


@LENGTH.look(may=f"fork.steerer_threaded fork.steerer_length_mm {_TUBE}")
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


@LENGTH.look("stem.mount", silences=True)
def has_a_quill(stem: View) -> Outcome | None:
    return SILENT if stem.mount == "quill" else None


@LENGTH.look("fork.steerer_length_mm stem.mount", may=_STACK)
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


@LENGTH.look(f"stem.mount {_STACK} fork.steerer_length_mm")
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
        "A star-fangled nut splits a carbon steerer and has no place in a threaded one or beside a quill: carbon takes "
        "an expander plug. The plug must lie within the clamp's height, so that it backs the tube where the stem grips."
    ),
    area=Area.STEERING,
    joint="steerer",
    parts={"headset": "headset", "fork": "fork", "stem": beside("stem"), "spacers": beside("spacers")},
    messages={
        "suits": "The anchor suits the steerer.",
        "splits": "A star-fangled nut splits a carbon steerer.",
        "in_thread": "A star-fangled nut has no place in a threaded steerer or beside a quill.",
        "too_deep": "The plug sits below the stem's clamp, where it backs nothing.",
        "plug_unknown": "Whether the plug lies within the stem's clamp is not known.",
    },
    figures={"reach_mm": ("spacers above + clamp height", "mm")},
    sources=("steering-practice",),
    safety=True,
)


@ANCHOR.look("headset.anchor", asks="fork.steerer_material fork.steerer_threaded", may="stem.mount")
def star_nut(headset: View, fork: View, stem: View) -> Outcome | None:
    if headset.anchor != "star_nut":
        return None
    expander = way_out(headset, "anchor", "==", "expander")
    if fork.steerer_material == "carbon":
        return no_go("splits", expander)
    if fork.steerer_threaded or stem.mount == "quill":
        return no_go("in_thread", way_out(fork, "steerer_threaded", "==", False))
    require(fork, "steerer_material")
    if stem.mount != "threadless":
        require(fork, "steerer_threaded")
    return goes("suits")


@ANCHOR.look(
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
    plain="The maker's limit wins; a carbon steerer without a figure takes 30 mm at most.",
    area=Area.STEERING,
    joint="steerer",
    parts={"spacers": "spacers", "stem": "stem", "fork": "fork"},
    messages={
        "within": "{spacers.below_mm:g} mm of spacers under the stem.",
        "too_many": "{spacers.below_mm:g} mm of spacers under the stem; {limit_mm:g} is the most.",
    },
    figures={"limit_mm": ("maker's limit, or 30 mm on carbon", "mm")},
    sources=("steering-practice", "maker-limits"),
    safety=True,
)


@SPACERS.look("spacers.below_mm", asks="fork.steerer_material", may="stem.max_spacers_mm")
def spacers_below(spacers: View, stem: View, fork: View) -> Outcome:
    limit = stem.max_spacers_mm
    if limit is None and spacers.below_mm > CARBON_SPACERS_MM + SLACK:
        limit = CARBON_SPACERS_MM if require(fork).steerer_material == "carbon" else None
    if limit is None or spacers.below_mm <= limit + SLACK:
        return goes("within")
    return no_go("too_many", way_out(spacers, "below_mm", "<=", limit), limit_mm=limit)
