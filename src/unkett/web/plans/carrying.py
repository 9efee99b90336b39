"""A plan becomes the bike: its changes carried out, one by one or all at once, and what came off put where it goes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import field, frozen
from django.db import transaction

from unkett.core.bike.planned import as_planned
from unkett.core.bike.wear import worn_out
from unkett.core.build import plain
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart, Origin, Where
from unkett.web.bikes.queries import settings_of
from unkett.web.bikes.writing import Parts, locked_both, write_bike
from unkett.web.plans.models import Change, Plan
from unkett.web.plans.queries import part_of
from unkett.web.plans.writing import write_plan
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require

COMES_OFF = (Where.BENCH, Where.CUSTOMER, Where.SCRAPPED)


@frozen(kw_only=True)
class _Done:
    """What a carrying out did: the part now fitted by slot, and what is said of each slot before and after."""

    fitted: dict[str, BikePart] = field(factory=dict)
    before: dict[str, Any] = field(factory=dict)
    after: dict[str, Any] = field(factory=dict)


@transaction.atomic
def apply_changes(
    *, actor: User, plan_id: int, version: int, bike_version: int, slot: str = "", goes_to: str = Where.BENCH
) -> Plan:
    """Do a change of a plan that is on the stand, or without a slot all that is left: the bike is as planned then.

    Removed parts go to the bin, to the customer or are scrapped (`goes_to`); what is worn out is scrapped.
    What a change pulls along (a
    frame that turns, a wheel laced again) is written on the parts as assumed, to be measured. A part that stands on
    another bike is taken off there first. All of it is one step that can be undone on the bike.
    """
    require(actor, "change-plans")
    if goes_to not in COMES_OFF:
        raise NotThere
    done = _Done()

    def on_plan(plan: Plan) -> tuple[Any, Any]:
        if not plan.on_stand:
            raise Refused("This plan is not on the stand.")
        changes = _to_do(plan, slot)
        _take_off_others(actor, plan, bike_version, changes)
        what = SLOTS[slot].title if slot else f"{len(changes)} changes"
        says = (
            f"{what} {'taken off' if slot and changes[0].empties else 'fitted'} as planned in {plan.called}"
        )

        def on_bike(bike: Bike, parts: Parts) -> tuple[Any, Any]:
            _on_bike(bike, parts, changes, Where(goes_to), settings_of(actor), done)
            return done.before, done.after

        write_bike(actor, plan.bike_id, bike_version, "carry out", says, on_bike)
        for change in changes:
            if change.slot in done.fitted:
                change.fitted = done.fitted[change.slot]
                change.save(update_fields=["fitted"])
        slots = [change.slot for change in changes]
        return dict.fromkeys(slots, "planned"), dict.fromkeys(slots, "done")

    return write_plan(actor, plan_id, version, "carry out", on_plan)


def _to_do(plan: Plan, slot: str) -> list[Change]:
    """Return the change of a slot, or every change that is not carried out. Refused where there is nothing to do."""
    changes = list(plan.changes.all())
    fitted = {part.slot: part for part in plan.bike.fitted.all()}
    if slot:
        changes = [change for change in changes if change.slot == slot]
        if not changes:
            raise NotThere
    left = [change for change in changes if not change.is_done(fitted)]
    if not left:
        said = SLOTS[slot].title if slot else plan.called
        raise Refused(f"{said}: this is done already.")
    return left


def _take_off_others(actor: User, plan: Plan, bike_version: int, changes: list[Change]) -> None:
    """Hold the parts that are taken from elsewhere, off the bikes they stood on. Refused where one is gone."""
    for change in changes:
        if change.part_id is None:
            continue
        part = BikePart.objects.get(pk=change.part_id)
        if part.where == Where.ON_BIKE and part.bike_id not in (None, plan.bike_id):
            _, donor = locked_both(actor, plan.bike_id, bike_version, part.bike_id)
            fitting.take_off(actor=actor, bike_id=donor.pk, version=donor.version, slot=part.slot)
        part = BikePart.objects.select_for_update().get(pk=change.part_id)
        if part.where != Where.BENCH:
            raise Refused(f"{part} is neither in the bin nor on another bike any more: plan another part.")
        change.part = part


SPENT_KINDS = frozenset(
    {"chain", "cassette", "tyre", "rotor", "rim"}
)  # worn out they are of no use to anybody


def _leaves(parts: Parts, bike: Bike, slot: str, goes_to: Where, settings: Settings) -> BikePart | None:
    """Take the part of a slot off; a worn-out one is scrapped, and a chain is kept with the cassette it ran on."""
    old = parts.in_slot(bike, slot)
    if old is None:
        return None
    spent = old.kind in SPENT_KINDS and worn_out(old.slot, old.as_part(), settings)
    if old.kind == "chain" and not spent:
        old.kept_with = parts.in_slot(bike, "cassette")
    parts.take_off(old, Where.SCRAPPED if spent and goes_to is Where.BENCH else goes_to)
    return old


def _on_bike(
    bike: Bike, parts: Parts, changes: list[Change], goes_to: Where, settings: Settings, done: _Done
) -> None:
    news = {change.slot: part_of(change) for change in changes}
    then = as_planned(bike.build(parts.on(bike)), news)
    for slot in sorted(news, key=lambda slot: slot != "chain"):  # while the cassette it ran on is there
        old = _leaves(parts, bike, slot, goes_to, settings)
        done.before[slot] = None if old is None else old.name
        new = news[slot]
        for also in new.also if new is not None else ():
            piece = _leaves(parts, bike, also, goes_to, settings)
            if piece is not None and old is not None:
                piece.kept_with = old  # the old wheel stays whole
    for change in changes:
        new = news[change.slot]
        done.after[change.slot] = None if new is None else new.name
        if change.part is not None:
            parts.put(change.part, bike, change.slot)
            done.fitted[change.slot] = change.part
        elif new is not None:
            attrs = plain(new.attrs)
            done.fitted[change.slot] = parts.enter(
                bike,
                change.slot,
                name=new.name,
                also=list(new.also),
                attrs=attrs,
                origins=dict.fromkeys(attrs, Origin.STATED) | change.origins,
                catalogue_part_id=change.catalogue_part_id,
            )
    for part in parts.on(bike):
        if part.slot in then.parts:
            _pulled_along(parts, part, then.parts[part.slot].attrs)


def _pulled_along(parts: Parts, part: Any, attrs: Mapping[str, Any]) -> None:
    """Write on a part what another part's change did to it."""
    then = plain(attrs)
    if then != part.attrs:
        kept = {
            attr: origin for attr, origin in part.origins.items() if then.get(attr) == part.attrs.get(attr)
        }
        parts.change(part, attrs=then, origins=dict.fromkeys(then, Origin.ASSUMED) | kept)
