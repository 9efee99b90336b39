"""Writes that every other app builds on: the log."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.db.models import Model

from unkett.core.errors import Fault, InputError, listed, shown
from unkett.core.units import PREFERRED
from unkett.web.workshop.models import LogLine, User
from unkett.web.workshop.permissions import require


def log(actor: User, verb: str, about: Model, before: Any = None, after: Any = None) -> None:
    """Leave one line: who did what to which thing. Call it inside the action's transaction."""
    LogLine.objects.create(
        workshop_id=actor.workshop_id,
        actor=actor,
        verb=verb,
        about=about._meta.model_name,
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
