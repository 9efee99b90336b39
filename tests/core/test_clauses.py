"""A No-go that is certain is said at once: partial builds against their completions, over every rule."""

from __future__ import annotations

import itertools
import random
from collections import defaultdict
from typing import Any

import pytest
from attrs import evolve

from tests.cases import Case
from tests.cases.all import CASES
from unkett.core.build import Build, Part
from unkett.core.check.clause_runner import ClauseRunner
from unkett.core.check.engine import said_at, said_by
from unkett.core.check.state import BikeState
from unkett.core.errors import InputError
from unkett.core.rules import RULES
from unkett.core.rules.finding import Verdict, worst
from unkett.core.rules.site import Site
from unkett.core.rules.view import Stands
from unkett.core.vocabulary import KINDS, SLOTS, Attribute, kind_of, measured_by
from unkett.core.vocabulary.types import AttributeType, Bool, Choice, ListOf, Number, Pair, Whole

pytestmark = pytest.mark.long


SEED = 20261126
TRIES = 1500
Attrs = dict[str, Any]


def _by_kind() -> dict[tuple[str, str], list[Any]]:
    """Values to complete a reading with: every one that a case has, every code, and the ends of its range."""
    pool: dict[tuple[str, str], list[Any]] = defaultdict(list)
    for case in CASES:
        for slot, part in case.build.parts.items():
            for name, value in part.attrs.items():
                pool[SLOTS[slot].kind, name].append(value)
    for kind in KINDS.values():
        for name, attribute in kind.attributes.items():
            pool[kind.name, name] += [*usual(attribute), *_own_values(attribute.type)]
    return {key: _distinct(values) for key, values in pool.items()}


def usual(attribute: Attribute) -> list[Any]:
    """The usual values, and sizes evenly over half as much again to each side."""
    values = [one for one in attribute.usual if isinstance(one, (int, float))]
    if not values or not isinstance(attribute.type, Number):
        return values if isinstance(attribute.type, Whole) else []
    low, high = min(values) * 0.5, max(values) * 1.5
    return [*values, *(round(low + (high - low) * n / 80, 2) for n in range(81))]


def _own_values(kind: AttributeType) -> list[Any]:
    if isinstance(kind, Choice):
        return list(kind.of.codes)
    if isinstance(kind, Bool):
        return [True, False]
    if isinstance(kind, ListOf) and kind.least == 0:
        return [()]
    if isinstance(kind, ListOf) and isinstance(kind.item, Whole):
        low, down = kind.item.low, kind.order == "descending"
        counted = [tuple(range(low, low + count)) for count in range(1, 15)]
        return [(kind.item.high,), *(tuple(reversed(one)) if down else one for one in counted)]
    if isinstance(kind, Pair):
        return [(kind.item.low, kind.item.high)]
    if isinstance(kind, Whole) and kind.high - kind.low <= 20:
        return list(range(kind.low, kind.high + 1))
    return [kind.low, kind.high] if isinstance(kind, (Number, Whole)) else []


def _distinct(values: list[Any]) -> list[Any]:
    return list({repr(value): value for value in values}.values())


POOL = _by_kind()


class Trial:
    """A rule with a build whose readings come and go; the slots it looks at and what it reads there."""

    def __init__(self, case: Case) -> None:
        self.rule = RULES[case.rule]
        self.build = case.build
        here = set(case.build.parts) | set(case.empty)
        sites = [site for site in self.rule.sites if site.required & here] or list(self.rule.sites[:1])
        self.reads = [
            (slot, attr)
            for slot in dict.fromkeys(slot for site in sites for slot in site.slots)
            for attr in dict.fromkeys(
                attr for site in sites for name in site.reads(slot) for attr in measured_by(slot, name)
            )
        ]

    def verdict(self, build: Build) -> Verdict | None:
        found = said_by(self.rule, build)
        return worst([one.verdict for one in found]) if found else None


