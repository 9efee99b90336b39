"""What a plan's work costs: one sheet and one price of it, for the quote, the ways, the options and the plan alike."""

from __future__ import annotations

import functools
import logging
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from attrs import frozen

from unkett.core.build import Build
from unkett.core.errors import CoreError
from unkett.core.rules.finding import Finding
from unkett.core.settings import Settings
from unkett.core.standards import table
from unkett.core.work.custom_steps import OwnStep, with_own
from unkett.core.work.defect import OwnFinding
from unkett.core.work.packages import Package
from unkett.core.work.price import Money, Outside, Quote, quote_of_sheet
from unkett.core.work.sheet import job_steps
from unkett.core.work.step import JobSheet
from unkett.web.bikes.inspection import defects_of
from unkett.web.bikes.models import Bike
from unkett.web.plans.models import Plan, QuoteItem
from unkett.web.plans.queries import Planned
from unkett.web.rulebook.custom_steps import custom_steps
from unkett.web.rulebook.packages import packages_of

SHEETS_KEPT = 128  # by a process


def sheet_for(
    bike: Bike,
    now: Build,
    then: Build,
    settings: Settings,
    *,
    changed: Sequence[str],
    findings: Sequence[Finding] | None = None,
    done: Sequence[str] = (),
    packages: Sequence[Package] = (),
    chosen: Sequence[Mapping[str, Any]] = (),
    extra: Sequence[OwnFinding] = (),
) -> JobSheet:
    """Return the sheet from a bike now to a bike planned, with what its inspection found and `extra` work.

    `changed` names the slots that get another piece, be it of the same sort; `findings` those of the planned bike
    that it does not have now, where they are known already. Where the workshop's own steps could not be brought into an
    order, the sheet is made without them. Raises CoreError where there is no order at all.
    """
    defects, own = defects_of(bike)
    same = [slot for slot in changed if slot in now.parts and now.parts.get(slot) == then.parts.get(slot)]
    words = custom_steps(bike.workshop)
    asked: dict[str, Any] = {
        "build": now, "planned": then, "defects": defects, "own": [*own, *extra], "replaced": same, "done": done,
        "findings": findings, "settings": settings, "packages": packages, "chosen": chosen,
    }  # fmt: skip
    try:
        return _made(_Asked(key=repr((asked, words)), asked=asked, words=tuple(words)))
    except CoreError:
        if not words:
            raise
        logging.getLogger("unkett.jobs").exception(
            "the own steps of workshop %s wait for each other", bike.workshop_id
        )
        return job_steps(**asked)


@frozen(kw_only=True, eq=False)
class _Asked:
    """What a sheet is made from; two that ask the same, word for word, are equal and get one sheet."""

    key: str
    asked: Mapping[str, Any]
    words: tuple[OwnStep, ...]

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and self.key == other.key


@functools.lru_cache(maxsize=SHEETS_KEPT)
def _made(asked: _Asked) -> JobSheet:
    """Return the sheet, made once: the pages of a plan ask for it again and again."""
    return job_steps(templates=with_own(asked.words), **asked.asked)


def sheet_of_plan(found: Planned, settings: Settings, done: Sequence[str] = ()) -> JobSheet:
    """Return the sheet of what a plan still changes, and of what the inspection found."""
    return sheet_for(
        found.stands.bike,
        found.stands.build,
        found.build,
        settings,
        changed=[slot for slot in found.changes if slot not in found.done],
        findings=[one for one in found.difference.new if not one.accepted],
        done=done,
        packages=packages_in(found.plan),
        chosen=found.plan.chosen,
        extra=[_extra(one) for one in found.plan.quote_lines.all() if is_on_sheet(one)],
    )


def is_on_sheet(item: QuoteItem) -> bool:
    """Whether an extra line of a quote is work of its own on the sheet: not outside, and not there by another cause."""
    return not (item.outside or item.credit or item.cause)


def item_cause(item: QuoteItem) -> str:
    """Return the cause by which a sheet has an extra line, or the one that it has already."""
    return item.cause or f"defect:{_extra(item).ref}"


def _extra(item: QuoteItem) -> OwnFinding:
    return OwnFinding(
        slot="bike", code=f"extra-{item.pk}", says=item.title, minutes=item.minutes, price=item.price
    )


def packages_in(plan: Plan) -> list[Package]:
    """Return the service packages of a plan, as the workshop has them."""
    known = packages_of(plan.bike.workshop) if plan.packages else {}
    return [known[code] for code in plan.packages if code in known]


def price_of(
    sheet: JobSheet, settings: Settings, prices: Mapping[str, Decimal | None], found: Planned | None = None
) -> Quote:
    """Return what a sheet costs in this workshop, its parts at `prices`; with what a plan says of its own quote."""
    small = {row["what"]: Decimal(str(row["price"])) for row in table("needs").rows if "price" in row}
    own: dict[str, Any] = {}
    if found is not None:
        plan = found.plan
        small |= {what: Decimal(price) for what, price in plan.small_prices.items()}
        items = list(plan.quote_lines.all())
        free = [item_cause(one) for one in items if one.given]
        own = {
            "brought": frozenset(slot for slot, change in found.changes.items() if change.brought),
            "given": frozenset([*plan.given, *free]),
            "outside": tuple(
                Outside(says=one.title, price=Decimal(0) if one.given else one.price)
                for one in items
                if one.outside
            ),
        }
    money = Money(
        currency=settings.school("currency"),
        labour_per_hour=Decimal(str(settings.number("labour_per_hour"))),
        tax_pct=Decimal(str(settings.number("tax_pct"))),
        consumables=Decimal(str(settings.number("consumables"))),
        prices={slot: price for slot, price in prices.items() if price is not None},
        small_parts=small,
        fixed={one.cause: one.price for one in sheet.packages if one.price is not None},
        **own,
    )
    return quote_of_sheet(sheet, money)


def price_of_plan(found: Planned, settings: Settings) -> tuple[Quote, JobSheet]:
    """Return what a plan costs as it is now, with its sheet."""
    sheet = sheet_of_plan(found, settings)
    prices = {slot: change.price for slot, change in found.changes.items()}
    return price_of(sheet, settings, prices, found), sheet
