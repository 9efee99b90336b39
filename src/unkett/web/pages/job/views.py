"""The job at the stand: steps ticked, skipped, countersigned; what is found, sent out, promised; the hand-over."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import InputError
from unkett.core.units import read_reading
from unkett.web.bikes.models import Where
from unkett.web.jobs import found, handover, services, stepping
from unkett.web.jobs.models import Job
from unkett.web.jobs.queries import jobs_seen_by
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import of_plan
from unkett.web.pages.common.forms import clean, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.job.forms import FOUND_FORMS, NoteForm, OutsideForm
from unkett.web.pages.job.page import JobPage


class TickForm(forms.Form):
    """A reading as typed, and why a step is done before its time."""

    reading = forms.CharField(required=False, max_length=40, strip=True)
    anyway = forms.CharField(required=False, max_length=200, strip=True)
    instrument = forms.CharField(required=False, max_length=60, strip=True)

    keep_why = forms.CharField(required=False, max_length=200, strip=True)
    not_measured = forms.CharField(required=False, max_length=200, strip=True)
    sure = forms.BooleanField(required=False)


class UndoForm(forms.Form):
    with_later = forms.BooleanField(required=False)


class FitsNotForm(forms.Form):
    """Why a new part does not fit, and where it goes."""

    why = forms.CharField(max_length=200, strip=True)
    goes_to = forms.ChoiceField(choices=[(one.value, says) for one, says in found.GOES.items()])


class ReasonForm(forms.Form):
    reason = forms.CharField(max_length=200, strip=True)


class HoldForm(forms.Form):
    hold = forms.BooleanField(required=False)


class PictureForm(forms.Form):
    picture = forms.FileField()


class GoesForm(forms.Form):
    goes_to = forms.ChoiceField(
        choices=[(one.value, one.label) for one in (Where.BENCH, Where.CUSTOMER, Where.SCRAPPED)]
    )


def job_of(request: Request, job_id: int) -> Job:
    """Return a job of this workshop, or 404."""
    job = jobs_seen_by(request.user).filter(pk=job_id).first()
    if job is None:
        raise Http404
    return job


def _show(request: Request, plan_id: int, status: int = 200, **more: Any) -> HttpResponse:
    more.setdefault("chosen_id", whole_number(request.GET.get("step", "")))
    page = of_plan(request, plan_id, JobPage, "job", **more)
    return answer(request, "job/job.html", page, status=status)


@allowed("see-jobs")
def job(request: Request, plan_id: int) -> HttpResponse:
    """The job of a plan: one step large."""
    return _show(request, plan_id)


@allowed("change-jobs", "POST")
def start(request: Request, plan_id: int) -> HttpResponse:
    """Make the sheet."""
    services.start_job(actor=request.user, plan_id=plan_id)
    return redirect("jobs:job", plan_id)


@allowed("change-jobs", "POST")
def update(request: Request, job_id: int) -> HttpResponse:
    """Update the job sheet after the plan changed."""
    made = services.update_sheet(actor=request.user, job_id=job_id)
    return redirect("jobs:job", made.plan_id)


@allowed("do-steps", "POST")
def tick(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Mark a step as done; a reading that is wrong is reported beside its field."""
    plan_id = job_of(request, job_id).plan_id
    data = clean(TickForm(request.POST))
    step = services.step_of(request.user, job_id, step_id)
    try:
        unit = (step.content["reading"] or {}).get("unit", "")
        reading = read_reading(data["reading"], unit, "reading") if data["reading"] else None
        stepping.tick_step(actor=request.user, job_id=job_id, step_id=step_id, **{**data, "reading": reading})
    except InputError as error:
        fault = error.faults[0]
        typed = {
            "typed": data["reading"],
            "instrument": data["instrument"],
            "not_measured": data["not_measured"],
        }
        outside = fault.path == "keep_why"
        return _show(
            request, plan_id, 422, chosen_id=step_id, fault=fault.says, outside=outside, answered=typed
        )
    return redirect("jobs:job", plan_id)


