"""The buy-to-sell ledger: of one bike, and of all that the workshop builds up and sells."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import Money, VersionForm
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans import resale
from unkett.web.plans.resale import Book
from unkett.web.show.values import Shown


def _money(**more: Any) -> Money:
    return Money(min_value=0, max_digits=9, decimal_places=2, **more)


def _day() -> forms.DateInput:
    return forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")


class BookForm(VersionForm):
    """What the bike was bought and sold for, and when."""

    bought = _money(label="Bought for")
    bought_on = forms.DateField(label="Bought on", widget=_day())
    minutes = forms.IntegerField(min_value=0, max_value=100_000, label="Work in it")
    on_market = forms.DateField(required=False, label="Offered since", widget=_day())
    sold = _money(required=False, label="Sold for")
    sold_on = forms.DateField(required=False, label="Sold on", widget=_day())


class LineForm(forms.Form):
    """Add a part that came in or went out."""

    title = forms.CharField(max_length=200, strip=True, label="Part")
    value = _money(label="Value")
    goes_in = forms.BooleanField(required=False)


@frozen(kw_only=True, slots=False)
class ResalePage(BikePage):
    """The ledger of one bike."""

    form: BookForm | None = None
    line: LineForm | None = None

    @cached_property
    def book(self) -> Book | None:
        return resale.book_of(self.actor, self.bike.pk, timezone.localdate())

    @cached_property
    def book_form(self) -> BookForm:
        if self.form is not None:
            return self.form
        today = {"bought_on": timezone.localdate(), "minutes": 0, "version": 0}
        return BookForm(initial={**today, **(vars(self.book.row) if self.book else {})})

    @cached_property
    def line_form(self) -> LineForm:
        return self.line or LineForm(initial={"goes_in": True})


@frozen(kw_only=True)
class BooksPage(Shown):
    """All ledgers."""

    books: list[Book]


def _show(request: Request, bike_id: int, status: int = 200, **more: object) -> HttpResponse:
    page = of_bike(request, bike_id, ResalePage, "stand", **more)
    return answer(request, "resale/book.html", page, status=status)


@allowed("see-plans")
def book(request: Request, bike_id: int) -> HttpResponse:
    """The ledger of a bike, or the form that begins one."""
    return _show(request, bike_id)


@allowed("change-plans", "POST")
def keep(request: Request, bike_id: int) -> HttpResponse:
    """Write what it was bought and sold for."""
    form = BookForm(request.POST)
    if not form.is_valid():
        return _show(request, bike_id, status=422, form=form)
    values = dict(form.cleaned_data)
    version = values.pop("version")
    resale.keep_book(actor=request.user, bike_id=bike_id, version=version, values=values)
    return redirect("bikes:resale", bike_id)


@allowed("change-plans", "POST")
def add(request: Request, bike_id: int) -> HttpResponse:
    """A part in or out."""
    form = LineForm(request.POST)
    if not form.is_valid():
        return _show(request, bike_id, status=422, line=form)
    resale.add_sale_line(actor=request.user, bike_id=bike_id, **form.cleaned_data)
    return redirect("bikes:resale", bike_id)


@allowed("change-plans", "POST")
def remove(request: Request, bike_id: int, line_id: int) -> HttpResponse:
    """Remove a line."""
    resale.remove_sale_line(actor=request.user, bike_id=bike_id, line_id=line_id)
    return redirect("bikes:resale", bike_id)


@allowed("see-plans")
def books(request: Request) -> HttpResponse:
    """All bikes that are built up to be sold."""
    page = BooksPage(books=resale.all_books(request.user, timezone.localdate()))
    return answer(request, "resale/books.html", page)
