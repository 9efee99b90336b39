"""The first look: what the bike is for, its gears, brakes and motor, who rides it and what they say."""

from __future__ import annotations

from collections.abc import Mapping

from attrs import evolve, frozen
from django import forms
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.intake import BRAKES, GEARS, MOTORS
from unkett.core.vocabulary import BIKE, enums
from unkett.web.bikes.intake import FirstLook, first_faults, take_in
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import wrong_in
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import Field, by_name, field_of, filled_in, marked, read_all
from unkett.web.workshop.models import User

CHOICES = (
    ("use", "What is it for?", tuple(enums.USE.codes.items())),
    ("gears", "Its gears", tuple(GEARS.items())),
    ("brakes", "Its brakes", tuple(BRAKES.items())),
    ("motor", "Its motor", tuple(MOTORS.items())),
)
RIDER = ("mass_kg", "load_kg", "saddle_height_mm", "hand_span_mm")
BIKES_OFFERED = 300


class FirstLookForm(forms.Form):
    """What is asked before anything is measured."""

    name = forms.CharField(required=False, max_length=120, strip=True)
    use = forms.CharField(required=False, max_length=20)
    gears = forms.CharField(required=False, max_length=20)
    brakes = forms.CharField(required=False, max_length=20)
    motor = forms.CharField(required=False, max_length=20)
    customer = forms.CharField(required=False, max_length=120, strip=True)
    frame_number = forms.CharField(required=False, max_length=60, strip=True)
    complaint = forms.CharField(required=False, max_length=4000, strip=True)
    wish = forms.CharField(required=False, max_length=4000, strip=True)
    like = forms.CharField(required=False, max_length=120, strip=True)


@frozen(kw_only=True, slots=False)
class FirstPage:
    """The first look: what was typed, and what is wrong with it, beside the field."""

    actor: User
    typed: QueryDict
    faults: tuple[Fault, ...] = ()

    choices = CHOICES

    @property
    def wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    @property
    def rider(self) -> list[Field]:
        """What is measured of the rider."""
        return marked(filled_in([field_of(BIKE.attributes[name]) for name in RIDER], self.typed), self.faults)

    @property
    def bikes(self) -> list[Bike]:
        """The bikes that this one may be like."""
        return list(bikes_seen_by(self.actor).order_by("name").only("name")[:BIKES_OFFERED])

    def read(self) -> FirstLook:
        """Return what was typed. Raises InputError with everything that is wrong at once."""
        form = FirstLookForm(self.typed)
        faults: list[Fault] = [] if form.is_valid() else list(wrong_in(form).faults)
        data = {name: form.cleaned_data.get(name, "") for name in form.fields}
        rider, unread = read_all(self.rider)
        like, unknown = self._like(data.pop("like"))
        data["motor"] = data["motor"] or "none"
        first = FirstLook(
            rider={key: value for key, value in rider.items() if value is not None}, like=like, **data
        )
        words = {fault.path for fault in faults}
        faults += [*unread, *unknown, *(fault for fault in first_faults(first) if fault.path not in words)]
        if faults:
            raise InputError(faults)
        return first

    def _like(self, name: str) -> tuple[int | None, list[Fault]]:
        if not name:
            return None, []
        found = list(bikes_seen_by(self.actor).filter(name__iexact=name).values_list("pk", flat=True)[:2])
        if len(found) == 1:
            return found[0], []
        says = "no bike has this name" if not found else "several bikes have this name"
        return None, [Fault(path="like", says=says)]


@allowed("change-bikes", "GET", "HEAD", "POST")
def new(request: Request) -> HttpResponse:
    """The first look."""
    page = FirstPage(actor=request.user, typed=request.POST or QueryDict("motor=none"))
    if request.method != "POST":
        return answer(request, "intake/first.html", page)
    try:
        bike = take_in(actor=request.user, first=page.read())
    except InputError as error:
        return answer(request, "intake/first.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("bikes:inspection", bike.pk)
