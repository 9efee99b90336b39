"""One look of a rule by itself, asked of very many mixtures of parts: what the search for ways is quick by."""

from __future__ import annotations

from collections.abc import Mapping
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


Views = dict[Any, "View | Blind"]  # by what stands there what a look gets to see


class LookAlone:
    """The n-th look at a place by itself, with those before it that may silence it, asked of very many parts.

    Each part is looked at once by every role, so that asking of another mixture costs little more than the look.
    """

    def __init__(self, site: Site, n: int, settings: Settings = DEFAULTS) -> None:
        self._site = site
        self._silenced_later = any(look.may_silence for look, _ in site.looks[n + 1 :])
        self._plan: list[tuple[LookFunction, tuple[Settings, ...], list[tuple[Seen, Views]]]] = [
            (look.function, (settings,) if look.settings else (), [(seen_part, {}) for seen_part in seen])
            for place, (look, seen) in enumerate(site.looks[: n + 1])
            if place == n or look.may_silence
        ]

    def says(self, there: Mapping[str, Any]) -> Verdict | None:
        """What it alone makes of what stands `there`, by slot a `Stands` or the like of one.

        No go: the rule says so too. Unmeasured: the rule says so or, for another look, No go. None: anything.
        """
        lacks = False
        for function, more, roles in self._plan:
            mine: list[Any] = []
            for seen_part, views in roles:
                stands = there[seen_part.slot]
                view = views.get(stands) or self._view(seen_part, views, stands)
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
        return Verdict.UNMEASURED if lacks and self._counts(there) else None

    def _counts(self, there: Mapping[str, Any]) -> bool:
        """Whether the rule speaks of what is missing: all parts that it wants are there, and no look silences it."""
        filled = {slot for slot in self._site.slots if there[slot].values is not None}
        return bool(filled) and self._site.wanted <= filled and not self._silenced_later

    def _view(self, seen_part: Seen, views: Views, stands: Any) -> View | Blind:
        """The view that a look gets of what stands in a slot."""
        values = stands.values
        if values is None and seen_part.stops:
            views[stands] = Blind.STOPS
        elif values is None or seen_part.needed <= values.keys():
            views[stands] = ReadyView(seen_part, values, values is None and stands.known_empty)
        else:
            given = all(seen_part.names[name] in values for name in seen_part.given)
            views[stands] = Blind.LACKS if given else Blind.STOPS
        return views[stands]
