"""The elements of a bike seen from its drive side, in millimetres with y up, each drawn from its own numbers.

What hangs on an assumed number has the role `guess`.
"""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.bike.facts import Facts
from unkett.core.bike.skeleton import Skeleton
from unkett.core.build import Build
from unkett.core.calc.gears import pitch_radius
from unkett.core.drawing.fittings import Fittings
from unkett.core.drawing.shapes import between, moved, polygon, tube
from unkett.core.drawing.suspension import rear_suspension
from unkett.core.scene import Circle, Path, Point, Shape, Wheel, belt_round

TUBES = (
    ("head_top", "head_bottom", 46.0),
    ("bracket", "collar", 31.0),
    ("bracket", "rear_axle", 18.0),
)
PULLEY_TEETH = 11
PULLEY_GAP_MM = 6.0
CAGE_MM = 62.0


@frozen(kw_only=True)
class Gear:
    """The gear that the chain is drawn in."""

    ring: int
    sprocket: int


Elements = dict[str, list[Shape]]


PLAIN_HUB_MM, GEAR_HUB_MM, HUB_MOTOR_MM, MID_MOTOR_MM = 22.0, 46.0, 75.0, 62.0  # drawn radii
GUARD_ROOM_MM = 12.0
TIMING_TEETH = 36  # of a tandem's timing chain, drawn
GUARD_DEG = {"rear": (12, 198), "front": (42, 222)}
STANCHION_UNDER_MM = 4.0


