"""The list of a workshop's first day: what to set up, in which order, each ticked off by what is there."""

from __future__ import annotations

from attrs import frozen
from django.db.models import Exists, Q
from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.web.bikes.models import Bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.workshop.models import Invitation, User, Workshop
from unkett.web.workshop.permissions import may
from unkett.web.workshop.services import close_first_day

OWN_PRICES = "labour_per_hour"


@frozen(kw_only=True)
class ToDo:
    """One thing of the first day: where it is done, and whether it is."""

    title: str
    says: str
    url: str
    done: bool


def first_day(actor: User) -> list[ToDo]:
    """Return the list, empty once all of it is done, once it is closed, and for whoever cannot do it."""
    workshop = actor.workshop
    if workshop.first_day_closed or workshop.demo or not may(actor, "change-people"):
        return []
    own = Q(workshop=workshop)
    there = Workshop.objects.annotate(
        has_parts=Exists(CataloguePart.objects.filter(own)),
        has_others=Exists(User.objects.filter(own).exclude(pk=actor.pk)),
        has_invited=Exists(Invitation.objects.filter(own)),
        has_bikes=Exists(Bike.objects.filter(own)),
    ).get(pk=workshop.pk)
    found = [
        ToDo(
            title="Load a catalogue",
            says="Usual parts by dimension, with one press; or your own from a table.",
            url=reverse("catalogue:parts"),
            done=there.has_parts,
        ),
        ToDo(
            title="Invite colleagues",
            says="Mechanics, apprentices and the front desk, each with a link.",
            url=reverse("workshop:team"),
            done=there.has_others or there.has_invited,
        ),
        ToDo(
            title="Set your prices",
            says="Labour per hour, tax and currency: every quote counts with them.",
            url=reverse("rulebook:settings"),
            done=OWN_PRICES in workshop.settings,
        ),
        ToDo(
            title="Take in the first bike",
            says="Its kind and a few parts are enough to begin.",
            url=reverse("bikes:intake-new"),
            done=there.has_bikes,
        ),
    ]
    return [] if all(one.done for one in found) else found


@allowed("change-people", "POST")
def close(request: Request) -> HttpResponse:
    """Show the list no more."""
    close_first_day(actor=request.user)
    return redirect("bikes:yard")
