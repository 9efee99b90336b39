"""What the workshop itself calls things, and how it words the steps of its work."""

from django.db import models

from unkett.web.workshop.models import Workshop


class ShopName(models.Model):
    """The workshop's own name for a code of the vocabulary. None ships with the application."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="bench_names")
    code = models.CharField(max_length=60)
    name = models.CharField(max_length=60)

    class Meta:
        ordering = ["code", "name"]  # noqa: RUF012
        constraints = [  # noqa: RUF012
            models.UniqueConstraint(fields=["workshop", "code", "name"], name="bench_name_once"),
        ]

    def __str__(self) -> str:
        return f"{self.name} ({self.code})"


class WorkPackage(models.Model):
    """A service package as the workshop has it: one that ships written over, or one of its own."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="packages")
    code = models.CharField(max_length=60)
    content = models.JSONField()

    class Meta:
        ordering = ["code"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["workshop", "code"], name="package_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.code


class CustomStep(models.Model):
    """A workshop's own words, minutes and links for a step that ships, or one more of its own."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="own_steps")
    code = models.CharField(max_length=160)
    content = models.JSONField()

    class Meta:
        db_table = "jobs_customstep"  # the table is older than its place here
        ordering = ["code"]  # noqa: RUF012
        constraints = [models.UniqueConstraint(fields=["workshop", "code"], name="own_step_once")]  # noqa: RUF012

    def __str__(self) -> str:
        return self.code
