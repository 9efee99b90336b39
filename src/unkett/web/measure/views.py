"""What is this part? Choose what is in the hand, type readings, see the ranking re-order."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.cache import patch_vary_headers

from unkett.core.drawing.cards import card_scene
from unkett.core.errors import InputError
from unkett.core.identify import (
    PRINT,
    SORTS,
    TOLERANCE_MM,
    Identified,
    Measure,
    Sort,
    Start,
    expected,
    identify,
    start_from,
)
from unkett.core.units import read_reading
from unkett.core.vocabulary import SLOTS, describe
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import put_found
from unkett.web.measure.forms import PutForm
from unkett.web.rulebook.queries import bench_names_of, known_codes
from unkett.web.workshop.permissions import allowed

TYPED_MAX = 40
YES_NO = {"yes": 1.0, "no": 0.0}
SHOWN = 12


@allowed("measure")
def sorts(request: HttpRequest) -> HttpResponse:
    """Everything that can be identified, and what a number typed first may be."""
    text = request.GET.get("reading", "").strip()[:TYPED_MAX]
    starts: tuple[Start, ...] = ()
    fault = ""
    if text:
        try:
            starts = start_from(read_reading(text, "mm", "reading"))
        except InputError as error:
            fault = error.faults[0].says
    titles = known_codes()
    found = [
        {"start": one, "rows": [(match, titles.get(match.code, "")) for match in one.matches[:3]]}
        for one in starts
    ]
    context = {
        "sorts": [(sort, card_scene(sort)) for sort in SORTS.values()],
        "text": text,
        "found": found,
        "fault": fault,
        "bike": request.GET.get("bike", ""),
    }
    template = "measure/_starts.html" if request.htmx else "measure/sorts.html"
    response = render(request, template, context, status=422 if fault else 200)
    patch_vary_headers(response, ["HX-Request"])
    return response


def _readings(request: HttpRequest, chosen: Sort) -> tuple[dict[str, float], dict[str, str], dict[str, str]]:
    """Readings by measure, the typed texts, and what is wrong beside which field."""
    readings: dict[str, float] = {}
    typed: dict[str, str] = {}
    faults: dict[str, str] = {}
    for measure in chosen.measures:
        text = request.GET.get(measure.name, "").strip()[:TYPED_MAX]
        typed[measure.name] = text
        if measure.yes_no and text in YES_NO:
            readings[measure.name] = YES_NO[text]
        elif text:
            try:
                readings[measure.name] = read_reading(
                    text, "mm" if measure.name.endswith("_mm") else "", measure.name
                )
            except InputError as error:
                faults[measure.name] = error.faults[0].says
    return readings, typed, faults


def _tolerance(text: str) -> float:
    try:
        return min(5.0, max(0.001, float(text.replace(",", "."))))
    except ValueError:
        return TOLERANCE_MM


def _rows(request: HttpRequest, chosen: Sort, found: Identified) -> list[dict[str, Any]]:
    """The ranking as the page shows it: the leading ones with what each standard says of every measure."""
    names, titles = bench_names_of(request.user), known_codes()
    rows = []
    for match in found.ranked[:SHOWN]:
        says = [
            {
                "measure": measure,
                "values": _shown(measure, match.row),
                "missed": measure.name in match.misses,
                "off": "" if measure.yes_no else _off_says(measure, match.off.get(measure.name)),
            }
            for measure in chosen.measures
            if expected(match.row, measure)
        ]
        title, note = titles.get(match.code, match.code), match.row.get("note", "")
        rows.append(
            {"match": match, "title": title, "note": note, "called": names.get(match.code, []), "says": says}
        )
    return rows


def _shown(measure: Measure, row: dict[str, Any]) -> tuple[Any, ...]:
    values = expected(row, measure)
    if measure.within and measure.within in row:
        return (f"{values[0]:g} to {values[1]:g}",)
    return tuple("yes" if value else "no" for value in values) if measure.yes_no else values


def _off_says(measure: Measure, off: float | None) -> str:
    """How near a reading comes to a standard that it misses."""
    unit = " mm" if measure.name.endswith("_mm") else ""
    return f"{off:.2f}".rstrip("0").rstrip(".") + f"{unit} off" if off else ""


@allowed("measure")
def sort(request: HttpRequest, kind: str) -> HttpResponse:
    """One kind: its measuring card, the fields, and the ranking by what is typed."""
    chosen = SORTS.get(kind)
    if chosen is None:
        raise Http404
    bike = _bike(request)
    readings, typed, faults = _readings(request, chosen)
    tolerance = _tolerance(request.GET.get("tolerance", ""))
    found = None
    if readings:
        try:
            found = identify(kind=kind, measures=readings, tolerance_mm=tolerance)
        except InputError as error:
            faults |= {fault.path.removeprefix("measures."): fault.says for fault in error.faults}
    titles = {measure.name: measure.title for measure in chosen.measures}
    fields = [
        {"measure": measure, "typed": typed[measure.name], "fault": faults.get(measure.name)}
        for measure in chosen.measures
    ]
    context = {
        "sort": chosen,
        "card": card_scene(chosen),
        "fields": fields,
        "faults": faults,
        "tolerance": tolerance,
        "found": found,
        "rows": _rows(request, chosen, found) if found else [],
        "next": titles.get(found.next or "") if found else None,
        "next_is_print": bool(found and found.next == PRINT),
        "bike": bike,
        "bikes": bikes_seen_by(request.user).order_by("name")[:200],
        "puts": [
            (n, SLOTS[one.slot].title, [describe(one.slot, attr).title for attr in one.takes])
            for n, one in enumerate(chosen.puts)
            if one.values(found.ranked[0].row)
        ]
        if bike and found and found.ranked and not found.ranked[0].misses
        else [],
    }
    template = "measure/_ranking.html" if request.htmx else "measure/sort.html"
    response = render(request, template, context, status=422 if faults else 200)
    patch_vary_headers(response, ["HX-Request"])
    return response


def _bike(request: HttpRequest) -> Bike | None:
    """The bike that the answer is for, where it is the actor's."""
    asked = request.GET.get("bike", "")
    known = asked.isdecimal() and len(asked) < 12
    return bikes_seen_by(request.user).filter(pk=int(asked)).first() if known else None


@allowed("change-bikes", "POST")
def put(request: HttpRequest, kind: str) -> HttpResponse:
    """Put an identified standard on one part of a bike, every attribute it settles."""
    chosen = SORTS.get(kind)
    form = PutForm(request.POST)
    if chosen is None:
        raise Http404
    if not form.is_valid():
        raise InputError.of(form.errors)
    data = form.cleaned_data
    row = next((row for row in chosen.rows if row["code"] == data["code"]), None)
    if row is None or data["place"] >= len(chosen.puts):
        raise Http404
    place = chosen.puts[data["place"]]
    if not place.values(row):
        raise Http404  # a standard that no part of ours may have, such as a thread that strips the hub
    put_found(
        actor=request.user,
        bike_id=data["bike"],
        version=data["version"],
        slot=place.slot,
        values=place.values(row),
    )
    return redirect("bikes:stand", data["bike"])
