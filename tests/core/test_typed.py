"""Typed texts: read as the input wants them and written back so that they read the same."""

import pytest

from tests.core.calc_examples import GOOD
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError
from unkett.core.formats.typed_text import in_rows, read_typed, row_says, typed_text
from unkett.core.units import PREFERRED, TYPED
from unkett.core.vocabulary import KINDS, describe
from unkett.core.vocabulary.types import Choice, ListOf


def of(name: str, field: str):
    return next(one.type for one in CALCULATIONS[name].inputs if one.name == field)


READ = [
    (("rotor_shims", "planes_mm"), "summer 18,2; winter 18.6 mm", {"summer": 18.2, "winter": 18.6}),
    (("rotor_shims", "planes_mm"), "spare front = 3", {"spare front": 3}),
    (("dropper_fit", "travels"), "125 180 250\n150 205 280 90", [
        {"travel_mm": 125, "stack_mm": 180, "body_mm": 250},
        {"travel_mm": 150, "stack_mm": 205, "body_mm": 280, "min_insertion_mm": 90},
    ]),
    (("wear_forecast", "readings"), "0 0; 500 0,25", [[0, 0], [500, 0.25]]),
    (("line_length", "segments"), "housing 400; bare 50cm", [
        {"type": "housing", "length_mm": 400}, {"type": "bare", "length_mm": 500},
    ]),
    (("line_change", "from"), "100 200 0 0 900", {"lever_xy_mm": [100, 200], "entry_xy_mm": [0, 0], "rest_mm": 900}),
    (("crank_centring", "stock_mm"), "0,5 0,7, 1.0", [0.5, 0.7, 1.0]),
    (("chainline", "front_mm"), "-3,5 4", [-3.5, 4]),
    (("gears", "sprockets"), "11-13,15 17", [11, 13, 15, 17]),
]  # fmt: skip


@pytest.mark.parametrize(("where", "text", "value"), READ)
def test_texts_are_read_as_the_input_wants_them(where, text, value) -> None:
    assert read_typed(text, of(*where)) == value


@pytest.mark.parametrize("name", sorted(GOOD))
def test_what_is_written_reads_back(name) -> None:
    for field, value in GOOD[name].items():
        kind = of(name, field)
        read = kind.check(read_typed(typed_text(value, kind), kind), field)
        assert read == kind.check(value, field), field


def test_a_rim_sizes_widths_are_typed_by_name() -> None:
    kind = describe("frame", "tyre_max_mm").type
    assert in_rows(kind)
    assert kind.check(read_typed("622 42; 584 47", kind), "x") == {622: 42, 584: 47}
    assert typed_text({622: 42, 584: 47}, kind) == "622 42; 584 47"


BAD = [
    (("rotor_shims", "planes_mm"), "18.2"),
    (("rotor_shims", "planes_mm"), "a 1; a 2"),
    (("dropper_fit", "travels"), "1 2 3 4 5"),
    (("crank_centring", "stock_mm"), "0.5 thick"),
    (("chain_wear", "links"), "{}"),
]


@pytest.mark.parametrize(("where", "text"), BAD)
def test_what_cannot_be_read_is_reported(where, text) -> None:
    kind = of(*where)
    with pytest.raises(InputError):
        kind.check(read_typed(text, kind), "x")


ATTRIBUTES = [
    (("chainrings", "teeth"), "46/30", [46, 30]),
    (("chainrings", "teeth"), "46-30", [46, 30]),
    (("chainrings", "teeth"), "46x30", [46, 30]),
    (("cassette", "teeth"), "11 13 15", [11, 13, 15]),
    (("cassette", "teeth"), "16", [16]),
    (("frame", "tyre_max_mm"), "622: 45", {"622": 45}),
    (("frame", "damage"), "None", []),
    (("frame", "damage"), "crack, dent", ["crack", "dent"]),
    (("frame", "headset_upper"), "zs 56", "ZS56"),
    (("frame", "headset_upper"), "is41/28.6", "IS41/28.6"),
    (("frame", "bb_shell"), "BSA", "bsa"),
    (("frame", "material"), "Carbon", "carbon"),
    (("rear_hub", "rotor_mount"), "six bolts on a 44 mm circle", "six_bolt"),
]


