"""Every rule against its table, and the promises that hold for all rules."""

from collections import defaultdict

import pytest

from tests.cases import Case
from tests.cases.all import CASES
from unkett.core.engine import SlotChecker, check
from unkett.core.finding import Finding, Verdict, worst
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
    assert len(found[0].says) <= 150
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
        assert case.key in {*RULES[case.rule].messages, "missing", "beyond", None}, case


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


# What a maker may or may not state, or what calls a rule up in the first place: without it the rule
# judges by what is known or has nothing to judge, and says so in its plain words.
MAY_BE_UNSTATED = {
    ("brake-line-drag", "routing"),  # only routes noted as hidden
    ("caliper-position", "pad_height_mm"),  # compared with the track where both are known
    ("caliper-position", "track_mm"),
    ("chain-length", "extra_links"),  # two, unless the maker asks for more
    ("chain-length", "wheel_travel_mm"),  # calls for the growth of a sprung frame
    ("fork-length", "travel_mm"),
    ("fork-length", "travel_max_mm"),
    ("rim-brake-bolt", "bolt"),  # a note only
    ("rim-brake-bolt", "brake_bolt"),
    ("rotor-thickness", "rotor_thickness_mm"),
    ("rotor-thickness", "thickness_mm"),
    ("seatpost-fit", "seat_tube_depth_mm"),
    ("seatpost-fit", "min_insertion_mm"),
    ("spoke-lacing", "crosses_fixed"),  # straight-pull hubs only
    ("steerer-anchor", "anchor_depth_mm"),  # compared with the clamp where both are known
    ("steerer-anchor", "clamp_height_mm"),
    ("stem-spacers", "max_spacers_mm"),  # metal without a figure has no limit
}
SAFETY_CASES = [case for case in CASES if case.verdict and RULES[case.rule].safety]


@pytest.mark.parametrize("case", SAFETY_CASES, ids=str)
def test_a_safety_rule_never_gets_better_by_measuring_less(case: Case) -> None:
    """Taking any single measurement away leaves the verdict as it was, worse, or unmeasured."""
    before = worst([finding.verdict for finding in findings_of(case)])
    for slot, attrs in case.parts.items():
        for name in attrs:
            if (case.rule, name.removeprefix("rear_")) in MAY_BE_UNSTATED:
                continue
            parts = {
                other: {n: v for n, v in of.items() if (other, n) != (slot, name)}
                for other, of in case.parts.items()
            }
            less = Case(rule=case.rule, verdict=None, key=None, parts=parts, bike=case.bike)
            after = [finding.verdict for finding in findings_of(less)]
            if after:
                assert worst(after).order <= max(before.order, Verdict.UNMEASURED.order), (slot, name)
            else:
                assert before.order >= Verdict.GOES_IF.order, (slot, name)


ENDS = {"front": "rear", "rear": "front"}


@pytest.mark.parametrize("case", [case for case in CASES if case.verdict], ids=str)
def test_front_and_rear_are_never_mixed_up(case: Case) -> None:
    """Parts of the other end, whatever they are, change nothing of what is said of this end."""
    rule = RULES[case.rule]
    if len(rule.joints) != 2:
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
    mixed = {**{slot: attrs for slot, attrs in strange.items() if slot not in case.parts}, **case.parts}
    whole = Case(rule=case.rule, verdict=None, key=None, parts=mixed, bike=case.bike)
    kept = [
        finding
        for finding in findings_of(whole)
        if set(finding.slots) <= mine and len(finding.slots) == len(mine)
    ]
    assert kept == findings_of(case)
