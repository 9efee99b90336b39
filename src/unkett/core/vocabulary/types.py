"""Types of attributes: each checks a given value, says what it allows and writes its JSON Schema.

`check` returns the value in the form the core uses (tuples for lists, int for whole numbers) or
raises `InputError` with the path, what was given and what is allowed.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Mapping
from typing import Any, Protocol

from attrs import field, frozen

from unkett.core.errors import Fault, InputError, bad, listed, nearest, shown
from unkett.core.vocabulary.enums import Enumeration

Json = dict[str, Any]


class AttributeType(Protocol):
    """What every attribute type can do."""

    def check(self, value: Any, path: str) -> Any: ...

    def allowed(self) -> str: ...

    def schema(self) -> Json: ...


def _number_shown(value: float) -> str:
    return f"{value:g}"


@frozen(kw_only=True)
class Number:
    """A finite number in `unit`, from `low` to `high`, both included."""

    unit: str
    low: float
    high: float

    def check(self, value: Any, path: str) -> float:
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        if not self.low <= value <= self.high:  # also false for NaN
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        return value

    def allowed(self) -> str:
        return f"a number from {_number_shown(self.low)} to {_number_shown(self.high)} {self.unit}".rstrip()

    def schema(self) -> Json:
        return {"type": "number", "minimum": self.low, "maximum": self.high}


@frozen(kw_only=True)
class Whole:
    """A whole number from `low` to `high`; `even` asks for an even one."""

    unit: str = ""
    low: int
    high: int
    even: bool = False

    def check(self, value: Any, path: str) -> int:
        number = isinstance(value, (int, float)) and not isinstance(value, bool)
        if (
            not number
            or not self.low <= value <= self.high
            or value != int(value)
            or (self.even and value % 2)
        ):
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        return int(value)

    def allowed(self) -> str:
        sort = "an even whole number" if self.even else "a whole number"
        return f"{sort} from {self.low} to {self.high} {self.unit}".rstrip()

    def schema(self) -> Json:
        schema: Json = {"type": "integer", "minimum": self.low, "maximum": self.high}
        return {**schema, "multipleOf": 2} if self.even else schema


@frozen(kw_only=True)
class Bool:
    """true or false."""

    def check(self, value: Any, path: str) -> bool:
        if not isinstance(value, bool):
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        return value

    def allowed(self) -> str:
        return "true or false"

    def schema(self) -> Json:
        return {"type": "boolean"}


@frozen(kw_only=True)
class Choice:
    """One code of an enumeration."""

    of: Enumeration

    def check(self, value: Any, path: str) -> str:
        if not isinstance(value, str) or not self.of.has(value):
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed{nearest(value, self.of.codes)}")
        return value

    def allowed(self) -> str:
        extra = f" or {self.of.open_prefix}…" if self.of.open_prefix else ""
        return f"one of {listed(self.of.codes)}{extra}"

    def schema(self) -> Json:
        closed: Json = {"enum": list(self.of.codes)}
        if self.of.open_prefix is None:
            return closed
        return {"anyOf": [closed, {"type": "string", "pattern": f"^{self.of.open_prefix}.+"}]}


@frozen(kw_only=True)
class Code:
    """A maker's free code, compared only for equality; `pattern` narrows its form.

    `upper` names the letters of a code that is written in capitals; it is typed in any case.
    """

    form: str = "a short code"
    pattern: str = r"[^\s](?:.{0,58}[^\s])?"
    upper: tuple[str, ...] = ()

    def check(self, value: Any, path: str) -> str:
        if not isinstance(value, str) or not re.fullmatch(self.pattern, value):
            raise bad(path, f"{shown(value)} given; {self.form} allowed")
        return value

    def allowed(self) -> str:
        return self.form

    def schema(self) -> Json:
        return {"type": "string", "pattern": f"^{self.pattern}$"}


@frozen(kw_only=True)
class ListOf:
    """A list of one type; `order` is 'ascending', 'descending' or none; `least` 0 lets [] say "looked, none".

    `row` says that its members follow each other, so that two of them with a dash name its ends alone.
    """

    item: AttributeType
    order: str | None = None
    least: int = 1
    most: int = 60
    row: bool = False

    def check(self, value: Any, path: str) -> tuple[Any, ...]:
        if not isinstance(value, (list, tuple)) or not self.least <= len(value) <= self.most:
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        items = tuple(self.item.check(item, f"{path}[{n}]") for n, item in enumerate(value))
        for n, (before, after) in enumerate(itertools.pairwise(items), start=1):
            if (self.order == "ascending" and after < before) or (
                self.order == "descending" and after > before
            ):
                raise bad(f"{path}[{n}]", f"{after} after {before}; {self.allowed()} allowed")
        return items

    def allowed(self) -> str:
        order = {"ascending": ", smallest first", "descending": ", largest first"}.get(self.order or "", "")
        return f"a list of {self.least} to {self.most} ({self.item.allowed()} each{order})"

    def schema(self) -> Json:
        return {"type": "array", "items": self.item.schema(), "minItems": self.least, "maxItems": self.most}


@frozen(kw_only=True)
class Pair:
    """[low, high] with low ≤ high."""

    item: Number

    def check(self, value: Any, path: str) -> tuple[float, float]:
        if not isinstance(value, (list, tuple)) or len(value) != 2:
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        low, high = (self.item.check(part, f"{path}[{n}]") for n, part in enumerate(value))
        if low > high:
            raise bad(path, f"[{low}, {high}] given; the lower figure stands first")
        return low, high

    def allowed(self) -> str:
        return f"a pair [low, high] ({self.item.allowed()} each)"

    def schema(self) -> Json:
        return {"type": "array", "items": self.item.schema(), "minItems": 2, "maxItems": 2}


@frozen(kw_only=True)
class Either:
    """One of two forms, such as one code or a list of codes by ring."""

    one: AttributeType
    other: AttributeType

    def check(self, value: Any, path: str) -> Any:
        chosen = self.other if isinstance(value, (list, tuple)) else self.one
        return chosen.check(value, path)

    def allowed(self) -> str:
        return f"{self.one.allowed()}, or {self.other.allowed()}"

    def schema(self) -> Json:
        return {"anyOf": [self.one.schema(), self.other.schema()]}


@frozen(kw_only=True)
class ByKey:
    """An object whose keys are whole numbers (a rim size, a count of rings) and whose values are one type."""

    key: Whole
    value: AttributeType

    def check(self, value: Any, path: str) -> Mapping[int, Any]:
        if not isinstance(value, Mapping) or not value:
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        out: dict[Any, Any] = {}
        for name, item in value.items():
            if str(name).startswith("x_"):
                out[str(name)] = item
                continue
            number = int(name) if re.fullmatch(r"\d{1,4}", str(name)) else name
            key = self.key.check(number, f"{path}.{name}")
            if key in out:
                raise bad(f"{path}.{name}", f"{key} is given twice")
            out[key] = self.value.check(item, f"{path}.{name}")
        return out

    def allowed(self) -> str:
        return f"an object from {self.key.allowed()} to {self.value.allowed()}"

    def schema(self) -> Json:
        return {
            "type": "object",
            "patternProperties": {r"^\d{1,4}$": self.value.schema(), "^x_": {}},
            "additionalProperties": False,
            "minProperties": 1,
        }


@frozen(kw_only=True)
class Record:
    """An object with named fields, all but `optional` required."""

    fields: Mapping[str, AttributeType]
    optional: frozenset[str] = field(factory=frozenset)

    def check(self, value: Any, path: str) -> Mapping[str, Any]:
        if not isinstance(value, Mapping):
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        faults: list[Fault] = []
        out: dict[str, Any] = {}
        for name, item in value.items():
            if name in self.fields and item is not None:
                try:
                    out[name] = self.fields[name].check(item, f"{path}.{name}")
                except InputError as error:
                    faults.extend(error.faults)
            elif name.startswith("x_"):
                out[name] = item
            elif name not in self.fields:
                says = f"unknown; {listed(self.fields)} allowed{nearest(name, self.fields)}"
                faults.append(Fault(path=f"{path}.{name}", says=says))
        missing = [name for name in self.fields if name not in out and name not in self.optional]
        if missing and not faults:
            faults.append(Fault(path=path, says=f"{', '.join(missing)} missing; {self.allowed()} allowed"))
        if faults:
            raise InputError(faults)
        return out

    def allowed(self) -> str:
        return f"an object of {listed(self.fields)}"

    def schema(self) -> Json:
        return {
            "type": "object",
            "properties": {name: kind.schema() for name, kind in self.fields.items()},
            "required": [name for name in self.fields if name not in self.optional],
            "patternProperties": {"^x_": {}},
            "additionalProperties": False,
        }
