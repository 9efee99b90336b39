"""What can be identified: a kind of thing, its measures, and where the answer goes on a bike."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import Factory, frozen

from unkett.core.standards import COLUMNS, Row, table

COUNT_TOLERANCE = 0.25


@frozen(kw_only=True)
class Measure:
    """One thing that can be measured: how, and which column of the table holds it."""

    name: str
    title: str
    how: str
    column: str = Factory(lambda measure: measure.name, takes_self=True)
    counted: bool = False
    yes_no: bool = False  # 1 for yes, 0 for no
    within: str = ""  # a column of [low, high] that stands in where a row has it: 0 off inside
    tolerance: float | None = None  # its own, in its unit
    share: float | None = None  # its own, as a part of the standard's figure

    @property
    def unit(self) -> str:
        """The unit of its column in the table."""
        return COLUMNS[self.column].get("unit", "")

    def tolerance_for(self, value: float, tolerance_mm: float) -> float:
        """Return how far a reading may lie from a standard's figure to be one tolerance off."""
        if self.counted or self.yes_no:
            return COUNT_TOLERANCE
        if self.share is not None:
            return self.share * value
        return tolerance_mm if self.tolerance is None else self.tolerance


@frozen
class Put:
    """Where an answer goes: a slot, and for each attribute the column of the standard's row that it takes."""

    slot: str
    takes: Mapping[str, str]

    def values(self, row: Row) -> dict[str, Any]:
        """Return the attributes that this row gives; what it says nothing of is left out."""
        found = {attr: row.get(column) for attr, column in self.takes.items()}
        return {attr: value for attr, value in found.items() if value is not None}


@frozen(kw_only=True)
class Subject:
    """A kind of thing to identify: its table, its measures and where the answer goes on a bike."""

    name: str
    title: str
    table: str
    measures: tuple[Measure, ...]
    puts: tuple[Put, ...]

    @property
    def rows(self) -> tuple[Row, ...]:
        return table(self.table).rows
