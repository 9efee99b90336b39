"""Suppliers, what they offer, and what was ordered from them."""

import uuid

from django.db import models
from django.utils import timezone

from unkett.web.catalogue.models import CataloguePart
from unkett.web.plans.models import Change, Plan
from unkett.web.workshop.models import User, Workshop


class Supplier(models.Model):
    """Where parts are bought. With an address it is asked for its offers; without one, orders are written by hand."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="suppliers")
    name = models.CharField(max_length=120)
    url = models.CharField(max_length=300, blank=True)
    answered_at = models.DateTimeField(null=True, blank=True)  # its last good answer
    failed_at = models.DateTimeField(null=True, blank=True)  # its last bad one, since then
    says = models.CharField(
        max_length=300, blank=True
    )  # what was wrong with it, or which offers were left out
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="supplier_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name


class Offer(models.Model):
    """What a supplier said of one part. It stands beside the workshop's own figures and never replaces them."""

    supplier = models.ForeignKey(Supplier, on_delete=models.CASCADE, related_name="offers")
    code = models.CharField(max_length=60)
    kind = models.CharField(max_length=40, blank=True)
    maker = models.CharField(max_length=80, blank=True)
    name = models.CharField(max_length=200)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    stock = models.PositiveIntegerField(null=True)
    lead_days = models.PositiveIntegerField(null=True)
    catalogue_part = models.ForeignKey(
        CataloguePart, null=True, on_delete=models.SET_NULL, related_name="offers"
    )

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["supplier", "code"], name="offer_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name


class OrderState(models.TextChoices):
    """How far an order has come."""

    DRAFT = "draft", "Draft"
    SENDING = "sending", "Being sent"
    SENT = "sent", "Sent"
    PART = "part here", "Part of it is here"
    HERE = "here", "Here"
    DROPPED = "dropped", "Discarded"


class Order(models.Model):
    """What is wanted from one supplier."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="orders")
    supplier = models.ForeignKey(Supplier, on_delete=models.PROTECT, related_name="orders")
    state = models.CharField(max_length=10, choices=OrderState, default=OrderState.DRAFT)
    reference = models.UUIDField(default=uuid.uuid4)  # sent twice, it is one order
    number = models.CharField(max_length=60, blank=True)  # the supplier's
    says = models.CharField(max_length=300, blank=True)  # why it could not be sent
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)
    sent_at = models.DateTimeField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"order {self.pk} from {self.supplier.name}"


class OrderItem(models.Model):
    """A part that is ordered, for a change of a plan or for the bin."""

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="lines")
    change = models.ForeignKey(
        Change, null=True, blank=True, on_delete=models.SET_NULL, related_name="ordered"
    )
    plan = models.ForeignKey(Plan, null=True, blank=True, on_delete=models.SET_NULL, related_name="ordered")
    catalogue_part = models.ForeignKey(CataloguePart, null=True, on_delete=models.SET_NULL, related_name="+")
    code = models.CharField(max_length=60, blank=True)
    kind = models.CharField(max_length=40, blank=True)
    what = models.CharField(max_length=120, blank=True)  # of a small part: the need that it meets
    name = models.CharField(max_length=200)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True)  # as it was offered then
    due = models.DateField(null=True, blank=True)  # when it is expected
    count = models.PositiveIntegerField(default=1)
    arrived = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["id"]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.CheckConstraint(
                condition=models.Q(arrived__lte=models.F("count")), name="no_more_than_ordered"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def left(self) -> int:
        return self.count - self.arrived
