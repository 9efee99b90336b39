"""Ways for a plan: asked for, searched by the background process, taken as an option."""

from __future__ import annotations

import logging
import re
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django.db import transaction

from unkett.core.bike.overlay import left_over
from unkett.core.bike.planned import as_planned
from unkett.core.build import plain
from unkett.core.check.engine import check_again
from unkett.core.errors import CoreError
from unkett.core.rules.finding import Verdict
from unkett.core.ways.changes import Way
from unkett.core.ways.parsing import wish_from
from unkett.core.ways.search import Listed, Watch
from unkett.core.ways.ways import Ways, find_ways, way_json
from unkett.core.ways.wish import Question
from unkett.web.bikes.models import Bike
from unkett.web.bikes.queries import current_bike_of, settings_of
from unkett.web.plans.models import Plan
from unkett.web.plans.options import add_option
from unkett.web.plans.pricing import price_of, sheet_for
from unkett.web.plans.queries import plans_seen_by, to_be_taken
from unkett.web.plans.services import hold_part, hold_taken, take_off_left_over
from unkett.web.plans.shelf import (
    BENCH,
    CATALOGUE,
    LACE,
    TAKE_OFF_MINUTES,
    labour_cents,
    needs_here,
    relaced,
    row_of,
    shelf_of,
    stands_g,
)
from unkett.web.plans.writing import refuse_closed, write_plan
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report, ask_for, tasks_seen_by
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require

WAYS = "ways"
PICK = rf"({CATALOGUE}|{BENCH})\d{{1,12}}|{LACE}(front|rear)"
SECONDS = 30.0
GEARED = ("chainrings", "cassette", "crank", "rear_hub", "rear_rim", "rear_tyre")  # what gears are made of
MORE = 2


def ask_ways(
    *,
    actor: User,
    plan_id: int,
    wish: Mapping[str, Any],
    best: list[str],
    typed: Mapping[str, Any] | None = None,
) -> Task:
    """Ask for the ways from the plan's bike now to a wish; `typed` is the form it was written in.

    Raises NotThere, InputError by path.
    """
    require(actor, "change-plans")
    plan = plans_seen_by(actor).filter(pk=plan_id).first()
    if plan is None:
        raise NotThere
    wish_from(wish, frozenset())
    asked = {"wish": plain(dict(wish)), "best": best, "typed": dict(typed or {})}
    return ask_for(actor=actor, sort=WAYS, about_id=plan.pk, asked=asked)


def ways_asked(actor: User, plan_id: int) -> Task | None:
    """Return the last search for this plan."""
    return tasks_seen_by(actor).filter(sort=WAYS, about_id=plan_id).order_by("-pk").first()


def question_of(actor: User, plan: Plan, asked: Mapping[str, Any]) -> Question:
    """Return the question that was asked, with the bike and the shelf as they are now."""
    settings = settings_of(actor)
    stands = current_bike_of(plan.bike, settings)
    build = stands.build
    return Question(
        build=build,
        wish=wish_from(asked["wish"], frozenset()),
        shelf=shelf_of(actor, build),
        needs=needs_here(),
        stands_g=stands_g(stands.fitted),
        take_off_minutes=TAKE_OFF_MINUTES,
        labour_per_hour=labour_cents(settings),
        best=tuple(asked["best"]),
        more=MORE,
        seconds=SECONDS,
        settings=settings,
    )


def search_ways(task: Task, report: Report) -> Any:
    """Return the background process's part: search, telling what is found on the way."""
    actor = task.made_by
    plan = plans_seen_by(actor).select_related("bike").filter(pk=task.about_id).first() if actor else None
    if actor is None or plan is None:
        raise NotThere
    question = question_of(actor, plan, task.asked)

    def better(best: str, way: Way) -> None:
        report.found({"so_far": {"best": best, "price": way.charged / 100, "changes": way.count}})

    found = find_ways(question, Watch(better=better, unwanted=report.unwanted))
    out: dict[str, Any] = {"cards": [_card(plan.bike, question, found, listed) for listed in found.ways]}
    if found.stuck is not None:
        frees = [{"says": free.says, **free.to_json()} for free in found.stuck.free_by]
        out["stuck"] = {**found.stuck.to_json(), "free_by": frees}
    return out


