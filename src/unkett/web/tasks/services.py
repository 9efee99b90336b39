"""Work asked for and stopped; what the background process takes up, tells and ends."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Any

from attrs import frozen
from django.conf import settings
from django.db import connection, transaction
from django.db.models import QuerySet
from django.utils import timezone
from django.utils.module_loading import import_string

from unkett.core.errors import CoreError
from unkett.web.tasks.models import GOING_ON, Task, TaskState
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

CHANNEL = "unkett_tasks"
AT_ONCE = 5  # pieces of work of one workshop that may wait or run
TRIES_MOST = 2
TELL_SECONDS = 0.5  # how often what was found so far is written, and whether it is still wanted is asked
BROKE = "It could not be worked out; the log of the background process says why."


@frozen(kw_only=True)
class Report:
    """What a running piece of work may do: tell what was found so far, ask whether it is still wanted."""

    found: Callable[[Any], None]
    unwanted: Callable[[], bool]


def policy_of(sort: str) -> str:
    """Who may ask for work of this sort."""
    return str(settings.TASK_HANDLERS[sort][0])


def tasks_seen_by(actor: User) -> QuerySet[Task]:
    """Return the work of the actor's workshop."""
    return Task.objects.filter(workshop_id=actor.workshop_id)


def last_asked(actor: User, sort: str, about_id: int, asked: Any) -> Task | None:
    """Return the piece of work of this sort that was asked for last, without the bulk of what it found."""
    mine = tasks_seen_by(actor).filter(sort=sort, about_id=about_id, asked=asked)
    return mine.defer("found").order_by("-pk").first()


@transaction.atomic
def ask_for(*, actor: User, sort: str, about_id: int, asked: Any) -> Task:
    """Ask for a piece of work. Refused while the workshop waits for many."""
    require(actor, policy_of(sort))
    if tasks_seen_by(actor).filter(state__in=GOING_ON).count() >= AT_ONCE:
        raise Refused(f"{AT_ONCE} searches are under way. Wait for one, or stop it.")
    task = Task.objects.create(
        workshop_id=actor.workshop_id, made_by=actor, sort=sort, about_id=about_id, asked=asked
    )
    log(actor, "ask", task, after={"about": about_id})
    wake()
    return task


def wake() -> None:
    """Tell the background process that there is something to do, once this transaction is kept."""
    with connection.cursor() as cursor:
        cursor.execute(f"NOTIFY {CHANNEL}")


@transaction.atomic
def stop_task(*, actor: User, task_id: int) -> Task:
    """Stop a piece of work; what was found so far is kept. Raises NotThere."""
    task = tasks_seen_by(actor).select_for_update().filter(pk=task_id).first()
    if task is None:
        raise NotThere
    require(actor, policy_of(task.sort))
    if task.state == TaskState.WAITING:
        task.state, task.ended = TaskState.STOPPED, timezone.now()
    task.stop_wanted = True
    task.save(update_fields=["state", "ended", "stop_wanted"])
    log(actor, "stop", task)
    return task


# the background process


def begin_again() -> int:
    """Return what a process that ended left running waits again; how many. What ended it twice is given up."""
    given_up = {"state": TaskState.FAILED, "says": BROKE, "ended": timezone.now()}
    Task.objects.filter(state=TaskState.RUNNING, tries__gte=TRIES_MOST).update(**given_up)
    return Task.objects.filter(state=TaskState.RUNNING).update(state=TaskState.WAITING, started=None)


def do_next() -> bool:
    """Take up the piece of work that waits longest and do it; whether there was one."""
    with transaction.atomic():
        waiting = Task.objects.select_for_update(skip_locked=True, of=("self",)).filter(
            state=TaskState.WAITING
        )
        task = waiting.select_related("workshop", "made_by__workshop").order_by("pk").first()
        if task is None:
            return False
        task.state, task.started, task.tries = TaskState.RUNNING, timezone.now(), task.tries + 1
        task.save(update_fields=["state", "started", "tries"])
    _do(task)
    return True


def keep_up() -> bool:
    """Do one piece of upkeep: what a change of rules or settings made stale; return whether there was any."""
    return any(import_string(name)() for name in settings.UPKEEP)


def _do(task: Task) -> None:
    try:
        task.found = import_string(settings.TASK_HANDLERS[task.sort][1])(task, _report(task))
        task.state = TaskState.STOPPED if task.stop_wanted else TaskState.DONE
    except (CoreError, Refused, NotThere) as error:
        task.state, task.says = TaskState.FAILED, (str(error) or BROKE)[:300]
    except Exception:
        logging.getLogger("unkett.tasks").exception("task %s", task.pk)
        task.state, task.says = TaskState.FAILED, BROKE
    task.ended = timezone.now()
    task.save(update_fields=["state", "found", "says", "ended"])


def _report(task: Task) -> Report:
    reported_at = asked = 0.0

    def found(value: Any) -> None:
        nonlocal reported_at
        task.found = value
        if time.monotonic() - reported_at >= TELL_SECONDS:
            reported_at = time.monotonic()
            task.save(update_fields=["found"])

    def unwanted() -> bool:
        nonlocal asked
        if not task.stop_wanted and time.monotonic() - asked >= TELL_SECONDS:
            asked = time.monotonic()
            row = Task.objects.filter(pk=task.pk).values_list("stop_wanted", flat=True).first()
            task.stop_wanted = row is not False
        return task.stop_wanted

    return Report(found=found, unwanted=unwanted)
