"""Unmarked parts: ranked, ruled out, and what to measure next. Typed units."""

import json
import math
import subprocess

import pytest
from hypothesis import given
from hypothesis import strategies as st

from unkett.core.drawing.cards import card_scene
from unkett.core.errors import InputError
from unkett.core.identify import SUBJECTS, expected, identify, identify_json, start_from
from unkett.core.scene import Circle, Segment
from unkett.core.units import PREFERRED, in_preferred, read_reading
from unkett.local.state import PROJECT

LEADERS = [
    ("bb_shell", {"bore_mm": 41.05, "width_mm": 91.6}, "bb86"),
    ("bb_shell", {"bore_mm": 41.22, "width_mm": 73.1}, "mid_bmx"),
    # a thread's bore is read on its crests: 1.37 in × 24 between 33.6 and 33.9
    ("bb_shell", {"bore_mm": 33.6, "width_mm": 68}, "bsa"),
    ("bb_shell", {"bore_mm": 34.8, "width_mm": 70}, "italian"),
    ("bb_shell", {"bore_mm": 33.9, "width_mm": 68, "pitch_mm": 1.058}, "bsa"),
    ("bb_shell", {"bore_mm": 33.9, "width_mm": 68, "pitch_mm": 1.0, "left_hand": 1}, "swiss"),
    ("bb_shell", {"bore_mm": 33.9, "width_mm": 68, "pitch_mm": 1.0, "left_hand": False}, "french"),
    ("freehub", {"stepped": True, "loose": True}, "step_thread_road"),
    ("freehub", {"splines": 8, "sprockets": 13}, "italic8_13"),
    ("freewheel_thread", {"diameter_mm": 34.75, "pitch_mm": 1.0}, "34.7 × 1.0, French"),
    ("freewheel_thread", {"diameter_mm": 34.9, "pitch_mm": 1.06, "lockring_step": 1}, "fixed_threaded"),
    ("axle", {"dia_mm": 14, "spacing_mm": 110}, "rear 14 × 110 solid"),
    ("steerer", {"steerer_mm": 31.75, "race_mm": 39.8}, "1 1/4 to 1 1/2 in"),
    ("chain", {"outer_width_mm": 8.8}, "1/8 in"),
    ("chain", {"inner_width_mm": 3.3}, "1/8 in"),
    ("axle_thread", {"diameter_mm": 10, "pitch_mm": 1.26}, "M10 × 1.25"),
    ("spoke", {"diameter_mm": 1.81, "bent": 0}, "1.8 straight pull"),
    ("hose", {"diameter_mm": 5.0, "coiled": 1}, "brake housing"),
    ("fluid", {"says_mineral": True}, "mineral"),
    ("rim_size", {"bsd_mm": 597}, "597"),
    ("seatpost", {"diameter_mm": 29.42}, "29.4"),
    ("bar_clamp", {"diameter_mm": 26.4}, "26.4"),
    ("spindle", {"diameter_mm": 24.0, "other_end_mm": 22.0}, "d24_22"),
    ("spindle", {"diameter_mm": 24.02}, "d24"),
    ("headset_bore", {"bore_mm": 41.92}, "IS42"),
    ("steerer", {"steerer_mm": 28.6, "race_mm": 39.8}, "1 1/8 to 1 1/2 in"),
    ("freehub", {"splines": 9, "length_mm": 36.7}, "spline9_road11"),
    ("freewheel_thread", {"diameter_mm": 30.0}, "bmx_threaded"),
    ("ring_bolt_circle", {"neighbour_mm": 76.4, "bolts": 5}, "130x5"),  # 130 × sin 36° = 76.41
    ("ring_bolt_circle", {"neighbour_mm": 73.5, "bolts": 4}, "104x4"),  # 104 × sin 45° = 73.54
    ("seatpost", {"diameter_mm": 27.15}, "27.2"),
    ("rim_size", {"bsd_mm": 584}, "584"),
    ("brake_mount", {"spacing_mm": 74.3}, "post"),
    ("sprocket_pitch", {"pitch_mm": 4.36, "speeds": 9}, "9"),
    ("pull_per_click", {"pull_mm": 2.51, "speeds": 9}, "ratio 1.7, 9"),
    ("rotor", {"diameter_mm": 180}, "180"),
]


