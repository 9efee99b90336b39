"""The bike from its drive side, to scale: as it stands in ink, as planned over it, what differs emphasised.

Every element is drawn from its own numbers; what hangs on an assumed number is dashed. The skeleton's
points are millimetres with y up; the picture is units with y down.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from attrs import evolve, frozen

from unkett.core.build import Build
from unkett.core.calc.gears import pitch_radius
from unkett.core.drawing.scene import (
    Circle,
    Line,
    Mark,
    Path,
    Point,
    Scene,
    Shape,
    Text,
    Wheel,
    belt_round,
    dimension,
    upright,
)
from unkett.core.figures import Facts
from unkett.core.finding import Verdict
from unkett.core.joints import Judged, place_of
from unkett.core.skeleton import Skeleton, bar_from_bracket, skeleton, skeleton_of_plan

WIDTH, HEIGHT = 1000.0, 560.0
MARGIN = 34.0
TUBES = (
    ("head_top", "head_bottom", 46.0),
    ("bracket", "collar", 31.0),
    ("bracket", "rear_axle", 18.0),
)
PULLEY_TEETH = 11
PULLEY_GAP_MM = 6.0
CAGE_MM = 62.0
SAME_MM = 0.5  # elements closer than this are the same


@frozen(kw_only=True)
class Gear:
    """The gear that the chain is drawn in."""

    ring: int
    sprocket: int


Elements = dict[str, list[Shape]]


def _tube(start: Point, end: Point, wide: float, wide_end: float | None = None) -> tuple[Point, ...]:
    """The outline of a tube between two points, in millimetres."""
    far = wide if wide_end is None else wide_end
    length = math.dist(start, end) or 1.0
    across = (-(end[1] - start[1]) / length, (end[0] - start[0]) / length)

    def beside(point: Point, half: float) -> Point:
        return (point[0] + across[0] * half, point[1] + across[1] * half)

    return (beside(start, wide / 2), beside(end, far / 2), beside(end, -far / 2), beside(start, -wide / 2))


def _between(start: Point, end: Point, share: float) -> Point:
    return (start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)


def _moved(point: Point, forward: float, up: float) -> Point:
    return (point[0] + forward, point[1] + up)


def _polygon(points: Iterable[Point], role: str) -> Path:
    return Path(points=tuple(points), role=role, closed=True)


class _Bike:
    """The elements of one bike in millimetres, y up."""

    def __init__(self, build: Build, bones: Skeleton, gear: Gear | None) -> None:
        self.facts, self.bones, self.gear, self.use = Facts(build), bones, gear, build.use
        self.slots = set(build.filled())

    def elements(self) -> Elements:
        out: Elements = {
            "rear_wheel": self.wheel("rear"),
            "front_wheel": self.wheel("front"),
            "frame": self.frame(),
            "fork": self.fork(),
            "post": self.post(),
            "saddle": self.saddle(),
            "stem": self.stem(),
            "bar": self.bar(),
            "rear_rotor": self.rotor("rear"),
            "front_rotor": self.rotor("front"),
            "rear_brake": self.brake("rear"),
            "front_brake": self.brake("front"),
            "cassette": self.cassette(),
            "rings": self.rings(),
            "derailleur": self.derailleur(),
            "chain": self.chain(),
            "crank": self.crank(),
        }
        return {name: shapes for name, shapes in out.items() if shapes}

    def _guess(self, role: str, *slots: str) -> str:
        return f"{role} guess" if self.bones.guesses(*slots) else role

    def wheel(self, end: str) -> list[Shape]:
        bones = self.bones
        centre = bones[f"{end}_axle"]
        radius = bones.front_radius_mm if end == "front" else bones.rear_radius_mm
        bsd = bones.front_bsd_mm if end == "front" else bones.rear_bsd_mm
        depth = self.facts.get(f"{end}_rim", "depth_mm") or 18.0
        role = self._guess("side-tyre", f"{end}_tyre", f"{end}_rim")
        shapes: list[Shape] = [
            Circle(centre=centre, radius=radius, role=role, title=f"{end} tyre, {2 * radius:.0f} mm across"),
            Circle(centre=centre, radius=bsd / 2, role="side-rim", title=f"rim {bsd:g}"),
            Circle(centre=centre, radius=bsd / 2 - depth, role="side-rim"),
            Circle(centre=centre, radius=22, role="side-hub"),
        ]
        return shapes

    def frame(self) -> list[Shape]:
        bones = self.bones
        role = self._guess("side-tube", "frame")
        collar, top = bones["collar"], bones["head_top"]
        upper, lower = _between(top, bones["head_bottom"], 0.2), _between(top, bones["head_bottom"], 0.8)
        joint = _between(bones["bracket"], collar, 0.93)
        pieces = [
            (bones["bracket"], lower, 38.0),
            (joint, upper, 31.0),
            (joint, bones["rear_axle"], 15.0),
            *((bones[start], bones[end], wide) for start, end, wide in TUBES),
        ]
        if "wheel_head_top" in bones.points:
            nose = _between(bones["wheel_head_top"], bones["crown"], 0.5)
            pieces[0] = (bones["bracket"], bones["column_foot"], 38.0)
            pieces += [
                (bones["head_bottom"], bones["column_foot"], 34.0),
                (bones["column_foot"], nose, 44.0),
                (bones["wheel_head_top"], bones["crown"], 46.0),
            ]
        if "front_bracket" in bones.points:
            second = _between(bones["front_bracket"], bones["front_collar"], 0.93)
            pieces[0] = (bones["front_bracket"], lower, 38.0)
            pieces[1] = (second, upper, 31.0)
            pieces += [
                (bones["bracket"], bones["front_bracket"], 38.0),
                (joint, second, 31.0),
                (bones["front_bracket"], bones["front_collar"], 31.0),
            ]
        shapes: list[Shape] = [_polygon(_tube(*piece), role) for piece in pieces]
        return [*shapes, Circle(centre=bones["bracket"], radius=24, role=role)]

    def fork(self) -> list[Shape]:
        bones = self.bones
        crown, axle = bones["crown"], bones["front_axle"]
        role = self._guess("side-tube", "fork")
        travel = self.facts.get("fork", "travel_mm") or 0.0
        neck = _polygon(_tube(bones.points.get("wheel_head_top", bones["head_bottom"]), crown, 40), role)
        if travel <= 0:
            return [neck, _polygon(_tube(crown, axle, 30, 16), role)]
        middle = _between(crown, axle, min(0.7, (travel + 30) / max(math.dist(crown, axle), 1)))
        return [
            neck,
            _polygon(_tube(crown, middle, 32), "side-stanchion"),
            _polygon(_tube(middle, axle, 46, 34), role),
        ]

    def post(self) -> list[Shape]:
        diameter = self.facts.get("seatpost", "diameter_mm") or 27.2
        pairs = [("collar", "rail")]
        shapes: list[Shape] = [
            _polygon(
                _tube(self.bones[a], self.bones[b], diameter), self._guess("side-tube", "bike", "saddle")
            )
            for a, b in pairs
        ]
        if "front_saddle" in self.bones.points:
            top = _moved(self.bones["front_saddle"], 8, -48)
            shapes.append(_polygon(_tube(self.bones["front_collar"], top, diameter), "side-tube guess"))
        return shapes

    def saddle(self) -> list[Shape]:
        shape = ((-125, -6), (-120, 16), (-60, 4), (40, 0), (140, -4), (146, -16), (60, -16), (-60, -34))
        tops = [name for name in ("saddle", "front_saddle") if name in self.bones.points]
        return [
            _polygon(
                (_moved(self.bones[top], x - 12, y) for x, y in shape),
                self._guess("side-solid", "bike", "saddle"),
            )
            for top in tops
        ]

    def stem(self) -> list[Shape]:
        bones = self.bones
        role = self._guess("side-tube", "stem", "headset")
        return [
            _polygon(_tube(bones["head_top"], bones["headset_top"], 44), role),
            _polygon(_tube(bones["headset_top"], bones["steerer_top"], 34), role),
            _polygon(_tube(bones["stem"], bones["bar"], 34), role),
        ]

    def bar(self) -> list[Shape]:
        at, shape = self.bones["bar"], self.facts.get("handlebar", "shape")
        role = "side-bar" if shape else "side-bar guess"
        rise = self.facts.get("handlebar", "rise_mm") or 0.0
        lines: dict[str, tuple[Point, ...]] = {
            "drop": ((0, 0), (52, 2), (78, -14), (86, -44), (76, -84), (48, -116), (0, -126), (-46, -126)),
            "bullhorn": ((0, 0), (60, -4), (130, 26)),
            "base_bar": ((0, 0), (60, -10), (140, 10)),
            "swept": ((0, 0), (20, rise), (-60, rise + 10), (-170, rise - 8)),
        }
        points = lines.get(shape or "", ((0, 0), (6, rise), (-52, rise + 6)))
        return [
            Path(points=tuple(_moved(at, x, y) for x, y in points), role=role),
            Circle(centre=at, radius=16, role="side-hub"),
        ]

    def rotor(self, end: str) -> list[Shape]:
        size = self.facts.get(f"{end}_rotor", "diameter_mm")
        if size is None:
            return []
        centre = self.bones[f"{end}_axle"]
        return [Circle(centre=centre, radius=size / 2, role="side-rotor", title=f"{end} rotor {size:g} mm")]

    def brake(self, end: str) -> list[Shape]:
        if f"{end}_caliper" not in self.slots:
            return []
        centre = self.bones[f"{end}_axle"]
        kind = self.facts.get(f"{end}_caliper", "type")
        size = self.facts.get(f"{end}_rotor", "diameter_mm")
        if size is not None or kind == "disc":
            radius, angle = (size or 160) / 2, math.radians(148 if end == "front" else 42)
        else:
            bsd = self.bones.front_bsd_mm if end == "front" else self.bones.rear_bsd_mm
            crown = self.bones["crown"] if end == "front" else self.bones["collar"]
            radius, angle = bsd / 2, math.atan2(crown[1] - centre[1], crown[0] - centre[0])
        at = (centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle))
        out = (at[0] + 34 * math.cos(angle), at[1] + 34 * math.sin(angle))
        back = (at[0] - 14 * math.cos(angle), at[1] - 14 * math.sin(angle))
        return [_polygon(_tube(back, out, 38), "side-solid")]

    def cassette(self) -> list[Shape]:
        teeth = self.facts.get("cassette", "teeth") or ()
        return (
            [
                Circle(
                    centre=self.bones["rear_axle"],
                    radius=pitch_radius(count),
                    role="side-cog",
                    title=f"{count} teeth",
                )
                for count in sorted({max(teeth), min(teeth)}, reverse=True)
            ]
            if teeth
            else []
        )

    def rings(self) -> list[Shape]:
        teeth = self.facts.get("chainrings", "teeth") or ()
        return [
            Circle(
                centre=self.bones["bracket"],
                radius=pitch_radius(count),
                role="side-cog",
                title=f"{count} teeth",
            )
            for count in teeth
        ]

    def pulleys(self) -> tuple[Point, Point] | None:
        """Guide and tension pulley, where a rear derailleur hangs; their place is the trade's, not measured."""
        teeth = self.facts.get("cassette", "teeth")
        if "rear_derailleur" not in self.slots or not teeth:
            return None
        axle, radius = self.bones["rear_axle"], pitch_radius(PULLEY_TEETH)
        guide = _moved(axle, 14, -(pitch_radius(max(teeth)) + PULLEY_GAP_MM + radius))
        return guide, _moved(guide, CAGE_MM * 0.42, -CAGE_MM * 0.91)

    def derailleur(self) -> list[Shape]:
        pulleys = self.pulleys()
        if pulleys is None:
            return []
        radius = pitch_radius(PULLEY_TEETH)
        guide, tension = pulleys
        hanger = _moved(self.bones["rear_axle"], -4, -22)
        return [
            _polygon(_tube(hanger, guide, 16), "side-tube guess"),
            _polygon(_tube(guide, tension, 14), "side-tube guess"),
            *(Circle(centre=one, radius=radius, role="side-cog guess") for one in pulleys),
        ]

    def chain(self) -> list[Shape]:
        if self.gear is None:
            return []
        sprocket = Wheel(centre=self.bones["rear_axle"], radius=pitch_radius(self.gear.sprocket))
        ring = Wheel(centre=self.bones["bracket"], radius=pitch_radius(self.gear.ring))
        pulleys, radius = self.pulleys(), pitch_radius(PULLEY_TEETH)
        wheels = [sprocket, ring]
        if pulleys is not None:
            guide, tension = pulleys
            wheels += [
                Wheel(centre=tension, radius=radius),
                Wheel(centre=guide, radius=radius, clockwise=False),
            ]
        try:
            points = belt_round(tuple(wheels))
        except ValueError:
            return []
        return [_polygon(points, "side-chain")]

    def crank(self) -> list[Shape]:
        if "crank" not in self.slots:
            return []
        arm, centre = self.facts.get("crank", "arm_mm"), self.bones["bracket"]
        role = "side-solid" if arm else "side-solid guess"
        reach = arm or 170.0
        ends = (_moved(centre, reach, 0), _moved(centre, -reach, 0))
        shapes: list[Shape] = [_polygon(_tube(centre, end, 26, 18), role) for end in ends[:1]]
        shapes.append(Path(points=(centre, ends[1]), role="side-behind"))
        if "pedals" in self.slots:
            shapes += [_polygon(_tube(_moved(end, -45, 0), _moved(end, 45, 0), 14), role) for end in ends[:1]]
        return shapes


