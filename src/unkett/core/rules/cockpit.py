"""Bar in the stem, controls on the bar; seatpost, dropper, saddle rails, rear shock."""

from __future__ import annotations

from unkett.core.calc.base import SLACK
from unkett.core.calc.geometry import seat_room
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
)
from unkett.core.standards import table
from unkett.core.vocabulary import Area

CLAMP_TOLERANCE_MM = 0.1
GRIP_TOLERANCE_MM = 0.4
SHIM_LENGTH_MM = 80.0
SHIMMED_BARS = ("steel", "aluminium")


@rule(
    "stem-bar",
    title="Bar sits in the stem's clamp",
    plain=(
        "Clamp and bar must be equal. A larger clamp takes a smaller steel or aluminium bar through a sleeve that "
        "is made, never a carbon one; never the other way; 25.4 and 26.0 never mix."
    ),
    area=Area.STEERING,
    reads={"stem": ("bar_clamp_mm",), "handlebar": ("clamp_mm", optional("material"))},
    messages={
        "same": "Clamp and bar are both {handlebar.clamp_mm:g} mm.",
        "sleeve": "A {handlebar.clamp_mm:g} mm bar in a {stem.bar_clamp_mm:g} mm clamp takes a sleeve.",
        "carbon": "A {handlebar.material} bar does not go in a sleeve.",
        "material_unknown": "Only steel and aluminium bars go in a sleeve; the material is not known.",
        "other": "A {handlebar.clamp_mm:g} mm bar does not go in a {stem.bar_clamp_mm:g} mm clamp.",
    },
    sources=("steering-practice",),
    safety=True,
)
def stem_bar(stem: View, handlebar: View) -> Outcome:
    clamp, bar = stem.bar_clamp_mm, handlebar.clamp_mm
    if near(clamp, bar, CLAMP_TOLERANCE_MM):
        return goes("same")
    same = way_out(handlebar, "clamp_mm", "==", clamp)
    for row in table("bar_sleeves").rows:
        if near(row["clamp_mm"], clamp, CLAMP_TOLERANCE_MM) and near(row["bar_mm"], bar, CLAMP_TOLERANCE_MM):
            if handlebar.material is None:
                return unmeasured("material_unknown", (handlebar, "material"))
            if handlebar.material not in SHIMMED_BARS:
                return no_go("carbon", same, way_out(stem, "bar_clamp_mm", "==", bar))
            return goes_if("sleeve", need("sleeve", size_mm=bar, where="between bar and clamp"))
    return no_go("other", same, way_out(stem, "bar_clamp_mm", "==", bar))


_CONTROLS = tuple(
    {
        "control": at(slot, optional("clamp_mm"), optional("fits_bar")),
        "handlebar": at("handlebar", optional("grip_mm"), optional("shape")),
    }
    for slot in ("front_brake_lever", "rear_brake_lever", "rear_shifter", "front_shifter")
)


@rule(
    "bar-controls",
    title="Lever or shifter fits the bar",
    plain="The clamp must be the bar's (22.2 flat, 23.8 to 24.2 drop) and the bar's shape one it is made for.",
    area=Area.STEERING,
    reads=_CONTROLS,
    messages={
        "fits": "Clamp and shape are the bar's.",
        "other_shape": "It is not made for a {handlebar.shape} bar.",
        "other_clamp": "Its clamp is {control.clamp_mm:g} mm; the bar is {handlebar.grip_mm:g}.",
        "unknown": "Clamp, bar or the shape it is made for is not measured.",
    },
    sources=("steering-practice",),
    safety=True,
)
def bar_controls(control: View, handlebar: View) -> Outcome:
    if None not in (control.fits_bar, handlebar.shape) and handlebar.shape not in control.fits_bar:
        return no_go("other_shape", way_out(control, "fits_bar", "has", handlebar.shape))
    if None not in (control.clamp_mm, handlebar.grip_mm) and not near(
        control.clamp_mm, handlebar.grip_mm, GRIP_TOLERANCE_MM
    ):
        return no_go("other_clamp", way_out(control, "clamp_mm", "==", handlebar.grip_mm))
    pairs = ((control, "clamp_mm"), (handlebar, "grip_mm"), (control, "fits_bar"), (handlebar, "shape"))
    asks = missing(*pairs)
    return unmeasured("unknown", *asks) if asks else goes("fits")


@rule(
    "seatpost-fit",
    title="Seatpost goes in the seat tube",
    plain=(
        "Equal within 0.1 mm goes; a smaller post takes a shim of at least 80 mm; a larger one does not go. The "
        "post's least insertion must not exceed the open depth of the tube."
    ),
    area=Area.SEAT,
    reads={
        "frame": ("seat_tube_bore_mm", optional("seat_tube_depth_mm")),
        "seatpost": ("diameter_mm", optional("min_insertion_mm")),
    },
    messages={
        "fits": "Post and tube are both {seatpost.diameter_mm:g} mm.",
        "shim": "A {seatpost.diameter_mm:g} mm post in a {frame.seat_tube_bore_mm:g} mm tube takes a shim.",
        "too_large": "A {seatpost.diameter_mm:g} mm post does not go in a {frame.seat_tube_bore_mm:g} mm tube.",
        "too_deep": "The post wants {seatpost.min_insertion_mm:g} mm; the tube is open for {frame.seat_tube_depth_mm:g}.",
    },
    sources=("seat-practice",),
    safety=True,
)
def seatpost_fit(frame: View, seatpost: View) -> Outcome:
    bore, post = frame.seat_tube_bore_mm, seatpost.diameter_mm
    if post > bore + CLAMP_TOLERANCE_MM + SLACK:
        return no_go("too_large", way_out(seatpost, "diameter_mm", "<=", bore))
    depth, least = frame.seat_tube_depth_mm, seatpost.min_insertion_mm
    if None not in (depth, least) and least > depth + SLACK:
        return no_go("too_deep", way_out(seatpost, "min_insertion_mm", "<=", depth))
    if near(bore, post, CLAMP_TOLERANCE_MM):
        return goes("fits")
    shim = need("shim", size_mm=round(bore, 1), inner_mm=post, where=f"at least {SHIM_LENGTH_MM:g} mm long")
    return goes_if("shim", shim)


