"""What is this part? Choose what is in the hand, type readings, see the ranking re-order."""

from __future__ import annotations

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.identify import SUBJECTS, Subject
from unkett.web.bikes.services import put_found
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.identify.page import SortPage, SortsPage


class PutForm(VersionForm):
    """Which standard goes on which part of which bike."""

    bike = forms.IntegerField(min_value=1)
    place = forms.IntegerField(min_value=0)
    code = forms.CharField(max_length=60, strip=False)


def _sort(kind: str) -> Subject:
    if kind not in SUBJECTS:
        raise Http404
    return SUBJECTS[kind]


@allowed("measure")
def sorts(request: Request) -> HttpResponse:
    """Everything that can be identified, and what a number typed first may be."""
    page = SortsPage(asked=request.GET)
    template = "identify/_starts.html" if request.htmx else "identify/sorts.html"
    return answer(request, template, page, status=422 if page.fault else 200)


@allowed("measure")
def sort(request: Request, kind: str) -> HttpResponse:
    """One kind: its measuring card, the fields, and the ranking by what is typed."""
    page = SortPage(actor=request.user, asked=request.GET, sort=_sort(kind))
    template = "identify/_ranking.html" if request.htmx else "identify/sort.html"
    return answer(request, template, page, status=422 if page.faulty else 200)


@allowed("change-bikes", "POST")
def put(request: Request, kind: str) -> HttpResponse:
    """Put an identified standard on one part of a bike, every attribute it settles."""
    chosen = _sort(kind)
    data = clean(PutForm(request.POST))
    row = next((row for row in chosen.rows if row["code"] == data["code"]), None)
    if row is None or data["place"] >= len(chosen.puts):
        raise Http404
    place = chosen.puts[data["place"]]
    values = place.values(row)
    if not values:
        raise Http404  # a standard that no part of ours may have, such as a thread that strips the hub
    put_found(
        actor=request.user,
        bike_id=data["bike"],
        version=data["version"],
        slot=place.slot,
        values=values,
        readings=_readings(request, chosen),
    )
    return redirect("bikes:stand", data["bike"])


def _readings(request: Request, chosen: Subject) -> dict[str, str]:
    """Return what was read off the part, by title; what cannot be read is left out."""
    page = SortPage(actor=request.user, asked=request.POST, sort=chosen)
    typed = [(field.title, field.text, field.unit) for field in page.fields if field.text and not field.fault]
    return {title: f"{text} {unit}".strip() for title, text, unit in typed}
