"""A rule at one place of the bike: which parts stand there, and what each of its clauses reads of them."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.build import PIECE
from unkett.core.rules.roles import REQUIRED, Role
from unkett.core.rules.view import ClauseFunction, Seen, reading_word
from unkett.core.vocabulary import kind_of, measured_by
from unkett.core.vocabulary.double_readings import MISREAD, Pair, pairs_of


@frozen(kw_only=True)
class Reading:
    """What one clause reads of one role: names by category, as the role calls them."""

    role: str
    needs: tuple[str, ...]
    given: tuple[str, ...]
    asks: tuple[str, ...]
    may: tuple[str, ...]
    shows: tuple[str, ...]
    there: bool  # named as `role` alone: the part itself

    @property
    def all(self) -> tuple[str, ...]:
        return (*self.needs, *self.given, *self.asks, *self.may, *self.shows)


@frozen(kw_only=True)
class Clause:
    """One way of looking at a joint: a function and what it reads."""

    function: ClauseFunction
    readings: tuple[Reading, ...]
    settings: bool
    silences: bool  # it may find that the rule does not apply


@frozen(kw_only=True)
class SiteClause:
    """A clause at one joint: what it reads there by the slots' own names.

    `wants` are the slots without a part of which it cannot run; `needs` those and the readings that it needs, as
    `slot.name` words: where all of it is there, the clause is run as it is.
    """

    clause: Clause
    seen: tuple[Seen, ...]
    wants: frozenset[str]
    needs: frozenset[str]
    view_ids: tuple[int, ...]

    @classmethod
    def of(cls, clause: Clause, seen: tuple[Seen, ...]) -> SiteClause:
        wants = frozenset(one.slot for one in seen if one.stops)
        return cls(
            clause=clause,
            seen=seen,
            wants=wants,
            needs=wants.union(reading_word(one.slot, name) for one in seen for name in one.needed),
            view_ids=tuple(one.view_id for one in seen),
        )


@frozen(kw_only=True, slots=False)
class Site:
    """A rule at one place of the bike: the joint, the part in each role and each clause with the slots' own names."""

    joint: str
    roles: Mapping[str, Role]
    one_piece: str = ""  # what is said where one part is all that stands here, as its maker built it
    clauses: list[SiteClause] = field(factory=list)
    quotes: dict[str, Any] = field(
        factory=dict, eq=False
    )  # by message what it quotes here, as the engine keeps it

    def reads(self, slot: str) -> tuple[str, ...]:
        """Return what the rule's clauses read of a slot here, by the slot's own names."""
        names = {
            name
            for one in self.clauses
            for seen_part in one.seen
            if seen_part.slot == slot
            for name in seen_part.names.values()
        }
        return tuple(sorted({*names, *self._beside(slot)}))

    def _beside(self, slot: str) -> tuple[str, ...]:
        """Return what the engine itself reads of a slot before any clause is run."""
        return (*((MISREAD,) if slot in self.read_twice else ()), *((PIECE,) if self.one_piece else ()))

    @functools.cached_property
    def read_twice(self) -> Mapping[str, tuple[Pair, ...]]:
        """By slot the pairs of readings that should agree of which the clauses read one. A rule that reads of itself
        which pairs differ has none.
        """
        read = {
            (seen.slot, name) for one in self.clauses for seen in one.seen for name in seen.names.values()
        }
        found = {
            slot: tuple(
                pair
                for pair in pairs_of(kind_of(slot).name)
                if any((slot, name) in self.measured for name in pair.names)
            )
            for slot in self.slots
            if (slot, MISREAD) not in read
        }
        return {slot: pairs for slot, pairs in found.items() if pairs}

    def decided_by_clause(self, n: int) -> Mapping[str, frozenset[str]]:
        """Return what the n-th clause alone decides by, by slot: what it and earlier clauses that may silence it read,
        but for what is only shown.
        """
        names: dict[str, set[str]] = {slot: set() for slot in self.slots}
        for place, one in enumerate(self.clauses[: n + 1]):
            if place == n or one.clause.silences:
                for seen_part in one.seen:
                    decided = {own for name, own in seen_part.names.items() if name not in seen_part.shows}
                    names.setdefault(seen_part.slot, set()).update(decided)
        for slot in self.slots:
            names[slot].update(self._beside(slot))
        return {slot: frozenset(found) for slot, found in names.items()}

    @functools.cached_property
    def measured(self) -> Mapping[tuple[str, str], bool]:
        """The attributes behind all that is read here, by slot and name: whether the rule asks for it."""
        found: dict[tuple[str, str], bool] = {}
        for one in self.clauses:
            for seen_part in one.seen:
                for name, own in seen_part.names.items():
                    derived = kind_of(seen_part.slot).derived.get(own)
                    helps = derived.helped_by if derived else ()
                    for attr in measured_by(seen_part.slot, own):
                        asks = (name in seen_part.must or name in seen_part.asks) and attr not in helps
                        found[seen_part.slot, attr] = found.get((seen_part.slot, attr), False) or asks
        return found

    @functools.cached_property
    def called_up_by(self) -> frozenset[str]:
        """The parts, or where no clause runs without one of them the readings, that make the rule look here."""
        first = [
            next(
                (reading_word(one.slot, one.names[name]) for one in at_site.seen for name in one.given), None
            )
            for at_site in self.clauses
        ]
        words = [word for word in first if word is not None]
        return frozenset(words if len(words) == len(first) else self.slots)

    @functools.cached_property
    def slots(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(role.slot for role in self.roles.values() if role.slot != "bike"))

    @functools.cached_property
    def required(self) -> frozenset[str]:
        """The slots that must be filled before the rule says more than a No-go of those that are."""
        return frozenset(
            role.slot for role in self.roles.values() if role.presence == REQUIRED and role.slot != "bike"
        )
