"""Parts that can be had: attributes as JSON, checked by the vocabulary on the way in."""

from django.contrib.postgres.indexes import GinIndex
from django.core.validators import MinValueValidator
from django.db import models

from unkett.web.workshop.models import LogEntry, Workshop


class FitClass(models.Model):
    """Parts of one kind that are alike in everything any rule reads: checked once for all of them."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=40)
    key = models.CharField(max_length=64)
    also = models.JSONField(default=list, blank=True)
    attrs = models.JSONField(default=dict)
    made_from = models.CharField(max_length=16, blank=True)  # a mark of what the rules read of its kind

    class Meta:
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["workshop", "kind", "key"], name="fit_class_once"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.key[:8]}"


class StockItem(models.Model):
    """Something that is counted: a length that lines are cut from, an off-cut, a sort of small parts.

    Without a count there is any number. A row stays when none is left, so that its moves stay to be read.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="counted")
    sort = models.CharField(max_length=20)
    name = models.CharField(max_length=120, blank=True)  # of small parts
    length_mm = models.FloatField(null=True, blank=True, validators=[MinValueValidator(1)])
    count = models.PositiveIntegerField(null=True, blank=True)
    offcut = models.BooleanField(default=False)
    box = models.CharField(max_length=40, blank=True)
    value = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)  # of one

    class Meta:
        ordering = ["sort", "name", "length_mm", "id"]  # noqa: RUF012
        indexes = [models.Index(fields=["workshop", "box"], name="counted_by_box")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name or f"{self.sort} {self.length_mm:g}"


class CountMove(models.Model):
    """A line of the ledger of what is counted: how many came or went, how many were left then, and why.

    Who and when stand in the log's line. Lines are only ever added; together they make the count.
    """

    counted = models.ForeignKey(StockItem, on_delete=models.CASCADE, related_name="moves")
    line = models.ForeignKey(LogEntry, on_delete=models.CASCADE, related_name="+")
    change = models.IntegerField()
    left = models.PositiveIntegerField()
    why = models.CharField(max_length=10)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.change:+d} {self.why}"


class CataloguePart(models.Model):
    """One sort of part: its kind, dimensions, price and where it is."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="catalogue")
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=200)
    maker = models.CharField(max_length=80, blank=True)
    also = models.JSONField(
        default=list, blank=True
    )  # other kinds of one piece with it: a wheel's rim and spokes
    attrs = models.JSONField(default=dict)
    price = models.DecimalField(
        max_digits=9, decimal_places=2, null=True, validators=[MinValueValidator(0)]
    )  # none: not known yet
    mass_g = models.PositiveIntegerField(null=True, blank=True)
    place = models.CharField(max_length=80, blank=True)
    days = models.PositiveSmallIntegerField(default=0)
    retired = models.BooleanField(default=False)  # no longer to be had: offered nowhere, of no fit class
    folded = models.TextField(blank=True, editable=False)  # name, manufacturer, kind and range, folded
    starter = models.CharField(max_length=200, blank=True)  # which starter part it was loaded as
    typical = models.BooleanField(
        default=False
    )  # its figures are the starter catalogue's: nobody read a marking
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
            GinIndex(fields=["folded"], opclasses=["gin_trgm_ops"], name="catalogue_by_words"),
        ]
        constraints = [  # noqa: RUF012
            models.CheckConstraint(condition=models.Q(price__gte=0), name="catalogue_price_not_negative"),
            models.UniqueConstraint(fields=["workshop", "kind", "maker", "name"], name="catalogue_once"),
            models.UniqueConstraint(
                fields=["workshop", "starter"], condition=~models.Q(starter=""), name="starter_part_once"
            ),
        ]

    @property
    def origin(self) -> str:
        """Return where a copy of its figures comes from: assumed of a starter part that nobody checked, else stated."""
        return "assumed" if self.typical else "stated"

    def __str__(self) -> str:
        return self.name
