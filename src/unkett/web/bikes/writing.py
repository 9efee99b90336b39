"""One write of a bike: locked, compared, done, judged, logged, with a line of the ledger for every part it touched."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from django.db import transaction

from unkett.core.errors import Fault, InputError
from unkett.core.formats.reader import contradictions
from unkett.core.vocabulary import SLOTS
from unkett.core.vocabulary.kinds_suspension import SETTINGS
from unkett.web.bikes.models import Bike, BikePart, Move, Where
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.verdicts import judge
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import LogEntry, User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

CHANGED = (
    "Somebody changed this bike since you opened it. Nothing of yours was stored; look at it as it is now."
)
Whereabouts = tuple[str, int | None, str]  # where, the bike's id, the slot


def whereabouts_of(part: BikePart) -> Whereabouts:
    """Return where a part is now."""
    return part.where, part.bike_id, part.slot


class Parts:
    """The parts on the bikes that one write holds: changed through it, so that each leaves its line in the ledger."""

    def __init__(self, actor: User, bikes: Iterable[Bike]) -> None:
        self.actor = actor
        ids = [bike.pk for bike in bikes]
        self._parts = {part.pk: part for part in BikePart.objects.filter(bike_id__in=ids).order_by("pk")}
        self._was: dict[int, tuple[dict[str, Any] | None, Whereabouts]] = {}
        self._entered: list[BikePart] = []
        self.before = {bike.pk: self.slots(bike) for bike in bikes}

    def on(self, bike: Bike) -> list[BikePart]:
        """Return the parts on a bike as they are now, in the order they were entered."""
        return [part for part in (*self._parts.values(), *self._entered) if part.bike_id == bike.pk]

    def slots(self, bike: Bike) -> set[str]:
        """Return the slots that are filled now."""
        return {slot for part in self.on(bike) for slot in part.slots()}

    def in_slot(self, bike: Bike, slot: str) -> BikePart | None:
        """Return the part that fills a slot, its own or one it also fills."""
        return next((part for part in self.on(bike) if slot in part.slots()), None)

    def change(self, part: BikePart, **values: Any) -> None:
        """Set what is stored of a part."""
        self._touch(part)
        for name, value in values.items():
            setattr(part, name, value)

    def enter(self, bike: Bike, slot: str, **values: Any) -> BikePart:
        """Return a part nobody had written down before, in a slot of a bike."""
        stored = {"kind": SLOTS[slot].kind, **values}
        part = BikePart(workshop_id=bike.workshop_id, bike=bike, slot=slot, **stored)
        self._entered.append(part)
        return part

    def put(self, part: BikePart, bike: Bike, slot: str) -> None:
        """Put a part into an open slot of a bike."""
        self._touch(part)
        part.where, part.bike, part.slot = Where.ON_BIKE, bike, slot

    def take_off(self, part: BikePart, to: Where = Where.BENCH) -> None:
        """Take a part off its bike; in the bin a fork or shock is set to nothing, another bike wants its own."""
        self._touch(part)
        if to is Where.BENCH:
            part.attrs = {name: value for name, value in part.attrs.items() if name not in SETTINGS}
            part.origins = {name: value for name, value in part.origins.items() if name not in SETTINGS}
        part.where, part.bike, part.slot = to, None, ""

    def restore(self, move: Move) -> None:
        """Put one part back to what it was, and where, before a line of the ledger."""
        part = self._parts.get(move.part_id) or move.part
        self._touch(part)
        if move.before is None:
            part.where, part.bike, part.slot = Where.NEVER, None, ""
            return
        for name, value in move.before.items():
            setattr(part, name, value)
        part.where, part.bike, part.slot = Where(move.from_where), move.from_bike, move.from_slot

    def _touch(self, part: BikePart) -> None:
        if part.pk is not None and part.pk not in self._was:
            self._was[part.pk] = (part.stored(), whereabouts_of(part))
            self._parts[part.pk] = part

    def changed(self) -> list[BikePart]:
        """Return the parts that are not as they were, those that leave a bike first."""
        touched = [
            self._parts[pk]
            for pk, was in self._was.items()
            if was != (self._parts[pk].stored(), whereabouts_of(self._parts[pk]))
        ]
        return sorted(touched, key=lambda part: part.bike_id is not None) + self._entered

    def save(self) -> None:
        """Store what changed."""
        refuse_contradictions(self.changed())
        for part in self.changed():
            part.save()

    def record(self, line: LogEntry) -> None:
        """Leave the ledger's lines of this write."""
        Move.objects.bulk_create(self._move(line, part) for part in self.changed())

    def _move(self, line: LogEntry, part: BikePart) -> Move:
        before, (where, bike_id, slot) = self._was.get(part.pk, (None, ("", None, "")))
        return Move(
            line=line,
            part=part,
            before=before,
            after=part.stored(),
            from_where=where,
            from_bike_id=bike_id,
            from_slot=slot,
            to_where=part.where,
            to_bike=part.bike,
            to_slot=part.slot,
        )


