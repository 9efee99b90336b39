"""Taking a bike in: first look, then one station after the other; everything typed is a measure."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen
from django.db import transaction

from unkett.core.build import RIDER_KEYS
from unkett.core.errors import Fault, InputError
from unkett.core.intake import BRAKES, GEARS, Looks
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, enums
from unkett.web.bikes.models import Bike
from unkett.web.bikes.services import judge_fresh, put_measured, take_reading
from unkett.web.bikes.writing import Parts, in_order, write_bike
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import customer_called, log

TEXT_MAX = 2000


@frozen(kw_only=True)
class FirstLook:
    """What is asked before anything is measured."""

    name: str
    use: str
    gears: str
    brakes: str
    customer: str = ""
    frame_number: str = ""
    complaint: str = ""
    wish: str = ""
    rider: Mapping[str, float] = {}


def looks_of(bike: Bike) -> Looks:
    """What was seen at the first look; a bike that came otherwise is looked at as a whole."""
    kept = bike.kept.get("intake", {})
    return Looks(use=bike.use or "city", gears=kept.get("gears", "rings"), brakes=kept.get("brakes", "mixed"))


@transaction.atomic
def take_in(*, actor: User, first: FirstLook) -> Bike:
    """A new bike with nothing on it yet. Raises InputError naming every field that is wrong."""
    require(actor, "change-bikes")
    faults = []
    if not first.name.strip():
        faults.append(Fault(path="name", says="a name is wanted"))
    for field, value, allowed in (
        ("use", first.use, enums.USE.codes),
        ("gears", first.gears, GEARS),
        ("brakes", first.brakes, BRAKES),
    ):
        if value not in allowed:
            faults.append(Fault(path=field, says="choose one"))
    for field in ("complaint", "wish"):
        if len(getattr(first, field)) > TEXT_MAX:
            faults.append(Fault(path=field, says=f"at most {TEXT_MAX} characters are kept"))
    rider = {}
    for key, value in first.rider.items():
        try:
            rider[key] = BIKE.attributes[key].type.check(value, key)
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    bike = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=first.name.strip()[:120],
        use=first.use,
        customer=customer_called(actor, first.customer),
        frame_number=first.frame_number.strip()[:60],
        complaint=first.complaint.strip(),
        wish=first.wish.strip(),
        rider={key: value for key, value in rider.items() if key in RIDER_KEYS},
        kept={"intake": {"gears": first.gears, "brakes": first.brakes}},
    )
    judge_fresh(bike, actor)
    bike.save()
    log(actor, "take in", bike, after={"name": bike.name})
    return bike


def measure_station(
    *,
    actor: User,
    bike_id: int,
    version: int,
    values: Mapping[tuple[str, str], Any],
    names: Mapping[str, str],
    empty: Mapping[str, bool],
    really: bool,
) -> Bike:
    """Keep everything typed at one station; None takes a reading away. Raises InputError with a fault per
    field, `slot.attr`; unlikely
    readings are faults too unless `really`, and a slot said to be empty of which something was read.
    Then nothing is stored."""
    faults = [
        Fault(path=f"{slot}.nothing", says="nothing fitted, yet something was read of it: one of the two")
        for slot in dict.fromkeys(slot for (slot, _), value in values.items() if value is not None)
        if empty.get(slot)
    ]
    for (slot, attr), value in values.items():
        declared = KINDS[SLOTS[slot].kind].attributes[attr]
        if value is None:
            continue
        try:
            clean = declared.type.check(value, attr)
            doubt = None if really else declared.doubt(clean, f"{slot}.{attr}")
            faults += [] if doubt is None else [doubt]
        except InputError as error:
            faults += [Fault(path=f"{slot}.{attr}", says=fault.says) for fault in error.faults]
    if faults:
        raise InputError(faults)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        before: dict[str, Any] = {}
        after: dict[str, Any] = {}
        for (slot, attr), value in values.items():
            if value is None:
                was, now = take_reading(bike, parts, slot, attr), None
            else:
                was, now = put_measured(bike, parts, slot, attr, value, really=True)
            before.setdefault(slot, {})[attr] = was
            after.setdefault(slot, {})[attr] = now
        for slot, name in names.items():
            part = parts.in_slot(bike, slot)
            if name.strip() and (part is None or part.name != name.strip()):
                after.setdefault(slot, {})["name"] = name.strip()
                parts.change(part or parts.enter(bike, slot), name=name.strip()[:200])
        said = {slot for slot, nothing in empty.items() if nothing} - parts.slots(bike)
        left = (set(bike.empty) - set(empty)) | said
        if left != set(bike.empty):
            before["empty"], after["empty"] = list(bike.empty), in_order(left)
            bike.empty = after["empty"]
        return before, after

    return write_bike(actor, bike_id, version, "take in", "readings of the intake kept", action)
