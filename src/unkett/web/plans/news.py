"""What happened to plans that somebody here should know: customers answered, promises moved, parts came."""

from __future__ import annotations

import datetime

from attrs import frozen
from django.db import transaction
from django.utils import timezone

from unkett.web.bikes.models import Status
from unkett.web.plans.models import Answer, CustomerLink, Plan, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

SHOWN = 12
ANSWERED = {
    Answer.YES: "agrees to the quote",
    Answer.NO: "does not want it",
    Answer.QUESTION: "asks",
}


@frozen(kw_only=True)
class News:
    """Something that happened: of which plan, in words, and what takes it off the Yard; none: the plan's next state."""

    plan: Plan
    says: str
    quote: str = ""  # the customer's own words
    at: datetime.datetime
    link_id: int | None = None
    moved: bool = False


def news_of(actor: User) -> list[News]:
    """Return the latest of it, newest first."""
    plans = plans_seen_by(actor).filter(bike__status=Status.HERE).select_related("bike__customer")
    answers = CustomerLink.objects.filter(plan__in=plans, seen_at=None).exclude(answer="")
    found = [
        News(
            plan=one.plan,
            says=f"{_customer(one.plan)} {ANSWERED[Answer(one.answer)]}",
            quote=one.says,
            at=one.answered_at or one.made,
            link_id=one.pk,
        )
        for one in answers.select_related("plan__bike__customer").order_by("-answered_at")[:SHOWN]
    ]
    found += [
        News(plan=plan, says=_moved(plan), at=plan.state_at, moved=True)
        for plan in plans.exclude(moved={}).order_by("-pk")[:SHOWN]
    ]
    found += [
        News(plan=plan, says="All parts are here", at=plan.state_at)
        for plan in plans.filter(state=State.READY).order_by("-state_at")[:SHOWN]
    ]
    return sorted(found, key=lambda one: one.at, reverse=True)[:SHOWN]


def _customer(plan: Plan) -> str:
    return plan.bike.customer.name if plan.bike.customer else "The customer"


def _moved(plan: Plan) -> str:
    moved = plan.moved
    first, then = (timezone.localtime(datetime.datetime.fromisoformat(moved[key])) for key in ("from", "to"))
    return f"The promise moves from {first:%-d %b} to {then:%-d %b}: {moved['why']}. Tell the customer"


@transaction.atomic
def take_in_answer(*, actor: User, link_id: int) -> CustomerLink:
    """Record that a customer's answer was seen. Raises NotThere."""
    require(actor, "change-plans")
    link = (
        CustomerLink.objects.select_for_update(of=("self",))
        .filter(plan__in=plans_seen_by(actor), pk=link_id)
        .first()
    )
    if link is None or not link.answer:
        raise NotThere
    link.seen_at = link.seen_at or timezone.now()
    link.save(update_fields=["seen_at"])
    log(actor, "took in answer", link.plan, after={"answer": link.answer})
    return link


@transaction.atomic
def tell_customer(*, actor: User, plan_id: int) -> Plan:
    """Record that the customer knows that the promise moved. Raises NotThere."""
    require(actor, "change-plans")
    plan = plans_seen_by(actor).select_for_update(of=("self",)).filter(pk=plan_id).exclude(moved={}).first()
    if plan is None:
        raise NotThere
    before, plan.moved = plan.moved, {}
    plan.save(update_fields=["moved"])
    log(actor, "told customer", plan, before=before, after={"promised": before["to"]})
    return plan
