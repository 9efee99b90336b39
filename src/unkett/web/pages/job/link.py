"""What a customer sees by a link: the quote, with an answer, or the hand-over; and nothing else."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any

from attrs import field, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.job.page import PaperPage
from unkett.web.plans.cost import asked_of
from unkett.web.plans.links import (
    OnLooker,
    agree_found,
    answer_quote,
    give_link,
    link_by,
    may_answer,
    withdraw_link,
)
from unkett.web.plans.models import Answer, CustomerLink
from unkett.web.plans.queries import planned
from unkett.web.show.fields import by_name
from unkett.web.workshop.permissions import EVERYONE


@frozen(kw_only=True, slots=False)
class LinkPage(PaperPage):
    """A plan as its customer sees it."""

    link: CustomerLink
    wrong: Mapping[str, Fault] = field(factory=dict)
    answered: Mapping[str, str] = field(factory=dict)

    @property
    def asked_for(self) -> list[str]:
        return asked_of(self.planned) if self.planned else []

    @property
    def customer_stops(self) -> list[str]:
        """Why the bike must not be ridden, for a bike that the customer has back."""
        return self.stops if self.is_over else []

    @property
    def moved_from(self) -> datetime.datetime | None:
        """The promise before a part moved it."""
        first = self.link.plan.moved.get("from")
        return datetime.datetime.fromisoformat(first) if first else None

    @property
    def is_over(self) -> bool:
        return self.job is not None and self.job.ended is not None

    @property
    def asks(self) -> bool:
        return not self.is_over and may_answer(self.link.plan)

    @property
    def answers(self) -> list[tuple[str, str]]:
        return list(Answer.choices)


def _show(request: Request, text: str, status: int = 200, **more: Any) -> HttpResponse:
    link = link_by(text)
    if link is None:
        raise Http404
    looker: Any = OnLooker(workshop=link.plan.bike.workshop)
    found = planned(looker, link.plan_id)
    page = LinkPage(actor=looker, stands=found.stands, planned=found, sort="hand-over", link=link, **more)
    response = answer(request, "job/link.html", page, status=status)
    response["X-Robots-Tag"] = "noindex, nofollow"
    return response


class AnswerForm(VersionForm):
    """Yes, no, or a question."""

    answer = forms.CharField(max_length=10, required=False)
    says = forms.CharField(required=False, max_length=5000, strip=True)


class LineForm(forms.Form):
    """A line that was found later, to be agreed."""

    line_id = forms.IntegerField()

    def __init__(self, data: Any) -> None:
        super().__init__({"line_id": data.get("line")})


@allowed(EVERYONE, "GET", "HEAD", "POST")
def look(request: Request, link: str) -> HttpResponse:
    """A quote or a hand-over for its customer."""
    if request.method != "POST":
        return _show(request, link)
    if link_by(link) is None:
        raise Http404
    if "line" in request.POST:
        agree_found(link=link, **clean(LineForm(request.POST)))
        return redirect("workshop:look", link)
    try:
        answer_quote(link=link, **clean(AnswerForm(request.POST)))
    except InputError as error:
        return _show(request, link, 422, wrong=by_name(error.faults), answered=request.POST)
    return redirect("workshop:look", link)


class DaysForm(forms.Form):
    days = forms.IntegerField()


@allowed("give-links", "POST")
def give(request: Request, plan_id: int) -> HttpResponse:
    """Make a link for the customer of a plan."""
    give_link(actor=request.user, plan_id=plan_id, **clean(DaysForm(request.POST)))
    return redirect("plans:quote", plan_id)


@allowed("give-links", "POST")
def withdraw(request: Request, link_id: int) -> HttpResponse:
    """Withdraw a customer's link."""
    made = withdraw_link(actor=request.user, link_id=link_id)
    return redirect("plans:quote", made.plan_id)
