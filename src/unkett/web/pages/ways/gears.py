"""Gear finder: rings and sprockets that reach the wished gears, or carry the rider up the hill."""

from __future__ import annotations

from functools import cached_property

from attrs import frozen
from django import forms
from django.http import HttpResponse

from unkett.core.bike.figures import BIKE_KG
from unkett.core.ways.gear_search import GearSet, gear_search, lowest_for_hill
from unkett.core.ways.wish import GearsWanted
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans.shelf import one_of_each
from unkett.web.show.values import Shown

RIDER_KG = 75.0


class GearsForm(forms.Form):
    """The wished gears, or the hill and the rider."""

    low = forms.FloatField(required=False, min_value=0.3, max_value=20, label="Lowest gear at most")
    high = forms.FloatField(required=False, min_value=0.3, max_value=20, label="Highest gear at least")
    grade = forms.FloatField(required=False, min_value=0.5, max_value=40, label="Steepest hill")
    power = forms.FloatField(required=False, min_value=30, max_value=1000, label="Rider's power")
    mass = forms.FloatField(required=False, min_value=30, max_value=500, label="Rider, bike and load")
    cadence = forms.FloatField(required=False, min_value=20, max_value=120, label="Cadence on the hill")
    by = forms.ChoiceField(
        required=False,
        label="Ranked by",
        choices=[("step", "largest step"), ("price", "price"), ("angle", "chain angle")],
    )

    def clean(self) -> None:
        asked = self.cleaned_data
        if asked.get("grade") is not None and asked.get("power") is None and "power" not in self.errors:
            self.add_error("power", "A hill wants the rider's power beside it.")

    def wanted(self, mass_kg: float) -> GearsWanted | None:
        """Return what is wished in metres; None where nothing is."""
        asked = self.cleaned_data
        low = asked["low"]
        if asked["grade"] is not None:
            on_hill = lowest_for_hill(
                mass_kg=asked["mass"] or mass_kg,
                power_w=asked["power"],
                grade_pct=asked["grade"],
                cadence_rpm=asked["cadence"] or 60.0,
            )
            low = on_hill if low is None else min(low, on_hill)
        if low is None and asked["high"] is None:
            return None
        return GearsWanted(lowest_m_max=low, highest_m_min=asked["high"])


@frozen(kw_only=True)
class SetShown(Shown):
    """A set of gears as it is shown."""

    found: GearSet

    @property
    def picks(self) -> list[str]:
        rows = (("chainrings", self.found.rings), ("cassette", self.found.cassette))
        return [f"{slot}:{part.id}" for slot, part in rows if part]

    @property
    def rings(self) -> str:
        return self.found.rings.part.name if self.found.rings else "now"

    @property
    def cassette(self) -> str:
        return self.found.cassette.part.name if self.found.cassette else "now"

    @property
    def price(self) -> float | None:
        """The price of its parts; None where one of them has none yet."""
        priced = all(part.priced for part in (self.found.rings, self.found.cassette) if part)
        return self.found.price / 100 if priced else None


@frozen(kw_only=True, slots=False)
class GearsPage(BikePage):
    """What was wished and the sets that reach it."""

    form: GearsForm

    @property
    def mass_kg(self) -> float:
        rider = self.build.rider
        return BIKE_KG + float(rider.get("mass_kg", RIDER_KG)) + float(rider.get("load_kg", 0.0))

    @cached_property
    def wanted(self) -> GearsWanted | None:
        return self.form.wanted(self.mass_kg) if self.form.is_bound and self.form.is_valid() else None

    @cached_property
    def sets(self) -> list[SetShown]:
        if self.wanted is None:
            return []
        by = self.form.cleaned_data["by"] or "step"
        found = gear_search(self.build, self.check, one_of_each(self.actor), self.wanted, by, self.settings)
        return [SetShown(found=one) for one in found]


@allowed("see-plans")
def gears(request: Request, plan_id: int) -> HttpResponse:
    """Sets of gears for the bike as planned; what cannot be read is reported beside its field."""
    form = GearsForm(request.GET) if request.GET else GearsForm()
    page = of_plan(request, plan_id, GearsPage, "plan", form=form)
    status = 422 if form.is_bound and not form.is_valid() else 200
    return answer(request, "ways/gears.html", page, status=status)
