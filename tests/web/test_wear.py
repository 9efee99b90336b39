"""The wear log on its page: readings written down and struck out, forecasts that move, what is due in the yard."""

import datetime

import pytest
from django.urls import reverse
from django.utils import timezone

from tests.web.forms import forms_of
from tests.web.ticking import tick
from unkett.core.formats.reader import build_from
from unkett.web.bikes.fitting import take_off
from unkett.web.bikes.models import BikePart
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import store_build
from unkett.web.bin.queries import bikes_needing
from unkett.web.bin.services import fit_from_bin
from unkett.web.jobs.handover import hand_over
from unkett.web.jobs.models import JobStep
from unkett.web.jobs.services import start_job
from unkett.web.plans import carrying, services
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import planned
from unkett.web.plans.shelf import shelf_of
from unkett.web.tasks.services import do_next
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import series_of, wear_due
from unkett.web.wear.services import read_wear, void_reading


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
    client.post(reverse("bikes:wear-void", args=[last.pk]), {"once": ""})
    assert f"reaches it about <b>{due.day} {due:%b %Y}" in client.get(page).text


@pytest.mark.parametrize(
    "typed",
    [{"value": "much"}, {"value": "34.87"}, {"value": "0.5", "km": "-4"}, {"value": "0.5", "on": "2099-01-01"},
     {"value": ""}, {"value": "nan"}],
)  # fmt: skip
def test_a_reading_that_is_none_is_reported_and_not_stored(client, owner, bike, typed) -> None:
    client.force_login(owner)
    answer = read(client, bike, **typed)
    assert answer.status_code == 422
    assert 'class="wrong"' in answer.text
    assert not WearReading.objects.exists()


def test_a_part_takes_its_readings_along(owner, bike) -> None:
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.9)
    assert [one.worn for one in wear_due(owner)] == [True]
    bike.refresh_from_db()
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    assert wear_due(owner) == []


def test_what_a_job_read_is_in_the_book_once_the_bike_is_handed_over(owner, plan, bike) -> None:
    job = start_job(actor=owner, plan_id=plan.pk)
    first = job.steps.first()
    first.content.update(slot="rear_derailleur", reading={"word": "hanger, the most off", "unit": "mm"})
    first.save()
    for step in job.steps.all():
        if step.content["does"] != "hand_over":
            more = {"reading": 3.5} if step.pk == first.pk else {}
            tick(owner, job, step.key, **more)
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


def read_chain(owner, bike, value, on=None, km=None) -> WearReading:
    return read_wear(
        actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=value, km=km, on=on or back(0)
    )


def verdict_of(owner, bike, rule):
    return next(one for one in current_bike(owner, bike.pk).check.findings if one.rule == rule).key


def test_a_part_carries_its_last_reading_and_its_bike_is_judged_by_it(owner, bike) -> None:
    read_chain(owner, bike, 0.3, back(30))
    assert (bike.fitted.get(slot="chain").attrs["elongation_pct"], verdict_of(owner, bike, "chain-wear")) == (
        0.3, "fresh",
    )  # fmt: skip
    last = read_chain(owner, bike, 0.8)
    read_chain(owner, bike, 0.5, back(10))  # written down late: the newest day stays what counts
    assert verdict_of(owner, bike, "chain-wear") == "worn"
    void_reading(actor=owner, reading_id=last.pk)
    assert bike.fitted.get(slot="chain").attrs["elongation_pct"] == 0.5
    bike.refresh_from_db()
    assert bike.version == 5


