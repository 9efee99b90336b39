"""A job: its sheet made and made again, what is said of it, work that goes to another shop."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from attrs import evolve
from django.db import transaction
from django.utils import timezone

from unkett.core.errors import InputError, bad
from unkett.web.jobs.models import Job, JobStep, OutsideWork
from unkett.web.jobs.queries import (
    figures_moved,
    jobs_seen_by,
    locked_sheet,
    mark_stale,
    sheet_of,
)
from unkett.web.jobs.stepping import UNDONE, keep_open_facts
from unkett.web.plans.dates import promise
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.plans.quote_items import make_item
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

SKIP_MAX, TEXT_MAX = 200, 2000
EXTRA = "adjust:bike:extra-"
FIRST_RIDE = datetime.timedelta(days=14)


def step_of(actor: User, job_id: int, step_id: int) -> JobStep:
    """Return a step of a job of the actor's workshop. Raises NotThere."""
    mine = JobStep.objects.filter(job__in=jobs_seen_by(actor).filter(pk=job_id), pk=step_id)
    step = mine.select_related("job", "picture").first()
    if step is None:
        raise NotThere
    return step


@transaction.atomic
def start_job(*, actor: User, plan_id: int) -> Job:
    """Make the sheet of a plan. Raises NotThere; refused for a plan that is dropped, done or has a sheet."""
    require(actor, "change-jobs")
    plan = plans_seen_by(actor).select_for_update(of=("self",)).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    if plan.state in (State.DROPPED, State.HANDED_OVER):
        raise Refused(f"This plan is {State(plan.state).label.lower()}.")
    if Job.objects.filter(plan=plan).exists():
        raise Refused("This plan has its job sheet already.")
    job = Job.objects.create(plan=plan, made_by=actor, figures=figures_moved(actor, plan))
    OutsideWork.objects.bulk_create(
        OutsideWork(job=job, what=one.title, cost=one.price, days=one.days, since=None, item=one)
        for one in plan.quote_lines.filter(outside=True)
    )
    _store(job, [step.stored() for step in sheet_of(actor, plan).steps])
    mark_stale(actor.workshop_id)
    log(actor, "start job", job, after={"plan": plan.name})
    return job


def _store(job: Job, steps: Iterable[dict[str, Any]]) -> None:
    rows = [JobStep(job=job, key=step["id"], place=n, content=step) for n, step in enumerate(steps)]
    JobStep.objects.bulk_create(rows)


def _still_done(finished: list[JobStep], asked: dict[str, dict[str, Any]]) -> list[str]:
    """Return the keys of the finished steps that count, in the order they were done.

    A step counts unless the sheet now asks it with another part or torque, or it came after one that is open.
    """
    counted: list[str] = []
    for step in sorted(finished, key=lambda one: (one.done_at or timezone.now(), one.place)):
        now = asked.get(step.key)
        same = now is None or all(step.content[name] == now[name] for name in ("part", "target_nm"))
        first = step.content.get("lawful", step.content["after"])
        if same and {key for key in first if key in asked} <= set(counted):
            counted.append(step.key)
    return [key for key in counted if not key.startswith(EXTRA)]


@transaction.atomic
def update_sheet(*, actor: User, job_id: int) -> Job:
    """Make the sheet again after the plan changed. Raises NotThere.

    What is done stays done where it is the same part and torque and comes after nothing that is open; the first
    reading stays whatever happens.
    """
    sheet = locked_sheet(actor, "change-jobs", job_id)
    job = sheet.job
    kept = {step.key: step for step in sheet.steps if step.is_done or step.key.startswith(EXTRA)}
    asked = {step.id: step.stored() for step in sheet_of(actor, job.plan).steps}
    done = _still_done([step for step in kept.values() if step.is_done], asked)
    content = [step.stored() for step in sheet_of(actor, job.plan, done).steps]
    names = {step["id"] for step in content}
    content = [*(step.content for step in kept.values() if step.key not in names), *content]
    job.steps.exclude(pk__in=[step.pk for step in kept.values()]).delete()
    for n, step in enumerate(content):
        old = kept.get(step["id"])
        if old is None:
            JobStep.objects.create(job=job, key=step["id"], place=n, content=step)
        elif old.key in done:
            content_now = (
                old.content
                if step["id"] not in asked
                else {**asked[step["id"]], "after": old.content["after"]}
            )
            JobStep.objects.filter(pk=old.pk).update(place=n, content={**content_now, "done": True})
        elif old.key.startswith(EXTRA):
            JobStep.objects.filter(pk=old.pk).update(place=n)
        else:
            JobStep.objects.filter(pk=old.pk).update(place=n, content=step, **UNDONE)
    keep_open_facts(job)
    log(actor, "make sheet anew", job, after={"steps": len(content)})
    return job


@transaction.atomic
def note_job(
    *, actor: User, job_id: int, version: int, promised: datetime.datetime | None,
    parts_on: datetime.date | None, later: str, kept: str,
) -> Job:  # fmt: skip
    """Keep the promise, the day of the parts, what a later stage does and which parts are kept or given back."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    job = sheet.job
    if job.version != version:
        raise Conflict(
            "Somebody changed this job. Your change was not stored; look at it as it is now.", job.plan
        )
    for name, text in (("later", later), ("kept", kept)):
        if len(text) > TEXT_MAX:
            raise bad(name, f"{len(text)} characters; at most {TEXT_MAX} are kept")
    plan = Plan.objects.select_for_update().get(pk=job.plan_id)
    before = {"promised": plan.promised and plan.promised.isoformat(), "later": job.later, "kept": job.kept}
    promise(plan, promised, parts_on)
    job.later, job.kept = later.strip(), kept.strip()
    job.version += 1
    job.save()
    mark_stale(actor.workshop_id)
    log(actor, "note job", job, before=before, after={"promised": promised and promised.isoformat()})
    return job


@transaction.atomic
def send_outside(*, actor: User, job_id: int, what: str, cost: Decimal, days: int) -> OutsideWork:
    """Work that another shop does, on the quote to be agreed. Raises InputError naming the field."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    try:
        item = make_item(
            actor, sheet.job.plan, title=what, price=cost, minutes=0, given=False, outside=True, days=days
        )
    except InputError as error:
        names = {"title": "what", "price": "cost"}
        raise InputError([evolve(one, path=names.get(one.path, one.path)) for one in error.faults]) from None
    made = OutsideWork.objects.create(job=sheet.job, what=item.title, cost=cost, days=days, item=item)
    mark_stale(actor.workshop_id)
    log(actor, "send outside", sheet.job, after={"what": made.what, "days": days})
    return made


@transaction.atomic
def goes_outside(*, actor: User, job_id: int, outside_id: int) -> OutsideWork:
    """Record that planned outside work leaves today. Raises NotThere."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    one = sheet.job.outside.filter(pk=outside_id, since=None).first()
    if one is None:
        raise NotThere
    one.since = timezone.localdate()
    one.save(update_fields=["since"])
    log(actor, "send outside", sheet.job, after={"what": one.what, "days": one.days})
    return one


@transaction.atomic
def back_from_outside(*, actor: User, job_id: int, outside_id: int) -> OutsideWork:
    """Record that outside work is back. Raises NotThere."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    one = sheet.job.outside.filter(pk=outside_id).first()
    if one is None:
        raise NotThere
    one.back_at = one.back_at or timezone.now()
    one.save(update_fields=["back_at"])
    mark_stale(actor.workshop_id)
    log(actor, "back from outside", sheet.job, after={"what": one.what})
    return one
