"""Every view names its policy here; a test walks the URL table for one that does not."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.http import HttpResponseBase
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_http_methods
from django_htmx.http import HttpResponseClientRedirect

from unkett.web.pages.common.request import Request
from unkett.web.workshop.permissions import EVERYONE, POLICIES, may

View = Callable[..., HttpResponseBase]


def _page_of(request: Request) -> str:
    """Return the page somebody looks at who asks for this: what a form or a fragment was on, not their own address."""
    if request.htmx:
        return request.htmx.current_url_abs_path or "/"
    if request.method in ("GET", "HEAD"):
        return str(request.get_full_path())
    came_from = request.headers.get("Referer", "")
    if not url_has_allowed_host_and_scheme(came_from, allowed_hosts={request.get_host()}):
        return "/"
    return urlsplit(came_from).path


def _signed_in(view: View) -> View:
    """Send whoever is not signed in to the sign-in page, and then back to the page they were on."""

    @functools.wraps(view)
    def inner(request: Request, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if request.user.is_authenticated:
            return view(request, *args, **kwargs)
        to_sign_in = redirect_to_login(_page_of(request))
        return HttpResponseClientRedirect(to_sign_in.url) if request.htmx else to_sign_in

    return inner


def allowed(policy: str, *methods: str) -> Callable[[View], View]:
    """Guard a view: its policy and its HTTP methods (GET unless named)."""
    if policy != EVERYONE and policy not in POLICIES:
        raise ValueError(f"unknown policy {policy}")

    def guard(view: View) -> View:
        @functools.wraps(view)
        def guarded(request: Request, *args: Any, **kwargs: Any) -> HttpResponseBase:
            if policy != EVERYONE and not may(request.user, policy):
                raise PermissionDenied(policy)
            return view(request, *args, **kwargs)

        inner: View = guarded if policy == EVERYONE else _signed_in(guarded)
        outer = require_http_methods(list(methods or ("GET", "HEAD")))(inner)
        outer.policy = policy  # type: ignore[attr-defined]  # which the walk over all addresses reads
        return outer

    return guard
