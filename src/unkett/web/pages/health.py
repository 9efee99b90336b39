"""`/health/`: whether this process, its database and its disk are well, for a proxy or a watcher."""

from __future__ import annotations

import datetime
import shutil
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.db import Error, connection
from django.http import JsonResponse
from django.utils import timezone

from unkett.local.state import backup_status
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.workshop.permissions import EVERYONE

FREE_LEAST = 200_000_000  # bytes; below that a night's work may not fit


def _database() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
            return bool(cursor.fetchone() == (1,))
    except Error:
        return False


def backup_state(
    status: Mapping[str, Any] | None, now: datetime.datetime | None = None
) -> dict[str, Any] | None:
    """Return how the nightly backups go: whether the last try was good, and the age of the last good one in hours.

    None where no nightly backup is made. The reason of a failure is for the terminal: this page is open to all.
    """
    if status is None:
        return None
    last = status["last_good"] and datetime.datetime.fromisoformat(status["last_good"])
    age = ((now or timezone.now()) - last).total_seconds() / 3600 if last else None
    return {"ok": not status["failed"], "last_good_hours": None if age is None else round(age, 1)}


@allowed(EVERYONE)
def health(_request: Request) -> JsonResponse:
    """200 where this process can serve, else 503; it says why, and nothing of the workshop.

    A failed backup is reported but keeps the 200: a proxy must not take a server out for it.
    """
    checks = {
        "process": True,
        "database": _database(),
        "disk": shutil.disk_usage(settings.STATE).free >= FREE_LEAST,
    }
    backup = backup_state(backup_status())
    response = JsonResponse(
        checks if backup is None else {**checks, "backup": backup},
        status=200 if all(checks.values()) else 503,
    )
    response["Cache-Control"] = "no-store"
    return response
