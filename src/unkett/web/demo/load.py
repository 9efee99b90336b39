"""Loads the demonstration workshop: people, catalogue, bikes and plans, all through the same checks as users."""

from __future__ import annotations

import datetime
import json
from decimal import Decimal
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone

from unkett.core.formats.reader import build_from
from unkett.core.vocabulary import SLOTS
from unkett.devices.supplier import HOST, PORT
from unkett.devices.supplier import NAME as SUPPLIER
from unkett.local.state import load_config
from unkett.web.bikes.accepting import accept_finding
from unkett.web.bikes.complaints import complain, say
from unkett.web.bikes.lines import choose_route
from unkett.web.bikes.models import Bike, BikePart, Origin
from unkett.web.bikes.services import store_build
from unkett.web.bikes.setups import CATALOGUE, LIKE_IT, ON_IT, Source, add_set_up
from unkett.web.bin.services import Kept, enter_piece
from unkett.web.catalogue.models import CataloguePart, StockItem
from unkett.web.catalogue.services import add_parts, clear_catalogue
from unkett.web.catalogue.stock import add_stock
from unkett.web.jobs.models import Schedule
from unkett.web.jobs.schedule import ask_days
from unkett.web.jobs.services import note_job, start_job
from unkett.web.jobs.stepping import tick_step
from unkett.web.plans.links import address_of_link, answer_quote, give_link
from unkett.web.plans.models import Answer, Plan, State
from unkett.web.plans.services import empty_slot, move_plan, pick_packages, start_plan, swap_part
from unkett.web.supply.models import Order, Supplier
from unkett.web.supply.queries import to_order
from unkett.web.supply.services import arrive, keep_supplier, order_for_plan, send_order
from unkett.web.suspension.models import SuspensionRecord
from unkett.web.suspension.services import set_for_rider, write_down
from unkett.web.tasks.models import Task
from unkett.web.wear.services import read_wear
from unkett.web.workshop.models import Customer, LogEntry, Role, User, Workshop

SUPPLIER_URL = f"http://{HOST}:{PORT}"
FOLDER = Path(__file__).parent
NAME = "Ferry Yard Cycle Works"
CURRENCY = "€"
COUNTER = "Mainland Trade Counter"
PEOPLE = (
    ("rona", "Rona", Role.OWNER),
    ("eskil", "Eskil", Role.MECHANIC),
    ("tamsa", "Tamsa", Role.APPRENTICE),
    ("ulva", "Ulva", Role.FRONT_DESK),
)


def _read(name: str) -> Any:
    return json.loads((FOLDER / f"{name}.json").read_text(encoding="utf-8"))


def is_loaded() -> bool:
    return Workshop.objects.filter(demo=True).exists()


def worked_in() -> int:
    """Return how many things somebody did in the demonstration since it was loaded."""
    workshop = Workshop.objects.filter(demo=True).first()
    if workshop is None or workshop.loaded_to is None:
        return 0
    return LogEntry.objects.filter(workshop=workshop, pk__gt=workshop.loaded_to).count()


@transaction.atomic
def load() -> Workshop:
    """Replace everything in the demonstration workshop. Nothing else is touched."""
    workshop, _ = Workshop.objects.get_or_create(demo=True, defaults={"name": NAME})
    for model in (Order, Supplier, Bike, BikePart, StockItem, Customer, LogEntry, Schedule, Task):
        model.objects.filter(workshop=workshop).delete()
    clear_catalogue(workshop)
    people = {name: _person(workshop, name, first, role) for name, first, role in PEOPLE}
    catalogue = {(part.kind, part.name): part for part in add_parts(workshop, _read("catalogue"))}
    for entry in _read("bikes"):
        _bike(people, catalogue, entry)
    _bin(people["rona"], catalogue)
    ask_days(actor=people["rona"])
    last = LogEntry.objects.filter(workshop=workshop).order_by("-pk").values_list("pk", flat=True).first()
    workshop.refresh_from_db()
    workshop.loaded_to = last
    workshop.settings = {**workshop.settings, "currency": CURRENCY}
    workshop.save(update_fields=["loaded_to", "settings"])
    return workshop


