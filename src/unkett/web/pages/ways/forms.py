"""The wish in a mechanic's words; it writes the wish of `docs/ways.md`."""

from __future__ import annotations

from datetime import date
from typing import Any

from django import forms
from django.utils import timezone

from unkett.core.vocabulary.enums import LEVER_ACTUATION
from unkett.core.ways.wish import BEST
from unkett.web.pages.common.forms import Money, VersionForm

BEST_WORDS = {
    "cheapest": "cheapest",
    "fewest": "fewest parts changed",
    "soonest": "soonest ready",
    "lightest": "lightest",
    "bin": "most from the bin",
}
KEEP: dict[str, tuple[str, tuple[str, ...]]] = {
    "frame": ("the frame", ("frame",)),
    "fork": ("the fork", ("fork", "headset")),
    "front_wheel": ("the front wheel", ("front_hub", "front_rim", "front_spokes")),
    "rear_wheel": ("the rear wheel", ("rear_hub", "rear_rim", "rear_spokes")),
    "tyres": ("the tyres", ("front_tyre", "rear_tyre")),
    "crank": ("crank and bracket", ("crank", "bottom_bracket", "pedals")),
    "shifters": ("the shift levers", ("rear_shifter", "front_shifter")),
    "brakes": (
        "brakes and their levers",
        tuple(
            f"{end}_{part}"
            for end in ("front", "rear")
            for part in ("brake_lever", "brake_line", "caliper", "brake_adapter", "rotor")
        ),
    ),
    "cockpit": ("bar and stem", ("stem", "handlebar", "grips", "spacers")),
    "seat": ("post and saddle", ("seatpost", "saddle", "dropper_lever", "dropper_line")),
}
OFF = ("front_derailleur", "front_shifter", "front_shift_line")
ANY = [("", "any")]


class WishForm(forms.Form):
    """What the bike should be. Nothing filled in: it is made to go."""

    speeds = forms.IntegerField(required=False, min_value=1, max_value=14, label="Sprockets at the back")
    largest = forms.IntegerField(required=False, min_value=9, max_value=60, label="Largest at least")
    rings = forms.ChoiceField(
        required=False, label="Rings at the front", choices=[*ANY, ("1", "one"), ("2", "two"), ("3", "three")]
    )
    low = forms.FloatField(required=False, min_value=0.3, max_value=20, label="Lowest gear at most")
    high = forms.FloatField(required=False, min_value=0.3, max_value=20, label="Highest gear at least")
    actuation = forms.ChoiceField(
        required=False,
        label="Brakes worked by",
        choices=[*ANY, *((code, LEVER_ACTUATION.title(code)) for code in ("cable", "hydraulic"))],
    )
    front_rotor = forms.FloatField(required=False, min_value=100, max_value=250, label="Front rotor")
    rear_rotor = forms.FloatField(required=False, min_value=100, max_value=250, label="Rear rotor")
    tyre = forms.FloatField(required=False, min_value=15, max_value=130, label="Tyres at least")
    keep = forms.MultipleChoiceField(
        required=False,
        label="Keep",
        choices=[(name, words) for name, (words, _) in KEEP.items()],
        initial=["frame", "fork"],
    )
    no_front = forms.BooleanField(required=False, label="without a front derailleur")
    money = Money(required=False, min_value=0, max_digits=8, decimal_places=2, label="Budget")
    by = forms.DateField(
        required=False, label="Ready by", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    unmeasured = forms.BooleanField(required=False, label="Allow “Not measured”")
    best = forms.MultipleChoiceField(
        required=False,
        label="Rank by",
        choices=[(name, BEST_WORDS[name]) for name in BEST],
        initial=list(BEST),
    )

    def clean_by(self) -> date | None:
        day: date | None = self.cleaned_data["by"]
        if day is not None and day < timezone.localdate():
            raise forms.ValidationError("That day is past.")
        return day

    @property
    def objectives(self) -> list[str]:
        return [name for name in BEST if name in self.cleaned_data["best"]] or [BEST[0]]

    def wish(self) -> dict[str, Any]:
        """Return the wish as `docs/ways.md` has it."""
        asked = self.cleaned_data
        rows = [
            ("cassette", "speeds", "==", asked["speeds"]),
            ("cassette", "teeth", "max>=", asked["largest"]),
            ("chainrings", "teeth", "len==", int(asked["rings"]) if asked["rings"] else None),
            ("front_caliper", "actuation", "==", asked["actuation"] or None),
            ("rear_caliper", "actuation", "==", asked["actuation"] or None),
            ("front_rotor", "diameter_mm", "==", asked["front_rotor"]),
            ("rear_rotor", "diameter_mm", "==", asked["rear_rotor"]),
            ("front_tyre", "width_mm", ">=", asked["tyre"]),
            ("rear_tyre", "width_mm", ">=", asked["tyre"]),
        ]
        gears = {
            name: value
            for name, value in (
                ("lowest_development_m_max", asked["low"]),
                ("highest_development_m_min", asked["high"]),
            )
            if value is not None
        }
        wish: dict[str, Any] = {
            "require": [
                {"slot": slot, "attr": attr, "op": op, "value": value}
                for slot, attr, op, value in rows
                if value is not None
            ],
            "keep": [slot for name in asked["keep"] for slot in KEEP[name][1]],
            "empty": list(OFF) if asked["no_front"] else [],
            "allow_unmeasured": asked["unmeasured"],
        }
        if gears:
            wish["gears"] = gears
        if asked["money"] is not None:
            wish["price_max"] = float(asked["money"])
        if asked["by"] is not None:
            wish["ready_in_days_max"] = (asked["by"] - timezone.localdate()).days
        return wish


class TakeForm(VersionForm):
    """Which card is taken."""

    card = forms.IntegerField(min_value=0)
