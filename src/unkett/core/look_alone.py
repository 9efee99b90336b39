"""One look of a rule by itself, asked of very many mixtures of parts: what the search for ways is quick by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import Enum
from typing import Any

from attrs import frozen

from unkett.core.errors import InputError
from unkett.core.finding import Verdict
from unkett.core.rules.base import LookFunction, Seen, Site, Unread, View
from unkett.core.settings import DEFAULTS, Settings


class ReadyView(View):
    """A view that is looked at very often: what it gives lies ready."""

    def __init__(self, seen: Seen, values: Mapping[str, Any] | None, known_empty: bool) -> None:
        super().__init__(seen, values, known_empty)
        for name, own in seen.names.items():
            value = self._values.get(own)
            if value is not None or name not in seen.asks:
                self.__dict__[name] = value


@frozen(kw_only=True, eq=False)
class Stands:
    """What stands in one slot: a part's values, or None and whether the slot is known to be empty."""

    values: Mapping[str, Any] | None
    known_empty: bool = False


class Blind(Enum):
    """Why a look cannot run on what stands in a slot: it has nothing to say of it, or a reading is missing."""

    STOPS = 0
    LACKS = 1


class Looked:
    """A part as a look sees it: all that may stand in its slot, each looked at once."""

    def __init__(self, seen: Seen, row: Sequence[Any]) -> None:
        self.seen = seen
        self._row = row
        self.views: list[View | Blind | None] = [None] * len(row)

    def view(self, n: int) -> View | Blind:
        """The view that a look gets of the n-th thing that may stand there."""
        seen, values = self.seen, self._row[n].values
        if values is None and seen.stops:
            view: View | Blind = Blind.STOPS
        elif values is None or seen.needed <= values.keys():
            view = ReadyView(seen, values, values is None and self._row[n].known_empty)
        else:
            given = all(seen.names[name] in values for name in seen.given)
            view = Blind.LACKS if given else Blind.STOPS
        self.views[n] = view
        return view


class LookAlone:
    """The n-th look at a place by itself, with those before it that may silence it, asked of very many parts.

    `rows` are by slot all that may stand there, each a `Stands` or the like of one. They are asked for by their places
    in the rows, so that another mixture costs little more than the look.
    """

    def __init__(
        self, site: Site, n: int, rows: Mapping[str, Sequence[Any]], settings: Settings = DEFAULTS
    ) -> None:
        self._wanted = site.wanted
        self._silenced_later = any(look.may_silence for look, _ in site.looks[n + 1 :])
        place_of = {slot: place for place, slot in enumerate(rows)}
        self._slots = [(slot, place_of[slot], rows[slot]) for slot in dict.fromkeys(site.slots)]
        self._plan: list[tuple[LookFunction, tuple[Settings, ...], list[tuple[int, Looked]]]] = []
        for at, (look, seen) in enumerate(site.looks[: n + 1]):
            if at == n or look.may_silence:
                looked = [(place_of[one.slot], Looked(one, rows[one.slot])) for one in seen]
                self._plan.append((look.function, (settings,) if look.settings else (), looked))

    def says(self, places: Sequence[int]) -> Verdict | None:
        """What it alone makes of what stands at these places of the rows.

        No go: the rule says so too. Unmeasured: the rule says so or, for another look, No go. None: anything.
        """
        lacks = False
        for function, more, roles in self._plan:
            mine: list[Any] = []
            for place, looked in roles:
                n = places[place]
                view = looked.views[n] or looked.view(n)
                if view is Blind.STOPS:
                    break
                mine.append(view)
            else:
                if Blind.LACKS in mine:
                    lacks = True
                    continue
                try:
                    outcome = function(*mine, *more)
                except (Unread, InputError):
                    lacks = True
                    continue
                if outcome is None:
                    continue
                if outcome.verdict is None:
                    return None
                if outcome.verdict is Verdict.NO_GO:
                    return Verdict.NO_GO
                lacks = lacks or outcome.verdict is Verdict.UNMEASURED
        return Verdict.UNMEASURED if lacks and self._counts(places) else None

    def filled(self, places: Sequence[int]) -> tuple[str, ...]:
        """The slots in which a part stands."""
        return tuple([slot for slot, place, row in self._slots if row[places[place]].values is not None])

    def _counts(self, places: Sequence[int]) -> bool:
        """Whether the rule speaks of what is missing: all parts that it wants are there, and no look silences it."""
        filled = set(self.filled(places))
        return bool(filled) and self._wanted <= filled and not self._silenced_later
