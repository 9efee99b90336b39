"""Plans: changes to a bike that are thought over before anything is taken apart."""

from django.db import models
from django.utils import timezone

from unkett.web.bikes.models import Bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.models import User


class State(models.TextChoices):
    DRAFT = "draft", "Draft"
    DROPPED = "dropped", "Dropped"


class Plan(models.Model):
    """A named set of changes to one bike. Every change is stored at once; `version` counts them."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="plans")
    name = models.CharField(max_length=120)
    note = models.TextField(blank=True)
    state = models.CharField(max_length=20, choices=State, default=State.DRAFT)
    version = models.PositiveIntegerField(default=1)
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    changed_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-changed", "-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name


class Change(models.Model):
    """What one slot shall hold instead: a part (a copy of its catalogue entry), or nothing."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="changes")
    slot = models.CharField(max_length=40)
    empties = models.BooleanField(default=False)
    kind = models.CharField(max_length=40, blank=True)
    name = models.CharField(max_length=200, blank=True)
    attrs = models.JSONField(default=dict, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, default=0)
    catalogue_part = models.ForeignKey(
        CataloguePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        ordering = ["id"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["plan", "slot"], name="slot_changed_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.slot}: {self.name or 'nothing'}"
