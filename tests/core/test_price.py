"""Quotes and finished bikes from one sheet: sums by hand, what is settled, readings judged before they are taken."""

from __future__ import annotations

import json
import random
from decimal import Decimal
from typing import Any

import pytest

from tests.cases import each
from tests.core.test_work import BIKE, TRAIL, demo_plans
from unkett.cli import main
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.intake.inspection import TICKS
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect
from unkett.core.work.parsing import can_have, sheet_from
from unkett.core.work.price import to_cents
from unkett.core.work.quote_reader import finished_from, quote_from
from unkett.core.work.readings import Expected, judge
from unkett.core.work.step import Step, Torque

Json = dict[str, Any]
MONEY: Json = {"currency": "crowns", "labour_per_hour": 48, "tax_pct": 20, "consumables": 3}


def with_findings(work: Json, seed: int) -> Json:
    """A plan with up to three findings that the bike can have."""
    then = build_from(work["planned"])
    places = [
        (slot, code)
        for code, tick in TICKS.items()
        for slot in tick.slots
        if slot in then.filled() and can_have(then, Defect(slot=slot, defect=code))
    ]
    picked = random.Random(seed).sample(places, 3)
    return {**work, "defects": [{"slot": slot, "defect": code} for slot, code in picked]}


@pytest.mark.parametrize(("name", "work"), demo_plans(), ids=[name for name, _ in demo_plans()])
def test_a_quote_has_the_minutes_of_its_sheet_and_says_what_has_no_price(name, work) -> None:
    work = with_findings(work, len(name))
    sheet = sheet_from(work).to_json()
    prices = {slot: 10 for slot in SLOTS if slot != "chain"}
    quote = quote_from({"work": work, "money": {**MONEY, "prices": prices}}).to_json()
    assert quote["minutes"] == sheet["minutes"] == sum(line["minutes"] for line in quote["lines"])
    by_cause = {step["causes"][0]: 0 for step in sheet["steps"]}
    for step in sheet["steps"]:
        by_cause[step["causes"][0]] += step["minutes"]
    assert {line["cause"]: line["minutes"] for line in quote["lines"] if line["minutes"]} == {
        cause: minutes for cause, minutes in by_cause.items() if minutes
    }
    labour = sum(to_cents(Decimal(48) * line["minutes"] / 60) for line in quote["lines"])
    parts = sum(
        piece["count"] * Decimal(str(piece["price"])) for line in quote["lines"] for piece in line["parts"]
    )
    net = labour + parts + 3
    assert [Decimal(str(quote[key])) for key in ("labour", "parts", "consumables")] == [labour, parts, 3]
    assert Decimal(str(quote["tax"])) == to_cents(net / 5)
    assert Decimal(str(quote["total"])) == net + to_cents(net / 5)
    changed = {
        slot for slot in SLOTS if work["build"]["parts"].get(slot) != work["planned"]["parts"].get(slot)
    }
    assert {line["cause"] for line in quote["lines"]} >= {f"change:{slot}" for slot in changed if slot != "frame"
                                                          if "spokes" not in slot}  # fmt: skip
    ticked = {f"defect:{one['slot']}:{one['defect']}" for one in work["defects"]}
    assert ticked <= {line["cause"] for line in quote["lines"]}
    unpriced = {piece["slot"] for piece in quote["unpriced"] if "slot" in piece}
    assert unpriced == ({"chain"} & changed if work["planned"]["parts"].get("chain") else set())


def test_a_quote_worked_out_by_hand() -> None:
    """A chain again on a bike: 4 + 6 + 12 + 6 = 28 minutes for it, 28 of the job itself; 48 an hour, 20 % tax."""
    work = {"build": BIKE["Coast audax"], "replaced": ["chain"]}
    money = {**MONEY, "prices": {"chain": 24.5}, "outside": [{"says": "Paint", "price": 80}]}
    quote = quote_from({"work": work, "money": money}).to_json()
    lines = {line["cause"]: line for line in quote["lines"]}
    assert {cause: (line["minutes"], line["price"]) for cause, line in lines.items()} == {
        "change:chain": (28, 22.4),
        "job": (28, 22.4),
    }
    assert lines["change:chain"]["parts"] == [{"slot": "chain", "count": 1, "price": 24.5}]
    assert (quote["labour"], quote["parts"], quote["outside"]) == (44.8, 24.5, 80)
    assert quote["tax"] == 30.46  # 20 % of 44.80 + 24.50 + 3 + 80 = 152.30
    assert quote["total"] == 182.76
    free = quote_from({"work": work, "money": {**money, "given": ["change:chain"]}}).to_json()
    assert (free["minutes"], free["labour"], free["parts"]) == (56, 22.4, 0)
    brought = quote_from({"work": work, "money": {**MONEY, "brought": ["chain"]}}).to_json()
    assert (brought["parts"], brought["unpriced"]) == (0, [])


