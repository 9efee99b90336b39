"""Taking a bike in: first look, then one step after the other; everything typed is a measure."""

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
from unkett.web.bikes.services import in_order, judge_fresh, put_measured, write_bike
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

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
        customer=first.customer.strip()[:120],
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


def measure_step(
    *,
    actor: User,
    bike_id: int,
    version: int,
    values: Mapping[tuple[str, str], Any],
    names: Mapping[str, str],
    empty: Mapping[str, bool],
    really: bool,
) -> Bike:
    """Keep everything typed at one step. Raises InputError with a fault per field, `slot.attr`; unlikely
    readings are faults too unless `really`, and a slot said to be empty of which something was read.
    Then nothing is stored."""
    faults = [
        Fault(path=f"{slot}.nothing", says="nothing fitted, yet something was read of it: one of the two")
        for slot in dict.fromkeys(slot for slot, _ in values)
        if empty.get(slot)
    ]
    for (slot, attr), value in values.items():
        declared = KINDS[SLOTS[slot].kind].attributes[attr]
        try:
            clean = declared.type.check(value, attr)
            if not really and declared.unlikely(clean):
                usual = [one for one in declared.usual if isinstance(one, (int, float))]
                says = f"Really {clean:g}? Usually {min(usual):g} to {max(usual):g} {declared.unit}."
                faults.append(Fault(path=f"{slot}.{attr}", says=says))
        except InputError as error:
            faults += [Fault(path=f"{slot}.{attr}", says=fault.says) for fault in error.faults]
    if faults:
        raise InputError(faults)

    def action(bike: Bike) -> tuple[Any, Any]:
        before: dict[str, Any] = {}
        after: dict[str, Any] = {}
        for (slot, attr), value in values.items():
            was, now = put_measured(bike, slot, attr, value, really=True)
            before.setdefault(slot, {})[attr] = was
            after.setdefault(slot, {})[attr] = now
        for slot, name in names.items():
            part = bike.fitted.filter(slot=slot).first()
            if part is not None and name.strip() and part.name != name.strip():
                part.name = name.strip()[:200]
                part.save(update_fields=["name"])
        filled = {one for part in bike.fitted.all() for one in (part.slot, *part.also)}
        said = {slot for slot, nothing in empty.items() if nothing} - filled
        left = (set(bike.empty) - set(empty)) | said
        if left != set(bike.empty):
            before["empty"], after["empty"] = list(bike.empty), in_order(left)
            bike.empty = after["empty"]
        return before, after

    return write_bike(actor, bike_id, version, "take in", "readings of the intake kept", action)
