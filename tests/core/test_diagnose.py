"""From the complaint to the cause: against a second, slow ranking, by hand, and played through for every cause."""

from __future__ import annotations

import json
import random
import statistics
import subprocess
import sys

import pytest

from tests.cases import each
from tests.core.causes_oracle import rank
from tests.depth import many
from unkett.core.diagnose.asked import FORMAT, asked_from
from unkett.core.diagnose.search import causes_of
from unkett.core.diagnose.tables import at_ends, shipped
from unkett.core.errors import CoreError, InputError
from unkett.core.intake.inspection import TICKS
from unkett.core.rules import RULES
from unkett.core.vocabulary import SLOTS

TABLES = shipped()
about = pytest.approx


def ask(*complaints, **more):
    return causes_of(asked_from({"format": FORMAT, "complaints": list(complaints), **more}, TABLES), TABLES)


def only_run(*complaints, **more):
    (run,) = ask(*complaints, **more).runs
    return run


def cause(run, code):
    return next((one for one in run.causes if one.cause.code == code), None)


def test_the_tables_name_what_there_is() -> None:
    assert (len(TABLES.complaints), len(TABLES.causes), len(TABLES.checks)) == (39, 180, 140)
    for one in TABLES.causes.values():
        assert bool(one.defect) != bool(one.plan), one.code
        for end in ("front", "rear", None):
            assert set(one.slots(end)) <= {*SLOTS, "bike"}, one.code
        if one.rule:
            assert set(one.slots(None)) & RULES[one.rule].slots(), one.code
            keys = {word.partition(":")[2] for word in (*one.on, *one.off)} - {""}
            assert keys <= RULES[one.rule].messages.keys(), one.code
        if one.defect:
            assert set(one.slots(None)) <= set(TICKS[one.defect].slots), one.code
        assert any(check.shows(one.code) for check in TABLES.checks.values()), one.code
    for one in TABLES.complaints.values():
        assert one.weights, one.code


def test_chances_of_the_handbooks_example() -> None:
    """A hanger gauged, for a bent one: 0.85 × 0.02, 0.075 × 40 and 0.075 × 1 of 3.092 in all."""
    found = TABLES.chances(TABLES.checks["gauge_hanger"], "hanger_bent")
    assert found == about((0.017 / 3.092, 3.0 / 3.092, 0.075 / 3.092))
    assert TABLES.chances(TABLES.checks["ask_rhythm"], None) == about((0.25,) * 4)


def test_shares_of_the_handbooks_example() -> None:
    assert cause(only_run("no_drive"), "freehub_slips").share == about(3 / 12)
    run = only_run("no_drive", answers={"look_chain_place": "on and whole"})
    # the chain off: 0.85 × 0.02 of (0.017 + 0.15 × 40); the others as it comes, 0.85
    off = 3 * 0.017 / 6.017
    assert cause(run, "freehub_slips").share == about(2.55 / (9 * 0.85 + off), abs=1e-6)
    assert cause(run, "chain_off_seen").share == about(off / (9 * 0.85 + off), abs=1e-6)
    assert run.rest == about(0.85 / (9 * 0.85 + off), abs=1e-6)


def questions(seed: int, count: int):
    dice = random.Random(seed)
    for _ in range(count):
        complaints = dice.sample(list(TABLES.complaints), dice.choice((1, 1, 2, 3)))
        named = sorted({code for one in complaints for code in TABLES.complaints[one].weights})
        speaking = [
            check
            for check in TABLES.checks.values()
            if {code for said in check.words.values() for code in said} & set(named)
        ]
        answers = {
            check.code: dice.choice([None, *check.results, *check.results])
            for check in dice.sample(speaking, min(len(speaking), dice.choice((0, 1, 2, 4))))
        }
        proven = dice.sample(named, dice.choice((0, 0, 1)))
        excluded = dice.sample(named, dice.choice((0, 0, 2)))
        yield complaints, answers, proven, excluded


