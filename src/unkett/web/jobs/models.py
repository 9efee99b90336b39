"""Jobs: a plan's steps as they are done, who did them, what was read; the days and what comes after."""

from __future__ import annotations

import datetime
from typing import Any

from django.db import models
from django.utils import timezone

from unkett.core.vocabulary import SLOTS, describe
from unkett.core.work.readings import Expected, judge
from unkett.web.bikes.models import Bike
from unkett.web.plans.models import Plan, QuoteItem
from unkett.web.workshop.models import User, Workshop


class Job(models.Model):
    """The work of one plan. Its steps are made once, when it is started, and stay as they were then."""

    plan = models.OneToOneField(Plan, on_delete=models.CASCADE, related_name="job")
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)
    figures = models.JSONField(default=list, blank=True)  # title, before and after, as the plan moves them
    later = models.TextField(blank=True)  # what a stage that follows will do
    kept = models.TextField(blank=True)  # parts given back or kept, such as the old chain with its cassette
    ended = models.DateTimeField(null=True, blank=True)
    checked_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    version = models.PositiveIntegerField(default=1)
    open_facts = models.JSONField(default=list, blank=True)  # why the bike is not ridden now, in words

    def __str__(self) -> str:
        return f"job of {self.plan.name}"


class JobStep(models.Model):
    """A step with who holds it, who did it and when, and what was read; the first reading stays whatever follows."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="steps")
    key = models.CharField(max_length=160)
    place = models.PositiveIntegerField()
    content = models.JSONField()  # as `unkett.job/1` has it
    holder = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    done_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    done_at = models.DateTimeField(null=True, blank=True)
    skipped = models.CharField(max_length=200, blank=True)  # why it was left out
    reading = models.FloatField(null=True, blank=True)
    instrument = models.CharField(max_length=60, blank=True)  # what it was read with; empty: typed
    kept_why = models.CharField(max_length=200, blank=True)  # why a reading outside its range was kept
    not_measured = models.CharField(max_length=200, blank=True)  # why nothing was read
    proved_why = models.CharField(max_length=200, blank=True)  # why whoever did the work proved it
    first_reading = models.FloatField(null=True, blank=True)
    countersigned_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    countersigned_at = models.DateTimeField(null=True, blank=True)
    wants_countersign = models.BooleanField(default=False)

    class Meta:
        ordering = ["place"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="step_once_in_a_job")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.key

    @property
    def says(self) -> str:
        return str(self.content["says"])

    @property
    def where(self) -> str:
        """The part it is on."""
        slot = self.content["slot"]
        return "The whole bike" if slot == "bike" else SLOTS[slot].title

    @property
    def is_done(self) -> bool:
        """Done or left out."""
        return self.done_at is not None

    @property
    def rests_until(self) -> datetime.datetime | None:
        """Until when it waits after the hands have left it."""
        wait = self.content["wait_minutes"]
        if self.done_at is None or not wait or self.skipped:
            return None
        return self.done_at + datetime.timedelta(minutes=wait)

    @property
    def reading_title(self) -> str:
        """What is to be written down; empty where nothing is."""
        reading = self.content["reading"]
        if not reading:
            return ""
        return (
            describe(reading["slot"], reading["attr"]).title
            if "slot" in reading
            else reading["word"].capitalize()
        )

    @property
    def expected(self) -> Expected:
        """What its reading should be."""
        return Expected.of_stored(self.content)

    @property
    def outside(self) -> str:
        """Why its reading is outside what is allowed; empty where it is not."""
        return "" if self.reading is None else judge(self.expected, [self.reading]).why

    @property
    def must_be_read(self) -> bool:
        """Whether there is no way round its reading: a torque, a rotor's thickness."""
        reading = self.content["reading"] or {}
        return self.expected.torque_only or reading.get("attr") == "measured_mm"

    @property
    def proves(self) -> bool:
        """Whether it proves a brake or the steering."""
        return self.key.startswith("check:") and self.key.rpartition(":")[2] in ("brake", "steering")

    @property
    def reads_trim(self) -> bool:
        """Whether an electronic gear's clicks of trim are read."""
        return bool(self.content["reading"]) and self.content["reading"].get("word") == "trim"

    @property
    def torque_says(self) -> str:
        """The target in Nm with the range and who says so."""
        low_high = self.content["torque_nm"]
        if low_high is None:
            return ""
        low, high = low_high
        span = f"{low:g}" if low == high else f"{low:g}–{high:g}"
        return (
            f"{span} Nm, {'printed on the part' if self.content['torque_from'] == 'part' else 'by the table'}"
        )


