"""The workshop's day plan: hours and stands, what was moved by hand, and the plan as the background works it out."""

from __future__ import annotations

import datetime
from typing import Any

from attrs import asdict, evolve
from django.db import transaction
from django.utils import timezone

from unkett.core.errors import bad
from unkett.core.work.day_plan import Hand, Pin, Work, plan_days
from unkett.core.work.step import Step
from unkett.web.jobs.models import Job, JobStep, Schedule, WorkHours
from unkett.web.jobs.queries import JOB_NAMED, Sheet, jobs_seen_by, mark_stale, open_jobs_of
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report, ask_for
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import Role, User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

TASK = "day-plan"
SETTLES = datetime.timedelta(minutes=1)  # a schedule is made again by itself at most so often
DAYS_AHEAD = 14
STANDS_MAX = 20
DAY = 1440
AT_WORK = (Role.OWNER, Role.MECHANIC, Role.APPRENTICE)


def board_of(workshop: Workshop) -> Schedule:
    return Schedule.objects.filter(workshop=workshop).first() or Schedule(workshop=workshop)


def hands_of(workshop: Workshop) -> list[User]:
    """Who works at the stands."""
    people = workshop.people.filter(is_active=True, role__in=AT_WORK).select_related("work_hours")
    return list(people.order_by("pk"))


def hours_of(user: User) -> WorkHours:
    return getattr(user, "work_hours", None) or WorkHours(user=user)


def sessions_in(content: dict[str, Any]) -> dict[tuple[str, int], tuple[int, int, str, int]]:
    """Return by job and session when it is worked on, by whom, and how many steps."""
    found: dict[tuple[str, int], tuple[int, int, str, int]] = {}
    for one in content.get("placed", ()):
        key = (one["work"], one["session"])
        low, high, hand, steps = found.get(key, (one["start"], one["end"], one["hand"], 0))
        found[key] = (min(low, one["start"]), max(high, one["end"]), hand, steps + 1)
    return found


def clock(minute: int) -> str:
    """Return a minute of any day as a time of day."""
    return f"{minute // 60 % 24:02d}:{minute % 60:02d}"


def today_of(actor: User) -> list[tuple[str, str, Job]]:
    """Return what is planned for today: from when to when, by whom, on which job."""
    board = board_of(actor.workshop)
    if board.first_day is None:
        return []
    first = (timezone.localdate() - board.first_day).days * DAY
    today = [
        (int(work), low, high, hand)
        for (work, _), (low, high, hand, _) in sessions_in(board.content).items()
        if first <= low < first + DAY
    ]
    if not today:
        return []
    mine = jobs_seen_by(actor).filter(ended=None, pk__in=[work for work, *_ in today])
    jobs = mine.select_related("plan__bike").only(*JOB_NAMED).in_bulk()
    names = {str(user.pk): user.called for user in hands_of(actor.workshop)}
    rows = [
        (low, f"{clock(low)}–{clock(high)}", names.get(hand, ""), jobs[work])
        for work, low, high, hand in today
        if work in jobs
    ]
    return [row[1:] for row in sorted(rows, key=lambda row: row[:3])]


@transaction.atomic
def keep_hours(*, actor: User, user_id: int, values: dict[str, Any]) -> WorkHours:
    """Keep somebody's working hours. Raises NotThere; InputError where the hours are none."""
    require(actor, "plan-days")
    user = User.objects.filter(workshop_id=actor.workshop_id, pk=user_id).first()
    if user is None:
        raise NotThere
    marks = [values[name] for name in ("begins", "pause_from", "pause_to", "ends")]
    if marks != sorted(marks):
        raise bad("ends", "enter from, pause and end in their order")
    made, _ = WorkHours.objects.update_or_create(user=user, defaults=values)
    mark_stale(actor.workshop_id)
    log(actor, "keep hours", made, after={"of": user.called, "days": made.days})
    return made


@transaction.atomic
def keep_stands(*, actor: User, stands: int) -> Schedule:
    """Keep the number of stands. Raises InputError."""
    require(actor, "plan-days")
    if not 1 <= stands <= STANDS_MAX:
        raise bad("stands", f"{stands} given; 1 to {STANDS_MAX} allowed")
    defaults = {"stands": stands, "stale": True}
    board, _ = Schedule.objects.update_or_create(workshop=actor.workshop, defaults=defaults)
    log(actor, "keep stands", board, after={"stands": stands})
    return board


def ask_days(*, actor: User) -> Task:
    """Have the days worked out in the background."""
    require(actor, "plan-days")
    assert actor.workshop_id is not None
    return ask_for(actor=actor, sort=TASK, about_id=actor.workshop_id, asked={})


