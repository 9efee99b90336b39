"""The wear book on its page: readings written down and struck out, forecasts that move, what is due in the yard."""

import datetime

import pytest
from django.urls import reverse
from django.utils import timezone

from tests.web.forms import forms_of
from unkett.web.bikes.fitting import take_off
from unkett.web.jobs.handover import hand_over
from unkett.web.jobs.models import JobStep
from unkett.web.jobs.services import start_job, tick_step
from unkett.web.tasks.services import do_next
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import wear_due
from unkett.web.wear.services import read_wear


def back(days: int) -> datetime.date:
    return timezone.localdate() - datetime.timedelta(days=days)


def read(client, bike, **typed):
    page = reverse("bikes:wear", args=[bike.pk])
    form = next(form for form in forms_of(client.get(page).text) if form.action.endswith("/wear/read/"))
    return client.post(form.action, {**form.fields, "what": "chain_pct:chain", **typed})


def test_readings_make_a_forecast_that_moves(client, owner, bike) -> None:
    """Nine sprockets: 0.75 %. 0.15 % 40 days ago and 0.45 % today: 0.0075 a day, 40 days more."""
    client.force_login(owner)
    assert read(client, bike, value="0,15", on=back(40).isoformat()).status_code == 302
    assert read(client, bike, value="0.45").status_code == 302
    page = reverse("bikes:wear", args=[bike.pk])
    due = timezone.localdate() + datetime.timedelta(days=40)
    assert f"reaches it about <b>{due.day} {due:%b %Y}" in client.get(page).text
    assert "worn" in client.get("/").text.lower()
    read(client, bike, value="0.6")
    assert f"reaches it about <b>{due.day} {due:%b %Y}" not in client.get(page).text
    last = WearReading.objects.last()
    client.post(reverse("bikes:wear-strike", args=[last.pk]), {"once": ""})
    assert f"reaches it about <b>{due.day} {due:%b %Y}" in client.get(page).text


@pytest.mark.parametrize(
    "typed",
    [{"value": "much"}, {"value": "34.87"}, {"value": "0.5", "km": "-4"}, {"value": "0.5", "on": "2099-01-01"},
     {"value": ""}, {"value": "nan"}],
)  # fmt: skip
def test_a_reading_that_is_none_is_told_and_not_stored(client, owner, bike, typed) -> None:
    client.force_login(owner)
    answer = read(client, bike, **typed)
    assert answer.status_code == 422
    assert 'class="wrong"' in answer.text
    assert not WearReading.objects.exists()


def test_a_part_takes_its_readings_along(owner, bike) -> None:
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.9)
    assert [one.worn for one in wear_due(owner)] == [True]
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    assert wear_due(owner) == []


def test_what_a_job_read_is_in_the_book_once_the_bike_is_handed_over(owner, plan, bike) -> None:
    job = start_job(actor=owner, plan_id=plan.pk)
    first = job.steps.first()
    first.content.update(slot="rear_derailleur", reading={"word": "hanger, the most off", "unit": "mm"})
    first.save()
    for step in job.steps.all():
        if step.content["does"] != "hand_over":
            reading = 3.5 if step.pk == first.pk else None
            tick_step(actor=owner, job_id=job.pk, step_id=step.pk, reading=reading)
    JobStep.objects.exclude(done_at=None).update(done_at=timezone.now() - datetime.timedelta(days=1))
    assert not WearReading.objects.exists()
    hand_over(actor=owner, job_id=job.pk)
    one = WearReading.objects.get()
    assert (one.slot, one.sort, one.value, one.on) == ("frame", "hanger_mm", 3.5, back(1))


def test_the_yard_asks_a_constant_number_of_queries(owner, bike, django_assert_max_num_queries) -> None:
    for n in range(12):
        read_wear(
            actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.05 * n, on=back(60 - n)
        )
    with django_assert_max_num_queries(1):
        wear_due(owner)


def test_another_limit_stands_for_every_reading(client, owner, bike) -> None:
    client.force_login(owner)
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.6)
    assert not WearReading.objects.get().worn  # nine sprockets: 0.75
    url = reverse("rulebook:setting-change")
    assert client.post(url, {"name": "chain_worn_wide_pct", "value": "0.5", "once": ""}).status_code == 302
    assert do_next()
    assert WearReading.objects.get().worn
    client.post(url, {"name": "tax_pct", "value": "10", "once": ""})
    assert not do_next()
