"""Runs the clauses of one rule at one place and makes their outcomes a finding."""

from __future__ import annotations

import re
from types import SimpleNamespace
from typing import Any

from attrs import evolve

from unkett.core.build import one_piece
from unkett.core.check.state import NOTHING, BikeState, trial_values
from unkett.core.errors import InputError
from unkett.core.rules.base import Rule
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.rules.outcome import Outcome
from unkett.core.rules.site import Site
from unkett.core.rules.view import Lack, Seen, called, looked_at, run_clause
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS, describe, kind_of, measured_by
from unkett.core.vocabulary.double_readings import MISREAD
from unkett.core.vocabulary.types import AttributeType
from unkett.core.vocabulary.words import a, in_sentence, listed, value_text

ZERO = re.compile(r"(?<=\d)\.0(?![\d.])")  # of a whole number; a sentence does not need it
BRANCH_DEPTH = 4  # missing codes that are tried together


Quoted = tuple[str, str, tuple[tuple[str, str, AttributeType], ...]]
Asked = tuple[str, "str | None"]  # a slot and what is missing there; None: whether a part is fitted at all


def _slot_title(slot: str) -> str:
    return "bike" if slot == "bike" else SLOTS[slot].title.lower()


def _whose(slot: str) -> str:
    title = _slot_title(slot)
    return f"the {title}'" if title.endswith("s") else f"the {title}'s"


NAMED_MOST = 3  # missing readings named in a sentence; the finding lists all


def _measure(asked: Asked) -> dict[str, Any]:
    slot, attr = asked
    if attr is None:
        return {"slot": slot, "attr": None, "title": "Is one fitted?", "how": "Look."}
    declared = describe(slot, attr)
    return {"slot": slot, "attr": attr, "title": declared.title, "how": declared.how}


def _attributes(state: BikeState, slot: str, name: str | None) -> list[Asked]:
    """What must be measured for a name that a clause reads: the attribute, or what a derived value still wants."""
    if name is None:
        return [(slot, None)]
    own = measured_by(slot, name)
    values = state.values.get(slot, NOTHING)
    lacking = [attr for attr in own if values.get(attr) is None]
    return [(slot, attr) for attr in (lacking or own)[:1]]


def _says_missing(asked: list[Asked]) -> str:
    fitted = [a(_slot_title(slot)) for slot, attr in asked if attr is None]
    names = [f"{_whose(slot)} {in_sentence(describe(slot, attr).title)}" for slot, attr in asked if attr]
    if len(names) > NAMED_MOST:
        names = [*names[: NAMED_MOST - 1], f"{len(names) - NAMED_MOST + 1} more"]
    says = [f"Not measured: {listed(names)}."] if names else []
    return " ".join(
        [*says, *([f"Not recorded: whether {listed(fitted, 'or')} is fitted."] if fitted else [])]
    )


def judged_at(rule: Rule, site: Site, state: BikeState, settings: Settings) -> Finding | None:
    """Return what a rule says at one place; where two readings of a part do not agree, once with each of them.

    A No-go with both is one; else neither reading wins, and both are measured again.
    """
    values = state.values
    if site.one_piece and one_piece(values.get(slot) for slot in site.required):
        return _finding(rule, site, Outcome(verdict=Verdict.GOES, key=site.one_piece), state)
    if not state.doubted:
        return _run(rule, site, state, settings)
    doubts = [
        (slot, one.pair)
        for slot, pairs in site.read_twice.items()
        if slot in state.doubted
        for one in values[slot][MISREAD]
        if one.pair in pairs
    ]
    if not doubts:
        return _run(rule, site, state, settings)
    branches = [state]
    for slot, pair in doubts:
        branches = [
            branch.reread(slot, attrs) for branch in branches for attrs in pair.readings(branch.values[slot])
        ]
    said = [_run(rule, site, branch, settings) for branch in branches]
    found = [finding for finding in said if finding is not None]
    if not found:
        return None
    if len(found) == len(said) and all(finding.verdict is Verdict.NO_GO for finding in found):
        return found[0]
    if not site.required <= values.keys():
        return None
    asks = tuple(dict.fromkeys((slot, name) for slot, pair in doubts for name in pair.names))
    outcome = Outcome(verdict=Verdict.UNMEASURED, key="two_readings", asks=asks)
    slot, pair = doubts[0]
    first, again = (describe(slot, name).title for name in pair.names)
    whose = _slot_title(slot).capitalize()
    says = f"{whose}: {in_sentence(first)} and {in_sentence(again)} do not agree; one of the two is misread."
    return _finding(rule, site, outcome, state, says)


