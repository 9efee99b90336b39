"""The reader of builds: every fault is reported with its path, and nothing it is fed breaks it."""

import json
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import many
from unkett.core.build import Part
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from, parse_json, read_build
from unkett.core.vocabulary import KINDS, SLOTS


def build(**parts):
    return {"format": "unkett.build/1", "parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}}


FAULTS = [
    ([], "a build (unkett.build/1) is an object"),
    ({"format": "unkett.build/2", "parts": {}}, "format: 'unkett.build/2' given"),
    ({"format": "unkett.build/1"}, "parts: missing"),
    ({"parts": {}, "colour": "red"}, "colour: unknown"),
    ({"parts": {}, "use": "crago"}, "use: 'crago' given; one of road"),
    ({"parts": {}, "use": "crago"}, 'did you mean "cargo"?'),
    ({"parts": {}, "rider": {"mass_kg": -1}}, "rider.mass_kg: -1 given"),
    ({"parts": {}, "rider": {"height_mm": 1800}}, "rider.height_mm: unknown"),
    ({"parts": {}, "lever_hand": {"front": "up"}}, "lever_hand.front: 'up' given"),
    ({"parts": {"casette": {}}}, "parts.casette: unknown"),
    ({"parts": {"casette": {}}}, 'did you mean "cassette"?'),
    ({"parts": {"cassette": {"kind": "chain"}}}, "parts.cassette.kind: 'chain' given; \"cassette\" allowed"),
    ({"parts": {"cassette": 3}}, "parts.cassette: 3 given; an object allowed"),
    ({"parts": {"cassette": {"colour": 1}}}, "parts.cassette.colour: unknown"),
    ({"parts": {"cassette": {"name": 7}}}, "parts.cassette.name: 7 given"),
    (build(cassette={"teeth": [11, 13, 15, "17"]}), "parts.cassette.attrs.teeth[3]: '17' given"),
    (build(cassette={"teeth": [11, 13, None]}), "parts.cassette.attrs.teeth[2]: None given"),
    (build(cassette={"teeth": [13, 11]}), "parts.cassette.attrs.teeth[1]: 11 after 13"),
    (build(cassette={"teeth": []}), "parts.cassette.attrs.teeth: [] given"),
    (build(cassette={"teeth": [8]}), "a whole number from 9 to 60 teeth allowed"),
    (build(cassette={"speeds": True}), "parts.cassette.attrs.speeds: True given"),
    (build(cassette={"speeds": "9"}), "parts.cassette.attrs.speeds: '9' given"),
    (build(cassette={"speeds": 9.5}), "parts.cassette.attrs.speeds: 9.5 given"),
    (build(cassette={"speed": 9}), "parts.cassette.attrs.speed: unknown"),
    (build(cassette={"speed": 9}), 'did you mean "speeds"?'),
    (build(cassette={"mount": "spline-9"}), 'did you mean "spline9"?'),
    (build(cassette={"speeds": 9, "teeth": list(range(11, 21))}), "parts.cassette.attrs.teeth: 10 sprockets"),
    (build(chainrings={"teeth": [34, 50]}), "parts.chainrings.attrs.teeth[1]: 50 after 34"),
    (build(chainrings={"mount": "direct_"}), "parts.chainrings.attrs.mount: 'direct_' given"),
    (build(chain={"links": 401}), "a whole number from 20 to 400"),
    (build(frame={"chainstay_mm": 3501}), "a number from 0 to 3500 mm allowed"),
    (build(frame={"chainstay_mm": math.nan}), "parts.frame.attrs.chainstay_mm: nan given"),
    (build(frame={"chainstay_mm": 10**400}), "parts.frame.attrs.chainstay_mm"),
    (build(frame={"tyre_max_mm": {"622": -1}}), "parts.frame.attrs.tyre_max_mm.622: -1 given"),
    (build(frame={"tyre_max_mm": {"wide": 40}}), "parts.frame.attrs.tyre_max_mm.wide"),
    (build(frame={"headset_upper": "44"}), "a headset code such as ZS44"),
    (build(caliper_front={}), "parts.caliper_front: unknown"),
    (build(front_caliper={"rotor_thickness_mm": [2.3, 1.8]}), "the lower figure stands first"),
    (build(rear_hub={"end_caps": [{"axle_kind": "thru"}]}), "end_caps[0]: axle_dia_mm, spacing_mm missing"),
    (build(rear_hub={"end_caps": [{"axel_kind": "thru"}]}), "end_caps[0].axel_kind: unknown"),
    (build(rear_derailleur={"extra_links": 3}), "an even whole number from 2 to 20"),
    (
        {"parts": {"front_brake_lever": {"also": ["front_shifter"]}, "front_shifter": {}}},
        'parts.front_brake_lever.also[0]: the slot "front_shifter" is filled twice',
    ),
    ({"parts": {"front_brake_lever": {"also": ["front_brake_lever"]}}}, "filled twice"),
    (
        {"parts": {"front_brake_lever": {"also": ["shifter"]}}},
        "parts.front_brake_lever.also[0]: 'shifter' given",
    ),
    ({"parts": {}, "empty": "pedals"}, "empty: 'pedals' given; a list of slots allowed"),
    ({"parts": {}, "empty": ["pedal"]}, 'did you mean "pedals"?'),
    ({"parts": {}, "empty": ["pedals", "pedals"]}, 'empty[1]: "pedals" stands twice'),
    ({"parts": {"pedals": {}}, "empty": ["shock", "pedals"]}, 'empty[1]: "pedals" is filled'),
    (
        {"parts": {"front_brake_lever": {"also": ["front_shifter"]}}, "empty": ["front_shifter"]},
        "a part stands in parts.front_brake_lever",
    ),
    (build(frame={"damage": ["rust"]}), "parts.frame.attrs.damage[0]: 'rust' given"),
]


@pytest.mark.parametrize(("value", "says"), FAULTS, ids=lambda value: str(value)[:50])
def test_a_fault_is_reported_with_its_path(value, says) -> None:
    with pytest.raises(InputError) as caught:
        build_from(value)
    assert says in str(caught.value)


TEXTS = [
    (b"\xff\xfe", "not UTF-8 text (byte 0)"),
    (b'{"parts": {}', "not JSON: line 1, column 13"),
    (b'{"parts": {}, "parts": {}}', "parts: this key stands twice"),
    (
        b'{"parts": {"cassette": {"attrs": {"speeds": 9, "speeds": 8}}}}',
        "parts.cassette.attrs.speeds: this key",
    ),
    (b'{"parts": {"frame": {"attrs": {"reach_mm": NaN}}}}', "parts.frame.attrs.reach_mm: nan given"),
    (b'{"parts": {"frame": {"attrs": {"reach_mm": 1e999}}}}', "parts.frame.attrs.reach_mm: inf given"),
    (b'{"name": "a\\u0000b", "parts": {}}', "a character that cannot be stored"),
    (b'{"name": "\\ud800", "parts": {}}', "a character that cannot be stored"),
    (b"[" * 100_000, "nested too deeply"),
    (b'{"x_a":' * 700 + b"1" + b"}" * 700, "nested too deeply: at most 60 levels"),
    (b'{"parts": {"frame": {"attrs": {"x_a\\u0000": 1}}}}', "cannot be stored"),
    (b"1" * 5000, "a number is too long to read"),
]


@pytest.mark.parametrize(("text", "says"), TEXTS, ids=lambda value: str(value)[:40])
def test_text_that_is_no_build(text, says) -> None:
    with pytest.raises(InputError) as caught:
        read_build(text)
    assert says in str(caught.value)


def test_all_faults_at_once() -> None:
    with pytest.raises(InputError) as caught:
        build_from({"use": "boat", "parts": {"cassette": {"attrs": {"speeds": 0, "teeth": "all"}}}})
    assert [fault.path for fault in caught.value.faults] == [
        "use",
        "parts.cassette.attrs.speeds",
        "parts.cassette.attrs.teeth",
    ]


def test_what_is_kept_and_what_is_not_measured() -> None:
    given_ = {
        "format": "unkett.build/1",
        "name": "Øre №7",
        "use": "cargo",
        "x_shelf": [1, {"a": None}],
        "rider": {"mass_kg": 82},
        "parts": {
            "cassette": {
                "kind": "cassette",
                "name": "",
                "x_box": "3A",
                "attrs": {"speeds": None, "teeth": [11.0, 13], "x_note": "cut"},
            },
        },
    }
    out = build_from(given_).to_json()
    assert out["x_shelf"] == [1, {"a": None}]
    assert out["parts"]["cassette"]["x_box"] == "3A"
    assert out["parts"]["cassette"]["attrs"] == {"teeth": [11, 13], "x_note": "cut"}
    assert build_from(out).to_json() == out


def test_a_part_in_two_slots_stands_in_both() -> None:
    lever = {"also": ["rear_shifter"], "attrs": {"actuation": "hydraulic", "mode": "indexed", "speeds": 11}}
    filled = build_from({"parts": {"rear_brake_lever": lever}}).filled()
    assert filled["rear_shifter"] is filled["rear_brake_lever"]


def _in_words(error: InputError) -> None:
    assert all(fault.says for fault in error.faults)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=12,
)
NAMES = st.sampled_from([*SLOTS, "cassete", "x_own"])
ATTRS = st.sampled_from(sorted({name for kind in KINDS.values() for name in kind.attributes}))
VALUES = JSON | st.sampled_from([0, 9, 11, 12.7, 34.9, [11, 36], [1, 2, 3], "post", "spline9", {"622": 40}])
PARTS = st.fixed_dictionaries(
    {"attrs": st.dictionaries(ATTRS, VALUES, max_size=4)},
    optional={
        "kind": NAMES | JSON,
        "also": st.lists(NAMES, max_size=2) | JSON,
        "name": st.text(max_size=4) | JSON,
    },
)
BUILDS = st.fixed_dictionaries(
    {"parts": st.dictionaries(NAMES, PARTS | JSON, max_size=4)},
    optional={"format": st.just("unkett.build/1") | JSON, "use": st.just("road") | JSON, "rider": JSON},
)


