"""Pictures of the suspension's figures: the ring on a shaft against its target, the curves of air springs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol

from unkett.core.scene import Box, Path, Scene, Segment, Shape, Text


class Target(Protocol):
    """A sag's target, and what a reading says of it."""

    @property
    def low_pct(self) -> float: ...
    @property
    def high_pct(self) -> float: ...
    @property
    def low_mm(self) -> float: ...
    @property
    def high_mm(self) -> float: ...
    @property
    def sag_pct(self) -> float | None: ...
    @property
    def reading(self) -> str | None: ...


HEIGHT, TOP, LEFT, SHAFT = 250.0, 14.0, 72.0, 46.0
WIDTH, SEAL = 312.0, 26.0


def ring_scene(
    title: str, full_mm: float, target: Target, sag_mm: float | None, hit_mm: float | None = None
) -> Scene:
    """Return the shaft with its full travel, the target as a band, the ring at the sag and at the hardest hit."""
    bottom, right = TOP + HEIGHT, LEFT + SHAFT

    def y(mm: float) -> float:
        return bottom - HEIGHT * min(max(mm, 0.0), full_mm) / full_mm

    shapes: list[Shape] = [
        Box(corner=(LEFT, TOP), width=SHAFT, height=HEIGHT, role="part-other"),
        Box(
            corner=(LEFT, y(target.high_mm)),
            width=SHAFT,
            height=y(target.low_mm) - y(target.high_mm),
            role="window",
            title=f"target {target.low_mm:.0f} to {target.high_mm:.0f} mm",
        ),
        Box(corner=(LEFT - 14, bottom), width=SHAFT + 28, height=SEAL, role="part", title="seal"),
        Text(at=(LEFT + SHAFT / 2, bottom + 18), text="seal", role="note"),
        Segment(start=(LEFT - 10, TOP), end=(right + 10, TOP), role="line"),
        Text(at=(right + 14, TOP + 5), text=f"bottoms at {full_mm:g} mm", role="note", anchor="start"),
    ]
    middle = y((target.low_mm + target.high_mm) / 2)
    shapes.append(
        Text(
            at=(LEFT - 8, middle + 4),
            text=f"{target.low_pct:g}–{target.high_pct:g} %",
            role="note",
            anchor="end",
        )
    )
    if hit_mm is not None:
        at = y(hit_mm)
        shapes += [
            Segment(start=(LEFT - 6, at), end=(right + 6, at), role="wanted"),
            Text(
                at=(right + 14, at + 5),
                text=f"hardest hit {hit_mm:g} mm · {100 * hit_mm / full_mm:.0f} %",
                role="note",
                anchor="start",
            ),
        ]
    says = f"Target {target.low_mm:.0f} to {target.high_mm:.0f} mm of {full_mm:g}."
    if sag_mm is not None and target.sag_pct is not None:
        at, out = y(sag_mm), "" if target.reading == "within" else "-short"
        shapes += [
            Box(
                corner=(LEFT - 9, at - 4), width=SHAFT + 18, height=8, role=f"pointer-has{out}", title="ring"
            ),
            Path(points=((right + 9, at), (right + 20, at)), role="line"),
            Text(
                at=(right + 24, at + 5),
                text=f"sag {sag_mm:g} mm · {target.sag_pct:.0f} %",
                role=f"pointer-text-has{out}",
                anchor="start",
            ),
        ]
        says += f" Sag {sag_mm:g} mm, {target.sag_pct:.0f} %."
    return Scene(width=WIDTH, height=TOP + HEIGHT + SEAL + 8, title=title, says=says, shapes=tuple(shapes))


CHART_WIDTH, CHART_HEIGHT, EDGE, FOOT = 520.0, 250.0, 56.0, 34.0
PLANNED = "planned"


def curves_scene(
    full_mm: float, curves: Mapping[str, Sequence[Mapping[str, Any]]], sag_pct: float | None
) -> Scene:
    """Return force over travel of one or two springs, with the sag at which they are compared and the bottom."""
    most = max(point["force_n"] for points in curves.values() for point in points) or 1.0
    right, bottom = CHART_WIDTH - 140, CHART_HEIGHT - FOOT

    def at(mm: float, force_n: float) -> tuple[float, float]:
        return EDGE + (right - EDGE) * mm / full_mm, bottom - (bottom - 16) * max(0.0, force_n) / most

    shapes: list[Shape] = [
        Segment(start=at(0, 0), end=at(full_mm, 0), role="line"),
        Segment(start=at(full_mm, 0), end=at(full_mm, most), role="limit-over"),
        Text(at=(at(full_mm, 0)[0], bottom + 16), text=f"bottom, {full_mm:g} mm", role="note"),
        Text(at=(EDGE - 6, bottom + 4), text="0 N", role="note", anchor="end"),
        Text(at=(EDGE - 6, 20), text=f"{most:.0f} N", role="note", anchor="end"),
    ]
    if sag_pct is not None:
        mm = full_mm * sag_pct / 100
        shapes += [
            Segment(start=at(mm, 0), end=at(mm, most), role="wanted"),
            Text(at=(at(mm, 0)[0], bottom + 16), text=f"sag {sag_pct:g} %", role="note"),
        ]
    for (title, points), state in zip(curves.items(), ("stands", PLANNED), strict=False):
        shapes.append(
            Path(points=tuple(at(point["mm"], point["force_n"]) for point in points), role=f"curve-{state}")
        )
        end = points[-1]
        x, y = at(end["mm"], end["force_n"])
        text = f"{title}: {end['force_n']:.0f} N"
        shapes.append(
            Text(at=(x + 6, y + (14 if state == "stands" and len(curves) > 1 else 4)), text=text,
                 role=f"state-{state}", anchor="start")
        )  # fmt: skip
    ends = "; ".join(f"{title} {points[-1]['force_n']:.0f} N" for title, points in curves.items())
    return Scene(
        width=CHART_WIDTH, height=CHART_HEIGHT, title="Force over travel", says=f"At the end: {ends}.",
        shapes=tuple(shapes),
    )  # fmt: skip
