"""The steps of the work as templates: those that ship and the workshop's own words over them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.text import slugify

from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary import SLOTS
from unkett.core.work.step import DOES
from unkett.core.work.templates import Template, shipped
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.rulebook import custom_steps
from unkett.web.rulebook.models import CustomStep
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

PLACE = re.compile(r"\{(\w+)\}")
PLACES = {"end": "front or rear", "part": "the part"}
OF_ITS_OWN = ("name", "does", "slot")  # what a step that ships already has


def title_of(does: str, slot: str, word: str = "") -> str:
    """Return what a step is called: what it does, on which part, with its further word."""
    plain = SLOTS.get(slot.replace("{end}", "front"))
    part = "the bike" if plain is None else plain.title.lower()
    part = part.replace("front ", "", 1) + ", each end" if "{end}" in slot else part
    return f"{does.replace('_', ' ').capitalize()}: {part}{f', {word}' if word else ''}"


def plain(says: str) -> str:
    """Return what is done, with words where the job sheet puts what is on the bike."""
    return PLACE.sub(lambda found: PLACES.get(found[1], found[1].replace("_", " ")), says)


def _titles(own: Iterable[CustomStep]) -> dict[str, str]:
    """By its code what every step is called, a workshop's own by the name that it was given."""
    named = {
        row.code: title_of(
            row.content["does"], row.content["slot"], row.code.rpartition(":")[2].replace("-", " ")
        )
        for row in own
    }
    return named | {row.code: title_of(row.does, row.slot, row.word) for row in shipped()}


class StepForm(forms.Form):
    """A step in the workshop's own words; `code` is empty for a new one."""

    code = forms.CharField(max_length=160, strip=True, required=False, widget=forms.HiddenInput)
    name = forms.CharField(max_length=60, strip=True, required=False, label="What you call it")
    does = forms.ChoiceField(
        choices=[(one, one.replace("_", " ")) for one in DOES], required=False, label="Does"
    )
    slot = forms.ChoiceField(
        choices=[("bike", "the whole bike"), *((slot.name, slot.title) for slot in SLOTS.values())],
        required=False,
        label="On which part",
    )
    says = forms.CharField(
        max_length=400, strip=True, label="What is done", widget=forms.Textarea(attrs={"rows": 2})
    )
    minutes = forms.IntegerField(label="Minutes, hands on")
    wait_minutes = forms.IntegerField(required=False, label="Wait after it, minutes")
    after = forms.MultipleChoiceField(
        required=False, label="Not before these", widget=forms.SelectMultiple(attrs={"size": 6})
    )
    left_out = forms.BooleanField(required=False, label="We leave it out")

    def __init__(self, *args: Any, titles: dict[str, str], **more: Any) -> None:
        super().__init__(*args, **more)
        self.titles = titles
        after = self.fields["after"]
        assert isinstance(after, forms.MultipleChoiceField)
        after.choices = [(code, titles[code]) for code in sorted(titles, key=lambda code: titles[code])]

    @property
    def written(self) -> str:
        """The code of the step that is written; of a new one what it does, where, and its name."""
        data = self.cleaned_data
        return data["code"] or f"{data['does']}:{data['slot']}:{slugify(data['name'])}"

    @property
    def content(self) -> dict[str, Any]:
        data = self.cleaned_data
        names = ("does", "slot", "says", "minutes", "after", "left_out")
        return {**{name: data[name] for name in names}, "wait_minutes": data["wait_minutes"] or 0}

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not data.get("code") and not slugify(data.get("name", "")):
            self.add_error("name", "Enter a name, such as second pair of eyes.")
        elif not data.get("code") and not self.errors and self.written in self.titles:
            self.add_error("name", "There is a step of this name already: open it in the list.")
        return data


@frozen(kw_only=True, slots=False)
class StepsPage:
    """All steps by the part they are on; one may be opened to be written over."""

    actor: User
    opened: str = ""
    form: StepForm | None = None
    faults: tuple[str, ...] = ()

    @cached_property
    def own(self) -> dict[str, CustomStep]:
        return {row.code: row for row in CustomStep.objects.filter(workshop_id=self.actor.workshop_id)}

    @cached_property
    def titles(self) -> dict[str, str]:
        return _titles(self.own.values())

    @property
    def title(self) -> str:
        """What the opened step is called."""
        return self.titles.get(self.opened, "")

    @property
    def rows(self) -> list[tuple[str, str, Template, CustomStep | None]]:
        """The steps that ship: what they are called, what is done in plain words, the workshop's words over it."""
        mine = self.own
        return [
            (
                self.titles[row.code],
                plain(mine[row.code].content["says"] if row.code in mine else row.says),
                row,
                mine.get(row.code),
            )
            for row in shipped()
        ]

    @property
    def added(self) -> list[tuple[str, CustomStep]]:
        """Steps that are the workshop's alone."""
        codes = {row.code for row in shipped()}
        return [(self.titles[row.code], row) for row in self.own.values() if row.code not in codes]

    @cached_property
    def step_form(self) -> StepForm:
        if self.form is not None:
            return self.form
        row = next((one for one in shipped() if one.code == self.opened), None)
        mine = self.own.get(self.opened)
        initial: dict[str, Any] = {"does": "check", "slot": "bike", "minutes": 5}
        if row is not None:
            initial = {name: getattr(row, name) for name in ("says", "minutes", "wait_minutes")}
        if mine is not None:
            initial = mine.content
        code = self.opened if row or mine else ""
        return StepForm(initial={**initial, "code": code}, titles=self.titles)

    @property
    def fields(self) -> list[forms.BoundField]:
        """What is asked of the step: a step there is keeps its name and its part."""
        skipped = OF_ITS_OWN if self.title else ()
        return [field for field in self.step_form.visible_fields() if field.name not in skipped]

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-steps")


@allowed("see-rules")
def steps(request: Request) -> HttpResponse:
    """All steps; `step` opens one."""
    page = StepsPage(actor=request.user, opened=request.GET.get("step", ""))
    return answer(request, "steps/steps.html", page)


@allowed("change-steps", "POST")
def write(request: Request) -> HttpResponse:
    """Write a step of the workshop's own; what is wrong is reported by its name and nothing is stored."""
    page = StepsPage(actor=request.user, opened=request.POST.get("code", ""))
    form = StepForm(request.POST, titles=page.titles)
    faults: tuple[str, ...] = ()
    if form.is_valid():
        content = form.content
        if page.opened in page.own:
            content = {**content, **{name: page.own[page.opened].content[name] for name in ("does", "slot")}}
        try:
            custom_steps.write_step(actor=request.user, code=form.written, content=content)
        except InputError as error:
            faults = tuple(_in_words(fault, form, page.titles) for fault in error.faults)
        else:
            return redirect("jobs:steps")
    page = StepsPage(actor=request.user, opened=page.opened, form=form, faults=faults)
    return answer(request, "steps/steps.html", page, status=422)


def _in_words(fault: Fault, form: StepForm, titles: dict[str, str]) -> str:
    """Return a fault under the form's own labels, with steps by what they are called."""
    field = form.fields.get(fault.path.rpartition(".")[2])
    says = fault.says
    for code in sorted(titles, key=len, reverse=True):
        says = says.replace(code, titles[code])
    return f"{field.label if field else fault.path}: {says}"


class DropForm(forms.Form):
    code = forms.CharField(max_length=160, strip=True)


@allowed("change-steps", "POST")
def drop(request: Request) -> HttpResponse:
    """Restore the step as it ships."""
    custom_steps.drop_step(actor=request.user, code=clean(DropForm(request.POST))["code"])
    return redirect("jobs:steps")
