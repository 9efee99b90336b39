"""The quote of a plan: what its parts, needs and extra lines come to, as it is now or as it was agreed."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from attrs import asdict, evolve, frozen

from unkett.core.drawing.ride import RideFigure, ride_figures
from unkett.core.settings import Settings
from unkett.core.ways.money import Priced, Totals, labour_of, totals
from unkett.core.work.price import CauseLine, Piece
from unkett.core.work.price import Quote as Price
from unkett.web.bikes.complaints import check_minutes, given_answers
from unkett.web.plans.models import Agreement, QuoteItem
from unkett.web.plans.pricing import is_on_sheet, item_cause
from unkett.web.plans.queries import Planned

PART, NEED, FOUND, JOB = "Parts", "Small parts, fitting", "Found at the inspection", "The job itself"
ACCEPT, EXTRA, SERVICE, OUTSIDE = "Please note", "Extra work", "Service", "Work outside"
SORTS = (PART, NEED, SERVICE, FOUND, JOB, OUTSIDE, EXTRA, ACCEPT)
OF_CAUSE = {"change": PART, "need": NEED, "defect": FOUND, "found": FOUND, "package": SERVICE, "job": JOB}
OLD_SORTS = {
    "What the joints need": NEED,
    "To accept": ACCEPT,
    "Beside that": EXTRA,
}  # in quotes agreed before


@frozen(kw_only=True)
class Row:
    """A line of a quote; money in hundredths. An extra line has its id and says whether it is agreed.

    `pieces` are its parts and small parts, each with title, count and price of one, none where it is not known; `work`
    is what its labour comes to.
    """

    sort: str
    title: str
    price: int = 0
    minutes: int = 0
    given: bool = False
    line: int | None = None
    open: bool = False  # found later and not agreed yet: not counted
    cause: str = ""  # of the sheet's
    credit: bool = False  # taken off what was agreed
    labour: int | None = None  # its labour where that is a fixed price, in hundredths
    pieces: Sequence[Mapping[str, Any]] = ()
    outside: bool = False
    days: int = 0  # that work outside takes
    work: int = 0

    @property
    def sum(self) -> int:
        """Parts and labour without tax."""
        return 0 if self.given else (self.price + self.work) * (-1 if self.credit else 1)

    @property
    def parts(self) -> int:
        """Its parts without tax."""
        return 0 if self.given else -self.price if self.credit else self.price

    @property
    def unpriced(self) -> list[Mapping[str, Any]]:
        return [piece for piece in self.pieces if piece["price"] is None]


@frozen(kw_only=True)
class Quote:
    """The lines of a quote and what they come to."""

    rows: tuple[Row, ...]
    totals: Totals
    labour_per_hour: float
    tax_pct: float
    by_line: bool = True
    ride: tuple[RideFigure, ...] = ()  # what it does for the rider

    @property
    def groups(self) -> list[tuple[str, list[Row]]]:
        found = [(sort, [row for row in self.rows if row.sort == sort and not row.open]) for sort in SORTS]
        return [(sort, rows) for sort, rows in found if rows]

    @property
    def to_agree(self) -> list[Row]:
        return [row for row in self.rows if row.open]

    @property
    def unpriced(self) -> list[Mapping[str, Any]]:
        """The parts without a price: the total is without them."""
        return [piece for row in self.rows for piece in row.unpriced]

    def to_json(self) -> dict[str, Any]:
        return {
            "rows": [asdict(row) for row in self.rows],
            "labour_per_hour": self.labour_per_hour,
            "tax_pct": self.tax_pct,
            "by_line": self.by_line,
            "ride": [asdict(one) for one in self.ride],
        }


def quote_of(
    rows: Iterable[Row],
    labour_per_hour: float,
    tax_pct: float,
    *,
    by_line: bool = True,
    ride: tuple[RideFigure, ...] = (),
) -> Quote:
    """Return a quote with its sums; what waits to be agreed is not counted.

    `by_line` rounds the labour of each line; quotes agreed before rounded their sum.
    """
    settings = Settings.of({"labour_per_hour": labour_per_hour, "tax_pct": tax_pct})
    lines = [
        (
            row,
            Priced(
                price=row.price, minutes=row.minutes, given=row.given, credit=row.credit, labour=row.labour,
                outside=row.outside,
            ),
        )
        for row in rows
    ]  # fmt: skip
    sums = totals([line for row, line in lines if not row.open], settings, by_line=by_line)
    shown = tuple(evolve(row, work=labour_of(line, settings)) for row, line in lines)
    return Quote(
        rows=shown, totals=sums, labour_per_hour=labour_per_hour, tax_pct=tax_pct, by_line=by_line, ride=ride
    )


def quote_of_price(found: Planned, price: Price, accepted: Iterable[str], settings: Settings) -> Quote:
    """Return a plan's quote from the price of its sheet: its lines by cause, and what is beside the sheet."""
    items = list(found.plan.quote_lines.all())
    extra = {item_cause(one): one for one in items if is_on_sheet(one)}
    free = {*found.plan.given, *(item_cause(one) for one in items if one.given)}
    rows = [
        *(row_of_cause(line, free, extra.get(line.cause)) for line in price.lines),
        *(Row(sort=ACCEPT, title=title) for title in accepted),
        *_consumables(price),
        *_of_checks(found),
        *(evolve(_of_item(one), open=False) for one in items if one.outside),
    ]
    rows.sort(key=lambda row: SORTS.index(row.sort))
    ride = ride_figures(found.stands.build, found.build)
    return quote_of(rows, settings.number("labour_per_hour"), settings.number("tax_pct"), ride=ride)