def test_a_bike_that_is_only_looked_at_uses_nothing_up() -> None:
    quote = quote_from({"work": {"build": BIKE[TRAIL]}, "money": MONEY}).to_json()
    assert (quote["consumables"], [line["cause"] for line in quote["lines"]]) == (0, ["job"])


def needs_of(build: Json) -> set[tuple[str, frozenset[str], str]]:
    return {
        (finding.rule, frozenset(finding.slots), need["what"])
        for finding in check(build_from(build)).findings
        for need in finding.needs
    }


@pytest.mark.parametrize(("name", "work"), demo_plans(), ids=[name for name, _ in demo_plans()])
def test_after_the_hand_over_nothing_is_needed_that_was_done(name, work) -> None:
    work = with_findings(work, len(name))
    before, planned = needs_of(work["build"]), needs_of(work["planned"])
    after = finished_from({"work": work}).to_json()
    assert needs_of(after) <= before
    assert {part["name"] for part in after["parts"].values()} == {
        part["name"] for part in work["planned"]["parts"].values()
    }
    assert build_from(json.loads(json.dumps(after))).to_json() == after
    assert {one["rule"] for one in after.get("settled", [])} <= {rule for rule, _, _ in planned}


def test_a_settled_need_comes_back_when_a_part_of_its_joint_changes() -> None:
    work = dict(demo_plans())["Wide tens"]
    after = build_from(finished_from({"work": work}).to_json())
    assert after.settled
    slot = after.settled[0].slots[0]
    other = after.with_part(slot, after.parts[slot])
    assert [one for one in other.settled if slot in one.slots] == []
    assert len(needs_of(other.to_json())) > len(needs_of(after.to_json()))


def test_a_bike_that_is_handed_over_has_no_unused_part() -> None:
    work = json.loads(json.dumps(dict(demo_plans())["Wide tens"]))
    work["planned"]["parts"]["cassette"]["attrs"]["unused"] = True
    assert "unused" not in finished_from({"work": work}).to_json()["parts"]["cassette"]["attrs"]


@pytest.mark.parametrize(
    ("slot", "inners"), [("rear_shifter", 1), ("rear_derailleur", 0), ("rear_shift_line", 0)]
)
def test_a_new_shifter_brings_an_inner(slot, inners) -> None:
    """A line that is fitted new has its inner with it."""
    work = {"build": BIKE["Harbour post no. 4"], "replaced": [slot]}
    quote = quote_from({"work": work, "money": {**MONEY, "small_parts": {"new inner": 4}}}).to_json()
    brought = [
        piece for line in quote["lines"] for piece in line["parts"] if piece.get("what") == "new inner"
    ]
    assert brought == [{"what": "new inner", "count": 1, "price": 4}] * inners
    assert quote["parts"] == 4 * inners


def test_what_was_read_is_the_value_and_what_was_left_out_has_no_effect() -> None:
    work = dict(demo_plans())["Wide tens"]
    read = finished_from({"work": work, "readings": {"fit:chain": 112}}).to_json()
    assert read["parts"]["chain"]["attrs"]["links"] == 112  # its window, 116 less the links taken out
    left = finished_from({"work": work, "skipped": ["take_off:cassette", "fit:cassette"]}).to_json()
    assert left["parts"]["cassette"] == work["build"]["parts"]["cassette"]
    off = finished_from({"work": work, "skipped": ["fit:cassette"]}).to_json()
    assert "cassette" not in off["parts"]


def step(**more: Any) -> Step:
    return Step(id="fit:stem", slot="stem", does="fit", says="", **more)