@pytest.mark.parametrize(("kind", "measures", "code"), LEADERS, ids=str)
def test_the_leader(kind, measures, code) -> None:
    found = identify(kind=kind, measures=measures)
    assert found.ranked[0].code == code
    assert not found.ranked[0].misses


def test_between_two_it_says_what_to_measure() -> None:
    found = identify(kind="bb_shell", measures={"bore_mm": 41.1})
    assert {one.code for one in found.ranked[:2]} == {"bb86", "mid_bmx"}
    assert found.next == "width_mm"
    assert identify(kind="bb_shell", measures={"bore_mm": 41.1, "width_mm": 73}).next is None
    square = identify(kind="spindle", measures={"diameter_mm": 17.0, "splines": 0})
    assert {one.code for one in square.ranked[:2]} == {"square_jis", "square_iso"}
    assert square.next == "flat_mm"
    assert identify(kind="spindle", measures={"diameter_mm": 24.0}).next == "other_end_mm"
    assert identify(kind="bb_shell", measures={"bore_mm": 33.9, "width_mm": 68}).next == "left_hand"
    assert identify(kind="bb_shell", measures={"bore_mm": 33.9, "pitch_mm": 1.0}).next == "left_hand"
    assert identify(kind="freewheel_thread", measures={"pitch_mm": 1.058}).next == "lockring_step"


@pytest.mark.parametrize("kind", sorted(SUBJECTS))
def test_where_two_tie_something_parts_them(kind) -> None:
    sort = SUBJECTS[kind]
    for row in sort.rows:
        for measure in sort.measures:
            for value in expected(row, measure)[:1]:
                found = identify(kind=kind, measures={measure.name: value})
                tied = [one for one in found.ranked if not one.misses and one.score == found.ranked[0].score]
                assert len(tied) < 2 or found.next, (kind, row["code"], measure.name)


TOLERANCES = [
    ("freewheel_thread", "pitch_mm", 1.104, 1.102, "threaded"),  # 1.058 + 3 × 0.02
    ("shift_ratio", "ratio", 1.854, 1.852, "ratio 1.7, 9"),  # 1.7 + 3 × 3 %
    ("bb_shell", "bore_mm", 34.21, 34.19, "bsa"),  # 33.9 + 3 × 0.1
    ("spoke", "diameter_mm", 2.16, 2.14, "2.0 bent head"),
]


@pytest.mark.parametrize(("kind", "name", "out", "inside", "code"), TOLERANCES, ids=str)
def test_every_measure_has_its_own_tolerance(kind, name, out, inside, code) -> None:
    def misses(value):
        return next(
            one for one in identify(kind=kind, measures={name: value}).ranked if one.code == code
        ).misses

    assert misses(out) == (name,)
    assert misses(inside) == ()


def test_a_near_miss_says_how_near() -> None:
    found = identify(kind="bb_shell", measures={"bore_mm": 34.4, "width_mm": 68})
    near = next(one for one in found.ranked if one.code == "bsa")
    assert near.misses == ("bore_mm",)
    assert near.off == {"bore_mm": pytest.approx(0.5), "width_mm": 0}


def test_what_rules_a_standard_out() -> None:
    found = identify(kind="bb_shell", measures={"bore_mm": 41.05, "width_mm": 91.6}, tolerance_mm=0.1)
    misses = {one.code: one.misses for one in found.ranked}
    assert misses["mid_bmx"] == ("width_mm",)
    assert misses["bsa"] == ("bore_mm", "width_mm")
    assert "motor_cast" not in misses
    # (0.05/0.1)² + (0.1/0.1)²
    assert found.ranked[0].score == pytest.approx(1.25)


