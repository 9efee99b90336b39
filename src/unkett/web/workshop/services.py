"""Writes that every other app builds on: the log."""

from __future__ import annotations

from typing import Any

from django.db.models import Model

from unkett.web.workshop.models import LogLine, User


def log(actor: User, verb: str, about: Model, before: Any = None, after: Any = None) -> None:
    """Leave one line: who did what to which thing. Call it inside the action's transaction."""
    LogLine.objects.create(
        workshop_id=actor.workshop_id,
        actor=actor,
        verb=verb,
        about=about._meta.model_name,
        about_id=about.pk,
        before=before,
        after=after,
    )
