"""What a bike is called, whose it is and what for; whether it is here, put away or removed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from unkett.core.build import Build, plain
from unkett.core.errors import Fault, InputError
from unkett.core.formats.reader import RIDER_KEYS
from unkett.core.vocabulary import BIKE, enums
from unkett.web.bikes.models import Bike, Status
from unkett.web.bikes.permissions import every_bike_of
from unkett.web.bikes.services import judge_fresh, store_build
from unkett.web.bikes.writing import Parts, locked, write_bike
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import customer_called, log

TEXTS = {"name": 120, "customer": 120, "frame_number": 60, "complaint": 2000, "wish": 2000}


def _checked(values: Mapping[str, Any]) -> dict[str, Any]:
    faults = []
    for field, most in TEXTS.items():
        if len(values[field]) > most:
            faults.append(Fault(path=field, says=f"{len(values[field])} characters; at most {most} are kept"))
    if not values["name"].strip():
        faults.append(Fault(path="name", says="enter a name"))
    if values["use"] and values["use"] not in enums.USE.codes:
        faults.append(Fault(path="use", says="choose one"))
    rider = {}
    for key, value in values["rider"].items():
        try:
            rider[key] = plain(BIKE.attributes[key].type.check(value, key))
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    return {**{name: values[name].strip() for name in TEXTS}, "use": values["use"], "rider": rider}


@transaction.atomic
def write_bike_down(*, actor: User, values: Mapping[str, Any]) -> Bike:
    """Add a bike that nobody has looked at yet: its details only. Raises InputError naming every wrong field."""
    require(actor, "change-bikes")
    clean = _checked({**dict.fromkeys(TEXTS, ""), "use": "", "rider": {}, **values})
    words = {name: clean[name] for name in ("customer", "frame_number", "complaint", "wish")}
    build = Build(name=clean["name"], use=clean["use"] or None, parts={})
    bike = store_build(actor, build, **words)
    log(actor, "add", bike, after={"name": bike.name})
    return bike


def change_bike(*, actor: User, bike_id: int, version: int, values: Mapping[str, Any]) -> Bike:
    """Write a bike's name, use, customer, frame number, what the rider says and wants, and the rider's figures again.

    `values` holds each by name, `rider` its figures by key. Raises InputError naming every wrong field.
    """
    clean = _checked(values)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        before = _in_words(bike)
        bike.customer = customer_called(actor, clean["customer"])
        for name in ("name", "use", "frame_number", "complaint", "wish"):
            setattr(bike, name, clean[name])
        bike.rider = {key: clean["rider"][key] for key in RIDER_KEYS if key in clean["rider"]}
        return before, _in_words(bike)

    return write_bike(actor, bike_id, version, "change", "the bike's details changed", action)


def _in_words(bike: Bike) -> dict[str, Any]:
    names = ("name", "use", "frame_number", "complaint", "wish")
    owner = bike.customer.name if bike.customer else ""
    return {**{name: getattr(bike, name) for name in names}, "customer": owner, "rider": bike.rider}


@transaction.atomic
def archive_bike(*, actor: User, bike_id: int, version: int, to: str) -> Bike:
    """Put a bike away, or remove it: it leaves the yard with its plans, and can be brought back as it was.

    Raises NotThere, Conflict, Refused for a way there is not.
    """
    require(actor, "change-bikes")
    bike = locked(actor, bike_id, version)
    if to not in (Status.AWAY, Status.REMOVED):
        raise Refused("A bike is put away or removed.")
    before, bike.status = bike.status, Status(to)
    bike.version += 1
    bike.undo = None
    bike.save(update_fields=["status", "version", "undo", "changed"])
    log(
        actor,
        "put away" if to == Status.AWAY else "remove",
        bike,
        before={"status": before},
        after={"status": to},
    )
    return bike


@transaction.atomic
def bring_back(*, actor: User, bike_id: int) -> Bike:
    """Bring a bike back into the yard that was put away or removed; judged again. One that is here stays as it is.

    Raises NotThere.
    """
    require(actor, "change-bikes")
    bike = every_bike_of(actor).select_for_update().filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    if bike.status == Status.HERE:
        return bike
    before, bike.status = bike.status, Status.HERE
    bike.version += 1
    judge_fresh(bike, actor)
    bike.save()
    log(actor, "bring back", bike, before={"status": before}, after={"status": bike.status})
    return bike
