"""What is written of a quote: extra lines, work outside, what is free of charge, prices, what is agreed."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django.utils import timezone

from unkett.core.errors import Fault, InputError, bad
from unkett.core.standards import lookup
from unkett.core.work.price import CauseLine
from unkett.core.work.step_words import CAUSES
from unkett.web.bikes.queries import settings_of
from unkett.web.plans.dates import parts_by, promise_day, ready_by
from unkett.web.plans.models import Agreement, Plan, QuoteItem, State
from unkett.web.plans.pricing import price_of_plan
from unkett.web.plans.queries import planned
from unkett.web.plans.quoting import quote_of_price, row_of_cause
from unkett.web.plans.writing import write_plan
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User

TITLE_MAX, PRICE_UNDER, MINUTES_MAX, DAYS_MAX = 200, 1_000_000, 10_000, 365


def freeze_quote(actor: Any, plan: Plan) -> Agreement:
    """Keep the quote as it is agreed now, by somebody here or by the customer's own link, and promise its day.

    Call it inside the action's transaction; the caller saves the plan.
    """
    settings, found = settings_of(actor), planned(actor, plan.pk)
    price, sheet = price_of_plan(found, settings)
    content = quote_of_price(found, price, sheet.accepted, settings).to_json()
    promise_day(plan, ready_by(found, sheet))
    plan.parts_on = parts_by(found) if found.days else None
    plan.quote_lines.filter(agreed_at=None).update(agreed_at=timezone.now())
    plan.quote_lines.update(later=False)  # what was found before is in what is agreed now
    return Agreement.objects.create(plan=plan, by=actor if isinstance(actor, User) else None, content=content)


def add_quote_line(
    *,
    actor: User,
    plan_id: int,
    version: int,
    title: str,
    price: Decimal,
    minutes: int = 0,
    given: bool = False,
    outside: bool = False,
    days: int = 0,
) -> Plan:
    """Add extra work, a part or `outside` work to a quote; on an agreed one it is to be agreed, or free of charge.

    Raises InputError beside the field.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        line = make_item(
            actor, plan, title=title, price=price, minutes=minutes, given=given, outside=outside, days=days
        )
        return None, {"title": line.title, "price": str(price), "minutes": line.minutes, "given": given}

    return write_plan(actor, plan_id, version, "add to quote", action)


def make_item(
    actor: User,
    plan: Plan,
    *,
    title: str,
    price: Decimal,
    minutes: int,
    given: bool,
    outside: bool,
    days: int,
) -> QuoteItem:
    """Store an extra line of a plan's quote. Raises InputError beside the field.

    Call it inside the action's transaction.
    """
    faults = []
    if not 1 <= len(title.strip()) <= TITLE_MAX:
        faults.append(Fault(path="title", says=f"enter 1 to {TITLE_MAX} characters"))
    if not 0 <= price < PRICE_UNDER:
        faults.append(Fault(path="price", says=f"{price} given; 0 to {PRICE_UNDER} allowed"))
    if not 0 <= minutes <= MINUTES_MAX:
        faults.append(Fault(path="minutes", says=f"{minutes} given; 0 to {MINUTES_MAX} allowed"))
    if not 0 <= days <= DAYS_MAX:
        faults.append(Fault(path="days", says=f"{days} given; 0 to {DAYS_MAX} allowed"))
    if faults:
        raise InputError(faults)
    return QuoteItem.objects.create(
        plan=plan,
        title=title.strip(),
        price=price,
        minutes=0 if outside else minutes,
        given=given,
        outside=outside,
        days=days if outside else 0,
        later=plan.state not in (State.DRAFT, State.QUOTED),
        made_by=actor,
    )


def set_free(*, actor: User, plan_id: int, version: int, cause: str, free: bool) -> Plan:
    """Do a line of the quote free of charge, or charge it after all. Raises NotThere for a cause that there is not."""

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_agreed(plan)
        if cause.partition(":")[0] not in CAUSES or len(cause) > TITLE_MAX:
            raise NotThere
        before = cause in plan.given
        plan.given = sorted({*plan.given, cause} if free else set(plan.given) - {cause})
        return {cause: before}, {cause: free}

    return write_plan(actor, plan_id, version, "free of charge", action)


def set_price(*, actor: User, plan_id: int, version: int, ref: str, price: Decimal) -> Plan:
    """Set the price of one part or small part of this quote; `ref` is its slot, or what the small part is.

    Raises NotThere for one that the plan does not have, InputError naming `price`.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_agreed(plan)
        if not 0 <= price < PRICE_UNDER:
            raise bad("price", f"{price} given; 0 to {PRICE_UNDER} allowed")
        change = plan.changes.filter(slot=ref, empties=False).first()
        if change is not None:
            before, change.price = change.price, price
            change.save(update_fields=["price"])
        elif ref in lookup("needs", "what"):
            before = plan.small_prices.get(ref)
            plan.small_prices = {**plan.small_prices, ref: str(price)}
        else:
            raise NotThere
        return {ref: None if before is None else str(before)}, {ref: str(price)}

    return write_plan(actor, plan_id, version, "price", action)


def choose_need(
    *, actor: User, plan_id: int, version: int, rule: str, slots: Iterable[str], what: str
) -> Plan:
    """Choose one of the needs that may stand for each other: sheet, quote and order follow it. Raises NotThere."""
    joint = sorted(slots)

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_agreed(plan)
        found = planned(actor, plan.pk)
        asking = [one for one in found.check.findings if one.rule == rule and sorted(one.slots) == joint]
        groups = [
            {need["what"] for need in one.needs if need.get("either") == other.get("either")}
            for one in asking
            for other in one.needs
            if other["what"] == what and "either" in other
        ]
        if not groups:
            raise NotThere
        kept = [
            one
            for one in plan.chosen
            if (one["rule"], one["slots"]) != (rule, joint) or one["what"] not in groups[0]
        ]
        before = plan.chosen
        plan.chosen = [*kept, {"rule": rule, "slots": joint, "what": what}]
        return {"chosen": [one["what"] for one in before]}, {"chosen": [one["what"] for one in plan.chosen]}

    return write_plan(actor, plan_id, version, "choose", action)


def refuse_agreed(plan: Plan) -> None:
    """Refuse to change what a customer has agreed to."""
    if plan.state not in (State.DRAFT, State.QUOTED):
        raise Refused("This quote is agreed. Take the plan back to a draft before changing it.")


def add_found(actor: User, plan: Plan, lines: Iterable[CauseLine], *, given: bool = False) -> list[QuoteItem]:
    """Put what was found after a quote was agreed on it, to be agreed or free of charge.

    Call it inside the action's transaction; a quote that is not agreed yet has such lines by itself.
    """
    if plan.state in (State.DRAFT, State.QUOTED):
        return []
    made = []
    for line in lines:
        row = row_of_cause(line)
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
    """Return whether an agreed row is of a cause; rows agreed before an older release ended have only their title."""
    return bool(row["cause"] == cause if row.get("cause") else row["title"].startswith(title))


def agree_quote_line(*, actor: User, plan_id: int, version: int, line_id: int) -> Plan:
    """Mark work found later as agreed. Raises NotThere."""

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
