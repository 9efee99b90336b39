"""What a column of a table may hold, held against every row when the table is loaded.

The head of a table's file has `[columns]`: by name what each holds, with a `?` where a row may lack it:

- `text` · `number` · `whole` · `yes` (true or false) · `texts` · `numbers` · `values` (either)
- `up|down`: one of these words
- `compounds.code`: a value of another table's column; `list compounds.code`: a list of them
- `slot`, `kinds`, `code freehub`, `setting`, …: a name that a higher floor knows and has registered (`refers`); with an
  `s`, a list of them. What is loaded before it is registered is checked when it is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from unkett.core.errors import CoreError, nearest

_KNOWS: dict[str, Callable[[str], bool]] = {}
_WAITING: dict[
    str, list[tuple[str, str]]
] = {}  # by reference, values that were loaded before it was registered
_SIMPLE: Mapping[str, Callable[[Any], bool]] = {
    "text": lambda value: isinstance(value, str),
    "number": lambda value: isinstance(value, (int, float)) and not isinstance(value, bool),
    "whole": lambda value: isinstance(value, int) and not isinstance(value, bool),
    "yes": lambda value: isinstance(value, bool),
    "value": lambda value: isinstance(value, (str, int, float)),
}
_LISTS = {
    "texts": "text",
    "numbers": "number",
    "values": "value",
    "slots": "slot",
    "kinds": "kind",
    "tests": "test",
    "facts": "fact",
}


def refers(name: str, knows: Callable[[str], bool]) -> None:
    """Tell what a reference knows. Raises CoreError for a value that was loaded before and is unknown to it."""
    _KNOWS[name] = knows
    for place, value in _WAITING.pop(name, ()):
        if not knows(value):
            raise CoreError(f"{place}: {value!r} is no {name}")


def check_row(
    place: str,
    row: Mapping[str, Any],
    columns: Mapping[str, str],
    values_of: Callable[[str, str], Sequence[Any]],
) -> None:
    """Hold one row against its table's columns. Raises CoreError naming the place and the column."""
    strange = next((name for name in row if name not in columns), None)
    if strange is not None:
        raise CoreError(f"{place}: column {strange} is not declared{nearest(strange, list(columns))}")
    for name, declared in columns.items():
        if name in row:
            for fault in _faults(f"{place}, column {name}", row[name], declared.removesuffix("?"), values_of):
                raise CoreError(fault)
        elif not declared.endswith("?"):
            raise CoreError(f"{place}: column {name} is missing")


def _faults(
    place: str, value: Any, sort: str, values_of: Callable[[str, str], Sequence[Any]]
) -> Iterator[str]:
    single = _LISTS.get(sort)
    if sort.startswith("codes "):
        single = f"code {sort.removeprefix('codes ')}"
    elif sort.startswith("list "):
        single = sort.removeprefix("list ")
    if single is not None:
        if not isinstance(value, list):
            yield f"{place}: {value!r} where a list is wanted"
            return
        for one in value:
            yield from _faults(place, one, single, values_of)
    elif sort in _SIMPLE:
        if not _SIMPLE[sort](value):
            yield f"{place}: {value!r} is no {sort}"
    elif "|" in sort:
        if value not in sort.split("|"):
            yield f"{place}: {value!r} is none of {sort.replace('|', ', ')}"
    elif "." in sort:
        table, _, column = sort.partition(".")
        known = values_of(table, column)
        if value not in known:
            yield f"{place}: {value!r} is no {column} of the table {table}{nearest(str(value), list(known))}"
    elif sort not in _KNOWS:
        _WAITING.setdefault(sort, []).append((place, value))
    elif not isinstance(value, str) or not _KNOWS[sort](value):
        yield f"{place}: {value!r} is no {sort}"
