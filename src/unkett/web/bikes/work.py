"""The pages of the work that share one form: sheets of numbers with their pictures, as CSV and SVG too."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.core.build import Build
from unkett.core.calc.gears import Gears
from unkett.core.drawing.scene import Scene
from unkett.core.figures import hill_of
from unkett.core.sheets import PAGES, Page
from unkett.web.bikes.forms import HillForm
from unkett.web.bikes.pages import by_verdict, compared
from unkett.web.site.svg import standalone_svg


def page_named(name: str) -> Page:
    """A page of the work, or 404."""
    if name not in PAGES:
        raise Http404
    return PAGES[name]


def work_response(
    request: HttpRequest, page: Page, context: dict[str, Any], now: Any, then: Any | None
) -> HttpResponse:
    """The page, its numbers as CSV (`?as=csv`) or one of its pictures as SVG (`?as=svg&sheet=…`)."""
    sheets = compared(page.sheets(now), None if then is None else page.sheets(then), context["origins"])
    asked = request.GET.get("sheet")
    scene = next((one["sheet"].scene for one in sheets if one["sheet"].name == asked), None)
    name = asked if scene is not None and asked else page.name
    file = download(request, name, scene, _rows(sheets, then is not None))
    if file is not None:
        return file
    found = [finding for finding in context["check"].findings if finding.rule in page.rules]
    context |= {"page": page, "sheets": sheets, "groups": by_verdict(found), "compares": then is not None}
    return render(request, "bikes/work.html", context)


def _rows(sheets: list[dict[str, Any]], compares: bool) -> list[list[Any]]:
    rows: list[list[Any]] = [
        ["sheet", "number", *(["now", "planned"] if compares else ["value"]), "unit", "origin"]
    ]
    for one in sheets:
        for row in one["rows"]:
            number = row["number"]
            values = [row["was"], number.value] if compares else [number.value]
            shown = ["" if value is None else value for value in values]
            rows.append([one["sheet"].title, number.title, *shown, number.unit, row["origin"]])
    return rows


def gears_context(request: HttpRequest, build: Build, table: Gears | None) -> dict[str, Any]:
    """The hill of the Gears page: each gear's cadence on it."""
    grade, power = HillForm.asked(request.GET)
    hill = hill_of(build, table, grade_pct=grade, power_w=power) if table is not None else None
    rows = (
        list(zip(table.gears, hill.cadences_rpm, strict=True))
        if table is not None and hill is not None
        else []
    )
    easy = (
        table.gears[hill.easy] if table is not None and hill is not None and hill.easy is not None else None
    )
    return {"hill": hill, "hill_rows": rows, "easy": easy}


def download(
    request: HttpRequest, name: str, scene: Scene | None, rows: list[list[Any]]
) -> HttpResponse | None:
    """The table as CSV or the picture as SVG where one is asked for; else None."""
    wanted = request.GET.get("as", "")
    if wanted == "csv" and rows:
        out = io.StringIO()
        csv.writer(out).writerows(rows)
        response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
        response["Content-Disposition"] = f'attachment; filename="{name}.csv"'
        return response
    if wanted == "svg" and scene is not None:
        response = HttpResponse(standalone_svg(scene), content_type="image/svg+xml")
        response["Content-Disposition"] = f'attachment; filename="{name}.svg"'
        return response
    if wanted:
        raise Http404
    return None


def gear_rows(*tables: tuple[str, Gears | None]) -> list[list[Any]]:
    """Gear tables as rows for a CSV file."""
    head = ["state", "ring", "sprocket", "ratio", "development_m", "gear_inches", "speed_kmh"]
    return [
        head,
        *[
            [
                state,
                g.ring,
                g.sprocket,
                round(g.ratio, 4),
                round(g.development_m, 3),
                round(g.gear_inches, 2),
                round(g.speed_kmh, 2),
            ]
            for state, table in tables
            if table is not None
            for g in table.gears
        ],
    ]
