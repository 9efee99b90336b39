"""The later calculations: values by hand or by a second method, and their properties."""

import itertools
import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.calc_examples import GOOD
from tests.depth import many
from unkett.core.calc.chain import belt_length
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.calc.wear import t_value
from unkett.core.errors import InputError


def run(name, **more):
    return CALCULATIONS[name].run({**GOOD[name], **more})


about = pytest.approx
BY_HAND = [
    # 24 × 12.7 = 304.8
    ("chain_wear", {}, {"elongation_pct": about(0.498688, abs=1e-6)}),
    ("chain_wear", {"measured_mm": 304.8}, {"elongation_pct": about(0, abs=1e-12)}),
    (
        "wear_forecast",
        {},
        {
            "slope_per_unit": about(0.0002),
            "reaches_limit_at": about(2500),
            "low": about(2500),
            "high": about(2500),
        },
    ),
    (
        "wear_forecast",
        {"readings": [[0, 0.0], [1000, 0.2]]},
        {"reaches_limit_at": about(2500), "low": None, "high": None},
    ),
    (
        "wear_forecast",
        {"readings": [[0, 0.1], [1, 0.1], [2, 0.1]]},
        {"slope_per_unit": 0, "reaches_limit_at": None, "low": None, "high": None},
    ),
    # (60.6 − 58.4)/2 = 1.1; 1.0 from stock, 1.5 left = 1.0 + 0.5; with a ring of 0.5 one 1.0
    (
        "crank_centring",
        {},
        {
            "drive_spacer_mm": about(1.1),
            "non_drive_spacer_mm": about(1.4),
            "drive_pieces": (1.0,),
            "non_drive_pieces": (1.0, 0.5),
            "left_over_mm": about(0, abs=1e-9),
            "arms_mm": (about(59.4), about(59.6)),
        },
    ),
    ("crank_centring", {"ring_range_mm": 0.5}, {"non_drive_pieces": (1.0,), "left_over_mm": about(0.5)}),
    # (63 − 58) / 2: all of it on the drive side, by the one spacer there is
    (
        "crank_centring",
        {"drive_mm": 58, "non_drive_mm": 63, "stock_mm": [2.5]},
        {
            "drive_spacer_mm": 2.5,
            "drive_pieces": (2.5,),
            "non_drive_pieces": (),
            "left_over_mm": about(0, abs=1e-9),
            "arms_mm": (60.5, 60.5),
        },
    ),
    (
        "crank_centring",
        {"stock_mm": None},
        {"drive_pieces": (), "non_drive_pieces": (), "left_over_mm": about(2.5)},
    ),
    (
        "crank_centring",
        {"drive_mm": 62},
        {"drive_spacer_mm": 0, "drive_pieces": (), "off_centre_mm": about(-0.7)},
    ),
    (
        "crank_centring",
        {"non_drive_mm": 70},
        {"drive_spacer_mm": about(2.5), "non_drive_spacer_mm": about(0)},
    ),
    ("bcd", {}, {"bcd_mm": about(129.98, abs=0.005)}),  # c / 0.58779
    ("bcd", {"neighbour_mm": 73.539, "bolts": 4}, {"bcd_mm": about(104.0, abs=0.001)}),
    ("rotor_gain", {}, {"torque_pct": about(12.5), "area_pct": about(26.5625)}),
    ("rotor_gain", {"track_mm": 1e-120}, {"torque_pct": about(12.5), "area_pct": about(12.5)}),
    # (180 − 14)/(160 − 14); 180² − 152² = 9296, 160² − 132² = 8176
    (
        "rotor_gain",
        {"track_mm": 14},
        {"torque_pct": about(13.69863, abs=1e-5), "area_pct": about(13.69863, abs=1e-5)},
    ),
    # 0.3 / 0.2 = 1.5 and 0.1 / 0.2 = 0.5: ties go to fewer
    (
        "rotor_shims",
        {},
        {
            "reference": "a",
            "shims": {"a": 0, "b": 1, "c": 0},
            "left_over_mm": {"a": 0, "b": about(0.1), "c": about(0.1)},
        },
    ),
    ("rotor_shims", {"planes_mm": {"x": 9.6, "y": 9}}, {"shims": {"x": 0, "y": 3}, "caution": None}),
    (
        "rotor_shims",
        {"planes_mm": {"x": 9.8, "y": 9}},
        {"shims": {"x": 0, "y": 4}, "caution": "0.8 mm of shims: look for a wrong end cap first"},
    ),
    ("rotor_shims", {"planes_mm": {"x": 9, "y": 9}}, {"reference": "x", "shims": {"x": 0, "y": 0}}),
    ("line_length", {}, {"housing_mm": 700, "bare_mm": 500, "hose_mm": 0, "inner_mm": 1310}),
    ("line_length", {"spare_mm": 20, "past_clamp_mm": 40}, {"inner_mm": 1320}),
    ("line_length", {"segments": [{"type": "hose", "length_mm": 900}]}, {"hose_mm": 900, "inner_mm": 0}),
    # √(100² + 200²) = 223.6068, √(100² + 150²) = 180.2776; rest + 30
    ("line_change", {}, {"change_mm": about(-13.3292, abs=1e-4), "new_mm": about(1186.6708, abs=1e-4)}),
    ("cut_list", {}, {"waste_mm": about(0)}),
    ("cut_list", {"kerf_mm": 1}, {"waste_mm": about(1000)}),  # 600 | 600 | 400 + 400
    (
        "cut_list",
        {"stock_mm": [{"length_mm": 1000, "count": 1}, {"length_mm": 1700}]},
        {"waste_mm": about(700)},
    ),
    ("spoke_length", {}, {"length_mm": about(292.919, abs=5e-4), "caution": None}),
    ("spoke_length", {"crosses": 0}, {"length_mm": about(278.399, abs=1e-3)}),  # √(277.5² + 35²) − 1.3
    ("tension_ratio", {}, {"left_to_right_pct": about(57.142857)}),
    (
        "wheel_swap",
        {},
        {
            "radius_change_mm": about(0),
            "circumference_change_pct": about(0),
            "reach_mm": None,
            "bb_height_mm": None,
        },
    ),
    (
        "wheel_swap",
        {"reach_now_mm": 50, "bb_height_mm": 280, "tyre_to_mm": 40},
        {"radius_change_mm": about(-7), "reach_mm": about(69), "bb_height_mm": about(273)},
    ),
    # √(420² − 70²) = 414.1256; √(585.8744² + 70²) = 590.0414; less 340, 170 and 90
    ("toe_room", {}, {"front_centre_mm": about(590.0414, abs=1e-4), "room_mm": about(-9.9586, abs=1e-4)}),
    (
        "toe_room",
        {"bb_drop_mm": 0, "shoe_mm": 80, "crank_mm": 150},
        {"front_centre_mm": about(580), "room_mm": about(10)},
    ),
    ("trail", {}, {"trail_mm": about(61.054, abs=5e-4)}),
    ("sag", {}, {"sag_pct": 25}),
    ("chain_wear", {"links": None, "measured_mm": None, "gauge_pct": 0.7}, {"elongation_pct": 0.7}),
    ("force_at_spanner", {}, {"force_n": about(133.333333), "weight_kg": about(13.596216)}),
    ("guide_shims", {}, {"shims": 3, "left_over_mm": about(0.1)}),
    ("guide_shims", {"gap_mm": 1.75}, {"shims": 3, "left_over_mm": about(0.25)}),  # a tie goes to fewer
    ("guide_shims", {"gap_mm": 1.76}, {"shims": 4, "left_over_mm": about(-0.24)}),
    ("guide_shims", {"gap_mm": 0.2}, {"shims": 0, "left_over_mm": about(0.2)}),
    ("guide_shims", {"gap_mm": 2.1, "shim_mm": 0.7}, {"shims": 3, "left_over_mm": about(0, abs=1e-9)}),
    ("torque_setting", {}, {"set_nm": about(34.285714)}),
    ("torque_setting", {"extension_mm": 0}, {"set_nm": 40}),
    ("torque_convert", {}, {"value": about(5.423272, abs=1e-6)}),
    ("torque_convert", {"value": 1, "from": "lbf_ft", "to": "lbf_in"}, {"value": about(12)}),
    ("torque_target", {}, {"target_nm": 6}),
    ("seat_angle", {"saddle_forward_mm": 0}, {"effective_deg": about(73)}),
    # H sin 73 = 669.413; H cos 73 − 30 = 174.660: atan = 75.38
    ("seat_angle", {}, {"effective_deg": about(75.3763, abs=1e-3)}),
    # cos 72 = 0.309017, sin 72 = 0.951057; along = 10 + 20
    (
        "fork_swap",
        {"head_angle_deg": 90, "a2c_from_mm": 400, "a2c_to_mm": 410},
        {
            "rotation_deg": about(0.572939, abs=1e-6),
            "head_angle_deg": about(89.427061, abs=1e-6),
            "seat_angle_deg": None,
            "trail_mm": None,
        },
    ),
]


