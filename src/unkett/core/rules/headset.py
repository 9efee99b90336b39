"""The headset: its cups in the head tube, steerer and crown race in its bearings."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.headset import TAPERED_MM, Cup, carried, cup_of
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, table
from unkett.core.vocabulary import Area

SIZE_TOLERANCE_MM = limit_of("steering_off_mm")
TAPERED_CUP_MM = limit_of("tapered_cup_mm")
SEAT_TOLERANCE_DEG = limit_of("bearing_seat_off_deg")


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
    why="A cup that is loose in the head tube ovalises it; one that is too tight splits it.",
    area=Area.STEERING,
    joint="headset",
    parts={"frame": "frame", "headset": "headset", "fork": optional("fork")},
    messages={
        "fits": "The cups are the frame's.",
        "other_cup": "The {place} cup is {head} in a {tube} head tube: the stack changes.",
        "other_bore": "Headset {head}; head tube {tube} ({place}).",
        "own_bearing": "{tube} takes only its own bearing, not {head} ({place}).",
        "other_angle": "A {headset.bearing_angle_deg:g}° bearing on a {frame.headset_seat_deg:g}° seat does not hold.",
        "code_unknown": "{code} ({place}) is unknown: measure the bore.",
        "angled": "The cups change the head angle by {headset.angle_change_deg:g}°{becomes}.",
        "angle_in_frame": "Angled cups need a cup at both ends; a bearing straight in the frame has none.",
        "angle_range": "Angled cups for {low_mm:g} to {high_mm:g} mm; head tube {frame.head_tube_length_mm:g} mm.",
        "one_inch": "{head} and {tube} ({place}) differ by 0.2 to 0.3 mm: measure both.",
        "tapered_cup": "A tapered race does not fit {head}: use EC44 or larger below.",
        "tapered_fork": "A tapered fork does not fit {tube}: the lower bore is too small.",
    },
    figures={
        "place": ("which end of the head tube", ""),
        "head": ("code of the headset", ""),
        "tube": ("code of the head tube", ""),
        "becomes": ("what the head angle becomes", ""),
        "low_mm": ("shortest head tube", "mm"),
        "high_mm": ("longest head tube", "mm"),
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
    """Return a bearing straight in the frame: the same code and the same seat."""
    if tube.code != head.code:
        return no_go("own_bearing", way, **figures)
    require(frame, "headset_seat_deg")
    require(headset, "bearing_angle_deg")
    if near(require(frame).headset_seat_deg, require(headset).bearing_angle_deg, SEAT_TOLERANCE_DEG):
        return goes("fits")
    angle = way_out(headset, "bearing_angle_deg", "==", require(frame).headset_seat_deg)
    return no_go("other_angle", angle, **figures)


@HEADSET.clause("frame.headset_upper headset.upper", asks="frame.headset_seat_deg headset.bearing_angle_deg")
def upper(frame: View, headset: View) -> Outcome | None:
    return _mates("upper", frame, headset)


@HEADSET.clause("frame.headset_lower headset.lower", asks="frame.headset_seat_deg headset.bearing_angle_deg")
def lower(frame: View, headset: View) -> Outcome | None:
    return _mates("lower", frame, headset)


@HEADSET.clause(
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


@HEADSET.clause("headset.lower", may="headset.crown_race_mm")
def tapered_cup(headset: View) -> Outcome | None:
    race = headset.crown_race_mm or carried(headset.lower)
    cup = cup_of(headset.lower)
    if race is None or race < TAPERED_MM or cup.sort == "IS" or _takes_tapered(cup, as_cup=True):
        return None
    return no_go("tapered_cup", way_out(headset, "lower", "==", "EC44/40"), head=cup.code)


@HEADSET.clause("frame.headset_lower", may="fork.crown_race_mm")
def tapered_fork(frame: View, fork: View) -> Outcome | None:
    cup = cup_of(frame.headset_lower)
    if fork.crown_race_mm is None or fork.crown_race_mm < TAPERED_MM or _takes_tapered(cup, as_cup=False):
        return None
    return no_go("tapered_fork", way_out(fork, "crown_race_mm", "<=", 30.0), tube=cup.code)


@HEADSET.clause(
    given="headset.angle_change_deg",
    asks="headset.head_tube_range_mm frame.head_tube_length_mm",
    may="headset.upper headset.lower frame.head_angle_deg",
)
def angled(headset: View, frame: View) -> Outcome | None:
    if abs(headset.angle_change_deg) <= SLACK:
        return None
    if "IS" in ((headset.upper or "")[:2], (headset.lower or "")[:2]):
        return no_go("angle_in_frame", way_out(headset, "angle_change_deg", "==", 0))
    low, high = require(headset).head_tube_range_mm
    if not low - SLACK <= require(frame).head_tube_length_mm <= high + SLACK:
        return no_go("angle_range", way_out(headset, "angle_change_deg", "==", 0), low_mm=low, high_mm=high)
    becomes = (
        ""
        if frame.head_angle_deg is None
        else f", {frame.head_angle_deg + headset.angle_change_deg:g}° in all"
    )
    return goes_if("angled", need("another head angle and trail"), becomes=becomes)


STEERER = rule(
    "steerer-fit",
    title="Fork goes in the headset",
    plain=(
        "The steerer must be the upper cup's, the crown race the fork's seat. A race larger than the seat takes "
        "a reducer where one is made; a smaller one does not go. A straight fork in a tapered head tube takes "
        "such a reducer."
    ),
    why="A fork without a seat for its lower bearing knocks, and the steerer takes a load it is not made for.",
    area=Area.STEERING,
    joint="headset",
    parts={"headset": "headset", "fork": "fork"},
    messages={
        "fits": "Steerer and crown race are the headset's.",
        "other_steerer": "Upper cup takes a {takes_mm:g} mm steerer; fork {fork.steerer_upper_mm:g} mm.",
        "reducer": "The headset's race is {takes_mm:g} mm, the fork's seat {fork.crown_race_mm:g}.",
        "other_race": "The headset's race is {takes_mm:g} mm; the fork's seat is {fork.crown_race_mm:g}.",
    },
    figures={"takes_mm": ("what the headset takes", "mm")},
    sources=("headsets", "steering-practice"),
    safety=True,
)


@STEERER.clause("fork.steerer_upper_mm", asks="headset.steerer_upper_mm", may="headset.upper")
def at_the_top(headset: View, fork: View) -> Outcome:
    takes = headset.steerer_upper_mm or carried(headset.upper) or require(headset).steerer_upper_mm
    if near(takes, fork.steerer_upper_mm, SIZE_TOLERANCE_MM):
        return goes("fits")
    way = way_out(headset, "steerer_upper_mm", "==", fork.steerer_upper_mm)
    return no_go("other_steerer", way, takes_mm=takes)


@STEERER.clause("fork.crown_race_mm", asks="headset.crown_race_mm", may="headset.lower")
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
