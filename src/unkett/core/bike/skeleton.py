"""Where the points of a bike lie in its own plane, from its numbers.

Millimetres, x forward, y up, the bracket's centre at the origin. What is not measured is assumed from
the bike's use and wheels, and every assumption is named, so that a picture can show it as one.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.bike.facts import Facts
from unkett.core.build import Build, bead_seat_from, tyre_width_from
from unkett.core.calc.bar import bar_place

Point = tuple[float, float]

# What is assumed where nothing is measured: by use, then for every other bike.
HEAD_ANGLE_DEG = {"road": 73, "track": 74, "time_trial": 73, "triathlon": 73, "audax": 72, "touring": 72, "tandem": 73,
                  "xc": 69, "trail": 66, "enduro": 64, "downhill": 63, "fat": 68, "kids": 69, "cargo": 71}  # fmt: skip
BRACKET_HEIGHT_MM = {"road": 268, "kids": 230, "trail": 330, "enduro": 340, "downhill": 345, "fat": 310}
OTHER_HEAD_ANGLE_DEG, OTHER_BRACKET_HEIGHT_MM = 70.5, 280
SEAT_ANGLE_DEG = 73.0
REACH_MM = {"kids": 320, "trail": 450, "enduro": 470, "xc": 430}
OTHER_REACH_MM = 385
WHEEL_BSD_MM, TYRE_MM = 622.0, 37.0
OFFSET_MM = 45.0
CROWN_OVER_TYRE_MM = 32.0  # crown race seat over the tyre's top, rigid fork
HEAD_TUBE_MM, STACK_PART_MM, CLAMP_MM = 140.0, 12.0, 40.0
STEM_MM, STEM_DEG = 90.0, 0.0
STOKER_MM = 720.0  # bracket to bracket of a tandem
LONG_FRONT_MM = 900.0  # bracket to front axle from which a load lies between rider and front wheel
LONG_FRONT_STACK_MM = 640.0


@frozen(kw_only=True)
class Assumption:
    """One number nobody measured, and what stands in for it."""

    slot: str
    attr: str
    value: float


@frozen(kw_only=True)
class Skeleton:
    """Points by name, the outer radii of the wheels and what had to be assumed."""

    points: Mapping[str, Point]
    front_radius_mm: float
    rear_radius_mm: float
    front_bsd_mm: float
    rear_bsd_mm: float
    head_angle_deg: float
    assumed: tuple[Assumption, ...] = field(factory=tuple)

    def __getitem__(self, name: str) -> Point:
        return self.points[name]

    @property
    def ground_mm(self) -> float:
        """Height of the ground under the rear wheel."""
        return self.points["rear_axle"][1] - self.rear_radius_mm

    def guesses(self, *slots: str) -> bool:
        """Return whether anything of these slots is assumed."""
        return any(number.slot in slots for number in self.assumed)


class _Numbers:
    """Numbers of a build; a missing one is assumed and noted."""

    def __init__(self, build: Build) -> None:
        self.facts = Facts(build)
        self.assumed: list[Assumption] = []

    def get(self, slot: str, attr: str) -> Any:
        return self.facts.get(slot, attr)

    def or_assume(self, slot: str, attr: str, value: float) -> float:
        known = self.facts.get(slot, attr)
        if known is not None:
            return float(known)
        self.assumed.append(Assumption(slot=slot, attr=attr, value=value))
        return value

    def wheel(self, end: str) -> tuple[float, float]:
        """Bead seat and outer radius of a wheel."""
        other = "rear" if end == "front" else "front"
        bsd = self.facts.first((*bead_seat_from(end), *bead_seat_from(other)))
        if bsd is None:
            bsd = self.or_assume(f"{end}_rim", "bsd_mm", WHEEL_BSD_MM)
        width = self.facts.first(tyre_width_from(end))
        if width is None:
            width = self.or_assume(f"{end}_tyre", "width_mm", TYRE_MM)
        return float(bsd), bsd / 2 + width


def _along(start: Point, length: float, angle_deg: float) -> Point:
    """Return a point so far from another, the angle against the ground, forward and up."""
    angle = math.radians(angle_deg)
    return (start[0] + length * math.cos(angle), start[1] + length * math.sin(angle))


def skeleton(build: Build) -> Skeleton:
    """Return the points of a bike. Never fails: whatever is missing is assumed and named."""
    numbers = _Numbers(build)
    use = build.use or ""
    rear_bsd, rear_radius = numbers.wheel("rear")
    front_bsd, front_radius = numbers.wheel("front")
    points: dict[str, Point] = {"bracket": (0.0, 0.0)}
    height = BRACKET_HEIGHT_MM.get(use, OTHER_BRACKET_HEIGHT_MM)
    drop = numbers.or_assume("frame", "bb_drop_mm", max(-20.0, rear_radius - height))
    stay = max(numbers.or_assume("frame", "chainstay_mm", max(430.0, rear_radius + 90)), abs(drop) + 1)
    points["rear_axle"] = (-math.sqrt(stay**2 - drop**2), drop)
    head = numbers.or_assume("frame", "head_angle_deg", HEAD_ANGLE_DEG.get(use, OTHER_HEAD_ANGLE_DEG))
    wheelbase = numbers.get("frame", "wheelbase_mm")
    front_end = _front_end
    if use == "cargo" and wheelbase is not None and wheelbase + points["rear_axle"][0] > LONG_FRONT_MM:
        front_end = _long_front
    points |= front_end(numbers, use, head, points["rear_axle"], rear_radius, front_radius)
    points |= _cockpit(numbers, head, points["head_top"])
    points |= _seat(numbers, points["head_top"])
    if use == "tandem":
        ahead = float(numbers.get("frame", "timing_centre_mm") or STOKER_MM)
        points["front_bracket"] = (ahead, 0.0)
        points["front_collar"] = _shifted(points["collar"], ahead)
        points["front_saddle"] = _shifted(points["saddle"], ahead)
    return Skeleton(
        points=points,
        front_radius_mm=front_radius,
        rear_radius_mm=rear_radius,
        front_bsd_mm=front_bsd,
        rear_bsd_mm=rear_bsd,
        head_angle_deg=head,
        assumed=tuple(numbers.assumed),
    )


def _shifted(point: Point, forward_mm: float) -> Point:
    return (point[0] + forward_mm, point[1])


def _front_end(
    numbers: _Numbers, use: str, head: float, rear_axle: Point, rear_radius: float, front_radius: float
) -> dict[str, Point]:
    """Head tube, crown and front axle: from stack and reach where known, else back from the wheels on the ground."""
    tube = numbers.or_assume("frame", "head_tube_length_mm", HEAD_TUBE_MM)
    lower = numbers.or_assume("headset", "stack_lower_mm", STACK_PART_MM)
    offset = numbers.or_assume("fork", "offset_mm", OFFSET_MM)
    to_crown = numbers.or_assume("fork", "axle_to_crown_mm", front_radius + CROWN_OVER_TYRE_MM)
    down = tube + lower + to_crown  # along the steerer, top of the head tube to level with the axle
    angle = math.radians(head)
    ahead = (
        down * math.cos(angle) + offset * math.sin(angle),
        -down * math.sin(angle) + offset * math.cos(angle),
    )
    level = rear_axle[1] - rear_radius + front_radius
    reach, stack = numbers.get("frame", "reach_mm"), numbers.get("frame", "stack_mm")
    wheelbase = numbers.get("frame", "wheelbase_mm")
    if reach is None and wheelbase is not None:
        reach = rear_axle[0] + wheelbase - ahead[0]
    elif reach is None:
        long = float(numbers.get("frame", "timing_centre_mm") or STOKER_MM) if use == "tandem" else 0.0
        reach = numbers.or_assume("frame", "reach_mm", REACH_MM.get(use, OTHER_REACH_MM) + long)
    top = (float(reach), float(stack) if stack is not None else level - ahead[1])
    crown = _along(top, tube + lower, -head)
    return {
        "head_top": top,
        "head_bottom": _along(top, tube, -head),
        "crown": crown,
        "front_axle": (top[0] + ahead[0], top[1] + ahead[1]),
    }


def _long_front(
    numbers: _Numbers, use: str, head: float, rear_axle: Point, rear_radius: float, front_radius: float
) -> dict[str, Point]:
    """A load between rider and front wheel: the wheel turns under a head tube of its own, by a rod from the rider's."""
    tube = numbers.or_assume("frame", "head_tube_length_mm", HEAD_TUBE_MM)
    lower = numbers.or_assume("headset", "stack_lower_mm", STACK_PART_MM)
    offset = numbers.or_assume("fork", "offset_mm", OFFSET_MM)
    to_crown = numbers.or_assume("fork", "axle_to_crown_mm", front_radius + CROWN_OVER_TYRE_MM)
    angle = math.radians(head)
    axle = (
        rear_axle[0] + float(numbers.get("frame", "wheelbase_mm")),
        rear_axle[1] - rear_radius + front_radius,
    )
    crown = (
        axle[0] - to_crown * math.cos(angle) - offset * math.sin(angle),
        axle[1] + to_crown * math.sin(angle) - offset * math.cos(angle),
    )
    reach = numbers.or_assume("frame", "reach_mm", REACH_MM.get(use, OTHER_REACH_MM))
    top = (reach, numbers.or_assume("frame", "stack_mm", LONG_FRONT_STACK_MM))
    return {
        "head_top": top,
        "head_bottom": _along(top, tube, -head),
        "column_foot": _along(top, top[1] + 40.0, -head),
        "wheel_head_top": _along(crown, tube + lower, 180 - head),
        "crown": crown,
        "front_axle": axle,
    }


