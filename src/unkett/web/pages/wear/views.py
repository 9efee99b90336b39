"""The wear log of a bike: what was read of each part, its limit, and when a straight line gets there."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from unkett.core.bike.wear import sorts
from unkett.core.errors import InputError
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.units import read_reading
from unkett.core.vocabulary import SLOTS
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.wear.picture import Picture
from unkett.web.wear import services
from unkett.web.wear.queries import Series, piece_before, wear_of
from unkett.web.workshop.permissions import may

WEAR_RULES = ("wear-limit", "chain-wear", "rotor-thickness")


class ReadForm(forms.Form):
    """One reading; `what` is a sort and a slot."""

    what = forms.CharField(max_length=90, label="What")
    value = forms.CharField(max_length=40, strip=True, label="Reading")
    km = forms.FloatField(required=False, min_value=0, label="Distance, km")
    on = forms.DateField(
        required=False, label="Day", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    instrument = forms.CharField(required=False, max_length=60, strip=True)


@frozen(kw_only=True, slots=False)
class WearPage(BikePage):
    """The series of the parts that are on a bike, and the form for the next reading."""

    form: ReadForm | None = None

    @cached_property
    def series(self) -> list[tuple[Series, Picture]]:
        found = wear_of(self.actor, self.bike, self.now)
        return [
            (one, Picture(series=one, before=tuple(piece_before(self.actor, self.bike, one))))
            for one in found
        ]

    @cached_property
    def read_form(self) -> ReadForm:
        return self.form or ReadForm(initial={"on": timezone.localdate(), "what": self.asked.get("what", "")})

    @property
    def choices(self) -> list[tuple[str, str]]:
        """Every sort of reading of every part that is on the bike."""
        filled = self.now.parts
        return [
            (
                f"{sort.code}:{slot}",
                f"{SLOTS[slot].title}: {sort.title.lower()}{f', {sort.unit}' if sort.unit else ''}",
            )
            for sort in sorts().values()
            for slot in sort.slots
            if slot in filled
        ]

    @property
    def may_read(self) -> bool:
        return may(self.actor, "read-wear")

    @property
    def warnings(self) -> list[Finding]:
        """What the rules say of worn parts: what to replace, and what else may have worn with it."""
        found = self.stands.check.findings
        return [one for one in found if one.rule in WEAR_RULES and one.verdict is not Verdict.GOES]


def _show(request: Request, bike_id: int, form: ReadForm | None = None, status: int = 200) -> HttpResponse:
    page = of_bike(request, bike_id, WearPage, "wear", form=form)
    return answer(request, "wear/wear.html", page, status=status)


@allowed("see-bikes")
def book(request: Request, bike_id: int) -> HttpResponse:
    """The wear log."""
    return _show(request, bike_id)


@allowed("read-wear", "POST")
def read(request: Request, bike_id: int) -> HttpResponse:
    """Keep a reading; what is wrong is reported beside its field."""
    form = ReadForm(request.POST)
    page: Any = of_bike(request, bike_id, WearPage, "wear")
    if form.is_valid():
        data = form.cleaned_data
        sort, _, slot = data["what"].partition(":")
        try:
            unit = sorts()[sort].unit if sort in sorts() else ""
            value = read_reading(data["value"], unit)
            services.read_wear(
                actor=request.user, bike_id=page.bike.pk, slot=slot, sort=sort, value=value, km=data["km"],
                on=data["on"], instrument=data["instrument"],
            )  # fmt: skip
            return redirect("bikes:wear", bike_id)
        except InputError as error:
            for fault in error.faults:
                form.add_error(fault.path if fault.path in form.fields else "value", fault.says)
    return _show(request, bike_id, form, status=422)


@allowed("read-wear", "POST")
def void(request: Request, reading_id: int) -> HttpResponse:
    """Void a reading."""
    one = services.void_reading(actor=request.user, reading_id=reading_id)
    return redirect("bikes:wear", one.bike_id)