@rule(
    "dropper-entry",
    title="Dropper's line gets into the frame",
    plain="A cable or hydraulic dropper wants a hole for its line in the frame; an electronic one wants none.",
    area=Area.SEAT,
    reads={
        "frame": (optional("dropper_entry"),),
        "seatpost": (optional("actuation"), optional("dropper_travel_mm")),
    },
    messages={
        "entry": "The frame has a hole for the dropper's line.",
        "no_entry": "The frame has no hole for the dropper's line.",
        "unknown": "How the dropper works, or whether the frame has a hole for its line, is not known.",
    },
    sources=("seat-practice",),
)
def dropper_entry(frame: View, seatpost: View) -> Outcome | None:
    if seatpost.actuation is None and seatpost.dropper_travel_mm:
        return unmeasured("unknown", (seatpost, "actuation"))
    if seatpost.actuation not in ("cable", "hydraulic"):
        return None
    if frame.dropper_entry is None:
        return unmeasured("unknown", (frame, "dropper_entry"))
    return (
        goes("entry")
        if frame.dropper_entry
        else no_go("no_entry", way_out(seatpost, "actuation", "==", "electronic"))
    )


@rule(
    "dropper-room",
    title="Dropper fits under the saddle",
    plain=(
        "Saddle height less seat tube less the saddle's height over its rails is the room there is; the post's stack "
        "must not exceed it. Said where the rider's saddle height is known."
    ),
    area=Area.SEAT,
    reads={
        "bike": at("bike", optional("saddle_height_mm")),
        "frame": (optional("seat_tube_length_mm"),),
        "seatpost": (optional("dropper_travel_mm"), optional("stack_mm")),
        "saddle": (optional("rail_height_mm"),),
    },
    messages={
        "room": "There is room for {room_mm:.0f} mm; the dropper stands {seatpost.stack_mm:g} mm.",
        "no_room": "There is room for {room_mm:.0f} mm only; the dropper stands {seatpost.stack_mm:g} mm.",
        "unknown": "Seat tube, dropper or saddle is not measured.",
    },
    figures={"room_mm": "saddle height − seat tube − height over rails"},
    sources=("seat-practice",),
)
def dropper_room(bike: View, frame: View, seatpost: View, saddle: View) -> Outcome | None:
    if not seatpost.dropper_travel_mm or bike.saddle_height_mm is None:
        return None
    pairs = ((frame, "seat_tube_length_mm"), (seatpost, "stack_mm"), (saddle, "rail_height_mm"))
    asks = missing(*pairs)
    if asks:
        return unmeasured("unknown", *asks)
    room = seat_room(
        saddle_height_mm=bike.saddle_height_mm,
        seat_tube_mm=frame.seat_tube_length_mm,
        rail_height_mm=saddle.rail_height_mm,
    ).value
    if seatpost.stack_mm <= room + SLACK:
        return goes("room", room_mm=room)
    return no_go("no_room", way_out(seatpost, "stack_mm", "<=", room), room_mm=room)


@rule(
    "saddle-rails",
    title="Post clamps the saddle's rails",
    plain="The post's clamp must be made for the saddle's rails: 7 mm round or an oval. The wrong clamp crushes carbon rails.",
    area=Area.SEAT,
    reads={"seatpost": ("rails",), "saddle": ("rails",)},
    messages={
        "clamps": "The post clamps these rails.",
        "other": "The post does not clamp these rails.",
    },
    sources=("seat-practice",),
    safety=True,
)
def saddle_rails(seatpost: View, saddle: View) -> Outcome:
    if set(saddle.rails) <= set(seatpost.rails):
        return goes("clamps")
    return no_go("other", way_out(seatpost, "rails", "has", saddle.rails[0]))


@rule(
    "shock-fit",
    title="Shock is the frame's",
    plain="Length and stroke of the rear shock must be the frame's, within half a millimetre.",
    area=Area.STEERING,
    reads={
        "frame": ("shock_eye_to_eye_mm", "shock_stroke_mm"),
        "shock": ("eye_to_eye_mm", "stroke_mm"),
    },
    messages={
        "fits": "{shock.eye_to_eye_mm:g} × {shock.stroke_mm:g} mm is the frame's size.",
        "other": "{shock.eye_to_eye_mm:g} × {shock.stroke_mm:g} mm; the frame wants {frame.shock_eye_to_eye_mm:g} × {frame.shock_stroke_mm:g}.",
    },
    sources=("maker-limits",),
    safety=True,
)
def shock_fit(frame: View, shock: View) -> Outcome:
    if near(frame.shock_eye_to_eye_mm, shock.eye_to_eye_mm, 0.5) and near(
        frame.shock_stroke_mm, shock.stroke_mm, 0.5
    ):
        return goes("fits")
    ways = (
        way_out(shock, "eye_to_eye_mm", "==", frame.shock_eye_to_eye_mm),
        way_out(shock, "stroke_mm", "==", frame.shock_stroke_mm),
    )
    return no_go("other", *ways)
