"""Pages for what went wrong: what happened, where, what next."""

import sys

from django.db import DatabaseError, InterfaceError
from django.http import HttpResponse
from django.shortcuts import render

from unkett.web.pages.common.request import Request
from unkett.web.pages.common.watch import BROKE, of_database, plain_page
from unkett.web.workshop.security import note


def _page(request: Request, status: int, title: str, says: str) -> HttpResponse:
    return render(request, "error.html", {"title": title, "says": says}, status=status)


def not_found(request: Request, exception: Exception) -> HttpResponse:
    return _page(request, 404, "Not here", "There is nothing at this address, or it is not yours to see.")


def forbidden(request: Request, exception: Exception) -> HttpResponse:
    user = getattr(request, "user", None)
    if user is not None and user.is_authenticated:
        note("refused", request, user=user, detail=f"{request.method} {request.path}")
    return _page(request, 403, "Not allowed", "Your role does not include this. Ask the owner.")


def bad_request(request: Request, exception: Exception) -> HttpResponse:
    return _page(request, 400, "Not understood", "The request was not one this application makes.")


def broken(request: Request) -> HttpResponse:
    """Answer an unexpected error, also from a layer round the views; trouble with the database is reported as such."""
    error = sys.exception()
    if isinstance(error, (DatabaseError, InterfaceError)):
        return of_database(request, error)
    return plain_page(request, *BROKE, 500)


def csrf_failed(request: Request, reason: str = "") -> HttpResponse:
    """Refuse and log a form without its token, or from elsewhere."""
    user = request.user if request.user.is_authenticated else None
    note("form refused", request, user=user, detail=f"{request.path} {reason}")
    return _page(
        request,
        403,
        "Not understood",
        "This form was not one of this page. Go back, load it anew, try again.",
    )
