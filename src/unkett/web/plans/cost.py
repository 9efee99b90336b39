"""What a plan comes to, worked out once for a page: its quote, its sheet, its choices and its days."""

from __future__ import annotations

import datetime
import logging
from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import frozen

from unkett.core.drawing.ride import ride_picture
from unkett.core.errors import CoreError
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Scene
from unkett.core.settings import Settings
from unkett.core.standards import lookup
from unkett.core.ways.money import Totals
from unkett.core.work.needs import groups_of, need_says
from unkett.core.work.price import Quote as Price
from unkett.core.work.step import JobSheet
from unkett.web.bikes.complaints import open_complaints
from unkett.web.plans.dates import parts_by, ready_by
from unkett.web.plans.for_customer import CustomerLine, lines_for_customer, notes_for_customer
from unkett.web.plans.models import Agreement
from unkett.web.plans.pricing import price_of_plan
from unkett.web.plans.queries import Planned
from unkett.web.plans.quoting import Quote, agreed_quote, quote_of_price


@frozen(kw_only=True)
class Choice:
    """Needs of one finding of which one is done: which, in words, whether it is the one taken, price and minutes."""

    rule: str
    slots: tuple[str, ...]
    says: str
    options: tuple[tuple[str, str, bool, float, int], ...]


@frozen(kw_only=True, slots=False)
class PlanCost:
    """The quote that counts, as agreed with what was agreed since, else as the plan is now, with what is behind it.

    Reading `quote`, `sheet` or `ready_on` raises CoreError where no sheet can be made of the plan.
    """

    found: Planned
    settings: Settings

    @cached_property
    def _priced(self) -> tuple[Price, JobSheet]:
        return price_of_plan(self.found, self.settings)

    @property
    def price(self) -> Price:
        """The price of the sheet as the plan is now, be it agreed or not."""
        return self._priced[0]

    @property
    def sheet(self) -> JobSheet:
        return self._priced[1]

    @property
    def has_sheet(self) -> bool:
        """Whether a sheet can be made of the plan as it is now."""
        try:
            return self._priced is not None
        except CoreError:
            return False

    @cached_property
    def _agreed(self) -> tuple[Quote, Agreement] | None:
        return agreed_quote(self.found)

    @property
    def agreed(self) -> Agreement | None:
        return self._agreed[1] if self._agreed else None

    @cached_property
    def quote(self) -> Quote:
        if self._agreed:
            return self._agreed[0]
        price, sheet = self._priced
        return quote_of_price(self.found, price, sheet.accepted, self.settings)

    @cached_property
    def total(self) -> Totals | None:
        """What is paid; None, with a line in the log, where no sheet can be made."""
        try:
            return self.quote.totals
        except CoreError:
            logging.getLogger("unkett.jobs").exception("no sheet for plan %s", self.found.plan.pk)
            return None

    @property
    def for_customer(self) -> list[CustomerLine]:
        """The quote's lines as its customer reads them."""
        return lines_for_customer(self.quote)

    @property
    def notes(self) -> list[str]:
        return notes_for_customer(self.quote)

    @property
    def picture(self) -> Scene | None:
        """What the plan does for the rider, as a picture."""
        return ride_picture(self.quote.ride)

    @property
    def parts_on(self) -> datetime.date:
        return parts_by(self.found)

    @property
    def promised(self) -> bool:
        return self.found.plan.promised is not None

    @property
    def waits_for_parts(self) -> bool:
        """Whether a part is still to come."""
        return self.found.plan.parts_on is not None or self.found.days > 0

    @cached_property
    def ready_on(self) -> datetime.date | None:
        """The day on which it is ready; None where no sheet can be made."""
        if self.found.plan.promised is None and self.total is None:
            return None
        return ready_by(self.found, self.sheet) if self.found.plan.promised is None else ready_by(self.found)

    @cached_property
    def choices(self) -> list[Choice]:
        """What there is to choose between: the needs of a new finding that may stand for each other."""
        asking = [
            one for one in self.found.difference.new if one.verdict is Verdict.GOES_IF and not one.accepted
        ]
        return [
            Choice(
                rule=finding.rule,
                slots=finding.slots,
                says=finding.says,
                options=tuple(_option(need, taken=need is group[0]) for need in sorted(group, key=_by_words)),
            )
            for finding in asking
            for group in groups_of(finding, self.found.plan.chosen)
            if len(group) > 1
        ]


def asked_of(found: Planned) -> list[str]:
    """Return what the customer asked for, in their words: the request, and what they complain of."""
    bike = found.stands.bike
    return [words for words in (bike.wish, *(one.title for one in open_complaints(bike))) if words]


def _by_words(need: Mapping[str, Any]) -> str:
    return str(need["what"])


def _option(need: Mapping[str, Any], *, taken: bool) -> tuple[str, str, bool, float, int]:
    row = lookup("needs", "what")[need["what"]]
    return need["what"], need_says(need), taken, row.get("price", 0.0), int(row.get("minutes", 0))
