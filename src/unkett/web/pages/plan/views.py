"""The plan page and its drawer of candidates; a plan's changes, name and state; its changes carried out.

After a change everybody is sent to the page; htmx follows and gets the fragment of it.
"""

from __future__ import annotations

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.vocabulary import SLOTS
from unkett.web.catalogue.queries import plate_slot
from unkett.web.pages.common.answers import answer, is_for, json_file
from unkett.web.pages.common.bike_page import folded_findings, of_plan
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.plan.forms import CarryOutForm, NameForm, StateForm, SwapForm
from unkett.web.pages.plan.page import DrawerPage, PlanPage
from unkett.web.plans import services
from unkett.web.plans.queries import planned


def _show(
    request: HttpRequest, plan_id: int, form: forms.Form | None = None, status: int = 200
) -> HttpResponse:
    page = of_plan(request, plan_id, PlanPage, "plan", form=form)
    if is_for(request, "joint"):
        return answer(request, "common/_joint.html", page)
    if request.htmx and "part" in request.GET:
        return _folded(request, page)
    template = "plan/_plan.html" if request.htmx else "plan/plan.html"
    return answer(request, template, page, status=status)


def _folded(request: HttpRequest, page: PlanPage) -> HttpResponse:
    """What a folded part of the plan holds."""
    part = request.GET["part"]
    found = folded_findings(page)
    if found is not None:
        return answer(request, found[0], page, **found[1])
    if part == "side":
        return answer(request, "common/_side.html", page)
    if part != "area" or page.area_lines is None:
        raise Http404
    return answer(request, "plan/_ledger_area.html", page, group=page.area_lines)


@allowed("see-plans")
def show(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The plan: its changes, what they pull along, findings, chain and gears."""
    return _show(request, plan_id)


@allowed("change-plans", "POST")
def start(request: HttpRequest, bike_id: int) -> HttpResponse:
    """A new plan for a bike."""
    return redirect("plans:show", services.start_plan(actor=request.user, bike_id=bike_id).pk)


@allowed("change-plans", "POST")
def copy(request: HttpRequest, plan_id: int) -> HttpResponse:
    """A new draft with the same changes."""
    return redirect("plans:show", services.copy_plan(actor=request.user, plan_id=plan_id).pk)


@allowed("change-plans", "POST")
def swap(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Put a catalogue part into a slot of the plan."""
    data = clean(SwapForm(request.POST))
    parts = {slot: data["part"]} | ({plate_slot(slot): data["plate"]} if data["plate"] else {})
    services.swap_parts(actor=request.user, plan_id=plan_id, version=data["version"], parts=parts)
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def empty(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Leave a slot empty in the plan."""
    services.empty_slot(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def take_back(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """Take a change back."""
    services.take_back(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def rename(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Name the plan and note why; a bad name answers beside its field."""
    form = NameForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, form, status=422)
    services.name_plan(actor=request.user, plan_id=plan_id, **form.cleaned_data)
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def move(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Bring the plan to another state."""
    services.move_plan(actor=request.user, plan_id=plan_id, **clean(StateForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def carry_out(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """One change of the plan is done on the bike."""
    services.carry_out(actor=request.user, plan_id=plan_id, slot=slot, **clean(CarryOutForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("see-plans")
def drawer(request: HttpRequest, plan_id: int, slot: str) -> HttpResponse:
    """What could go in a slot, each part with its verdict before it is chosen."""
    if slot not in SLOTS:
        raise Http404
    page = of_plan(request, plan_id, DrawerPage, "plan", slot=SLOTS[slot])
    return answer(request, "plan/_drawer.html" if request.htmx else "plan/drawer.html", page)


@allowed("see-plans")
def build_file(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The bike as planned, as a build file."""
    return json_file(planned(request.user, plan_id).build.to_json(), f"plan-{plan_id}")
