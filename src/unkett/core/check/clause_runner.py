"""One clause of a rule by itself, asked of very many mixtures of parts: what the search for ways is quick by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from unkett.core.build import one_piece
from unkett.core.rules.finding import Verdict
from unkett.core.rules.site import Site
from unkett.core.rules.view import STOPS, ClauseFunction, Lack, Seen, View, looked_at, run_clause
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary.double_readings import MISREAD


class Looked:
    """A part as a clause sees it: all that may stand in its slot, each looked at once."""

    def __init__(self, seen: Seen, row: Sequence[Any]) -> None:
        self._seen = seen
        self._row = row
        self.views: list[View | Lack | None] = [None] * len(row)

    def view(self, n: int) -> View | Lack:
        """Return what a clause gets of the n-th thing that may stand there."""
        one = self._row[n]
        whole = View(self._seen.slot, one.values, one.known_empty, self._seen.renamed)
        view = self.views[n] = looked_at(self._seen, whole)
        return view


class ClauseRunner:
    """The n-th look at a place by itself, with those before it that may silence it, asked of very many parts.

    `rows` are by slot all that may stand there, each a `Stands` or the like of one. They are asked for by their places
    in the rows, so that another mixture costs little more than the clause.
    """

    def __init__(
        self, site: Site, n: int, rows: Mapping[str, Sequence[Any]], settings: Settings = DEFAULTS
    ) -> None:
        self._required = site.required
        self._silenced_later = any(one.clause.silences for one in site.clauses[n + 1 :])
        place_of = {slot: place for place, slot in enumerate(rows)}
        self._slots = [(slot, place_of[slot], rows[slot]) for slot in dict.fromkeys(site.slots)]
        self._misread = [
            (place_of[slot], {n for n, one in enumerate(rows[slot]) if MISREAD in (one.values or ())})
            for slot in site.read_twice
        ]
        self._pieces = [(place_of[slot], rows[slot]) for slot in site.required] if site.one_piece else []
        self._plan: list[tuple[ClauseFunction, tuple[Settings, ...], list[tuple[int, Looked]]]] = []
        for at, at_site in enumerate(site.clauses[: n + 1]):
            clause = at_site.clause
            if at == n or clause.silences:
                looked = [(place_of[one.slot], Looked(one, rows[one.slot])) for one in at_site.seen]
                self._plan.append((clause.function, (settings,) if clause.settings else (), looked))

    def says(self, places: Sequence[int]) -> Verdict | None:
        """Return what it alone makes of what stands at these places of the rows.

        No-go: the rule says so too. Unmeasured: the rule says so or, for another clause, No-go. None: anything.
        """
        if any(places[place] in rows for place, rows in self._misread):
            return None  # the rule is judged with each reading
        if self._pieces and one_piece(row[places[place]].values for place, row in self._pieces):
            return None
        lacks = False
        for function, more, roles in self._plan:
            views = [looked.views[places[place]] or looked.view(places[place]) for place, looked in roles]
            outcome = run_clause(function, views, more)
            if outcome is None or outcome is STOPS:
                continue
            if isinstance(outcome, Lack):
                lacks = True
                continue
            if outcome.verdict is None:
                return None
            if outcome.verdict is Verdict.NO_GO:
                return Verdict.NO_GO
            lacks = lacks or outcome.verdict is Verdict.UNMEASURED
        return Verdict.UNMEASURED if lacks and self._counts(places) else None

    def filled(self, places: Sequence[int]) -> tuple[str, ...]:
        """Return the slots in which a part stands."""
        return tuple([slot for slot, place, row in self._slots if row[places[place]].values is not None])

    def _counts(self, places: Sequence[int]) -> bool:
        """Whether the rule speaks of what is missing: all parts that it wants are there, and no clause silences it."""
        filled = set(self.filled(places))
        return bool(filled) and self._required <= filled and not self._silenced_later
