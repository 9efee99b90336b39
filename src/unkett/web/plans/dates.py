"""When a plan's parts are here and when its bike is ready; what a later part does to a promise."""

from __future__ import annotations

import datetime
from typing import Any

from django.conf import settings
from django.utils import timezone
from django.utils.module_loading import import_string

from unkett.core.work.dates import ready_on
from unkett.core.work.step import JobSheet
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import Planned

PROMISED_AT = datetime.time(18)  # of the day that the bike is ready


def parts_by(found: Planned) -> datetime.date:
    """Return the day on which the last part of a plan is here: as it was ordered, else by the days that parts take."""
    today = timezone.localdate()
    if found.plan.parts_on is not None:
        return max(today, found.plan.parts_on)
    return today + datetime.timedelta(days=found.days)


def ready_by(found: Planned, sheet: JobSheet | None = None) -> datetime.date:
    """The day on which a plan's bike is ready: as it is promised, else when its parts are here and its work is done.

    `sheet` is wanted where nothing is promised.
    """
    if found.plan.promised is not None:
        return timezone.localtime(found.plan.promised).date()
    return ready_on(parts_by(found), sheet.ready_minutes if sheet else 0)


def promise(plan: Plan, promised: datetime.datetime | None, parts_on: datetime.date | None) -> None:
    """Store until when a plan's bike is promised and when its parts are here. The plan is locked."""
    plan.promised, plan.parts_on, plan.moved = promised, parts_on, {}
    plan.save(update_fields=["promised", "parts_on", "moved"])
    _tell(plan)


def promise_day(plan: Plan, day: datetime.date) -> None:
    """Promise a plan's bike for the evening of a day, where nothing is promised yet; the caller saves it."""
    if plan.promised is None:
        plan.promised = timezone.make_aware(datetime.datetime.combine(day, PROMISED_AT))


def part_comes(plan: Plan, parts_on: datetime.date | None, why: str, minutes: int) -> dict[str, Any]:
    """Set the day on which a plan's last part comes; a promise that cannot be kept by it moves. The plan is locked.

    `minutes` is what the work takes from then on. Return what moved: from, to and why; nothing where the promise holds.
    """
    plan.parts_on = parts_on
    ready = None if parts_on is None else ready_on(parts_on, minutes)
    if plan.promised is not None and ready is not None and timezone.localtime(plan.promised).date() < ready:
        before, plan.promised = plan.promised, None
        promise_day(plan, ready)
        first = plan.moved.get("from") or before.isoformat()
        plan.moved = {"from": first, "to": plan.promised and plan.promised.isoformat(), "why": why}
    plan.save(update_fields=["parts_on", "promised", "moved"])
    _tell(plan)
    return dict(plan.moved)


def _tell(plan: Plan) -> None:
    """Have the schedule of a plan's workshop made again."""
    for name in settings.AFTER_DATES_MOVE:
        import_string(name)(plan.bike.workshop_id)