def _numbers(shape: Shape) -> list[float]:
    """The figures that an element's place and size come to."""
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
    """A view that holds every bike with its wheels, saddle and bar, and room for the dimensions."""
    left = min(one["rear_axle"][0] - one.rear_radius_mm for one in bikes)
    right = max(one["front_axle"][0] + one.front_radius_mm for one in bikes)
    top = max(max(point[1] for point in one.points.values()) for one in bikes) + 70
    bottom = min(one.ground_mm for one in bikes)
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
        Line(start=(MARGIN / 2, ground), end=(view.width - MARGIN / 2, ground), role="ground"),
        *dimension((rear[0], ground + 34), (front[0], ground + 34), f"wheelbase {wheelbase:.0f}"),
        *upright((bracket[0], bracket[1]), (bracket[0], ground), f"{-bones.ground_mm:.0f}", right=True),
        Line(start=scale_at, end=(scale_at[0] + 100 * view.scale, scale_at[1]), role="scale"),
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


def side_scene(now: Build, then: Build | None = None, gear: Gear | None = None) -> Scene:
    """The bike from its drive side; with a plan what differs stands bold over what it was."""
    return drawn(Bones.of(now, then), gear)


def drawn(bones: Bones, gear: Gear | None = None) -> Scene:
    """The same from skeletons that are made already."""
    now, then, old, new = bones.now, bones.then, bones.old, bones.new
    view = view_of(old, new)
    before = _Bike(now, old, gear).elements()
    after = before if then is None else _Bike(then, new, gear).elements()
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
        f"Wheelbase {new['front_axle'][0] - new['rear_axle'][0]:.0f} mm, bracket {-new.ground_mm:.0f} mm over the ground"
        + (f"; {guesses} numbers assumed, their parts dashed." if guesses else ".")
    )
    return Scene(width=view.width, height=view.height, title="Side view", says=says, shapes=tuple(shapes))


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


