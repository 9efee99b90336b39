"""A session ends when nobody has clicked for hours, and half a day after signing in whatever is clicked.

A click moves its end on, written at most every five minutes. What somebody sees who is signed in is kept by no browser
and no proxy, files too.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from django.contrib.auth import logout
from django.http import HttpResponse
from django.utils.cache import patch_cache_control

from unkett.web.pages.common.request import Request

EVERY_S = 300
LONGEST_S = 12 * 3600
Handler = Callable[[Request], HttpResponse]


def seen_lately(get_response: Handler) -> Handler:
    """Mark a session that is used, so that the session middleware stores it with a later end."""

    def call(request: Request) -> HttpResponse:
        now = int(time.time())
        if request.user.is_authenticated and now - request.session.setdefault("since", now) > LONGEST_S:
            logout(request)
        if request.user.is_authenticated and now - request.session.get("seen", 0) > EVERY_S:
            request.session["seen"] = now
        response = get_response(request)
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            patch_cache_control(response, no_store=True, private=True)
        return response

    return call
