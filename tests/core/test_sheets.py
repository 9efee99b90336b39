"""Sheets and sections: what is drawn equals the number, and the number is the calculation's."""

import math

import pytest

from unkett.core.bike.figures import gears_of
from unkett.core.build import Part
from unkett.core.calc.gears import pitch_radius
from unkett.core.check.engine import check
from unkett.core.formats.reader import build_from
from unkett.core.panels import (
    PAGES,
    bracket_sheet,
    brake_sheet,
    chainline_sheet,
    handling_sheet,
    lever_sheet,
    seat_sheet,
    spokes_sheet,
    steering_sheet,
    wheel_sheet,
)
from unkett.core.scene import Box, Circle, Segment, Text
from unkett.core.settings import DEFAULTS, Settings

PARTS = {
    "frame": {
        "head_tube_length_mm": 140,
        "head_angle_deg": 72,
        "bb_shell_width_mm": 68,
        "chainstay_mm": 440,
        "tyre_max_mm": {"622": 40},
    },
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
}


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
    mark = shapes(sheet.scene, Segment, "cut-mark")[0]
    assert mark.start[0] - tube.corner[0] == pytest.approx(232 * scale)
    stack = sum(box.width for role in ("part", "part-other") for box in shapes(sheet.scene, Box, role))
    assert stack == pytest.approx(235 * scale)


def test_no_cut_is_marked_on_a_guess() -> None:
    for gone in ("below_mm", "above_mm"):
        sheet = steering_sheet(bike(spacers={gone: None}))
        assert [(one.slot, one.attr) for one in sheet.missing] == [("spacers", gone)]
        assert not sheet.can_cut
        assert sheet.scene is None
    none = steering_sheet(bike(spacers={"below_mm": 0, "above_mm": 0}))
    assert none.value("length") == 10 + 140 + 20 + 40 - 3
    assert none.can_cut


def test_an_adapter_of_unknown_size_puts_the_caliper_nowhere() -> None:
    plate = {"frame_side": "post", "caliper_side": "post", "native_mm": 160}
    assert brake_sheet(bike(), "front").value("place") == 160
    assert brake_sheet(bike(front_brake_adapter=plate), "front").value("place") is None
    assert brake_sheet(bike(front_brake_adapter={**plate, "rotor_mm": 180}), "front").value("place") == 180


def test_a_short_steerer_has_nothing_to_cut() -> None:
    sheet = steering_sheet(bike(fork={"steerer_length_mm": 217}))
    assert sheet.value("cut_off") == -15
    assert not shapes(sheet.scene, Box, "cut-off")


def test_the_tyre_is_as_wide_as_it_really_is() -> None:
    sheet = wheel_sheet(bike(), "rear")
    assert sheet.value("width") == pytest.approx(32.4)  # 30 + 0.4 × (25 − 19)
    assert sheet.value("gap") == pytest.approx(7.6)  # of the widest allowed, 40: no room beside it
    assert sheet.value("pressure") == 5
    for slot, attr in (
        ("rear_rim", "bead"),
        ("rear_rim", "pressure_max_bar"),
        ("rear_tyre", "pressure_max_bar"),
    ):
        open_sheet = wheel_sheet(bike(**{slot: {attr: None}}), "rear")
        (never,) = [one for one in open_sheet.numbers if one.name == "pressure"]
        assert (never.value, never.given) == (None, (slot, attr))  # half a limit is none
    circle = shapes(sheet.scene, Circle, "tyre")[0]
    walls = sorted(line.start[0] for line in shapes(sheet.scene, Segment, "limit"))
    assert (walls[1] - walls[0]) / (2 * circle.radius) == pytest.approx(40 / 32.4)
    tight = wheel_sheet(bike(frame={"tyre_max_mm": {"622": 31}}), "rear")
    assert len(shapes(tight.scene, Segment, "wall-over")) == 2


