"""Every calculation with its fields, filled from a bike where the bike knows, its answer and its trace."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode, urlsplit, urlunsplit

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import patch_vary_headers

from unkett.core.calc.registry import CALCULATIONS
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.plans.queries import planned, plans_seen_by
from unkett.web.site.files import download
from unkett.web.workout.tools import Tool, make_tool
from unkett.web.workshop.permissions import allowed


@allowed("measure")
def names(request: HttpRequest) -> HttpResponse:
    """Everything that can be worked out."""
    return render(request, "workout/names.html", {"calculations": CALCULATIONS.values()})


def _whole(text: str) -> int | None:
    return int(text) if text.isdecimal() and len(text) < 12 else None


def subject(request: HttpRequest) -> dict[str, Any]:
    """The bike and the plan that fill the fields, where they are the actor's."""
    bike_id, plan_id = (_whole(request.GET.get(name, "")) for name in ("bike", "plan"))
    if plan_id is not None and plans_seen_by(request.user).filter(pk=plan_id).exists():
        plan = planned(request.user, plan_id)
        return {
            "bike": plan.stands.bike,
            "plan": plan.plan,
            "now": plan.stands.build,
            "then": plan.build,
        }
    bike = bikes_seen_by(request.user).prefetch_related("fitted").filter(pk=bike_id or 0).first()
    now = None if bike is None else bike.build(list(bike.fitted.all()))
    return {"bike": bike, "plan": None, "now": now, "then": None}


def tool_of(name: str, data: Any, about: dict[str, Any]) -> Tool:
    """The named tool, filled from the bike and the plan it is about; 404 for an unknown name."""
    if name not in CALCULATIONS:
        raise Http404
    kept = about["bike"].kept.get(name) if about["bike"] is not None else None
    return make_tool(CALCULATIONS[name], data, now=about["now"], then=about["then"], kept=kept)


@allowed("measure")
def one(request: HttpRequest, name: str) -> HttpResponse:
    """One calculation: fields, answer, trace. Faults stand beside their fields."""
    about = subject(request)
    tool = tool_of(name, request.GET, about)
    file = download(request, name, tool.scene, tool.csv_rows() if tool.answered else [])
    if file is not None:
        return file
    here = urlsplit(request.htmx.current_url or "") if request.htmx else urlsplit(request.get_full_path())
    shown_at = urlunsplit(("", "", here.path, here.query, ""))
    context = {
        **about,
        "tool": tool,
        "query": query_of(tool, about),
        "here": shown_at,
        "own_page": here.path == request.path,
    }
    if not request.htmx:
        context["bikes"] = bikes_seen_by(request.user).order_by("name")[:200]
    template = "workout/_tool.html" if request.htmx else "workout/one.html"
    response = render(request, template, context, status=422 if tool.asked and tool.faulty else 200)
    patch_vary_headers(response, ["HX-Request"])
    return response


def query_of(tool: Tool, about: dict[str, Any]) -> str:
    """The address part that asks for this very answer again."""
    texts = {one.input.name: one.text for one in tool.fields if one.text}
    owners = {name: about[name].pk for name in ("bike", "plan") if about[name] is not None}
    return urlencode({**owners, **texts})
