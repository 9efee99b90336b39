"""Turns the told errors of services into pages: refused input is 422, a clash of two editors 409."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.core.errors import CoreError
from unkett.web.workshop.errors import Clash, Refused

Handler = Callable[[HttpRequest], HttpResponse]


class _Told:
    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """A fragment for htmx, a page otherwise; anything unforeseen stays Django's to handle."""
        if isinstance(exception, Clash):
            status, title = 409, "Somebody was quicker"
        elif isinstance(exception, (Refused, CoreError)):
            status, title = 422, "Not stored"
        else:
            return None
        template = "_told.html" if getattr(request, "htmx", False) else "error.html"
        context = {"title": title, "says": str(exception), "back": getattr(exception, "back", "")}
        response = render(request, template, context, status=status)
        if getattr(request, "htmx", False):
            response["HX-Retarget"] = "#told"
            response["HX-Reswap"] = "innerHTML"
        return response


def told_errors(get_response: Handler) -> _Told:
    return _Told(get_response)
