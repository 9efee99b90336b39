"""The kinds of thing that can be identified, read from `subjects.toml` and checked against tables and vocabulary."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from unkett.core.calc.bottom_bracket import bcd
from unkett.core.errors import CoreError
from unkett.core.identify.subject import Measure, Put, Subject
from unkett.core.standards import COLUMNS, Row, table_names
from unkett.core.vocabulary import SLOTS, kind_of

FILE = Path(__file__).with_name("subjects.toml")


def _ends(row: Mapping[str, Any]) -> Iterator[Put]:
    """One place, or one at each wheel where the slot says `{end}`."""
    for end in ("front", "rear") if "{end}" in row["slot"] else ("",):
        yield Put(slot=row["slot"].replace("{end}", end), takes=row["takes"])


def _refuse_unknown(sort: Subject) -> None:
    """Raises CoreError for a table, column, slot or attribute that does not exist."""
    unknown = [] if sort.table in table_names() else [f"table {sort.table}"]
    for measure in sort.measures:
        unknown += [
            f"column {name}" for name in (measure.column, measure.within) if name and name not in COLUMNS
        ]
    for put in sort.puts:
        if put.slot not in SLOTS:
            unknown.append(f"slot {put.slot}")
            continue
        unknown += [f"{put.slot}.{attr}" for attr in put.takes if attr not in kind_of(put.slot).attributes]
        unknown += [f"column {name}" for name in put.takes.values() if name not in COLUMNS]
    if unknown:
        raise CoreError(f"identify/subjects.toml, {sort.name}: unknown {', '.join(unknown)}")


def _read(text: str) -> dict[str, Subject]:
    """Return the subjects of a TOML text by name. Raises CoreError naming the one that is not as it must be."""
    found: dict[str, Subject] = {}
    for row in tomllib.loads(text)["subject"]:
        name = str(row.get("name", "(no name)"))
        if name in found:
            raise CoreError(f"identify/subjects.toml: {name} stands twice")
        try:
            sort = Subject(
                name=name,
                title=row["title"],
                table=row["table"],
                measures=tuple(Measure(**measure) for measure in row["measure"]),
                puts=tuple(put for given in row.get("put", ()) for put in _ends(given)),
            )
        except (TypeError, KeyError) as error:
            raise CoreError(f"identify/subjects.toml, {name}: {error}") from error
        _refuse_unknown(sort)
        found[name] = sort
    return found


SUBJECTS: dict[str, Subject] = _read(FILE.read_text(encoding="utf-8"))


def expected(row: Row, measure: Measure) -> tuple[float, ...]:
    """Return what a row says of a measure: one value, several (widths), or nothing."""
    if measure.name == "neighbour_mm":
        return (row["bcd_mm"] / bcd(neighbour_mm=1.0, bolts=row["bolts"]).bcd_mm,)
    value = row.get(measure.within) if measure.within else None
    if value is None:
        value = row.get(measure.column)
    if value is None:
        return ()
    return tuple(value) if isinstance(value, list) else (value,)