def _run(
    rule: Rule, site: Site, state: BikeState, settings: Settings, depth: int = BRANCH_DEPTH
) -> Finding | None:
    said: list[Outcome] = []
    asked: list[Asked] = []
    beyond: tuple[InputError, tuple[Seen, ...]] | None = None
    known, views = state.known, state.views
    for one in site.clauses:
        clause = one.clause
        more = (settings,) if clause.settings else ()
        if one.needs <= known:
            outcome = called(clause.function, [views[number] for number in one.view_ids], more)
        elif one.wants <= known:
            row = [looked_at(seen, views[seen.view_id]) for seen in one.seen]
            outcome = run_clause(clause.function, row, more)
        else:
            continue
        if outcome is None:
            continue
        if isinstance(outcome, Lack):
            if outcome.beyond is not None:
                beyond = (outcome.beyond, one.seen)
            for slot, name in outcome.asked:
                asked += _attributes(state, slot, name)
            continue
        if outcome.verdict is Verdict.NO_GO:
            return _finding(rule, site, outcome, state)
        if outcome.verdict is None:
            return None
        said.append(outcome)
    if asked and depth:
        certain = _certain(rule, site, state, settings, asked, depth)
        if certain is not None:
            return certain
    if not site.required <= known:
        return None
    if beyond is not None:
        return _beyond(rule, site, state, *beyond)
    if asked:
        return _missing(rule, site, state, said, asked)
    return _mildest(rule, site, state, said)


def _certain(
    rule: Rule, site: Site, state: BikeState, settings: Settings, asked: list[Asked], depth: int
) -> Finding | None:
    """The No-go that stays one whatever a missing code or yes/no turns out to be; None where one of them may save it.

    Codes and answers are few, so all are tried, and a slot of which nothing is recorded both ways; a size is never
    guessed. The first that is missing is tried, what is missing beyond it in each branch.
    """
    for slot, attr in asked:
        branches = _branches(state, slot, attr)
        if not branches:
            continue
        said: list[Finding] = []
        for tried in branches:
            found = _run(rule, site, tried, settings, depth - 1)
            if found is None or found.verdict is not Verdict.NO_GO:
                return None
            said.append(found)
        return _whatever(said, slot, attr)
    return None


def _branches(state: BikeState, slot: str, attr: str | None) -> list[BikeState]:
    """Return the bike with each answer that a missing reading may have; none where it is a size."""
    if attr is None:
        return [state.emptied(slot), state.with_values(slot, NOTHING)]
    if slot not in state.values:
        return []
    known = state.values[slot]
    values = trial_values(describe(slot, attr).type, attr, state)
    return [state.reread(slot, {**known, attr: value}) for value in values]


def _whatever(branches: list[Finding], slot: str, attr: str | None) -> Finding:
    """A No-go of every branch, without the answer that was tried: in one branch's words where all say the same."""
    found = branches[-1]
    same = {
        name: value
        for name, value in found.because.items()
        if all(name in branch.because and branch.because[name] == value for branch in branches)
    }
    ways = tuple(way for way in found.ways_out if (way["slot"], way["attr"]) != (slot, attr))
    slots = branches[0].slots if attr is None else found.slots
    found = evolve(found, because=same, ways_out=ways or found.ways_out, slots=slots)
    if len({branch.says for branch in branches}) == 1:
        return found
    if attr is None:
        says = f"It does not go, with {a(_slot_title(slot))} or without."
    else:
        says = f"It does not go, whatever {_whose(slot)} {in_sentence(describe(slot, attr).title)} is."
    return evolve(found, key="whatever", says=says)