@pytest.mark.parametrize(("name", "more", "expected"), BY_HAND, ids=str)
def test_by_hand(name, more, expected) -> None:
    result = run(name, **more)
    assert {key: getattr(result, key) for key in expected} == expected


# 80 × 9.80665 × (0.0995037 + 0.005 × 0.9950372) = 81.9666 N; 97 / 81.9666 = 1.18341 m/s without air
def test_climb_without_air() -> None:
    result = run("climb", cda_m2=0)
    assert result.speed_kmh == about(4.26028, abs=1e-4)
    assert result.cadence_rpm == about(35.5023, abs=1e-3)


@given(st.floats(40, 150), st.floats(0, 500), st.floats(-15, 20))
def test_climb_is_steady(mass, power, grade) -> None:
    """Second method: at the speed given the forces balance, and a little faster they hold back."""
    result = CALCULATIONS["climb"].run(
        {"mass_kg": mass, "power_w": power, "grade_pct": grade, "development_m": 4}
    )
    v = result.speed_kmh / 3.6
    theta = math.atan(grade / 100)

    def lack(speed):
        force = mass * 9.80665 * (math.sin(theta) + 0.005 * math.cos(theta)) + 0.5 * 1.2 * 0.4 * speed**2
        return force * speed - 0.97 * power

    assert lack(v) == about(0, abs=1e-5)
    assert lack(v + 0.1) > 0
    assert result.cadence_rpm == about(v * 15)