@settings(max_examples=many(100), deadline=None)
@given(BUILDS | JSON)
def test_any_value_reads_or_is_refused_with_a_reason(value) -> None:
    try:
        read = build_from(value)
    except InputError as error:
        _in_words(error)
        return
    assert json.loads(json.dumps(read.to_json(), allow_nan=True)) is not None
    check(read)


@settings(max_examples=many(80), deadline=None)
@given(st.binary(max_size=60) | JSON.map(lambda value: json.dumps(value).encode()))
def test_any_text_parses_or_is_refused(text) -> None:
    try:
        parse_json(text)
    except InputError as error:
        _in_words(error)


def test_empty_slots_and_x_keys_anywhere_are_written_back() -> None:
    given_ = {
        "format": "unkett.build/1",
        "name": "Pier bike",
        "rider": {"mass_kg": 80, "x_shoe": 43},
        "lever_hand": {"front": "left", "x_why": "habit"},
        "x_shelf": [1, {"a": None}],
        "parts": {
            "frame": {
                "kind": "frame",
                "name": "",
                "attrs": {"damage": [], "tyre_max_mm": {"622": 42, "x_wet": 40}, "x_note": 1},
                "x_box": "3A",
            },
            "x_shed": {"row": 2},
        },
        "empty": ["front_derailleur", "shock"],
    }
    assert build_from(given_).to_json() == given_


def test_a_slot_is_filled_known_empty_or_not_recorded() -> None:
    build_ = build_from({"parts": {"front_brake_lever": {"also": ["front_shifter"]}}, "empty": ["shock"]})
    off = build_.with_part("front_shifter", None)
    assert off.parts == {}
    assert off.empty == {"shock", "front_brake_lever", "front_shifter"}
    assert off.with_part("front_shifter", Part(kind="shifter")).empty == {"shock", "front_brake_lever"}


def test_what_a_bike_says_of_itself_and_of_its_figures_is_kept() -> None:
    part = {"kind": "chain", "name": "", "attrs": {"links": 110}, "origins": {"links": "measured"}}
    given = {
        "format": "unkett.build/1",
        "name": "x",
        "customer": "Ebba Holm",
        "wish": "Lower",
        "parts": {"chain": part},
    }
    assert build_from(given).to_json() == given
    wrong = {"wish": 3, "parts": {"chain": {**part, "origins": {"links": "guessed", "teeth": "stated"}}}}
    with pytest.raises(InputError) as caught:
        build_from(wrong)
    named = {"wish", "parts.chain.origins.teeth", "parts.chain.origins.links"}
    assert {fault.path for fault in caught.value.faults} == named