def agreed_quote(found: Planned) -> tuple[Quote, Agreement] | None:
    """Return the quote as it was agreed, with what was agreed since; None for a plan that is not agreed."""
    agreed = found.plan.agreements.first() if found.plan.is_agreed else None
    if agreed is None:
        return None
    kept = agreed.content
    rows = [Row(**{**row, "sort": OLD_SORTS.get(row["sort"], row["sort"])}) for row in kept["rows"]]
    rows += [_of_item(line) for line in found.plan.quote_lines.all() if line.later]
    by_line = kept.get("by_line", False)
    ride = tuple(RideFigure(**{**one, "sizes": tuple(one["sizes"])}) for one in kept.get("ride", ()))
    return quote_of(rows, kept["labour_per_hour"], kept["tax_pct"], by_line=by_line, ride=ride), agreed


def row_of_cause(line: CauseLine, given: Collection[str] = (), item: QuoteItem | None = None) -> Row:
    """All of the job that is done for one cause: its parts and minutes; `item` is the extra line that asked for it."""
    parts = sum((piece.count * piece.price for piece in line.pieces if piece.price is not None), Decimal(0))
    return Row(
        sort=EXTRA if item else OF_CAUSE[line.cause.partition(":")[0]],
        title=line.says,
        price=int(parts * 100),
        minutes=line.minutes,
        cause=line.cause,
        given=line.cause in given,
        line=item.pk if item else None,
        labour=int(line.price * 100) if line.fixed else None,
        pieces=[_piece_shown(piece) for piece in line.pieces],
    )


def _piece_shown(piece: Piece) -> dict[str, Any]:
    price = None if piece.price is None else int(piece.price * 100)
    return {"ref": piece.slot or piece.what, "title": piece.says, "count": piece.count, "price": price}


def _consumables(price: Price) -> list[Row]:
    """One sum for what every job uses up; nothing where the bike is only looked at."""
    title = "Consumables: grease, threadlocker, cable ends"
    return [Row(sort=NEED, title=title, price=int(price.consumables * 100))] if price.consumables else []


def _of_checks(found: Planned) -> list[Row]:
    """Return the minutes of the checks by which a cause was looked for, once; nothing where none was done."""
    done = [one for one in given_answers(found.stands.bike) if one.result is not None]
    minutes = math.ceil(check_minutes(found.stands.bike))
    title = f"Finding the cause: {len(done)} check{'s' if len(done) > 1 else ''}"
    return [Row(sort=EXTRA, title=title, minutes=minutes)] if done else []


def _of_item(item: QuoteItem) -> Row:
    """Return an extra line: work outside, or what was found after the quote was agreed."""
    return Row(
        sort=OUTSIDE if item.outside else EXTRA,
        title=item.title,
        price=int(item.price * 100),
        minutes=item.minutes,
        given=item.given,
        line=item.pk,
        open=item.later and not item.given and item.agreed_at is None,
        cause=item.cause,
        credit=item.credit,
        outside=item.outside,
        days=item.days,
    )
