"""Set-ups of a bike side by side: what goes on together, what differs, one tap to swap."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.bike.setups import Compared, compared
from unkett.core.check.difference import difference
from unkett.core.errors import Fault, InputError
from unkett.core.rules.finding import Finding
from unkett.core.vocabulary import SLOTS, Slot
from unkett.web.bikes import setups
from unkett.web.bikes.queries import bench_of
from unkett.web.bikes.setups import BENCH, CATALOGUE, LIKE_IT, ON_IT, SetUpSeen, Source, set_ups_of
from unkett.web.catalogue.queries import on_offer
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.show.values import Shown

WHEEL = ("hub", "spokes", "rim", "tyre", "rotor")
SORTS: dict[str, tuple[str, tuple[str, ...]]] = {
    "wheels": (
        "Wheels",
        (*(f"{end}_{part}" for end in ("front", "rear") for part in WHEEL), "cassette"),
    ),
    "rear": ("Rear wheel or home trainer", (*(f"rear_{part}" for part in WHEEL), "cassette")),
    "fork": ("Fork", ("fork", "headset", "front_hub", "front_caliper", "front_brake_line")),
    "drive": ("Cassette and chain", ("cassette", "chain")),
    "bar": ("Bar", ("stem", "handlebar", "grips")),
}


@frozen(kw_only=True)
class Row(Shown):
    """One slot of a new set-up: where its part may come from."""

    slot: Slot
    options: list[tuple[str, str]]
    chosen: str
    name: str
    fault: Fault | None


@frozen(kw_only=True)
class SetUpShown(Shown):
    """A set-up with what it brings against the bike as it stands."""

    seen: SetUpSeen
    parts: list[tuple[str, str]]
    trouble: list[Finding]


@frozen(kw_only=True, slots=False)
class SetUpsPage(BikePage):
    """The set-ups of a bike, and a new one of a sort in fields."""

    sort: str = "wheels"
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @property
    def sorts(self) -> list[tuple[str, str]]:
        return [(name, title) for name, (title, _) in SORTS.items()]

    @cached_property
    def seen(self) -> list[SetUpSeen]:
        return set_ups_of(self.actor, self.stands)

    @cached_property
    def set_ups(self) -> list[SetUpShown]:
        return [
            SetUpShown(
                seen=one,
                parts=[(SLOTS[slot].title, str(part)) for slot, part in one.parts.items()],
                trouble=[] if one.is_on else self._trouble(one),
            )
            for one in self.seen
        ]

    def _trouble(self, one: SetUpSeen) -> list[Finding]:
        """Return what a set-up brings with it that is not so on the bike as it stands."""
        new = difference(self.stands.check, one.check, list(one.parts))
        return [finding for finding in new.new if finding.verdict.value != "goes"]

    @cached_property
    def rows(self) -> list[Compared]:
        if len(self.seen) < 2:
            return []
        return compared({one.set_up.name: one.build for one in self.seen}, self.settings)

    @property
    def name(self) -> str:
        return "" if self.posted is None else str(self.posted.get("name", ""))

    @property
    def wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    @cached_property
    def _bench(self) -> list[Any]:
        return bench_of(self.actor, *{SLOTS[slot].kind for slot in SORTS[self.sort][1]})

    @cached_property
    def new_parts(self) -> list[Row]:
        """The slots of the sort with where each part may come from."""
        return [self._row(slot) for slot in SORTS[self.sort][1]]

    def _row(self, slot: str) -> Row:
        title, kind = SLOTS[slot].title.lower(), SLOTS[slot].kind
        there = slot in self.now.filled()
        options = [("", "leave it out")]
        if there:
            options += [(ON_IT, f"the {title} on the bike"), (LIKE_IT, "one like it, set aside")]
        options += [(f"{BENCH}-{part.pk}", f"bench: {part}") for part in self._bench if part.kind == kind]
        covered = any(slot in one.parts for one in self.seen)
        chosen = (LIKE_IT if covered else ON_IT) if there else ""
        name = ""
        if self.posted is not None:
            chosen = self.posted.get(f"{slot}.from", "")
            name = self.posted.get(f"{slot}.name", "")
        fault = self.wrong.get(slot)
        return Row(slot=SLOTS[slot], options=options, chosen=chosen, name=name, fault=fault)

    def read(self) -> dict[str, Source]:
        """By slot, where the parts of the new set-up come from. Raises InputError naming the slot."""
        out, faults = {}, []
        for row in self.new_parts:
            slot = row.slot.name
            if row.name.strip():
                found = on_offer(self.actor).filter(kind=row.slot.kind, name=row.name.strip())
                ids = list(found.values_list("pk", flat=True)[:2])
                if len(ids) == 1:
                    out[slot] = Source(sort=CATALOGUE, part_id=ids[0])
                else:
                    faults.append(Fault(path=slot, says="no part of the catalogue has just this name"))
            elif row.chosen in dict(row.options) and row.chosen:
                sort, _, pk = row.chosen.partition("-")
                out[slot] = Source(sort=sort, part_id=int(pk) if pk else None)
            elif row.chosen:
                faults.append(Fault(path=slot, says="choose one"))
        if faults:
            raise InputError(faults)
        return out


class NewForm(VersionForm):
    """A new set-up's name and sort."""

    name = forms.CharField(required=False, max_length=200, strip=True)


@allowed("change-bikes", "GET", "HEAD", "POST")
def set_ups(request: Request, bike_id: int) -> HttpResponse:
    """The set-ups of a bike; a new one."""
    sort = request.GET.get("sort", "wheels")
    page = of_bike(request, bike_id, SetUpsPage, here="set-ups", sort=sort if sort in SORTS else "wheels")
    if request.method != "POST":
        return answer(request, "setups/setups.html", page)
    page = evolve(page, posted=request.POST)
    data = clean(NewForm(request.POST))
    try:
        setups.add_set_up(actor=request.user, bike_id=bike_id, parts=page.read(), **data)
    except InputError as error:
        return answer(request, "setups/setups.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("bikes:set-ups", bike_id)


@allowed("change-bikes", "POST")
def put_on(request: Request, bike_id: int, set_up_id: int) -> HttpResponse:
    """Swap a set-up on."""
    setups.put_on(
        actor=request.user, bike_id=bike_id, set_up_id=set_up_id, **clean(VersionForm(request.POST))
    )
    return redirect("bikes:set-ups", bike_id)


@allowed("change-bikes", "POST")
def remove(request: Request, bike_id: int, set_up_id: int) -> HttpResponse:
    """Forget a set-up."""
    setups.remove_set_up(
        actor=request.user, bike_id=bike_id, set_up_id=set_up_id, **clean(VersionForm(request.POST))
    )
    return redirect("bikes:set-ups", bike_id)
