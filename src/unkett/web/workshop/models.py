"""The workshop, its people and the log of everything they changed."""

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.db.models.functions import Lower
from django.utils import timezone


class Workshop(models.Model):
    """A workshop: everything stored belongs to one, and its people see nothing else."""

    name = models.CharField(max_length=120)
    settings = models.JSONField(default=dict, blank=True)
    demo = models.BooleanField(default=False)
    loaded_to = models.BigIntegerField(
        null=True, blank=True
    )  # of the demonstration: its log's last line then
    catalogue_version = models.PositiveIntegerField(default=1)  # counts the writes to its catalogue
    tools_missing = models.JSONField(default=list, blank=True)  # tools of the job steps that it does not have
    classes_made_from = models.CharField(max_length=64, blank=True)  # the rules its fit classes were made by
    first_day_closed = models.BooleanField(default=False)  # the list of a first day is shown no more

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    OWNER = "owner", "Owner"
    MECHANIC = "mechanic", "Mechanic"
    FRONT_DESK = "front desk", "Front desk"
    APPRENTICE = "apprentice", "Apprentice"


class User(AbstractUser):
    """Someone who works in a workshop."""

    REQUIRED_FIELDS = ["email", "workshop"]  # noqa: RUF012

    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, related_name="people")
    role = models.CharField(max_length=20, choices=Role, default=Role.MECHANIC)
    units = models.JSONField(default=dict, blank=True)  # by the tables' unit: the unit this person reads
    bridge_port = models.PositiveIntegerField(
        null=True, blank=True
    )  # of the bench's instruments, on the computer this person sits at
    tour = models.PositiveSmallIntegerField(
        default=1
    )  # the stop of the first tour; 1 offers it, 0 is closed for good

    @property
    def called(self) -> str:
        return self.get_full_name() or self.username


class Customer(models.Model):
    """Somebody whose bikes are worked on."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="customers")
    name = models.CharField(max_length=120)
    reach = models.CharField(max_length=200, blank=True)  # how to reach them: a number, an address
    note = models.TextField(blank=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name", "id"]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.UniqueConstraint("workshop", Lower("name"), name="customer_once"),
        ]

    def __str__(self) -> str:
        return self.name


class SentForm(models.Model):
    """A form that was carried out, by its one-time token: pressed twice, it answers as it did the first time."""

    token = models.UUIDField()
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    went_to = models.CharField(max_length=500, blank=True)

    class Meta:
        indexes = [models.Index(fields=["user", "at"], name="sent_forms_by_user")]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["user", "token"], name="sent_form_once"),
        ]

    def __str__(self) -> str:
        return str(self.token)


class Invitation(models.Model):
    """A link by which somebody comes to work here, or chooses a new password (`user`). Good once, until its day."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=20, choices=Role, default=Role.MECHANIC)
    name = models.CharField(max_length=80)
    user = models.ForeignKey(
        User, null=True, blank=True, on_delete=models.CASCADE, related_name="invitations"
    )
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-id"]  # noqa: RUF012

    def __str__(self) -> str:
        return self.name

    @property
    def is_open(self) -> bool:
        return self.used_at is None and self.withdrawn_at is None and timezone.now() < self.until


class SignedIn(models.Model):
    """A session somebody has, where and when it began; what they see of it on their own page."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    at = models.DateTimeField(default=timezone.now)
    address = models.CharField(max_length=45, blank=True)
    browser = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-at"]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.user} {self.at:%Y-%m-%d}"


class SecurityEvent(models.Model):
    """Something that concerns who gets in: a sign-in, a refusal, a role changed, data taken out. Only ever added."""

    workshop = models.ForeignKey(
        Workshop, null=True, blank=True, on_delete=models.CASCADE, related_name="security"
    )
    user = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    what = models.CharField(max_length=40)
    name = models.CharField(max_length=150, blank=True)  # as it was typed, or of whom it is about
    address = models.CharField(max_length=45, blank=True)
    detail = models.CharField(max_length=200, blank=True)

    class Meta:
        indexes = [  # noqa: RUF012
            models.Index(fields=["workshop", "-id"], name="security_of_workshop"),
            models.Index(fields=["address", "what", "at"], name="security_by_address"),
        ]

    def __str__(self) -> str:
        return f"{self.what} {self.name}"


class LogEntry(models.Model):
    """One action: who, when, what, before and after. Lines are only ever added."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="log")
    actor = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    verb = models.CharField(max_length=40)
    about = models.CharField(max_length=40)
    about_id = models.BigIntegerField()
    about_name = models.CharField(max_length=200, blank=True)  # as it was called then
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)

    class Meta:
        indexes = [models.Index(fields=["workshop", "about", "about_id", "-at"], name="log_about")]  # noqa: RUF012

    def __str__(self) -> str:
        return f"{self.verb} {self.about} {self.about_id}"