def test_downhill_without_power_rolls() -> None:
    # at 5 % the forces balance where ½·1.2·0.4·v² = 80·9.80665·(sin θ − 0.005·cos θ)
    v = math.sqrt(80 * 9.80665 * (math.sin(math.atan(0.05)) - 0.005 * math.cos(math.atan(0.05))) / 0.24)
    assert run("climb", power_w=0, grade_pct=-5).speed_kmh == about(v * 3.6)
    assert run("climb", power_w=0, grade_pct=5).speed_kmh == about(0, abs=1e-6)


@given(st.integers(28, 52), st.integers(11, 22), st.floats(390, 450), st.floats(1, 30), st.booleans())
def test_single_speed_options_are_tight(ring, sprocket, low, room, half) -> None:
    result = CALCULATIONS["single_speed_chain"].run(
        {
            "centre_mm_min": low,
            "centre_mm_max": low + room,
            "ring": ring,
            "sprocket": sprocket,
            "half_link": half,
        }
    )
    for one in result.options:
        assert belt_length(centre_mm=one.centre_mm, ring=ring, sprocket=sprocket) == about(
            one.links * 12.7, abs=1e-6
        )
        assert low - 1e-6 <= one.centre_mm <= low + room + 1e-6
        assert half or one.links % 2 == 0
    assert [one.links for one in result.options] == sorted(one.links for one in result.options)


