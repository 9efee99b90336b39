"""Taking a bike in: first look, then one station after the other; everything typed is a measure."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.db import transaction

from unkett.core.build import plain
from unkett.core.errors import Fault, InputError
from unkett.core.formats.reader import RIDER_KEYS, stored_part
from unkett.core.intake import BRAKES, GEARS, MOTORS, BikeProfile
from unkett.core.intake.fellows import alike, front_of, one_with, taken_over
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, enums
from unkett.web.bikes.models import Bike, BikePart, Feel, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.services import judge_fresh, take_reading
from unkett.web.bikes.writing import Parts, contradicting, in_order, write_bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import on_offer
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import customer_called, log

TEXT_MAX = 2000
NAME_MAX = 200
LOOKED_AT = ("gears", "brakes", "motor")


@frozen(kw_only=True)
class FirstLook:
    """What is asked before anything is measured; `like` is a bike whose parts this one's are taken to be like."""

    name: str
    use: str
    gears: str
    brakes: str
    motor: str = "none"
    customer: str = ""
    frame_number: str = ""
    complaint: str = ""
    wish: str = ""
    rider: Mapping[str, float] = {}
    like: int | None = None

    @property
    def called(self) -> str:
        """The bike's name; without one it is called by its use and its customer."""
        name, customer = self.name.strip(), self.customer.strip()
        use = enums.USE.codes.get(self.use, "Bike")
        return name or (f"{use} bike, {customer}" if customer else "")


def profile_of(bike: Bike) -> BikeProfile:
    """Return what was seen at the first look; a bike that came otherwise is looked at as a whole."""
    kept = bike.kept.get("intake", {})
    brakes = kept.get("brakes")
    return BikeProfile(
        use=bike.use or "city",
        gears=kept.get("gears", "rings"),
        brakes=brakes if brakes in BRAKES else "mixed",
        motor=kept.get("motor", "none"),
    )


def first_faults(first: FirstLook) -> list[Fault]:
    """Everything that is wrong with a first look, by field."""
    faults = [] if first.called else [Fault(path="name", says="enter a name, of the bike or of its customer")]
    for field, value, allowed in (
        ("use", first.use, enums.USE.codes),
        ("gears", first.gears, GEARS),
        ("brakes", first.brakes, BRAKES),
        ("motor", first.motor, MOTORS),
    ):
        if value not in allowed:
            faults.append(Fault(path=field, says="choose one"))
    for field in ("complaint", "wish"):
        if len(getattr(first, field)) > TEXT_MAX:
            faults.append(Fault(path=field, says=f"at most {TEXT_MAX} characters are kept"))
    for key, measured in first.rider.items():
        try:
            BIKE.attributes[key].type.check(measured, key)
        except InputError as error:
            faults += error.faults
    return faults


@transaction.atomic
def take_in(*, actor: User, first: FirstLook) -> Bike:
    """Take a bike in: nothing on it yet, or parts like another bike's, each figure marked as taken over.

    Raises InputError naming every field that is wrong, NotThere for a bike like which there is none.
    """
    require(actor, "change-bikes")
    faults = first_faults(first)
    if faults:
        raise InputError(faults)
    like = None
    if first.like is not None:
        like = bikes_seen_by(actor).filter(pk=first.like).first()
        if like is None:
            raise NotThere
    bike = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=first.called[:120],
        use=first.use,
        customer=customer_called(actor, first.customer),
        frame_number=first.frame_number.strip()[:60],
        complaint=first.complaint.strip(),
        wish=first.wish.strip(),
        rider={key: value for key, value in first.rider.items() if key in RIDER_KEYS},
        empty=like.empty if like else [],
        kept={"intake": {name: getattr(first, name) for name in LOOKED_AT}},
    )
    if like is not None:
        BikePart.objects.bulk_create(_like(bike, part) for part in like.fitted.order_by("pk"))
    judge_fresh(bike, actor)
    bike.save()
    log(actor, "take in", bike, after={"name": bike.name, **({"like": like.name} if like else {})})
    return bike


