"""Taking a bike in: the first look, then only what this kind of bike needs, in the order one looks at a bike."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.drawing.side import drawn
from unkett.core.errors import Fault, InputError
from unkett.core.intake import BRAKES, GEARS, Station
from unkett.core.next_measure import NextMeasure, next_measures
from unkett.core.scene import Scene
from unkett.core.typed import only_size, read_typed
from unkett.core.vocabulary import BIKE, SLOTS, Slot, enums
from unkett.web.bikes.intake import FirstLook, looks_of, measure_station, take_in
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import ReallyForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.show.fields import Field, by_name, field_of, filled_in, left_over, marked, read_all

FIRST = {
    "name": "Name of the bike",
    "use": "What is it for?",
    "gears": "Its gears",
    "brakes": "Its brakes",
    "customer": "Customer",
    "frame_number": "Frame number",
    "mass_kg": "Rider",
    "load_kg": "Load",
    "saddle_height_mm": "Saddle height",
    "complaint": "What the rider says",
    "wish": "What the rider wants",
}
RIDER = ("mass_kg", "load_kg", "saddle_height_mm")
NEXT_SHOWN = 6


class FirstLookForm(forms.Form):
    """What is asked before anything is measured."""

    name = forms.CharField(required=False, max_length=120, strip=True)
    use = forms.CharField(required=False, max_length=20)
    gears = forms.CharField(required=False, max_length=20)
    brakes = forms.CharField(required=False, max_length=20)
    customer = forms.CharField(required=False, max_length=120, strip=True)
    frame_number = forms.CharField(required=False, max_length=60, strip=True)
    complaint = forms.CharField(required=False, max_length=4000, strip=True)
    wish = forms.CharField(required=False, max_length=4000, strip=True)
    mass_kg = forms.CharField(required=False, max_length=20, strip=True)
    load_kg = forms.CharField(required=False, max_length=20, strip=True)
    saddle_height_mm = forms.CharField(required=False, max_length=20, strip=True)


@frozen(kw_only=True)
class FirstPage:
    """The first look: what was typed, and what is wrong with it."""

    typed: Mapping[str, str]
    faults: tuple[Fault, ...] = ()
    choices: tuple[tuple[str, str, Any], ...] = (
        ("use", FIRST["use"], tuple(enums.USE.codes.items())),
        ("gears", FIRST["gears"], tuple(GEARS.items())),
        ("brakes", FIRST["brakes"], tuple(BRAKES.items())),
    )

    @property
    def wrong(self) -> list[tuple[str, str]]:
        """What is wrong, by the title of its field."""
        return [(FIRST.get(name, name), fault.says) for name, fault in by_name(self.faults).items()]


@allowed("change-bikes", "GET", "HEAD", "POST")
def new(request: HttpRequest) -> HttpResponse:
    """The first look: what the bike is for, its gears and brakes, who rides it and what they say."""
    if request.method != "POST":
        return answer(request, "intake/first.html", FirstPage(typed=request.POST))
    try:
        data = clean(FirstLookForm(request.POST))
        typed = {key: data.pop(key) for key in RIDER}
        rider = {key: read_typed(text, BIKE.attributes[key].type) for key, text in typed.items() if text}
        bike = take_in(actor=request.user, first=FirstLook(rider=rider, **data))
    except InputError as error:
        page = FirstPage(typed=request.POST, faults=error.faults)
        return answer(request, "intake/first.html", page, status=422)
    return redirect("bikes:intake-station", bike.pk, looks_of(bike).stations()[0].name)


@frozen(kw_only=True)
class PartAsked:
    """One part of a station: its name, its fields, and whether nothing is fitted."""

    slot: Slot
    name: str
    fields: list[Field]
    nothing: bool
    taken: bool
    fault: Fault | None


@frozen(kw_only=True, slots=False)
class StationPage(BikePage):
    """One look at the bike: `posted` is what was typed, `faults` what is wrong with it."""

    station: Station
    stations: list[Station]
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @property
    def at(self) -> int:
        return self.stations.index(self.station)

    @property
    def next_station(self) -> Station | None:
        return self.stations[self.at + 1] if self.at + 1 < len(self.stations) else None

    @cached_property
    def parts(self) -> list[PartAsked]:
        """The parts of the station with their fields, filled with what is known or was typed."""
        return [self._part(slot) for slot in self.station.slots]

    @property
    def fields(self) -> list[Field]:
        return [item for part in self.parts for item in part.fields]

    def _part(self, slot: str) -> PartAsked:
        fitted = self.stands.fitted.get(slot)
        attrs, name = (fitted.attrs, fitted.name) if fitted else ({}, "")
        asked = [
            field_of(attr, name=f"{slot}.{attr.name}", known=attrs.get(attr.name), size=only_size(attrs))
            for attr in looks_of(self.bike).asks(slot)
        ]
        nothing = slot in self.now.empty
        if self.posted is not None:
            asked = marked(filled_in(asked, self.posted), self.faults)
            name, nothing = self.posted.get(f"{slot}.name", name), f"{slot}.nothing" in self.posted
        return PartAsked(
            slot=SLOTS[slot],
            name=name,
            fields=asked,
            nothing=nothing,
            taken=slot in self.now.filled(),
            fault=by_name(self.faults).get(f"{slot}.nothing"),
        )

    @property
    def other_faults(self) -> list[Fault]:
        """What is wrong and stands beside no field."""
        return left_over(self.fields, self.faults, [f"{slot}.nothing" for slot in self.station.slots])

    @property
    def asks_really(self) -> bool:
        return any(fault.unlikely for fault in self.faults)

    @cached_property
    def next_measures(self) -> list[NextMeasure]:
        return next_measures(self.check.findings)[:NEXT_SHOWN]

    @cached_property
    def scene(self) -> Scene:
        """The bike as far as its numbers go, without its joints."""
        return drawn(self.bones)


@allowed("change-bikes", "GET", "HEAD", "POST")
def station(request: HttpRequest, bike_id: int, name: str) -> HttpResponse:
    """One look at the bike: its parts with the fields worth filling, then the next."""
    bare = of_bike(request, bike_id, BikePage)
    stations = looks_of(bare.bike).stations()
    here = next((item for item in stations if item.name == name), None)
    if here is None:
        raise Http404
    page = StationPage(actor=request.user, stands=bare.stands, station=here, stations=stations)
    if request.method != "POST":
        return answer(request, "intake/station.html", page)
    page = evolve(page, posted=request.POST)
    faults = _kept(request, page)
    if faults:
        return answer(request, "intake/station.html", evolve(page, faults=tuple(faults)), status=422)
    if page.next_station is not None:
        return redirect("bikes:intake-station", bike_id, page.next_station.name)
    return redirect("bikes:stand", bike_id)


def _kept(request: HttpRequest, page: StationPage) -> list[Fault]:
    """Keep what was typed at a station; what is wrong with it."""
    data = clean(ReallyForm(request.POST))
    typed, faults = read_all(page.fields)
    values = {tuple(name.split(".", 1)): value for name, value in typed.items()}
    names = {part.slot.name: part.name for part in page.parts}
    empty = {part.slot.name: part.nothing for part in page.parts}
    if faults or not _is_new(page, values, names, empty):
        return faults
    try:
        measure_station(
            actor=request.user,
            bike_id=page.bike.pk,
            version=data["version"],
            values=values,
            names=names,
            empty=empty,
            really=data["really"],
        )
    except InputError as error:
        return list(error.faults)
    return []


def _is_new(
    page: StationPage, values: Mapping[Any, Any], names: Mapping[str, str], empty: Mapping[str, bool]
) -> bool:
    """Whether anything was said that the bike does not know already."""
    known = {slot: part.name for slot, part in page.stands.fitted.items()}
    named = any(name.strip() and name.strip() != known.get(slot, "") for slot, name in names.items())
    said = any((slot in page.now.empty) != nothing for slot, nothing in empty.items())
    return bool(values) or named or said