@pytest.mark.long
def test_many_questions_are_ranked_alike_by_a_second_way() -> None:
    each(questions(20261201, many(40)), alike)


def test_some_questions_are_ranked_alike_by_a_second_way() -> None:
    each(questions(7, 12), alike)


def alike(question) -> None:
    complaints, answers, proven, excluded = question
    run = only_run(*complaints, answers=answers, proven=proven, excluded=excluded)
    error = rank(complaints, answers, proven, excluded)
    assert [one.cause.code for one in run.causes if one.holds] == error["held"]
    assert [one.cause.code for one in run.causes if not one.holds] == error["order"]
    for one in run.causes:
        if not one.holds:
            assert one.share == about(error["share"][one.cause.code], abs=1e-9)
    assert run.rest == about(error["rest"], abs=1e-9)
    assert run.state == error["state"]
    assert [one.check.code for one in run.next] == [name for name, _, _ in error["next"]]
    for one, (_, value, safety) in zip(run.next, error["next"], strict=True):
        assert (one.value, one.safety) == (about(value, abs=1e-9), safety)
    assert next((one.confirms for one in run.next if one.confirms), None) == error["confirms"]


# what is certain


BRAKE = {"front_caliper": {"type": "linear_pull", "actuation": "cable", "cable_pull": "long"}}