TORQUE = {
    "reading": {"word": "torque", "unit": "Nm"},
    "torque": Torque(low=5, high=6, target=5.5, said_by="table"),
}
SINGLE = {**TORQUE, "torque": Torque(low=5, high=5, target=4.5, said_by="part")}
HANGER = {"reading": {"word": "hanger, the most off", "unit": "mm"}, "most": 4.0}
LINKS = {"reading": {"slot": "chain", "attr": "links", "unit": ""}}

# the step, what was read, what was worked out, whether it is taken
READINGS = [
    (TORQUE, [5.5], None, True),
    (TORQUE, [5.5, 6.0, 5.0], None, True),
    (TORQUE, [5.5, 60.0], None, False),  # ten times too much on one of two bolts
    (TORQUE, [4.9], None, False),
    (SINGLE, [4.5], None, True),  # 90 % of a printed figure
    (SINGLE, [5.1], None, False),
    (HANGER, [4.0], None, True),
    (HANGER, [4.1], None, False),
    (LINKS, [116], 116.0, True),
    (LINKS, [114], 116.0, False),
    (LINKS, [1160], None, False),
    (TORQUE, [], None, False),
    (HANGER, [float("nan")], None, False),
]


def test_a_reading_is_judged_before_it_is_taken() -> None:
    def examine(row: tuple[Json, list[float], float | None, bool]) -> None:
        made, values, computed, taken = row
        assert judge(Expected.of_step(step(**made), computed), values).taken is taken

    each(READINGS, examine)


FAULTS = [
    ({"work": {}}, "work.build: missing"),
    ({"work": {"build": BIKE[TRAIL]}, "readings": {"fit:x": 3}}, "readings.fit:x: no step of this sheet"),
    (
        {"work": {"build": BIKE[TRAIL], "replaced": ["stem"]}, "readings": {"fit:stem": 60}},
        "readings.fit:stem: 60 Nm",
    ),
    ({"work": {"build": BIKE[TRAIL]}, "readings": {"look:bike": "x"}}, "readings.look:bike"),
    ({"work": {"build": BIKE[TRAIL]}, "kept": {"look:bike": {"why": "so"}}}, "kept.look:bike: why and who"),
    ({"work": {"build": BIKE[TRAIL]}, "skipped": "all"}, "skipped:"),
    ({"work": {"build": BIKE[TRAIL]}, "hurry": 1}, "hurry: unknown"),
]


def test_what_cannot_be_read_of_a_finished_job_is_reported_by_path() -> None:
    def examine(row: tuple[Json, str]) -> None:
        with pytest.raises(InputError) as error:
            finished_from(row[0])
        assert row[1] in str(error.value)

    each(FAULTS, examine)


def test_a_reading_outside_is_kept_with_a_reason() -> None:
    work = {"build": BIKE[TRAIL], "replaced": ["stem"]}
    asked = {
        "work": work,
        "readings": {"fit:stem": 60},
        "kept": {"fit:stem": {"why": "wrench off", "who": "Rona"}},
    }
    assert finished_from(asked).parts["stem"].name == BIKE[TRAIL]["parts"]["stem"]["name"]


MONEY_FAULTS = [
    ({"labour_per_hour": -1}, "money.labour_per_hour: -1 given"),
    ({"tax_pct": 101}, "money.tax_pct: 101 given"),
    ({"prices": {"chian": 3}}, "money.prices.chian: unknown"),
    ({"small_parts": {"spacer": "x"}}, "money.small_parts.spacer"),
    ({"given": ["chain"]}, "money.given[0]"),
    ({"brought": ["wheel"]}, "money.brought[0]"),
    ({"outside": [{"says": "Paint", "price": True}]}, "money.outside[0].price"),
]


def test_money_that_cannot_be_is_reported_by_path(tmp_path, capsys) -> None:
    def examine(row: tuple[Json, str]) -> None:
        path = tmp_path / "q.json"
        path.write_text(json.dumps({"work": {"build": {"parts": {}}}, "money": row[0]}))
        assert main(["quote", str(path)]) == 2
        assert row[1] in capsys.readouterr().err

    each(MONEY_FAULTS, examine)
