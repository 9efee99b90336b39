"""Plans: changes to a bike that are thought over before anything is taken apart."""

from django.db import models
from django.utils import timezone

from unkett.web.bikes.models import Bike, BikePart
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.models import User


class State(models.TextChoices):
    """How far a plan has come."""

    DRAFT = "draft", "Draft"
    QUOTED = "quoted", "Quoted"
    AGREED = "agreed", "Agreed"
    GATHERING = "gathering", "Waiting for parts"
    READY = "ready", "Parts ready"
    ON_STAND = "on stand", "In progress"
    CHECKED = "checked", "Checked"
    HANDED_OVER = "handed over", "Handed over"
    DROPPED = "dropped", "Discarded"


# From each state where a plan may go, the usual way first. A small job may skip the quote, parts in the house the
# gathering; a step back is allowed until the bike is handed over.
MAY_GO: dict[State, tuple[State, ...]] = {
    State.DRAFT: (State.QUOTED, State.AGREED, State.DROPPED),
    State.QUOTED: (State.AGREED, State.DRAFT, State.DROPPED),
    State.AGREED: (State.GATHERING, State.ON_STAND, State.DRAFT, State.DROPPED),
    State.GATHERING: (State.READY, State.ON_STAND, State.AGREED, State.DROPPED),
    State.READY: (State.ON_STAND, State.GATHERING, State.DROPPED),
    State.ON_STAND: (State.CHECKED, State.GATHERING, State.DROPPED),
    State.CHECKED: (State.HANDED_OVER, State.ON_STAND),
    State.HANDED_OVER: (),
    State.DROPPED: (State.DRAFT,),
}


class Answer(models.TextChoices):
    """What a customer says to a quote."""

    YES = "yes", "Yes, do it"
    NO = "no", "No, leave it"
    QUESTION = "question", "I have a question"


