"""A calculation as a form: fields filled from the bike, the answer with its tables and its trace."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.build import Build
from unkett.core.calc.base import Calculation, Input
from unkett.core.drawing.answers import picture_of
from unkett.core.drawing.scene import Scene
from unkett.core.errors import InputError
from unkett.core.prefill import USUAL, cannot_be_left, place_of, prefill
from unkett.core.typed import in_rows, read_typed, row_says, typed_text
from unkett.core.vocabulary.types import Bool, Choice, ListOf

TYPED_MAX = 2000


@frozen(kw_only=True)
class Field:
    """One input with what stands in its field; `origin` is bike, kept, usual, typed or nothing."""

    input: Input
    text: str
    fault: str = ""
    origin: str = ""
    place: tuple[str, str] | None = None

    @property
    def choices(self) -> list[tuple[str, str]] | None:
        if isinstance(self.input.type, Bool):
            return [("yes", "yes"), ("no", "no")]
        return list(self.input.type.of.codes.items()) if isinstance(self.input.type, Choice) else None

    @property
    def rows(self) -> str:
        """How one row is typed; nothing for what is no table."""
        return row_says(self.input.type) if in_rows(self.input.type) or self.many else ""

    @property
    def many(self) -> bool:
        return hasattr(self.input.type, "fields")

    @property
    def listed(self) -> bool:
        return isinstance(self.input.type, ListOf) and not in_rows(self.input.type)

    @property
    def asks(self) -> bool:
        """Whether the hand has to fill it: nothing known, and wanted."""
        return not self.text and not self.input.optional


@frozen(kw_only=True)
class Table:
    """A list of an answer as a table."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]


@frozen(kw_only=True)
class Tool:
    """One calculation with its fields and, once it can be worked out, its answer."""

    calculation: Calculation
    fields: tuple[Field, ...]
    values: Mapping[str, Any]
    general: tuple[str, ...] = ()
    numbers: tuple[tuple[str, Any], ...] = ()
    tables: tuple[Table, ...] = ()
    trace: tuple[Mapping[str, Any], ...] = field(factory=tuple)
    scene: Scene | None = None
    caution: str = ""
    asked: bool = False

    @property
    def name(self) -> str:
        return self.calculation.name

    @property
    def answered(self) -> bool:
        return bool(self.trace)

    @property
    def faulty(self) -> bool:
        return bool(self.general) or any(one.fault for one in self.fields)

    def csv_rows(self) -> list[list[Any]]:
        """The answer as rows of a CSV file: names with values, then each table."""
        rows: list[list[Any]] = [["name", "value"], *[list(one) for one in self.numbers]]
        for table in self.tables:
            rows += [[table.title], list(table.columns), *[list(row) for row in table.rows]]
        return rows


def make_tool(
    chosen: Calculation,
    data: Mapping[str, Any],
    *,
    now: Build | None = None,
    then: Build | None = None,
    kept: Mapping[str, Any] | None = None,
    partly: bool = False,
) -> Tool:
    """A tool with what was typed, else what the bike knows, else what was kept for it, worked out where it can be.

    `partly` takes what is typed as it comes: what is missing is no fault then.
    """
    known = prefill(chosen.name, now, then) if now is not None else {}
    kept = kept or {}
    bike = then or now
    left = cannot_be_left(chosen.name, bike) if bike is not None else {}
    asked = any(one.name in data for one in chosen.inputs)
    fields: dict[str, Field] = {}
    values: dict[str, Any] = {}
    for one in chosen.inputs:
        place = place_of(chosen.name, one.name)
        if one.name in data:
            text, origin = str(data[one.name]).strip()[:TYPED_MAX], "typed"
        elif known.get(one.name) is not None:
            text, origin = typed_text(_single(known[one.name], one), one.type), "bike"
        else:
            stored, usual = kept.get(one.name), USUAL.get(chosen.name, {}).get(one.name)
            text = typed_text(usual if stored is None else stored, one.type)
            origin = "usual" if stored is None else "kept"
        fault = ""
        if text:
            try:
                values[one.name] = one.type.check(read_typed(text, one.type), one.name)
            except InputError as error:
                fault = error.faults[0].says
        elif one.name in left:
            one = evolve(one, optional=False, says=left[one.name])
            fault = one.says if asked and not partly else ""
        fields[one.name] = Field(
            input=one, text=text, fault=fault, origin=origin if text else "", place=place
        )
    ready = all(one.input.optional or name in values for name, one in fields.items())
    tool = Tool(calculation=chosen, fields=tuple(fields.values()), values=values, asked=asked)
    if any(one.fault for one in fields.values()) or not values or not (ready or (asked and not partly)):
        return tool
    return _answered(tool, fields)


def _single(value: Any, one: Input) -> Any:
    """The largest ring, the smallest sprocket: of a list where one number is asked."""
    if isinstance(value, (list, tuple)) and not isinstance(one.type, ListOf) and value:
        return value[0]
    return value


def _answered(tool: Tool, fields: dict[str, Field]) -> Tool:
    """The tool with its answer, or with what is wrong beside which field."""
    try:
        answer = tool.calculation.run(dict(tool.values)).to_json()
    except InputError as error:
        general = []
        for fault in error.faults:
            root = fault.path.split(".")[0].split("[")[0]
            if root in fields:
                fields[root] = evolve(fields[root], fault=fault.says)
            else:
                general.append(str(fault))
        return evolve(tool, fields=tuple(fields.values()), general=tuple(general))
    numbers, tables = _laid_out(answer)
    return evolve(
        tool,
        numbers=numbers,
        tables=tables,
        trace=tuple(answer["trace"]),
        scene=picture_of(tool.name, tool.values, answer),
        caution=answer.get("caution", ""),
    )


def _laid_out(answer: Mapping[str, Any]) -> tuple[tuple[tuple[str, Any], ...], tuple[Table, ...]]:
    """An answer's single figures, and its lists of objects as tables."""
    numbers: list[tuple[str, Any]] = []
    tables: list[Table] = []
    for key, value in answer.items():
        if key in ("format", "trace", "caution"):
            continue
        if isinstance(value, dict):
            numbers += [(f"{key}: {name}", single(item)) for name, item in value.items()]
        elif isinstance(value, list) and value and isinstance(value[0], dict):
            columns = tuple(value[0])
            rows = tuple(tuple(shown(one.get(column)) for column in columns) for one in value)
            tables.append(Table(title=key, columns=columns, rows=rows))
        else:
            numbers.append((key, single(value)))
    return tuple(numbers), tuple(tables)


def single(value: Any) -> Any:
    """A single figure as it is, for the page to show in the reader's unit; anything else in words."""
    return value if isinstance(value, (int, float)) and not isinstance(value, bool) else shown(value)


def shown(value: Any) -> str:
    """A figure of an answer: three decimals at most."""
    if value is None:
        return "–"
    if isinstance(value, float):
        return f"{value:.3f}".rstrip("0").rstrip(".")
    if isinstance(value, list):
        return ", ".join(shown(item) for item in value) or "none"
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)
