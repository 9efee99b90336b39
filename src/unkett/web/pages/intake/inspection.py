"""The inspection: one tick list per area, before anything is measured."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.intake import Station
from unkett.core.intake.inspection import AREAS, HOWS, TICKS, Tick, places
from unkett.core.vocabulary import title_of
from unkett.web.bikes.inspection import Found, found_on, is_own, look_over, next_own, own_places, picture_of
from unkett.web.bikes.intake import profile_of
from unkett.web.bikes.models import BikePart
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.complaints import ComplaintsPage
from unkett.web.pages.common.forms import Money, VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.show.values import Shown
from unkett.web.wear.services import GEAR_SLOT, read_gear


@frozen(kw_only=True)
class TickShown(Shown):
    """One thing to look for, with what was found."""

    tick: Tick
    slots: list[tuple[str, str]]
    ticked: bool
    chosen: tuple[str, ...]
    how: str
    note: str
    picture: bool
    faults: list[str]


@frozen(kw_only=True)
class OwnShown(Shown):
    """A finding in somebody's own words, or the empty row for one."""

    code: str
    chosen: tuple[str, ...]
    how: str
    note: str
    minutes: str
    price: str
    picture: bool
    faults: list[str]


@frozen(kw_only=True)
class AreaTicks(Shown):
    """The ticks of an area."""

    title: str
    ticks: list[TickShown]

    @property
    def number(self) -> int:
        return sum(one.ticked for one in self.ticks)


@frozen(kw_only=True, slots=False)
class LookOverPage(ComplaintsPage):
    """What to look for on such a bike: `posted` is what was ticked, `faults` what is wrong with it."""

    stations: list[Station]
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    hows = tuple(HOWS.items())

    @cached_property
    def _pictured(self) -> set[str]:
        return set(self.bike.pictures.values_list("about", flat=True))

    @cached_property
    def areas(self) -> list[AreaTicks]:
        profile = profile_of(self.bike)
        out = []
        for area, title in AREAS.items():
            here = [
                (tick, places(tick, profile))
                for tick in TICKS.values()
                if tick.area == area and not tick.searched
            ]
            ticks = [self._shown(tick, slots) for tick, slots in here if slots]
            if ticks:
                out.append(AreaTicks(title=title, ticks=ticks))
        return out

    @property
    def searched(self) -> dict[str, Found]:
        """What a search for a cause ticked: not asked here, and kept."""
        found = found_on(self.bike)
        return {code: one for code, one in found.items() if code in TICKS and TICKS[code].searched}

    @cached_property
    def own(self) -> list[OwnShown]:
        """What was found in own words, and an empty row for one more."""
        kept = found_on(self.bike)
        if self.posted is not None:
            codes = [name.partition(".")[0] for name in self.posted if name.endswith(".note")]
            return [self._own_posted(code) for code in codes if is_own(code)]
        rows = [
            OwnShown(
                code=code,
                chosen=one.slots,
                how=one.how,
                note=one.note,
                minutes=str(one.minutes),
                price=f"{one.price:.2f}",
                picture=code in self._pictured,
                faults=[],
            )
            for code, one in kept.items()
            if is_own(code)
        ]
        empty = {"chosen": ("bike",), "how": "should", "note": "", "minutes": "", "price": ""}
        return [*rows, OwnShown(code=next_own(kept), picture=False, faults=[], **empty)]  # type: ignore[arg-type]

    def _own_posted(self, code: str) -> OwnShown:
        wrong = by_name(self.faults)
        names = ("slot", "how", "note", "minutes", "price", "picture")
        typed = {name: self.posted.get(f"{code}.{name}", "") for name in ("how", "note", "minutes", "price")}
        return OwnShown(
            code=code,
            chosen=tuple(self.posted.getlist(f"{code}.slot")),
            picture=code in self._pictured,
            faults=[wrong[path].says for name in names if (path := f"{code}.{name}") in wrong],
            **typed,
        )

    @property
    def own_slots(self) -> list[tuple[str, str]]:
        """The parts that a finding in own words may be on."""
        return [(slot, title_of(slot)) for slot in own_places(profile_of(self.bike))]

    def _shown(self, tick: Tick, slots: tuple[str, ...]) -> TickShown:
        kept = found_on(self.bike).get(tick.code)
        ticked, words = kept is not None, kept or Found(slots=(), how=tick.how)
        if self.posted is not None:
            ticked = tick.code in self.posted
            how, note = (self.posted.get(f"{tick.code}.{name}", "") for name in ("how", "note"))
            words = Found(
                slots=tuple(self.posted.getlist(f"{tick.code}.slot")), how=how or tick.how, note=note
            )
        wrong = by_name(self.faults)
        names = ("slot", "how", "note", "picture")
        return TickShown(
            tick=tick,
            slots=[(slot, title_of(slot)) for slot in slots],
            ticked=ticked,
            chosen=words.slots or (slots if len(slots) == 1 else ()),
            how=words.how,
            note=words.note,
            picture=tick.code in self._pictured,
            faults=[wrong[path].says for name in names if (path := f"{tick.code}.{name}") in wrong],
        )

    @property
    def found(self) -> dict[str, Found]:
        """What is ticked, by tick."""
        ticked = [one for one in self.ticks if one.ticked]
        return {one.tick.code: Found(slots=one.chosen, how=one.how, note=one.note) for one in ticked}

    @property
    def electronic(self) -> BikePart | None:
        """The electronic rear derailleur, where there is one."""
        part = self.stands.fitted.get(GEAR_SLOT)
        return part if part is not None and part.attrs.get("actuation") == "electronic" else None

    @property
    def ticks(self) -> list[TickShown]:
        return [one for area in self.areas for one in area.ticks]


