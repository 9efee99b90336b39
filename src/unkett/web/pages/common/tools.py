"""A calculation as a form: fields filled from the bike, the answer with its listings and its trace."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import attrs
from attrs import evolve, frozen

from unkett.core.bike.prefill import kept_at, may_not_be_left, prefill
from unkett.core.build import Build
from unkett.core.calc.base import Calculation, Figure, Input, Result, TraceLine, figures_of
from unkett.core.errors import Fault, InputError
from unkett.core.formats.typed_text import typed_text
from unkett.core.scene import Scene
from unkett.core.vocabulary.types import ListOf
from unkett.web.show.fields import TYPED_MAX, Field, left_over, marked
from unkett.web.show.words import figure

NOTES = {"bike": "from the bike", "kept": "kept", "usual": "usual sizes"}


@frozen(kw_only=True)
class Listing:
    """A list of an answer as a listing."""

    name: str
    title: str
    columns: tuple[Figure, ...]
    rows: tuple[tuple[Any, ...], ...]


@frozen(kw_only=True)
class Tool:
    """One calculation with its fields and, once it can be worked out, its answer."""

    calculation: Calculation
    fields: tuple[Field, ...]
    values: Mapping[str, Any]
    general: tuple[str, ...] = ()
    figures: tuple[Figure, ...] = ()
    listings: tuple[Listing, ...] = ()
    trace: tuple[TraceLine, ...] = ()
    scene: Scene | None = None
    caution: str = ""
    asked: bool = False

    @property
    def name(self) -> str:
        return self.calculation.name

    @property
    def title(self) -> str:
        return self.calculation.title

    @property
    def answered(self) -> bool:
        return bool(self.trace)

    @property
    def faulty(self) -> bool:
        return bool(self.general) or any(field.fault for field in self.fields)

    @property
    def faults(self) -> list[Fault]:
        """Everything that is wrong."""
        return [
            *(field.fault for field in self.fields if field.fault),
            *(Fault(path="", says=says) for says in self.general),
        ]

    def csv_rows(self) -> list[list[Any]]:
        """Return the answer as rows of a CSV file: names with values, then each listing."""
        if not self.answered:
            return []
        rows: list[list[Any]] = [["name", "value"], *[[item.name, item.value] for item in self.figures]]
        for listing in self.listings:
            rows += [
                [listing.name],
                [column.name for column in listing.columns],
                *[list(row) for row in listing.rows],
            ]
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

    `partly` takes whatever is typed: what is missing is no fault then.
    """
    known = prefill(chosen, now, then) if now is not None else {}
    asked = any(wanted.name in data for wanted in chosen.inputs)
    fields = [_field(chosen, wanted, data, known, kept or {}, then or now) for wanted in chosen.inputs]
    values, faults = _read(fields, complete=asked and not partly)
    ready = all(field.optional or field.name in values for field in fields)
    tool = Tool(calculation=chosen, fields=tuple(marked(fields, faults)), values=values, asked=asked)
    if faults or not values or not (ready or (asked and not partly)):
        return tool
    return _answered(tool)


def _field(
    chosen: Calculation,
    wanted: Input,
    data: Mapping[str, Any],
    known: Mapping[str, Any],
    kept: Mapping[str, Any],
    bike: Build | None,
) -> Field:
    """The field of an input with what stands in it and where that comes from."""
    if wanted.name in data:
        text, origin = str(data[wanted.name]).strip()[:TYPED_MAX], "typed"
    elif known.get(wanted.name) is not None:
        text, origin = typed_text(_single(known[wanted.name], wanted), wanted.type), "bike"
    else:
        stored = kept.get(wanted.name)
        text = typed_text(wanted.usual if stored is None else stored, wanted.type)
        origin = "usual" if stored is None else "kept"
    may_not = bike is not None and may_not_be_left(wanted, bike)
    return Field(
        name=wanted.name,
        ident=f"{chosen.name}-{wanted.name}",
        title=wanted.title,
        type=wanted.type,
        how=_says(wanted, text),
        wanted=wanted.wanted if may_not else "",
        text=text,
        origin=origin if text else "",
        note=NOTES.get(origin, "") if text else "",
        optional=wanted.optional and not may_not,
        slot_attr=kept_at(wanted),
    )


