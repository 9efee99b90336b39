"""The bike with its suspects: a sign on every joint that a cause may sit at, by shape and by number."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve, frozen

from unkett.core.check.joint_verdicts import point_of
from unkett.core.drawing.marks import discs_of
from unkett.core.drawing.side import Bones, drawn, view_of
from unkett.core.rules.damage import joint_of_slot
from unkett.core.rules.joints import JOINTS
from unkett.core.scene import Box, Circle, Point, Scene, Shape, Text
from unkett.core.vocabulary import SLOTS

HELD, LIKELY, POSSIBLE, UNLIKELY = "held", "likely", "possible", "unlikely"
ORDER = (HELD, LIKELY, POSSIBLE, UNLIKELY)
RADIUS = {HELD: 15.0, LIKELY: 17.0, POSSIBLE: 12.0, UNLIKELY: 5.0}


@frozen(kw_only=True)
class Sign:
    """One suspect for the drawing: its number in the list, its word, what it is called and where it may sit."""

    number: int
    word: str
    title: str
    slots: tuple[str, ...]


def suspects_scene(bones: Bones, signs: Sequence[Sign]) -> Scene:
    """The side view with one sign for every place: the worst of its suspects, with the numbers of those worth a look.

    Held is a filled square, likely a filled disc with a ring, possible a ring, unlikely a dot.
    """
    scene, view, discs = drawn(bones), view_of(bones.old, bones.new), discs_of(bones)
    by_place: dict[Point, list[Sign]] = {}
    for sign in signs:
        joints = dict.fromkeys(joint_of_slot(slot) for slot in sign.slots if slot in SLOTS)
        for name in joints:
            by_place.setdefault(view.at(point_of(JOINTS[name], bones.new, discs)), []).append(sign)
    shapes: list[Shape] = []
    for place, here in by_place.items():
        shapes += _sign(place, sorted(here, key=lambda one: (ORDER.index(one.word), one.number)))
    words = [f"{sign.number} {sign.title}, {sign.word}" for sign in signs if sign.word != UNLIKELY]
    return evolve(
        scene, title="Suspects", says="; ".join(words) or "No suspect.", shapes=(*scene.shapes, *shapes)
    )


def _sign(place: Point, here: Sequence[Sign]) -> list[Shape]:
    worst, (x, y) = here[0].word, place
    radius = RADIUS[worst]
    title = "; ".join(f"{one.number} {one.title}: {one.word}" for one in here)
    shapes: list[Shape] = []
    if worst == HELD:
        side = 2 * radius
        shapes.append(
            Box(corner=(x - radius, y - radius), width=side, height=side, role="suspect-held", title=title)
        )
    else:
        if worst == LIKELY:
            shapes.append(Circle(centre=place, radius=radius + 6, role="suspect-glow"))
        shapes.append(Circle(centre=place, radius=radius, role=f"suspect-{worst}", title=title))
    numbers = [one.number for one in here if one.word != UNLIKELY]
    if numbers:
        text = str(numbers[0]) + ("+" if len(numbers) > 1 else "")
        shapes.append(Text(at=(x, y + 6), text=text, role=f"suspect-text-{worst}"))
    return shapes
