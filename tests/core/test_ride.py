"""What a plan does for the rider, in figures; the day on which work is done; sums with what is free or done outside."""

import datetime

import pytest

from unkett.core.drawing.ride import ride_figures, ride_picture
from unkett.core.formats.reader import build_from
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.ways.money import Priced, totals
from unkett.core.work.dates import ready_on

PARTS = {
    "chainrings": {"attrs": {"teeth": [40]}},
    "cassette": {"attrs": {"speeds": 9, "teeth": [11, 13, 15, 18, 21, 24, 28, 32]}},
    "rear_rim": {"attrs": {"bsd_mm": 622}},
    "rear_tyre": {"attrs": {"bsd_mm": 622, "width_mm": 40}},
    "front_rotor": {"attrs": {"diameter_mm": 160}},
    "front_tyre": {"attrs": {"bsd_mm": 622, "width_mm": 28}},
}


def build(**moved):
    parts = {slot: {"attrs": {**part["attrs"], **moved.get(slot, {})}} for slot, part in PARTS.items()}
    return build_from({"name": "Bike", "parts": parts})


def test_a_lower_gear_is_reported_by_how_much_easier_it_is() -> None:
    """Developments are as their sprockets: 32/40 is 0.80 of what 32 was: 20 % easier; the top gear stays."""
    wide = build(cassette={"teeth": [11, 13, 15, 18, 22, 26, 32, 40]})
    (low,) = ride_figures(build(), wide)
    # 40 / 32 × π × (622 + 2 × 40) mm = 2.757 m, 40 / 40: 2.205 m
    assert (low.title, low.says) == ("Lowest gear", "20 % easier uphill")
    assert (low.before, low.after) == ("2.76 m a turn", "2.21 m a turn")


def test_a_larger_disc_is_reported_by_its_braking() -> None:
    """180 / 160 − 1 = 12.5 %, reported as 12 % (half to even)."""
    (front,) = ride_figures(build(), build(front_rotor={"diameter_mm": 180}))
    assert (front.title, front.says) == ("Front brake disc", "12 % more braking for the same pull")


def test_three_figures_at_most_and_nothing_that_is_not_felt() -> None:
    assert ride_figures(build(), build()) == ()
    assert ride_picture(()) is None
    moved = build(
        cassette={"teeth": [12, 13, 15, 18, 22, 26, 32, 40]},
        front_rotor={"diameter_mm": 180},
        front_tyre={"width_mm": 40},
    )
    figures = ride_figures(build(), moved)
    assert [one.title for one in figures] == ["Lowest gear", "Highest gear", "Front brake disc"]
    scene = ride_picture(figures)
    assert scene is not None
    bars = [shape for shape in scene.shapes if shape.role.startswith("ride-") and hasattr(shape, "width")]
    assert len(bars) == 6
    assert bars[1].width / bars[0].width == pytest.approx(0.8)  # as 32 to 40 teeth


@pytest.mark.parametrize(
    ("day", "minutes", "ready"),
    [
        ("2026-12-02", 0, "2026-12-02"),
        ("2026-12-02", 480, "2026-12-02"),
        ("2026-12-02", 481, "2026-12-03"),
        ("2026-12-04", 481, "2026-12-07"),  # over a weekend
        ("2026-12-05", 10, "2026-12-07"),  # its parts come on a Saturday
        ("2026-12-02", 1440 + 30, "2026-12-07"),  # glue that waits a day: rather late than early
    ],
)
def test_work_is_ready_on_a_working_day(day, minutes, ready) -> None:
    assert ready_on(datetime.date.fromisoformat(day), minutes) == datetime.date.fromisoformat(ready)


def test_sums_keep_the_minutes_of_what_is_free_and_tax_work_outside() -> None:
    """10.00 + 20 min (15.00) + outside 40.00 = 65.00, 20 % 13.00: 78.00; 30 minutes free are still 30 minutes."""
    lines = [
        Priced(price=1000, minutes=20),
        Priced(price=500, minutes=30, given=True),
        Priced(price=4000, outside=True),
    ]
    found = totals(lines, DEFAULTS)
    assert (found.parts, found.labour, found.outside, found.tax, found.gross) == (
        1000,
        1500,
        4000,
        1300,
        7800,
    )
    assert found.minutes == 50


def test_a_currency_is_a_short_word() -> None:
    assert Settings.of({"currency": " € "}).school("currency") == "€"
    assert DEFAULTS.school("currency") == ""
