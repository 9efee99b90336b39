"""Turns the reported errors of services into pages: not there is 404, refused input 422, a clash of two editors 409."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme

from unkett.core.errors import CoreError
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.catalogue.models import CataloguePart
from unkett.web.pages import errors
from unkett.web.pages.common.request import Request
from unkett.web.plans.models import Plan
from unkett.web.supply.models import Order
from unkett.web.workshop.errors import Conflict, NotAllowed, NotThere, Refused
from unkett.web.workshop.models import Customer

Handler = Callable[[Request], HttpResponse]
TYPED = {  # pages whose forms are readings and words: stored late, they still mean what was typed
    "bikes:intake-station",
    "bikes:part-edit",
    "bikes:part-measure",
    "bikes:typed-keep",
    "catalogue:part-change",
    "customers:customer",
}
OWN = {"csrfmiddlewaretoken", "once", "version"}
SHOWN_AT = {
    Bike: "bikes:stand",
    CataloguePart: "catalogue:part",
    Plan: "plans:show",
    Customer: "customers:customer",
    Order: "supply:order",
    BikePart: "bench:piece",
}


class _ServiceErrors:
    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: Request, exception: Exception) -> HttpResponse | None:
        """Return a fragment for htmx, a page otherwise; anything unforeseen stays Django's to handle."""
        if isinstance(exception, NotThere):
            return errors.not_found(request, Http404())
        if isinstance(exception, NotAllowed):
            return errors.forbidden(request, PermissionDenied())
        if isinstance(exception, Conflict):
            return _in_words(request, 409, "Somebody was quicker", exception)
        if isinstance(exception, (Refused, CoreError)):
            return _in_words(request, 422, "Not stored", exception)
        return None


def _in_words(request: Request, status: int, title: str, exception: Exception) -> HttpResponse:
    template = "_service_error.html" if request.htmx else "error.html"
    context = {
        "title": title,
        "says": str(exception),
        "back": _shown_at(exception),
        "came_from": _came_from(request),
        "typed": _typed(request, exception),
        "about": getattr(exception, "about", None),
    }
    response = render(request, template, context, status=status)
    if request.htmx:
        response["HX-Retarget"] = "#told"
        response["HX-Reswap"] = "innerHTML"
    return response


def _came_from(request: Request) -> str:
    """Return the page here that a form was sent from, or nothing."""
    came = request.META.get("HTTP_REFERER", "")
    here = url_has_allowed_host_and_scheme(came, allowed_hosts={request.get_host()})
    return urlsplit(came)._replace(scheme="", netloc="").geturl() if came and here else ""


def _typed(request: Request, exception: Exception) -> list[tuple[str, str]]:
    """After a clash, the fields as they were sent, to be sent again; none where they would then mean another thing."""
    if not isinstance(exception, Conflict) or getattr(request.resolver_match, "view_name", "") not in TYPED:
        return []
    return [(name, text) for name, texts in request.POST.lists() if name not in OWN for text in texts]


def _shown_at(exception: Exception) -> str:
    """Return where what somebody else changed is seen as it is now."""
    if not isinstance(exception, Conflict):
        return ""
    return reverse(SHOWN_AT[type(exception.about)], args=[exception.about.pk])


def service_errors(get_response: Handler) -> _ServiceErrors:
    return _ServiceErrors(get_response)
