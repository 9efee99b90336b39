"""The plan page, its drawer of candidates, and the pages of the work as planned. Fragments and pages share a view."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.cache import patch_vary_headers

from unkett.core.drawing.marks import with_joints
from unkett.core.drawing.scene import Scene
from unkett.core.drawing.side import Bones, drawn
from unkett.core.figures import chain_of, gears_of
from unkett.core.finding import Verdict
from unkett.core.vocabulary import SLOTS, Area
from unkett.web.bikes.forms import VersionForm, clean
from unkett.web.bikes.pages import chosen_gear, folded_findings, joint_context, tabs
from unkett.web.bikes.queries import settings_of
from unkett.web.bikes.views import build_response, origins_of
from unkett.web.bikes.work import page_named, work_response
from unkett.web.catalogue.queries import plate_slot, plates_for, what_goes
from unkett.web.plans import services
from unkett.web.plans.forms import CandidatesForm, NameForm, SwapForm
from unkett.web.plans.queries import Planned, part_now, plan_builds, planned, plans_of
from unkett.web.workshop.permissions import allowed


def _context(request: HttpRequest, plan: Planned, here: str) -> dict[str, Any]:
    settings = settings_of(request.user)
    origins = {**origins_of(plan.stands), **{slot: {} for slot in plan.changes}}
    return {
        "bike": plan.stands.bike,
        "plan": plan.plan,
        "planned": plan,
        "build": plan.build,
        "check": plan.check,
        "settings": settings,
        "other_plans": lambda ids: plan_builds(request.user, plan.stands, ids),
        "origins": origins,
        "tabs": tabs(plan.stands.bike, plan.stands.check, here, plan.plan, plan.check),
        "now": gears_of(plan.stands.build),
        "then": gears_of(plan.build),
        "chain_now": chain_of(plan.stands.build, settings),
        "chain_then": chain_of(plan.build, settings),
    }


def _ledger(plan: Planned) -> list[dict[str, Any]]:
    """Every slot by area: what stands there, what is planned, whether it is open."""
    stands, then = plan.stands.build.filled(), plan.build.filled()
    wanted = set(plan.check.open_slots)
    areas = []
    for area in Area:
        rows = [
            {
                "slot": slot,
                "now": stands.get(slot.name),
                "then": then.get(slot.name),
                "open": slot.name in wanted,
            }
            for slot in SLOTS.values()
            if slot.area is area and (slot.name in stands or slot.name in then or slot.name in wanted)
        ]
        areas.append({"area": area, "rows": rows})
    return [area for area in areas if area["rows"]]


def _changes(plan: Planned) -> list[dict[str, Any]]:
    """Each change with what it pulls along: the new findings, each under its first cause."""
    stands = plan.stands.build.filled()
    causes = plan.difference.causes
    asking = [f for f in plan.difference.new if f.verdict is not Verdict.GOES]
    return [
        {
            "slot": SLOTS[slot],
            "change": change,
            "was": stands.get(slot),
            "pulls": [(f, causes[f.joint][1:]) for f in asking if causes[f.joint][:1] == (slot,)],
        }
        for slot, change in plan.changes.items()
    ]


def _show(
    request: HttpRequest, plan_id: int, form: forms.Form | None = None, status: int = 200
) -> HttpResponse:
    plan = planned(request.user, plan_id)
    context = _context(request, plan, "plan")
    here = reverse("plans:show", args=[plan_id])
    context["everything"] = "all" in request.GET
    context |= joint_context(
        request, here, plan.stands.build, plan.build, plan.check.findings, settings_of(request.user)
    )
    if request.htmx and request.htmx.target == "joint":
        return _vary(render(request, "bikes/_joint.html", context))
    if request.htmx and "part" in request.GET:
        return _folded(request, plan, context)
    if context["everything"] or context["chosen"]:
        context["scene"] = _drawing(request, plan, context)
    context |= {
        "ledger": _ledger(plan),
        "opened": request.GET.get("area", ""),
        "changes": _changes(plan),
        "form": form or NameForm(initial={"name": plan.plan.name, "note": plan.plan.note}),
    }
    template = "plans/_plan.html" if request.htmx else "plans/plan.html"
    return _vary(render(request, template, context, status=status))


def _drawing(request: HttpRequest, plan: Planned, context: dict[str, Any]) -> Scene:
    """The bike as planned over the bike as it stands, with its joints."""
    bones = Bones.of(plan.stands.build, plan.build)
    scene = drawn(bones, chosen_gear(request, context["then"]))
    return with_joints(scene, context["joints"], bones, context["chosen_name"])


def _folded(request: HttpRequest, plan: Planned, context: dict[str, Any]) -> HttpResponse:
    """What a folded part of the plan holds."""
    part = request.GET["part"]
    found = folded_findings(request, context)
    if found is not None:
        return _vary(render(request, *found))
    if part == "side":
        context["scene"] = _drawing(request, plan, context)
        return _vary(render(request, "bikes/_side.html", context))
    wanted = request.GET.get("area", "")
    group = next((one for one in _ledger(plan) if one["area"].value == wanted), None)
    if part != "area" or group is None:
        raise Http404
    return _vary(render(request, "plans/_ledger_area.html", {**context, "group": group}))


def _vary(response: HttpResponse) -> HttpResponse:
    patch_vary_headers(response, ["HX-Request", "HX-Target"])
    return response


@allowed("see-plans")
def show(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The plan: its changes, what they pull along, findings, chain and gears."""
    return _show(request, plan_id)