class Plan(models.Model):
    """A named set of changes to one bike. Every change is stored at once; `version` counts them."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="plans")
    name = models.CharField(max_length=120)
    note = models.TextField(blank=True)
    state = models.CharField(max_length=20, choices=State, default=State.DRAFT)
    state_at = models.DateTimeField(default=timezone.now)
    state_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    option_of = models.ForeignKey(
        "self", null=True, blank=True, on_delete=models.SET_NULL, related_name="options"
    )  # the plan whose other options this is one of; that one is option A
    letter = models.CharField(max_length=1, blank=True)  # A, B, C where there are options
    packages = models.JSONField(default=list, blank=True)  # codes of the service packages done with it
    chosen = models.JSONField(
        default=list, blank=True
    )  # by rule and slots, which of a finding's needs is taken
    given = models.JSONField(default=list, blank=True)  # causes of its sheet that are free of charge
    promised = models.DateTimeField(null=True, blank=True)  # set when it is agreed
    parts_on = models.DateField(null=True, blank=True)  # when the last part comes; none: all are here
    moved = models.JSONField(
        default=dict, blank=True
    )  # of a promise that a later part moved: from, to and why, until somebody has reported the customer
    small_prices = models.JSONField(
        default=dict, blank=True
    )  # of small parts on this quote, by what they are
    version = models.PositiveIntegerField(default=1)
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    changed_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-changed", "-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name

    @property
    def called(self) -> str:
        """Its name, with its letter where it is one of several options."""
        return f"{self.name}, option {self.letter}" if self.letter else self.name

    @property
    def is_open(self) -> bool:
        """Whether its changes may still be changed."""
        return self.state == State.DRAFT

    @property
    def is_agreed(self) -> bool:
        """Whether its quote counts as it was agreed."""
        return self.state not in (State.DRAFT, State.QUOTED, State.DROPPED)

    @property
    def on_stand(self) -> bool:
        """Whether it is carried out now."""
        return self.state == State.ON_STAND

    @property
    def group_id(self) -> int:
        """The plan that its options have in common: option A."""
        return self.option_of_id or self.pk

    @property
    def may_go(self) -> list[State]:
        """The states it may go to, the usual one first."""
        return list(MAY_GO[State(self.state)])


class Change(models.Model):
    """What one slot shall hold instead: a part (a copy of its catalogue entry), or nothing."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="changes")
    slot = models.CharField(max_length=40)
    empties = models.BooleanField(default=False)
    kind = models.CharField(max_length=40, blank=True)
    name = models.CharField(max_length=200, blank=True)
    also = models.JSONField(default=list, blank=True)  # the other slots that it fills, such as a wheel's rim
    goes_over = models.JSONField(
        null=True, blank=True
    )  # of a wheel: the slots whose part goes over, once it is said
    attrs = models.JSONField(default=dict, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, default=0)  # none: not known yet
    catalogue_part = models.ForeignKey(
        CataloguePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    mass_g = models.PositiveIntegerField(null=True, blank=True)
    origins = models.JSONField(
        default=dict, blank=True
    )  # by attribute; what is not named is stated by its manufacturer
    brought = models.BooleanField(
        default=False
    )  # the customer brings it: it costs nothing and is not ordered
    part = models.ForeignKey(
        BikePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="wanted_by"
    )  # the very part that is taken, from the bench or off another bike
    fitted = models.ForeignKey(BikePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["id"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["plan", "slot"], name="slot_changed_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.slot}: {self.name or 'nothing'}"

    def is_done(self, parts: dict[str, BikePart]) -> bool:
        """Return whether it is carried out, by the parts that stand on the bike now, by slot."""
        if self.empties:
            return self.slot not in {slot for part in parts.values() for slot in part.slots()}
        return self.fitted_id is not None and self.fitted_id in {part.pk for part in parts.values()}


class QuoteItem(models.Model):
    """Work or a part that a quote has beside what the plan itself comes to. Given free it is shown at 0.

    Work `outside` is done by another shop within so many days; the rest is a step of the sheet.
    """

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="quote_lines")
    title = models.CharField(max_length=200)
    price = models.DecimalField(max_digits=9, decimal_places=2, default=0)
    minutes = models.PositiveIntegerField(default=0)
    given = models.BooleanField(default=False)
    later = models.BooleanField(default=False)  # found after the quote was agreed
    credit = models.BooleanField(default=False)  # taken off what was agreed, since it is not done
    cause = models.CharField(max_length=120, blank=True)  # of the sheet's, such as change:chain
    outside = models.BooleanField(default=False)
    days = models.PositiveIntegerField(default=0)  # that the work outside takes
    agreed_at = models.DateTimeField(null=True, blank=True)
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.title


class Agreement(models.Model):
    """A quote as it was agreed: never changed, whatever the plan becomes."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="agreements")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    content = models.JSONField()

    class Meta:
        ordering = ["-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"agreed {self.at:%Y-%m-%d}"


class CustomerLink(models.Model):
    """A link by which a customer sees one plan's quote or hand-over and nothing else, and may answer the quote."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="links")
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    answer = models.CharField(max_length=10, choices=Answer, blank=True)
    says = models.CharField(max_length=1000, blank=True)  # what the customer asks or adds
    answered_at = models.DateTimeField(null=True, blank=True)
    of_version = models.PositiveIntegerField(default=0)  # of the plan that was answered
    seen_at = models.DateTimeField(null=True, blank=True)  # when somebody here took the answer in

    class Meta:
        ordering = ["-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"link to {self.plan.name}"

    @property
    def is_open(self) -> bool:
        return self.withdrawn_at is None and timezone.now() < self.until


class SaleBook(models.Model):
    """A bike that the workshop builds up and sells: what it was bought for, the work in it, what it was sold for."""

    bike = models.OneToOneField(Bike, on_delete=models.CASCADE, related_name="sale_book")
    bought = models.DecimalField(max_digits=9, decimal_places=2)
    bought_on = models.DateField()
    minutes = models.PositiveIntegerField(default=0)
    on_market = models.DateField(null=True, blank=True)
    sold = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    sold_on = models.DateField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)

    def __str__(self) -> str:
        return f"book of {self.bike.name}"


class SaleLine(models.Model):
    """A part that went into such a bike at its value, or came off it as a credit."""

    book = models.ForeignKey(SaleBook, on_delete=models.CASCADE, related_name="lines")
    goes_in = models.BooleanField(default=True)
    title = models.CharField(max_length=200)
    value = models.DecimalField(max_digits=9, decimal_places=2)

    class Meta:
        ordering = ["id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.title