class Bicycle:
    """One bike, element by element."""

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
            "rear_mudguard": self.mudguard("rear"),
            "front_mudguard": self.mudguard("front"),
            "motor": self.motor(),
            "shock": rear_suspension(self.facts, self.bones),
            **Fittings(self.facts, self.bones).elements(),
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
            Circle(centre=centre, radius=self.hub_radius(end), role="side-hub"),
        ]
        return shapes

    def hub_radius(self, end: str) -> float:
        """Radius of the hub's shell: a motor's, gears' inside, or a plain one's."""
        if self.facts.get("motor", "type") == f"hub_{end}":
            return HUB_MOTOR_MM
        return GEAR_HUB_MM if self.facts.get(f"{end}_hub", "internal_gears") else PLAIN_HUB_MM

    def mudguard(self, end: str) -> list[Shape]:
        """Return an arc over the tyre, with its room."""
        if f"{end}_mudguard" not in self.slots:
            return []
        bones = self.bones
        radius = (bones.front_radius_mm if end == "front" else bones.rear_radius_mm) + GUARD_ROOM_MM
        x, y = bones[f"{end}_axle"]
        first, last = GUARD_DEG[end]
        points = tuple(
            (x + radius * math.cos(math.radians(angle)), y + radius * math.sin(math.radians(angle)))
            for angle in range(first, last + 1, 6)
        )
        return [Path(points=points, role="side-guard")]

    def motor(self) -> list[Shape]:
        """Return a motor at the bracket; one in a hub is its hub."""
        if self.facts.get("motor", "type") != "mid_bracket":
            return []
        return [Circle(centre=self.bones["bracket"], radius=MID_MOTOR_MM, role="side-hub", title="motor")]

    def frame(self) -> list[Shape]:
        bones = self.bones
        role = self._guess("side-tube", "frame")
        collar, top = bones["collar"], bones["head_top"]
        upper, lower = between(top, bones["head_bottom"], 0.2), between(top, bones["head_bottom"], 0.8)
        joint = between(bones["bracket"], collar, 0.93)
        pieces = [
            (bones["bracket"], lower, 38.0),
            (joint, upper, 31.0),
            (joint, bones["rear_axle"], 15.0),
            *((bones[start], bones[end], wide) for start, end, wide in TUBES),
        ]
        if "wheel_head_top" in bones.points:
            nose = between(bones["wheel_head_top"], bones["crown"], 0.5)
            pieces[0] = (bones["bracket"], bones["column_foot"], 38.0)
            pieces += [
                (bones["head_bottom"], bones["column_foot"], 34.0),
                (bones["column_foot"], nose, 44.0),
                (bones["wheel_head_top"], bones["crown"], 46.0),
            ]
        if "front_bracket" in bones.points:
            second = between(bones["front_bracket"], bones["front_collar"], 0.93)
            pieces[0] = (bones["front_bracket"], lower, 38.0)
            pieces[1] = (second, upper, 31.0)
            pieces += [
                (bones["bracket"], bones["front_bracket"], 38.0),
                (joint, second, 31.0),
                (bones["front_bracket"], bones["front_collar"], 31.0),
            ]
        shapes: list[Shape] = [polygon(tube(*piece), role) for piece in pieces]
        return [*shapes, Circle(centre=bones["bracket"], radius=24, role=role)]

    def fork(self) -> list[Shape]:
        bones = self.bones
        crown, axle = bones["crown"], bones["front_axle"]
        role = self._guess("side-tube", "fork")
        travel = self.facts.get("fork", "travel_mm") or 0.0
        neck = polygon(tube(bones.points.get("wheel_head_top", bones["head_bottom"]), crown, 40), role)
        if travel <= 0:
            return [neck, polygon(tube(crown, axle, 30, 16), role)]
        middle = between(crown, axle, min(0.7, (travel + 30) / max(math.dist(crown, axle), 1)))
        return [
            neck,
            polygon(tube(crown, middle, 32), "side-stanchion"),
            polygon(tube(middle, axle, 46, 34), role),
        ]

    def post(self) -> list[Shape]:
        diameter = self.facts.get("seatpost", "diameter_mm") or 27.2
        pairs = [("collar", "rail")]
        shapes: list[Shape] = [
            polygon(tube(self.bones[a], self.bones[b], diameter), self._guess("side-tube", "bike", "saddle"))
            for a, b in pairs
        ]
        travel = self.facts.get("seatpost", "dropper_travel_mm")
        if travel:
            rail, collar = self.bones["rail"], self.bones["collar"]
            share = min(1.0, travel / (math.dist(rail, collar) or 1.0))
            inner = tube(rail, between(rail, collar, share), diameter - STANCHION_UNDER_MM)
            shapes.append(polygon(inner, "side-stanchion"))
        if "front_saddle" in self.bones.points:
            top = moved(self.bones["front_saddle"], 8, -48)
            shapes.append(polygon(tube(self.bones["front_collar"], top, diameter), "side-tube guess"))
        return shapes

    def saddle(self) -> list[Shape]:
        shape = ((-125, -6), (-120, 16), (-60, 4), (40, 0), (140, -4), (146, -16), (60, -16), (-60, -34))
        tops = [name for name in ("saddle", "front_saddle") if name in self.bones.points]
        return [
            polygon(
                (moved(self.bones[top], x - 12, y) for x, y in shape),
                self._guess("side-solid", "bike", "saddle"),
            )
            for top in tops
        ]

    def stem(self) -> list[Shape]:
        bones = self.bones
        role = self._guess("side-tube", "stem", "headset")
        return [
            polygon(tube(bones["head_top"], bones["headset_top"], 44), role),
            polygon(tube(bones["headset_top"], bones["steerer_top"], 34), role),
            polygon(tube(bones["stem"], bones["bar"], 34), role),
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
            Path(points=tuple(moved(at, x, y) for x, y in points), role=role),
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
        return [polygon(tube(back, out, 38), "side-solid")]

    def cassette(self) -> list[Shape]:
        teeth = self.facts.get("cassette", "teeth") or ()
        role = "side-cog guess" if self.facts.doubted("cassette", "teeth") else "side-cog"
        return (
            [
                Circle(
                    centre=self.bones["rear_axle"],
                    radius=pitch_radius(count),
                    role=role,
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
        guide = moved(axle, 14, -(pitch_radius(max(teeth)) + PULLEY_GAP_MM + radius))
        return guide, moved(guide, CAGE_MM * 0.42, -CAGE_MM * 0.91)

    def derailleur(self) -> list[Shape]:
        pulleys = self.pulleys()
        if pulleys is None:
            return []
        radius = pitch_radius(PULLEY_TEETH)
        guide, tension = pulleys
        hanger = moved(self.bones["rear_axle"], -4, -22)
        return [
            polygon(tube(hanger, guide, 16), "side-tube guess"),
            polygon(tube(guide, tension, 14), "side-tube guess"),
            *(Circle(centre=pulley, radius=radius, role="side-cog guess") for pulley in pulleys),
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
        return [polygon(points, "side-chain")]

    def crank(self) -> list[Shape]:
        """Return the crank; of a tandem the captain's too, and the chain that times the two."""
        if "crank" not in self.slots:
            return []
        arm, bones = self.facts.get("crank", "arm_mm"), self.bones
        shapes = self._crank_at(bones["bracket"], arm, "side-solid" if arm else "side-solid guess")
        if "front_bracket" not in bones.points:
            return shapes
        teeth = self.facts.get("timing_rings", "teeth")
        guess = "" if teeth else " guess"
        radius = pitch_radius(teeth[0] if teeth else TIMING_TEETH)
        wheels = (
            Wheel(centre=bones["bracket"], radius=radius),
            Wheel(centre=bones["front_bracket"], radius=radius),
        )
        rings: list[Shape] = [
            Circle(centre=wheel.centre, radius=wheel.radius, role=f"side-cog{guess}") for wheel in wheels
        ]
        timing = polygon(belt_round(wheels), f"side-timing{guess}")
        captain = self.facts.get("captain_crank", "arm_mm")
        role = "side-solid" if captain else "side-solid guess"
        return [*rings, timing, *shapes, *self._crank_at(bones["front_bracket"], captain or arm, role)]

    def _crank_at(self, centre: Point, arm: float | None, role: str) -> list[Shape]:
        reach = arm or 170.0
        end, behind = moved(centre, reach, 0), moved(centre, -reach, 0)
        shapes: list[Shape] = [
            polygon(tube(centre, end, 26, 18), role),
            Path(points=(centre, behind), role="side-behind"),
        ]
        if "pedals" in self.slots:
            shapes.append(polygon(tube(moved(end, -45, 0), moved(end, 45, 0), 14), role))
        return shapes
