"""Options A, B, C of one plan: each a plan of its own with a letter; one of them is chosen, the others are dropped."""

from __future__ import annotations

from string import ascii_uppercase
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import options_of, plans_seen_by
from unkett.web.plans.services import copy_content
from unkett.web.plans.writing import clash_of, write_plan
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

MOST = 6


@transaction.atomic
def add_option(*, actor: User, plan_id: int, version: int) -> Plan:
    """Add an option beside this plan, with the same changes to begin with. Raises NotThere and Conflict; refused where
    the plan is no draft or has six options.
    """
    require(actor, "change-plans")
    plan = plans_seen_by(actor).select_for_update(of=("self",)).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    if plan.version != version:
        raise clash_of(plan)
    first = Plan.objects.select_for_update().get(pk=plan.group_id)
    taken = {first.letter or "A", *first.options.values_list("letter", flat=True)}
    if not plan.is_open:
        raise Refused("Options are thought over in a draft. Take this plan back to a draft first.")
    if len(taken) >= MOST:
        raise Refused(f"A plan has at most {MOST} options.")
    if not first.letter:
        Plan.objects.filter(pk=first.pk).update(letter="A")
    letter = next(letter for letter in ascii_uppercase if letter not in taken)
    who = {"made_by": actor, "changed_by": actor, "state_by": actor}
    new = Plan.objects.create(
        bike_id=plan.bike_id, name=first.name, note=plan.note, option_of=first, letter=letter, **who
    )
    copy_content(plan, new)
    log(actor, "add option", new, before={"from": plan.letter or "A"}, after={"letter": letter})
    return new


def choose_option(*, actor: User, plan_id: int, version: int) -> Plan:
    """Choose this option: the plan's other options that are drafts or quoted are dropped."""

    def action(plan: Plan) -> tuple[Any, Any]:
        others = [option for option in options_of(actor, plan) if option.pk != plan.pk]
        if not others:
            raise Refused("This plan has no other options.")
        fixed = [one.letter for one in others if one.state not in (State.DRAFT, State.QUOTED, State.DROPPED)]
        if fixed:
            raise Refused(f"Option {', '.join(fixed)} is agreed already: take it back first.")
        dropped = [one for one in others if one.state != State.DROPPED]
        for one in dropped:
            one.state, one.state_at, one.state_by = State.DROPPED, timezone.now(), actor
            one.version += 1
            one.save(update_fields=["state", "state_at", "state_by", "version"])
        return {"options": [one.letter for one in others]}, {"chosen": plan.letter}

    return write_plan(actor, plan_id, version, "choose", action)
