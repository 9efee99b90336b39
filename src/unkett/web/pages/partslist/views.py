"""The parts that a plan wants, to order from: what is bought, what is in the house, what is brought or taken."""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property
from typing import Any

from attrs import frozen
from django.http import HttpResponse

from unkett.core.rules.finding import Verdict
from unkett.core.vocabulary import SLOTS
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans.models import Change, State
from unkett.web.show.values import Shown
from unkett.web.show.words import need_says
from unkett.web.supply.models import Offer, OrderItem, OrderState, Supplier
from unkett.web.supply.queries import offers_for, suppliers_seen_by, to_order
from unkett.web.workshop.permissions import may

MAY_ORDER = (State.AGREED, State.GATHERING, State.READY, State.ON_STAND)
ORDER, HOUSE, TYPED, BROUGHT, TAKEN = (
    "To order",
    "In the house",
    "Parts needed: typed here, in no catalogue",
    "Customer supplies",
    "Taken from what is at hand",
)


@frozen(kw_only=True)
class Wanted(Shown):
    """One part of the list."""

    sort: str
    slot: str
    name: str
    maker: str = ""
    place: str = ""
    days: int | None = None
    offers: tuple[Offer, ...] = ()
    price: Decimal | None = None


def _sort(change: Change) -> str:
    if change.part_id:
        return TAKEN
    if change.brought:
        return BROUGHT
    part = change.catalogue_part
    if part is None:
        return TYPED
    return ORDER if part.days else HOUSE


@frozen(kw_only=True, slots=False)
class PartsList(BikePage):
    """The parts of a plan by where they come from, and the small parts that its findings ask for."""

    @cached_property
    def wanted(self) -> list[Wanted]:
        if self.planned is None:
            return []
        changes = [change for change in self.planned.changes.values() if not change.empties]
        offers = offers_for(self.actor, [one.catalogue_part_id for one in changes if one.catalogue_part_id])
        return [
            Wanted(
                sort=_sort(change),
                slot=SLOTS[change.slot].title,
                name=change.name,
                maker=change.catalogue_part.maker if change.catalogue_part else "",
                place=change.catalogue_part.place if change.catalogue_part else "",
                days=change.catalogue_part.days if change.catalogue_part else None,
                price=change.price,
                offers=tuple(offers.get(change.catalogue_part_id or 0, ())),
            )
            for change in changes
        ]

    @property
    def sources(self) -> list[tuple[str, list[Wanted]]]:
        """The parts by where they come from; empty groups are left out."""
        sorts = (ORDER, TYPED, HOUSE, BROUGHT, TAKEN)
        groups = [(sort, [one for one in self.wanted if one.sort == sort]) for sort in sorts]
        return [(sort, found) for sort, found in groups if found]

    @cached_property
    def suppliers(self) -> list[Supplier]:
        """From whom something of this plan can still be ordered."""
        plan = self.plan
        if plan is None or plan.state not in MAY_ORDER or not may(self.actor, "change-supply"):
            return []
        left = {change.catalogue_part_id for change in to_order(self.actor, plan.pk)}
        return [
            one for one in suppliers_seen_by(self.actor)
            if left and (not one.url or one.offers.filter(catalogue_part__in=left).exists())
        ]  # fmt: skip

    @cached_property
    def ordered(self) -> list[OrderItem]:
        """What of this plan is on an order."""
        lines = OrderItem.objects.filter(plan=self.plan).exclude(order__state=OrderState.DROPPED)
        return list(lines.select_related("order__supplier"))

    @cached_property
    def small(self) -> list[tuple[str, str]]:
        """Parts that findings need: what, and the joint that asks."""
        asking = [finding for finding in self.check.findings if finding.verdict is Verdict.GOES_IF]
        return [
            (need_says(need), finding.says)
            for finding in asking
            for need in finding.needs
            if need["sort"] == "part"
        ]

    @property
    def total(self) -> Decimal:
        return self.planned.price if self.planned else Decimal(0)

    @property
    def csv_rows(self) -> list[list[Any]]:
        """The list as rows."""
        head = ["sort", "slot", "name", "maker", "place", "days", "price"]
        rows = [[w.sort, w.slot, w.name, w.maker, w.place, w.days, w.price] for w in self.wanted]
        small = [["needed by a finding", "", what, "", "", "", ""] for what, _ in self.small]
        return [head, *rows, *small]


@allowed("see-plans")
def parts(request: Request, plan_id: int) -> HttpResponse:
    """The parts list, also as CSV."""
    page = of_plan(request, plan_id, PartsList, "plan")
    file = download(request, f"parts-plan-{plan_id}", None, page.csv_rows)
    return file or answer(request, "partslist/parts.html", page)
