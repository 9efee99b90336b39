"""The rear suspension on the side view: shock, spring, rocker and the path of the axle."""

from __future__ import annotations

import math

from unkett.core.bike.facts import Facts
from unkett.core.bike.skeleton import Skeleton
from unkett.core.calc.suspension import Linkage
from unkett.core.drawing.shapes import between, moved, polygon, tube
from unkett.core.scene import Circle, Path, Point, Shape

CAN_MM, SHAFT_MM, COIL_MM, EYE_MM = 44.0, 13.0, 52.0, 9.0
COILS = 7
PIVOT_MM = (20.0, 55.0)  # of the main pivot from the bracket, forward and up: the trade's place, not measured
PATH_STEPS = 12


def rear_suspension(facts: Facts, bones: Skeleton) -> list[Shape]:
    """Return shock, spring and rocker of a bike, and the path of its rear axle with the sag on it; mm, y up.

    Length and stroke are the shock's own; where it hangs in the frame is the trade's place, not measured.
    """
    if "shock" not in facts.filled:
        return []
    length = facts.get("shock", "eye_to_eye_mm") or 200.0
    sag = facts.get("shock", "set_sag_mm") or 0.0
    rocker = moved(between(bones["bracket"], bones["collar"], 0.62), 34, 0)
    aim = moved(between(bones["bracket"], bones["head_bottom"], 0.42), 0, 20)
    far = math.dist(rocker, aim) or 1.0
    head = between(rocker, aim, min(1.5, (length - sag) / far))
    shapes: list[Shape] = [
        polygon(tube(rocker, head, SHAFT_MM), "side-tube guess"),
        polygon(tube(between(rocker, head, 0.42), head, CAN_MM), "side-tube guess"),
        *(Circle(centre=eye, radius=EYE_MM, role="side-solid guess") for eye in (rocker, head)),
        Path(points=(bones["rear_axle"], rocker), role="side-behind guess"),
    ]
    if facts.get("shock", "spring") == "coil" or "shock_spring" in facts.filled:
        shapes.append(Path(points=_coil(rocker, head), role="side-guard guess"))
    return [*shapes, *_axle_path(facts, bones, sag)]


def _coil(start: Point, end: Point) -> tuple[Point, ...]:
    """Return a spring's outline as a run from side to side."""
    across = math.atan2(end[1] - start[1], end[0] - start[0]) + math.pi / 2
    half = COIL_MM / 2
    sides = [(half if n % 2 else -half) for n in range(2 * COILS)]
    return tuple(
        moved(between(start, end, n / (2 * COILS - 1)), side * math.cos(across), side * math.sin(across))
        for n, side in enumerate(sides)
    )


def _axle_path(facts: Facts, bones: Skeleton, sag_mm: float) -> list[Shape]:
    """Return the arc that the rear axle takes round the main pivot, and how high it stands at the sag."""
    names = ("wheel_travel_mm", "leverage_start", "leverage_end")
    linkage = Linkage.known(facts.get("shock", "stroke_mm"), *(facts.get("frame", name) for name in names))
    if linkage is None:
        return []
    pivot, axle = moved(bones["bracket"], *PIVOT_MM), bones["rear_axle"]
    radius = math.dist(pivot, axle)
    begin = math.atan2(axle[1] - pivot[1], axle[0] - pivot[0])

    def at(up_mm: float) -> Point:
        """The axle so much higher than at rest."""
        turned = math.asin(max(-1.0, min(1.0, (axle[1] - pivot[1] + up_mm) / radius)))
        angle = math.pi - turned if math.cos(begin) < 0 else turned
        return pivot[0] + radius * math.cos(angle), pivot[1] + radius * math.sin(angle)

    rises = [linkage.travel_mm * n / PATH_STEPS for n in range(PATH_STEPS + 1)]
    shapes: list[Shape] = [Path(points=tuple(at(rise) for rise in rises), role="side-timing")]
    if sag_mm:
        sunk = linkage.wheel_mm(min(1.0, sag_mm / linkage.stroke_mm))
        place = at(sunk)
        says = f"axle at sag: {sunk:.0f} mm higher"
        shapes.append(Circle(centre=place, radius=7, role="side-solid", title=says))
    return shapes
