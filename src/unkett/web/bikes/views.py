"""The yard, the Stand, and the numbers of a bike as it stands."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render

from unkett.core.drawing.chain import chain_scene
from unkett.core.drawing.gears import gear_scene
from unkett.core.errors import InputError
from unkett.core.figures import chain_of, gears_of
from unkett.core.vocabulary import KINDS, SLOTS, Area
from unkett.web.bikes.forms import BuildFileForm, FindForm, MeasureForm, read_typed
from unkett.web.bikes.pages import CHAIN_RULES, GEARS_RULES, by_verdict, tabs
from unkett.web.bikes.queries import Standing, standing, yard
from unkett.web.bikes.services import add_bike_from_file, record_measure
from unkett.web.bikes.work import download, gear_rows, gears_context, page_named, work_response
from unkett.web.plans.queries import plans_of
from unkett.web.rulebook.queries import bench_names_of
from unkett.web.site.templatetags.unkett import shown_value
from unkett.web.workshop.permissions import allowed


@allowed("see-bikes")
def yard_page(request: HttpRequest) -> HttpResponse:
    """The start page: every bike of the workshop with its verdict and its open plans."""
    find = FindForm.words(request.GET)
    context = {"bikes": yard(request.user, find), "find": find, "form": BuildFileForm()}
    return render(request, "bikes/yard.html", context)


@allowed("change-bikes", "POST")
def add(request: HttpRequest) -> HttpResponse:
    """A new bike from a build file."""
    form = BuildFileForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            bike = add_bike_from_file(actor=request.user, content=form.cleaned_data["file"].read())
        except InputError as error:
            form.add_error("file", [str(fault) for fault in error.faults])
        else:
            return redirect("bikes:stand", bike.pk)
    context = {"bikes": yard(request.user, ""), "find": "", "form": form}
    return render(request, "bikes/yard.html", context, status=422)


def _parts(stands: Standing, called: dict[str, list[str]]) -> list[dict[str, Any]]:
    """The filled slots by area, each with its attributes as the page shows them."""
    filled = stands.build.filled()
    out = []
    for area in Area:
        rows = []
        for slot in (slot for slot in SLOTS.values() if slot.area is area and slot.name in stands.fitted):
            part = stands.fitted[slot.name]
            values = [
                shown_value(slot.name, attr, value, part.origins.get(attr, "stated"), called)
                for attr in KINDS[slot.kind].attributes
                if (value := filled[slot.name].attrs.get(attr)) is not None
            ]
            rows.append({"slot": slot, "part": part, "values": values})
        out.append({"area": area, "rows": rows})
    return [group for group in out if group["rows"]]


def origins_of(stands: Standing) -> dict[str, dict[str, str]]:
    """Where each attribute of each slot comes from."""
    origins = {slot: part.origins for slot, part in stands.fitted.items()}
    return origins | {slot: part.origins for part in stands.fitted.values() for slot in part.also}


def _page(request: HttpRequest, bike_id: int, here: str) -> dict[str, Any]:
    stands = standing(request.user, bike_id)
    return {
        "bike": stands.bike,
        "stands": stands,
        "build": stands.build,
        "check": stands.check,
        "origins": origins_of(stands),
        "tabs": tabs(stands.bike, stands.check, here),
        "plans": plans_of(request.user, bike_id),
    }


@allowed("see-bikes")
def stand(request: HttpRequest, bike_id: int) -> HttpResponse:
    """One bike: its parts by area and its findings."""
    context = _page(request, bike_id, "stand")
    stands = context["stands"]
    context |= {
        "areas": _parts(stands, bench_names_of(request.user)),
        "groups": by_verdict(stands.check.findings),
        "open_slots": stands.check.open_slots,
        "gears": gears_of(stands.build),
        "chain": chain_of(stands.build),
    }
    return render(request, "bikes/stand.html", context)


@allowed("change-bikes", "POST")
def measure(request: HttpRequest, bike_id: int) -> HttpResponse:
    """Keep one reading, then show the Stand again."""
    form = MeasureForm(request.POST)
    if not form.is_valid():
        raise InputError.of(form.errors)
    data = form.cleaned_data
    if data["slot"] not in SLOTS or data["attr"] not in KINDS[SLOTS[data["slot"]].kind].attributes:
        raise Http404
    value = read_typed(data.pop("value"), KINDS[SLOTS[data["slot"]].kind].attributes[data["attr"]].type)
    record_measure(actor=request.user, bike_id=bike_id, value=value, **data)
    return redirect("bikes:stand", bike_id)


@allowed("see-bikes")
def gears(request: HttpRequest, bike_id: int) -> HttpResponse:
    """The gears of the bike as it stands."""
    context = _page(request, bike_id, "gears")
    figures = gears_of(context["build"])
    scene = gear_scene(figures.gears, None) if figures.gears else None
    file = download(request, "gears", scene, gear_rows(("now", figures.gears)))
    if file is not None:
        return file
    context |= gears_context(request, context["build"], figures.gears)
    found = [f for f in context["check"].findings if f.rule in GEARS_RULES]
    context |= {"now": figures, "scene": scene, "groups": by_verdict(found)}
    return render(request, "bikes/gears.html", context)


@allowed("see-bikes")
def chain(request: HttpRequest, bike_id: int) -> HttpResponse:
    """The chain's window on the bike as it stands."""
    context = _page(request, bike_id, "chain")
    figures = chain_of(context["build"])
    scene = chain_scene(figures) if figures and figures.window else None
    file = download(request, "chain", scene, [])
    if file is not None:
        return file
    found = [f for f in context["check"].findings if f.rule in CHAIN_RULES]
    context |= {"now": figures, "scene": scene, "groups": by_verdict(found)}
    return render(request, "bikes/chain.html", context)


@allowed("see-bikes")
def build_file(request: HttpRequest, bike_id: int) -> HttpResponse:
    """The bike as a build file."""
    return build_response(standing(request.user, bike_id).build.to_json(), f"bike-{bike_id}")


def build_response(build: dict[str, Any], name: str) -> HttpResponse:
    response = JsonResponse(build, json_dumps_params={"indent": 2, "ensure_ascii": False})
    response["Content-Disposition"] = f'attachment; filename="{name}.json"'
    return response


@allowed("see-bikes")
def work(request: HttpRequest, bike_id: int, page: str) -> HttpResponse:
    """Bracket, brakes, wheels or steering of the bike as it stands."""
    found = page_named(page)
    context = _page(request, bike_id, page)
    return work_response(request, found, context, context["build"], None)
