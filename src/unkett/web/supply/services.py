"""Suppliers kept, their offers asked for in the background, orders written, sent and arrived."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.errors import bad
from unkett.core.vocabulary import KINDS
from unkett.web.bikes.queries import settings_of
from unkett.web.bin.services import Kept, piece_of, put_in_bin
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.stock import count_in
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Change, Plan, State
from unkett.web.plans.queries import planned, plans_seen_by
from unkett.web.plans.services import bring_to
from unkett.web.supply import feed
from unkett.web.supply.expecting import ask_of_orders, expect_lines, parts_move
from unkett.web.supply.feed import SupplierError, ask, check_url, read_feed, sent_number
from unkett.web.supply.models import Offer, Order, OrderItem, OrderState, Supplier
from unkett.web.supply.queries import (
    DRAWER,
    ORDER,
    REFRESH,
    SEND,
    orders_seen_by,
    parts_to_get,
    refresh_going_on,
    suppliers_seen_by,
    to_order,
)
from unkett.web.supply.writing import locked_order, order_changed
from unkett.web.tasks.models import GOING_ON, Task
from unkett.web.tasks.services import Report, ask_for, tasks_seen_by
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NAME_MOST = 120
COUNT_MOST = 999


@transaction.atomic
def keep_supplier(*, actor: User, supplier_id: int | None, name: str, url: str) -> Supplier:
    """Add a supplier, or change its name or address. Raises NotThere, InputError naming the field."""
    require(actor, "change-suppliers")
    name = name.strip()
    if not 1 <= len(name) <= NAME_MOST:
        raise bad("name", f"enter a name of 1 to {NAME_MOST} characters")
    url = check_url(url) if url.strip() else ""
    mine = suppliers_seen_by(actor).select_for_update()
    if mine.filter(name=name).exclude(pk=supplier_id or 0).exists():
        raise bad("name", "another supplier is called that")
    supplier = mine.filter(pk=supplier_id).first() if supplier_id else Supplier(workshop_id=actor.workshop_id)
    if supplier is None:
        raise NotThere
    before = {"name": supplier.name, "url": supplier.url}
    supplier.name, supplier.url, supplier.failed_at, supplier.says = name, url, None, ""
    supplier.save()
    log(actor, "keep supplier", supplier, before=before, after={"name": name, "url": url})
    return supplier


# offers


@transaction.atomic
def ask_offers(*, actor: User, supplier_id: int) -> Task:
    """Ask a supplier for its offers in the background, once at a time. Raises NotThere."""
    require(actor, "change-supply")
    supplier = suppliers_seen_by(actor).select_for_update().filter(pk=supplier_id).exclude(url="").first()
    if supplier is None:
        raise NotThere
    return refresh_going_on(actor, supplier) or ask_for(
        actor=actor, sort=REFRESH, about_id=supplier.pk, asked={}
    )


def refresh(task: Task, _report: Report) -> dict[str, int]:
    """In the background: ask a supplier and store what it offers. What is stored stays where it answers badly."""
    supplier = Supplier.objects.filter(pk=task.about_id, workshop_id=task.workshop_id).first()
    if supplier is None or not supplier.url:
        raise NotThere
    try:
        feed_read = read_feed(ask(f"{supplier.url}/offers"))
        if feed_read.left_out and not feed_read.offers:
            raise SupplierError(f"None of its offers can be read; the first: {feed_read.left_out[0]}.")
    except SupplierError as error:
        Supplier.objects.filter(pk=supplier.pk).update(failed_at=timezone.now(), says=str(error)[:300])
        raise Refused(str(error)) from error
    left = (
        f"{len(feed_read.left_out)} offers left out; the first: {feed_read.left_out[0]}"
        if feed_read.left_out
        else ""
    )
    with transaction.atomic():
        known = {
            (kind, maker, name): pk
            for pk, kind, maker, name in CataloguePart.objects.filter(
                workshop_id=task.workshop_id, name__in={offer.name for offer in feed_read.offers}
            ).values_list("pk", "kind", "maker", "name")
        }
        rows = [
            Offer(
                supplier=supplier, code=one.code, kind=one.kind, maker=one.maker, name=one.name, price=one.price,
                stock=one.stock, lead_days=one.lead_days,
                catalogue_part_id=known.get((one.kind, one.maker, one.name)),
            )
            for one in feed_read.offers
        ]  # fmt: skip
        supplier.offers.exclude(code__in=[one.code for one in feed_read.offers]).delete()
        fields = ["kind", "maker", "name", "price", "stock", "lead_days", "catalogue_part"]
        Offer.objects.bulk_create(
            rows,
            update_conflicts=True,
            unique_fields=["supplier", "code"],
            update_fields=fields,
            batch_size=2000,
        )
        stands = {"answered_at": timezone.now(), "failed_at": None, "says": left[:300]}
        Supplier.objects.filter(pk=supplier.pk).update(**stands)
    ask_of_orders(supplier)
    return {"offers": len(rows), "left_out": len(feed_read.left_out)}


# orders


@transaction.atomic
def order_for_plan(
    *, actor: User, plan_id: int, supplier_id: int, refs: Collection[str] | None = None
) -> Order:
    """Put what a plan needs and has not at hand on the draft order of a supplier; of one with offers, what it offers.

    `refs` names the parts that are wanted, none: all of them. Raises NotThere.
    """
    require(actor, "change-supply")
    plan = plans_seen_by(actor).select_for_update(of=("self",)).filter(pk=plan_id).first()
    supplier = suppliers_seen_by(actor).select_for_update().filter(pk=supplier_id).first()
    if plan is None or supplier is None:
        raise NotThere
    if plan.state in (State.DRAFT, State.QUOTED, State.DROPPED, State.HANDED_OVER, State.CHECKED):
        raise Refused(f"This plan is {State(plan.state).label.lower()}: parts are ordered once it is agreed.")
    cost = PlanCost(found=planned(actor, plan_id), settings=settings_of(actor))
    wanted = [one for one in parts_to_get(actor, cost) if one.source in (ORDER, DRAWER)]
    if refs is not None:
        wanted = [one for one in wanted if one.ref in refs]
    lines = []
    for one in wanted:
        offer = one.offer_of(supplier)
        if supplier.url and offer is None:
            continue
        part = one.change.catalogue_part if one.change else None
        lines.append(
            OrderItem(
                change=one.change, plan=plan, catalogue_part=part, kind=one.kind, what=one.what, name=one.name,
                count=one.count, code=offer.code if offer else "", price=offer.price if offer else None,
            )
        )  # fmt: skip
    if not lines:
        raise Refused(f"Nothing of this plan is to be ordered from {supplier.name}.")
    order = orders_seen_by(actor).filter(supplier=supplier, state=OrderState.DRAFT).first()
    order = order or Order.objects.create(workshop_id=actor.workshop_id, supplier=supplier, made_by=actor)
    for line in lines:
        line.order = order
    OrderItem.objects.bulk_create(lines)
    order_changed(actor, order, "order", {"plan": plan.called, "parts": [line.name for line in lines]})
    return order


@transaction.atomic
def count_line(*, actor: User, order_id: int, version: int, line_id: int, count: int) -> Order:
    """Set how many of a part are ordered, none to leave it out. Raises NotThere, InputError, Conflict; refused
    once it is sent.
    """
    order = locked_order(actor, order_id, version)
    if order.state != OrderState.DRAFT:
        raise Refused("This order is sent: nothing of it can be changed here.")
    line = order.lines.filter(pk=line_id).first()
    if line is None:
        raise NotThere
    if not 0 <= count <= COUNT_MOST:
        raise bad("count", f"{count} given; 0 to {COUNT_MOST} allowed")
    if count:
        line.count = count
        line.save(update_fields=["count"])
    else:
        line.delete()
    order_changed(actor, order, "count line", {"part": line.name, "count": count})
    return order


@transaction.atomic
def drop_order(*, actor: User, order_id: int, version: int) -> Order:
    """Cancel an order: a draft, or one sent by hand that was cancelled there; nothing of it has arrived."""
    order = locked_order(actor, order_id, version)
    if order.state not in (OrderState.DRAFT, OrderState.SENT):
        raise Refused(f"This order is {OrderState(order.state).label.lower()}.")
    order.state = OrderState.DROPPED
    order_changed(actor, order, "drop order", None)
    parts_move(order)
    return order


@transaction.atomic
def send_order(*, actor: User, order_id: int, version: int) -> Order:
    """Send an order: to a supplier with an address in the background, else it was sent by hand and is reported so.

    One whose sending was cut short may be sent again: by its reference it is one order there. The plans it is for go
    from agreed to gathering once it is sent.
    """
    order = locked_order(actor, order_id, version)
    going_on = tasks_seen_by(actor).filter(sort=SEND, about_id=order.pk, state__in=GOING_ON).exists()
    if order.state not in (OrderState.DRAFT, OrderState.SENDING) or going_on:
        raise Refused(f"This order is {OrderState(order.state).label.lower()} already.")
    if not order.lines.exists():
        raise Refused("There is nothing on this order.")
    if order.supplier.url:
        order.state, order.says = OrderState.SENDING, ""
        order_changed(actor, order, "send order", {"to": order.supplier.name})
        ask_for(actor=actor, sort=SEND, about_id=order.pk, asked={"version": order.version})
    else:
        _is_sent(actor, order, "")
    return order


def _is_sent(actor: User | None, order: Order, number: str) -> None:
    order.state, order.number, order.sent_at, order.says = OrderState.SENT, number, timezone.now(), ""
    order.version += 1
    order.save()
    expect_lines(order)
    who = actor or order.made_by
    if who is not None:
        log(who, "order sent", order, after={"number": number})
        wanted = order.lines.exclude(plan=None).values_list("plan_id", flat=True)
        for plan in (
            Plan.objects.select_for_update().filter(pk__in=[*wanted], state=State.AGREED).order_by("pk")
        ):
            bring_to(who, plan, State.GATHERING)
    parts_move(order)


def send(task: Task, _report: Report) -> dict[str, str]:
    """In the background: hand an order to its supplier; where that fails it is a draft again that says why.

    Sent twice it is one order there, by its reference.
    """
    order = (
        Order.objects.select_related("supplier", "made_by")
        .filter(pk=task.about_id, workshop_id=task.workshop_id)
        .first()
    )
    if order is None or order.state != OrderState.SENDING:
        raise NotThere
    lines = Counter[str]()
    for code, count in order.lines.values_list("code", "count"):
        lines[code] += count
    content = {
        "format": feed.ORDER,
        "reference": str(order.reference),
        "lines": [{"code": code, "count": count} for code, count in sorted(lines.items())],
    }
    try:
        number = sent_number(ask(f"{order.supplier.url}/orders", content), lines)
    except SupplierError as error:
        says = f"It could not be sent. {error}"[:300]
        Order.objects.filter(pk=order.pk, state=OrderState.SENDING).update(
            state=OrderState.DRAFT, says=says, version=order.version + 1
        )
        raise Refused(str(error)) from error
    with transaction.atomic():
        held = (
            Order.objects.select_for_update(of=("self",))
            .select_related("supplier", "made_by")
            .get(pk=order.pk)
        )
        if held.state == OrderState.SENDING:
            _is_sent(task.made_by, held, number)
    return {"number": number}


@transaction.atomic
def arrive(*, actor: User, order_id: int, version: int, line_id: int, count: int, box: str = "") -> Order:
    """Record that so many of a line have arrived: they go into the bin, the one for a plan reserved there.

    A plan whose ordered parts are all here goes from gathering to parts here. Raises NotThere, InputError, Conflict.
    """
    order = locked_order(actor, order_id, version)
    if order.state not in (OrderState.SENT, OrderState.PART):
        raise Refused(f"This order is {OrderState(order.state).label.lower()}: nothing can arrive of it.")
    line = (
        order.lines.select_for_update(of=("self",))
        .select_related("change", "plan", "catalogue_part")
        .filter(pk=line_id)
        .first()
    )
    if line is None:
        raise NotThere
    if not 1 <= count <= line.left:
        raise bad("count", f"{count} given; 1 to {line.left} of it can arrive")
    if line.what:
        count_in(actor, line.name, count, box, f"order {order.pk} from {order.supplier.name}")
    else:
        for _ in range(count):
            _into_bin(actor, order, line, box)
    line.arrived += count
    line.save(update_fields=["arrived"])
    left = any(one.left for one in order.lines.all())
    order.state = OrderState.PART if left else OrderState.HERE
    order_changed(actor, order, "arrive", {"part": line.name, "count": count})
    if line.plan_id is not None:
        parts_move(order)
        _parts_here(actor, line.plan_id)
    return order


def _into_bin(actor: User, order: Order, line: OrderItem, box: str) -> None:
    change = line.change
    values = dict(change.attrs) if change is not None else {}
    kept = Kept(box=box, value=line.price)
    came_from = f"order {order.pk} from {order.supplier.name}"
    also = change.also if change is not None else line.catalogue_part.also if line.catalogue_part else ()
    made = piece_of(
        line.kind,
        line.name,
        {} if line.catalogue_part else values,
        kept,
        came_from,
        line.catalogue_part,
        also,
    )
    part = put_in_bin(actor, made, came_from)
    if change is not None and change.part_id is None and change.fitted_id is None and line.arrived == 0:
        Change.objects.filter(pk=change.pk, part=None).update(part=part)


def _parts_here(actor: User, plan_id: int) -> None:
    """Mark a plan as having its parts when nothing more is expected for it."""
    plan = Plan.objects.select_for_update().get(pk=plan_id)
    awaited = OrderItem.objects.filter(
        plan=plan, order__state__in=(OrderState.DRAFT, OrderState.SENDING, OrderState.SENT, OrderState.PART)
    )
    waits = any(line.left for line in awaited)
    if not waits and plan.state == State.GATHERING and not to_order(actor, plan_id):
        bring_to(actor, plan, State.READY)


@transaction.atomic
def keep_offer(*, actor: User, supplier_id: int, code: str, name: str, **more: Any) -> Offer:
    """Keep an offer of a supplier, from its list on paper. Raises NotThere."""
    require(actor, "change-supply")
    supplier = suppliers_seen_by(actor).select_for_update().filter(pk=supplier_id).first()
    if supplier is None:
        raise NotThere
    alike = {"workshop_id": actor.workshop_id, "kind": more.get("kind", ""), "maker": more.get("maker", "")}
    part = CataloguePart.objects.filter(name=name, **alike).first()
    offer, _ = Offer.objects.update_or_create(
        supplier=supplier, code=code, defaults={"name": name, "catalogue_part": part, **more}
    )
    supplier.answered_at = timezone.now()
    supplier.save(update_fields=["answered_at"])
    log(actor, "keep offer", supplier, after={"code": code, "name": name})
    return offer


@transaction.atomic
def order_for_bin(
    *,
    actor: User,
    supplier_id: int,
    kind: str,
    name: str,
    count: int,
    code: str = "",
    price: Decimal | None = None,
) -> OrderItem:
    """Put a part on a supplier's draft order, for the bin. Raises NotThere, InputError naming the field."""
    require(actor, "change-supply")
    supplier = suppliers_seen_by(actor).select_for_update().filter(pk=supplier_id).first()
    if supplier is None or kind not in KINDS:
        raise NotThere
    if not 1 <= count <= COUNT_MOST:
        raise bad("count", f"{count} given; 1 to {COUNT_MOST} allowed")
    if supplier.url and not supplier.offers.filter(code=code).exists():
        raise bad("code", f"{supplier.name} offers nothing with that code")
    order = orders_seen_by(actor).filter(supplier=supplier, state=OrderState.DRAFT).first()
    order = order or Order.objects.create(workshop_id=actor.workshop_id, supplier=supplier, made_by=actor)
    part = CataloguePart.objects.filter(workshop_id=actor.workshop_id, kind=kind, name=name).first()
    line = OrderItem.objects.create(
        order=order, kind=kind, name=name, count=count, code=code, price=price, catalogue_part=part
    )
    order_changed(actor, order, "order", {"parts": [name], "count": count})
    return line
