"""The page that others are measured against: the application's own frame round one query of 25 rows."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template import engines
from django.urls import include, path

from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.guard import allowed

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


urlpatterns = [path("bare/", bare), path("", include("unkett.web.pages.urls"))]
handler404 = "unkett.web.pages.errors.not_found"
