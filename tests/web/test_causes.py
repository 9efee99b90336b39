"""A complaint on a bike: written down, searched, taken on as work, asked again at the hand-over, counted."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.web.bikes import complaints
from unkett.web.bikes.models import Bike, BikePart, ClosedCase, OwnWeight
from unkett.web.bikes.queries import current_bike
from unkett.web.causes import services
from unkett.web.jobs import handover
from unkett.web.jobs.services import start_job
from unkett.web.plans.models import Plan
from unkett.web.plans.services import move_plan
from unkett.web.wear.models import WearReading
from unkett.web.workshop.errors import Conflict, NotAllowed, NotThere, Refused

from .test_jobs import tick_all


def at(actor, bike):
    """The actor, the bike and its version as it is now."""
    version = Bike.objects.values_list("version", flat=True).get(pk=bike.pk)
    return {"actor": actor, "bike_id": bike.pk, "version": version}


def complained(owner, bike, *keys):
    complaints.complain(**at(owner, bike), keys=keys)
    return at(owner, bike)


def run_of(owner, bike, n=0):
    return services.search_of(owner, current_bike(owner, bike.pk)).runs[n]


def stops(owner, bike):
    return services.stops_of(services.search_of(owner, current_bike(owner, bike.pk)))


def held(owner, bike):
    return [one.cause.code for one in run_of(owner, bike).causes if one.holds]


def test_complaints_are_kept_with_who_said_them_and_can_be_undone(owner, mechanic, bike) -> None:
    complained(owner, bike, "skip_load", "brake_weak@front")
    complaints.complain(**at(mechanic, bike), keys=["skip_load", "rattle"])
    bike.refresh_from_db()
    found = complaints.open_complaints(bike)
    assert [(one.key, one.by) for one in found] == [("skip_load", "Olla"), ("rattle", "Mads")]
    assert stops(owner, bike) == []
    complained(owner, bike, "brake_weak@front")
    assert stops(owner, bike)[0].startswith("Brake is weak, the lever feels firm, front.")


@pytest.mark.parametrize("key", ["no_such", "skip_load@front", "brake_weak@left"])
def test_what_is_no_complaint_is_reported_and_nothing_is_stored(owner, bike, key) -> None:
    with pytest.raises(InputError) as caught:
        complained(owner, bike, "rattle", key)
    assert caught.value.faults[0].path == "complaint"
    assert Bike.objects.get(pk=bike.pk).search == {}


def test_checks_answer_the_search_and_can_be_taken_back(owner, bike) -> None:
    complained(owner, bike, "skip_load")
    first = run_of(owner, bike).next[0].check.code
    complaints.say(**at(owner, bike), key="look_sprockets", result="hooked or short")
    assert "cassette_worn" in held(owner, bike)
    complaints.say(**at(owner, bike), key="look_sprockets", result="even")  # looked again
    assert "cassette_worn" not in held(owner, bike)
    complaints.say(**at(owner, bike), key=first, result=None)
    assert first not in [one.check.code for one in run_of(owner, bike).next]
    complaints.take_back(**at(owner, bike), key=first)
    complaints.take_back(**at(owner, bike), key="look_sprockets")
    assert complaints.given_answers(Bike.objects.get(pk=bike.pk)) == []
    with pytest.raises(NotThere):
        complaints.take_back(**at(owner, bike), key="look_sprockets")
    with pytest.raises(InputError, match="hooked"):
        complaints.say(**at(owner, bike), key="look_sprockets", result="no such")
    with pytest.raises(NotThere):
        complaints.say(**at(owner, bike), key="look_sprockets@front", result="even")
    with pytest.raises(Conflict):
        complaints.say(**{**at(owner, bike), "version": 1}, key="look_sprockets", result="even")


def test_rules_readings_and_ticks_of_the_bike_count(owner, bike) -> None:
    complained(owner, bike, "shift_some")
    assert "clicks_differ" not in held(owner, bike)
    BikePart.objects.filter(bike=bike, slot="rear_shifter").update(
        attrs={"mode": "indexed", "speeds": 8, "pull_per_click_mm": 2.5}
    )
    assert "clicks_differ" in held(owner, bike)


def test_a_reading_decides_by_its_limit_and_goes_into_the_wear_book(owner, bike) -> None:
    complained(owner, bike, "skip_load")
    result, _ = services.measured(**at(owner, bike), key="gauge_chain", value=0.5)
    assert result == "under its limit"  # nine sprockets: 0.75 %
    result, _ = services.measured(**at(owner, bike), key="gauge_chain", value=0.8)
    assert (result, WearReading.objects.count()) == ("past its limit", 2)
    assert "chain_worn" in held(owner, bike)
    with pytest.raises(NotThere):
        services.measured(**at(owner, bike), key="look_pads", value=1)
    with pytest.raises(InputError, match="allowed"):
        services.measured(**at(owner, bike), key="gauge_chain", value=99)


def test_a_held_cause_becomes_a_tick_with_its_reason_and_work_of_the_job(owner, bike) -> None:
    complained(owner, bike, "skip_load")
    complaints.say(**at(owner, bike), key="back_pedal", result="a link jumps or stands")
    with pytest.raises(NotThere):
        services.settle(**at(owner, bike), cause="ring_worn", end=None)
    done = services.settle(**at(owner, bike), cause="chain_link", end=None)
    bike.refresh_from_db()
    assert (done.plan, bike.looked["chain_link"]["note"]) == (None, "Because of: Chain skips under load")
    assert bike.search["settled"]["chain_link"]["how"] == "tick"
    plan = Plan.objects.create(bike=bike, name="Mend", made_by=owner, changed_by=owner, state_by=owner)
    move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    job = start_job(actor=owner, plan_id=plan.pk)
    assert job.steps.filter(key__endswith=":chain:chain_link").exists()
    agreed = plan.agreements.get().content["rows"]
    assert [row["minutes"] for row in agreed if row["title"] == "Finding the cause: 1 check"] == [
        1
    ]  # half, rounded up


def test_a_defect_that_only_a_search_finds_is_work_too_and_survives_the_look_over(
    client, owner, bike
) -> None:
    complained(owner, bike, "bolts_loosen")
    complaints.say(**at(owner, bike), key="bolt_out", result="dry, no locker")
    services.settle(**at(owner, bike), cause="no_locker", end=None)
    bike.refresh_from_db()
    assert bike.looked["no_locker"]["slots"] == ["bike"]
    client.force_login(owner)
    url = reverse("bikes:inspection", args=[bike.pk])
    page = client.get(url).text
    assert "No threadlocker where it belongs" not in page  # the walk round the bike does not grow
    form = next(
        form for form in forms_of(page) if "chain_link.slot" in form.fields or form.action in ("", url)
    )
    client.post(url, {"version": Bike.objects.get(pk=bike.pk).version, "chain_worn": "on", "chain_worn.slot": "chain",
                      "chain_worn.how": "must", "once": form.fields["once"]})  # fmt: skip
    assert set(Bike.objects.get(pk=bike.pk).looked) == {"no_locker", "chain_worn"}


def test_a_cause_of_two_parts_opens_a_plan(owner, bike) -> None:
    BikePart.objects.filter(bike=bike, slot="rear_shifter").update(
        attrs={"mode": "indexed"}
    )  # clicks not read yet
    complained(owner, bike, "shift_some")
    complaints.say(**at(owner, bike), key="count_clicks", result="differ")
    done = services.settle(**at(owner, bike), cause="clicks_differ", end=None)
    assert (done.plan.name, done.plan.note) == (
        "Clicks and sprockets differ in number",
        "Because of: Good in some gears, never in others",
    )


def test_a_check_that_mends_is_written_down_once(owner, bike) -> None:
    complained(owner, bike, "shift_some")
    complaints.say(**at(owner, bike), key="barrel_test", result="clean all over")
    done = services.settle(**at(owner, bike), cause="index_off", end=None)
    assert (
        done.how
        == "done by the check “Turn the barrel adjuster a quarter turn each way, shift through the gears”"
    )
    assert Bike.objects.get(pk=bike.pk).looked == {}


def test_better_or_the_same_goes_on_and_gone_closes(owner, mechanic, bike) -> None:
    complained(owner, bike, "skip_load", "rattle")
    complaints.say(**at(owner, bike), key="back_pedal", result="a link jumps or stands")
    services.settle(**at(owner, bike), cause="chain_link", end=None)
    services.try_complaints(**at(mechanic, bike), said={"skip_load": "same", "rattle": "gone"})
    bike.refresh_from_db()
    assert [one.key for one in complaints.open_complaints(bike)] == ["skip_load"]
    assert (bike.search["mended"], complaints.given_answers(bike)) == (["chain_link"], [])
    assert "chain_link" not in [one.cause.code for one in run_of(owner, bike).causes]
    assert list(ClosedCase.objects.values_list("complaint", "causes")) == [("rattle", [])]
    services.try_complaints(**at(mechanic, bike), said={"skip_load": "gone"})
    bike.refresh_from_db()
    assert (complaints.open_complaints(bike), bike.search["last"]["complaints"][0]["by"]) == ([], "Mads")


def test_only_a_mechanic_says_that_a_complaint_is_gone(owner, workshop, bike) -> None:
    from tests.conftest import person

    complained(owner, bike, "brake_weak@front")
    for role in ("apprentice", "front_desk"):
        with pytest.raises(NotAllowed):
            services.try_complaints(
                **at(person(workshop, role, role), bike), said={"brake_weak@front": "gone"}
            )
    assert stops(owner, bike)


def test_the_hand_over_asks_again_and_its_sheet_says_what_was_found(client, owner, bike) -> None:
    complained(owner, bike, "skip_load")
    complaints.say(**at(owner, bike), key="back_pedal", result="a link jumps or stands")
    complaints.say(**at(owner, bike), key="gauge_chain", result="under its limit")
    services.settle(**at(owner, bike), cause="chain_link", end=None)
    plan = Plan.objects.create(bike=bike, name="Mend", made_by=owner, changed_by=owner, state_by=owner)
    move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    job = start_job(actor=owner, plan_id=plan.pk)
    tick_all(owner, job)
    with pytest.raises(Refused, match="Ask again first"):
        handover.hand_over(actor=owner, job_id=job.pk)
    handover.hand_over(actor=owner, job_id=job.pk, tried={"skip_load": "gone"})
    assert ClosedCase.objects.get().causes == ["chain_link"]
    client.force_login(owner)
    paper = client.get(reverse("jobs:paper", args=[job.pk, "hand-over"])).text
    for words in (
        "What was complained of",
        "Chain skips under load",
        "<b>gone</b>, tried by Olla",
        "Gauge the chain in three places: under its limit",
        "Because of: Chain skips under load",
    ):
        assert words in paper, words
    assert "Do not ride" not in paper


def test_the_page_shows_one_check_its_results_and_what_holds(client, owner, bike) -> None:
    complained(owner, bike, "skip_load")
    complaints.say(**at(owner, bike), key="back_pedal", result="a link jumps or stands")
    client.force_login(owner)
    url = reverse("bikes:causes", args=[bike.pk])
    with CaptureQueriesContext(
        connection,
    ) as queries:
        page = client.get(url).text
    assert len(queries) <= 14
    assert "Is there and can do this" in page
    assert "Seen by a check: Turn the cranks back slowly" in page
    first = run_of(owner, bike).next[0].check
    assert first.title in page
    form = next(form for form in forms_of(page) if form.action.endswith("/say/"))
    answer = client.post(form.action, {**form.fields, "result": first.results[-1]})
    assert answer.status_code == 302
    assert first.code in [one.check.code for one in complaints.given_answers(Bike.objects.get(pk=bike.pk))]
    bad = client.post(
        form.action,
        {
            **form.fields,
            "once": "",
            "check": "gauge_chain",
            "value": "x",
            "version": Bike.objects.get(pk=bike.pk).version,
        },
    )
    assert (bad.status_code, "a number such as" in bad.text or "given" in bad.text) == (422, True)


def test_stops_stand_on_stand_and_yard(client, owner, bike) -> None:
    complained(owner, bike, "brake_to_bar@rear")
    client.force_login(owner)
    for url in (
        reverse("bikes:stand", args=[bike.pk]),
        reverse("bikes:yard"),
        reverse("bikes:causes", args=[bike.pk]),
    ):
        assert "Do not ride" in client.get(url).text, url
    services.try_complaints(**at(owner, bike), said={"brake_to_bar@rear": "gone"})
    assert "Do not ride" not in client.get(reverse("bikes:stand", args=[bike.pk])).text


def test_a_held_cause_forbids_riding_where_the_complaint_does_not(client, owner, bike) -> None:
    """By a tick, on Stand, Yard and Causes alike."""
    complained(owner, bike, "skip_load")
    client.force_login(owner)
    pages = [
        reverse("bikes:stand", args=[bike.pk]),
        reverse("bikes:yard"),
        reverse("bikes:causes", args=[bike.pk]),
    ]
    assert not [url for url in pages if "Do not ride" in client.get(url).text]
    tick = {"slots": ["rear_hub"], "how": "must", "note": "", "by": "Olla", "on": "2026-11-30"}
    Bike.objects.filter(pk=bike.pk).update(looked={"freehub_slips": tick})
    for url in pages:
        assert "Freehub slips: not ridden until it is mended and tried." in client.get(url).text, url
    with CaptureQueriesContext(connection) as queries:
        client.get(reverse("bikes:yard"))
    assert len(queries) <= 26


def test_words_find_complaints_on_the_look_over(client, owner, bike) -> None:
    Bike.objects.filter(pk=bike.pk).update(complaint="It jumps on the hill")
    client.force_login(owner)
    page = client.get(reverse("bikes:inspection", args=[bike.pk])).text
    form = next(form for form in forms_of(page) if form.action.endswith("/complain/"))
    assert 'value="skip_load"' in page
    client.post(form.action, {**form.fields, "complaint": "skip_load"})
    assert [one.key for one in complaints.open_complaints(Bike.objects.get(pk=bike.pk))] == ["skip_load"]


def test_other_workshops_see_nothing(client, stranger, owner, bike) -> None:
    complained(owner, bike, "skip_load")
    client.force_login(stranger)
    assert client.get(reverse("bikes:causes", args=[bike.pk])).status_code == 404
    with pytest.raises(NotThere):
        complaints.say(**at(stranger, bike), key="back_pedal", result=None)


# the workshop's own weights


def test_own_weights_rank_and_are_forgotten_as_they_ship(client, owner, mechanic, bike) -> None:
    complained(owner, bike, "no_drive")
    services.weigh(actor=owner, complaint="no_drive", weights={"hub_cracked": 9, "crank_loose": 0})
    first = run_of(owner, bike).causes[0]
    assert (first.cause.code, "crank_loose" in [one.cause.code for one in run_of(owner, bike).causes]) == (
        "hub_cracked",
        False,
    )
    services.weigh(actor=owner, complaint="no_drive", weights={"hub_cracked": 1, "crank_loose": 1})
    assert OwnWeight.objects.count() == 0
    with pytest.raises(InputError) as caught:
        services.weigh(actor=owner, complaint="no_drive", weights={"hub_cracked": -1})
    assert caught.value.faults[0].path == "hub_cracked"
    with pytest.raises(NotAllowed):
        services.weigh(actor=mechanic, complaint="no_drive", weights={"hub_cracked": 2})
    with pytest.raises(NotThere):
        services.weigh(actor=owner, complaint="no_drive", weights={"no_such": 2})


def test_counts_are_offered_from_thirty_cases_and_never_taken_silently(client, owner, workshop) -> None:
    def close(number, *causes):
        ClosedCase.objects.bulk_create(
            ClosedCase(workshop=workshop, complaint="no_drive", causes=list(causes)) for _ in range(number)
        )

    close(27, "hub_cracked")
    close(2, "freehub_slips")
    _, rows = services.counted(workshop, "no_drive")
    assert [one.offered for one in rows if one.offered is not None] == []
    close(1, "freehub_slips")
    cases, rows = services.counted(workshop, "no_drive")
    offered = {one.cause: (one.weight, one.cases, one.offered) for one in rows}
    assert cases == 30
    assert offered["hub_cracked"] == (1, 27, 3)  # 0.9 of the cases
    assert offered["freehub_slips"] == (3, 3, 2)  # 0.1
    client.force_login(owner)
    url = reverse("rulebook:complaint", args=["no_drive"])
    page = client.get(url).text
    assert "Take the weights of your own 30 cases" in page
    assert OwnWeight.objects.count() == 0
    form = [form for form in forms_of(page) if form.action.endswith("/keep/")][-1]
    client.post(form.action, form.fields)
    assert OwnWeight.objects.get(cause="hub_cracked").weight == 3
    bad = client.post(form.action, {"weight-hub_cracked": "much"})
    assert (bad.status_code, "enter a number" in bad.text) == (422, True)
    assert client.get(reverse("rulebook:complaints")).status_code == 200
    assert client.get(reverse("rulebook:complaint", args=["no_such"])).status_code == 404
