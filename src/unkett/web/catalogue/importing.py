"""Parts from a table, CSV or ODS: read, checked line by line, shown before any of it is taken."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal, InvalidOperation
from typing import Any

from attrs import evolve, frozen
from django.db import transaction

from unkett.core.build import plain
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.reader import attrs_from, contradictions
from unkett.core.formats.typed_text import only_size, read_typed
from unkett.core.vocabulary import KINDS, Kind
from unkett.core.vocabulary.words import listed
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.services import SHOP, add_parts
from unkett.web.show.spreadsheets import Rows
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

TITLES = {
    "kind": "Kind", "name": "Name", "maker": "Manufacturer", "price": "Price", "mass_g": "Mass", "place": "Where it is",
    "days": "Days until it is here",
}  # fmt: skip
MOST = {"name": 200, "maker": 80, "place": 80}
WHOLE = {"mass_g": 100_000, "days": 1000}


@frozen(kw_only=True)
class Line:
    """One line of the table: what would be taken, or what is wrong with it."""

    number: int
    kind: str
    entry: Mapping[str, Any]
    faults: tuple[Fault, ...] = ()

    @property
    def title(self) -> str:
        return KINDS[self.kind].title if self.kind in KINDS else self.kind


def lines_of(actor: User, rows: Rows, kind: str = "") -> list[Line]:
    """Return every line read and checked; `kind` is that of lines which name none. Raises InputError for a column it
    does not know, a column twice, and where no name is among them.
    """
    columns = _columns(rows[0], kind)
    out: list[Line] = []
    seen = set(
        CataloguePart.objects.filter(workshop_id=actor.workshop_id).values_list("kind", "maker", "name")
        if rows[1:]
        else ()
    )
    for number, row in enumerate(rows[1:], start=2):
        cells = {name: text for name, text in zip(columns, row, strict=False) if text}
        if not cells:
            continue
        line = _line(number, cells, kind)
        key = (line.kind, line.entry.get("maker", ""), line.entry.get("name", ""))
        if not line.faults and key in seen:
            twin = Fault(path="name", says="this part is in the catalogue, or above, already")
            line = evolve(line, faults=(twin,))
        seen.add(key)
        out.append(line)
    return out


def _columns(head: Sequence[str], kind: str) -> list[str]:
    """Return what each column holds, by code or by title. Raises InputError naming the columns that are none."""
    kinds = [KINDS[kind]] if kind in KINDS else list(KINDS.values())
    known = {name: name for name in TITLES} | {title.lower(): name for name, title in TITLES.items()}
    for each in kinds:
        for name, attr in each.attributes.items():
            known.setdefault(name, name)
            known.setdefault(attr.title.lower(), name)
    columns = [known.get(title.lower(), known.get(title, "")) for title in head]
    strange = [title for title, column in zip(head, columns, strict=True) if title and not column]
    if strange:
        raise bad("file", f"line 1: no such column: {listed(strange)}")
    twice = {column for column in columns if column and columns.count(column) > 1}
    if twice:
        raise bad("file", f"line 1: {listed(sorted(twice))} is there twice")
    if "name" not in columns:
        raise bad("file", "line 1: no column is called name")
    return columns


def _kind_called(text: str) -> Kind | None:
    """Return a kind by its code or its title."""
    wanted = text.strip().lower()
    return next((kind for kind in KINDS.values() if wanted in (kind.name, kind.title.lower())), None)


def _line(number: int, cells: Mapping[str, str], kind: str) -> Line:
    own = _kind_called(cells.get("kind", kind))
    if own is None:
        says = f"{cells['kind']!r} given; no such kind" if cells.get("kind") else "enter a kind"
        return Line(
            number=number, kind=cells.get("kind", ""), entry=cells, faults=(Fault(path="kind", says=says),)
        )
    faults: list[Fault] = []
    entry = _shop(cells, faults)
    attrs: dict[str, Any] = {}
    size = None
    for name, text in cells.items():
        if name in TITLES:
            continue
        if name not in own.attributes:
            faults.append(Fault(path=name, says=f"{own.title} has no such figure"))
            continue
        try:
            attrs[name] = own.attributes[name].type.check(
                read_typed(text, own.attributes[name].type, size), name
            )
            size = only_size(attrs)
        except InputError as error:
            faults += error.faults
    if not faults:
        try:
            attrs = plain(attrs_from(plain(attrs), own.name, ""))
            faults += contradictions([own.name], attrs)
        except InputError as error:
            faults += [evolve(fault, path=fault.path.removeprefix(".")) for fault in error.faults]
    return Line(
        number=number, kind=own.name, entry={**entry, "kind": own.name, "attrs": attrs}, faults=tuple(faults)
    )


def _shop(cells: Mapping[str, str], faults: list[Fault]) -> dict[str, Any]:
    """Name, price and the like of a line; what is wrong is added to the faults."""
    out: dict[str, Any] = {name: cells.get(name, "") for name in ("name", "maker", "place")}
    if not out["name"]:
        faults.append(Fault(path="name", says="enter a name"))
    for name, most in MOST.items():
        if len(out[name]) > most:
            faults.append(Fault(path=name, says=f"{len(out[name])} characters; at most {most} are kept"))
    out["price"] = None
    try:
        if cells.get("price"):
            out["price"] = Decimal(cells["price"].replace(",", "."))
        price = out["price"]
        if price is not None and (not 0 <= price < 10_000_000 or price != round(price, 2)):
            faults.append(
                Fault(path="price", says=f"{cells['price']!r} given; 0 or more, to the hundredth, allowed")
            )
    except InvalidOperation:
        faults.append(Fault(path="price", says=f"{cells['price']!r} given; enter a number"))
    for name, high in WHOLE.items():
        text = cells.get(name, "")
        if not text:
            continue
        if not text.isdecimal() or int(text) > high:
            faults.append(Fault(path=name, says=f"{text!r} given; enter a whole number up to {high}"))
        else:
            out[name] = int(text)
    return out


def template_of(kind: str) -> Rows:
    """Return the head of a table for a kind: what the workshop keeps, then its dimensions."""
    return [[*SHOP, *(name for name in KINDS[kind].attributes if name != "damage")]]


@transaction.atomic
def take_lines(*, actor: User, rows: Rows, kind: str = "") -> list[CataloguePart]:
    """Write the good lines of a table into the catalogue; the others are left out. Raises InputError where none is."""
    require(actor, "change-catalogue")
    good: Iterable[Line] = [line for line in lines_of(actor, rows, kind) if not line.faults]
    if not good:
        raise bad("file", "no line of it can be taken")
    parts = add_parts(actor.workshop, [line.entry for line in good])
    for part in parts:
        log(actor, "add", part, after={"attrs": part.attrs, "price": str(part.price)})
    return parts
