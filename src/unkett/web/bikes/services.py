"""Everything that writes bikes but their parts' places: one function, one action, one transaction, one log line."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from unkett.core.build import Build, plain
from unkett.core.errors import InputError, bad
from unkett.core.formats.reader import RIDER_KEYS, read_build
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, Attribute
from unkett.web.bikes.models import Bike, BikePart, Origin
from unkett.web.bikes.verdicts import judge
from unkett.web.bikes.writing import Parts, in_order, write_bike
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import customer_called, log

BUILD_BYTES_MAX = 1_000_000
INSTRUMENT_MAX = 60
NAME_MOST = 120


@transaction.atomic
def add_bike_from_file(*, actor: User, content: bytes) -> Bike:
    """Add a bike from an `unkett.build/1` file. Raises InputError naming every fault; then nothing is stored."""
    require(actor, "change-bikes")
    if len(content) > BUILD_BYTES_MAX:
        raise bad("", f"the file has {len(content)} bytes; a build of at most {BUILD_BYTES_MAX} is read")
    bike = store_build(actor, read_build(content))
    log(actor, "add", bike, after={"name": bike.name})
    return bike


def store_build(actor: User, build: Build, customer: str = "", **fields: Any) -> Bike:
    """Store a build as a new bike of the actor's workshop; what is said here goes before what the build says about it.
    Call it inside a transaction. Raises InputError for a name too long.
    """
    if len(build.name) > NAME_MOST:
        raise bad("name", f"{len(build.name)} characters; at most {NAME_MOST} are kept")
    about = {**build.about, **fields}
    customer = customer or about.pop("customer", "")
    about.pop("customer", None)
    bike = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=build.name or "Bike without a name",
        use=build.use or "",
        rider=plain(build.rider),
        lever_hand=plain(build.lever_hand),
        empty=in_order(build.empty),
        extra=plain(build.extra),
        parts_extra=plain(build.parts_extra),
        customer=customer_called(actor, customer),
        **about,
    )
    made = BikePart.objects.bulk_create(
        BikePart(
            workshop_id=bike.workshop_id,
            bike=bike,
            slot=slot,
            kind=part.kind,
            name=part.name,
            attrs=plain(part.attrs),
            origins=dict.fromkeys(part.attrs, Origin.STATED) | dict(part.origins),
            also=list(part.also),
            extra=plain(part.extra),
        )
        for slot, part in build.parts.items()
    )
    bike.settle(build.settled, made)
    judge_fresh(bike, actor)
    bike.save(update_fields=["verdict", "summary", "judged_by", "settled"])
    return bike


def judge_fresh(bike: Bike, actor: User) -> None:
    """Judge a bike by its parts as they are stored now. Not saved here."""
    judge(bike, list(BikePart.objects.filter(bike=bike)), actor.workshop)


def title_of(slot: str) -> str:
    """Return a slot's long name, or the bike's own. Raises NotThere for what is neither."""
    if slot == "bike":
        return "Bike and rider"
    if slot not in SLOTS:
        raise NotThere
    return SLOTS[slot].title


def record_empty(*, actor: User, bike_id: int, version: int, slot: str, empty: bool) -> Bike:
    """Record that nothing is fitted in a slot, or that nobody looked after all. Refused where a part stands there."""
    if slot not in SLOTS:
        raise NotThere
    title = SLOTS[slot].title

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        if slot in parts.slots(bike):
            raise Refused(f"A part stands there: take the {title.lower()} off first.")
        before = list(bike.empty)
        bike.empty = in_order({*before, slot} if empty else set(before) - {slot})
        return {slot: "nothing fitted" if slot in before else None}, {
            slot: "nothing fitted" if empty else None
        }

    says = f"{title}: no part fitted" if empty else f"{title}: not looked at yet"
    return write_bike(actor, bike_id, version, "look", says, action)


def declared(slot: str, attr: str) -> Attribute:
    """Return what the vocabulary says of an attribute in a slot. Raises NotThere."""
    title_of(slot)
    kind = BIKE if slot == "bike" else KINDS[SLOTS[slot].kind]
    if attr not in kind.attributes:
        raise NotThere
    return kind.attributes[attr]


def put_measured(
    bike: Bike, parts: Parts, slot: str, attr: str, value: Any, really: bool = False, instrument: str = ""
) -> tuple[Any, Any]:
    """Put one measured attribute on the part in a slot, or on the rider, with the name of the instrument that read it;
    returns it before and after.

    An open slot that is measured holds a part: it is put there, without a name. Raises InputError
    naming the attribute, with a fault that is only `unlikely` for a reading far from the usual unless `really`.
    """
    asked = declared(slot, attr)
    clean = plain(asked.type.check(value, attr))
    doubt = None if really else asked.doubt(clean, attr)
    if doubt is not None:
        raise InputError([doubt])
    if slot == "bike":
        if attr not in RIDER_KEYS:
            raise NotThere
        before = bike.rider.get(attr)
        bike.rider = {**bike.rider, attr: clean}
        return before, clean
    part = parts.in_slot(bike, slot) or parts.enter(bike, slot)
    before = part.attrs.get(attr)
    read_with = {name: said for name, said in part.instruments.items() if name != attr}
    if instrument:
        read_with[attr] = instrument[:INSTRUMENT_MAX]
    parts.change(
        part,
        attrs={**part.attrs, attr: clean},
        origins={**part.origins, attr: Origin.MEASURED},
        instruments=read_with,
    )
    return before, clean


def take_reading(bike: Bike, parts: Parts, slot: str, attr: str) -> Any:
    """Take an attribute away from the part in a slot; returns what it was."""
    part = parts.in_slot(bike, slot)
    if part is None:
        return None
    before = part.attrs.get(attr)
    parts.change(
        part,
        attrs={name: value for name, value in part.attrs.items() if name != attr},
        origins={name: value for name, value in part.origins.items() if name != attr},
        instruments={name: value for name, value in part.instruments.items() if name != attr},
    )
    return before


def record_measure(
    *,
    actor: User,
    bike_id: int,
    version: int,
    slot: str,
    attr: str,
    value: Any,
    really: bool = False,
    instrument: str = "",
) -> Bike:
    """Keep one measured attribute, and what it was read with; the reading before stands in the log.

    Raises InputError as `put_measured` does, NotThere for a bike, slot or attribute there is not, Conflict
    when the bike changed in between.
    """

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        before, after = put_measured(bike, parts, slot, attr, value, really, instrument)
        return {slot: {attr: before}}, {slot: {attr: after}, **({"with": instrument} if instrument else {})}

    says = f"{title_of(slot)}: {declared(slot, attr).title.lower()} measured"
    return write_bike(actor, bike_id, version, "measure", says, action)


def put_found(
    *,
    actor: User,
    bike_id: int,
    version: int,
    slot: str,
    values: Mapping[str, Any],
    readings: Mapping[str, str] | None = None,
) -> Bike:
    """Put what measuring identified on the part in a slot, all of it or nothing; the readings it was found by, in
    words, stay in the log. Raises as `record_measure` does.
    """

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        pairs = {
            attr: put_measured(bike, parts, slot, attr, value, really=True) for attr, value in values.items()
        }
        return (
            {slot: {attr: before for attr, (before, _) in pairs.items()}},
            {
                slot: {attr: after for attr, (_, after) in pairs.items()},
                **({"read": dict(readings)} if readings else {}),
            },
        )

    return write_bike(actor, bike_id, version, "identify", f"{title_of(slot)} identified", action)


def keep_typed(
    *,
    actor: User,
    bike_id: int,
    version: int,
    name: str,
    own: Mapping[str, Any],
    measured: Mapping[tuple[str, str], Any],
    really: bool = False,
) -> Bike:
    """Keep what was typed under a calculation: readings of parts on the parts, the rest with the bike.

    Raises as `record_measure` does; then nothing is kept.
    """

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        before: dict[str, Any] = {name: bike.kept.get(name)}
        after: dict[str, Any] = {name: plain(dict(own))}
        bike.kept = {**bike.kept, name: after[name]}
        for (slot, attr), value in measured.items():
            was, now = put_measured(bike, parts, slot, attr, value, really)
            before.setdefault(slot, {})[attr] = was
            after.setdefault(slot, {})[attr] = now
        return before, after

    says = f"what was typed under {name.replace('_', ' ')} kept"
    return write_bike(actor, bike_id, version, "keep", says, action)


CUT_AGREES_MM = 1.0


def record_cut(*, actor: User, bike_id: int, version: int, mark_mm: float, read_mm: float) -> Bike:
    """Record that the steerer was cut: `read_mm` is the second reading, seat to mark, taken before the saw.

    Raises InputError naming the reading where the two differ by more than a millimetre, and where the
    steerer is no longer than what is left.
    """

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        declared("fork", "steerer_length_mm").type.check(read_mm, "read_mm")
        if abs(read_mm - mark_mm) > CUT_AGREES_MM:
            raise bad(
                "read_mm", f"{read_mm:g} mm read again, {mark_mm:.1f} mm marked: measure until both agree"
            )
        fork = parts.in_slot(bike, "fork")
        has = None if fork is None else fork.attrs.get("steerer_length_mm")
        if has is None or read_mm >= has:
            raise bad(
                "read_mm", f"{read_mm:g} mm are to stay of a steerer of {has or '?'} mm: nothing is cut off"
            )
        before, after = put_measured(bike, parts, "fork", "steerer_length_mm", read_mm, really=True)
        return {"fork": {"steerer_length_mm": before}}, {"fork": {"steerer_length_mm": after}}

    return write_bike(actor, bike_id, version, "cut", "the steerer's cut recorded", action)
