"""The rule book: every rule and table in words, made from their declarations; settings and bench names."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render

from unkett.core.errors import InputError
from unkett.core.rules import RULES
from unkett.core.schema import build_schema
from unkett.core.settings import SETTINGS
from unkett.core.standards import SOURCES, table, table_names
from unkett.core.vocabulary import Area, describe
from unkett.web.bikes.forms import FindForm
from unkett.web.rulebook import services
from unkett.web.rulebook.models import BenchName
from unkett.web.rulebook.queries import bench_names_of, examples, known_codes, settings_shown
from unkett.web.workshop.permissions import allowed, may


@allowed("see-rules")
def book(request: HttpRequest) -> HttpResponse:
    """All rules by area, found by words, and all tables."""
    find = FindForm.words(request.GET).lower()
    areas = [
        (
            area,
            [
                rule
                for rule in RULES.values()
                if rule.area is area and find in f"{rule.id} {rule.title} {rule.plain}".lower()
            ],
        )
        for area in Area
    ]
    in_order = sorted(map(table, table_names()), key=lambda one: one.title)
    tables = [one for one in in_order if find in f"{one.title} {one.says}".lower()]
    context = {"areas": [one for one in areas if one[1]], "tables": tables, "words": find}
    return render(request, "rulebook/book.html", context)


@allowed("see-rules")
def rule(request: HttpRequest, rule_id: str) -> HttpResponse:
    """One rule: what it reads, its figures, thresholds, examples and sources."""
    found = RULES.get(rule_id)
    if found is None:
        raise Http404
    reads = [
        {"slot": slot, "attr": describe(slot, attr), "asked": asked}
        for (slot, attr), asked in {
            pair: asked for site in found.sites for pair, asked in site.measured.items()
        }.items()
    ]
    context = {
        "rule": found,
        "reads": reads,
        "settings": [SETTINGS[name] for name in found.settings],
        "examples": examples().get(rule_id, []),
        "sources": [SOURCES[name] for name in found.sources],
    }
    return render(request, "rulebook/rule.html", context)


@allowed("see-rules")
def standard(request: HttpRequest, name: str) -> HttpResponse:
    """One table of standards, every row with its source and how sure it is."""
    if name not in table_names():
        raise Http404
    found = table(name)
    own = [column for column in found.rows[0] if column not in ("source", "sure")]
    key = "code" if "code" in own else own[0]
    columns = list(
        dict.fromkeys(column for row in found.rows for column in row if column not in ("source", "sure", key))
    )
    names = bench_names_of(request.user)
    rows = [
        {
            "code": row[key],
            "called": names.get(row[key], []),
            "cells": [row.get(column) for column in columns],
            "source": SOURCES[row["source"]]["title"],
            "sure": row["sure"],
        }
        for row in found.rows
    ]
    return render(
        request, "rulebook/table.html", {"table": found, "key": key, "columns": columns, "rows": rows}
    )


@allowed("see-rules")
def schema(request: HttpRequest) -> HttpResponse:
    """The JSON Schema of a build file."""
    response = JsonResponse(build_schema(), json_dumps_params={"indent": 1, "ensure_ascii": False})
    response["Content-Disposition"] = 'attachment; filename="unkett.build.schema.json"'
    return response


class SettingForm(forms.Form):
    """One setting's value; empty gives the default back."""

    name = forms.CharField(max_length=60)
    value = forms.CharField(max_length=40, required=False, strip=True)


@allowed("see-rules")
def settings_page(request: HttpRequest) -> HttpResponse:
    """The workshop's settings, each with its default, the reason for it and who changed it."""
    return _settings(request)


def _settings(request: HttpRequest, faults: dict[str, str] | None = None, status: int = 200) -> HttpResponse:
    context = {
        "settings": settings_shown(request.user),
        "faults": faults or {},
        "may_change": may(request.user, "change-settings"),
    }
    return render(request, "rulebook/settings.html", context, status=status)


@allowed("change-settings", "POST")
def change(request: HttpRequest) -> HttpResponse:
    """Change one setting; a bad value answers beside its field."""
    form = SettingForm(request.POST)
    if not form.is_valid():
        raise InputError.of(form.errors)
    name, typed = form.cleaned_data["name"], form.cleaned_data["value"]
    try:
        services.change_setting(actor=request.user, name=name, value=_typed(typed) if typed else None)
    except InputError as error:
        return _settings(request, {name: str(error)}, status=422)
    return redirect("rulebook:settings")


def _typed(text: str) -> float | str:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return text


class BenchNameForm(forms.Form):
    code = forms.CharField(max_length=60, strip=True)
    name = forms.CharField(max_length=60, strip=True)


def _names(request: HttpRequest, form: forms.Form, status: int = 200) -> HttpResponse:
    codes = known_codes()
    rows = [
        {"row": row, "title": codes.get(row.code, row.code)}
        for row in BenchName.objects.filter(workshop_id=request.user.workshop_id)
    ]
    context: dict[str, Any] = {
        "names": rows,
        "codes": codes,
        "form": form,
        "may_change": may(request.user, "change-settings"),
    }
    return render(request, "rulebook/names.html", context, status=status)


@allowed("see-rules")
def names(request: HttpRequest) -> HttpResponse:
    """What the workshop itself calls the codes."""
    return _names(request, BenchNameForm())


@allowed("change-settings", "POST")
def add_name(request: HttpRequest) -> HttpResponse:
    """Add a bench name; what is wrong answers beside its field."""
    form = BenchNameForm(request.POST)
    if form.is_valid():
        try:
            services.add_bench_name(actor=request.user, **form.cleaned_data)
        except InputError as error:
            for fault in error.faults:
                form.add_error(fault.path, fault.says)
        else:
            return redirect("rulebook:names")
    return _names(request, form, status=422)


@allowed("change-settings", "POST")
def remove_name(request: HttpRequest, name_id: int) -> HttpResponse:
    """Forget a bench name."""
    services.remove_bench_name(actor=request.user, name_id=name_id)
    return redirect("rulebook:names")
