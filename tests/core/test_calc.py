"""Calculations against values worked apart from the code, by a second method, and by their properties."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.calc_examples import GOOD
from unkett.core.calc.base import figures_of
from unkett.core.calc.bottom_bracket import spindle_choice
from unkett.core.calc.brakes import caliper_place
from unkett.core.calc.chain import belt_length, chain_length
from unkett.core.calc.gears import capacity, gears, index_error, overlapping, pitch_radius, smallest_ring
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError
from unkett.core.scene import Wheel, belt_round

RINGS = st.lists(st.integers(22, 56), min_size=1, max_size=3)
COGS = st.lists(st.integers(10, 51), min_size=1, max_size=13)


def outline(points) -> float:
    """Length of a closed run of straight strokes."""
    return sum(math.dist(a, b) for a, b in zip(points, (*points[1:], points[0]), strict=True))


# 432 mm, 40 × 42: R = 12.7 / (2 sin(π/40)) = 80.934 and 84.970; worked apart: 1385.248 and 1196.976 mm
def test_chain_length_of_the_worked_example() -> None:
    result = chain_length(chainstay_mm=432, chainrings=(40,), sprockets=(11, 42), capacity_teeth=39)
    assert result.big_big_mm == pytest.approx(1385.248, abs=5e-4)
    assert result.small_small_mm == pytest.approx(1196.976, abs=5e-4)
    assert (result.min_links, result.max_links, result.links) == (112, 116, 112)
    assert not result.window_empty
    # 2 × 432/25.4 = 34.016; + 10 + 10.5 + 1 = 55.516, up to 56 in = 112 links
    assert result.simple_formula_links == 112


CHAINS = [
    # capacity 29 under the 31 needed: no length serves both ends
    ({"capacity_teeth": 29}, {"links": None, "window_empty": True, "min_links": 112}),
    ({"capacity_teeth": 31}, {"links": 112, "max_links": 112, "window_empty": False}),
    ({"capacity_teeth": 34}, {"max_links": 112}),
    ({"capacity_teeth": 35}, {"max_links": 114}),
    ({}, {"max_links": None, "links": 112}),
    ({"extra_links": 4}, {"min_links": 114}),
    # 15 mm of growth lengthens both runs: 1415.2 mm = 111.4 links, 112 + 2
    ({"growth_mm": 15}, {"min_links": 114}),
]


@pytest.mark.parametrize(("more", "expected"), CHAINS, ids=str)
def test_chain_window(more, expected) -> None:
    result = chain_length(chainstay_mm=432, chainrings=(40,), sprockets=(11, 42), **more)
    assert {key: getattr(result, key) for key in expected} == expected


@given(st.floats(380, 600), st.integers(22, 56), st.integers(10, 51))
def test_belt_against_its_outline_drawn(stay, ring, cog) -> None:
    """Second method: the drawn outline, stroke by stroke."""
    wheels = (
        Wheel(centre=(0, 0), radius=pitch_radius(cog)),
        Wheel(centre=(stay, 0), radius=pitch_radius(ring)),
    )
    drawn = belt_round(wheels, step_deg=0.1)
    assert belt_length(centre_mm=stay, ring=ring, sprocket=cog) == pytest.approx(outline(drawn), rel=1e-6)


@given(st.floats(400, 600), RINGS, COGS, st.floats(0, 40))
def test_longer_stays_never_want_shorter_chains(stay, rings, cogs, more) -> None:
    short = chain_length(chainstay_mm=stay, chainrings=tuple(rings), sprockets=tuple(cogs))
    long = chain_length(chainstay_mm=stay + more, chainrings=tuple(rings), sprockets=tuple(cogs))
    assert long.min_links >= short.min_links
    assert short.min_links % 2 == 0
    assert short.min_links * 12.7 >= short.big_big_mm + 2 * 12.7 - 1e-6


# 700 × 28 by the usual rule: π × (622 + 56) = 2130.0 mm; 50/11 = 4.5455 -> 9.682 m; 34/28 -> 2.586 m
def test_gears_by_hand() -> None:
    result = gears(chainrings=(50, 34), sprockets=(11, 28), bsd_mm=622, tyre_mm=28, crank_mm=170)
    assert result.circumference_mm == pytest.approx(2130.0, abs=0.01)
    low, high = result.gears[0], result.gears[-1]
    assert (low.ring, low.sprocket) == (34, 28)
    assert low.development_m == pytest.approx(2.5864, abs=1e-4)
    assert high.development_m == pytest.approx(9.6818, abs=1e-4)
    assert high.gear_inches == pytest.approx(4.54545 * 678 / 25.4, abs=1e-3)
    assert high.gain == pytest.approx(4.54545 * 339 / 170, abs=1e-4)
    assert high.speed_kmh == pytest.approx(9.6818 * 90 * 60 / 1000, abs=1e-2)
    # 34/28 = 1.2143, 50/28 = 1.7857, 34/11 = 3.0909, 50/11 = 4.5455
    assert result.steps_pct == pytest.approx([47.0588, 73.0909, 47.0588], abs=1e-3)
    assert result.range_pct == pytest.approx(374.33, abs=0.01)


def test_equal_ratios_smaller_ring_first_and_no_gain_without_crank() -> None:
    result = gears(chainrings=(44, 22), sprockets=(11, 22), circumference_mm=2000)
    assert [(gear.ring, gear.sprocket) for gear in result.gears] == [(22, 22), (22, 11), (44, 22), (44, 11)]
    assert "gain" not in result.to_json()["gears"][0]


def test_a_given_roll_out_wins() -> None:
    assert (
        gears(
            chainrings=(40,), sprockets=(20,), circumference_mm=2100, bsd_mm=622, tyre_mm=28
        ).circumference_mm
        == 2100
    )


@given(RINGS, COGS, st.floats(1000, 2500), st.floats(1.01, 1.5))
def test_development_scales_with_the_wheel(rings, cogs, roll_out, factor) -> None:
    if roll_out * factor > 3500:
        return
    one = gears(chainrings=tuple(rings), sprockets=tuple(cogs), circumference_mm=roll_out)
    two = gears(chainrings=tuple(rings), sprockets=tuple(cogs), circumference_mm=roll_out * factor)
    for a, b in zip(one.gears, two.gears, strict=True):
        assert b.development_m == pytest.approx(a.development_m * factor)
    assert one.range_pct == pytest.approx(two.range_pct)
    assert all(step >= -1e-9 for step in one.steps_pct)


def test_capacity_by_hand() -> None:
    assert capacity(chainrings=(48, 38, 28), sprockets=(11, 34)).needed_teeth == 43  # 20 + 23
    assert capacity(chainrings=(40,), sprockets=(17,)).needed_teeth == 0


# the trade's list of smallest rings by bolt circle
@pytest.mark.parametrize(
    ("bcd", "teeth"), [(144, 41), (130, 38), (110, 33), (104, 32), (94, 29), (74, 24), (64, 22)]
)
def test_smallest_ring(bcd, teeth) -> None:
    assert smallest_ring(bcd_mm=bcd).teeth == teeth


def test_index_error_by_hand() -> None:
    # 8 clicks of 2.8 × 1.7 = 4.76 mm under nine sprockets at 4.35: + 0.41 a click
    result = index_error(
        pull_per_click_mm=2.8, shift_ratio=1.7, sprocket_pitch_mm=4.35, sprockets=9, clicks=8
    )
    assert result.travel_per_click_mm == pytest.approx(4.76)
    assert result.error_per_click_mm == pytest.approx(0.41)
    assert result.worst_from_small_mm == pytest.approx(2.87)
    assert result.worst_centred_mm == pytest.approx(1.435)
    assert (result.clean_gears, result.usable_gears) == (2, 3)  # 0, 0.41 | 0.82 | 1.23
    # a third of the other is the least: 4 for 12, three clicks of 0.1
    few = index_error(pull_per_click_mm=4.0, shift_ratio=1.0, sprocket_pitch_mm=3.9, sprockets=4, clicks=12)
    assert few.worst_from_small_mm == pytest.approx(0.3)


def test_index_error_limits_are_included() -> None:
    result = index_error(
        pull_per_click_mm=4.0, shift_ratio=1.0, sprocket_pitch_mm=3.9, sprockets=13, clicks=13
    )
    assert (result.clean_gears, result.usable_gears) == (
        6,
        13,
    )  # 0.1 a click: 0.5 after five, 1.2 after twelve


@given(st.floats(1, 5), st.floats(0.9, 2), st.floats(3, 6), st.integers(5, 13))
def test_index_error_is_symmetrical(pull, ratio, pitch, count) -> None:
    result = index_error(
        pull_per_click_mm=pull, shift_ratio=ratio, sprocket_pitch_mm=pitch, sprockets=count, clicks=count
    )
    assert result.worst_from_small_mm == pytest.approx(2 * result.worst_centred_mm)
    assert 1 <= result.clean_gears <= result.usable_gears <= count


# 135/2 − 4.5 = 63.0; second sprocket 58.65. 49 − 63 = −14: atan(−14/440) = −1.8224°
def test_chainline_by_hand() -> None:
    result = CALCULATIONS["chainline"].run(GOOD["chainline"])
    assert result.rear_mm == pytest.approx([63.0, 58.65])
    assert [one.offset_mm for one in result.angles] == pytest.approx([-14.0, -9.65])
    assert result.angles[0].angle_deg == pytest.approx(-1.8224, abs=1e-4)


@pytest.mark.parametrize(
    ("name", "data", "expected"),
    [
        ("crank_spacing", {}, {"gap_mm": 4, "spacers_mm": 3, "fits": True}),
        ("crank_spacing", {"spindle_needs_mm": 92}, {"gap_mm": 2, "spacers_mm": 0, "fits": True}),
        ("crank_spacing", {"spindle_needs_mm": 89}, {"gap_mm": -1, "spacers_mm": 0, "fits": False}),
        ("rotor_shift", {}, {"radial_mm": 10}),
        ("rotor_shift", {"to_mm": 140}, {"radial_mm": -10}),
        ("adapter", {}, {"step_mm": 20, "lift_mm": 10, "possible": True, "washers_mm": None}),
        (
            "adapter",
            {"native_mm": 200, "rotor_mm": 203},
            {"step_mm": 3, "possible": False, "washers_mm": 1.5},
        ),
        ("adapter", {"native_mm": 180, "rotor_mm": 160}, {"step_mm": -20, "possible": False}),
        ("adapter", {"rotor_mm": 203}, {"step_mm": 43, "lift_mm": 21.5, "possible": True}),
        ("rim_brake_reach", {}, {"reach_mm": 50}),
        (
            "line_drag",
            {},
            {
                "total_deg": 180,
                "ratio": pytest.approx(0.82820, abs=1e-5),
                "loss_pct": pytest.approx(17.180, abs=1e-3),
            },
        ),
        ("tyre_width", {}, {"estimate_mm": pytest.approx(32.4)}),
        ("tyre_width", {"nominal_mm": 23, "inner_mm": 15}, {"estimate_mm": 23}),
        ("tyre_width", {"nominal_mm": 24, "inner_mm": 17}, {"estimate_mm": 24}),
        ("tyre_width", {"nominal_mm": 70, "inner_mm": 35}, {"estimate_mm": 72}),
        ("tyre_pressure_limit", {}, {"max_bar": 5.5}),
        ("tyre_pressure_limit", {"bead": "hookless"}, {"max_bar": 5.0}),
        ("tyre_pressure_limit", {"rim_bar": None, "tyre_bar": None}, {"max_bar": None}),
        ("steerer_cut", {}, {"length_mm": 232, "cut_off_mm": None}),
        ("steerer_cut", {"steerer_mm": 260}, {"cut_off_mm": 28}),
        ("steerer_cut", {"steerer_mm": 217, "clearance_mm": 3}, {"cut_off_mm": -15}),
    ],
    ids=str,
)
def test_by_hand(name, data, expected) -> None:
    result = CALCULATIONS[name].run({**GOOD[name], **data})
    assert {key: getattr(result, key) for key in expected} == expected


# the usual conversions: 630 -> 622 wants 4 mm more, 622 -> 584 19 mm more, 559 -> 584 12.5 mm less
@pytest.mark.parametrize(("old", "new", "more"), [(630, 622, 4), (622, 584, 19), (559, 584, -12.5)])
def test_reach_on_another_rim(old, new, more) -> None:
    data = {"reach_now_mm": 50, "bsd_from_mm": old, "bsd_to_mm": new}
    assert CALCULATIONS["rim_brake_reach"].run(data).reach_mm == pytest.approx(50 + more)


@given(st.lists(st.floats(0, 180), min_size=1, max_size=6), st.floats(0.01, 0.2))
def test_bends_multiply(turns, mu) -> None:
    whole = CALCULATIONS["line_drag"].run({"turns_deg": turns, "mu": mu}).ratio
    one_by_one = math.prod(
        CALCULATIONS["line_drag"].run({"turns_deg": [turn], "mu": mu}).ratio for turn in turns
    )
    assert whole == pytest.approx(one_by_one)


BAD = [
    (
        "chain_length",
        {"chainstay_mm": 160, "chainrings": [40], "sprockets": [11, 42]},
        "chainstay_mm: 160 mm is too short",
    ),
    ("chain_length", {"chainstay_mm": 432, "chainrings": [40]}, "sprockets: missing"),
    (
        "chain_length",
        {"chainstay_mm": 432, "chainrings": [40], "sprockets": [11], "chain": 1},
        "chain: unknown",
    ),
    (
        "chain_length",
        {"chainstay_mm": 432, "chainrings": [40], "sprockets": [11], "extra_links": 1},
        "extra_links: 1",
    ),
    ("gears", {"chainrings": [40], "sprockets": [11]}, "circumference_mm: missing"),
    ("gears", {"chainrings": [40], "sprockets": [11], "bsd_mm": 622}, "tyre_mm: missing"),
    ("gears", {"chainrings": [40], "sprockets": [11], "tyre_mm": 28}, "bsd_mm: missing"),
    ("gears", {"chainrings": [], "sprockets": [11], "bsd_mm": 622, "tyre_mm": 28}, "chainrings: []"),
    (
        "index_error",
        {
            "pull_per_click_mm": 3.5,
            "shift_ratio": 1.1,
            "sprocket_pitch_mm": 3.9,
            "sprockets": 3,
            "clicks": 11,
        },
        "sprockets: 3 sprockets for 11 clicks",
    ),
    (
        "index_error",
        {
            "pull_per_click_mm": 3.5,
            "shift_ratio": 1.1,
            "sprocket_pitch_mm": 3.9,
            "sprockets": 13,
            "clicks": 4,
        },
        "sprockets: 13 sprockets for 4 clicks",
    ),
    ("capacity", {"chainrings": [40], "sprockets": ["11"]}, "sprockets[0]: '11' given"),
    (
        "chainline",
        {
            "front_mm": [49, 42],
            "spacing_mm": 135,
            "sprocket_pitch_mm": 4.35,
            "sprockets": [11],
            "chainrings": [38],
            "chainstay_mm": 440,
        },
        "front_mm: 2 lines for 1 rings",
    ),
    ("adapter", {"mount": "flat", "native_mm": 160, "rotor_mm": 180}, "mount: 'flat' given"),
    ("rim_brake_reach", {"bridge_radius_mm": 361, "bsd_mm": 622, "reach_now_mm": 50}, "not both"),
    ("rim_brake_reach", {"reach_now_mm": 50, "bsd_from_mm": 630}, "bsd_to_mm: missing"),
    ("rim_brake_reach", {}, "bridge_radius_mm: missing"),
    ("smallest_ring", [], "an object of inputs allowed"),
]


@pytest.mark.parametrize(("name", "data", "says"), BAD, ids=str)
def test_bad_input_names_the_value(name, data, says) -> None:
    with pytest.raises(InputError) as caught:
        CALCULATIONS[name].run(data)
    assert says in str(caught.value)


def test_every_calculation_has_a_good_example() -> None:
    assert set(GOOD) == set(CALCULATIONS)


@pytest.mark.parametrize("name", sorted(GOOD))
def test_a_result_carries_format_and_trace(name) -> None:
    out = CALCULATIONS[name].run(GOOD[name]).to_json()
    assert out["format"] == "unkett.calc/1"
    assert out["trace"]
    assert all(set(step) == {"name", "value", "unit", "formula"} for step in out["trace"])


def ranges():
    """Every number or whole input with its declared limits."""
    for name, one in CALCULATIONS.items():
        for given_ in one.inputs:
            kind = getattr(given_.type, "item", given_.type)
            if hasattr(kind, "low") and type(given_.type).__name__ != "ByName":
                yield name, given_.name, kind, hasattr(given_.type, "item")


@pytest.mark.parametrize(("name", "field", "kind", "listed"), list(ranges()), ids=str)
def test_both_sides_of_every_range(name, field, kind, listed) -> None:
    for value in (kind.low - 1, kind.high + 1, math.nan, math.inf, True, "1"):
        with pytest.raises(InputError) as caught:
            CALCULATIONS[name].run({**GOOD[name], field: [value] if listed else value})
        assert any(fault.path.startswith(field) for fault in caught.value.faults)
    assert field in (CALCULATIONS[name].function.__doc__ or "")


SPINDLES = [
    # 47.5 to 45: 5 mm of spindle less, 108; the nearest usual one is 107, which brings 44.5
    ({"spindle_now_mm": 113, "chainline_now_mm": 47.5, "chainline_wanted_mm": 45}, (108, 107, 44.5, -0.5)),
    # half way between 110 and 113: the longer clears the stay
    (
        {"spindle_now_mm": 110, "chainline_now_mm": 45, "chainline_wanted_mm": 45.75, "stock_mm": (110, 113)},
        (111.5, 113, 46.5, 0.75),
    ),
    ({"spindle_now_mm": 118, "chainline_now_mm": 50, "chainline_wanted_mm": 50}, (118, 118, 50, 0)),
]


@pytest.mark.parametrize(("given", "expected"), SPINDLES)
def test_spindle_for_a_chainline(given, expected) -> None:
    found = spindle_choice(**given)
    assert (found.spindle_mm, found.choose_mm, found.chainline_mm, found.off_mm) == pytest.approx(expected)


PLACES = [
    ({"native_mm": 160, "adapter_rotor_mm": 180, "adapter_native_mm": 160}, 180),
    (
        {"native_mm": 180, "adapter_rotor_mm": 180, "adapter_native_mm": 160},
        200,
    ),  # lifts by 20 wherever it sits
    ({"native_mm": 160, "adapter_rotor_mm": None, "adapter_native_mm": None}, 160),
    ({"native_mm": None, "adapter_rotor_mm": 160, "adapter_native_mm": None}, 160),  # a stamped plate
    ({"native_mm": None, "adapter_rotor_mm": 180, "adapter_native_mm": 160}, None),
    ({"native_mm": None, "adapter_rotor_mm": None, "adapter_native_mm": None}, None),
]


@pytest.mark.parametrize(("given", "expected"), PLACES)
def test_where_the_caliper_is_put(given, expected) -> None:
    assert caliper_place(**given) == expected


def test_overlapping_gears() -> None:
    # 3 % over 2.00 is 2.06
    assert overlapping((2.0, 2.06, 2.2)) == (True, True, False)
    assert overlapping((2.0, 2.07, 2.2)) == (False, False, False)
    assert overlapping((2.0,)) == (False,)


def test_every_input_and_figure_is_named_and_no_two_alike() -> None:
    for name, calculation in CALCULATIONS.items():
        asked = [wanted.title for wanted in calculation.inputs]
        assert all(asked), name
        assert len(set(asked)) == len(asked), name
        error = figures_of(calculation.run(GOOD[name]))
        assert [one.name for one in error if not one.title] == []
        keys = set(calculation.run(GOOD[name]).to_json()) - {"format", "trace", "caution"}
        renamed = {"before": "from", "after": "to"} if name == "bar_position" else {}
        assert {renamed.get(one.name, one.name) for one in error} == keys, name


def test_a_figure_is_reported_in_the_unit_its_name_has() -> None:
    """House style: quantities carry their unit in their name; here it is declared beside it."""
    suffixes = {
        "mm": "_mm",
        "°": "_deg",
        "%": "_pct",
        "Nm": "_nm",
        "bar": "_bar",
        "links": "links",
        "km/h": "_kmh",
        "N/mm": "_n_mm",
    }
    for name, calculation in CALCULATIONS.items():
        for one in figures_of(calculation.run(GOOD[name])):
            own = max(
                (one_of for one_of in suffixes.values() if one.name.endswith(one_of)), key=len, default=""
            )
            for unit, suffix in suffixes.items():
                assert (one.unit == unit) == (own == suffix), (name, one.name, one.unit)