# Student's t, two-sided 95 %, from the printed tables
@pytest.mark.parametrize(
    ("freedom", "value"), [(1, 12.706), (2, 4.303), (3, 3.182), (5, 2.571), (10, 2.228), (30, 2.042)]
)
def test_t_table(freedom, value) -> None:
    assert t_value(freedom) == about(value, abs=6e-4)


def test_fieller_against_the_confidence_band() -> None:
    """Second method: walk along x until the line's 95 % band holds the limit."""
    readings = [[0, 0.02], [500, 0.14], [1100, 0.22], [1600, 0.37], [2100, 0.41]]
    result = run("wear_forecast", readings=readings)
    n, t = 5, 3.18245
    mx = sum(x for x, _ in readings) / n
    my = sum(y for _, y in readings) / n
    sxx = sum((x - mx) ** 2 for x, _ in readings)
    slope = sum((x - mx) * (y - my) for x, y in readings) / sxx
    s = math.sqrt(sum((y - my - slope * (x - mx)) ** 2 for x, y in readings) / (n - 2))

    def held(x):
        return abs(my + slope * (x - mx) - 0.5) <= t * s * math.sqrt(1 / n + (x - mx) ** 2 / sxx)

    inside = [x for x in range(20000) if held(x)]
    assert result.low == about(inside[0], abs=1.5)
    assert result.high == about(inside[-1], abs=1.5)
    assert result.low < result.reaches_limit_at < result.high


def test_a_slope_lost_in_noise_has_an_open_side() -> None:
    result = run("wear_forecast", readings=[[0, 0.1], [1, 0.3], [2, 0.05], [3, 0.3]], limit=0.9)
    assert result.high is None


@pytest.mark.long
@settings(max_examples=many(12), deadline=None)
@given(st.lists(st.sampled_from([250, 400, 500, 600, 750]), min_size=1, max_size=5), st.sampled_from([0, 2]))
def test_cut_list_against_brute_force(pieces, kerf) -> None:
    """Second method: every way to share the pieces among bars, each bar the shortest that holds it."""
    stock = [1000, 1300]

    def bar(share):
        need = sum(share) + kerf * (len(share) - 1)
        return min((length for length in stock if length >= need), default=math.inf)

    best = math.inf
    for marks in itertools.product(range(len(pieces)), repeat=len(pieces)):
        shares = [[p for p, m in zip(pieces, marks, strict=True) if m == k] for k in set(marks)]
        best = min(best, sum(bar(share) for share in shares))
    result = CALCULATIONS["cut_list"].run(
        {"pieces_mm": pieces, "stock_mm": [{"length_mm": length} for length in stock], "kerf_mm": kerf}
    )
    assert result.waste_mm == about(best - sum(pieces))
    assert sorted(p for cut in result.cuts for p in cut.pieces_mm) == sorted(pieces)
    for cut in result.cuts:
        assert sum(cut.pieces_mm) + kerf * (len(cut.pieces_mm) - 1) <= cut.stock_mm


def test_bar_position_by_hand() -> None:
    out = run("bar_position", length_mm_to=80, angle_deg_to=6).to_json()
    # 100·sin 72 − 30·cos 72 = 85.8351; 100·cos 72 + 30·sin 72 = 59.4334
    assert out["from"] == {"forward_mm": about(85.8351, abs=1e-4), "up_mm": about(59.4334, abs=1e-4)}
    # 80·sin 66 − 9.2705 = 63.8131; 80·cos 66 + 28.5317 = 61.0706
    assert out["to"] == {"forward_mm": about(63.8131, abs=1e-4), "up_mm": about(61.0706, abs=1e-4)}
    assert out["change"]["forward_mm"] == about(63.8131 - 85.8351, abs=2e-4)