@pytest.mark.parametrize("kind", sorted(SUBJECTS))
def test_every_standard_is_found_by_its_own_figures(kind) -> None:
    sort = SUBJECTS[kind]
    for row in sort.rows:
        measures = {one.name: expected(row, one)[0] for one in sort.measures if expected(row, one)}
        if measures:
            found = identify(kind=kind, measures=measures)
            best = [one for one in found.ranked if one.score == found.ranked[0].score and not one.misses]
            assert row["code"] in {one.code for one in best}, (kind, row["code"])


@given(
    st.sampled_from(sorted(SUBJECTS)),
    st.dictionaries(st.text(max_size=9), st.floats() | st.text(max_size=3), max_size=3),
)
def test_any_readings_rank_or_are_refused(kind, measures) -> None:
    try:
        found = identify(kind=kind, measures=measures)
    except InputError as error:
        assert error.faults[0].path.startswith("measures")  # noqa: PT017 - either way is right
    else:
        assert found.ranked


BAD = [
    ([], "an object with kind"),
    ({"kind": "bb_shel", "measures": {"bore_mm": 41}}, 'did you mean "bb_shell"?'),
    ({"kind": "bb_shell"}, "measures: missing"),
    ({"kind": "bb_shell", "measures": {}}, "measures: nothing measured"),
    ({"kind": "bb_shell", "measures": {"bor_mm": 41}}, "measures.bor_mm: unknown"),
    ({"kind": "bb_shell", "measures": {"bore_mm": "41"}}, "measures.bore_mm: '41' given"),
    ({"kind": "bb_shell", "measures": {"bore_mm": 41}, "tolerance_mm": 0}, "tolerance_mm: 0 given"),
    ({"kind": "bb_shell", "measures": {"bore_mm": 41}, "tolerance": 1}, "tolerance: unknown"),
]


@pytest.mark.parametrize(("data", "says"), BAD, ids=str)
def test_bad_input(data, says) -> None:
    with pytest.raises(InputError) as caught:
        identify_json(data)
    assert says in str(caught.value)


def test_on_the_command_line() -> None:
    given_ = json.dumps(
        {"kind": "bb_shell", "measures": {"bore_mm": 41.05, "width_mm": 91.6}, "tolerance_mm": 0.1}
    )
    done = subprocess.run(
        [str(PROJECT / "unkett"), "identify", "-"], input=given_, text=True, capture_output=True, check=True
    )
    out = json.loads(done.stdout)
    assert out["format"] == "unkett.identify/1"
    assert set(out["ranked"][0]) == {"code", "score", "misses"}


TYPED = [
    ("34.9", "mm", 34.9),
    ("34,9", "mm", 34.9),
    ("73mm", "mm", 73),
    ("7.3 cm", "mm", 73),
    ('1 1/8"', "mm", 28.575),
    ("1-1/8 in", "mm", 28.575),
    ('7/8"', "mm", 22.225),
    ("5.5 Nm", "Nm", 5.5),
    ("48 in-lb", "Nm", 5.4232718),
    ("48 in lb", "Nm", 5.4232718),
    ("10 ft.lb", "Nm", 13.558179),
    ("80 psi", "bar", 5.5158058),
    ('15/16"', "mm", 23.8125),
    ("13/16 in", "mm", 20.6375),
    ("-15/16 in", "mm", -23.8125),
    ('11/16"', "mm", 17.4625),
    ("-3", "mm", -3),
    ("11", "", 11),
]


@pytest.mark.parametrize(("text", "unit", "value"), TYPED)
def test_typed_units(text, unit, value) -> None:
    assert read_reading(text, unit) == pytest.approx(value, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("", "mm"),
        ("wide", "mm"),
        ("5 Nm", "mm"),
        ("1/0", "mm"),
        ("1.5 1/8", "mm"),
        ("nan", "mm"),
        ("3 mm", ""),
    ],
)
def test_what_is_no_reading(text, unit) -> None:
    with pytest.raises(InputError):
        read_reading(text, unit)


