"""Bikes and what stands on them, slot by slot."""

from __future__ import annotations

from typing import Any

from django.db import models

from unkett.core.build import Build, Part, stored_part
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.models import Workshop


class Origin(models.TextChoices):
    """Where an attribute's value comes from; the page shows each in its own style."""

    MEASURED = "measured", "Measured here"
    STATED = "stated", "Stated by its maker"
    ASSUMED = "assumed", "Assumed"


class Feel(models.TextChoices):
    """How a bearing or a moving part feels in the hand."""

    SMOOTH = "smooth", "Smooth"
    DRY = "dry", "Dry"
    NOTCHY = "notchy", "Notchy"
    GRITTY = "gritty", "Gritty"
    LOOSE = "loose", "Loose"


class Bike(models.Model):
    """A customer's bike as it stands."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="bikes")
    name = models.CharField(max_length=120)
    use = models.CharField(max_length=20, blank=True)
    customer = models.CharField(max_length=120, blank=True)
    frame_number = models.CharField(max_length=60, blank=True)
    complaint = models.TextField(blank=True)  # what the rider says
    wish = models.TextField(blank=True)  # what the rider wants
    rider = models.JSONField(default=dict, blank=True)
    lever_hand = models.JSONField(default=dict, blank=True)
    empty = models.JSONField(default=list, blank=True)  # slots somebody looked at: nothing is fitted there
    extra = models.JSONField(default=dict, blank=True)
    parts_extra = models.JSONField(default=dict, blank=True)
    kept = models.JSONField(default=dict, blank=True)  # by calculation: what was typed there and is no part's
    undo = models.JSONField(null=True, blank=True)  # the bike before its last change
    version = models.PositiveIntegerField(default=1)
    changed = models.DateTimeField(auto_now=True)
    verdict = models.CharField(max_length=16, default="unmeasured")
    standing = models.JSONField(default=dict, blank=True)  # what the yard shows of its check
    judged_by = models.CharField(max_length=64, blank=True)  # the rules and settings the verdict is of

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        indexes = [  # noqa: RUF012
            models.Index(fields=["workshop", "verdict", "-changed", "-id"], name="bikes_by_verdict"),
            models.Index(fields=["workshop", "-changed", "-id"], name="bikes_by_change"),
            models.Index(fields=["workshop", "judged_by"], name="bikes_judged_by"),
        ]

    def __str__(self) -> str:
        return self.name

    def build(self, fitted: list[FittedPart]) -> Build:
        """The core's value of this bike, from its already fetched parts."""
        return Build(
            name=self.name,
            use=self.use or None,
            rider=self.rider,
            lever_hand=self.lever_hand,
            parts={part.slot: part.as_part() for part in fitted},
            empty=frozenset(self.empty),
            extra=self.extra,
            parts_extra=self.parts_extra,
        )


class FittedPart(models.Model):
    """The part in one slot of a bike; `also` names further slots it fills."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="fitted")
    slot = models.CharField(max_length=40)
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=200, blank=True)
    attrs = models.JSONField(default=dict, blank=True)
    origins = models.JSONField(default=dict, blank=True)
    also = models.JSONField(default=list, blank=True)
    extra = models.JSONField(default=dict, blank=True)
    condition = models.JSONField(default=dict, blank=True)  # feel, wear, damage
    catalogue_part = models.ForeignKey(
        CataloguePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bike", "slot"], name="slot_filled_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.slot}: {self.name}"

    def stored(self) -> dict[str, Any]:
        """Everything of this part as JSON, to put it back as it was."""
        return {
            "slot": self.slot, "kind": self.kind, "name": self.name, "attrs": self.attrs, "origins": self.origins,
            "also": self.also, "extra": self.extra, "condition": self.condition,
            "catalogue_part_id": self.catalogue_part_id,
        }  # fmt: skip

    def as_part(self) -> Part:
        """The core's value of this part."""
        return stored_part(self.kind, self.name, self.attrs, self.also, self.extra)