def _card(bike: Bike, question: Question, found: Ways, listed: Listed) -> dict[str, Any]:
    """A way with what its card shows beside what `./unkett plan` tells: names, what it adds on the bike, the total and
    minutes that its quote will have.
    """
    way = listed.way
    laced = {part.id for part in relaced(question.build)}
    changes = {
        slot: part.part if part else None
        for slot, part in way.changes.items()
        if part is None or part.id not in laced
    }
    spare = [
        slot
        for slot in left_over(question.build, as_planned(question.build, changes))
        if slot not in question.wish.keep
    ]
    changes |= dict.fromkeys(spare)
    build = as_planned(question.build, changes)
    laid = check_again(found.baseline.check, question.build, build, question.settings)
    said = {(*finding.about, finding.says) for finding in way.check.findings}
    beyond = [
        finding.says
        for finding in laid.findings
        if finding.verdict in (Verdict.NO_GO, Verdict.UNMEASURED)
        and (*finding.about, finding.says) not in said
    ]
    names = {
        part.id: row_of(part) | ({"attrs": plain(dict(part.part.attrs))} if slot in GEARED else {})
        for slot, part in way.changes.items()
        if part
    }
    card = {**way_json(question, found.baseline, listed), "parts": names, "beyond": beyond}
    card["changes"] += [
        {"slot": slot, "out": question.build.filled()[slot].name, "in": None} for slot in spare
    ]
    try:
        sheet = sheet_for(bike, question.build, build, question.settings, changed=list(changes))
    except CoreError:
        logging.getLogger("unkett.jobs").exception("no sheet for a way of bike %s", bike.pk)
        return card  # the card tells the parts and usual minutes
    prices = {slot: Decimal(part.price) / 100 for slot, part in way.changes.items() if part and part.priced}
    price = price_of(sheet, question.settings, prices)
    sums = {"total": float(price.total), "sheet_minutes": price.minutes, "ready_minutes": sheet.ready_minutes}
    return card | sums


@transaction.atomic
def take_way(*, actor: User, plan_id: int, version: int, task_id: int, card: int) -> Plan:
    """Take a way that was found as another option of the plan. Raises NotThere; refused where a part is gone."""
    require(actor, "change-plans")
    task = tasks_seen_by(actor).filter(pk=task_id, sort=WAYS, about_id=plan_id).first()
    cards = ((task.found or {}).get("cards") if task else None) or []
    if not 0 <= card < len(cards):
        raise NotThere
    option = add_option(actor=actor, plan_id=plan_id, version=version)

    def action(plan: Plan) -> tuple[Any, Any]:
        plan.changes.all().delete()
        for change in cards[card]["changes"]:
            _take(actor, plan, change["slot"], change["in"])
        return None, {change["slot"]: change["in"] for change in cards[card]["changes"]}

    return write_plan(actor, option.pk, option.version, "take way", action)


def plan_picks(*, actor: User, plan_id: int, version: int, picks: Mapping[str, str]) -> Plan:
    """Plan parts of the shelf by slot, all of them or none. Raises NotThere; refused where one is gone."""

    def action(plan: Plan) -> tuple[Any, Any]:
        for slot, name in picks.items():
            refuse_closed(plan, slot)
            _take(actor, plan, slot, name)
        for change in plan.changes.exclude(also=[]):  # the slots that a wheel fills are not left empty
            plan.changes.filter(slot__in=change.also, empties=True).delete()
        return None, {**picks, **take_off_left_over(plan, picks)}

    return write_plan(actor, plan_id, version, "pick", action)


def _take(actor: User, plan: Plan, slot: str, name: str | None) -> None:
    """One change of a way as a change of a plan; a wheel is laced again by the hub or rim that asks for it."""
    if name is not None and not re.fullmatch(PICK, name):
        raise NotThere
    if name is None:
        hold_part(actor, plan, slot, None)
    elif name.startswith(LACE):
        return
    elif name.startswith(BENCH):
        part = to_be_taken(actor, plan, slot).filter(pk=int(name[len(BENCH) :])).first()
        if part is None:
            raise Refused("A part of that way is no longer in the bin. Search again.")
        hold_taken(plan, slot, part)
    else:
        hold_part(actor, plan, slot, int(name[len(CATALOGUE) :]))
