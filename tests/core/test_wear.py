"""The wear log: limits by part and setting, worn or not, and forecasts worked out by hand."""

import pytest

from unkett.core.bike.wear import Limit, Reading, axis_of, limit_of, outlook, sorts, worn_out
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.settings import Settings

CHAIN, ROTOR = sorts()["chain_pct"], sorts()["rotor_mm"]


def bike(**parts):
    return build_from({"parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}})


@pytest.mark.parametrize(
    ("attrs", "own", "limit"),
    [
        ({"speeds": 12, "teeth": list(range(10, 22))}, {}, 0.5),  # from 11 sprockets up
        ({"speeds": 11}, {}, 0.5),
        ({"speeds": 10}, {}, 0.75),  # 5 to 10
        ({"speeds": 9, "teeth": [16]}, {}, 1.0),  # one sprocket alone
        ({"speeds": 10}, {"chain_worn_wide_pct": 0.6}, 0.6),  # the workshop's own
        ({}, {}, None),
    ],
)
def test_a_chains_limit_hangs_on_its_sprockets(attrs, own, limit) -> None:
    found = limit_of(CHAIN, bike(cassette=attrs), "chain", Settings.of(own))
    assert (found and found.value) == limit


def test_a_rotors_limit_is_stamped_or_assumed() -> None:
    assert limit_of(ROTOR, bike(front_rotor={"thickness_min_mm": 1.55}), "front_rotor").value == 1.55
    assumed = limit_of(ROTOR, bike(front_rotor={"thickness_mm": 1.8}), "front_rotor")
    assert (assumed.value, assumed.said_by.startswith("assumed")) == (1.5, True)
    assert limit_of(ROTOR, bike(front_rotor={}), "front_rotor") is None


def test_the_limit_is_met_where_the_straight_line_gets_there() -> None:
    """0.1 % on day 0 and 0.3 % on day 40: 0.005 a day, so that 0.5 % is met on day 80. No bounds from two readings."""
    found = outlook(
        CHAIN, [Reading(day=0, value=0.1), Reading(day=40, value=0.3)], Limit(value=0.5, said_by="x")
    )
    assert (found.worn, found.by, round(found.at, 6), found.low) == (False, "day", 80.0, None)


def test_kilometres_count_where_every_reading_has_them() -> None:
    """1.8 mm at 0 km, 1.7 at 1000: 0.1 per 1000 km, so that 1.5 mm is met at 3000 km."""
    limit = Limit(value=1.5, said_by="x")
    rows = [Reading(day=0, value=1.8, km=0), Reading(day=90, value=1.7, km=1000)]
    found = outlook(ROTOR, rows, limit)
    assert (found.by, round(found.at, 6)) == ("km", 3000.0)
    assert outlook(ROTOR, [rows[0], Reading(day=90, value=1.7)], limit).by == "day"


def test_three_readings_give_bounds_around_the_forecast() -> None:
    limit = Limit(value=0.5, said_by="x")
    rows = [Reading(day=0, value=0.1), Reading(day=20, value=0.21), Reading(day=40, value=0.29)]
    found = outlook(CHAIN, rows, limit)
    assert found.at is not None
    assert found.low is None or found.low < found.at
    assert found.high is None or found.at < found.high


@pytest.mark.parametrize(("value", "worn"), [(0.49, False), (0.5, True), (0.8, True)])
def test_at_the_limit_a_part_is_worn(value, worn) -> None:
    assert outlook(CHAIN, [Reading(day=0, value=value)], Limit(value=0.5, said_by="x")).worn is worn
    thin = outlook(ROTOR, [Reading(day=0, value=2.0 - value)], Limit(value=1.5, said_by="x"))
    assert thin.worn is worn


def test_what_does_not_wear_meets_no_limit() -> None:
    limit = Limit(value=0.5, said_by="x")
    better = outlook(CHAIN, [Reading(day=0, value=0.3), Reading(day=40, value=0.2)], limit)
    same_day = outlook(CHAIN, [Reading(day=0, value=0.3), Reading(day=0, value=0.31)], limit)
    assert (better.at, same_day.at, outlook(CHAIN, [], limit).worn) == (None, None, False)
    assert outlook(sorts()["pressure_bar"], [Reading(day=0, value=4)], None).at is None


def test_a_reading_that_is_none_is_refused() -> None:
    with pytest.raises(InputError, match="-1 to 5 %"):
        CHAIN.accept(34.87)


def test_a_piece_wears_on_from_bike_to_bike() -> None:
    """0.1 % at 500 km and 0.3 at 1500 on one bike; 0.3 at 200 and 0.4 at 700 on the next: 0.2 per 1000 km on both.

    0.5 % is met 500 km after 700. What lies between the bikes counts nothing: 1500 there is 200 here.
    """
    limit = Limit(value=0.5, said_by="x")
    rows = [
        Reading(day=0, value=0.1, km=500, bike=1),
        Reading(day=50, value=0.3, km=1500, bike=1),
        Reading(day=400, value=0.3, km=200, bike=2),
        Reading(day=420, value=0.4, km=700, bike=2),
    ]
    assert axis_of(rows) == ("km", (-800.0, 200.0, 200.0, 700.0))
    found = outlook(CHAIN, rows, limit)
    assert (found.by, round(found.at, 6)) == ("km", 1200.0)
    by_day = axis_of([Reading(day=one.day, value=one.value, bike=one.bike) for one in rows])
    assert by_day == ("day", (350.0, 400.0, 400.0, 420.0))


@pytest.mark.parametrize(
    ("slot", "attrs", "worn"),
    [
        ("chain", {"speeds": 11, "elongation_pct": 0.5}, True),
        ("chain", {"speeds": 10, "elongation_pct": 0.5}, False),  # wide: 0.75
        ("chain", {"elongation_pct": 0.9}, False),  # by which limit is not known
        ("rear_rotor", {"measured_mm": 1.5, "thickness_min_mm": 1.5}, True),
        ("rear_rotor", {"measured_mm": 1.5}, False),
        ("front_tyre", {"tread_mm": 0.9}, True),
        ("front_tyre", {}, False),
    ],
)
def test_a_piece_is_worn_out_by_the_reading_that_it_carries(slot, attrs, worn) -> None:
    assert worn_out(slot, bike(**{slot: attrs}).parts[slot]) is worn
