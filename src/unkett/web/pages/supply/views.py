"""Supply: suppliers with the age of what they offer, orders from draft to here."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.web.pages.common.answers import answer, back_or
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.supply import expecting, services
from unkett.web.supply.models import Order, OrderItem, OrderState, Supplier
from unkett.web.supply.queries import (
    ORDERS_SHOWN,
    is_stale,
    orders_seen_by,
    refresh_going_on,
    suppliers_seen_by,
)
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may


class SupplierForm(forms.Form):
    """What a supplier is called, and where it answers."""

    name = forms.CharField(max_length=400, strip=True)
    url = forms.CharField(required=False, max_length=1000, strip=True)


class OrderPlanForm(forms.Form):
    """From whom."""

    supplier = forms.IntegerField(min_value=1)


class LineForm(VersionForm):
    """So many of a line."""

    line = forms.IntegerField(min_value=1)
    count = forms.IntegerField()
    box = forms.CharField(required=False, max_length=40, strip=True)


class DueForm(VersionForm):
    """When a line comes."""

    line = forms.IntegerField(min_value=1)
    due = forms.DateField(required=False)


@frozen(kw_only=True)
class SupplierShown:
    """A supplier, whether its offers are asked for now or should be, and how many there are."""

    supplier: Supplier
    asks: bool
    stale: bool
    number: int


@frozen(kw_only=True, slots=False)
class SupplyPage:
    """The suppliers and the latest orders; `posted` is what could not be kept."""

    actor: User
    posted: Any = None
    wrong: Mapping[str, Fault] = field(factory=dict)

    @cached_property
    def suppliers(self) -> list[SupplierShown]:
        return [
            SupplierShown(
                supplier=one,
                asks=refresh_going_on(self.actor, one) is not None,
                stale=is_stale(one),
                number=one.offers.count(),
            )
            for one in suppliers_seen_by(self.actor)
        ]

    @property
    def asking(self) -> bool:
        return any(one.asks for one in self.suppliers)

    @cached_property
    def orders(self) -> list[Order]:
        return list(orders_seen_by(self.actor).prefetch_related("lines")[:ORDERS_SHOWN])

    @property
    def may_keep(self) -> bool:
        return may(self.actor, "change-suppliers")

    @property
    def may_order(self) -> bool:
        return may(self.actor, "change-supply")


@allowed("see-supply")
def supply(request: Request) -> HttpResponse:
    """Suppliers and orders."""
    page = SupplyPage(actor=request.user)
    return answer(request, "supply/_suppliers.html" if request.htmx else "supply/supply.html", page)


@allowed("change-suppliers", "POST")
def keep(request: Request, supplier_id: int | None = None) -> HttpResponse:
    """Add a supplier, or change its name or address."""
    try:
        services.keep_supplier(
            actor=request.user, supplier_id=supplier_id, **clean(SupplierForm(request.POST))
        )
    except InputError as error:
        page = SupplyPage(actor=request.user, posted=request.POST, wrong=by_name(error.faults))
        return answer(request, "supply/supply.html", page, status=422)
    return redirect("supply:list")


@allowed("change-supply", "POST")
def ask(request: Request, supplier_id: int) -> HttpResponse:
    """Ask a supplier for its offers, in the background."""
    services.ask_offers(actor=request.user, supplier_id=supplier_id)
    return back_or(request, "supply:list")


@allowed("change-supply", "POST")
def order_plan(request: Request, plan_id: int) -> HttpResponse:
    """Put what a plan buys on a supplier's draft order."""
    supplier_id = clean(OrderPlanForm(request.POST))["supplier"]
    refs = request.POST.getlist("ref") or None
    made = services.order_for_plan(actor=request.user, plan_id=plan_id, supplier_id=supplier_id, refs=refs)
    return redirect("supply:order", made.pk)


@frozen(kw_only=True, slots=False)
class OrderPage:
    """One order with its lines."""

    actor: User
    order: Order
    fault: str = ""

    @cached_property
    def lines(self) -> list[OrderItem]:
        return list(self.order.lines.select_related("plan__bike", "change__part"))

    @property
    def total(self) -> Any:
        return sum((line.price or 0) * line.count for line in self.lines)

    @property
    def is_draft(self) -> bool:
        return self.order.state == OrderState.DRAFT

    @property
    def is_sending(self) -> bool:
        return self.order.state == OrderState.SENDING

    @property
    def arrives(self) -> bool:
        return self.order.state in (OrderState.SENT, OrderState.PART)

    @property
    def may_drop(self) -> bool:
        return self.order.state in (OrderState.DRAFT, OrderState.SENT)

    @property
    def may_order(self) -> bool:
        return may(self.actor, "change-supply")


def _order(request: Request, order_id: int, fault: str = "", status: int = 200) -> HttpResponse:
    order = orders_seen_by(request.user).filter(pk=order_id).first()
    if order is None:
        raise Http404
    page = OrderPage(actor=request.user, order=order, fault=fault)
    return answer(request, "supply/_order.html" if request.htmx else "supply/order.html", page, status=status)


@allowed("see-supply")
def order(request: Request, order_id: int) -> HttpResponse:
    """One order."""
    return _order(request, order_id)


@allowed("change-supply", "POST")
def count(request: Request, order_id: int) -> HttpResponse:
    """Set how many of a part are ordered."""
    data = clean(LineForm(request.POST))
    try:
        services.count_line(
            actor=request.user,
            order_id=order_id,
            version=data["version"],
            line_id=data["line"],
            count=data["count"],
        )
    except InputError as error:
        return _order(request, order_id, str(error.faults[0]), 422)
    return redirect("supply:order", order_id)


@allowed("change-supply", "POST")
def expect(request: Request, order_id: int) -> HttpResponse:
    """Keep the day that a part is expected."""
    data = clean(DueForm(request.POST))
    expecting.expect_line(
        actor=request.user, order_id=order_id, version=data["version"], line_id=data["line"], due=data["due"]
    )
    return redirect("supply:order", order_id)


@allowed("change-supply", "POST")
def send(request: Request, order_id: int) -> HttpResponse:
    """Send the order."""
    services.send_order(actor=request.user, order_id=order_id, **clean(VersionForm(request.POST)))
    return redirect("supply:order", order_id)


@allowed("change-supply", "POST")
def drop(request: Request, order_id: int) -> HttpResponse:
    """Cancel the order."""
    services.drop_order(actor=request.user, order_id=order_id, **clean(VersionForm(request.POST)))
    return redirect("supply:order", order_id)


@allowed("change-supply", "POST")
def arrived(request: Request, order_id: int) -> HttpResponse:
    """Record that parts have arrived."""
    data = clean(LineForm(request.POST))
    try:
        services.arrive(
            actor=request.user, order_id=order_id, version=data["version"], line_id=data["line"],
            count=data["count"], box=data["box"],
        )  # fmt: skip
    except InputError as error:
        return _order(request, order_id, str(error.faults[0]), 422)
    return redirect("supply:order", order_id)