@allowed("do-steps", "POST")
def take_back(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Undo a step."""
    later = clean(UndoForm(request.POST))["with_later"]
    step = stepping.undo_step(actor=request.user, job_id=job_id, step_id=step_id, with_later=later)
    return _at(step)


@allowed("do-steps", "POST")
def skip(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Skip a step, with the reason."""
    reason = clean(ReasonForm(request.POST))["reason"]
    step = stepping.skip_step(actor=request.user, job_id=job_id, step_id=step_id, reason=reason)
    return redirect("jobs:job", step.job.plan_id)


@allowed("do-steps", "POST")
def hold(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Take a step in hand, or let go of it."""
    wanted = clean(HoldForm(request.POST))["hold"]
    return _at(stepping.start_step(actor=request.user, job_id=job_id, step_id=step_id, hold=wanted))


@allowed("countersign", "POST")
def sign(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Countersign a step."""
    return _at(stepping.countersign(actor=request.user, job_id=job_id, step_id=step_id))


@allowed("do-steps", "POST")
def picture(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Keep a picture of a step."""
    job_of(request, job_id)
    sent = clean(PictureForm(request.POST, request.FILES))["picture"].read()
    return _at(stepping.keep_step_picture(actor=request.user, job_id=job_id, step_id=step_id, content=sent))


@allowed("see-jobs")
def picture_file(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """The picture."""
    step = services.step_of(request.user, job_id, step_id)
    if not hasattr(step, "picture"):
        raise Http404
    return HttpResponse(bytes(step.picture.content), content_type="image/jpeg")


@allowed("change-plans", "POST")
def find(request: Request, job_id: int, what: str) -> HttpResponse:
    """Add what was found on the stand."""
    plan_id = job_of(request, job_id).plan_id
    if what not in FOUND_FORMS:
        raise Http404
    form = FOUND_FORMS[what](request.POST)
    if not form.is_valid():
        return _show(request, plan_id, 422, form=form)
    try:
        _keep_found(request, job_id, what, form.cleaned_data)
    except InputError as error:
        form.add_error(None, error.faults[0].says)
        return _show(request, plan_id, 422, form=form)
    return redirect("jobs:job", plan_id)


def _keep_found(request: Request, job_id: int, what: str, data: dict[str, Any]) -> None:
    if what == "defect":
        tick, _, slot = data.pop("tick").partition(":")
        found.find_defect(actor=request.user, job_id=job_id, tick=tick, slots=[slot], **data)
    else:
        found.find_own(actor=request.user, job_id=job_id, **{**data, "price": data["price"] or 0})


@allowed("change-plans", "POST")
def fits_not(request: Request, job_id: int, step_id: int) -> HttpResponse:
    """Record that a new part does not fit."""
    plan_id = job_of(request, job_id).plan_id
    found.does_not_fit(actor=request.user, job_id=job_id, step_id=step_id, **clean(FitsNotForm(request.POST)))
    return redirect("jobs:job", plan_id)


@allowed("see-jobs")
def tag(request: Request, plan_id: int) -> HttpResponse:
    """The tag that hangs on a bike whose work is interrupted."""
    page = of_plan(request, plan_id, JobPage, "job")
    return answer(request, "job/tag.html", page)


@allowed("change-jobs", "POST")
def note(request: Request, job_id: int) -> HttpResponse:
    """Keep the promise, the day of the parts, a later stage and what is kept for it."""
    plan_id = job_of(request, job_id).plan_id
    form = NoteForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, 422, form=form)
    services.note_job(actor=request.user, job_id=job_id, **form.cleaned_data)
    return redirect("jobs:job", plan_id)


@allowed("change-jobs", "POST")
def outside(request: Request, job_id: int) -> HttpResponse:
    """Work goes to another shop."""
    plan_id = job_of(request, job_id).plan_id
    form = OutsideForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, 422, form=form)
    data = form.cleaned_data
    services.send_outside(actor=request.user, job_id=job_id, **{**data, "cost": data["cost"] or 0})
    return redirect("jobs:job", plan_id)


@allowed("change-jobs", "POST")
def back(request: Request, job_id: int, outside_id: int) -> HttpResponse:
    """Work outside goes out, or is back."""
    move = services.goes_outside if "goes" in request.POST else services.back_from_outside
    one = move(actor=request.user, job_id=job_id, outside_id=outside_id)
    return redirect("jobs:job", one.job.plan_id)


@allowed("countersign", "POST")
def hand_over(request: Request, job_id: int) -> HttpResponse:
    """Hand the bike over."""
    goes_to = clean(GoesForm(request.POST))["goes_to"]
    tried = {
        key.removeprefix("tried-"): str(word)
        for key, word in request.POST.items()
        if key.startswith("tried-")
    }
    handover.hand_over(actor=request.user, job_id=job_id, goes_to=goes_to, tried=tried)
    return redirect("jobs:paper", job_id, "hand-over")


@allowed("do-steps", "POST")
def look_again(request: Request, follow_up_id: int) -> HttpResponse:
    """Record that what was due is done."""
    handover.look_again(actor=request.user, follow_up_id=follow_up_id)
    return redirect("bikes:yard")


def _at(step: Any) -> HttpResponse:
    """Redirect to the step."""
    return HttpResponse(status=302, headers={"Location": f"/plans/{step.job.plan_id}/job/?step={step.pk}"})
