"""Everything that puts parts on bikes, takes them off, moves them, copies a bike, and puts the last change back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.http import Http404

from unkett.core.build import plain, stored_part
from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import Bike, Feel, FittedPart, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import judge_fresh, locked, write_bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.errors import Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NOTE_MAX = 400
NAME_MAX = 200


def _fitted(bike: Bike, slot: str) -> FittedPart | None:
    return next((part for part in bike.fitted.all() if slot == part.slot or slot in part.also), None)


def _slot(slot: str) -> str:
    if slot not in SLOTS:
        raise Http404
    return SLOTS[slot].title


def _condition(given: Mapping[str, str]) -> dict[str, str]:
    """Feel, wear and damage that are said. Raises InputError for a feel there is not or a note too long."""
    faults = []
    if given.get("feel") and given["feel"] not in Feel.values:
        faults.append(
            Fault(path="feel", says=f"{given['feel']!r} given; one of {', '.join(Feel.values)} allowed")
        )
    faults += [
        Fault(
            path="damage_note" if name == "damage" else name,
            says=f"{len(given[name])} characters; at most {NOTE_MAX} are kept",
        )
        for name in ("wear", "damage")
        if len(given.get(name, "")) > NOTE_MAX
    ]
    if faults:
        raise InputError(faults)
    return {name: given[name].strip() for name in ("feel", "wear", "damage") if given.get(name, "").strip()}


def edit_part(
    *,
    actor: User,
    bike_id: int,
    version: int,
    slot: str,
    name: str,
    values: Mapping[str, Any],
    origins: Mapping[str, str],
    condition: Mapping[str, str],
) -> Bike:
    """Set a part's name, its attributes with where each comes from, and its condition; a None takes a value away.

    An open slot gets a part. Raises InputError naming every fault; then nothing is stored.
    """
    title = _slot(slot)
    declared = KINDS[SLOTS[slot].kind].attributes
    faults: list[Fault] = []
    clean: dict[str, Any] = {}
    if len(name) > NAME_MAX:
        faults.append(Fault(path="name", says=f"{len(name)} characters; at most {NAME_MAX} are kept"))
    for attr, value in values.items():
        if attr not in declared:
            raise Http404
        try:
            clean[attr] = None if value is None else plain(declared[attr].type.check(value, attr))
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    state = _condition(condition)

    def action(bike: Bike) -> tuple[Any, Any]:
        part = _fitted(bike, slot) or FittedPart(bike=bike, slot=slot, kind=SLOTS[slot].kind)
        before = part.stored()
        gone = {attr for attr, value in clean.items() if value is None}
        kept = {attr: value for attr, value in clean.items() if value is not None}
        part.name, part.condition = name.strip(), state
        part.attrs = {attr: value for attr, value in {**part.attrs, **kept}.items() if attr not in gone}
        said = {attr: origin for attr, origin in origins.items() if origin in Origin.values}
        part.origins = {
            attr: origin for attr, origin in {**part.origins, **said}.items() if attr in part.attrs
        }
        part.save()
        return {slot: before}, {slot: part.stored()}

    return write_bike(actor, bike_id, version, "edit", f"{title} edited", action)


def fill_part(*, actor: User, bike_id: int, version: int, slot: str, part_id: int) -> Bike:
    """Fit a catalogue part: its attributes are copied, as its maker states them."""
    title = _slot(slot)
    found = CataloguePart.objects.filter(
        workshop_id=actor.workshop_id, pk=part_id, kind=SLOTS[slot].kind
    ).first()
    if found is None:
        raise Refused(f"That part is not in the catalogue, or no {title.lower()}.")

    def action(bike: Bike) -> tuple[Any, Any]:
        part = _fitted(bike, slot)
        before = None if part is None else part.stored()
        if part is not None:
            part.delete()
        attrs = plain(stored_part(found.kind, found.name, found.attrs).attrs)
        FittedPart.objects.create(
            bike=bike,
            slot=slot,
            kind=found.kind,
            name=found.name,
            attrs=attrs,
            origins=dict.fromkeys(attrs, Origin.STATED),
            catalogue_part=found,
        )
        return {slot: before}, {slot: found.name}

    return write_bike(actor, bike_id, version, "fit", f"{title} filled from the catalogue", action)


def take_off(*, actor: User, bike_id: int, version: int, slot: str) -> Bike:
    """Take a part off the bike."""
    title = _slot(slot)

    def action(bike: Bike) -> tuple[Any, Any]:
        part = _fitted(bike, slot)
        if part is None:
            raise Http404
        before = part.stored()
        part.delete()
        return {slot: before}, {slot: None}

    return write_bike(actor, bike_id, version, "take off", f"{title} taken off", action)


def move_part(*, actor: User, bike_id: int, version: int, slot: str, to_bike_id: int) -> Bike:
    """Move a part to the same slot of another bike, whose slot must be open. Returns the bike it came from."""
    title = _slot(slot)

    def action(bike: Bike) -> tuple[Any, Any]:
        part = _fitted(bike, slot)
        other = bikes_seen_by(actor).select_for_update().filter(pk=to_bike_id).exclude(pk=bike.pk).first()
        if part is None or other is None:
            raise Http404
        there = set(other.fitted.values_list("slot", flat=True))
        taken = there & {part.slot, *part.also}
        if taken:
            raise Refused(
                f"{other.name} has a {SLOTS[min(taken)].title.lower()} already: take that off first."
            )
        stored = part.stored()
        part.delete()
        FittedPart.objects.create(bike=other, **stored)
        other.empty = [one for one in other.empty if one not in (part.slot, *part.also)]
        other.version += 1
        other.undo = None  # what was there before is not all of what changed
        judge_fresh(other, actor)
        other.save()
        log(actor, "receive", other, before={slot: None}, after={slot: stored["name"]})
        return {slot: stored}, {slot: None}

    bike = write_bike(actor, bike_id, version, "move", f"{title} moved", action)
    Bike.objects.filter(pk=bike.pk).update(undo=None)  # the part lives elsewhere now: move it back there
    return bike


@transaction.atomic
def copy_bike(*, actor: User, bike_id: int, name: str) -> Bike:
    """A new bike like this one, with its parts as they stand; its plans stay where they are."""
    require(actor, "change-bikes")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    parts = [part.stored() for part in bike.fitted.order_by("pk")]
    new = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=(name.strip() or f"{bike.name}, copy")[:120],
        use=bike.use,
        rider=bike.rider,
        lever_hand=bike.lever_hand,
        empty=bike.empty,
        extra=bike.extra,
        parts_extra=bike.parts_extra,
    )
    FittedPart.objects.bulk_create(FittedPart(bike=new, **one) for one in parts)
    judge_fresh(new, actor)
    new.save()
    log(actor, "copy", new, before={"from": bike.pk}, after={"name": new.name})
    return new


@transaction.atomic
def undo(*, actor: User, bike_id: int, version: int) -> Bike:
    """Put the last change of a bike back. Refused where there is none, or something else happened since."""
    require(actor, "change-bikes")
    bike = locked(actor, bike_id, version)
    was = bike.undo
    if was is None or was["version"] != bike.version:
        raise Refused("There is nothing to undo: the last change is settled.")
    bike.fitted.all().delete()
    FittedPart.objects.bulk_create(FittedPart(bike=bike, **one) for one in was["parts"])
    bike.rider, bike.kept, bike.undo = was["rider"], was["kept"], None
    bike.empty = was.get("empty", [])
    bike.version += 1
    judge_fresh(bike, actor)
    bike.save()
    log(actor, "undo", bike, before={"did": was["says"]}, after=None)
    return bike
