"""One side of a spoked wheel, to scale: which hub hole goes to which rim hole."""

from __future__ import annotations

import math

from unkett.core.drawing.scene import Circle, Line, Point, Scene, Shape, Text

SIZE = 430.0
MIDDLE = SIZE / 2


def lacing_scene(
    *, title: str, erd_mm: float, pcd_mm: float, spokes: int, crosses: int, length_mm: float
) -> Scene:
    """Hub holes of one flange and the rim holes of that side; one pair is drawn bold with its length.

    Neighbouring hub holes lean opposite ways; a spoke's hub hole and rim hole stand crosses × 720° ÷ spokes
    apart, as the length's formula has it.
    """
    scale = (SIZE - 60) / erd_mm
    holes = spokes // 2
    step, lean = 2 * math.pi / holes, 4 * math.pi * crosses / spokes

    def at(radius_mm: float, angle: float) -> Point:
        return (MIDDLE + radius_mm * scale * math.sin(angle), MIDDLE - radius_mm * scale * math.cos(angle))

    shapes: list[Shape] = [
        Circle(centre=(MIDDLE, MIDDLE), radius=erd_mm / 2 * scale, role="side-rim", title=f"effective diameter {erd_mm:g} mm"),
        Circle(centre=(MIDDLE, MIDDLE), radius=(pcd_mm / 2 + 4) * scale, role="part", title="flange"),
        Circle(centre=(MIDDLE, MIDDLE), radius=pcd_mm / 2 * scale, role="side-hub", title=f"hole circle {pcd_mm:g} mm"),
    ]  # fmt: skip
    for hole in range(holes):
        angle = hole * step
        way = 1 if hole % 2 == 0 else -1
        role = "spoke-shown" if hole < 2 else "spoke" if way > 0 else "spoke-back"
        shapes.append(Line(start=at(pcd_mm / 2, angle), end=at(erd_mm / 2, angle + way * lean), role=role))
        shapes.append(Circle(centre=at(pcd_mm / 2, angle), radius=2, role="axle"))
        shapes.append(Circle(centre=at(erd_mm / 2, angle + way * lean), radius=2, role="axle"))
    words = "radial" if crosses == 0 else f"{crosses} cross"
    shapes.append(Text(at=(MIDDLE, SIZE - 6), text=f"{words}, {length_mm:.1f} mm", role="cut-text"))
    says = f"{spokes} spokes in the wheel, {words}, {length_mm:.1f} mm on this side."
    return Scene(width=SIZE, height=SIZE, title=title, says=says, shapes=tuple(shapes))
