"""The next change at an end: sag first, then the ring, then what is felt; printed limits are never passed."""

import pytest

from tests.cases import each
from unkett.core.bike.facts import Facts
from unkett.core.bike.skeleton import skeleton
from unkett.core.calc.suspension_scenes import ring_scene
from unkett.core.drawing.suspension import rear_suspension
from unkett.core.formats.reader import build_from
from unkett.core.scene import Circle, Path
from unkett.core.standards import table
from unkett.core.suspension.advice import by_feel, by_ring, by_sag, felt_at
from unkett.core.suspension.ends import SuspensionEnd, ends_of, is_sprung
from unkett.core.suspension.riders import for_rider, rate_for_rider

AIR = {"spring": "air", "stroke_mm": 55, "pressure_max_bar": 20, "spacers_max": 2, "rebound_clicks": 14}
FRAME = {"wheel_travel_mm": 143, "shock_stroke_mm": 55, "head_angle_deg": 65}


def rear(spring=None, rider=85, **shock) -> SuspensionEnd:
    """A trail bike's shock; target 25 to 30 %, of 55 mm 13.75 to 16.5, aim 15.125."""
    parts = {"frame": {"attrs": FRAME}, "shock": {"attrs": {**AIR, **shock}}}
    if spring is not None:
        parts["shock"]["attrs"]["spring"] = "coil"
        parts["shock_spring"] = {"attrs": {"rate_n_mm": spring}}
    bike = {"use": "trail", "rider": {"mass_kg": rider} if rider else {}, "parts": parts}
    return ends_of(build_from(bike))[0]


# what is set, hit in mm, bangs; the setting to change and to what
RINGS = [
    ({}, None, False, "", None, "Measure the sag."),
    ({"set_sag_mm": 17}, None, False, "", None, "Read the pressure."),
    ({"set_sag_mm": 17, "set_pressure_bar": 12.4}, None, False, "set_pressure_bar", 13.71, "Try 13.7 bar."),
    (
        {"set_sag_mm": 12, "set_pressure_bar": 12.4},
        55,
        True,
        "set_pressure_bar",
        10.54,
        "Try 10.5 bar.",
    ),  # 15 %
    ({"set_sag_mm": 25, "set_pressure_bar": 19.0}, None, False, "set_pressure_bar", 20.0, "Try 20.0 bar."),
    ({"set_sag_mm": 15}, None, False, "", None, "Ride, then read the ring after the hardest hit."),
    ({"set_sag_mm": 15}, 50, False, "", None, "Keep it."),  # 91 %
    ({"set_sag_mm": 15}, 46.75, False, "", None, "Count the volume spacers."),  # 85 % and no more
    ({"set_sag_mm": 15, "set_spacers": 1}, 40, False, "set_spacers", 0, "0 volume spacers, then pressure to"),
    ({"set_sag_mm": 15, "set_spacers": 0}, 40, False, "", None, "Open compression by 2."),
    (
        {"set_sag_mm": 15, "set_spacers": 1},
        None,
        True,
        "set_spacers",
        2,
        "2 volume spacers, then pressure to",
    ),
    ({"set_sag_mm": 15, "set_spacers": 2}, None, True, "", None, "Close high-speed compression by 1."),
    (
        {"set_sag_mm": 15, "set_spacers": 1, "spacers_max": None},
        55,
        True,
        "",
        None,
        "Manufacturer's figure wanted",
    ),
]


def test_the_ring_leads_to_one_change() -> None:
    def examine(row) -> None:
        values, hit, bangs, setting, to, says = row
        found = by_ring(
            rear(**{name: value for name, value in values.items() if value is not None})
            if "spacers_max" not in values
            else _no_limit(values),
            hit,
            bangs,
        )
        assert found.says.startswith(says), found
        assert found.setting == setting
        assert found.to == (None if to is None else pytest.approx(to, abs=0.006))

    each(RINGS, examine)


def _no_limit(values) -> SuspensionEnd:
    attrs = {name: value for name, value in {**AIR, **values}.items() if value is not None}
    bike = {"use": "trail", "parts": {"frame": {"attrs": FRAME}, "shock": {"attrs": attrs}}}
    return ends_of(build_from(bike))[0]


def test_a_coil_is_answered_by_the_next_rate_sold() -> None:
    """85 and 10 kg, 0.65 on 2.6 of leverage over 55 mm at 27.5 %: 605.56 × 2.6 / 15.125 = 104.1 N/mm, 594 lbf/in."""
    found = by_sag(rear(spring=90.0, set_sag_mm=18))
    assert (found.setting, found.before) == ("rate_n_mm", 90.0)
    assert found.to == pytest.approx(600 * 0.1751268, abs=0.001)
    assert found.says.startswith("Try a spring of 600 lbf/in")
    assert by_ring(rear(spring=104.0, set_sag_mm=15), 40).says == "Open compression by 2."
    assert by_ring(rear(spring=104.0, set_sag_mm=15), None, bangs=True).says.startswith("Close high-speed")
    assert by_sag(rear(spring=90.0, rider=None, set_sag_mm=18)).says == "A stiffer spring."


