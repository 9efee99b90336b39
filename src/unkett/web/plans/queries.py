"""Reads for the plan's pages: the plan beside the bike as it stands, and what could go in a slot."""

from __future__ import annotations

from typing import Any

from attrs import frozen
from django.db.models import Q, QuerySet

from unkett.core.bike.planned import as_planned
from unkett.core.bike.wheels import end_of_wheel, wheel_slots
from unkett.core.build import Build, Part
from unkett.core.check.difference import Difference, difference
from unkett.core.check.engine import Check, check_again
from unkett.core.formats.reader import stored_part
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import BikePart, Origin, Status, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bikes.queries import CurrentBike, current_bike_of, settings_of
from unkett.web.bikes.verdicts import accepting
from unkett.web.plans.models import Change, Plan, State
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User


def plans_seen_by(actor: User) -> QuerySet[Plan]:
    """Return the plans of every bike that is not removed."""
    return Plan.objects.filter(bike__workshop_id=actor.workshop_id).exclude(bike__status=Status.REMOVED)


@frozen(kw_only=True)
class Planned:
    """A plan with everything its page shows."""

    plan: Plan
    stands: CurrentBike
    changes: dict[str, Change]
    build: Build
    check: Check
    difference: Difference
    done: frozenset[str]  # the slots whose change is carried out

    @property
    def origins(self) -> dict[str, dict[str, str]]:
        """Where the figures of each planned part come from."""
        planned = [
            change for slot, change in self.changes.items() if slot not in self.done and not change.empties
        ]
        return {
            change.slot: dict.fromkeys(change.attrs, Origin.STATED.value) | change.origins
            for change in planned
        }

    @property
    def mass_g(self) -> int | None:
        """Mass of the planned parts whose mass is known; None where none is."""
        known = [change.mass_g for change in self.changes.values() if change.mass_g is not None]
        return sum(known) if known else None

    @property
    def days(self) -> int:
        """Days until the last of the parts that are bought is here."""
        bought = [
            change.catalogue_part.days
            for change in self.changes.values()
            if change.catalogue_part and not change.brought and not change.part_id
        ]
        return max(bought, default=0)


def planned_build(build: Build, changes: list[Change]) -> Build:
    """Return the bike's build with the plan's changes laid over it."""
    return as_planned(build, {change.slot: part_of(change) for change in changes})


def part_of(change: Change) -> Part | None:
    """Return the part that a change fits; None where it leaves the slot empty."""
    return None if change.empties else stored_part(change.kind, change.name, change.attrs, change.also)


def planned(actor: User, plan_id: int) -> Planned:
    """Return a plan, its bike and both checks. Raises NotThere for one that is not the actor's."""
    plan = (
        plans_seen_by(actor)
        .select_related("bike__customer", "changed_by")
        .defer("bike__undo", "bike__summary")
        .prefetch_related("quote_lines")
        .filter(pk=plan_id)
        .first()
    )
    if plan is None:
        raise NotThere
    settings = settings_of(actor)
    stands = current_bike_of(plan.bike, settings)
    changes = list(plan.changes.select_related("catalogue_part"))
    done = {change.slot for change in changes if change.is_done(stands.fitted)}
    changed = {change.slot for change in changes} - done
    build = planned_build(stands.build, [change for change in changes if change.slot in changed])
    stay = [part for slot, part in stands.fitted.items() if slot not in changed]
    checked = accepting(check_again(stands.check, stands.build, build, settings), plan.bike, stay)
    return Planned(
        plan=plan,
        stands=stands,
        changes={change.slot: change for change in changes},
        build=build,
        check=checked,
        difference=difference(stands.check, checked, [change.slot for change in changes]),
        done=frozenset(done),
    )


def part_now(plan: Planned, slot: str) -> Part | None:
    """Return the part that the plan leaves in a slot."""
    return plan.build.filled().get(slot)


def plans_of(actor: User, bike_id: int) -> list[Any]:
    """Return the plans of a bike, latest first, dropped ones last."""
    plans = plans_seen_by(actor).filter(bike_id=bike_id)
    return sorted(plans, key=lambda plan: plan.state == "dropped")


def plan_builds(actor: User, stands: CurrentBike, ids: list[int]) -> list[tuple[str, Build]]:
    """Other plans of the same bike by name, each with the bike as it plans it."""
    if not ids:
        return []
    plans = plans_seen_by(actor).filter(bike_id=stands.bike.pk, pk__in=ids).prefetch_related("changes")
    return [(plan.called, planned_build(stands.build, list(plan.changes.all()))) for plan in plans]


def changed_slots(actor: User, plan_id: int | None) -> set[str]:
    """Return the slots that a plan changes; nothing for no plan."""
    if plan_id is None:
        return set()
    return set(
        Change.objects.filter(plan__in=plans_seen_by(actor), plan_id=plan_id).values_list("slot", flat=True)
    )


def to_be_taken(actor: User, plan: Plan, slot: str) -> QuerySet[BikePart]:
    """Return the parts that could go in a slot of a plan's bike: those of its kind on the bench and on other bikes."""
    there = Q(where=Where.BENCH) | Q(where=Where.ON_BIKE, bike__in=bikes_seen_by(actor))
    whole = Q(also=list(wheel_slots(end_of_wheel(slot))[1:])) if slot.endswith("_hub") else Q(pk=None)
    own = (
        parts_seen_by(actor)
        .filter(there, Q(also=[]) | whole, kind=SLOTS[slot].kind)
        .exclude(bike_id=plan.bike_id)
    )
    return own.select_related("bike", "catalogue_part").order_by("-where", "bike__name", "pk")


def planned_elsewhere(actor: User, plan: Plan, slot: str) -> QuerySet[Change]:
    """What other open plans, of this bike or another, have for a slot of this kind; no part that is taken itself."""
    plans = plans_seen_by(actor).exclude(pk=plan.pk).exclude(state__in=(State.DROPPED, State.HANDED_OVER))
    changes = Change.objects.filter(plan__in=plans, kind=SLOTS[slot].kind, empties=False, part=None)
    return changes.select_related("plan__bike", "catalogue_part").order_by("-plan__changed", "pk")


def options_of(actor: User, plan: Plan) -> list[Plan]:
    """Return a plan with its other options, by letter; alone where it has none."""
    group = plans_seen_by(actor).filter(Q(pk=plan.group_id) | Q(option_of_id=plan.group_id))
    return list(group.order_by("letter", "pk"))


def wanted_parts(actor: User, *part_ids: int) -> dict[int, Plan]:
    """Return by part, of these, the open plan that it is reserved for."""
    changes = Change.objects.filter(part__in=part_ids, fitted=None, plan__bike__workshop_id=actor.workshop_id)
    open_ones = changes.exclude(plan__state__in=(State.DROPPED, State.HANDED_OVER)).select_related(
        "plan__bike"
    )
    return {change.part_id: change.plan for change in open_ones if change.part_id is not None}