def _mildest(rule: Rule, site: Site, state: BikeState, said: list[Outcome]) -> Finding | None:
    """The worst of what was said, the first where several are as bad; what they need is gathered."""
    if len(said) == 1:
        return _finding(rule, site, said[0], state)
    alike: list[Outcome] = []
    for verdict in (Verdict.UNMEASURED, Verdict.GOES_IF, Verdict.GOES):
        alike = [finding for finding in said if finding.verdict is verdict]
        if alike:
            break
    if not alike:
        return None
    chosen = alike[0]
    if len(alike) > 1:
        chosen = evolve(
            chosen,
            needs=tuple(n for finding in alike for n in finding.needs),
            asks=tuple(dict.fromkeys(ask for finding in alike for ask in finding.asks)),
            because={name: value for finding in reversed(alike) for name, value in finding.because.items()},
        )
    return _finding(rule, site, chosen, state)


def _missing(rule: Rule, site: Site, state: BikeState, said: list[Outcome], asked: list[Asked]) -> Finding:
    """Unmeasured: a clause's own words where one had any, with everything that is missing."""
    own = [finding for finding in said if finding.verdict is Verdict.UNMEASURED]
    every = list(dict.fromkeys([*(ask for reading in own for ask in reading.asks), *asked]))
    outcome = own[0] if own else Outcome(verdict=Verdict.UNMEASURED, key="missing")
    says = None if own else _says_missing(every)
    return _finding(rule, site, evolve(outcome, asks=tuple(every)), state, says)


def _beyond(rule: Rule, site: Site, state: BikeState, error: InputError, seen: tuple[Seen, ...]) -> Finding:
    """Return a reading that no calculation takes, such as a pull of 300 mm: measured again, never guessed."""
    read = [
        (seen_part.slot, attr)
        for seen_part in seen
        for name in seen_part.names.values()
        for attr in measured_by(seen_part.slot, name)
    ]
    given = [(slot, attr) for slot, attr in read if state.values.get(slot, NOTHING).get(attr) is not None]
    named = [(slot, attr) for slot, attr in given if any(attr in fault.path for fault in error.faults)]
    outcome = Outcome(verdict=Verdict.UNMEASURED, key="beyond", asks=tuple(dict.fromkeys(named or given)))
    return _finding(rule, site, outcome, state, f"Cannot be worked out, measure again: {error.faults[0]}.")


def _quoted(rule: Rule, site: Site, key: str, state: BikeState) -> dict[str, Any]:
    """Return the parts that a message quotes, their values in words."""
    parts: dict[str, Any] = {}
    for role, slot, names in _quotes(rule, site, key):
        values = state.values.get(slot, NOTHING)
        parts[role] = SimpleNamespace(
            **{name: value_text(values.get(own), sort) for name, own, sort in names}
        )
    return parts


def _quotes(rule: Rule, site: Site, key: str) -> tuple[Quoted, ...]:
    """Return what a message quotes at a place: by role its slot, and by name the slot's own name and its type."""
    found = site.quotes.get(key)
    if found is None:
        made = []
        for role, names in rule.quotes[key]:
            one = site.roles[role]
            attributes = kind_of(one.slot).attributes
            own = {name: one.own(name) for name in names}
            sorts = {
                name: (attributes.get(is_) or attributes[measured_by(one.slot, is_)[0]]).type
                for name, is_ in own.items()
            }
            made.append((role, one.slot, tuple((name, own[name], sorts[name]) for name in names)))
        found = site.quotes[key] = tuple(made)
    return found


def _finding(rule: Rule, site: Site, outcome: Outcome, state: BikeState, says: str | None = None) -> Finding:
    assert outcome.verdict is not None
    if says is None:
        says = rule.fixed.get(outcome.key)
    if says is None:
        parts = _quoted(rule, site, outcome.key, state)
        says = rule.messages[outcome.key].format(**parts, **outcome.because)
        if ".0" in says:
            says = ZERO.sub("", says)
    return Finding(
        rule=rule.id,
        key=outcome.key,
        verdict=outcome.verdict,
        area=rule.area,
        joint=site.joint,
        slots=tuple([slot for slot in site.slots if slot in state.values]),
        says=says,
        because=outcome.because,
        needs=outcome.needs,
        measure=tuple(_measure(asked) for asked in outcome.asks) if outcome.asks else (),
        ways_out=outcome.ways_out,
        safety=rule.safety,
        school=outcome.school,
        source=rule.source,
    )
