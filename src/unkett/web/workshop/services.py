"""Writes that every other store builds on: the log; and those of people: units, customers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction
from django.db.models import Model, QuerySet

from unkett.core.errors import Fault, InputError, bad, listed, shown
from unkett.core.units import PREFERRED
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import Customer, LogEntry, User, Workshop
from unkett.web.workshop.permissions import require

PORT_LEAST, PORT_MOST = 1024, 65535


# what entries call things whose model is named otherwise since: stored names stay
STORED_NAMES = {
    "logentry": "logline", "securityevent": "securityline", "shopname": "benchname", "quoteitem": "quoteline",
    "orderitem": "orderline", "schedule": "board", "customstep": "stepofours", "stockitem": "counted",
}  # fmt: skip


def log(actor: User, verb: str, about: Model, before: Any = None, after: Any = None) -> LogEntry:
    """Leave one line: who did what to which thing. Call it inside the action's transaction."""
    return LogEntry.objects.create(
        workshop_id=actor.workshop_id,
        actor=actor,
        verb=verb,
        about=STORED_NAMES.get(about._meta.model_name or "", about._meta.model_name or ""),
        about_id=about.pk,
        about_name=str(about)[:200],
        before=before,
        after=after,
    )


@transaction.atomic
def prefer_units(*, actor: User, units: Mapping[str, str]) -> User:
    """Set the units in which this person reads figures. Raises InputError naming a unit there is not."""
    require(actor, "own-units")
    faults = [
        Fault(
            path=unit, says=f"{shown(choice)} given; {listed(PREFERRED.get(unit, {})) or 'nothing'} allowed"
        )
        for unit, choice in units.items()
        if choice not in PREFERRED.get(unit, {})
    ]
    if faults:
        raise InputError(faults)
    user = User.objects.select_for_update().get(pk=actor.pk)
    before, user.units = user.units, {unit: choice for unit, choice in units.items() if choice != unit}
    user.save(update_fields=["units"])
    log(actor, "prefer", user, before=before, after=user.units)
    return user


@transaction.atomic
def listen_to(*, actor: User, port: int | None) -> User:
    """Set the port on their own computer where this person's pages listen to instruments; None for none."""
    require(actor, "own-units")
    if port is not None and not PORT_LEAST <= port <= PORT_MOST:
        raise bad("bridge_port", f"{port} given; {PORT_LEAST} to {PORT_MOST} allowed")
    user = User.objects.select_for_update().get(pk=actor.pk)
    before, user.bridge_port = user.bridge_port, port
    user.save(update_fields=["bridge_port"])
    log(actor, "listen", user, before={"port": before}, after={"port": port})
    return user


@transaction.atomic
def go_on_tour(*, actor: User, stop: int) -> User:
    """Set where this person is on the first tour; 0 closes it for good. Not logged: nobody else's matter."""
    require(actor, "own-units")
    User.objects.filter(pk=actor.pk).update(tour=stop)
    actor.tour = stop
    return actor


@transaction.atomic
def close_first_day(*, actor: User) -> Workshop:
    """Show the list of the first day to nobody any more."""
    require(actor, "change-people")
    workshop = Workshop.objects.select_for_update().get(pk=actor.workshop_id)
    if not workshop.first_day_closed:
        workshop.first_day_closed = True
        workshop.save(update_fields=["first_day_closed"])
        log(actor, "close first day", workshop)
    return workshop


CUSTOMER_FIELDS = {"name": 120, "reach": 200, "note": 2000}


def customers_seen_by(actor: User) -> QuerySet[Customer]:
    """Return the customers of the actor's workshop."""
    return Customer.objects.filter(workshop_id=actor.workshop_id)


def customer_called(actor: User, name: str) -> Customer | None:
    """The customer of that name, in any case; made where there is none, None for no name. Inside a transaction."""
    name = " ".join(name.split())
    if not name:
        return None
    if len(name) > CUSTOMER_FIELDS["name"]:
        raise bad("customer", f"{len(name)} characters; at most {CUSTOMER_FIELDS['name']} are kept")
    found = customers_seen_by(actor).filter(name__iexact=name).first()
    if found is None:
        found = Customer.objects.create(workshop_id=actor.workshop_id, name=name)
        log(actor, "add", found, after={"name": name})
    return found


def _checked_customer(actor: User, values: Mapping[str, str], but: int | None = None) -> dict[str, str]:
    """Return what is kept of a customer. Raises InputError beside the field."""
    clean = {field: values.get(field, "").strip() for field in CUSTOMER_FIELDS}
    faults = [
        Fault(path=field, says=f"{len(clean[field])} characters; at most {most} are kept")
        for field, most in CUSTOMER_FIELDS.items()
        if len(clean[field]) > most
    ]
    if not clean["name"]:
        faults.append(Fault(path="name", says="enter a name"))
    elif customers_seen_by(actor).filter(name__iexact=clean["name"]).exclude(pk=but or 0).exists():
        faults.append(Fault(path="name", says="another customer is called that already"))
    if faults:
        raise InputError(faults)
    return clean


@transaction.atomic
def add_customer(*, actor: User, values: Mapping[str, str]) -> Customer:
    """Write a customer down. Raises InputError beside the field."""
    require(actor, "change-customers")
    clean = _checked_customer(actor, values)
    customer = Customer.objects.create(workshop_id=actor.workshop_id, **clean)
    log(actor, "add", customer, after=clean)
    return customer


@transaction.atomic
def change_customer(*, actor: User, customer_id: int, version: int, values: Mapping[str, str]) -> Customer:
    """Change a customer's name, how to reach them, a note. Raises InputError beside the field."""
    require(actor, "change-customers")
    customer = customers_seen_by(actor).select_for_update().filter(pk=customer_id).first()
    if customer is None:
        raise NotThere
    if customer.version != version:
        raise Conflict(
            "Somebody changed this customer since you opened it. Nothing of yours was stored.", customer
        )
    clean = _checked_customer(actor, values, but=customer.pk)
    before = {field: getattr(customer, field) for field in CUSTOMER_FIELDS}
    for field, value in clean.items():
        setattr(customer, field, value)
    customer.version += 1
    customer.save()
    log(actor, "change", customer, before=before, after=clean)
    return customer


@transaction.atomic
def keep_tools(*, actor: User, missing: Iterable[str]) -> Workshop:
    """Keep which tools of the job steps the workshop does not have."""
    require(actor, "change-steps")
    workshop = Workshop.objects.select_for_update().get(pk=actor.workshop_id)
    before, workshop.tools_missing = workshop.tools_missing, sorted(set(missing))
    workshop.save(update_fields=["tools_missing"])
    log(actor, "keep tools", workshop, before={"missing": before}, after={"missing": workshop.tools_missing})
    return workshop
