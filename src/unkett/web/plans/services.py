"""Everything that writes plans: one function, one action, one transaction, one log line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.build import plain, stored_part
from unkett.core.errors import bad
from unkett.core.planning import laid_over
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Bike, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import on_offer
from unkett.web.plans.models import Change, Plan, State
from unkett.web.plans.queries import part_of, plans_seen_by
from unkett.web.workshop.errors import Clash, NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NAME_MAX = 120
NOTE_MAX = 4000


@transaction.atomic
def start_plan(*, actor: User, bike_id: int, name: str = "") -> Plan:
    """A new, empty plan for a bike. Raises NotThere for a bike that is not the actor's."""
    require(actor, "change-plans")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    name = name.strip()[:NAME_MAX] or f"Plan {bike.plans.count() + 1}"
    plan = Plan.objects.create(bike=bike, name=name, made_by=actor, changed_by=actor, state_by=actor)
    log(actor, "start", plan, after={"name": name})
    return plan


@transaction.atomic
def copy_plan(*, actor: User, plan_id: int) -> Plan:
    """A new draft with the changes of a plan, to think them over in another way. Raises NotThere."""
    require(actor, "change-plans")
    plan = plans_seen_by(actor).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    who = {"made_by": actor, "changed_by": actor, "state_by": actor}
    new = Plan.objects.create(
        bike_id=plan.bike_id, name=f"{plan.name}, copy"[:NAME_MAX], note=plan.note, **who
    )
    changes = list(plan.changes.order_by("pk"))
    for change in changes:
        change.pk, change.plan, change.fitted = None, new, None
    Change.objects.bulk_create(changes)
    log(actor, "copy", new, before={"from": plan.name}, after={"name": new.name})
    return new


def _clash(plan: Plan) -> Clash:
    who = plan.changed_by.called if plan.changed_by else "Somebody"
    when = timezone.localtime(plan.changed).strftime("%H:%M:%S")
    says = f"{who} changed this plan at {when}. Your change was not stored; look at the plan as it is now."
    return Clash(says, plan)


Action = Callable[[Plan], tuple[Any, Any]]


def _write(actor: User, plan_id: int, version: int, verb: str, action: Action) -> Plan:
    """Lock the plan, compare the version the user saw, act, count the version up, log."""
    require(actor, "change-plans")
    with transaction.atomic():
        own = plans_seen_by(actor).select_for_update(of=("self",)).select_related("changed_by")
        plan = own.filter(pk=plan_id).first()
        if plan is None:
            raise NotThere
        if plan.version != version:
            raise _clash(plan)
        before, after = action(plan)
        plan.version += 1
        plan.changed_by = actor
        plan.changed = timezone.now()
        plan.save()
        log(actor, verb, plan, before=before, after=after)
    return plan


def _may_change(plan: Plan, slot: str) -> None:
    if slot not in SLOTS:
        raise NotThere
    if not plan.is_open:
        raise Refused(
            f"This plan is {State(plan.state).label.lower()}. Take it back to a draft before changing it."
        )


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
            _may_change(plan, slot)
            part = on_offer(actor).filter(kind=SLOTS[slot].kind, pk=part_id).first()
            if part is None:
                raise Refused(f"That part is not in the catalogue, or no {SLOTS[slot].title.lower()}.")
            before |= _was(plan, slot) or {}
            after[slot] = part.name
            _set(plan, slot, part)
        return before or None, after

    return _write(actor, plan_id, version, "swap", action)


def _set(plan: Plan, slot: str, part: CataloguePart | None) -> None:
    """Let a plan's slot hold a copy of a catalogue part, or nothing."""
    wanted: dict[str, Any] = {"empties": True, "kind": "", "name": "", "attrs": {}, "price": 0}
    if part is not None:
        attrs = plain(stored_part(part.kind, part.name, part.attrs).attrs)
        wanted = {"empties": False, "kind": part.kind, "name": part.name, "attrs": attrs, "price": part.price}
    wanted |= {"catalogue_part": part, "fitted": None}
    Change.objects.update_or_create(plan=plan, slot=slot, defaults=wanted)


