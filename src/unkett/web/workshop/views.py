"""Signing in and out, the units somebody reads, and the owner's log."""

from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from unkett.core.units import PREFERRED
from unkett.web.workshop.models import LogLine
from unkett.web.workshop.permissions import EVERYONE, allowed
from unkett.web.workshop.services import prefer_units

LOG_LINES = 200

sign_in = allowed(EVERYONE, "GET", "HEAD", "POST")(
    LoginView.as_view(template_name="workshop/sign_in.html", redirect_authenticated_user=True)
)
sign_out = allowed(EVERYONE, "POST")(LogoutView.as_view())


@allowed("see-log")
def log(request: HttpRequest) -> HttpResponse:
    """The latest actions of this workshop, or those before the line named by `to`."""
    own = LogLine.objects.filter(workshop_id=request.user.workshop_id)
    to = request.GET.get("to", "")
    if to.isdecimal() and len(to) < 19:
        own = own.filter(pk__lt=int(to))
    lines = list(own.select_related("actor").order_by("-pk")[: LOG_LINES + 1])
    return render(
        request, "workshop/log.html", {"lines": lines[:LOG_LINES], "more": len(lines) > LOG_LINES, "to": to}
    )


QUANTITIES = {"mm": "Lengths", "Nm": "Torque", "bar": "Pressure", "kg": "Mass", "km/h": "Speed"}


@allowed("own-units", "GET", "HEAD", "POST")
def units(request: HttpRequest) -> HttpResponse:
    """In which units figures are shown to whoever is signed in."""
    if request.method == "POST":
        wanted = {unit: request.POST[unit] for unit in PREFERRED if unit in request.POST}
        prefer_units(actor=request.user, units=wanted)
        return redirect("workshop:own-units")
    rows = [
        {
            "unit": unit,
            "title": QUANTITIES[unit],
            "choices": list(choices),
            "chosen": request.user.units.get(unit, unit),
        }
        for unit, choices in PREFERRED.items()
    ]
    return render(request, "workshop/units.html", {"rows": rows})
