"""What a mechanic may type or press on the plan page."""

from django import forms


class VersionForm(forms.Form):
    """Every change says which version of the plan it was made on."""

    version = forms.IntegerField(min_value=0)


class SwapForm(VersionForm):
    part = forms.IntegerField(min_value=1)


class NameForm(VersionForm):
    name = forms.CharField(max_length=120, strip=True)
    note = forms.CharField(
        max_length=4000, required=False, strip=True, widget=forms.Textarea(attrs={"rows": 2})
    )
