"""What the workshop keeps, as tables out and in: one `Sheet` each, read line by line before any of it is stored."""

from __future__ import annotations

import datetime
import json
from collections.abc import Callable, Iterable, Mapping
from decimal import Decimal, InvalidOperation
from typing import Any

from attrs import evolve, field, frozen
from django.db import transaction
from django.utils import timezone

from unkett.core.bike.wear import sorts
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.typed_text import only_size, read_typed
from unkett.core.units import read_reading
from unkett.core.vocabulary import KINDS, SLOTS, Kind
from unkett.core.vocabulary.enums import USE
from unkett.core.vocabulary.words import listed
from unkett.web.bikes.details import write_bike_down
from unkett.web.bikes.models import Bike, BikePart, Move, Status, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bin.services import Kept, enter_piece, piece_of
from unkett.web.catalogue.stock import ALL_SORTS, add_stock, stock_seen_by
from unkett.web.show.spreadsheets import Rows
from unkett.web.supply.models import Offer, OrderItem
from unkett.web.supply.queries import suppliers_seen_by
from unkett.web.supply.services import keep_offer, order_for_bin
from unkett.web.wear.models import WearReading
from unkett.web.wear.services import read_wear
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import add_customer, change_customer, customers_seen_by

Cells = Mapping[str, str]
Store = Callable[[User, Mapping[str, Any]], Any]


@frozen(kw_only=True)
class TableLine:
    """One line of a table: what would be stored, or what is wrong with it."""

    number: int
    cells: Cells
    data: Mapping[str, Any] = field(factory=dict)
    faults: tuple[Fault, ...] = ()


@frozen(kw_only=True)
class Dataset:
    """A table: its columns with their titles, its lines going out, and how a line coming in is read and stored.

    `reader` makes, once for a table, the function that reads a line: it raises InputError by column.
    """

    code: str
    title: str
    says: str
    columns: Mapping[str, str]
    lines: Callable[[User], Iterable[list[Any]]]
    wanted: tuple[str, ...] = ()
    policy: str = ""  # who may bring lines in; nobody where it only goes out
    reader: Callable[[User], Callable[[Cells], Mapping[str, Any]]] | None = None
    store: Store | None = None

    @property
    def comes_in(self) -> bool:
        return self.store is not None

    def rows(self, actor: User) -> Iterable[list[Any]]:
        """Return the head and every line going out."""
        yield list(self.columns)
        yield from self.lines(actor)

    def _head(self, head: Iterable[str]) -> list[str]:
        known = {"what the rider says": "complaint", "what the rider wants": "wish"}  # of earlier releases
        known |= {name: name for name in self.columns}
        known |= {title.lower(): name for name, title in self.columns.items()}
        columns = [known.get(title.strip().lower(), "") for title in head]
        strange = [title for title, column in zip(head, columns, strict=True) if title and not column]
        if strange:
            raise bad(
                "file", f"line 1: no such column: {listed(strange)}; there are {listed(list(self.columns))}"
            )
        twice = {column for column in columns if column and columns.count(column) > 1}
        if twice:
            raise bad("file", f"line 1: {listed(sorted(twice))} is there twice")
        lacking = [name for name in self.wanted if name not in columns]
        if lacking:
            raise bad("file", f"line 1: no column is called {listed(lacking)}")
        return columns

    def read(self, actor: User, rows: Rows) -> list[TableLine]:
        """Return every line read and checked; nothing is stored. Raises InputError for a head that cannot be read."""
        assert self.reader is not None
        columns = self._head(rows[0])
        reads = self.reader(actor)
        out = []
        for number, row in enumerate(rows[1:], start=2):
            cells = {name: text for name, text in zip(columns, row, strict=False) if name and text}
            if not cells:
                continue
            line = TableLine(number=number, cells=cells)
            lacking = [
                Fault(path=name, says="must be filled in") for name in self.wanted if name not in cells
            ]
            try:
                if lacking:
                    raise InputError(lacking)
                out.append(evolve(line, data=reads(cells)))
            except InputError as error:
                out.append(evolve(line, faults=tuple(error.faults)))
        return out