def with_joints(scene: Scene, found: list[Judged], made: Bones, chosen: str = "") -> Scene:
    """The side view with a mark for every joint something is said of, and a line to the joint where it had to move aside."""
    bones = made.new
    view = view_of(made.old, bones)
    facts = Facts(made.now if made.then is None else made.then)
    discs = frozenset(
        end for end in ("front", "rear") if facts.get(f"{end}_rotor", "diameter_mm") is not None
    )
    homes = [view.at(place_of(one.joint, bones, discs)) for one in found]
    radii = [GOES_RADIUS if one.verdict is Verdict.GOES else ASKS_RADIUS for one in found]
    reaches = [radius + FINGER for radius in radii]
    places = _apart(homes, reaches, scene.width, scene.height)
    leads: list[Shape] = [
        Line(start=home, end=place, role="lead")
        for home, place, radius in zip(homes, places, radii, strict=True)
        if math.dist(home, place) > radius
    ]
    marks: list[Shape] = [
        Mark(
            at=place,
            radius=radius,
            reach=radius + FINGER,
            verdict=one.verdict.value,
            name=one.joint.name,
            title=f"{one.joint.title}: {one.verdict.title}"
            + (f", {one.count} to look at" if one.count else ""),
            count=one.count,
            chosen=one.joint.name == chosen,
        )
        for one, place, radius in zip(found, places, radii, strict=True)
    ]
    return evolve(scene, shapes=(*scene.shapes, *leads, *marks))


def change_scene(now: Build, then: Build) -> Scene:
    """The side view of a plan with the way the bar moves."""
    bones = Bones.of(now, then)
    scene, old, new = drawn(bones), bones.old, bones.new
    view = view_of(old, new)
    start, end = view.at(old["bar"]), view.at(new["bar"])
    forward, up = bar_from_bracket(now, then)
    text = f"from the bracket: bar {abs(forward):.0f} {'forward' if forward >= 0 else 'back'}, {abs(up):.0f} {'up' if up >= 0 else 'down'}"
    marks: tuple[Shape, ...] = (
        Line(start=start, end=end, role="moves"),
        Text(at=(end[0], end[1] - 30), text=text, role="moves-text"),
    )
    return evolve(scene, shapes=(*scene.shapes, *marks), title="Bar before and after")