def built(empty=(), **parts):
    return {"parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}, "empty": list(empty)}


def test_rules_prove_and_exclude() -> None:
    differs = built(
        rear_shifter={"mode": "indexed", "speeds": 9},
        cassette={"teeth": [11, 13, 15, 17, 19, 21, 24, 28], "speeds": 8},
    )
    run = only_run("shift_some", build=differs)
    held = cause(run, "clicks_differ")
    assert (held.holds, held.share, held.why[0]["rule"]) == (True, None, "click-count")
    same = built(
        rear_shifter={"mode": "indexed", "speeds": 8}, cassette=differs["parts"]["cassette"]["attrs"]
    )
    assert cause(only_run("shift_some", build=same), "clicks_differ") is None
    assert cause(only_run("shift_some"), "clicks_differ").share > 0
    # proven by hand, and mended: what is excluded beats what is proven
    assert cause(only_run("shift_some", proven=["hanger_bent"]), "hanger_bent").holds
    assert (
        cause(only_run("shift_some", proven=["hanger_bent"], mended=["hanger_bent"]), "hanger_bent") is None
    )


def test_the_kind_of_bike_leaves_causes_out() -> None:
    run = only_run({"code": "brake_weak", "end": "front"}, build=built(**BRAKE))
    assert cause(run, "rotor_oiled") is None  # no rotor on a rim brake
    assert cause(run, "rim_dirty") is not None
    rear = only_run({"code": "brake_weak", "end": "rear"}, build=built(**BRAKE))
    assert cause(rear, "rotor_oiled") is not None  # of the rear brake nothing is known
    either = only_run("brake_weak", build=built(**BRAKE))
    assert cause(either, "rotor_oiled") is not None
    none = only_run("brake_weak", build=built(empty=("front_rotor", "rear_rotor")))
    assert cause(none, "rotor_oiled") is None


def test_ticks_damage_and_readings_hold_causes() -> None:
    ticked = only_run("skip_load", defects=[{"slot": "chainrings", "defect": "teeth_hooked"}])
    assert [one.cause.code for one in ticked.causes if one.holds] == ["ring_worn"]
    ticked = only_run("skip_load", defects=[{"slot": "cassette", "defect": "teeth_hooked", "do": "must"}])
    assert [one.cause.code for one in ticked.causes if one.holds] == ["cassette_worn"]
    damaged = only_run("creak_load", build=built(frame={"damage": ["crack"]}))
    assert cause(damaged, "frame_crack").holds
    for value, holds in ((0.74, False), (0.75, True)):  # eight sprockets: worn at 0.75 %
        readings = [{"slot": "chain", "code": "chain_pct", "value": value}]
        run = only_run("skip_load", build=built(cassette={"speeds": 8}), readings=readings)
        assert cause(run, "chain_worn").holds is holds
    hanger = only_run("shift_some", readings=[{"slot": "frame", "code": "hanger_mm", "value": 7}])
    assert cause(hanger, "hanger_bent").holds


def test_front_and_rear_are_searched_apart() -> None:
    found = ask({"code": "brake_weak", "end": "front"}, {"code": "brake_rubs", "end": "rear"}, "skip_load",
                answers={"look_pads@front": "worn through", "gauge_chain": "past its limit"})  # fmt: skip
    assert [(run.end, [error.code for error in run.complaints]) for run in found.runs] == [
        ("front", ["brake_weak"]), ("rear", ["brake_rubs"]), (None, ["skip_load"]),
    ]  # fmt: skip
    front, rear, rest = found.runs
    assert cause(front, "pads_through").holds
    assert cause(front, "pads_through").slots == ("front_caliper",)
    assert not any(one.holds for one in rear.causes)
    assert cause(rest, "chain_worn").holds
    one = ask({"code": "brake_weak", "end": "front"}, "skip_load").runs
    assert [(run.end, len(run.complaints)) for run in one] == [("front", 2)]


def test_stops_stay_until_the_complaint_is_gone() -> None:
    found = ask({"code": "brake_weak", "end": "front"}, answers={"look_pads@front": "worn through"})
    assert [(stop.because, stop.end) for stop in found.stops] == [
        ("brake_weak", "front"),
        ("pads_through", "front"),
    ]
    weak = TABLES.complaints["brake_weak"].weights
    assert [stop.because for stop in ask("brake_weak", excluded=list(weak)).stops] == ["brake_weak"]


def test_an_answer_that_cannot_be_given_says_nothing_and_is_not_asked_again() -> None:
    before, after = only_run("skip_load"), only_run("skip_load", answers={"gauge_chain": None})
    assert [one.share for one in after.causes] == [one.share for one in before.causes]
    assert "gauge_chain" in [one.check.code for one in before.next]
    assert "gauge_chain" not in [one.check.code for one in after.next]


# what may not be asked

BAD = [
    ({"complaints": ["skip_load"]}, 'format: missing'),
    ({"format": "unkett.complaint/2", "complaints": ["skip_load"]}, "format: 'unkett.complaint/2' given"),
    ({"format": FORMAT}, "complaints: missing"),
    ({"format": FORMAT, "complaints": []}, "complaints: 0 given; 1 to 12"),
    ({"format": FORMAT, "complaints": ["skip_laod"]}, 'did you mean "skip_load"'),
    ({"format": FORMAT, "complaints": ["skip_load", "skip_load"]}, "complaints[1]: 'skip_load' is given twice"),
    ({"format": FORMAT, "complaints": [{"code": "skip_load", "end": "front"}]}, "complaints[0].end: 'front' given"),
    ({"format": FORMAT, "complaints": [{"code": "brake_weak", "end": "left"}]},
     "complaints[0].end: 'left' given; front, rear allowed"),
    ({"format": FORMAT, "complaints": ["skip_load"], "answers": {"gauge_chain": "ok"}},
     "answers.gauge_chain: 'ok' given"),
    ({"format": FORMAT, "complaints": ["skip_load"], "answers": {"gauge_chian": None}}, "answers.gauge_chian: unknown"),
    ({"format": FORMAT, "complaints": ["skip_load"], "answers": {"gauge_chain@rear": None}}, "is of no end"),
    ({"format": FORMAT, "complaints": ["skip_load"], "build": {"parts": {"casette": {}}}},
     "build.parts.casette: unknown"),
    ({"format": FORMAT, "complaints": ["skip_load"], "defects": [{"slot": "saddle", "defect": "chain_link"}]},
     "defects[0].slot: 'saddle' given"),
    ({"format": FORMAT, "complaints": ["skip_load"],
      "readings": [{"slot": "chain", "code": "chain_pct", "value": "x"}]},
     "readings[0].value: 'x' given; a number allowed"),
    ({"format": FORMAT, "complaints": ["skip_load"], "mended": ["chain"]}, "mended[0]: 'chain' given"),
    ({"format": FORMAT, "complaints": ["skip_load"], "answer": {}}, 'answer: unknown'),
    ([], "an object of the format"),
]  # fmt: skip


@pytest.mark.parametrize(("data", "says"), BAD)
def test_bad_questions_are_reported_by_their_path(data, says) -> None:
    with pytest.raises(InputError) as caught:
        asked_from(data, TABLES)
    assert says in str(caught.value)


def test_keys_of_others_are_carried_past() -> None:
    asked_from({"format": FORMAT, "complaints": ["skip_load"], "x_note": 1, "answers": {"x_y": 2}}, TABLES)


def run_command(*args: str, stdin: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "unkett.cli", "diagnose", *args],
        input=stdin,
        capture_output=True,
        text=True,
        check=False,
    )


