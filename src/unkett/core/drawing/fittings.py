"""Small parts on the side view: racks, lights, axles, valves, the clamp, a battery, the coaster's arm, a belt.

Their places are the trade's, not measured: only what is read of them (a rack's mount, an axle's thread) is reported.
"""

from __future__ import annotations

import math

from unkett.core.bike.facts import Facts
from unkett.core.bike.skeleton import Skeleton
from unkett.core.calc.gears import CHAIN_PITCH_MM, pitch_radius
from unkett.core.drawing.shapes import between, moved, polygon, tube
from unkett.core.scene import Circle, Path, Point, Shape, Wheel, belt_round
from unkett.core.standards import limit_of

ENDS = ("rear", "front")
RACK_OVER_MM, RACK_LONG_MM = 40.0, 320.0
BELT_PITCH_MM = limit_of("belt_pitch_mm")
VALVE_DEG = 250.0


class Fittings:
    """The small parts of one bike, element by element."""

    def __init__(self, facts: Facts, bones: Skeleton) -> None:
        self.facts, self.bones, self.slots = facts, bones, set(facts.filled)

    def elements(self) -> dict[str, list[Shape]]:
        """Return what there is of them, by name."""
        out: dict[str, list[Shape]] = {}
        for end in ENDS:
            out[f"{end}_rack"] = self.rack(end)
            out[f"{end}_light"] = self.light(end)
            out[f"{end}_thru_axle"] = self.axle(end)
            out[f"{end}_valve"] = self.valve(end)
        out["seat_clamp"] = self.clamp()
        out["battery"] = self.battery()
        out["coaster_arm"] = self.coaster_arm()
        out["belt"] = self.belt()
        return out

    def _radius(self, end: str) -> float:
        return self.bones.front_radius_mm if end == "front" else self.bones.rear_radius_mm

    def rack(self, end: str) -> list[Shape]:
        """Return a platform over the wheel with its legs to the axle."""
        if f"{end}_rack" not in self.slots:
            return []
        axle = self.bones[f"{end}_axle"]
        up = self._radius(end) + RACK_OVER_MM
        start, stop = moved(axle, -RACK_LONG_MM * 0.6, up), moved(axle, RACK_LONG_MM * 0.4, up)
        foot = moved(axle, 0, 14)
        legs = (between(start, stop, 0.25), between(start, stop, 0.75))
        return [
            polygon(tube(start, stop, 12), "side-tube guess"),
            *(Path(points=(foot, leg), role="side-guard") for leg in legs),
        ]

    def light(self, end: str) -> list[Shape]:
        if f"{end}_light" not in self.slots:
            return []
        at = moved(self.bones["bar"], 60, -30) if end == "front" else moved(self.bones["collar"], -70, 40)
        return [Circle(centre=at, radius=18, role="side-solid guess", title=f"{end} light")]

    def axle(self, end: str) -> list[Shape]:
        """Return the end of a thru axle, its thread in words."""
        if f"{end}_axle" not in self.slots:
            return []
        dia, pitch = self.facts.get(f"{end}_axle", "dia_mm"), self.facts.get(f"{end}_axle", "thread_pitch_mm")
        words = " × ".join(f"{number:g}" for number in (dia, pitch) if number is not None)
        title = f"{end} thru axle {words}".strip()
        return [
            Circle(
                centre=self.bones[f"{end}_axle"], radius=(dia or 12) / 2 + 3, role="side-solid", title=title
            )
        ]

    def valve(self, end: str) -> list[Shape]:
        long = self.facts.get(f"{end}_valve", "length_mm")
        if long is None:
            return []
        bsd = self.bones.front_bsd_mm if end == "front" else self.bones.rear_bsd_mm
        angle = math.radians(VALVE_DEG)
        way = (math.cos(angle), math.sin(angle))
        x, y = self.bones[f"{end}_axle"]
        outer, inner = bsd / 2, bsd / 2 - long
        points = ((x + outer * way[0], y + outer * way[1]), (x + inner * way[0], y + inner * way[1]))
        return [Path(points=points, role="side-guard")]

    def clamp(self) -> list[Shape]:
        if "seat_clamp" not in self.slots:
            return []
        collar, bracket = self.bones["collar"], self.bones["bracket"]
        wide = self.facts.get("seat_clamp", "bore_mm") or 32.0
        return [polygon(tube(collar, _towards(collar, bracket, 16), wide + 8), "side-solid")]

    def battery(self) -> list[Shape]:
        """Return a battery on the tube that it sits on; one inside a tube is not seen."""
        place = self.facts.get("battery", "place")
        ends: dict[str, tuple[Point, Point]] = {
            "seat_tube": (self.bones["bracket"], self.bones["collar"]),
            "down_tube": (self.bones["bracket"], self.bones["head_bottom"]),
            "outside": (self.bones["bracket"], self.bones["head_bottom"]),
        }
        if place not in ends:
            return []
        start, stop = ends[place]
        role = "side-tube guess" if place == "seat_tube" else "side-solid guess"
        return [polygon(tube(between(start, stop, 0.35), between(start, stop, 0.65), 24), role)]

    def coaster_arm(self) -> list[Shape]:
        """Return the arm that holds a coaster brake, on the left of the chainstay."""
        if not self.facts.get("rear_hub", "coaster"):
            return []
        axle = self.bones["rear_axle"]
        role = "side-behind" if self.facts.get("rear_hub", "arm_fixed") else "side-behind guess"
        return [Path(points=(axle, _towards(axle, self.bones["bracket"], 150)), role=role)]

    def belt(self) -> list[Shape]:
        """Return a belt round its pulleys; their teeth are 11 mm apart."""
        ring, cog = self.facts.get("chainrings", "teeth"), self.facts.get("cassette", "teeth")
        if "belt" not in self.slots or not ring or not cog:
            return []
        share = BELT_PITCH_MM / CHAIN_PITCH_MM
        wheels = (
            Wheel(centre=self.bones["rear_axle"], radius=pitch_radius(max(cog)) * share),
            Wheel(centre=self.bones["bracket"], radius=pitch_radius(max(ring)) * share),
        )
        return [polygon(belt_round(wheels), "side-timing")]


def _towards(start: Point, goal: Point, far: float) -> Point:
    return between(start, goal, far / (math.dist(start, goal) or 1.0))
