"""Parts that can be had: attributes as JSON, checked by the vocabulary on the way in."""

from django.core.validators import MinValueValidator
from django.db import models

from unkett.web.workshop.models import Workshop


class FitClass(models.Model):
    """Parts of one kind that are alike in everything any rule reads: checked once for all of them."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=40)
    key = models.CharField(max_length=64)
    attrs = models.JSONField(default=dict)

    class Meta:
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["workshop", "kind", "key"], name="fit_class_once"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.key[:8]}"


class LineStock(models.Model):
    """A length that lines are cut from: a roll, ready lengths, an off-cut. Without a count there is any number."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="line_stock")
    sort = models.CharField(max_length=20)
    length_mm = models.FloatField(validators=[MinValueValidator(1)])
    count = models.PositiveIntegerField(null=True, blank=True)
    offcut = models.BooleanField(default=False)

    class Meta:
        ordering = ["sort", "length_mm", "id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.sort} {self.length_mm:g}"


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
    retired = models.BooleanField(default=False)  # no longer to be had: offered nowhere, of no fit class
    version = models.PositiveIntegerField(default=1)
    fit_class = models.ForeignKey(
        FitClass, null=True, on_delete=models.PROTECT, related_name="parts", db_index=False
    )

    class Meta:
        indexes = [  # noqa: RUF012
            models.Index(fields=["workshop", "kind", "price", "id"], name="catalogue_by_price"),
            models.Index(fields=["workshop", "kind", "mass_g", "id"], name="catalogue_by_mass"),
            models.Index(fields=["workshop", "kind", "place", "id"], name="catalogue_by_place"),
            models.Index(fields=["fit_class", "price", "id"], name="catalogue_fit_price"),
        ]
        constraints = [  # noqa: RUF012
            models.CheckConstraint(condition=models.Q(price__gte=0), name="catalogue_price_not_negative"),
            models.UniqueConstraint(fields=["workshop", "kind", "maker", "name"], name="catalogue_once"),
        ]

    def __str__(self) -> str:
        return self.name
