"""After rules or settings change: verdicts and fit classes renewed in the background, in batches that are kept."""

from __future__ import annotations

import os
import signal
import subprocess
import sys

import pytest
from django.db import connection
from django.urls import reverse

from tests.conftest import BUILD
from unkett.core.formats.reader import build_from
from unkett.core.settings import DEFAULTS
from unkett.local.state import PROJECT
from unkett.web.bikes import verdicts
from unkett.web.bikes.models import Bike
from unkett.web.bikes.services import store_build
from unkett.web.catalogue import services as catalogue_services
from unkett.web.catalogue.models import CataloguePart, FitClass
from unkett.web.catalogue.queries import what_goes
from unkett.web.rulebook.services import change_setting
from unkett.web.tasks.services import keep_up

OLD = {"verdict": "goes", "summary": {"says": ""}, "judged_by": "old rules"}


@pytest.fixture
def bikes(owner) -> list[Bike]:
    """Three alike but for their name, one with another chain, one of another use, one that is empty."""
    builds = [
        *({**BUILD, "name": f"Post {n}"} for n in range(3)),
        {**BUILD, "parts": {**BUILD["parts"], "chain": {"attrs": {"speeds": 8}}}},
        {**BUILD, "use": "cargo"},
        {"name": "Bare", "parts": {}},
    ]
    return [store_build(owner, build_from(build)) for build in builds]


def kept() -> list[tuple]:
    return list(Bike.objects.order_by("pk").values_list("verdict", "summary", "judged_by", "accepted_until"))


def test_renewed_verdicts_are_those_of_each_bike_alone(owner, bikes, monkeypatch) -> None:
    fresh = kept()
    Bike.objects.update(**OLD)
    judged = []
    judge = verdicts.judge
    monkeypatch.setattr(verdicts, "judge", lambda bike, *rest: (judged.append(bike.name), judge(bike, *rest)))
    assert verdicts.renew_batch(owner.workshop) == 6
    assert kept() == fresh
    assert len(judged) == 4  # the three that are alike share one check
    assert verdicts.renew_batch(owner.workshop) == 0


def test_a_bike_with_something_accepted_is_judged_alone(owner, bikes) -> None:
    Bike.objects.filter(pk=bikes[0].pk).update(accepted=[{"ref": "x", "until": "2999-01-01"}])
    groups = verdicts._alike(list(Bike.objects.order_by("pk")))
    assert sorted(len(group) for group in groups.values()) == [1, 1, 1, 1, 2]


def test_renewal_goes_on_batch_by_batch_forward_and_back(owner, bikes, monkeypatch) -> None:
    monkeypatch.setattr(verdicts, "BATCH", 2)
    for rules in ("new rules", "old rules again"):
        monkeypatch.setattr(verdicts, "core_fingerprint", lambda rules=rules: rules)
        waits = []
        while waits[-1:] != [0]:
            waits.append(verdicts.stale_bikes(owner.workshop).count())
            verdicts.renew_batch(owner.workshop, most=2)
        assert waits == [6, 4, 2, 0]


def test_upkeep_renews_every_workshop(owner, stranger, bikes) -> None:
    theirs = store_build(stranger, build_from(BUILD))
    Bike.objects.update(**OLD)
    while keep_up():
        pass
    assert not Bike.objects.filter(judged_by="old rules").exists()
    theirs.refresh_from_db()
    assert theirs.verdict == "unmeasured"


def test_a_bike_that_cannot_be_checked_stops_no_other(owner, bikes, monkeypatch, caplog) -> None:
    Bike.objects.update(**OLD)
    Bike.objects.filter(name="Bare").update(accepted_until="2020-01-01")
    judge = verdicts.judge

    def broken(bike, *rest) -> None:
        if bike.name == "Bare":
            raise ZeroDivisionError
        judge(bike, *rest)

    monkeypatch.setattr(verdicts, "judge", broken)
    assert verdicts.renew_batch(owner.workshop) == 6
    assert verdicts.renew_batch(owner.workshop) == 0  # nor is it tried again and again
    bare = Bike.objects.get(name="Bare")
    assert (bare.verdict, bare.summary["says"]) == ("unmeasured", verdicts.CANNOT)
    assert Bike.objects.filter(verdict="goes").count() == 0
    assert f"bike {bare.pk} cannot be checked" in caplog.text


