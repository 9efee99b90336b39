"""What suppliers offer, how old that is, and what is ordered."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterable, Mapping
from decimal import Decimal
from typing import Any

from attrs import evolve, frozen
from django.db.models import Q, QuerySet
from django.db.models.functions import Lower
from django.utils import timezone

from unkett.core.rules.outcome import need_words
from unkett.core.standards import lookup
from unkett.web.catalogue.stock import stock_seen_by
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Change
from unkett.web.supply.models import Offer, Order, OrderItem, OrderState, Supplier
from unkett.web.tasks.models import GOING_ON, Task
from unkett.web.tasks.services import tasks_seen_by
from unkett.web.workshop.models import User

STALE = datetime.timedelta(minutes=30)
AGAIN = datetime.timedelta(minutes=5)  # after an answer that was none
REFRESH, SEND = "offers", "order"
ORDERS_SHOWN = 100
OPEN_STATES = (OrderState.DRAFT, OrderState.SENDING, OrderState.SENT, OrderState.PART)


def suppliers_seen_by(actor: User) -> QuerySet[Supplier]:
    """Return the suppliers of the actor's workshop."""
    return Supplier.objects.filter(workshop_id=actor.workshop_id)


def orders_seen_by(actor: User) -> QuerySet[Order]:
    """Return the orders of the actor's workshop."""
    return Order.objects.filter(workshop_id=actor.workshop_id).select_related("supplier")


def is_stale(supplier: Supplier) -> bool:
    """Return whether its offers are old enough to ask again; one that failed just now is left in peace for a while."""
    if not supplier.url:
        return False
    now = timezone.now()
    if supplier.failed_at is not None and now - supplier.failed_at < AGAIN:
        return False
    return supplier.answered_at is None or now - supplier.answered_at > STALE


def refresh_going_on(actor: User, supplier: Supplier) -> Task | None:
    """Return the refresh that is under way."""
    mine = tasks_seen_by(actor).filter(sort=REFRESH, about_id=supplier.pk, state__in=GOING_ON)
    return mine.defer("found").first()


def offers_for(actor: User, part_ids: Iterable[int]) -> dict[int, list[Offer]]:
    """Return by catalogue part what is offered of it, what is in stock and cheap first."""
    mine = Offer.objects.filter(supplier__workshop_id=actor.workshop_id, catalogue_part__in=[*part_ids])
    found: dict[int, list[Offer]] = defaultdict(list)
    for offer in mine.select_related("supplier"):
        found[offer.catalogue_part_id].append(offer)  # type: ignore[index]
    for offers in found.values():
        offers.sort(key=_cheap_first)
    return dict(found)


def _cheap_first(offer: Offer) -> tuple[Any, ...]:
    """Return what is in stock first, then what is cheap."""
    return not offer.stock, offer.price is None, offer.price or 0, offer.pk


@frozen(kw_only=True)
class ToGet:
    """A part that a plan needs: what, how many, where it comes from, and what suppliers offer.

    `source` is one of `SOURCES`; `what` is set for a small part, by the need that it meets, `change` for another.
    """

    source: str
    name: str
    count: int = 1
    change: Change | None = None
    what: str = ""
    place: str = ""
    days: int = 0
    price: Decimal | None = None
    offers: tuple[Offer, ...] = ()
    item: OrderItem | None = None  # what is ordered of it

    @property
    def kind(self) -> str:
        return self.change.kind if self.change else ""

    @property
    def ref(self) -> str:
        """What names it in a form: its slot, or the need with its size."""
        return self.change.slot if self.change else f"{self.what}|{self.name}"

    def offer_of(self, supplier: Supplier) -> Offer | None:
        """Return what a supplier offers of it, what is in stock first."""
        return next((one for one in self.offers if one.supplier_id == supplier.pk), None)


ORDER, ORDERED, DRAWER, HOUSE, BROUGHT, TAKEN = (
    "To order", "On order", "Not counted here: check the drawer", "At hand", "Customer supplies", "From the parts bin",
)  # fmt: skip
SOURCES = (ORDER, ORDERED, DRAWER, HOUSE, TAKEN, BROUGHT)