@pytest.mark.parametrize("sort", SUBJECTS.values(), ids=lambda sort: sort.name)
def test_every_measure_has_its_place_on_the_card(sort) -> None:
    scene = card_scene(sort)
    numbers = {
        shape.title for shape in scene.shapes if isinstance(shape, Circle) and shape.role == "jaw-count"
    }
    assert numbers == {f"{n} {one.title.lower()}" for n, one in enumerate(sort.measures, start=1)}
    spanned = [one for one in sort.measures if not (one.counted or one.yes_no)]
    lines = [shape for shape in scene.shapes if isinstance(shape, Segment) and shape.role == "jaw-line"]
    assert len(lines) == len(spanned)
    for shape in scene.shapes:
        if isinstance(shape, Segment):
            assert 0 <= min(shape.start[0], shape.end[0]) <= max(shape.start[0], shape.end[0]) <= scene.width


def test_any_number_first() -> None:
    names = [one.sort.name for one in start_from(34.9)]
    assert {"seatpost", "freehub", "freewheel_thread"} <= set(names)
    assert start_from(27.2)[0].sort.name == "seatpost"
    assert {one.measure.name for one in start_from(203)} == {"diameter_mm"}
    assert start_from(3333) == ()
    scores = [one.matches[0].score for one in start_from(41.1)]
    assert scores == sorted(scores)
    with pytest.raises(InputError):
        start_from(math.nan)


SHOWN = [
    (25.4, "mm", {"mm": "in"}, (1.0, "in")),
    (5.423, "Nm", {"Nm": "lbf-in"}, (48.0, "lbf-in")),
    (40.0, "Nm", {"Nm": "lbf-ft"}, (29.5, "lbf-ft")),
    (5.0, "bar", {"bar": "psi"}, (72.52, "psi")),
    (80.0, "kg", {"kg": "lb"}, (176.37, "lb")),
    (100.0, "km/h", {"km/h": "mph"}, (62.14, "mph")),
    (34.9, "mm", {"bar": "psi"}, (34.9, "mm")),
    (72.0, "°", {"mm": "in"}, (72.0, "°")),
    (34.9, "mm", {"mm": "furlong"}, (34.9, "mm")),
]


@pytest.mark.parametrize(("value", "unit", "chosen", "expected"), SHOWN)
def test_shown_in_the_unit_somebody_prefers(value, unit, chosen, expected) -> None:
    number, shown = in_preferred(value, unit, chosen)
    assert (number, shown) == (pytest.approx(expected[0], abs=5e-3), expected[1])


@pytest.mark.parametrize("unit", PREFERRED)
def test_a_shown_reading_reads_back_as_it_was(unit) -> None:
    for choice in PREFERRED[unit]:
        number, shown = in_preferred(12.5, unit, {unit: choice})
        if unit != "km/h":  # speeds are shown, never typed
            assert read_reading(f"{number:.9f} {shown}", unit) == pytest.approx(12.5)


@pytest.mark.parametrize(
    ("kind", "measures", "first", "asks"),
    [
        ("bb_shell", {"bore_mm": 46}, None, "pitch_mm"),  # threaded 47 and three smooth bores fit
        ("freewheel_thread", {"diameter_mm": 34.55, "pitch_mm": 1.058}, "threaded", "lockring_step"),  # worn
        ("rotor", {"diameter_mm": 159.2}, "160", None),
        ("brake_mount", {"spacing_mm": 74.6}, "post", None),
        ("axle", {"spacing_mm": 134.2}, None, "dia_mm"),
        ("bearing", {"inner_mm": 15.02, "outer_mm": 27.96, "width_mm": 7.0}, "6902, 15x28x7", None),
        ("remover", {"splines": 12}, None, "across_mm"),
        ("remover", {"splines": 16, "across_mm": 43.7}, "16 notches outside, 44 mm", None),
        ("remover", {"splines": 4, "across_mm": 40.3}, "4 notches inside, 40 mm", None),
        ("thru_axle", {"dia_mm": 11.95, "pitch_mm": 1.75}, "M12 × 1.75", None),
    ],
)
def test_what_fits_twice_is_asked_and_worn_threads_go_by_pitch(kind, measures, first, asks) -> None:
    found = identify(kind=kind, measures=measures)
    assert first is None or found.ranked[0].code == first
    assert found.next == asks
