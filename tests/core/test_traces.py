"""What a calculation shows of its way is what it answers; what a No-go names as its way out is one."""

import math

import pytest

from tests.cases import Case, each
from tests.cases.all import CASES
from tests.core.calc_examples import GOOD
from unkett.core.build import Build, part_attrs_for
from unkett.core.calc.base import TraceLine
from unkett.core.calc.chain import simple_formula_links
from unkett.core.calc.chainline import first_sprocket
from unkett.core.calc.climbing import steady_speed
from unkett.core.calc.gears import gear_table, overlapping
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.calc.wear import _fieller
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from, stored_part
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.vocabulary import describe

PLAIN = ("==", ">=", "<=", "in", "has", "max<=", "max>=", "min>=", "min<=")


def test_what_a_trace_shows_is_the_answer() -> None:
    """A line of a trace that bears the name of a figure shows that figure."""
    seen = 0

    def examine(row) -> None:
        nonlocal seen
        name, inputs = row
        result = CALCULATIONS[name].run(inputs)
        for line in result.trace:
            answer = getattr(result, line.name, None)
            if isinstance(answer, (int, float)) and not isinstance(answer, bool) and line.value is not None:
                seen += 1
                assert line.value == pytest.approx(answer, rel=1e-9, abs=1e-9), line.name

    each(GOOD.items(), examine)
    assert seen >= len(GOOD)


def _changed(build: Build, way) -> Build | None:
    """The bike with what a way out asks for; None where it asks for a part, or in a way not tried here."""
    slot, attr, op, value = way["slot"], way["attr"], way["op"], way["value"]
    part = build.filled().get(slot)
    if part is None or op not in PLAIN or slot not in build.parts:
        return None
    attrs = dict(part.attrs)
    has = attrs.get(attr)
    if op in ("==", ">=", "<="):
        attrs[attr] = value
    elif op == "in":
        attrs[attr] = next(iter(value))
    elif op == "has":
        attrs[attr] = [*(has if isinstance(has, (list, tuple)) else [has] if has is not None else []), value]
    else:
        cap = min if op.endswith("<=") else max
        attrs[attr] = sorted(cap(one, value) for one in has)
    try:
        attrs[attr] = describe(slot, attr).type.check(attrs[attr], attr)
        made = stored_part(part.kind, part.name, attrs, part.also)
        assert part_attrs_for(slot, made)[attr] == attrs[attr]
    except (InputError, AssertionError, KeyError):
        return None
    return build.with_part(slot, made)


# a way out that asks for another part, of which more than this one figure is another
MORE = {
    ("click-count", "differ"): "its teeth are other ones too",
    ("click-count", "differ_usable"): "its teeth are other ones too",
    ("click-count", "electronic_differ"): "its teeth are other ones too",
    ("ring-mount", "other_mount"): "the other rings stay on the old circle",
    ("bb-width", "squeezed"): "no spacer is left to take out: the cups are others",
    ("rim-brake-room", "tyre"): "the measured height is another tyre's",
    ("rotor-thickness", "caliper"): "the measured thickness is another rotor's",
    ("tyre-clearance", "no_room"): "the measured width is another tyre's",
    ("caliper-mount", "lowers"): "the plate's rotor is another one",
    ("caliper-mount", "no_way"): "the plate and the rotor are other ones",
    ("dropper-control", "battery"): "a rigid post has no travel",
    ("spoke-length", "off"): "the other side's spokes are off too",
    ("belt-drive", "derailleur"): "no derailleur at all",
    ("linkage-bearing", "other"): "another linkage lists its pivots anew",
    ("linkage-bearing", "sort"): "another linkage lists its pivots anew",
}


def test_a_way_out_leads_out_of_the_no_go_that_names_it() -> None:
    """Whoever does what it says, to the very figure, is not told the same again."""
    tried, more = set(), set()

    def examine(case: Case) -> None:
        for finding in _no_gos(case):
            for way in finding.ways_out:
                other = _changed(case.build, way)
                if other is None:
                    continue
                tried.add(case.rule)
                again = [one for one in _no_gos(case, other) if one.joint == finding.joint]
                if any(one.key == finding.key for one in again):
                    more.add((case.rule, finding.key))
                    assert (case.rule, finding.key) in MORE, way

    each([case for case in CASES if case.verdict == "no_go"], examine)
    assert len(tried) > 60
    assert more == set(MORE)