def contradicting(parts: Iterable[BikePart]) -> list[Fault]:
    """Return what parts on a bike say against themselves, by `slot.attr`."""
    return [
        Fault(path=f"{part.slot}.{fault.path}", says=fault.says)
        for part in parts
        if part.slot
        for fault in contradictions([part.kind, *(SLOTS[slot].kind for slot in part.also)], part.attrs)
    ]


def refuse_contradictions(parts: Iterable[BikePart]) -> None:
    """Raises InputError naming `slot.attr` where a part on a bike speaks against itself."""
    faults = contradicting(parts)
    if faults:
        raise InputError(faults)


def in_order(slots: Iterable[str]) -> list[str]:
    """Slots in the order of the vocabulary."""
    return [slot for slot in SLOTS if slot in set(slots)]


def settled(empty: Iterable[str], before: set[str], after: set[str]) -> list[str]:
    """Return the slots known to be empty after a change: what was taken off joins them, what was filled leaves."""
    return in_order((set(empty) | (before - after)) - after)


def locked(actor: User, bike_id: int, version: int) -> Bike:
    """Return a bike, locked. Raises NotThere, and Conflict where it is not as the user saw it."""
    bike = bikes_seen_by(actor).select_for_update().filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    if bike.version != version:
        raise Conflict(CHANGED, bike)
    return bike


def locked_both(actor: User, bike_id: int, version: int, other_id: int) -> tuple[Bike, Bike]:
    """Two bikes, locked in the order of their ids so that crossing moves wait for each other."""
    wanted = bikes_seen_by(actor).select_for_update().filter(pk__in={bike_id, other_id}).order_by("pk")
    found = {bike.pk: bike for bike in wanted}
    if len(found) != 2:
        raise NotThere
    if found[bike_id].version != version:
        raise Conflict(CHANGED, found[bike_id])
    return found[bike_id], found[other_id]


REMEMBERED = (
    "rider", "kept", "empty", "accepted", "settled", "looked", "search", "name", "use", "customer_id", "frame_number",
    "complaint", "wish",
)  # fmt: skip


def remembered(bike: Bike, says: str) -> dict[str, Any]:
    """Return what an undo puts back that is no part's, and what it is called."""
    return {"says": says, **{name: getattr(bike, name) for name in REMEMBERED}}


def finish(bike: Bike, parts: Parts, actor: User, undo: Mapping[str, Any] | None) -> None:
    """Count a bike's version up, judge it by its parts as they are now, and keep how to undo it."""
    bike.empty = settled(bike.empty, parts.before[bike.pk], parts.slots(bike))
    bike.version += 1
    bike.undo = None if undo is None else {**undo, "version": bike.version}
    judge(bike, parts.on(bike), actor.workshop)
    bike.save()


Action = Callable[[Bike, Parts], tuple[Any, Any]]


def write_bike(actor: User, bike_id: int, version: int, verb: str, says: str, action: Action) -> Bike:
    """Lock the bike, compare the version the user saw, act, count the version up, log; it can be undone."""
    require(actor, "change-bikes")
    with transaction.atomic():
        bike = locked(actor, bike_id, version)
        parts = Parts(actor, [bike])
        was = remembered(bike, says)
        before, after = action(bike, parts)
        parts.save()
        line = log(actor, verb, bike, before=before, after=after)
        finish(bike, parts, actor, {**was, "line": line.pk})
        parts.record(line)
    return bike
