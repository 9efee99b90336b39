"""The bike from its drive side, to scale: as it stands in ink, as planned over it, what differs emphasised.

Every element is drawn from its own numbers; what hangs on an assumed number is dashed. The skeleton's
points are millimetres with y up; the picture is units with y down.
"""

from __future__ import annotations

from attrs import evolve, frozen

from unkett.core.bike.skeleton import Skeleton, bar_from_bracket, skeleton, skeleton_of_plan
from unkett.core.build import Build
from unkett.core.drawing.bicycle import Bicycle, Gear
from unkett.core.scene import (
    Circle,
    Path,
    Point,
    Scene,
    Segment,
    Shape,
    Text,
    dimension,
    upright,
)

WIDTH, HEIGHT = 1000.0, 560.0
MARGIN = 34.0
SAME_MM = 0.5  # elements closer than this are the same


def _numbers(shape: Shape) -> list[float]:
    """Return the figures that an element's place and size come to."""
    if isinstance(shape, Circle):
        return [*shape.centre, shape.radius]
    if isinstance(shape, Path):
        return [value for point in shape.points for value in point]
    return []


def _same(old: list[Shape], new: list[Shape]) -> bool:
    a, b = ([value for shape in shapes for value in _numbers(shape)] for shapes in (old, new))
    return len(a) == len(b) and all(abs(x - y) <= SAME_MM for x, y in zip(a, b, strict=True))


@frozen(kw_only=True)
class View:
    """Where millimetres land in the picture."""

    scale: float
    left_mm: float
    top_mm: float
    width: float
    height: float

    def at(self, point: Point) -> Point:
        return (
            MARGIN + (point[0] - self.left_mm) * self.scale,
            MARGIN + (self.top_mm - point[1]) * self.scale,
        )

    def put(self, shape: Shape, state: str = "") -> Shape:
        role = f"{shape.role} {state}".rstrip()
        if isinstance(shape, Circle):
            return evolve(shape, centre=self.at(shape.centre), radius=shape.radius * self.scale, role=role)
        if isinstance(shape, Path):
            return evolve(shape, points=tuple(self.at(point) for point in shape.points), role=role)
        raise TypeError(shape)


def view_of(*bikes: Skeleton) -> View:
    """Return a view that holds every bike with its wheels, saddle and bar, and room for the dimensions."""
    left = min(bike["rear_axle"][0] - bike.rear_radius_mm for bike in bikes)
    right = max(bike["front_axle"][0] + bike.front_radius_mm for bike in bikes)
    top = max(max(point[1] for point in bike.points.values()) for bike in bikes) + 70
    bottom = min(bike.ground_mm for bike in bikes)
    foot = 46.0  # room under the ground for the dimensions, in units
    scale = min((WIDTH - 2 * MARGIN) / (right - left), (HEIGHT - 2 * MARGIN - foot) / (top - bottom))
    width = (right - left) * scale + 2 * MARGIN
    return View(
        scale=scale,
        left_mm=left,
        top_mm=top,
        width=max(width, 560.0),
        height=(top - bottom) * scale + 2 * MARGIN + foot,
    )


def _ground(bones: Skeleton, view: View) -> list[Shape]:
    """Ground, wheelbase, bracket height and a hundred millimetres."""
    rear, front = view.at(bones["rear_axle"]), view.at(bones["front_axle"])
    bracket = view.at(bones["bracket"])
    ground = view.at((0, bones.ground_mm))[1]
    wheelbase = bones["front_axle"][0] - bones["rear_axle"][0]
    scale_at = (MARGIN, ground + 34)
    return [
        Segment(start=(MARGIN / 2, ground), end=(view.width - MARGIN / 2, ground), role="ground"),
        *dimension((rear[0], ground + 34), (front[0], ground + 34), f"wheelbase {wheelbase:.0f}"),
        *upright((bracket[0], bracket[1]), (bracket[0], ground), f"{-bones.ground_mm:.0f}", right=True),
        Segment(start=scale_at, end=(scale_at[0] + 100 * view.scale, scale_at[1]), role="scale"),
        Text(at=(scale_at[0], scale_at[1] + 18), text="100 mm", role="note", anchor="start"),
    ]


@frozen(kw_only=True)
class Bones:
    """The skeletons of a bike as it stands and, with a plan, as planned; made once for all that is drawn of them."""

    now: Build
    then: Build | None
    old: Skeleton
    new: Skeleton

    @classmethod
    def of(cls, now: Build, then: Build | None = None) -> Bones:
        old = skeleton(now)
        return cls(now=now, then=then, old=old, new=old if then is None else skeleton_of_plan(now, then))


def drawn(bones: Bones, gear: Gear | None = None) -> Scene:
    """Return the bike from its drive side; with a plan what differs stands bold over what it was."""
    now, then, old, new = bones.now, bones.then, bones.old, bones.new
    view = view_of(old, new)
    before = Bicycle(now, old, gear).elements()
    after = before if then is None else Bicycle(then, new, gear).elements()
    shapes: list[Shape] = _ground(new, view)
    for name in dict.fromkeys([*before, *after]):
        was, will = before.get(name, []), after.get(name, [])
        if _same(was, will):
            shapes += [view.put(shape) for shape in will]
        else:
            shapes += [view.put(shape, "was") for shape in was]
            shapes += [view.put(shape, "new") for shape in will]
    guesses = len(new.assumed)
    says = (
        f"Wheelbase {new['front_axle'][0] - new['rear_axle'][0]:.0f} "
        f"mm, bracket {-new.ground_mm:.0f} mm over the ground"
        + (f"; {guesses} numbers assumed, their parts dashed." if guesses else ".")
    )
    return Scene(width=view.width, height=view.height, title="Side view", says=says, shapes=tuple(shapes))


def change_scene(now: Build, then: Build) -> Scene:
    """Return the side view of a plan with the way the bar moves."""
    bones = Bones.of(now, then)
    scene, old, new = drawn(bones), bones.old, bones.new
    view = view_of(old, new)
    start, end = view.at(old["bar"]), view.at(new["bar"])
    forward, up = bar_from_bracket(now, then)
    text = (
        f"from the bracket: bar {abs(forward):.0f} {'forward' if forward >= 0 else 'back'}, "
        f"{abs(up):.0f} {'up' if up >= 0 else 'down'}"
    )
    marks: tuple[Shape, ...] = (
        Segment(start=start, end=end, role="moves"),
        Text(at=(end[0], end[1] - 30), text=text, role="moves-text"),
    )
    return evolve(scene, shapes=(*scene.shapes, *marks), title="Bar before and after")
