"""The Stand of a bike, one reading kept, a finding accepted, the last change undone, the bike copied and as a file."""

from __future__ import annotations

from typing import Any

from attrs import evolve
from django import forms
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from unkett.core.errors import InputError
from unkett.core.formats.typed_text import only_size
from unkett.core.vocabulary import describe
from unkett.web.bikes import accepting, fitting
from unkett.web.bikes.queries import current_bike, file_of
from unkett.web.bikes.services import record_measure
from unkett.web.pages.common.answers import answer, back, download, is_for, json_file
from unkett.web.pages.common.bike_page import folded_findings, of_bike
from unkett.web.pages.common.forms import ReallyForm, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.really import ask_really
from unkett.web.pages.common.request import Request
from unkett.web.pages.stand.page import StandPage
from unkett.web.show.fields import field_of, filled_in
from unkett.web.wear.services import keep_what_was_read
from unkett.web.workshop.models import User


class MeasureForm(ReallyForm):
    """One reading for one attribute of one part; `next` is the page it was typed on."""

    slot = forms.CharField(max_length=40)
    attr = forms.CharField(max_length=60)
    instrument = forms.CharField(required=False, max_length=60, strip=True)


class FindingForm(VersionForm):
    """Which finding is meant, by its `ref`."""

    finding = forms.CharField(max_length=400)


class AcceptForm(FindingForm):
    """Why a finding may stay as it is, and until when."""

    reason = forms.CharField(max_length=accepting.REASON_MAX, strip=True)
    until = forms.DateField(required=False)


class NameForm(forms.Form):
    """What a copy is called."""

    name = forms.CharField(required=False, max_length=120, strip=True)


@allowed("see-bikes")
def stand(request: Request, bike_id: int) -> HttpResponse:
    """One bike: its side view with its joints, a chosen joint or all findings, its parts by area.

    What is folded is brought as it is opened; `?all=1` brings everything at once.
    """
    page = of_bike(request, bike_id, StandPage, "stand")
    if is_for(request, "joint"):
        return answer(request, "common/_joint.html", page)
    if request.htmx and "part" in request.GET:
        return _folded(request, page)
    if is_for(request, "side"):
        return answer(request, "common/_side.html", page)
    file = download(request, "side-view", page.scene, [])
    return file or answer(request, "stand/stand.html", page)


def _folded(request: Request, page: StandPage) -> HttpResponse:
    """What a folded part of the Stand holds."""
    part = request.GET["part"]
    found = folded_findings(page)
    if found is not None:
        return answer(request, found[0], page, **found[1])
    if part == "assumed":
        return answer(request, "stand/_assumed_body.html", page)
    if part != "area" or page.area_shown is None:
        raise Http404
    return answer(request, "stand/_area.html", page, group=page.area_shown)


@allowed("change-bikes", "POST")
def measure(request: Request, bike_id: int) -> HttpResponse:
    """Keep one reading, then show the page it was typed on."""
    data = clean(MeasureForm(request.POST))
    try:
        declared = describe(data["slot"], data["attr"])
    except KeyError:
        raise Http404 from None
    fitted = current_bike(request.user, bike_id).fitted.get(data["slot"])
    field = field_of(declared, name="value", size=only_size(fitted.attrs if fitted else {}))
    typed = filled_in([field], request.POST)[0]
    if not typed.text:
        raise InputError.of({"value": ["enter a reading"]})
    try:
        value = evolve(typed, name=data["attr"]).read()
        _keep(request.user, bike_id, value, data)
    except InputError as error:
        return ask_really(request, bike_id, error)
    return back(request, bike_id)


@transaction.atomic
def _keep(actor: User, bike_id: int, value: Any, data: dict[str, Any]) -> None:
    """Keep a reading on its part, and in the wear log where it is one of wear."""
    record_measure(actor=actor, bike_id=bike_id, value=value, **data)
    if isinstance(value, (int, float)):
        keep_what_was_read(
            actor, bike_id, data["slot"], data["attr"], float(value), timezone.localdate(), data["instrument"]
        )


@allowed("change-bikes", "POST")
def accept(request: Request, bike_id: int) -> HttpResponse:
    """Take a finding as it is."""
    accepting.accept_finding(actor=request.user, bike_id=bike_id, **clean(AcceptForm(request.POST)))
    return back(request, bike_id)


@allowed("change-bikes", "POST")
def reopen(request: Request, bike_id: int) -> HttpResponse:
    """Let an accepted finding ask for its work again."""
    accepting.reopen_finding(actor=request.user, bike_id=bike_id, **clean(FindingForm(request.POST)))
    return back(request, bike_id)


@allowed("change-bikes", "POST")
def copy(request: Request, bike_id: int) -> HttpResponse:
    """Copy the bike."""
    new = fitting.copy_bike(actor=request.user, bike_id=bike_id, **clean(NameForm(request.POST)))
    return redirect("bikes:stand", new.pk)


@allowed("change-bikes", "POST")
def undo(request: Request, bike_id: int) -> HttpResponse:
    """Put the last change back."""
    fitting.undo(actor=request.user, bike_id=bike_id, **clean(VersionForm(request.POST)))
    return redirect("bikes:stand", bike_id)


@allowed("see-bikes")
def build_file(request: Request, bike_id: int) -> HttpResponse:
    """The bike as a build file."""
    return json_file(file_of(current_bike(request.user, bike_id)), f"bike-{bike_id}")
