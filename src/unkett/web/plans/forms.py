"""What a mechanic may type or press on the plan page."""

from typing import Any

from django import forms

from unkett.web.bikes.forms import VersionForm


class SwapForm(VersionForm):
    part = forms.IntegerField(min_value=1)
    plate = forms.IntegerField(required=False, min_value=1)


class NameForm(VersionForm):
    name = forms.CharField(max_length=120, strip=True)
    note = forms.CharField(
        max_length=4000, required=False, strip=True, widget=forms.Textarea(attrs={"rows": 2})
    )


class CandidatesForm(forms.Form):
    """How the drawer is narrowed, sorted and paged."""

    find = forms.CharField(required=False, max_length=100, strip=True)
    sort = forms.ChoiceField(
        required=False, choices=[("price", "price"), ("mass", "weight"), ("place", "place")]
    )
    here = forms.BooleanField(required=False)
    page = forms.IntegerField(required=False, min_value=1)

    @classmethod
    def wanted(cls, data: Any) -> dict[str, Any]:
        """What was asked for; what cannot be read counts as not asked."""
        form = cls(data)
        form.is_valid()
        clean = form.cleaned_data
        return {
            "find": clean.get("find", ""),
            "sort": clean.get("sort") or "price",
            "here": clean.get("here", False),
            "page": clean.get("page") or 1,
        }