def put(build: Build, slot: str, name: str, value: Any) -> Build:
    part = build.parts.get(slot) or Part(kind=SLOTS[slot].kind)
    attrs = {key: one for key, one in part.attrs.items() if key != name}
    return build.with_part(
        slot, Part(kind=part.kind, attrs=attrs if value is None else {**attrs, name: value})
    )


def admissible(build: Build) -> bool:
    """A completion that no part contradicts: no more sprockets than its family has."""
    cassette = build.parts.get("cassette")
    teeth, speeds = (cassette.attrs.get(name) for name in ("teeth", "speeds")) if cassette else (None, None)
    return not (teeth and speeds and len(teeth) > speeds)


def likely(trial: Trial, slot: str, name: str) -> list[Any]:
    """What a reading has in the cases that go, and whatever stands on this bike that it may equal, alone or
    in a list.
    """
    kind = KINDS[SLOTS[slot].kind].attributes[name].type
    values = [
        case.build.parts[slot].attrs[name]
        for case in CASES
        if case.rule == trial.rule.id
        and case.verdict in ("goes", "goes_if")
        and name in getattr(case.build.parts.get(slot), "attrs", ())
    ]
    for part in trial.build.parts.values():
        for value in part.attrs.values():
            for one in (value, [value], *(value if isinstance(value, tuple) else ())):
                try:
                    values.append(kind.check(one, name))
                except InputError:
                    continue
    return _distinct(values)


def saved_by(trial: Trial, partial: Build, gaps: list[tuple[str, str]], draw: random.Random) -> Build | None:
    """A completion of the gaps that is no No-go; None where none is found among those tried."""
    pools = [(likely(trial, slot, name), POOL[SLOTS[slot].kind, name]) for slot, name in gaps]
    every = list(itertools.product(*([*near, *far] for near, far in pools)))
    mixed = ([draw.choice(draw.choice([near or far, far])) for near, far in pools] for _ in range(TRIES))
    for values in every if len(every) <= TRIES else mixed:
        build = partial
        for (slot, name), value in zip(gaps, values, strict=True):
            build = put(build, slot, name, value)
        if admissible(build) and trial.verdict(build) is not Verdict.NO_GO:
            return build
    return None


FORBIDDEN = [case for case in CASES if case.verdict == "no_go"]


# lists of which one saves the joint that random lists hardly meet: a ring of 53 for the belt, 44 and 44 for the timing
HARD_TO_DRAW = {("belt-length", "chainrings"), ("timing", "timing_rings")}


@pytest.mark.parametrize("rule_id", RULES)
def test_a_certain_no_go_is_said_at_once(rule_id: str) -> None:
    """No reading, and no two, may be asked for of which no value could save the joint; nor a slot that may
    stand empty.
    """
    draw = random.Random(f"{SEED}{rule_id}")
    hidden = []
    for case in [one for one in FORBIDDEN if one.rule == rule_id]:
        trial = Trial(case)
        there = [
            (slot, name)
            for slot, part in case.build.parts.items()
            for name in part.attrs
            if (slot, name) in trial.reads
        ]
        tries = [[one] for one in there] + [list(two) for two in itertools.combinations(there, 2)]
        for gaps in tries if len(tries) <= 20 else draw.sample(tries, 20):
            if any((rule_id, slot) in HARD_TO_DRAW for slot, _ in gaps):
                continue
            partial = case.build
            for slot, name in gaps:
                partial = put(partial, slot, name, None)
            if trial.verdict(partial) is not Verdict.NO_GO and saved_by(trial, partial, gaps, draw) is None:
                hidden.append((case.key, gaps))
        for slot in case.build.parts:
            emptied = case.build.with_part(slot, None)
            unrecorded = evolve(emptied, empty=emptied.empty - {slot})
            unseen = unrecorded.with_part(slot, Part(kind=SLOTS[slot].kind))
            whole = {trial.verdict(case.build.with_part(slot, None)), trial.verdict(unseen)}
            if trial.verdict(unrecorded) is not Verdict.NO_GO and whole == {Verdict.NO_GO}:
                hidden.append((case.key, [(slot, "whole")]))
    assert hidden == []


