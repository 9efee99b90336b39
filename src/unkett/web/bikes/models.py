"""Bikes and what stands on them, slot by slot."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from django.db import models
from django.db.models.functions import MD5, Cast

from unkett.core.build import Build, Part, Settled
from unkett.core.formats.reader import stored_part
from unkett.core.vocabulary import KINDS
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.models import Customer, LogEntry, Workshop


class Origin(models.TextChoices):
    """Where an attribute's value comes from; the page shows each in its own style."""

    MEASURED = "measured", "Measured here"
    STATED = "stated", "Stated by its manufacturer"
    ASSUMED = "assumed", "Assumed"
    ALIKE = "alike", "Taken over from one like it"


class Feel(models.TextChoices):
    """How a bearing or a moving part feels in the hand."""

    SMOOTH = "smooth", "Smooth"
    DRY = "dry", "Dry"
    NOTCHY = "notchy", "Notchy"
    GRITTY = "gritty", "Gritty"
    LOOSE = "loose", "Loose"


class Where(models.TextChoices):
    """Where a physical part is."""

    ON_BIKE = "on bike", "On a bike"
    BENCH = "bench", "In the bin"
    ASIDE = "aside", "Set aside with its bike"
    CUSTOMER = "customer", "Given to the customer"
    SOLD = "sold", "Sold"
    RETURNED = "returned", "Sent back to where it was bought"
    MISSING = "missing", "Not found when the bin was counted"
    SCRAPPED = "scrapped", "Scrapped"
    NEVER = "never", "Never was: its entry was undone"


class Status(models.TextChoices):
    """Whether a bike is in the yard."""

    HERE = "here", "Here"
    AWAY = "away", "Put away"
    REMOVED = "removed", "Removed"


