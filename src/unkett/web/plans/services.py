"""What is thought over in a plan: one function, one action, one transaction, one log line."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.bike.overlay import left_over, with_changes
from unkett.core.bike.wheels import end_of_wheel, wheel_slots
from unkett.core.build import plain
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.reader import attrs_from, contradictions, new_part
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import BikePart, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import on_offer
from unkett.web.plans.models import Change, Plan, QuoteItem, State
from unkett.web.plans.queries import part_of, planned_elsewhere, plans_seen_by, to_be_taken, wanted_parts
from unkett.web.plans.quote_items import freeze_quote
from unkett.web.plans.writing import refuse_closed, write_plan
from unkett.web.rulebook.packages import packages_of
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

CAUSES = frozenset(
    {"chainrings", "front_derailleur", "cassette", "rear_hub"}
)  # changes that leave parts without use
HERE = (State.DRAFT, State.READY)  # in these states no part is waited for
NAME_MAX = 120
NOTE_MAX = 4000
PART_NAME_MAX = 200
PRICE_UNDER = 1_000_000


@transaction.atomic
def start_plan(*, actor: User, bike_id: int, name: str = "") -> Plan:
    """Start an empty plan for a bike. Raises NotThere for a bike that is not the actor's."""
    require(actor, "change-plans")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    if len(name.strip()) > NAME_MAX:
        raise bad("name", f"{len(name.strip())} characters; at most {NAME_MAX} are kept")
    name = name.strip() or f"Plan {bike.plans.count() + 1}"
    plan = Plan.objects.create(bike=bike, name=name, made_by=actor, changed_by=actor, state_by=actor)
    log(actor, "start", plan, after={"name": name})
    return plan


@transaction.atomic
def copy_plan(*, actor: User, plan_id: int) -> Plan:
    """Copy a plan as a new draft, to work its changes out in another way. Raises NotThere."""
    require(actor, "change-plans")
    plan = plans_seen_by(actor).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    who = {"made_by": actor, "changed_by": actor, "state_by": actor}
    new = Plan.objects.create(
        bike_id=plan.bike_id,
        name=f"{plan.name}, copy"[:NAME_MAX],
        note=plan.note,
        **who,
    )
    copy_content(plan, new)
    log(actor, "copy", new, before={"from": plan.name}, after={"name": new.name})
    return new


def copy_content(plan: Plan, new: Plan) -> None:
    """Give a new plan the changes of another, none of them carried out, and what is said of its quote."""
    changes = list(plan.changes.order_by("pk"))
    for change in changes:
        change.pk, change.plan, change.fitted = None, new, None
    Change.objects.bulk_create(changes)
    items = list(plan.quote_lines.filter(later=False).order_by("pk"))
    for item in items:
        item.pk, item.plan, item.agreed_at = None, new, None
    QuoteItem.objects.bulk_create(items)
    for name in ("packages", "chosen", "given", "small_prices"):
        setattr(new, name, getattr(plan, name))
    new.save(update_fields=["packages", "chosen", "given", "small_prices"])


def _was(plan: Plan, slot: str) -> dict[str, str] | None:
    change = plan.changes.filter(slot=slot).first()
    return None if change is None else {slot: change.name}


def swap_part(*, actor: User, plan_id: int, version: int, slot: str, part_id: int) -> Plan:
    """Plan a catalogue part for a slot. The part's attributes are copied, so that later edits change no plan."""
    return swap_parts(actor=actor, plan_id=plan_id, version=version, parts={slot: part_id})


def swap_parts(*, actor: User, plan_id: int, version: int, parts: Mapping[str, int]) -> Plan:
    """Plan catalogue parts for several slots at once, such as a rotor with its plate; all of them or none."""

    def action(plan: Plan) -> tuple[Any, Any]:
        before: dict[str, str] = {}
        after: dict[str, str] = {}
        for slot, part_id in parts.items():
            refuse_closed(plan, slot)
            before |= _was(plan, slot) or {}
            after[slot] = hold_part(actor, plan, slot, part_id)
        return before or None, after | take_off_left_over(plan, parts)

    return write_plan(actor, plan_id, version, "swap", action)


def take_off_left_over(plan: Plan, slots: Iterable[str]) -> dict[str, None]:
    """Plan what has no use any more after changes of these slots to come off; nothing that the plan speaks of already.

    Whoever keeps one of them, such as a front derailleur as a chain guide, takes its change back.
    """
    if not CAUSES & set(slots):
        return {}
    now = plan.bike.build(list(plan.bike.fitted.all()))
    changes = {change.slot: part_of(change) for change in plan.changes.all()}
    found = [slot for slot in left_over(now, with_changes(now, changes)) if slot not in changes]
    for slot in found:
        _set(plan, slot, None)
    return dict.fromkeys(found)


