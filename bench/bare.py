"""The page that others are measured against: the application's own frame round one query of 25 rows."""

from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template import engines
from django.urls import include, path

from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.guard import allowed
from unkett.web.plans.models import Change

ROWS = 25
TEMPLATE = engines["django"].from_string(
    '{% extends "base.html" %}{% block main %}<ul>'
    "{% for bike in bikes %}<li>{{ bike.name }}</li>{% endfor %}"
    "</ul>{% endblock main %}"
)


@allowed("see-bikes")
def bare(request: HttpRequest) -> HttpResponse:
    """Twenty-five bikes by name."""
    bikes: Any = bikes_seen_by(request.user).order_by("-changed", "-id")[:ROWS]
    return HttpResponse(TEMPLATE.render({"bikes": bikes}, request))


@allowed("change-plans", "POST")
def write(request: HttpRequest) -> HttpResponse:
    """One row written, and on to the page."""
    with transaction.atomic():
        Change.objects.filter(pk=request.POST["pk"]).update(name=request.POST["name"])
    return redirect("/bare/")


urlpatterns = [path("bare/", bare), path("bare/write/", write), path("", include("unkett.web.pages.urls"))]
handler404 = "unkett.web.pages.errors.not_found"