def _like(bike: Bike, part: BikePart) -> BikePart:
    """Return a part like another bike's, without that one's damage and wear."""
    attrs = {name: value for name, value in part.attrs.items() if name != "damage"}
    return BikePart(
        workshop_id=bike.workshop_id,
        bike=bike,
        slot=part.slot,
        kind=part.kind,
        name=part.name,
        attrs=attrs,
        origins=dict.fromkeys(attrs, Origin.ALIKE),
        also=part.also,
        catalogue_part_id=part.catalogue_part_id,
    )


@frozen(kw_only=True)
class PartSeen:
    """What one station entered of one part; a value None takes a reading away, a name "" the name.

    `printed` is what stands on the part, `as_front` says that it is the same as at the front, `as_fellows` that it
    is as the parts beside it, `one_piece` that it is one with the part `one_with` names.
    """

    name: str = ""
    values: Mapping[str, Any] = {}
    printed: Mapping[str, Any] = {}
    feel: str = ""
    nothing: bool = False
    as_front: bool = False
    as_fellows: bool = False
    one_piece: bool = False

    @property
    def holds(self) -> bool:
        """Whether anything was said of a part that is there."""
        given = {**self.values, **self.printed}
        return any(value is not None for value in given.values()) or any(
            (self.as_front, self.as_fellows, self.one_piece, self.feel)
        )


def measure_station(
    *,
    actor: User,
    bike_id: int,
    version: int,
    seen: Mapping[str, PartSeen],
    wrong: Iterable[Fault] = (),
    really: bool = False,
) -> Bike:
    """Keep everything that was said at one station, or nothing of it.

    Raises InputError with a fault per field, `slot.attr`: `wrong` is what could not be read already; with it come
    readings out of range, unlikely ones unless `really`, what contradicts itself, and a slot said to be empty of
    which something was read.
    """
    faults = list(wrong)
    for slot, part in seen.items():
        faults += _faults_of(slot, part, really)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        before = {part.slot: dict(part.attrs) for part in parts.on(bike)}
        names = {part.slot: part.name for part in parts.on(bike)}
        for slot, part in seen.items():
            if not part.nothing:
                _put_seen(actor, bike, parts, slot, part)
        for slot, part in seen.items():
            faults.extend(_take_over(bike, parts, slot, part))
        faults.extend(contradicting(parts.changed()))
        if faults:
            raise InputError(faults)
        said = {slot for slot, part in seen.items() if part.nothing} - parts.slots(bike)
        bike.empty = in_order((set(bike.empty) - set(seen)) | said)
        changed = [part for part in parts.on(bike) if part in parts.changed()]
        return (
            {part.slot: {"name": names.get(part.slot), **before.get(part.slot, {})} for part in changed},
            {part.slot: {"name": part.name, **part.attrs} for part in changed},
        )

    return write_bike(actor, bike_id, version, "take in", "readings of the intake kept", action)


def _faults_of(slot: str, part: PartSeen, really: bool) -> list[Fault]:
    faults = []
    if part.nothing and part.holds:
        says = "nothing fitted, yet something was said of it: one of the two"
        faults.append(Fault(path=f"{slot}.nothing", says=says))
    if part.feel and part.feel not in Feel.values:
        faults.append(Fault(path=f"{slot}.feel", says="choose one"))
    if not really:
        known = KINDS[SLOTS[slot].kind].attributes
        doubts = [known[attr].doubt(value, f"{slot}.printed") for attr, value in part.printed.items()]
        faults += [doubt for doubt in doubts if doubt is not None]
    for attr, value in part.values.items():
        declared = KINDS[SLOTS[slot].kind].attributes[attr]
        if value is None:
            continue
        try:
            clean = declared.type.check(value, attr)
            doubt = None if really else declared.doubt(clean, f"{slot}.{attr}")
            faults += [] if doubt is None else [doubt]
            if attr in part.printed and plain(clean) != plain(part.printed[attr]):
                says = f"the printed line says {part.printed[attr]}: one of the two"
                faults.append(Fault(path=f"{slot}.{attr}", says=says))
        except InputError as error:
            faults += [Fault(path=f"{slot}.{attr}", says=fault.says) for fault in error.faults]
    return faults


