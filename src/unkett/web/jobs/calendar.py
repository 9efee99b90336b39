"""Waits, promises, due work and what is to be looked at again, as iCalendar."""

from __future__ import annotations

import datetime

from django.utils import timezone
from icalendar import Calendar, Event

from unkett.web.jobs.queries import follow_ups_of, open_jobs_of
from unkett.web.wear.queries import wear_due
from unkett.web.workshop.models import User


def calendar_of(actor: User) -> bytes:
    """Return the workshop's calendar as a file."""
    made = Calendar()
    made.add("prodid", "-//Unkett//job calendar//EN")
    made.add("version", "2.0")
    for sheet in open_jobs_of(actor.workshop_id):
        job, bike = sheet.job, sheet.job.plan.bike
        if job.plan.promised is not None:
            made.add_component(
                _event(f"promise-{job.pk}", f"Promised: {bike.name}, {job.plan.called}", job.plan.promised)
            )
        for step in sheet.resting:
            if step.rests_until is not None:
                made.add_component(_event(f"wait-{step.pk}", f"{bike.name}: {step.says}", step.rests_until))
        for one in job.outside.all():
            if one.back_at is None and one.due is not None:
                made.add_component(_event(f"outside-{one.pk}", f"{bike.name}: {one.what} back", one.due))
    for due in follow_ups_of(actor):
        made.add_component(_event(f"due-{due.pk}", f"{due.bike.name}: {due.what}", due.due))
    for worn in wear_due(actor):
        if worn.due is not None:
            uid = f"wear-{worn.part_id}-{worn.sort}"
            made.add_component(_event(uid, f"{worn.part.bike}: {worn.says}, at its limit", worn.due))
    return bytes(made.to_ical())


def _event(uid: str, says: str, when: datetime.datetime | datetime.date) -> Event:
    event = Event()
    event.add("uid", f"{uid}@unkett")
    event.add("summary", says)
    event.add("dtstart", when)
    event.add("dtstamp", timezone.now())
    return event
