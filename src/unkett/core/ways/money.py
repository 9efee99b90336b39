"""What a quote comes to: parts, small parts, labour and tax. Money is in whole hundredths."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from attrs import frozen

from unkett.core.settings import Settings


@frozen(kw_only=True)
class Priced:
    """One line of a quote: what it costs without tax, and the minutes it takes; `given` counts neither.

    A `credit` is taken off the sum; `labour` is a fixed price for the work, in hundredths; `outside` is work that is
    done elsewhere.
    """

    price: int
    minutes: int = 0
    given: bool = False
    credit: bool = False
    labour: int | None = None
    outside: bool = False


@frozen(kw_only=True)
class Totals:
    """The sums of a quote, each rounded half up; `gross` is what is paid."""

    parts: int
    minutes: int
    labour: int
    tax: int
    outside: int = 0

    @property
    def net(self) -> int:
        return self.parts + self.labour + self.outside

    @property
    def gross(self) -> int:
        return self.net + self.tax


def half_up(value: Fraction) -> int:
    """To the nearest whole number, halves up; values from 0."""
    return int((2 * value + 1) // 2)


def labour_of(line: Priced, settings: Settings) -> int:
    """Return a line's labour in hundredths: its fixed price, else minutes ÷ 60 × the hour's price, rounded half up."""
    if line.labour is not None:
        return line.labour
    return half_up(Fraction(str(settings.number("labour_per_hour"))) * 100 * line.minutes / 60)


def totals(lines: Iterable[Priced], settings: Settings, *, by_line: bool = True) -> Totals:
    """Σ prices + minutes ÷ 60 × the hour's labour, and tax on both by the workshop's settings.

    The labour of each line is rounded by itself (`by_line`), else that of their sum. The minutes are those of the
    work, free of charge or not.
    """
    every = list(lines)
    counted = [line for line in every if not line.given]
    parts = sum(_sign(line) * line.price for line in counted if not line.outside)
    outside = sum(_sign(line) * line.price for line in counted if line.outside)
    minutes = sum(_sign(line) * line.minutes for line in every)
    if by_line:
        labour = sum(_sign(line) * labour_of(line, settings) for line in counted)
    else:
        hour = Fraction(str(settings.number("labour_per_hour"))) * 100
        timed = [line for line in counted if line.labour is None]
        labour = half_up(hour * sum(_sign(line) * line.minutes for line in timed) / 60)
        labour += sum(_sign(line) * line.labour for line in counted if line.labour is not None)
    tax = half_up((parts + labour + outside) * Fraction(str(settings.number("tax_pct"))) / 100)
    return Totals(parts=parts, minutes=minutes, labour=labour, tax=tax, outside=outside)


def _sign(line: Priced) -> int:
    return -1 if line.credit else 1


@frozen(kw_only=True)
class ResaleSums:
    """A bike built up to be sold: what went in, what came back, what is left of it. Money in hundredths."""

    bought: int
    parts_in: int = 0
    parts_out: int = 0  # what parts taken off are objective: a credit
    minutes: int = 0
    sold: int | None = None

    @property
    def cost(self) -> int:
        return self.bought + self.parts_in - self.parts_out

    @property
    def profit(self) -> int | None:
        """Sold for less than it cost is a loss; None until it is sold."""
        return None if self.sold is None else self.sold - self.cost

    @property
    def per_hour(self) -> int | None:
        """What an hour of work earned; None until it is sold or where no hour is written down."""
        if self.profit is None or not self.minutes:
            return None
        earned = half_up(Fraction(abs(self.profit) * 60, self.minutes))
        return earned if self.profit >= 0 else -earned
