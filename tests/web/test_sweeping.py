"""What goes once a day: ended work but the last about a thing, old lines of who got in, sessions that are over."""

from datetime import timedelta

import pytest
from django.contrib.sessions.models import Session
from django.utils import timezone

from unkett.web.tasks.models import Task
from unkett.web.tasks.sweeping import SECURITY_KEPT, TASKS_KEPT, sweep
from unkett.web.workshop.models import Invitation, SecurityEvent, SignedIn

HOUR = timedelta(hours=1)


@pytest.fixture
def now():
    return timezone.now()


def ended(owner, about: int, at, state="done", sort="ways") -> Task:
    return Task.objects.create(workshop=owner.workshop, sort=sort, about_id=about, state=state, ended=at)


def test_work_that_ended_long_ago_goes_but_the_last_about_a_thing(owner, now) -> None:
    long_ago = now - TASKS_KEPT - HOUR
    gone = [ended(owner, 1, long_ago), ended(owner, 1, long_ago, "failed")]
    kept = [
        ended(owner, 1, long_ago, "stopped"),  # the last about 1
        ended(owner, 1, long_ago, sort="quote"),
        ended(owner, 2, long_ago + 2 * HOUR),  # not long enough ago
        ended(owner, 2, None, "waiting"),
    ]
    assert sweep(now)["tasks"] == 2
    assert set(Task.objects.values_list("pk", flat=True)) == {task.pk for task in kept}
    assert not Task.objects.filter(pk__in=[task.pk for task in gone])
    assert sweep(now) == dict.fromkeys(sweep(now), 0)


def test_who_got_in_is_kept_for_a_season_and_more(owner, now) -> None:
    for age in (SECURITY_KEPT + HOUR, SECURITY_KEPT - HOUR):
        SecurityEvent.objects.create(workshop=owner.workshop, what="sign-in", at=now - age)
    assert sweep(now)["security lines"] == 1
    assert SecurityEvent.objects.get().at == now - SECURITY_KEPT + HOUR


def test_sessions_that_are_over_go_with_their_sign_ins(owner, now) -> None:
    for key, until in (("over", now - HOUR), ("living", now + HOUR)):
        Session.objects.create(session_key=key, session_data="", expire_date=until)
        SignedIn.objects.create(user=owner, session_key=key)
    SignedIn.objects.create(user=owner, session_key="nowhere")
    error = sweep(now)
    assert (error["sessions"], error["sign-ins"]) == (1, 2)
    assert SignedIn.objects.get().session_key == Session.objects.get().session_key == "living"


def test_invitations_go_a_month_after_their_day(owner, now) -> None:
    for days in (-31, -29, 3):
        Invitation.objects.create(workshop=owner.workshop, name=f"{days}", until=now + timedelta(days=days))
    assert sweep(now)["invitations"] == 1
    assert set(Invitation.objects.values_list("name", flat=True)) == {"-29", "3"}
