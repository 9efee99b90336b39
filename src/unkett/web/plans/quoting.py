"""The quote of a plan: what its parts, needs and extra lines come to; agreed, it is frozen."""

from __future__ import annotations

import logging
import math
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from attrs import asdict, frozen
from django.utils import timezone

from unkett.core.errors import CoreError, Fault, InputError
from unkett.core.settings import Settings
from unkett.core.ways.money import Priced, Totals, totals
from unkett.core.work.price import CauseLine
from unkett.core.work.price import Quote as Price
from unkett.web.bikes.complaints import check_minutes, given_answers
from unkett.web.bikes.queries import settings_of
from unkett.web.plans.models import Agreement, Plan, QuoteItem, State
from unkett.web.plans.pricing import price_of_plan
from unkett.web.plans.queries import Planned, planned
from unkett.web.plans.writing import write_plan
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User

TITLE_MAX, PRICE_UNDER, MINUTES_MAX = 200, 1_000_000, 10_000
PART, NEED, FOUND, JOB = "Parts", "Small parts, fitting", "Found at the inspection", "The job itself"
ACCEPT, EXTRA, SERVICE = "Please note", "Beside that", "Service"
SORTS = (PART, NEED, SERVICE, FOUND, JOB, ACCEPT, EXTRA)
OF_CAUSE = {"change": PART, "need": NEED, "defect": FOUND, "found": FOUND, "package": SERVICE, "job": JOB}
OLD_SORTS = {"What the joints need": NEED, "To accept": ACCEPT}  # as quotes agreed before have them


@frozen(kw_only=True)
class Row:
    """A line of a quote; money in hundredths. An extra line has its id and says whether it is agreed."""

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

    @property
    def money(self) -> Decimal:
        return Decimal(0 if self.given else -self.price if self.credit else self.price) / 100

    def to_json(self) -> dict[str, Any]:
        return asdict(self)


@frozen(kw_only=True)
class Quote:
    """The lines of a quote and what they come to."""

    rows: tuple[Row, ...]
    totals: Totals
    labour_per_hour: float
    tax_pct: float
    by_line: bool = True

    @property
    def groups(self) -> list[tuple[str, list[Row]]]:
        found = [(sort, [row for row in self.rows if row.sort == sort and not row.open]) for sort in SORTS]
        return [(sort, rows) for sort, rows in found if rows]

    @property
    def to_agree(self) -> list[Row]:
        return [row for row in self.rows if row.open]

    def to_json(self) -> dict[str, Any]:
        return {
            "rows": [row.to_json() for row in self.rows],
            "labour_per_hour": self.labour_per_hour,
            "tax_pct": self.tax_pct,
            "by_line": self.by_line,
        }


def quote_of(rows: Iterable[Row], labour_per_hour: float, tax_pct: float, *, by_line: bool = True) -> Quote:
    """A quote with its sums; what waits to be agreed is not counted.

    `by_line` rounds the labour of each line; quotes agreed before rounded their sum.
    """
    rows = tuple(rows)
    settings = Settings.of({"labour_per_hour": labour_per_hour, "tax_pct": tax_pct})
    priced = [
        Priced(price=row.price, minutes=row.minutes, given=row.given, credit=row.credit, labour=row.labour)
        for row in rows
        if not row.open
    ]
    sums = totals(priced, settings, by_line=by_line)
    return Quote(rows=rows, totals=sums, labour_per_hour=labour_per_hour, tax_pct=tax_pct, by_line=by_line)


def quote_now(found: Planned, settings: Settings) -> Quote:
    """What a plan comes to as it is now: its sheet by causes, and what was added by hand."""
    price, sheet = price_of_plan(found, settings)
    rows = [
        *(_of_cause(line) for line in price.lines),
        *(Row(sort=ACCEPT, title=title) for title in sheet.accepted),
        *_consumables(price),
        *_of_checks(found),
        *(_of_line(line) for line in found.plan.quote_lines.all()),
    ]
    rows.sort(key=lambda row: SORTS.index(row.sort))
    return quote_of(rows, settings.number("labour_per_hour"), settings.number("tax_pct"))


