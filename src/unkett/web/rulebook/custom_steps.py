"""A workshop's own words for the steps of the work."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from unkett.core.work.custom_steps import OwnStep, with_own
from unkett.core.work.templates import Template, shipped
from unkett.web.rulebook.models import CustomStep
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log


def custom_steps(workshop: Workshop) -> list[OwnStep]:
    rows = CustomStep.objects.filter(workshop=workshop)
    return [own_step(row.code, row.content) for row in rows]


def own_step(code: str, content: dict[str, object]) -> OwnStep:
    return OwnStep(code=code, **{**content, "after": tuple(content.get("after", ()))})  # type: ignore[arg-type]


def templates_of(workshop: Workshop) -> tuple[Template, ...]:
    """Return the steps of this workshop: those that ship with its own over them."""
    return with_own(custom_steps(workshop))


@transaction.atomic
def write_step(*, actor: User, code: str, content: dict[str, Any]) -> CustomStep:
    """Write a workshop's own words for a step, or a step of its own. Raises InputError by name; then nothing is
    stored.
    """
    require(actor, "change-steps")
    rows = {row.code: row for row in shipped()}
    if code in rows:
        row = rows[code]
        content = {**content, "does": row.does, "slot": row.slot}
    others = [one for one in custom_steps(actor.workshop) if one.code != code]
    with_own([*others, own_step(code, content)])
    made, _ = CustomStep.objects.update_or_create(
        workshop=actor.workshop, code=code, defaults={"content": content}
    )
    log(actor, "write step", made, after={"code": code, **content})
    return made


@transaction.atomic
def drop_step(*, actor: User, code: str) -> None:
    """Restore a step as it ships, or remove one of the workshop's own. Raises NotThere."""
    require(actor, "change-steps")
    row = CustomStep.objects.filter(workshop_id=actor.workshop_id, code=code).first()
    if row is None:
        raise NotThere
    log(actor, "drop step", row, before={"code": code, **row.content})
    row.delete()
    templates_of(actor.workshop)
