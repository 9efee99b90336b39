"""Every rule against its table, and the promises that hold for all rules."""

from collections import defaultdict

import pytest

from tests.cases import Case
from tests.cases.all import CASES
from unkett.core.engine import SlotChecker, check
from unkett.core.finding import Finding
from unkett.core.rules import RULES

NEVER_JUST_GOES = {"brake-line-drag": {"goes"}}  # a hidden cable brake goes with a caution at best


def findings_of(case: Case) -> list[Finding]:
    return [finding for finding in check(case.build).findings if finding.rule == case.rule]


@pytest.mark.parametrize("case", CASES, ids=str)
def test_case(case: Case) -> None:
    found = findings_of(case)
    if case.verdict is None:
        assert not found
        return
    assert [(f.verdict.value, f.key) for f in found] == [(case.verdict, case.key)]
    assert found[0].says.endswith(".")
    assert len(found[0].says) <= 130
    assert found[0].source


@pytest.mark.parametrize("case", [case for case in CASES if case.verdict], ids=str)
def test_what_a_verdict_must_carry(case: Case) -> None:
    finding = findings_of(case)[0]
    assert bool(finding.needs) == (case.verdict == "goes_if")
    assert bool(finding.measure) == (case.verdict == "unmeasured")
    assert bool(finding.ways_out) == (case.verdict == "no_go")


def test_every_rule_has_its_cases() -> None:
    """One case per message, one that goes, one unmeasured and one where the rule says nothing."""
    seen = defaultdict(set)
    for case in CASES:
        seen[case.rule] |= {case.key, case.verdict}
    lacking = {}
    for rule_id, rule in RULES.items():
        wanted = {*rule.messages, "unmeasured", None} | ({"goes"} - NEVER_JUST_GOES.get(rule_id, set()))
        wanted |= {"missing"} if required(rule) else set()
        if wanted - seen[rule_id]:
            lacking[rule_id] = wanted - seen[rule_id]
    assert lacking == {}


def required(rule) -> bool:
    """Whether some attribute must be there before the rule speaks."""
    return any(reads.required for joint in rule.joints for reads in joint.values())


def test_no_case_for_a_rule_or_message_that_is_gone() -> None:
    for case in CASES:
        assert case.key in {*RULES[case.rule].messages, "missing", None}, case


@pytest.mark.parametrize("case", [case for case in CASES if case.verdict], ids=str)
def test_a_slot_checker_says_the_same(case: Case) -> None:
    build = case.build
    whole = [f for f in check(build).findings if f.rule == case.rule]
    for slot in whole[0].slots:
        others = build.with_part(slot, None)
        checker, attrs = SlotChecker(others, slot), build.parts[slot].attrs
        seen = checker.check(attrs).findings
        assert checker.verdict(attrs) is checker.check(attrs).verdict
        assert [f for f in seen if f.rule == case.rule] == whole


@pytest.mark.parametrize("case", CASES, ids=str)
def test_order_of_parts_changes_nothing(case: Case) -> None:
    build = case.build
    turned = {**build.to_json(), "parts": dict(reversed(build.to_json()["parts"].items()))}
    from unkett.core.build import build_from

    assert check(build_from(turned)) == check(build)


@pytest.mark.parametrize(
    "case", [c for c in CASES if c.verdict and RULES[c.rule].safety and c.verdict == "goes"], ids=str
)
def test_a_safety_rule_never_goes_on_less(case: Case) -> None:
    """Dropping any required attribute of a safety rule never leaves it saying Goes."""
    rule = RULES[case.rule]
    for joint in rule.joints:
        for reads in joint.values():
            for attr in reads.required.values():
                parts = {slot: dict(attrs) for slot, attrs in case.parts.items()}
                if parts.get(reads.slot, {}).pop(attr, None) is None:
                    continue
                less = Case(rule=case.rule, verdict=None, key=None, parts=parts, bike=case.bike)
                assert all(f.verdict.value != "goes" for f in findings_of(less))