@transaction.atomic
def import_rows(*, actor: User, code: str, rows: Rows, all_or_none: bool) -> int:
    """Store the good lines of a table, or nothing where one is wrong and `all_or_none`; how many were stored.

    Raises InputError by line and column.
    """
    sheet = SHEETS[code]
    require(actor, sheet.policy)
    assert sheet.store is not None
    lines = sheet.read(actor, rows)
    wrong = [
        Fault(path=f"line {line.number}, {fault.path}", says=fault.says)
        for line in lines
        for fault in line.faults
    ]
    good = [line for line in lines if not line.faults]
    if wrong and (all_or_none or not good):
        raise InputError(wrong)
    for line in good:
        try:
            sheet.store(actor, line.data)
        except InputError as error:
            faults = [Fault(path=f"line {line.number}, {one.path}", says=one.says) for one in error.faults]
            raise InputError(faults) from error
    if not good:
        raise bad("file", "no line of it can be taken")
    return len(good)


# cells


def _money(cells: Cells, name: str) -> Decimal | None:
    if name not in cells:
        return None
    try:
        value = Decimal(cells[name].replace(",", "."))
    except InvalidOperation:
        raise bad(name, f"{cells[name]!r} given; enter a number") from None
    if not value.is_finite() or not 0 <= value < 1_000_000 or value != round(value, 2):
        raise bad(name, f"{cells[name]!r} given; 0 or more, to the hundredth, allowed")
    return value


def _whole(cells: Cells, name: str, most: int) -> int | None:
    if name not in cells:
        return None
    if not cells[name].isdecimal() or int(cells[name]) > most:
        raise bad(name, f"{cells[name][:40]!r} given; enter a whole number up to {most}")
    return int(cells[name])


def _number(cells: Cells, name: str) -> float | None:
    if name not in cells:
        return None
    return read_reading(cells[name], "", name)


def _day(cells: Cells, name: str) -> datetime.date | None:
    if name not in cells:
        return None
    try:
        return datetime.date.fromisoformat(cells[name])
    except ValueError:
        raise bad(name, f"{cells[name]!r} given; enter a day such as 2026-11-27") from None


def _one_of(cells: Cells, name: str, known: Mapping[str, str]) -> str:
    """Return a code, given by itself or by its title."""
    text = cells[name].strip().lower()
    found = next((code for code, title in known.items() if text in (code.lower(), title.lower())), None)
    if found is None:
        raise bad(name, f"{cells[name][:40]!r} given; none of {listed(list(known.values())[:12])}")
    return found


def _all(*tries: Callable[[], tuple[str, Any]]) -> dict[str, Any]:
    """Return every value, or every fault at once."""
    out: dict[str, Any] = {}
    faults: list[Fault] = []
    for one in tries:
        try:
            name, value = one()
            out[name] = value
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    return out


# customers and bikes


def _customers_out(actor: User) -> Iterable[list[Any]]:
    for one in customers_seen_by(actor).order_by("name", "pk").iterator():
        yield [one.name, one.reach, one.note]


