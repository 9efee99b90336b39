"""A job from its first step to the hand-over: readings, waits, countersign, extra work, the days, what comes after."""

import datetime
import json
from decimal import Decimal

import icalendar
import pytest
from django.urls import reverse
from django.utils import timezone

from tests.web.forms import forms_of
from tests.web.ticking import tick, tick_all
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.web.bikes.models import Bike
from unkett.web.bikes.queries import current_bike, file_of, settings_of
from unkett.web.bikes.services import add_bike_from_file
from unkett.web.jobs import found, handover, schedule, services, stepping
from unkett.web.jobs.models import FollowUp, Job, JobStep, Schedule
from unkett.web.jobs.queries import sheet_stored
from unkett.web.plans import services as plans
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.links import address_of_link, give_link
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import planned
from unkett.web.rulebook.models import CustomStep
from unkett.web.tasks.services import do_next
from unkett.web.workshop.errors import Conflict, NotAllowed, Refused
from unkett.web.workshop.models import LogEntry, Role, User


@pytest.fixture
def job(owner, plan, catalogue) -> Job:
    """The job of a plan with one chain, agreed."""
    part = catalogue["Chain of 114"].pk
    plan = plans.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=part)
    plans.move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    return services.start_job(actor=owner, plan_id=plan.pk)


@pytest.fixture
def apprentice(workshop) -> User:
    return User.objects.create(username="tam", workshop=workshop, role=Role.APPRENTICE)


def step(job, key) -> JobStep:
    return job.steps.get(key=key)


def test_the_sheet_is_made_of_the_plan_and_the_look_over(owner, job, plan) -> None:
    keys = list(job.steps.values_list("key", flat=True))
    assert keys.index("take_off:chain") < keys.index("fit:chain") < keys.index("check:bike:ride")
    assert keys[-1] == "hand_over:bike"
    with pytest.raises(Refused, match="already"):
        services.start_job(actor=owner, plan_id=plan.pk)


def test_a_step_is_ticked_with_its_reading_and_the_first_reading_stays(client, owner, job) -> None:
    client.force_login(owner)
    page = reverse("jobs:job", args=[job.plan_id])
    tick(owner, job, "look:bike")
    one = step(job, "measure:chain:old")
    shown = client.get(page, {"step": one.pk}).text
    form = next(form for form in forms_of(shown) if form.action.endswith(f"{one.pk}/tick/"))
    assert client.post(form.action, {**form.fields, "reading": "O.5"}).status_code == 422
    assert step(job, "measure:chain:old").done_at is None
    assert client.post(form.action, {**form.fields, "reading": "0.5"}).url == page
    stepping.undo_step(actor=owner, job_id=job.pk, step_id=one.pk)
    tick(owner, job, "measure:chain:old", reading=0.6)
    one.refresh_from_db()
    assert (one.reading, one.first_reading, one.done_by) == (0.6, 0.5, owner)
    assert "(first 0.50)" in client.get(page, {"step": one.pk}).text
    assert Plan.objects.get(pk=job.plan_id).state == State.ON_STAND


def test_a_reading_is_taken_in_the_unit_it_is_typed_in(client, owner, job) -> None:
    """48 in-lb are 48 x 0.112985 = 5.42 Nm."""
    one = step(job, "look:bike")
    one.content["reading"] = {"word": "torque", "unit": "Nm"}
    one.save()
    client.force_login(owner)
    client.post(reverse("jobs:tick", args=[job.pk, one.pk]), {"reading": "48 in-lb", "once": ""})
    assert step(job, "look:bike").reading == pytest.approx(5.423, abs=0.001)


def test_what_comes_first_is_asked_for_and_who_goes_on_says_why(owner, job) -> None:
    with pytest.raises(Refused, match="First: “Open the chain"):
        tick(owner, job, "fit:chain")
    assert tick(owner, job, "fit:chain", anyway="the old one fell off").done_by == owner
    assert LogEntry.objects.filter(verb="do step", after__anyway="the old one fell off").exists()


