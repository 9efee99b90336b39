"""The wear log: what was read of a part, when, at which distance, by whom and with what."""

from django.db import models
from django.utils import timezone

from unkett.core.bike.wear import sorts
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.workshop.models import User


class WearReading(models.Model):
    """One reading of a part. Readings are only added; one that was wrong is struck out and stays to be seen."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="wear")
    part = models.ForeignKey(BikePart, on_delete=models.CASCADE, related_name="wear")
    slot = models.CharField(max_length=40)
    sort = models.CharField(max_length=40)
    value = models.FloatField()
    km = models.FloatField(null=True, blank=True)
    on = models.DateField(default=timezone.localdate)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    instrument = models.CharField(max_length=60, blank=True)  # its name; empty: typed
    struck = models.BooleanField(default=False)
    # of the last reading of a part and sort: where it stood when it was read, so that the yard need not work it out
    latest = models.BooleanField(default=True)
    worn = models.BooleanField(default=False)
    due = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["on", "id"]  # noqa: RUF012
        indexes = [  # noqa: RUF012
            models.Index(fields=["bike", "part", "sort"], name="wear_of_a_part"),
            models.Index(fields=["worn", "due"], condition=models.Q(latest=True), name="wear_due"),
        ]

    def __str__(self) -> str:
        return f"{self.sort} {self.value:g}"

    @property
    def short(self) -> str:
        """What was read, without the part's name."""
        sort = sorts()[self.sort]
        return f"{sort.title} {self.value:g} {sort.unit}".strip()

    @property
    def says(self) -> str:
        """What was read, in words."""
        sort = sorts()[self.sort]
        return f"{SLOTS[self.slot].title}: {sort.title.lower()} {self.value:g} {sort.unit}".strip()