def _no_gos(case: Case, build: Build | None = None) -> list[Finding]:
    found = check(case.build if build is None else build).findings
    return [one for one in found if one.rule == case.rule and one.verdict is Verdict.NO_GO]


# slope², less noise / spread, is 0 with slope 2, spread 1 and noise 4; half of b is slope × lack, c lack² − noise / n
FIELLER = [
    ({"slope": 2, "lack": -3, "noise": 4, "count": 4, "spread": 1, "at": 1.5}, (8 / 12, None)),
    ({"slope": 2, "lack": 3, "noise": 4, "count": 4, "spread": 1, "at": -1.5}, (None, -8 / 12)),
    ({"slope": 1, "lack": 0.1, "noise": 4, "count": 4, "spread": 1, "at": -0.1}, (None, None)),
    # a = 1 − 0.25, half b = −3, c = 9 − 0.25: roots (3 ± √(9 − 0.75 × 8.75)) / 0.75
    (
        {"slope": 1, "lack": -3, "noise": 1, "count": 4, "spread": 4, "at": 3},
        ((3 - math.sqrt(2.4375)) / 0.75, (3 + math.sqrt(2.4375)) / 0.75),
    ),
    # a = 1 − 4 = −3, half b = −3, c = 9 − 1 = 8: roots (3 ± √33) / −3; the branch that holds 3 begins at the larger
    (
        {"slope": 1, "lack": -3, "noise": 4, "count": 4, "spread": 1, "at": 3},
        ((3 - math.sqrt(33)) / -3, None),
    ),
    (
        {"slope": 1, "lack": 3, "noise": 4, "count": 4, "spread": 1, "at": -3},
        (None, (math.sqrt(33) - 3) / -3),
    ),
]


def test_bounds_of_a_forecast_by_hand() -> None:
    def examine(row) -> None:
        given, (low, high) = row
        found = _fieller(**given)
        assert found == tuple(None if one is None else pytest.approx(one) for one in (low, high))

    each(FIELLER, examine)


def run(name: str, **given):
    return CALCULATIONS[name].run({**GOOD[name], **given})


def test_edges_of_calculations_by_hand() -> None:
    """What is allowed to the very figure, and what a reading may be off beyond what was read."""
    assert run("torque_target", low_nm=5, high_nm=5).target_nm == 5
    assert run("sag", full_mm=50, sag_mm=50).sag_pct == 100
    assert (
        run("next_pressure", pressure_bar=10, full_mm=50, sag_mm=1, target_pct=20, reading_mm=2).low_bar == 0
    )
    scale = {"mass_from_kg": 70, "mass_to_kg": 90, "pressure_bar": 12, "rate_n_mm": None}
    reached = run("setup_scale", **scale).pressure_bar
    assert run("setup_scale", **scale, max_bar=reached).over_max is False
    assert run("setup_scale", **scale, max_bar=reached - 0.01).over_max is True
    little = {
        "mass_from_kg": 250,
        "mass_to_kg": 10,
        "bike_sprung_kg": 0,
        "pressure_bar": 0.5,
        "rate_n_mm": None,
    }
    assert run("setup_scale", **little).pressure_bar == 0
    assert overlapping((100.0, 103.0, 106.2)) == (True, True, False)  # 3 % and 3.1 %
    assert steady_speed(drag=0.2, resist=-50, power=0) == pytest.approx(math.sqrt(250))
    # 2 × 432 / 25.4 + 40 / 4 + 42 / 4 + 1 = 55.5, so 56 inches
    assert simple_formula_links(chainstay_mm=432, ring=40, sprocket=42) == 112
    lone = run("chainline", front_mm=[45, 52], chainrings=[34, 50], sprockets=[16])
    assert len(lone.angles) == 2


