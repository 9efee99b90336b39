"""The pages of the work that share one form: sheets of numbers with their pictures, as CSV and SVG too."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.core.sheets import PAGES, Page
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
    wanted = request.GET.get("as", "")
    if wanted == "csv":
        return _csv(page, sheets, then is not None)
    if wanted == "svg":
        return _svg(request, sheets)
    found = [finding for finding in context["check"].findings if finding.rule in page.rules]
    context |= {"page": page, "sheets": sheets, "groups": by_verdict(found), "compares": then is not None}
    return render(request, "bikes/work.html", context)


def _csv(page: Page, sheets: list[dict[str, Any]], compares: bool) -> HttpResponse:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["sheet", "number", *(["now", "planned"] if compares else ["value"]), "unit", "origin"])
    for one in sheets:
        for row in one["rows"]:
            number = row["number"]
            values = [row["was"], number.value] if compares else [number.value]
            writer.writerow(
                [
                    one["sheet"].title,
                    number.title,
                    *["" if v is None else v for v in values],
                    number.unit,
                    number.origin,
                ]
            )
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{page.name}.csv"'
    return response


def _svg(request: HttpRequest, sheets: list[dict[str, Any]]) -> HttpResponse:
    for one in sheets:
        sheet = one["sheet"]
        if sheet.name == request.GET.get("sheet") and sheet.scene is not None:
            response = HttpResponse(standalone_svg(sheet.scene), content_type="image/svg+xml")
            response["Content-Disposition"] = f'attachment; filename="{sheet.name}.svg"'
            return response
    raise Http404
