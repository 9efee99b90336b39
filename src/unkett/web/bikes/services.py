"""Everything that writes bikes: one function, one action, one transaction, one log line."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.http import Http404
from django.urls import reverse

from unkett.core.build import RIDER_KEYS, Build, contradictions, plain, read_build
from unkett.core.errors import Fault, InputError, bad
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, Attribute
from unkett.web.bikes.judging import judge
from unkett.web.bikes.models import Bike, FittedPart, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.workshop.errors import Clash, Refused, Unlikely
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

BUILD_BYTES_MAX = 1_000_000


def locked(actor: User, bike_id: int, version: int) -> Bike:
    bike = bikes_seen_by(actor).select_for_update().filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    if bike.version != version:
        says = "Somebody changed this bike since you opened it. Nothing of yours was stored; look at it as it is now."
        raise Clash(says, reverse("bikes:stand", args=[bike_id]))
    return bike


@transaction.atomic
def add_bike_from_file(*, actor: User, content: bytes) -> Bike:
    """A new bike from an `unkett.build/1` file. Raises InputError naming every fault; then nothing is stored."""
    require(actor, "change-bikes")
    if len(content) > BUILD_BYTES_MAX:
        raise bad("", f"the file has {len(content)} bytes; a build of at most {BUILD_BYTES_MAX} is read")
    build = read_build(content)
    bike = store_build(actor, build)
    log(actor, "add", bike, after={"name": bike.name})
    return bike


def store_build(actor: User, build: Build, **fields: Any) -> Bike:
    """Store a build as a new bike of the actor's workshop. Call it inside a transaction."""
    bike = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=(build.name or "Bike without a name")[:120],
        use=build.use or "",
        rider=plain(build.rider),
        lever_hand=plain(build.lever_hand),
        empty=in_order(build.empty),
        extra=plain(build.extra),
        parts_extra=plain(build.parts_extra),
        **fields,
    )
    FittedPart.objects.bulk_create(
        FittedPart(
            bike=bike,
            slot=slot,
            kind=part.kind,
            name=part.name,
            attrs=plain(part.attrs),
            origins=dict.fromkeys(part.attrs, Origin.STATED),
            also=list(part.also),
            extra=plain(part.extra),
        )
        for slot, part in build.parts.items()
    )
    judge_fresh(bike, actor)
    bike.save(update_fields=["verdict", "standing", "judged_by"])
    return bike


def judge_fresh(bike: Bike, actor: User) -> None:
    """Judge a bike by its parts as they are stored now. Not saved here."""
    judge(bike, list(FittedPart.objects.filter(bike=bike)), actor.workshop)


def write_bike(
    actor: User, bike_id: int, version: int, verb: str, says: str, action: Callable[[Bike], tuple[Any, Any]]
) -> Bike:
    """Lock the bike, compare the version the user saw, act, count the version up, log; what was can be put back."""
    require(actor, "change-bikes")
    with transaction.atomic():
        bike = locked(actor, bike_id, version)
        was = {
            "says": says,
            "rider": bike.rider,
            "kept": bike.kept,
            "empty": bike.empty,
            "parts": [part.stored() for part in bike.fitted.order_by("pk")],
        }
        before, after = action(bike)
        fitted = list(FittedPart.objects.filter(bike=bike))
        _refuse_contradictions(fitted, was["parts"])
        bike.empty = settled(bike.empty, _slots(was["parts"]), _slots(part.stored() for part in fitted))
        bike.version += 1
        bike.undo = {**was, "version": bike.version}
        judge(bike, fitted, actor.workshop)
        bike.save()
        log(actor, verb, bike, before=before, after=after)
    return bike


def in_order(slots: Iterable[str]) -> list[str]:
    return [slot for slot in SLOTS if slot in set(slots)]


def _slots(stored: Iterable[Mapping[str, Any]]) -> set[str]:
    return {slot for part in stored for slot in (part["slot"], *part["also"])}


def settled(empty: Iterable[str], before: set[str], after: set[str]) -> list[str]:
    """The slots known to be empty after a change: what was taken off joins them, what was filled leaves."""
    return in_order((set(empty) | (before - after)) - after)


def record_empty(*, actor: User, bike_id: int, version: int, slot: str, empty: bool) -> Bike:
    """Record that nothing is fitted in a slot, or that nobody looked after all. Refused where a part stands there."""
    title = _named(slot)
    if slot not in SLOTS:
        raise Http404

    def action(bike: Bike) -> tuple[Any, Any]:
        if slot in _slots(part.stored() for part in bike.fitted.all()):
            raise Refused(f"A part stands there: take the {title.lower()} off first.")
        before = list(bike.empty)
        bike.empty = in_order({*before, slot} if empty else set(before) - {slot})
        return {slot: "nothing fitted" if slot in before else None}, {
            slot: "nothing fitted" if empty else None
        }

    says = f"{title}: nothing fitted" if empty else f"{title}: not looked at yet"
    return write_bike(actor, bike_id, version, "look", says, action)


def _refuse_contradictions(fitted: list[FittedPart], stored: list[dict[str, Any]]) -> None:
    """Raises InputError naming `slot.attr` where a part that changed now speaks against itself."""
    faults = [
        Fault(path=f"{part.slot}.{fault.path}", says=fault.says)
        for part in fitted
        if part.stored() not in stored
        for fault in contradictions([part.kind, *(SLOTS[slot].kind for slot in part.also)], part.attrs)
    ]
    if faults:
        raise InputError(faults)


