"""The picture of a calculation's answer, where one says more than its numbers."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from unkett.core.drawing.lacing import lacing_scene
from unkett.core.drawing.scene import Box, Circle, Line, Path, Scene, Shape, Text, dimension, upright

Values = Mapping[str, Any]
Picture = Callable[[Values, Values], Scene | None]


def _lacing(inputs: Values, answer: Values) -> Scene:
    return lacing_scene(
        title="Lacing",
        erd_mm=inputs["erd_mm"],
        pcd_mm=inputs["pcd_mm"],
        spokes=inputs["spokes"],
        crosses=inputs["crosses"],
        length_mm=answer["length_mm"],
    )


STEM_SCALE = 2.2


def _stem(inputs: Values, answer: Values) -> Scene:
    """Steerer axis and both stems from the top of the headset, to scale."""
    places = (answer["from"], answer["to"])
    most_up = max(40.0, *(place["up_mm"] for place in places))
    foot = (most_up + 20) * STEM_SCALE
    back = min(0.0, *(place["forward_mm"] for place in places)) * STEM_SCALE
    below = min(0.0, *(place["up_mm"] for place in places)) * STEM_SCALE
    start = (130.0 - back, foot)
    axis = math.radians(inputs["head_angle_deg"])

    def at(forward: float, up: float) -> tuple[float, float]:
        return (start[0] + forward * STEM_SCALE, start[1] - up * STEM_SCALE)

    shapes: list[Shape] = [
        Line(start=at(30 * math.cos(axis), -30 * math.sin(axis)), end=at(-most_up * math.cos(axis), most_up * math.sin(axis)), role="centre"),
        Text(at=(start[0] + 12, start[1] + 14), text="top of the headset", role="note", anchor="start"),
    ]  # fmt: skip
    ends = []
    for place, ending, role in ((places[0], "", "was"), (places[1], "_to", "new")):
        spacers = inputs.get(f"spacers_mm{ending}", inputs["spacers_mm"])
        clamp = inputs.get(f"clamp_height_mm{ending}") or inputs.get("clamp_height_mm", 40.0)
        head = math.radians(inputs.get(f"head_angle_deg{ending}", inputs["head_angle_deg"]))
        along = spacers + clamp / 2
        root = at(-along * math.cos(head), along * math.sin(head))
        end = at(place["forward_mm"], place["up_mm"])
        ends.append(end)
        shapes.append(Path(points=(root, end), role=f"stem-{role}"))
        shapes.append(Circle(centre=end, radius=15.9 * STEM_SCALE / 2, role=f"stem-{role}"))
    right = max(start[0], *(end[0] for end in ends)) + 60
    change = answer["change"]
    text = f"{change['forward_mm']:+.1f} forward, {change['up_mm']:+.1f} up"
    shapes.append(Text(at=(right - 40, 16), text=text, role="cut-text", anchor="end"))
    return Scene(
        width=right,
        height=foot + 80 - below,
        title="Stem before and after",
        says=text + " mm.",
        shapes=tuple(shapes),
    )


def _dropper(inputs: Values, answer: Values) -> Scene | None:
    """Seat tube, post and saddle of the best dropper, to scale."""
    best = answer["best"]
    if best is None:
        return None
    scale, middle, top = 0.55, 210.0, 26.0

    def y(up_mm: float) -> float:
        return top + (float(inputs["saddle_height_mm"]) - up_mm) * scale

    tube, room = inputs["seat_tube_mm"], answer["room_mm"]
    collar = tube + best["raised_mm"]
    shapes: list[Shape] = [
        Box(corner=(middle - 19, y(tube)), width=38, height=(tube) * scale, role="part", title="seat tube"),
        Box(corner=(middle - 13, y(collar)), width=26, height=best["body_mm"] * scale, role="part-other", title="post's body"),
        Box(corner=(middle - 8, y(collar + best["stack_mm"])), width=16, height=best["stack_mm"] * scale, role="spacer", title="post, extended"),
        Line(start=(middle - 60, y(inputs["saddle_height_mm"])), end=(middle + 80, y(inputs["saddle_height_mm"])), role="ring"),
        Circle(centre=(middle, y(0)), radius=8, role="axle"),
        Line(start=(middle - 40, y(tube - inputs["depth_mm"])), end=(middle + 40, y(tube - inputs["depth_mm"])), role="cut-mark"),
        Text(at=(middle + 46, y(tube - inputs["depth_mm"]) + 4), text=f"open to {inputs['depth_mm']:g}", role="note", anchor="start"),
        *upright((middle - 60, y(tube)), (middle - 60, y(tube + room)), f"room {room:g}", right=False),
        *upright((middle + 96, y(collar)), (middle + 96, y(collar + best["stack_mm"])), f"stack {best['stack_mm']:g}"),
        *upright((middle + 40, y(tube)), (middle + 40, y(tube - best["insertion_mm"])), f"in {best['insertion_mm']:g}"),
    ]  # fmt: skip
    says = f"{best['travel_mm']:g} mm of travel fits: raised {best['raised_mm']:g} mm, {best['insertion_mm']:g} mm in the tube."
    return Scene(
        width=420, height=y(0) + 24, title="Dropper in the seat tube", says=says, shapes=tuple(shapes)
    )


def _shims(inputs: Values, answer: Values) -> Scene:
    """Each wheel's rotor plane against the reference, tenths of a millimetre made large."""
    planes, shim = inputs["planes_mm"], inputs.get("shim_mm", 0.2)
    reference = planes[answer["reference"]]
    scale, right, row = 150.0, 430.0, 46.0
    shapes: list[Shape] = [
        Line(start=(right, 10), end=(right, 20 + row * len(planes)), role="cut-mark"),
        Text(at=(right + 8, 22), text="furthest outboard", role="note", anchor="start"),
    ]
    for n, (wheel, plane) in enumerate(planes.items()):
        y = 40 + row * n
        x = right - min((reference - plane) * scale, right - 110)
        count = answer["shims"][wheel]
        shapes.append(Line(start=(x, y - 14), end=(x, y + 14), role="ring"))
        for piece in range(count):
            left = x + piece * shim * scale
            shapes.append(
                Box(
                    corner=(left, y - 9),
                    width=shim * scale,
                    height=18,
                    role="spacer",
                    title=f"shim {shim:g} mm",
                )
            )
        shapes.append(Text(at=(8, y + 4), text=wheel, role="row-planned", anchor="start"))
        shapes.append(Text(at=(right + 8, y + 6), text=f"{count} × {shim:g}", role="note", anchor="start"))
    says = "; ".join(f"{wheel} {count} shims" for wheel, count in answer["shims"].items())
    return Scene(
        width=560, height=30 + row * len(planes), title="Rotor planes", says=says + ".", shapes=tuple(shapes)
    )


