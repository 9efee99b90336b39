"""What a job costs: labour by cause, parts, small parts, work done elsewhere and tax, from the sheet alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from attrs import field, frozen

from unkett.core.rules.outcome import need_words
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import OwnFinding
from unkett.core.work.needs import need_says
from unkett.core.work.step import JobSheet
from unkett.core.work.step_words import CAUSES

FORMAT = "unkett.quote/1"
CENT = Decimal("0.01")
WORK = ("take_off", "prepare", "clean", "fit", "adjust")  # a sheet with one of these uses things up
JOB_SAYS = "Inspection, every bolt, test ride, hand-over"


def to_cents(value: Decimal) -> Decimal:
    """Return an amount to the hundredth, halves up."""
    return value.quantize(CENT, rounding=ROUND_HALF_UP)


@frozen(kw_only=True)
class Outside:
    """Work done by somebody else, at a price."""

    says: str
    price: Decimal


@frozen(kw_only=True)
class Money:
    """What a workshop takes: labour an hour, tax in percent, what a job uses up once, and prices without tax.

    `prices` are of slots' new parts, `small_parts` of what findings need; `given` names causes free of charge,
    `brought` slots whose part the customer supplies.
    """

    currency: str = ""
    labour_per_hour: Decimal = Decimal(0)
    tax_pct: Decimal = Decimal(0)
    consumables: Decimal = Decimal(0)
    prices: Mapping[str, Decimal] = field(factory=dict)
    small_parts: Mapping[str, Decimal] = field(factory=dict)
    outside: tuple[Outside, ...] = ()
    fixed: Mapping[str, Decimal] = field(
        factory=dict
    )  # by cause a price for its labour, whatever its minutes
    given: frozenset[str] = frozenset()
    brought: frozenset[str] = frozenset()


@frozen(kw_only=True)
class Piece:
    """A part, by its slot, or a small part, by what it is, with its name; no price where none is known."""

    slot: str = ""
    what: str = ""
    says: str = ""
    count: int = 1
    price: Decimal | None = None

    def to_json(self) -> dict[str, Any]:
        named = {"slot": self.slot} if self.slot else {"what": self.what}
        price = {} if self.price is None else {"price": float(self.price)}
        return {**named, "count": self.count, **price}


@frozen(kw_only=True)
class CauseLine:
    """All of a job that is done for one cause. `agreed` is False for work found that nobody agreed to yet."""

    cause: str
    says: str
    minutes: int
    price: Decimal
    pieces: tuple[Piece, ...] = ()
    agreed: bool | None = None
    fixed: bool = False  # its price is not by the minute

    def to_json(self) -> dict[str, Any]:
        return {
            "cause": self.cause,
            "says": self.says,
            "minutes": self.minutes,
            "price": float(self.price),
            "parts": [piece.to_json() for piece in self.pieces if piece.price is not None],
            "agreed": self.agreed,
        }


@frozen(kw_only=True)
class Quote:
    """The lines of a quote and what they come to; the minutes of its lines are the sheet's."""

    lines: tuple[CauseLine, ...]
    currency: str
    consumables: Decimal
    outside: Decimal
    tax_pct: Decimal

    @property
    def minutes(self) -> int:
        return sum(line.minutes for line in self.lines)

    @property
    def labour(self) -> Decimal:
        return sum((line.price for line in self.lines), Decimal(0))

    @property
    def parts(self) -> Decimal:
        pieces = (piece for line in self.lines for piece in line.pieces)
        return sum((piece.count * piece.price for piece in pieces if piece.price is not None), Decimal(0))

    @property
    def net(self) -> Decimal:
        return self.labour + self.parts + self.consumables + self.outside

    @property
    def tax(self) -> Decimal:
        return to_cents(self.net * self.tax_pct / 100)

    @property
    def total(self) -> Decimal:
        return self.net + self.tax

    @property
    def unpriced(self) -> list[Piece]:
        return [piece for line in self.lines for piece in line.pieces if piece.price is None]

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "currency": self.currency,
            "lines": [line.to_json() for line in self.lines],
            "minutes": self.minutes,
            "labour": float(self.labour),
            "parts": float(self.parts),
            "consumables": float(self.consumables),
            "outside": float(self.outside),
            "tax": float(self.tax),
            "total": float(self.total),
            "unpriced": [piece.to_json() for piece in self.unpriced],
        }


