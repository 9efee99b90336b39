"""Nothing lost: each action is whole or absent, whatever happens in the middle of it."""

import os
import signal
import subprocess
import sys
import time

import pytest
from django.db import connection

from unkett.local.state import PROJECT
from unkett.web.jobs.services import start_job
from unkett.web.plans import services, writing
from unkett.web.plans.models import Change, Plan
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import Conflict, NotAllowed, NotThere
from unkett.web.workshop.models import LogEntry

SWAP_SLOWLY = """
import os, sys, time
os.environ["DJANGO_SETTINGS_MODULE"] = "unkett.web.site.settings"
from unkett.web.site import settings
settings.DATABASES["default"]["NAME"] = sys.argv[1]
import django
django.setup()
from unkett.web.plans import services
from unkett.web.workshop.models import User
import unkett.web.plans.writing as module
def stuck(*args, **kwargs):
    print("inside", flush=True)
    time.sleep(600)
module.log = stuck
olla, plan, part = User.objects.get(username="olla"), int(sys.argv[2]), int(sys.argv[3])
services.swap_part(actor=olla, plan_id=plan, version=1, slot="cassette", part_id=part)
"""


@pytest.mark.own_database
def test_a_process_killed_in_the_middle_leaves_no_half_change(owner, plan, catalogue) -> None:
    """SIGKILL after the change is written and before the action is whole: nothing of it stays."""
    database = connection.settings_dict["NAME"]
    command = [sys.executable, "-c", SWAP_SLOWLY, database, str(plan.pk), str(catalogue["Eight"].pk)]
    env = {**os.environ, "PYTHONPATH": str(PROJECT / "src")}
    child = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    assert child.stdout.readline().strip() == "inside"
    os.kill(child.pid, signal.SIGKILL)
    child.wait()
    child.stdout.close()
    deadline = time.monotonic() + 300
    while time.monotonic() < deadline:  # the server notices the lost connection in its own time
        try:
            services.swap_part(
                actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk
            )
            break
        except Conflict:
            pytest.fail("the killed process left its version behind")
    assert planned(owner, plan.pk).changes["cassette"].name == "Wide nine"
    assert Plan.objects.get(pk=plan.pk).version == 2
    assert LogEntry.objects.filter(verb="swap").count() == 1


READ_ON = """
import os, sys
os.environ["DJANGO_SETTINGS_MODULE"] = "unkett.web.site.settings"
from unkett.web.site import settings
settings.DATABASES["default"]["NAME"] = sys.argv[1]
import django
django.setup()
from unkett.web.jobs.models import Job
from unkett.web.jobs.stepping import tick_step
from unkett.web.workshop.models import User
olla, job = User.objects.get(username="olla"), Job.objects.get(pk=int(sys.argv[2]))
for n, step in enumerate(job.steps.all()[:10]):
    why = {"anyway": "at once", "keep_why": "at once"}
    tick_step(actor=olla, job_id=job.pk, step_id=step.pk, reading=n + 0.5, sure=True, **why)
    print(step.pk, n + 0.5, flush=True)
"""


@pytest.mark.own_database
def test_a_job_killed_in_the_middle_loses_no_reading(owner, plan, catalogue) -> None:
    """Every reading that was acknowledged before the SIGKILL stands in the job."""
    services.swap_part(
        actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Eight"].pk
    )
    job = start_job(actor=owner, plan_id=plan.pk)
    command = [sys.executable, "-c", READ_ON, connection.settings_dict["NAME"], str(job.pk)]
    env = {**os.environ, "PYTHONPATH": str(PROJECT / "src")}
    child = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    error = [child.stdout.readline().split() for _ in range(4)]
    os.kill(child.pid, signal.SIGKILL)
    error += [line.split() for line in child.stdout.read().splitlines() if line.count(" ") == 1]
    child.wait()
    child.stdout.close()
    stored = dict(job.steps.exclude(reading=None).values_list("pk", "reading"))
    assert len(error) >= 4
    assert all(stored[int(step)] == float(reading) for step, reading in error)


def test_a_fault_in_the_middle_rolls_everything_back(owner, plan, catalogue, monkeypatch) -> None:
    def broken(*args, **kwargs) -> None:
        raise RuntimeError("the log is full")

    monkeypatch.setattr(writing, "log", broken)
    with pytest.raises(RuntimeError):
        services.swap_part(
            actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Eight"].pk
        )
    assert Change.objects.count() == 0
    assert Plan.objects.get(pk=plan.pk).version == 1


WRITES = [
    (
        "swap",
        lambda owner, plan, parts: services.swap_part(
            actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=parts["Eight"].pk
        ),
    ),
    (
        "empty",
        lambda owner, plan, parts: services.empty_slot(actor=owner, plan_id=plan.pk, version=1, slot="chain"),
    ),
    (
        "take back",
        lambda owner, plan, parts: services.take_back(actor=owner, plan_id=plan.pk, version=1, slot="chain"),
    ),
    (
        "name",
        lambda owner, plan, parts: services.name_plan(
            actor=owner, plan_id=plan.pk, version=1, name="B", note="why"
        ),
    ),
    (
        "state",
        lambda owner, plan, parts: services.move_plan(actor=owner, plan_id=plan.pk, version=1, to="dropped"),
    ),
]


@pytest.mark.parametrize(("verb", "write"), WRITES, ids=[verb for verb, _ in WRITES])
def test_every_write_counts_the_version_and_leaves_one_line(owner, plan, catalogue, verb, write) -> None:
    before = LogEntry.objects.count()
    write(owner, plan, catalogue)
    plan.refresh_from_db()
    assert plan.version == 2
    assert plan.changed_by == owner
    assert LogEntry.objects.count() == before + 1
    assert LogEntry.objects.latest("at").verb == verb


@pytest.mark.parametrize(("verb", "write"), WRITES, ids=[verb for verb, _ in WRITES])
def test_every_write_is_refused_to_a_stranger_and_on_a_stale_version(
    stranger, owner, plan, catalogue, verb, write
) -> None:
    with pytest.raises(NotThere):
        write(stranger, plan, catalogue)
    Plan.objects.filter(pk=plan.pk).update(version=5)
    with pytest.raises(Conflict):
        write(owner, plan, catalogue)
    assert Plan.objects.get(pk=plan.pk).version == 5


def test_who_may_do_nothing_writes_nothing(plan, owner) -> None:
    owner.is_active = False
    with pytest.raises(NotAllowed):
        services.move_plan(actor=owner, plan_id=plan.pk, version=1, to="dropped")
    assert Plan.objects.get(pk=plan.pk).state == "draft"
