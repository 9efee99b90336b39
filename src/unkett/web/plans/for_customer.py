"""A quote as its customer reads it: what is done and what it costs, without bench talk and without empty rows."""

from __future__ import annotations

from attrs import frozen

from unkett.web.plans.quoting import ACCEPT, EXTRA, FOUND, JOB, NEED, OUTSIDE, PART, SERVICE, Quote, Row

SMALL = "Small parts, fitting and checks"
WHOLE = "Safety inspection and test ride"
APART = (PART, SERVICE, FOUND, OUTSIDE, EXTRA)


@frozen(kw_only=True)
class CustomerLine:
    """What is done, what it costs without tax in hundredths; none: it is included. `given`: without charge."""

    title: str
    price: int | None = None
    given: bool = False


def lines_for_customer(quote: Quote) -> list[CustomerLine]:
    """Return a quote's lines that count: parts and work one by one, fitting and checks together."""
    rows = [row for row in quote.rows if not row.open]
    lines = [_line(row) for row in rows if row.sort in APART]
    for title, sort in ((SMALL, NEED), (WHOLE, JOB)):
        among = [row for row in rows if row.sort == sort]
        if among:
            lines.append(CustomerLine(title=title, price=sum(row.sum for row in among) or None))
    return lines


def _line(row: Row) -> CustomerLine:
    return CustomerLine(title=row.title, price=row.sum or None, given=row.given)


def notes_for_customer(quote: Quote) -> list[str]:
    """Return what the customer should know and accept."""
    return [row.title for row in quote.rows if row.sort == ACCEPT]
