"""What is done in a job: one function, one action, one transaction, one log line."""

from __future__ import annotations

import datetime
import math
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.errors import bad
from unkett.core.intake.inspection import TICKS
from unkett.core.work.custom_steps import MINUTES_MAX
from unkett.core.work.step import Step
from unkett.web.bikes.inspection import Found, look_over, made_anew
from unkett.web.bikes.models import Bike
from unkett.web.jobs.models import Job, JobStep, OutsideWork, StepPicture
from unkett.web.jobs.queries import (
    Sheet,
    figures_moved,
    jobs_seen_by,
    sheet_of,
    sheet_stored,
)
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.plans.quoting import add_quote_line
from unkett.web.plans.services import bring_to, move_plan
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may, require
from unkett.web.workshop.services import log

SKIP_MAX, TEXT_MAX, WHAT_MAX = 200, 2000, 200
EXTRA = "adjust:bike:extra-"
FIRST_RIDE = datetime.timedelta(days=14)
UNDONE: dict[str, Any] = {
    "done_by": None, "done_at": None, "skipped": "", "reading": None, "instrument": "", "wants_countersign": False,
    "countersigned_by": None, "countersigned_at": None,
}  # fmt: skip
READING_MAX = 10_000.0
INSTRUMENT_MAX = 60


def locked_sheet(actor: User, policy: str, job_id: int) -> Sheet:
    """A job in work, locked. Raises NotThere; refused once it is ended."""
    require(actor, policy)
    job = (
        jobs_seen_by(actor)
        .select_for_update(of=("self",))
        .filter(pk=job_id)
        .select_related("plan__bike")
        .first()
    )
    if job is None:
        raise NotThere
    if job.ended is not None:
        raise Refused("This job is handed over; nothing can be changed in it.")
    return sheet_stored(job)


def _step(sheet: Sheet, step_id: int) -> JobStep:
    step = next((one for one in sheet.steps if one.pk == step_id), None)
    if step is None:
        raise NotThere
    return step


def step_of(actor: User, job_id: int, step_id: int) -> JobStep:
    """A step of a job of the actor's workshop. Raises NotThere."""
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
    _store(job, sheet_of(actor, plan).to_json()["steps"])
    log(actor, "start job", job, after={"plan": plan.name})
    return job


def _store(job: Job, steps: Iterable[dict[str, Any]]) -> None:
    rows = [JobStep(job=job, key=step["id"], place=n, content=step) for n, step in enumerate(steps)]
    JobStep.objects.bulk_create(rows)


def _still_done(finished: list[JobStep], asked: dict[str, dict[str, Any]]) -> list[str]:
    """The keys of the finished steps that count, in the order they were done.

    A step counts unless the sheet now asks it with another part or torque, or it came after one that is open.
    """
    counted: list[str] = []
    for step in sorted(finished, key=lambda one: (one.done_at or timezone.now(), one.place)):
        now = asked.get(step.key)
        same = now is None or all(step.content[name] == now[name] for name in ("part", "target_nm"))
        if same and set(step.content["after"]) <= set(counted):
            counted.append(step.key)
    return [key for key in counted if not key.startswith(EXTRA)]


@transaction.atomic
def update_sheet(*, actor: User, job_id: int) -> Job:
    """The sheet anew after the plan changed. Raises NotThere.

    What is done stays done where it is the same part and torque and comes after nothing that is open; the first
    reading stays whatever happens.
    """
    sheet = locked_sheet(actor, "change-jobs", job_id)
    job = sheet.job
    kept = {step.key: step for step in sheet.steps if step.is_done or step.key.startswith(EXTRA)}
    asked = {step["id"]: step for step in sheet_of(actor, job.plan).to_json()["steps"]}
    done = _still_done([step for step in kept.values() if step.is_done], asked)
    content = sheet_of(actor, job.plan, done).to_json()["steps"]
    names = {step["id"] for step in content}
    content = [*(step.content for step in kept.values() if step.key not in names), *content]
    job.steps.exclude(pk__in=[step.pk for step in kept.values()]).delete()
    for n, step in enumerate(content):
        old = kept.get(step["id"])
        if old is None:
            JobStep.objects.create(job=job, key=step["id"], place=n, content=step)
        elif old.key in done:
            told = old.content if step["id"] not in asked else {**step, "after": old.content["after"]}
            JobStep.objects.filter(pk=old.pk).update(place=n, content={**told, "done": True})
        elif old.key.startswith(EXTRA):
            JobStep.objects.filter(pk=old.pk).update(place=n)
        else:
            JobStep.objects.filter(pk=old.pk).update(place=n, content=step, **UNDONE)
    log(actor, "make sheet anew", job, after={"steps": len(content)})
    return job


