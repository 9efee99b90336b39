"""The owner's two logs: what was changed, and who got in or was refused."""

from __future__ import annotations

from typing import Any

from attrs import frozen
from django.http import HttpResponse

from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.forms import whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.workshop.models import LogEntry
from unkett.web.workshop.security import security_seen_by

LOG_LINES = 200
OUT_MOST = 100_000


@frozen(kw_only=True)
class LogPage:
    """The latest lines, or those before the line named by `to`."""

    lines: list[Any]
    more: bool
    to: int | None


def _page(request: Request, own: Any) -> LogPage:
    to = whole_number(request.GET.get("to", ""))
    if to is not None:
        own = own.filter(pk__lt=to)
    lines = list(own.order_by("-pk")[: LOG_LINES + 1])
    return LogPage(lines=lines[:LOG_LINES], more=len(lines) > LOG_LINES, to=to)


@allowed("see-log")
def log(request: Request) -> HttpResponse:
    """The latest actions of this workshop."""
    own = LogEntry.objects.filter(workshop_id=request.user.workshop_id).select_related("actor")
    return answer(request, "people/log.html", _page(request, own))


@allowed("see-log")
def security(request: Request) -> HttpResponse:
    """Who signed in, who was refused, which role changed; also as CSV and ODS."""
    own = security_seen_by(request.user)
    rows = [["at", "what", "who", "about", "address", "detail"]]
    if request.GET.get("as"):
        rows += [
            [one.at.isoformat(timespec="seconds"), one.what, one.user.username if one.user else "", one.name,
             one.address, one.detail]
            for one in own.order_by("-pk")[:OUT_MOST]
        ]  # fmt: skip
    return download(request, "security", None, rows) or answer(
        request, "people/security.html", _page(request, own)
    )
