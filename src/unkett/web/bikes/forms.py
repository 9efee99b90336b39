"""What a mechanic may type on the bike pages."""

from __future__ import annotations

import re
from typing import Any

from django import forms

from unkett.core.units import read_reading
from unkett.core.vocabulary.types import AttributeType, Bool, Choice, Either, ListOf, Number, Pair, Whole


class FindForm(forms.Form):
    """The find field: plain words."""

    find = forms.CharField(required=False, max_length=100, strip=True)

    @classmethod
    def words(cls, data: Any) -> str:
        """What was typed, or nothing where it cannot be searched for."""
        form = cls(data)
        return form.cleaned_data["find"] if form.is_valid() else ""


class HillForm(forms.Form):
    """A hill and a power to ride it with."""

    grade = forms.FloatField(required=False, min_value=-30, max_value=40)
    power = forms.FloatField(required=False, min_value=0, max_value=2000)

    @classmethod
    def asked(cls, data: Any) -> tuple[float, float]:
        """Grade in per cent and power in watts; what cannot be read is 8 % and 150 W."""
        form = cls(data)
        form.is_valid()
        grade, power = form.cleaned_data.get("grade"), form.cleaned_data.get("power")
        return (8.0 if grade is None else grade), (150.0 if power is None else power)


class BuildFileForm(forms.Form):
    """A build file to add a bike from."""

    file = forms.FileField(label="Build file (unkett.build/1, JSON)")


class MeasureForm(forms.Form):
    """One reading for one attribute of one part."""

    slot = forms.CharField(max_length=40)
    attr = forms.CharField(max_length=60)
    version = forms.IntegerField(min_value=0)
    value = forms.CharField(max_length=200, strip=True)


def read_typed(text: str, kind: AttributeType) -> Any:
    """What was typed as the attribute's type wants it; a code stays text, for its check to refuse.

    Raises InputError for text where a number belongs.
    """
    if isinstance(kind, Bool):
        return {"yes": True, "true": True, "no": False, "false": False}.get(text.lower(), text)
    if isinstance(kind, (Number, Whole)):
        return read_reading(text, kind.unit)
    if isinstance(kind, (ListOf, Pair)):
        return [read_typed(piece, kind.item) for piece in re.split(r"[\s;·,-]+", text.strip())]
    if isinstance(kind, Either):
        return read_typed(text, kind.one) if isinstance(kind.one, Choice) else read_typed(text, kind.other)
    return text
