"""Sections to scale: steerer stack, tyre on rim, rotor on its mount, bracket with chainline."""

from __future__ import annotations

from unkett.core.drawing.scene import Box, Circle, Line, Path, Point, Scene, Shape, Text

WIDTH = 860.0
MARGIN = 40.0


def _dimension(start: Point, end: Point, text: str) -> list[Shape]:
    """A level dimension line with its number over it."""
    (x1, y), (x2, _) = start, end
    return [
        Line(start=(x1, y), end=(x2, y), role="dimension"),
        Line(start=(x1, y - 6), end=(x1, y + 6), role="dimension"),
        Line(start=(x2, y - 6), end=(x2, y + 6), role="dimension"),
        Text(at=((x1 + x2) / 2, y - 8), text=text, role="note"),
    ]


def steerer_scene(
    *, stack: tuple[tuple[str, float], ...], wanted_mm: float, steerer_mm: float | None
) -> Scene:
    """The stack laid on its side, crown race at the left, with the tube through it and the cut mark."""
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
    shapes.append(Line(start=(mark, top - 8), end=(mark, top + height + 34), role="cut-mark"))
    shapes.append(
        Text(
            at=(mark, top + height + 52),
            text=f"cut mark {wanted_mm:.1f} mm",
            role="cut-text",
            anchor="end" if mark > WIDTH - 160 else "middle",
        )
    )
    if steerer_mm is not None:
        shapes += _dimension(
            (MARGIN, top + height + 84), (end, top + height + 84), f"steerer now {steerer_mm:g} mm"
        )
    says = f"Stack {total:g} mm, steerer wanted {wanted_mm:.1f} mm" + (
        f", now {steerer_mm:g} mm." if steerer_mm is not None else "."
    )
    return Scene(
        width=WIDTH, height=top + height + 108, title="Steerer stack", says=says, shapes=tuple(shapes)
    )


SECTION = 6.0  # picture units per millimetre


def tyre_scene(*, end: str, inner_mm: float, width_mm: float, limit_mm: float | None) -> Scene:
    """A tyre as a circle of its real width on the rim's walls, between the sides of frame or fork."""
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
    shapes += _dimension((middle - half, foot + 42), (middle + half, foot + 42), f"inner {inner_mm:g}")
    shapes += _dimension((middle - radius, 26), (middle + radius, 26), f"{width_mm:.1f} mm")
    if limit_mm is not None:
        for side in (-1, 1):
            x = middle + side * limit_mm * scale / 2
            role = "wall" if width_mm <= limit_mm else "wall-over"
            shapes.append(Line(start=(x, 36), end=(x, foot + 10), role=role))
        gap = (limit_mm - width_mm) / 2
        edge = middle + limit_mm * scale / 2
        shapes.append(Text(at=(edge + 8, centre[1]), text=f"{gap:.1f} left", role="note", anchor="start"))
    says = f"{end} tyre {width_mm:.1f} mm on {inner_mm:g} mm inner width" + (
        f", room {limit_mm:g} mm." if limit_mm is not None else "."
    )
    return Scene(
        width=620,
        height=foot + 62,
        title=f"{end.capitalize()} tyre in section",
        says=says,
        shapes=tuple(shapes),
    )


