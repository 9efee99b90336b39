"""The joints as marks on the side view, kept apart so that each can be hit."""

from __future__ import annotations

import math

from attrs import evolve

from unkett.core.bike.facts import Facts
from unkett.core.check.joint_verdicts import Judged, point_of
from unkett.core.drawing.side import Bones, view_of
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Mark, Point, Scene, Segment, Shape

GOES_RADIUS, ASKS_RADIUS = 9.0, 15.0
FINGER = 6.0  # a mark is hit this far around it
AIR = 1.0  # between two grounds, so that neither is hit for the other


def _apart(homes: list[Point], radii: list[float], width: float, height: float) -> list[Point]:
    """Places near the homes at which no two marks touch, all inside the picture."""

    def inside(place: Point, radius: float) -> Point:
        return (min(max(place[0], radius), width - radius), min(max(place[1], radius), height - radius))

    places = [inside(home, radius) for home, radius in zip(homes, radii, strict=True)]
    for _ in range(400):
        moved = False
        for a in range(len(places)):
            for b in range(a + 1, len(places)):
                (xa, ya), (xb, yb) = places[a], places[b]
                gap, wanted = math.dist(places[a], places[b]), radii[a] + radii[b] + AIR
                if gap >= wanted - 1e-6:
                    continue
                moved = True
                angle = math.atan2(yb - ya, xb - xa) if gap > 1e-6 else 0.7 * (a + 2 * b)
                push = (wanted - gap) / 2 + 0.2
                step = (push * math.cos(angle), push * math.sin(angle))
                places[a] = inside((xa - step[0], ya - step[1]), radii[a])
                places[b] = inside((xb + step[0], yb + step[1]), radii[b])
        if not moved:
            break
    return places


def discs_of(made: Bones) -> frozenset[str]:
    """The ends of the bike that have a disc brake, as it is drawn."""
    facts = Facts(made.now if made.then is None else made.then)
    return frozenset(end for end in ("front", "rear") if facts.get(f"{end}_rotor", "diameter_mm") is not None)


def with_joints(scene: Scene, found: list[Judged], made: Bones, chosen: str = "") -> Scene:
    """The side view with a mark for every joint something is said of, and a line to the joint where it had
    to move aside.
    """
    bones = made.new
    view = view_of(made.old, bones)
    discs = discs_of(made)
    homes = [view.at(point_of(judged_joint.joint, bones, discs)) for judged_joint in found]
    radii = [GOES_RADIUS if judged_joint.verdict is Verdict.GOES else ASKS_RADIUS for judged_joint in found]
    reaches = [radius + FINGER for radius in radii]
    places = _apart(homes, reaches, scene.width, scene.height)
    leads: list[Shape] = [
        Segment(start=home, end=place, role="lead")
        for home, place, radius in zip(homes, places, radii, strict=True)
        if math.dist(home, place) > radius
    ]
    marks: list[Shape] = [
        Mark(
            at=place,
            radius=radius,
            reach=radius + FINGER,
            verdict=judged_joint.verdict.value,
            name=judged_joint.joint.name,
            title=f"{judged_joint.joint.title}: {judged_joint.verdict.title}"
            + (f", {judged_joint.count} to look at" if judged_joint.count else ""),
            count=judged_joint.count,
            chosen=judged_joint.joint.name == chosen,
        )
        for judged_joint, place, radius in zip(found, places, radii, strict=True)
    ]
    return evolve(scene, shapes=(*scene.shapes, *leads, *marks))


CLOSE_WIDE, CLOSE_HIGH = 340.0, 230.0  # what a close-up shows, in the drawing's units


def close_up(scene: Scene, found: list[Judged], made: Bones) -> Scene:
    """Show of a side view only what lies round the joint of the fewest parts; all of it where there is none."""
    if not found:
        return scene
    one = min(found, key=lambda judged: (len(judged.findings[0].slots), judged.joint.name))
    at = view_of(made.old, made.new).at(point_of(one.joint, made.new, discs_of(made)))
    wide, high = min(CLOSE_WIDE, scene.width), min(CLOSE_HIGH, scene.height)
    x = min(max(at[0] - wide / 2, 0.0), scene.width - wide)
    y = min(max(at[1] - high / 2, 0.0), scene.height - high)
    return evolve(scene, shows=(x, y, wide, high))
