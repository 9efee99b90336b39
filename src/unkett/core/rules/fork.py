"""The fork's length and travel against what the frame allows."""

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
