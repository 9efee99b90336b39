"""One-time tokens: a form pressed twice does one thing and answers twice the same; every form carries one."""

import re
import threading
import uuid

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse

from tests.web.test_access import PAGES, address, things  # noqa: F401 - one of everything an address may name
from unkett.web.bikes.models import Bike
from unkett.web.plans.models import Plan
from unkett.web.workshop.models import SentForm


def test_a_second_press_does_nothing_more(client, owner, bike) -> None:
    client.force_login(owner)
    once = str(uuid.uuid4())
    url = reverse("bikes:bike-copy", args=[bike.pk])
    answers = [client.post(url, {"name": "Twin", "once": once}) for _ in range(3)]
    assert {answer.url for answer in answers} == {
        reverse("bikes:stand", args=[Bike.objects.get(name="Twin").pk])
    }
    assert client.post(url, {"name": "Twin 2", "once": str(uuid.uuid4())}).status_code == 302
    assert Bike.objects.count() == 3


def test_a_refused_form_may_be_sent_again(client, owner, bike) -> None:
    client.force_login(owner)
    once = str(uuid.uuid4())
    url = reverse("bikes:part-measure", args=[bike.pk])
    data = {"version": 1, "slot": "chain", "attr": "links", "once": once}
    assert client.post(url, {**data, "value": "many"}).status_code == 422
    assert client.post(url, {**data, "value": "110"}).status_code == 302
    assert client.post(url, {**data, "value": "112"}).status_code == 302  # the answer of the first
    assert bike.fitted.get(slot="chain").attrs["links"] == 110


def test_a_change_of_a_plan_pressed_twice_is_one(client, owner, plan) -> None:
    client.force_login(owner)
    once, htmx = str(uuid.uuid4()), {"HX-Request": "true"}
    url, data = reverse("plans:slot-empty", args=[plan.pk, "chain"]), {"version": 1, "once": once}
    for _ in range(2):
        answer = client.post(url, data, headers=htmx, follow=True)
        assert answer.status_code == 200
        assert "<html" not in answer.text  # htmx follows and gets the fragment
    assert Plan.objects.get(pk=plan.pk).version == 2


def test_a_token_is_its_users_own(client, owner, mechanic, bike) -> None:
    once = str(uuid.uuid4())
    url = reverse("bikes:bike-copy", args=[bike.pk])
    client.force_login(owner)
    client.post(url, {"name": "First", "once": once})
    client.force_login(mechanic)
    assert client.post(url, {"name": "Second", "once": once}).status_code == 302
    assert Bike.objects.filter(name="Second").exists()


def test_nonsense_for_a_token_is_no_token(client, owner, bike) -> None:
    client.force_login(owner)
    for once in ("", "x", "0" * 5000):
        url = reverse("bikes:bike-copy", args=[bike.pk])
        assert client.post(url, {"name": "n", "once": once}).status_code == 302
    assert SentForm.objects.count() == 0


@pytest.mark.own_database
def test_two_presses_at_the_very_same_moment(owner, bike) -> None:
    """The second waits for the first and goes where it went."""
    once, start, answers = str(uuid.uuid4()), threading.Barrier(2), []

    def press() -> None:
        client = Client()
        client.force_login(owner)
        start.wait()
        answers.append(
            client.post(reverse("bikes:bike-copy", args=[bike.pk]), {"name": "Twin", "once": once})
        )
        connection.close()

    hands = [threading.Thread(target=press) for _ in range(2)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(timeout=300)
    assert Bike.objects.filter(name="Twin").count() == 1
    assert len({answer.url for answer in answers}) == 1


FORM = re.compile(r"<form\b[^>]*method=\"post\".*?</form>", re.DOTALL)


def test_every_form_of_every_page_carries_its_token(client, owner, things) -> None:  # noqa: F811
    client.force_login(owner)
    found = 0
    for name in sorted(PAGES):
        answer = client.get(address(name, things), {"slot": "fork", "all": "1"})
        if answer.status_code != 200 or "html" not in answer["Content-Type"]:
            continue
        for form in FORM.findall(answer.text):
            found += 1
            token = re.search(r'name="once" value="([^"]+)"', form)
            assert token, (name, form[:200])
            assert uuid.UUID(token[1])
            assert "csrfmiddlewaretoken" in form, (name, form[:200])
    assert found > 30