def test_rotor_pads_mount_and_limit_stand_at_their_radii() -> None:
    adapter = {"rotor_mm": 180, "native_mm": 160}
    sheet = brake_sheet(bike(front_brake_adapter=adapter, front_caliper={"pad_height_mm": 14}), "front")
    band = shapes(sheet.scene, Box, "rotor")[1]
    scale = band.width / 14  # the track is 14 mm high
    edge = band.corner[0] + band.width
    mount = shapes(sheet.scene, Segment, "mount")[0].start[0]
    assert edge - mount == pytest.approx(10 * scale)  # 160 and 180 across: 10 mm of radius
    limit = shapes(sheet.scene, Segment, "limit")[0].start[0]
    assert limit == pytest.approx(edge)
    pads = shapes(sheet.scene, Box, "pad")
    assert [pad.corner[0] + pad.width for pad in pads] == pytest.approx([edge, edge])
    lift = shapes(sheet.scene, Box, "adapter")[0]
    assert lift.width == pytest.approx(10 * scale)
    assert sheet.value("place") == 180
    assert sheet.value("step") is None  # what mount it is is not known
    wanted = [
        brake_sheet(bike(front_rotor={"diameter_mm": size}, fork={"brake_mount": "post"}), "front").value(
            "step"
        )
        for size in (160, 180, 203, 140)
    ]
    assert wanted == ["none", "+20", "+43", "none made"]
    assert sheet.value("torque") == pytest.approx(13.69863, abs=1e-5)
    assert shapes(brake_sheet(bike(front_rotor={"diameter_mm": 203}), "front").scene, Segment, "limit-over")
    assert brake_sheet(bike(), "rear") is None


def test_a_rotor_off_the_pads_shows_by_how_much() -> None:
    sheet = brake_sheet(
        bike(front_rotor={"diameter_mm": 203}, front_brake_adapter={"rotor_mm": 200, "native_mm": 160}),
        "front",
    )
    assert sheet.value("place") == 200
    assert "1.5 off" in [shape.text for shape in shapes(sheet.scene, Text, "note")]


def test_thickness_against_its_least() -> None:
    worn = brake_sheet(bike(front_rotor={"thickness_mm": 1.8, "measured_mm": 1.6}), "front")
    assert worn.value("least") == pytest.approx(1.5)  # 0.3 under new, assumed
    assert worn.value("left") == pytest.approx(0.1)
    assert next(one.origin for one in worn.numbers if one.name == "least") == "assumed"
    stamped = brake_sheet(bike(front_rotor={"thickness_min_mm": 1.55, "measured_mm": 1.6}), "front")
    assert next(one.origin for one in stamped.numbers if one.name == "least") == "computed"


def test_lever_line_and_caliper_stand_side_by_side() -> None:
    sheet = lever_sheet(
        bike(
            rear_brake_lever={"actuation": "cable", "cable_pull": "short"},
            rear_caliper={"actuation": "cable", "cable_pull": "long"},
            rear_brake_line={"type": "brake_housing", "turns_deg": [90, 90]},
        ),
        "rear",
    )
    rows = {row.title: row for row in sheet.grids[0].rows}
    assert rows["cable pull"].rule == "brake-cable-pull"
    assert rows["cable pull"].cells[0] != rows["cable pull"].cells[2]
    assert "fluid" not in rows
    assert sheet.value("turns") == 180
    assert sheet.value("loss_used") == pytest.approx(26.9597, abs=1e-3)  # 1 − e^(−0.1 π)
    assert lever_sheet(bike(), "front") is None


def test_bracket_lines_are_the_rules_figures() -> None:
    build = bike()
    sheet = chainline_sheet(build, DEFAULTS)
    assert sheet.value("first") == 63.0
    assert sheet.value("last") == pytest.approx(28.2)  # 63 − 8 × 4.35
    finding = next(f for f in check(build).findings if f.rule == "chain-angle")
    assert sheet.value("angle") == pytest.approx(finding.because["worst_deg"])
    cogs = shapes(sheet.scene, Segment, "sprocket")
    ring = shapes(sheet.scene, Segment, "ring")[0]
    centre = shapes(sheet.scene, Segment, "centre")[0].start[1]
    assert (centre - cogs[0].start[1]) / (centre - ring.start[1]) == pytest.approx(63.0 / 45.6)
    assert shapes(sheet.scene, Text, "note")
    table = sheet.grids[0]
    assert table.columns == tuple(map(str, PARTS["cassette"]["teeth"]))
    # atan((45.6 − 63.0) / 440) = −2.265°, atan((45.6 − 28.2) / 440) = +2.265°
    assert (table.rows[0].cells[0], table.rows[0].cells[-1]) == (-2.3, 2.3)


