"""Runs the rules over a build, and tells two checks apart.

The engine, not the rule, says `unmeasured` when a required attribute is missing and says nothing
when a slot stands empty, so that no rule can forget either.
"""

from __future__ import annotations

import functools
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.errors import InputError
from unkett.core.finding import Finding, Verdict, worst
from unkett.core.openslots import open_slots
from unkett.core.rules import RULES
from unkett.core.rules.base import Outcome, Reads, Rule, View
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS, describe, slots_of_kind

FORMAT = "unkett.check/1"
_NOTHING: Mapping[str, Any] = {}


@frozen(kw_only=True)
class Check:
    """All findings of a build in fixed order, its verdict and what a complete bike still wants."""

    findings: tuple[Finding, ...]
    open_slots: tuple[str, ...] = ()

    @property
    def verdict(self) -> Verdict:
        return worst([finding.verdict for finding in self.findings])

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "verdict": self.verdict.value,
            "findings": [finding.to_json() for finding in self.findings],
            "open_slots": list(self.open_slots),
        }


def _rules_by_slot() -> dict[str, tuple[Rule, ...]]:
    return {slot: tuple(rule for rule in RULES.values() if slot in rule.slots()) for slot in SLOTS}


RULES_BY_SLOT = _rules_by_slot()


Filled = Mapping[str, Mapping[str, Any]]


def _filled(build: Build) -> dict[str, Mapping[str, Any]]:
    """Attributes by slot, cut to what each slot's kind declares, and the bike's own under 'bike'."""
    attrs: dict[str, Mapping[str, Any]] = {
        slot: part_attrs_for(slot, part) for slot, part in build.filled().items()
    }
    attrs["bike"] = build.bike_attrs()
    return attrs


def _measure(slot: str, attr: str) -> dict[str, str]:
    declared = describe(slot, attr)
    return {"slot": slot, "attr": attr, "title": declared.title, "how": declared.how}


def _slot_title(slot: str) -> str:
    return "bike" if slot == "bike" else SLOTS[slot].title.lower()


def _says_missing(missing: list[dict[str, str]]) -> str:
    names = [f"the {_slot_title(one['slot'])}'s {one['title'].lower()}" for one in missing]
    listed = names[0] if len(names) == 1 else ", ".join(names[:-1]) + f" and {names[-1]}"
    return f"Not measured: {listed}."


def _run(rule: Rule, joint: Mapping[str, Reads], attrs: Filled, settings: Settings) -> Finding | None:
    for reads in joint.values():
        if reads.slot not in attrs and not reads.may_be_empty:
            return None
    missing: list[dict[str, str]] = []
    slots: list[str] = []
    views: dict[str, Any] = {}
    for role, reads in joint.items():
        values = attrs.get(reads.slot)
        if values is None:
            views[role] = View(reads, _NOTHING, empty=True)
            continue
        if reads.slot != "bike":
            slots.append(reads.slot)
        for attr in reads.must:
            if values.get(attr) is None:
                missing.append(_measure(reads.slot, attr))
        views[role] = View(reads, values)
    if missing:
        return Finding(
            rule=rule.id,
            key="missing",
            verdict=Verdict.UNMEASURED,
            area=rule.area,
            slots=tuple(slots),
            says=_says_missing(missing),
            measure=tuple(missing),
            safety=rule.safety,
            source=rule.source,
        )
    try:
        outcome = rule.function(**views, settings=settings) if rule.settings else rule.function(**views)
    except InputError as error:
        return _beyond(rule, joint, attrs, tuple(slots), error)
    return None if outcome is None else _finding(rule, outcome, views, tuple(slots))


def _beyond(
    rule: Rule, joint: Mapping[str, Reads], attrs: Filled, slots: tuple[str, ...], error: InputError
) -> Finding:
    """A reading that no calculation takes, such as a pull of 300 mm: measured again, never guessed."""
    read = [(reads.slot, attr) for reads in joint.values() for attr in reads.all.values()]
    given = [(slot, attr) for slot, attr in read if attrs.get(slot, _NOTHING).get(attr) is not None]
    named = [(slot, attr) for slot, attr in given if any(attr in fault.path for fault in error.faults)]
    return Finding(
        rule=rule.id,
        key="beyond",
        verdict=Verdict.UNMEASURED,
        area=rule.area,
        slots=slots,
        says=f"Cannot be worked out, measure again: {error.faults[0]}.",
        measure=tuple(_measure(slot, attr) for slot, attr in named or given),
        safety=rule.safety,
        source=rule.source,
    )


def _finding(rule: Rule, outcome: Outcome, views: Mapping[str, View], slots: tuple[str, ...]) -> Finding:
    says = rule.messages[outcome.key].format(**views, **outcome.because)
    measure = tuple(_measure(view.slot, view.own_name(attr)) for view, attr in outcome.asks)
    return Finding(
        rule=rule.id,
        key=outcome.key,
        verdict=outcome.verdict,
        area=rule.area,
        slots=slots,
        says=says,
        because=outcome.because,
        needs=outcome.needs,
        measure=measure,
        ways_out=outcome.ways_out,
        safety=rule.safety,
        school=outcome.school,
        source=rule.source,
    )


def _sorted(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda f: (f.verdict.order, f.area.order, f.rule, f.slots)))


def _findings(rules: Iterable[Rule], filled: Filled, settings: Settings) -> tuple[Finding, ...]:
    found = (_run(rule, joint, filled, settings) for rule in rules for joint in rule.joints)
    return _sorted(finding for finding in found if finding is not None)


