"""Disc brake in section along a radius, to scale: rotor, pads, mount, adapter, limit."""

from __future__ import annotations

from collections.abc import Callable

from unkett.core.scene import Box, Scene, Segment, Shape, Text, dimension

WIDTH = 860.0
LEFT, RIGHT = 40.0, 60.0
SCALE_MAX = 6.6
PAD_MM = 4.0  # thickness of a pad with its plate: drawn, not measured
BODY_MM = 11.0  # half the caliper's width outside the pads: drawn, not measured
PAD_HEIGHT_MM, TRACK_MM, ROTOR_MM = 14.0, 14.0, 1.8


def _rotor(inner: float, axis: float, half: float, track: float, role: str, title: str) -> list[Shape]:
    """Return the rotor's arms, half as thick as its track, and the track, in the units of the picture."""
    left = LEFT - 20
    return [
        Box(
            corner=(left, axis - half / 2),
            width=inner - left,
            height=half,
            role=role,
            title="rotor's arms",
        ),
        Box(corner=(inner, axis - half), width=track, height=2 * half, role=role, title=title),
    ]


def rotor_scene(
    *,
    end: str,
    rotor_mm: float,
    thickness_mm: float | None,
    track_mm: float | None,
    pad_height_mm: float | None,
    native_mm: float | None,
    place_mm: float | None,
    limit_mm: float | None,
    doubted: bool = False,
) -> Scene:
    """Hub side at the left, outwards to the right; distances from the axle are half of the rotor sizes."""
    reach = max(size for size in (rotor_mm, native_mm, place_mm, limit_mm) if size is not None) / 2 + 16
    start = min(size for size in (rotor_mm, native_mm, place_mm) if size is not None) / 2 - 34
    scale = min(SCALE_MAX, (WIDTH - LEFT - RIGHT) / (reach - start))

    def x(radius_mm: float) -> float:
        return LEFT + (radius_mm - start) * scale

    half = (thickness_mm or ROTOR_MM) / 2
    body = (half + PAD_MM + BODY_MM) * scale
    axis = body + 44
    width = x(reach) + RIGHT
    edge, track = rotor_mm / 2, track_mm or TRACK_MM
    role = "rotor guess" if doubted else "rotor"
    shapes: list[Shape] = [
        Segment(start=(LEFT - 20, axis), end=(width - 12, axis), role="centre"),
        *_rotor(x(edge - track), axis, half * scale, track * scale, role, f"rotor {rotor_mm:g} mm"),
        Text(
            at=(LEFT - 20, axis - half * scale - 6),
            text=f"rotor {rotor_mm:g} × {2 * half:g}",
            role="note",
            anchor="start",
        ),
    ]
    if place_mm is not None:
        shapes += _caliper(x, scale, axis, place_mm / 2, pad_height_mm, half)
    level = axis + body + 34
    if native_mm is not None:
        shapes += _mark(x(native_mm / 2), axis + body + 4, level + 6, f"mount for {native_mm:g}", "mount")
        if place_mm is not None and place_mm != native_mm:
            left, right = sorted((x(native_mm / 2), x(place_mm / 2)))
            lift = (place_mm - native_mm) / 2
            shapes.append(
                Box(
                    corner=(left, level - 22),
                    width=right - left,
                    height=18,
                    role="adapter",
                    title=f"adapter lifts {lift:g} mm",
                )
            )
            shapes.append(
                Text(at=(left - 8, level - 8), text=f"adapter {lift:+g} mm", role="note", anchor="end")
            )
    if limit_mm is not None:
        role = "limit" if rotor_mm <= limit_mm else "limit-over"
        shapes += _mark(x(limit_mm / 2), 24, level + 30, f"largest allowed {limit_mm:g}", role)
    if place_mm is not None:
        off = (rotor_mm - place_mm) / 2
        if off:
            a, b = sorted((x(edge), x(place_mm / 2)))
            shapes += dimension((a, 34), (b, 34), f"{abs(off):g} off")
    says = (
        f"{end} rotor {rotor_mm:g} mm"
        + (f", largest allowed {limit_mm:g} mm" if limit_mm is not None else ", limit unknown")
        + (
            f", caliper placed for {place_mm:g} mm."
            if place_mm is not None
            else ", caliper's place not measured."
        )
    )
    return Scene(
        width=width,
        height=level + 58,
        title=f"{end.capitalize()} brake in section",
        says=says,
        shapes=tuple(shapes),
    )


def _caliper(
    at: Callable[[float], float],
    scale: float,
    axis: float,
    edge: float,
    pad_height_mm: float | None,
    half: float,
) -> list[Shape]:
    """Pads flush with the edge of the rotor they are placed for, and the body over them."""
    high = pad_height_mm or PAD_HEIGHT_MM
    role = "pad" if pad_height_mm is not None else "pad assumed"
    shapes: list[Shape] = []
    for side in (-1, 1):
        near = half + 0.4
        top = axis + (side * near if side > 0 else -near - PAD_MM) * scale
        shapes.append(
            Box(
                corner=(at(edge - high), top),
                width=high * scale,
                height=PAD_MM * scale,
                role=role,
                title="pad",
            )
        )
    body = (half + PAD_MM + BODY_MM) * scale
    wall = (BODY_MM - 3) * scale
    for side in (-1, 1):
        corner = axis - body if side < 0 else axis + body - wall
        shapes.append(
            Box(
                corner=(at(edge - high - 3), corner),
                width=(high + 9) * scale,
                height=wall,
                role="caliper assumed",
                title="caliper",
            )
        )
    shapes.append(
        Box(
            corner=(at(edge + 3), axis - body),
            width=5 * scale,
            height=2 * body,
            role="caliper assumed",
            title="caliper's bridge",
        )
    )
    return shapes


def _mark(x: float, top: float, foot: float, text: str, role: str) -> list[Shape]:
    return [
        Segment(start=(x, top), end=(x, foot), role=role),
        Text(at=(x, foot + 16), text=text, role="note"),
    ]
