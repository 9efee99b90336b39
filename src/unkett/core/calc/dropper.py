"""Which dropper fits between the seat tube and the rails, with its picture."""

from __future__ import annotations

from typing import Any

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, Values, calculation, figure
from unkett.core.calc.fields import LENGTH
from unkett.core.scene import Box, Circle, Scene, Segment, Shape, Text, upright
from unkett.core.standards import SLACK
from unkett.core.vocabulary.types import ListOf, Record


def seat_room(*, saddle_height_mm: float, seat_tube_mm: float, rail_height_mm: float) -> TraceLine:
    """Collar to rail in mm: what shows of the post at this saddle height."""
    room = saddle_height_mm - seat_tube_mm - rail_height_mm
    return TraceLine("room_mm", room, "mm", f"{saddle_height_mm:g} − {seat_tube_mm:g} − {rail_height_mm:g}")


@frozen(kw_only=True)
class FittingPost:
    """A post that fits, raised so far that the saddle stands at its height."""

    travel_mm: float = figure("mm", "Travel")
    stack_mm: float = figure("mm", "Collar to rail, extended")
    body_mm: float = figure("mm", "Body below the collar")
    min_insertion_mm: float | None = figure("mm", "Least insertion of its own")
    insertion_mm: float = figure("mm", "In the tube")
    raised_mm: float = figure("mm", "Raised out of the tube by")


@frozen(kw_only=True)
class DropperFit(Result):
    room_mm: float = figure("mm", "Room over the seat tube")
    best: FittingPost | None = figure("", "Longest that fits")

    def to_json(self) -> dict[str, Any]:
        out = super().to_json()
        if self.best is not None and self.best.min_insertion_mm is None:
            del out["best"]["min_insertion_mm"]
        return out


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
        Box(
            corner=(middle - 13, y(collar)),
            width=26,
            height=best["body_mm"] * scale,
            role="part-other",
            title="post's body",
        ),
        Box(
            corner=(middle - 8, y(collar + best["stack_mm"])),
            width=16,
            height=best["stack_mm"] * scale,
            role="spacer",
            title="post, extended",
        ),
        Segment(
            start=(middle - 60, y(inputs["saddle_height_mm"])),
            end=(middle + 80, y(inputs["saddle_height_mm"])),
            role="ring",
        ),
        Circle(centre=(middle, y(0)), radius=8, role="axle"),
        Segment(
            start=(middle - 40, y(tube - inputs["depth_mm"])),
            end=(middle + 40, y(tube - inputs["depth_mm"])),
            role="cut-mark",
        ),
        Text(
            at=(middle + 46, y(tube - inputs["depth_mm"]) + 4),
            text=f"open to {inputs['depth_mm']:g}",
            role="note",
            anchor="start",
        ),
        *upright((middle - 60, y(tube)), (middle - 60, y(tube + room)), f"room {room:g}", right=False),
        *upright(
            (middle + 96, y(collar)),
            (middle + 96, y(collar + best["stack_mm"])),
            f"stack {best['stack_mm']:g}",
        ),
        *upright(
            (middle + 40, y(tube)),
            (middle + 40, y(tube - best["insertion_mm"])),
            f"in {best['insertion_mm']:g}",
        ),
    ]
    says = (
        f"{best['travel_mm']:g} mm of travel fits: raised "
        f"{best['raised_mm']:g} mm, {best['insertion_mm']:g} mm in the tube."
    )
    return Scene(
        width=420, height=y(0) + 24, title="Dropper in the seat tube", says=says, shapes=tuple(shapes)
    )


@calculation(
    "dropper_fit",
    title="Dropper fit",
    page="steering",
    says="The largest dropper travel that fits under the saddle.",
    inputs=(
        Input(
            name="saddle_height_mm",
            title="Bracket to saddle top",
            known=(("bike", "saddle_height_mm"),),
            type=LENGTH,
            says="Bracket centre to saddle top.",
        ),
        Input(
            name="seat_tube_mm",
            title="Seat tube",
            known=(("frame", "seat_tube_length_mm"),),
            type=LENGTH,
            says="Bracket centre to the top of the seat tube.",
        ),
        Input(
            name="rail_height_mm",
            title="Saddle top over its rails",
            known=(("saddle", "rail_height_mm"),),
            type=LENGTH,
            says="Saddle top over its rails.",
        ),
        Input(
            name="travels",
            title="Posts to choose from",
            type=ListOf(
                item=Record(
                    fields={
                        "travel_mm": LENGTH,
                        "stack_mm": LENGTH,
                        "body_mm": LENGTH,
                        "min_insertion_mm": LENGTH,
                    },
                    optional=frozenset({"min_insertion_mm"}),
                )
            ),
            says="Posts to choose from: travel, stack (collar to rail, extended), body (below the collar).",
        ),
        Input(
            name="depth_mm",
            title="Usable depth of the seat tube",
            known=(("frame", "seat_tube_depth_mm"),),
            type=LENGTH,
            says="Open depth of the seat tube.",
        ),
        Input(
            name="min_insertion_mm",
            title="Least insertion",
            type=LENGTH,
            says="Least insertion of a post that states none of its own.",
            optional=True,
            default=0.0,
        ),
    ),
    picture=_dropper,
    formula="room = saddle height − seat tube − rail height; insertion = body − raised",
    sources=("seat-practice",),
)
def dropper_fit(
    *,
    saddle_height_mm: float,
    seat_tube_mm: float,
    rail_height_mm: float,
    travels: tuple[dict[str, float], ...],
    depth_mm: float,
    min_insertion_mm: float = 0.0,
) -> DropperFit:
    """A post fits when its stack is within the room and its insertion between its least and the depth."""
    there = seat_room(
        saddle_height_mm=saddle_height_mm, seat_tube_mm=seat_tube_mm, rail_height_mm=rail_height_mm
    )
    room = there.value
    best: FittingPost | None = None
    for post in travels:
        raised = room - post["stack_mm"]
        insertion = post["body_mm"] - raised
        least = post.get("min_insertion_mm", min_insertion_mm)
        fits = raised >= -SLACK and insertion <= depth_mm + SLACK and insertion >= least - SLACK
        if fits and (best is None or post["travel_mm"] > best.travel_mm):
            best = FittingPost(
                travel_mm=post["travel_mm"],
                stack_mm=post["stack_mm"],
                body_mm=post["body_mm"],
                min_insertion_mm=post.get("min_insertion_mm"),
                insertion_mm=insertion,
                raised_mm=max(0.0, raised),
            )
    trace = [there]
    if best is not None:
        trace.append(TraceLine("raised_mm", best.raised_mm, "mm", "room − stack"))
        trace.append(TraceLine("insertion_mm", best.insertion_mm, "mm", "body − raised"))
    return DropperFit(room_mm=room, best=best, trace=tuple(trace))