def _customers_in(actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    seen = {name.lower() for name in customers_seen_by(actor).values_list("name", flat=True)}

    def read(cells: Cells) -> Mapping[str, Any]:
        if cells["name"].lower() in seen:
            raise bad("name", "this customer is here, or above, already")
        long = [
            Fault(path=name, says=f"at most {most} characters are kept")
            for name, most in (("name", 120), ("reach", 200), ("note", 2000))
            if len(cells.get(name, "")) > most
        ]
        if long:
            raise InputError(long)
        seen.add(cells["name"].lower())
        return dict(cells)

    return read


BIKE_TEXTS = {"name": 120, "customer": 120, "reach": 200, "frame_number": 60, "complaint": 2000, "wish": 2000}


def _bikes_out(actor: User) -> Iterable[list[Any]]:
    bikes = bikes_seen_by(actor).select_related("customer").defer("undo", "summary").order_by("name", "pk")
    for one in bikes.iterator():
        customer = one.customer
        yield [
            one.name, customer.name if customer else "", customer.reach if customer else "", one.use,
            one.frame_number, one.complaint, one.wish, one.verdict,
        ]  # fmt: skip


def _bikes_in(actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    seen = {
        (name.lower(), (customer or "").lower(), number.lower())
        for name, customer, number in bikes_seen_by(actor).values_list(
            "name", "customer__name", "frame_number"
        )
    }

    def read(cells: Cells) -> Mapping[str, Any]:
        faults = [
            Fault(path=name, says=f"at most {most} characters are kept")
            for name, most in BIKE_TEXTS.items()
            if len(cells.get(name, "")) > most
        ]
        use = ""
        try:
            use = _one_of(cells, "use", USE.codes) if "use" in cells else ""
        except InputError as error:
            faults += error.faults
        key = (
            cells["name"].lower(),
            cells.get("customer", "").lower(),
            cells.get("frame_number", "").lower(),
        )
        if key in seen:
            faults.append(Fault(path="name", says="this bike is here, or above, already"))
        if faults:
            raise InputError(faults)
        seen.add(key)
        return {**{name: cells.get(name, "") for name in BIKE_TEXTS}, "use": use}

    return read


def _store_bike(actor: User, data: Mapping[str, Any]) -> Bike:
    values = {name: value for name, value in data.items() if name != "reach"}
    bike = write_bike_down(actor=actor, values=values)
    customer = bike.customer
    if customer is not None and data["reach"] and not customer.reach:
        known = {"name": customer.name, "reach": data["reach"], "note": customer.note}
        change_customer(actor=actor, customer_id=customer.pk, version=customer.version, values=known)
    return bike


# the bin


def _pieces_out(actor: User) -> Iterable[list[Any]]:
    for one in parts_seen_by(actor).filter(where=Where.BENCH).order_by("pk").iterator():
        yield [
            one.label, one.kind, one.name, one.box, one.value, one.mass_g, "",
            json.dumps(one.attrs, ensure_ascii=False, sort_keys=True) if one.attrs else "",
        ]  # fmt: skip


def _figures(cells: Cells, kind: Kind) -> dict[str, Any]:
    """Return the figures of a piece: as JSON, or typed one after another, such as `speeds 9; links 114`."""
    text = cells.get("figures", "")
    if text.startswith("{"):
        try:
            given = json.loads(text)
        except ValueError as error:
            raise bad("figures", f"no JSON: {error}") from error
        strange = [name for name in given if name not in kind.attributes]
        if strange:
            raise bad("figures", f"{kind.title} has no {listed(strange)}")
        return dict(given)
    out: dict[str, Any] = {}
    for piece in filter(None, (piece.strip() for piece in text.split(";"))):
        name, _, typed = piece.partition(" ")
        if name not in kind.attributes:
            raise bad("figures", f"{kind.title} has no {name[:40]!r}")
        out[name] = read_typed(typed.strip(), kind.attributes[name].type, only_size(out))
    return out


def _pieces_in(_actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    kinds = {name: kind.title for name, kind in KINDS.items()}

    def read(cells: Cells) -> Mapping[str, Any]:
        data = _all(
            lambda: ("kind", _one_of(cells, "kind", kinds)),
            lambda: ("value", _money(cells, "value")),
            lambda: ("mass_g", _whole(cells, "mass_g", 100_000)),
        )
        kept = Kept(box=cells.get("box", ""), value=data["value"], mass_g=data["mass_g"])
        given: dict[str, Any] = {
            "name": cells.get("name", ""),
            "values": _figures(cells, KINDS[data["kind"]]),
            "kept": kept,
            "came_from": cells.get("from", ""),
        }
        piece_of(data["kind"], **given)
        return {"kind": data["kind"], **given}

    return read


def _moves_out(actor: User) -> Iterable[list[Any]]:
    moves = Move.objects.filter(part__workshop_id=actor.workshop_id).order_by("pk")
    for one in moves.select_related("line__actor", "part", "from_bike", "to_bike").iterator():
        after = one.line.after if isinstance(one.line.after, dict) else {}
        yield [
            timezone.localtime(one.line.at).isoformat(timespec="seconds"),
            one.line.actor.called if one.line.actor else "", one.line.verb, one.part.label, str(one.part),
            _place(one.from_where, one.from_bike, one.from_slot), _place(one.to_where, one.to_bike, one.to_slot),
            after.get("why", ""),
        ]  # fmt: skip


def _place(where: str, bike: Bike | None, slot: str) -> str:
    if not where:
        return "nowhere"
    return (
        f"{bike.name}, {SLOTS[slot].title.lower()}"
        if bike is not None and slot
        else Where(where).label.lower()
    )


def _counted_out(actor: User) -> Iterable[list[Any]]:
    for one in stock_seen_by(actor).iterator():
        yield [one.sort, one.name, one.length_mm, one.count, one.box, one.value]


def _counted_in(_actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    def read(cells: Cells) -> Mapping[str, Any]:
        data = _all(
            lambda: ("sort", _one_of(cells, "sort", ALL_SORTS)),
            lambda: ("length_mm", _number(cells, "length_mm")),
            lambda: ("count", _whole(cells, "count", 100_000)),
            lambda: ("value", _money(cells, "value")),
        )
        return {**data, "name": cells.get("name", ""), "box": cells.get("box", "")}

    return read


# the wear log


def _wear_out(actor: User) -> Iterable[list[Any]]:
    mine = WearReading.objects.filter(bike__workshop_id=actor.workshop_id, struck=False).order_by("pk")
    for one in mine.select_related("bike", "by").iterator():
        yield [
            one.bike.name, one.bike.frame_number, one.slot, one.sort, one.value, one.km, one.on.isoformat(),
            one.instrument, one.by.called if one.by else "",
        ]  # fmt: skip


def _wear_in(actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    bikes: dict[tuple[str, str], list[int]] = {}
    here = bikes_seen_by(actor).filter(status=Status.HERE).values_list("pk", "name", "frame_number")
    for pk, name, number in here:
        bikes.setdefault((name.lower(), ""), []).append(pk)
        if number:
            bikes.setdefault((name.lower(), number.lower()), []).append(pk)
    fitted = set(
        BikePart.objects.filter(workshop_id=actor.workshop_id, bike__status=Status.HERE).values_list(
            "bike_id", "slot"
        )
    )
    slots = {name: slot.title for name, slot in SLOTS.items()}
    known = {code: sort.title for code, sort in sorts().items()}

    def bike_of(cells: Cells) -> int:
        found = bikes.get((cells["bike"].lower(), cells.get("frame_number", "").lower()), [])
        if len(found) != 1:
            raise bad(
                "bike",
                "several bikes are called that: give the frame number" if found else "no such bike here",
            )
        return found[0]

    def read(cells: Cells) -> Mapping[str, Any]:
        data = _all(
            lambda: ("bike_id", bike_of(cells)),
            lambda: ("slot", _one_of(cells, "part", slots)),
            lambda: ("sort", _one_of(cells, "reading", known)),
            lambda: ("km", _number(cells, "km")),
            lambda: ("on", _day(cells, "on")),
        )
        sort = sorts()[data["sort"]]
        if data["slot"] not in sort.slots:
            raise bad("reading", f"{slots[data['slot']]} has no {sort.title.lower()}")
        if (data["bike_id"], data["slot"]) not in fitted:
            raise bad("part", f"no {slots[data['slot']].lower()} is on that bike")
        if data["on"] is not None and data["on"] > timezone.localdate():
            raise bad("on", "that day is still to come")
        value = sort.accept(read_reading(cells["value"], sort.unit, "value"))
        return {**data, "value": value, "instrument": cells.get("instrument", "")}

    return read


# supply


def _offers_out(actor: User) -> Iterable[list[Any]]:
    offers = Offer.objects.filter(supplier__workshop_id=actor.workshop_id).order_by("supplier__name", "code")
    for one in offers.select_related("supplier").iterator():
        yield [
            one.supplier.name,
            one.code,
            one.kind,
            one.maker,
            one.name,
            one.price,
            one.stock,
            one.lead_days,
        ]


def _supplier(actor: User) -> Callable[[Cells], int]:
    by_name = {one.name.lower(): one for one in suppliers_seen_by(actor)}

    def of(cells: Cells) -> int:
        found = by_name.get(cells["supplier"].lower())
        if found is None:
            raise bad("supplier", f"no supplier is called {cells['supplier'][:40]!r}: write it down first")
        return found.pk

    return of


def _offers_in(actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    supplier_of = _supplier(actor)

    def read(cells: Cells) -> Mapping[str, Any]:
        data = _all(
            lambda: ("supplier_id", supplier_of(cells)),
            lambda: ("price", _money(cells, "price")),
            lambda: ("stock", _whole(cells, "stock", 1_000_000)),
            lambda: ("lead_days", _whole(cells, "lead_days", 1000)),
        )
        texts = {name: cells.get(name, "") for name in ("code", "kind", "maker", "name")}
        most = {"code": 60, "kind": 40, "maker": 80, "name": 200}
        long = [name for name, text in texts.items() if len(text) > most[name]]
        if long:
            raise InputError(
                Fault(path=name, says=f"at most {most[name]} characters are kept") for name in long
            )
        return {**data, **texts}

    return read


def _orders_out(actor: User) -> Iterable[list[Any]]:
    lines = OrderItem.objects.filter(order__workshop_id=actor.workshop_id).order_by("order_id", "pk")
    for one in lines.select_related("order__supplier", "plan__bike").iterator():
        yield [
            one.order_id, one.order.supplier.name, one.order.state, one.code, one.kind, one.name,
            one.plan.bike.name if one.plan else "", one.count, one.arrived, one.price,
        ]  # fmt: skip


def _orders_in(actor: User) -> Callable[[Cells], Mapping[str, Any]]:
    supplier_of = _supplier(actor)
    kinds = {name: kind.title for name, kind in KINDS.items()}

    def read(cells: Cells) -> Mapping[str, Any]:
        data = _all(
            lambda: ("supplier_id", supplier_of(cells)),
            lambda: ("kind", _one_of(cells, "kind", kinds)),
            lambda: ("count", _whole(cells, "count", 999)),
            lambda: ("price", _money(cells, "price")),
        )
        if data["count"] == 0 or len(cells["name"]) > 200 or len(cells.get("code", "")) > 60:
            raise bad("count" if data["count"] == 0 else "name", "enter one at least, and a name that fits")
        texts = {"name": cells["name"], "code": cells.get("code", "")}
        return {**data, **texts, "count": data["count"] or 1}

    return read


SHEETS: dict[str, Dataset] = {
    sheet.code: sheet
    for sheet in (
        Dataset(
            code="customers", title="Customers", says="Who they are and how to reach them.", policy="change-customers",
            columns={"name": "Name", "reach": "How to reach them", "note": "Note"}, wanted=("name",),
            lines=_customers_out, reader=_customers_in,
            store=lambda actor, data: add_customer(actor=actor, values=data),
        ),
        Dataset(
            code="bikes", title="Bikes", policy="change-bikes",
            says="The bikes with their customers; a customer who is not here yet is written down too.",
            columns={
                "name": "Bike", "customer": "Customer", "reach": "How to reach them", "use": "Use",
                "frame_number": "Frame number", "complaint": "Rider's complaint", "wish": "Request",
                "verdict": "Verdict",
            },
            wanted=("name",), lines=_bikes_out, reader=_bikes_in, store=_store_bike,
        ),
        Dataset(
            code="bin", title="Pieces of the bin", policy="change-bikes",
            says="Each piece with its box, value, weight; figures as they are typed: speeds 9; links 114.",
            columns={
                "label": "Label", "kind": "Kind", "name": "Name", "box": "Box", "value": "Value",
                "mass_g": "Weight, g", "from": "Where it comes from", "figures": "Figures",
            },
            wanted=("kind",), lines=_pieces_out, reader=_pieces_in,
            store=lambda actor, data: enter_piece(actor=actor, **data),
        ),
        Dataset(
            code="counted", title="Counted sorts", policy="change-catalogue",
            says="Small parts by the piece, housing and inners by their lengths.",
            columns={
                "sort": "Sort", "name": "Name", "length_mm": "Length, mm", "count": "How many", "box": "Box",
                "value": "Value of one",
            },
            wanted=("sort",), lines=_counted_out, reader=_counted_in,
            store=lambda actor, data: add_stock(actor=actor, **data),
        ),
        Dataset(
            code="moves", title="The bin's ledger", lines=_moves_out,
            says="Every move of every part: it goes out only, nobody writes history.",
            columns={
                "at": "When", "who": "Who", "did": "Did", "label": "Label", "part": "Part", "from": "From", "to": "To",
                "why": "Why",
            },
        ),
        Dataset(
            code="wear", title="Wear log", policy="read-wear", says="Readings of parts that are on bikes here.",
            columns={
                "bike": "Bike", "frame_number": "Frame number", "part": "Part", "reading": "Reading", "value": "Value",
                "km": "Distance, km", "on": "Day", "instrument": "Instrument", "by": "Who",
            },
            wanted=("bike", "part", "reading", "value"), lines=_wear_out, reader=_wear_in,
            store=lambda actor, data: read_wear(actor=actor, **data),
        ),
        Dataset(
            code="offers", title="Offers", policy="change-supply",
            says="What suppliers offer; a supplier without a feed may send such a table.",
            columns={
                "supplier": "Supplier", "code": "Code", "kind": "Kind", "maker": "Manufacturer", "name": "Name",
                "price": "Price", "stock": "In stock", "lead_days": "Days",
            },
            wanted=("supplier", "code", "name"), lines=_offers_out, reader=_offers_in,
            store=lambda actor, data: keep_offer(actor=actor, **data),
        ),
        Dataset(
            code="orders", title="Orders", policy="change-supply",
            says="What is ordered. A line that comes in goes on the supplier's draft, for the bin.",
            columns={
                "order": "Order", "supplier": "Supplier", "state": "State", "code": "Code", "kind": "Kind",
                "name": "Name", "for": "For", "count": "How many", "arrived": "Arrived", "price": "Price",
            },
            wanted=("supplier", "kind", "name"), lines=_orders_out, reader=_orders_in,
            store=lambda actor, data: order_for_bin(actor=actor, **data),
        ),
    )
}  # fmt: skip
