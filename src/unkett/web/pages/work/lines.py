"""The Lines page: each line's way, need and drag; a route chosen, a guide moved; the cut list and its stock."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.urls import reverse

from unkett.core.bike.lines import (
    SORTS,
    CutPiece,
    LineReport,
    bleed_says,
    electronic_says,
    inners_from,
    line_reports,
    pieces_of,
    routes_of,
    small_parts,
)
from unkett.core.bike.routes import Line
from unkett.core.bike.skeleton import Assumption
from unkett.core.calc.cutting import CutList, cut_list
from unkett.core.drawing.lines import cockpit_scene, lines_scene
from unkett.core.drawing.side import View, view_of
from unkett.core.errors import InputError
from unkett.core.rules.lines import LINES
from unkett.core.scene import Scene
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes import lines as services
from unkett.web.catalogue import stock
from unkett.web.pages.common.answers import Rows, answer, back, back_or, download
from unkett.web.pages.common.bike_page import BikePage, of_bike, of_plan
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.work.page import WorkPage
from unkett.web.plans import lines as plan_lines
from unkett.web.show.values import Shown

SPARE_MM = 20.0
# what shops sell where the workshop has written nothing down
USUAL_MM = {
    "brake_housing": (30_000.0,),
    "shift_housing": (30_000.0,),
    "hose": (1000.0, 1700.0, 2500.0),
    "brake_inner": (1700.0, 2000.0, 2275.0, 3100.0, 3500.0),
    "shift_inner": (1700.0, 2000.0, 2275.0, 3100.0, 3500.0),
}


@frozen(kw_only=True)
class Row(Shown):
    """A line, and whether a changed hose wants a bleed; the ways it may take come as they are unfolded."""

    report: LineReport
    bleed: str

    @property
    def slot(self) -> str:
        return self.report.slot


@frozen(kw_only=True, slots=False)
class LinesPage(WorkPage):
    """The lines of a bike as they run and, with a plan, as they will."""

    template = "work/lines.html"

    @cached_property
    def reports(self) -> list[LineReport]:
        return line_reports(self.now, self.then)

    @cached_property
    def rows_shown(self) -> list[Row]:
        return [Row(report=one, bleed=bleed_says(one)) for one in self.reports]

    @property
    def row(self) -> Row | None:
        """The line that is asked for."""
        return next((row for row in self.rows_shown if row.slot == self.asked.get("line")), None)

    @property
    def ways(self) -> list[Line]:
        """The ways that the line asked for may take, the shortest first."""
        return routes_of(self.build, self.row.slot) if self.row else []

    @property
    def route_url(self) -> str:
        """Where a route is chosen: for the plan that is shown, else for the bike now."""
        slot = self.row.slot if self.row else ""
        if self.plan is not None:
            return reverse("plans:line-route", args=[self.plan.pk, slot])
        return reverse("bikes:line-route", args=[self.bike.pk, slot])

    @property
    def route_version(self) -> int:
        return self.plan.version if self.plan is not None else self.bike.version

    @property
    def assumed(self) -> list[Assumption]:
        """What of frame, fork and cockpit is assumed: the ways follow as it is measured."""
        slots = ("frame", "fork", "headset", "stem", "handlebar")
        return [number for number in self.bones.old.assumed if number.slot in slots]

    @property
    def open_lines(self) -> list[tuple[str, str]]:
        """Lines that nothing is recorded of and that could be."""
        there = self.build.filled()
        return [(slot, SLOTS[slot].title) for slot in LINES if slot not in there]

    @property
    def shown_lines(self) -> list[Line]:
        return [one.shown for one in self.reports if one.shown is not None]

    @cached_property
    def side(self) -> Scene:
        now = [one.now for one in self.reports if one.now is not None]
        then = [one.then for one in self.reports if one.then is not None] if self.then else []
        return lines_scene(self.bones, now, then)

    @property
    def cockpit(self) -> Scene:
        return cockpit_scene(self.shown_lines)

    @property
    def view(self) -> View:
        """Where a place on the picture is on the bike."""
        return view_of(self.bones.old, self.bones.new)

    @property
    def electronic(self) -> list[str]:
        return electronic_says(self.build)

    @property
    def guessed(self) -> bool:
        return any(line.guessed for line in self.shown_lines)

    @property
    def cut_url(self) -> str:
        if self.plan is not None:
            return reverse("plans:lines-cut", args=[self.plan.pk])
        return reverse("bikes:lines-cut", args=[self.bike.pk])

    @property
    def picture(self) -> Scene | None:
        return self.side

    @property
    def rows(self) -> Rows:
        """The lines as rows."""
        head = ["line", "route", "piece", "need_mm", "drawn_mm", "turns_deg"]
        body = [
            [SLOTS[line.slot].title, line.title, piece.type, round(piece.need_mm, 1), round(piece.length_mm, 1),
             round(sum(piece.curve.turns_deg), 1)]
            for line in self.shown_lines
            for piece in line.pieces
        ]  # fmt: skip
        return [head, *body]


class RouteForm(VersionForm):
    """The route that a line takes."""

    route = forms.CharField(max_length=40)


class PointForm(VersionForm):
    """Where a guide is on this bike."""

    point = forms.CharField(max_length=40)
    forward_mm = forms.FloatField(required=False, min_value=-3500, max_value=3500)
    up_mm = forms.FloatField(required=False, min_value=-3500, max_value=3500)
    right_mm = forms.FloatField(required=False, min_value=-3500, max_value=3500)


@allowed("change-bikes", "POST")
def route(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Choose a line's route."""
    services.choose_route(actor=request.user, bike_id=bike_id, slot=slot, **clean(RouteForm(request.POST)))
    return back(request, bike_id)


