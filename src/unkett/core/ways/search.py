"""The best ways of a question, by every objective asked for, then further ones."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable

from attrs import field, frozen

from unkett.core.errors import CoreError
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.changes import Baseline, Changes, Key, Way, broken, evaluate
from unkett.core.ways.dominance import Aim
from unkett.core.ways.model import SUM_MAX, Found, Model
from unkett.core.ways.wish import KEYS, Question

FIGURES = ("price", "count", "days", "minutes", "grams")


@frozen(kw_only=True, eq=False)
class Best:
    """The best way by an objective; `bound` is what its first key cannot be below. No way and proven: there is none."""

    way: Way | None
    proven: bool
    bound: int | None = None


@frozen(kw_only=True, eq=False)
class Listed:
    """A way with the objectives by which it is the best; none for a further way.

    `bound` is what the first key of the first objective cannot be below.
    """

    way: Way
    best: tuple[str, ...] = ()
    proven: bool = True
    bound: int | None = None


@frozen(kw_only=True)
class Watch:
    """Who looks on: gets every better way, is asked whether the answer is still wanted."""

    better: Callable[[str, Way], None] = lambda _best, _way: None
    unwanted: Callable[[], bool] = lambda: False


@frozen(kw_only=True, eq=False)
class Search:
    """A question in the model, with every way that was met so far."""

    question: Question
    baseline: Baseline
    model: Model
    watch: Watch = field(factory=Watch)
    met: list[Way] = field(factory=list)
    listed_keys: list[str] = field(factory=list)  # the keys that ways listed already are compared by
    left_out: list[Way] = field(factory=list)  # those that further ways must add to

    @classmethod
    def of(cls, question: Question, watch: Watch | None = None) -> Search:
        baseline = Baseline.of(question.build, question.settings)
        model = Model(question, baseline)
        return cls(question=question, baseline=baseline, model=model, watch=watch or Watch())

    def lay(self, changes: Changes) -> Way:
        """Return a way from changes that the model takes for one. Raises CoreError where the engine says otherwise."""
        way = evaluate(self.question, self.baseline, changes)
        wrong = broken(self.question, self.baseline, way)
        if wrong:
            raise CoreError(f"a way that is none: {wrong[0]}")
        return way

    # one objective

    def best(self, objective: str) -> Best:
        """Return the best way by an objective, proven unless time runs out or the answer is no longer wanted."""
        deadline = time.monotonic() + self.question.seconds
        model = self.model
        stage = model.choices.new_bool()
        model.choices.fix(stage, 1)
        try:
            return self._staged(objective, stage, deadline)
        finally:
            model.choices.fix(stage, 0)
            model.latest = self.question.wish.ready_in_days_max

    def _aims(self, objective: str) -> list[tuple[Aim, tuple[str, ...]]]:
        """Return an objective's keys as sums to be made least in turn, with their keys: two at once where it is exact.

        The soonest ways are the cheapest of the fewest days in which there are any.
        """
        keys = KEYS[objective][1:] if objective == "soonest" else KEYS[objective]
        found: list[tuple[Aim, tuple[str, ...]]] = []
        for pair in (keys[:2], keys[2:]):
            bounds = [self.model.costs.terms(key) for key in pair]
            span = bounds[-1][2] - bounds[-1][1] + 1
            if len(pair) == 2 and max(abs(bounds[0][1]), abs(bounds[0][2])) * span < SUM_MAX:
                found.append((((pair[0], span), (pair[1], 1)), pair))
            else:
                found += [(((key, 1),), (key,)) for key in pair]
        return found

    def _least(
        self, objective: str, aim: Aim, deadline: float, aims: list[Aim], *, ids: bool = False
    ) -> Found:
        def seen(changes: Changes) -> None:
            way = self.lay(changes)
            best = min((met.key(objective) for met in self.met), default=None)
            self.met.append(way)
            if best is None or way.key(objective) < best:
                self.watch.better(objective, way)

        latest = self.model.latest
        met = [way for way in self.met if latest is None or way.days <= latest]
        worths = [score(aim, way) for way in met]
        return self.model.minimize(
            aim,
            deadline,
            aims=tuple(aims),
            limits=tuple(self.listed_keys),
            ids=ids,
            objective=min(worths, default=None) if aim == aims[0] else None,
            seen=seen,
            unwanted=self.watch.unwanted,
        )

    def _staged(self, objective: str, stage: int, deadline: float) -> Best:
        rows = self._aims(objective)
        aims = [aim for aim, _ in rows]
        found, bound = self._first(objective, aims, deadline)
        if found.changes is None and found.proven:
            return Best(way=None, proven=True)
        if found.changes is None or not found.proven:
            return self._unproven(objective, bound)
        way = self.lay(found.changes)
        for key in rows[0][1]:
            terms = self.model.costs.terms(key)[0]
            if terms:
                self.model.choices.add_at_most(terms, getattr(way, key), where=[stage])
        return self._last(objective, aims, way, deadline, bound)

    def _first(self, objective: str, aims: list[Aim], deadline: float) -> tuple[Found, int]:
        """Return the least of the first aim, and what the objective's first key cannot be below."""
        if objective != "soonest":
            found = self._least(objective, aims[0], deadline, aims[:1])
            return found, self._bound(aims[0], found.bound)
        for days in self.model.costs.day_levels:
            self.model.latest = days
            found = self._least(objective, aims[0], deadline, aims[:1])
            if found.changes is not None or not found.proven:
                break
        return found, days

    def _bound(self, aim: Aim, bound: int) -> int:
        """Return what an aim's first key cannot be below, from the bound of the whole sum."""
        (first, span), *rest = aim
        most = sum(times * self.model.costs.terms(key)[2] for key, times in rest)
        return max(self.model.costs.terms(first)[1], -(-(bound - most) // span))

    def _last(self, objective: str, aims: list[Aim], way: Way, deadline: float, bound: int) -> Best:
        """Of the ways alike in the first aim, which is held, the first by the other aims and the ids.

        One question after another: is there a way that comes before this one?
        """
        choices = self.model.choices
        while True:
            way = self._exchanged(objective, way)
            before = choices.new_bool()
            choices.fix(before, 1)
            if aims[1:]:
                self._within(aims[1], score(aims[1], way), before)
            choices.add_or([~before, *self._smaller(aims[1:], way), *self._smaller_ids(aims[2:], way)])
            found = self._least(objective, aims[0], deadline, aims, ids=True)
            choices.fix(before, 0)
            if found.changes is None and found.proven:
                return Best(way=way, proven=True)
            if found.changes is None:
                return self._unproven(objective, bound)
            way = self.lay(found.changes)

    def _exchanged(self, objective: str, way: Way) -> Way:
        """Return the way, or one that comes before it by two parts that change places, such as front and rear tyres."""
        for (slot, one), (place, other) in itertools.combinations(way.changes.items(), 2):
            if one is None or other is None or place not in one.slots or slot not in other.slots:
                continue
            then = evaluate(self.question, self.baseline, {**way.changes, slot: other, place: one})
            first = then.key(objective) < way.key(objective) and all(
                adds_to(then, earlier) for earlier in self.left_out
            )
            if first and not broken(self.question, self.baseline, then):
                self.met.append(then)
                return self._exchanged(objective, then)
        return way

    def _within(self, aim: Aim, most: int, where: int) -> None:
        """Bound an aim where this answer holds."""
        terms = self.model.costs.sum_of(aim)
        if terms:
            self.model.choices.add_at_most(terms, most, where=[where])

    def _smaller(self, aims: list[Aim], way: Way) -> list[int]:
        """Answers each of which makes a way smaller than this one in one of the aims, and no larger in those before.

        In the first of them no way is larger.
        """
        found = []
        for n, aim in enumerate(aims):
            literal = self.model.choices.new_bool()
            for earlier in aims[1:n]:
                self._within(earlier, score(earlier, way), literal)
            least = sum(times * self.model.costs.terms(key)[1] for key, times in aim)
            if self.model.costs.sum_of(aim) and score(aim, way) > least:
                self._within(aim, score(aim, way) - 1, literal)
                found.append(literal)
        return found

    def _smaller_ids(self, aims: list[Aim], way: Way) -> list[int]:
        """Answers each of which makes a way come before this one by slot and shelf id, no larger in the aims."""
        domains, choices = self.model.domains, self.model.choices
        firsts = []
        so_far = choices.new_bool()  # the slots before this one are as in the way
        for aim in aims:
            self._within(aim, score(aim, way), so_far)
        for slot in (slot for slot in SLOTS if slot in domains.stays):
            same = domains.stays[slot]
            if slot in way.changes:
                part = way.changes[slot]
                same = domains.changes[slot, part.id if part else None]
                smaller = [domains.stays[slot]]
                if part is not None:
                    smaller += [
                        literal
                        for (place, name), literal in domains.changes.items()
                        if place == slot and (name is None or name < part.id)
                    ]
                firsts.append(choices.new_bool())
                choices.add_or([~firsts[-1], *smaller])
                choices.add_or([~firsts[-1], so_far])
            before, so_far = so_far, choices.new_bool()
            choices.add_or([~so_far, before])
            choices.add_or([~so_far, same])
        return firsts

    def _unproven(self, objective: str, bound: int) -> Best:
        """Return the best way met so far; time ran out."""
        way = min(self.met, key=lambda met: met.key(objective), default=None)
        return Best(way=way, proven=False, bound=bound)

    # further ways

    def leave_out(self, way: Way) -> None:
        """Require of further ways that they neither hold all changes of this one nor are better in no figure."""
        choices, model = self.model.choices, self.model
        self.left_out.append(way)
        choices.add_or([~model.domains.changes[named] for named in way.named])
        for named in way.named:
            model.dominance.hinder([model.domains.changes[named]])
        better = []
        for key in FIGURES:
            terms, low, _ = self.model.costs.terms(key)
            most = getattr(way, key) - 1
            if terms and most >= low:
                literal = choices.new_bool()
                choices.add_at_most(terms, most, where=[literal])
                better.append(literal)
        choices.add_or(better)


def adds_to(way: Way, earlier: Way) -> bool:
    """Whether a further way is worth listing beside an earlier one: not all of it and more, and better in a figure."""
    better = any(getattr(way, key) < getattr(earlier, key) for key in FIGURES)
    return better and not earlier.named <= way.named


def score(aim: Aim, way: Way) -> int:
    """Return what an aim comes to by a way."""
    return sum(times * int(getattr(way, key)) for key, times in aim)


def listed_ways(search: Search) -> tuple[list[Listed], bool]:
    """Return the best ways and the further ones; and whether, where there are none, it is proven that there is none."""
    question = search.question
    ways: list[Listed] = []
    by_ids: dict[Key, int] = {}
    for objective in question.best:
        best = search.best(objective)
        if best.way is None:
            if best.proven or not ways:
                return [], best.proven
            continue
        way = best.way
        if way.ids in by_ids:
            old = ways[by_ids[way.ids]]
            bound = way.key(old.best[0])[0] if old.proven else old.bound
            ways[by_ids[way.ids]] = Listed(
                way=old.way, best=(*old.best, objective), proven=old.proven and best.proven, bound=bound
            )
        else:
            by_ids[way.ids] = len(ways)
            ways.append(Listed(way=way, best=(objective,), proven=best.proven, bound=best.bound))
    if question.more:
        ways += _further(search, [listed.way for listed in ways])
    return ways, True


def _further(search: Search, earlier: list[Way]) -> list[Listed]:
    """Up to so many further ways in the order of the first objective."""
    search.listed_keys.extend(FIGURES)
    for way in earlier:
        search.leave_out(way)
    found: list[Listed] = []
    while len(found) < search.question.more:
        search.met.clear()
        best = search.best(search.question.best[0])
        if best.way is None:
            break
        found.append(Listed(way=best.way, proven=best.proven, bound=best.bound))
        search.leave_out(best.way)
        if not best.proven:
            break
    return found
