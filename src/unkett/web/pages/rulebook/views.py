"""The rule book, the schema of build files; settings and bench names changed."""

from __future__ import annotations

import contextlib

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.formats.schema import build_schema
from unkett.core.rules import RULES
from unkett.core.standards import table, table_names
from unkett.web.pages.common.answers import answer, json_file
from unkett.web.pages.common.forms import FindForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.rulebook.page import BookPage, NamesPage, RulePage, SettingsPage, TablePage
from unkett.web.rulebook import services
from unkett.web.tasks.services import ask_for
from unkett.web.wear.services import LIMIT_SETTINGS
from unkett.web.workshop.errors import Refused


class SettingForm(forms.Form):
    """One setting's value; empty gives the default back."""

    name = forms.CharField(max_length=60)
    value = forms.CharField(max_length=40, required=False, strip=True)


class BenchNameForm(forms.Form):
    """A code and what the workshop calls it."""

    code = forms.CharField(max_length=60, strip=True)
    name = forms.CharField(max_length=60, strip=True)


@allowed("see-rules")
def book(request: Request) -> HttpResponse:
    """All rules by area, found by words, and all tables."""
    return answer(request, "rulebook/book.html", BookPage(words=FindForm.words(request.GET).lower()))


@allowed("see-rules")
def rule(request: Request, rule_id: str) -> HttpResponse:
    """One rule: what it reads, its figures, thresholds, examples and sources."""
    if rule_id not in RULES:
        raise Http404
    return answer(request, "rulebook/rule.html", RulePage(rule=RULES[rule_id]))


@allowed("see-rules")
def standard(request: Request, name: str) -> HttpResponse:
    """One table of standards, every row with its source and how sure it is."""
    if name not in table_names():
        raise Http404
    return answer(request, "rulebook/table.html", TablePage(actor=request.user, table=table(name)))


@allowed("see-rules")
def schema(request: Request) -> HttpResponse:
    """The JSON Schema of a build file."""
    return json_file(build_schema(), "unkett.build.schema")


@allowed("see-rules")
def settings(request: Request) -> HttpResponse:
    """The workshop's settings, each with its default, the reason for it and who changed it."""
    return answer(request, "rulebook/settings.html", SettingsPage(actor=request.user))


@allowed("change-settings", "POST")
def change(request: Request) -> HttpResponse:
    """Change one setting; a bad value answers beside its field."""
    data = clean(SettingForm(request.POST))
    name, typed = data["name"], data["value"]
    try:
        services.change_setting(actor=request.user, name=name, value=_typed(typed) if typed else None)
        if name in LIMIT_SETTINGS:
            with contextlib.suppress(Refused):  # others wait already; the next reading or change does it too
                ask_for(actor=request.user, sort="wear-anew", about_id=0, asked={"setting": name})
    except InputError as error:
        page = SettingsPage(actor=request.user, fault=Fault(path=name, says=str(error)))
        return answer(request, "rulebook/settings.html", page, status=422)
    return redirect("rulebook:settings")


def _typed(text: str) -> float | str:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return text


@allowed("see-rules")
def names(request: Request) -> HttpResponse:
    """What the workshop itself calls the codes."""
    return answer(request, "rulebook/names.html", NamesPage(actor=request.user, form=BenchNameForm()))


@allowed("change-settings", "POST")
def add_name(request: Request) -> HttpResponse:
    """Add a bench name; what is wrong answers beside its field."""
    form = BenchNameForm(request.POST)
    if form.is_valid():
        try:
            services.add_shop_name(actor=request.user, **form.cleaned_data)
        except InputError as error:
            for fault in error.faults:
                form.add_error(fault.path, fault.says)
        else:
            return redirect("rulebook:names")
    return answer(request, "rulebook/names.html", NamesPage(actor=request.user, form=form), status=422)


@allowed("change-settings", "POST")
def remove_name(request: Request, name_id: int) -> HttpResponse:
    """Forget a bench name."""
    services.remove_shop_name(actor=request.user, name_id=name_id)
    return redirect("rulebook:names")
