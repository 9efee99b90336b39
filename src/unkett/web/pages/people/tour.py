"""Going on the first tour, stop by stop, and closing it for good."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.common.tour import OFFERED, STOPS, Stop, stop_of
from unkett.web.workshop.models import User
from unkett.web.workshop.services import go_on_tour


def _address(actor: User, stop: Stop) -> str:
    if not stop.of_bike:
        return reverse(stop.page)
    bike: Bike | None = bikes_seen_by(actor).order_by("pk").first()
    return reverse(stop.page, args=[bike.pk, *filter(None, [stop.of])]) if bike else reverse("bikes:yard")


class StopForm(forms.Form):
    """The stop to go to; 0 closes the tour."""

    stop = forms.IntegerField(min_value=0, max_value=len(STOPS) + OFFERED)


@allowed("own-units", "POST")
def tour(request: Request) -> HttpResponse:
    """Go to a stop of the tour and to its page, or close the tour."""
    asked: dict[str, Any] = clean(StopForm(request.POST))
    user = go_on_tour(actor=request.user, stop=asked["stop"])
    at = stop_of(user)
    return redirect(_address(user, at[1]) if at else reverse("bikes:yard"))
