"""What a mechanic may type or press on the plan page."""

from django import forms

from unkett.web.pages.common.forms import Money, VersionForm


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
    """Which version of the bike the hand saw, too, and where goes what comes off."""

    bike_version = forms.IntegerField(min_value=0)
    goes_to = forms.CharField(required=False, max_length=10, empty_value="bench")


class TakeForm(VersionForm):
    """The part that is taken."""

    part = forms.IntegerField(min_value=1)


class AsThereForm(VersionForm):
    """The change of another plan that is planned here too."""

    change = forms.IntegerField(min_value=1)


class BroughtForm(VersionForm):
    """Whether the customer brings it."""

    brought = forms.BooleanField(required=False)


class TypedForm(VersionForm):
    """What a part typed here is called and costs."""

    name = forms.CharField(required=False, max_length=2000, strip=True)
    price = Money(required=False, min_value=0, max_digits=9, decimal_places=2)
    brought = forms.BooleanField(required=False)
