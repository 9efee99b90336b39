"""The bike's points and its side view: drawn lengths are the numbers, assumed ones are named."""

import math

import pytest

from unkett.core.bike.skeleton import bar_from_bracket, skeleton, skeleton_of_plan
from unkett.core.calc.gears import pitch_radius
from unkett.core.calc.geometry import fork_swap
from unkett.core.drawing.bicycle import Bicycle, Gear
from unkett.core.drawing.side import Bones, change_scene, drawn, view_of
from unkett.core.formats.reader import build_from
from unkett.core.scene import Circle, Path, Segment, Text

PARTS = {
    "frame": {
        "chainstay_mm": 430,
        "bb_drop_mm": 70,
        "head_angle_deg": 72,
        "seat_angle_deg": 73,
        "wheelbase_mm": 1000,
        "head_tube_length_mm": 140,
        "seat_tube_length_mm": 520,
    },
    "fork": {"axle_to_crown_mm": 395, "offset_mm": 45},
    "headset": {"stack_lower_mm": 10, "stack_upper_mm": 15},
    "spacers": {"below_mm": 20, "above_mm": 5},
    "stem": {"length_mm": 100, "angle_deg": -6, "clamp_height_mm": 40},
    "handlebar": {"shape": "drop"},
    "saddle": {"rail_height_mm": 48},
    "seatpost": {"diameter_mm": 27.2},
    "front_rim": {"bsd_mm": 622},
    "front_tyre": {"width_mm": 30},
    "rear_rim": {"bsd_mm": 622},
    "rear_tyre": {"width_mm": 30},
    "rear_rotor": {"diameter_mm": 160},
    "rear_caliper": {"type": "disc"},
    "chainrings": {"teeth": [46, 30]},
    "cassette": {"teeth": [11, 13, 15, 17, 20, 23, 26, 30, 34]},
    "rear_derailleur": {"capacity_teeth": 40},
    "crank": {"arm_mm": 170},
    "pedals": {"thread": "9_16"},
}


def bike(use="audax", without=(), **more):
    parts = {
        slot: {"attrs": {**PARTS.get(slot, {}), **more.get(slot, {})}}
        for slot in {*PARTS, *more} - set(without)
    }
    return build_from({"use": use, "rider": {"saddle_height_mm": 720}, "parts": parts})


def test_measured_lengths_stand_between_the_points() -> None:
    bones = skeleton(bike())
    assert bones.assumed == ()
    assert math.dist(bones["bracket"], bones["rear_axle"]) == pytest.approx(430)
    assert bones["rear_axle"][1] == pytest.approx(70)
    assert bones["front_axle"][0] - bones["rear_axle"][0] == pytest.approx(1000)
    assert bones["front_axle"][1] == pytest.approx(bones["rear_axle"][1])  # equal wheels, level axles
    assert math.dist(bones["head_top"], bones["head_bottom"]) == pytest.approx(140)
    assert math.dist(bones["head_bottom"], bones["crown"]) == pytest.approx(10)
    assert math.dist(bones["bracket"], bones["collar"]) == pytest.approx(520)
    assert math.dist(bones["bracket"], bones["saddle"]) == pytest.approx(720)
    top, bottom = bones["head_top"], bones["head_bottom"]
    assert math.degrees(math.atan2(top[1] - bottom[1], bottom[0] - top[0])) == pytest.approx(72)
    # axle to crown along the steerer and offset square to it: √(395² + 45²)
    assert math.dist(bones["crown"], bones["front_axle"]) == pytest.approx(math.hypot(395, 45))
    # top of the headset: 15 mm up the axis; the bar 100 sin 78° ahead less 40 cos 72° back along it
    headset = bones["headset_top"]
    assert bones["bar"][0] - headset[0] == pytest.approx(
        100 * math.sin(math.radians(78)) - 40 * math.cos(math.radians(72))
    )


def test_stack_and_reach_place_the_head_tube() -> None:
    bones = skeleton(bike(frame={"stack_mm": 590, "reach_mm": 390}))
    assert bones["head_top"] == (390, 590)