def _put_seen(actor: User, bike: Bike, parts: Parts, slot: str, seen: PartSeen) -> None:
    """Put on the part in a slot what was said of it, its catalogue part first."""
    part = parts.in_slot(bike, slot)
    one = one_with(slot)
    if seen.one_piece and part is None and one is not None:
        part = parts.in_slot(bike, one) or parts.enter(bike, one)
        parts.change(part, also=[*part.also, slot])
    name = seen.name.strip()[:NAME_MAX]
    fresh = {attr: plain(value) for attr, value in seen.values.items() if value is not None}
    if part is None:
        if not (name or fresh or seen.printed or seen.feel):
            return
        part = parts.enter(bike, slot)
    for attr, value in seen.values.items():
        if value is None:
            take_reading(bike, parts, slot, attr)
    if part.slot == slot and name != part.name:
        parts.change(part, name=name)
        twin = _called(actor, SLOTS[slot].kind, name)
        if twin is not None:
            stated = plain(stored_part(twin.kind, twin.name, twin.attrs).attrs)
            parts.change(part, catalogue_part_id=twin.pk)
            _add(parts, part, stated, Origin(twin.origin))
    _add(parts, part, {attr: plain(value) for attr, value in seen.printed.items()}, Origin.STATED, over=True)
    _add(parts, part, fresh, Origin.MEASURED, over=True)
    if seen.feel and seen.feel != part.condition.get("feel"):
        parts.change(part, condition={**part.condition, "feel": seen.feel})


def _called(actor: User, kind: str, name: str) -> CataloguePart | None:
    """Return the one catalogue part of a kind that bears a name."""
    found = list(on_offer(actor).filter(kind=kind, name=name)[:2]) if name else []
    return found[0] if len(found) == 1 else None


def _add(parts: Parts, part: BikePart, given: Mapping[str, Any], origin: Origin, over: bool = False) -> None:
    """Put figures on a part, those it has already only where they may be written `over`."""
    new = {attr: value for attr, value in given.items() if over or attr not in part.attrs}
    new = {attr: value for attr, value in new.items() if part.attrs.get(attr) != value}
    if new:
        origins = {**part.origins, **dict.fromkeys(new, origin)}
        parts.change(part, attrs={**part.attrs, **new}, origins=origins)


def _take_over(bike: Bike, parts: Parts, slot: str, seen: PartSeen) -> list[Fault]:
    """Take over what stands at the front or beside the part, and what the first look settles; what is not there yet
    is a fault."""
    faults = []
    on = {name: item for item in parts.on(bike) for name in item.slots()}
    front = front_of(slot)
    if seen.as_front and front is not None:
        other = on.get(front)
        if other is None:
            faults.append(Fault(path=f"{slot}.as_front", says="nothing is written down of the front one"))
        else:
            part = on.get(slot) or parts.enter(bike, slot, name=other.name)
            on[slot] = part
            _add(parts, part, alike(slot, other.attrs), Origin.ALIKE)
    if seen.as_fellows:
        given = taken_over(slot, {name: item.attrs for name, item in on.items()})
        if not given:
            says = "nothing is written down of the parts beside it"
            faults.append(Fault(path=f"{slot}.as_fellows", says=says))
        else:
            part = on.get(slot) or parts.enter(bike, slot)
            on[slot] = part
            _add(parts, part, given, Origin.ALIKE)
    if slot in on and not seen.nothing:
        _add(parts, on[slot], profile_of(bike).settles(slot), Origin.MEASURED)
    return faults
