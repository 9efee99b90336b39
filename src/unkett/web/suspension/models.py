"""What was set and read at the ends of a bike's suspension. Records are only added."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.utils import timezone

from unkett.web.bikes.models import Bike, SetUp
from unkett.web.workshop.models import User


class Posture(models.TextChoices):
    """How the rider is on the bike while the sag is read."""

    SEATED = "seated", "Seated"
    STANDING = "standing", "Standing"


class SuspensionRecord(models.Model):
    """One end as it was set: `values` by the part's attributes, what was read beside them, and why it was changed.

    Readings of two schools or postures are never compared, so a record says which it is.
    """

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="suspension")
    set_up = models.ForeignKey(SetUp, null=True, on_delete=models.SET_NULL, related_name="+")
    slot = models.CharField(max_length=40)
    made = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    school = models.CharField(max_length=20)
    posture = models.CharField(max_length=20, choices=Posture.choices)
    mass_kg = models.FloatField(null=True, blank=True)
    values = models.JSONField(default=dict)
    hit_mm = models.FloatField(null=True, blank=True)  # where the ring stood after the hardest hit
    bangs = models.BooleanField(default=False)
    tyre_bar = models.FloatField(null=True, blank=True)
    temperature_c = models.FloatField(null=True, blank=True)
    reason = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-made", "-id"]  # noqa: RUF012
        indexes = [models.Index(fields=["bike", "slot", "-made"], name="suspension_of_an_end")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.slot}, {self.made:%Y-%m-%d}"

    def value(self, name: str) -> Any:
        """Return what was set, or None where it was not written down."""
        return self.values.get(name)
