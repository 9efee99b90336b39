"""The dimension tables: one TOML file per table, every row with its source and how sure it is.

A row without its own `source` or `sure` has its table's. `sure` is one of 'open standard',
'common practice' and 'derived'. A new standard is a new row, not a new `if`.
"""

from __future__ import annotations

import contextlib
import functools
import marshal
import os
import re
import sys
import tomllib
from pathlib import Path
from typing import Any

from attrs import frozen

from unkett.core.errors import CoreError, nearest
from unkett.core.settings import SETTINGS
from unkett.core.standards.columns import check_row, refers

SLACK = 1e-9  # room that every comparison of two figures leaves
FOLDER = Path(__file__).parent
SURE = ("open standard", "common practice", "derived")

Row = dict[str, Any]


@frozen(kw_only=True)
class Table:
    """A table of one family of standards."""

    name: str
    title: str
    says: str
    rows: tuple[Row, ...]

    def by(self, column: str) -> dict[Any, Row]:
        """Rows by the value of one column; for codes that stand once."""
        return {row[column]: row for row in self.rows}


def _load(name: str) -> dict[str, Any]:
    """A table's file as parsed; what was parsed is kept beside the bytecode, since parsing takes a command's time."""
    source = (FOLDER / f"{name}.toml").read_bytes()
    kept = FOLDER / "__pycache__" / f"{name}.toml.parsed"
    try:
        was, parsed = marshal.loads(kept.read_bytes())  # noqa: S302 - written below, from files that ship
        if was == source:
            return dict(parsed)
    except (OSError, EOFError, ValueError, TypeError):
        pass  # never parsed, or cut short
    parsed = tomllib.loads(source.decode())
    if not sys.dont_write_bytecode:
        with contextlib.suppress(OSError):  # a folder that cannot be written is only slower
            kept.parent.mkdir(exist_ok=True)
            half = kept.with_suffix(f".{os.getpid()}")
            half.write_bytes(marshal.dumps((source, parsed)))
            half.replace(kept)
    return parsed


SOURCES: dict[str, dict[str, str]] = _load("sources")
COLUMNS: dict[str, dict[str, str]] = _load("columns")
OF_EVERY_ROW = frozenset({"source", "sure"})


@functools.cache
def table(name: str) -> Table:
    """A table by name. Raises CoreError, naming file and row, for a row without a known source or one that does not
    hold what the table's `[columns]` say.
    """
    loaded = _load(name)
    columns = loaded["columns"]
    strange = sorted(columns.keys() - COLUMNS.keys())
    if strange:
        raise CoreError(f"standards/{name}.toml: column {strange[0]} is not in standards/columns.toml")
    rows = []
    for number, row in enumerate(loaded["row"], start=1):
        place = f"standards/{name}.toml, row {number} ({next(iter(row.values()), '')})"
        full = {"source": loaded["source"], "sure": loaded["sure"], **row}
        if full["source"] not in SOURCES or full["sure"] not in SURE:
            raise CoreError(f"{place}: no known source")
        check_row(place, {key: row[key] for key in row if key not in OF_EVERY_ROW}, columns, _values_of)
        rows.append(full)
    return Table(name=name, title=loaded["title"], says=loaded["says"], rows=tuple(rows))


@functools.cache
def _values_of(name: str, column: str) -> tuple[Any, ...]:
    """Return the values of a column that other tables refer to."""
    return tuple(row[column] for row in _load(name)["row"])


@functools.cache
def lookup(name: str, column: str) -> dict[Any, Row]:
    """Return a table's rows by one column, made once."""
    return table(name).by(column)


@functools.cache
def rows_where(name: str, column: str, value: Any) -> tuple[Row, ...]:
    """Return a table's rows with one value in a column, found once."""
    return tuple(row for row in table(name).rows if row[column] == value)


def limit_of(code: str) -> float:
    """Return the value of a limit, from the table `limits`. Raises CoreError for one that is not there."""
    known = lookup("limits", "code")
    if code not in known:
        raise CoreError(f"no limit {code}{nearest(code, known)}")
    value: float = known[code]["value"]
    return value


_QUOTED = re.compile(r"\{([a-z_]+)(?:\.([^.{}]+)\.([a-z_]+))?\}")


def with_limits(text: str) -> str:
    """Return a text with its `{limit}` and `{table.code.column}` filled in; other braces stay.

    Raises CoreError for a cell that no table has.
    """

    def value(match: re.Match[str]) -> str:
        name, code, column = match.groups()
        if code is None:
            return f"{limit_of(name):g}" if name in lookup("limits", "code") else match[0]
        cell = lookup(name, "code").get(code, {}).get(column)
        if cell is None:
            raise CoreError(f"no row {code} with {column} in the table {name}")
        return f"{cell:g}"

    return _QUOTED.sub(value, text)


def limits_quoted(*texts: str) -> tuple[str, ...]:
    """Return the codes of limits that texts quote as `{limit}`, in the order they are first quoted."""
    names = (match.group(1) for text in texts for match in _QUOTED.finditer(text) if match.group(2) is None)
    return tuple(name for name in dict.fromkeys(names) if name in lookup("limits", "code"))


def disc_mounts() -> tuple[str, ...]:
    """Return the codes of the mounts that a disc caliper bolts to."""
    return tuple(row["code"] for row in table("brake_mounts").rows)


def table_names() -> list[str]:
    """Every table there is, by file name."""
    return sorted(path.stem for path in FOLDER.glob("*.toml") if path.stem not in ("sources", "columns"))


refers("setting", SETTINGS.__contains__)
