"""Who gets in: the security log, what is refused for too many tries, sessions, and the signals that write them down."""

from __future__ import annotations

import datetime
import logging
import time
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.contrib.sessions.models import Session
from django.db.models import Q, QuerySet
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from unkett.web.workshop.models import SecurityEvent, SignedIn, User, Workshop

FAILURES_MOST = (
    50  # of one address in TEN, whatever the names; one account and address is stopped long before
)
TEN = datetime.timedelta(minutes=10)
FAILED = "failed sign-in"
BROWSER_MOST = 200
_log = logging.getLogger("unkett.security")


def address_of(request: HttpRequest | None) -> str:
    """Return where a request comes from; behind a proxy the server has put the asker's own address there."""
    return "" if request is None else str(request.META.get("REMOTE_ADDR", ""))[:45]


def note(
    what: str, request: HttpRequest | None, *, user: User | None = None, name: str = "", detail: str = ""
) -> None:
    """Leave a line in the security log, of the database and of the process."""
    SecurityEvent.objects.create(
        workshop_id=user.workshop_id if user else None,
        user=user,
        what=what,
        name=(name or (user.username if user else ""))[:150],
        address=address_of(request),
        detail=detail[:200],
    )
    _log.info(what, extra={"who": name or (user.username if user else ""), "detail": detail})


def too_many_tries(request: HttpRequest) -> bool:
    """Return whether an address failed so often lately that it is refused before any password is worked on."""
    lately = SecurityEvent.objects.filter(
        what=FAILED, address=address_of(request), at__gt=timezone.now() - TEN
    )
    return lately[:FAILURES_MOST].count() >= FAILURES_MOST


@receiver(user_logged_in)
def _signed_in(sender: Any, request: HttpRequest, user: User, **_: Any) -> None:
    note("sign-in", request, user=user)
    request.session["since"] = request.session["seen"] = int(time.time())
    if request.session.session_key is None:
        request.session.save()
    SignedIn.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={
            "user": user, "at": timezone.now(), "address": address_of(request),
            "browser": request.headers.get("User-Agent", "")[:BROWSER_MOST],
        },
    )  # fmt: skip


@receiver(user_logged_out)
def _signed_out(sender: Any, request: HttpRequest, user: User | None, **_: Any) -> None:
    if user is not None:
        note("sign-out", request, user=user)
        SignedIn.objects.filter(user=user, session_key=request.session.session_key or "").delete()


@receiver(user_login_failed)
def _failed(sender: Any, credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    typed = str(credentials.get("username", ""))
    user = User.objects.filter(username=typed).first()
    SecurityEvent.objects.create(
        workshop_id=user.workshop_id if user else None,
        what=FAILED,
        name=typed[:150],
        address=address_of(request),
    )
    _log.warning(FAILED, extra={"who": typed[:150]})


def security_seen_by(actor: User) -> QuerySet[SecurityEvent]:
    """Who got in and who did not, in the actor's workshop; tries with a name of nobody only where it is the only one,
    since what was typed may be another's secret.
    """
    own = Q(workshop_id=actor.workshop_id)
    if not Workshop.objects.exclude(pk=actor.workshop_id).exists():
        own |= Q(workshop=None)
    return SecurityEvent.objects.filter(own).select_related("user")


def sessions_of(user: User) -> list[SignedIn]:
    """The sessions somebody has that still live."""
    mine = list(SignedIn.objects.filter(user=user))
    living = set(
        Session.objects.filter(
            session_key__in=[one.session_key for one in mine], expire_date__gt=timezone.now()
        ).values_list("session_key", flat=True)
    )
    return [one for one in mine if one.session_key in living]


def end_sessions(user: User, but: str = "") -> int:
    """End somebody's sessions but one; how many."""
    keys = list(
        SignedIn.objects.filter(user=user).exclude(session_key=but).values_list("session_key", flat=True)
    )
    Session.objects.filter(session_key__in=keys).delete()
    SignedIn.objects.filter(session_key__in=keys).delete()
    return len(keys)