@transaction.atomic
def tick_step(
    *,
    actor: User,
    job_id: int,
    step_id: int,
    reading: float | None = None,
    anyway: str = "",
    instrument: str = "",
) -> JobStep:
    """A step is done, with what was read and with which instrument. The first step brings the plan on the stand.

    Refused while what it is after is not finished, unless `anyway` says why it may be done all the same; and for a
    step that somebody did already. An apprentice's brake and steering steps want a mechanic's countersign.
    """
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = _step(sheet, step_id)
    if step.is_done:
        raise _done_already(step)
    if step.content["does"] == "hand_over":
        raise Refused("The hand-over is the end of the job: press “Hand it over”.")
    first = sheet.before(step)
    if first and not anyway.strip():
        raise Refused(waits_for(first))
    if reading is not None and not (math.isfinite(reading) and abs(reading) <= READING_MAX):
        raise bad("reading", f"{reading} given; enter a figure up to {READING_MAX:g}")
    step.done_by, step.done_at, step.holder = actor, timezone.now(), None
    step.reading, step.instrument = reading, "" if reading is None else instrument[:INSTRUMENT_MAX]
    step.first_reading = reading if step.first_reading is None else step.first_reading
    step.wants_countersign = bool(step.content["safety"]) and not may(actor, "countersign")
    step.countersigned_by = step.countersigned_at = None
    step.save()
    log(
        actor,
        "do step",
        sheet.job,
        after={"step": step.key, "reading": reading, "anyway": anyway.strip()[:SKIP_MAX]},
    )
    on_stand(actor, sheet.job.plan)
    return step


def waits_for(first: list[JobStep]) -> str:
    now = timezone.now()
    told = []
    for one in first[:3]:
        rests = one.rests_until
        until = f" (waits until {timezone.localtime(rests):%H:%M})" if rests and rests > now else ""
        told.append(f"“{one.says[:70]}”{until}")
    return f"First: {'; '.join(told)}."


def _done_already(step: JobStep) -> Conflict:
    who = step.done_by.called if step.done_by else "Somebody"
    when = timezone.localtime(step.done_at).strftime("%H:%M") if step.done_at else ""
    return Conflict(f"{who} did this step at {when}. Nothing was changed.", step.job.plan)


def on_stand(actor: User, plan: Plan) -> None:
    """The first step brings an agreed plan on the stand; one that is not agreed yet by who may agree it."""
    if plan.state in (State.DRAFT, State.QUOTED) and may(actor, "change-plans"):
        plan = move_plan(actor=actor, plan_id=plan.pk, version=plan.version, to=State.AGREED)
    if plan.state in (State.AGREED, State.GATHERING, State.READY):
        bring_to(actor, plan, State.ON_STAND)


@transaction.atomic
def undo_step(*, actor: User, job_id: int, step_id: int) -> JobStep:
    """A step was not done after all; its first reading is kept. Refused while a later one counts on it."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = _step(sheet, step_id)
    if not step.is_done:
        raise Refused("This step is not done.")
    leans = next((one for one in sheet.steps if one.is_done and step.key in one.content["after"]), None)
    if leans is not None:
        raise Refused(f"“{leans.says[:80]}” is done already and comes after it.")
    before = {"step": step.key, "reading": step.reading, "skipped": step.skipped}
    step.done_by = step.done_at = step.countersigned_by = step.countersigned_at = None
    step.skipped, step.wants_countersign, step.reading = "", False, None
    step.save()
    log(actor, "take step back", sheet.job, before=before)
    return step


@transaction.atomic
def skip_step(*, actor: User, job_id: int, step_id: int, reason: str) -> JobStep:
    """A step is left out, with why; a brake or steering step by who may countersign."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = _step(sheet, step_id)
    if step.content["safety"]:
        require(actor, "countersign")
    if step.is_done:
        raise _done_already(step)
    if step.content["does"] == "hand_over":
        raise Refused("The hand-over cannot be left out.")
    if not 1 <= len(reason.strip()) <= SKIP_MAX:
        raise bad("reason", f"say why, in 1 to {SKIP_MAX} characters")
    step.skipped, step.done_by, step.done_at, step.holder = reason.strip(), actor, timezone.now(), None
    step.save()
    log(actor, "skip step", sheet.job, after={"step": step.key, "reason": step.skipped})
    return step


@transaction.atomic
def start_step(*, actor: User, job_id: int, step_id: int, hold: bool) -> JobStep:
    """Take a step in hand, so that others see it, or let go of it."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = _step(sheet, step_id)
    if hold and step.is_done:
        raise _done_already(step)
    if step.holder_id not in (None, actor.pk) and not may(actor, "countersign"):
        raise Refused(f"{step.holder.called if step.holder else 'Somebody'} has this step in hand.")
    step.holder = actor if hold else None
    step.save(update_fields=["holder"])
    log(actor, "hold step" if hold else "let go of step", sheet.job, after={"step": step.key})
    return step


@transaction.atomic
def countersign(*, actor: User, job_id: int, step_id: int) -> JobStep:
    """A mechanic has looked at an apprentice's brake or steering step."""
    sheet = locked_sheet(actor, "countersign", job_id)
    step = _step(sheet, step_id)
    if not step.wants_countersign:
        raise Refused("This step wants no countersign.")
    step.countersigned_by, step.countersigned_at = actor, timezone.now()
    step.save(update_fields=["countersigned_by", "countersigned_at"])
    log(actor, "countersign", sheet.job, after={"step": step.key})
    return step


