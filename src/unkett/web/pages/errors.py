"""Pages for what went wrong: what happened, where, what next."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def _page(request: HttpRequest, status: int, title: str, says: str) -> HttpResponse:
    return render(request, "error.html", {"title": title, "says": says}, status=status)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _page(request, 404, "Not here", "There is nothing at this address, or it is not yours to see.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _page(request, 403, "Not allowed", "Your role does not include this. Ask the owner.")


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _page(request, 400, "Not understood", "The request was not one this application makes.")


def broken(request: HttpRequest) -> HttpResponse:
    says = "Something broke on our side. Nothing was stored half. Go back and try again."
    return _page(request, 500, "Broken", says)
