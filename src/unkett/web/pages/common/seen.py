"""A session ends when nobody has clicked for hours: a click moves its end on, written at most every five minutes."""

from __future__ import annotations

import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

EVERY_S = 300
Handler = Callable[[HttpRequest], HttpResponse]


def seen_lately(get_response: Handler) -> Handler:
    """Mark a session that is used, so that the session middleware stores it with a later end."""

    def call(request: HttpRequest) -> HttpResponse:
        if request.user.is_authenticated and time.time() - request.session.get("seen", 0) > EVERY_S:
            request.session["seen"] = int(time.time())
        return get_response(request)

    return call
