"""One write of a plan: locked, compared with what the hand saw, done, counted up, logged."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.vocabulary import SLOTS
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log


def clash_of(plan: Plan) -> Conflict:
    who = plan.changed_by.called if plan.changed_by else "Somebody"
    when = timezone.localtime(plan.changed).strftime("%H:%M:%S")
    says = f"{who} changed this plan at {when}. Your change was not stored; look at the plan as it is now."
    return Conflict(says, plan)


Action = Callable[[Plan], tuple[Any, Any]]


def write_plan(actor: User, plan_id: int, version: int, verb: str, action: Action) -> Plan:
    """Lock the plan, compare the version the user saw, act, count the version up, log."""
    require(actor, "change-plans")
    with transaction.atomic():
        own = plans_seen_by(actor).select_for_update(of=("self",)).select_related("changed_by")
        plan = own.filter(pk=plan_id).first()
        if plan is None:
            raise NotThere
        if plan.version != version:
            raise clash_of(plan)
        before, after = action(plan)
        plan.version += 1
        plan.changed_by = actor
        plan.changed = timezone.now()
        plan.save()
        log(actor, verb, plan, before=before, after=after)
    return plan


def refuse_closed(plan: Plan, slot: str) -> None:
    if slot not in SLOTS:
        raise NotThere
    if not plan.is_open:
        raise Refused(
            f"This plan is {State(plan.state).label.lower()}. Take it back to a draft before changing it."
        )
