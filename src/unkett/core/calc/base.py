"""How a calculation is declared: its inputs with units and ranges, its result with a trace.

Calculations take plain numbers by keyword and return a small frozen result whose `trace` leads
from the inputs to the outputs. Floats are not rounded. Comparisons with limits and rounding up
or down leave `SLACK` of room, so that 16.5 in is 16.5 in.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Mapping
from typing import Any, ParamSpec, TypeVar

import attrs
from attrs import frozen

from unkett.core.build import Build, plain
from unkett.core.errors import CoreError, Fault, InputError, listed, nearest, shown
from unkett.core.scene import Scene
from unkett.core.standards import SLACK, SOURCES
from unkett.core.vocabulary.types import AttributeType

FORMAT = "unkett.calc/1"

P = ParamSpec("P")
R = TypeVar("R")
SlotAttr = tuple[str, str]  # a slot and an attribute of the part in it
Values = Mapping[str, Any]


def figure(unit: str, title: str) -> Any:
    """Return a field of a result: its unit, and what it is called on a page."""
    return attrs.field(metadata={"unit": unit, "title": title})


@frozen(kw_only=True)
class Figure:
    """One figure of an answer: the name it has in a file, what it is called, its value and unit."""

    name: str
    title: str
    value: Any
    unit: str = ""


def figures_of(value: Any, before: str = "") -> list[Figure]:
    """Return the figures of a result, or of a record in one, in the order they are declared."""
    return [
        Figure(
            name=f"{before}{field.name}",
            title=field.metadata["title"],
            value=getattr(value, field.name),
            unit=field.metadata["unit"],
        )
        for field in attrs.fields(type(value))
        if field.metadata
    ]


@frozen
class TraceLine:
    """One line of a trace: a named value with its unit and how it came about."""

    name: str
    value: Any
    unit: str
    formula: str


@frozen(kw_only=True)
class Result:
    """Base of every calculation's result."""

    trace: tuple[TraceLine, ...]

    def to_json(self) -> dict[str, Any]:
        out = {"format": FORMAT, **attrs.asdict(self)}
        out["trace"] = out.pop("trace")
        return {key: plain(value) for key, value in out.items()}


@frozen(kw_only=True)
class Cautioned(Result):
    """A result that may carry a caution; without one the key is left out."""

    caution: str | None = None

    def to_json(self) -> dict[str, Any]:
        out = super().to_json()
        if out["caution"] is None:
            del out["caution"]
        return out


@frozen(kw_only=True)
class Input:
    """One input: name, type with range, what it is; `default` None and `optional` mean it may be missing.

    `known` are the places of a bike that may give it, the first known wins; with a plan, a comparison takes
    it from the bike as planned where `then` names the places. `usual` is what a workshop has on the shelf.
    `wanted` says why it may not be left out on a bike after all: on every one, or on those of `wanted_of`.
    """

    name: str
    type: AttributeType
    says: str
    title: str
    optional: bool = False
    default: Any = None
    known: tuple[SlotAttr, ...] = ()
    then: tuple[SlotAttr, ...] = ()
    usual: Any = None
    wanted: str = ""
    wanted_of: Callable[[Build], bool] = lambda _bike: True

    def line(self) -> str:
        """Return the input in one line, as `--help` and the docstring show it."""
        if not self.optional:
            tail = ""
        elif self.default is None:
            tail = " (may be missing)"
        else:
            tail = (
                f" (default {self.default:g})"
                if isinstance(self.default, float)
                else f" (default {self.default})"
            )
        return f"{self.name}: {self.type.allowed()}. {self.says}{tail}"


