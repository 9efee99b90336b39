"""Writing down an end as it is set, and the settings for another rider on the same bike."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from unkett.core.errors import bad
from unkett.core.suspension.ends import FULL, ends_of
from unkett.core.suspension.riders import for_rider
from unkett.core.vocabulary.kinds_suspension import SETTINGS
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import current_bike, settings_of
from unkett.web.bikes.services import put_measured, take_reading
from unkett.web.bikes.setups import ON_IT, Source, add_set_up, keep_settings, set_ups_on
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.suspension.models import Posture, SuspensionRecord
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User

TITLES = {"fork": "fork", "shock": "shock"}
MASS_KG = (10.0, 250.0)


@transaction.atomic
def write_down(
    *,
    actor: User,
    bike_id: int,
    version: int,
    slot: str,
    values: Mapping[str, Any],
    school: str,
    posture: str,
    hit_mm: float | None = None,
    bangs: bool = False,
    tyre_bar: float | None = None,
    temperature_c: float | None = None,
    reason: str = "",
) -> Bike:
    """Keep what is set and read at one end: on the part, in the set-up that is on, and as a record.

    `values` are by the part's attributes, None for what is not read. Raises InputError naming the attribute or
    `hit_mm`, NotThere for a bike or an end there is not, Conflict.
    """
    if slot not in FULL or not set(values) <= set(SETTINGS):
        raise NotThere
    on: list[Any] = []

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, slot)
        if part is None:
            raise NotThere
        _refuse_more_than_there_is(part, slot, values.get("set_sag_mm"), hit_mm)
        on.extend(set_ups_on(bike, parts.on(bike)))
        before: dict[str, Any] = {}
        after: dict[str, Any] = {}
        for name, value in values.items():
            if value is None:
                before[name], after[name] = take_reading(bike, parts, slot, name), None
            else:
                before[name], after[name] = put_measured(bike, parts, slot, name, value, really=True)
        return {slot: before}, {slot: after, **({"why": reason} if reason else {})}

    bike = write_bike(actor, bike_id, version, "measure", f"{TITLES[slot]} set", action)
    keep_settings(bike, on)
    SuspensionRecord.objects.create(
        bike=bike, set_up=on[0] if on else None, slot=slot, by=actor, school=school, posture=Posture(posture),
        mass_kg=bike.rider.get("mass_kg"), hit_mm=hit_mm, bangs=bangs, tyre_bar=tyre_bar,
        values={name: value for name, value in values.items() if value is not None},
        temperature_c=temperature_c, reason=reason,
    )  # fmt: skip
    return bike


def _refuse_more_than_there_is(part: BikePart, slot: str, sag_mm: float | None, hit_mm: float | None) -> None:
    full = part.attrs.get(FULL[slot])
    for name, value in (("set_sag_mm", sag_mm), ("hit_mm", hit_mm)):
        if full is not None and value is not None and value > full:
            raise bad(name, f"{value:g} mm is more than the {full:g} mm there are")


@transaction.atomic
def set_for_rider(*, actor: User, bike_id: int, version: int, name: str, mass_kg: float) -> Bike:
    """Make a set-up for another rider on this bike: pressures by mass, clicks as they are, no sag; a start.

    What is on now becomes a set-up of its own where it is in none, so that it can be put on again. Raises InputError
    naming `mass_kg` or `name`, Refused where nobody is known that the settings were made for.
    """
    if not MASS_KG[0] <= mass_kg <= MASS_KG[1]:
        raise bad("mass_kg", f"{mass_kg:g} given; a number from {MASS_KG[0]:g} to {MASS_KG[1]:g} kg allowed")
    stands = current_bike(actor, bike_id)
    ends = ends_of(stands.build, settings_of(actor))
    rider = stands.bike.rider.get("mass_kg")
    if rider is None:
        raise Refused("The rider of these settings is not weighed: write the mass down first.")
    if not ends:
        raise Refused("There is no suspension on this bike.")
    parts = {end.slot: Source(sort=ON_IT) for end in ends}
    if not set_ups_on(stands.bike, list(stands.fitted.values())):
        now = {end.slot: dict(end.values) for end in ends} | {"bike": {"mass_kg": rider}}
        add_set_up(
            actor=actor,
            bike_id=bike_id,
            version=version,
            name=f"Rider of {rider:g} kg",
            parts=parts,
            settings=now,
        )
        version += 1
    settings: dict[str, Any] = {end.slot: for_rider(end, mass_kg) for end in ends}
    add_set_up(
        actor=actor, bike_id=bike_id, version=version, name=name, parts=parts,
        settings={**settings, "bike": {"mass_kg": mass_kg}},
    )  # fmt: skip
    return Bike.objects.get(pk=bike_id)