def test_pages_check_what_they_show_and_say_that_others_wait(client, owner, bikes, monkeypatch) -> None:
    from unkett.web.plans import yard

    monkeypatch.setattr(yard, "YARD_PAGE", 2)
    Bike.objects.update(**OLD)
    client.force_login(owner)
    page = client.get(reverse("bikes:yard")).text
    assert "4 bikes are being checked again" in " ".join(page.split())
    shown = Bike.objects.order_by("-changed", "-id")[:2]
    assert {bike.verdict for bike in shown} == {"unmeasured"}
    assert Bike.objects.filter(judged_by="old rules").count() == 4
    while keep_up():
        pass
    assert "being checked again" not in client.get(reverse("bikes:yard")).text


def test_settings_make_verdicts_stale(owner, bikes) -> None:
    assert verdicts.renew_batch(owner.workshop) == 0
    change_setting(actor=owner, name="chain_angle_noisy_deg", value=1.5)
    owner.workshop.refresh_from_db()
    assert verdicts.renew_batch(owner.workshop) == 6


RENEW_SLOWLY = """
import os, sys, time
os.environ["DJANGO_SETTINGS_MODULE"] = "unkett.web.site.settings"
from unkett.web.site import settings
settings.DATABASES["default"]["NAME"] = sys.argv[1]
import django
django.setup()
from unkett.web.bikes import verdicts
from unkett.web.workshop.models import Workshop
judge = verdicts.judge
def slowly(*args):
    if verdicts.Bike.objects.filter(judged_by="old rules").count() <= 3:
        print("in the second batch", flush=True)
        time.sleep(600)
    judge(*args)
verdicts.judge = slowly
for workshop in Workshop.objects.all():
    while verdicts.renew_batch(workshop, most=3):
        pass
"""


@pytest.mark.own_database
def test_what_was_renewed_before_a_kill_stays(owner, bikes) -> None:
    Bike.objects.update(**OLD)
    command = [sys.executable, "-c", RENEW_SLOWLY, connection.settings_dict["NAME"]]
    child = subprocess.Popen(
        command, env={**os.environ, "PYTHONPATH": str(PROJECT / "src")}, stdout=subprocess.PIPE, text=True
    )
    assert child.stdout is not None
    assert child.stdout.readline().strip() == "in the second batch"
    os.kill(child.pid, signal.SIGKILL)
    child.wait()
    child.stdout.close()
    assert Bike.objects.filter(judged_by="old rules").count() == 3
    while Bike.objects.filter(
        judged_by="old rules"
    ).exists():  # the lock of the killed one goes in its own time
        keep_up()


def test_classes_of_other_rules_are_never_searched(owner, workshop, bike, monkeypatch) -> None:
    """A search right after an upgrade finds what a search long after it finds, whatever the background has done."""
    attrs = {"speeds": 9, "mount": "spline9", "teeth": [11, 12, 14, 16, 18, 21, 24, 28, 32]}
    entries = [{"kind": "cassette", "name": "Nine", "attrs": attrs, "price": 1}]
    entries += [{**entries[0], "name": "Ten", "attrs": {"speeds": 10, "mount": "spline9"}}]
    catalogue_services.add_parts(workshop, entries)
    build = bike.build(list(bike.fitted.all()))

    def found() -> list[tuple[str, str]]:
        shown = what_goes(owner, build, "cassette", DEFAULTS).shown
        return sorted((one.part.name, one.verdict.value) for one in shown)

    right = found()
    CataloguePart.objects.update(fit_class=FitClass.objects.first())  # as rules that read nothing had it
    FitClass.objects.update(made_from="other rules")
    type(workshop).objects.update(classes_made_from="other rules")
    owner.workshop.refresh_from_db()
    assert found() == right
    assert len(right) == 2


def test_classes_are_renewed_in_batches_that_are_kept(owner, workshop, catalogue, monkeypatch) -> None:
    monkeypatch.setattr(catalogue_services, "BATCH", 2)
    before = FitClass.objects.count()
    monkeypatch.setattr(catalogue_services, "kind_reads", lambda kind: ("speeds",))
    for cached in (catalogue_services.reads_mark, catalogue_services.rules_fingerprint):
        monkeypatch.setattr(catalogue_services, cached.__name__, cached.__wrapped__)
    assert catalogue_services.renew_classes(workshop) is True
    assert FitClass.objects.count() < before
    assert not CataloguePart.objects.filter(fit_class=None).exists()
    assert catalogue_services.renew_classes(workshop) is False
