"""Changes laid on a bike as `docs/ways.md` says, and what they come to: sound, whole, price, minutes, days, grams."""

from __future__ import annotations

import functools
import itertools
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build, Part
from unkett.core.check.engine import Check, check, check_again
from unkett.core.check.open_slots import wanted_slots
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.wish import KEYS, Effort, Question, ShelfPart, attrs_reader

Changes = Mapping[str, ShelfPart | None]  # by slot, in the order of slots; None empties it
Key = tuple[Any, ...]


def in_slot_order(changes: Mapping[str, ShelfPart | None]) -> dict[str, ShelfPart | None]:
    return {slot: changes[slot] for slot in SLOTS if slot in changes}


def changed(build: Build, changes: Changes) -> Build:
    """Return the bike with the changes laid on it: what comes off leaves its slots known empty, or to another part."""
    gone = set(changes)
    parts: dict[str, Part] = {slot: part for slot, part in build.parts.items() if slot not in gone}
    left = {taken for slot in gone if slot in build.parts for taken in (slot, *build.parts[slot].also)}
    for slot, new in changes.items():
        if new is not None:
            parts[slot] = new.part
    filled = {taken for slot, part in parts.items() for taken in (slot, *part.also)}
    ordered = {slot: parts[slot] for slot in SLOTS if slot in parts}
    return evolve(build, parts=ordered, empty=(build.empty | left) - filled)


@frozen(kw_only=True)
class Need:
    """What a finding needs, with its price and minutes; `priced` where the question gives them."""

    need: Mapping[str, Any]
    rule: str
    effort: Effort
    priced: bool

    @property
    def what(self) -> str:
        return str(self.need["what"])


@frozen(kw_only=True, eq=False)
class Baseline:
    """The findings of the bike as it is: the ground against which a way's findings count."""

    check: Check
    says: frozenset[tuple[str, tuple[str, ...], str]]
    unmeasured: frozenset[tuple[str, tuple[str, ...]]]

    @classmethod
    def of(cls, build: Build, settings: Settings = DEFAULTS) -> Baseline:
        found = check(build, settings)
        return cls(
            check=found,
            says=frozenset((*finding.about, finding.says) for finding in found.findings),
            unmeasured=frozenset(
                finding.about for finding in found.findings if finding.verdict is Verdict.UNMEASURED
            ),
        )

    def said(self, finding: Finding) -> bool:
        """Return whether the joint says the same as the bike stands."""
        return (*finding.about, finding.says) in self.says

    def fault(self, finding: Finding) -> bool:
        """Return whether a way with this finding is unsound; an Unmeasured where the wish does not allow it."""
        if finding.verdict is Verdict.UNMEASURED:
            return finding.about not in self.unmeasured
        return finding.verdict is Verdict.NO_GO

    def needs(self, finding: Finding, question: Question) -> tuple[Need, ...]:
        """Return what a finding needs where its joint did not say so already; of alternatives the cheapest."""
        if finding.verdict is not Verdict.GOES_IF or self.said(finding):
            return ()
        return chosen_needs(finding, question)


def chosen_needs(finding: Finding, question: Question) -> tuple[Need, ...]:
    """A finding's needs with one of each set of alternatives."""
    made = [
        Need(
            need=need,
            rule=finding.rule,
            effort=question.needs.get(need["what"], Effort()),
            priced=need["what"] in question.needs,
        )
        for need in finding.needs
    ]
    taken: dict[int, Need] = {}
    for one in made:
        either = one.need.get("either")
        if either is None:
            continue
        best = taken.get(either)
        objective = one.effort.objective(question.labour_per_hour)
        if best is None or objective < best.effort.objective(question.labour_per_hour):
            taken[either] = one
    chosen = {id(one) for one in taken.values()}
    return tuple(one for one in made if one.need.get("either") is None or id(one) in chosen)