def _alone(site: Site, n: int, state: BikeState) -> Verdict | None:
    stands = {
        slot: [Stands(values=state.values.get(slot), known_empty=slot in state.empty)]
        for slot in (*site.slots, "bike")
    }
    return ClauseRunner(site, n, stands).says([0] * len(stands))


def test_a_look_alone_says_no_more_than_its_rule() -> None:
    """With each reading of every case taken away in turn: a clause's No-go is the rule's, and so is what it lacks."""
    wrong = []
    said = {Verdict.NO_GO: 0, Verdict.UNMEASURED: 0}
    for case in CASES:
        rule = RULES[case.rule]
        there = [(slot, name) for slot, part in case.build.parts.items() for name in part.attrs]
        builds = [case.build, *(put(case.build, slot, name, None) for slot, name in there)]
        for build, site in itertools.product(builds, rule.sites):
            state = BikeState.of(build)
            whole = said_at(rule, site, state)
            for n in range(len(site.clauses)):
                alone = _alone(site, n, state)
                if alone is None:
                    continue
                said[alone] += 1
                allowed = {Verdict.NO_GO, alone}
                if whole is None or whole.verdict not in allowed:
                    wrong.append((case.key, n, alone, whole and whole.says))
    assert wrong == []
    assert min(said.values()) > 1000


def test_what_a_look_only_shows_decides_nothing() -> None:
    """With any other value of it, and with none, the clause and the rule decide as before and need the same."""
    pool: dict[tuple[str, str], list[Any]] = defaultdict(list)
    for case in CASES:
        for slot, values in BikeState.of(case.build).values.items():
            for name, value in values.items():
                pool[slot, name].append(value)
    for (slot, name), values in pool.items():
        kind = kind_of(slot)
        derived = kind.derived.get(name)
        ends = POOL.get((kind.name, derived.of[0] if derived else name), [])
        read = [derived.function({derived.of[0]: value}) for value in ends] if derived else ends
        values += [value for value in read if value is not None]
    wrong, tried = [], {True: 0, False: 0}
    for case in CASES:
        state = BikeState.of(case.build)
        for site in RULES[case.rule].sites:
            decisive = {
                (one.slot, own)
                for at_site in site.clauses
                for one in at_site.seen
                for name, own in one.names.items()
                if name not in one.shows
            }
            for n, at_site in enumerate(site.clauses):
                shown = [(one.slot, one.names[name]) for one in at_site.seen for name in one.shows]
                for slot, name in [pair for pair in shown if pair[0] in state.values]:
                    alone = (slot, name) in decisive  # another clause reads it for more than show
                    for value in [None, *_distinct(pool[slot, name])]:
                        own = {**state.values[slot], name: value}
                        other = evolve(state, values={**state.values, slot: own})
                        tried[alone] += 1
                        if _decided(case, site, n, other, alone) != _decided(case, site, n, state, alone):
                            wrong.append((case.key, n, slot, name, value))
    assert wrong == []
    assert min(tried.values()) > 100


def _decided(case: Case, site: Site, n: int, state: BikeState, alone: bool) -> Any:
    """What the n-th clause makes of it, and, unless that alone is asked, the rule's verdict and needs."""
    whole = None if alone else said_at(RULES[case.rule], site, state)
    return _alone(site, n, state), whole and (whole.verdict, whole.needs)


def test_what_only_helps_to_derive_a_reading_is_not_asked_for() -> None:
    measured = RULES["index-alignment"].sites[0].measured
    assert measured["cassette", "sprocket_pitch_mm"]
    assert not measured["cassette", "mount"]
