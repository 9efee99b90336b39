"""A plan's changes laid over the bike: the frame turns once, for every page, and a wheel is laced again."""

import math

import pytest

from tests.core.test_skeleton import bike
from unkett.core.bike.overlay import left_over, with_changes
from unkett.core.bike.skeleton import skeleton, skeleton_of_plan
from unkett.core.build import Part
from unkett.core.check.engine import check
from unkett.core.formats.reader import build_from
from unkett.core.panels import PAGES, handling_sheet
from unkett.core.settings import DEFAULTS
from unkett.core.vocabulary import SLOTS


def fork(**attrs) -> Part:
    return Part(kind="fork", attrs={"axle_to_crown_mm": 395, "offset_mm": 45, **attrs})


def test_another_fork_gives_one_head_angle_everywhere() -> None:
    now = bike()
    then = with_changes(now, {"fork": fork(axle_to_crown_mm=415)})
    # 20 mm longer at 72°: atan(20 sin 72 / (1000 + 20 cos 72)) = 1.0830°
    turn = math.degrees(math.atan2(20 * math.sin(math.radians(72)), 1000 + 20 * math.cos(math.radians(72))))
    head = 72 - turn
    assert then.parts["frame"].attrs["head_angle_deg"] == pytest.approx(head)
    assert skeleton_of_plan(now, then).head_angle_deg == pytest.approx(head)
    assert handling_sheet(then).value("head") == pytest.approx(head)
    (swap,) = [one for one in PAGES["steering"].compares(now, then) if one.name == "fork_swap"]
    assert swap.value("head") == pytest.approx(head)
    assert swap.value("trail") == pytest.approx(handling_sheet(then).value("trail"))
    assert then.parts["frame"].attrs["seat_angle_deg"] == pytest.approx(73 - turn)
    # √(20 sin 72² + (1000 + 20 cos 72)²) from axle to axle, level again
    assert then.parts["frame"].attrs["wheelbase_mm"] == pytest.approx(1006.360, abs=1e-3)
    drawn = skeleton_of_plan(now, then)
    assert drawn["front_axle"][0] - drawn["rear_axle"][0] == pytest.approx(1006.360, abs=1e-3)
    assert drawn["front_axle"][1] == pytest.approx(drawn["rear_axle"][1])
    assert drawn["bracket"][1] - skeleton(now)["bracket"][1] == pytest.approx(swap.value("rise"))


def test_a_smaller_front_wheel_alone_steepens_the_bike() -> None:
    now = bike()
    small = with_changes(now, {"front_rim": Part(kind="rim", attrs={"bsd_mm": 584})})
    # the front axle comes down by 19 mm over 1000
    assert small.parts["frame"].attrs["head_angle_deg"] == pytest.approx(72 + math.degrees(math.asin(0.019)))
    both = with_changes(small, {"rear_rim": Part(kind="rim", attrs={"bsd_mm": 584})})
    assert both.parts["frame"].attrs["head_angle_deg"] == pytest.approx(72)
    assert both.parts["frame"].attrs["wheelbase_mm"] == pytest.approx(1000)


def test_what_is_not_measured_turns_nothing() -> None:
    for now in (bike(frame={"head_angle_deg": None}), bike(frame={"wheelbase_mm": None})):
        bare = {name: value for name, value in now.parts["frame"].attrs.items() if value is not None}
        now = now.with_part("frame", Part(kind="frame", attrs=bare))
        assert with_changes(now, {"fork": fork(axle_to_crown_mm=415)}).parts["frame"].attrs == bare
    now = bike()
    unknown = Part(kind="fork", attrs={"offset_mm": 45})
    assert with_changes(now, {"fork": unknown}).parts["frame"].attrs == now.parts["frame"].attrs
    assert with_changes(now, {}) == now


WHEEL = {
    "rear_hub": {
        "holes": 32,
        "flange_pcd_left_mm": 45,
        "flange_offset_left_mm": 35,
        "flange_pcd_right_mm": 45,
        "flange_offset_right_mm": 20,
    },
    "rear_rim": {"bsd_mm": 622, "erd_mm": 600},
    "rear_spokes": {"crosses": 3, "length_left_mm": 293, "length_right_mm": 291},
}


def said(build):
    return next(
        one
        for one in check(build, DEFAULTS).findings
        if (one.rule, one.joint) == ("spoke-length", "rear_spokes")
    )


def test_another_hub_is_laced_anew() -> None:
    now = bike(**WHEEL)
    assert said(now).verdict.value == "goes"
    wide = {**WHEEL["rear_hub"], "flange_pcd_left_mm": 58, "flange_pcd_right_mm": 58}
    then = with_changes(now, {"rear_hub": Part(kind="hub", attrs=wide)})
    finding = said(then)
    assert finding.verdict.value == "goes_if"
    # √(300² + 29² + 35² − 17400 cos 67.5°) − 1.3 and the same with 20
    left, right = (
        math.sqrt(300**2 + 29**2 + w**2 - 2 * 300 * 29 * math.cos(math.radians(67.5))) - 1.3 for w in (35, 20)
    )
    sizes = [(one["what"], one.get("side"), one.get("size_mm")) for one in finding.needs]
    assert sizes == [
        ("spokes", "left", round(left, 1)),
        ("relace the wheel", None, None),
        ("spokes", "right", round(right, 1)),
    ]
    cut = Part(kind="spokes", attrs={"crosses": 3, "length_left_mm": 291, "length_right_mm": 289})
    assert (
        "to_lace"
        not in with_changes(now, {"rear_hub": Part(kind="hub", attrs=wide), "rear_spokes": cut})
        .parts["rear_spokes"]
        .attrs
    )


def drivetrain(rings, cogs=(11, 34), **more):
    found = {"chainrings": {"teeth": list(rings)}, "cassette": {"teeth": list(cogs)}, "rear_hub": {}}
    for slot in ("front_derailleur", "front_shifter", "front_shift_line"):
        found[slot] = {}
    for slot in ("rear_derailleur", "rear_shifter", "rear_shift_line"):
        found[slot] = {}
    return build_from({"parts": {slot: {"attrs": attrs} for slot, attrs in (found | more).items()}})


FRONT = ("front_derailleur", "front_shifter", "front_shift_line")
REAR = ("rear_derailleur", "rear_shifter", "rear_shift_line")


@pytest.mark.parametrize(
    ("changes", "spare"),
    [
        ({"chainrings": {"teeth": [40]}}, FRONT),
        ({"chainrings": {"teeth": [46, 30]}}, ()),
        ({"front_derailleur": None}, FRONT[1:]),
        ({"front_derailleur": {"mount": "braze"}}, ()),
        ({"chainrings": {"teeth": [40]}, "front_shifter": {"speeds": 1}}, (FRONT[0], FRONT[2])),
        ({"cassette": {"teeth": [18]}}, REAR),
        ({"cassette": {"teeth": [18]}, "rear_hub": {"internal_gears": 8}}, ()),
    ],
)
def test_what_a_change_leaves_without_use_comes_off(changes, spare) -> None:
    now = drivetrain([48, 36, 26])
    parts = {
        slot: None if attrs is None else Part(kind=SLOTS[slot].kind, attrs=attrs)
        for slot, attrs in changes.items()
    }
    assert left_over(now, with_changes(now, parts)) == spare


def test_a_bike_that_has_one_ring_already_keeps_its_cage_as_a_guide() -> None:
    now = drivetrain([40])
    assert (
        left_over(now, with_changes(now, {"chainrings": Part(kind="chainrings", attrs={"teeth": [38]})}))
        == ()
    )
