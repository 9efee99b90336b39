"""The yard, the Stand, and the numbers of a bike as it stands."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.cache import patch_vary_headers

from unkett.core.calc.registry import CALCULATIONS
from unkett.core.drawing.marks import with_joints
from unkett.core.drawing.side import Bones, drawn
from unkett.core.errors import InputError
from unkett.core.figures import chain_of, gears_of
from unkett.core.finding import Verdict
from unkett.core.prefill import prefill
from unkett.core.sheets import steering_sheet
from unkett.core.skeleton import skeleton
from unkett.core.typed import only_size, read_typed
from unkett.core.vocabulary import KINDS, SLOTS, Area, describe
from unkett.web.bikes.forms import BuildFileForm, CutForm, KeepForm, MeasureForm, YardForm, clean
from unkett.web.bikes.pages import assumed_of, back, chosen_gear, folded_findings, joint_context, tabs
from unkett.web.bikes.queries import Standing, settings_of, standing, yard
from unkett.web.bikes.services import add_bike_from_file, keep_typed, record_cut, record_measure
from unkett.web.bikes.work import page_named, work_response
from unkett.web.plans.queries import changed_slots, plan_builds, plans_of
from unkett.web.rulebook.queries import bench_names_of
from unkett.web.site.fields import typed_in
from unkett.web.site.files import download
from unkett.web.site.templatetags.unkett import shown_value
from unkett.web.workout.tools import make_tool
from unkett.web.workshop.errors import Refused, Unlikely
from unkett.web.workshop.permissions import allowed


def _yard(request: HttpRequest, form: BuildFileForm, status: int = 200) -> HttpResponse:
    asked = YardForm.asked(request.GET)
    shown = yard(request.user, **asked)
    context = {
        "yard": shown,
        "asked": asked,
        "find": asked["find"],
        "form": form,
        "verdicts": [(one, shown.counts[one.value]) for one in Verdict],
        "previous": urlencode({**asked, "page": shown.page - 1}),
        "next": urlencode({**asked, "page": shown.page + 1}),
    }
    return render(request, "bikes/yard.html", context, status=status)


@allowed("see-bikes")
def yard_page(request: HttpRequest) -> HttpResponse:
    """The start page: the bikes by what they need, and the plans in work."""
    return _yard(request, BuildFileForm())


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
    return _yard(request, form, status=422)


def _areas(
    stands: Standing, called: Callable[[], dict[str, list[str]]], shown: set[str]
) -> list[dict[str, Any]]:
    """The filled slots by area; of the areas shown, each part with its attributes as the page shows them."""
    filled = stands.build.filled()
    out = []
    for area in Area:
        slots = [slot for slot in SLOTS.values() if slot.area is area and slot.name in stands.fitted]
        group: dict[str, Any] = {"area": area, "slots": slots}
        if area.value in shown:
            names = called()
            group["rows"] = [
                {
                    "slot": slot,
                    "part": (part := stands.fitted[slot.name]),
                    "values": [
                        shown_value(slot.name, attr, value, part.origins.get(attr, "stated"), names)
                        for attr in KINDS[slot.kind].attributes
                        if (value := filled[slot.name].attrs.get(attr)) is not None
                    ],
                }
                for slot in slots
            ]
        out.append(group)
    return [group for group in out if group["slots"]]


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
        "settings": settings_of(request.user),
        "origins": origins_of(stands),
        "tabs": tabs(stands.bike, stands.check, here),
        "other_plans": lambda ids: plan_builds(request.user, stands, ids),
    }


@allowed("see-bikes")
def stand(request: HttpRequest, bike_id: int) -> HttpResponse:
    """One bike: its side view with its joints, a chosen joint or all findings, its parts by area.

    What is folded is brought as it is opened; `?all=1` brings everything at once.
    """
    context = _page(request, bike_id, "stand")
    stands, build = context["stands"], context["build"]
    context |= joint_context(
        request, request.path, build, None, stands.check.findings, settings_of(request.user)
    )
    context["everything"] = "all" in request.GET
    if request.htmx and request.htmx.target == "joint":
        return _fragment(request, "bikes/_joint.html", context)
    if request.htmx and "part" in request.GET:
        return _folded(request, context)
    gears = gears_of(build)
    gear = chosen_gear(request, gears)
    bones = Bones.of(build)
    scene = with_joints(drawn(bones, gear), context["joints"], bones, context["chosen_name"])
    file = download(request, "side-view", scene, [])
    if file is not None:
        return file
    context |= {"scene": scene, "gear": gear, "gears": gears}
    if request.htmx and request.htmx.target == "side":
        return _fragment(request, "bikes/_side.html", context)
    opened = request.GET.get("area", "")
    shown = {area.value for area in Area} if context["everything"] else {opened}
    context |= {
        "opened": opened,
        "areas": _areas(stands, lambda: bench_names_of(request.user), shown),
        "empty_slots": [slot for slot in SLOTS.values() if slot.name not in build.filled()],
        "left_empty": [slot for slot in SLOTS.values() if slot.name in build.empty],
        "can_undo": stands.bike.undo_version == stands.bike.version,
        "chain": chain_of(build, context["settings"]),
        "assumed": assumed_of(bones.new),
        "plans": plans_of(request.user, bike_id),
    }
    return _fragment(request, "bikes/stand.html", context)


def _folded(request: HttpRequest, context: dict[str, Any]) -> HttpResponse:
    """What a folded part of the Stand holds."""
    part = request.GET["part"]
    context["measurable"] = True
    found = folded_findings(request, context)
    if found is not None:
        return _fragment(request, *found)
    if part == "assumed":
        context["assumed"] = assumed_of(skeleton(context["build"]))
        return _fragment(request, "bikes/_assumed_body.html", context)
    areas = _areas(context["stands"], lambda: bench_names_of(request.user), {request.GET.get("area", "")})
    group = next((one for one in areas if "rows" in one), None)
    if part != "area" or group is None:
        raise Http404
    return _fragment(request, "bikes/_area.html", {**context, "group": group})


def _fragment(request: HttpRequest, template: str, context: dict[str, Any]) -> HttpResponse:
    response = render(request, template, context)
    patch_vary_headers(response, ["HX-Request", "HX-Target"])
    return response


def _really(request: HttpRequest, bike_id: int, asks: Unlikely) -> HttpResponse:
    """A reading far from the usual: the same form again, to be kept on purpose or typed anew."""
    again = [
        (name, value) for name, value in request.POST.items() if name not in ("csrfmiddlewaretoken", "really")
    ]
    context = {"says": str(asks), "again": again, "bike": standing(request.user, bike_id).bike}
    return render(request, "bikes/really.html", context, status=422)


@allowed("change-bikes", "POST")
def measure(request: HttpRequest, bike_id: int) -> HttpResponse:
    """Keep one reading, then show the page it was typed on."""
    data = clean(MeasureForm(request.POST))
    try:
        kind = describe(data["slot"], data["attr"]).type
    except KeyError:
        raise Http404 from None
    fitted = standing(request.user, bike_id).fitted.get(data["slot"])
    del data["value"]
    value = read_typed(typed_in(request.POST, "value", kind), kind, only_size(fitted.attrs if fitted else {}))
    try:
        record_measure(actor=request.user, bike_id=bike_id, value=value, **data)
    except Unlikely as asks:
        return _really(request, bike_id, asks)
    return back(request, bike_id)


@allowed("change-bikes", "POST")
def keep(request: HttpRequest, bike_id: int, name: str) -> HttpResponse:
    """Keep what was typed under a calculation: readings on their parts, the rest with the bike."""
    if name not in CALCULATIONS:
        raise Http404
    data = clean(KeepForm(request.POST))
    stands = standing(request.user, bike_id)
    typed = {
        key.removeprefix("typed-"): value for key, value in request.POST.items() if key.startswith("typed-")
    }
    tool = make_tool(CALCULATIONS[name], typed, now=stands.build, partly=True)
    if tool.faulty:
        faults = [(one.input.name, [one.fault]) for one in tool.fields if one.fault]
        raise InputError.of(dict(faults) | ({"": list(tool.general)} if tool.general else {}))
    changed = changed_slots(request.user, data["plan"])
    own, measured = {}, {}
    known = prefill(name, stands.build)
    for one in tool.fields:
        value = tool.values.get(one.input.name)
        if one.place is None:
            own |= {} if value is None else {one.input.name: value}
        elif value is not None and known.get(one.input.name) is None and one.place[0] not in changed:
            measured[one.place] = value
    try:
        keep_typed(
            actor=request.user,
            bike_id=bike_id,
            version=data["version"],
            name=name,
            own=own,
            measured=measured,
            really=data["really"],
        )
    except Unlikely as asks:
        return _really(request, bike_id, asks)
    return back(request, bike_id)


@allowed("change-bikes", "GET", "HEAD", "POST")
def cut(request: HttpRequest, bike_id: int) -> HttpResponse:
    """Before a steerer is cut: is the real stack on, and what does the second reading say? Then the cut is recorded."""
    context = _page(request, bike_id, "steering")
    sheet = steering_sheet(context["build"])
    mark, off = sheet.value("length"), sheet.value("cut_off")
    if not isinstance(mark, float | int) or not isinstance(off, float | int) or off <= 0:
        raise Refused("Nothing is to be cut off this steerer, or its stack is not measured.")
    fault, step, status = "", 1, 200
    if request.method == "POST":
        data = clean(CutForm(request.POST))
        step = 2 if data["stands"] else 1
        if step == 1:
            fault, status = "Put the real stem, spacers and cover on first, then mark the tube.", 422
        elif data["again"]:
            try:
                read = read_typed(data["again"], describe("fork", "steerer_length_mm").type)
                record_cut(
                    actor=request.user, bike_id=bike_id, version=data["version"], mark_mm=mark, read_mm=read
                )
                return redirect("bikes:work", bike_id, "steering")
            except InputError as error:
                fault, status = error.faults[0].says, 422
    context |= {"sheet": sheet, "mark": mark, "off": off, "step": step, "fault": fault}
    return render(request, "bikes/cut.html", context, status=status)


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
    """Gears, chain, bracket, brakes, wheels or steering of the bike as it stands."""
    found = page_named(page)
    context = _page(request, bike_id, page)
    context["plans"] = plans_of(request.user, bike_id) if page == "gears" else []
    return work_response(request, found, context, context["build"], None)