def _says(wanted: Input, text: str) -> str:
    """Return what an input is, and what holds where it is left out."""
    if text or not wanted.optional:
        return wanted.says
    return f"{wanted.says} {'If known.' if wanted.default is None else f'{figure(wanted.default)} unless typed.'}"


def _single(value: Any, wanted: Input) -> Any:
    """Return the largest ring, the smallest sprocket: of a list where one number is asked."""
    if isinstance(value, (list, tuple)) and not isinstance(wanted.type, ListOf) and value:
        return value[0]
    return value


def _read(fields: list[Field], complete: bool) -> tuple[dict[str, Any], list[Fault]]:
    """By input what was read; what is wrong, and what is missing of those wanted on this bike where `complete` asks."""
    values: dict[str, Any] = {}
    faults: list[Fault] = []
    for field in fields:
        try:
            value = field.read()
        except InputError as error:
            faults.append(Fault(path=field.name, says=error.faults[0].says))
            continue
        if value is not None:
            values[field.name] = value
        elif complete and field.wanted:
            faults.append(Fault(path=field.name, says=field.wanted))
    return values, faults


def _answered(tool: Tool) -> Tool:
    """Return the tool with its answer, or with what is wrong beside which field."""
    try:
        result = tool.calculation.run(dict(tool.values))
    except InputError as error:
        fields = marked(tool.fields, error.faults)
        general = tuple(str(fault) for fault in left_over(fields, error.faults))
        return evolve(tool, fields=tuple(fields), general=general)
    figures, listings = _laid_out(result)
    return evolve(
        tool,
        figures=figures,
        listings=listings,
        trace=result.trace,
        scene=tool.calculation.picture(tool.values, result.to_json()),
        caution=getattr(result, "caution", None) or "",
    )


def _laid_out(result: Result) -> tuple[tuple[Figure, ...], tuple[Listing, ...]]:
    """Return an answer's single figures, and its lists of records as listings."""
    figures: list[Figure] = []
    listings: list[Listing] = []
    _lay_out(figures_of(result), figures, listings)
    return tuple(evolve(entry, value=single(entry.value)) for entry in figures), tuple(listings)


def _lay_out(parts: Iterable[Figure], figures: list[Figure], listings: list[Listing]) -> None:
    for part in parts:
        value = part.value
        if isinstance(value, Mapping):
            figures += [
                evolve(part, name=f"{part.name}: {name}", title=f"{part.title}: {name}", value=item)
                for name, item in value.items()
            ]
        elif attrs.has(type(value)):
            within = [entry for entry in figures_of(value, f"{part.name}: ") if entry.value is not None]
            named = [evolve(entry, title=f"{part.title}: {entry.title.lower()}") for entry in within]
            _lay_out(named, figures, listings)
        elif isinstance(value, tuple) and value and attrs.has(type(value[0])):
            rows = tuple(tuple(shown(entry.value) for entry in figures_of(row)) for row in value)
            listings.append(
                Listing(name=part.name, title=part.title, columns=tuple(figures_of(value[0])), rows=rows)
            )
        else:
            figures.append(part)


def single(value: Any) -> Any:
    """Return a single figure as it is, for the page to show in the reader's unit; anything else in words."""
    return value if isinstance(value, (int, float)) and not isinstance(value, bool) else shown(value)


def shown(value: Any) -> str:
    """Return a figure of an answer: three decimals at most."""
    if value is None:
        return "–"
    if isinstance(value, float):
        return f"{value:.3f}".rstrip("0").rstrip(".")
    if isinstance(value, (list, tuple)):
        return ", ".join(shown(item) for item in value) or "none"
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)
