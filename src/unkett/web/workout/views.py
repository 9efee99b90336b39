"""Every calculation with its fields, filled from a bike where the bike knows, its answer and its trace."""

from __future__ import annotations

import json
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import patch_vary_headers

from unkett.core.build import Build, parse_json
from unkett.core.calc.base import Calculation, Input
from unkett.core.calc.fields import ByName
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError
from unkett.core.prefill import prefill
from unkett.core.vocabulary.types import Choice, ListOf, Record
from unkett.web.bikes.forms import read_typed
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.site.templatetags.unkett import plain_value
from unkett.web.workshop.permissions import allowed

TYPED_MAX = 2000


@allowed("measure")
def names(request: HttpRequest) -> HttpResponse:
    """Everything that can be worked out."""
    return render(request, "workout/names.html", {"calculations": CALCULATIONS.values()})


def _as_json(one: Input) -> bool:
    """Whether an input is typed as JSON: objects and lists of objects."""
    kind = one.type
    return isinstance(kind, (Record, ByName)) or (
        isinstance(kind, ListOf) and isinstance(kind.item, (Record, ListOf))
    )


def _bike(request: HttpRequest) -> tuple[Any, Build | None]:
    asked = request.GET.get("bike", "")
    if not asked.isdecimal() or len(asked) > 12:
        return None, None
    bike = bikes_seen_by(request.user).prefetch_related("fitted").filter(pk=int(asked)).first()
    return bike, None if bike is None else bike.build(list(bike.fitted.all()))


def _typed(
    request: HttpRequest, chosen: Calculation, known: dict[str, Any]
) -> tuple[dict[str, str], dict[str, Any], dict[str, str]]:
    """The texts in the fields, the values read from them, and what is wrong beside which field."""
    texts: dict[str, str] = {}
    values: dict[str, Any] = {}
    faults: dict[str, str] = {}
    for one in chosen.inputs:
        shown = known.get(one.name)
        default = (
            "" if shown is None else shown if isinstance(shown, str) else plain_value(shown).replace("·", " ")
        )
        text = request.GET.get(one.name, default).strip()[:TYPED_MAX]
        texts[one.name] = text
        if not text:
            continue
        try:
            values[one.name] = parse_json(text) if _as_json(one) else read_typed(text, one.type)
        except InputError as error:
            faults[one.name] = error.faults[0].says
    return texts, values, faults


@allowed("measure")
def one(request: HttpRequest, name: str) -> HttpResponse:
    """One calculation: fields, answer, trace. Faults stand beside their fields."""
    chosen = CALCULATIONS.get(name)
    if chosen is None:
        raise Http404
    bike, build = _bike(request)
    known = prefill(name, build) if build is not None else {}
    texts, values, faults = _typed(request, chosen, known)
    asked = any(field.name in request.GET for field in chosen.inputs)
    ready = all(field.optional or field.name in values for field in chosen.inputs)
    answer: dict[str, Any] | None = None
    general: list[str] = []
    if not faults and values and (asked or ready):
        try:
            answer = chosen.run(values).to_json()
        except InputError as error:
            fields = {field.name for field in chosen.inputs}
            for fault in error.faults:
                root = fault.path.split(".")[0].split("[")[0]
                if root in fields:
                    faults[root] = fault.says
                else:
                    general.append(str(fault))
    context = {
        "calculation": chosen,
        "bike": bike,
        "fields": [
            {
                "input": field,
                "text": texts[field.name],
                "fault": faults.get(field.name),
                "choices": list(field.type.of.codes.items()) if isinstance(field.type, Choice) else None,
                "json": _as_json(field),
                "known": field.name in known,
            }
            for field in chosen.inputs
        ],
        "answer": _rows(answer),
        "trace": answer["trace"] if answer else [],
        "general": general,
        "bikes": bikes_seen_by(request.user).order_by("name")[:200],
    }
    response = render(
        request, "workout/one.html", context, status=422 if asked and (faults or general) else 200
    )
    patch_vary_headers(response, ["HX-Request"])
    return response


def _rows(answer: dict[str, Any] | None) -> list[tuple[str, Any]]:
    """An answer's keys and values; lists of objects as they are, for a table of their own."""
    if answer is None:
        return []
    rows = []
    for key, value in answer.items():
        if key in ("format", "trace"):
            continue
        if isinstance(value, dict):
            rows += [(f"{key}: {name}", _shown(item)) for name, item in value.items()]
        else:
            rows.append((key, _shown(value)))
    return rows


def _shown(value: Any) -> str:
    if value is None:
        return "–"
    if isinstance(value, float):
        return f"{value:.3f}".rstrip("0").rstrip(".")
    if isinstance(value, list):
        return ", ".join(_shown(item) for item in value)
    if isinstance(value, dict):
        return "(" + ", ".join(f"{name} {_shown(item)}" for name, item in value.items()) + ")"
    return json.dumps(value) if isinstance(value, bool) else str(value)