@given(
    st.floats(62, 76),
    st.floats(900, 1300),
    st.floats(-40, 60),
    st.floats(35, 55),
    st.floats(35, 55),
    st.floats(300, 370),
)
def test_fork_swap_by_turning_the_points(angle, base, longer, old, new, radius) -> None:
    """Second method: put the points down, lay the fork on, turn step by step until the axles are level."""
    result = CALCULATIONS["fork_swap"].run(
        {
            "head_angle_deg": angle, "seat_angle_deg": 73, "wheelbase_mm": base, "a2c_from_mm": 400,
            "a2c_to_mm": 400 + longer, "offset_from_mm": old, "offset_to_mm": new, "wheel_radius_mm": radius,
            "rear_centre_mm": 420, "bb_drop_mm": 60, "stack_mm": 600,
        }
    )  # fmt: skip
    ha = math.radians(angle)
    axle = (
        complex(base, 0)
        + longer * complex(math.cos(ha), -math.sin(ha))
        + (new - old) * complex(math.sin(ha), math.cos(ha))
    )
    low, high = -0.3, 0.3
    for _ in range(80):
        middle = (low + high) / 2
        if (axle * complex(math.cos(middle), math.sin(middle))).imag < 0:
            low = middle
        else:
            high = middle
    turned = complex(420, -60) * complex(math.cos(low), math.sin(low))
    assert math.radians(result.rotation_deg) == about(low, abs=1e-9)
    assert result.bb_rise_mm == about(turned.imag + 60, abs=1e-6)
    assert result.head_angle_deg == about(angle - math.degrees(low), abs=1e-7)
    assert result.reach_change_mm == about(-600 * math.sin(low), abs=1e-6)
    assert result.trail_mm == about(
        CALCULATIONS["trail"]
        .run({"wheel_radius_mm": radius, "head_angle_deg": result.head_angle_deg, "offset_mm": new})
        .trail_mm
    )


def test_dropper_fit_by_hand() -> None:
    result = run("dropper_fit")
    assert result.room_mm == 230  # 720 − 440 − 50; 170's stack of 235 is too much
    assert result.to_json()["best"] == {
        "travel_mm": 150,
        "stack_mm": 205,
        "body_mm": 280,
        "insertion_mm": 255,
        "raised_mm": 25,
    }
    assert run("dropper_fit", depth_mm=250).best.travel_mm == 125
    assert run("dropper_fit", depth_mm=100).best is None
    assert run("dropper_fit", min_insertion_mm=210).best.travel_mm == 150
    assert run("dropper_fit", min_insertion_mm=260).best is None


@given(
    st.floats(0, 200),
    st.sampled_from(["nm", "lbf_ft", "lbf_in", "kgf_cm"]),
    st.sampled_from(["nm", "lbf_ft", "lbf_in", "kgf_cm"]),
)
def test_torque_there_and_back(value, one, other) -> None:
    there = run("torque_convert", value=value, **{"from": one, "to": other}).value
    assert run("torque_convert", value=there, **{"from": other, "to": one}).value == about(value)


@given(
    st.floats(500, 640),
    st.floats(30, 110),
    st.floats(10, 50),
    st.sampled_from([24, 28, 32, 36]),
    st.integers(0, 4),
)
def test_more_crosses_never_shorten_a_spoke(erd, pcd, offset, spokes, crosses) -> None:
    assume((crosses + 1) * 720 / spokes < 100)
    fewer = run("spoke_length", erd_mm=erd, pcd_mm=pcd, offset_mm=offset, spokes=spokes, crosses=crosses)
    more = run("spoke_length", erd_mm=erd, pcd_mm=pcd, offset_mm=offset, spokes=spokes, crosses=crosses + 1)
    assert more.length_mm >= fewer.length_mm


