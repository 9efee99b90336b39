"""When ordered parts come: as they are sent, as the supplier says later, and what that does to promises."""

from __future__ import annotations

import datetime
from typing import Any
from urllib.parse import quote

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from unkett.web.bikes.queries import settings_of
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.dates import part_comes
from unkett.web.plans.links import OnLooker
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import planned
from unkett.web.supply import feed
from unkett.web.supply.models import Order, OrderItem, OrderState, Supplier
from unkett.web.supply.queries import OPEN_STATES, to_order
from unkett.web.supply.writing import locked_order, order_changed
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User


def expect_lines(order: Order) -> None:
    """Set when each line of an order that is sent now comes: by the supplier's lead time, else the catalogue's."""
    leads = dict(order.supplier.offers.exclude(lead_days=None).values_list("code", "lead_days"))
    today = timezone.localdate()
    for line in order.lines.select_related("catalogue_part"):
        days = leads.get(line.code) if line.code else None
        if days is None and line.catalogue_part is not None:
            days = line.catalogue_part.days
        line.due = line.due or (None if days is None else today + datetime.timedelta(days=days))
        line.save(update_fields=["due"])


def parts_move(order: Order) -> None:
    """Tell the plans of an order when their last part comes now; a promise that cannot be kept by it moves."""
    for plan_id in sorted(set(order.lines.exclude(plan=None).values_list("plan_id", flat=True))):
        plan = Plan.objects.select_for_update().select_related("bike__workshop").get(pk=plan_id)
        if plan.state in (State.DRAFT, State.QUOTED, State.DROPPED, State.HANDED_OVER):
            continue
        waited = OrderItem.objects.filter(plan=plan, order__state__in=OPEN_STATES, arrived__lt=F("count"))
        today = timezone.localdate()
        coming = [
            (line.due, f"{line.name} comes {line.due:%-d %b}, {line.order.supplier.name}")
            for line in waited.exclude(due=None).select_related("order__supplier")
            if line.due is not None
        ]
        for change in to_order(plan.bike, plan.pk):
            if change.catalogue_part is not None:
                day = today + datetime.timedelta(days=change.catalogue_part.days)
                coming.append((day, f"{change.name} is not ordered yet"))
        last, why = max(coming, default=(None, ""), key=lambda one: one[0])
        part_comes(plan, last, why, _work_minutes(plan))


def _work_minutes(plan: Plan) -> int:
    """Return how long a plan's work takes; 0 where no sheet can be made."""
    looker: Any = OnLooker(workshop=plan.bike.workshop)
    cost = PlanCost(found=planned(looker, plan.pk), settings=settings_of(looker))
    return cost.sheet.ready_minutes if cost.has_sheet else 0


@transaction.atomic
def expect_line(
    *, actor: User, order_id: int, version: int, line_id: int, due: datetime.date | None
) -> Order:
    """Set the day on which a line comes: plans that wait for it move. Raises NotThere, Conflict."""
    order = locked_order(actor, order_id, version)
    line = order.lines.filter(pk=line_id).first()
    if line is None:
        raise NotThere
    before, line.due = line.due, due
    line.save(update_fields=["due"])
    order_changed(actor, order, "expect", {"part": line.name, "due": str(due), "before": str(before)})
    parts_move(order)
    return order


def ask_of_orders(supplier: Supplier) -> None:
    """Ask when the open orders of a supplier come; one that cannot be read changes nothing."""
    for order in supplier.orders.filter(state__in=(OrderState.SENT, OrderState.PART)).exclude(number=""):
        try:
            days = feed.days_of_lines(feed.ask(f"{supplier.url}/orders/{quote(order.number, safe='')}"))
        except feed.SupplierError:
            continue
        with transaction.atomic():
            held = Order.objects.select_for_update(of=("self",)).get(pk=order.pk)
            moved = [
                line for line in held.lines.all() if line.left and days.get(line.code, line.due) != line.due
            ]
            for line in moved:
                line.due = days[line.code]
                line.save(update_fields=["due"])
            if moved:
                held.version += 1
                held.save(update_fields=["version"])
                parts_move(held)