@pytest.mark.parametrize("beside", [{"links": 24}, {"measured_mm": 305.0}])
def test_a_chain_is_gauged_or_measured_not_both(beside) -> None:
    with pytest.raises(InputError, match="one of the two ways"):
        CALCULATIONS["chain_wear"].run({"gauge_pct": 0.5, **beside})


@pytest.mark.parametrize(("first", "last"), [(30, 200), (200, 30)])
def test_a_bend_too_wide_for_its_run_is_named(first, last) -> None:
    """A radius of 40 takes 40 mm of both runs; the only bend there is, is the second point."""
    given = {"points_mm": [[0, 0, 0], [first, 0, 0], [first, last, 0]], "radius_mm": 40}
    with pytest.raises(InputError, match=r"points_mm\[1\]"):
        CALCULATIONS["line_path"].run(given)


def test_a_gear_names_the_hubs_own_only_where_there_is_one() -> None:
    plain = run("gears").to_json()["gears"]
    assert [set(gear) & {"hub_gear"} for gear in plain] == [set()] * len(plain)
    geared = gear_table(
        chainrings=(40,), sprockets=(20,), circumference_mm=2100, crank_mm=170, cadence_rpm=80,
        first=TraceLine("circumference_mm", 2100, "mm", "measured"), hub_ratios=(0.75, 1.0, 1.36),
    ).to_json()["gears"]  # fmt: skip
    assert [(gear["hub_gear"], gear["ratio"]) for gear in geared] == [(1, 1.5), (2, 2.0), (3, 2.72)]


def test_more_edges_by_hand() -> None:
    assert first_sprocket(axle_kind="thru", spacing_mm=142) > first_sprocket(axle_kind="thru", spacing_mm=141)
    assert first_sprocket(axle_kind="solid", spacing_mm=142) == first_sprocket(
        axle_kind="thru", spacing_mm=135
    )
    # 0.31 / 0.2 = 1.55 shims: two; 0.29 / 0.2 = 1.45: one; a tie to fewer
    for behind, count in ((9.69, 2), (9.71, 1), (9.7, 1)):
        assert run("rotor_shims", planes_mm={"x": 10.0, "y": behind}).shims == {"x": 0, "y": count}
    assert run("rotor_shims", planes_mm={"x": 10.0, "y": 9.3}, shim_mm=0.1).caution  # 0.7 mm
    assert not run("rotor_shims", planes_mm={"x": 10.0, "y": 9.4}, shim_mm=0.1).caution
    posts = [
        {"travel_mm": 125, "stack_mm": 180, "body_mm": 250},
        {"travel_mm": 125, "stack_mm": 185, "body_mm": 250},
    ]
    assert run("dropper_fit", travels=posts).best.stack_mm == 180  # of two alike the first


# rule, message, the parts that say so, and what another part would have to be: an operator and a figure
WAYS = [
    ("rotor-thickness", "caliper", {"front_rotor": {"thickness_mm": 2.3}}, ("<=", 2.0)),
    ("rotor-thickness", "caliper", {"front_rotor": {"thickness_mm": 1.5}}, (">=", 1.75)),
    (
        "front-derailleur",
        "no_cup",
        {"front_derailleur": {"mount": "bb_plate"}, "frame": {"bb_shell": "bb86", "fd_mount": "band_34_9"}},
        ("==", "band_34_9"),
    ),
    (
        "front-derailleur",
        "no_cup",
        {"front_derailleur": {"mount": "bb_plate"}, "frame": {"bb_shell": "bb86"}},
        ("==", "braze_on"),
    ),
]


def test_what_another_part_would_have_to_be() -> None:
    """The figure and on which side of it, by hand."""

    def examine(row) -> None:
        rule, key, parts, (op, value) = row
        parts = {"front_caliper": {"rotor_thickness_mm": [1.75, 2.0]}, **parts}
        build = build_from({"parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}})
        found = [one for one in check(build).findings if (one.rule, one.key) == (rule, key)]
        assert [(way["op"], way["value"]) for one in found for way in one.ways_out] == [(op, value)]

    each(WAYS, examine)