def test_a_lone_ring_on_a_crank_for_two_shows_both_seats() -> None:
    build = bike(crank={"chainline_mm": 46.5, "rings": 2})
    sheet = chainline_sheet(build, DEFAULTS)
    # sprockets stand at 63 and 28.2; inner seat 43, 20 of 440: 2.603°; outer 50, 21.8 of 440: 2.836°
    assert sheet.value("seat_inner") == pytest.approx(2.6026, abs=1e-4)
    assert sheet.value("seat_outer") == pytest.approx(2.8364, abs=1e-4)
    assert sheet.value("angle") == sheet.value("seat_inner")
    assert [one.title for one in sheet.numbers if one.name == "seat_inner"] == [
        "ring on the inner seat, 38/11, drawn here"
    ]
    (said,) = [one.says for one in check(build).findings if one.rule == "chain-angle"]
    assert said == "Chain angle 2.6° at most (38/11) with the ring on the inner seat."
    assert not any(one.name.startswith("seat") for one in chainline_sheet(bike(), DEFAULTS).numbers)


def test_the_section_across_the_bracket_is_to_scale() -> None:
    sheet = bracket_sheet(
        bike(
            bottom_bracket={"flanges_mm": 22, "spacers_mm": 5},
            crank={"spindle_needs_mm": 95.5, "q_mm": 170, "spindle": "d24", "preload_range_mm": 1.5},
        )
    )
    by_title = {shape.title: shape for shape in sheet.scene.shapes if isinstance(shape, Box)}
    shell = by_title["shell 68 mm"]
    scale = shell.width / 68
    assert by_title["cup 11 mm"].width == pytest.approx(11 * scale)
    assert by_title["spacers 2.5 mm a side"].width == pytest.approx(2.5 * scale)
    assert by_title["spindle"].height == pytest.approx(24 * scale)
    assert by_title["spindle"].width == pytest.approx(95.5 * scale)
    assert by_title["ring 38"].height == pytest.approx((pitch_radius(38) - 24) * scale)
    middle = shapes(sheet.scene, Segment, "centre")[0].start[0]
    ring = by_title["ring 38"]
    assert ring.corner[0] + ring.width / 2 - middle == pytest.approx(45.6 * scale)
    assert sheet.value("gap") == pytest.approx(0.5)  # 95.5 − 68 − 22 − 5
    assert sheet.value("spacers") == 0


def test_handling_and_seat() -> None:
    sheet = handling_sheet(
        bike(fork={"offset_mm": 47}, front_rim={"bsd_mm": 622}, front_tyre={"width_mm": 29})
    )
    assert sheet.value("trail") == pytest.approx(61.054, abs=1e-3)  # the worked value: R 340, 72°, 47
    seat = seat_sheet(
        build_from(
            {
                "rider": {"saddle_height_mm": 700},
                "parts": {
                    "frame": {"attrs": {"seat_tube_length_mm": 500, "seat_angle_deg": 73}},
                    "saddle": {"attrs": {"rail_height_mm": 50}},
                    "seatpost": {"attrs": {"length_mm": 350, "setback_mm": 20}},
                },
            }
        )
    )
    assert seat.value("room") == 150
    assert seat.value("insertion") == 200
    # atan2(700 sin 73°, 700 cos 73° + 20) = 71.448°
    assert seat.value("seat_angle") == pytest.approx(71.448, abs=1e-3)


def test_what_is_missing_is_named() -> None:
    bare = build_from({"parts": {}})
    for page in PAGES.values():
        for sheet in page.sheets(bare, DEFAULTS):
            assert sheet.missing
            assert sheet.scene is None
    fault = chainline_sheet(bike(frame={"chainstay_mm": 20}), DEFAULTS).fault
    assert "chainstay_mm" in fault


def test_spokes_by_side_rounded_down_to_stock() -> None:
    hub = {
        "spacing_mm": 135,
        "holes": 32,
        "flange_pcd_left_mm": 45,
        "flange_offset_left_mm": 35,
        "flange_offset_right_mm": 20,
    }
    sheet = spokes_sheet(bike(rear_hub=hub, rear_rim={"erd_mm": 600}, rear_spokes={"crosses": 3}), "rear")
    assert sheet.value("spoke_left") == pytest.approx(292.919, abs=5e-4)
    assert sheet.value("stock_left") == 292
    assert sheet.value("spoke_right") is None
    assert [one.attr for one in sheet.missing] == ["flange_pcd_right_mm"]
    assert sheet.value("tension") == pytest.approx(57.142857)  # 20 / 35
    # holes drilled 2 mm to the left of the rim's middle: 33 mm on the left instead of 35
    shifted = spokes_sheet(
        bike(rear_hub=hub, rear_rim={"erd_mm": 600, "drilling_offset_mm": 2}, rear_spokes={"crosses": 3}),
        "rear",
    )
    assert shifted.value("spoke_left") == pytest.approx(292.688, abs=1e-3)