def test_a_wait_has_to_be_over(owner, job) -> None:
    one = step(job, "look:bike")
    one.content["wait_minutes"] = 30
    one.save()
    tick(owner, job, "look:bike")
    with pytest.raises(Refused, match="waits until"):
        tick(owner, job, "measure:chain:old")
    JobStep.objects.filter(pk=one.pk).update(done_at=timezone.now() - datetime.timedelta(minutes=31))
    tick(owner, job, "measure:chain:old")


def test_two_hands_on_one_sheet(owner, mechanic, job) -> None:
    one = step(job, "look:bike")
    stepping.start_step(actor=mechanic, job_id=job.pk, step_id=one.pk, hold=True)
    assert step(job, "look:bike").holder == mechanic
    assert sheet_stored(job).next_for(mechanic).key == "look:bike"
    tick(mechanic, job, "look:bike")
    with pytest.raises(Conflict, match="did this step"):
        tick(owner, job, "look:bike")


@pytest.mark.parametrize("call", ["skip", "sign", "over"])
def test_an_apprentices_safety_steps_want_a_mechanic(client, owner, apprentice, job, call) -> None:
    one = step(job, "check:bike:ride")
    assert one.content["safety"]
    if call == "skip":
        with pytest.raises(NotAllowed):
            stepping.skip_step(actor=apprentice, job_id=job.pk, step_id=one.pk, reason="no time")
        return
    for each in job.steps.all():
        if each.content["does"] != "hand_over":
            tick(apprentice, job, each.key)
            JobStep.objects.filter(pk=each.pk).update(done_at=timezone.now() - datetime.timedelta(days=2))
    assert step(job, "check:bike:ride").wants_countersign
    assert not step(job, "take_off:chain").wants_countersign
    if call == "over":
        with pytest.raises(Refused, match="countersigns first"):
            handover.hand_over(actor=owner, job_id=job.pk)
        return
    client.force_login(apprentice)
    sign = reverse("jobs:sign", args=[job.pk, one.pk])
    assert client.post(sign, {"once": ""}).status_code == 403
    client.force_login(owner)
    assert client.post(sign, {"once": ""}).status_code == 302
    assert step(job, "check:bike:ride").countersigned_by == owner


def test_the_hand_over_carries_the_plan_out_and_writes_down_what_comes_next(client, owner, job, bike) -> None:
    with pytest.raises(Refused, match="steps are open"):
        handover.hand_over(actor=owner, job_id=job.pk)
    tick_all(owner, job)
    client.force_login(owner)
    shown = client.get(reverse("jobs:job", args=[job.plan_id])).text
    form = next(form for form in forms_of(shown) if form.action.endswith("/hand-over/"))
    paper = client.post(form.action, form.fields).url
    assert Plan.objects.get(pk=job.plan_id).state == State.HANDED_OVER
    assert Bike.objects.get(pk=bike.pk).fitted.get(slot="chain").name == "Chain of 114"
    due = dict(FollowUp.objects.filter(bike=bike).values_list("what", "due"))
    today = timezone.localdate()
    assert due["Every bolt after the first ride"] == today + datetime.timedelta(days=14)
    month = (today.month - 1 + 2) % 12 + 1
    assert due["Chain gauged"].month == month  # every two months
    text = client.get(paper).text
    assert "Chain of 114" in text
    assert owner.called in text
    with pytest.raises(Refused, match="handed over"):
        services.note_job(
            actor=owner, job_id=job.pk, version=1, promised=None, parts_on=None, later="", kept=""
        )


