"""The parts that a plan needs, small parts included, by where they come from; what is not at hand is ordered."""

from __future__ import annotations

import datetime
from functools import cached_property
from typing import Any

from attrs import frozen
from django.http import HttpResponse
from django.utils import timezone

from unkett.core.vocabulary import SLOTS
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans.models import State
from unkett.web.show.values import Shown
from unkett.web.supply.models import Offer, Supplier
from unkett.web.supply.queries import DRAWER, ORDER, SOURCES, ToGet, parts_to_get, suppliers_seen_by
from unkett.web.workshop.permissions import may

MAY_ORDER = (State.AGREED, State.GATHERING, State.READY, State.ON_STAND)
HEAD = ("source", "slot", "name", "manufacturer", "count", "place", "days", "price")


@frozen(kw_only=True)
class From(Shown):
    """A supplier with what it would send of this plan: offers by part, those without stock, when the last comes."""

    supplier: Supplier
    offers: tuple[tuple[ToGet, Offer | None], ...]

    @property
    def out_of_stock(self) -> list[str]:
        """The parts that the supplier says it does not have."""
        return [one.name for one, offer in self.offers if offer is not None and offer.stock == 0]

    @property
    def due(self) -> datetime.date | None:
        """The day on which the last part comes, by what the supplier says."""
        days = [
            offer.lead_days for _, offer in self.offers if offer is not None and offer.lead_days is not None
        ]
        return timezone.localdate() + datetime.timedelta(days=max(days)) if days else None


@frozen(kw_only=True, slots=False)
class PartsList(BikePage):
    """The parts and small parts of a plan by where they come from."""

    @cached_property
    def wanted(self) -> list[ToGet]:
        return parts_to_get(self.actor, self.cost) if self.cost else []

    @property
    def sources(self) -> list[tuple[str, list[ToGet]]]:
        """The parts by where they come from; empty groups are left out."""
        groups = [(source, [one for one in self.wanted if one.source == source]) for source in SOURCES]
        return [(source, found) for source, found in groups if found]

    @property
    def to_order(self) -> list[ToGet]:
        """What is not at hand, as far as that is known."""
        return [one for one in self.wanted if one.source in (ORDER, DRAWER)]

    @property
    def may_order(self) -> bool:
        return self.plan is not None and self.plan.state in MAY_ORDER and may(self.actor, "change-supply")

    @property
    def too_late(self) -> bool:
        """Whether the bike is promised for a day on which a part is still to come."""
        cost = self.cost
        if cost is None or not cost.promised or not cost.waits_for_parts or cost.ready_on is None:
            return False
        return cost.ready_on < cost.parts_on

    @property
    def is_late_to_order(self) -> bool:
        """Whether parts can be ordered once the quote is agreed."""
        return (
            self.plan is not None and self.plan.state in (State.DRAFT, State.QUOTED) and bool(self.to_order)
        )

    @cached_property
    def suppliers(self) -> list[From]:
        """From whom what is not at hand can be ordered, and what each would send."""
        if not self.may_order or not self.to_order:
            return []
        found = []
        for supplier in suppliers_seen_by(self.actor):
            offers = [(one, one.offer_of(supplier)) for one in self.to_order]
            sent = tuple((one, offer) for one, offer in offers if offer is not None or not supplier.url)
            if sent:
                found.append(From(supplier=supplier, offers=sent))
        return found

    @property
    def csv_rows(self) -> list[list[Any]]:
        """The list as rows."""
        return [
            list(HEAD),
            *(
                [
                    one.source,
                    SLOTS[one.change.slot].title if one.change else "",
                    one.name,
                    one.change.catalogue_part.maker if one.change and one.change.catalogue_part else "",
                    one.count,
                    one.place,
                    one.days,
                    one.price,
                ]
                for one in self.wanted
            ),
        ]


@allowed("see-plans")
def parts(request: Request, plan_id: int) -> HttpResponse:
    """The parts list, also as CSV."""
    page = of_plan(request, plan_id, PartsList, "plan")
    file = download(request, f"parts-plan-{plan_id}", None, page.csv_rows)
    return file or answer(request, "partslist/parts.html", page)
