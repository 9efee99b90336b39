"""Jobs as they stand: their steps, what may be done next, what is due."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import Any

from attrs import frozen
from django.db.models import Count, F, Q, QuerySet
from django.utils import timezone

from unkett.core.bike.figures import chain_of, gears_of
from unkett.core.check.engine import check
from unkett.core.work.step import JobSheet
from unkett.web.bikes.models import Status
from unkett.web.bikes.queries import settings_of
from unkett.web.jobs.models import FollowUp, Job, JobStep, Schedule
from unkett.web.plans.models import Plan
from unkett.web.plans.pricing import sheet_of_plan
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require

IN_WORK_SHOWN = 8
STOPS_SHOWN = 6
JOB_NAMED = (
    "plan__promised",
    "plan__name",
    "plan__letter",
    "plan__bike__name",
)  # all that a list says of a job
LONGEST_WAIT = datetime.timedelta(days=3)
DUE_SOON = datetime.timedelta(days=14)


def jobs_of(workshop_id: int) -> QuerySet[Job]:
    """Return the jobs of a workshop."""
    return Job.objects.filter(plan__bike__workshop_id=workshop_id).exclude(plan__bike__status=Status.REMOVED)


def jobs_seen_by(actor: User) -> QuerySet[Job]:
    """Return the jobs of the actor's workshop."""
    return jobs_of(actor.workshop_id)


def mark_stale(workshop_id: int) -> None:
    """Say that work changed since a workshop's schedule was made: it is made again in the background."""
    Schedule.objects.filter(workshop_id=workshop_id, stale=False).update(stale=True)


def job_in_work(actor: User, plan_id: int) -> Job | None:
    """The job of a plan that is under way: its quote is agreed and it is not handed over; None for another plan."""
    jobs = jobs_seen_by(actor).filter(plan_id=plan_id, ended=None).select_related("plan")
    job = jobs.first()
    return None if job is None or job.plan.is_open else job


def sheet_of(actor: User, plan: Plan, done: Sequence[str] = ()) -> JobSheet:
    """Return the sheet that a plan comes to now, after the steps that are done."""
    return sheet_of_plan(planned(actor, plan.pk), settings_of(actor), done)


def figures_moved(actor: User, plan: Plan) -> list[list[str]]:
    """Return the figures that a plan moves: title, before, after."""
    found, settings = planned(actor, plan.pk), settings_of(actor)
    rows = []
    for build in (found.stands.build, found.build):
        gears, chain = gears_of(build), chain_of(build, settings)
        rows.append([
            f"{gears.low_m:.2f} m" if gears.low_m else "–",
            f"{gears.high_m:.2f} m" if gears.high_m else "–",
            chain.shown if chain and chain.shown else "–",
            check(build, settings).verdict.title,
        ])  # fmt: skip
    titles = ("Lowest gear", "Highest gear", "Chain's window, links", "Verdict")
    return [[title, old, new] for title, old, new in zip(titles, *rows, strict=True) if old != new]


@frozen(kw_only=True, slots=False)
class Sheet:
    """A job's steps in their order, and what follows from how far they are."""

    job: Job
    steps: tuple[JobStep, ...]

    @cached_property
    def by_key(self) -> dict[str, JobStep]:
        return {step.key: step for step in self.steps}

    def before(self, step: JobStep) -> list[JobStep]:
        """Return what has to be finished first and is not: not done, or still waiting."""
        first = [one for one in self._before(step) if not self.is_over(one)]
        nearer = {key for one in first for key in _lawful(one)}
        return [one for one in first if one.key not in nearer]

    def _before(self, step: JobStep) -> list[JobStep]:
        return [self.by_key[key] for key in _lawful(step) if key in self.by_key]

    def is_over(self, step: JobStep) -> bool:
        """Return whether a step is done or left out, its wait over."""
        now = timezone.now()
        return step.done_at is not None and (step.rests_until or now) <= now

    def requires(self, step: JobStep) -> list[tuple[str, bool]]:
        """Return what other steps bring about before a step, in words, each with whether it is so."""
        found = []
        for words, keys in step.content.get("made_by", {}).items():
            makers = [self.by_key[key] for key in keys if key in self.by_key]
            if makers:
                found.append((words, all(self.is_over(one) for one in makers)))
        return found

    def counting_on(self, step: JobStep) -> list[JobStep]:
        """Return the steps that are done and count on one that is done, the last in the sheet first."""
        found, keys = [], {step.key}
        for one in self.steps:
            if one.is_done and one.pk != step.pk and keys & set(_lawful(one)):
                keys.add(one.key)
                found.append(one)
        return found[::-1]

    @cached_property
    def open_steps(self) -> list[JobStep]:
        return [step for step in self.steps if not step.is_done]

    @cached_property
    def ready(self) -> list[JobStep]:
        """What may be done now."""
        return [step for step in self.open_steps if not self.before(step)]

    @cached_property
    def resting(self) -> list[JobStep]:
        """What waits, the first to end first."""
        now = timezone.now()
        found = [step for step in self.steps if step.rests_until is not None and step.rests_until > now]
        return sorted(found, key=lambda step: step.rests_until or now)

    @cached_property
    def to_countersign(self) -> list[JobStep]:
        return [step for step in self.steps if step.wants_countersign and step.countersigned_at is None]

    def next_for(self, actor: User) -> JobStep | None:
        """The step somebody does next: one they hold, else the first that is ready and that nobody else holds."""
        mine = [step for step in self.open_steps if step.holder_id == actor.pk]
        free = [step for step in self.ready if step.holder_id in (None, actor.pk)]
        return next(iter([*mine, *free, *self.ready, *self.open_steps]), None)

    @property
    def done_count(self) -> int:
        return len(self.steps) - len(self.open_steps)

    @property
    def minutes(self) -> int:
        return sum(step.content["minutes"] for step in self.steps)

    @property
    def minutes_left(self) -> int:
        return sum(step.content["minutes"] for step in self.open_steps)

    @property
    def torques(self) -> list[JobStep]:
        return [step for step in self.steps if step.content["torque_nm"] is not None]

    @property
    def readings(self) -> list[JobStep]:
        return [step for step in self.steps if step.reading is not None and step.content["torque_nm"] is None]

    @property
    def cautions(self) -> list[str]:
        return list(dict.fromkeys(step.content["caution"] for step in self.steps if step.content["caution"]))

    @property
    def accepted(self) -> list[str]:
        return list(self.steps[-1].content["needs"]) if self.steps else []


