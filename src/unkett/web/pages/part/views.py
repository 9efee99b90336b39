"""One part of a bike: edited in place, filled from the catalogue or the bench, taken off, moved."""

from __future__ import annotations

from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import evolve, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary import SLOTS, Slot
from unkett.web.bikes import fitting
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import record_empty
from unkett.web.bin.services import fit_from_bin
from unkett.web.catalogue.queries import Candidates, what_goes
from unkett.web.pages.common.answers import answer, back
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import CandidatesForm, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.part.page import PartPage
from unkett.web.show.fields import read_all


class PartForm(VersionForm):
    """A part's name and condition."""

    name = forms.CharField(required=False, max_length=2000, strip=True)
    feel = forms.CharField(required=False, max_length=20)
    wear = forms.CharField(required=False, max_length=4000, strip=True)
    damage_note = forms.CharField(required=False, max_length=4000, strip=True)


class ChosenForm(VersionForm):
    """The part that was chosen for a slot."""

    part = forms.IntegerField(min_value=1)


class EmptyForm(VersionForm):
    """Nothing is fitted in a slot, or nobody looked after all; `next` is the page it was said on."""

    empty = forms.BooleanField(required=False)


class MoveForm(VersionForm):
    """The bike that a part goes to."""

    to = forms.IntegerField(min_value=1)


def _slot(name: str) -> Slot:
    if name not in SLOTS:
        raise Http404
    return SLOTS[name]


@allowed("change-bikes", "GET", "HEAD", "POST")
def part(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Every attribute of one part in fields, with where each comes from and the part's condition."""
    page = of_bike(request, bike_id, PartPage, slot=_slot(slot))
    if request.method != "POST":
        return answer(request, "part/part.html", page)
    page = evolve(page, posted=request.POST)
    values, faults = read_all(page.fields)
    if not faults:
        faults = _edited(request, page, values)
    if not faults:
        return redirect("bikes:stand", bike_id)
    return answer(request, "part/part.html", evolve(page, faults=tuple(faults)), status=422)


def _edited(request: Request, page: PartPage, values: dict[str, Any]) -> list[Fault]:
    """Store what was typed; what is wrong with it, by attribute."""
    form = clean(PartForm(request.POST))
    try:
        fitting.edit_part(
            actor=request.user,
            bike_id=page.bike.pk,
            version=form["version"],
            slot=page.slot.name,
            name=form["name"],
            values=values,
            origins=page.origin_of,
            condition={"feel": form["feel"], "wear": form["wear"], "damage": form["damage_note"]},
        )
    except InputError as error:
        return [evolve(fault, path=fault.path.removeprefix(f"{page.slot.name}.")) for fault in error.faults]
    return []


@allowed("change-bikes")
def open_slot(request: Request, bike_id: int) -> HttpResponse:
    """Redirect to the fields of the chosen slot."""
    slot = _slot(request.GET.get("slot", ""))
    if not bikes_seen_by(request.user).filter(pk=bike_id).exists():
        raise Http404
    return redirect("bikes:part-edit", bike_id, slot.name)


@frozen(kw_only=True, slots=False)
class FillPage(BikePage):
    """What a slot may hold, by the catalogue."""

    slot: Slot

    @cached_property
    def wanted(self) -> dict[str, Any]:
        return CandidatesForm.wanted(self.asked)

    @cached_property
    def found(self) -> Candidates:
        return what_goes(self.actor, self.now, self.slot.name, self.settings, **self.wanted)

    @property
    def previous(self) -> str:
        return urlencode({**self.wanted, "page": self.found.page - 1})

    @property
    def next(self) -> str:
        return urlencode({**self.wanted, "page": self.found.page + 1})


@allowed("change-bikes", "GET", "HEAD", "POST")
def fill(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Catalogue parts for a slot of the bike as it stands, each with its verdict; POST says which it is."""
    slot = _slot(slot).name
    if request.method == "POST":
        data = clean(ChosenForm(request.POST))
        fitting.fill_part(
            actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, part_id=data["part"]
        )
        return redirect("bikes:stand", bike_id)
    return answer(request, "part/fill.html", of_bike(request, bike_id, FillPage, slot=SLOTS[slot]))


@allowed("change-bikes", "POST")
def fit(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Fit a part that lies on the bench."""
    data = clean(ChosenForm(request.POST))
    fit_from_bin(
        actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, part_id=data["part"]
    )
    return redirect("bikes:stand", bike_id)


@allowed("change-bikes", "POST")
def off(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Take a part off."""
    fitting.take_off(actor=request.user, bike_id=bike_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("bikes:stand", bike_id)


@allowed("change-bikes", "POST")
def nothing(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Record that nothing is fitted in a slot, or take that back; then return to the page."""
    record_empty(actor=request.user, bike_id=bike_id, slot=slot, **clean(EmptyForm(request.POST)))
    return back(request, bike_id)


@allowed("change-bikes", "POST")
def move(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Move a part to another bike."""
    data = clean(MoveForm(request.POST))
    fitting.move_part(
        actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, to_bike_id=data["to"]
    )
    return redirect("bikes:stand", data["to"])
