"""What is asked of which bike, what is printed on parts, and what one part tells of another."""

import pytest

from unkett.core.errors import InputError
from unkett.core.intake import STATIONS, BikeProfile
from unkett.core.intake.fellows import FELLOWS, alike, front_of, taken_over
from unkett.core.intake.printed import MARKS, read_printed
from unkett.core.vocabulary import KINDS, SLOTS

# As the standards and the stamps read: ISO 5775 for tyre and rim, diameter × spacing, bore / steerer of each cup.
PRINTED = {
    ("rear_tyre", "45-622"): {"width_mm": 45, "bsd_mm": 622, "type": "clincher"},
    ("rear_rim", "622x23TC"): {"bsd_mm": 622, "inner_width_mm": 23, "bead": "hooked"},
    ("front_rim", "584 × 30 TSS"): {"bsd_mm": 584, "inner_width_mm": 30, "bead": "hookless"},
    ("front_hub", "9x100"): {"axle_dia_mm": 9, "spacing_mm": 100},  # solid or quick release: not reported
    ("rear_hub", "12x142 splined"): {
        "axle_dia_mm": 12, "spacing_mm": 142, "axle_kind": "thru", "rotor_mount": "splined",
    },
    ("frame", "10x135 solid"): {"rear_axle_dia_mm": 10, "rear_spacing_mm": 135, "rear_axle_kind": "solid"},
    ("headset", "zs44/28,6 EC49/40"): {
        "upper": "ZS44/28.6", "lower": "EC49/40", "steerer_upper_mm": 28.6, "crown_race_mm": 39.8,
    },
    ("front_rotor", "160 six-bolt 1.8"): {"diameter_mm": 160, "mount": "six_bolt", "thickness_mm": 1.8},
    ("stem", "28.6 31.8 90 −6"): {
        "steerer_mm": 28.6, "mount": "threadless", "bar_clamp_mm": 31.8, "length_mm": 90, "angle_deg": -6,
    },
    ("stem", "31.8 90 6°"): {"bar_clamp_mm": 31.8, "length_mm": 90, "angle_deg": 6},
    ("handlebar", "31.8 440 drop"): {"clamp_mm": 31.8, "width_mm": 440, "shape": "drop"},
}  # fmt: skip


@pytest.mark.parametrize(("slot", "text"), PRINTED, ids=str)
def test_what_is_printed_is_read(slot, text) -> None:
    assert read_printed(slot, text) == PRINTED[slot, text]


@pytest.mark.parametrize("text", ["", "45", "622", "x", "45-622-1", "ZS44", "12x", "٣٤-622"])
@pytest.mark.parametrize("kind", MARKS)
def test_what_is_no_mark_is_refused_with_an_example(kind, text) -> None:
    slot = next(name for name, slot in SLOTS.items() if slot.kind == kind)
    if kind == "rotor" and text == "622":
        assert read_printed(slot, text)["diameter_mm"] == 622  # allowed, and doubted at the intake
        return
    with pytest.raises(InputError, match=r"for instance|allowed|may be"):
        read_printed(slot, text)


def test_examples_are_read_by_their_own_marks() -> None:
    for kind, mark in MARKS.items():
        slot = next(name for name, slot in SLOTS.items() if slot.kind == kind)
        assert set(read_printed(slot, mark.example)) <= set(KINDS[kind].attributes)


def test_fellows_are_the_same_figure_on_both_and_none_that_fails_on_the_road() -> None:
    for pair in FELLOWS:
        one, two = (KINDS[SLOTS[slot].kind].attributes[attr].type for slot, attr in pair)
        assert one == two, pair
    both = {place for pair in FELLOWS for place in pair}
    assert not both & {
        ("stem", "bar_clamp_mm"), ("stem", "steerer_mm"), ("seatpost", "diameter_mm"), ("saddle", "rails"),
        ("front_caliper", "fluid"), ("rear_caliper", "mount"),
    }  # fmt: skip
    hub = {"axle_kind": "thru", "axle_dia_mm": 12, "spacing_mm": 142, "holes": 28}
    assert taken_over("frame", {"rear_hub": hub, "front_hub": {"axle_dia_mm": 15}}) == {
        "rear_axle_kind": "thru",
        "rear_axle_dia_mm": 12,
        "rear_spacing_mm": 142,
    }
    assert taken_over("rear_rim", {"rear_hub": hub}) == {"holes": 28}


def test_the_rear_takes_from_the_front_what_is_not_of_its_end() -> None:
    assert front_of("rear_tyre") == "front_tyre"
    assert front_of("front_tyre") is front_of("rear_derailleur") is front_of("stem") is None
    hub = {"axle_dia_mm": 12, "spacing_mm": 100, "rotor_mount": "six_bolt", "holes": 28}
    assert alike("rear_hub", hub) == {"rotor_mount": "six_bolt", "holes": 28}
    tyre = {"width_mm": 45, "width_measured_mm": 44.2, "damage": ["worn_through"]}
    assert alike("rear_tyre", tyre) == {"width_mm": 45}


def test_what_the_first_look_settles_is_not_asked() -> None:
    def asked(slot: str, **profile: str) -> set[str]:
        base = {"use": "gravel", "gears": "derailleur", "brakes": "disc_hose", **profile}
        return {attr.name for attr in BikeProfile(**base).asks(slot)}

    assert not {"type", "actuation", "cable_pull"} & asked("front_caliper")
    assert "fluid" in asked("front_caliper")
    assert not {"fluid", "hose_fitting"} & asked("front_caliper", brakes="disc_cable")
    assert not {"mount", "fluid"} & asked("rear_caliper", use="road", brakes="rim")
    assert "guide_mount" not in asked("frame", use="road")
    assert "guide_mount" in asked("frame", use="trail")
    assert {"rear_bridge_radius_mm"} <= asked("frame", use="road", brakes="rim")
    assert {"bridge_radius_mm"} <= asked("fork", use="road", brakes="rim")
    assert "internal_gears" in asked("rear_hub", gears="hub")
    assert "fd_mount" in asked("frame", gears="rings")
    assert "cutoff_switch" not in asked("front_brake_lever")
    assert "cutoff_switch" in asked("front_brake_lever", motor="mid_bracket")

    def has(slot: str, **profile: str) -> bool:
        base = {"use": "gravel", "gears": "derailleur", "brakes": "disc_hose", **profile}
        return BikeProfile(**base).has(slot)

    assert not has("motor")
    assert has("motor", motor="hub_rear")
    assert not has("bottom_bracket", motor="mid_bracket")
    assert has("rear_shift_line")
    assert has("front_derailleur", gears="rings")
    for profile in (
        BikeProfile(use="city", gears="hub", brakes="rim"),
        BikeProfile(use="trail", gears="rings", brakes="mixed"),
    ):
        for slot in (slot for station in STATIONS for slot in station.slots):
            declared = KINDS[SLOTS[slot].kind].attributes
            assert {attr.name for attr in profile.asks(slot)} | set(profile.settles(slot)) <= set(declared)
