"""The start page: the bikes by what they need, the plans in work; a bike added from a file."""

from __future__ import annotations

from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.drawing.side import Bones, drawn
from unkett.core.errors import InputError
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Scene
from unkett.web.bikes.models import Bike, Where
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import add_bike_from_file
from unkett.web.bin.services import part_labelled
from unkett.web.causes.services import first_stops
from unkett.web.jobs.models import FollowUp, Job, JobStep
from unkett.web.jobs.queries import follow_ups_of, interruption, jobs_in_work, next_steps
from unkett.web.jobs.schedule import today_of
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import FindForm
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.yard.first_day import ToDo, first_day
from unkett.web.plans.news import News, news_of, take_in_answer, tell_customer
from unkett.web.plans.yard import Yard, yard
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import wear_due
from unkett.web.workshop.models import User

BENCHES_SHOWN = 6


class YardForm(FindForm):
    """The find field, one verdict, and which page."""

    verdict = forms.ChoiceField(
        required=False, choices=[(verdict.value, verdict.title) for verdict in Verdict]
    )
    page = forms.IntegerField(required=False, min_value=1)

    @classmethod
    def asked(cls, data: Any) -> dict[str, Any]:
        """Return what was asked for; what cannot be read counts as not asked."""
        form = cls(data)
        form.is_valid()
        read = form.cleaned_data
        return {
            "find": read.get("find", ""),
            "verdict": read.get("verdict", ""),
            "page": read.get("page") or 1,
        }


class BuildFileForm(forms.Form):
    """A build file to add a bike from."""

    file = forms.FileField(label="Build file (unkett.build/1, JSON)")


@frozen(kw_only=True)
class OnBench:
    """A job in work: its bike, drawn; the next step; why the bike is not ridden meanwhile."""

    job: Any
    bike: Bike
    scene: Scene
    step: JobStep | None
    stop: str

    @property
    def ident(self) -> str:
        return f"on-bench-{self.job.pk}"

    @property
    def ring(self) -> str:
        """How far round the ring the done steps go, in hundredths."""
        return f"{100 * self.job.done_count // max(1, self.job.step_count)} 100"


@frozen(kw_only=True, slots=False)
class YardPage:
    """The yard as it was asked for."""

    actor: User
    yard: Yard
    asked: dict[str, Any]
    form: BuildFileForm

    @cached_property
    def stops(self) -> dict[int, str]:
        """Why a bike on this page is not ridden."""
        begun = {
            bike.pk: interruption(plan.job.open_facts)
            for bike in self.yard.bikes
            for plan in bike.open_plans  # type: ignore[attr-defined]
            if hasattr(plan, "job") and plan.job.open_facts
        }
        return first_stops(self.actor, self.yard.bikes) | begun

    @cached_property
    def first_day(self) -> list[ToDo]:
        """What there is to set up in a new workshop."""
        return first_day(self.actor)

    @cached_property
    def news(self) -> list[News]:
        """What happened to plans: answers, moved promises, parts that came."""
        return news_of(self.actor)

    @cached_property
    def in_work(self) -> list[Job]:
        """The jobs that are on a stand or begun, the nearest promise first."""
        return jobs_in_work(self.actor)

    @cached_property
    def benches(self) -> list[OnBench]:
        """The jobs in work as cards: the bike drawn from its figures, how far it is, what is next."""
        if not self.in_work:
            return []
        shown = self.in_work[:BENCHES_SHOWN]
        wanted = [job.plan.bike_id for job in shown]
        bikes = {
            bike.pk: bike
            for bike in bikes_seen_by(self.actor).filter(pk__in=wanted).prefetch_related("fitted")
        }
        steps = next_steps(shown)
        return [
            OnBench(
                job=job,
                bike=bikes[job.plan.bike_id],
                scene=drawn(
                    Bones.of(bikes[job.plan.bike_id].build(list(bikes[job.plan.bike_id].fitted.all())))
                ),
                step=steps.get(job.pk),
                stop=self.stops.get(job.plan.bike_id, "")
                or (interruption(job.open_facts) if job.open_facts else ""),
            )
            for job in shown
            if job.plan.bike_id in bikes
        ]

    @cached_property
    def today(self) -> list[tuple[str, str, Job]]:
        """The sessions of the day line."""
        return today_of(self.actor) if self.in_work else []

    @cached_property
    def due(self) -> list[FollowUp]:
        """What is to be looked at again soon."""
        return list(follow_ups_of(self.actor))

    @cached_property
    def worn(self) -> list[WearReading]:
        """What is worn, or soon will be."""
        return wear_due(self.actor)

    @property
    def find(self) -> str:
        return str(self.asked["find"])

    @property
    def verdicts(self) -> list[tuple[Verdict, int]]:
        return [(verdict, self.yard.counts[verdict.value]) for verdict in Verdict]

    @property
    def previous(self) -> str:
        return urlencode({**self.asked, "page": self.yard.page - 1})

    @property
    def next(self) -> str:
        return urlencode({**self.asked, "page": self.yard.page + 1})


def _yard(request: Request, form: BuildFileForm, status: int = 200) -> HttpResponse:
    asked = YardForm.asked(request.GET)
    page = YardPage(actor=request.user, yard=yard(request.user, **asked), asked=asked, form=form)
    return answer(request, "yard/yard.html", page, status=status)


@allowed("see-bikes")
def yard_page(request: Request) -> HttpResponse:
    """The start page; a label that was typed or scanned into the find field opens its part."""
    part = part_labelled(request.user, request.GET.get("find", ""))
    if part is not None and part.bike_id is not None:
        return redirect("bikes:part-edit", part.bike_id, part.slot)
    if part is not None and part.where != Where.NEVER:
        return redirect("bench:piece", part.pk)
    return _yard(request, BuildFileForm())


@allowed("change-bikes", "POST")
def add(request: Request) -> HttpResponse:
    """Add a bike from a build file."""
    form = BuildFileForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            bike = add_bike_from_file(actor=request.user, content=form.cleaned_data["file"].read())
        except InputError as error:
            form.add_error("file", [str(fault) for fault in error.faults])
        else:
            return redirect("bikes:stand", bike.pk)
    return _yard(request, form, status=422)


@allowed("change-plans", "POST")
def answer_seen(request: Request, link_id: int) -> HttpResponse:
    """Mark a customer's answer as seen and go to its plan."""
    link = take_in_answer(actor=request.user, link_id=link_id)
    return redirect("plans:quote", link.plan_id)


@allowed("change-plans", "POST")
def customer_told(request: Request, plan_id: int) -> HttpResponse:
    """Record that the customer knows of the new promise."""
    tell_customer(actor=request.user, plan_id=plan_id)
    return redirect("bikes:yard")
