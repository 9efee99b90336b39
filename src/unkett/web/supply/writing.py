"""One write of an order: locked, compared with what the hand saw, counted up, logged."""

from __future__ import annotations

from typing import Any

from unkett.web.supply.models import Order
from unkett.web.supply.queries import orders_seen_by
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

CHANGED = "Somebody changed this since you opened it. Nothing of yours was stored; look at it as it is now."


def locked_order(actor: User, order_id: int, version: int | None = None) -> Order:
    """Return an order, locked. Raises NotThere; Conflict where it has another version than the hand saw."""
    require(actor, "change-supply")
    order = orders_seen_by(actor).select_for_update(of=("self",)).filter(pk=order_id).first()
    if order is None:
        raise NotThere
    if version is not None and order.version != version:
        raise Conflict(CHANGED, order)
    return order


def order_changed(actor: User, order: Order, verb: str, after: Any) -> None:
    """Count an order up, store and log it."""
    order.version += 1
    order.save()
    log(actor, verb, order, after=after)
