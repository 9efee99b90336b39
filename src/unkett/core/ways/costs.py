"""What everything costs, as sums the solver knows: every change by itself, and what joints need."""

from __future__ import annotations

import itertools

from unkett.core.solver import ConstraintModel
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.domains import Domains
from unkett.core.ways.dominance import Aim, Own
from unkett.core.ways.outcome_table import Cost
from unkett.core.ways.wish import Question

WHAT_MAY_BE_MANY = 40  # needs of one joint, at most
Terms = dict[int, int]


class Tally:
    """A whole number that is at least a sum to which terms are still added."""

    def __init__(self, choices: ConstraintModel, most: int) -> None:
        self._choices = choices
        self._most = most
        self.total = self._rest = choices.new_int(0, most)
        self._new: Terms = {}

    def add(self, number: int, times: int) -> None:
        if times:
            self._new[number] = times

    def close(self) -> None:
        """Hand over what was added since."""
        if not self._new:
            return
        rest = self._choices.new_int(0, self._most)
        self._choices.add_at_most({**self._new, rest: 1, self._rest: -1}, 0)
        self._rest, self._new = rest, {}

    def round_up_from(self, sixtieths: Tally) -> None:
        """This one is the other's sixtieths, rounded half up."""
        self._choices.add_at_most({sixtieths.total: 1, self.total: -60}, 29)


class Costs:
    """The keys of a way as sums. Price and minutes grow as joints tell what they need."""

    def __init__(self, question: Question, domains: Domains) -> None:
        self.own: dict[int, Own] = {}
        self._needs: dict[Cost, int] = {}
        self._labour = question.labour_per_hour
        self._choices = domains.choices
        choices = domains.choices
        parts = {part.id: part for part in question.shelf}
        labour = question.labour_per_hour
        slots = {slot for slot, _ in domains.changes}
        need = list(question.needs.values())
        needs_most = WHAT_MAY_BE_MANY * len(SLOTS)
        self.minutes_most = sum(
            max((part.minutes for part in parts.values() if slot in part.slots), default=0) for slot in slots
        )
        self.minutes_most += question.take_off_minutes * len(slots)
        self.minutes_most += needs_most * max((effort.minutes for effort in need), default=0)
        self.price_most = sum(
            max((part.price for part in parts.values() if slot in part.slots), default=0) for slot in slots
        )
        self.price_most += needs_most * max((effort.price for effort in need), default=0)
        self.price_most += labour * self.minutes_most // 60 + 1
        self._sixtieths = Tally(choices, 60 * self.price_most + 60)
        self._minutes = Tally(choices, self.minutes_most)
        price = Tally(choices, self.price_most)
        price.round_up_from(self._sixtieths)
        self.price, self.minutes = price.total, self._minutes.total
        levels = sorted({part.days for part in parts.values() if part.days})
        reached = [choices.new_bool() for _ in levels]
        for lower, higher in itertools.pairwise(reached):
            choices.add_or([~higher, lower])
        self.days_terms: Terms = {
            literal: level - before
            for literal, level, before in zip(reached, levels, [0, *levels], strict=False)
        }
        self.days_most = levels[-1] if levels else 0
        late = question.wish.ready_in_days_max
        self.day_levels = [days for days in (0, *levels) if late is None or days <= late]
        for (slot, name), literal in domains.changes.items():
            part = parts[name] if name is not None else None
            minutes = part.minutes if part else question.take_off_minutes
            own = self.own[literal] = Own(
                slot=slot,
                on=part is not None,
                price=60 * (part.price if part else 0) + labour * minutes,
                minutes=minutes,
                days=part.days if part else 0,
                grams=(part.grams if part else 0) - question.stands_g.get(slot, 0),
                not_from_bin=int(part is not None and not part.from_bin),
            )
            self._minutes.add(literal, minutes)
            self._sixtieths.add(literal, own.price)
            if own.days:
                choices.add_or([~literal, reached[levels.index(own.days)]])

    def need(self, cost: Cost) -> int:
        """Return the answer that is yes where a joint needs this; it counts from then on."""
        if cost not in self._needs:
            literal = self._needs[cost] = self._choices.new_bool()
            self._minutes.add(literal, cost.effort.minutes)
            self._sixtieths.add(literal, 60 * cost.effort.price + self._labour * cost.effort.minutes)
        return self._needs[cost]

    def close(self) -> None:
        """Hand over what was added since the last solve."""
        self._minutes.close()
        self._sixtieths.close()

    def terms(self, key: str) -> tuple[Terms, int, int]:
        """Return a key as a sum, with the least and the most it can be."""
        if key == "price":
            return {self.price: 1}, 0, self.price_most
        if key == "minutes":
            return {self.minutes: 1}, 0, self.minutes_most
        if key == "days":
            return self.days_terms, 0, self.days_most
        terms = {literal: objective for literal, own in self.own.items() if (objective := getattr(own, key))}
        slots = len(SLOTS)
        low, high = (bound(terms.values(), default=0) for bound in (min, max))
        return terms, slots * min(low, 0), slots * max(high, 0)

    def sum_of(self, aim: Aim) -> Terms:
        """Return an objective as one sum."""
        terms: Terms = {}
        for key, times in aim:
            for number, objective in self.terms(key)[0].items():
                terms[number] = terms.get(number, 0) + times * objective
        return terms
