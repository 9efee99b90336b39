"""The joints of a bike: where parts mate, which rules speak of them and where they lie on the drawing."""

from __future__ import annotations

import math
from collections.abc import Iterable

from attrs import frozen

from unkett.core.finding import Finding, Verdict, worst
from unkett.core.rules import RULES
from unkett.core.skeleton import Point, Skeleton

FRONT = frozenset({"fork", "front_hub", "front_rim", "front_tyre", "front_spokes", "front_rotor", "front_caliper",
                   "front_brake_lever", "front_brake_line", "front_brake_adapter"})  # fmt: skip


@frozen(kw_only=True)
class Joint:
    """One place where parts mate; `page` and `sheet` name the work that shows it in section."""

    name: str
    title: str
    rules: tuple[str, ...]
    page: str
    sheet: str = ""


_WHEEL = (
    ("tyre", "tyre in rim and frame", ("tyre-seat", "tyre-width", "tyre-pressure", "tyre-clearance", "wheel-size", "valve-fit"), "wheels", "wheel"),
    ("spokes", "spokes", ("spoke-holes", "spoke-lacing"), "wheels", "spokes"),
    ("axle", "axle in the dropouts", ("axle-fit",), "wheels", ""),
    ("brake", "brake", ("rotor-mount", "rotor-limit", "caliper-mount", "caliper-position", "rotor-thickness", "rim-brake-reach", "rim-brake-track", "rim-brake-bolt"), "brakes", "brake"),
    ("lever", "brake lever and line", ("brake-actuation", "brake-fluid", "brake-cable-pull", "hose-fitting", "brake-line-type", "brake-line-drag", "motor-cutoff", "lever-reach"), "brakes", "lever"),
)  # fmt: skip
_ONE = (
    ("shifting", "Shifting at the rear", ("click-count", "index-alignment", "largest-sprocket", "smallest-sprocket", "capacity", "ring-difference", "derailleur-mount", "electronic-protocol"), "gears", ""),
    ("cassette", "Cassette on the hub", ("freehub-seat", "freewheel-room"), "gears", ""),
    ("chain", "Chain", ("chain-width", "chain-length", "chain-angle", "ring-chain"), "chain", "bracket"),
    ("rings", "Rings", ("ring-mount", "ring-retention", "ring-clearance", "chain-guide", "front-derailleur"), "bracket", "bracket"),
    ("bracket", "Bracket and crank", ("bb-shell", "crank-spindle", "bb-width", "motor-shell", "pedal-thread"), "bracket", "section"),
    ("headset", "Headset", ("headset-fit", "steerer-fit"), "steering", ""),
    ("fork", "Fork in the frame", ("fork-length",), "steering", ""),
    ("steerer", "Steerer and stem", ("stem-steerer", "steerer-length", "steerer-anchor", "stem-spacers"), "steering", "steering"),
    ("bar", "Bar in the stem", ("stem-bar", "bar-controls"), "steering", ""),
    ("post", "Post in the seat tube", ("seatpost-fit", "dropper-entry", "dropper-room"), "steering", "seat"),
    ("saddle", "Saddle on the post", ("saddle-rails",), "steering", ""),
    ("shock", "Rear shock", ("shock-fit",), "steering", ""),
)  # fmt: skip


def _declared() -> dict[str, Joint]:
    joints = [
        Joint(name=name, title=title, rules=rules, page=page, sheet=sheet)
        for name, title, rules, page, sheet in _ONE
    ]
    joints += [
        Joint(
            name=f"{end}_{name}",
            title=f"{end.capitalize()} {title}",
            rules=rules,
            page=page,
            sheet=f"{end}_{sheet}" if sheet else "",
        )
        for end in ("front", "rear")
        for name, title, rules, page, sheet in _WHEEL
    ]
    return {joint.name: joint for joint in joints}


JOINTS: dict[str, Joint] = _declared()
_BY_RULE: dict[str, list[Joint]] = {
    rule: [joint for joint in JOINTS.values() if rule in joint.rules] for rule in RULES
}


def joint_of(finding: Finding) -> Joint:
    """The joint that a finding speaks of; a rule of both ends by the parts it looked at."""
    joints = _BY_RULE[finding.rule]
    if len(joints) == 1:
        return joints[0]
    end = "front" if FRONT & set(finding.slots) else "rear"
    return next(joint for joint in joints if joint.name.startswith(end))


@frozen(kw_only=True)
class Judged:
    """A joint of one bike with what is said of it, worst first."""

    joint: Joint
    findings: tuple[Finding, ...]

    @property
    def verdict(self) -> Verdict:
        return worst([one.verdict for one in self.findings])

    @property
    def count(self) -> int:
        """How many findings ask for work."""
        return sum(one.verdict is not Verdict.GOES for one in self.findings)


def judged(findings: Iterable[Finding]) -> list[Judged]:
    """The joints something is said of, worst first, then in the order of the work."""
    by_name: dict[str, list[Finding]] = {}
    for one in findings:
        by_name.setdefault(joint_of(one).name, []).append(one)
    found = [Judged(joint=JOINTS[name], findings=tuple(by_name[name])) for name in JOINTS if name in by_name]
    return sorted(found, key=lambda one: one.verdict.order)


def _polar(centre: Point, radius: float, angle_deg: float) -> Point:
    angle = math.radians(angle_deg)
    return (centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle))


def _middle(a: Point, b: Point) -> Point:
    return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)


def place_of(joint: Joint, bones: Skeleton, discs: frozenset[str] = frozenset()) -> Point:
    """Where a joint lies on the bike, in millimetres; `discs` names the ends whose brake sits at the hub."""
    end, _, what = joint.name.partition("_")
    if end in ("front", "rear"):
        return _wheel_place(end, what, bones, end in discs)
    rear, bracket = bones["rear_axle"], bones["bracket"]
    places: dict[str, Point] = {
        "shifting": (rear[0] + 35, rear[1] - 150),
        "cassette": rear,
        "chain": (_middle(rear, bracket)[0], _middle(rear, bracket)[1] + 80),
        "rings": (bracket[0] + 60, bracket[1] + 60),
        "bracket": bracket,
        "headset": bones["head_bottom"],
        "fork": _middle(bones["crown"], bones["front_axle"]),
        "steerer": bones["steerer_top"],
        "bar": bones["bar"],
        "post": bones["collar"],
        "saddle": bones["rail"],
        "shock": _middle(bracket, bones["collar"]),
    }
    return places[joint.name]


def _wheel_place(end: str, what: str, bones: Skeleton, disc: bool) -> Point:
    front = end == "front"
    axle = bones[f"{end}_axle"]
    radius = bones.front_radius_mm if front else bones.rear_radius_mm
    bsd = bones.front_bsd_mm if front else bones.rear_bsd_mm
    if what == "tyre":
        return _polar(axle, radius - 15, 20 if front else 160)
    if what == "spokes":
        return _polar(axle, bsd * 0.32, 290 if front else 250)
    if what == "lever":
        return (bones["bar"][0] + 60, bones["bar"][1] + (20 if front else -60))
    if what == "brake":
        over = bones["crown"] if front else bones["collar"]
        angle = math.degrees(math.atan2(over[1] - axle[1], over[0] - axle[0]))
        return _polar(axle, 90, 148 if front else 42) if disc else _polar(axle, bsd / 2, angle)
    return axle
