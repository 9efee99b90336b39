"""The quote of a plan: on the page, printed and as PDF; extra lines; what was agreed."""

from __future__ import annotations

import base64
from functools import cached_property

from attrs import frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.web.jobs.found import find_own
from unkett.web.jobs.queries import job_in_work
from unkett.web.jobs.services import send_outside
from unkett.web.pages.common.answers import answer, back_or, bytes_file
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.forms import Money, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans import quote_items
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.links import address_of_link, links_of
from unkett.web.plans.models import Agreement, CustomerLink, Plan, State
from unkett.web.plans.queries import options_of, planned, plans_seen_by
from unkett.web.plans.quoting import Quote
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import ask_for, last_asked, tasks_seen_by
from unkett.web.workshop.permissions import may

PDF = "quote-pdf"


class LineForm(VersionForm):
    """Extra work, a part, or work that another shop does."""

    title = forms.CharField(max_length=200, strip=True, label="What")
    price = Money(required=False, min_value=0, max_digits=9, decimal_places=2)
    minutes = forms.IntegerField(required=False, min_value=0, max_value=10_000)
    given = forms.BooleanField(required=False)
    outside = forms.BooleanField(required=False)
    days = forms.IntegerField(required=False, min_value=0, max_value=365, label="Days away")


class FreeForm(VersionForm):
    """A line of the quote, and whether it is free of charge."""

    cause = forms.CharField(max_length=200)
    free = forms.BooleanField(required=False)


class PriceForm(VersionForm):
    """The price of one part of the quote."""

    ref = forms.CharField(max_length=120)
    price = Money(min_value=0, max_digits=9, decimal_places=2)


class ChoiceForm(VersionForm):
    """One of the needs that may stand for each other."""

    rule = forms.CharField(max_length=120)
    what = forms.CharField(max_length=120)


@frozen(kw_only=True, slots=False)
class QuotePage(BikePage):
    """The quote of a plan with its other options and its PDF."""

    form: LineForm | None = None
    here_at: str = ""  # the address of this installation, before a link's path

    @property
    def quote(self) -> Quote | None:
        return self.cost.quote if self.cost else None

    @property
    def agreed(self) -> Agreement | None:
        return self.cost.agreed if self.cost else None

    @property
    def may_price(self) -> bool:
        return may(self.actor, "change-plans")

    @property
    def in_work(self) -> bool:
        """Whether what is added goes on the sheet of a job, too."""
        return self.plan is not None and job_in_work(self.actor, self.plan.pk) is not None

    @property
    def older(self) -> list[Agreement]:
        """What was agreed before and no longer counts."""
        found = list(self.plan.agreements.all()) if self.plan else []
        return [one for one in found if one != self.agreed]

    @cached_property
    def line_form(self) -> LineForm:
        return self.form or LineForm()

    @cached_property
    def others(self) -> list[tuple[Plan, int]]:
        """The plan's other options with what they come to."""
        if self.plan is None or not self.plan.letter:
            return []
        others = [one for one in options_of(self.actor, self.plan) if one.pk != self.plan.pk]
        open_ones = [planned(self.actor, one.pk) for one in others if one.state != State.DROPPED]
        costs = [PlanCost(found=one, settings=self.settings) for one in open_ones]
        return [(one.found.plan, one.total.gross) for one in costs if one.total]

    @property
    def may_agree(self) -> bool:
        return self.plan is not None and State.AGREED in self.plan.may_go and self.agreed is None

    @cached_property
    def links(self) -> list[tuple[CustomerLink, str]]:
        """The links that were given to the customer, with their addresses."""
        given = links_of(self.actor, self.plan.pk) if self.plan else []
        return [(one, self.here_at + reverse("workshop:look", args=[address_of_link(one)])) for one in given]

    @property
    def may_give(self) -> bool:
        return may(self.actor, "give-links")

    @cached_property
    def pdf(self) -> Task | None:
        """The last PDF asked for of this version of the plan."""
        if self.plan is None:
            return None
        return last_asked(self.actor, PDF, self.plan.pk, {"version": self.plan.version})