def test_the_command_ranks_lists_its_tables_and_refuses() -> None:
    done = run_command("-", stdin=json.dumps({"format": FORMAT, "complaints": ["skip_load"]}))
    error = json.loads(done.stdout)
    assert (done.returncode, error["format"]) == (0, "unkett.causes/1")
    first = error["runs"][0]["causes"][0]
    assert first.keys() == {"cause", "title", "slots", "holds", "share", "word", "stop", "why", "settles"}
    assert error["runs"][0]["next"][0].keys() == {
        "check", "does", "title", "results", "minutes", "tool", "gain", "gain_per_minute", "value", "safety",
        "confirms",
    }  # fmt: skip
    tables = json.loads(run_command("--tables").stdout)
    assert [len(tables[name]) for name in ("complaints", "causes", "checks")] == [39, 180, 140]
    bad = run_command("-", stdin='{"format": "unkett.complaint/1", "complaints": ["x"]}')
    assert (bad.returncode, bad.stdout) == (2, "")
    assert "complaints[0]" in bad.stderr


# the search played through


def answer_of(check, true: str) -> str:
    """What a check says where one cause is there and nobody slips: the likeliest result."""
    chances = TABLES.chances(check, true)
    return check.results[chances.index(max(chances))]


def searched(complaint: str, true: str) -> float | None:
    """Minutes of checks until the cause is held; None where the search ends without it."""
    answers: dict[str, str] = {}
    minutes = 0.0
    while True:
        run = only_run(complaint, answers=answers)
        if any(one.holds and one.cause.code == true for one in run.causes):
            return minutes
        if run.state != "looking":
            return None
        check = run.next[0].check
        answers[check.code] = answer_of(check, true)
        minutes += check.minutes


@pytest.mark.long
def test_every_cause_alone_is_found_in_a_few_minutes() -> None:
    played = {
        (code, true): searched(code, true) for code, one in TABLES.complaints.items() for true in one.weights
    }
    lost = [pair for pair, minutes in played.items() if minutes is None]
    assert len(lost) <= len(played) * 0.02, lost
    assert statistics.mean(minutes for minutes in played.values() if minutes is not None) <= 5


def test_own_weights_lie_over_those_that_ship() -> None:
    own = TABLES.with_own({"skip_load": {"hanger_bent": 9}}, {"shows": 20})
    assert own.complaints["skip_load"].weights["hanger_bent"] == 9
    assert (
        own.complaints["skip_load"].weights["chain_worn"]
        == TABLES.complaints["skip_load"].weights["chain_worn"]
    )
    assert (own.figures["shows"], TABLES.figures["shows"]) == (20, 40)
    with pytest.raises(CoreError):
        TABLES.with_own({"skip_load": {"no_such": 1}})
    with pytest.raises(CoreError):
        TABLES.with_own({}, {"no_such": 1})


def test_both_ends_are_named_where_none_is_reported() -> None:
    assert at_ends("{end}_rotor") == ("front_rotor", "rear_rotor")
    assert at_ends("{end}_rotor", "rear") == ("rear_rotor",)
    assert at_ends("frame", "rear") == ("frame",)
