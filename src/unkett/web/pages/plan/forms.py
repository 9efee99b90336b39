"""What a mechanic may type or press on the plan page."""

from django import forms

from unkett.web.pages.common.forms import VersionForm


class SwapForm(VersionForm):
    """The part chosen for a slot, with its plate where it wants one."""

    part = forms.IntegerField(min_value=1)
    plate = forms.IntegerField(required=False, min_value=1)


class NameForm(VersionForm):
    """What the plan is called, and why it is made."""

    name = forms.CharField(max_length=120, strip=True)
    note = forms.CharField(
        max_length=4000, required=False, strip=True, widget=forms.Textarea(attrs={"rows": 2})
    )


class StateForm(VersionForm):
    """Where the plan goes."""

    to = forms.CharField(max_length=20)


class CarryOutForm(VersionForm):
    """Which version of the bike the hand saw, too."""

    bike_version = forms.IntegerField(min_value=0)
