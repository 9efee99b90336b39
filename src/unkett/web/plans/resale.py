"""The buy-to-sell ledger of a bike that the workshop builds up: bought, parts in and out, hours, sold."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from decimal import Decimal
from typing import Any

from attrs import frozen
from django.db import transaction
from django.db.models import QuerySet

from unkett.core.errors import Fault, InputError
from unkett.core.ways.money import ResaleSums
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.plans.models import SaleBook, SaleLine
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

TITLE_MAX, MONEY_UNDER, MINUTES_MAX = 200, 1_000_000, 100_000
FIELDS = ("bought", "bought_on", "minutes", "on_market", "sold", "sold_on")


@frozen(kw_only=True)
class Book:
    """A ledger with its lines, what they come to, and the days it was on the market."""

    row: SaleBook
    lines: tuple[SaleLine, ...]
    sums: ResaleSums
    days: int | None


def books_seen_by(actor: User) -> QuerySet[SaleBook]:
    return SaleBook.objects.filter(bike__workshop_id=actor.workshop_id).select_related("bike")


def book_of(actor: User, bike_id: int, today: date) -> Book | None:
    """Return the ledger of a bike; None where none is kept."""
    row = books_seen_by(actor).filter(bike_id=bike_id).first()
    return None if row is None else _book(row, today)


def all_books(actor: User, today: date) -> list[Book]:
    """Return every ledger of the workshop, those still to be sold first."""
    rows = books_seen_by(actor).prefetch_related("lines").order_by("sold_on", "-bought_on", "pk")
    return sorted((_book(row, today) for row in rows), key=lambda book: book.row.sold is not None)


def _book(row: SaleBook, today: date) -> Book:
    lines = tuple(row.lines.all())
    sums = ResaleSums(
        bought=_cents(row.bought),
        parts_in=sum(_cents(line.value) for line in lines if line.goes_in),
        parts_out=sum(_cents(line.value) for line in lines if not line.goes_in),
        minutes=row.minutes,
        sold=None if row.sold is None else _cents(row.sold),
    )
    days = None if row.on_market is None else ((row.sold_on or today) - row.on_market).days
    return Book(row=row, lines=lines, sums=sums, days=days)


def _cents(money: Decimal) -> int:
    return int(money * 100)


@transaction.atomic
def keep_book(*, actor: User, bike_id: int, version: int, values: Mapping[str, Any]) -> SaleBook:
    """Write what a bike was bought and sold for, and when; begins its ledger (version 0) where there is none.

    Raises NotThere, Conflict, and InputError beside the field.
    """
    require(actor, "change-plans")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    row = SaleBook.objects.select_for_update().filter(bike=bike).first()
    if (row.version if row else 0) != version:
        raise Conflict("Somebody changed this record since you opened it. Nothing of yours was stored.", bike)
    faults = _faults(values)
    if faults:
        raise InputError(faults)
    before = {name: str(getattr(row, name)) for name in FIELDS} if row else None
    row = row or SaleBook(bike=bike, version=0)
    for name in FIELDS:
        setattr(row, name, values[name])
    row.version += 1
    row.save()
    log(actor, "keep", row, before=before, after={name: str(values[name]) for name in FIELDS})
    return row


def _faults(values: Mapping[str, Any]) -> list[Fault]:
    faults = [
        Fault(path=name, says=f"{values[name]} given; 0 to {MONEY_UNDER} allowed")
        for name in ("bought", "sold")
        if values[name] is not None and not 0 <= values[name] < MONEY_UNDER
    ]
    if not 0 <= values["minutes"] <= MINUTES_MAX:
        faults.append(Fault(path="minutes", says=f"0 to {MINUTES_MAX} minutes allowed"))
    if (values["sold"] is None) != (values["sold_on"] is None):
        faults.append(Fault(path="sold_on", says="what it was sold for and the day go together"))
    days = [values[name] for name in ("bought_on", "on_market", "sold_on") if values[name] is not None]
    if days != sorted(days):
        faults.append(Fault(path="sold_on", says="bought, offered and sold follow each other"))
    return faults


@transaction.atomic
def add_sale_line(*, actor: User, bike_id: int, title: str, value: Decimal, goes_in: bool) -> SaleLine:
    """Add a part that came in at its value, or one that went out as a credit. Raises NotThere, InputError beside
    the field.
    """
    require(actor, "change-plans")
    row = books_seen_by(actor).filter(bike_id=bike_id).select_for_update(of=("self",)).first()
    if row is None:
        raise NotThere
    faults = []
    if not 1 <= len(title.strip()) <= TITLE_MAX:
        faults.append(Fault(path="title", says=f"enter 1 to {TITLE_MAX} characters"))
    if not 0 <= value < MONEY_UNDER:
        faults.append(Fault(path="value", says=f"{value} given; 0 to {MONEY_UNDER} allowed"))
    if faults:
        raise InputError(faults)
    line = SaleLine.objects.create(book=row, title=title.strip(), value=value, goes_in=goes_in)
    log(actor, "add", line, after={"value": str(value), "goes_in": goes_in})
    return line


@transaction.atomic
def remove_sale_line(*, actor: User, bike_id: int, line_id: int) -> None:
    """Take a line out of a ledger. Raises NotThere."""
    require(actor, "change-plans")
    line = SaleLine.objects.filter(
        pk=line_id, book__bike_id=bike_id, book__bike__workshop_id=actor.workshop_id
    ).first()
    if line is None:
        raise NotThere
    log(actor, "remove", line, before={"value": str(line.value), "goes_in": line.goes_in})
    line.delete()
