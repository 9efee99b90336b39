"""Files that a page hands out: its table as CSV, its picture as SVG."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse

from unkett.core.drawing.scene import Scene
from unkett.web.site.svg import standalone_svg


def download(
    request: HttpRequest, name: str, scene: Scene | None, rows: list[list[Any]]
) -> HttpResponse | None:
    """The table as CSV (`?as=csv`) or the picture as SVG (`?as=svg`) where one is asked for; else None.

    404 where the page has no such file.
    """
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