def test_what_is_not_measured_is_assumed_and_named() -> None:
    bones = skeleton(bike(without=("fork", "stem"), frame={"head_angle_deg": 71}))
    named = {(one.slot, one.attr) for one in bones.assumed}
    assert {("fork", "axle_to_crown_mm"), ("fork", "offset_mm"), ("stem", "length_mm")} <= named
    assert ("frame", "head_angle_deg") not in named
    bare = skeleton(build_from({"parts": {}}))
    assert ("frame", "chainstay_mm") in {(one.slot, one.attr) for one in bare.assumed}
    assert bare["front_axle"][1] - bare.front_radius_mm == pytest.approx(bare.ground_mm)


USES = ("road", "kids", "cargo", "fat", "tandem", "downhill")


@pytest.mark.parametrize("use", USES)
def test_every_kind_of_bike_stands_on_both_wheels(use) -> None:
    small = {"front_rim": {"attrs": {"bsd_mm": 406}}, "front_tyre": {"attrs": {"width_mm": 50}}}
    for parts in ({}, small, {**small, "rear_rim": {"attrs": {"bsd_mm": 559}}}):
        build = build_from({"use": use, "parts": parts})
        bones = skeleton(build)
        assert bones["front_axle"][1] - bones.front_radius_mm == pytest.approx(bones.ground_mm)
        assert bones["front_axle"][0] - bones.front_radius_mm > bones["rear_axle"][0]
        scene = drawn(Bones.of(build))
        for shape in scene.shapes:
            points = (
                shape.points
                if isinstance(shape, Path)
                else [shape.centre]
                if isinstance(shape, Circle)
                else []
            )
            for x, y in points:
                assert 0 <= x <= scene.width
                assert 0 <= y <= scene.height


def test_a_long_front_carries_its_load_between_rider_and_wheel() -> None:
    long = bike(use="cargo", frame={"wheelbase_mm": 1900}, front_rim={"bsd_mm": 406})
    bones = skeleton(long)
    assert bones["front_axle"][0] - bones["rear_axle"][0] == pytest.approx(1900)
    assert bones["front_axle"][1] - bones.front_radius_mm == pytest.approx(bones.ground_mm)
    assert math.dist(bones["crown"], bones["front_axle"]) == pytest.approx(math.hypot(395, 45))
    assert bones["bar"][0] < 700  # the rider reaches the bar
    assert bones["wheel_head_top"][0] > 1000
    tail = skeleton(bike(use="cargo", frame={"wheelbase_mm": 1400, "chainstay_mm": 750}))
    assert "wheel_head_top" not in tail.points  # a long tail steers as any other bike


def test_another_fork_turns_the_frame_as_the_calculation_says() -> None:
    now, then = bike(), bike(fork={"axle_to_crown_mm": 415, "offset_mm": 51})
    old, new = skeleton(now), skeleton_of_plan(now, then)
    swap = fork_swap(
        head_angle_deg=72, wheelbase_mm=1000, a2c_from_mm=395, a2c_to_mm=415, offset_from_mm=45, offset_to_mm=51,
        rear_centre_mm=math.sqrt(430**2 - 70**2), bb_drop_mm=70,
    )  # fmt: skip
    assert new.head_angle_deg == pytest.approx(swap.head_angle_deg)
    assert new["bracket"][1] - old["bracket"][1] == pytest.approx(swap.bb_rise_mm)
    # seen from the bracket everything turns back by the same angle: x' = x cos φ − y sin φ
    x, y, turn = old["bar"][0], old["bar"][1], math.radians(72 - new.head_angle_deg)
    forward, up = bar_from_bracket(now, then)
    assert forward == pytest.approx(x * math.cos(turn) - y * math.sin(turn) - x)
    assert up == pytest.approx(x * math.sin(turn) + y * math.cos(turn) - y)
    assert new["front_axle"][1] == pytest.approx(new["rear_axle"][1])


def test_smaller_wheels_lower_the_bracket() -> None:
    small = {end: {"bsd_mm": 584} for end in ("front_rim", "rear_rim")}
    old, new = skeleton(bike()), skeleton_of_plan(bike(), bike(**small))
    assert new["bracket"][1] - old["bracket"][1] == pytest.approx(-19)  # (622 − 584) / 2


def circles(scene, role):
    return [shape for shape in scene.shapes if isinstance(shape, Circle) and shape.role == role]