@transaction.atomic
def move_session(
    *, actor: User, job_id: int, session: int, not_before: datetime.datetime | None, hand_id: int | None
) -> Schedule:
    """Put a session of a job by hand: not before this time, by this person; neither: let it go where it goes.

    Raises NotThere. The plan is worked out again; what shifts by it is shown.
    """
    require(actor, "plan-days")
    if not jobs_seen_by(actor).filter(pk=job_id, ended=None).exists():
        raise NotThere
    if hand_id is not None and hand_id not in {one.pk for one in hands_of(actor.workshop)}:
        raise NotThere
    if not 0 <= session < 100:
        raise bad("session", f"{session} given; 0 to 99 allowed")
    board, _ = Schedule.objects.select_for_update().get_or_create(workshop=actor.workshop)
    mine = board.pins_of(job_id)
    if not_before is None and hand_id is None:
        mine.pop(str(session), None)
    else:
        mine[str(session)] = {"not_before": not_before and not_before.isoformat(), "hand": hand_id}
    board.pins = {**board.pins, str(job_id): mine}
    board.save(update_fields=["pins"])
    log(actor, "move session", board, after={"job": job_id, "session": session, **mine.get(str(session), {})})
    ask_days(actor=actor)
    return board


# worked out in the background


def update_schedule(task: Task, _report: Report) -> Any:
    """Return the plan of the next days, kept on the board; returns a summary."""
    if task.made_by is None:
        raise NotThere
    return _make(task.made_by.workshop)


def renew_next() -> bool:
    """Make a schedule again that work has changed since; return whether there was one.

    What was moved by hand shows its shift until the next move: only a new day forgets it.
    """
    settled = timezone.now() - SETTLES
    stale = Schedule.objects.filter(stale=True, made__lt=settled).select_related("workshop").order_by("made")
    board = stale.first()
    if board is None:
        return False
    _make(board.workshop, by_hand=False)
    return True


def _make(workshop: Workshop, *, by_hand: bool = True) -> dict[str, int]:
    """Make a workshop's schedule from its open jobs, from today on; returns a summary."""
    board, _ = Schedule.objects.get_or_create(workshop=workshop)
    Schedule.objects.filter(pk=board.pk).update(
        stale=False
    )  # what changes from here on counts for the next one
    today = timezone.localdate()
    hands = [_hand(user, today) for user in hands_of(workshop)]
    works = [_work(sheet, board, today) for sheet in open_jobs_of(workshop.pk) if sheet.open_steps]
    plan = plan_days(works, [hand for hand in hands if hand.hours], stands=board.stands)
    if by_hand or board.first_day != today:
        board.before = board.content if board.first_day == today else {}
    board.content = {
        "placed": [asdict(one) for one in plan.placed],
        "finish": dict(plan.finish), "late": dict(plan.late), "why": dict(plan.why),
        "proven": plan.proven, "bound": plan.bound, "left": list(plan.left),
    }  # fmt: skip
    board.first_day, board.made = today, timezone.now()
    board.save(update_fields=["content", "before", "first_day", "made"])
    return {"placed": len(plan.placed), "late": sum(plan.late.values())}


def _minute(moment: datetime.datetime, today: datetime.date) -> int:
    """Return a moment in minutes from today's midnight."""
    local = timezone.localtime(moment)
    return (local.date() - today).days * DAY + local.hour * 60 + local.minute


def _hand(user: User, today: datetime.date) -> Hand:
    """Somebody's hours from now on."""
    now = _minute(timezone.now(), today)
    hours = [
        (max(low, now), high)
        for n in range(DAYS_AHEAD)
        for low, high in hours_of(user).windows(today + datetime.timedelta(days=n), n)
        if high > now
    ]
    return Hand(name=str(user.pk), hours=tuple(hours))


def _work(sheet: Sheet, board: Schedule, today: datetime.date) -> Work:
    """Return what is left of a job; what still waits is a wait at its beginning."""
    job = sheet.job
    resting = {step.key: step for step in sheet.resting}
    now = timezone.now()
    steps = [
        Step(id=step.key, slot="bike", does="wait", says="", wait_minutes=_left(step, now))
        for step in resting.values()
    ]
    known = {step.key for step in sheet.open_steps} | set(resting)
    steps += [_bare(step, known) for step in sheet.open_steps]
    pins = [
        Pin(
            session=int(number),
            not_before=_minute(datetime.datetime.fromisoformat(pin["not_before"]), today)
            if pin["not_before"]
            else 0,
            hand=str(pin["hand"]) if pin["hand"] else "",
        )
        for number, pin in board.pins_of(job.pk).items()
    ]
    first = 0 if job.plan.parts_on is None else max(0, (job.plan.parts_on - today).days) * DAY
    return Work(
        name=str(job.pk),
        steps=tuple(steps),
        from_minute=first,
        promised=None if job.plan.promised is None else _minute(job.plan.promised, today),
        pins=tuple(pins),
    )


def _left(step: JobStep, now: datetime.datetime) -> int:
    until = step.rests_until
    return 0 if until is None else -(-int((until - now).total_seconds()) // 60)


def _bare(step: JobStep, known: set[str]) -> Step:
    content = step.content
    made = Step(
        id=step.key, slot=content["slot"], does=content["does"], says="", minutes=content["minutes"],
        wait_minutes=content["wait_minutes"], after=tuple(content["after"]),
    )  # fmt: skip
    return evolve(made, after=tuple(key for key in made.after if key in known))
