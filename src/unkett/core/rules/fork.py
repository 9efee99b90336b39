"""The fork's length, travel and crowns against what the frame allows."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.geometry import fork_swap
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

SHORT_FORK_MM = limit_of("short_fork_mm")
TOO_SHORT_FORK_MM = limit_of("too_short_fork_mm")
TRAVELS_APART_MM = limit_of("travels_apart_mm")


FORK = rule(
    "fork-length",
    title="Fork is as long as the frame allows",
    plain=(
        "Axle to crown must not exceed the frame's limit. A fork shorter than the frame's least length (where none "
        "is given, {short_fork_mm} mm under the length it is designed for) steepens the angles; over "
        "{too_short_fork_mm} mm shorter does not go. More travel than the fork's internals allow does not go: less "
        "overlap of the bushings, a damper pulled apart."
    ),
    why=(
        "A longer fork levers at the head tube until it cracks; a shorter one steepens the steering and "
        "lowers the pedals."
    ),
    area=Area.STEERING,
    joint="fork",
    parts={"frame": "frame", "fork": "fork"},
    messages={
        "within": "Axle-to-crown {fork.axle_to_crown_mm:g} mm; maximum {frame.fork_a2c_max_mm:g} mm.",
        "too_long": "Axle-to-crown {fork.axle_to_crown_mm:g} mm is too long; maximum {frame.fork_a2c_max_mm:g} mm.",
        "short": "Axle-to-crown {fork.axle_to_crown_mm:g} mm, {short_mm:g} mm short{angles}.",
        "too_short": (
            "{fork.axle_to_crown_mm:g} mm axle to crown is "
            "{short_mm:g} mm shorter than the frame is made for."
        ),
        "too_much_travel": "Travel {fork.travel_mm:g} mm; fork maximum {fork.travel_max_mm:g} mm.",
    },
    figures={
        "short_mm": ("least or designed length − axle to crown", "mm"),
        "angles": ("what the head angle becomes", ""),
        "head_angle_deg": ("head angle with this fork", "°"),
    },
    sources=("maker-limits", "steering-practice"),
    safety=True,
)


@FORK.clause("frame.fork_a2c_max_mm fork.axle_to_crown_mm")
def longest(frame: View, fork: View) -> Outcome:
    if fork.axle_to_crown_mm > frame.fork_a2c_max_mm + SLACK:
        return no_go("too_long", way_out(fork, "axle_to_crown_mm", "<=", frame.fork_a2c_max_mm))
    return goes("within")


@FORK.clause(
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
    """Return what the head angle becomes, in words and as a figure, where the frame's own is known."""
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


@FORK.clause("fork", asks="fork.travel_mm fork.travel_max_mm")
def travel(fork: View) -> Outcome | None:
    """A fork with neither figure is taken as rigid; one with either is sprung, and both must be known."""
    has, most = fork.travel_mm, fork.travel_max_mm
    if has == 0 or (has is None and not most):
        return None
    if require(fork).travel_mm > require(fork).travel_max_mm + SLACK:
        return no_go("too_much_travel", way_out(fork, "travel_mm", "<=", most))
    return None


TRAVEL = rule(
    "fork-travel",
    title="Fork's travel is within the frame's limit",
    plain=(
        "The fork's travel must not exceed what the frame's manufacturer allows. Rear and fork travel more than "
        "{travels_apart_mm} mm apart are spoken of."
    ),
    why="More travel levers at the head tube and slackens the steering beyond what the frame is made for.",
    area=Area.STEERING,
    joint="fork",
    parts={"frame": "frame", "fork": "fork"},
    messages={
        "within": "Travel {fork.travel_mm:g} mm; frame maximum {frame.fork_travel_max_mm:g} mm.",
        "over": "Travel {fork.travel_mm:g} mm is too much; frame maximum {frame.fork_travel_max_mm:g} mm.",
        "apart": "Fork travel {fork.travel_mm:g} mm, rear {frame.wheel_travel_mm:g} mm: {apart_mm:g} mm apart.",
    },
    figures={"apart_mm": ("difference of the two travels", "mm")},
    sources=("maker-limits", "suspension"),
    safety=True,
)


@TRAVEL.clause("fork.travel_mm", given="frame.fork_travel_max_mm")
def most_travel(fork: View, frame: View) -> Outcome:
    if fork.travel_mm > frame.fork_travel_max_mm + SLACK:
        return no_go("over", way_out(fork, "travel_mm", "<=", frame.fork_travel_max_mm))
    return goes("within")


@TRAVEL.clause(given="fork.travel_mm frame.wheel_travel_mm")
def apart(fork: View, frame: View) -> Outcome | None:
    apart_mm = abs(fork.travel_mm - frame.wheel_travel_mm)
    if not fork.travel_mm or not frame.wheel_travel_mm or apart_mm <= TRAVELS_APART_MM + SLACK:
        return None
    return goes("apart", apart_mm=apart_mm)


CROWNS = rule(
    "fork-crowns",
    title="Frame allows a double crown",
    plain=(
        "A double crown goes only where the frame's manufacturer allows it, and where its bumpers meet the frame "
        "before the legs do, bar turned fully."
    ),
    why="A double crown loads the head tube more and its legs dent the frame at full lock.",
    area=Area.STEERING,
    joint="fork",
    parts={"frame": "frame", "fork": "fork"},
    messages={
        "single": "Single crown.",
        "bumpers": "The frame allows a double crown.",
        "not_allowed": "The frame does not take a double crown.",
    },
    sources=("maker-limits", "suspension"),
    safety=True,
)


@CROWNS.clause("frame", given="fork.crowns", asks="frame.double_crown_ok")
def crowns(frame: View, fork: View) -> Outcome:
    if fork.crowns == "single":
        return goes("single")
    if require(frame).double_crown_ok:
        return goes_if("bumpers", need("bumpers meet the frame before the legs, bar turned fully"))
    return no_go("not_allowed", way_out(fork, "crowns", "==", "single"))
