"""The suspension of a bike: written down at the stand, the next change while typing, another rider, the card."""

from __future__ import annotations

import base64

from attrs import evolve
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import InputError
from unkett.core.suspension.advice import by_ring
from unkett.core.units import read_reading
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.answers import answer, bytes_file
from unkett.web.pages.common.bike_page import of_bike
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.suspension.page import PDF, EndShown, SuspensionPage, read_end
from unkett.web.suspension.models import Posture
from unkett.web.suspension.services import set_for_rider, write_down
from unkett.web.tasks.services import ask_for, tasks_seen_by


class EndForm(VersionForm):
    """An end written down; its figures are read by the vocabulary."""

    slot = forms.CharField(max_length=10)
    posture = forms.ChoiceField(choices=Posture.choices)
    bangs = forms.BooleanField(required=False)
    reason = forms.CharField(required=False, max_length=200, strip=True)


class RiderForm(VersionForm):
    """Another rider on this bike."""

    name = forms.CharField(required=False, max_length=80, strip=True)
    mass_kg = forms.CharField(max_length=20, strip=True)


def _end(page: SuspensionPage, slot: str) -> EndShown:
    found = next((one for one in page.ends if one.slot == slot), None)
    if found is None:
        raise Http404
    return found


@allowed("see-bikes")
def suspension(request: Request, bike_id: int) -> HttpResponse:
    """Both ends."""
    return answer(
        request, "suspension/suspension.html", of_bike(request, bike_id, SuspensionPage, "suspension")
    )


@allowed("see-bikes")
def preview(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Show the next change by what is typed; nothing is kept."""
    page: SuspensionPage = of_bike(request, bike_id, SuspensionPage, "suspension")
    shown = _end(page, slot)
    try:
        values, beside = read_end(shown.end, request.GET)
    except InputError as error:
        return answer(request, "suspension/_next.html", page, status=422, faults=error.faults)
    bangs = bool(request.GET.get("bangs"))
    change = by_ring(shown.end.with_values(values), beside["hit_mm"], bangs)
    return answer(request, "suspension/_next.html", page, change=change)


@allowed("change-bikes", "POST")
def write(request: Request, bike_id: int) -> HttpResponse:
    """Keep what is set at an end; what is wrong is reported beside its field."""
    page: SuspensionPage = of_bike(request, bike_id, SuspensionPage, "suspension")
    data = clean(EndForm(request.POST))
    shown = _end(page, data["slot"])
    try:
        values, beside = read_end(shown.end, request.POST)
        write_down(
            actor=request.user, bike_id=bike_id, values=values, school=shown.end.school, **beside, **data
        )
    except InputError as error:
        wrong = evolve(page, posted=request.POST, faults=tuple(error.faults))
        return answer(request, "suspension/suspension.html", wrong, status=422)
    return redirect("bikes:suspension", bike_id)


@allowed("change-bikes", "POST")
def rider(request: Request, bike_id: int) -> HttpResponse:
    """Make a set-up for another rider."""
    page: SuspensionPage = of_bike(request, bike_id, SuspensionPage, "suspension")
    data = clean(RiderForm(request.POST))
    try:
        mass = read_reading(data["mass_kg"], "kg", "mass_kg")
        name = data["name"] or f"Rider of {mass:g} kg"
        set_for_rider(actor=request.user, bike_id=bike_id, version=data["version"], name=name, mass_kg=mass)
    except InputError as error:
        wrong = evolve(page, posted=request.POST, faults=tuple(error.faults))
        return answer(request, "suspension/suspension.html", wrong, status=422)
    return redirect("bikes:set-ups", bike_id)


@allowed("see-bikes")
def card(request: Request, bike_id: int) -> HttpResponse:
    """The card to take home."""
    return answer(request, "suspension/card.html", of_bike(request, bike_id, SuspensionPage, "suspension"))


@allowed("see-bikes", "POST")
def make_card(request: Request, bike_id: int) -> HttpResponse:
    """Ask for the card as PDF."""
    page = of_bike(request, bike_id, SuspensionPage, "suspension")
    ask_for(actor=request.user, sort=PDF, about_id=page.bike.pk, asked={})
    return redirect("bikes:suspension-card", bike_id)


@allowed("see-bikes")
def card_file(request: Request, bike_id: int, task_id: int) -> HttpResponse:
    """The PDF that was made."""
    own = bikes_seen_by(request.user).filter(pk=bike_id).exists()
    task = tasks_seen_by(request.user).filter(pk=task_id, sort=PDF, about_id=bike_id).first() if own else None
    if task is None or not task.found:
        raise Http404
    return bytes_file(base64.b64decode(task.found["pdf"]), f"suspension-{bike_id}.pdf", "application/pdf")
