"""One part of a bike: edited in place, filled from the catalogue, taken off, moved; a bike copied; the last change undone."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from unkett.core.errors import InputError
from unkett.core.typed import in_rows, only_size, read_typed, row_says, typed_text
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes import fitting
from unkett.web.bikes.forms import EmptyForm, MoveForm, NameForm, PartForm, VersionForm, clean
from unkett.web.bikes.models import Feel, Origin
from unkett.web.bikes.pages import back, tabs
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.queries import settings_of, standing
from unkett.web.bikes.services import record_empty
from unkett.web.catalogue.queries import what_goes
from unkett.web.plans.forms import CandidatesForm
from unkett.web.site.fields import choices_of, ticks_of, typed_in
from unkett.web.workshop.permissions import allowed


def _field(attr: Any, value: Any, origin: str, text: str | None, fault: str) -> dict[str, Any]:
    kind = attr.type
    text = typed_text(value, kind) if text is None else text
    return {
        "attr": attr,
        "text": text,
        "origin": origin,
        "choices": choices_of(kind),
        "ticks": ticks_of(kind),
        "ticked": text.split(),
        "rows": row_says(kind) if in_rows(kind) else "",
        "fault": fault,
    }


@allowed("change-bikes", "GET", "HEAD", "POST")
def part(request: HttpRequest, bike_id: int, slot: str) -> HttpResponse:
    """Every attribute of one part in fields, with where each comes from and the part's condition."""
    if slot not in SLOTS:
        raise Http404
    stands = standing(request.user, bike_id)
    fitted = stands.fitted.get(slot)
    declared = KINDS[SLOTS[slot].kind].attributes
    faults: dict[str, str] = {}
    if request.method == "POST":
        form = clean(PartForm(request.POST))
        values, origins = _typed(request, fitted, declared, faults)
        if not faults:
            try:
                fitting.edit_part(
                    actor=request.user,
                    bike_id=bike_id,
                    version=form["version"],
                    slot=slot,
                    name=form["name"],
                    values=values,
                    origins=origins,
                    condition={"feel": form["feel"], "wear": form["wear"], "damage": form["damage_note"]},
                )
                return redirect("bikes:stand", bike_id)
            except InputError as error:
                faults |= {
                    fault.path.removeprefix(f"{slot}.").split("[")[0].split(".")[0]: fault.says
                    for fault in error.faults
                }
    attrs, known = (fitted.attrs, fitted.origins) if fitted else ({}, {})
    posted = request.POST if request.method == "POST" else {}
    fields = [
        _field(
            attr,
            attrs.get(name),
            posted.get(f"origin-{name}", known.get(name, "measured")),
            typed_in(posted, name, attr.type) if posted else None,
            faults.get(name, ""),
        )
        for name, attr in declared.items()
    ]
    condition = fitted.condition if fitted else {}
    context = {
        "bike": stands.bike,
        "tabs": tabs(stands.bike, stands.check, ""),
        "slot": SLOTS[slot],
        "part": fitted,
        "fields": [one for one in fields if one["attr"].name != "damage"],
        "damage": next(one for one in fields if one["attr"].name == "damage"),
        "damage_note": posted.get("damage_note", condition.get("damage", "")),
        "nothing": slot in stands.build.empty,
        "taken": slot in stands.build.filled(),
        "faults": faults,
        "origins": Origin.choices,
        "feels": Feel.choices,
        "others": bikes_seen_by(request.user).exclude(pk=bike_id).order_by("name")[:200],
        "name": posted.get("name", fitted.name if fitted else ""),
        "condition": posted or condition,
    }
    return render(request, "bikes/part.html", context, status=422 if faults else 200)


@allowed("change-bikes")
def open_slot(request: HttpRequest, bike_id: int) -> HttpResponse:
    """To the fields of the slot that was chosen."""
    slot = request.GET.get("slot", "")
    if slot not in SLOTS or not bikes_seen_by(request.user).filter(pk=bike_id).exists():
        raise Http404
    return redirect("bikes:part-edit", bike_id, slot)


def _typed(
    request: HttpRequest, fitted: Any, declared: dict[str, Any], faults: dict[str, str]
) -> tuple[dict[str, Any], dict[str, str]]:
    """What the fields hold: values that changed, and where each comes from; what cannot be read goes to `faults`."""
    values: dict[str, Any] = {}
    origins: dict[str, str] = {}
    was = fitted.attrs if fitted else {}
    for name, attr in declared.items():
        text = typed_in(request.POST, name, attr.type)
        if request.POST.get(f"origin-{name}"):
            origins[name] = request.POST[f"origin-{name}"]
        if text == typed_text(was.get(name), attr.type):
            continue
        try:
            values[name] = read_typed(text, attr.type, only_size(was)) if text else None
        except InputError as error:
            faults[name] = error.faults[0].says
    return values, origins


@allowed("change-bikes", "GET", "HEAD", "POST")
def fill(request: HttpRequest, bike_id: int, slot: str) -> HttpResponse:
    """Catalogue parts for a slot of the bike as it stands, each with its verdict; POST fits one."""
    if slot not in SLOTS:
        raise Http404
    if request.method == "POST":
        data = clean(PartForm(request.POST))
        fitting.fill_part(
            actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, part_id=data["part"] or 0
        )
        return redirect("bikes:stand", bike_id)
    stands = standing(request.user, bike_id)
    wanted = CandidatesForm.wanted(request.GET)
    found = what_goes(request.user, stands.build, slot, settings_of(request.user), **wanted)
    context = {
        "bike": stands.bike,
        "tabs": tabs(stands.bike, stands.check, ""),
        "slot": SLOTS[slot],
        "found": found,
        "wanted": wanted,
        "previous": urlencode({**wanted, "page": found.page - 1}),
        "next": urlencode({**wanted, "page": found.page + 1}),
    }
    return render(request, "bikes/fill.html", context)


@allowed("change-bikes", "POST")
def off(request: HttpRequest, bike_id: int, slot: str) -> HttpResponse:
    """Take a part off."""
    fitting.take_off(actor=request.user, bike_id=bike_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("bikes:stand", bike_id)


@allowed("change-bikes", "POST")
def nothing(request: HttpRequest, bike_id: int, slot: str) -> HttpResponse:
    """Nothing is fitted in a slot; or take that back. Then the page it was said on."""
    record_empty(actor=request.user, bike_id=bike_id, slot=slot, **clean(EmptyForm(request.POST)))
    return back(request, bike_id)


@allowed("change-bikes", "POST")
def move(request: HttpRequest, bike_id: int, slot: str) -> HttpResponse:
    """Move a part to another bike."""
    data = clean(MoveForm(request.POST))
    fitting.move_part(
        actor=request.user, bike_id=bike_id, version=data["version"], slot=slot, to_bike_id=data["to"]
    )
    return redirect("bikes:stand", data["to"])


@allowed("change-bikes", "POST")
def copy(request: HttpRequest, bike_id: int) -> HttpResponse:
    """A new bike like this one."""
    data = clean(NameForm(request.POST))
    new = fitting.copy_bike(actor=request.user, bike_id=bike_id, name=data["name"])
    return redirect("bikes:stand", new.pk)


@allowed("change-bikes", "POST")
def undo(request: HttpRequest, bike_id: int) -> HttpResponse:
    """Put the last change back."""
    fitting.undo(actor=request.user, bike_id=bike_id, **clean(VersionForm(request.POST)))
    return redirect("bikes:stand", bike_id)
