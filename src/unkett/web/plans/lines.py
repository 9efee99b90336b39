"""The lines of a planned bike: the route that one will take."""

from __future__ import annotations

from typing import Any

from attrs import evolve

from unkett.core.bike.routes import figures_of, line_of, routes_for
from unkett.core.build import Part, plain
from unkett.core.errors import bad
from unkett.core.rules.lines import LINES
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Origin
from unkett.web.plans.models import Change, Plan
from unkett.web.plans.queries import part_of, planned_build
from unkett.web.plans.writing import refuse_closed, write_plan
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User

OF_THE_OLD = ("points_mm", "length_mm", "damage")  # what a line of another route does not take over


def choose_route(*, actor: User, plan_id: int, version: int, slot: str, route: str) -> Plan:
    """Let a planned line run by a route; a line that stays is planned new, since another route wants other lengths.

    Raises NotThere for a slot that holds no line, InputError for a route that the planned bike cannot have.
    """
    if slot not in LINES:
        raise NotThere

    def action(plan: Plan) -> tuple[Any, Any]:
        refuse_closed(plan, slot)
        now = plan.bike.build(list(plan.bike.fitted.all()))
        changes = list(plan.changes.all())
        build = planned_build(now, changes)
        allowed = dict(routes_for(slot, build))
        if route not in allowed:
            raise bad("route", f"{route!r} given; one of {', '.join(allowed)} allowed")
        change = next((one for one in changes if one.slot == slot and not one.empties), None)
        old = part_of(change) if change is not None else build.filled().get(slot)
        before = None if old is None else old.attrs.get("route")
        known = dict(old.attrs) if old is not None else {}
        if change is None:
            known = {name: value for name, value in known.items() if name not in OF_THE_OLD}
        part = evolve(old or Part(kind=SLOTS[slot].kind), attrs={**known, "route": route})
        line = line_of(build.with_part(slot, part), slot)
        attrs = plain({**part.attrs, **(figures_of(line) if line is not None else {})})
        worked = dict.fromkeys(figures_of(line), Origin.ASSUMED.value) if line is not None else {}
        if change is not None:
            change.attrs, change.origins = attrs, {**change.origins, **worked}
            change.save(update_fields=["attrs", "origins"])
        else:
            plan.changes.filter(slot=slot).delete()
            Change.objects.create(
                plan=plan, slot=slot, kind=SLOTS[slot].kind, name=f"{SLOTS[slot].title}, {allowed[route].lower()}",
                attrs=attrs, origins=worked, price=None,
            )  # fmt: skip
        return {slot: {"route": before}}, {slot: {"route": route}}

    return write_plan(actor, plan_id, version, "route", action)