def _lawful(step: JobStep) -> list[str]:
    """The keys of the steps that must come before one; a sheet made by an older release has only their usual order."""
    return list(step.content.get("lawful", step.content["after"]))


def sheet_stored(job: Job) -> Sheet:
    steps = job.steps.select_related("holder", "done_by", "countersigned_by").defer("picture__content")
    return Sheet(job=job, steps=tuple(steps.select_related("picture")))


def interrupted(actor: User, bike_id: int) -> list[str]:
    """Return why a bike is not ridden whose work is begun and not finished; nothing where no work is open."""
    jobs = jobs_seen_by(actor).filter(plan__bike_id=bike_id, ended=None).exclude(open_facts=[])
    return [interruption(facts) for facts in jobs.values_list("open_facts", flat=True)]


def interruption(facts: Sequence[str]) -> str:
    """Say why a bike is not ridden in mid-work, the first six reasons."""
    more = f" and {len(facts) - STOPS_SHOWN} more" if len(facts) > STOPS_SHOWN else ""
    return f"Work not finished: {', '.join(facts[:STOPS_SHOWN])}{more}"


def open_jobs_of(workshop_id: int) -> list[Sheet]:
    """Return the jobs in work of a workshop with their steps, the nearest promise first."""
    jobs = jobs_of(workshop_id).filter(ended=None).select_related("plan__bike").prefetch_related("steps")
    found = [Sheet(job=job, steps=tuple(job.steps.all())) for job in jobs]
    far = datetime.datetime.max.replace(tzinfo=datetime.UTC)
    return sorted(found, key=lambda one: (one.job.plan.promised or far, one.job.pk))


def jobs_in_work(actor: User) -> list[Job]:
    """Return the jobs with the nearest promises, how far they are and until when they wait; without their steps."""
    mine = jobs_seen_by(actor).filter(ended=None).select_related("plan__bike").only(*JOB_NAMED)
    counted = mine.annotate(
        step_count=Count("steps"), done_count=Count("steps", filter=Q(steps__done_at__isnull=False))
    )
    jobs: list[Any] = list(counted.order_by(F("plan__promised").asc(nulls_last=True), "pk")[:IN_WORK_SHOWN])
    waits = JobStep.objects.filter(job__in=jobs, done_at__gte=timezone.now() - LONGEST_WAIT, skipped="")
    ends: dict[int, datetime.datetime] = {}
    for step in waits.filter(content__wait_minutes__gt=0) if jobs else ():
        if step.rests_until is not None and step.rests_until > timezone.now():
            ends[step.job_id] = min(step.rests_until, ends.get(step.job_id, step.rests_until))
    for job in jobs:
        job.rests_until = ends.get(job.pk)
    return jobs


def next_steps(jobs: Iterable[Job]) -> dict[int, JobStep]:
    """Return the first open step of each job that has one, by the job's id."""
    left = JobStep.objects.filter(job__in=list(jobs), done_at=None).order_by("job_id", "place")
    return {step.job_id: step for step in left.distinct("job_id")}


def follow_ups_of(actor: User) -> Iterable[FollowUp]:
    """Return what is to be looked at again within two weeks, or since."""
    until = timezone.localdate() + DUE_SOON
    mine = FollowUp.objects.filter(
        bike__workshop_id=actor.workshop_id, bike__status=Status.HERE, done_at=None
    )
    return mine.filter(due__lte=until).select_related("bike").only("what", "due", "bike__name")[:50]


def locked_sheet(actor: User, policy: str, job_id: int) -> Sheet:
    """Return a job in work, locked. Raises NotThere; refused once it is ended."""
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


def step_in(sheet: Sheet, step_id: int) -> JobStep:
    """Return a step of a sheet by its id. Raises NotThere."""
    step = next((one for one in sheet.steps if one.pk == step_id), None)
    if step is None:
        raise NotThere
    return step
