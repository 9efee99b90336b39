"""Links for customers: one plan's quote or hand-over to look at, an answer to the quote, and nothing else."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any

from attrs import field, frozen
from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.utils import timezone

from unkett.core.errors import bad
from unkett.web.bikes.models import Status
from unkett.web.plans.models import Answer, CustomerLink, Plan, QuoteItem, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.plans.quote_items import freeze_quote
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import LogEntry, User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.security import note
from unkett.web.workshop.services import log

GOOD_FOR_MOST = 90  # days
SAYS_MOST = 1000
_SIGNER = Signer(salt="unkett.customer-link", sep="~")


@frozen(kw_only=True)
class OnLooker:
    """Whoever reads by a link: of a workshop, with no role and no rights."""

    workshop: Workshop
    units: Mapping[str, str] = field(factory=dict)
    role = ""
    is_active = False
    is_authenticated = False
    bridge_port = None
    pk = None

    @property
    def workshop_id(self) -> int:
        return int(self.workshop.pk)


def address_of_link(link: CustomerLink) -> str:
    """Return what its address ends in; nobody can guess it who has not the secret of this installation."""
    return _SIGNER.sign(str(link.pk))


def link_by(text: str) -> CustomerLink | None:
    """Return the link that is still good."""
    try:
        pk = int(_SIGNER.unsign(text))
    except (BadSignature, ValueError):
        return None
    found = CustomerLink.objects.select_related("plan__bike__workshop").filter(pk=pk).first()
    gone = found is None or not found.is_open or found.plan.bike.status == Status.REMOVED
    return None if gone else found


def links_of(actor: User, plan_id: int) -> list[CustomerLink]:
    """Return the links that were given of a plan, the latest first."""
    return list(CustomerLink.objects.filter(plan__in=plans_seen_by(actor), plan_id=plan_id)[:20])


@transaction.atomic
def give_link(*, actor: User, plan_id: int, days: int = 14) -> CustomerLink:
    """Make a link to a plan for its customer. Raises NotThere, InputError naming `days`."""
    require(actor, "give-links")
    plan = plans_seen_by(actor).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    if not 1 <= days <= GOOD_FOR_MOST:
        raise bad("days", f"{days} given; 1 to {GOOD_FOR_MOST} allowed")
    until = timezone.now() + datetime.timedelta(days=days)
    made = CustomerLink.objects.create(plan=plan, made_by=actor, until=until)
    log(actor, "give link", plan, after={"days": days})
    note("customer link", None, user=actor, detail=f"plan {plan.pk}, {days} days")
    return made


@transaction.atomic
def withdraw_link(*, actor: User, link_id: int) -> CustomerLink:
    """Withdraw a customer's link. Raises NotThere."""
    require(actor, "give-links")
    mine = CustomerLink.objects.filter(plan__in=plans_seen_by(actor)).select_for_update(of=("self",))
    link = mine.filter(pk=link_id).first()
    if link is None:
        raise NotThere
    link.withdrawn_at = link.withdrawn_at or timezone.now()
    link.save(update_fields=["withdrawn_at"])
    log(actor, "withdraw link", link.plan)
    return link


def may_answer(plan: Plan) -> bool:
    """Return whether there is a quote that waits for an answer."""
    return plan.state in (State.DRAFT, State.QUOTED)


@transaction.atomic
def answer_quote(*, link: str, answer: str, says: str, version: int) -> CustomerLink:
    """Return what the customer says to the quote. A yes agrees it as it was shown.

    Raises NotThere for a link that is good no more, InputError naming the field; refused where the quote changed since
    it was shown, or is agreed already.
    """
    found = link_by(link)
    if found is None:
        raise NotThere
    if answer not in Answer.values:
        raise bad("answer", "choose one")
    if len(says) > SAYS_MOST:
        raise bad("says", f"{len(says)} characters; at most {SAYS_MOST} are kept")
    if answer == Answer.QUESTION and not says.strip():
        raise bad("says", "what would you like to know?")
    plan = Plan.objects.select_for_update(of=("self",)).select_related("bike__workshop").get(pk=found.plan_id)
    if not may_answer(plan):
        raise Refused("This quote waits for no answer any more.")
    if plan.version != version:
        raise Refused("The quote was changed since you opened it. Look at it again, then answer.")
    found.answer, found.says, found.answered_at = answer, says.strip(), timezone.now()
    found.of_version = plan.version
    found.save(update_fields=["answer", "says", "answered_at", "of_version"])
    _log_customer(plan, f"customer says {answer}", {"says": found.says} if found.says else None)
    if answer == Answer.YES:
        freeze_quote(OnLooker(workshop=plan.bike.workshop), plan)
        before, plan.state = plan.state, State.AGREED
        plan.state_at, plan.state_by, plan.version = timezone.now(), None, plan.version + 1
        plan.save(update_fields=["state", "state_at", "state_by", "version", "promised", "parts_on"])
        _log_customer(plan, "state", {"state": plan.state}, {"state": before})
    return found


@transaction.atomic
def agree_found(*, link: str, line_id: int) -> CustomerLink:
    """Mark work found after the quote was agreed as agreed by its customer. Raises NotThere for a line not open."""
    found = link_by(link)
    if found is None:
        raise NotThere
    open_lines = QuoteItem.objects.filter(plan_id=found.plan_id, later=True, given=False, credit=False)
    item = open_lines.select_for_update(of=("self",)).filter(pk=line_id).first()
    if item is None:
        raise NotThere
    if item.agreed_at is None:
        item.agreed_at = timezone.now()
        item.save(update_fields=["agreed_at"])
        _log_customer(found.plan, "customer agrees line", {"agreed": item.title})
    return found


def _log_customer(plan: Plan, verb: str, after: Any, before: Any = None) -> None:
    LogEntry.objects.create(
        workshop=plan.bike.workshop, verb=verb, about="plan", about_id=plan.pk, about_name=plan.name[:200],
        before=before, after=after,
    )  # fmt: skip
