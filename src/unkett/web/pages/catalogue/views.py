"""The catalogue from the part's side: find a part, see which of our bikes can use it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import frozen
from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.vocabulary import KINDS, SLOTS, Kind, describe, slots_of_kind
from unkett.web.bikes.queries import settings_of
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import found_by_words, on_offer, parts_seen_by
from unkett.web.catalogue.starter import StarterState, load_starter, source_of, starter_state
from unkett.web.pages.catalogue.uses import Use, uses_of
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import FindForm
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.words import ShownValue, shown_value
from unkett.web.supply.models import Offer
from unkett.web.supply.queries import offers_for
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

PAGE = 50
NAMES_OFFERED = 12
COLUMNS_SHOWN = 4


@frozen(kw_only=True, slots=False)
class PartsPage:
    """Catalogue parts by kind, found by words."""

    actor: User
    words: str
    kind: str
    number: Any
    which: str = ""

    @cached_property
    def sheet(self) -> Any:
        """One sheet of the parts that were found."""
        found = found_by_words(parts_seen_by(self.actor), self.actor, self.words)
        if self.kind in KINDS:
            found = found.filter(kind=self.kind)
        if self.own:
            found = found.filter(typical=False)
        return Paginator(found.order_by("kind", "price", "id"), PAGE).get_page(self.number)

    @cached_property
    def starter(self) -> StarterState:
        """How many starter parts are here, and how many could be loaded or brought up to date."""
        return starter_state(self.actor)

    @property
    def may_load(self) -> bool:
        """Whether this person may load what the starter catalogue has to give."""
        return bool(self.starter.pending) and may(self.actor, "change-catalogue")

    @property
    def own(self) -> bool:
        """Whether only the workshop's own parts are shown."""
        return self.which == "own"

    @cached_property
    def columns(self) -> list[str]:
        """The attributes shown as columns where one kind is asked for: the first that half of its parts have."""
        parts = list(self.sheet)
        if self.kind not in KINDS or not parts:
            return []
        held = Counter(name for part in parts for name in part.attrs)
        often = [name for name in KINDS[self.kind].attributes if held[name] * 2 >= len(parts)]
        return often[:COLUMNS_SHOWN]

    @property
    def heads(self) -> list[tuple[str, str]]:
        """Title and unit of each column."""
        slot = slots_of_kind(self.kind)[0].name if self.columns else ""
        shown = [describe(slot, name) for name in self.columns]
        return [(one.title, getattr(one.type, "unit", "")) for one in shown]

    @property
    def rows(self) -> list[tuple[CataloguePart, str, list[ShownValue | None]]]:
        """Each part with its kind and the figures of the columns."""
        found = []
        for part in self.sheet:
            slot = slots_of_kind(part.kind)[0].name
            values = [
                shown_value(slot, name, part.attrs[name], part.origin) if name in part.attrs else None
                for name in self.columns
            ]
            found.append((part, KINDS[part.kind].title, values))
        return found

    @property
    def asked(self) -> str:
        """The address part that asks for the same parts."""
        return urlencode({"find": self.words, "kind": self.kind, "which": self.which})

    @property
    def kinds(self) -> list[tuple[str, str]]:
        return [(name, kind.title) for name, kind in KINDS.items()]


@allowed("see-catalogue")
def parts(request: Request) -> HttpResponse:
    """Catalogue parts by kind, found by words."""
    asked = request.GET
    page = PartsPage(
        actor=request.user,
        words=FindForm.words(asked),
        kind=asked.get("kind", ""),
        number=asked.get("page"),
        which=asked.get("which", ""),
    )
    return answer(request, "catalogue/parts.html", page)


def values_of(part: CataloguePart) -> list[ShownValue]:
    """Return a part's dimensions in the order of its kind, as a page shows them."""
    slot = slots_of_kind(part.kind)[0].name
    named = [name for name in KINDS[part.kind].attributes if name in part.attrs]
    return [shown_value(slot, name, part.attrs[name], part.origin) for name in named]


@frozen(kw_only=True, slots=False)
class PartPage:
    """One part: its dimensions and the bikes it can go on."""

    actor: User
    part: CataloguePart

    @property
    def kind(self) -> Kind:
        return KINDS[self.part.kind]

    @property
    def values(self) -> list[ShownValue]:
        return values_of(self.part)

    @property
    def source(self) -> Mapping[str, str] | None:
        """Where typical figures come from, and how sure they are."""
        return source_of(self.part)

    @cached_property
    def offers(self) -> list[Offer]:
        """What suppliers offer of it."""
        return offers_for(self.actor, [self.part.pk]).get(self.part.pk, [])

    @cached_property
    def uses(self) -> list[Use]:
        return uses_of(self.actor, self.part, settings_of(self.actor))


@allowed("change-catalogue", "POST")
def starter(request: Request) -> HttpResponse:
    """Load the starter catalogue, or bring it up to date."""
    load_starter(actor=request.user)
    return redirect("catalogue:parts")


@allowed("see-catalogue")
def part(request: Request, part_id: int) -> HttpResponse:
    """One part: its dimensions and the bikes it can go on."""
    found = parts_seen_by(request.user).filter(pk=part_id).first()
    if found is None:
        raise Http404
    return answer(request, "catalogue/part.html", PartPage(actor=request.user, part=found))


@frozen(kw_only=True, slots=False)
class CalledPage:
    """The names that hold what is typed in a name field, and the part that bears it."""

    slot: str
    typed: str
    offered: list[CataloguePart]
    bearing: list[CataloguePart]

    @property
    def chosen(self) -> CataloguePart | None:
        """The one part of this name: it is what the field then takes."""
        return self.bearing[0] if len(self.bearing) == 1 else None

    @property
    def is_new(self) -> bool:
        return bool(self.typed) and not self.offered and not self.bearing

    @property
    def values(self) -> list[ShownValue]:
        return values_of(self.chosen) if self.chosen else []


@allowed("see-catalogue")
def called(request: Request, slot: str) -> HttpResponse:
    """Names of parts for a slot that hold the typed words: the list under a name field, and what the name says."""
    if slot not in SLOTS:
        raise Http404
    typed = FindForm.words({"find": request.GET.get(f"{slot}.name", "")})
    parts = on_offer(request.user).filter(kind=SLOTS[slot].kind)
    page = CalledPage(
        slot=slot,
        typed=typed,
        offered=list(found_by_words(parts, request.user, typed).order_by("name", "id")[:NAMES_OFFERED]),
        bearing=list(parts.filter(name=typed)[:2]) if typed else [],
    )
    return answer(request, "catalogue/_called.html", page)
