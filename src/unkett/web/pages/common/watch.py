"""Around every request: its id, what went wrong with the database in plain words, and a trace in the log."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Callable

from django.conf import settings
from django.db import DatabaseError, InterfaceError, OperationalError
from django.http import HttpResponse
from django.template.loader import render_to_string

from unkett.web.pages.common.request import Request
from unkett.web.site.logs import request_id

Handler = Callable[[Request], HttpResponse]
_log = logging.getLogger("unkett.request")
FULL = ("53100", "53200")  # PostgreSQL: the disk, the memory is full
BUSY = ("55P03", "57014", "40P01", "40001")  # a lock or an answer took too long; a deadlock
AWAY = (
    "The database is away",
    "It is being started again and comes back by itself. Nothing was half saved; what was saved before is safe.",
)
NO_ROOM = (
    "There is no room left",
    "The disk is full, so nothing can be stored; nothing was stored half. Make room, and it goes on by itself.",
)
TOO_BUSY = (
    "Too busy just now",
    "Somebody else holds what this wants to change. Nothing was saved; try again.",
)
BROKE = (
    "Something went wrong",
    "Something went wrong on our side. Nothing was half saved. Go back and try again.",
)


class _Watched:
    """The outermost layer: it needs no database to say that there is none."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        request.id = secrets.token_hex(6)
        mark = request_id.set(request.id)
        try:
            response = self._answered(request)
            response["X-Request-ID"] = request.id
            response["Permissions-Policy"] = settings.PERMISSIONS_POLICY
            response["Cross-Origin-Resource-Policy"] = "same-origin"
            if response.status_code in (400, 403):
                _tell(logging.WARNING, "refused", request, response.status_code)
            return response
        finally:
            request_id.reset(mark)

    def _answered(self, request: Request) -> HttpResponse:
        try:
            return self.get_response(request)
        except (DatabaseError, InterfaceError) as error:
            return of_database(request, error)

    def process_exception(self, request: Request, error: Exception) -> HttpResponse | None:
        """Return what a view raises: the database's troubles are reported as such."""
        if isinstance(error, (DatabaseError, InterfaceError)):
            return of_database(request, error)
        return None


def of_database(request: Request, error: Exception) -> HttpResponse:
    """Return the page for what the database could not do; what will not pass by itself counts as broken."""
    state = getattr(error.__cause__, "sqlstate", None) or ""
    if state in FULL or any(words in str(error) for words in ("No space left", "could not extend file")):
        words, status = NO_ROOM, 507
    elif state in BUSY:
        words, status = TOO_BUSY, 503
    elif isinstance(error, (OperationalError, InterfaceError)) and (not state or state[:2] in ("08", "57")):
        words, status = AWAY, 503
    else:
        words, status = BROKE, 500
    _tell(logging.ERROR, words[0], request, status, error)
    return plain_page(request, *words, status)


def plain_page(request: Request, title: str, says: str, status: int) -> HttpResponse:
    """An error page that asks no database and no session."""
    context = {"title": title, "says": says, "number": getattr(request, "id", "")}
    response = HttpResponse(render_to_string("broken.html", context), status=status)
    response["Cache-Control"] = "no-store"
    if status == 503:
        response["Retry-After"] = "5"
    return response


def _tell(level: int, says: str, request: Request, status: int, error: Exception | None = None) -> None:
    context = {
        "path": request.path,
        "method": request.method,
        "status": status,
        "address": request.META.get("REMOTE_ADDR", ""),
    }
    _log.log(level, says, extra=context, exc_info=error)


def watched(get_response: Handler) -> _Watched:
    return _Watched(get_response)