def test_what_is_due_stands_in_the_yard_until_it_is_looked_at(client, owner, bike) -> None:
    soon, far = (
        timezone.localdate() + datetime.timedelta(days=3),
        timezone.localdate() + datetime.timedelta(days=90),
    )
    FollowUp.objects.create(bike=bike, what="Chain gauged", due=soon)
    FollowUp.objects.create(bike=bike, what="Damper serviced", due=far)
    client.force_login(owner)
    shown = client.get("/").text
    assert "Chain gauged" in shown
    assert "Damper serviced" not in shown
    form = next(form for form in forms_of(shown) if "/follow-ups/" in form.action)
    client.post(form.action, form.fields)
    assert "Chain gauged" not in client.get("/").text


def test_a_job_in_work_is_a_card_of_the_yard(client, owner, job) -> None:
    """The card has the bike drawn, how far the job is and its first open step."""
    client.force_login(owner)
    page = client.get(reverse("bikes:yard")).text
    card = page.partition('data-testid="in-work"')[2].partition("</section>")[0]
    steps = list(job.steps.order_by("place"))
    assert f"0 of {len(steps)}" in " ".join(card.split())
    assert steps[0].says[:40] in card
    assert f'id="on-bench-{job.pk}-title"' in card
    assert "Do not ride" not in card


def test_something_found_is_a_step_and_a_line_of_the_quote(client, owner, job) -> None:
    """In own words, by a tick on a second part, and a part: the sheet keeps its ticks, each line waits to be agreed."""
    tick(owner, job, "look:bike")
    before = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote.totals.gross
    found.find_own(
        actor=owner,
        job_id=job.pk,
        slot="bike",
        what="Bell rattles",
        minutes=15,
        price=Decimal(4),
        given=False,
    )
    keys = list(job.steps.values_list("key", flat=True))
    assert keys.index("adjust:bike:own-1") < keys.index("check:bike:bolts")
    assert step(job, "look:bike").done_by == owner
    line = job.plan.quote_lines.get()
    assert (line.title, line.minutes, line.price, line.later, line.agreed_at) == (
        "Found: Bell rattles", 15, Decimal("4.00"), True, None,
    )  # fmt: skip
    found.find_defect(
        actor=owner, job_id=job.pk, tick="frame_dent", slots=["frame"], note="left of the lug", given=True
    )
    looked = Bike.objects.get(pk=job.plan.bike_id).looked
    assert looked["frame_dent"]["slots"] == ["frame"]
    assert job.steps.filter(key="look:frame:frame_dent").exists()
    quote = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote
    assert quote.totals.gross == before  # what waits to be agreed and what is free is not counted
    assert [row.title for row in quote.to_agree] == ["Found: Bell rattles"]
    shown = client.get(
        reverse("workshop:look", args=[address_of_link(give_link(actor=owner, plan_id=job.plan_id))])
    )
    assert "Bell rattles" in shown.text
    with pytest.raises(InputError, match="choose what was found"):
        found.find_defect(actor=owner, job_id=job.pk, tick="none", slots=["frame"])
    with pytest.raises(InputError, match="say what was found"):
        found.find_own(actor=owner, job_id=job.pk, slot="bike", what=" ", minutes=1, price=Decimal(0))


def test_the_sheet_anew_keeps_what_is_done(owner, job) -> None:
    tick(owner, job, "look:bike")
    plan = Plan.objects.get(pk=job.plan_id)
    plan.changes.update(name="Another chain")
    services.update_sheet(actor=owner, job_id=job.pk)
    assert step(job, "look:bike").done_by == owner
    assert step(job, "fit:chain").content["part"] == "Another chain"
    assert list(job.steps.values_list("place", flat=True)) == list(range(job.steps.count()))


def test_another_part_in_the_plan_is_not_fitted_by_the_old_tick(owner, job) -> None:
    """The old chain's fitting and every check after it are open again; what came before stays done."""
    tick(owner, job, "look:bike")
    tick(owner, job, "measure:chain:old")
    tick(owner, job, "take_off:chain")
    tick(owner, job, "fit:chain", reading=114, anyway="the wheel stays in")
    tick(owner, job, "check:bike:ride", anyway="tried")
    job.plan.changes.update(name="Another chain")
    services.update_sheet(actor=owner, job_id=job.pk)
    open_again = {
        key: step(job, key).done_at is None for key in ("look:bike", "fit:chain", "check:bike:ride")
    }
    assert open_again == {"look:bike": False, "fit:chain": True, "check:bike:ride": True}
    assert (step(job, "fit:chain").reading, step(job, "fit:chain").first_reading) == (None, 114)


