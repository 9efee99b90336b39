"""Readings of one part that say the same thing twice, held against each other by the table `double_readings`."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.standards import SLACK, Row, table
from unkett.core.vocabulary.declare import Derived

MISREAD = "misread"  # the derived value of a part whose readings do not agree: the pairs that differ


@frozen(kw_only=True)
class Pair:
    """Two readings of a kind of part that should agree, with the rows that say when they do."""

    kind: str
    says: str
    again: str
    rows: tuple[Row, ...] = field(repr=False, eq=False)

    @property
    def names(self) -> tuple[str, str]:
        return self.says, self.again

    def agrees(self, attrs: Mapping[str, Any]) -> bool:
        """Return whether the two agree, as far as both are read and the table compares them."""
        first, again = attrs.get(self.says), attrs.get(self.again)
        if first is None or again is None:
            return True
        rows = [row for row in self.rows if _speaks_of(row, first, again, attrs)]
        return not rows or any(_allows(row, first, again, attrs) for row in rows)

    def readings(self, attrs: Mapping[str, Any]) -> list[dict[str, Any]]:
        """Return the part once as each of the two readings has it: the other one left out, or turned into what the
        first allows.
        """
        again = attrs[self.again]
        other = [
            value
            for row in self.rows
            for value in row.get("values", ())
            if _speaks_of(row, value, again, attrs) and _allows(row, value, again, attrs)
        ]
        first = {name: value for name, value in attrs.items() if name != self.again}
        rest = {name: value for name, value in attrs.items() if name != self.says}
        return (
            [first, *({**rest, self.says: value} for value in dict.fromkeys(other))]
            if other
            else [first, rest]
        )


@frozen(kw_only=True)
class Misread:
    """Two readings of a part that do not agree, with what was read: parts alike in these are judged alike."""

    pair: Pair
    first: Any
    again: Any


def _speaks_of(row: Row, first: Any, again: Any, attrs: Mapping[str, Any]) -> bool:
    count = len(again) if isinstance(again, (tuple, list)) else 1
    return (
        ("values" not in row or first in row["values"])
        and row.get("count_least", 0) <= count <= row.get("count_most", count)
        and ("with" not in row or bool(attrs.get(row["with"])))
        and ("without" not in row or not attrs.get(row["without"]))
        and ("less" not in row or attrs.get(row["less"]) is not None)
    )


def _allows(row: Row, first: Any, again: Any, attrs: Mapping[str, Any]) -> bool:
    if "window" in row:
        low, high = row["window"]
        read = min(again) if row.get("take") == "min" else again
        return bool(low - SLACK <= read <= high + SLACK)
    if "again_values" in row:
        return bool(again in row["again_values"])
    if "share" in row:
        return bool(again <= first * row["share"] + SLACK)
    if "less" in row:
        return bool(again <= first - attrs[row["less"]] + SLACK)
    if "over" in row:
        return bool(again <= first + row["over"] + SLACK)
    return bool(len(again) == first)


@functools.cache
def pairs_of(kind: str) -> tuple[Pair, ...]:
    """Return the pairs of readings of a kind of part that say the same thing twice."""
    by_names: dict[tuple[str, str], list[Row]] = {}
    for row in table("double_readings").rows:
        if row["kind"] == kind:
            by_names.setdefault((row["says"], row["again"]), []).append(row)
    return tuple(
        Pair(kind=kind, says=says, again=again, rows=tuple(rows)) for (says, again), rows in by_names.items()
    )


def misread_of(kind: str) -> Derived | None:
    """Return the derived value that names the pairs of a part which do not agree; None for a kind without any."""
    pairs = pairs_of(kind)
    if not pairs:
        return None

    def differing(attrs: Mapping[str, Any]) -> tuple[Misread, ...] | None:
        found = [
            Misread(pair=pair, first=attrs[pair.says], again=attrs[pair.again])
            for pair in pairs
            if not pair.agrees(attrs)
        ]
        return tuple(found) or None

    of = tuple(dict.fromkeys(name for pair in pairs for name in pair.names))
    return Derived(name=MISREAD, of=of, function=differing)