def hold_part(actor: User, plan: Plan, slot: str, part_id: int | None) -> str:
    """Let a plan's slot hold a part of the catalogue, or nothing; its name. Refused where it is not on offer."""
    if part_id is None:
        _set(plan, slot, None)
        return ""
    part = on_offer(actor).filter(kind=SLOTS[slot].kind, pk=part_id).first()
    if part is None or (part.also and tuple(part.also) != wheel_slots(end_of_wheel(slot))[1:]):
        raise Refused(f"That part is not in the catalogue, or no {SLOTS[slot].title.lower()}.")
    _set(plan, slot, part)
    return part.name


def hold_taken(plan: Plan, slot: str, part: BikePart) -> None:
    """Let a plan's slot hold the very part that lies in the bin, at its value, or stands on another bike."""
    _hold(
        plan,
        slot,
        kind=part.kind,
        name=part.name or SLOTS[slot].title,
        attrs=part.attrs,
        also=part.also,
        origins=part.origins,
        price=part.value,
        mass_g=part.mass_g,
        part=part,
        catalogue_part=part.catalogue_part,
    )


def _set(plan: Plan, slot: str, part: CataloguePart | None) -> None:
    """Let a plan's slot hold a copy of a catalogue part, or nothing."""
    if part is None:
        _hold(plan, slot, empties=True)
        return
    attrs = plain(new_part(part.kind, part.name, part.attrs, part.also).attrs)
    _hold(
        plan,
        slot,
        kind=part.kind,
        name=part.name,
        attrs=attrs,
        also=part.also,
        price=part.price,
        mass_g=part.mass_g,
        origins=dict.fromkeys(attrs, part.origin) if part.typical else {},
        catalogue_part=part,
    )


def _hold(plan: Plan, slot: str, **wanted: Any) -> None:
    """Let a plan's slot hold this, and nothing of what it held."""
    nothing: dict[str, Any] = {
        "empties": False, "kind": "", "name": "", "attrs": {}, "price": 0, "mass_g": None, "origins": {}, "also": [],
        "goes_over": None, "brought": False, "part": None, "catalogue_part": None, "fitted": None,
    }  # fmt: skip
    plan.changes.filter(slot__in=wanted.get("also", ())).delete()  # of one piece with it
    Change.objects.update_or_create(plan=plan, slot=slot, defaults=nothing | wanted)


def type_part(
    *,
    actor: User,
    plan_id: int,
    version: int,
    slot: str,
    name: str,
    values: Mapping[str, Any],
    price: Decimal | None = None,
    brought: bool = False,
    origins: Mapping[str, str] | None = None,
) -> Plan:
    """Plan a part that is typed or measured here: `values` is all that is known of it, by attribute; what `origins`
    does not name is measured. Without a `price` the quote says that it has none.

    Raises InputError naming the attribute or the price; then nothing is stored.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        kind = SLOTS[slot].kind
        attrs = plain(attrs_from(plain(values), kind, ""))
        faults = contradictions([kind], attrs)
        if len(name) > PART_NAME_MAX:
            faults.append(
                Fault(path="name", says=f"{len(name)} characters; at most {PART_NAME_MAX} are kept")
            )
        if price is not None and not 0 <= price < PRICE_UNDER:
            faults.append(Fault(path="price", says=f"{price} given; 0 to {PRICE_UNDER} allowed"))
        if faults:
            raise InputError(faults)
        before = _was(plan, slot)
        known = {attr: (origins or {}).get(attr, Origin.MEASURED) for attr in attrs}
        title = name.strip() or f"{SLOTS[slot].title}, typed here"
        _hold(plan, slot, kind=kind, name=title, attrs=attrs, price=price, origins=known, brought=brought)
        return before, {slot: title, **take_off_left_over(plan, [slot])}

    return write_plan(actor, plan_id, version, "type", action)


def take_part(*, actor: User, plan_id: int, version: int, slot: str, part_id: int) -> Plan:
    """Plan the very part that lies on the bench or stands on another bike; it costs what it is worth in the bin.

    Raises NotThere for a part that is not there or is no such part.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        part = to_be_taken(actor, plan, slot).select_for_update(of=("self",)).filter(pk=part_id).first()
        if part is None:
            raise NotThere
        other = wanted_parts(actor, part.pk).get(part.pk)
        if other is not None and other.bike_id != plan.bike_id:
            raise Refused(f"{part} is reserved for {other.called} of {other.bike.name}.")
        before = _was(plan, slot)
        hold_taken(plan, slot, part)
        return before, {slot: part.name, **take_off_left_over(plan, [slot])}

    return write_plan(actor, plan_id, version, "take", action)


def plan_as_there(*, actor: User, plan_id: int, version: int, slot: str, change_id: int) -> Plan:
    """Plan for a slot what another plan has for one of its kind. Raises NotThere."""

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        like = planned_elsewhere(actor, plan, slot).filter(pk=change_id).first()
        if like is None:
            raise NotThere
        before = _was(plan, slot)
        names = ("kind", "name", "attrs", "also", "price", "mass_g", "origins")
        same = {name: getattr(like, name) for name in names}
        _hold(plan, slot, **same, catalogue_part=like.catalogue_part)
        return before, {slot: like.name, **take_off_left_over(plan, [slot])}

    return write_plan(actor, plan_id, version, "plan as there", action)


