"""One's own account: units, instruments, password, sessions, second factor."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.contrib.auth import update_session_auth_hash
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.debug import sensitive_post_parameters

from unkett.core.errors import Fault, InputError
from unkett.core.units import PREFERRED
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.workshop import people
from unkett.web.workshop.models import SignedIn, User
from unkett.web.workshop.security import sessions_of
from unkett.web.workshop.services import listen_to, prefer_units

QUANTITIES = {"mm": "Lengths", "Nm": "Torque", "bar": "Pressure", "kg": "Mass", "km/h": "Speed"}


@frozen(kw_only=True, slots=False)
class AccountPage:
    """What somebody may set of their own."""

    actor: User
    session_key: str
    wrong: Mapping[str, Fault] = field(factory=dict)
    device: Any = None  # a second factor that waits for its first code

    @property
    def quantities(self) -> list[tuple[str, str, list[str], str]]:
        """Unit, what it measures, what it may be shown in, and what was chosen."""
        own = self.actor.units
        return [
            (unit, QUANTITIES[unit], list(choices), own.get(unit, unit))
            for unit, choices in PREFERRED.items()
        ]

    @cached_property
    def sessions(self) -> list[tuple[SignedIn, bool]]:
        """Where somebody is signed in, and whether it is here."""
        return [(one, one.session_key == self.session_key) for one in sessions_of(self.actor)]

    @property
    def confirmed(self) -> bool:
        return people.device_of(self.actor) is not None

    @property
    def typed_key(self) -> str:
        """The secret of the device as apps take it typed, in fours."""
        key = base64.b32encode(self.device.bin_key).decode().rstrip("=")
        return " ".join(key[n : n + 4] for n in range(0, len(key), 4))


def _show(request: Request, status: int = 200, **more: Any) -> HttpResponse:
    page = AccountPage(actor=request.user, session_key=request.session.session_key or "", **more)
    return answer(request, "people/units.html", page, status=status)


@allowed("own-units", "GET", "HEAD", "POST")
def units(request: Request) -> HttpResponse:
    """Show the account page; its form sets the units in which figures are shown."""
    if request.method == "POST":
        wanted = {unit: request.POST[unit] for unit in PREFERRED if unit in request.POST}
        prefer_units(actor=request.user, units=wanted)
        return redirect("workshop:own-units")
    return _show(request)


class BridgeForm(forms.Form):
    """Where the pages listen to instruments."""

    bridge_port = forms.IntegerField(required=False)


@allowed("own-units", "POST")
def bridge(request: Request) -> HttpResponse:
    """Set the port of the instruments."""
    listen_to(actor=request.user, port=clean(BridgeForm(request.POST))["bridge_port"])
    return redirect("workshop:own-units")


class PasswordForm(forms.Form):
    """The old password and the new one; no character of them is taken away."""

    old = forms.CharField(max_length=200, strip=False)
    new = forms.CharField(max_length=200, strip=False)


@sensitive_post_parameters("old", "new")
@allowed("own-units", "POST")
def password(request: Request) -> HttpResponse:
    """Change the password; the other sessions end."""
    try:
        data = clean(PasswordForm(request.POST))
        key = request.session.session_key or ""
        user = people.change_password(actor=request.user, session_key=key, **data)
    except InputError as error:
        return _show(request, 422, wrong=by_name(error.faults))
    update_session_auth_hash(request, user)
    SignedIn.objects.filter(user=user, session_key=key).update(session_key=request.session.session_key)
    return redirect("workshop:own-units")


@allowed("own-units", "POST")
def end_session(request: Request, signed_in_id: int) -> HttpResponse:
    """End another session of the same account."""
    people.end_session(actor=request.user, signed_in_id=signed_in_id)
    return redirect("workshop:own-units")


@allowed("own-units", "POST")
def begin_factor(request: Request) -> HttpResponse:
    """Begin a second factor: its secret is shown once, for an app to take over."""
    return _show(request, device=people.begin_second_factor(actor=request.user))


class CodeForm(forms.Form):
    code = forms.CharField(max_length=12, strip=True)


@allowed("own-units", "POST")
def confirm_factor(request: Request) -> HttpResponse:
    """Confirm the second factor by its first code; from now on it is required."""
    try:
        people.confirm_second_factor(actor=request.user, **clean(CodeForm(request.POST)))
    except InputError as error:
        return _show(request, 422, wrong=by_name(error.faults))
    return redirect("workshop:own-units")


class OwnPasswordForm(forms.Form):
    password = forms.CharField(max_length=200, strip=False)


@sensitive_post_parameters("password")
@allowed("own-units", "POST")
def end_factor(request: Request) -> HttpResponse:
    """End the second factor."""
    try:
        people.end_second_factor(actor=request.user, **clean(OwnPasswordForm(request.POST)))
    except InputError as error:
        return _show(
            request, 422, wrong={f"factor_{name}": fault for name, fault in by_name(error.faults).items()}
        )
    return redirect("workshop:own-units")
