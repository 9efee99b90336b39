"""Reads for the plan's pages: the plan beside the bike as it stands, and what could go in a slot."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from attrs import frozen
from django.db.models import QuerySet

from unkett.core.build import Build, Part, stored_part
from unkett.core.engine import Check, Difference, check_again, difference
from unkett.core.planning import laid_over
from unkett.web.bikes.judging import accepting
from unkett.web.bikes.models import Status
from unkett.web.bikes.queries import Standing, settings_of, standing_of
from unkett.web.plans.models import Change, Plan
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User


def plans_seen_by(actor: User) -> QuerySet[Plan]:
    """The plans of every bike that is not removed."""
    return Plan.objects.filter(bike__workshop_id=actor.workshop_id).exclude(bike__status=Status.REMOVED)


@frozen(kw_only=True)
class Planned:
    """A plan with everything its page shows."""

    plan: Plan
    stands: Standing
    changes: dict[str, Change]
    build: Build
    check: Check
    difference: Difference
    done: frozenset[str]  # the slots whose change is carried out

    @property
    def price(self) -> Decimal:
        return sum((change.price for change in self.changes.values()), Decimal(0))


def planned_build(build: Build, changes: list[Change]) -> Build:
    """The bike's build with the plan's changes laid over it."""
    return laid_over(build, {change.slot: part_of(change) for change in changes})


def part_of(change: Change) -> Part | None:
    """The part that a change fits; None where it leaves the slot empty."""
    return None if change.empties else stored_part(change.kind, change.name, change.attrs)


def planned(actor: User, plan_id: int) -> Planned:
    """A plan, its bike and both checks. Raises NotThere for one that is not the actor's."""
    plan = (
        plans_seen_by(actor)
        .select_related("bike__customer", "changed_by")
        .defer("bike__undo", "bike__standing")
        .filter(pk=plan_id)
        .first()
    )
    if plan is None:
        raise NotThere
    settings = settings_of(actor)
    stands = standing_of(plan.bike, settings)
    changes = list(plan.changes.all())
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
    """The part that the plan leaves in a slot."""
    return plan.build.filled().get(slot)


def plans_of(actor: User, bike_id: int) -> list[Any]:
    """The plans of a bike, latest first, dropped ones last."""
    plans = plans_seen_by(actor).filter(bike_id=bike_id)
    return sorted(plans, key=lambda plan: plan.state == "dropped")


def plan_builds(actor: User, stands: Standing, ids: list[int]) -> list[tuple[str, Build]]:
    """Other plans of the same bike by name, each with the bike as it plans it."""
    if not ids:
        return []
    plans = plans_seen_by(actor).filter(bike_id=stands.bike.pk, pk__in=ids).prefetch_related("changes")
    return [(plan.name, planned_build(stands.build, list(plan.changes.all()))) for plan in plans]


def changed_slots(actor: User, plan_id: int | None) -> set[str]:
    """The slots that a plan changes; nothing for no plan."""
    if plan_id is None:
        return set()
    return set(
        Change.objects.filter(plan__in=plans_seen_by(actor), plan_id=plan_id).values_list("slot", flat=True)
    )
