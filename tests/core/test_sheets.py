"""Sheets and sections: what is drawn equals the number, and the number is the calculation's."""

import pytest

from unkett.core.build import build_from
from unkett.core.drawing.scene import Box, Circle, Line, Text
from unkett.core.engine import check
from unkett.core.sheets import PAGES, bracket_sheet, brake_sheet, steering_sheet, wheel_sheet

PARTS = {
    "frame": {"head_tube_length_mm": 140, "head_angle_deg": 72, "bb_shell_width_mm": 68, "chainstay_mm": 440, "tyre_max_mm": {"622": 40}},
    "fork": {"steerer_length_mm": 260, "native_rotor_mm": 160, "rotor_max_mm": 180},
    "headset": {"stack_lower_mm": 10, "stack_upper_mm": 20},
    "spacers": {"below_mm": 20, "above_mm": 5},
    "stem": {"clamp_height_mm": 40, "length_mm": 100, "angle_deg": 0},
    "crank": {"chainline_mm": 45.6},
    "chainrings": {"teeth": [38]},
    "cassette": {"speeds": 9, "teeth": [11, 13, 15, 17, 20, 23, 26, 30, 34], "mount": "spline9"},
    "rear_hub": {"spacing_mm": 135},
    "rear_rim": {"bsd_mm": 622, "inner_width_mm": 25, "bead": "hooked", "pressure_max_bar": 5},
    "rear_tyre": {"width_mm": 30, "pressure_max_bar": 6},
    "front_rotor": {"diameter_mm": 180, "track_mm": 14},
}  # fmt: skip


def bike(**more):
    parts = {slot: {"attrs": {**PARTS.get(slot, {}), **more.get(slot, {})}} for slot in {*PARTS, *more}}
    return build_from({"parts": parts})


def shapes(scene, kind, role):
    return [shape for shape in scene.shapes if isinstance(shape, kind) and shape.role == role]


def test_the_steerer_is_drawn_to_scale_with_its_cut() -> None:
    sheet = steering_sheet(bike())
    assert sheet.value("length") == 232  # 10 + 140 + 20 + 20 + 40 + 5 − 3
    assert sheet.value("cut_off") == 28
    # forward 100·sin 72 − (20 + 20)·cos 72 = 82.745, up 100·cos 72 + 40·sin 72 = 68.944
    assert sheet.value("bar_forward") == pytest.approx(82.745, abs=1e-3)
    assert sheet.value("bar_up") == pytest.approx(68.944, abs=1e-3)
    tube, over = shapes(sheet.scene, Box, "tube")[0], shapes(sheet.scene, Box, "cut-off")[0]
    scale = tube.width / 260
    assert over.width == pytest.approx(28 * scale)
    mark = shapes(sheet.scene, Line, "cut-mark")[0]
    assert mark.start[0] - tube.corner[0] == pytest.approx(232 * scale)
    stack = sum(box.width for role in ("part", "part-other") for box in shapes(sheet.scene, Box, role))
    assert stack == pytest.approx(235 * scale)


def test_a_short_steerer_has_nothing_to_cut() -> None:
    sheet = steering_sheet(bike(fork={"steerer_length_mm": 217}))
    assert sheet.value("cut_off") == -15
    assert not shapes(sheet.scene, Box, "cut-off")


def test_the_tyre_is_as_wide_as_it_really_is() -> None:
    sheet = wheel_sheet(bike(), "rear")
    assert sheet.value("width") == pytest.approx(32.4)  # 30 + 0.4 × (25 − 19)
    assert sheet.value("gap") == pytest.approx(3.8)
    assert sheet.value("pressure") == 5
    circle = shapes(sheet.scene, Circle, "tyre")[0]
    walls = sorted(line.start[0] for line in shapes(sheet.scene, Line, "wall"))
    assert (walls[1] - walls[0]) / (2 * circle.radius) == pytest.approx(40 / 32.4)
    tight = wheel_sheet(bike(frame={"tyre_max_mm": {"622": 31}}), "rear")
    assert len(shapes(tight.scene, Line, "wall-over")) == 2


def test_rotor_mount_and_limit_are_drawn_in_proportion() -> None:
    sheet = brake_sheet(bike(), "front")
    sizes = {
        role: shapes(sheet.scene, Circle, role)[0].radius
        for role in ("rotor", "native", "limit", "rotor-inner")
    }
    assert sizes["native"] / sizes["rotor"] == pytest.approx(160 / 180)
    assert sizes["limit"] == pytest.approx(sizes["rotor"])
    assert sizes["rotor-inner"] / sizes["rotor"] == pytest.approx((180 - 28) / 180)
    assert sheet.value("torque") == pytest.approx(13.69863, abs=1e-5)
    assert shapes(brake_sheet(bike(front_rotor={"diameter_mm": 203}), "front").scene, Circle, "limit-over")
    assert brake_sheet(bike(), "rear") is None


def test_bracket_lines_are_the_rules_figures() -> None:
    build = bike()
    sheet = bracket_sheet(build)
    assert sheet.value("first") == 63.0
    assert sheet.value("last") == pytest.approx(28.2)  # 63 − 8 × 4.35
    finding = next(f for f in check(build).findings if f.rule == "chain-angle")
    assert sheet.value("angle") == pytest.approx(finding.because["worst_deg"])
    cogs = shapes(sheet.scene, Line, "sprocket")
    ring = shapes(sheet.scene, Line, "ring")[0]
    centre = shapes(sheet.scene, Line, "centre")[0].start[1]
    assert (centre - cogs[0].start[1]) / (centre - ring.start[1]) == pytest.approx(63.0 / 45.6)
    assert shapes(sheet.scene, Text, "note")


def test_what_is_missing_is_named() -> None:
    bare = build_from({"parts": {}})
    for page in PAGES.values():
        for sheet in page.sheets(bare):
            assert sheet.missing
            assert sheet.scene is None
    fault = bracket_sheet(bike(frame={"chainstay_mm": 20})).fault
    assert "chainstay_mm" in fault


def test_pages_name_only_rules_there_are() -> None:
    from unkett.core.rules import RULES

    named = [rule for page in PAGES.values() for rule in page.rules]
    assert set(named) <= set(RULES)
    assert len(named) == len(set(named))


def test_spokes_by_side_rounded_down_to_stock() -> None:
    hub = {
        "spacing_mm": 135,
        "holes": 32,
        "flange_pcd_left_mm": 45,
        "flange_offset_left_mm": 35,
        "flange_offset_right_mm": 20,
    }
    sheet = wheel_sheet(bike(rear_hub=hub, rear_rim={"erd_mm": 600}, rear_spokes={"crosses": 3}), "rear")
    assert sheet.value("spoke_left") == pytest.approx(292.919, abs=5e-4)
    assert sheet.value("stock_left") == 292
    assert sheet.value("spoke_right") is None  # its hole circle is not measured
    assert sheet.value("tension") == pytest.approx(57.142857)  # 20 / 35
    # holes drilled 2 mm to the left of the rim's middle: 33 mm on the left instead of 35
    shifted = wheel_sheet(
        bike(rear_hub=hub, rear_rim={"erd_mm": 600, "drilling_offset_mm": 2}, rear_spokes={"crosses": 3}),
        "rear",
    )
    assert shifted.value("spoke_left") == pytest.approx(292.688, abs=1e-3)
