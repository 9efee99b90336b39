"""Sections to scale: steerer stack, tyre on rim, rotor on its mount, bracket with chainline."""

from __future__ import annotations

from unkett.core.scene import Box, Circle, Path, Scene, Segment, Shape, Text, dimension

WIDTH = 860.0
MARGIN = 40.0


def steerer_scene(
    *, stack: tuple[tuple[str, float], ...], wanted_mm: float, steerer_mm: float | None
) -> Scene:
    """Return the stack laid on its side, crown race at the left, with the tube through it and the cut mark."""
    total = sum(length for _, length in stack)
    longest = max(total, steerer_mm or 0.0, wanted_mm)
    scale = (WIDTH - 2 * MARGIN) / longest
    top, height = 70.0, 90.0
    shapes: list[Shape] = []
    at = MARGIN
    for n, (name, length) in enumerate(stack):
        if length <= 0:
            continue
        role = "part" if n % 2 else "part-other"
        inset = 0.0 if name in ("head tube", "stem") else 16.0
        shapes.append(
            Box(
                corner=(at, top + inset),
                width=length * scale,
                height=height - 2 * inset,
                role=role,
                title=f"{name} {length:g} mm",
            )
        )
        middle = at + length * scale / 2
        wide = length * scale > 84
        shapes.append(
            Text(
                at=(middle, top - (12 if wide else 30)),
                text=f"{name} {length:g}" if wide else f"{length:g}",
                role="note",
            )
        )
        at += length * scale
    axis = top + height / 2
    end = MARGIN + (steerer_mm if steerer_mm is not None else wanted_mm) * scale
    shapes.append(
        Box(corner=(MARGIN, axis - 14), width=end - MARGIN, height=28, role="tube", title="steerer")
    )
    mark = MARGIN + wanted_mm * scale
    if steerer_mm is not None and steerer_mm > wanted_mm:
        shapes.append(
            Box(
                corner=(mark, axis - 14),
                width=end - mark,
                height=28,
                role="cut-off",
                title=f"{steerer_mm - wanted_mm:g} mm over",
            )
        )
    shapes.append(Segment(start=(mark, top - 8), end=(mark, top + height + 34), role="cut-mark"))
    shapes.append(
        Text(
            at=(mark, top + height + 52),
            text=f"cut mark {wanted_mm:.1f} mm",
            role="cut-text",
            anchor="end" if mark > WIDTH - 160 else "middle",
        )
    )
    if steerer_mm is not None:
        shapes += dimension(
            (MARGIN, top + height + 84), (end, top + height + 84), f"steerer now {steerer_mm:g} mm"
        )
    says = f"Stack {total:g} mm, steerer length needed {wanted_mm:.1f} mm" + (
        f", now {steerer_mm:g} mm." if steerer_mm is not None else "."
    )
    return Scene(
        width=WIDTH, height=top + height + 108, title="Steerer stack", says=says, shapes=tuple(shapes)
    )


SECTION = 6.0  # picture units per millimetre


def tyre_scene(*, end: str, inner_mm: float, width_mm: float, limit_mm: float | None) -> Scene:
    """Return a tyre as a circle of its real width on the rim's walls, within the width of the widest that fits."""
    scale = min(SECTION, 520 / max(limit_mm or 0.0, width_mm))
    radius = width_mm * scale / 2
    middle, foot = 310.0, 2 * radius + 70
    half = inner_mm * scale / 2
    rise = (radius**2 - min(half, radius) ** 2) ** 0.5
    centre = (middle, foot - 26 - rise)
    shapes: list[Shape] = [Circle(centre=centre, radius=radius, role="tyre", title=f"tyre {width_mm:.1f} mm")]
    for side in (-1, 1):
        wall = middle + side * half
        shapes.append(Path(points=((wall, foot - 34), (wall, foot), (middle, foot + 14)), role="rim"))
    shapes += dimension((middle - half, foot + 42), (middle + half, foot + 42), f"inner {inner_mm:g}")
    shapes += dimension((middle - radius, 26), (middle + radius, 26), f"{width_mm:.1f} mm")
    if limit_mm is not None:
        for side in (-1, 1):
            x = middle + side * limit_mm * scale / 2
            role = "limit" if width_mm <= limit_mm else "wall-over"
            shapes.append(Segment(start=(x, 36), end=(x, foot + 10), role=role))
        edge = middle + limit_mm * scale / 2
        shapes.append(
            Text(at=(edge + 8, centre[1]), text=f"widest {limit_mm:g}", role="note", anchor="start")
        )
    says = f"{end} tyre {width_mm:.1f} mm on {inner_mm:g} mm inner width" + (
        f", the widest that fits {limit_mm:g} mm." if limit_mm is not None else "."
    )
    return Scene(
        width=620,
        height=foot + 62,
        title=f"{end.capitalize()} tyre in section",
        says=says,
        shapes=tuple(shapes),
    )
