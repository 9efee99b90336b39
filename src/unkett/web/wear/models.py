"""The wear book: what was read of a part, when, at which distance, by whom and with what."""

from django.db import models
from django.utils import timezone

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

    class Meta:
        ordering = ["on", "id"]  # noqa: RUF012
        indexes = [models.Index(fields=["bike", "part", "sort"], name="wear_of_a_part")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.sort} {self.value:g}"
