"""The end of a job: handed over, what is due next, what was read put into the wear log; what was due looked at."""

from __future__ import annotations

import datetime
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from dateutil.relativedelta import relativedelta
from django.db import transaction
from django.utils import timezone

from unkett.core.build import plain
from unkett.core.standards import table
from unkett.core.work.facts import holds
from unkett.core.work.finish import DoneStep, recorded
from unkett.web.bikes.complaints import open_complaints, reasons_of
from unkett.web.bikes.inspection import close_findings
from unkett.web.bikes.models import Bike, Origin, Where
from unkett.web.bikes.queries import settings_of
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.causes.services import try_complaints
from unkett.web.jobs.models import FollowUp, Job, JobStep
from unkett.web.jobs.queries import Sheet, jobs_seen_by, locked_sheet, sheet_stored
from unkett.web.jobs.stepping import keep_open_facts, on_stand, waits_for
from unkett.web.plans.carrying import apply_changes
from unkett.web.plans.models import Plan, State
from unkett.web.plans.services import move_plan
from unkett.web.wear.services import keep_what_was_read
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

FIRST_RIDE = datetime.timedelta(days=14)
OLD_CHAIN = "measure:chain:old"


@transaction.atomic
def hand_over(
    *, actor: User, job_id: int, goes_to: str = Where.BENCH, tried: Mapping[str, str] | None = None
) -> Job:
    """The end of a job: the plan is carried out, checked and handed over, and what is due next is written down.

    `tried` says of every open complaint whether it is gone, better or the same. Refused while steps are open, wait,
    want a countersign, work is outside, or a complaint was not asked again.
    """
    sheet = locked_sheet(actor, "countersign", job_id)
    job = sheet.job
    left = [step for step in sheet.open_steps if step.content["does"] != "hand_over"]
    if left:
        raise Refused(f"{len(left)} steps are open; the first: “{left[0].says[:80]}”.")
    if sheet.resting:
        raise Refused(waits_for(sheet.resting))
    if sheet.to_countersign:
        raise Refused(f"A mechanic countersigns first: “{sheet.to_countersign[0].says[:80]}”.")
    away = job.outside.filter(back_at=None).first()
    if away is not None:
        raise Refused(f"Work outside is not back: {away.what}.")
    _asked_again(actor, sheet, tried or {})
    _read_what_leaves(actor, sheet, _waiting(job.plan))
    plan = _carried_out(actor, sheet, goes_to)
    for to in (State.CHECKED, State.HANDED_OVER):
        if to in plan.may_go:
            plan = move_plan(actor=actor, plan_id=plan.pk, version=plan.version, to=to)
    done = [step for step in sheet.steps if _did(step)]
    _onto_the_bike(actor, sheet, [*done, sheet.steps[-1]])  # what is accepted is signed with the last
    last = sheet.steps[-1]
    last.done_by, last.done_at = actor, timezone.now()
    last.save()
    keep_open_facts(job)
    job.ended, job.checked_by = timezone.now(), actor
    job.save(update_fields=["ended", "checked_by"])
    FollowUp.objects.bulk_create(_due_after(job))
    _into_the_wear_book(actor, sheet, [step for step in sheet.steps if not reads_what_comes_off(step)])
    _close_findings(actor, sheet)
    log(actor, "hand over", job, after={"plan": plan.name})
    return job


def _asked_again(actor: User, sheet: Sheet, tried: Mapping[str, str]) -> None:
    """Every open complaint is tried again, as the rider reported it."""
    bike = Bike.objects.get(pk=sheet.job.plan.bike_id)
    unsaid = [one.title for one in open_complaints(bike) if one.key not in tried]
    if unsaid:
        raise Refused(f"Ask again first, gone, better or the same: {'; '.join(unsaid)}.")
    if tried:
        try_complaints(actor=actor, bike_id=bike.pk, version=bike.version, said=tried)


@transaction.atomic
def apply_change(
    *, actor: User, plan_id: int, version: int, bike_version: int, slot: str, goes_to: str
) -> Plan:
    """Carry out one change of a plan, or all that are left, in the midst of its job.

    What the steps that are done did to these parts is written on the bike at once, as at the hand-over. Raises as
    `apply_changes`.
    """
    job = jobs_seen_by(actor).filter(plan_id=plan_id, ended=None).select_related("plan__bike").first()
    sheet = None if job is None else sheet_stored(job)
    if job is not None and sheet is not None:
        leaving = _waiting(job.plan)
        _read_what_leaves(actor, sheet, leaving & {slot} if slot else leaving)
        bike_version += (
            Bike.objects.get(pk=job.plan.bike_id).version - job.plan.bike.version
        )  # by those readings
    plan = apply_changes(
        actor=actor, plan_id=plan_id, version=version, bike_version=bike_version, slot=slot, goes_to=goes_to
    )
    if sheet is not None:
        waiting = _waiting(plan)
        done = [step for step in sheet.steps if _did(step) and step.content["slot"] not in waiting]
        _onto_the_bike(actor, sheet, done)
    return plan


def _waiting(plan: Plan) -> set[str]:
    """Return the slots whose change is not on the bike's record yet."""
    fitted = {part.slot: part for part in plan.bike.fitted.all()}
    return {change.slot for change in plan.changes.all() if not change.is_done(fitted)}


def _read_what_leaves(actor: User, sheet: Sheet, slots: Collection[str]) -> None:
    """Write what was read of old parts into their wear log while they are on the bike."""
    steps = [step for step in sheet.steps if reads_what_comes_off(step) and step.content["slot"] in slots]
    _into_the_wear_book(actor, sheet, steps)


def _did(step: JobStep) -> bool:
    return step.done_at is not None and not step.skipped


