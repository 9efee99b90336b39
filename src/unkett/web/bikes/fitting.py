"""Where parts are: fitted, filled from the catalogue, taken off, moved; bikes copied; the last change undone."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction

from unkett.core.build import plain
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.reader import stored_part
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import Bike, BikePart, Feel, Move, Origin, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bikes.services import judge_fresh
from unkett.web.bikes.writing import (
    REMEMBERED,
    Parts,
    finish,
    locked,
    locked_both,
    remembered,
    whereabouts_of,
    write_bike,
)
from unkett.web.catalogue.queries import on_offer
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NOTE_MAX = 400
NAME_MAX = 200
BIKE_NAME_MAX = 120


def _title(slot: str) -> str:
    if slot not in SLOTS:
        raise NotThere
    return SLOTS[slot].title


def condition_of(given: Mapping[str, str]) -> dict[str, str]:
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


def checked_values(kind: str, name: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """Typed values as they are stored, None for those taken away. Raises InputError naming every fault."""
    allowed = KINDS[kind].attributes
    faults: list[Fault] = []
    clean: dict[str, Any] = {}
    if len(name) > NAME_MAX:
        faults.append(Fault(path="name", says=f"{len(name)} characters; at most {NAME_MAX} are kept"))
    for attr, value in values.items():
        if attr not in allowed:
            raise NotThere
        try:
            clean[attr] = None if value is None else plain(allowed[attr].type.check(value, attr))
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    return clean


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
    title = _title(slot)
    clean = checked_values(SLOTS[slot].kind, name, values)
    state = condition_of(condition)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, slot) or parts.enter(bike, slot)
        before = part.stored()
        attrs = {attr: value for attr, value in {**part.attrs, **clean}.items() if value is not None}
        said = {attr: origin for attr, origin in origins.items() if origin in Origin.values}
        kept = {attr: origin for attr, origin in {**part.origins, **said}.items() if attr in attrs}
        read_with = {
            attr: said for attr, said in part.instruments.items() if attrs.get(attr) == part.attrs.get(attr)
        }
        parts.change(
            part, name=name.strip(), condition=state, attrs=attrs, origins=kept, instruments=read_with
        )
        return {slot: before}, {slot: part.stored()}

    return write_bike(actor, bike_id, version, "edit", f"{title} edited", action)


def fill_part(*, actor: User, bike_id: int, version: int, slot: str, part_id: int) -> Bike:
    """Record that a slot holds this catalogue part: its attributes are copied, as its maker states them."""
    title = _title(slot)
    found = on_offer(actor).filter(kind=SLOTS[slot].kind, pk=part_id).first()
    if found is None:
        raise Refused(f"That part is not in the catalogue, or no {title.lower()}.")

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, slot)
        before = None if part is None else part.stored()
        part = part or parts.enter(bike, slot)
        attrs = plain(stored_part(found.kind, found.name, found.attrs).attrs)
        origins = dict.fromkeys(attrs, Origin(found.origin))
        parts.change(
            part, name=found.name, attrs=attrs, origins=origins, instruments={}, catalogue_part_id=found.pk
        )
        return {slot: before}, {slot: found.name}

    return write_bike(actor, bike_id, version, "fit", f"{title} filled from the catalogue", action)


def take_off(*, actor: User, bike_id: int, version: int, slot: str) -> Bike:
    """Take a part off the bike; it lies in the bin."""
    title = _title(slot)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, slot)
        if part is None:
            raise NotThere
        before = part.stored()
        parts.take_off(part)
        return {slot: before}, {slot: None}

    return write_bike(actor, bike_id, version, "take off", f"{title} taken off, it lies in the bin", action)


def fit_part(
    *,
    actor: User,
    bike_id: int,
    version: int,
    slot: str,
    part_id: int,
    refuse: Callable[[BikePart], None] = lambda _part: None,
) -> Bike:
    """Fit a part that lies in the bin into an open slot. `refuse` may raise Refused once the part is held."""
    title = _title(slot)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        lying = parts_seen_by(actor).select_for_update().filter(pk=part_id, where=Where.BENCH)
        part = lying.filter(kind=SLOTS[slot].kind).first()
        if part is None:
            raise NotThere
        refuse(part)
        _refuse_taken(bike, parts, {slot, *part.also})
        parts.put(part, bike, slot)
        return {slot: None}, {slot: part.stored()}

    return write_bike(actor, bike_id, version, "fit", f"{title} fitted from the bin", action)


def _refuse_taken(bike: Bike, parts: Parts, wanted: set[str]) -> None:
    taken = parts.slots(bike) & wanted
    if taken:
        title = SLOTS[min(taken)].title.lower()
        raise Refused(f"{bike.name} has a {title} already: take that off first.")


@transaction.atomic
def move_part(*, actor: User, bike_id: int, version: int, slot: str, to_bike_id: int) -> Bike:
    """Move a part to the same slot of another bike, whose slot must be open. Returns the bike it came from.

    It can be undone on the bike that got it; what the donor could undo is settled then.
    """
    require(actor, "change-bikes")
    title = _title(slot)
    donor, receiver = locked_both(actor, bike_id, version, to_bike_id)
    parts = Parts(actor, [donor, receiver])
    part = parts.in_slot(donor, slot)
    if part is None:
        raise NotThere
    _refuse_taken(receiver, parts, set(part.slots()))
    was = remembered(receiver, f"{title} moved here from {donor.name}")
    parts.put(part, receiver, part.slot)
    parts.save()
    line = log(actor, "move", donor, before={slot: part.stored()}, after={slot: None})
    log(actor, "receive", receiver, before={slot: None}, after={slot: part.name})
    finish(donor, parts, actor, None)
    finish(receiver, parts, actor, {**was, "line": line.pk, "donor": donor.pk})
    parts.record(line)
    return donor


@transaction.atomic
def copy_bike(*, actor: User, bike_id: int, name: str) -> Bike:
    """Copy a bike with parts like its parts; its plans stay where they are."""
    require(actor, "change-bikes")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    if len(name.strip()) > BIKE_NAME_MAX:
        raise bad("name", f"{len(name.strip())} characters; at most {BIKE_NAME_MAX} are kept")
    new = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=(name.strip() or f"{bike.name}, copy")[:BIKE_NAME_MAX],
        use=bike.use,
        rider=bike.rider,
        lever_hand=bike.lever_hand,
        empty=bike.empty,
        extra=bike.extra,
        parts_extra=bike.parts_extra,
    )
    BikePart.objects.bulk_create(
        BikePart(workshop_id=new.workshop_id, bike=new, slot=part.slot, **part.stored())
        for part in bike.fitted.order_by("pk")
    )
    judge_fresh(new, actor)
    new.save()
    log(actor, "copy", new, before={"from": bike.pk}, after={"name": new.name})
    return new


@transaction.atomic
def undo(*, actor: User, bike_id: int, version: int) -> Bike:
    """Put the last change of a bike back, by its lines in the ledger: every part is the same part as before.

    Refused where there is nothing to undo, or a part of it is elsewhere now.
    """
    require(actor, "change-bikes")
    was = bikes_seen_by(actor).filter(pk=bike_id).values_list("undo", flat=True).first() or {}
    donor = None
    if was.get("donor"):
        bike, donor = locked_both(actor, bike_id, version, was["donor"])
    else:
        bike = locked(actor, bike_id, version)
    if bike.undo is None or bike.undo != was or was["version"] != bike.version:
        raise Refused("There is nothing to undo: the last change is settled.")
    touched = [state for state in (bike, donor) if state is not None]
    parts = Parts(actor, touched)
    for move in _moves_of(was["line"]):
        _refuse_gone(bike, parts, move)
        parts.restore(move)
    parts.save()
    for name in REMEMBERED:
        if name in was:  # a change of an earlier release did not keep them all
            setattr(bike, name, was[name])
    line = log(actor, "undo", bike, before={"did": was["says"]}, after=None)
    for item in touched:
        finish(item, parts, actor, None)
    parts.record(line)
    return bike


def _moves_of(line_id: int) -> list[Move]:
    """Return the ledger's lines of one action, with their parts locked."""
    moves = list(Move.objects.filter(line_id=line_id).select_related("from_bike").order_by("-pk"))
    held = BikePart.objects.select_for_update().in_bulk([move.part_id for move in moves])
    for move in moves:
        move.part = held[move.part_id]
    return moves


def _refuse_gone(bike: Bike, parts: Parts, move: Move) -> None:
    """Refuse where a part is no longer where the change left it, or its old slot is taken."""
    left = (move.to_where, move.to_bike_id, move.to_slot)
    if move.part.never_back:
        raise Refused(f"{move.part} is cracked and was scrapped for good: it does not come back.")
    if whereabouts_of(move.part) != left:
        raise Refused(f"{move.part} is elsewhere by now: it cannot be put back from here.")
    if move.from_bike is not None and move.from_bike_id != bike.pk:
        _refuse_taken(move.from_bike, parts, {move.from_slot, *move.part.also})