def empty_slot(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Plan a slot to stand empty."""

    def action(plan: Plan) -> tuple[Any, Any]:
        _may_change(plan, slot)
        before = _was(plan, slot)
        _set(plan, slot, None)
        return before, {slot: None}

    return _write(actor, plan_id, version, "empty", action)


def take_back(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Leave a slot as it stands: the plan's change there goes."""

    def action(plan: Plan) -> tuple[Any, Any]:
        _may_change(plan, slot)
        before = _was(plan, slot)
        plan.changes.filter(slot=slot).delete()
        return before, None

    return _write(actor, plan_id, version, "take back", action)


def name_plan(*, actor: User, plan_id: int, version: int, name: str, note: str) -> Plan:
    """Name a plan and note why. Raises InputError beside the field for an empty or too long text."""

    def action(plan: Plan) -> tuple[Any, Any]:
        if not 1 <= len(name.strip()) <= NAME_MAX:
            raise bad("name", f"a name of 1 to {NAME_MAX} characters is wanted")
        if len(note) > NOTE_MAX:
            raise bad("note", f"{len(note)} characters; at most {NOTE_MAX} are kept")
        before = {"name": plan.name, "note": plan.note}
        plan.name, plan.note = name.strip(), note.strip()
        return before, {"name": plan.name, "note": plan.note}

    return _write(actor, plan_id, version, "name", action)


def move_plan(*, actor: User, plan_id: int, version: int, to: str) -> Plan:
    """Bring a plan to another state. Refused for a way there is not, and to check what is not carried out yet."""

    def action(plan: Plan) -> tuple[Any, Any]:
        if to not in plan.may_go:
            raise Refused(f"A plan that is {State(plan.state).label.lower()} does not go there.")
        left = _left(plan) if to == State.CHECKED else []
        if left:
            raise Refused(f"Not carried out yet: {', '.join(SLOTS[slot].title.lower() for slot in left)}.")
        before, plan.state = plan.state, State(to)
        plan.state_at, plan.state_by = timezone.now(), actor
        return {"state": before}, {"state": plan.state}

    return _write(actor, plan_id, version, "state", action)


def _left(plan: Plan) -> list[str]:
    """The slots whose change is not carried out."""
    fitted = {part.slot: part for part in plan.bike.fitted.all()}
    return [change.slot for change in plan.changes.all() if not change.is_done(fitted)]


@transaction.atomic
def carry_out(*, actor: User, plan_id: int, version: int, bike_version: int, slot: str) -> Plan:
    """Do one change of a plan that is on the stand: the bike then holds the planned part, the old one lies
    on the bench.

    What the change pulls along (a frame that turns, a wheel laced anew) is written on the parts as assumed, to be
    measured. It can be undone on the bike.
    """
    require(actor, "change-plans")
    entered: list[Any] = []

    def on_plan(plan: Plan) -> tuple[Any, Any]:
        if not plan.on_stand:
            raise Refused("This plan is not on the stand.")
        change = plan.changes.filter(slot=slot).first()
        if change is None:
            raise NotThere
        says = f"{SLOTS[slot].title} {'taken off' if change.empties else 'fitted'} as planned in {plan.name}"
        write_bike(
            actor,
            plan.bike_id,
            bike_version,
            "carry out",
            says,
            lambda bike, parts: _on_bike(bike, parts, change, entered),
        )
        if entered:
            change.fitted = entered[0]
            change.save(update_fields=["fitted"])
        return {slot: "planned"}, {slot: "done"}

    return _write(actor, plan_id, version, "carry out", on_plan)


def _on_bike(bike: Bike, parts: Parts, change: Change, entered: list[Any]) -> tuple[Any, Any]:
    slot, new = change.slot, part_of(change)
    if change.is_done({part.slot: part for part in parts.on(bike)}):
        raise Refused(f"{SLOTS[slot].title}: this is done already.")
    then = laid_over(bike.build(parts.on(bike)), {slot: new})
    old = parts.in_slot(bike, slot)
    before = None if old is None else old.name
    if old is not None:
        parts.take_off(old)
    if new is not None:
        attrs = plain(new.attrs)
        stated = dict.fromkeys(attrs, Origin.STATED)
        catalogue = change.catalogue_part_id
        entered.append(
            parts.enter(bike, slot, name=new.name, attrs=attrs, origins=stated, catalogue_part_id=catalogue)
        )
    for part in parts.on(bike):
        _pulled_along(parts, part, then.parts[part.slot].attrs)
    return {slot: before}, {slot: None if new is None else new.name}


def _pulled_along(parts: Parts, part: Any, attrs: Mapping[str, Any]) -> None:
    """Write on a part what another part's change did to it."""
    then = plain(attrs)
    if then != part.attrs:
        kept = {
            attr: origin for attr, origin in part.origins.items() if then.get(attr) == part.attrs.get(attr)
        }
        parts.change(part, attrs=then, origins=dict.fromkeys(then, Origin.ASSUMED) | kept)
