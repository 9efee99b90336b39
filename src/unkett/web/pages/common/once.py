"""One-time tokens: a form pressed twice does one thing, and both presses get the same answer."""

from __future__ import annotations

import datetime
import uuid
from collections.abc import Callable

from django.db import connection, transaction
from django.http import HttpResponse, HttpResponseRedirect
from django.utils import timezone

from unkett.web.pages.common.request import Request
from unkett.web.workshop.models import SentForm, User

KEPT = datetime.timedelta(days=1)
Handler = Callable[[Request], HttpResponse]


def new_token() -> str:
    """Return a token for one form."""
    return str(uuid.uuid4())


def _token(request: Request) -> uuid.UUID | None:
    try:
        return uuid.UUID(request.POST.get("once", ""))
    except ValueError:
        return None


class _Once:
    """The second press of a form waits for the first and goes where that went; a refused form may be sent again."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        token = _token(request) if request.method == "POST" and request.user.is_authenticated else None
        if token is None:
            return self.get_response(request)
        user = request.user  # signing out forgets it
        with _held(token):
            sent = SentForm.objects.filter(token=token, user=user).first()
            if sent is not None:
                return _again(request, sent)
            response = self.get_response(request)
            if response.status_code < 400:
                _remember(user, token, response)
            return response


class _held:  # noqa: N801 - used like a function
    """Hold a token against a second request with it, in any process of the application."""

    def __init__(self, token: uuid.UUID) -> None:
        self.key = token.int >> 65  # a signed 64-bit key

    def __enter__(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("select pg_advisory_lock(%s)", [self.key])

    def __exit__(self, *error: object) -> None:
        with connection.cursor() as cursor:
            cursor.execute("select pg_advisory_unlock(%s)", [self.key])


@transaction.atomic
def _remember(user: User, token: uuid.UUID, response: HttpResponse) -> None:
    own = SentForm.objects.filter(user=user)
    own.filter(at__lt=timezone.now() - KEPT).delete()
    SentForm.objects.create(token=token, user=user, went_to=response.get("Location", "")[:500])


def _again(request: Request, sent: SentForm) -> HttpResponse:
    """Return where the first press led."""
    return HttpResponseRedirect(sent.went_to or request.headers.get("Referer", "/"))


def once(get_response: Handler) -> _Once:
    return _Once(get_response)