@frozen(kw_only=True, eq=False)
class Way:
    """Changes with all that they come to. Money is in hundredths."""

    changes: Changes
    build: Build
    check: Check
    needs: tuple[Need, ...]
    price: int
    minutes: int
    days: int
    grams: int

    @property
    def count(self) -> int:
        return len(self.changes)

    @property
    def charged(self) -> int:
        """Return the price without the estimates of parts that have no price yet, in hundredths."""
        return self.price - sum(part.price for part in self.changes.values() if part and not part.priced)

    @property
    def not_from_bin(self) -> int:
        return sum(part is not None and not part.from_bin for part in self.changes.values())

    @functools.cached_property
    def named(self) -> frozenset[tuple[str, str | None]]:
        """The changes by slot and shelf id."""
        return frozenset((slot, part.id if part else None) for slot, part in self.changes.items())

    @functools.cached_property
    def ids(self) -> Key:
        """What orders ways that are alike in all figures: what stays before what is emptied before an id."""
        return tuple(
            (2, part.id) if (part := self.changes.get(slot)) else (1, "") if slot in self.changes else (0, "")
            for slot in SLOTS
        )

    def key(self, best: str) -> Key:
        """Return the keys by which an objective compares ways, smaller first."""
        first = tuple(getattr(self, name) for name in KEYS[best])
        return (*first, self.ids)


def evaluate(question: Question, baseline: Baseline, changes: Changes) -> Way:
    """Return what a set of changes comes to, whether or not it is sound."""
    changes = in_slot_order(changes)
    build = changed(question.build, changes)
    found = check_again(baseline.check, question.build, build, question.settings)
    needs = tuple(need for finding in found.findings for need in baseline.needs(finding, question))
    on = [part for part in changes.values() if part is not None]
    effort = sum((need.effort for need in needs), Effort())
    effort = sum((Effort(price=part.price, minutes=part.minutes) for part in on), effort)
    effort += Effort(minutes=question.take_off_minutes * (len(changes) - len(on)))
    return Way(
        changes=changes,
        build=build,
        check=found,
        needs=needs,
        price=effort.rounded(question.labour_per_hour),
        minutes=effort.minutes,
        days=max((part.days for part in on), default=0),
        grams=sum(part.grams for part in on) - sum(question.stands_g.get(slot, 0) for slot in changes),
    )


def broken(question: Question, baseline: Baseline, way: Way) -> list[str]:
    """Return every promise that a set of changes breaks, in words; empty for a way."""
    return [
        *(f"{finding.rule}: {finding.says}" for finding in _unsound(question, baseline, way)),
        *(f"{slot} is left open" for slot in left_open(question, baseline, way.build)),
        *_unmet(question, way),
    ]


def _unsound(question: Question, baseline: Baseline, way: Way) -> Iterable[Finding]:
    for finding in way.check.findings:
        allowed = question.wish.allow_unmeasured and finding.verdict is Verdict.UNMEASURED
        if baseline.fault(finding) and not allowed:
            yield finding


def left_open(question: Question, baseline: Baseline, build: Build) -> list[str]:
    """Slots that a complete bike of this sort wants and that stand open, or were emptied, by the changes alone."""
    filled = build.filled()
    was_open = set(baseline.check.open_slots) | set(question.wish.empty)
    return [
        slot
        for slot in wanted_slots(build)
        if slot not in filled and slot not in was_open and slot not in question.build.empty
    ]


def _unmet(question: Question, way: Way) -> Iterable[str]:
    wish, build, filled = question.wish, question.build, way.build.filled()
    attrs = attrs_reader(way.build)
    before = build.filled()
    for n, wanted in enumerate(wish.require):
        if wanted.slot not in filled or not wanted.met_by(attrs(wanted.slot)):
            yield f"require[{n}]"
    for slot in wish.keep:
        if filled.get(slot) is not before.get(slot):
            yield f"keep.{slot}"
    on = [part.id for part in way.changes.values() if part]
    yield from (f"fit.{name}" for name in wish.fit if name not in on)
    yield from (f"empty.{slot}" for slot in wish.empty if slot in filled)
    if wish.gears is not None and not wish.gears.met_by(attrs):
        yield "gears"
    if wish.price_max is not None and way.price > wish.price_max:
        yield "price_max"
    if wish.ready_in_days_max is not None and way.days > wish.ready_in_days_max:
        yield "ready_in_days_max"
    uses = [part for part in way.changes.values() if part]
    for name, same in itertools.groupby(sorted(uses, key=lambda part: part.id), key=lambda part: part.id):
        times = list(same)
        if len(times) > times[0].count:
            yield f"{name} is used more often than there are"
