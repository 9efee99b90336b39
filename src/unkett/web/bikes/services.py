"""Everything that writes bikes: one function, one action, one transaction, one log line."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.http import Http404
from django.urls import reverse

from unkett.core.build import Build, plain, read_build
from unkett.core.errors import bad
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import Bike, FittedPart, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.workshop.errors import Clash
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

BUILD_BYTES_MAX = 1_000_000


def _locked(actor: User, bike_id: int, version: int) -> Bike:
    bike = bikes_seen_by(actor).select_for_update().filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    if bike.version != version:
        says = "Somebody changed this bike since you opened it. Nothing of yours was stored; look at it as it is now."
        raise Clash(says, reverse("bikes:stand", args=[bike_id]))
    return bike


@transaction.atomic
def add_bike_from_file(*, actor: User, content: bytes) -> Bike:
    """A new bike from an `unkett.build/1` file. Raises InputError naming every fault; then nothing is stored."""
    require(actor, "change-bikes")
    if len(content) > BUILD_BYTES_MAX:
        raise bad("", f"the file has {len(content)} bytes; a build of at most {BUILD_BYTES_MAX} is read")
    build = read_build(content)
    bike = store_build(actor, build)
    log(actor, "add", bike, after={"name": bike.name})
    return bike


def store_build(actor: User, build: Build, **fields: Any) -> Bike:
    """Store a build as a new bike of the actor's workshop. Call it inside a transaction."""
    rider = {key: value for key, value in build.rider.items() if not key.startswith("x_")}
    bike = Bike.objects.create(
        workshop_id=actor.workshop_id,
        name=(build.name or "Bike without a name")[:120],
        use=build.use or "",
        rider=rider,
        lever_hand=dict(build.lever_hand),
        extra=plain(build.extra),
        **fields,
    )
    FittedPart.objects.bulk_create(
        FittedPart(
            bike=bike,
            slot=slot,
            kind=part.kind,
            name=part.name,
            attrs=plain(part.attrs),
            origins=dict.fromkeys(part.attrs, Origin.STATED),
            also=list(part.also),
            extra=plain(part.extra),
        )
        for slot, part in build.parts.items()
    )
    return bike


@transaction.atomic
def record_measure(*, actor: User, bike_id: int, version: int, slot: str, attr: str, value: Any) -> Bike:
    """Keep one measured attribute of a fitted part; the reading before stands in the log.

    Raises InputError naming the attribute for a value its declaration does not allow, Http404 for a
    bike, slot or attribute that is not there, Clash when the bike changed in between.
    """
    require(actor, "change-bikes")
    bike = _locked(actor, bike_id, version)
    part = next((part for part in bike.fitted.all() if slot == part.slot or slot in part.also), None)
    if part is None or slot not in SLOTS or attr not in KINDS[SLOTS[slot].kind].attributes:
        raise Http404
    clean = plain(KINDS[SLOTS[slot].kind].attributes[attr].type.check(value, attr))
    before = part.attrs.get(attr)
    part.attrs = {**part.attrs, attr: clean}
    part.origins = {**part.origins, attr: Origin.MEASURED}
    part.save(update_fields=["attrs", "origins"])
    bike.version += 1
    bike.save(update_fields=["version", "changed"])
    log(actor, "measure", bike, before={slot: {attr: before}}, after={slot: {attr: clean}})
    return bike
