"""The steps of a job as they are done: ticked, undone, skipped, countersigned, with a picture."""

from __future__ import annotations

import math

from django.db import transaction
from django.utils import timezone

from unkett.core.errors import bad
from unkett.core.work.open_facts import Did, open_words
from unkett.core.work.readings import judge
from unkett.web.bikes.inspection import made_again
from unkett.web.jobs.models import Job, JobStep, StepPicture
from unkett.web.jobs.queries import Sheet, locked_sheet, mark_stale, step_in
from unkett.web.plans.models import Plan, State
from unkett.web.plans.services import bring_to, move_plan
from unkett.web.workshop.errors import Conflict, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may, require
from unkett.web.workshop.services import log

SKIP_MAX = 200
READING_MAX = 10_000.0
INSTRUMENT_MAX = 60
UNDONE = {
    "done_by": None, "done_at": None, "skipped": "", "reading": None, "instrument": "", "wants_countersign": False,
    "countersigned_by": None, "countersigned_at": None, "kept_why": "", "not_measured": "", "proved_why": "",
}  # fmt: skip


@transaction.atomic
def tick_step(
    *,
    actor: User,
    job_id: int,
    step_id: int,
    reading: float | None = None,
    anyway: str = "",
    instrument: str = "",
    keep_why: str = "",
    not_measured: str = "",
    sure: bool = False,
) -> JobStep:
    """Mark a step as done, with its reading and instrument. The first step starts the plan's work.

    Refused while what must come before it is not finished, unless `anyway` says why it may be done all the same, and
    for a step that somebody did already. A reading outside its range is kept only with `keep_why`; nothing is left
    unread without `not_measured`, a torque never; what cannot be undone asks for `sure`. An apprentice's brake and
    steering steps, and kept readings, need a mechanic's countersign. Raises InputError naming the field.
    """
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
    if step.is_done:
        raise _done_already(step)
    if step.content["does"] == "hand_over":
        raise Refused("The hand-over is the end of the job: press “Hand it over”.")
    first = sheet.before(step)
    if first and (step.proves or not anyway.strip()):
        raise Refused(waits_for(first))
    _judge(step, reading, keep_why.strip(), not_measured.strip())
    if step.content.get("irreversible") and not sure:
        raise bad("sure", "this cannot be undone: confirm the last check first")
    if step.proves and did_the_work(sheet, step, actor) and not anyway.strip():
        raise Refused(
            "You did this work and somebody else is here: let them prove it, or say why you do it yourself."
        )
    step.done_by, step.done_at, step.holder = actor, timezone.now(), None
    step.reading, step.instrument = reading, "" if reading is None else instrument[:INSTRUMENT_MAX]
    step.first_reading = reading if step.first_reading is None else step.first_reading
    step.kept_why = keep_why.strip() if step.outside else ""
    step.not_measured = not_measured.strip() if reading is None else ""
    step.proved_why = anyway.strip()[:SKIP_MAX] if step.proves else ""
    step.wants_countersign = not may(actor, "countersign") and bool(step.content["safety"] or step.kept_why)
    step.countersigned_by = step.countersigned_at = None
    step.save()
    log(
        actor,
        "do step",
        sheet.job,
        after={
            "step": step.key,
            "reading": reading,
            "anyway": anyway.strip()[:SKIP_MAX],
            "kept": step.kept_why,
            "not measured": step.not_measured,
        },
    )
    keep_open_facts(sheet.job)
    on_stand(actor, sheet.job.plan)
    return step


def _judge(step: JobStep, reading: float | None, keep_why: str, not_measured: str) -> None:
    """Refuse a reading outside what is allowed that nobody keeps, and none at all. Raises InputError by field."""
    for name, text in (("keep_why", keep_why), ("not_measured", not_measured)):
        if len(text) > SKIP_MAX:
            raise bad(name, f"{len(text)} characters; at most {SKIP_MAX} are kept")
    if reading is not None and not (math.isfinite(reading) and abs(reading) <= READING_MAX):
        raise bad("reading", f"{reading} given; enter a figure up to {READING_MAX:g}")
    if not step.content["reading"]:
        return
    if reading is None:
        if step.must_be_read:
            raise bad("reading", f"enter the {step.reading_title.lower()} that was read")
        if not not_measured:
            raise bad("reading", "enter what was read, or say why it was not measured")
        return
    judged = judge(step.expected, [reading])
    if not judged.possible:
        raise bad("reading", judged.why)
    if not judged.taken and not keep_why:
        raise bad("keep_why", f"{judged.why}. Read it again, or keep it and say why.")


def did_the_work(sheet: Sheet, step: JobStep, actor: User) -> bool:
    """Return whether a proof is taken by whoever did the work, while somebody else works on the same job.

    The work is every step that the proof comes after and that spoiled what it proves.
    """
    proved = set(step.content.get("gives", ()))
    done = [one for one in sheet.steps if one.done_by_id is not None and not one.skipped]
    others = {one.done_by_id for one in done} - {actor.pk}
    mine = [one for one in done if one.done_by_id == actor.pk and proved & set(one.content.get("ends", ()))]
    return bool(mine and others)


