"""Seatpost, dropper with its lever and line, saddle rails."""

from __future__ import annotations

from unkett.core.calc.dropper import seat_room
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup
from unkett.core.vocabulary import Area

CLAMP_TOLERANCE_MM = limit_of("seatpost_off_mm")
GRIP_TOLERANCE_MM = limit_of("dropper_lever_off_mm")
SHIM_LENGTH_MM = limit_of("shim_length_mm")
BY_LINE = ("cable", "hydraulic")

POST = rule(
    "seatpost-fit",
    title="Seatpost goes in the seat tube",
    plain=(
        "Equal within {seatpost_off_mm} mm goes; a smaller post takes a shim of at least {shim_length_mm} mm; a "
        "larger one does not go. With the rider's saddle height the insertion is worked out: not less than the "
        "post's least, not more than the open depth. Without it the least insertion must not exceed the depth, or "
        "the mark be seen in the tube. A set-back post is turned forward only where its maker allows it."
    ),
    why="A post that is too thin or not deep enough slips, or cracks the seat tube at the top.",
    area=Area.SEAT,
    joint="post",
    parts={
        "frame": "frame",
        "post": required("seatpost"),
        "saddle": optional("saddle"),
        "bike": BIKE,
    },
    messages={
        "fits": "Post and tube are both {post.diameter_mm:g} mm.",
        "shim": "Seatpost {post.diameter_mm:g} mm; seat tube {frame.seat_tube_bore_mm:g} mm: fit a shim.",
        "too_large": "Seatpost {post.diameter_mm:g} mm; seat tube {frame.seat_tube_bore_mm:g} mm: too large.",
        "too_deep": "Seatpost needs {post.min_insertion_mm:g} mm; tube open for {frame.seat_tube_depth_mm:g} mm.",
        "too_little": "Insertion {in_mm:.0f} mm at this saddle height; minimum {post.min_insertion_mm:g} mm.",
        "bottoms": (
            "At this saddle height the post goes {in_mm:.0f} mm "
            "deep; the tube is open for {frame.seat_tube_depth_mm:g}."
        ),
        "mark_out": "The seatpost's minimum mark shows above the tube.",
        "insertion_unknown": "Whether enough of the post is in the tube is not known.",
        "turned": "A set-back post must not be turned forward: its maker does not allow it.",
        "turned_unknown": "Whether the set-back post faces forward, and may, is not known.",
    },
    figures={
        "in_mm": ("length − (saddle height − tube − height over rails)", "mm"),
    },
    sources=("seat-practice",),
    safety=True,
)


@POST.clause("frame.seat_tube_bore_mm post.diameter_mm")
def diameter(frame: View, post: View) -> Outcome:
    bore, size = frame.seat_tube_bore_mm, post.diameter_mm
    if size > bore + CLAMP_TOLERANCE_MM + SLACK:
        return no_go("too_large", way_out(post, "diameter_mm", "<=", bore))
    if near(bore, size, CLAMP_TOLERANCE_MM):
        return goes("fits")
    where = f"at least {SHIM_LENGTH_MM:g} mm long"
    return goes_if("shim", need("seatpost shim", size_mm=round(bore, 1), inner_mm=size, where=where))


@POST.clause(given="frame.seat_tube_depth_mm post.min_insertion_mm", may="post.mark_inside")
def deep_enough(frame: View, post: View) -> Outcome | None:
    depth, least = frame.seat_tube_depth_mm, post.min_insertion_mm
    if post.mark_inside or least <= depth + SLACK:
        return None
    return no_go("too_deep", way_out(post, "min_insertion_mm", "<=", depth))


@POST.clause(given="post.mark_inside")
def mark(post: View) -> Outcome | None:
    return None if post.mark_inside else no_go("mark_out", way_out(post, "mark_inside", "==", True))