def test_after_the_hand_over_the_bike_needs_nothing_that_was_done(owner, plan, bike, catalogue) -> None:
    """Eight sprockets under a nine-speed chain are accepted and signed; another chain asks again."""
    part = catalogue["Eight"].pk
    changed = plans.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    asked = {need["what"] for one in planned(owner, plan.pk).difference.new for need in one.needs}
    assert asked
    plans.move_plan(actor=owner, plan_id=plan.pk, version=changed.version, to="agreed")
    job = services.start_job(actor=owner, plan_id=plan.pk)
    tick_all(owner, job)
    handover.hand_over(actor=owner, job_id=job.pk)
    bike.refresh_from_db()
    fitted = list(bike.fitted.all())
    assert {one.what for one in bike.build(fitted).settled} == asked
    assert not asked & {need["what"] for one in check(bike.build(fitted)).findings for need in one.needs}
    file = json.dumps(file_of(current_bike(owner, bike.pk))).encode()
    again = add_bike_from_file(actor=owner, content=file)
    assert again.build(list(again.fitted.all())).settled == bike.build(fitted).settled
    others = [part for part in fitted if part.slot not in ("cassette", "chain")]
    assert bike.build(others).settled == ()


def test_a_part_that_the_sheet_does_not_know_is_not_handed_over(owner, job) -> None:
    tick_all(owner, job)
    job.plan.changes.update(name="Another chain")
    with pytest.raises(Refused, match="Another chain now"):
        handover.hand_over(actor=owner, job_id=job.pk)
    assert Plan.objects.get(pk=job.plan_id).state == State.ON_STAND


def test_work_outside_holds_the_hand_over(owner, job) -> None:
    tick_all(owner, job)
    sent = services.send_outside(actor=owner, job_id=job.pk, what="Paint", cost=Decimal(80), days=5)
    assert sent.due == timezone.localdate() + datetime.timedelta(days=5)
    with pytest.raises(Refused, match="outside"):
        handover.hand_over(actor=owner, job_id=job.pk)
    services.back_from_outside(actor=owner, job_id=job.pk, outside_id=sent.pk)
    assert handover.hand_over(actor=owner, job_id=job.pk).ended is not None


def test_papers_and_their_pdf(client, owner, job) -> None:
    client.force_login(owner)
    for sort, says in (("sheet", "Open the chain"), ("torques", "No torque"), ("hand-over", "Next time")):
        page = reverse("jobs:paper", args=[job.pk, sort])
        assert says in client.get(page).text
        assert client.post(reverse("jobs:make-pdf", args=[job.pk, sort]), {"once": ""}).url == page
        assert do_next()
        link = client.get(page).text.split('class="button" href="')[1].split('"')[0]
        assert client.get(link).content.startswith(b"%PDF")
    assert client.get(reverse("jobs:paper", args=[job.pk, "poem"])).status_code == 404