def quote_shown(found: Planned, settings: Settings) -> tuple[Quote, Agreement | None]:
    """The quote that counts: as it was agreed with what was agreed since, else as it is now."""
    agreed = found.plan.agreements.first()
    if agreed is None or found.plan.state in (State.DRAFT, State.QUOTED, State.DROPPED):
        return quote_now(found, settings), None
    kept = agreed.content
    rows = [Row(**{**row, "sort": OLD_SORTS.get(row["sort"], row["sort"])}) for row in kept["rows"]]
    rows += [_of_line(line) for line in found.plan.quote_lines.filter(later=True)]
    by_line = kept.get("by_line", False)
    return quote_of(rows, kept["labour_per_hour"], kept["tax_pct"], by_line=by_line), agreed


def total_of(found: Planned, settings: Settings) -> Totals | None:
    """What a plan's quote comes to; None, with a line in the log, where no sheet can be made of it."""
    try:
        return quote_shown(found, settings)[0].totals
    except CoreError:
        logging.getLogger("unkett.jobs").exception("no sheet for plan %s", found.plan.pk)
        return None


def _of_cause(line: CauseLine) -> Row:
    """All of the job that is done for one cause: its parts and its minutes."""
    parts = sum((piece.count * piece.price for piece in line.pieces if piece.price is not None), Decimal(0))
    missing = any(piece.price is None for piece in line.pieces)
    return Row(
        sort=OF_CAUSE[line.cause.partition(":")[0]],
        title=f"{line.says}, no price yet" if missing else line.says,
        price=int(parts * 100),
        minutes=line.minutes,
        cause=line.cause,
        labour=int(line.price * 100) if line.fixed else None,
    )


def _consumables(price: Price) -> list[Row]:
    """One sum for what every job uses up; nothing where the bike is only looked at."""
    title = "Consumables: grease, threadlocker, cable ends"
    return [Row(sort=NEED, title=title, price=int(price.consumables * 100))] if price.consumables else []


def _of_checks(found: Planned) -> list[Row]:
    """The minutes of the checks by which a cause was looked for, once; nothing where none was done."""
    done = [one for one in given_answers(found.stands.bike) if one.result is not None]
    minutes = math.ceil(check_minutes(found.stands.bike))
    title = f"Finding the cause: {len(done)} check{'s' if len(done) > 1 else ''}"
    return [Row(sort=EXTRA, title=title, minutes=minutes)] if done else []


def _of_line(line: QuoteItem) -> Row:
    return Row(
        sort=EXTRA,
        title=line.title,
        price=int(line.price * 100),
        minutes=line.minutes,
        given=line.given,
        line=line.pk,
        open=line.later and not line.given and line.agreed_at is None,
        cause=line.cause,
        credit=line.credit,
    )


# writes


def freeze_quote(actor: Any, plan: Plan) -> Agreement:
    """Keep the quote as it is agreed now, by somebody here or by the customer's own link.

    Call it inside the action's transaction.
    """
    settings = settings_of(actor)
    content = quote_now(planned(actor, plan.pk), settings).to_json()
    plan.quote_lines.filter(agreed_at=None).update(agreed_at=timezone.now())
    return Agreement.objects.create(plan=plan, by=actor if isinstance(actor, User) else None, content=content)


