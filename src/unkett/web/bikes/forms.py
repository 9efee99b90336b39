"""What a mechanic may type on the bike pages."""

from __future__ import annotations

from typing import Any

from django import forms

from unkett.core.calc.fields import RINGS, SPROCKETS
from unkett.core.errors import InputError
from unkett.core.figures import TOP_CADENCE_RPM
from unkett.core.finding import Verdict
from unkett.core.typed import read_typed
from unkett.core.vocabulary.types import AttributeType, Number


class FindForm(forms.Form):
    """The find field: plain words."""

    find = forms.CharField(required=False, max_length=100, strip=True)

    @classmethod
    def words(cls, data: Any) -> str:
        """What was typed, or nothing where it cannot be searched for."""
        form = cls(data)
        return form.cleaned_data["find"] if form.is_valid() else ""


class YardForm(FindForm):
    """The find field, one verdict, and which page."""

    verdict = forms.ChoiceField(required=False, choices=[(one.value, one.title) for one in Verdict])
    page = forms.IntegerField(required=False, min_value=1)

    @classmethod
    def asked(cls, data: Any) -> dict[str, Any]:
        """What was asked for; what cannot be read counts as not asked."""
        form = cls(data)
        form.is_valid()
        read = form.cleaned_data
        return {
            "find": read.get("find", ""),
            "verdict": read.get("verdict", ""),
            "page": read.get("page") or 1,
        }


class GearsForm:
    """A hill, a cadence, other plans and a typed set-up; each with what stands where nothing is typed."""

    FIELDS: dict[str, tuple[AttributeType, Any]] = {  # noqa: RUF012
        "grade": (Number(unit="%", low=-30, high=40), 8.0),
        "power": (Number(unit="", low=0, high=2000), 150.0),
        "cadence": (Number(unit="", low=10, high=200), TOP_CADENCE_RPM),
        "rings": (RINGS, None),
        "sprockets": (SPROCKETS, None),
    }

    def __init__(self, data: Any) -> None:
        self.faults: dict[str, str] = {}
        self.data = data

    def asked(self) -> dict[str, Any]:
        """Every field read; what cannot be read is told in `faults` and counts as not typed."""
        out: dict[str, Any] = {"texts": {}}
        for name, (kind, default) in self.FIELDS.items():
            text = self.data.get(name, "").strip()[:200]
            out[name], out["texts"][name] = default, text
            if text:
                try:
                    out[name] = kind.check(read_typed(text, kind), name)
                except InputError as error:
                    self.faults[name] = error.faults[0].says
        beside = self.data.getlist("beside")[:4]
        out["beside"] = [int(one) for one in beside if one.isdecimal() and len(one) < 12]
        return out


class BuildFileForm(forms.Form):
    """A build file to add a bike from."""

    file = forms.FileField(label="Build file (unkett.build/1, JSON)")


class MeasureForm(forms.Form):
    """One reading for one attribute of one part; `next` is the page it was typed on."""

    slot = forms.CharField(max_length=40)
    attr = forms.CharField(max_length=60)
    version = forms.IntegerField(min_value=0)
    value = forms.CharField(max_length=2000, strip=True)
    really = forms.BooleanField(required=False)


class KeepForm(forms.Form):
    """Which version of the bike the hand saw when it pressed Keep."""

    version = forms.IntegerField(min_value=0)
    plan = forms.IntegerField(required=False, min_value=1)
    really = forms.BooleanField(required=False)


class CutForm(forms.Form):
    """The two answers before a cut is recorded: the stack stands as it will, and the second reading."""

    version = forms.IntegerField(min_value=0)
    stands = forms.BooleanField(required=False)
    again = forms.CharField(required=False, max_length=40, strip=True)


class FirstLookForm(forms.Form):
    """What is asked before anything is measured."""

    name = forms.CharField(required=False, max_length=120, strip=True)
    use = forms.CharField(required=False, max_length=20)
    gears = forms.CharField(required=False, max_length=20)
    brakes = forms.CharField(required=False, max_length=20)
    customer = forms.CharField(required=False, max_length=120, strip=True)
    frame_number = forms.CharField(required=False, max_length=60, strip=True)
    complaint = forms.CharField(required=False, max_length=4000, strip=True)
    wish = forms.CharField(required=False, max_length=4000, strip=True)
    mass_kg = forms.CharField(required=False, max_length=20, strip=True)
    load_kg = forms.CharField(required=False, max_length=20, strip=True)
    saddle_height_mm = forms.CharField(required=False, max_length=20, strip=True)


class VersionForm(forms.Form):
    """Which version of the bike the hand saw."""

    version = forms.IntegerField(min_value=0)


class StepForm(VersionForm):
    really = forms.BooleanField(required=False)


class PartForm(VersionForm):
    """A part's name and condition, or the catalogue part that fills a slot."""

    name = forms.CharField(required=False, max_length=2000, strip=True)
    feel = forms.CharField(required=False, max_length=20)
    wear = forms.CharField(required=False, max_length=4000, strip=True)
    damage_note = forms.CharField(required=False, max_length=4000, strip=True)
    part = forms.IntegerField(required=False, min_value=1)


class EmptyForm(VersionForm):
    """Nothing is fitted in a slot, or nobody looked after all; `next` is the page it was said on."""

    empty = forms.BooleanField(required=False)


class MoveForm(VersionForm):
    to = forms.IntegerField(min_value=1)


class NameForm(forms.Form):
    name = forms.CharField(required=False, max_length=120, strip=True)


def clean(form: forms.Form) -> dict[str, Any]:
    """What a form holds, or InputError naming its fields."""
    if not form.is_valid():
        raise InputError.of(form.errors)
    return form.cleaned_data