@frozen(kw_only=True)
class Calculation:
    """A registered calculation."""

    name: str
    title: str
    says: str
    inputs: tuple[Input, ...]
    formula: str
    source: str
    function: Callable[..., Result]
    page: str = ""  # the page of the work that shows it
    picture: Callable[[Values, Values], Scene | None] = lambda _inputs, _answer: None

    def run(self, data: Any) -> Result:
        """Run it on a JSON object. Raises InputError that names a missing, unknown or bad input."""
        if not isinstance(data, Mapping):
            raise InputError([Fault(path="", says=f"{shown(data)} given; an object of inputs allowed")])
        names = [wanted.name for wanted in self.inputs]
        faults = [
            Fault(path=str(key), says=f"unknown; {listed(names)} allowed{nearest(key, names)}")
            for key in data
            if key not in names
        ]
        given = {key: value for key, value in data.items() if key in names and value is not None}
        faults += [
            Fault(path=wanted.name, says=f"missing; {wanted.type.allowed()} allowed")
            for wanted in self.inputs
            if not wanted.optional and wanted.name not in given
        ]
        if faults:
            raise InputError(faults)
        try:
            result = self.function(**given)
        except (ZeroDivisionError, OverflowError) as error:
            raise InputError([Fault(path=", ".join(given), says=NO_ANSWER)]) from error
        if not _finite(attrs.asdict(result)):
            raise InputError([Fault(path=", ".join(given), says=NO_ANSWER)])
        return result


NO_ANSWER = "together these come to no finite answer"


def _finite(value: Any) -> bool:
    if isinstance(value, Mapping):
        return all(_finite(item) for item in value.values())
    if isinstance(value, (list, tuple)):
        return all(_finite(item) for item in value)
    return not isinstance(value, float) or math.isfinite(value)


CALCULATIONS: dict[str, Calculation] = {}
ANSWERS_KEPT = 6_000  # of each calculation


def calculation(
    name: str,
    *,
    title: str,
    says: str,
    inputs: tuple[Input, ...],
    formula: str,
    sources: tuple[str, ...],
    page: str = "",
    picture: Callable[[Values, Values], Scene | None] = lambda _inputs, _answer: None,
) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Register a calculation: all there is to tell of it stands here and in its result's fields.

    `formula` says how it is worked out, `sources` name where that comes from (standards/sources.toml). Raises
    CoreError for a name declared twice or an unknown source.

    Every call checks its inputs against their types and ranges. `picture` draws an answer from its inputs and
    itself, both as JSON.

    A calculation is pure and its result frozen: the last answers are kept, by the inputs written out (1, 1.0 and
    True are three inputs), since one bike is checked again and again.
    """

    def register(function: Callable[P, R]) -> Callable[P, R]:
        if name in CALCULATIONS:
            raise CoreError(f"calculation {name} is declared twice")
        types = {wanted.name: wanted.type for wanted in inputs}
        kept: dict[str, R] = {}

        @functools.wraps(function)
        def checked(*args: P.args, **given: P.kwargs) -> R:
            asked = repr(given)
            if not args and asked in kept:
                return kept[asked]
            result = function(*args, **_clean(types, given))
            if not args:
                if len(kept) >= ANSWERS_KEPT:
                    kept.clear()
                kept[asked] = result
            return result

        source = _titles(name, sources)
        lines = "\n".join(f"    {wanted.line()}" for wanted in inputs)
        checked.__doc__ = (
            f"{function.__doc__ or says}\n\nInputs:\n{lines}\n\nFormula: {formula}\nSource: {source}"
        )
        CALCULATIONS[name] = Calculation(
            name=name,
            title=title,
            says=says,
            inputs=inputs,
            formula=formula,
            source=source,
            function=checked,  # type: ignore[arg-type]
            page=page,
            picture=picture,
        )
        return checked

    return register


def _clean(types: Mapping[str, AttributeType], given: Mapping[str, Any]) -> Any:
    """Return the inputs as their types have them. Raises InputError naming every one that is not allowed."""
    faults: list[Fault] = []
    clean: dict[str, Any] = {}
    for key, value in given.items():
        try:
            clean[key] = value if value is None else types[key].check(value, key)
        except InputError as error:
            faults.extend(error.faults)
    if faults:
        raise InputError(faults)
    return clean


def _titles(name: str, sources: tuple[str, ...]) -> str:
    unknown = [key for key in sources if key not in SOURCES]
    if unknown or not sources:
        raise CoreError(f"calculation {name}: unknown source {', '.join(unknown) or '(none)'}")
    return "; ".join(SOURCES[key]["title"] for key in sources)


def ceil_slack(value: float) -> int:
    """Round up to a whole number, with SLACK of room."""
    return math.ceil(value - SLACK)


def floor_slack(value: float) -> int:
    """Round down to a whole number, with SLACK of room."""
    return math.floor(value + SLACK)
