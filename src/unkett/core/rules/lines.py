"""Lines: long enough for the bar's turn and what is planned; a route that the frame and the bar allow."""

from __future__ import annotations

import math

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup
from unkett.core.vocabulary import Area, enums
from unkett.core.vocabulary.words import in_sentence, listed

LINES = ("front_brake_line", "rear_brake_line", "rear_shift_line", "front_shift_line", "dropper_line")
JOINTS_OF = ("front_line", "rear_line", "shift_lines", "shift_lines", "shift_lines")
SLACK_MM, SLACK_RIM_MM, SLACK_LONG_MM = (
    limit_of(code) for code in ("line_slack_mm", "line_slack_rim_mm", "line_slack_long_mm")
)
LONG = frozenset({"rear_brake_line", "rear_shift_line", "dropper_line"})


def slack_most(slot: str, *, route: str | None = None, caliper: str | None = None) -> float:
    """Return how much longer than its path a line may be, in mm: least at a front rim brake, most rear or inside."""
    way = lookup("routes", "code")[route]["way"] if route else ()
    if slot in LONG or any(place in way for place in ("frame_entry", "inside_head", "headset_entry")):
        return SLACK_LONG_MM
    return SLACK_RIM_MM if slot == "front_brake_line" and caliper not in ("disc", "roller") else SLACK_MM


def _caliper_of(slot: str) -> str:
    """Return the slot of the brake that a line leads to; a gear cable has none, and names itself."""
    return slot.replace("_brake_line", "_caliper")


LENGTH = rule(
    "line-length",
    title="Line reaches with the bar turned",
    plain=(
        "A line is at least as long as its path with the bar turned fully to either side and the suspension at its "
        "longest; a shorter one pulls the brake or changes gear in a bend. One that is over {line_slack_mm} mm longer "
        "({line_slack_long_mm} mm at the rear or inside the frame, {line_slack_rim_mm} mm at a front rim brake) hangs "
        "out, catches and pushes the caliper: it is cut shorter."
    ),
    why="A line that is too short pulls the brake or the gear as the bar turns, or is torn out of its stop.",
    area=Area.BRAKES,
    joint=JOINTS_OF,
    parts=tuple({"line": required(slot), "caliper": optional(_caliper_of(slot))} for slot in LINES),
    messages={
        "reaches": "{has_mm:.0f} mm: {slack_mm:.0f} mm more than the path needs.",
        "short": "{has_mm:.0f} mm; {short_mm:.0f} mm too short at full lock.",
        "loose": "{has_mm:.0f} mm; {slack_mm:.0f} mm longer than its path, at most {most_mm:g} mm: it buckles.",
    },
    figures={
        "has_mm": ("length of the line", "mm"),
        "need_mm": ("longest of the shortest paths over the turned bar", "mm"),
        "slack_mm": ("has − needs", "mm"),
        "short_mm": ("needs − has", "mm"),
        "most_mm": ("slack that such a line may have", "mm"),
    },
    sources=("line-routes",),
    safety=True,
)


@LENGTH.clause("line.length_mm", given="line.need_mm", may="line.route caliper.type")
def length(line: View, caliper: View) -> Outcome:
    has, needs = line.length_mm, line.need_mm
    most = slack_most(line.slot, route=line.route, caliper=caliper.type)
    figures = {"has_mm": has, "need_mm": needs, "most_mm": most}
    if has < needs - SLACK:
        longer = way_out(line, "length_mm", ">=", math.ceil(needs - SLACK))
        return no_go("short", longer, short_mm=needs - has, **figures)
    if has > needs + most + SLACK:
        return goes_if("loose", need("line cut shorter"), slack_mm=has - needs, **figures)
    return goes("reaches", slack_mm=has - needs, **figures)


ROUTE = rule(
    "line-route",
    title="Frame and bar let the line run so",
    plain=(
        "A route with bare pieces wants stops: a frame made for housing all the way has none; single stops are "
        "clamped on round metal tubes, or housing runs all the way, never clamped on carbon. A route that is hidden "
        "through stem and headset wants a frame and a bar that take it in; a hidden bar wants a frame that goes on "
        "so."
    ),
    why="A line without something to hold it flaps, kinks, or is caught by wheel and crank.",
    area=Area.BRAKES,
    joint=JOINTS_OF,
    parts=tuple(
        {
            "line": required(slot),
            "frame": required("frame"),
            "bar": optional("handlebar"),
            "caliper": optional(_caliper_of(slot)),
        }
        for slot in LINES
    ),
    messages={
        "runs": "The frame takes this route.",
        "no_stops": "The route has bare pieces; the frame has no stops.",
        "not_hidden": "The route is hidden; the frame's lines run outside.",
        "outside": "The frame hides its lines; this route runs outside.",
        "hidden_bar": "The bar hides its lines through the stem; the frame's run outside.",
        "other_brake": "This route leads to another brake than {caliper.type}.",
        "stop_missing": "The route's bare pieces need stops; the frame has none on: {missing}.",
    },
    figures={"missing": ("where stops are missing", "")},
    sources=("line-routes",),
)
HIDDEN = "fully_hidden"


@ROUTE.clause("line", given="frame.routing bar.routing")
def hidden_bar(line: View, frame: View, bar: View) -> Outcome | None:
    if bar.routing == HIDDEN and frame.routing in ("external", "external_full_housing"):
        return no_go("hidden_bar", way_out(bar, "routing", "!=", HIDDEN))
    return None


@ROUTE.clause("frame.routing", given="line.route")
def route(line: View, frame: View) -> Outcome:
    row = lookup("routes", "code")[line.route]
    bare = any(word.endswith(":bare") for word in row["way"])
    hidden, inside = "headset_entry" in row["way"], "frame_entry" in row["way"] or "inside_head" in row["way"]
    ways = (way_out(line, "route", "!=", line.route),)
    if bare and frame.routing == "external_full_housing":
        return no_go("no_stops", *ways)
    if (hidden or inside) and frame.routing in ("external", "external_full_housing"):
        return no_go("not_hidden", *ways)
    if not hidden and not inside and frame.routing == HIDDEN:
        return no_go("outside", *ways)
    return goes("runs")


@ROUTE.clause(given="line.route caliper.type")
def brake(line: View, caliper: View) -> Outcome | None:
    brakes = lookup("routes", "code")[line.route].get("brakes")
    if brakes is None or caliper.type in brakes:
        return None
    return no_go("other_brake", way_out(line, "route", "!=", line.route))


@ROUTE.clause(given="line.route frame.cable_stops", asks="frame.material")
def stops(line: View, frame: View) -> Outcome | None:
    row = lookup("routes", "code")[line.route]
    lacking = [stop for stop in row.get("stops", ()) if stop not in frame.cable_stops]
    if not lacking:
        return None
    missing = listed([in_sentence(enums.CABLE_STOP.title(stop)) for stop in lacking])
    if require(frame).material == "carbon":  # nothing is clamped on it
        return goes_if("stop_missing", need("housing all the way, tied"), missing=missing)
    full = need("housing all the way, tied", either=1)
    return goes_if("stop_missing", need("clamp-on cable stops", either=1), full, missing=missing)
