"""The joints: every rule speaks of one, every joint lies on the bike, marks never cover each other."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_skeleton import bike
from unkett.core.bike.skeleton import skeleton
from unkett.core.check.engine import check
from unkett.core.check.joint_verdicts import JOINTS, joint_of, judged, point_of
from unkett.core.check.next_measure import next_measures
from unkett.core.drawing.marks import _apart, with_joints
from unkett.core.drawing.side import Bones, drawn, view_of
from unkett.core.formats.reader import build_from
from unkett.core.panels import PAGES
from unkett.core.rules import RULES
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Mark
from unkett.core.vocabulary import SLOTS


def test_every_joint_has_its_page_and_every_page_its_joints() -> None:
    assert {joint.page for joint in JOINTS.values()} == set(PAGES)
    assert {site.joint for rule in RULES.values() for site in rule.sites} == set(JOINTS)


def full() -> object:
    """A bike with a part in every slot, nothing of it measured but what the side view needs."""
    return build_from({"parts": {slot: {"attrs": {}} for slot in SLOTS}})


def test_a_finding_is_at_the_end_of_the_parts_it_looked_at() -> None:
    for finding in check(full()).findings:
        name = joint_of(finding).name
        ends = {
            slot.split("_")[0]
            for slot in finding.slots
            if SLOTS[slot].kind not in ("rear_derailleur", "front_derailleur")
        } & {"front", "rear"}
        crosses = finding.rule == "light-supply"  # a rear light hangs on a dynamo in front
        if name.startswith(("front_", "rear_")) and not crosses:
            assert ends == {name.split("_")[0]} or not ends, finding


def test_every_joint_lies_on_its_part() -> None:
    build = bike()
    bones = skeleton(build)
    for joint in JOINTS.values():
        x, y = point_of(joint, bones, frozenset({"rear"}))
        assert (
            bones["rear_axle"][0] - bones.rear_radius_mm
            <= x
            <= bones["front_axle"][0] + bones.front_radius_mm
        )
        assert y >= bones.ground_mm
    assert point_of(JOINTS["bracket"], bones) == bones["bracket"]
    assert point_of(JOINTS["cassette"], bones) == bones["rear_axle"]
    for end in ("front", "rear"):
        axle = bones[f"{end}_axle"]
        radius = bones.front_radius_mm
        assert math.dist(point_of(JOINTS[f"{end}_tyre"], bones), axle) == pytest.approx(radius - 15)
        assert math.dist(point_of(JOINTS[f"{end}_brake"], bones), axle) == pytest.approx(311)  # on the rim
        assert math.dist(point_of(JOINTS[f"{end}_brake"], bones, frozenset({end})), axle) == pytest.approx(90)


@pytest.mark.parametrize(
    "build", [full(), bike(), bike(use="kids", without=("stem",))], ids=["empty", "audax", "kids"]
)
def test_marks_never_cover_each_other_and_lie_in_the_picture(build) -> None:
    found = judged(check(build).findings)
    bones = Bones.of(build)
    scene = with_joints(drawn(bones), found, bones)
    marks = [shape for shape in scene.shapes if isinstance(shape, Mark)]
    assert [mark.name for mark in marks] == [one.joint.name for one in found]
    for a, b in itertools.combinations(marks, 2):
        assert math.dist(a.at, b.at) >= a.reach + b.reach, (a.name, b.name)
    for mark in marks:
        assert mark.reach <= mark.at[0] <= scene.width - mark.reach
        assert mark.reach <= mark.at[1] <= scene.height - mark.reach
        assert mark.reach * 820 / scene.width >= 12  # 24 px across on a tablet held upright


@given(st.lists(st.tuples(st.floats(0, 1000), st.floats(0, 560)), min_size=1, max_size=22))
def test_any_marks_come_apart(homes) -> None:
    places = _apart(homes, [15.0] * len(homes), 1000, 560)
    for a, b in itertools.combinations(places, 2):
        assert math.dist(a, b) >= 30 - 1e-6


def test_a_free_mark_stays_on_its_joint() -> None:
    build = bike(
        without=[slot for slot in SLOTS if slot not in ("frame", "seatpost")],
        frame={"seat_tube_bore_mm": 27.2, "seat_tube_depth_mm": 300},
        seatpost={"min_insertion_mm": 80},
    )
    found = judged(check(build).findings)
    bones = Bones.of(build)
    scene = with_joints(drawn(bones), found, bones)
    mark = next(shape for shape in scene.shapes if isinstance(shape, Mark) and shape.name == "post")
    bones = skeleton(build)
    assert mark.at == pytest.approx(view_of(bones).at(bones["collar"]))
    assert mark.verdict == "goes"


def test_joints_come_worst_first_with_what_asks_for_work() -> None:
    found = judged(check(bike(chain={"links": 100})).findings)
    assert [one.verdict.order for one in found] == sorted(one.verdict.order for one in found)
    chain = next(one for one in found if one.joint.name == "chain")
    assert chain.verdict is Verdict.NO_GO
    assert chain.count == sum(one.verdict is not Verdict.GOES for one in chain.findings)


def test_the_reading_that_settles_most_comes_first() -> None:
    found = next_measures(check(full()).findings)
    ranks = [(-one.settles, not one.safety, -one.touches) for one in found]
    assert ranks == sorted(ranks)
    assert all(one.touches >= one.settles for one in found)
    first = found[0]
    alone = [
        f
        for f in check(full()).findings
        if f.verdict is Verdict.UNMEASURED
        and [(m["slot"], m["attr"]) for m in f.measure] == [(first.slot, first.attr)]
    ]
    assert len(alone) == first.settles
    assert next_measures(check(build_from({"parts": {}})).findings) == []
