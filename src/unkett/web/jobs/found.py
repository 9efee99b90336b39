"""What is found on the stand: a defect, a part, something in own words; and a new part that does not fit."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal

from attrs import evolve
from django.db import transaction

from unkett.core.errors import bad
from unkett.core.intake.inspection import TICKS
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.inspection import Found, found_on, look_over, next_own
from unkett.web.bikes.models import Bike, Where
from unkett.web.bikes.queries import settings_of
from unkett.web.bin.services import leave_bin
from unkett.web.jobs.models import Job
from unkett.web.jobs.queries import locked_sheet, step_in
from unkett.web.jobs.services import update_sheet
from unkett.web.plans.models import Plan
from unkett.web.plans.pricing import price_of_plan
from unkett.web.plans.queries import planned
from unkett.web.plans.quote_items import add_found, take_off_quote
from unkett.web.plans.services import hold_part
from unkett.web.plans.writing import write_plan
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

WHY_MAX = 200
GOES = {Where.BENCH: "stays in the parts bin", Where.RETURNED: "goes back to the supplier"}


@transaction.atomic
def find_defect(
    *, actor: User, job_id: int, tick: str, slots: Sequence[str], note: str = "", given: bool = False
) -> Job:
    """A defect met on the stand: on the inspection, as a step, and on the quote to be agreed or free of charge.

    Raises InputError naming the tick, its part or its note.
    """
    if tick not in TICKS:
        raise bad("tick", "choose what was found")

    def add(bike: Bike) -> None:
        found = found_on(bike)
        known = found.get(tick)
        one = (
            evolve(known, slots=tuple(dict.fromkeys((*known.slots, *slots))))
            if known
            else Found(slots=tuple(slots), how=TICKS[tick].how, note=note)
        )
        look_over(actor=actor, bike_id=bike.pk, version=bike.version, found={**found, tick: one})

    return _found(actor, job_id, add, given=given)


@transaction.atomic
def find_own(
    *, actor: User, job_id: int, slot: str, what: str, minutes: int, price: Decimal, given: bool = False
) -> Job:
    """Something met on the stand that no tick has: in own words, with its minutes and the price of its parts.

    Raises InputError naming the field.
    """

    def add(bike: Bike) -> None:
        found = found_on(bike)
        one = Found(slots=(slot,), how="must", note=what, minutes=minutes, price=price)
        look_over(actor=actor, bike_id=bike.pk, version=bike.version, found={**found, next_own(found): one})

    return _found(actor, job_id, add, given=given)


@transaction.atomic
def find_parts(
    *, actor: User, job_id: int, version: int, parts: Mapping[str, int], given: bool = False
) -> Job:
    """Parts that turn out to be needed, by slot: planned from the catalogue, on the sheet, on the quote to be agreed.

    Raises NotThere for a slot that there is not; refused for a part that is not on offer there. Raises Conflict where
    the plan changed since.
    """
    require(actor, "change-plans")
    if not set(parts) <= set(SLOTS):
        raise NotThere

    def add(bike: Bike) -> None:
        plan = Plan.objects.get(job__pk=job_id)

        def action(plan: Plan) -> tuple[None, dict[str, str]]:
            return None, {slot: hold_part(actor, plan, slot, part_id) for slot, part_id in parts.items()}

        write_plan(actor, plan.pk, version, "find part", action)

    return _found(actor, job_id, add, given=given)


def _found(actor: User, job_id: int, add: Callable[[Bike], None], *, given: bool) -> Job:
    """Add something to a running job: the sheet is made again with its ticks, its new lines go on the quote."""
    require(actor, "change-plans")
    sheet = locked_sheet(actor, "do-steps", job_id)
    plan_id, settings = sheet.job.plan_id, settings_of(actor)
    before = {line.cause for line in price_of_plan(planned(actor, plan_id), settings)[0].lines}
    add(Bike.objects.get(pk=sheet.job.plan.bike_id))
    lines = price_of_plan(planned(actor, plan_id), settings)[0].lines
    new = [line for line in lines if line.cause not in before]
    plan = Plan.objects.select_for_update().get(pk=plan_id)
    add_found(actor, plan, new, given=given)
    log(actor, "find on stand", sheet.job, after={"found": [line.says for line in new]})
    return update_sheet(actor=actor, job_id=job_id)


@transaction.atomic
def does_not_fit(*, actor: User, job_id: int, step_id: int, why: str, goes_to: str = Where.BENCH) -> Job:
    """A planned part does not fit: its change is dropped, what was done for it undone, its quote line taken off.

    A piece that is here stays in the bin or goes back to its supplier, with the reason. Raises InputError naming `why`
    or `goes_to`; refused for a step that fits no planned part, and where the plan is carried out already.
    """
    require(actor, "change-plans")
    sheet = locked_sheet(actor, "do-steps", job_id)
    step = step_in(sheet, step_id)
    plan = Plan.objects.get(pk=sheet.job.plan_id)
    change = plan.changes.select_related("part").filter(slot=step.content["slot"], empties=False).first()
    if change is None:
        raise Refused("No planned part is fitted at this step.")
    if change.fitted_id is not None:
        raise Refused("This part is on the bike's record already: undo it there first.")
    if not 1 <= len(why.strip()) <= WHY_MAX:
        raise bad("why", f"say why it does not fit, in 1 to {WHY_MAX} characters")
    if goes_to not in GOES:
        raise bad("goes_to", "choose where the part goes")
    cause, title = f"change:{change.slot}", f"{SLOTS[change.slot].title}: {change.name}"
    part = change.part

    def action(plan: Plan) -> tuple[dict[str, str], dict[str, str]]:
        change.delete()
        take_off_quote(actor, plan, cause, title)
        return {change.slot: change.name}, {"does not fit": why.strip()}

    write_plan(actor, plan.pk, plan.version, "does not fit", action)
    if part is not None and part.where == Where.BENCH and goes_to == Where.RETURNED:
        leave_bin(actor=actor, part_id=part.pk, to=Where.RETURNED, why=why.strip())
    log(
        actor,
        "does not fit",
        sheet.job,
        after={"part": title, "why": why.strip(), "goes": GOES[Where(goes_to)]},
    )
    return update_sheet(actor=actor, job_id=job_id)