def test_the_lacing_has_the_formulas_lengths() -> None:
    hub = {"holes": 32, "flange_pcd_right_mm": 45, "flange_offset_right_mm": 35}
    sheet = spokes_sheet(bike(rear_hub=hub, rear_rim={"erd_mm": 600}, rear_spokes={"crosses": 3}), "rear")
    rim = shapes(sheet.scene, Circle, "side-rim")[0]
    scale = rim.radius / 300
    drawn = [
        line for role in ("spoke", "spoke-back", "spoke-shown") for line in shapes(sheet.scene, Segment, role)
    ]
    assert len(drawn) == 16  # one side of 32
    for line in drawn:
        flat = math.dist(line.start, line.end) / scale
        assert math.hypot(flat, 35) - 1.3 == pytest.approx(292.919, abs=1e-3)
    ends = {(round(line.end[0], 3), round(line.end[1], 3)) for line in drawn}
    assert len(ends) == 16  # no two spokes in one rim hole


def test_another_wheel_size_says_all_that_moves() -> None:
    now = bike(
        frame={"bb_drop_mm": 70, "rear_bridge_radius_mm": 361, "tyre_max_mm": {"622": 40, "584": 50}},
        front_rim={"bsd_mm": 622},
        front_tyre={"width_mm": 30},
    )
    then = now.with_part("rear_rim", part("rim", bsd_mm=584, inner_width_mm=25))
    then = then.with_part("rear_tyre", part("tyre", width_mm=47))
    sheets = {sheet.name: sheet for sheet in PAGES["wheels"].compares(now, then)}
    assert set(sheets) == {"rear_swap"}
    swap = sheets["rear_swap"]
    assert swap.value("radius") == -2  # 292 + 47 − (311 + 30)
    assert swap.value("roll_out") == pytest.approx(-2 / 341 * 100)
    assert swap.value("reach") == pytest.approx(69)  # 361 − 292
    assert swap.value("height") == pytest.approx(269)  # 341 − 70 − 2
    assert swap.value("room") == 50
    assert PAGES["wheels"].compares(now, now) == []


def test_toe_and_tyre_meet_or_do_not() -> None:
    given = {
        "frame": {"wheelbase_mm": 1000, "chainstay_mm": 420, "bb_drop_mm": 70},
        "fork": {"offset_mm": 47},
        "front_rim": {"bsd_mm": 622},
        "front_tyre": {"width_mm": 29},
        "crank": {"arm_mm": 170},
    }
    now = bike(**given)
    sheet = handling_sheet(now)
    # front centre √((1000 − 414.1256)² + 70²) = 590.0414, less 340, 170 and the shoe's 90
    assert sheet.value("toe") == pytest.approx(-9.9586, abs=1e-4)
    assert "meet by 10 mm" in sheet.cautions[0]
    (swap,) = PAGES["wheels"].compares(now, now.with_part("front_tyre", part("tyre", width_mm=23)))
    assert swap.value("toe_now") == pytest.approx(-9.9586, abs=1e-4)
    assert swap.value("toe_then") == pytest.approx(-3.9586, abs=1e-4)
    assert not any(one.name == "height" for one in swap.numbers)  # the bracket hangs on the rear wheel
    short = handling_sheet(bike(**{**given, "crank": {"arm_mm": 145}}))
    assert short.value("toe") == pytest.approx(15.0414, abs=1e-4)
    assert short.cautions == ()
    for unknown in (
        {"crank": {}},
        {"front_rim": {"bsd_mm": 406}},
        {"frame": {**given["frame"], "chainstay_mm": 60}},
    ):
        sheet = handling_sheet(bike(**{**given, **unknown}))
        assert not any(one.name == "toe" for one in sheet.numbers), unknown


def test_a_larger_rotor_says_what_it_brings() -> None:
    then = bike(front_rotor={"diameter_mm": 203})
    (sheet,) = PAGES["brakes"].compares(bike(), then)
    assert sheet.value("torque") == pytest.approx((203 - 14) / (180 - 14) * 100 - 100)


