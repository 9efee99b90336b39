"""What nobody needs any more goes once a day, by the background process: what would else grow for ever."""

from __future__ import annotations

import logging
from datetime import datetime, timedelta

from django.contrib.sessions.models import Session
from django.db.models import Exists, OuterRef
from django.utils import timezone

from unkett.web.tasks.models import GOING_ON, Task
from unkett.web.workshop.models import Invitation, SecurityEvent, SignedIn

TASKS_KEPT = timedelta(days=30)
SECURITY_KEPT = timedelta(days=400)  # a year and a month: a season can be compared with the one before
INVITATIONS_KEPT = timedelta(days=30)  # after their day


def sweep(now: datetime | None = None) -> dict[str, int]:
    """Delete work that ended long ago, but the last of its sort about a thing; old lines of who got in; sessions that
    are over; invitations long past their day. How many of each.
    """
    now = now or timezone.now()
    later = Task.objects.filter(
        workshop=OuterRef("workshop"),
        sort=OuterRef("sort"),
        about_id=OuterRef("about_id"),
        pk__gt=OuterRef("pk"),
    )
    ended = Task.objects.exclude(state__in=GOING_ON).filter(Exists(later), ended__lt=now - TASKS_KEPT)
    living = Session.objects.filter(session_key=OuterRef("session_key"), expire_date__gte=now)
    old = {
        "tasks": ended,
        "security lines": SecurityEvent.objects.filter(at__lt=now - SECURITY_KEPT),
        "sign-ins": SignedIn.objects.exclude(Exists(living)),
        "sessions": Session.objects.filter(expire_date__lt=now),
        "invitations": Invitation.objects.filter(until__lt=now - INVITATIONS_KEPT),
    }
    gone = {name: rows.delete()[0] for name, rows in old.items()}
    if any(gone.values()):
        words = ", ".join(f"{count} {name}" for name, count in gone.items() if count)
        logging.getLogger("unkett.tasks").info("swept", extra={"detail": words})
    return gone