class Bike(models.Model):
    """A customer's bike as it stands."""

    status = models.CharField(max_length=8, choices=Status, default=Status.HERE)
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="bikes")
    name = models.CharField(max_length=120)
    use = models.CharField(max_length=20, blank=True)
    customer = models.ForeignKey(
        Customer, null=True, blank=True, on_delete=models.SET_NULL, related_name="bikes"
    )
    frame_number = models.CharField(max_length=60, blank=True)
    complaint = models.TextField(blank=True)  # what the rider says
    wish = models.TextField(blank=True)  # what the rider wants
    rider = models.JSONField(default=dict, blank=True)
    lever_hand = models.JSONField(default=dict, blank=True)
    empty = models.JSONField(default=list, blank=True)  # slots somebody looked at: nothing is fitted there
    extra = models.JSONField(default=dict, blank=True)
    parts_extra = models.JSONField(default=dict, blank=True)
    looked = models.JSONField(default=dict, blank=True)  # by tick of the inspection: slot, how, note, by, on
    search = models.JSONField(
        default=dict, blank=True
    )  # complaints and what was asked of them, see complaints.py
    kept = models.JSONField(default=dict, blank=True)  # by calculation: what was typed there and is no part's
    accepted = models.JSONField(
        default=list, blank=True
    )  # findings somebody took as they are, see accepting.py
    settled = models.JSONField(
        default=list, blank=True
    )  # needs that were met: rule, slots, what, and by slot the piece it was met with
    accepted_until = models.DateField(
        null=True, blank=True
    )  # the first day one of them ends: judged again after
    undo = models.JSONField(null=True, blank=True)  # its last change: the log's line, and what is no part's
    version = models.PositiveIntegerField(default=1)
    changed = models.DateTimeField(auto_now=True)
    verdict = models.CharField(max_length=16, default="unmeasured")
    summary = models.JSONField(default=dict, blank=True)  # what the yard shows of its check
    judged_by = models.CharField(max_length=64, blank=True)  # the rules and settings the verdict is of

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        indexes = [  # noqa: RUF012
            models.Index(
                fields=["workshop", "verdict", "-changed", "-id"],
                condition=models.Q(status="here"),
                name="bikes_here_by_verdict",
            ),
            models.Index(fields=["workshop"], condition=~models.Q(status="here"), name="bikes_gone"),
            models.Index(fields=["workshop", "-changed", "-id"], name="bikes_by_change"),
            models.Index(fields=["workshop", "judged_by"], name="bikes_judged_by"),
            models.Index(
                fields=["workshop", "accepted_until"],
                condition=models.Q(accepted_until__isnull=False),
                name="bikes_accepted_until",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def build(self, fitted: list[BikePart]) -> Build:
        """Return the core's value of this bike, from its already fetched parts."""
        return Build(
            name=self.name,
            use=self.use or None,
            rider=self.rider,
            lever_hand=self.lever_hand,
            parts={part.slot: part.as_part() for part in fitted},
            empty=frozenset(self.empty),
            extra=self.extra,
            parts_extra=self.parts_extra,
            settled=tuple(self._settled(fitted)),
        )

    def settle(self, needs: Iterable[Settled], fitted: Iterable[BikePart]) -> None:
        """Keep needs that were met, with the pieces that they were met with. Not saved here."""
        pieces = {slot: part.pk for part in fitted for slot in part.slots()}
        self.settled = [
            {**one.to_json(), "pieces": {slot: pieces[slot] for slot in one.slots if slot in pieces}}
            for one in needs
        ]

    def _settled(self, fitted: list[BikePart]) -> Iterator[Settled]:
        """The needs that were met with the pieces that are on the bike now."""
        pieces = {slot: part.pk for part in fitted for slot in part.slots()}
        for one in self.settled:
            if all(pieces.get(slot) == piece for slot, piece in one["pieces"].items()):
                yield Settled(rule=one["rule"], slots=tuple(one["slots"]), what=one["what"])


class BikePart(models.Model):
    """One physical part, a row for life: on a bike, in the bin, given away or scrapped.

    On a bike it fills `slot`, and the further slots that `also` names.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="parts")
    where = models.CharField(max_length=10, choices=Where, default=Where.ON_BIKE)
    bike = models.ForeignKey(Bike, null=True, blank=True, on_delete=models.CASCADE, related_name="fitted")
    slot = models.CharField(max_length=40, blank=True)
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=200, blank=True)
    attrs = models.JSONField(default=dict, blank=True)
    origins = models.JSONField(default=dict, blank=True)
    also = models.JSONField(default=list, blank=True)
    extra = models.JSONField(default=dict, blank=True)
    condition = models.JSONField(default=dict, blank=True)  # feel, wear, damage
    instruments = models.JSONField(default=dict, blank=True)  # by attribute: what it was measured with
    attrs_key = models.GeneratedField(
        expression=MD5(Cast("attrs", models.TextField())),
        output_field=models.CharField(max_length=32),
        db_persist=True,
    )  # alike for parts whose figures are alike to the last one
    never_back = models.BooleanField(default=False)  # cracked carbon: scrapped for good
    # in the bin: where it lies, what it is worth, what it weighs, what it is kept with; counted up when these change
    version = models.PositiveIntegerField(default=1)
    box = models.CharField(max_length=40, blank=True)
    value = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    mass_g = models.PositiveIntegerField(null=True, blank=True)
    kept_with = models.ForeignKey(
        "self", null=True, blank=True, on_delete=models.SET_NULL, related_name="pair"
    )
    catalogue_part = models.ForeignKey(
        CataloguePart, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        db_table = "bikes_fittedpart"
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["bike", "slot"], name="slot_filled_once"),
            models.CheckConstraint(
                condition=models.Q(where="on bike", bike__isnull=False)
                | (~models.Q(where="on bike") & models.Q(bike__isnull=True)),
                name="part_on_a_bike_or_off",
            ),
            models.CheckConstraint(
                condition=models.Q(never_back=False) | models.Q(where="scrapped"),
                name="cracked_stays_scrapped",
            ),
        ]
        indexes = [  # noqa: RUF012
            models.Index(fields=["workshop", "where", "kind", "attrs_key"], name="parts_by_where"),
            models.Index(fields=["workshop", "box"], condition=models.Q(where="bench"), name="parts_by_box"),
        ]

    def __str__(self) -> str:
        return self.name or KINDS[self.kind].title

    @property
    def label(self) -> str:
        """What its label says, to be typed or scanned: a letter and a number."""
        return f"P{self.pk}"

    @property
    def scanned(self) -> str:
        """What the code on its label types: the key of the find field, the label, Enter comes from the scanner."""
        return f"/{self.label}"

    def stored(self) -> dict[str, Any]:
        """Everything of this part but its place as JSON, to put it back as it was."""
        return {name: getattr(self, name) for name in STORED}

    def slots(self) -> tuple[str, ...]:
        """Return every slot it fills."""
        return (self.slot, *self.also) if self.slot else ()

    def as_part(self) -> Part:
        """Return the core's value of this part."""
        return stored_part(self.kind, self.name, self.attrs, self.also, self.extra)


STORED = (
    "kind", "name", "attrs", "origins", "also", "extra", "condition", "instruments", "catalogue_part_id",
)  # fmt: skip


class SetUp(models.Model):
    """Parts of one bike that go on together, by slot: a pair of wheels, a fork. They are on it or set aside with it."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="set_ups")
    name = models.CharField(max_length=80)
    parts = models.ManyToManyField(BikePart, through="SetUpPart", related_name="set_ups")
    # what is set on its fork and shock while it is on, by slot, and under "bike" the rider that it is set for
    settings = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["bike", "name"], name="set_up_named_once")
        ]

    def __str__(self) -> str:
        return self.name


class SetUpPart(models.Model):
    """One part of a set-up and the slot it goes into."""

    set_up = models.ForeignKey(SetUp, on_delete=models.CASCADE, related_name="places")
    part = models.ForeignKey(BikePart, on_delete=models.CASCADE, related_name="places")
    slot = models.CharField(max_length=40)

    class Meta:
        ordering = ["id"]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["set_up", "slot"], name="set_up_slot_once")
        ]

    def __str__(self) -> str:
        return f"{self.set_up}: {self.slot}"


class Picture(models.Model):
    """A picture of what an inspection found: a JPEG made again from what was sent, so that it carries nothing else."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="pictures")
    about = models.CharField(max_length=40)  # the tick of the inspection
    content = models.BinaryField()

    class Meta:
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["bike", "about"], name="picture_of_a_tick_once")
        ]

    def __str__(self) -> str:
        return self.about


