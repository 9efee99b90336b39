"""Every rule against its table, and the promises that hold for all rules."""

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

import pytest
from attrs import evolve

from tests.cases import Case, each
from tests.cases.all import CASES
from tests.cases.figures import BY_HAND, NEEDS
from unkett.core.check.engine import SlotChecker, check
from unkett.core.formats.reader import build_from
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.vocabulary import describe

# a hidden cable brake goes with a caution at best; readings that agree are not spoken of
NEVER_JUST_GOES = {
    "brake-line-drag": {"goes"},
    "two-readings": {"goes"},
    "crank-shell": {"goes"},
    "chain-joints": {"goes"},
}

SPEAKING = [case for case in CASES if case.verdict]


def findings_of(case: Case) -> list[Finding]:
    return [finding for finding in check(case.build).findings if finding.rule == case.rule]


def asked(one: Mapping[str, Any]) -> str:
    return one["slot"] if one["attr"] is None else f"{one['slot']}.{one['attr']}"


@pytest.mark.parametrize("rule", RULES)
def test_cases_of_a_rule(rule: str) -> None:
    each([case for case in CASES if case.rule == rule], holds)


def holds(case: Case) -> None:
    found = findings_of(case)
    if case.verdict is None:
        assert not found
        return
    assert [(f.verdict.value, f.key) for f in found] == [(case.verdict, case.key)]
    finding = found[0]
    assert finding.says.endswith(".")
    assert len(finding.says) <= 150
    assert finding.source
    for name, value in case.figures.items():
        wanted = value if isinstance(value, str) else pytest.approx(value, abs=0.006)
        assert finding.because[name] == wanted, name
    if case.needs is not None:
        assert tuple(one["what"] for one in finding.needs) == case.needs
    if case.ways is not None:
        assert tuple(asked(one) for one in finding.ways_out) == case.ways
    if case.asks is not None:
        assert tuple(asked(one) for one in finding.measure) == case.asks


def found(rule: str, key: str) -> Any:
    """The finding with a message in the first case there is of it."""
    cases = [case for case in CASES if (case.rule, case.key) == (rule, key)]
    assert cases, f"rule {rule}: tests/cases has no case for its message {key!r}"
    findings = [finding for finding in findings_of(cases[0]) if finding.key == key]
    assert findings, f"rule {rule}: the case for {key!r} says something else"
    return findings[0]


def test_figures_worked_by_hand() -> None:
    def examine(row: tuple[tuple[str, str], Mapping[str, Any]]) -> None:
        place, figures = row
        finding = found(*place)
        for name, value in figures.items():
            wanted = value if isinstance(value, str) else pytest.approx(value, abs=0.006)
            assert finding.because[name] == wanted, name

    each(BY_HAND.items(), examine)


def test_needs_worked_by_hand() -> None:
    def examine(row: tuple[tuple[str, str, str], Mapping[str, Any]]) -> None:
        (rule, key, what), figures = row
        error = next((need for need in found(rule, key).needs if need["what"] == what), None)
        assert error is not None, f"rule {rule}, message {key}: its case needs no {what!r}"
        for name, value in figures.items():
            wanted = pytest.approx(value, abs=0.006) if isinstance(value, float) else value
            assert error[name] == wanted, name

    each(NEEDS.items(), examine)


def test_every_rule_with_figures_has_some_worked_by_hand() -> None:
    worked = {case.rule for case in CASES if case.figures} | {rule for rule, _ in BY_HAND}
    assert {rule.id for rule in RULES.values() if rule.figures} - worked == set()


def test_what_a_verdict_must_carry() -> None:
    def examine(case: Case) -> None:
        finding = findings_of(case)[0]
        assert bool(finding.needs) == (case.verdict == "goes_if")
        assert bool(finding.measure) == (case.verdict == "unmeasured")
        assert bool(finding.ways_out) == (case.verdict == "no_go")
        assert {need["sort"] for need in finding.needs} <= {"part", "work", "check", "accept"}

    each(SPEAKING, examine)


def test_every_rule_has_its_cases() -> None:
    """One case per message, one that goes, one unmeasured and one where the rule says nothing."""
    seen = defaultdict(set)
    for case in CASES:
        seen[case.rule] |= {case.key, case.verdict}
    lacking = {}
    for rule_id, rule in RULES.items():
        wanted = {*rule.messages, None} | ({"goes"} - NEVER_JUST_GOES.get(rule_id, set()))
        wanted |= {"unmeasured", "missing"} if required(rule) else set()
        if wanted - seen[rule_id]:
            lacking[rule_id] = wanted - seen[rule_id]
    says = [
        f"rule {rule}: write cases in tests/cases for {sorted(map(str, of))}" for rule, of in lacking.items()
    ]
    assert says == []


def required(rule) -> bool:
    """Whether some attribute must be there before the rule speaks."""
    return any(seen.must or seen.asks for site in rule.sites for one in site.clauses for seen in one.seen)


def test_no_case_for_a_rule_or_message_that_is_gone() -> None:
    for case in CASES:
        assert case.key in {*RULES[case.rule].messages, "missing", "beyond", "two_readings", None}, case


