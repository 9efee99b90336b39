"""The steps of the work as templates: those that ship and the workshop's own words over them."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import InputError
from unkett.core.jobs.step import DOES
from unkett.core.jobs.templates import Template, shipped
from unkett.core.vocabulary import SLOTS
from unkett.web.jobs import own_steps
from unkett.web.jobs.models import StepOfOurs
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may


class StepForm(forms.Form):
    """A step in the workshop's own words."""

    code = forms.CharField(max_length=160, strip=True, label="Name")
    does = forms.ChoiceField(
        choices=[(one, one.replace("_", " ")) for one in DOES], required=False, label="Does"
    )
    slot = forms.CharField(max_length=40, strip=True, required=False, label="On which part, or bike")
    says = forms.CharField(
        max_length=400, strip=True, label="What is done", widget=forms.Textarea(attrs={"rows": 2})
    )
    minutes = forms.IntegerField(label="Minutes, hands on")
    wait_minutes = forms.IntegerField(required=False, label="Wait after it, minutes")
    after = forms.CharField(max_length=400, strip=True, required=False, label="After these steps, by name")
    left_out = forms.BooleanField(required=False, label="we leave it out")

    @property
    def content(self) -> dict[str, Any]:
        data = self.cleaned_data
        return {
            "does": data["does"], "slot": data["slot"], "says": data["says"], "minutes": data["minutes"],
            "wait_minutes": data["wait_minutes"] or 0, "after": data["after"].replace(",", " ").split(),
            "left_out": data["left_out"],
        }  # fmt: skip


@frozen(kw_only=True, slots=False)
class StepsPage:
    """All steps by the part they are on; one may be opened to be written over."""

    actor: User
    opened: str = ""
    form: StepForm | None = None
    faults: tuple[str, ...] = ()

    @cached_property
    def own(self) -> dict[str, StepOfOurs]:
        return {row.code: row for row in StepOfOurs.objects.filter(workshop_id=self.actor.workshop_id)}

    @property
    def rows(self) -> list[tuple[Template, StepOfOurs | None]]:
        return [(row, self.own.get(row.code)) for row in shipped()]

    @property
    def titled(self) -> list[tuple[str, Template, StepOfOurs | None]]:
        """The rows with what they are called in words."""
        return [(title_of(row), row, own) for row, own in self.rows]

    @property
    def added(self) -> list[StepOfOurs]:
        """Steps that are the workshop's alone."""
        codes = {row.code for row in shipped()}
        return [row for row in self.own.values() if row.code not in codes]

    @cached_property
    def step_form(self) -> StepForm:
        if self.form is not None:
            return self.form
        row = next((one for one in shipped() if one.code == self.opened), None)
        mine = self.own.get(self.opened)
        if mine is not None:
            return StepForm(
                initial={"code": mine.code, **mine.content, "after": " ".join(mine.content["after"])}
            )
        if row is None:
            return StepForm(initial={"does": "check", "slot": "bike", "minutes": 5})
        return StepForm(
            initial={
                name: getattr(row, name)
                for name in ("code", "does", "slot", "says", "minutes", "wait_minutes")
            }
        )

    @property
    def slots(self) -> list[str]:
        return ["bike", *SLOTS]

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-steps")


def title_of(row: Template) -> str:
    """What a step is called: what it does, on which part, with its further word."""
    slot = row.slot.replace("{end}", "front")
    part = "the bike" if slot == "bike" else SLOTS[slot].title.lower()
    part = part.replace("front ", "", 1) + ", each end" if "{end}" in row.slot else part
    return f"{row.does.replace('_', ' ').capitalize()}: {part}{f', {row.word}' if row.word else ''}"


@allowed("see-rules")
def steps(request: HttpRequest) -> HttpResponse:
    """All steps; `step` opens one."""
    page = StepsPage(actor=request.user, opened=request.GET.get("step", ""))
    return answer(request, "steps/steps.html", page)


@allowed("change-steps", "POST")
def write(request: HttpRequest) -> HttpResponse:
    """A step written over, or one more; what cannot be is told by its name and nothing is stored."""
    form = StepForm(request.POST)
    faults: list[str] = []
    if form.is_valid():
        try:
            own_steps.write_step(actor=request.user, code=form.cleaned_data["code"], content=form.content)
        except InputError as error:
            faults = [str(fault) for fault in error.faults]
        else:
            return redirect("jobs:steps")
    page = StepsPage(actor=request.user, opened=request.POST.get("code", ""), form=form, faults=tuple(faults))
    return answer(request, "steps/steps.html", page, status=422)


class DropForm(forms.Form):
    code = forms.CharField(max_length=160, strip=True)


@allowed("change-steps", "POST")
def drop(request: HttpRequest) -> HttpResponse:
    """The step as it ships again."""
    own_steps.drop_step(actor=request.user, code=clean(DropForm(request.POST))["code"])
    return redirect("jobs:steps")