def _bin(actor: User, catalogue: dict[tuple[str, str], CataloguePart]) -> None:
    """Pieces in their boxes, what is counted, and the supplier whose stand-in ships with the application."""
    held = _read("bin")
    for one in held["pieces"]:
        like = catalogue[one["kind"], one["like"]].pk if one["like"] else None
        value = None if one["value"] is None else Decimal(str(one["value"]))
        kept = Kept(box=one["box"], value=value, mass_g=one["mass_g"])
        values = {name: one[name] for name in ("kind", "name", "values", "came_from")}
        enter_piece(actor=actor, kept=kept, like=like, **values)
    for sort, name, length_mm, count, box, value in held["counted"]:
        add_stock(
            actor=actor,
            sort=sort,
            name=name,
            length_mm=length_mm,
            count=count,
            box=box,
            value=Decimal(str(value)),
        )
    keep_supplier(actor=actor, supplier_id=None, name=SUPPLIER, url=SUPPLIER_URL)


def _person(workshop: Workshop, name: str, first: str, role: str) -> User:
    taken = User.objects.filter(username=name).exclude(workshop=workshop).exists()
    user, _ = User.objects.update_or_create(
        username=f"{name}-demo" if taken else name,
        defaults={"first_name": first, "workshop": workshop, "role": role, "is_active": True},
    )
    user.set_password(load_config()["demo_password"])
    user.save(update_fields=["password"])
    return user


def _set_up(
    actor: User,
    catalogue: dict[tuple[str, str], CataloguePart],
    bike_id: int,
    wanted: dict[str, Any],
) -> None:
    """A set-up whose parts are on the bike, like the ones there, or called by their catalogue names."""
    parts = {
        slot: Source(sort=said)
        if said in (ON_IT, LIKE_IT)
        else Source(sort=CATALOGUE, part_id=catalogue[SLOTS[slot].kind, said].pk)
        for slot, said in wanted["parts"].items()
    }
    version = Bike.objects.values_list("version", flat=True).get(pk=bike_id)
    add_set_up(actor=actor, bike_id=bike_id, version=version, name=wanted["name"], parts=parts)


def _bike(
    people: dict[str, User], catalogue: dict[tuple[str, str], CataloguePart], item: dict[str, Any]
) -> None:
    words = {name: item[name] for name in ("customer", "frame_number", "wish", "complaint")}
    bike = store_build(people["rona"], build_from(item["build"]), **words)
    for part in bike.fitted.all():
        for origin in (Origin.MEASURED, Origin.ASSUMED):
            names = item[origin.value].get(part.slot, [])
            part.origins |= dict.fromkeys(names, origin)
        part.condition = item["condition"].get(part.slot, {})
        part.save(update_fields=["origins", "condition"])
    for accepted in item.get("accepted", []):
        accept_finding(actor=people["rona"], bike_id=bike.pk, version=bike.version, until=None, **accepted)
    for slot, route in item.get("routes", {}).items():
        version = Bike.objects.values_list("version", flat=True).get(pk=bike.pk)
        choose_route(actor=people["rona"], bike_id=bike.pk, version=version, slot=slot, route=route)
    for wanted in item.get("set_ups", []):
        _set_up(people["rona"], catalogue, bike.pk, wanted)
    for wanted in item.get("wear", []):
        for days_ago, km, value in wanted["readings"]:
            day = timezone.localdate() - datetime.timedelta(days=days_ago)
            what = {"slot": wanted["slot"], "sort": wanted["sort"], "value": value, "km": km, "on": day}
            read_wear(actor=people["eskil"], bike_id=bike.pk, **what)
    for row in item.get("suspension", []):
        _suspension(people["eskil"], bike.pk, **row)
    if "other_rider_kg" in item:
        version = Bike.objects.values_list("version", flat=True).get(pk=bike.pk)
        mass = item["other_rider_kg"]
        set_for_rider(
            actor=people["eskil"], bike_id=bike.pk, version=version, name=f"Rider of {mass} kg", mass_kg=mass
        )
    _search(people["eskil"], bike.pk, item.get("search", {}))
    for wanted in item["plans"]:
        actor = people[wanted["by"]]
        plan = start_plan(actor=actor, bike_id=bike.pk, name=wanted["name"])
        if "packages" in wanted:
            plan = pick_packages(actor=actor, plan_id=plan.pk, version=plan.version, codes=wanted["packages"])
        for slot, name in wanted["swaps"].items():
            where = {"actor": actor, "plan_id": plan.pk, "version": plan.version, "slot": slot}
            if name is None:
                plan = empty_slot(**where)
            else:
                plan = swap_part(**where, part_id=catalogue[SLOTS[slot].kind, name].pk)
        if "asks" in wanted:
            _customer_asks(actor, plan, wanted["asks"])
        if "job" in wanted:
            _job(people, plan, wanted["job"])