def test_a_slot_checker_says_the_same() -> None:
    def examine(case: Case) -> None:
        build = case.build
        whole = findings_of(case)
        for slot in () if case.also else whole[0].slots:  # a candidate fills one slot
            others = build.with_part(slot, None)
            checker, attrs = SlotChecker(others, slot), build.parts[slot].attrs
            seen = checker.check(attrs).findings
            assert checker.verdict(attrs) is checker.check(attrs).verdict, slot
            assert [f for f in seen if f.rule == case.rule] == whole, slot

    each(SPEAKING, examine)


def test_order_of_parts_changes_nothing() -> None:
    def examine(case: Case) -> None:
        build = case.build
        turned = {**build.to_json(), "parts": dict(reversed(build.to_json()["parts"].items()))}
        assert check(build_from(turned)) == check(build)

    each(CASES, examine)


# clauses that speak only once a figure of their own is read: of a bike without it nothing is asked
SILENT_UNTIL_READ = {
    ("axle-fit", "trainer"),
    ("stem-spacers", "above_mm"),
    ("chain-tension", "coaster"),
    ("light-supply", "dynamo_w"),
    ("headset-fit", "angle_change_deg"),
    ("shock-mount", "mount"),  # shock-fit asks for it
    ("shock-mount", "shock_mount"),
    ("shock-room", "room_mm"),
    ("shock-room", "tyre_room_full_mm"),
    ("shock-hardware", "eye_width_mm"),  # hardware that is fitted and right is in its eye already
    ("shock-hardware", "eye_bore_mm"),
    ("spring-on-shock", "set_preload_mm"),
    ("air-limit", "set_spacers"),
    *(
        ("inner-head", name)
        for name in ("inner_mm", "inner_length_mm", "housing_od_mm", "stop_bore_mm", "length_mm")
    ),
}
SAFETY_CASES = [case for case in CASES if case.verdict and RULES[case.rule].safety]


def without(case: Case, slot: str, name: str) -> Case:
    """The case with one reading less."""
    parts = {
        other: {n: v for n, v in of.items() if (other, n) != (slot, name)} for other, of in case.parts.items()
    }
    return evolve(case, parts=parts)


def test_a_safety_rule_never_gets_better_by_measuring_less() -> None:
    each(SAFETY_CASES, no_better_by_measuring_less)


def no_better_by_measuring_less(case: Case) -> None:
    """Taking a reading away from what forbids or makes a condition never leaves anything better said.

    What its maker states only where it differs (`unstated` says what holds else) is no reading.
    """
    before = worst([finding.verdict for finding in findings_of(case)])
    if before not in (Verdict.NO_GO, Verdict.GOES_IF):
        return
    for slot, attrs in case.parts.items():
        for name in attrs:
            if describe(slot, name).unstated or (case.rule, name) in SILENT_UNTIL_READ:
                continue
            after = [finding.verdict for finding in findings_of(without(case, slot, name))]
            if after:
                assert worst(after).order <= max(before.order, Verdict.UNMEASURED.order), (slot, name)


ENDS = {"front": "rear", "rear": "front"}


def test_front_and_rear_are_never_mixed_up() -> None:
    each(SPEAKING, ends_stay_apart)


def ends_stay_apart(case: Case) -> None:
    """Parts of the other end, whatever they are, change nothing of what is said of this end."""
    rule = RULES[case.rule]
    if len(rule.sites) != 2 or not rule.sites[0].joint.startswith(("front_", "rear_")):
        return
    if case.rule == "light-supply":  # a rear light hangs on a dynamo in front
        return
    mine = {slot for finding in findings_of(case) for slot in finding.slots}
    other_end = {
        "front_hub": {"holes": 20, "rotor_mount": "none"},
        "front_rim": {"bsd_mm": 305, "holes": 20, "brake_track": False, "bead": "tubular"},
        "front_tyre": {"bsd_mm": 305, "width_mm": 90},
        "front_rotor": {"diameter_mm": 300, "mount": "five_bolt", "measured_mm": 0.5},
        "front_caliper": {"type": "disc", "mount": "is", "actuation": "hydraulic", "fluid": "glycol"},
        "front_brake_lever": {"actuation": "cable", "cable_pull": "short"},
        "front_spokes": {"head": "straight_pull"},
    }
    end = "rear" if any(slot.startswith("rear_") or slot == "frame" for slot in mine) else "front"
    strange = {slot.replace("front_", f"{ENDS[end]}_"): attrs for slot, attrs in other_end.items()}
    taken = case.build.filled()
    mixed = {**{slot: attrs for slot, attrs in strange.items() if slot not in taken}, **case.parts}
    whole = Case(rule=case.rule, verdict=None, key=None, parts=mixed, bike=case.bike, also=case.also)
    kept = [
        finding
        for finding in findings_of(whole)
        if set(finding.slots) <= mine and len(finding.slots) == len(mine)
    ]
    assert kept == findings_of(case)


def test_every_rule_says_what_goes_wrong_otherwise() -> None:
    whys = [rule.why for rule in RULES.values()]
    assert [why for why in whys if len(why) <= 30 or not why.endswith(".")] == []
    assert len(set(whys)) == len(whys)