class Move(models.Model):
    """A line of the ledger: what one action did to one part. Who, when and why stand in the log's line.

    `before` is None for a part that was entered then. Lines are only ever added.
    """

    line = models.ForeignKey(LogEntry, on_delete=models.CASCADE, related_name="moves")
    part = models.ForeignKey(BikePart, on_delete=models.CASCADE, related_name="moves")
    from_where = models.CharField(max_length=10, choices=Where, blank=True)
    from_bike = models.ForeignKey(Bike, null=True, on_delete=models.SET_NULL, related_name="gave")
    from_slot = models.CharField(max_length=40, blank=True)
    to_where = models.CharField(max_length=10, choices=Where)
    to_bike = models.ForeignKey(Bike, null=True, on_delete=models.SET_NULL, related_name="got")
    to_slot = models.CharField(max_length=40, blank=True)
    before = models.JSONField(null=True)
    after = models.JSONField()

    class Meta:
        ordering = ["id"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.part_id}: {self.from_where or 'nowhere'} to {self.to_where}"


class ClosedCase(models.Model):
    """A complaint that is gone after its causes were mended: what a workshop's own weights are counted from."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="closed_cases")
    bike = models.ForeignKey(
        Bike, null=True, blank=True, on_delete=models.SET_NULL, related_name="closed_cases"
    )
    complaint = models.CharField(max_length=40)
    causes = models.JSONField(default=list, blank=True)
    on = models.DateField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]  # noqa: RUF012
        indexes = [models.Index(fields=["workshop", "complaint"], name="closed_by_complaint")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.complaint


class OwnWeight(models.Model):
    """A workshop's own weight of a cause under a complaint; 0 leaves the cause out."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="own_weights")
    complaint = models.CharField(max_length=40)
    cause = models.CharField(max_length=40)
    weight = models.FloatField()

    class Meta:
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["workshop", "complaint", "cause"], name="one_weight_of_a_cause")
        ]

    def __str__(self) -> str:
        return f"{self.complaint}: {self.cause}"
