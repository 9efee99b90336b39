"""Who may do what. Every view names its policy; a test walks the URL table for one that does not."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_http_methods

from unkett.web.workshop.models import Role, User

OWNER, MECHANIC = Role.OWNER, Role.MECHANIC
EVERYONE = "everyone"  # may be asked for without signing in

POLICIES: dict[str, frozenset[str]] = {
    "see-bikes": frozenset({OWNER, MECHANIC}),
    "change-bikes": frozenset({OWNER, MECHANIC}),
    "see-plans": frozenset({OWNER, MECHANIC}),
    "change-plans": frozenset({OWNER, MECHANIC}),
    "see-catalogue": frozenset({OWNER, MECHANIC}),
    "measure": frozenset({OWNER, MECHANIC}),
    "see-rules": frozenset({OWNER, MECHANIC}),
    "change-settings": frozenset({OWNER}),
    "own-units": frozenset({OWNER, MECHANIC}),
    "see-log": frozenset({OWNER}),
}

View = Callable[..., HttpResponse]


def may(actor: Any, policy: str) -> bool:
    """Whether this person's role includes the policy; nobody without a workshop may do anything."""
    return bool(
        getattr(actor, "is_active", False)
        and getattr(actor, "workshop_id", None)
        and actor.role in POLICIES[policy]
    )


def require(actor: User, policy: str) -> None:
    """For services: raise PermissionDenied unless the actor may."""
    if not may(actor, policy):
        raise PermissionDenied(policy)


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
