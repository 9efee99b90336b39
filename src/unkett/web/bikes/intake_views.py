"""Taking a bike in: the first look, then only what this kind of bike needs, in the order one looks at a bike."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from unkett.core.drawing.side import Bones, drawn
from unkett.core.errors import InputError
from unkett.core.intake import BRAKES, GEARS, Step
from unkett.core.next_measure import next_measures
from unkett.core.typed import in_rows, only_size, read_typed, row_says, typed_text
from unkett.core.vocabulary import BIKE, SLOTS, enums
from unkett.web.bikes.forms import FirstLookForm, StepForm, clean
from unkett.web.bikes.intake import FirstLook, looks_of, measure_step, take_in
from unkett.web.bikes.pages import tabs
from unkett.web.bikes.queries import Standing, standing
from unkett.web.site.fields import choices_of, ticks_of, typed_in
from unkett.web.workshop.permissions import allowed


@allowed("change-bikes", "GET", "HEAD", "POST")
def new(request: HttpRequest) -> HttpResponse:
    """The first look: what the bike is for, its gears and brakes, who rides it and what they say."""
    faults: dict[str, str] = {}
    form = FirstLookForm(request.POST or None)
    if request.method == "POST":
        try:
            data = clean(form)
            rider = {}
            for key in ("mass_kg", "load_kg", "saddle_height_mm"):
                text = data.pop(key)
                if text:
                    rider[key] = read_typed(text, BIKE.attributes[key].type)
            bike = take_in(actor=request.user, first=FirstLook(rider=rider, **data))
            return redirect("bikes:intake-step", bike.pk, looks_of(bike).steps()[0].name)
        except InputError as error:
            faults = {fault.path or "name": fault.says for fault in error.faults}
    context = {
        "faults": faults,
        "typed": request.POST,
        "uses": enums.USE.codes.items(),
        "gears": GEARS.items(),
        "brakes": BRAKES.items(),
    }
    return render(request, "bikes/intake_new.html", context, status=422 if faults else 200)


def _parts(
    stands: Standing, step: Step, request: HttpRequest, faults: dict[str, str]
) -> list[dict[str, Any]]:
    """The parts of a step with their fields, filled with what is known or was typed."""
    looks = looks_of(stands.bike)
    parts = []
    for slot in step.slots:
        fitted = stands.fitted.get(slot)
        attrs = fitted.attrs if fitted else {}
        fields = []
        for attr in looks.asks(slot):
            kind, key = attr.type, f"{slot}.{attr.name}"
            text = (
                typed_in(request.POST, key, kind) if request.POST else typed_text(attrs.get(attr.name), kind)
            )
            fields.append(
                {"key": key, "attr": attr, "text": text, "choices": choices_of(kind), "ticks": ticks_of(kind),
                 "ticked": text.split(), "fault": faults.get(key, ""), "rows": row_says(kind) if in_rows(kind) else ""}
            )  # fmt: skip
        name = request.POST.get(f"{slot}.name", fitted.name if fitted else "")
        nothing = f"{slot}.nothing" in request.POST if request.POST else slot in stands.build.empty
        parts.append(
            {"slot": SLOTS[slot], "name": name, "fields": fields, "nothing": nothing,
             "taken": slot in stands.build.filled(), "fault": faults.get(f"{slot}.nothing", "")}
        )  # fmt: skip
    return parts


def _typed(
    request: HttpRequest, stands: Standing, step: Step, faults: dict[str, str]
) -> tuple[dict[tuple[str, str], Any], dict[str, str]]:
    """What was typed at a step and is new; what cannot be read goes to `faults`."""
    values: dict[tuple[str, str], Any] = {}
    looks = looks_of(stands.bike)
    for slot in step.slots:
        fitted = stands.fitted.get(slot)
        for attr in looks.asks(slot):
            text = typed_in(request.POST, f"{slot}.{attr.name}", attr.type)
            known = typed_text(fitted.attrs.get(attr.name), attr.type) if fitted else ""
            if text and text != known:
                try:
                    values[slot, attr.name] = read_typed(
                        text, attr.type, only_size(fitted.attrs if fitted else {})
                    )
                except InputError as error:
                    faults[f"{slot}.{attr.name}"] = error.faults[0].says
    return values, {slot: request.POST.get(f"{slot}.name", "") for slot in step.slots}


@allowed("change-bikes", "GET", "HEAD", "POST")
def step(request: HttpRequest, bike_id: int, name: str) -> HttpResponse:
    """One look at the bike: its parts with the fields worth filling, then the next."""
    stands = standing(request.user, bike_id)
    steps = looks_of(stands.bike).steps()
    at = next((n for n, one in enumerate(steps) if one.name == name), None)
    if at is None:
        raise Http404
    faults: dict[str, str] = {}
    if request.method == "POST":
        data = clean(StepForm(request.POST))
        values, names = _typed(request, stands, steps[at], faults)
        empty = {slot: f"{slot}.nothing" in request.POST for slot in steps[at].slots}
        if not faults:
            try:
                if values or any((slot in stands.build.empty) != said for slot, said in empty.items()):
                    measure_step(
                        actor=request.user,
                        bike_id=bike_id,
                        version=data["version"],
                        values=values,
                        names=names,
                        empty=empty,
                        really=data["really"],
                    )
                if at + 1 < len(steps):
                    return redirect("bikes:intake-step", bike_id, steps[at + 1].name)
                return redirect("bikes:stand", bike_id)
            except InputError as error:
                faults |= {fault.path: fault.says for fault in error.faults}
    return _step_page(request, stands, steps, at, faults)


def _step_page(
    request: HttpRequest, stands: Standing, steps: list[Step], at: int, faults: dict[str, str]
) -> HttpResponse:
    """The fields of one look beside the bike as far as its numbers go."""
    parts = _parts(stands, steps[at], request, faults)
    keys = {field["key"] for part in parts for field in part["fields"]}
    keys |= {f"{part['slot'].name}.nothing" for part in parts}
    context = {
        "bike": stands.bike,
        "tabs": tabs(stands.bike, stands.check, ""),
        "steps": steps,
        "here": steps[at],
        "last": at + 1 == len(steps),
        "parts": parts,
        "faults": faults,
        "other_faults": [f"{path}: {says}" for path, says in faults.items() if path not in keys],
        "asks_really": any(says.startswith("Really") for says in faults.values()),
        "next_measures": next_measures(stands.check.findings)[:6],
        "check": stands.check,
        "scene": drawn(Bones.of(stands.build)),
    }
    return render(request, "bikes/intake_step.html", context, status=422 if faults else 200)