@allowed("change-plans", "POST")
def start(request: HttpRequest, bike_id: int) -> HttpResponse:
    """A new plan for a bike."""
    return redirect("plans:show", services.start_plan(actor=request.user, bike_id=bike_id).pk)


def _done(request: HttpRequest, plan_id: int) -> HttpResponse:
    """After a change: the fresh fragment for htmx, the page again without script."""
    return _show(request, plan_id) if request.htmx else redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def swap(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Put a catalogue part into a slot of the plan."""
    data = clean(SwapForm(request.POST))
    parts = {slot: data["part"]} | ({plate_slot(slot): data["plate"]} if data["plate"] else {})
    services.swap_parts(actor=request.user, plan_id=plan_id, version=data["version"], parts=parts)
    return _done(request, plan_id)


@allowed("change-plans", "POST")
def empty(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Leave a slot empty in the plan."""
    services.empty_slot(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return _done(request, plan_id)


@allowed("change-plans", "POST")
def take_back(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Take a change back."""
    services.take_back(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return _done(request, plan_id)


@allowed("change-plans", "POST")
def rename(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Name the plan and note why; a bad name answers beside its field."""
    form = NameForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, form, status=422)
    services.name_plan(actor=request.user, plan_id=plan_id, **form.cleaned_data)
    return _done(request, plan_id)


@allowed("change-plans", "POST")
def drop(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Discard the plan."""
    services.drop_plan(actor=request.user, plan_id=plan_id, **clean(VersionForm(request.POST)))
    return _done(request, plan_id)


@allowed("change-plans", "POST")
def take_up(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Take a discarded plan up again."""
    services.take_up_plan(actor=request.user, plan_id=plan_id, **clean(VersionForm(request.POST)))
    return _done(request, plan_id)


@allowed("see-plans")
def drawer(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """What could go in a slot, each part with its verdict before it is chosen."""
    if slot not in SLOTS:
        raise Http404
    plan = planned(request.user, plan_id)
    wanted = CandidatesForm.wanted(request.GET)
    context = _context(request, plan, "plan") | {
        "slot": SLOTS[slot],
        "part": part_now(plan, slot),
        "found": what_goes(request.user, plan.build, slot, settings_of(request.user), **wanted),
        "wanted": wanted,
        "sorts": CandidatesForm.base_fields["sort"].choices,
    }
    context["plates"] = plates_for(request.user, plan.build, slot, context["found"].shown)
    page = context["found"].page
    context |= {
        "previous": urlencode({**wanted, "page": page - 1}),
        "next": urlencode({**wanted, "page": page + 1}),
    }
    template = "plans/_drawer.html" if request.htmx else "plans/drawer.html"
    response = render(request, template, context)
    patch_vary_headers(response, ["HX-Request"])
    return response


@allowed("see-plans")
def build_file(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The bike as planned, as a build file."""
    return build_response(planned(request.user, plan_id).build.to_json(), f"plan-{plan_id}")


@allowed("see-plans")
def work(request: HttpRequest, plan_id: int, page: str) -> HttpResponse:
    """Gears, chain, bracket, brakes, wheels or steering as planned, against as it stands."""
    found = page_named(page)
    plan = planned(request.user, plan_id)
    context = _context(request, plan, page)
    context["plans"] = plans_of(request.user, plan.stands.bike.pk) if page == "gears" else []
    return work_response(request, found, context, plan.stands.build, plan.build)
