"""Every view names its policy here; a test walks the URL table for one that does not."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_http_methods

from unkett.web.workshop.permissions import EVERYONE, POLICIES, may

View = Callable[..., HttpResponse]


def allowed(policy: str, *methods: str) -> Callable[[View], View]:
    """Guard a view: its policy and its HTTP methods (GET unless named)."""
    if policy != EVERYONE and policy not in POLICIES:
        raise ValueError(f"unknown policy {policy}")

    def guard(view: View) -> View:
        @functools.wraps(view)
        def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            if policy != EVERYONE and not may(request.user, policy):
                raise PermissionDenied(policy)
            return view(request, *args, **kwargs)

        inner: View = guarded if policy == EVERYONE else login_required(guarded)
        outer = require_http_methods(list(methods or ("GET", "HEAD")))(inner)
        outer.policy = policy
        return outer

    return guard