def quote_of_sheet(sheet: JobSheet, money: Money) -> Quote:
    """Return what a sheet costs: one line for each cause, in the order change, need, defect, found, package, job.

    Each line's labour is its minutes ÷ 60 × the hour's price, rounded half up to 0.01; the tax is taken on the sum of
    labour, parts, consumables and outside work, rounded once. A part without a price is named, never counted as 0.
    """
    minutes: dict[str, int] = dict.fromkeys(_causes(sheet), 0)
    for step in sheet.steps:
        minutes[step.causes[0]] += step.minutes
    lines = [_line(cause, minutes[cause], sheet, money) for cause in sorted(minutes, key=_order)]
    works = any(step.does in WORK for step in sheet.steps)
    return Quote(
        lines=tuple(lines),
        currency=money.currency,
        consumables=to_cents(money.consumables) if works else Decimal(0),
        outside=sum((one.price for one in money.outside), Decimal(0)),
        tax_pct=money.tax_pct,
    )


def _causes(sheet: JobSheet) -> Sequence[str]:
    """Return every cause that owns minutes, every change, every defect and every small part of the sheet."""
    found = [step.causes[0] for step in sheet.steps]
    found += [f"change:{slot}" for slot in (*sheet.fitted, *sheet.taken_off)]
    found += [f"need:{need.what}" for need in sheet.small_parts]
    for step in sheet.steps:
        found += [cause for cause in step.causes if cause.startswith(("defect:", "found:"))]
    found += [package.cause for package in sheet.packages]
    return list(dict.fromkeys(found))


def _order(cause: str) -> tuple[int, int, str]:
    sort, _, rest = cause.partition(":")
    slot = rest.partition(":")[0]
    place = list(SLOTS).index(slot) if slot in SLOTS else len(SLOTS)
    return CAUSES.index(sort), place, rest


def _line(cause: str, minutes: int, sheet: JobSheet, money: Money) -> CauseLine:
    free = cause in money.given
    labour = money.fixed.get(cause, money.labour_per_hour * minutes / 60)
    return CauseLine(
        cause=cause,
        says=_says(cause, sheet, money),
        minutes=minutes,
        price=Decimal(0) if free else to_cents(labour),
        pieces=tuple(_pieces(cause, sheet, money, free=free)),
        fixed=cause in money.fixed,
        agreed=False if cause.startswith("found:") else None,
    )


def _pieces(cause: str, sheet: JobSheet, money: Money, *, free: bool) -> list[Piece]:
    sort, _, name = cause.partition(":")
    if sort == "change":
        if name not in sheet.fitted or name in money.brought:
            return []
        price = Decimal(0) if free else money.prices.get(name)
        says = sheet.fitted[name] or SLOTS[name].title
        return [Piece(slot=name, says=says, price=None if price is None else to_cents(price))]
    own = _own(name, sheet)
    if own is not None and own.price:
        return [Piece(what=own.says, says=own.says, price=Decimal(0) if free else to_cents(own.price))]
    if sort != "need":
        return []
    found = []
    for need in sheet.small_parts:
        if need.what == name:
            price = Decimal(0) if free else money.small_parts.get(name)
            cents = None if price is None else to_cents(price)
            found.append(Piece(what=name, says=need_says(need.need), count=need.count, price=cents))
    return found


def _own(ref: str, sheet: JobSheet) -> OwnFinding | None:
    """Return the finding in somebody's own words that a cause names, or None."""
    return next((one for one in sheet.own if one.ref == ref), None)


def _says(cause: str, sheet: JobSheet, money: Money) -> str:
    sort, _, rest = cause.partition(":")
    if sort == "change":
        title = SLOTS[rest].title
        if rest not in sheet.fitted:
            return f"{title}: removed"
        brought = ", supplied by the customer" if rest in money.brought else ""
        return f"{title}: {sheet.fitted[rest] or 'new part'}{brought}"
    own = _own(rest, sheet)
    if own is not None:
        return own.says
    if sort in ("defect", "found"):
        slot, _, code = rest.partition(":")
        where = SLOTS[slot].title if slot in SLOTS else "Bike"
        return f"{where}: {lookup('look_over', 'code')[code]['title'].lower()}"
    if sort == "package":
        return next(package.title for package in sheet.packages if package.code == rest)
    sizes = {need_says(need.need) for need in (*sheet.needs, *sheet.brings) if need.what == rest}
    shown = rest if sort != "need" else sizes.pop() if len(sizes) == 1 else need_words(rest)
    return JOB_SAYS if sort == "job" else f"{shown[:1].upper()}{shown[1:]}"
