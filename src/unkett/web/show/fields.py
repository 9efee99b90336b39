"""The typed field: what is asked, what stands in it, what is wrong with it. Every form of the application uses it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve, frozen
from django.http import QueryDict

from unkett.core.errors import Fault, InputError
from unkett.core.formats.typed_text import in_rows, read_typed, row_says, typed_text
from unkett.core.vocabulary import Attribute
from unkett.core.vocabulary.declare import unit_of
from unkett.core.vocabulary.types import AttributeType, Bool, Choice, ListOf, Number, Whole
from unkett.web.show.values import Shown

Options = Sequence[tuple[str, str]]
NONE = ("none", "Looked: none")
TYPED_MAX = 2000


@frozen(kw_only=True)
class Field(Shown):
    """One thing asked in a form. `known` is what stands there already, `text` what the field holds.

    `ident` is its place on the page; `origin` says where its text comes from, `note` what else is to be said
    under it, `size` is the one rim size that a lone figure is for.
    """

    name: str
    title: str
    type: AttributeType
    ident: str = ""
    how: str = ""
    known: Any = None
    text: str = ""
    fault: Fault | None = None
    origin: str = ""
    note: str = ""
    optional: bool = True
    wanted: str = ""  # why it may not be left empty here
    size: int | None = None
    slot_attr: tuple[str, str] | None = None  # the part's attribute a reading is kept on

    @property
    def unit(self) -> str:
        return unit_of(self.type)

    @property
    def choices(self) -> Options | None:
        """The answers of a drop-down, or None where it is no single choice."""
        if isinstance(self.type, Bool):
            return [("yes", "yes"), ("no", "no")]
        return list(self.type.of.codes.items()) if isinstance(self.type, Choice) else None

    @property
    def ticks(self) -> Options | None:
        """The tick boxes of a list of codes that may be found to be none, or None where it is no such list."""
        kind = self.type
        if isinstance(kind, ListOf) and kind.least == 0 and isinstance(kind.item, Choice):
            return [NONE, *kind.item.of.codes.items()]
        return None

    @property
    def ticked(self) -> list[str]:
        return self.text.split()

    @property
    def rows(self) -> str:
        """How one row is typed; nothing for what is no table."""
        return row_says(self.type) if in_rows(self.type) or hasattr(self.type, "fields") else ""

    @property
    def long(self) -> bool:
        """Whether its text wants a line of its own: a list."""
        return isinstance(self.type, ListOf) and not in_rows(self.type)

    @property
    def keys(self) -> str:
        """Which keys a phone brings: those of numbers where a bare number is wanted."""
        return "decimal" if isinstance(self.type, (Number, Whole)) else "text"

    @property
    def asks(self) -> bool:
        """Whether the hand has to fill it: nothing known, and wanted."""
        return not self.text and not self.optional

    @property
    def was_typed(self) -> bool:
        """Whether it holds something else than what was known."""
        return self.text != typed_text(self.known, self.type)

    def read(self) -> Any:
        """Return what it holds, read and checked; None for nothing. Raises InputError."""
        return self.type.check(read_typed(self.text, self.type, self.size), self.name) if self.text else None


def field_of(
    attr: Attribute, *, name: str = "", ident: str = "", known: Any = None, size: int | None = None
) -> Field:
    """Return the field of a part's attribute, holding what is known."""
    name = name or attr.name
    return Field(
        name=name,
        title=attr.title,
        type=attr.type,
        ident=ident or f"f-{name}",
        how=attr.how,
        known=known,
        text=typed_text(known, attr.type),
        size=size,
    )


def filled_in(fields: Iterable[Field], post: QueryDict) -> list[Field]:
    """The fields with what was typed in them; ticked boxes with spaces between. What is not sent stays as it was."""
    out = []
    for field in fields:
        if field.name not in post:
            out.append(field)
            continue
        text = " ".join(post.getlist(field.name)) if field.ticks else post.get(field.name, "")
        out.append(evolve(field, text=text.strip()[:TYPED_MAX]))
    return out


def read_all(fields: Iterable[Field]) -> tuple[dict[str, Any], list[Fault]]:
    """Return by name, what every field holds that was typed again (None where it was cleared); and what is wrong."""
    values: dict[str, Any] = {}
    faults: list[Fault] = []
    for field in fields:
        if field.was_typed:
            try:
                values[field.name] = field.read()
            except InputError as error:
                faults += [Fault(path=field.name, says=fault.says) for fault in error.faults[:1]]
    return values, faults


def marked(fields: Iterable[Field], faults: Iterable[Fault]) -> list[Field]:
    """The fields with what is wrong beside each: a fault of a part of a value belongs to the whole field."""
    wrong: dict[str, Fault] = {}
    names = [field.name for field in fields]
    for fault in faults:
        wrong.setdefault(_root(fault.path, names), fault)
    return [evolve(field, fault=wrong.get(field.name)) for field in fields]


def _root(path: str, names: Sequence[str]) -> str:
    return next((name for name in names if path == name or path.startswith((f"{name}.", f"{name}["))), path)


def left_over(fields: Iterable[Field], faults: Iterable[Fault], also: Iterable[str] = ()) -> list[Fault]:
    """Return the faults that stand beside no field; `also` names fields that the page shows itself."""
    names = [*(field.name for field in fields), *also]
    return [fault for fault in faults if _root(fault.path, names) not in names]


def by_name(faults: Iterable[Fault]) -> Mapping[str, Fault]:
    """Return the first fault of each name."""
    out: dict[str, Fault] = {}
    for fault in faults:
        out.setdefault(fault.path, fault)
    return out
