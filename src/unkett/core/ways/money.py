"""What a quote comes to: parts, small parts, labour and tax. Money is in whole hundredths."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from attrs import frozen

from unkett.core.settings import Settings


@frozen(kw_only=True)
class Priced:
    """One line of a quote: what it costs without tax, and the minutes it takes; `given` counts neither.

    A `credit` is taken off the sum; `labour` is a fixed price for the work, in hundredths.
    """

    price: int
    minutes: int = 0
    given: bool = False
    credit: bool = False
    labour: int | None = None


@frozen(kw_only=True)
class Totals:
    """The sums of a quote, each rounded half up; `gross` is what is paid."""

    parts: int
    minutes: int
    labour: int
    tax: int

    @property
    def net(self) -> int:
        return self.parts + self.labour

    @property
    def gross(self) -> int:
        return self.net + self.tax


def half_up(value: Fraction) -> int:
    """To the nearest whole number, halves up; values from 0."""
    return int((2 * value + 1) // 2)


def totals(lines: Iterable[Priced], settings: Settings, *, by_line: bool = True) -> Totals:
    """Σ prices + minutes ÷ 60 × the hour's labour, and tax on both by the workshop's settings.

    The labour of each line is rounded by itself (`by_line`), else that of their sum.
    """
    counted = [line for line in lines if not line.given]
    parts = sum(_sign(line) * line.price for line in counted)
    minutes = sum(_sign(line) * line.minutes for line in counted)
    hour = Fraction(str(settings.number("labour_per_hour"))) * 100
    timed = [line for line in counted if line.labour is None]
    if by_line:
        labour = sum(_sign(line) * half_up(hour * line.minutes / 60) for line in timed)
    else:
        labour = half_up(hour * sum(_sign(line) * line.minutes for line in timed) / 60)
    labour += sum(_sign(line) * line.labour for line in counted if line.labour is not None)
    tax = half_up((parts + labour) * Fraction(str(settings.number("tax_pct"))) / 100)
    return Totals(parts=parts, minutes=minutes, labour=labour, tax=tax)


def _sign(line: Priced) -> int:
    return -1 if line.credit else 1


@frozen(kw_only=True)
class Ledger:
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
