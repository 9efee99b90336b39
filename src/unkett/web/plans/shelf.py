"""What may go on a bike: the catalogue, the bench, the wheels laced again; and what things cost here."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from attrs import evolve
from django.db.models import Max, QuerySet

from unkett.core.bike.overlay import to_lace
from unkett.core.bike.wear import worn_out
from unkett.core.bike.wheels import ENDS, wheel_slots
from unkett.core.build import Build
from unkett.core.formats.reader import new_part
from unkett.core.settings import Settings
from unkett.core.standards import lookup, table
from unkett.core.vocabulary import SLOTS, slots_of_kind
from unkett.core.ways.wish import Effort, ShelfPart
from unkett.web.bikes.models import BikePart, Where
from unkett.web.bikes.permissions import parts_seen_by
from unkett.web.bikes.queries import settings_of
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import on_offer
from unkett.web.catalogue.services import renew_classes
from unkett.web.workshop.models import User

CATALOGUE, BENCH, LACE = "c", "b", "lace-"  # what the ids of the shelf begin with
TAKE_OFF_MINUTES = 5  # to take a part off and put nothing in its place


def minutes_to_fit(kind: str) -> int:
    """Usual minutes to fit a part of this sort."""
    return int(lookup("fit_minutes", "kind")[kind]["minutes"])


def shelf_of(actor: User, build: Build) -> tuple[ShelfPart, ...]:
    """Return every part that the workshop has or can get, and both wheels laced again with spokes cut for them.

    The catalogue counts no pieces: one of each slot can be had.
    """
    return (*_had(actor, on_offer(actor).filter(also=[])), *_wheels(on_offer(actor)), *relaced(build))


def one_of_each(actor: User) -> tuple[ShelfPart, ...]:
    """Of parts that no rule tells apart the cheapest, and what lies on the bench."""
    renew_classes(actor.workshop)
    loose = on_offer(actor).filter(also=[])
    cheapest = loose.order_by("fit_class_id", "price", "pk").distinct("fit_class_id")
    return (*_had(actor, cheapest), *_wheels(on_offer(actor)))


def _had(actor: User, offered: QuerySet[CataloguePart]) -> list[ShelfPart]:
    """Return what is offered and what lies in the bin. What has no price yet is compared as the dearest of its kind."""
    priced = on_offer(actor).filter(also=[], price__isnull=False).order_by()
    dearest = dict(priced.values_list("kind").annotate(most=Max("price")))
    places = {kind: tuple(slot.name for slot in slots_of_kind(kind)) for kind in _kinds()}
    found = [
        ShelfPart(
            id=f"{CATALOGUE}{part.pk}",
            slots=places[part.kind],
            part=new_part(part.kind, part.name, part.attrs),
            price=_cents(dearest.get(part.kind) if part.price is None else part.price),
            priced=part.price is not None,
            minutes=minutes_to_fit(part.kind),
            days=part.days,
            grams=part.mass_g or 0,
            source=_source_of(part),
            count=len(places[part.kind]),
        )
        for part in offered.filter(kind__in=places)
    ]
    settings = settings_of(actor)
    lying = parts_seen_by(actor).filter(where=Where.BENCH, also=[], kind__in=places)
    found += [
        ShelfPart(
            id=f"{BENCH}{part.pk}",
            slots=places[part.kind],
            part=part.as_part(),
            price=_cents(part.value or Decimal(0)),
            grams=part.mass_g or 0,
            minutes=minutes_to_fit(part.kind),
            source="bin",
        )
        for part in lying
        if not worn_out(places[part.kind][0], part.as_part(), settings)
    ]
    return found


def _wheels(offered: QuerySet[CataloguePart]) -> list[ShelfPart]:
    """Return the ready-built wheels that can be had, each for its own end."""
    return [
        ShelfPart(
            id=f"{CATALOGUE}{part.pk}",
            slots=(hub,),
            part=new_part(part.kind, part.name, part.attrs, part.also),
            price=_cents(part.price),
            minutes=minutes_to_fit("tyre") + minutes_to_fit("rotor"),  # they go over; nothing is laced
            days=part.days,
            grams=part.mass_g or 0,
            source=_source_of(part),
        )
        for hub, *others in map(wheel_slots, ENDS)
        for part in offered.filter(kind="hub", also=others, price__isnull=False)
    ]


def relaced(build: Build) -> list[ShelfPart]:
    """The spokes of both wheels cut again: what another hub or rim wants, priced by what the joint then needs."""
    found = []
    for end in ("front", "rear"):
        spokes = build.parts.get(f"{end}_spokes")
        if spokes is not None:
            part = evolve(to_lace(spokes), name=f"{spokes.name}, cut anew")
            found.append(ShelfPart(id=f"{LACE}{end}", slots=(f"{end}_spokes",), part=part))
    return found


def needs_here() -> dict[str, Effort]:
    """Return what needs cost: money in hundredths, and minutes."""
    return {
        row["what"]: Effort(
            price=_cents(Decimal(str(row.get("price", 0)))), minutes=int(row.get("minutes", 0))
        )
        for row in table("needs").rows
    }


def stands_g(fitted: Mapping[str, BikePart]) -> dict[str, int]:
    """Return what the parts on the bike weigh in grams, where their catalogue entry tells."""
    entries = {slot: part.catalogue_part for slot, part in fitted.items() if part.catalogue_part_id}
    return {slot: entry.mass_g for slot, entry in entries.items() if entry is not None and entry.mass_g}


def labour_cents(settings: Settings) -> int:
    """Return what an hour of labour costs, in hundredths."""
    return round(settings.number("labour_per_hour") * 100)


def _kinds() -> set[str]:
    return {slot.kind for slot in SLOTS.values()}


def _cents(money: Decimal | None) -> int:
    return int((money or 0) * 100)


def _source_of(part: CataloguePart) -> str:
    if part.days:
        return "supplier"
    return "bin" if part.place.startswith("bin") else "stock"


def row_of(part: ShelfPart) -> dict[str, Any]:
    """Return what a card tells of a part on the shelf."""
    return {
        "name": part.part.name or SLOTS[part.slots[0]].title,
        "price": part.price / 100 if part.priced else None,
        "days": part.days,
        "from": part.source,
    }
