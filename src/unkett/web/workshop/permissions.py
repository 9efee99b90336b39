"""Who may do what: the policies, and which roles have them."""

from __future__ import annotations

from typing import Any

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