def _suspension(actor: User, bike_id: int, days_ago: int, **what: Any) -> None:
    """One end as it was written down so many days ago."""
    version = Bike.objects.values_list("version", flat=True).get(pk=bike_id)
    bike = write_down(actor=actor, bike_id=bike_id, version=version, school="fork_less", **what)
    made = timezone.now() - datetime.timedelta(days=days_ago)
    SuspensionRecord.objects.filter(pk=bike.suspension.latest("pk").pk).update(made=made)


def _search(actor: User, bike_id: int, wanted: dict[str, Any]) -> None:
    """What the rider complains of, and what checks said so far."""

    def at() -> dict[str, Any]:
        version = Bike.objects.values_list("version", flat=True).get(pk=bike_id)
        return {"actor": actor, "bike_id": bike_id, "version": version}

    if wanted:
        complain(**at(), keys=wanted["complaints"])
    for key, result in wanted.get("checks", ()):
        say(**at(), key=key, result=result)


def _customer_asks(actor: User, plan: Plan, says: str) -> None:
    """A quote that its customer has seen and asks about."""
    plan = move_plan(actor=actor, plan_id=plan.pk, version=plan.version, to=State.QUOTED)
    link = give_link(actor=actor, plan_id=plan.pk)
    answer_quote(link=address_of_link(link), answer=Answer.QUESTION, says=says, version=plan.version)


def _parts_came(actor: User, plan: Plan) -> None:
    """What a plan buys was ordered over the counter and is here."""
    refs = [change.slot for change in to_order(actor, plan.pk)]
    if not refs:
        return
    counter = actor.workshop.suppliers.filter(name=COUNTER).first() or keep_supplier(
        actor=actor, supplier_id=None, name=COUNTER, url=""
    )
    order = order_for_plan(actor=actor, plan_id=plan.pk, supplier_id=counter.pk, refs=refs)
    order = send_order(actor=actor, order_id=order.pk, version=order.version)
    for line in order.lines.all():
        order = arrive(
            actor=actor, order_id=order.pk, version=order.version, line_id=line.pk, count=line.count
        )


def _job(people: dict[str, User], plan: Plan, wanted: dict[str, Any]) -> None:
    """A job that is begun: promised for a day and hour, its first steps done."""
    plan = move_plan(actor=people["rona"], plan_id=plan.pk, version=plan.version, to=State.AGREED)
    if wanted["done"]:
        _parts_came(people["rona"], plan)
    job = start_job(actor=people["rona"], plan_id=plan.pk)
    day = timezone.localtime() + datetime.timedelta(days=wanted["in_days"])
    promised = day.replace(hour=wanted["hour"], minute=0, second=0, microsecond=0)
    note_job(
        actor=people["rona"],
        job_id=job.pk,
        version=job.version,
        promised=promised,
        parts_on=None if wanted["done"] else plan.parts_on,
        later="",
        kept="",
    )
    for step in job.steps.all()[: wanted["done"]]:
        torque = step.content["target_nm"] if step.expected.torque_only else None
        unread = "" if torque is not None or not step.content["reading"] else "no gauge at this stand"
        tick_step(
            actor=people[wanted["by"]],
            job_id=job.pk,
            step_id=step.pk,
            reading=torque,
            not_measured=unread,
            sure=True,
        )
