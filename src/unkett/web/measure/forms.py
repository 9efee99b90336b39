"""What is pressed on the Measure pages."""

from django import forms


class PutForm(forms.Form):
    """Which standard goes on which part of which bike."""

    bike = forms.IntegerField(min_value=1)
    version = forms.IntegerField(min_value=0)
    place = forms.IntegerField(min_value=0)
    code = forms.CharField(max_length=60, strip=False)
