"""A bike's details: name, use, customer, rider; put away, removed, brought back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary import BIKE, enums
from unkett.web.bikes.details import TEXTS, archive_bike, bring_back, change_bike
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_gone_from
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import Field, by_name, field_of, filled_in, marked, read_all

RIDER = ("mass_kg", "load_kg", "saddle_height_mm", "hand_span_mm")


class DetailsForm(VersionForm):
    """What a bike is called, and whose it is."""

    use = forms.CharField(required=False, max_length=20)

    def __init__(self, *args: Any) -> None:
        super().__init__(*args)
        for name in TEXTS:
            self.fields[name] = forms.CharField(required=False, max_length=4000, strip=True)


class LeaveForm(VersionForm):
    """Whether a bike is put away or removed."""

    to = forms.CharField(max_length=8)


@frozen(kw_only=True, slots=False)
class DetailsPage(BikePage):
    """A bike's details in fields; `posted` is what was typed."""

    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    uses = tuple(enums.USE.codes.items())

    @property
    def typed(self) -> Mapping[str, str]:
        """What stands in the text fields."""
        if self.posted is not None:
            return {name: self.posted.get(name, "") for name in (*TEXTS, "use")}
        known = {name: getattr(self.bike, name) for name in TEXTS if name != "customer"}
        return {
            **known,
            "use": self.bike.use,
            "customer": self.bike.customer.name if self.bike.customer else "",
        }

    @property
    def rider(self) -> list[Field]:
        known = self.bike.rider
        fields = [field_of(BIKE.attributes[name], known=known.get(name)) for name in RIDER]
        return fields if self.posted is None else marked(filled_in(fields, self.posted), self.faults)

    @property
    def wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    def read(self, data: Mapping[str, Any]) -> dict[str, Any]:
        """Return what was typed, as the service wants it. Raises InputError with what could not be read."""
        typed, faults = read_all(self.rider)
        if faults:
            raise InputError(faults)
        rider = {name: value for name, value in {**self.bike.rider, **typed}.items() if value is not None}
        return {**data, "rider": rider}


@allowed("change-bikes", "GET", "HEAD", "POST")
def details(request: Request, bike_id: int) -> HttpResponse:
    """A bike's details."""
    page = of_bike(request, bike_id, DetailsPage)
    if request.method != "POST":
        return answer(request, "bike/details.html", page)
    page = evolve(page, posted=request.POST)
    data = clean(DetailsForm(request.POST))
    version = data.pop("version")
    try:
        change_bike(actor=request.user, bike_id=bike_id, version=version, values=page.read(data))
    except InputError as error:
        return answer(request, "bike/details.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("bikes:stand", bike_id)


@allowed("change-bikes", "POST")
def leave(request: Request, bike_id: int) -> HttpResponse:
    """Put a bike away or remove it; the page of those shows it, with the way back."""
    archive_bike(actor=request.user, bike_id=bike_id, **clean(LeaveForm(request.POST)))
    return redirect("bikes:gone")


@frozen(kw_only=True)
class GonePage:
    """The bikes that are put away or removed, changed last first."""

    bikes: list[Bike]


GONE_SHOWN = 200


@allowed("see-bikes")
def gone(request: Request) -> HttpResponse:
    """The bikes that are put away or removed."""
    found = bikes_gone_from(request.user).select_related("customer").defer("undo", "summary")
    return answer(request, "bike/gone.html", GonePage(bikes=list(found.order_by("-changed")[:GONE_SHOWN])))


@allowed("change-bikes", "POST")
def back(request: Request, bike_id: int) -> HttpResponse:
    """Bring a bike back."""
    bring_back(actor=request.user, bike_id=bike_id)
    return redirect("bikes:stand", bike_id)
