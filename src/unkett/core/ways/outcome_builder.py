"""The tables of a question: every joint with a choice, clause by clause too, every want and the wished gears."""

from __future__ import annotations

import functools
from collections.abc import Hashable, Mapping
from typing import Any

from unkett.core.check.clause_runner import ClauseRunner
from unkett.core.check.engine import names_quoted, said_at
from unkett.core.check.open_slots import WANTS, Want
from unkett.core.check.state import BikeState as Stood
from unkett.core.rules import RULES
from unkett.core.rules.base import Rule
from unkett.core.rules.finding import Verdict
from unkett.core.rules.site import Site
from unkett.core.rules.view import Stands
from unkett.core.ways.changes import Baseline
from unkett.core.ways.domains import Domains, Group
from unkett.core.ways.gear_requirement import gear_requirement
from unkett.core.ways.outcome_table import (
    NO_EFFORT,
    Combination,
    Cost,
    Evaluate,
    Fault,
    OpenSlot,
    OutcomeTable,
    Rows,
    by_groups,
)
from unkett.core.ways.wish import Question


def tables_of(question: Question, baseline: Baseline, domains: Domains) -> list[OutcomeTable]:
    """Return a table for every joint with something to choose, for every want and for the wished gears."""
    stood = Stood.of(question.build)
    found: list[OutcomeTable] = []
    for rule in RULES.values():
        for site in rule.sites:
            if all(len(domains.groups[slot]) == 1 for slot in site.slots):
                continue
            whole = _of_site(question, baseline, domains, stood, rule, site, len(found))
            found.append(whole)
            if len(site.clauses) > 1 and len(whole.slots) > 1:
                whole.split_with(
                    functools.partial(_by_clauses, question, baseline, domains, stood, rule, site)
                )
    for n, want in enumerate(WANTS):
        found.append(_of_want(domains, stood, want, n))
    if question.wish.gears is not None:
        found.append(gear_requirement(domains, question.wish.gears))
    return found


def _of_site(
    question: Question, baseline: Baseline, domains: Domains, stood: Stood, rule: Rule, site: Site, place: int
) -> OutcomeTable:
    names = {slot: names_quoted(rule, site, slot) for slot in site.slots}
    values, empty = _beside(stood, site)

    def evaluate(groups: Mapping[str, Group]) -> Hashable:
        filled = {slot: group.values for slot, group in groups.items() if group.values is not None}
        bare = {slot for slot, group in groups.items() if group.values is None and group.known_empty}
        there = Stood(values={**values, **filled}, empty=frozenset(empty | bare))
        finding = said_at(rule, site, there, question.settings)
        if finding is None or finding.verdict is Verdict.GOES:
            return None
        if baseline.fault(finding):
            unmeasured = finding.verdict is Verdict.UNMEASURED
            if unmeasured and question.wish.allow_unmeasured:
                return None
            return Fault(rule=finding.rule, slots=finding.slots, unmeasured=unmeasured)
        effort = sum((need.effort for need in baseline.needs(finding, question)), NO_EFFORT)
        return None if effort == NO_EFFORT else Cost(table=place, effort=effort)

    def sign(slot: str, group: Group) -> Hashable:
        return group.sign(names[slot])

    return OutcomeTable(domains, site.slots, sign, by_groups(evaluate))


def _by_clauses(
    question: Question, baseline: Baseline, domains: Domains, stood: Stood, rule: Rule, site: Site
) -> list[OutcomeTable]:
    return [_of_clause(question, baseline, domains, stood, rule, site, n) for n in range(len(site.clauses))]


def _of_clause(
    question: Question, baseline: Baseline, domains: Domains, stood: Stood, rule: Rule, site: Site, n: int
) -> OutcomeTable:
    """Return what one clause alone faults: smaller than the whole joint's table, since a clause reads less."""
    names = site.decided_by_clause(n)
    beside = {"bike": [Stands(values=stood.values["bike"])]}

    def evaluator(rows: Rows) -> Evaluate:
        clause = ClauseRunner(site, n, {**rows, **beside}, question.settings)

        def evaluate(places: Combination) -> Hashable:
            said = clause.says((*places, 0))
            return None if said is None else fault(said, clause.filled(places))

        return evaluate

    @functools.cache
    def fault(said: Verdict, filled: tuple[str, ...]) -> Fault | None:
        unmeasured = said is Verdict.UNMEASURED
        if unmeasured and (question.wish.allow_unmeasured or (rule.id, filled) in baseline.unmeasured):
            return None
        return Fault(rule=rule.id, slots=filled, unmeasured=unmeasured)

    def sign(slot: str, group: Group) -> Hashable:
        return group.values is None, group.sign(names[slot])

    return OutcomeTable(domains, site.slots, sign, evaluator)


def _beside(stood: Stood, site: Site) -> tuple[dict[str, Any], set[str]]:
    """Return what stands on the bike beside a joint."""
    values = {slot: value for slot, value in stood.values.items() if slot not in site.slots}
    return values, set(stood.empty) - set(site.slots)


def _of_want(domains: Domains, stood: Stood, want: Want, place: int) -> OutcomeTable:
    names: dict[str, list[str]] = {}
    for word in want.reads:
        slot, _, name = word.partition(".")
        names.setdefault(slot, []).append(name)
    bike = stood.values["bike"]

    def evaluate(groups: Mapping[str, Group]) -> Hashable:
        read: dict[str, Any] = {}
        for slot, own in names.items():
            values = bike if slot == "bike" else groups[slot].values
            for name in own:
                word = f"{slot}.{name}" if name else slot
                read[word] = (values or {}).get(name) if name else values is not None
        return OpenSlot(place=place) if want.when(read) else None

    def sign(slot: str, group: Group) -> Hashable:
        return group.values is not None and group.sign(filter(None, names[slot]))

    return OutcomeTable(domains, [slot for slot in names if slot != "bike"], sign, by_groups(evaluate))