def add_quote_line(
    *, actor: User, plan_id: int, version: int, title: str, price: Decimal, minutes: int, given: bool
) -> Plan:
    """Extra work or a part on a quote; once that is agreed it is a new line to agree, or free of charge.

    Raises InputError beside the field.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        faults = []
        if not 1 <= len(title.strip()) <= TITLE_MAX:
            faults.append(Fault(path="title", says=f"enter 1 to {TITLE_MAX} characters"))
        if not 0 <= price < PRICE_UNDER:
            faults.append(Fault(path="price", says=f"{price} given; 0 to {PRICE_UNDER} allowed"))
        if not 0 <= minutes <= MINUTES_MAX:
            faults.append(Fault(path="minutes", says=f"{minutes} given; 0 to {MINUTES_MAX} allowed"))
        if faults:
            raise InputError(faults)
        later = plan.state not in (State.DRAFT, State.QUOTED)
        line = QuoteItem.objects.create(
            plan=plan,
            title=title.strip(),
            price=price,
            minutes=minutes,
            given=given,
            later=later,
            made_by=actor,
        )
        return None, {"title": line.title, "price": str(price), "minutes": minutes, "given": given}

    return write_plan(actor, plan_id, version, "add to quote", action)


def add_found(actor: User, plan: Plan, lines: Iterable[CauseLine], *, given: bool = False) -> list[QuoteItem]:
    """Put what was found after a quote was agreed on it, to be agreed or free of charge.

    Call it inside the action's transaction; a quote that is not agreed yet has such lines by itself.
    """
    if plan.state in (State.DRAFT, State.QUOTED):
        return []
    made = []
    for line in lines:
        row = _of_cause(line)
        made.append(
            QuoteItem.objects.create(
                plan=plan,
                title=f"Found: {row.title}"[:TITLE_MAX],
                price=Decimal(row.price) / 100,
                minutes=row.minutes,
                given=given,
                later=True,
                cause=line.cause,
                made_by=actor,
            )
        )
    return made


def take_off_quote(actor: User, plan: Plan, cause: str, title: str) -> None:
    """Take what is not done off a quote: a line that waits to be agreed goes, an agreed one is credited.

    Call it inside the action's transaction; a quote that is not agreed yet loses the line by itself.
    """
    waiting = plan.quote_lines.filter(cause=cause, agreed_at=None, later=True)
    if waiting.exists():
        waiting.delete()
        return
    later = plan.quote_lines.filter(cause=cause, credit=False).first()
    agreed = plan.agreements.first()
    kept = agreed.content["rows"] if agreed else []
    rows = [] if later else [row for row in kept if _is_of(row, cause, title)]
    known = {"price": later.price, "minutes": later.minutes} if later else {}
    if rows:
        known = {"price": Decimal(rows[0]["price"]) / 100, "minutes": rows[0]["minutes"]}
    if known:
        QuoteItem.objects.create(
            plan=plan, title=f"Not done: {title}"[:TITLE_MAX], later=True, credit=True, cause=cause, made_by=actor,
            agreed_at=timezone.now(), **known,
        )  # fmt: skip


def _is_of(row: dict[str, Any], cause: str, title: str) -> bool:
    """Whether an agreed row is of a cause; rows agreed before an older release ended have only their title."""
    return bool(row["cause"] == cause if row.get("cause") else row["title"].startswith(title))


def agree_quote_line(*, actor: User, plan_id: int, version: int, line_id: int) -> Plan:
    """The customer agrees to work found later. Raises NotThere."""

    def action(plan: Plan) -> tuple[Any, Any]:
        line = plan.quote_lines.filter(pk=line_id).first()
        if line is None:
            raise NotThere
        line.agreed_at = line.agreed_at or timezone.now()
        line.save(update_fields=["agreed_at"])
        return None, {"agreed": line.title}

    return write_plan(actor, plan_id, version, "agree line", action)


def drop_quote_line(*, actor: User, plan_id: int, version: int, line_id: int) -> Plan:
    """Take a line off again. Raises NotThere; refused once it is agreed."""

    def action(plan: Plan) -> tuple[Any, Any]:
        line = plan.quote_lines.filter(pk=line_id).first()
        if line is None:
            raise NotThere
        if line.agreed_at is not None:
            raise Refused("This line is agreed already.")
        before = {"title": line.title, "price": str(line.price)}
        line.delete()
        return before, None

    return write_plan(actor, plan_id, version, "drop from quote", action)
