"""What several pages take from a form or an address."""

from __future__ import annotations

from typing import Any

from django import forms

from unkett.core.errors import InputError


class FindForm(forms.Form):
    """The find field: plain words."""

    find = forms.CharField(required=False, max_length=100, strip=True)

    @classmethod
    def words(cls, data: Any) -> str:
        """Return what was typed, or nothing where it cannot be searched for."""
        form = cls(data)
        return form.cleaned_data["find"] if form.is_valid() else ""


class Money(forms.DecimalField):
    """A price, with a point or a comma."""

    widget = forms.TextInput(attrs={"inputmode": "decimal"})

    def to_python(self, value: Any) -> Any:
        return super().to_python(value.replace(",", ".") if isinstance(value, str) else value)


class VersionForm(forms.Form):
    """Which version of the thing the hand saw."""

    version = forms.IntegerField(min_value=0, widget=forms.HiddenInput)


class ReallyForm(VersionForm):
    """The same, and whether unlikely readings are kept all the same."""

    really = forms.BooleanField(required=False)


class CandidatesForm(forms.Form):
    """How parts that could go in a slot are narrowed, sorted and paged."""

    find = forms.CharField(required=False, max_length=100, strip=True)
    sort = forms.ChoiceField(
        required=False,
        choices=[("near", "nearest"), ("price", "price"), ("mass", "weight"), ("place", "place")],
    )
    here = forms.BooleanField(required=False)
    page = forms.IntegerField(required=False, min_value=1)

    @classmethod
    def wanted(cls, data: Any) -> dict[str, Any]:
        """Return what was asked for; what cannot be read counts as not asked."""
        form = cls(data)
        form.is_valid()
        read = form.cleaned_data
        return {
            "find": read.get("find", ""),
            "sort": read.get("sort") or "near",
            "here": read.get("here", False),
            "page": read.get("page") or 1,
        }


def wrong_in(form: forms.Form) -> InputError:
    """Return what is wrong in a form, by its fields."""
    return InputError.of({name: [str(says) for says in found] for name, found in form.errors.items()})


def clean(form: forms.Form) -> dict[str, Any]:
    """Return what a form holds, or InputError naming its fields."""
    if not form.is_valid():
        raise wrong_in(form)
    return form.cleaned_data


def whole_number(text: str) -> int | None:
    """Return a number of an address, or None for what is none."""
    return int(text) if text.isdecimal() and len(text) < 12 else None