FEELS = [  # what is set, what is felt; the change
    ({"set_sag_mm": 15, "set_rebound": 7}, "packs", "set_rebound", 9),
    ({"set_sag_mm": 15, "set_rebound": 13}, "packs", "set_rebound", 14),
    ({"set_sag_mm": 15, "set_rebound": 14}, "packs", "", None),
    ({"set_sag_mm": 15, "set_rebound": 0}, "kicks", "", None),
    ({"set_sag_mm": 15, "set_rebound": 7}, "kicks", "set_rebound", 6),
    ({"set_sag_mm": 15}, "packs", "", None),
    ({"set_sag_mm": 15, "set_low": 4}, "wallows", "set_low", 3),
    (
        {"set_sag_mm": 18, "set_pressure_bar": 10, "set_low": 4},
        "wallows",
        "set_pressure_bar",
        11.5,
    ),  # sag first
    ({"set_sag_mm": 15, "set_low": 4, "low_clicks": 0}, "wallows", "", None),
    ({"set_sag_mm": 15, "set_spacers": 1}, "all_travel", "set_spacers", 2),
    ({"set_sag_mm": 15}, "hot", "", None),
]


def test_what_is_felt_leads_to_one_change_within_the_dial() -> None:
    def examine(row) -> None:
        values, code, setting, to = row
        found = by_feel(rear(**values), code)
        assert (found.setting, found.to) == (setting, to if to is None else pytest.approx(to))
        assert found.says

    each(FEELS, examine)


def test_every_row_of_the_tables_is_told_at_some_end() -> None:
    codes = {row["code"] for row in table("suspension_felt").rows}
    ends = [*ends_of(build_from({"parts": {"fork": {"attrs": {"travel_mm": 120}}}})), rear()]
    assert {row["code"] for end in ends for row in felt_at(end)} == codes
    for end in ends:
        for row in felt_at(end):
            assert by_feel(end, row["code"]).says.endswith(".")


def test_a_forks_wheel_moves_by_the_sine_of_the_head_angle_and_a_rears_by_its_leverage() -> None:
    build = build_from(
        {"parts": {"frame": {"attrs": FRAME}, "fork": {"attrs": {"travel_mm": 140, "set_sag_mm": 30}}}}
    )
    fork = ends_of(build)[0]
    assert fork.linkage.start == pytest.approx(0.9063, abs=1e-4)  # sin 65°
    assert fork.wheel_sag_mm == 30
    assert rear(set_sag_mm=15).wheel_sag_mm == pytest.approx(39)  # 15 × 143 / 55
    assert not is_sprung(build_from({"parts": {"fork": {"attrs": {"travel_mm": 0}}}}))
    assert is_sprung(build)


def test_another_riders_pressure_never_passes_the_printed_maximum() -> None:
    end = rear(set_pressure_bar=12.0, set_sag_mm=15, set_rebound=7, rider=70)
    assert for_rider(end, 90) == {
        "set_pressure_bar": 15.25,
        "set_rebound": 7,
    }  # 13.01325 × 100 / 80 − 1.01325
    assert for_rider(end, 200)["set_pressure_bar"] == 20
    assert rate_for_rider(rear(spring=80.0, rider=70), 90) == pytest.approx(100.0)
    assert rate_for_rider(end, 90) is None


def test_the_axle_rises_by_the_travel_and_the_ring_stands_at_the_sag() -> None:
    parts = {
        "frame": {"attrs": {**FRAME, "chainstay_mm": 440}},
        "shock": {"attrs": {**AIR, "set_sag_mm": 15}},
    }
    build = build_from({"use": "trail", "parts": parts})
    shapes = rear_suspension(Facts(build), skeleton(build))
    path = next(one for one in shapes if isinstance(one, Path) and one.role == "side-timing")
    assert path.points[-1][1] - path.points[0][1] == pytest.approx(143)
    sunk = next(one for one in shapes if isinstance(one, Circle) and "sag" in one.title)
    assert sunk.centre[1] - path.points[0][1] == pytest.approx(39)
    assert rear_suspension(Facts(build.with_part("shock", None)), skeleton(build)) == []
    scene = ring_scene("Shock", 55, rear(set_sag_mm=18).target, 18, 50)
    assert "Sag 18 mm, 33 %." in scene.says