@transaction.atomic
def found_extra(
    *, actor: User, job_id: int, what: str, minutes: int, price: Decimal, given: bool, tick: str = ""
) -> JobStep:
    """Work found on the stand: a step before the checks, and a line of the quote to agree or free of charge.

    `tick` is a defect of the inspection with its slot (`pivot_sticky:rear_derailleur`), which is then found there too.
    """
    sheet = locked_sheet(actor, "change-plans", job_id)
    plan = sheet.job.plan
    add_quote_line(
        actor=actor,
        plan_id=plan.pk,
        version=plan.version,
        title=what,
        price=price,
        minutes=minutes,
        given=given,
    )
    number = 1 + sum(step.key.startswith(EXTRA) for step in sheet.steps)
    made = _before_the_checks(sheet, f"{EXTRA}{number}", what.strip(), minutes)
    if tick:
        _look_over_too(actor, plan.bike, tick, what)
    log(actor, "find extra", sheet.job, after={"step": made.key, "what": what, "tick": tick})
    return made


def _before_the_checks(sheet: Sheet, key: str, what: str, minutes: int) -> JobStep:
    """One more step, which every check that is open comes after."""
    checks = [
        step for step in sheet.steps if step.content["does"] in ("check", "hand_over") and not step.is_done
    ]
    last = checks[0].place if checks else len(sheet.steps)
    made_new = Step(
        id=key, slot="bike", does="adjust", says=f"Found: {what}", minutes=min(minutes, MINUTES_MAX)
    )
    for step in reversed([one for one in sheet.steps if one.place >= last]):
        JobStep.objects.filter(pk=step.pk).update(place=step.place + 1)
    for step in checks:
        step.content["after"] = [*step.content["after"], key]
        JobStep.objects.filter(pk=step.pk).update(content=step.content)
    return JobStep.objects.create(job=sheet.job, key=key, place=last, content=made_new.to_json())


def _look_over_too(actor: User, bike: Bike, tick: str, note: str) -> None:
    """The inspection with one more defect on it."""
    code, _, slot = tick.partition(":")
    if code not in TICKS or slot not in TICKS[code].slots:
        raise bad("tick", f"{tick} is no defect of the inspection")
    bike.refresh_from_db()
    kept = {
        name: Found(slot=one["slot"], how=one["how"], note=one["note"]) for name, one in bike.looked.items()
    }
    kept[code] = Found(slot=slot, how=TICKS[code].how, note=note.strip())
    look_over(actor=actor, bike_id=bike.pk, version=bike.version, found=kept)


@transaction.atomic
def keep_step_picture(*, actor: User, job_id: int, step_id: int, content: bytes) -> JobStep:
    """A picture at a step; the one before is replaced. Raises InputError for what is no picture."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = _step(sheet, step_id)
    try:
        made = made_anew(content)
    except ValueError as error:
        raise bad("picture", str(error)) from error
    StepPicture.objects.update_or_create(step=step, defaults={"content": made})
    log(actor, "keep picture", sheet.job, after={"step": step.key})
    return step


@transaction.atomic
def note_job(
    *, actor: User, job_id: int, version: int, promised: datetime.datetime | None,
    parts_here: datetime.date | None, later: str, kept: str,
) -> Job:  # fmt: skip
    """When the bike is promised and its parts are here, what a later stage does, which parts are kept or back."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    job = sheet.job
    if job.version != version:
        raise Conflict(
            "Somebody changed this job. Your change was not stored; look at it as it is now.", job.plan
        )
    for name, text in (("later", later), ("kept", kept)):
        if len(text) > TEXT_MAX:
            raise bad(name, f"{len(text)} characters; at most {TEXT_MAX} are kept")
    before = {"promised": job.promised and job.promised.isoformat(), "later": job.later, "kept": job.kept}
    job.promised, job.parts_here, job.later, job.kept = promised, parts_here, later.strip(), kept.strip()
    job.version += 1
    job.save()
    log(actor, "note job", job, before=before, after={"promised": promised and promised.isoformat()})
    return job


@transaction.atomic
def send_outside(*, actor: User, job_id: int, what: str, cost: Decimal, days: int) -> OutsideWork:
    """Work that another shop does."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    if not 1 <= len(what.strip()) <= WHAT_MAX:
        raise bad("what", f"enter 1 to {WHAT_MAX} characters")
    if not 0 <= days <= 365 or not 0 <= cost < 1_000_000:
        raise bad("days", "enter 0 to 365 days and a cost below 1,000,000")
    made = OutsideWork.objects.create(job=sheet.job, what=what.strip(), cost=cost, days=days)
    log(actor, "send outside", sheet.job, after={"what": made.what, "days": days})
    return made


@transaction.atomic
def back_from_outside(*, actor: User, job_id: int, outside_id: int) -> OutsideWork:
    """Another shop's work is back. Raises NotThere."""
    sheet = locked_sheet(actor, "change-jobs", job_id)
    one = sheet.job.outside.filter(pk=outside_id).first()
    if one is None:
        raise NotThere
    one.back_at = one.back_at or timezone.now()
    one.save(update_fields=["back_at"])
    log(actor, "back from outside", sheet.job, after={"what": one.what})
    return one
