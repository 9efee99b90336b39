"""Signing in and out, the units somebody reads, and the owner's log."""

from __future__ import annotations

from attrs import frozen
from django import forms
from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.units import PREFERRED
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.workshop.models import LogLine, User
from unkett.web.workshop.permissions import EVERYONE
from unkett.web.workshop.services import listen_to, prefer_units

LOG_LINES = 200
QUANTITIES = {"mm": "Lengths", "Nm": "Torque", "bar": "Pressure", "kg": "Mass", "km/h": "Speed"}

sign_in = allowed(EVERYONE, "GET", "HEAD", "POST")(
    LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True)
)
sign_out = allowed(EVERYONE, "POST")(LogoutView.as_view())


@frozen(kw_only=True)
class LogPage:
    """The latest actions, or those before the line named by `to`."""

    lines: list[LogLine]
    more: bool
    to: int | None


@allowed("see-log")
def log(request: HttpRequest) -> HttpResponse:
    """The latest actions of this workshop, or those before the line named by `to`."""
    own = LogLine.objects.filter(workshop_id=request.user.workshop_id)
    to = whole_number(request.GET.get("to", ""))
    if to is not None:
        own = own.filter(pk__lt=to)
    lines = list(own.select_related("actor").order_by("-pk")[: LOG_LINES + 1])
    page = LogPage(lines=lines[:LOG_LINES], more=len(lines) > LOG_LINES, to=to)
    return answer(request, "people/log.html", page)


@frozen(kw_only=True)
class UnitsPage:
    """In which units figures are shown to somebody."""

    actor: User

    @property
    def quantities(self) -> list[tuple[str, str, list[str], str]]:
        """Unit, what it measures, what it may be shown in, and what was chosen."""
        own = self.actor.units
        return [
            (unit, QUANTITIES[unit], list(choices), own.get(unit, unit))
            for unit, choices in PREFERRED.items()
        ]


@allowed("own-units", "GET", "HEAD", "POST")
def units(request: HttpRequest) -> HttpResponse:
    """In which units figures are shown to whoever is signed in."""
    if request.method == "POST":
        wanted = {unit: request.POST[unit] for unit in PREFERRED if unit in request.POST}
        prefer_units(actor=request.user, units=wanted)
        return redirect("workshop:own-units")
    return answer(request, "people/units.html", UnitsPage(actor=request.user))


class BridgeForm(forms.Form):
    """Where the pages listen to instruments."""

    bridge_port = forms.IntegerField(required=False)


@allowed("own-units", "POST")
def bridge(request: HttpRequest) -> HttpResponse:
    """The port of the bench's instruments."""
    listen_to(actor=request.user, port=clean(BridgeForm(request.POST))["bridge_port"])
    return redirect("workshop:own-units")