GEOMETRY = {
    "frame": {
        "head_angle_deg": 72,
        "seat_angle_deg": 73,
        "wheelbase_mm": 1000,
        "stack_mm": 560,
        "reach_mm": 385,
        "bb_drop_mm": 70,
        "chainstay_mm": 430,
    },
    "fork": {"axle_to_crown_mm": 395, "offset_mm": 45},
    "front_rim": {"bsd_mm": 622},
    "front_tyre": {"width_mm": 30},
}


def test_another_fork_and_stem_before_and_after() -> None:
    now = bike(**GEOMETRY)
    then = bike(**{**GEOMETRY, "fork": {"axle_to_crown_mm": 415, "offset_mm": 45}, "stem": {"length_mm": 80}})
    sheets = {sheet.name: sheet for sheet in PAGES["steering"].compares(now, then)}
    assert set(sheets) == {"bar_position", "fork_swap"}
    # 20 mm longer at 72°: atan(20 sin 72 / (1000 + 20 cos 72)) = 1.0830°
    assert sheets["fork_swap"].value("head") == pytest.approx(72 - 1.0830, abs=2e-4)
    assert len(sheets["fork_swap"].cautions) == 1
    half = bike(**{**GEOMETRY, "fork": {"axle_to_crown_mm": 415}})
    (guessed,) = [one for one in PAGES["steering"].compares(now, half) if one.name == "fork_swap"]
    assert guessed.value("trail") is None
    assert guessed.cautions[1] == "The offsets are not both measured: taken as equal."
    assert sheets["bar_position"].value("forward") == pytest.approx(-20 * math.sin(math.radians(72)))
    assert PAGES["steering"].compares(now, now) == []
    for slot, attrs in (("spacers", {}), ("stem", {"angle_deg": 0})):
        odd = PAGES["steering"].compares(now, now.with_part(slot, part(slot, **attrs)))
        (sheet,) = [one for one in odd if one.name == "bar_position"]
        gone = "below_mm" if slot == "spacers" else "length_mm"
        assert [(one.slot, one.attr) for one in sheet.missing] == [(slot, gone)]  # no move from half a stack


def part(kind, **attrs):
    return Part(kind=kind, attrs=attrs)


def test_gears_in_the_hub_are_not_passed_off_as_the_table() -> None:
    build = bike(cassette={"teeth": [20]}, chainrings={"teeth": [40]}, rear_hub={"internal_gears": 9})
    figures = gears_of(build)
    assert figures.in_the_hub == 9
    assert "9 gears in the hub" in figures.assumed
    assert gears_of(bike()).in_the_hub == 0


def test_gears_of_a_hub_by_its_ratios() -> None:
    eight = {"cassette": {"teeth": [20]}, "chainrings": {"teeth": [38]}}
    usual = gears_of(bike(**eight, rear_hub={"internal_gears": 8}))
    table = usual.gears
    assert table is not None
    roll_out = table.circumference_mm / 1000
    assert len(table.gears) == 8
    assert usual.low_m == pytest.approx(38 / 20 * 0.527 * roll_out)  # at 2.1 m: 2.10
    assert usual.high_m == pytest.approx(38 / 20 * 1.615 * roll_out)  # at 2.1 m: 6.44
    assert table.range_pct == pytest.approx(306.45, abs=0.01)
    assert "usual hub with 8 gears" in usual.assumed
    assert table.gears[0].name == "38/20, hub gear 1"
    read = gears_of(bike(**eight, rear_hub={"internal_gears": 3, "ratios": [0.75, 1, 1.333]}))
    assert read.low_m == pytest.approx(38 / 20 * 0.75 * roll_out)
    assert "usual hub" not in read.assumed


@pytest.mark.parametrize(("limit", "loud"), [(1.5, 4), (2.0, 2), (2.7, 0)])
def test_a_sheet_judges_by_the_workshops_own_limit(limit, loud) -> None:
    """Nine sprockets of 4.35 mm about a ring in their middle at 440 mm: 2.265°, 1.699°, 1.133°, 0.566° on each side."""
    settings = Settings.of({"chain_angle_noisy_deg": limit})
    assert len(chainline_sheet(bike(), settings).grids[0].rows[0].loud) == loud
