"""Parts that can be had: attributes as JSON, checked by the vocabulary on the way in."""

from django.core.validators import MinValueValidator
from django.db import models

from unkett.web.workshop.models import Workshop


class CataloguePart(models.Model):
    """One sort of part: its kind, dimensions, price and where it is."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="catalogue")
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=200)
    maker = models.CharField(max_length=80, blank=True)
    attrs = models.JSONField(default=dict)
    price = models.DecimalField(max_digits=9, decimal_places=2, validators=[MinValueValidator(0)])
    mass_g = models.PositiveIntegerField(null=True, blank=True)
    place = models.CharField(max_length=80, blank=True)
    days = models.PositiveSmallIntegerField(default=0)

    class Meta:
        indexes = [models.Index(fields=["workshop", "kind", "price", "id"], name="catalogue_kind")]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.CheckConstraint(condition=models.Q(price__gte=0), name="catalogue_price_not_negative"),
            models.UniqueConstraint(fields=["workshop", "kind", "maker", "name"], name="catalogue_once"),
        ]

    def __str__(self) -> str:
        return self.name
