"""`/health/`: whether this process, its database and its disk are well, for a proxy or a watcher."""

from __future__ import annotations

import shutil

from django.conf import settings
from django.db import Error, connection
from django.http import HttpRequest, JsonResponse

from unkett.web.pages.common.guard import allowed
from unkett.web.workshop.permissions import EVERYONE

FREE_LEAST = 200_000_000  # bytes; below that a night's work may not fit


def _database() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
            return cursor.fetchone() == (1,)
    except Error:
        return False


@allowed(EVERYONE)
def health(_request: HttpRequest) -> JsonResponse:
    """200 where all is well, else 503; it says which, and nothing of the workshop."""
    told = {
        "process": True,
        "database": _database(),
        "disk": shutil.disk_usage(settings.STATE).free >= FREE_LEAST,
    }
    response = JsonResponse(told, status=200 if all(told.values()) else 503)
    response["Cache-Control"] = "no-store"
    return response
