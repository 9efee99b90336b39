"""What may be typed on the page of a job: the promise, what is found, what another shop does."""

from __future__ import annotations

from django import forms

from unkett.core.intake.inspection import TICKS
from unkett.core.vocabulary import SLOTS, title_of
from unkett.web.pages.common.forms import Money, VersionForm

TICK_CHOICES = [
    ("", "choose"),
    *(
        (f"{tick.code}:{slot}", f"{title_of(slot)}: {tick.title.lower()}")
        for tick in TICKS.values()
        for slot in tick.slots
    ),
]


class NoteForm(VersionForm):
    """When a bike is promised and what is said of the job."""

    promised = forms.DateTimeField(
        required=False,
        label="Promised for",
        widget=forms.DateTimeInput(attrs={"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
    )
    parts_on = forms.DateField(
        required=False,
        label="Last part comes on",
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
    )
    later = forms.CharField(
        required=False,
        max_length=2000,
        strip=True,
        label="A later stage does",
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    kept = forms.CharField(
        required=False,
        max_length=2000,
        strip=True,
        label="Parts back or kept",
        widget=forms.Textarea(attrs={"rows": 2}),
    )


class DefectForm(forms.Form):
    """A defect of the inspection's list, found on the stand."""

    tick = forms.ChoiceField(label="What was found", choices=lambda: TICK_CHOICES)
    note = forms.CharField(required=False, max_length=400, strip=True, label="Note")
    given = forms.BooleanField(required=False, label="no charge, shown at 0")


class OwnForm(forms.Form):
    """Something else found on the stand, in own words."""

    slot = forms.ChoiceField(
        label="Part",
        choices=lambda: [("bike", "Bike"), *((name, slot.title) for name, slot in SLOTS.items())],
    )
    what = forms.CharField(max_length=200, strip=True, label="What was found")
    minutes = forms.IntegerField(min_value=0, max_value=1440, label="Minutes")
    price = Money(required=False, min_value=0, max_digits=9, decimal_places=2, label="Price of parts")
    given = forms.BooleanField(required=False, label="no charge, shown at 0")


FOUND_FORMS: dict[str, type[forms.Form]] = {"defect": DefectForm, "own": OwnForm}


class OutsideForm(forms.Form):
    """Work that another shop does."""

    what = forms.CharField(max_length=200, strip=True, label="What")
    cost = Money(required=False, min_value=0, max_digits=9, decimal_places=2, label="Cost")
    days = forms.IntegerField(min_value=0, max_value=365, label="Days")