class OutsideWork(models.Model):
    """Work done by another shop: what, what it costs, how many days. `item` is its line of the quote."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="outside")
    what = models.CharField(max_length=200)
    cost = models.DecimalField(max_digits=9, decimal_places=2, default=0)
    days = models.PositiveIntegerField(default=0)
    since = models.DateField(null=True, default=timezone.localdate)  # none: it has not gone out yet
    item = models.ForeignKey(QuoteItem, null=True, on_delete=models.SET_NULL, related_name="+")
    back_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.what

    @property
    def due(self) -> datetime.date | None:
        return self.since and self.since + datetime.timedelta(days=self.days)


class StepPicture(models.Model):
    """A picture taken at a step; the last one counts."""

    step = models.OneToOneField(JobStep, on_delete=models.CASCADE, related_name="picture")
    content = models.BinaryField()

    def __str__(self) -> str:
        return f"picture of {self.step.key}"


class FollowUp(models.Model):
    """Something to look at again on a day: bolts after the first ride, a check by the calendar."""

    bike = models.ForeignKey(Bike, on_delete=models.CASCADE, related_name="follow_ups")
    job = models.ForeignKey(Job, null=True, on_delete=models.SET_NULL, related_name="follow_ups")
    what = models.CharField(max_length=200)
    due = models.DateField()
    done_at = models.DateTimeField(null=True, blank=True)
    done_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["due", "id"]  # noqa: RUF012
        indexes = [models.Index(fields=["done_at", "due"], name="follow_ups_due")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.what


class WorkHours(models.Model):
    """When somebody works: from, to and a pause, on which days of the week (1 is Monday)."""

    user = models.OneToOneField(User, on_delete=models.CASCADE, related_name="work_hours")
    days = models.CharField(max_length=7, default="12345")
    begins = models.TimeField(default=datetime.time(9))
    pause_from = models.TimeField(default=datetime.time(13))
    pause_to = models.TimeField(default=datetime.time(14))
    ends = models.TimeField(default=datetime.time(18))

    def __str__(self) -> str:
        return f"{self.user}: {self.begins:%H:%M}–{self.ends:%H:%M}"

    def windows(self, day: datetime.date, n: int) -> list[tuple[int, int]]:
        """Return the minutes worked on a day that is the n-th from the first, counted from the first's midnight."""
        if str(day.isoweekday()) not in self.days:
            return []
        marks = [
            n * 1440 + one.hour * 60 + one.minute
            for one in (self.begins, self.pause_from, self.pause_to, self.ends)
        ]
        return [(low, high) for low, high in (marks[:2], marks[2:]) if low < high]


class Schedule(models.Model):
    """The workshop's day plan as it was worked out last, and what was moved by hand."""

    workshop = models.OneToOneField(Workshop, on_delete=models.CASCADE, related_name="board")
    stands = models.PositiveIntegerField(default=2)
    first_day = models.DateField(null=True, blank=True)
    made = models.DateTimeField(null=True, blank=True)
    stale = models.BooleanField(default=False)  # work changed since it was made
    content = models.JSONField(default=dict, blank=True)
    before = models.JSONField(default=dict, blank=True)  # the plan before, to see what shifted
    pins = models.JSONField(
        default=dict, blank=True
    )  # by job and session: not before which minute of which day, by whom

    def __str__(self) -> str:
        return f"day plan of {self.workshop}"

    def pins_of(self, job_id: int) -> dict[str, Any]:
        return dict(self.pins.get(str(job_id), {}))