def test_drawn_sizes_are_the_real_ones() -> None:
    build = bike()
    scene, bones = drawn(Bones.of(build), Gear(ring=46, sprocket=20)), skeleton(build)
    scale = view_of(bones).scale
    assert {round(one.radius / scale, 3) for one in circles(scene, "side-tyre")} == {341}
    assert {round(one.radius / scale, 3) for one in circles(scene, "side-rotor")} == {80}
    rings = sorted(one.radius / scale for one in circles(scene, "side-cog"))
    assert rings == pytest.approx(sorted(pitch_radius(teeth) for teeth in (46, 30, 11, 34)))
    chain = next(shape for shape in scene.shapes if isinstance(shape, Path) and shape.role == "side-chain")
    view = view_of(bones)
    for name, teeth in (("bracket", 46), ("rear_axle", 20)):
        nearest = min(math.dist(point, view.at(bones[name])) for point in chain.points)
        assert nearest == pytest.approx(pitch_radius(teeth) * scale)
    wheelbase = next(s for s in scene.shapes if isinstance(s, Text) and s.text.startswith("wheelbase"))
    assert wheelbase.text == "wheelbase 1000"
    assert not [
        shape
        for shape in scene.shapes
        if "guess" in shape.role and "cog" not in shape.role and "tube" not in shape.role
    ]


def test_guards_droppers_motors_and_gear_hubs_are_drawn_where_they_are() -> None:
    plain = drawn(Bones.of(bike()))
    assert not [one for one in plain.shapes if one.role == "side-guard"]
    build = bike(
        rear_mudguard={"width_mm": 45},
        seatpost={"dropper_travel_mm": 100},
        rear_hub={"internal_gears": 8},
        motor={"type": "mid_bracket"},
    )
    scene, bones = drawn(Bones.of(build)), skeleton(build)
    view = view_of(bones)
    (guard,) = [one for one in scene.shapes if one.role == "side-guard"]
    rear = view.at(bones["rear_axle"])
    assert {round(math.dist(point, rear) / view.scale, 6) for point in guard.points} == {341 + 12}
    (stanchion,) = [one for one in scene.shapes if one.role == "side-stanchion"]
    assert max(
        math.dist(a, b) for a in stanchion.points for b in stanchion.points
    ) / view.scale == pytest.approx(math.hypot(100, 27.2 - 4), abs=1e-6)
    hubs = {round(one.radius / view.scale, 6) for one in circles(scene, "side-hub")}
    assert hubs >= {22, 46, 62}


def test_only_what_a_plan_changes_is_emphasised() -> None:
    scene = drawn(Bones.of(bike(), bike(stem={"length_mm": 70})))
    new = {shape.role for shape in scene.shapes if shape.role.endswith(" new")}
    assert new == {"side-tube new", "side-bar new", "side-hub new"}
    same = drawn(Bones.of(bike(), bike()))
    assert not [shape for shape in same.shapes if shape.role.endswith((" new", " was"))]


def test_the_bars_way_is_drawn_and_said() -> None:
    scene = change_scene(bike(), bike(stem={"length_mm": 70}))
    moves = next(shape for shape in scene.shapes if isinstance(shape, Segment) and shape.role == "moves")
    scale = view_of(skeleton(bike())).scale
    assert math.dist(moves.start, moves.end) == pytest.approx(30 * scale)
    says = next(shape.text for shape in scene.shapes if shape.role == "moves-text")
    assert says == "from the bracket: bar 29 back, 6 down"  # 30 mm along 12° over level: 29.3 back, 6.2 down


def test_a_tandem_is_drawn_with_both_cranks_and_the_chain_between() -> None:
    build = build_from({"use": "tandem", "parts": {"crank": {"attrs": {"arm_mm": 170}}, "frame": {}}})
    shapes = Bicycle(build, skeleton(build), None).elements()["crank"]
    timing = next(shape for shape in shapes if shape.role.startswith("side-timing"))
    across = [x for x, _ in timing.points]
    arms = [shape for shape in shapes if shape.role == "side-behind"]
    assert max(across) - min(across) == pytest.approx(
        720 + 2 * pitch_radius(36), abs=0.1
    )  # level, round both rings
    assert sorted(round(arm.points[0][0]) for arm in arms) == [0, 720]
