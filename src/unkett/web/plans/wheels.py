"""A planned ready-built wheel: what goes over to it from the wheel that it replaces."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from unkett.core.bike.wheels import end_of_wheel, goes_over
from unkett.web.plans.models import Plan
from unkett.web.plans.services import hold_part
from unkett.web.plans.writing import refuse_closed, write_plan
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User


def take_over(*, actor: User, plan_id: int, version: int, slot: str, slots: Iterable[str]) -> Plan:
    """Say once what goes over from the old wheel to a planned ready-built one: the rest stays with the old wheel.

    What stays with it is planned empty, unless the plan has another part there. Raises NotThere where the plan has no
    such wheel or the bike no such part.
    """

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        change = plan.changes.filter(slot=slot).exclude(also=[]).first()
        there = goes_over(plan.bike.build(list(plan.bike.fitted.all())), end_of_wheel(slot))
        wanted = list(dict.fromkeys(slots))
        if change is None or not set(wanted) <= set(there):
            raise NotThere
        for name in there:
            other = plan.changes.filter(slot=name).first()
            if name in wanted and other is not None and other.empties:
                other.delete()
            elif name not in wanted and other is None:
                hold_part(actor, plan, name, None)
        before, change.goes_over = change.goes_over, wanted
        change.save(update_fields=["goes_over"])
        return {slot: before}, {slot: wanted}

    return write_plan(actor, plan_id, version, "take over", action)
