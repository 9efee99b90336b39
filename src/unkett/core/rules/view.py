"""One part as a clause sees it, what a clause lacks, and how it is run: the same for a check and for a search."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterable, Mapping, Sequence, Set
from typing import Any, TypeVar

from attrs import Factory, field, frozen

from unkett.core.errors import InputError
from unkett.core.rules.outcome import Outcome
from unkett.core.vocabulary import kind_of

ClauseFunction = Callable[..., "Outcome | None"]
_NO_NAMES: frozenset[str] = frozenset()


class Unread(Exception):  # noqa: N818 - an answer, not a fault
    """A clause came to a reading that is not there; no name: to a slot of which nothing is recorded."""

    def __init__(self, slot: str, name: str | None) -> None:
        super().__init__(slot, name)
        self.slot = slot
        self.name = name


@functools.cache
def _names(slot: str) -> frozenset[str]:
    kind = kind_of(slot)
    return frozenset((*kind.attributes, *kind.derived))


class View:
    """One part as clauses see it: `view.mount` is a reading, None where it is not there; it never raises for that."""

    slot: str
    read: Set[str]  # the names, own ones, of what is there
    empty: bool  # no part stands there
    recorded: bool  # a part stands there, or the slot is known to be empty
    there: bool | None  # whether a part is fitted; None where the slot is not recorded yet

    def __init__(
        self, slot: str, values: Mapping[str, Any] | None, known_empty: bool, renamed: Mapping[str, str]
    ) -> None:
        mine = self.__dict__
        if values is not None:
            mine.update(values)
            for name, own in renamed.items():
                mine[name] = values.get(own)
        mine["slot"], mine["empty"], mine["_renamed"] = slot, values is None, renamed
        mine["read"] = _NO_NAMES if values is None else values.keys()
        mine["recorded"] = values is not None or known_empty
        mine["there"] = True if values is not None else False if known_empty else None

    def __getattr__(self, name: str) -> Any:
        if name in self._renamed or name in _names(self.slot):
            return None
        raise AttributeError(f"{self.slot} has no attribute {name}")

    def own_name(self, name: str) -> str:
        """Return the slot's own name of an attribute that the role calls `name`."""
        return str(self._renamed.get(name, name))

    def with_reading(self, name: str, value: Any) -> View:
        """Return the same part with one reading as it would be, to judge it both ways."""
        other = object.__new__(type(self))
        other.__dict__.update(self.__dict__)
        other.__dict__[name] = value
        return other


V = TypeVar("V", bound=View)


class _Required:
    """A view whose readings must be there: the clause stops at one that is not, and it is asked for."""

    __slots__ = ("_view",)

    def __init__(self, view: View) -> None:
        self._view = view

    def __getattr__(self, name: str) -> Any:
        value = getattr(self._view, name)
        if value is None:
            raise Unread(self._view.slot, None if name == "there" else self._view.own_name(name))
        return value


def require(view: V, *names: str) -> V:
    """Give a view of which every reading must be there; those named are asked for at once.

    `require(rotor).thickness_mm` stops the clause as Unmeasured where the thickness is not there.
    """
    required = _Required(view)
    for name in names:
        getattr(required, name)
    return required  # type: ignore[return-value] # reads like the view itself


@frozen(kw_only=True, eq=False)
class Stands:
    """What stands in one slot: a part's values, or None and whether the slot is known to be empty."""

    slot: str = ""
    values: Mapping[str, Any] | None
    known_empty: bool = False


@functools.cache
def reading_word(slot: str, name: str) -> str:
    """Return one word for a reading of a slot."""
    return f"{slot}.{name}"


_VIEWED: list[
    tuple[str, Mapping[str, str]]
] = []  # by the number of a view its slot and what it calls otherwise
_view_ids: dict[tuple[str, tuple[tuple[str, str], ...]], int] = {}


def _view_id(slot: str, renamed: Mapping[str, str]) -> int:
    """Return a number that is the same for all that look at a slot and call its readings by the same names."""
    found = _view_ids.setdefault((slot, tuple(sorted(renamed.items()))), len(_VIEWED))
    if found == len(_VIEWED):
        _VIEWED.append((slot, renamed))
    return found


class Views(dict[int, View]):
    """The views of one bike by their numbers, each made when it is first looked at."""

    def __init__(self, values: Mapping[str, Mapping[str, Any]], empty: Set[str]) -> None:
        self._values, self._empty = values, empty

    def __missing__(self, number: int) -> View:
        slot, renamed = _VIEWED[number]
        values = self._values.get(slot)
        view = self[number] = View(slot, values, values is None and slot in self._empty, renamed)
        return view


@frozen(kw_only=True)
class Seen:
    """A reading at one joint, with the slot and its own names: what the engine's inner loop wants."""

    role: str
    slot: str
    stops: bool  # the clause cannot run while no part stands there
    names: Mapping[str, str]
    renamed: Mapping[str, str]
    must: tuple[str, ...]  # as the role calls them
    given: tuple[str, ...]
    asks: frozenset[str]
    shows: frozenset[str]
    needed: frozenset[str]  # must and given by the slot's own names: all of it there, and the clause runs
    view_id: int = field(
        init=False, default=Factory(lambda seen: _view_id(seen.slot, seen.renamed), takes_self=True)
    )


@frozen(kw_only=True, eq=False)
class Lack:
    """Why a clause has no outcome: readings that are missing, or one that no calculation takes."""

    asked: tuple[tuple[str, str | None], ...] = ()
    beyond: InputError | None = None


STOPS = Lack()  # what it looks at does not stand there: nothing is said and nothing asked


def looked_at(seen: Seen, view: View) -> View | Lack:
    """Return what a clause gets of a slot: its view, or why it cannot run on it."""
    if view.empty:
        return STOPS if seen.stops else view
    if seen.needed <= view.read:
        return view
    names, read = seen.names, view.read
    for name in seen.given:
        if names[name] not in read:
            return STOPS
    return Lack(asked=tuple([(seen.slot, names[name]) for name in seen.must if names[name] not in read]))


def run_clause(
    function: ClauseFunction, views: Sequence[View | Lack], more: Sequence[Any]
) -> Outcome | Lack | None:
    """Run one clause: its outcome, None where it has nothing to say, or what it lacks."""
    lacking: tuple[tuple[str, str | None], ...] = ()
    for view in views:
        if type(view) is Lack:
            if view is STOPS:
                return STOPS
            lacking += view.asked
    return Lack(asked=lacking) if lacking else called(function, views, more)


def called(
    function: ClauseFunction, views: Iterable[View | Lack], more: Sequence[Any]
) -> Outcome | Lack | None:
    """Call a clause of which all that it needs is there; it may still come to a reading that is not."""
    try:
        return function(*views, *more)
    except Unread as unread:
        return Lack(asked=((unread.slot, unread.name),))
    except InputError as error:
        return Lack(beyond=error)
