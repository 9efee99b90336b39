"""What is said of each joint of one bike, and where the joints lie on the drawing."""

from __future__ import annotations

import math
from collections.abc import Iterable

from attrs import frozen

from unkett.core.bike.skeleton import Point, Skeleton
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.rules.joints import JOINTS, Joint


def joint_of(finding: Finding) -> Joint:
    """Return the joint that a finding speaks of."""
    return JOINTS[finding.joint]


def of_page(findings: Iterable[Finding], page: str) -> list[Finding]:
    """Return the findings whose joint is shown on a page of the work."""
    return [finding for finding in findings if JOINTS[finding.joint].page == page]


@frozen(kw_only=True)
class Judged:
    """A joint of one bike with what is said of it, worst first."""

    joint: Joint
    findings: tuple[Finding, ...]

    @property
    def verdict(self) -> Verdict:
        return worst([finding.verdict for finding in self.findings])

    @property
    def count(self) -> int:
        """How many findings ask for work."""
        return sum(finding.verdict is not Verdict.GOES for finding in self.findings)


def judged(findings: Iterable[Finding]) -> list[Judged]:
    """The joints something is said of, worst first, then in the order of the work."""
    by_name: dict[str, list[Finding]] = {}
    for finding in findings:
        by_name.setdefault(joint_of(finding).name, []).append(finding)
    found = [Judged(joint=JOINTS[name], findings=tuple(by_name[name])) for name in JOINTS if name in by_name]
    return sorted(found, key=lambda judged_joint: judged_joint.verdict.order)


def _polar(centre: Point, radius: float, angle_deg: float) -> Point:
    angle = math.radians(angle_deg)
    return (centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle))


def _middle(a: Point, b: Point) -> Point:
    return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)


def point_of(joint: Joint, bones: Skeleton, discs: frozenset[str] = frozenset()) -> Point:
    """Return where a joint lies on the bike, in millimetres; `discs` names the ends whose brake sits at the hub."""
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
        "captain_bracket": bones.points.get("front_bracket", (bracket[0] + 120, bracket[1])),
        "motor": (bracket[0] + 30, bracket[1] - 60),
        "frame": _middle(bones["head_top"], bracket),
        "headset": bones["head_bottom"],
        "fork": _middle(bones["crown"], bones["front_axle"]),
        "steerer": bones["steerer_top"],
        "bar": bones["bar"],
        "post": bones["collar"],
        "saddle": bones["rail"],
        "shock": _middle(bracket, bones["collar"]),
        "shift_lines": _middle(bones["head_bottom"], bracket),
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
    if what == "line":
        return _middle(bones["bar"], bones["crown"]) if front else _middle(bones["head_top"], bones["collar"])
    if what == "brake":
        over = bones["crown"] if front else bones["collar"]
        angle = math.degrees(math.atan2(over[1] - axle[1], over[0] - axle[0]))
        return _polar(axle, 90, 148 if front else 42) if disc else _polar(axle, bsd / 2, angle)
    return axle
