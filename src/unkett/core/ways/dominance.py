"""Parts on the shelf that no best way uses, since others do as well in all that the model knows and wants."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable, Mapping, Sequence

from attrs import frozen

from unkett.core.ways.domains import Domains
from unkett.core.ways.wish import Question

Aim = tuple[tuple[str, int], ...]  # what is to be small: so many times each key


@frozen(kw_only=True)
class Own:
    """What one change alone adds to each key; its price in sixtieths of a hundredth, as minutes of labour count."""

    slot: str
    on: bool
    price: int
    minutes: int
    days: int
    grams: int
    not_from_bin: int
    count: int = 1

    def objective(self, aim: Aim) -> int:
        """Sixty times what it adds to an aim."""
        return sum(times * getattr(self, key) * (1 if key == "price" else 60) for key, times in aim)


@frozen(kw_only=True)
class Figures:
    """What a part is compared by: in turn, with how much less is surely less (None: never surely), and in any case."""

    turns: tuple[tuple[int, int | None], ...]
    limits: tuple[int, ...]

    def before(self, other: Figures) -> bool | None:
        """Return whether this one is surely better; None where it is as good in everything, and may be better."""
        if any(mine > theirs for mine, theirs in zip(self.limits, other.limits, strict=True)):
            return False
        for (mine, margin), (theirs, _) in zip(self.turns, other.turns, strict=True):
            if mine > theirs:
                return False
            if margin is not None and mine + margin < theirs:
                return True
        return None


class Dominance:
    """Tells the parts that are worth trying.

    One part outdoes another in its slot where it is in no class that hinders it in which the other is not, and is no
    worse in what matters. What the model knows grows, so that the answer holds only for the model as it stands.
    """

    def __init__(self, question: Question, domains: Domains, own: Mapping[int, Own]) -> None:
        parts = {part.id: part for part in question.shelf}
        self._own = own
        self._rounds = question.labour_per_hour % 60 != 0
        self._part = {
            literal: parts[name] for (_, name), literal in domains.changes.items() if name is not None
        }
        self._hindered: dict[int, int] = defaultdict(int)  # by answer, a bit for each class it is in
        self._classes = 0
        self._learnt: dict[str, int] = defaultdict(int)  # by slot, how much is held against its parts
        self._kept: dict[Hashable, tuple[Hashable, list[int]]] = {}  # what was answered, and on what ground
        self._figured: dict[tuple[tuple[Aim, ...], tuple[str, ...]], dict[int, Figures]] = {}
        self._alone = {literal for literal, part in self._part.items() if part.part.also}

    def hinder(self, literals: Iterable[int]) -> None:
        """Note that these answers share a class that something is held against."""
        bit = 1 << self._classes
        self._classes += 1
        for literal in literals:
            self._hindered[literal] |= bit
            if literal in self._own:
                self._learnt[self._own[literal].slot] += 1

    def needs(self, literals: Iterable[int]) -> None:
        """Note that nothing can replace these."""
        self._alone.update(literals)
        self._kept.clear()

    def needed(
        self, slot: str, row: Sequence[int], aims: tuple[Aim, ...], limits: tuple[str, ...], ids: bool
    ) -> list[int]:
        """Of the parts that may go into one slot those that no other outdoes.

        `aims` are compared in turn, then the ids where they matter; each of `limits` is a key in which the other must
        be no worse in any case.
        """
        asked, ground = (slot, aims, limits, ids), (self._learnt[slot], tuple(row))
        if self._kept.get(asked, (None,))[0] != ground:
            self._kept[asked] = (ground, self._not_outdone(row, aims, limits, ids))
        return self._kept[asked][1]

    def _not_outdone(
        self, row: Iterable[int], aims: tuple[Aim, ...], limits: tuple[str, ...], ids: bool
    ) -> list[int]:
        known = self._figured.setdefault((aims, limits), {})
        figures = {
            literal: known.get(literal) or known.setdefault(literal, self._figures(literal, aims, limits))
            for literal in row
        }
        kept: list[int] = []
        for literal in sorted(figures, key=lambda one: (figures[one].turns, self._part[one].id)):
            if literal in self._alone or not self._outdone(literal, kept, figures, ids):
                kept.append(literal)
        return kept

    def _figures(self, literal: int, aims: tuple[Aim, ...], limits: tuple[str, ...]) -> Figures:
        own = self._own[literal]
        turns: list[tuple[int, int | None]] = []
        for aim in aims:
            sums = tuple((key, times) for key, times in aim if key != "days")
            if len(sums) < len(aim):
                turns.append((own.days, None))  # the latest part counts: fewer days are never surely better
            turns.append((own.objective(sums), self._rounding(sums)))
        return Figures(turns=tuple(turns), limits=tuple(getattr(own, key) for key in limits))

    def _rounding(self, aim: Aim) -> int:
        """Return how much less a sum must be to be less when the price is rounded."""
        return sum(59 * times for key, times in aim if key == "price") if self._rounds else 0

    def _outdone(self, literal: int, kept: list[int], figures: Mapping[int, Figures], ids: bool) -> bool:
        """Return whether there are others enough for every slot that they may go into."""
        free = ~self._hindered[literal]
        mine, part = figures[literal], self._part[literal]
        copies = 0
        places: set[str] = set()
        for other in kept:
            if self._hindered[other] & free or other in self._alone:
                continue
            better = figures[other].before(mine)
            same = better is None and (not ids or self._part[other].id < part.id)
            if better or same:
                copies += self._part[other].count
                places.update(self._part[other].slots)
                if copies >= len(places):
                    return True
        return False
