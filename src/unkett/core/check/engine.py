"""Runs the clauses of the rules over a build, and tells two checks apart.

The engine, not the rule, says `unmeasured` where a reading is missing, says nothing where a slot is not
filled, and lets a certain No-go stand whatever else is missing, so that no rule can forget any of it.
"""

from __future__ import annotations

import functools
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build, Settled
from unkett.core.check.joint_check import judged_at
from unkett.core.check.open_slots import open_slots
from unkett.core.check.state import BikeState
from unkett.core.rules import RULES
from unkett.core.rules.base import Rule
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.rules.site import Site
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS, kind_of, measured_by, slots_of_kind

FORMAT = "unkett.check/1"


@frozen(kw_only=True)
class Check:
    """All findings of a build in fixed order, its verdict and what a complete bike still wants."""

    findings: tuple[Finding, ...]
    open_slots: tuple[str, ...] = ()

    @property
    def verdict(self) -> Verdict:
        return worst([finding.verdict for finding in self.findings])

    def accepting(self, words: Mapping[str, str]) -> Check:
        """The same where a person took findings as they are, words by `ref`: they count as Goes and ask for nothing.

        Only what may be accepted is; a No-go, an Unmeasured and whatever concerns safety stand as they are.
        """
        findings = [
            evolve(finding, verdict=Verdict.GOES, needs=(), ways_out=(), accepted=words[finding.ref])
            if finding.ref in words and finding.may_be_accepted
            else finding
            for finding in self.findings
        ]
        return evolve(self, findings=_sorted(findings))

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


def _sorted(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda f: (f.verdict.order, f.area.order, f.rule, f.slots)))


def said_at(rule: Rule, site: Site, state: BikeState, settings: Settings = DEFAULTS) -> Finding | None:
    """Return what a rule says at one place of a bike, where any of the parts or readings that call it up is there."""
    return None if state.known.isdisjoint(site.called_up_by) else judged_at(rule, site, state, settings)


def _findings(rules: Iterable[Rule], state: BikeState, settings: Settings) -> tuple[Finding, ...]:
    found = [said_at(rule, site, state, settings) for rule in rules for site in rule.sites]
    return _sorted([finding for finding in found if finding is not None])


def said_by(rule: Rule, build: Build, settings: Settings = DEFAULTS) -> tuple[Finding, ...]:
    """Return what one rule says of a build."""
    return _findings([rule], BikeState.of(build), settings)


def check(build: Build, settings: Settings = DEFAULTS) -> Check:
    """Return every finding of a build, in the order verdict, area, rule."""
    found = _findings(RULES.values(), BikeState.of(build), settings)
    if build.settled:
        found = _sorted(without_settled(finding, build.settled) for finding in found)
    return Check(findings=found, open_slots=open_slots(build))


def without_settled(finding: Finding, settled: Iterable[Settled]) -> Finding:
    """A finding without the needs that were met; one that needs nothing more goes."""
    met = {one.what for one in settled if one.rule == finding.rule and set(one.slots) == set(finding.slots)}
    if finding.verdict is not Verdict.GOES_IF or not met:
        return finding
    groups = {need["either"] for need in finding.needs if "either" in need and need["what"] in met}
    left = tuple(
        need for need in finding.needs if need["what"] not in met and need.get("either") not in groups
    )
    return evolve(finding, needs=left, verdict=finding.verdict if left else Verdict.GOES)


def check_again(before: Check, old: Build, new: Build, settings: Settings = DEFAULTS) -> Check:
    """Return the check of a build that differs little from one checked already: equal to `check(new)`.

    Rules are pure over the slots they read, so that only those which read a slot that differs run again.
    """
    was, now = BikeState.of(old), BikeState.of(new)
    changed = {slot for slot in SLOTS if was.state(slot) != now.state(slot)}
    ids = {rule.id for slot in changed for rule in RULES_BY_SLOT[slot]}
    if was.values["bike"] != now.values["bike"]:
        ids = set(RULES)
    again = [rule for rule in RULES.values() if rule.id in ids]
    stay = [finding for finding in before.findings if finding.rule not in ids]
    fresh = _findings(again, now, settings)
    return Check(findings=_sorted([*stay, *fresh]), open_slots=open_slots(new))


@functools.cache
def read_of(slot: str) -> tuple[str, ...]:
    """Return what any rule reads of the part in `slot`, attributes and derived values; parts alike in these are
    alike to all rules.
    """
    return tuple(
        sorted({name for rule in RULES_BY_SLOT[slot] for site in rule.sites for name in site.reads(slot)})
    )


