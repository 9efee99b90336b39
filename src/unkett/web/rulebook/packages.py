"""A workshop's service packages: those that ship, written over, and its own."""

from __future__ import annotations

import re
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django.db import transaction

from unkett.core.errors import Fault, InputError, nearest
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.facts import ENDS
from unkett.core.work.packages import Package, shipped_packages
from unkett.core.work.templates import shipped
from unkett.web.rulebook.models import WorkPackage
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

TITLE_MAX, SAYS_MAX, PRICE_UNDER, NUMBER_MAX = 60, 400, 100_000, 40
PACKED = (
    "look",
    "clean",
    "adjust",
    "measure",
    "check",
    "prepare",
)  # what a package may do; parts come off by `moves`


def packages_of(workshop: Workshop) -> Mapping[str, Package]:
    """Return the packages of a workshop by code: its own over those that ship, none that it left out."""
    found: dict[str, Package] = dict(shipped_packages())
    for row in WorkPackage.objects.filter(workshop=workshop):
        if row.content.get("left_out"):
            found.pop(row.code, None)
        else:
            found[row.code] = _package(row.code, row.content)
    return found


def _package(code: str, content: Mapping[str, Any]) -> Package:
    price = content.get("price")
    return Package(
        code=code,
        title=content["title"],
        says=content["says"],
        steps=tuple(content["steps"]),
        moves=tuple(content["moves"]),
        bolts=bool(content["bolts"]),
        brings=tuple(content["brings"]),
        price=None if price in (None, "") else Decimal(str(price)),
    )


def steps_for_packages() -> dict[str, str]:
    """Return the steps that a package may have, by id, each with its words."""
    found: dict[str, str] = {}
    for row in shipped():
        if row.does in PACKED and row.stage != "first" and not row.irreversible:
            found.setdefault(row.id, row.says)
    return found


@transaction.atomic
def write_package(*, actor: User, code: str, content: Mapping[str, Any]) -> WorkPackage:
    """Write a package: one that ships by its code, one of the workshop's own without one.

    Raises InputError naming the field; then nothing is stored.
    """
    require(actor, "change-steps")
    known = packages_of(actor.workshop)
    if (
        code
        and code not in known
        and not WorkPackage.objects.filter(workshop=actor.workshop, code=code).exists()
    ):
        raise NotThere
    title = str(content.get("title", "")).strip()
    made_code = code or re.sub("[^a-z0-9]+", "_", title.lower()).strip("_")[:NUMBER_MAX]
    kept = {
        "title": title,
        "says": str(content.get("says", "")).strip(),
        "steps": list(content.get("steps", ())),
        "moves": list(content.get("moves", ())),
        "bolts": bool(content.get("bolts")),
        "brings": list(content.get("brings", ())),
        "price": None if content.get("price") is None else str(content["price"]),
        "left_out": bool(content.get("left_out")),
    }
    faults = _faults(kept)
    if not code and made_code in known:
        faults.append(Fault(path="title", says="a package of this name is there already"))
    if faults:
        raise InputError(faults)
    row, _ = WorkPackage.objects.update_or_create(
        workshop=actor.workshop, code=made_code, defaults={"content": kept}
    )
    log(actor, "write package", row, after={"code": made_code, **kept})
    return row


def _faults(kept: Mapping[str, Any]) -> list[Fault]:
    found = []
    if not 1 <= len(kept["title"]) <= TITLE_MAX or not re.search("[a-zA-Z0-9]", kept["title"]):
        found.append(Fault(path="title", says=f"enter a name of 1 to {TITLE_MAX} characters"))
    if len(kept["says"]) > SAYS_MAX:
        found.append(Fault(path="says", says=f"{len(kept['says'])} characters; at most {SAYS_MAX} are kept"))
    allowed = steps_for_packages()
    for name in kept["steps"]:
        if name not in allowed:
            found.append(
                Fault(path="steps", says=f"{name} is no step of a package{nearest(name, list(allowed))}")
            )
    for name in kept["moves"]:
        slot = name.partition(" if ")[0]
        if not all(slot.replace("{end}", end) in SLOTS for end in ENDS):
            found.append(Fault(path="moves", says=f"{name} is no part{nearest(slot, list(SLOTS))}"))
    for what in kept["brings"]:
        if lookup("needs", "what").get(what, {}).get("sort") != "part":
            found.append(Fault(path="brings", says=f"{what} is no small part"))
    if kept["price"] is not None and not 0 <= Decimal(kept["price"]) < PRICE_UNDER:
        found.append(Fault(path="price", says=f"{kept['price']} given; 0 to {PRICE_UNDER} allowed"))
    if not (kept["steps"] or kept["moves"] or kept["bolts"] or kept["left_out"]):
        found.append(Fault(path="steps", says="choose at least one step"))
    return found


@transaction.atomic
def drop_package(*, actor: User, code: str) -> None:
    """Restore a package as it ships, or remove one of the workshop's own. Raises NotThere."""
    require(actor, "change-steps")
    row = WorkPackage.objects.filter(workshop_id=actor.workshop_id, code=code).first()
    if row is None:
        raise NotThere
    log(actor, "drop package", row, before={"code": code, **row.content})
    row.delete()