def _declared(slot: str, attr: str) -> Attribute:
    if slot != "bike" and slot not in SLOTS:
        raise Http404
    kind = BIKE if slot == "bike" else KINDS[SLOTS[slot].kind]
    if attr not in kind.attributes:
        raise Http404
    return kind.attributes[attr]


def _named(slot: str) -> str:
    return "Bike and rider" if slot == "bike" else SLOTS[slot].title if slot in SLOTS else slot


def put_measured(bike: Bike, slot: str, attr: str, value: Any, really: bool) -> tuple[Any, Any]:
    """Put one measured attribute on the part in a slot, or on the rider; returns it before and after.

    An open slot that is measured holds a part: it is put there, without a name. Raises InputError
    naming the attribute, Unlikely for a reading far from the usual unless `really`.
    """
    declared = _declared(slot, attr)
    clean = plain(declared.type.check(value, attr))
    if not really and declared.unlikely(clean):
        usual = [one for one in declared.usual if isinstance(one, (int, float))]
        says = f"{declared.title}: {clean:g} {declared.unit}. Usually {min(usual):g} to {max(usual):g} {declared.unit} are met."
        raise Unlikely(says)
    if slot == "bike":
        if attr not in RIDER_KEYS:
            raise Http404
        before = bike.rider.get(attr)
        bike.rider = {**bike.rider, attr: clean}
        return before, clean
    holding = Q(slot=slot) | Q(also__contains=[slot])
    part = bike.fitted.filter(holding).first() or FittedPart(bike=bike, slot=slot, kind=SLOTS[slot].kind)
    before = part.attrs.get(attr)
    part.attrs = {**part.attrs, attr: clean}
    part.origins = {**part.origins, attr: Origin.MEASURED}
    part.save()
    return before, clean


def record_measure(
    *, actor: User, bike_id: int, version: int, slot: str, attr: str, value: Any, really: bool = False
) -> Bike:
    """Keep one measured attribute; the reading before stands in the log.

    Raises InputError naming the attribute for a value its declaration does not allow, Unlikely for one
    far from the usual, Http404 for a bike, slot or attribute there is not, Clash when the bike changed
    in between.
    """

    def action(bike: Bike) -> tuple[Any, Any]:
        before, after = put_measured(bike, slot, attr, value, really)
        return {slot: {attr: before}}, {slot: {attr: after}}

    return write_bike(
        actor,
        bike_id,
        version,
        "measure",
        f"{_named(slot)}: {_declared(slot, attr).title.lower()} measured",
        action,
    )


def put_found(*, actor: User, bike_id: int, version: int, slot: str, values: Mapping[str, Any]) -> Bike:
    """Put what measuring identified on the part in a slot, all of it or nothing. Raises as `record_measure` does."""

    def action(bike: Bike) -> tuple[Any, Any]:
        pairs = {attr: put_measured(bike, slot, attr, value, really=True) for attr, value in values.items()}
        return (
            {slot: {attr: before for attr, (before, _) in pairs.items()}},
            {slot: {attr: after for attr, (_, after) in pairs.items()}},
        )

    return write_bike(actor, bike_id, version, "identify", f"{_named(slot)} identified", action)


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

    def action(bike: Bike) -> tuple[Any, Any]:
        before: dict[str, Any] = {name: bike.kept.get(name)}
        after: dict[str, Any] = {name: plain(dict(own))}
        bike.kept = {**bike.kept, name: after[name]}
        for (slot, attr), value in measured.items():
            was, now = put_measured(bike, slot, attr, value, really)
            before.setdefault(slot, {})[attr] = was
            after.setdefault(slot, {})[attr] = now
        return before, after

    return write_bike(
        actor, bike_id, version, "keep", f"what was typed under {name.replace('_', ' ')} kept", action
    )


CUT_AGREES_MM = 1.0


def record_cut(*, actor: User, bike_id: int, version: int, mark_mm: float, read_mm: float) -> Bike:
    """Record that the steerer was cut: `read_mm` is the second reading, seat to mark, taken before the saw.

    Raises InputError naming the reading where the two differ by more than a millimetre, and where the
    steerer is no longer than what is left.
    """

    def action(bike: Bike) -> tuple[Any, Any]:
        _declared("fork", "steerer_length_mm").type.check(read_mm, "read_mm")
        if abs(read_mm - mark_mm) > CUT_AGREES_MM:
            raise bad(
                "read_mm", f"{read_mm:g} mm read again, {mark_mm:.1f} mm marked: measure until both agree"
            )
        fork = next((part for part in bike.fitted.all() if part.slot == "fork"), None)
        has = None if fork is None else fork.attrs.get("steerer_length_mm")
        if has is None or read_mm >= has:
            raise bad(
                "read_mm", f"{read_mm:g} mm are to stay of a steerer of {has or '?'} mm: nothing is cut off"
            )
        before, after = put_measured(bike, "fork", "steerer_length_mm", read_mm, really=True)
        return {"fork": {"steerer_length_mm": before}}, {"fork": {"steerer_length_mm": after}}

    return write_bike(actor, bike_id, version, "cut", "the steerer's cut recorded", action)
