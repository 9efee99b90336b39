"""The Causes page of a bike: what the rider complains of, narrowed down check by check."""

from __future__ import annotations

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.core.bike.wear import sorts
from unkett.core.diagnose.asked import read_key
from unkett.core.diagnose.tables import ENDS, shipped
from unkett.core.errors import InputError
from unkett.core.units import read_reading
from unkett.web.bikes import complaints
from unkett.web.bikes.queries import current_bike
from unkett.web.causes import services
from unkett.web.pages.causes.page import CausesPage
from unkett.web.pages.common.answers import answer, back_or
from unkett.web.pages.common.bike_page import of_bike
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request


class AnswerForm(VersionForm):
    """What a check said: a result, nothing where it cannot be said, or what was measured."""

    check = forms.CharField(max_length=60)
    result = forms.CharField(required=False, max_length=120)
    value = forms.CharField(required=False, max_length=40, strip=True)
    instrument = forms.CharField(required=False, max_length=60, strip=True)
    run = forms.CharField(required=False, max_length=10)


class CauseForm(VersionForm):
    """Which held cause is taken on."""

    cause = forms.CharField(max_length=40)
    end = forms.ChoiceField(required=False, choices=[(end, end) for end in ("", *ENDS)])


@allowed("see-bikes")
def show(request: Request, bike_id: int) -> HttpResponse:
    """The search as it stands."""
    return answer(request, "causes/causes.html", of_bike(request, bike_id, CausesPage, "causes"))


@allowed("change-bikes", "POST")
def complain(request: Request, bike_id: int) -> HttpResponse:
    """Add a complaint, or take one off that was written down by mistake."""
    keys = [one.key for one in complaints.open_complaints(current_bike(request.user, bike_id).bike)]
    version = clean(VersionForm(request.POST))["version"]
    added, dropped = request.POST.getlist("complaint"), request.POST.getlist("drop")
    keys = [key for key in (*keys, *added) if key not in dropped]
    complaints.complain(actor=request.user, bike_id=bike_id, version=version, keys=keys)
    return back_or(request, "bikes:causes", bike_id)


@allowed("change-bikes", "POST")
def say(request: Request, bike_id: int) -> HttpResponse:
    """Keep what a check said; a value that was read decides the result by its limit."""
    current_bike(request.user, bike_id)  # of another workshop: not there, whatever was sent
    data = clean(AnswerForm(request.POST))
    asked = {"actor": request.user, "bike_id": bike_id, "version": data["version"], "key": data["check"]}
    if data["value"]:
        sort = sorts().get(_reads(data["check"]))
        try:
            value = read_reading(data["value"], sort.unit if sort else "")
            services.measured(**asked, value=value, instrument=data["instrument"])
        except InputError as error:
            page = of_bike(request, bike_id, CausesPage, "causes", fault=error.faults[0].says)
            return answer(request, "causes/causes.html", page, status=422)
    else:
        complaints.say(**asked, result=data["result"] or None)
    run = f"?run={data['run']}" if data["run"] in (*ENDS, "none") else ""
    return redirect(f"{reverse('bikes:causes', args=[bike_id])}{run}")


def _reads(key: str) -> str:
    check = shipped().checks.get(read_key(key)[0])
    return check.reads if check else ""


@allowed("change-bikes", "POST")
def take_back(request: Request, bike_id: int) -> HttpResponse:
    """Take back the answer to a check."""
    current_bike(request.user, bike_id)  # of another workshop: not there, whatever was sent
    data = clean(AnswerForm(request.POST))
    complaints.take_back(actor=request.user, bike_id=bike_id, version=data["version"], key=data["check"])
    return redirect("bikes:causes", bike_id)


@allowed("change-bikes", "POST")
def settle(request: Request, bike_id: int) -> HttpResponse:
    """Take a held cause on: as a tick of the inspection, or as a plan."""
    current_bike(request.user, bike_id)  # of another workshop: not there, whatever was sent
    data = clean(CauseForm(request.POST))
    done = services.settle(
        actor=request.user,
        bike_id=bike_id,
        version=data["version"],
        cause=data["cause"],
        end=data["end"] or None,
    )
    return redirect("plans:show", done.plan.pk) if done.plan else redirect("bikes:causes", bike_id)


@allowed("countersign", "POST")
def try_again(request: Request, bike_id: int) -> HttpResponse:
    """Ask for the complaints again after the work."""
    current_bike(request.user, bike_id)  # of another workshop: not there, whatever was sent
    version = clean(VersionForm(request.POST))["version"]
    said = {
        key.removeprefix("tried-"): word
        for key, word in request.POST.items()
        if key.startswith("tried-") and word
    }
    if not said:
        raise InputError.of({"tried": ["say of at least one complaint: gone, better or the same"]})
    services.try_complaints(
        actor=request.user, bike_id=bike_id, version=version, said={k: str(v) for k, v in said.items()}
    )
    return back_or(request, "bikes:causes", bike_id)
