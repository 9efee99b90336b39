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
LOOSE_MM = limit_of("line_loose_mm")

LENGTH = rule(
    "line-length",
    title="Line reaches with the bar turned",
    plain=(
        "A line is at least as long as its path with the bar turned fully to either side and the suspension at its "
        "longest; a shorter one pulls the brake or changes gear in a bend. One that is over {line_loose_mm} mm "
        "longer hangs out, catches and pushes the caliper: it is cut shorter."
    ),
    why="A line that is too short pulls the brake or the gear as the bar turns, or is torn out of its stop.",
    area=Area.BRAKES,
    joint=JOINTS_OF,
    parts=tuple({"line": required(slot)} for slot in LINES),
    messages={
        "reaches": "{has_mm:.0f} mm: {slack_mm:.0f} mm more than the path needs.",
        "short": "{has_mm:.0f} mm, {short_mm:.0f} mm shorter than its path with the bar turned.",
        "loose": "{has_mm:.0f} mm, {slack_mm:.0f} mm more than its path needs: it hangs out and buckles.",
    },
    figures={
        "has_mm": ("length of the line", "mm"),
        "need_mm": ("longest of the shortest paths over the turned bar", "mm"),
        "slack_mm": ("has − needs", "mm"),
        "short_mm": ("needs − has", "mm"),
    },
    sources=("line-routes",),
    safety=True,
)


@LENGTH.clause("line.length_mm", given="line.need_mm")
def length(line: View) -> Outcome:
    has, wants = line.length_mm, line.need_mm
    figures = {"has_mm": has, "need_mm": wants}
    if has < wants - SLACK:
        longer = need("new line", size_mm=math.ceil(wants - SLACK))
        return goes_if("short", longer, short_mm=wants - has, **figures)
    if has > wants + LOOSE_MM + SLACK:
        return goes_if("loose", need("line cut shorter"), slack_mm=has - wants, **figures)
    return goes("reaches", slack_mm=has - wants, **figures)


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
            "caliper": optional("rear_caliper" if slot == "rear_brake_line" else "front_caliper"),
        }
        for slot in LINES
    ),
    messages={
        "runs": "The frame takes the line so.",
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
