"""How a view answers: a page or a fragment of it, a file, the way back."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse, HttpResponseRedirect, JsonResponse
from django.shortcuts import redirect, render
from django.utils.cache import patch_cache_control, patch_vary_headers
from django.utils.http import url_has_allowed_host_and_scheme

from unkett.core.scene import Scene
from unkett.web.pages.common.request import Request
from unkett.web.show.spreadsheets import ODS, to_csv, to_ods
from unkett.web.show.svg import standalone_svg

Rows = list[list[Any]]


def answer(request: Request, template: str, page: Any = None, status: int = 200, **more: Any) -> HttpResponse:
    """The template with its page's value; fragments and pages stand at one address, kept apart by htmx's headers.

    No browser keeps it: after Back a form is that of the bike as it is now, and nothing stays on a shared screen.
    """
    response = render(request, template, {"page": page, **more}, status=status)
    patch_cache_control(response, no_store=True, private=True)
    patch_vary_headers(response, ["HX-Request", "HX-Target"])
    port = getattr(request.user, "bridge_port", None)
    if port:  # the bench's instruments, by their own name
        policy = {"connect-src": [f"http://127.0.0.1:{port}"]}
        response._csp_update = policy  # type: ignore[attr-defined]  # where django-csp looks for it
    return response


def is_for(request: Request, target: str) -> bool:
    """Return whether htmx asks for what replaces this part of the page."""
    return bool(request.htmx) and request.htmx.target == target


def download(request: Request, name: str, scene: Scene | None, rows: Rows) -> HttpResponse | None:
    """Return the table as CSV (`?as=csv`) or ODS (`?as=ods`), the picture as SVG (`?as=svg`), where one is asked for.

    None where none is; 404 where the page has no such file.
    """
    wanted = request.GET.get("as", "")
    if wanted == "csv" and rows:
        return _file(HttpResponse(to_csv(rows), content_type="text/csv; charset=utf-8"), f"{name}.csv")
    if wanted == "ods" and rows:
        return _file(HttpResponse(to_ods(name, rows), content_type=ODS), f"{name}.ods")
    if wanted == "svg" and scene is not None:
        return _file(HttpResponse(standalone_svg(scene), content_type="image/svg+xml"), f"{name}.svg")
    if wanted:
        raise Http404
    return None


def json_file(content: Any, name: str) -> HttpResponse:
    """A JSON file to keep."""
    return _file(
        JsonResponse(content, json_dumps_params={"indent": 2, "ensure_ascii": False}), f"{name}.json"
    )


def bytes_file(content: bytes, name: str, sort: str) -> HttpResponse:
    """A file of any sort to keep."""
    return _file(HttpResponse(content, content_type=sort), name)


def _file(response: HttpResponse, name: str) -> HttpResponse:
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def back(request: Request, bike_id: int) -> HttpResponse:
    """Redirect to the page that a form was on, or to the Stand."""
    return back_or(request, "bikes:stand", bike_id)


def sent_to(request: Request, url: str) -> HttpResponse:
    """Redirect to another page as a whole, also where only a part of this one asked."""
    if request.htmx:
        return HttpResponse(status=204, headers={"HX-Redirect": url})
    return HttpResponseRedirect(url)


def back_or(request: Request, *to: Any) -> HttpResponse:
    """Redirect to the page that a form says it came from, else to the one named."""
    target = request.POST.get("next", "")
    if target.startswith("/") and url_has_allowed_host_and_scheme(target, allowed_hosts=None):
        return HttpResponseRedirect(target)
    return redirect(*to)
