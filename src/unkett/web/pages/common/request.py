"""What a view is handed: Django's request with what the middleware puts on it."""

from __future__ import annotations

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from unkett.web.workshop.models import User


class Request(HttpRequest):
    """For types only: `user` belongs to a workshop, since `allowed` lets nobody else through.

    A view that is open to everyone asks `user.is_authenticated` first.
    """

    user: User
    htmx: HtmxDetails
    id: str  # names this request in the logs and on an error page