@allowed("change-bikes", "GET", "HEAD", "POST")
def look(request: Request, bike_id: int) -> HttpResponse:
    """The inspection of a bike, then the first station."""
    bare = of_bike(request, bike_id, BikePage)
    page = LookOverPage(
        actor=request.user,
        stands=bare.stands,
        stations=profile_of(bare.bike).stations(),
        url=request.path,
        asked=request.GET,
    )
    if request.method != "POST":
        return answer(request, "intake/inspection.html", page)
    page = evolve(page, posted=request.POST)
    version = clean(VersionForm(request.POST))["version"]
    try:
        found = page.found | page.searched | _own_found(page)
        sent = {code: file for code in found if (file := request.FILES.get(f"{code}.picture")) is not None}
        pictures = {code: file.read() for code, file in sent.items()}
        if found or page.bike.looked:
            look_over(actor=request.user, bike_id=bike_id, version=version, found=found, pictures=pictures)
    except InputError as error:
        return answer(request, "intake/inspection.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("bikes:intake-station", bike_id, page.stations[0].name)


def _own_found(page: LookOverPage) -> dict[str, Found]:
    """Return the findings in own words as they were typed; a row without words is none. Raises InputError by name."""
    found = {}
    for one in page.own:
        if one.note.strip():
            typed = {"minutes": one.minutes or "0", "price": one.price or "0"}
            try:
                data = clean(OwnForm(typed))
            except InputError as error:
                raise InputError(
                    [evolve(each, path=f"{one.code}.{each.path}") for each in error.faults]
                ) from None
            found[one.code] = Found(slots=one.chosen, how=one.how, note=one.note, **data)
    return found


class OwnForm(forms.Form):
    minutes = forms.IntegerField(min_value=0)
    price = Money(min_value=0, max_digits=9, decimal_places=2)


class GearForm(VersionForm):
    """What an electronic gear says of itself."""

    battery = forms.FloatField(required=False, min_value=0, max_value=100)
    speeds = forms.IntegerField(required=False, min_value=1, max_value=14)
    protocol = forms.CharField(required=False, max_length=60, strip=True)
    instrument = forms.CharField(required=False, max_length=60, strip=True)


@allowed("change-bikes", "POST")
def gear(request: Request, bike_id: int) -> HttpResponse:
    """Keep what the electronic gear said, or what was read of it by hand."""
    read_gear(actor=request.user, bike_id=bike_id, **clean(GearForm(request.POST)))
    return redirect("bikes:inspection", bike_id)


@allowed("see-bikes")
def picture(request: Request, bike_id: int, name: str) -> HttpResponse:
    """The picture of what was found."""
    return HttpResponse(picture_of(request.user, bike_id, name), content_type="image/jpeg")