def check(build: Build, settings: Settings = DEFAULTS) -> Check:
    """Every finding of a build, in the order verdict, area, rule."""
    return Check(findings=_findings(RULES.values(), _filled(build), settings), open_slots=open_slots(build))


def check_again(before: Check, old: Build, new: Build, settings: Settings = DEFAULTS) -> Check:
    """The check of a build that differs little from one checked already: equal to `check(new)`.

    Rules are pure over the slots they read, so that only those which read a slot that differs run again.
    """
    was, now = _filled(old), _filled(new)
    changed = {slot for slot in was.keys() | now.keys() if was.get(slot) != now.get(slot)}
    again = [rule for rule in RULES.values() if any(rule in RULES_BY_SLOT.get(slot, ()) for slot in changed)]
    if "bike" in changed:
        again = list(RULES.values())
    ids = {rule.id for rule in again}
    stay = [finding for finding in before.findings if finding.rule not in ids]
    fresh = _findings(again, now, settings)
    return Check(findings=_sorted([*stay, *fresh]), open_slots=open_slots(new))


@functools.cache
def read_of(slot: str) -> tuple[str, ...]:
    """The attributes of the part in `slot` that any rule reads; two parts alike in these are alike to all rules."""
    names: set[str] = set()
    for rule in RULES_BY_SLOT[slot]:
        for joint in rule.joints:
            for reads in joint.values():
                if reads.slot == slot:
                    names.update(reads.all.values())
    return tuple(sorted(names))


def kind_reads(kind: str) -> tuple[str, ...]:
    """The attributes that any rule reads of a part of this kind, in any slot it may fill."""
    return tuple(sorted({name for slot in slots_of_kind(kind) for name in read_of(slot.name)}))


def _joints_of(slot: str) -> list[tuple[Rule, Mapping[str, Reads], tuple[str, ...]]]:
    """Every rule and joint that looks at a slot, with the attributes it reads there; fewest first."""
    found = []
    for rule in RULES_BY_SLOT[slot]:
        for joint in rule.joints:
            names = sorted({n for reads in joint.values() if reads.slot == slot for n in reads.all.values()})
            if any(reads.slot == slot for reads in joint.values()):
                found.append((rule, joint, tuple(names)))
    return sorted(found, key=lambda one: len(one[2]))


def _hashable(value: Any) -> Any:
    return repr(value) if isinstance(value, (dict, list, tuple)) else value


class SlotChecker:
    """Checks candidates for one slot of a build, given a part's attributes as the core reads them.

    It runs only the rules that look at the slot, and each only once for every set of values it reads
    there, so that a whole catalogue costs little more than its distinct values.
    """

    def __init__(self, build: Build, slot: str, settings: Settings = DEFAULTS) -> None:
        emptied = build
        for name, part in build.parts.items():
            if name == slot or slot in part.also:
                emptied = emptied.with_part(name, None)
        self._filled = _filled(emptied)
        self._slot = slot
        self._settings = settings
        self._joints: list[tuple[Rule, Mapping[str, Reads], tuple[str, ...], dict[Any, Finding | None]]] = [
            (rule, joint, names, {}) for rule, joint, names in _joints_of(slot)
        ]

    def _findings(self, attrs: Mapping[str, Any]) -> Iterator[Finding]:
        get = attrs.get
        filled: Filled | None = None
        for rule, joint, names, memo in self._joints:
            key = tuple([_hashable(get(name)) for name in names])
            if key not in memo:
                filled = filled or {**self._filled, self._slot: attrs}  # own copy: threads share the checker
                memo[key] = _run(rule, joint, filled, self._settings)
            finding = memo[key]
            if finding is not None:
                yield finding

    def check(self, attrs: Mapping[str, Any]) -> Check:
        """Every finding that names the slot: those of `check` on the build with this part in it."""
        return Check(findings=_sorted(self._findings(attrs)))

    def verdict(self, attrs: Mapping[str, Any]) -> Verdict:
        """The worst verdict only; stops at the first No go."""
        worst_yet: Verdict | None = None
        for finding in self._findings(attrs):
            if finding.verdict is Verdict.NO_GO:
                return Verdict.NO_GO
            if worst_yet is None or finding.verdict.order < worst_yet.order:
                worst_yet = finding.verdict
        return worst_yet or Verdict.UNMEASURED


@frozen(kw_only=True)
class Difference:
    """What a plan changes in the findings; `causes` names the changed slots behind each finding."""

    new: tuple[Finding, ...]
    gone: tuple[Finding, ...]
    stay: tuple[Finding, ...]
    causes: Mapping[tuple[str, tuple[str, ...]], tuple[str, ...]] = field(factory=dict)


def difference(before: Check, after: Check, changed_slots: Iterable[str]) -> Difference:
    """Which findings of `after` are new or changed, which are gone and which stay.

    A finding counts as new when its joint said nothing before or says something else now; its
    causes are the changed slots among those it looks at.
    """
    was = {finding.joint: finding for finding in before.findings}
    now = {finding.joint: finding for finding in after.findings}
    changed = set(changed_slots)
    new = tuple(f for f in after.findings if f.joint not in was or was[f.joint].says != f.says)
    gone = tuple(f for f in before.findings if f.joint not in now)
    stay = tuple(f for f in after.findings if f.joint in was and was[f.joint].says == f.says)
    causes = {}
    for finding in (*new, *gone):
        looked_at = {reads.slot for joint in RULES[finding.rule].joints for reads in joint.values()}
        causes[finding.joint] = tuple(slot for slot in SLOTS if slot in changed and slot in looked_at)
    return Difference(new=new, gone=gone, stay=stay, causes=causes)
