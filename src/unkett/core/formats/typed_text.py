"""What a hand types into a field, read as an input's type wants it, and written back the same way.

A number takes its unit (`1 1/8"`, `34,9`); a list is numbers with spaces, or with any of `/ - x ·` between
counts, or `none` where none may be; a table is rows divided by semicolons or lines, each with its columns in
the declared order; named values are `name value`; a code is read in any case, or by its long name.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from unkett.core.calc.fields import ByName
from unkett.core.errors import bad, listed, shown
from unkett.core.units import read_reading
from unkett.core.vocabulary.types import (
    AttributeType,
    Bool,
    ByKey,
    Choice,
    Code,
    Either,
    ListOf,
    Number,
    Pair,
    Record,
    Whole,
)

_BETWEEN_COUNTS = re.compile(r"[\s;·,]+|(?<=\d)[-/x×](?=\d)")
_BETWEEN_WORDS = re.compile(r"[\s;·,]+")
_ENDS = re.compile(r"\d+\s*[-–]\s*\d+")
_NOTHING = ("none", "nothing")
_BETWEEN_NUMBERS = re.compile(r"[\s;·]+|,\s+|(?<=\d)-(?=\d)")  # 34,9 is one number
_NAMED = re.compile(r"(?P<name>.*[^\s:=])\s*[\s:=]\s*(?P<value>[+-]?\d+(?:[.,]\d+)?\s*[^\d\s]*)")
_ROWS = re.compile(r"\s*[;\n]\s*")


def _rows(text: str) -> list[str]:
    return [row for row in _ROWS.split(text.strip()) if row]


def _columns(kind: Record) -> list[tuple[str, AttributeType, int]]:
    """Each field of a row with how many words it takes: a point takes two."""
    return [
        (name, field, field.most if isinstance(field, ListOf) else 1) for name, field in kind.fields.items()
    ]


def _read_row(text: str, kind: Record) -> dict[str, Any]:
    words = text.split()
    out: dict[str, Any] = {}
    for name, item, takes in _columns(kind):
        taken, words = words[:takes], words[takes:]
        if taken:
            out[name] = read_typed(" ".join(taken), item)
    if words:
        raise bad("value", f"{shown(text)} given; {row_says(kind)} allowed")
    return out


def _read_named(text: str, item: AttributeType) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for row in _rows(text):
        found = _NAMED.fullmatch(row)
        if found is None:
            raise bad("value", f"{shown(row)} given; rows of a name and its value allowed")
        if found["name"] in out:
            raise bad("value", f"{shown(found['name'])} is given twice")
        out[found["name"]] = read_typed(found["value"], item)
    return out


def read_typed(text: str, kind: AttributeType, size: int | None = None) -> Any:
    """Return what was typed as the type wants it; an unknown code stays text, for its check to refuse.

    `size` is the one rim size known of the part, which a lone figure by rim size is for. Raises InputError for
    text where a number belongs, for a row with too many columns, and where only the ends of a row are named.
    """
    if isinstance(kind, Bool):
        return {"yes": True, "true": True, "no": False, "false": False}.get(text.lower(), text)
    if isinstance(kind, (Number, Whole)):
        return read_reading(text, kind.unit)
    if isinstance(kind, Record):
        return _read_row(text, kind)
    if isinstance(kind, ByKey) and size is not None and _lone(text):
        return {size: read_typed(text, kind.value)}
    if isinstance(kind, ByName):
        return _read_named(text, kind.item)
    if isinstance(kind, ByKey):
        return _read_named(text, kind.value)
    if isinstance(kind, (ListOf, Pair)):
        if in_rows(kind):
            return [read_typed(row, kind.item) for row in _rows(text)]
        if isinstance(kind, ListOf) and kind.least == 0 and text.strip().lower() in _NOTHING:
            return []
        if isinstance(kind, ListOf) and kind.row and _ENDS.fullmatch(text.strip()):
            raise bad(
                "value", f"{shown(text)} names the smallest and the largest; every one between is wanted too"
            )
        if isinstance(kind.item, Choice):
            return _read_codes(text, kind.item)
        between = _BETWEEN_NUMBERS if isinstance(kind.item, Number) else _BETWEEN_COUNTS
        return [read_typed(piece, kind.item) for piece in between.split(text.strip())]
    if isinstance(kind, Either):
        if isinstance(kind.one, Number) and len(text.split()) == 1:
            return read_typed(text, kind.one)
        return read_typed(text, kind.one) if isinstance(kind.one, Choice) else read_typed(text, kind.other)
    if isinstance(kind, Choice):
        return _read_code(text, kind)
    if isinstance(kind, Code) and kind.upper:
        return _read_upper(text, kind)
    return text


def only_size(attrs: Mapping[str, Any]) -> int | None:
    """The one rim size that a frame or fork is known to be made for, in millimetres; None for none or several."""
    sizes: list[int] = list(attrs.get("design_bsd_mm") or [])
    return sizes[0] if len(sizes) == 1 else None


def _lone(text: str) -> bool:
    return len(_rows(text)) == 1 and _NAMED.fullmatch(text.strip()) is None


def _read_code(text: str, kind: Choice) -> str:
    """Return a code by its own letters in any case, or by its long name; what is neither stays as it was typed."""
    wanted = _plain_words(text)
    return next(
        (code for code, title in kind.of.codes.items() if wanted in (code.lower(), _plain_words(title))),
        text.strip(),
    )


def _plain_words(text: str) -> str:
    return " ".join(_BETWEEN_WORDS.split(text.strip().lower()))


def _read_codes(text: str, kind: Choice) -> list[str]:
    """Codes or long names with spaces, commas or `·` between them; at each place the longest that is one."""
    words = [word for word in _BETWEEN_WORDS.split(text.strip()) if word]
    found: list[str] = []
    while words:
        for size in range(len(words), 0, -1):
            code = _read_code(" ".join(words[:size]), kind)
            if kind.of.has(code) or size == 1:
                found.append(code)
                words = words[size:]
                break
    return found


def _read_upper(text: str, kind: Code) -> str:
    """Return a code that is written in capitals. Raises InputError naming what a bare figure may be."""
    code = text.strip().upper().replace(" ", "").replace(",", ".")
    if re.fullmatch(r"\d+(?:\.\d+)?", code) and kind.upper:
        may_be = [
            f"{letters}{code}" for letters in kind.upper if re.fullmatch(kind.pattern, f"{letters}{code}")
        ]
        if may_be:
            raise bad("value", f"{shown(text)} is a bore alone; it may be {listed(may_be)}: {kind.form}")
    return code


def in_rows(kind: AttributeType) -> bool:
    """Return whether an input is a table: rows divided by semicolons or lines."""
    return isinstance(kind, (ByName, ByKey)) or (
        isinstance(kind, ListOf) and isinstance(kind.item, (Record, ListOf))
    )


def row_says(kind: AttributeType) -> str:
    """Return how one row is typed, in words; nothing for what is no table."""
    if isinstance(kind, ListOf):
        return row_says(kind.item) if in_rows(kind) else "two numbers"
    if isinstance(kind, Record):
        names = [
            name.replace("_", " ").replace(" xy mm", " across and up").removesuffix(" mm")
            for name in kind.fields
        ]
        return ", ".join(
            f"[{name}]" if field in kind.optional else name
            for field, name in zip(kind.fields, names, strict=True)
        )
    if isinstance(kind, (ByName, ByKey)):
        return "a name and its value"
    return ""


def typed_text(value: Any, kind: AttributeType) -> str:
    """Return a value as it would be typed; `read_typed` reads it back."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Mapping):
        if isinstance(kind, Record):
            return " ".join(typed_text(value.get(name), field) for name, field in kind.fields.items()).strip()
        item = kind.item if isinstance(kind, ByName) else kind.value if isinstance(kind, ByKey) else kind
        return "; ".join(f"{name} {typed_text(entry, item)}" for name, entry in value.items())
    if isinstance(value, (list, tuple)):
        if not value:
            return "none"
        item = kind.item if isinstance(kind, (ListOf, Pair)) else kind
        return ("; " if in_rows(kind) else " ").join(typed_text(entry, item) for entry in value)
    return f"{value:.10g}" if isinstance(value, float) else str(value)
