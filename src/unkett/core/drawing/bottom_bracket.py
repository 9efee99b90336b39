"""The bracket: across it to scale, and from above with the chainline."""

from __future__ import annotations

from unkett.core.calc.gears import pitch_radius
from unkett.core.scene import Box, Path, Scene, Segment, Shape, Text, dimension

WIDTH = 600.0
ARM_MM = 14.0  # thickness of an arm where the tread is not measured: assumed
SPINDLE_MM = 20.0
SCALE = 2.6


def bracket_scene(
    *,
    shell_mm: float,
    flanges_mm: float | None,
    spacers_mm: float | None,
    needs_mm: float | None,
    spindle_mm: float | None,
    tread_mm: float | None,
    rings: tuple[tuple[int, float], ...],
) -> Scene:
    """Seen from behind, drive side at the right; sideways everything is true. Without figures arms are dashed."""
    top = max((pitch_radius(teeth) for teeth, _ in rings), default=40.0)
    widest = max([(tread_mm or shell_mm + 60) / 2, *(line + 24 for _, line in rings)])
    middle, axis = (widest + 14) * SCALE, top * SCALE + 30
    cup, spacer = (flanges_mm or 0.0) / 2, (spacers_mm or 0.0) / 2

    def x(side_mm: float) -> float:
        return middle + side_mm * SCALE

    def block(start: float, wide: float, half_high: float, role: str, title: str) -> Box:
        left = min(x(start), x(start + wide))
        return Box(
            corner=(left, axis - half_high * SCALE),
            width=abs(wide) * SCALE,
            height=2 * half_high * SCALE,
            role=role,
            title=title,
        )

    inner = (needs_mm or shell_mm + 2 * (cup + spacer) + 4) / 2
    outer = tread_mm / 2 if tread_mm is not None else inner + ARM_MM
    shapes: list[Shape] = [
        Segment(start=(middle, 8), end=(middle, axis + 70), role="centre"),
        block(-shell_mm / 2, shell_mm, 20, "part", f"shell {shell_mm:g} mm"),
    ]
    for side in (-1, 1):
        edge = side * shell_mm / 2
        if spacer:
            shapes.append(block(edge, side * spacer, 21, "spacer", f"spacers {spacer:g} mm a side"))
        if cup:
            shapes.append(block(edge + side * spacer, side * cup, 22, "part-other", f"cup {cup:g} mm"))
        arm = "part" if needs_mm is not None and tread_mm is not None else "part assumed"
        tall = 84 if side > 0 else 70
        left = min(x(side * inner), x(side * outer))
        shapes.append(
            Box(
                corner=(left, axis - 16 * SCALE),
                width=(outer - inner) * SCALE,
                height=(16 + tall / SCALE) * SCALE,
                role=arm,
                title="arm",
            )
        )
    radius = (spindle_mm or SPINDLE_MM) / 2
    shapes.append(block(-inner, 2 * inner, radius, "spindle" if spindle_mm else "spindle assumed", "spindle"))
    for teeth, line in rings:
        radius = pitch_radius(teeth)
        shapes.append(
            Box(
                corner=(x(line) - 0.9 * SCALE, axis - radius * SCALE),
                width=1.8 * SCALE,
                height=(radius - 24) * SCALE,
                role="ring-section",
                title=f"ring {teeth}",
            )
        )
        shapes.append(
            Text(
                at=(x(rings[0][1]) + 10, axis - radius * SCALE + 8),
                text=f"{teeth} at {line:.1f}",
                role="note",
                anchor="start",
            )
        )
    foot = axis + 86
    whole = shell_mm / 2 + spacer + cup
    spans = [(shell_mm / 2, f"shell {shell_mm:g}")]
    spans += [(whole, f"over the cups {2 * whole:g}")] if cup else []
    spans += [(inner, f"between the arms {needs_mm:g}")] if needs_mm is not None else []
    spans += [(outer, f"tread {tread_mm:g}")] if tread_mm is not None else []
    for n, (half, text) in enumerate(spans):
        shapes += dimension((x(-half), foot + 28 * n), (x(half), foot + 28 * n), text)
    cups = f", cups {flanges_mm:g} mm" if flanges_mm else ""
    width = (
        f", between the arms {needs_mm:g} mm"
        if needs_mm is not None
        else ", width between the arms not measured"
    )
    return Scene(
        width=2 * middle,
        height=foot + 28 * len(spans) - 14,
        title="Across the bracket",
        says=f"Shell {shell_mm:g} mm{cups}{width}.",
        shapes=tuple(shapes),
    )


def chainline_scene(
    *,
    shell_mm: float | None,
    fronts_mm: tuple[float, ...],
    rears_mm: tuple[float, ...],
    stay_mm: float,
    spacing_mm: float,
) -> Scene:
    """From above: rings at the right, sprockets at the left; sideways drawn larger than lengthways."""
    side, along = 3.0, (WIDTH - 240) / stay_mm
    right, axis = WIDTH - 110, 30.0 + max(*fronts_mm, *rears_mm, spacing_mm / 2) * side
    left = right - stay_mm * along

    def y(offset_mm: float) -> float:
        return axis - offset_mm * side

    shapes: list[Shape] = [
        Segment(start=(left - 60, axis), end=(right + 60, axis), role="centre"),
        Text(at=(left - 64, axis - 6), text="centre plane", role="note", anchor="start"),
        Segment(start=(left - 20, y(spacing_mm / 2)), end=(left + 20, y(spacing_mm / 2)), role="face"),
        Text(at=(left, y(spacing_mm / 2) - 7), text=f"dropout face {spacing_mm / 2:g}", role="note"),
    ]
    if shell_mm is not None:
        shapes.append(
            Box(
                corner=(right - 34, y(shell_mm / 2)),
                width=68,
                height=shell_mm * side / 2,
                role="part",
                title=f"half of the shell, {shell_mm:g} mm",
            )
        )
        shapes.append(Text(at=(right, axis - 10), text=f"shell {shell_mm:g}", role="note"))
        stay = ((right - 34, y(shell_mm / 2 - 8)), (left + 20, y(spacing_mm / 2)))
        shapes.append(Path(points=stay, role="stay"))
    for rear in rears_mm:
        shapes.append(Segment(start=(left - 26, y(rear)), end=(left + 26, y(rear)), role="sprocket"))
    for place, front in enumerate(fronts_mm):
        shapes.append(Segment(start=(right - 50, y(front)), end=(right + 50, y(front)), role="ring"))
        shapes.append(Text(at=(right + 58, y(front) + 4), text=f"{front:.1f}", role="note", anchor="start"))
        if place == len(fronts_mm) // 2:
            for rear in (rears_mm[0], rears_mm[-1]):
                shapes.append(Segment(start=(left, y(rear)), end=(right, y(front)), role="chain-line"))
    for rear in (rears_mm[0], rears_mm[-1]):
        shapes.append(Text(at=(left - 34, y(rear) + 4), text=f"{rear:.1f}", role="note", anchor="end"))
    shapes += dimension((left, axis + 34), (right, axis + 34), f"chainstay {stay_mm:g} mm")
    lines = ", ".join(f"{front:.1f}" for front in fronts_mm)
    says = f"Rings at {lines} mm, sprockets from {rears_mm[0]:.1f} to {rears_mm[-1]:.1f} mm from the centre plane."
    return Scene(width=WIDTH, height=axis + 60, title="Chainline from above", says=says, shapes=tuple(shapes))
