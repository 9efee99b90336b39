"""A table over groups of alike states: what each combination of classes has for a consequence.

Combinations are worked out as they are asked for; what was not worked out constrains nothing, so that a model with
gaps is never too strict.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.ways.domains import Domains, Group
from unkett.core.ways.wish import Effort

Combination = tuple[int, ...]  # a class of each slot of a table
Box = tuple[Any, ...]  # of each slot a class, or several
Rows = Mapping[str, Sequence[Group]]  # by slot a group of each class
Evaluate = Callable[[Combination], Hashable]  # by the place in each row
NO_EFFORT = Effort()


@frozen(kw_only=True, cache_hash=True)
class Fault:
    """A joint that does not go, or of which something would be unmeasured that is not so as the bike stands."""

    rule: str
    slots: tuple[str, ...]
    unmeasured: bool = False


@frozen(kw_only=True)
class Ungeared:
    """Gears that do not reach what is wished."""


@frozen(kw_only=True)
class Cost:
    """What the needs of one joint cost."""

    table: int
    effort: Effort


@frozen(kw_only=True)
class OpenSlot:
    """A want that a complete bike of this sort has."""

    place: int


def by_groups(evaluate: Callable[[Mapping[str, Group]], Hashable]) -> Callable[[Rows], Evaluate]:
    """Return what evaluates a combination by the group that stands in each slot."""

    def evaluator(rows: Rows) -> Evaluate:
        return lambda places: evaluate(
            {slot: row[place] for (slot, row), place in zip(rows.items(), places, strict=True)}
        )

    return evaluator


class OutcomeTable:
    """The consequences of every combination of classes over some slots, worked out when they are asked for."""

    def __init__(
        self,
        domains: Domains,
        slots: Iterable[str],
        sign: Callable[[str, Group], Hashable],
        evaluator: Callable[[Rows], Evaluate],
    ) -> None:
        slots = dict.fromkeys(slots)
        self.slots = tuple(slot for slot in slots if len(domains.groups[slot]) > 1)
        self.fixed = {slot: domains.groups[slot][0] for slot in slots if len(domains.groups[slot]) == 1}
        self.classes: list[list[list[Group]]] = []  # by slot, by class: its groups
        self.class_of: list[list[int]] = []  # by slot, by place of the group: its class
        for slot in self.slots:
            places: dict[Hashable, int] = {}
            class_of = [places.setdefault(sign(slot, group), len(places)) for group in domains.groups[slot]]
            classes: list[list[Group]] = [[] for _ in places]
            for group, place in zip(domains.groups[slot], class_of, strict=True):
                classes[place].append(group)
            self.classes.append(classes)
            self.class_of.append(class_of)
        rows = {
            slot: [groups[0] for groups in classes]
            for slot, classes in zip(self.slots, self.classes, strict=True)
        }
        self._evaluate = evaluator({**rows, **{slot: [group] for slot, group in self.fixed.items()}})
        self._beside = (0,) * len(self.fixed)
        self.known: dict[Combination, Hashable] = {}
        self.covers: dict[Hashable, Cover] = defaultdict(lambda: Cover(len(self.slots)))  # by consequence
        self.given: set[Combination] = set()  # those whose consequence is handed over
        self.planes = 0  # that were tabled around an answer
        self._make_looks: Callable[[], list[OutcomeTable]] = list

    def split_with(self, make: Callable[[], list[OutcomeTable]]) -> None:
        """How the same joint is tabled clause by clause, should it be too large as a whole."""
        self._make_looks = make

    @functools.cached_property
    def by_clause(self) -> list[OutcomeTable]:
        """The same joint, clause by clause; none where one clause is all there is."""
        return self._make_looks()

    def at(self, places: Mapping[str, int]) -> Combination:
        """Return the combination of the groups, by their places, that stand in the slots."""
        return tuple([of[places[slot]] for slot, of in zip(self.slots, self.class_of, strict=True)])

    def consequence(self, combination: Combination) -> Hashable:
        """Return what a combination leads to; None: nothing."""
        known = self.known
        if combination in known:
            return known[combination]
        found = known[combination] = self._evaluate(combination + self._beside)
        if found is not None:
            self.covers[found].add(combination)
        return found

    def live_classes(self, live: Mapping[str, set[int]]) -> list[list[int]]:
        """Return by slot the classes of which a group is still possible."""
        return [
            [n for n, groups in enumerate(classes) if any(group.place in live[slot] for group in groups)]
            for slot, classes in zip(self.slots, self.classes, strict=True)
        ]

    def plane(
        self, combination: Combination, live: Sequence[Sequence[int]], most: int
    ) -> list[Sequence[int]]:
        """Return the largest box around a combination that opens whole slots and stays within so many combinations."""
        sizes = [len(classes) for classes in live]
        slots = range(len(sizes))
        opened = max(
            (few for k in slots for few in itertools.combinations(slots, k + 1)),
            key=lambda few: size if (size := math.prod(sizes[n] for n in few)) <= most else -size,
        )
        return [live[n] if n in opened else [combination[n]] for n in slots]


def size_of(classes: Iterable[Sequence[int]]) -> int:
    return math.prod(len(found) for found in classes)


def merged(combinations: Iterable[Box], order: Iterable[int]) -> list[Box]:
    """Combinations as few boxes: slot by slot those are put together that differ in it alone."""
    boxes = list(combinations)
    for n in order:
        alike: dict[tuple[Box, Box], list[int]] = {}
        for box in boxes:
            alike.setdefault((box[:n], box[n + 1 :]), []).append(box[n])
        boxes = [(*before, tuple(classes), *after) for (before, after), classes in alike.items()]
    return boxes


class Cover:
    """The combinations that are known to have one consequence.

    A rule over whole sets of classes binds a mixture of answers, as the solver weighs it, more than one for each
    combination, and the wider the sets the more; and parts that stand in the same sets are hindered alike.
    """

    def __init__(self, slots: int) -> None:
        # by slot and what stands beside it the classes that go with that
        self._classes: list[dict[Combination, set[int]]] = [defaultdict(set) for _ in range(slots)]

    def add(self, combination: Combination) -> None:
        for n, classes in enumerate(self._classes):
            classes[combination[:n] + combination[n + 1 :]].add(combination[n])

    def boxes(self, combinations: Iterable[Combination], order: Sequence[int]) -> Iterable[Box]:
        """Boxes, each as wide as it can be, that hold all of these combinations and others of the cover."""
        return dict.fromkeys(self._widened(box, reversed(order)) for box in merged(combinations, order))

    def _widened(self, box: Box, order: Iterable[int]) -> Box:
        """Return a box with every class, slot by slot, with which the cover still holds all of it."""
        for n in order:
            beside = itertools.product(*box[:n], *box[n + 1 :])
            classes = set.intersection(*map(self._classes[n].__getitem__, beside))
            box = (*box[:n], tuple(sorted(classes)), *box[n + 1 :])
        return box