def _show(request: Request, plan_id: int, form: LineForm | None = None, status: int = 200) -> HttpResponse:
    page = of_plan(
        request, plan_id, QuotePage, "plan", form=form, here_at=request.build_absolute_uri("/")[:-1]
    )
    return answer(request, "quote/quote.html", page, status=status)


@allowed("see-plans")
def quote(request: Request, plan_id: int) -> HttpResponse:
    """The quote."""
    return _show(request, plan_id)


@allowed("change-plans", "POST")
def add(request: Request, plan_id: int) -> HttpResponse:
    """Add a line; what is wrong is reported beside its field."""
    form = LineForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, form, status=422)
    data = {
        **form.cleaned_data,
        **{name: form.cleaned_data[name] or 0 for name in ("price", "minutes", "days")},
    }
    job = job_in_work(request.user, plan_id)
    if job is None:
        quote_items.add_quote_line(actor=request.user, plan_id=plan_id, **data)
    elif data["outside"]:
        send_outside(
            actor=request.user, job_id=job.pk, what=data["title"], cost=data["price"], days=data["days"]
        )
    else:
        find_own(
            actor=request.user, job_id=job.pk, slot="bike", what=data["title"], minutes=data["minutes"],
            price=data["price"], given=data["given"],
        )  # fmt: skip
    return redirect("plans:quote", plan_id)


@allowed("change-plans", "POST")
def free(request: Request, plan_id: int) -> HttpResponse:
    """Make a line free of charge, or charge it again."""
    quote_items.set_free(actor=request.user, plan_id=plan_id, **clean(FreeForm(request.POST)))
    return redirect("plans:quote", plan_id)


@allowed("change-plans", "POST")
def price(request: Request, plan_id: int) -> HttpResponse:
    """Set the price of a part."""
    quote_items.set_price(actor=request.user, plan_id=plan_id, **clean(PriceForm(request.POST)))
    return redirect("plans:quote", plan_id)


@allowed("change-plans", "POST")
def choose(request: Request, plan_id: int) -> HttpResponse:
    """Choose one of several alternative needs."""
    slots = request.POST.getlist("slots")
    quote_items.choose_need(
        actor=request.user, plan_id=plan_id, slots=slots, **clean(ChoiceForm(request.POST))
    )
    return back_or(request, "plans:quote", plan_id)


@allowed("change-plans", "POST")
def agree(request: Request, plan_id: int, line_id: int) -> HttpResponse:
    """Agree a line that was found later."""
    version = clean(VersionForm(request.POST))["version"]
    quote_items.agree_quote_line(actor=request.user, plan_id=plan_id, version=version, line_id=line_id)
    return redirect("plans:quote", plan_id)


@allowed("change-plans", "POST")
def drop(request: Request, plan_id: int, line_id: int) -> HttpResponse:
    """Remove a line."""
    version = clean(VersionForm(request.POST))["version"]
    quote_items.drop_quote_line(actor=request.user, plan_id=plan_id, version=version, line_id=line_id)
    return redirect("plans:quote", plan_id)


@allowed("see-plans", "POST")
def make_pdf(request: Request, plan_id: int) -> HttpResponse:
    """Ask for the quote as PDF."""
    plan = plans_seen_by(request.user).filter(pk=plan_id).first()
    if plan is None:
        raise Http404
    ask_for(actor=request.user, sort=PDF, about_id=plan.pk, asked={"version": plan.version})
    return redirect("plans:quote", plan_id)


@allowed("see-plans")
def pdf_file(request: Request, plan_id: int, task_id: int) -> HttpResponse:
    """The PDF that was made."""
    task = tasks_seen_by(request.user).filter(pk=task_id, sort=PDF, about_id=plan_id).first()
    if task is None or not task.found:
        raise Http404
    return bytes_file(base64.b64decode(task.found["pdf"]), f"quote-{plan_id}.pdf", "application/pdf")
