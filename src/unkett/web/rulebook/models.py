"""What the workshop itself calls things."""

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