@pytest.mark.parametrize(("where", "text", "value"), ATTRIBUTES)
def test_what_a_hand_types_of_a_part(where, text, value) -> None:
    kind = describe(*where).type
    assert read_typed(text, kind) == value
    assert kind.check(read_typed(typed_text(kind.check(value, "x"), kind), kind), "x") == kind.check(
        value, "x"
    )


def test_one_known_rim_size_takes_a_lone_figure() -> None:
    kind = describe("frame", "tyre_max_mm").type
    assert read_typed("45", kind, 622) == {622: 45}
    assert read_typed("622 45", kind, 584) == {"622": 45}
    with pytest.raises(InputError, match="a name and its value"):
        read_typed("45", kind)


SAYS_WHY = [
    (("cassette", "teeth"), "11-34", "every one between"),
    (("frame", "headset_upper"), "44", "EC44, ZS44, IS44"),
]


@pytest.mark.parametrize(("where", "text", "says"), SAYS_WHY)
def test_what_says_too_little_is_reported(where, text, says) -> None:
    with pytest.raises(InputError, match=says):
        read_typed(text, describe(*where).type)


def test_rows_say_their_columns() -> None:
    assert row_says(of("dropper_fit", "travels")) == "travel, stack, body, [min insertion]"
    assert row_says(of("rotor_shims", "planes_mm")) == "a name and its value"
    assert row_says(of("sag", "sag_mm")) == ""


def test_factors_of_units_are_their_definitions() -> None:
    """Pound, inch and standard gravity are defined exactly; everything else follows from them."""
    pound_kg, inch_m, gravity = 0.45359237, 0.0254, 9.80665
    pound_force = pound_kg * gravity
    assert TYPED["Nm"]["lbf-in"] == pytest.approx(pound_force * inch_m, rel=1e-12)
    assert TYPED["Nm"]["ft-lb"] == pytest.approx(pound_force * 12 * inch_m, rel=1e-12)
    assert TYPED["Nm"]["kgf-cm"] == pytest.approx(gravity / 100, rel=1e-12)
    assert TYPED["bar"]["psi"] == pytest.approx(pound_force / inch_m**2 / 1e5, rel=1e-8)
    assert TYPED["kg"]["lb"] == pound_kg
    assert TYPED["g"]["oz"] == pytest.approx(pound_kg * 1000 / 16, rel=1e-12)
    assert PREFERRED["km/h"]["mph"] == pytest.approx(1 / (5280 * 12 * inch_m / 1000), rel=1e-8)


def test_every_code_is_read_by_itself_and_by_its_long_name() -> None:
    strange = []
    for kind in KINDS.values():
        for name, attribute in kind.attributes.items():
            item = attribute.type.item if isinstance(attribute.type, ListOf) else attribute.type
            if not isinstance(item, Choice):
                continue
            in_list = isinstance(attribute.type, ListOf)
            for code, title in item.of.codes.items():
                for text in (code, title, code.upper()):
                    if in_list and text.lower() == "none":
                        continue  # nothing at all, in a list
                    read = read_typed(text, attribute.type)
                    if read != ([code] if in_list else code) and item.of.codes.get(read) != title:
                        strange.append((kind.name, name, text, read))
    assert strange == []


def test_several_codes_are_read_in_one_field() -> None:
    rails = describe("seatpost", "rails").type
    for text in ("7x7 7x9", "7x7, 7x9", "7 mm round · 7 × 9 mm oval", "7 mm round; 7x9"):
        assert read_typed(text, rails) == ["7x7", "7x9"], text
