"""What suppliers offer, how old that is, and what is ordered."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterable

from django.db.models import Q, QuerySet
from django.utils import timezone

from unkett.web.plans.models import Change
from unkett.web.supply.models import Offer, Order, OrderState, Supplier
from unkett.web.tasks.models import GOING_ON, Task
from unkett.web.tasks.services import tasks_seen_by
from unkett.web.workshop.models import User

STALE = datetime.timedelta(minutes=30)
AGAIN = datetime.timedelta(minutes=5)  # after an answer that was none
REFRESH, SEND = "offers", "order"
ORDERS_SHOWN = 100
OPEN_STATES = (OrderState.DRAFT, OrderState.SENDING, OrderState.SENT, OrderState.PART)


def suppliers_seen_by(actor: User) -> QuerySet[Supplier]:
    """The suppliers of the actor's workshop."""
    return Supplier.objects.filter(workshop_id=actor.workshop_id)


def orders_seen_by(actor: User) -> QuerySet[Order]:
    """The orders of the actor's workshop."""
    return Order.objects.filter(workshop_id=actor.workshop_id).select_related("supplier")


def is_stale(supplier: Supplier) -> bool:
    """Whether its offers are old enough to ask again; one that failed just now is left in peace for a while."""
    if not supplier.url:
        return False
    now = timezone.now()
    if supplier.failed_at is not None and now - supplier.failed_at < AGAIN:
        return False
    return supplier.answered_at is None or now - supplier.answered_at > STALE


def refresh_going_on(actor: User, supplier: Supplier) -> Task | None:
    """The refresh that is under way."""
    mine = tasks_seen_by(actor).filter(sort=REFRESH, about_id=supplier.pk, state__in=GOING_ON)
    return mine.defer("found").first()


def offers_for(actor: User, part_ids: Iterable[int]) -> dict[int, list[Offer]]:
    """By catalogue part what is offered of it, what is in stock and cheap first."""
    mine = Offer.objects.filter(supplier__workshop_id=actor.workshop_id, catalogue_part__in=[*part_ids])
    found: dict[int, list[Offer]] = defaultdict(list)
    for offer in mine.select_related("supplier"):
        found[offer.catalogue_part_id].append(offer)  # type: ignore[index]
    for offers in found.values():
        offers.sort(key=lambda one: (not one.stock, one.price is None, one.price or 0, one.pk))
    return dict(found)


def to_order(actor: User, plan_id: int) -> list[Change]:
    """The changes of a plan whose part is not in the house and not ordered yet."""
    bought = Change.objects.filter(
        plan_id=plan_id, plan__bike__workshop_id=actor.workshop_id,
        empties=False, brought=False, part=None, fitted=None, catalogue_part__days__gt=0,
    )  # fmt: skip
    return list(
        bought.exclude(Q(ordered__order__state__in=(*OPEN_STATES, OrderState.HERE))).select_related(
            "catalogue_part"
        )
    )
