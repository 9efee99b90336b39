"""The day plan: a line of the day for everybody at work, what shifts, which promise breaks; the calendar file."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from unkett.web.jobs import schedule as store
from unkett.web.jobs.calendar import calendar_of
from unkett.web.jobs.models import WorkHours
from unkett.web.pages.common.answers import answer, bytes_file
from unkett.web.pages.common.forms import clean, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.schedule.page import DaysPage


class HoursForm(forms.Form):
    """Set somebody's working hours."""

    days = forms.RegexField(r"^[1-7]{0,7}$", required=False, max_length=7)
    begins = forms.TimeField()
    pause_from = forms.TimeField()
    pause_to = forms.TimeField()
    ends = forms.TimeField()


class StandsForm(forms.Form):
    stands = forms.IntegerField(min_value=1, max_value=store.STANDS_MAX)


class MoveForm(forms.Form):
    """Where a session is put by hand."""

    not_before = forms.DateTimeField(required=False)
    hand = forms.IntegerField(required=False, min_value=1)


def _show(request: Request, status: int = 200, **more: Any) -> HttpResponse:
    day = whole_number(request.GET.get("day", "")) or 0
    page = DaysPage(actor=request.user, day=min(day, store.DAYS_AHEAD), **more)
    return answer(request, "schedule/schedule.html", page, status=status)


@allowed("see-jobs")
def days(request: Request) -> HttpResponse:
    """The day plan."""
    return _show(request)


@allowed("plan-days", "POST")
def work_out(request: Request) -> HttpResponse:
    """Have it worked out again."""
    store.ask_days(actor=request.user)
    return redirect("jobs:days")


@allowed("plan-days", "POST")
def stands(request: Request) -> HttpResponse:
    """Set the number of stands."""
    store.keep_stands(actor=request.user, stands=clean(StandsForm(request.POST))["stands"])
    return redirect("jobs:days")


@allowed("plan-days", "POST")
def hours(request: Request, user_id: int) -> HttpResponse:
    """When somebody works."""
    form = HoursForm(request.POST)
    values = {
        name: value for name, value in clean(form).items() if name in {f.name for f in WorkHours._meta.fields}
    }
    values["days"] = "".join(sorted(set(values["days"])))
    store.keep_hours(actor=request.user, user_id=user_id, values=values)
    return redirect("jobs:days")


@allowed("plan-days", "POST")
def move(request: Request, job_id: int, session: int) -> HttpResponse:
    """Pin a session by hand, or release it."""
    data = clean(MoveForm(request.POST))
    store.move_session(
        actor=request.user,
        job_id=job_id,
        session=session,
        not_before=data["not_before"],
        hand_id=data["hand"],
    )
    return redirect("jobs:days")


@allowed("see-jobs")
def calendar(request: Request) -> HttpResponse:
    """Promises, waits and what is due as iCalendar."""
    name = f"jobs-{timezone.localdate():%Y-%m-%d}.ics"
    return bytes_file(calendar_of(request.user), name, "text/calendar")