def kind_reads(kind: str) -> tuple[str, ...]:
    """Return the attributes that any rule reads of a part of this kind, in any slot it may fill, itself or by a
    derived value.
    """
    return tuple(
        sorted(
            {
                attr
                for slot in slots_of_kind(kind)
                for name in read_of(slot.name)
                for attr in measured_by(slot.name, name)
            }
        )
    )


def names_quoted(rule: Rule, site: Site, slot: str) -> tuple[str, ...]:
    """The names of a slot that a rule's words at a place may depend on: its clauses read or its texts quote them."""
    quoted = {
        site.roles[role].own(name)
        for quotes in rule.quotes.values()
        for role, names in quotes
        if site.roles[role].slot == slot
        for name in names
    }
    return tuple(sorted(quoted.union(site.reads(slot))))


@functools.cache
def values_of(slot: str) -> tuple[str, ...]:
    """Every name that a finding of a bike may depend on in a slot: parts alike in these have the same findings."""
    return tuple(
        sorted(
            {
                name
                for rule in RULES_BY_SLOT[slot]
                for site in rule.sites
                for name in names_quoted(rule, site, slot)
            }
        )
    )


def signature(values: Mapping[str, Any] | None, known_empty: bool, names: Iterable[str]) -> Any:
    """Return what tells two states of a slot apart in these names; `values` None: nothing stands there."""
    return known_empty if values is None else tuple([_hashable(values.get(name)) for name in names])


@functools.cache
def _sites_of(slot: str) -> tuple[tuple[Rule, Site, tuple[str, ...]], ...]:
    """Return every rule and place that looks at a slot, with what it reads there; fewest first."""
    found = [
        (rule, site, site.reads(slot))
        for rule in RULES_BY_SLOT[slot]
        for site in rule.sites
        if slot in site.slots
    ]
    return tuple(sorted(found, key=lambda finding: len(finding[2])))


def _hashable(value: Any) -> Any:
    return repr(value) if isinstance(value, (dict, list, tuple)) else value


class SlotChecker:
    """Checks candidates for one slot of a build, given a part's attributes as the core reads them.

    It runs only the rules that look at the slot, and each only once for every set of values it reads
    there, so that a whole catalogue costs little more than its distinct values.
    """

    def __init__(self, build: Build, slot: str, settings: Settings = DEFAULTS) -> None:
        self._state = BikeState.of(build.with_part(slot, None))
        self._kind = kind_of(slot)
        self._slot = slot
        self._settings = settings
        self._sites: list[tuple[Rule, Site, tuple[str, ...], dict[Any, Finding | None]]] = [
            (rule, site, names, {}) for rule, site, names in _sites_of(slot)
        ]

    def _findings(self, attrs: Mapping[str, Any]) -> Iterator[Finding]:
        values = self._kind.read(attrs)
        get = values.get
        state: BikeState | None = None
        for rule, site, names, memo in self._sites:
            key = tuple([_hashable(get(name)) for name in names])
            if key not in memo:
                # a copy of its own: threads share the checker
                state = state or self._state.with_values(self._slot, values)
                memo[key] = judged_at(rule, site, state, self._settings)
            finding = memo[key]
            if finding is not None:
                yield finding

    def without(self) -> list[Finding]:
        """Return what the same rules say with nothing in the slot."""
        found = [said_at(rule, site, self._state, self._settings) for rule, site, _, _ in self._sites]
        return [finding for finding in found if finding is not None]

    @staticmethod
    def reads(slot: str) -> frozenset[str]:
        """Return the slots that the rules of a slot look at, itself and the bike's own words ('bike') among them."""
        return frozenset(seen for _, site, _ in _sites_of(slot) for seen in (*site.slots, "bike"))

    def check(self, attrs: Mapping[str, Any]) -> Check:
        """Return every finding that names the slot: those of `check` on the build with this part in it."""
        return Check(findings=_sorted(self._findings(attrs)))

    def verdict(self, attrs: Mapping[str, Any]) -> Verdict:
        """Return the worst verdict only; stops at the first No-go."""
        worst_yet: Verdict | None = None
        for finding in self._findings(attrs):
            if finding.verdict is Verdict.NO_GO:
                return Verdict.NO_GO
            if worst_yet is None or finding.verdict.order < worst_yet.order:
                worst_yet = finding.verdict
        return worst_yet or Verdict.UNMEASURED