BAD = [
    ("spoke_length", {"spokes": 28, "crosses": 4}, "crosses: 4 crosses with 28 spokes leave at 102.9°"),
    ("climb", {"cda_m2": 0, "grade_pct": -10}, "cda_m2: without air drag"),
    ("single_speed_chain", {"centre_mm_min": 80}, "centre_mm_min: 80 mm is too short"),
    ("single_speed_chain", {"centre_mm_max": 390}, "centre_mm_max: 390 mm is less"),
    ("wear_forecast", {"readings": [[1, 2], [1, 3]]}, "readings: at least two different x"),
    ("wear_forecast", {"readings": [[1, 2], [1]]}, "readings[1]: enter a pair"),
    ("rotor_gain", {"from_mm": 80, "track_mm": 40}, "track_mm: 40 mm is as high"),
    ("cut_list", {"stock_mm": [{"length_mm": 500}]}, "pieces_mm: these pieces cannot be cut"),
    ("cut_list", {"stock_mm": [{"length_mm": 1000, "count": 1}]}, "pieces_mm: these pieces cannot be cut"),
    (
        "line_change",
        {"from": {"lever_xy_mm": [1], "entry_xy_mm": [0, 0], "rest_mm": 1}},
        "from.lever_xy_mm: enter a pair",
    ),
    (
        "fork_swap",
        {
            "head_angle_deg": 90,
            "wheelbase_mm": 300,
            "offset_from_mm": 400,
            "offset_to_mm": 0,
            "a2c_to_mm": 995,
        },
        "a2c_to_mm: turns the head angle to",
    ),
    ("climb", {"cda_m2": 0, "crr": 0, "grade_pct": 0}, "cda_m2: without air drag"),
    ("toe_room", {"bb_drop_mm": 420}, "chainstay_mm: 420 given; more than the drop of 420"),
    ("toe_room", {"wheelbase_mm": 400}, "wheelbase_mm: 400 given; more than the 414"),
    ("chain_wear", {"gauge_pct": 0.5}, "gauge_pct: given beside links"),
    ("chain_wear", {"links": None}, "links: missing"),
    ("chain_wear", {"measured_mm": None}, "measured_mm: missing"),
    ("fork_swap", {"level_to_mm": 990, "wheelbase_mm": 900}, "level_to_mm: 990 mm given"),
    ("torque_target", {"low_nm": 8}, "low_nm: 8 is more"),
    ("sag", {"sag_mm": 130}, "sag_mm: 130 mm is more"),
    ("torque_convert", {"from": "lb_ft"}, "from: 'lb_ft' given"),
    ("rotor_shims", {"planes_mm": {}}, "planes_mm: {} given"),
]


@pytest.mark.parametrize(("name", "more", "says"), BAD, ids=str)
def test_bad_input_names_the_value(name, more, says) -> None:
    with pytest.raises(InputError) as caught:
        run(name, **more)
    assert says in str(caught.value)


def test_a_leaning_spoke_carries_a_caution() -> None:
    assert "caution" not in run("spoke_length").to_json()
    assert run("spoke_length", crosses=4).to_json()["caution"]  # 90°


def test_no_chain_in_use_is_so_long_and_it_is_asked() -> None:
    assert run("chain_wear", measured_mm=313.944).caution is None  # 304.8 × 1.03
    assert run("chain_wear", measured_mm=314.0).caution.startswith("really 3.0 %?")
    gauge = run("chain_wear", links=None, measured_mm=None, gauge_pct=4.5)
    assert gauge.elongation_pct == 4.5
    assert gauge.caution.startswith("really 4.5 %?")


def test_what_is_assumed_may_be_typed() -> None:
    # half the power lost: the same as half the power without a loss
    assert run("climb", efficiency=0.5).speed_kmh == about(
        run("climb", efficiency=1, power_w=GOOD["climb"]["power_w"] / 2).speed_kmh
    )
    assert run("climb", efficiency=0.97).speed_kmh == about(run("climb").speed_kmh)
    assert run("tyre_width", nominal_mm=28, inner_mm=25, share=0).estimate_mm == 28


def test_every_calculation_has_a_formula_and_a_reference() -> None:
    for one in CALCULATIONS.values():
        assert one.formula, one.name
        assert one.source not in ("", one.formula), one.name
