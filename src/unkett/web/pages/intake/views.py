"""The stations of an intake: only what this kind of bike has, in the order one looks at a bike."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.check.next_measure import NextMeasure, next_measures
from unkett.core.drawing.side import drawn
from unkett.core.errors import Fault, InputError
from unkett.core.formats.typed_text import only_size
from unkett.core.intake import Station
from unkett.core.intake.fellows import beside, front_of, one_with
from unkett.core.intake.printed import example_for, read_printed
from unkett.core.scene import Scene
from unkett.core.vocabulary import SLOTS, Slot
from unkett.core.vocabulary.words import in_sentence, listed
from unkett.web.bikes.intake import PartSeen, measure_station, profile_of
from unkett.web.bikes.models import BikePart, Feel
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import ReallyForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import Field, by_name, field_of, filled_in, left_over, marked, read_all
from unkett.web.show.values import Shown

NEXT_SHOWN = 6
FELT = ("bottom_bracket", "headset", "hub", "pedals")  # kinds whose bearings are felt at the intake
SELDOM = ("dropper_lever", "dropper_line", "mudguard", "shock")  # kinds that many such bikes do not have
BESIDE_FIELDS = ("nothing", "as_front", "as_fellows", "printed", "feel")


@frozen(kw_only=True)
class PartAsked(Shown):
    """One part of a station: its name, what settles it with a tap, its fields, those of "more of it" apart."""

    slot: Slot
    name: str
    fields: list[Field]
    later: list[Field]
    ticked: Mapping[str, bool]
    taken: bool
    folded: bool
    printed: str
    example: str
    front: str
    fellows: str
    one: str
    feel: str
    felt: bool
    wrong: Mapping[str, Fault | None]

    feels = tuple(Feel.choices)

    @property
    def offered(self) -> list[dict[str, Any]]:
        """The ticks that settle it, those first after which nothing is left to ask (`whole`)."""
        offers = (
            ("nothing", "No part fitted", not self.taken, True),
            ("as_front", "As at the front", bool(self.front), True),
            ("one_piece", f"One piece with the {self.one}", bool(self.one), False),
            ("as_fellows", f"Goes with the {self.fellows} as they are", bool(self.fellows), False),
        )
        return [
            {
                "name": name,
                "title": title,
                "whole": whole,
                "on": self.ticked[name],
                "fault": self.wrong.get(name),
            }
            for name, title, offered, whole in offers
            if offered
        ]

    @property
    def beside_wrong(self) -> list[Fault]:
        """What is wrong with its ticks, its printed line and its feel."""
        return [fault for fault in self.wrong.values() if fault is not None]

    @property
    def all_fields(self) -> list[Field]:
        return [*self.fields, *self.later]

    @property
    def more_open(self) -> bool:
        """Whether what is asked under "more of it" stands open: where something there is wrong."""
        return any(item.fault for item in self.later)


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
        return [item for part in self.parts for item in part.all_fields]

    @cached_property
    def _by_slot(self) -> dict[str, BikePart]:
        return {slot: part for part in self.stands.fitted.values() for slot in part.slots()}

    def _part(self, slot: str) -> PartAsked:
        fitted, profile, kind = self._by_slot.get(slot), profile_of(self.bike), SLOTS[slot].kind
        attrs = fitted.attrs if fitted else {}
        asked = [
            field_of(attr, name=f"{slot}.{attr.name}", known=attrs.get(attr.name), size=only_size(attrs))
            for attr in profile.asks(slot)
        ]
        typed = self.posted
        if typed is not None:
            asked = marked(filled_in(asked, typed), self.faults)
        later = [item for item in asked if profile.later(slot, item.name.partition(".")[2])]
        known_name = fitted.name if fitted else ""
        known_feel = fitted.condition.get("feel", "") if fitted else ""
        return PartAsked(
            slot=SLOTS[slot],
            name=known_name if typed is None else typed.get(f"{slot}.name", known_name),
            fields=[item for item in asked if item not in later],
            later=later,
            ticked=self._ticks(slot),
            taken=slot in self.now.filled(),
            folded=kind in SELDOM and slot not in self.now.filled() and typed is None,
            printed="" if typed is None else typed.get(f"{slot}.printed", ""),
            example=example_for(slot),
            front=front_of(slot) or "",
            fellows=self._fellows(slot),
            one=self._one_piece(slot),
            feel=known_feel if typed is None else typed.get(f"{slot}.feel", known_feel),
            felt=kind in FELT,
            wrong={name: by_name(self.faults).get(f"{slot}.{name}") for name in BESIDE_FIELDS},
        )

    @property
    def has_both_ends(self) -> bool:
        return any(front_of(slot) for slot in self.station.slots)

    @property
    def rear_as_front(self) -> bool:
        """Whether one tick says of every rear part here that it is as at the front."""
        return self.posted is not None and "rear_as_front" in self.posted

    def _ticks(self, slot: str) -> dict[str, bool]:
        names = ("nothing", "as_front", "as_fellows", "one_piece")
        if self.posted is not None:
            return {name: f"{slot}.{name}" in self.posted for name in names}
        return {**dict.fromkeys(names, False), "nothing": slot in self.now.empty}

    def _fellows(self, slot: str) -> str:
        """Return the parts beside it that something can be taken over from, in words."""
        here = set(self.station.slots) | set(self._by_slot)
        others = [other for _, (other, _) in beside(slot) if other in here]
        return listed([in_sentence(SLOTS[other].title) for other in dict.fromkeys(others)])

    def _one_piece(self, slot: str) -> str:
        """Return the title of the part that it may be one piece with."""
        one = one_with(slot)
        free = slot not in self._by_slot
        return in_sentence(SLOTS[one].title) if one and free and profile_of(self.bike).has(one) else ""

    @property
    def other_faults(self) -> list[Fault]:
        """What is wrong and stands beside no field."""
        beside_it = [f"{slot}.{name}" for slot in self.station.slots for name in BESIDE_FIELDS]
        return left_over(self.fields, self.faults, beside_it)

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

    def read(self) -> tuple[dict[str, PartSeen], list[Fault]]:
        """By slot, what was said of it; and what could not be read."""
        typed, faults = read_all(self.fields)
        seen, there = {}, set(self._by_slot)
        for part in self.parts:
            slot = part.slot.name
            printed: dict[str, Any] = {}
            if part.printed.strip():
                try:
                    printed = read_printed(slot, part.printed)
                except InputError as error:
                    faults += [Fault(path=f"{slot}.printed", says=fault.says) for fault in error.faults]
            ticked = dict(part.ticked)
            if self.rear_as_front and front_of(slot) in there and not ticked["nothing"]:
                ticked["as_front"] = True
            there |= (
                {slot}
                if printed or part.name or any(name.startswith(f"{slot}.") for name in typed)
                else set()
            )
            seen[slot] = PartSeen(
                name=part.name,
                values={
                    attr: value
                    for name, value in typed.items()
                    for of, attr in [name.split(".", 1)]
                    if of == slot
                },
                printed=printed,
                feel=part.feel,
                **ticked,
            )
        return seen, faults

    def says_anything(self, seen: Mapping[str, PartSeen]) -> bool:
        """Return whether anything was said that the bike does not know already."""
        for slot, part in seen.items():
            fitted = self._by_slot.get(slot)
            name, feel = (fitted.name, fitted.condition.get("feel", "")) if fitted else ("", "")
            if part.values or part.printed or (part.as_front or part.as_fellows or part.one_piece):
                return True
            if part.name.strip() != name or part.feel != feel or part.nothing != (slot in self.now.empty):
                return True
        return False


@allowed("change-bikes", "GET", "HEAD", "POST")
def station(request: Request, bike_id: int, name: str) -> HttpResponse:
    """One look at the bike: its parts with the fields worth filling, then the next."""
    bare = of_bike(request, bike_id, BikePage)
    stations = profile_of(bare.bike).stations()
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


def _kept(request: Request, page: StationPage) -> list[Fault]:
    """Keep what was typed at a station; what is wrong with it."""
    data = clean(ReallyForm(request.POST))
    seen, faults = page.read()
    if not faults and not page.says_anything(seen):
        return []
    try:
        measure_station(
            actor=request.user,
            bike_id=page.bike.pk,
            version=data["version"],
            seen=seen,
            wrong=faults,
            really=data["really"],
        )
    except InputError as error:
        return list(error.faults)
    return []
