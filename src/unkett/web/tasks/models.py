"""Long work that no request waits for: asked for in a table, done by one background process."""

from django.db import models

from unkett.web.workshop.models import User, Workshop


class TaskState(models.TextChoices):
    """How far a piece of work has come."""

    WAITING = "waiting", "Waiting"
    RUNNING = "running", "Running"
    DONE = "done", "Done"
    STOPPED = "stopped", "Stopped"
    FAILED = "failed", "Failed"


GOING_ON = (TaskState.WAITING, TaskState.RUNNING)


class Task(models.Model):
    """One piece of work: its sort, what it is about, what is asked, what was found so far or in the end."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="tasks")
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    sort = models.CharField(max_length=20)
    about_id = models.BigIntegerField()
    asked = models.JSONField(default=dict)
    found = models.JSONField(null=True)
    says = models.CharField(max_length=300, blank=True)  # why it failed
    state = models.CharField(max_length=10, choices=TaskState, default=TaskState.WAITING)
    tries = models.PositiveSmallIntegerField(default=0)  # how often it was taken up
    stop_wanted = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        indexes = [  # noqa: RUF012
            models.Index(fields=["workshop", "sort", "about_id", "-id"], name="tasks_about"),
            models.Index(
                fields=["id"], condition=models.Q(state__in=("waiting", "running")), name="tasks_going_on"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.sort} {self.pk}"

    @property
    def going_on(self) -> bool:
        return self.state in GOING_ON
