"""Where the bar stands: forward and up from the top of the headset, for two stems, with their picture."""

from __future__ import annotations

import math
from typing import Any

from attrs import frozen

from unkett.core.calc.base import Input, Result, SlotAttr, TraceLine, Values, calculation, figure
from unkett.core.calc.fields import ANGLE, HEAD_ANGLE, LENGTH
from unkett.core.scene import Circle, Path, Scene, Segment, Shape, Text
from unkett.core.vocabulary.types import AttributeType

CLAMP_MM = 40.0


@frozen(kw_only=True)
class BarPlace:
    """Where the bar's clamp centre lies from the steerer axis at the top of the headset."""

    forward_mm: float = figure("mm", "Forward")
    up_mm: float = figure("mm", "Up")


@frozen(kw_only=True)
class BarPosition(Result):
    before: BarPlace = figure("", "Bar now")
    after: BarPlace = figure("", "Bar then")
    change: BarPlace = figure("", "Bar moves")

    def to_json(self) -> dict[str, Any]:
        out = super().to_json()
        return {
            "format": out["format"],
            "from": out["before"],
            "to": out["after"],
            "change": out["change"],
            "trace": out["trace"],
        }


def bar_place(
    *, head_angle_deg: float, length_mm: float, angle_deg: float, spacers_mm: float, clamp_height_mm: float
) -> BarPlace:
    """Forward and up of the bar for one stem; a positive stem angle rises."""
    head, stem = math.radians(head_angle_deg), math.radians(head_angle_deg - angle_deg)
    along = spacers_mm + clamp_height_mm / 2
    return BarPlace(
        forward_mm=length_mm * math.sin(stem) - along * math.cos(head),
        up_mm=length_mm * math.cos(stem) + along * math.sin(head),
    )


_STEM: tuple[tuple[str, str, AttributeType, SlotAttr], ...] = (
    ("head_angle_deg", "Head angle", HEAD_ANGLE, ("frame", "head_angle_deg")),
    ("length_mm", "Stem length", LENGTH, ("stem", "length_mm")),
    ("angle_deg", "Stem angle", ANGLE, ("stem", "angle_deg")),
    ("spacers_mm", "Spacers below the stem", LENGTH, ("spacers", "below_mm")),
    ("clamp_height_mm", "Stem height at the steerer", LENGTH, ("stem", "clamp_height_mm")),
)


def _stem_now() -> list[Input]:
    return [
        Input(
            name=name,
            title=f"{title} now",
            type=kind,
            says=f"{title} now.",
            optional=name == "clamp_height_mm",
            default=CLAMP_MM if name == "clamp_height_mm" else None,
            known=(place,),
        )
        for name, title, kind, place in _STEM
    ]


def _stem_then() -> list[Input]:
    return [
        Input(
            name=f"{name}_to",
            title=f"{title} then",
            type=kind,
            says=f"{title} then; as now where it is missing.",
            optional=True,
            then=(place,),
        )
        for name, title, kind, place in _STEM
    ]


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
        Segment(
            start=at(30 * math.cos(axis), -30 * math.sin(axis)),
            end=at(-most_up * math.cos(axis), most_up * math.sin(axis)),
            role="centre",
        ),
        Text(at=(start[0] + 12, start[1] + 14), text="top of the headset", role="note", anchor="start"),
    ]
    ends = []
    for place, ending, role in ((places[0], "", "was"), (places[1], "_to", "new")):
        spacers = inputs.get(f"spacers_mm{ending}", inputs["spacers_mm"])
        clamp = inputs.get(f"clamp_height_mm{ending}") or inputs.get("clamp_height_mm", CLAMP_MM)
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


@calculation(
    "bar_position",
    title="Bar position",
    page="steering",
    says="Bar position of two stem set-ups and the change between them.",
    inputs=(*_stem_now(), *_stem_then()),
    picture=_stem,
    formula="forward = l·sin(HA − a), up = l·cos(HA − a); spacers along the steerer",
    sources=("plane-geometry",),
)
def bar_position(
    *,
    head_angle_deg: float,
    length_mm: float,
    angle_deg: float,
    spacers_mm: float,
    clamp_height_mm: float = CLAMP_MM,
    head_angle_deg_to: float | None = None,
    length_mm_to: float | None = None,
    angle_deg_to: float | None = None,
    spacers_mm_to: float | None = None,
    clamp_height_mm_to: float | None = None,
) -> BarPosition:
    """From the steerer axis at the top of the headset; the stem's clamp centre lies at spacers + clamp / 2."""
    before = bar_place(
        head_angle_deg=head_angle_deg,
        length_mm=length_mm,
        angle_deg=angle_deg,
        spacers_mm=spacers_mm,
        clamp_height_mm=clamp_height_mm,
    )
    after = bar_place(
        head_angle_deg=head_angle_deg if head_angle_deg_to is None else head_angle_deg_to,
        length_mm=length_mm if length_mm_to is None else length_mm_to,
        angle_deg=angle_deg if angle_deg_to is None else angle_deg_to,
        spacers_mm=spacers_mm if spacers_mm_to is None else spacers_mm_to,
        clamp_height_mm=clamp_height_mm if clamp_height_mm_to is None else clamp_height_mm_to,
    )
    change = BarPlace(forward_mm=after.forward_mm - before.forward_mm, up_mm=after.up_mm - before.up_mm)
    return BarPosition(
        before=before,
        after=after,
        change=change,
        trace=(
            TraceLine(
                "from_forward_mm", before.forward_mm, "mm", "l·sin(HA − a) − (spacers + clamp/2)·cos HA"
            ),
            TraceLine("from_up_mm", before.up_mm, "mm", "l·cos(HA − a) + (spacers + clamp/2)·sin HA"),
            TraceLine("to_forward_mm", after.forward_mm, "mm", "the same for the second set"),
            TraceLine("to_up_mm", after.up_mm, "mm", "the same for the second set"),
        ),
    )