def _onto_the_bike(actor: User, sheet: Sheet, steps: Sequence[JobStep]) -> None:
    """Write what steps did to the bike: what was read or worked out, and the needs that are settled."""
    did = [_done_step(step) for step in steps]
    bike = Bike.objects.get(pk=sheet.job.plan.bike_id)
    fitted = list(bike.fitted.all())
    before = bike.build(fitted)
    after = recorded(before, did, settings_of(actor))
    moved = {slot: part for slot, part in after.parts.items() if part.attrs != before.parts[slot].attrs}
    if not moved and after.settled == before.settled:
        return

    read = {
        (one["slot"], one["attr"]) for step in did if step.reading is not None for one in step.effects
    }  # the rest is as planned, not measured

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        for slot, part in moved.items():
            piece = parts.in_slot(bike, slot)
            if piece is not None:
                attrs = plain(part.attrs)
                origins = {
                    name: Origin.MEASURED if (slot, name) in read else Origin.ASSUMED
                    for name in attrs
                    if attrs[name] != piece.attrs.get(name)
                }
                kept = {name: origin for name, origin in piece.origins.items() if name in attrs}
                parts.change(piece, attrs=attrs, origins=kept | origins)
        bike.settle(after.settled, parts.on(bike))
        return None, {"settled": [one.what for one in after.settled], "parts": sorted(moved)}

    write_bike(actor, bike.pk, bike.version, "record job", "what the job did to the bike", action)


def _done_step(step: JobStep) -> DoneStep:
    content = step.content
    return DoneStep(
        id=step.key,
        slot=content["slot"],
        needs=tuple(content["needs"]),
        effects=tuple(content.get("effects", ())),
        reading=step.reading,
        computed=content.get("computed"),
    )


def reads_what_comes_off(step: JobStep) -> bool:
    """Return whether a step reads the part that comes off, such as the wear of the old chain."""
    return step.content["does"] == "take_off" or step.key == OLD_CHAIN


def _close_findings(actor: User, sheet: Sheet) -> None:
    """Findings of the inspection whose step is done are closed; the others stay for next time."""
    bike = Bike.objects.get(pk=sheet.job.plan.bike_id)
    for step in sheet.steps:  # the papers say why a defect was mended when its finding is closed, too
        reasons = reasons_of(bike, step.content["defects"])
        if reasons:
            step.content["because"] = reasons
            step.save(update_fields=["content"])
    done = [step for step in sheet.steps if step.is_done and not step.skipped]
    close_findings(
        actor=actor, bike_id=bike.pk, mended={ref for step in done for ref in step.content["defects"]}
    )


def _into_the_wear_book(actor: User, sheet: Sheet, steps: Iterable[JobStep]) -> None:
    """What was read at the steps, of the parts as they are on the bike now."""
    for step in steps:
        if step.reading is not None and step.done_at is not None:
            asked = step.content["reading"] or {}
            word = asked.get("word") or asked.get("attr", "")
            day = timezone.localtime(step.done_at).date()
            keep_what_was_read(
                actor, sheet.job.plan.bike_id, step.content["slot"], word.lower(), step.reading, day,
                step.instrument,
            )  # fmt: skip


def _carried_out(actor: User, sheet: Sheet, goes_to: str) -> Plan:
    """What the sheet did and the bike does not show yet is written on it. Refused where the plan wants other parts."""
    on_stand(actor, sheet.job.plan)
    plan = Plan.objects.select_related("bike").get(pk=sheet.job.plan_id)
    fitted = {part.slot: part for part in plan.bike.fitted.all()}
    left = [change for change in plan.changes.all() if not change.is_done(fitted)]
    words = {(step.content["does"], step.content["slot"], step.content["part"]) for step in sheet.steps}
    others = [
        change for change in left if not change.empties and ("fit", change.slot, change.name) not in words
    ]
    if others:
        raise Refused(
            f"The plan holds {others[0].name} now, which the sheet does not. Update the job sheet first."
        )
    if not left:
        return plan
    return apply_changes(
        actor=actor, plan_id=plan.pk, version=plan.version, bike_version=plan.bike.version, goes_to=goes_to
    )


def _due_after(job: Job) -> list[FollowUp]:
    """Bolts after the first ride, and what the calendar wants of such a bike; one of each is open at a time."""
    bike = job.plan.bike
    bike.refresh_from_db()
    today = timezone.localdate()
    build = bike.build(list(bike.fitted.all()))
    found = {"Every bolt after the first ride": today + FIRST_RIDE}
    for row in table("calendar_checks").rows:
        for slot in row["slots"]:
            end = slot.partition("_")[0]
            tests = [test.replace("{end}", end) for test in row.get("only", ())]
            if (slot == "bike" or slot in build.filled()) and all(holds(test, build) for test in tests):
                found[row["title"]] = today + relativedelta(months=row["months"])
    open_now = set(FollowUp.objects.filter(bike=bike, done_at=None).values_list("what", flat=True))
    return [
        FollowUp(bike=bike, job=job, what=what, due=due)
        for what, due in found.items()
        if what not in open_now
    ]


@transaction.atomic
def look_again(*, actor: User, follow_up_id: int) -> FollowUp:
    """What was due is looked at. Raises NotThere."""
    require(actor, "do-steps")
    mine = FollowUp.objects.filter(bike__workshop_id=actor.workshop_id).select_for_update(of=("self",))
    one = mine.filter(pk=follow_up_id).first()
    if one is None:
        raise NotThere
    if one.done_at is None:
        one.done_at, one.done_by = timezone.now(), actor
        one.save()
        log(actor, "look again", one, after={"what": one.what})
    return one