def rotor_scene(
    *, end: str, rotor_mm: float, native_mm: float | None, limit_mm: float | None, track_mm: float | None
) -> Scene:
    """Rotor seen from the side with the bare mount's size and the limit as circles."""
    largest = max(size for size in (rotor_mm, native_mm, limit_mm) if size is not None)
    scale = 380 / largest
    centre = (310.0, 215.0)
    shapes: list[Shape] = [
        Circle(centre=centre, radius=rotor_mm / 2 * scale, role="rotor", title=f"rotor {rotor_mm:g} mm")
    ]
    if track_mm:
        shapes.append(Circle(centre=centre, radius=(rotor_mm / 2 - track_mm) * scale, role="rotor-inner"))
    shapes.append(Circle(centre=centre, radius=5, role="axle"))
    labels = [("rotor", rotor_mm, "note")]
    if native_mm is not None and native_mm != rotor_mm:
        shapes.append(
            Circle(
                centre=centre,
                radius=native_mm / 2 * scale,
                role="native",
                title=f"bare mount {native_mm:g} mm",
            )
        )
        labels.append(("bare mount", native_mm, "note"))
    if limit_mm is not None:
        role = "limit" if rotor_mm <= limit_mm else "limit-over"
        shapes.append(
            Circle(centre=centre, radius=limit_mm / 2 * scale, role=role, title=f"limit {limit_mm:g} mm")
        )
        labels.append(("largest allowed", limit_mm, "note"))
    for n, (name, size, role) in enumerate(sorted(labels, key=lambda one: -one[1])):
        x = centre[0] + size / 2 * scale * 0.7071
        y = centre[1] - size / 2 * scale * 0.7071
        at = (540.0, 40.0 + 24 * n)
        shapes.append(Line(start=(x, y), end=(at[0] - 6, at[1] - 4), role="dimension"))
        shapes.append(Text(at=at, text=f"{name} {size:g}", role=role, anchor="start"))
    says = f"{end} rotor {rotor_mm:g} mm" + (
        f", largest allowed {limit_mm:g} mm." if limit_mm is not None else ", limit unknown."
    )
    return Scene(width=720, height=430, title=f"{end.capitalize()} rotor", says=says, shapes=tuple(shapes))


def bracket_scene(
    *, shell_mm: float, fronts_mm: tuple[float, ...], rears_mm: tuple[float, ...], stay_mm: float
) -> Scene:
    """From above: shell and rings at the right, sprockets at the left; sideways larger than lengthways."""
    side, along = 4.0, (WIDTH - 300) / stay_mm
    right, axis = WIDTH - 130, 300.0
    left = right - stay_mm * along

    def y(offset_mm: float) -> float:
        return axis - offset_mm * side

    shapes: list[Shape] = [
        Line(start=(left - 60, axis), end=(right + 60, axis), role="centre"),
        Text(at=(left - 64, axis - 6), text="centre plane", role="note", anchor="start"),
        Box(
            corner=(right - 34, y(shell_mm / 2)),
            width=68,
            height=shell_mm * side / 2,
            role="part",
            title=f"half of the shell, {shell_mm:g} mm",
        ),
        Text(at=(right, axis - 10), text=f"shell {shell_mm:g}", role="note"),
    ]
    for rear in rears_mm:
        shapes.append(Line(start=(left - 26, y(rear)), end=(left + 26, y(rear)), role="sprocket"))
    for place, front in enumerate(fronts_mm):
        shapes.append(Line(start=(right - 50, y(front)), end=(right + 50, y(front)), role="ring"))
        shapes.append(Text(at=(right + 58, y(front) + 4), text=f"{front:.1f}", role="note", anchor="start"))
        if place == len(fronts_mm) // 2:
            for rear in (rears_mm[0], rears_mm[-1]):
                shapes.append(Line(start=(left, y(rear)), end=(right, y(front)), role="chain-line"))
    shapes.append(
        Text(at=(left - 34, y(rears_mm[0]) + 4), text=f"{rears_mm[0]:.1f}", role="note", anchor="end")
    )
    shapes.append(
        Text(at=(left - 34, y(rears_mm[-1]) + 4), text=f"{rears_mm[-1]:.1f}", role="note", anchor="end")
    )
    shapes += _dimension((left, axis + 34), (right, axis + 34), f"chainstay {stay_mm:g} mm")
    lines = ", ".join(f"{front:.1f}" for front in fronts_mm)
    says = f"Rings at {lines} mm, sprockets from {rears_mm[0]:.1f} to {rears_mm[-1]:.1f} mm from the centre plane."
    return Scene(
        width=WIDTH, height=axis + 60, title="Bracket and chainline", says=says, shapes=tuple(shapes)
    )