def _options(inputs: Values, answer: Values) -> Scene | None:
    """Where the axle stands in the dropout for each number of links."""
    options, low, high = answer["options"], inputs["centre_mm_min"], inputs["centre_mm_max"]
    if not options or high <= low:
        return None
    left, span = 40.0, 420.0

    def x(centre: float) -> float:
        return left + float((centre - low) / (high - low)) * span

    shapes: list[Shape] = [Box(corner=(left, 50), width=span, height=14, role="part-other", title="dropout")]
    for one in options:
        shapes.append(Circle(centre=(x(one["centre_mm"]), 57), radius=6, role="axle"))
        shapes.append(Text(at=(x(one["centre_mm"]), 40), text=str(one["links"]), role="end-number"))
    shapes += dimension((left, 96), (left + span, 96), f"bracket to axle {low:g} to {high:g}")
    says = "; ".join(f"{one['links']} links at {one['centre_mm']:.1f} mm" for one in options)
    return Scene(width=500, height=112, title="Axle in the dropout", says=says + ".", shapes=tuple(shapes))


PICTURES: dict[str, Picture] = {
    "spoke_length": _lacing,
    "bar_position": _stem,
    "dropper_fit": _dropper,
    "rotor_shims": _shims,
    "single_speed_chain": _options,
}


def picture_of(name: str, inputs: Values, answer: Values) -> Scene | None:
    """The scene of an answer; None where the calculation has no picture."""
    return PICTURES[name](inputs, answer) if name in PICTURES else None