def test_the_days_are_worked_out_and_a_session_moved_by_hand(client, owner, mechanic, job) -> None:
    client.force_login(owner)
    services.note_job(
        actor=owner, job_id=job.pk, version=1, parts_on=None, later="", kept="",
        promised=timezone.now() + datetime.timedelta(days=6),
    )  # fmt: skip
    schedule.keep_stands(actor=owner, stands=1)
    client.post(reverse("jobs:days-work-out"), {"once": ""})
    assert do_next()
    board = Schedule.objects.get()
    assert len(board.content["placed"]) == job.steps.count()
    assert board.content["late"] == {}
    day = (board.content["placed"][0]["start"]) // 1440
    Schedule.objects.update(
        first_day=timezone.localdate() - datetime.timedelta(days=day)
    )  # that day is today
    assert 'data-testid="today"' in client.get("/").text
    Schedule.objects.update(first_day=timezone.localdate())
    assert client.get(reverse("jobs:days"), {"day": day}).text.count('data-testid="session"') == 1
    then = (timezone.localtime() + datetime.timedelta(days=5)).replace(hour=9, minute=30)
    while then.isoweekday() > 5:
        then += datetime.timedelta(days=1)
    move = reverse("jobs:days-move", args=[job.pk, 0])
    typed = {"not_before": then.strftime("%Y-%m-%dT%H:%M"), "hand": mechanic.pk, "once": ""}
    assert client.post(move, typed).status_code == 302
    assert do_next()
    placed = Schedule.objects.get().content["placed"]
    assert {one["hand"] for one in placed} == {str(mechanic.pk)}
    moved_to = (then.date() - timezone.localdate()).days * 1440 + 9 * 60 + 30
    assert min(one["start"] for one in placed) == moved_to
    assert "shifted by +" in client.get(reverse("jobs:days"), {"day": moved_to // 1440}).text


def test_a_promise_that_breaks_is_reported_on_the_page(client, owner, job) -> None:
    services.note_job(
        actor=owner, job_id=job.pk, version=1, parts_on=None, later="", kept="",
        promised=timezone.now() - datetime.timedelta(hours=1),
    )  # fmt: skip
    schedule.ask_days(actor=owner)
    assert do_next()
    client.force_login(owner)
    assert 'data-testid="late"' in client.get(reverse("jobs:days")).text


def test_the_schedule_is_made_again_by_itself_when_work_changes(client, owner, job) -> None:
    """A step that is done makes it stale; a minute later it is made again without that step; then all is up to date."""
    schedule.ask_days(actor=owner)
    assert do_next()
    assert not schedule.renew_next()
    tick(owner, job, "look:bike")
    assert Schedule.objects.get().stale
    assert not schedule.renew_next()  # made less than a minute ago
    Schedule.objects.update(made=timezone.now() - datetime.timedelta(minutes=2))
    assert schedule.renew_next()
    board = Schedule.objects.get()
    assert len(board.content["placed"]) == job.steps.count() - 1
    assert (board.stale, schedule.renew_next()) == (False, False)
    for changed in (
        lambda: services.update_sheet(actor=owner, job_id=job.pk),
        lambda: schedule.keep_stands(actor=owner, stands=3),
        lambda: services.send_outside(actor=owner, job_id=job.pk, what="Paint", cost=Decimal(1), days=2),
    ):
        Schedule.objects.update(stale=False)
        changed()
        assert Schedule.objects.get().stale


def test_after_the_hand_over_the_job_shows_its_last_step(client, owner, job) -> None:
    tick_all(owner, job)
    handover.hand_over(actor=owner, job_id=job.pk)
    client.force_login(owner)
    shown = client.get(reverse("jobs:job", args=[job.plan_id])).text
    assert "Hand over: torques" in shown.partition('data-testid="step"')[2]


def test_hours_out_of_order_are_refused(owner) -> None:
    times = {"begins": datetime.time(9), "pause_from": datetime.time(13), "pause_to": datetime.time(12)}
    with pytest.raises(InputError, match="in their order"):
        schedule.keep_hours(
            actor=owner, user_id=owner.pk, values={**times, "ends": datetime.time(18), "days": "1"}
        )


def test_the_calendar_holds_promises_waits_and_what_is_due(client, owner, job, bike) -> None:
    promised = timezone.now().replace(microsecond=0) + datetime.timedelta(days=2)
    services.note_job(
        actor=owner, job_id=job.pk, version=1, promised=promised, parts_on=None, later="", kept=""
    )
    FollowUp.objects.create(bike=bike, what="Chain gauged", due=timezone.localdate())
    client.force_login(owner)
    found = icalendar.Calendar.from_ical(client.get(reverse("jobs:calendar")).content)
    by_uid = {str(event["uid"]): event for event in found.walk("VEVENT")}
    assert by_uid[f"promise-{job.pk}@unkett"].decoded("dtstart") == promised
    assert any("Chain gauged" in str(event["summary"]) for event in by_uid.values())


def test_own_steps_are_written_reported_and_dropped(client, owner, job) -> None:
    client.force_login(owner)
    write = reverse("jobs:step-write")
    words = {"code": "look:bike", "says": "Look, and look again.", "minutes": "9", "once": ""}
    assert client.post(write, words).status_code == 302
    services.update_sheet(actor=owner, job_id=job.pk)
    assert step(job, "look:bike").content["says"] == "Look, and look again."
    for wrong, says in (
        ({"code": "", "does": "check", "slot": "bike"}, "Enter a name"),
        ({"code": "", "name": "ours", "does": "check", "slot": "bell"}, "Select a valid choice"),
        ({"minutes": "-4"}, "Minutes, hands on: -4 given; 0 and more minutes"),
        ({"after": "check:bike:ride"}, "Not before these: these steps wait for each other: "),
    ):
        answer = client.post(write, {**words, **wrong})
        assert answer.status_code == 422
        assert says in answer.text
        assert "check:bike:ride →" not in answer.text
    assert CustomStep.objects.get().content["minutes"] == 9
    assert client.post(reverse("jobs:step-drop"), {"code": "look:bike", "once": ""}).status_code == 302
    assert not CustomStep.objects.exists()


def test_a_step_of_ones_own_is_called_by_its_name(client, owner, job) -> None:
    client.force_login(owner)
    eyes = {
        "name": "Second pair of eyes",
        "does": "check",
        "slot": "bike",
        "says": "A mechanic looks.",
        "minutes": 5,
    }
    write = reverse("jobs:step-write")
    assert client.post(write, {**eyes, "after": ["fit:crank"], "once": ""}).status_code == 302
    made = CustomStep.objects.get()
    assert made.content["after"] == ["fit:crank"]
    for taken in (eyes["name"], "ride"):  # one of ours, and one that ships
        answer = client.post(write, {**eyes, "name": taken, "says": "Over it.", "once": ""})
        assert answer.status_code == 422
        assert "a step of this name already" in answer.text
    assert CustomStep.objects.get().content == made.content
    shown = client.get(reverse("jobs:steps"), {"step": made.code}).text
    assert "Check: the bike, second pair of eyes" in shown
    assert "<h2>Check: the bike, second pair of eyes</h2>" in shown
    assert 'name="slot"' not in shown
    again = {"code": made.code, "says": "Two look.", "minutes": 6, "once": ""}
    assert client.post(write, again).status_code == 302
    assert (
        CustomStep.objects.get().content | {"says": "Two look.", "slot": "bike"}
        == CustomStep.objects.get().content
    )


def test_pages_ask_a_constant_number_of_queries(client, owner, job, django_assert_max_num_queries) -> None:
    client.force_login(owner)
    client.get(reverse("jobs:job", args=[job.plan_id]))
    with django_assert_max_num_queries(24):
        client.get(reverse("jobs:job", args=[job.plan_id]))
    with django_assert_max_num_queries(16):
        client.get(reverse("jobs:days"))


def test_a_picture_at_a_step(client, owner, job) -> None:
    one = step(job, "look:bike")
    client.force_login(owner)
    assert client.post(reverse("jobs:picture", args=[job.pk, one.pk]), {"once": ""}).status_code == 422
    with pytest.raises(InputError, match="no picture"):
        stepping.keep_step_picture(
            actor=owner, job_id=job.pk, step_id=one.pk, content=json.dumps({}).encode()
        )