@allowed("change-plans", "POST")
def plan_route(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Choose a planned line's route."""
    plan_lines.choose_route(actor=request.user, plan_id=plan_id, slot=slot, **clean(RouteForm(request.POST)))
    return back_or(request, "plans:work", plan_id, "lines")


@allowed("change-bikes", "POST")
def point(request: Request, bike_id: int, slot: str) -> HttpResponse:
    """Keep where a guide is on this bike."""
    data = clean(PointForm(request.POST))
    at = {name: data[name] for name in ("forward_mm", "up_mm", "right_mm") if data[name] is not None}
    services.move_point(
        actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, point=data["point"], at=at
    )
    return back(request, bike_id)


@frozen(kw_only=True)
class SortCut(Shown):
    """What is cut of one sort: the pieces, the list, what it is cut from."""

    sort: str
    title: str
    pieces: list[CutPiece]
    found: CutList | None
    fault: str
    usual: bool  # cut from what shops sell: nothing of it is written down

    @property
    def opened(self) -> list[tuple[Any, float]]:
        """Each length with what is left of it."""
        cuts = self.found.cuts if self.found else ()
        return [(cut, cut.stock_mm - sum(cut.pieces_mm)) for cut in cuts]


@frozen(kw_only=True, slots=False)
class CutPage(BikePage):
    """The cut list of a bike's lines, as it stands or as planned."""

    @cached_property
    def spare(self) -> float:
        form = SpareForm(self.asked)
        return (
            form.cleaned_data["spare"]
            if form.is_valid() and form.cleaned_data["spare"] is not None
            else SPARE_MM
        )

    @cached_property
    def reports(self) -> list[LineReport]:
        return [one for one in line_reports(self.now, self.then) if one.shown is not None]

    @cached_property
    def to_cut(self) -> list[str]:
        """The lines to be cut: those asked for, else those whose old line cannot stay or is not known."""
        asked = self.asked.getlist("line") if hasattr(self.asked, "getlist") else []
        slots = [one.slot for one in self.reports]
        if asked:
            return [slot for slot in slots if slot in asked]
        return [one.slot for one in self.reports if one.slack_mm is None or one.slack_mm < 0] or slots

    @property
    def lines(self) -> list[Line]:
        return [one.shown for one in self.reports if one.shown is not None and one.slot in self.to_cut]

    @cached_property
    def sorts(self) -> list[SortCut]:
        wanted = [piece for line in self.lines for piece in pieces_of(line, self.spare)]
        rows = stock.stock_of(self.actor)
        out = []
        for sort, title in SORTS.items():
            pieces = [piece for piece in wanted if piece.sort == sort]
            if not pieces:
                continue
            own = [row for row in rows if row.sort == sort]
            lengths: list[dict[str, float]] = [
                {"length_mm": row.length_mm or 0, **({} if row.count is None else {"count": row.count})}
                for row in own
            ] or [{"length_mm": length} for length in USUAL_MM[sort]]
            found, fault = _cut(pieces, lengths)
            out.append(
                SortCut(sort=sort, title=title, pieces=pieces, found=found, fault=fault, usual=not own)
            )
        return out

    @property
    def small(self) -> list[tuple[str, int]]:
        return small_parts(self.lines)

    @property
    def stock(self) -> list[tuple[Any, str]]:
        return [(row, SORTS.get(row.sort, row.sort)) for row in stock.stock_of(self.actor)]

    @property
    def kinds(self) -> list[tuple[str, str]]:
        return list(SORTS.items())

    @property
    def csv_rows(self) -> Rows:
        """The list as rows."""
        rows: Rows = [["sort", "line", "length_mm", "of_it_spare_mm"]]
        for sort in self.sorts:
            rows += [[sort.title, SLOTS[p.slot].title, p.length_mm, p.spare_mm] for p in sort.pieces]
        return rows + [[what, "", number, ""] for what, number in self.small]


def _cut(pieces: list[CutPiece], lengths: list[dict[str, float]]) -> tuple[CutList | None, str]:
    wanted = tuple(piece.length_mm for piece in pieces)
    try:
        if pieces[0].sort.endswith("_inner"):
            return inners_from(wanted, lengths), ""
        return cut_list(pieces_mm=wanted, stock_mm=tuple(lengths)), ""
    except InputError as error:
        return None, error.faults[0].says


class SpareForm(forms.Form):
    """What is kept for later, in the inner."""

    spare = forms.FloatField(required=False, min_value=0, max_value=500)


@allowed("see-bikes")
def cut_standing(request: Request, bike_id: int) -> HttpResponse:
    """The cut list of the bike as it stands; `?line=…` names the lines, `?spare=…` what is kept for later."""
    return _cut_page(request, of_bike(request, bike_id, CutPage, "lines"))


@allowed("see-plans")
def cut_planned(request: Request, plan_id: int) -> HttpResponse:
    """The same as planned."""
    return _cut_page(request, of_plan(request, plan_id, CutPage, "lines"))


def _cut_page(request: Request, page: CutPage) -> HttpResponse:
    file = download(request, "cut-list", None, page.csv_rows) if request.GET.get("as") else None
    return file or answer(request, "work/cut_list.html", page)


@allowed("change-bikes", "POST")
def is_cut(request: Request, bike_id: int) -> HttpResponse:
    """Record that the list is cut: opened stock is used up, off-cuts go back into it."""
    page = of_bike(request, bike_id, CutPage, "lines")
    opened = [
        stock.Opened(sort=sort.sort, length_mm=cut.stock_mm, left_mm=round(left, 1))
        for sort in page.sorts
        if not sort.usual
        for cut, left in sort.opened
    ]
    stock.cut_stock(actor=request.user, opened=opened)
    return back(request, bike_id)
