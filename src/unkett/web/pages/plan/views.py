"""The plan page; a plan's name and state, copied, as a build file.

After a change everybody is sent to the page; htmx follows and gets the fragment of it.
"""

from __future__ import annotations

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.web.bikes.queries import file_of
from unkett.web.pages.common.answers import answer, back_or, is_for, json_file
from unkett.web.pages.common.bike_page import folded_findings, of_plan
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.plan.forms import NameForm, StateForm
from unkett.web.pages.plan.page import PlanPage
from unkett.web.plans import services
from unkett.web.plans.queries import planned


def _show(request: Request, plan_id: int, form: forms.Form | None = None, status: int = 200) -> HttpResponse:
    page = of_plan(request, plan_id, PlanPage, "plan", form=form)
    if is_for(request, "joint"):
        return answer(request, "common/_joint.html", page)
    if request.htmx and "part" in request.GET:
        return _folded(request, page)
    template = "plan/_plan.html" if request.htmx else "plan/plan.html"
    return answer(request, template, page, status=status)


def _folded(request: Request, page: PlanPage) -> HttpResponse:
    """What a folded part of the plan holds."""
    part = request.GET["part"]
    found = folded_findings(page)
    if found is not None:
        return answer(request, found[0], page, **found[1])
    if part == "side":
        return answer(request, "common/_side.html", page)
    if part != "area" or page.area_lines is None:
        raise Http404
    return answer(request, "plan/_slots_area.html", page, group=page.area_lines)


@allowed("see-plans")
def show(request: Request, plan_id: int) -> HttpResponse:
    """The plan: its changes, what they pull along, findings, chain and gears."""
    return _show(request, plan_id)


@allowed("change-plans", "POST")
def start(request: Request, bike_id: int) -> HttpResponse:
    """Start a plan for a bike, with a service package where one is asked for."""
    code = request.POST.get("package", "")
    if not code:
        return redirect("plans:show", services.start_plan(actor=request.user, bike_id=bike_id).pk)
    return redirect("plans:show", services.start_package(actor=request.user, bike_id=bike_id, code=code).pk)


class PackageForm(VersionForm):
    """A package that is put on a plan, or taken off it."""

    code = forms.CharField(max_length=60)
    wanted = forms.BooleanField(required=False)


@allowed("change-plans", "POST")
def packages(request: Request, plan_id: int) -> HttpResponse:
    """Put a service package on the plan, or take it off."""
    plan = planned(request.user, plan_id).plan
    data = clean(PackageForm(request.POST))
    codes = [code for code in plan.packages if code != data["code"]] + [data["code"]] * data["wanted"]
    services.pick_packages(actor=request.user, plan_id=plan_id, version=data["version"], codes=codes)
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def copy(request: Request, plan_id: int) -> HttpResponse:
    """Copy the plan as a new draft."""
    return redirect("plans:show", services.copy_plan(actor=request.user, plan_id=plan_id).pk)


@allowed("change-plans", "POST")
def rename(request: Request, plan_id: int) -> HttpResponse:
    """Name the plan and note why; a bad name answers beside its field."""
    form = NameForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, form, status=422)
    services.name_plan(actor=request.user, plan_id=plan_id, **form.cleaned_data)
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def move(request: Request, plan_id: int) -> HttpResponse:
    """Bring the plan to another state."""
    services.move_plan(actor=request.user, plan_id=plan_id, **clean(StateForm(request.POST)))
    return back_or(request, "plans:show", plan_id)


@allowed("see-plans")
def build_file(request: Request, plan_id: int) -> HttpResponse:
    """The bike as planned, as a build file."""
    found = planned(request.user, plan_id)
    return json_file(file_of(found.stands, found.build, found.origins), f"plan-{plan_id}")
