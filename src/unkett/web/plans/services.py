"""Everything that writes plans: one function, one action, one transaction, one log line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction
from django.http import Http404
from django.urls import reverse
from django.utils import timezone

from unkett.core.build import plain, stored_part
from unkett.core.errors import bad
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.catalogue.models import CataloguePart
from unkett.web.plans.models import Change, Plan, State
from unkett.web.plans.queries import plans_seen_by
from unkett.web.workshop.errors import Clash, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NAME_MAX = 120
NOTE_MAX = 4000


@transaction.atomic
def start_plan(*, actor: User, bike_id: int, name: str = "") -> Plan:
    """A new, empty plan for a bike. 404 for a bike that is not the actor's."""
    require(actor, "change-plans")
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    name = name.strip()[:NAME_MAX] or f"Plan {bike.plans.count() + 1}"
    plan = Plan.objects.create(bike=bike, name=name, made_by=actor, changed_by=actor)
    log(actor, "start", plan, after={"name": name})
    return plan


def _clash(plan: Plan) -> Clash:
    who = plan.changed_by.called if plan.changed_by else "Somebody"
    when = timezone.localtime(plan.changed).strftime("%H:%M:%S")
    says = f"{who} changed this plan at {when}. Your change was not stored; look at the plan as it is now."
    return Clash(says, reverse("plans:show", args=[plan.pk]))


def _write(
    actor: User, plan_id: int, version: int, verb: str, action: Callable[[Plan], tuple[Any, Any]]
) -> Plan:
    """Lock the plan, compare the version the user saw, act, count the version up, log."""
    require(actor, "change-plans")
    with transaction.atomic():
        plan = (
            plans_seen_by(actor)
            .select_for_update(of=("self",))
            .select_related("changed_by")
            .filter(pk=plan_id)
            .first()
        )
        if plan is None:
            raise Http404
        if plan.version != version:
            raise _clash(plan)
        before, after = action(plan)
        plan.version += 1
        plan.changed_by = actor
        plan.changed = timezone.now()
        plan.save()
        log(actor, verb, plan, before=before, after=after)
    return plan


def _open_slot(plan: Plan, slot: str) -> None:
    if slot not in SLOTS:
        raise Http404
    if plan.state == State.DROPPED:
        raise Refused("This plan was dropped. Take it up again before changing it.")


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
            _open_slot(plan, slot)
            part = CataloguePart.objects.filter(
                workshop_id=actor.workshop_id, pk=part_id, kind=SLOTS[slot].kind
            ).first()
            if part is None:
                raise Refused(f"That part is not in the catalogue, or no {SLOTS[slot].title.lower()}.")
            before |= _was(plan, slot) or {}
            after[slot] = part.name
            Change.objects.update_or_create(
                plan=plan,
                slot=slot,
                defaults={
                    "empties": False,
                    "kind": part.kind,
                    "name": part.name,
                    "attrs": plain(stored_part(part.kind, part.name, part.attrs).attrs),
                    "price": part.price,
                    "catalogue_part": part,
                },
            )
        return before or None, after

    return _write(actor, plan_id, version, "swap", action)


def empty_slot(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Plan a slot to stand empty."""

    def action(plan: Plan) -> tuple[Any, Any]:
        _open_slot(plan, slot)
        before = _was(plan, slot)
        nothing = {"empties": True, "kind": "", "name": "", "attrs": {}, "price": 0, "catalogue_part": None}
        Change.objects.update_or_create(plan=plan, slot=slot, defaults=nothing)
        return before, {slot: None}

    return _write(actor, plan_id, version, "empty", action)


def take_back(*, actor: User, plan_id: int, version: int, slot: str) -> Plan:
    """Leave a slot as it stands: the plan's change there goes."""

    def action(plan: Plan) -> tuple[Any, Any]:
        _open_slot(plan, slot)
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


def drop_plan(*, actor: User, plan_id: int, version: int) -> Plan:
    """Discard a plan; it can be taken up again."""

    def action(plan: Plan) -> tuple[Any, Any]:
        before, plan.state = plan.state, State.DROPPED
        return {"state": before}, {"state": State.DROPPED}

    return _write(actor, plan_id, version, "drop", action)


def take_up_plan(*, actor: User, plan_id: int, version: int) -> Plan:
    """Take a discarded plan up again."""

    def action(plan: Plan) -> tuple[Any, Any]:
        before, plan.state = plan.state, State.DRAFT
        return {"state": before}, {"state": State.DRAFT}

    return _write(actor, plan_id, version, "take up", action)
