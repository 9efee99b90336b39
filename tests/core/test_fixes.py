"""Ways out tried as changes, and gears to order: worked out by hand on small bikes."""

import math

import pytest

from unkett.core.check.engine import check
from unkett.core.formats.reader import build_from
from unkett.core.rules.finding import Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.ways.fixes import fixes, targets
from unkett.core.ways.gear_search import gear_search, lowest_for_hill
from unkett.core.ways.money import Priced, ResaleSums, totals
from unkett.core.ways.parsing import question_from
from unkett.core.ways.wish import GearsWanted


def shelf(*rows):
    parts = [
        {"id": name, "slot": slot, "part": {"kind": slot, "name": name, "attrs": attrs}, "price": price}
        for slot, name, attrs, price in rows
    ]
    return question_from({"build": {"parts": {}}, "shelf": parts}).shelf


def test_a_chain_that_is_too_wide_is_cured_by_one_part_and_the_milder_cure_stands_first() -> None:
    parts = {"chain": {"attrs": {"speeds": 8}}, "cassette": {"attrs": {"speeds": 10}}}
    build = build_from({"parts": parts})
    found = check(build)
    wide = next(one for one in found.findings if one.rule == "chain-width")
    assert wide.verdict is Verdict.NO_GO
    assert "chain" in [slot for slot, _ in targets(wide)]
    there = shelf(
        ("chain", "eleven", {"speeds": 11}, 5),
        ("chain", "ten", {"speeds": 10}, 30),
        ("chain", "six", {"speeds": 6}, 1),
    )
    tried = fixes(build, found, wide, there)
    assert tried[0].parts[0][1].id == "ten"
    assert "six" not in [part.id for one in tried for _, part in one.parts]
    assert tried[0].price == 3000
    assert [one.rule for one in tried[0].cured] == ["chain-width"]


def test_a_part_that_spoils_the_next_joint_is_tried_with_a_second_one() -> None:
    """A threaded hub wants a freewheel; the one there is has 5 sprockets, too few for a chain of 12."""
    parts = {
        "chain": {"attrs": {"speeds": 12}},
        "cassette": {"attrs": {"speeds": 12, "mount": "spline9"}},
        "rear_hub": {"attrs": {"freehub": "threaded"}},
    }
    build = build_from({"parts": parts})
    found = check(build)
    seat = next(one for one in found.findings if one.rule == "freehub-seat")
    assert seat.verdict is Verdict.NO_GO
    there = shelf(
        ("cassette", "freewheel", {"speeds": 5, "mount": "threaded"}, 20),
        ("chain", "chain of five", {"speeds": 5}, 9),
    )
    tried = fixes(build, found, seat, there)
    assert [[part.id for _, part in one.parts] for one in tried] == [["freewheel", "chain of five"]]
    assert tried[0].price == 2900


WHEEL = {"rear_rim": {"attrs": {"bsd_mm": 622}}, "rear_tyre": {"attrs": {"width_mm": 40}}}


def test_gears_to_order_reach_what_is_wished_and_are_ranked() -> None:
    """Roll-out π × (622 + 80) = 2205.4 mm. 40/42 = 2.10 m, 40/34 = 2.59 m, 32/34 = 2.08 m, 32/11 = 6.42 m."""
    parts = {
        **WHEEL,
        "chainrings": {"attrs": {"teeth": [40]}},
        "cassette": {"attrs": {"teeth": [11, 22, 34]}},
    }
    build = build_from({"parts": parts})
    there = shelf(
        ("chainrings", "32", {"teeth": [32]}, 20),
        ("cassette", "11-42", {"teeth": [11, 15, 21, 30, 42]}, 50),
    )
    found = gear_search(build, check(build), there, GearsWanted(lowest_m_max=2.2))
    named = [(one.rings and one.rings.id, one.cassette and one.cassette.id) for one in found]
    assert named == [(None, "11-42"), ("32", "11-42"), ("32", None)]
    assert found[0].low_m == pytest.approx(40 / 42 * math.pi * 702 / 1000)
    assert found[0].step_pct == pytest.approx(30 / 21 * 100 - 100)
    cheap = gear_search(build, check(build), there, GearsWanted(lowest_m_max=2.2), by="price")
    assert [one.price for one in cheap] == [2000, 5000, 7000]
    assert gear_search(build, check(build), there, GearsWanted(lowest_m_max=0.4)) == []
    high = gear_search(build, check(build), there, GearsWanted(highest_m_min=8.0))
    assert {one.rings for one in high} == {None}


def test_a_hill_asks_for_the_gear_in_which_the_rider_turns_the_wished_cadence() -> None:
    """Uphill slowly nearly all power lifts: 90 kg at 10 % with 150 W go about 150/(90·9.81·0.0995) = 1.71 m/s.

    With rolling and a little wind it is less; at 60 rpm the gear is a little under 1.71 m.
    """
    low = lowest_for_hill(mass_kg=90, power_w=150, grade_pct=10, cadence_rpm=60)
    assert 1.5 < low < 1.71
    assert lowest_for_hill(mass_kg=90, power_w=150, grade_pct=10, cadence_rpm=30) == pytest.approx(2 * low)


def test_a_quote_adds_parts_and_labour_and_taxes_both() -> None:
    """100.00 + 12.50, 50 min at 45.00 = 37.50; 150.00 net, 20 % 30.00. What is given costs nothing but minutes."""
    lines = [
        Priced(price=10000, minutes=20),
        Priced(price=1250, minutes=30),
        Priced(price=999, minutes=60, given=True),
    ]
    found = totals(lines, DEFAULTS)
    assert (found.parts, found.minutes, found.labour, found.net, found.tax, found.gross) == (
        11250, 110, 3750, 15000, 3000, 18000,
    )  # fmt: skip
    own = Settings.of({"labour_per_hour": 33.3, "tax_pct": 7.5})
    one = totals([Priced(price=0, minutes=1)], own)
    assert (one.labour, one.tax) == (56, 4)  # 55.5 and 4.2 hundredths


def test_a_ledger_tells_profit_and_what_an_hour_earned() -> None:
    """Bought 80, parts in 45.50, parts out 20: cost 105.50. Sold for 200: 94.50 in 3 h 30 = 27.00 an hour."""
    book = ResaleSums(bought=8000, parts_in=4550, parts_out=2000, minutes=210, sold=20000)
    assert (book.cost, book.profit, book.per_hour) == (10550, 9450, 2700)
    loss = ResaleSums(bought=8000, minutes=60, sold=7000)
    assert (loss.profit, loss.per_hour) == (-1000, -1000)
    assert ResaleSums(bought=8000).profit is None