def set_supplier(*, actor: User, plan_id: int, version: int, slot: str, brought: bool) -> Plan:
    """Say that the customer brings a planned part, or that the workshop gets it after all."""

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        change = plan.changes.select_related("catalogue_part").filter(slot=slot, empties=False).first()
        if change is None:
            raise NotThere
        before, change.brought = change.brought, brought
        change.save(update_fields=["brought"])
        return {slot: before}, {slot: brought}

    return write_plan(actor, plan_id, version, "bring", action)


def empty_slot(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Plan a slot to stand empty."""

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        before = _was(plan, slot)
        _set(plan, slot, None)
        return before, {slot: None, **take_off_left_over(plan, [slot])}

    return write_plan(actor, plan_id, version, "empty", action)


def take_back(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Leave a slot as it stands: the plan's change there goes."""

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        before = _was(plan, slot)
        plan.changes.filter(slot=slot).delete()
        return before, None

    return write_plan(actor, plan_id, version, "take back", action)


def pick_packages(*, actor: User, plan_id: int, version: int, codes: Iterable[str]) -> Plan:
    """Say which service packages are done with a plan. Raises InputError for one that the workshop does not have."""

    def action(plan: Plan) -> tuple[Any, Any]:
        if not plan.is_open:
            raise Refused(
                f"This plan is {State(plan.state).label.lower()}. Take it back to a draft before changing it."
            )
        known = packages_of(plan.bike.workshop)
        wanted = list(dict.fromkeys(codes))
        for code in wanted:
            if code not in known:
                raise bad("packages", f"{code} is no package of this workshop")
        before, plan.packages = plan.packages, wanted
        return {"packages": before}, {"packages": wanted}

    return write_plan(actor, plan_id, version, "packages", action)


@transaction.atomic
def start_package(*, actor: User, bike_id: int, code: str) -> Plan:
    """Start a plan for a bike that is one service package. Raises NotThere; InputError for an unknown package."""
    known = packages_of(actor.workshop).get(code)
    if known is None:
        raise bad("package", f"{code} is no package of this workshop")
    plan = start_plan(actor=actor, bike_id=bike_id, name=known.title)
    return pick_packages(actor=actor, plan_id=plan.pk, version=plan.version, codes=[code])


def name_plan(*, actor: User, plan_id: int, version: int, name: str, note: str) -> Plan:
    """Name a plan and note why. Raises InputError beside the field for an empty or too long text."""

    def action(plan: Plan) -> tuple[Any, Any]:
        if not 1 <= len(name.strip()) <= NAME_MAX:
            raise bad("name", f"enter a name of 1 to {NAME_MAX} characters")
        if len(note) > NOTE_MAX:
            raise bad("note", f"{len(note)} characters; at most {NOTE_MAX} are kept")
        before = {"name": plan.name, "note": plan.note}
        plan.name, plan.note = name.strip(), note.strip()
        return before, {"name": plan.name, "note": plan.note}

    return write_plan(actor, plan_id, version, "name", action)


def move_plan(*, actor: User, plan_id: int, version: int, to: str) -> Plan:
    """Bring a plan to another state. Refused for a way there is not, and to check what is not carried out yet."""

    def action(plan: Plan) -> tuple[Any, Any]:
        if to not in plan.may_go:
            raise Refused(f"A plan that is {State(plan.state).label.lower()} does not go there.")
        left = _left(plan) if to == State.CHECKED else []
        if left:
            raise Refused(f"Not carried out yet: {', '.join(SLOTS[slot].title.lower() for slot in left)}.")
        if to == State.AGREED and plan.state in (State.DRAFT, State.QUOTED):
            freeze_quote(actor, plan)
        if to == State.DRAFT:
            plan.promised, plan.moved = None, {}
        if to in HERE:
            plan.parts_on = None
        before, plan.state = plan.state, State(to)
        plan.state_at, plan.state_by = timezone.now(), actor
        return {"state": before}, {"state": plan.state}

    return write_plan(actor, plan_id, version, "state", action)


def bring_to(actor: User, plan: Plan, to: State) -> None:
    """Move a plan on by what was done elsewhere: work begins, parts are ordered, parts are here.

    Call it inside the action's transaction.
    """
    before, plan.state = plan.state, to
    plan.state_at, plan.state_by, plan.version = timezone.now(), actor, plan.version + 1
    if to in HERE:
        plan.parts_on = None
    plan.save(update_fields=["state", "state_at", "state_by", "version", "parts_on"])
    log(actor, "state", plan, before={"state": before}, after={"state": plan.state})


def _left(plan: Plan) -> list[str]:
    """Return the slots whose change is not carried out."""
    fitted = {part.slot: part for part in plan.bike.fitted.all()}
    return [change.slot for change in plan.changes.all() if not change.is_done(fitted)]
