"""The workshop's customers: who they are, how to reach them, which bikes are theirs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen
from django import forms
from django.core.paginator import Page, Paginator
from django.db.models import Count
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.web.bikes.models import Bike
from unkett.web.bikes.verdicts import renewed
from unkett.web.jobs.forgetting import forget_customer, kept_of_customer
from unkett.web.pages.common.answers import answer, json_file
from unkett.web.pages.common.forms import FindForm, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.workshop.models import Customer
from unkett.web.workshop.permissions import may
from unkett.web.workshop.search import folded_columns, searched
from unkett.web.workshop.services import CUSTOMER_FIELDS, change_customer, customers_seen_by

PAGE = 50


@frozen(kw_only=True)
class CustomersPage:
    """One sheet of the customers, found by words."""

    words: str
    sheet: Page[Any]


@allowed("see-customers")
def customers(request: Request) -> HttpResponse:
    """The customers by name, with how many bikes each has here."""
    words = FindForm.words(request.GET)
    found = customers_seen_by(request.user).annotate(number=Count("bikes"))
    if words.strip():
        found = searched(found.alias(folded=folded_columns("name", "reach")), words)
    found = found.order_by("name", "pk")
    sheet = Paginator(found, PAGE).get_page(request.GET.get("page"))
    return answer(request, "customers/customers.html", CustomersPage(words=words, sheet=sheet))


class CustomerForm(VersionForm):
    """What is kept of a customer."""

    name = forms.CharField(required=False, max_length=4000, strip=True)
    reach = forms.CharField(required=False, max_length=4000, strip=True)
    note = forms.CharField(required=False, max_length=4000, strip=True)


@frozen(kw_only=True)
class CustomerPage:
    """One customer with what was typed, and the bikes."""

    customer: Customer
    typed: Mapping[str, str]
    faults: Mapping[str, Fault]
    may_remove: bool = False

    @property
    def bikes(self) -> list[Bike]:
        return renewed(self.customer.bikes.order_by("-changed"), self.customer.workshop)


@allowed("change-customers")
def kept(request: Request, customer_id: int) -> HttpResponse:
    """Everything that is kept of a customer, as a file to hand over."""
    return json_file(kept_of_customer(actor=request.user, customer_id=customer_id), f"customer-{customer_id}")


@allowed("remove-customers", "POST")
def forget(request: Request, customer_id: int) -> HttpResponse:
    """Remove a customer; the name leaves the log."""
    forget_customer(actor=request.user, customer_id=customer_id, **clean(VersionForm(request.POST)))
    return redirect("customers:list")


@allowed("change-customers", "GET", "HEAD", "POST")
def customer(request: Request, customer_id: int) -> HttpResponse:
    """One customer: name, how to reach them, a note, and the bikes."""
    found = customers_seen_by(request.user).filter(pk=customer_id).first()
    if found is None:
        raise Http404
    known = {field: getattr(found, field) for field in CUSTOMER_FIELDS}
    if request.method != "POST":
        removes = may(request.user, "remove-customers")
        page = CustomerPage(customer=found, typed=known, faults={}, may_remove=removes)
        return answer(request, "customers/customer.html", page)
    data = clean(CustomerForm(request.POST))
    try:
        change_customer(actor=request.user, customer_id=customer_id, version=data.pop("version"), values=data)
    except InputError as error:
        page = CustomerPage(customer=found, typed=data, faults=by_name(error.faults))
        return answer(request, "customers/customer.html", page, status=422)
    return redirect("customers:customer", customer_id)
