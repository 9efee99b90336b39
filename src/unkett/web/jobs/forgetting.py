"""What is kept of a customer, handed out; and a customer removed, with the name wherever it was written down."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import Q, TextField
from django.db.models.functions import Cast
from django.utils import timezone

from unkett.web.bikes.models import Bike
from unkett.web.jobs.models import Job
from unkett.web.plans.models import CustomerLink, Plan
from unkett.web.tasks.models import Task
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import Customer, LogEntry, User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.security import note
from unkett.web.workshop.services import CUSTOMER_FIELDS, customers_seen_by, log

FORMAT = "unkett.customer/1"
REMOVED = "a removed customer"
PAPERS = ("quote-pdf", "job-pdf")


def kept_of_customer(*, actor: User, customer_id: int) -> dict[str, Any]:
    """Everything that is kept of a customer and their bikes. Raises NotThere."""
    require(actor, "change-customers")
    customer = customers_seen_by(actor).filter(pk=customer_id).first()
    if customer is None:
        raise NotThere
    note("customer taken out", None, user=actor, detail=f"customer {customer.pk}")
    return {
        "format": FORMAT,
        "made": timezone.now().isoformat(timespec="seconds"),
        **{name: getattr(customer, name) for name in CUSTOMER_FIELDS},
        "bikes": [_bike(bike) for bike in customer.bikes.order_by("pk")],
    }


def _bike(bike: Bike) -> dict[str, Any]:
    plans = Plan.objects.filter(bike=bike).order_by("pk")
    links = CustomerLink.objects.filter(plan__bike=bike).exclude(answer="")
    return {
        **{
            name: getattr(bike, name)
            for name in ("name", "use", "frame_number", "complaint", "wish", "rider")
        },
        "parts": [
            {"slot": part.slot, "name": part.name, "figures": part.attrs}
            for part in bike.fitted.order_by("pk")
        ],
        "plans": [{"name": plan.called, "state": plan.state, "note": plan.note} for plan in plans],
        "answers": [{"answer": one.answer, "says": one.says, "at": one.answered_at} for one in links],
    }


@transaction.atomic
def forget_customer(*, actor: User, customer_id: int, version: int) -> None:
    """Remove a customer: the bikes stay without one, the name leaves the log, what they wrote and their papers go.

    Raises NotThere; the version is what the hand saw.
    """
    require(actor, "remove-customers")
    customer = customers_seen_by(actor).select_for_update().filter(pk=customer_id, version=version).first()
    if customer is None:
        raise NotThere
    bikes = list(customer.bikes.values_list("pk", flat=True))
    plans = list(Plan.objects.filter(bike__in=bikes).values_list("pk", flat=True))
    jobs = list(Job.objects.filter(plan__in=plans).values_list("pk", flat=True))
    mine = Task.objects.filter(workshop_id=actor.workshop_id, sort__in=PAPERS)
    mine.filter(Q(sort="quote-pdf", about_id__in=plans) | Q(sort="job-pdf", about_id__in=jobs)).delete()
    CustomerLink.objects.filter(plan__in=plans).update(says="")
    Bike.objects.filter(pk__in=bikes).update(undo=None)  # it would bring the name back
    log(actor, "remove", customer, before={"bikes": len(bikes)})
    _scrub(customer)
    note("customer removed", None, user=actor, detail=f"customer {customer.pk}")
    customer.delete()


def _scrub(customer: Customer) -> None:
    """Take the name and the ways to reach somebody out of every line of the log."""
    texts = [text for text in (customer.name, customer.reach, customer.note) if text.strip()]
    lines = LogEntry.objects.filter(workshop_id=customer.workshop_id)
    holds = Q(about="customer", about_id=customer.pk) | Q(about_name__icontains=customer.name)
    for text in texts:
        holds |= Q(was__icontains=text) | Q(then__icontains=text)
    written = lines.alias(was=Cast("before", TextField()), then=Cast("after", TextField())).filter(holds)
    for line in written.select_for_update():
        line.about_name = _without(line.about_name, texts)[:200]
        line.before, line.after = _without(line.before, texts), _without(line.after, texts)
        line.save(update_fields=["about_name", "before", "after"])


def _without(value: Any, texts: list[str]) -> Any:
    if isinstance(value, str):
        for text in texts:
            at = value.lower().find(text.lower())
            while at >= 0:
                value = f"{value[:at]}{REMOVED}{value[at + len(text) :]}"
                at = value.lower().find(text.lower(), at + len(REMOVED))
        return value
    if isinstance(value, dict):
        return {key: _without(one, texts) for key, one in value.items()}
    return [_without(one, texts) for one in value] if isinstance(value, list) else value
