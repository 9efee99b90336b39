"""Who may do what: the policies, and which roles have them."""

from __future__ import annotations

from typing import Any

from unkett.web.workshop.errors import NotAllowed
from unkett.web.workshop.models import Role, User

OWNER, MECHANIC = Role.OWNER, Role.MECHANIC
EVERYONE = "everyone"  # may be asked for without signing in

POLICIES: dict[str, frozenset[str]] = {
    "see-bikes": frozenset({OWNER, MECHANIC}),
    "change-bikes": frozenset({OWNER, MECHANIC}),
    "see-plans": frozenset({OWNER, MECHANIC}),
    "change-plans": frozenset({OWNER, MECHANIC}),
    "see-catalogue": frozenset({OWNER, MECHANIC}),
    "change-catalogue": frozenset({OWNER, MECHANIC}),
    "measure": frozenset({OWNER, MECHANIC}),
    "see-rules": frozenset({OWNER, MECHANIC}),
    "change-settings": frozenset({OWNER}),
    "own-units": frozenset({OWNER, MECHANIC}),
    "see-log": frozenset({OWNER}),
    "see-customers": frozenset({OWNER, MECHANIC}),
    "change-customers": frozenset({OWNER, MECHANIC}),
    "see-bench": frozenset({OWNER, MECHANIC}),
}


def may(actor: Any, policy: str) -> bool:
    """Whether this person's role includes the policy; nobody without a workshop may do anything."""
    return bool(
        getattr(actor, "is_active", False)
        and getattr(actor, "workshop_id", None)
        and actor.role in POLICIES[policy]
    )


def require(actor: User, policy: str) -> None:
    """For services: raise NotAllowed unless the actor may."""
    if not may(actor, policy):
        raise NotAllowed(policy)
