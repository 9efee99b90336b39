"""Readings of a build looked up by slot and name, and which of them are missing."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.vocabulary import SLOTS, describe, kind_of
from unkett.core.vocabulary.double_readings import MISREAD


@frozen(kw_only=True)
class Missing:
    """Something to measure before a number can be given."""

    slot: str
    attr: str

    @property
    def says(self) -> str:
        where = "Bike and rider" if self.slot == "bike" else SLOTS[self.slot].title
        return f"{where}: {describe(self.slot, self.attr).title.lower()}"

    @property
    def how(self) -> str:
        return describe(self.slot, self.attr).how

    @property
    def unit(self) -> str:
        return describe(self.slot, self.attr).unit


class Facts:
    """Attributes of a build by slot and what is derived from them, noting what was asked for and missing."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.filled = build.filled()
        self.missing: list[Missing] = []
        self._attrs: dict[str, Mapping[str, Any]] = {"bike": build.bike_attrs()}

    def beside(self, build: Build) -> Facts:
        """Return the facts of another state of this bike; what is missing there is noted here too."""
        other = Facts(build)
        other.missing = self.missing
        return other

    def get(self, slot: str, attr: str) -> Any:
        attrs = self._attrs.get(slot)
        if attrs is None:
            part = self.filled.get(slot)
            own = {} if part is None else part_attrs_for(slot, part)
            attrs = self._attrs[slot] = kind_of(slot).read(own)
        return attrs.get(attr)

    def doubted(self, slot: str, attr: str) -> bool:
        """Return whether another reading of the part says otherwise, so that nobody knows which of the two is right."""
        return any(attr in one.pair.names for one in self.get(slot, MISREAD) or ())

    def first(self, sources: Iterable[tuple[str, str]]) -> Any:
        """Return the first of several attributes that is known."""
        return next((value for slot, attr in sources if (value := self.get(slot, attr)) is not None), None)

    def want_first(self, sources: Sequence[tuple[str, str]]) -> Any:
        """Return the same; where none is known the last is missing."""
        value = self.first(sources)
        return self.want(*sources[-1]) if value is None else value

    def want(self, slot: str, attr: str) -> Any:
        value = self.get(slot, attr)
        if value is None:
            self.missing.append(Missing(slot=slot, attr=attr))
        return value