@POST.clause(
    "frame post",
    asks="frame.seat_tube_length_mm post.length_mm saddle.rail_height_mm",
    may="bike.saddle_height_mm post.min_insertion_mm post.mark_inside frame.seat_tube_depth_mm",
)
def insertion(frame: View, post: View, saddle: View, bike: View) -> Outcome | None:
    """Return how much of the post is in the tube, by the rider's saddle height; else by mark, or by least and depth."""
    least, depth = post.min_insertion_mm, frame.seat_tube_depth_mm
    seen = post.mark_inside
    if (
        bike.saddle_height_mm is not None
        and not saddle.empty
        and not (seen and _lacking(frame, post, saddle))
    ):
        room = seat_room(
            saddle_height_mm=bike.saddle_height_mm,
            seat_tube_mm=require(frame).seat_tube_length_mm,
            rail_height_mm=require(saddle).rail_height_mm,
        ).value
        inside = (
            require(post).length_mm - room
        )  # of a dropper too: its body is length − stack, raised by room − stack
        if least is not None and inside < least - SLACK:
            return no_go(
                "too_little",
                way_out(post, "length_mm", ">=", require(post).length_mm + least - inside),
                in_mm=inside,
            )
        if depth is not None and inside > depth + SLACK:
            return no_go(
                "bottoms",
                way_out(post, "length_mm", "<=", require(post).length_mm + depth - inside),
                in_mm=inside,
            )
        if least is not None and (depth is not None or seen):
            return goes("fits", in_mm=inside)
    if seen or (bike.saddle_height_mm is None and least is not None and depth is not None):
        return None
    if saddle.empty and least is not None and depth is not None:
        return None
    asks: list[tuple[View, str | None]] = [(post, "mark_inside")]
    asks += [(post, "min_insertion_mm")] if least is None else []
    asks += [(frame, "seat_tube_depth_mm")] if depth is None else []
    return unmeasured("insertion_unknown", *asks)


def _lacking(frame: View, post: View, saddle: View) -> bool:
    """Return whether a figure is missing that the insertion is worked out from."""
    sizes = [frame.seat_tube_length_mm, post.length_mm, saddle.rail_height_mm]
    return None in sizes


@POST.clause(may="post.turned post.fits_forward post.setback_mm")
def turned(post: View) -> Outcome | None:
    if post.turned is None and post.setback_mm and post.fits_forward is False:
        return unmeasured("turned_unknown", (post, "turned"))
    if not post.turned or post.setback_mm == 0 or post.fits_forward:
        return None
    if post.fits_forward is None:
        return unmeasured("turned_unknown", (post, "fits_forward"))
    return no_go("turned", way_out(post, "fits_forward", "==", True))


ENTRY = rule(
    "dropper-entry",
    title="Dropper's line gets into the frame",
    plain="A cable or hydraulic dropper wants a hole for its line in the frame; an electronic one wants none.",
    why="Without a way in for its line the post cannot be worked.",
    area=Area.SEAT,
    joint="post",
    parts={"frame": "frame", "post": required("seatpost")},
    messages={
        "entry": "The frame has a hole for the dropper's line.",
        "no_entry": "The frame has no hole for the dropper's line.",
    },
    sources=("seat-practice",),
)


@ENTRY.clause(may="post.actuation post.dropper_travel_mm", silences=True)
def wants_a_line(post: View) -> Outcome | None:
    dropper = post.actuation in BY_LINE or (post.actuation is None and post.dropper_travel_mm)
    return None if dropper else SILENT


@ENTRY.clause("frame post", asks="post.actuation frame.dropper_entry")
def entry(frame: View, post: View) -> Outcome | None:
    if require(post).actuation not in BY_LINE:
        return None
    if require(frame).dropper_entry:
        return goes("entry")
    return no_go("no_entry", way_out(post, "actuation", "==", "electronic"))


ROOM = rule(
    "dropper-room",
    title="Dropper fits under the saddle",
    plain=(
        "Saddle height less seat tube less the saddle's height over its rails is the room there is; the post's stack "
        "must not exceed it. Said where the rider's saddle height is known."
    ),
    why="A post that is too long leaves the saddle higher than the rider can pedal.",
    area=Area.SEAT,
    joint="post",
    parts={"bike": BIKE, "frame": "frame", "post": required("seatpost"), "saddle": "saddle"},
    messages={
        "room": "Dropper stack {post.stack_mm:g} mm; room {room_mm:.0f} mm.",
        "no_room": "Dropper stack {post.stack_mm:g} mm; only {room_mm:.0f} mm of room.",
    },
    figures={"room_mm": ("saddle height − seat tube − height over rails", "mm")},
    sources=("seat-practice",),
)


@ROOM.clause(may="bike.saddle_height_mm post.dropper_travel_mm", silences=True)
def is_dropper(bike: View, post: View) -> Outcome | None:
    return SILENT if bike.saddle_height_mm is None or not post.dropper_travel_mm else None


@ROOM.clause(
    "frame.seat_tube_length_mm post.stack_mm",
    asks="saddle.rail_height_mm",
    may="bike.saddle_height_mm",
)
def room(frame: View, post: View, saddle: View, bike: View) -> Outcome | None:
    most = seat_room(
        saddle_height_mm=bike.saddle_height_mm,
        seat_tube_mm=frame.seat_tube_length_mm,
        rail_height_mm=saddle.rail_height_mm or 0.0,
    ).value
    if post.stack_mm > most + SLACK:
        return no_go("no_room", way_out(post, "stack_mm", "<=", most), room_mm=most)
    require(saddle, "rail_height_mm")
    return goes("room", room_mm=most)


