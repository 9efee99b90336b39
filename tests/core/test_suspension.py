"""Suspension sums by hand, by a second way of reckoning, and what they refuse."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest

from tests.cases import each
from tests.core.calc_examples import GOOD
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError

about = pytest.approx
PA = 1.01325


def run(name: str, **more: Any) -> dict[str, Any]:
    given = {key: value for key, value in {**GOOD[name], **more}.items() if value is not None}
    return CALCULATIONS[name].run(given).to_json()


# name, what differs from the good example, what must come out; the sums stand beside
WORKED = [
    # 25 to 30 % of 55; 18 / 55 = 32.73 %
    ("sag_target", {}, {"low_mm": 13.75, "high_mm": 16.5, "aim_mm": 15.125}),
    ("sag_target", {}, {"sag_pct": about(32.727273), "reading": "soft"}),
    ("sag_target", {"end": "front"}, {"low_pct": 20, "high_pct": 25}),
    ("sag_target", {"school": "even", "use": "downhill"}, {"low_pct": 30, "high_pct": 35}),
    ("sag_target", {"use": "cargo", "sag_mm": None}, {"low_pct": 20, "reading": None, "sag_pct": None}),
    ("sag_target", {"sag_mm": 13.75}, {"reading": "within"}),
    ("sag_target", {"sag_mm": 13.7}, {"reading": "firm"}),
    # p = 0.3: 65 (2.9 × 0.3 − 0.6 × 0.09 / 2) = 65 × 0.843 = 54.795 of 65 × 2.6 = 169
    ("leverage", {}, {"wheel_mm": about(54.795), "wheel_pct": about(32.423077), "leverage": about(2.72),
                      "mean_leverage": about(2.6), "progression_pct": about(20.689655)}),
    ("leverage", {"shock_mm": None, "wheel_mm": 54.795}, {"shock_mm": about(19.5), "shock_pct": about(30)}),
    ("leverage", {"leverage_start": None, "leverage_end": None, "wheel_travel_mm": 130},
     {"wheel_mm": about(39), "leverage": about(2), "progression_pct": about(0)}),
    # 95 × 9.80665 × 0.65 = 605.5606; × 170/65 / 19.5 = 81.2192; / 0.1751268 = 463.7735
    ("spring_rate", {}, {"wheel_load_n": about(605.5606375), "rate_n_mm": about(81.219178)}),
    ("spring_rate", {}, {"rate_lbf_in": about(463.773459)}),
    ("rate_convert", {}, {"value": about(78.807076)}),
    ("rate_convert", {"value": 1, "from": "kgf_mm"}, {"value": about(9.80665)}),
    # 13.41325 × (17 / 15.125)^0.8 − 1.01325
    ("next_pressure", {}, {"wanted_bar": about(13.714515), "low_bar": about(12.860338), "high_bar": about(14.949626),
                           "next_bar": about(13.714515), "limited": "none", "earlier_used": False}),
    ("next_pressure", {"sag_mm": 16}, {"next_bar": 12.4, "limited": "reading", "change_pct": 0}),  # 0.9 mm off
    ("next_pressure", {"sag_mm": 25}, {"next_bar": about(14.26), "limited": "step", "change_pct": about(15)}),
    ("next_pressure", {"sag_mm": 25, "max_bar": 13}, {"next_bar": 13, "limited": "max"}),
    # 80 → 100 kg with the bike: 13.01325 × 1.25 − 1.01325
    ("setup_scale", {}, {"ratio": 1.25, "pressure_bar": about(15.2533125), "rate_n_mm": None, "over_max": None}),
    ("setup_scale", {"pressure_bar": None, "rate_n_mm": 80}, {"rate_n_mm": about(100), "over_max": None}),
    ("setup_scale", {"max_bar": 15}, {"over_max": True}),
]  # fmt: skip


def test_worked_examples() -> None:
    def examine(row: tuple[str, dict[str, Any], dict[str, Any]]) -> None:
        name, more, out = row
        found = run(name, **more)
        assert {key: found[key] for key in out} == out

    each(WORKED, examine)


def test_springs_that_are_sold_and_their_sag() -> None:
    """450 lbf/in is 78.807 N/mm: 605.56 × 170/65 / (78.807 × 65) = 30.92 %; a multiple stands alone, 0 is left out."""
    found = run("spring_rate")["options"]
    assert [(one["rate_lbf_in"], one["sag_pct"]) for one in found] == [
        (450, about(30.918231)),
        (475, about(29.290955)),
    ]
    light = run("spring_rate", mass_kg=10, bike_sprung_kg=0, sag_pct=60, step_lbf_in=100)["options"]
    assert [one["rate_lbf_in"] for one in light] == [100]
    steep = run("spring_rate", wheel_travel_mm=None, leverage_start=0.3, leverage_end=6.0, sag_pct=5)[
        "options"
    ]
    assert all(one["sag_pct"] is None or 0 <= one["sag_pct"] <= 100 for one in steep)


def test_two_readings_give_the_exponent_where_they_belong_together() -> None:
    """From 9 bar at 20 mm and 11.2 at 17: ln(12.21325 / 10.01325) / ln(20 / 17) = 1.222."""
    found = run("next_pressure", pressure_bar=11.2, earlier_pressure_bar=9, earlier_sag_mm=20)
    assert found["earlier_used"] is True
    assert found["exponent"] == about(math.log((11.2 + PA) / (9 + PA)) / math.log(20 / 17))
    near = run(
        "next_pressure", earlier_pressure_bar=12, earlier_sag_mm=17.5
    )  # within a reading of each other
    strange = run("next_pressure", earlier_pressure_bar=20, earlier_sag_mm=20)  # more air and more sag
    assert (near["earlier_used"], strange["earlier_used"]) == (False, False)


def test_an_air_spring_does_the_work_that_its_gas_takes() -> None:
    """The force summed over the stroke is the work of an ideal gas, ∫ P dV of both chambers, by another formula."""
    steps = 2000
    found = run(
        "air_spring", spacers_to=None, hold_pct=None, at_pct=[100 * n / steps for n in range(steps + 1)][:60]
    )
    assert found["to"] is None
    assert [point["pct"] for point in found["points"]] == [about(100 * n / steps) for n in range(60)]
    area, full, volume, behind, n, absolute = 1500.0, 55.0, 135.0, 45.0, 1.3, 13 + PA
    work = 0.0
    for k in range(0, steps, 50):
        at = [100 * j / steps for j in range(k, k + 51)]
        points = run("air_spring", spacers_to=None, hold_pct=None, at_pct=at)["points"]
        pairs = itertools.pairwise(points)
        work += sum((a["force_n"] + b["force_n"]) / 2 * (b["mm"] - a["mm"]) for a, b in pairs) / 1000
    swept = area * full / 1000

    def gas(begin: float, end: float) -> float:
        """Work in J to bring a chamber from one volume in cm³ to another, 0.1 J for each bar and cm³."""
        return 0.1 * absolute * begin**n / (n - 1) * (end ** (1 - n) - begin ** (1 - n))

    assert work == about(gas(volume, volume - swept) + gas(behind, behind + swept), rel=1e-4)


def test_spacers_that_hold_the_sag_make_the_end_harder() -> None:
    """Two spacers of 8 cm³, the force at 28 % held: 12.17 bar; 6633 N at the end become 8679."""
    found = run("air_spring")
    assert found["end_force_n"] == about(6632.7746, rel=1e-6)
    assert (found["to"]["pressure_bar"], found["to"]["end_force_n"]) == (
        about(12.167983),
        about(8678.6226, rel=1e-6),
    )
    assert found["end_force_change_pct"] == about(30.844528)
    slow = run("air_spring", exponent=1, at_pct=[28])
    assert slow["points"][0]["force_n"] == about(slow["to"]["points"][0]["force_n"])
    bore = run("air_spring", area_mm2=None, bore_mm=20, negative_cm3=None, spacers_to=None)
    assert bore["area_mm2"] == about(100 * math.pi)
    assert bore["points"][0]["force_n"] == about(0.1 * 100 * math.pi * 13)  # the gauge pressure on its area


BAD = [
    ("sag_target", {"sag_mm": 56}, "sag_mm: 56 mm is more"),
    ("leverage", {"wheel_travel_mm": 130}, "wheel_travel_mm: give the wheel's travel or both"),
    ("leverage", {"leverage_end": None}, "leverage_end: missing"),
    ("leverage", {"wheel_mm": 30}, "shock_mm: give the movement of the shock or of the wheel"),
    ("leverage", {"shock_mm": 66}, "shock_mm: 66 mm is more"),
    ("leverage", {"shock_mm": None, "wheel_mm": 170}, "wheel_mm: 170 mm is more"),
    ("spring_rate", {"wheel_travel_mm": None}, "leverage_start: missing"),
    ("next_pressure", {"earlier_sag_mm": 20}, "earlier_pressure_bar: missing"),
    ("next_pressure", {"sag_mm": 60}, "sag_mm: 60 mm is more"),
    ("air_spring", {"bore_mm": 20}, "area_mm2: give the piston's area or its bore"),
    ("air_spring", {"volume_cm3": 86}, "volume_cm3: 86 cm³ are left"),
    ("air_spring", {"spacers_to": 7}, "spacers_to: 79 cm³ are left"),
    ("setup_scale", {"pressure_bar": None}, "pressure_bar: missing; give a pressure, a rate or both"),
    ("rate_convert", {"to": "n_m"}, "to: 'n_m' given"),
]


def test_bad_input_names_the_value() -> None:
    def examine(row: tuple[str, dict[str, Any], str]) -> None:
        name, more, says = row
        with pytest.raises(InputError) as error:
            run(name, **more)
        assert says in str(error.value)

    each(BAD, examine)
