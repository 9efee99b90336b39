"""Who may do what: the policies, and which roles have them."""

from __future__ import annotations

from django.contrib.auth.models import AnonymousUser

from unkett.web.workshop.errors import NotAllowed
from unkett.web.workshop.models import Role, User

OWNER, MECHANIC, DESK, APPRENTICE = Role.OWNER, Role.MECHANIC, Role.FRONT_DESK, Role.APPRENTICE
EVERYONE = "everyone"  # may be asked for without signing in
ALL = frozenset({OWNER, MECHANIC, DESK, APPRENTICE})
AT_STAND = frozenset({OWNER, MECHANIC, APPRENTICE})
WORKING = frozenset({OWNER, MECHANIC})
PLANNING = frozenset({OWNER, MECHANIC, DESK})

POLICIES: dict[str, frozenset[str]] = {
    "see-bikes": ALL,
    "change-bikes": WORKING,
    "see-plans": ALL,
    "change-plans": WORKING,
    "see-catalogue": ALL,
    "change-catalogue": WORKING,
    "measure": AT_STAND,
    "see-rules": ALL,
    "change-settings": frozenset({OWNER}),
    "own-units": ALL,
    "see-log": frozenset({OWNER}),
    "change-people": frozenset({OWNER}),
    "remove-customers": frozenset({OWNER}),
    "give-links": PLANNING,
    "see-customers": ALL,
    "change-customers": PLANNING,
    "see-bench": ALL,
    "see-supply": ALL,
    "take-out-tables": PLANNING,
    "change-supply": PLANNING,
    "change-suppliers": frozenset({OWNER}),
    "read-wear": AT_STAND,
    "see-jobs": ALL,
    "do-steps": AT_STAND,
    "countersign": WORKING,
    "change-jobs": PLANNING,
    "plan-days": PLANNING,
    "change-steps": frozenset({OWNER}),
}


def may(actor: User | AnonymousUser, policy: str) -> bool:
    """Tell whether this person's role includes the policy. Who is not signed in may do nothing."""
    return isinstance(actor, User) and actor.is_active and actor.role in POLICIES[policy]


def require(actor: User, policy: str) -> None:
    """For services: raise NotAllowed unless the actor may."""
    if not may(actor, policy):
        raise NotAllowed(policy)