def parts_to_get(actor: User, cost: PlanCost) -> list[ToGet]:
    """Return every part and small part of a plan by where it comes from, in the order of `SOURCES`.

    Parts are those that its changes put on, small parts those of its sheet.
    """
    plan = cost.found.plan
    changes = [one for one in cost.found.changes.values() if not one.empties and one.fitted_id is None]
    items = OrderItem.objects.filter(plan=plan, order__state__in=(*OPEN_STATES, OrderState.HERE))
    ordered = list(items.select_related("order__supplier"))
    by_change = {one.change_id: one for one in ordered if one.change_id}
    by_what = {(one.what, one.name): one for one in ordered if one.what}
    offers = offers_for(actor, [one.catalogue_part_id for one in changes if one.catalogue_part_id])
    found = [
        ToGet(
            source=_source(change, by_change),
            name=change.name,
            change=change,
            place=change.catalogue_part.place if change.catalogue_part else "",
            days=change.catalogue_part.days if change.catalogue_part else 0,
            price=change.price,
            offers=tuple(offers.get(change.catalogue_part_id or 0, ())),
            item=by_change.get(change.pk),
        )
        for change in changes
    ]
    found += _small(actor, cost, by_what)
    return sorted(found, key=lambda one: SOURCES.index(one.source))


def _source(change: Change, ordered: Mapping[int, OrderItem]) -> str:
    if change.pk in ordered and change.part_id is None:
        return ORDERED
    if change.part_id is not None:
        return TAKEN
    if change.brought:
        return BROUGHT
    return HOUSE if change.catalogue_part is not None and not change.catalogue_part.days else ORDER


def _small(actor: User, cost: PlanCost, ordered: Mapping[tuple[str, str], OrderItem]) -> list[ToGet]:
    """Return the small parts of a plan's sheet: counted in the bin, on order, or to be looked for."""
    pieces: dict[tuple[str, str], ToGet] = {}
    for line in cost.price.lines if cost.has_sheet else ():
        for piece in line.pieces:
            if not piece.slot and piece.what in lookup("needs", "what"):
                at = piece.what, piece.says
                known = pieces.get(at)
                count = piece.count + (known.count if known else 0)
                pieces[at] = ToGet(
                    source=DRAWER, name=piece.says, what=piece.what, count=count, price=piece.price
                )
    if not pieces:
        return []
    names = {name.lower() for _, name in pieces}
    stock = {
        one.name.lower(): one
        for one in stock_seen_by(actor).annotate(low=Lower("name")).filter(low__in=names, count__gt=0)
    }
    words = {what: need_words(what).lower() for what, _ in pieces}
    by_name = Offer.objects.filter(supplier__workshop_id=actor.workshop_id, kind="").annotate(
        low=Lower("name")
    )
    offered = list(by_name.filter(low__in=[*words.values(), *names]).select_related("supplier"))
    offered.sort(key=_cheap_first)
    out = []
    for (what, name), one in pieces.items():
        there = stock.get(name.lower())
        mine = tuple(offer for offer in offered if offer.name.lower() in (words[what], name.lower()))
        item = ordered.get((what, name))
        if item is not None:
            out.append(evolve(one, source=ORDERED, item=item, offers=mine))
        elif there is not None and (there.count or 0) >= one.count:
            out.append(evolve(one, source=HOUSE, place=there.box, offers=mine))
        elif there is not None:
            out.append(evolve(one, source=ORDER, place=there.box, offers=mine))
        else:
            out.append(evolve(one, offers=mine))
    return out


def to_order(actor: Any, plan_id: int) -> list[Change]:
    """Return the changes of a plan whose part is not in the house and not ordered yet; `actor` is of its workshop."""
    bought = Change.objects.filter(
        plan_id=plan_id,
        plan__bike__workshop_id=actor.workshop_id,
        empties=False,
        brought=False,
        part=None,
        fitted=None,
    ).filter(Q(catalogue_part=None) | Q(catalogue_part__days__gt=0))
    ordered = Q(ordered__order__state__in=(*OPEN_STATES, OrderState.HERE))
    return list(bought.exclude(ordered).select_related("catalogue_part"))