CONTROL = rule(
    "dropper-control",
    title="Dropper has its lever, its line and its place",
    plain=(
        "Lever and post work the same way; the lever's clamp and "
        "bar are this bar's; the line has a hole into the frame. "
        "A battery in the seat tube leaves no room for a dropper."
    ),
    why="A lever that works another way cannot move the post.",
    area=Area.SEAT,
    joint="post",
    parts={
        "post": required("seatpost"),
        "lever": optional("dropper_lever"),
        "line": optional("dropper_line"),
        "bar": optional("handlebar"),
        "frame": optional("frame"),
    },
    messages={
        "works": "Lever and post work the same way.",
        "other_works": "The lever works by {lever.actuation}, the post by {post.actuation}.",
        "no_line": "A line leads to this post, and the frame has no hole for it.",
        "other_line": "A {line.type} does not work this post.",
        "other_shape": "The dropper's lever is not made for this bar ({bar.shape}).",
        "other_clamp": "The dropper lever's clamp is {lever.clamp_mm:g} mm; the bar is {bar.grip_mm:g}.",
        "battery": "The battery sits in the seat tube, where the dropper goes.",
    },
    sources=("seat-practice", "steering-practice"),
)


@CONTROL.clause(may="post.dropper_travel_mm post.actuation", silences=True)
def drops(post: View) -> Outcome | None:
    return None if post.dropper_travel_mm or post.actuation not in (None, "none") else SILENT


@CONTROL.clause("post", may="post.dropper_travel_mm post.actuation frame.battery_in_seat_tube")
def battery(post: View, frame: View) -> Outcome | None:
    dropper = post.dropper_travel_mm or post.actuation not in (None, "none")
    if not dropper or not frame.battery_in_seat_tube:
        return None
    return no_go("battery", way_out(post, "actuation", "==", "none"))


@CONTROL.clause("post lever.actuation", asks="post.actuation", may="post.dropper_travel_mm")
def works(post: View, lever: View) -> Outcome | None:
    if post.actuation == "none" or (post.actuation is None and not post.dropper_travel_mm):
        return None
    if lever.actuation == require(post).actuation:
        return goes("works")
    return no_go("other_works", way_out(lever, "actuation", "==", require(post).actuation))


@CONTROL.clause("post.actuation line", may="line.type frame.dropper_entry")
def line(post: View, line: View, frame: View) -> Outcome | None:
    if line.empty or post.actuation not in BY_LINE:
        return None
    if frame.dropper_entry is False:
        return no_go("no_line", way_out(post, "actuation", "==", "electronic"))
    right = ("hose",) if post.actuation == "hydraulic" else ("shift_housing", "brake_housing")
    if line.type is not None and line.type not in right:
        return no_go("other_line", way_out(line, "type", "in", list(right)))
    return None


@CONTROL.clause("lever.fits_bar bar.shape")
def lever_shape(lever: View, bar: View) -> Outcome | None:
    families = lookup("bar_families", "code")
    if families[bar.shape]["family"] in {families[fit]["family"] for fit in lever.fits_bar}:
        return None
    return no_go("other_shape", way_out(lever, "fits_bar", "has", bar.shape))


@CONTROL.clause("lever.clamp_mm bar.grip_mm")
def lever_clamp(lever: View, bar: View) -> Outcome | None:
    if near(lever.clamp_mm, bar.grip_mm, GRIP_TOLERANCE_MM):
        return None
    return no_go("other_clamp", way_out(lever, "clamp_mm", "==", bar.grip_mm))


RAILS = rule(
    "saddle-rails",
    title="Post clamps the saddle's rails",
    plain=(
        "The post's clamp must be made for the saddle's rails: 7 "
        "mm round or an oval. The wrong clamp crushes carbon rails."
    ),
    why="The wrong clamp crushes carbon rails or lets round ones turn.",
    area=Area.SEAT,
    joint="saddle",
    parts={"post": required("seatpost"), "saddle": "saddle"},
    messages={
        "clamps": "The post clamps these rails.",
        "other": "The post does not clamp these rails.",
    },
    sources=("seat-practice",),
    safety=True,
)


@RAILS.clause("post.rails saddle.rails")
def rails(post: View, saddle: View) -> Outcome:
    if set(saddle.rails) <= set(post.rails):
        return goes("clamps")
    return no_go("other", way_out(post, "rails", "has", saddle.rails[0]))
