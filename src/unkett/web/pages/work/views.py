"""The pages of the work on a bike, as it stands and as planned; what is typed there is kept; the steerer is cut."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.bike.prefill import prefill
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError
from unkett.core.formats.typed_text import read_typed
from unkett.core.panels import PAGES, Page, Panel, steering_sheet
from unkett.core.vocabulary import describe
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import keep_typed, record_cut
from unkett.web.pages.common.answers import answer, back, download
from unkett.web.pages.common.bike_page import BikePage, folded_findings, of_bike, of_plan
from unkett.web.pages.common.forms import ReallyForm, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.really import ask_really
from unkett.web.pages.common.request import Request
from unkett.web.pages.common.tools import make_tool
from unkett.web.pages.work.lines import LinesPage
from unkett.web.pages.work.page import ChainPage, GearsPage, SheetsPage, WorkPage
from unkett.web.plans.queries import changed_slots
from unkett.web.workshop.errors import Refused

KINDS: dict[str, type[WorkPage]] = {"gears": GearsPage, "chain": ChainPage, "lines": LinesPage}


def _named(name: str) -> Page:
    if name not in PAGES:
        raise Http404
    return PAGES[name]


@allowed("see-bikes")
def of_standing(request: Request, bike_id: int, page: str) -> HttpResponse:
    """Gears, chain, bracket, brakes, wheels or steering of the bike as it stands."""
    work = _named(page)
    return _answered(request, of_bike(request, bike_id, KINDS.get(page, SheetsPage), page, work=work))


@allowed("see-plans")
def of_planned(request: Request, plan_id: int, page: str) -> HttpResponse:
    """The same as planned, against as it stands."""
    work = _named(page)
    return _answered(request, of_plan(request, plan_id, KINDS.get(page, SheetsPage), page, work=work))


def _answered(request: Request, page: WorkPage) -> HttpResponse:
    """The page, its table as CSV (`?as=csv`), its picture as SVG (`?as=svg`, with `&sheet=…` where it has several)."""
    if request.htmx and "part" in request.GET:
        found = folded_findings(page)
        if found is None:
            raise Http404
        return answer(request, found[0], page, **found[1])
    if isinstance(page, LinesPage) and page.row is not None:
        return answer(request, "work/_routes.html" if request.htmx else "work/ways.html", page)
    if request.GET.get("label") and page.work.name == "chain":
        return answer(request, "work/chain_label.html", page)
    file = download(request, page.file_name, page.picture, page.rows) if request.GET.get("as") else None
    return file or answer(request, page.template, page)


class KeepForm(ReallyForm):
    """Which version of the bike the hand saw when it pressed Keep, and on which plan's page."""

    plan = forms.IntegerField(required=False, min_value=1)


@allowed("change-bikes", "POST")
def keep(request: Request, bike_id: int, name: str) -> HttpResponse:
    """Keep what was typed under a calculation: readings on their parts, the rest with the bike."""
    if name not in CALCULATIONS:
        raise Http404
    data = clean(KeepForm(request.POST))
    own, measured = _typed(request, bike_id, name, data.pop("plan"))
    try:
        keep_typed(actor=request.user, bike_id=bike_id, name=name, own=own, measured=measured, **data)
    except InputError as error:
        return ask_really(request, bike_id, error)
    return back(request, bike_id)


def _typed(
    request: Request, bike_id: int, name: str, plan_id: int | None
) -> tuple[dict[str, Any], dict[tuple[str, str], Any]]:
    """Return what was typed and is no part's; and readings of parts that stand on the bike and were not known."""
    build = current_bike(request.user, bike_id).build
    typed = {
        key.removeprefix("typed-"): text for key, text in request.POST.items() if key.startswith("typed-")
    }
    tool = make_tool(CALCULATIONS[name], typed, now=build, partly=True)
    if tool.faulty:
        raise InputError(tool.faults)
    known, changed = prefill(tool.calculation, build), changed_slots(request.user, plan_id)
    own: dict[str, Any] = {}
    measured: dict[tuple[str, str], Any] = {}
    for field in tool.fields:
        value = tool.values.get(field.name)
        if value is None:
            continue
        if field.slot_attr is None:
            own[field.name] = value
        elif field.name not in known and field.slot_attr[0] not in changed:
            measured[field.slot_attr] = value
    return own, measured


class CutForm(VersionForm):
    """The two answers before a cut is recorded: the stack stands as it will, and the second reading."""

    stands = forms.BooleanField(required=False)
    again = forms.CharField(required=False, max_length=40, strip=True)


@frozen(kw_only=True, slots=False)
class CutPage(BikePage):
    """The steerer with its mark, and which of the two questions is asked."""

    step: int = 1
    fault: str = ""

    @cached_property
    def sheet(self) -> Panel:
        return steering_sheet(self.now)

    @property
    def mark(self) -> Any:
        return self.sheet.value("length")

    @property
    def off(self) -> Any:
        return self.sheet.value("cut_off")

    @property
    def can_cut(self) -> bool:
        return self.sheet.can_cut and isinstance(self.mark, (int, float))


@allowed("change-bikes", "GET", "HEAD", "POST")
def cut(request: Request, bike_id: int) -> HttpResponse:
    """Before a steerer is cut: is the real stack on, and what does the second reading say? Then the cut is recorded."""
    page = of_bike(request, bike_id, CutPage, "steering")
    if not page.can_cut:
        raise Refused("Nothing is to be cut off this steerer, or its stack is not measured.")
    if request.method != "POST":
        return answer(request, "work/cut.html", page)
    data = clean(CutForm(request.POST))
    if not data["stands"]:
        fault = "Put the real stem, spacers and cover on first, then mark the tube."
        return answer(request, "work/cut.html", evolve(page, fault=fault), status=422)
    fault = _cut(request, page, data) if data["again"] else ""
    if data["again"] and not fault:
        return redirect("bikes:work", bike_id, "steering")
    return answer(request, "work/cut.html", evolve(page, step=2, fault=fault), status=422 if fault else 200)


def _cut(request: Request, page: CutPage, data: Mapping[str, Any]) -> str:
    """Record the cut; what is wrong with the second reading."""
    try:
        read = read_typed(data["again"], describe("fork", "steerer_length_mm").type)
        record_cut(
            actor=request.user, bike_id=page.bike.pk, version=data["version"], mark_mm=page.mark, read_mm=read
        )
    except InputError as error:
        return error.faults[0].says
    return ""