def keep_open_facts(job: Job) -> None:
    """Keep why the bike is not ridden now, after a step was done or undone. Call it inside the action's transaction."""
    steps = list(job.steps.order_by("done_at", "place"))
    done = [one for one in steps if one.done_at is not None and not one.skipped]
    to_come = {fact for one in steps if one.done_at is None for fact in one.content.get("gives", ())}
    did = [
        Did(gives=tuple(one.content.get("gives", ())), ends=tuple(one.content.get("ends", ())))
        for one in done
    ]
    words = open_words(did, to_come)
    mark_stale(job.plan.bike.workshop_id)
    if words != job.open_facts:
        job.open_facts = words
        job.save(update_fields=["open_facts"])


def waits_for(first: list[JobStep]) -> str:
    now = timezone.now()
    words = []
    for one in first[:3]:
        rests = one.rests_until
        until = f" (waits until {timezone.localtime(rests):%H:%M})" if rests and rests > now else ""
        words.append(f"“{one.says[:70]}”{until}")
    return f"First: {'; '.join(words)}."


def _done_already(step: JobStep) -> Conflict:
    who = step.done_by.called if step.done_by else "Somebody"
    when = timezone.localtime(step.done_at).strftime("%H:%M") if step.done_at else ""
    return Conflict(f"{who} did this step at {when}. Nothing was changed.", step.job.plan)


def on_stand(actor: User, plan: Plan) -> None:
    """Start the work of an agreed plan; a draft only by somebody who may agree it."""
    if plan.state in (State.DRAFT, State.QUOTED) and may(actor, "change-plans"):
        plan = move_plan(actor=actor, plan_id=plan.pk, version=plan.version, to=State.AGREED)
    if plan.state in (State.AGREED, State.GATHERING, State.READY):
        bring_to(actor, plan, State.ON_STAND)


@transaction.atomic
def undo_step(*, actor: User, job_id: int, step_id: int, with_later: bool = False) -> JobStep:
    """Undo a step; its first reading is kept.

    Refused while steps that count on it are done, unless `with_later` undoes those too.
    """
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
    if not step.is_done:
        raise Refused("This step is not done.")
    later = sheet.counting_on(step)
    if later and not with_later:
        raise Refused(f"“{later[0].says[:80]}” is done already and comes after it.")
    for one in (*later, step):
        before = {"step": one.key, "reading": one.reading, "skipped": one.skipped}
        for name, value in UNDONE.items():
            setattr(one, name, value)
        one.save()
        log(actor, "take step back", sheet.job, before=before)
    keep_open_facts(sheet.job)
    return step


@transaction.atomic
def skip_step(*, actor: User, job_id: int, step_id: int, reason: str) -> JobStep:
    """Skip a step, with the reason; a brake or steering step only by somebody who may countersign."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
    if step.content["safety"] or step.must_be_read:
        require(actor, "countersign")
    if step.is_done:
        raise _done_already(step)
    if step.content["does"] == "hand_over":
        raise Refused("The hand-over cannot be left out.")
    if step.proves:
        raise Refused("A brake and the steering are proved, never skipped.")
    if not 1 <= len(reason.strip()) <= SKIP_MAX:
        raise bad("reason", f"say why, in 1 to {SKIP_MAX} characters")
    step.skipped, step.done_by, step.done_at, step.holder = reason.strip(), actor, timezone.now(), None
    step.save()
    log(actor, "skip step", sheet.job, after={"step": step.key, "reason": step.skipped})
    keep_open_facts(sheet.job)
    return step


@transaction.atomic
def start_step(*, actor: User, job_id: int, step_id: int, hold: bool) -> JobStep:
    """Take a step in hand, so that others see it, or let go of it."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
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
    """Countersign an apprentice's brake or steering step."""
    sheet = locked_sheet(actor, "countersign", job_id)
    step = step_in(sheet, step_id)
    if not step.wants_countersign:
        raise Refused("This step wants no countersign.")
    step.countersigned_by, step.countersigned_at = actor, timezone.now()
    step.save(update_fields=["countersigned_by", "countersigned_at"])
    log(actor, "countersign", sheet.job, after={"step": step.key})
    return step


@transaction.atomic
def keep_step_picture(*, actor: User, job_id: int, step_id: int, content: bytes) -> JobStep:
    """Keep a picture of a step; the one before is replaced. Raises InputError for what is no picture."""
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
    try:
        made = made_again(content)
    except ValueError as error:
        raise bad("picture", str(error)) from error
    StepPicture.objects.update_or_create(step=step, defaults={"content": made})
    log(actor, "keep picture", sheet.job, after={"step": step.key})
    return step