def _cockpit(numbers: _Numbers, head: float, top: Point) -> dict[str, Point]:
    """Top of the headset, steerer's top, stem clamp and bar."""
    upper = numbers.or_assume("headset", "stack_upper_mm", STACK_PART_MM)
    below, above = (numbers.get("spacers", name) or 0.0 for name in ("below_mm", "above_mm"))
    clamp = numbers.or_assume("stem", "clamp_height_mm", CLAMP_MM)
    length = numbers.or_assume("stem", "length_mm", STEM_MM)
    angle = numbers.or_assume("stem", "angle_deg", STEM_DEG)
    headset = _along(top, upper, 180 - head)
    place = bar_place(
        head_angle_deg=head, length_mm=length, angle_deg=angle, spacers_mm=below, clamp_height_mm=clamp
    )
    return {
        "headset_top": headset,
        "stem": _along(headset, below + clamp / 2, 180 - head),
        "steerer_top": _along(headset, below + clamp + above, 180 - head),
        "bar": (headset[0] + place.forward_mm, headset[1] + place.up_mm),
    }


def _seat(numbers: _Numbers, head_top: Point) -> dict[str, Point]:
    """Seat collar, rail clamp and saddle along the seat tube."""
    angle = numbers.or_assume("frame", "seat_angle_deg", SEAT_ANGLE_DEG)
    tube = numbers.or_assume("frame", "seat_tube_length_mm", max(200.0, head_top[1] * 0.88))
    saddle = numbers.or_assume("bike", "saddle_height_mm", max(tube + 150.0, 560.0))
    rail = numbers.or_assume("saddle", "rail_height_mm", 48.0)
    setback = numbers.get("seatpost", "setback_mm") or 0.0
    if numbers.get("seatpost", "turned"):
        setback = -setback
    up = 180 - angle
    height = max(saddle, tube + rail + 20.0)
    clamp, top = _along((0.0, 0.0), height - rail, up), _along((0.0, 0.0), height, up)
    return {
        "collar": _along((0.0, 0.0), tube, up),
        "rail": (clamp[0] - setback, clamp[1]),
        "saddle": (top[0] - setback, top[1]),
    }