def test_readings_and_rate_go_with_the_piece_to_the_bin_another_bike_and_back(owner, bike) -> None:
    """0.2 % over 1000 km on one bike, 0.1 over 500 on the next: at 0.45 % the limit of 0.75 is 1500 km further."""
    read_chain(owner, bike, 0.15, back(90), km=500)
    read_chain(owner, bike, 0.35, back(60), km=1500)
    chain = bike.fitted.get(slot="chain")
    bike.refresh_from_db()
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    assert [one.value for one in series_of(owner, chain.pk, "chain_pct").rows] == [0.15, 0.35]
    other = store_build(owner, build_from({"name": "Other", "parts": {"cassette": {"attrs": {"speeds": 9}}}}))
    fit_from_bin(actor=owner, bike_id=other.pk, version=other.version, slot="chain", part_id=chain.pk)
    read_chain(owner, other, 0.35, back(30), km=200)
    read_chain(owner, other, 0.45, back(10), km=700)
    found = series_of(owner, chain.pk, "chain_pct")
    assert (len(found.rows), found.outlook.by, round(found.outlook.at)) == (4, "km", 2200)
    other.refresh_from_db()
    take_off(actor=owner, bike_id=other.pk, version=other.version, slot="chain")
    bike.refresh_from_db()
    fit_from_bin(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain", part_id=chain.pk)
    assert [one.value for one in series_of(owner, chain.pk, "chain_pct").rows] == [0.15, 0.35, 0.35, 0.45]
    assert current_bike(owner, bike.pk).build.parts["chain"].attrs["elongation_pct"] == 0.45
    assert [one.part.bike_id for one in wear_due(owner)] in ([bike.pk], [])


def test_a_worn_out_piece_is_offered_nowhere(owner, bike) -> None:
    read_chain(owner, bike, 0.9)
    chain = bike.fitted.get(slot="chain")
    bike.refresh_from_db()
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    chain.refresh_from_db()
    chain.attrs = {**chain.attrs, "speeds": 9}
    chain.save()
    assert f"b{chain.pk}" not in {part.id for part in shelf_of(owner, current_bike(owner, bike.pk).build)}
    assert bikes_needing(owner, chain).go == 0
    chain.attrs = {**chain.attrs, "elongation_pct": 0.2}
    chain.save()
    assert f"b{chain.pk}" in {part.id for part in shelf_of(owner, current_bike(owner, bike.pk).build)}
    assert bikes_needing(owner, chain).go == 1


@pytest.mark.parametrize(("value", "where"), [(0.9, "scrapped"), (0.2, "bench")])
def test_a_chain_that_comes_off_is_scrapped_worn_or_kept_with_its_cassette(
    owner, bike, plan, catalogue, value, where
) -> None:
    read_chain(owner, bike, value)
    cassette = bike.fitted.get(slot="cassette")
    wanted = {"cassette": catalogue["Wide nine"].pk, "chain": catalogue["Chain of 114"].pk}
    for slot, part_id in wanted.items():
        version = Plan.objects.get(pk=plan.pk).version
        services.swap_part(actor=owner, plan_id=plan.pk, version=version, slot=slot, part_id=part_id)
    assert planned(owner, plan.pk).build.parts["cassette"].attrs["unused"] is True
    for to in ("agreed", "on stand"):
        version = Plan.objects.get(pk=plan.pk).version
        services.move_plan(actor=owner, plan_id=plan.pk, version=version, to=to)
    fresh = Plan.objects.select_related("bike").get(pk=plan.pk)
    carrying.apply_changes(
        actor=owner, plan_id=plan.pk, version=fresh.version, bike_version=fresh.bike.version
    )
    old = BikePart.objects.get(name="Chain")
    assert (old.where, old.kept_with) == (where, None if where == "scrapped" else cassette)


def test_a_worn_chain_does_not_go_with_a_new_cassette_until_both_were_ridden(
    owner, bike, plan, catalogue
) -> None:
    read_chain(owner, bike, 0.9, back(20))
    services.swap_part(
        actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk
    )
    found = {one.rule: one.key for one in planned(owner, plan.pk).check.findings}
    assert found["chain-wear"] == "new_cassette"
    cassette = bike.fitted.get(slot="cassette")
    cassette.attrs = {**cassette.attrs, "unused": True}
    cassette.save()
    read_chain(owner, bike, 0.95)
    assert "unused" not in bike.fitted.get(slot="cassette").attrs
    assert verdict_of(owner, bike, "chain-wear") == "worn"
