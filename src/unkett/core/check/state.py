"""What stands on a bike as clauses read it, and the values that a missing code may have."""

from __future__ import annotations

import functools
import itertools
from collections.abc import Mapping
from typing import Any

from attrs import Factory, field, frozen

from unkett.core.build import Build, values_in
from unkett.core.rules.view import Views, reading_word
from unkett.core.vocabulary import kind_of
from unkett.core.vocabulary.double_readings import MISREAD
from unkett.core.vocabulary.types import AttributeType, Bool, Choice, Either, ListOf, Whole

NOTHING: Mapping[str, Any] = {}


FEW = 5  # counts of so small a range are tried like codes


@frozen(kw_only=True, slots=False)
class BikeState:
    """What stands on a bike as clauses read it: values by filled slot, the bike's own under 'bike', and the
    empty slots.
    """

    values: Mapping[str, Mapping[str, Any]]
    empty: frozenset[str]
    views: Views = field(
        init=False, eq=False, default=Factory(lambda state: Views(state.values, state.empty), takes_self=True)
    )

    @functools.cached_property
    def known(self) -> frozenset[str]:
        """The slots in which a part stands and the readings of those parts, as `slot.name` words."""
        return frozenset(word for slot, values in self.values.items() for word in _words(slot, values))

    @functools.cached_property
    def doubted(self) -> tuple[str, ...]:
        """The slots whose part has two readings that do not agree."""
        return tuple(slot for slot, values in self.values.items() if MISREAD in values)

    @classmethod
    def of(cls, build: Build) -> BikeState:
        values: dict[str, Mapping[str, Any]] = {
            slot: values_in(slot, part) for slot, part in build.filled().items()
        }
        values["bike"] = {name: value for name, value in build.bike_attrs().items() if value is not None}
        return cls(values=values, empty=build.empty)

    def state(self, slot: str) -> object:
        """Return what tells two bikes apart in a slot: the part's values, or whether it is known to be empty."""
        return self.values.get(slot, slot in self.empty)

    def with_values(self, slot: str, values: Mapping[str, Any]) -> BikeState:
        """Return the same bike with other values in a slot, as `Kind.read` gives them."""
        return self._but(slot, BikeState(values={**self.values, slot: values}, empty=self.empty - {slot}))

    def reread(self, slot: str, attrs: Mapping[str, Any]) -> BikeState:
        """Return the same bike with a part read as `attrs` has it; what is derived from it is worked out again."""
        kind = kind_of(slot)
        own = {name: value for name, value in attrs.items() if name not in kind.derived}
        return self.with_values(slot, kind.read(own))

    def emptied(self, slot: str) -> BikeState:
        """Return the same bike, known to have nothing in a slot."""
        left = {name: values for name, values in self.values.items() if name != slot}
        return self._but(slot, BikeState(values=left, empty=self.empty | {slot}))

    def _but(self, slot: str, other: BikeState) -> BikeState:
        """Another bike that differs in one slot, with what was made of the others."""
        other.views.update({number: view for number, view in self.views.items() if view.slot != slot})
        gone, come = self.values.get(slot), other.values.get(slot)
        known = self.known
        if gone is not None:
            known = known.difference(_words(slot, gone))
        other.__dict__["known"] = known if come is None else known.union(_words(slot, come))
        return other


def _words(slot: str, values: Mapping[str, Any]) -> list[str]:
    return [slot, *[reading_word(slot, name) for name in values]]


def trial_values(kind: AttributeType, name: str, state: BikeState) -> list[Any]:
    """Every value that a missing code or yes/no may have, those that stand on the bike first; nothing for a size.

    Of a list of codes: none, each alone, all together. An open family of codes is tried with a code of its own.
    Of codes by ring: one for all, and every row that can be made of the rows state on the bike.
    """
    if isinstance(kind, Bool):
        return [True, False]
    if isinstance(kind, Whole) and kind.high - kind.low <= FEW:
        return list(range(kind.low, kind.high + 1))
    if isinstance(kind, Either):
        alike = trial_values(kind.one, name, state)
        return [*alike, *_rows_of(kind.one, state)] if alike else []
    if isinstance(kind, ListOf):
        each = trial_values(kind.item, name, state)
        return [tuple(each), *((item,) for item in each), *([()] if kind.least == 0 else [])] if each else []
    if not isinstance(kind, Choice):
        return []
    seen = [
        value
        for values in state.values.values()
        for value in values.values()
        if isinstance(value, str) and kind.of.has(value)
    ]
    other = [f"{kind.of.open_prefix}of_its_own"] if kind.of.open_prefix else []
    return list(dict.fromkeys([*seen, *kind.of.codes, *other]))


def _rows_of(kind: AttributeType, state: BikeState) -> list[Any]:
    """Return every row of two codes or more that the rows of such codes on the bike are long enough for."""
    rows = [
        value
        for values in state.values.values()
        for value in values.values()
        if isinstance(kind, Choice)
        and isinstance(value, tuple)
        and value
        and all(isinstance(code, str) and kind.of.has(code) for code in value)
    ]
    made = (p for row in rows for long in range(2, len(row) + 1) for p in itertools.permutations(row, long))
    return list(dict.fromkeys(made))