def laid_on(now: Skeleton, then: Skeleton) -> Skeleton:
    """Return the planned bike set on its wheels: turned about the rear axle until it stands as level as the bike stood.

    The frame's angles were measured with the old fork and wheels; another fork turns the whole frame.
    """
    rear, front = then["rear_axle"], then["front_axle"]
    across, up = front[0] - rear[0], front[1] - rear[1]
    stood = (now["front_axle"][1] - now.front_radius_mm) - (now["rear_axle"][1] - now.rear_radius_mm)
    wanted = then.front_radius_mm - then.rear_radius_mm + stood
    leans = wanted / (math.hypot(across, up) or 1.0)  # beyond 1 where a wheel is larger than the bike is long
    turn = math.asin(max(-1.0, min(1.0, leans))) - math.atan2(up, across)

    def turned(point: Point) -> Point:
        x, y = point[0] - rear[0], point[1] - rear[1]
        return (
            rear[0] + x * math.cos(turn) - y * math.sin(turn),
            rear[1] + x * math.sin(turn) + y * math.cos(turn),
        )

    lift = (now["rear_axle"][1] - now.rear_radius_mm) - (rear[1] - then.rear_radius_mm)
    points = {name: turned(point) for name, point in then.points.items()}
    return evolve(
        then,
        points={name: (x, y + lift) for name, (x, y) in points.items()},
        head_angle_deg=then.head_angle_deg - math.degrees(turn),
    )


def skeleton_of_plan(now: Build, then: Build) -> Skeleton:
    """Return the planned bike's points, on the ground of the bike as it stands.

    Where the frame is measured, the planned bike brings the figures it turns to; where it is not, what is assumed
    of it is turned here.
    """
    measured = Facts(now)
    planned = Facts(then)
    bare = ("stack_mm", "reach_mm", "wheelbase_mm", "head_angle_deg")
    same_frame = all(measured.get("frame", name) == planned.get("frame", name) for name in bare)
    old = skeleton(now)
    part = then.filled().get("frame")
    if not same_frame:
        return _set_down(old, skeleton(then))
    if part is None:
        return laid_on(old, skeleton(then))
    # the frame keeps its points: stack and reach as they are on the bike that stands there
    top = old["head_top"]
    pinned = evolve(part, attrs={**part.attrs, "reach_mm": top[0], "stack_mm": top[1]})
    return laid_on(old, skeleton(then.with_part("frame", pinned)))


def _set_down(now: Skeleton, then: Skeleton) -> Skeleton:
    """Return a bike set on the ground of another."""
    lift = now.ground_mm - then.ground_mm
    return evolve(then, points={name: (x, y + lift) for name, (x, y) in then.points.items()})


def bar_from_bracket(now: Build, then: Build) -> Point:
    """Return how far the bar moves forward and up as seen from the bracket, the frame's turn included, in mm."""
    old, new = skeleton(now), skeleton_of_plan(now, then)
    before, after = (
        (state["bar"][0] - state["bracket"][0], state["bar"][1] - state["bracket"][1]) for state in (old, new)
    )
    return (after[0] - before[0], after[1] - before[1])
