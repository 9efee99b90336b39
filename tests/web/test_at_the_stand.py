"""A job at the stand: readings that are judged, steps in any lawful order, what is found, what does not fit."""

import datetime
import io
import threading
from decimal import Decimal

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from tests.web.forms import forms_of
from tests.web.ticking import tick, tick_all
from unkett.core.bike.wheels import wheel_slots
from unkett.core.build import plain
from unkett.core.errors import InputError
from unkett.web.bikes.inspection import Found, found_on, look_over
from unkett.web.bikes.models import Bike, BikePart, Where
from unkett.web.bikes.queries import settings_of
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.services import add_part
from unkett.web.jobs import found, handover, services, stepping
from unkett.web.jobs.models import Job, JobStep
from unkett.web.pages.job.page import PaperPage
from unkett.web.plans import services as plans
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import planned
from unkett.web.plans.shelf import one_of_each, shelf_of
from unkett.web.plans.way_search import plan_picks
from unkett.web.rulebook.models import WorkPackage
from unkett.web.wear.models import WearReading
from unkett.web.workshop.errors import Conflict, NotAllowed, Refused
from unkett.web.workshop.models import LogEntry, Role, User


def agreed(owner, plan, **parts) -> Job:
    """The job of an agreed plan with these parts, by slot."""
    for slot, part in parts.items():
        plan = plans.swap_part(actor=owner, plan_id=plan.pk, version=plan.version, slot=slot, part_id=part)
    plans.move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    return services.start_job(actor=owner, plan_id=plan.pk)


@pytest.fixture
def job(owner, plan, catalogue) -> Job:
    """A cassette of eight on a bike of nine: a lockring of 35 to 45 Nm."""
    return agreed(owner, plan, cassette=catalogue["Eight"].pk)


@pytest.fixture
def apprentice(workshop) -> User:
    return User.objects.create(username="tam", workshop=workshop, role=Role.APPRENTICE)


def at(job, key) -> JobStep:
    return job.steps.get(key=key)


def up_to(owner, job, key) -> JobStep:
    """Everything that must come before a step is done."""
    for one in job.steps.all():
        if one.key == key:
            return one
        tick(owner, job, one.key)
    raise AssertionError(key)


PAPERS = ("sheet", "torques", "hand-over")


def test_a_torque_outside_its_range_stops_and_is_kept_only_with_a_reason(client, owner, job) -> None:
    """5 Nm on a lockring of 35 to 45, typed or sent by a wrench: red, nothing advances; kept, every paper says so."""
    step = up_to(owner, job, "fit:cassette")
    client.force_login(owner)
    page = reverse("jobs:job", args=[job.plan_id])
    form = next(
        one
        for one in forms_of(client.get(page, {"step": step.pk}).text)
        if one.action.endswith(f"{step.pk}/tick/")
    )
    for typed, says in (
        ({"reading": "5", "instrument": "torque wrench"}, "5 Nm; 35–45 Nm allowed"),
        ({"reading": "600"}, "600 Nm is not possible"),
        ({"reading": ""}, "enter the torque that was read"),
        ({"reading": "", "not_measured": "no wrench"}, "enter the torque that was read"),
    ):
        answer = client.post(form.action, {**form.fields, **typed})
        assert answer.status_code == 422
        assert says in answer.text
        assert at(job, "fit:cassette").done_at is None
    kept = client.post(
        form.action, {**form.fields, "reading": "5", "keep_why": "aluminium ring, by its maker"}
    )
    assert kept.status_code == 302
    step.refresh_from_db()
    assert (step.reading, step.kept_why, step.outside != "") == (5, "aluminium ring, by its maker", True)
    for sort in PAPERS:
        text = client.get(reverse("jobs:paper", args=[job.pk, sort])).text
        assert "Outside: 5 Nm; 35–45 Nm allowed" in text, sort
        assert "aluminium ring, by its maker" in text, sort
        found_plan = planned(owner, job.plan_id)
        paper = PaperPage(actor=owner, stands=found_plan.stands, planned=found_plan, sort=sort)
        printed = render_to_string("job/on_paper.html", {"page": paper, "workshop": owner.workshop})
        assert "Outside: 5 Nm; 35–45 Nm allowed" in printed, sort  # as it goes into the PDF
    assert "outside" in client.get(page).text


def test_what_an_apprentice_keeps_needs_a_mechanic(owner, apprentice, job) -> None:
    up_to(owner, job, "fit:cassette")
    tick(apprentice, job, "fit:cassette", reading=5, keep_why="felt right")
    assert at(job, "fit:cassette").wants_countersign


def test_the_wrench_that_clicked_is_read_by_one_press(client, owner, job) -> None:
    step = up_to(owner, job, "fit:cassette")
    client.force_login(owner)
    shown = client.get(reverse("jobs:job", args=[job.plan_id]), {"step": step.pk}).text
    assert "Wrench clicked at\n          40 Nm" in shown
    client.post(reverse("jobs:tick", args=[job.pk, step.pk]), {"reading": ["", "40.0 Nm"], "once": ""})
    assert at(job, "fit:cassette").reading == 40


def test_a_reading_is_given_or_it_is_said_why_not(owner, plan, catalogue) -> None:
    job = agreed(owner, plan, chain=catalogue["Chain of 114"].pk)
    tick(owner, job, "look:bike")
    with pytest.raises(InputError, match="say why it was not measured"):
        stepping.tick_step(actor=owner, job_id=job.pk, step_id=at(job, "measure:chain:old").pk)
    step = tick(owner, job, "measure:chain:old", not_measured="gauge is lent")
    assert (step.reading, step.not_measured) == (None, "gauge is lent")


def test_the_old_chain_takes_its_reading_with_it(owner, plan, bike, catalogue) -> None:
    """0.4 % on the chain that comes off; the new one's baseline is its own."""
    old = bike.fitted.get(slot="chain")
    job = agreed(owner, plan, chain=catalogue["Chain of 114"].pk)
    tick(owner, job, "look:bike")
    tick(owner, job, "measure:chain:old", reading=0.4)
    for one in job.steps.all():
        if one.done_at is None and one.content["does"] != "hand_over":
            more = {"reading": 0.02} if one.key == "measure:chain:baseline" else {}
            if one.key == "fit:chain":
                more = {"reading": 114, "keep_why": "as measured"}
            tick(owner, job, one.key, **more)
    JobStep.objects.exclude(done_at=None).update(done_at=timezone.now() - datetime.timedelta(days=1))
    handover.hand_over(actor=owner, job_id=job.pk)
    old.refresh_from_db()
    assert old.where == Where.BENCH
    assert old.attrs["elongation_pct"] == 0.4
    assert bike.fitted.get(slot="chain").attrs["elongation_pct"] == 0.02
    assert dict(WearReading.objects.values_list("part_id", "value")) == {
        old.pk: 0.4, bike.fitted.get(slot="chain").pk: 0.02,
    }  # fmt: skip


def test_steps_are_ticked_in_any_lawful_order_and_refused_with_what_is_missing(client, owner, job) -> None:
    """The wheel may be looked at before the gears are set, though the sheet has its checks last."""
    tick(owner, job, "look:bike")
    client.force_login(owner)
    fit = at(job, "fit:cassette")
    shown = client.get(reverse("jobs:job", args=[job.plan_id]), {"step": fit.pk}).text
    assert "rear wheel out" in shown
    assert "not yet" in shown
    with pytest.raises(Refused, match="First: “"):
        tick(owner, job, "fit:cassette")
    gears, wheel = at(job, "adjust:rear_derailleur:index"), at(job, "check:rear_hub:wheel")
    assert gears.place < wheel.place
    needed = [wheel.key]
    for key in needed:
        needed += [first for first in at(job, key).content["lawful"] if first not in needed]
    for one in job.steps.filter(place__lt=wheel.place, key__in=needed, done_at=None):
        tick(owner, job, one.key)
    assert at(job, gears.key).done_at is None
    assert tick(owner, job, wheel.key).is_done
    proof = at(job, "check:bike:gears")
    JobStep.objects.filter(pk=proof.pk).update(key="check:stem:steering")
    with pytest.raises(Refused, match="First"):  # a proof is never ticked before its work, whatever is said
        tick(owner, job, "check:stem:steering", anyway="it will do")


def test_a_step_is_undone_with_what_counts_on_it(client, owner, job) -> None:
    up_to(owner, job, "fit:cassette")
    wheel = at(job, "take_off:rear_hub:wheel")
    with pytest.raises(Refused, match="comes after it"):
        stepping.undo_step(actor=owner, job_id=job.pk, step_id=wheel.pk)
    client.force_login(owner)
    shown = client.get(reverse("jobs:job", args=[job.plan_id]), {"step": wheel.pk}).text
    form = next(one for one in forms_of(shown) if one.action.endswith("take-back/"))
    assert "Undo 2 steps" in shown
    assert client.post(form.action, form.fields).status_code == 302
    done = {one.key for one in job.steps.all() if one.is_done}
    assert done == {"look:bike"}
    assert Job.objects.get(pk=job.pk).open_facts == []


def test_work_that_is_broken_off_forbids_riding_on_every_page(client, owner, job, bike) -> None:
    tick(owner, job, "look:bike")
    client.force_login(owner)
    pages = [
        reverse("bikes:yard"),
        reverse("bikes:stand", args=[bike.pk]),
        reverse("jobs:tag", args=[job.plan_id]),
    ]
    assert not [url for url in pages if "rear wheel out" in client.get(url).text]
    tick(owner, job, "take_off:rear_hub:wheel")
    for url in pages:
        text = client.get(url).text
        assert "rear wheel out" in text, url
    assert "Not to be ridden" in client.get(pages[2]).text
    tick_all(owner, job)
    handover.hand_over(actor=owner, job_id=job.pk)
    for url in pages:
        assert "rear wheel out" not in client.get(url).text, url


def test_a_brake_is_proved_by_whoever_did_not_do_the_work(owner, mechanic, plan, catalogue) -> None:
    """Of two at one job the one who took the wheel out does not prove what that spoiled, but with a reason."""
    job = agreed(owner, plan, cassette=catalogue["Eight"].pk)
    proof = next((one for one in job.steps.all() if one.proves), None)
    if proof is None:  # a plan whose work spoils no brake: one is made to be proved
        proof = at(job, "check:bike:gears")
        proof.key = "check:rear_caliper:brake"
        proof.content = {
            **proof.content,
            "gives": ["brake_proved_rear"],
            "lawful": ["take_off:rear_hub:wheel"],
        }
        proof.save()
        wheel = at(job, "take_off:rear_hub:wheel")
        wheel.content = {**wheel.content, "ends": [*wheel.content["ends"], "brake_proved_rear"]}
        wheel.save()
    tick(mechanic, job, "look:bike")
    for key in proof.content["lawful"]:
        if at(job, key).done_at is None:
            tick(owner, job, key)
    with pytest.raises(Refused, match="let them prove it"):
        stepping.tick_step(actor=owner, job_id=job.pk, step_id=proof.pk)
    assert stepping.tick_step(actor=mechanic, job_id=job.pk, step_id=proof.pk).done_by == mechanic
    stepping.undo_step(actor=mechanic, job_id=job.pk, step_id=proof.pk)
    error = stepping.tick_step(actor=owner, job_id=job.pk, step_id=proof.pk, anyway="Jory is at lunch")
    assert error.proved_why == "Jory is at lunch"
    stepping.undo_step(actor=owner, job_id=job.pk, step_id=proof.pk)
    with pytest.raises(Refused, match="proved, never skipped"):
        stepping.skip_step(actor=owner, job_id=job.pk, step_id=proof.pk, reason="no time")


def test_what_cannot_be_undone_is_asked_once_more(owner, job) -> None:
    step = up_to(owner, job, "fit:cassette")
    step.content = {**step.content, "irreversible": True}
    step.save()
    with pytest.raises(InputError, match="confirm the last check"):
        stepping.tick_step(actor=owner, job_id=job.pk, step_id=step.pk, reading=40)
    assert stepping.tick_step(actor=owner, job_id=job.pk, step_id=step.pk, reading=40, sure=True).is_done


def test_a_part_found_on_the_stand_is_planned_and_waits_to_be_agreed(client, owner, job, catalogue) -> None:
    tick(owner, job, "look:bike")
    before = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote.totals.gross
    client.force_login(owner)
    part = catalogue["Chain of 114"]
    shown = client.get(reverse("jobs:job", args=[job.plan_id])).text
    form = next(one for one in forms_of(shown) if one.action.endswith("/parts/"))
    drawer = client.get(client.get(form.action, {"slot": "chain"}).url).text
    choice = next(one for one in forms_of(drawer) if one.fields.get("part") == str(part.pk))
    assert client.post(choice.action, choice.fields).url == reverse("jobs:job", args=[job.plan_id])
    assert at(job, "look:bike").done_by == owner
    assert at(job, "fit:chain").content["part"] == "Chain of 114"
    quote = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote
    assert quote.totals.gross == before
    assert [row.title for row in quote.to_agree] == ["Found: Chain: Chain of 114"]
    version = Plan.objects.get(pk=job.plan_id).version
    for wrong in ({"part": 0}, {"version": version - 1}):
        answer = client.post(choice.action, {"version": version, "part": part.pk, "once": "", **wrong})
        assert answer.status_code in (403, 409, 422)
    assert client.post(reverse("jobs:find", args=[job.pk, "poem"]), {"once": ""}).status_code == 404
    assert (
        client.post(reverse("jobs:find", args=[job.pk, "defect"]), {"tick": "", "once": ""}).status_code
        == 422
    )


def test_what_does_not_fit_is_taken_off_the_job_and_the_quote(owner, job, bike) -> None:
    """The old cassette goes back on by its own steps, and what was agreed for the new one is taken off the sum."""
    before = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote
    row = next(row for row in before.rows if row.cause == "change:cassette")
    step = up_to(owner, job, "fit:cassette")
    tick(owner, job, "fit:cassette")
    with pytest.raises(InputError, match="say why"):
        found.does_not_fit(actor=owner, job_id=job.pk, step_id=step.pk, why=" ")
    found.does_not_fit(actor=owner, job_id=job.pk, step_id=step.pk, why="too wide for the body")
    keys = list(job.steps.values_list("key", flat=True))
    assert {"take_off:cassette:back", "fit:cassette:back"} <= set(keys)
    assert not job.plan.changes.filter(slot="cassette").exists()
    quote = PlanCost(found=planned(owner, job.plan_id), settings=settings_of(owner)).quote
    credit = next(row for row in quote.rows if row.credit)
    assert (credit.price, credit.minutes) == (row.price, row.minutes)
    assert quote.totals.parts == before.totals.parts - row.price
    assert quote.totals.minutes == before.totals.minutes - row.minutes
    assert LogEntry.objects.filter(verb="does not fit", after__why="too wide for the body").exists()
    with pytest.raises(Refused, match="No planned part"):
        found.does_not_fit(actor=owner, job_id=job.pk, step_id=at(job, "look:bike").pk, why="no")


def test_a_piece_that_does_not_fit_goes_back_to_its_supplier(owner, plan, bike, workshop) -> None:
    piece = BikePart.objects.create(
        workshop=workshop, kind="cassette", name="Ordered eight", where=Where.BENCH,
        attrs={"sprockets": [11, 13, 15, 17, 19, 21, 24, 28]},
    )  # fmt: skip
    plan = plans.take_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=piece.pk)
    plans.move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    job = services.start_job(actor=owner, plan_id=plan.pk)
    step = up_to(owner, job, "fit:cassette")
    found.does_not_fit(
        actor=owner, job_id=job.pk, step_id=step.pk, why="wrong spline", goes_to=Where.RETURNED
    )
    piece.refresh_from_db()
    assert piece.where == Where.RETURNED


def test_findings_close_when_their_step_is_done_and_the_others_stay(client, owner, plan, bike) -> None:
    """Pads front and rear are one tick on two parts; the one whose step is skipped is there next time, too."""
    ends = ("front_caliper", "rear_caliper")
    findings = {
        "arm_sticky": Found(slots=ends, how="should"),
        "own-1": Found(slots=("bike",), how="may", note="Bell rattles", minutes=5, price=Decimal("1.50")),
    }
    look_over(actor=owner, bike_id=bike.pk, version=Bike.objects.get(pk=bike.pk).version, found=findings)
    job = services.start_job(actor=owner, plan_id=plan.pk)
    rear = at(job, "adjust:rear_caliper:arm_sticky")
    stepping.skip_step(actor=owner, job_id=job.pk, step_id=rear.pk, reason="next time")
    tick_all(owner, job)
    client.force_login(owner)
    handover.hand_over(actor=owner, job_id=job.pk)
    left = found_on(Bike.objects.get(pk=bike.pk))
    assert {code: one.slots for code, one in left.items()} == {"arm_sticky": ("rear_caliper",)}
    paper = client.get(reverse("jobs:paper", args=[job.pk, "hand-over"])).text
    assert "Rear caliper: brake arm or its pivot sticky" in paper.partition("Next time")[2]


def test_own_words_are_kept_with_minutes_price_and_their_faults(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:inspection", args=[bike.pk])
    row = {
        "own-1.note": "Rust under the tape", "own-1.slot": "handlebar", "own-1.how": "must", "own-1.minutes": "20",
        "own-1.price": "4.50", "once": "",
    }  # fmt: skip
    version = Bike.objects.get(pk=bike.pk).version
    for wrong, says in (
        ({"own-1.minutes": "soon"}, "whole number"),
        ({"own-1.slot": "moon"}, "choose the part"),
    ):
        answer = client.post(url, {**row, **wrong, "version": version})
        assert answer.status_code == 422
        assert says in answer.text
        assert "Rust under the tape" in answer.text
    out = io.BytesIO()
    Image.new("RGB", (20, 20), "red").save(out, "PNG")
    seen = SimpleUploadedFile("x.png", out.getvalue(), "image/png")
    assert client.post(url, {**row, "version": version, "own-1.picture": seen}).status_code == 302
    shown = client.get(reverse("bikes:inspection-picture", args=[bike.pk, "own-1"]))
    assert shown.content.startswith(b"\xff\xd8")  # kept as a JPEG
    one = found_on(Bike.objects.get(pk=bike.pk))["own-1"]
    assert (one.slots, one.note, one.minutes, one.price) == (
        ("handlebar",), "Rust under the tape", 20, Decimal("4.50"),
    )  # fmt: skip
    assert "Rust under the tape" in client.get(reverse("bikes:stand", args=[bike.pk])).text


def test_a_package_is_put_on_a_bike_by_one_press_and_written_by_the_owner(
    client, owner, mechanic, bike
) -> None:
    client.force_login(owner)
    start = reverse("plans:plan-start", args=[bike.pk])
    page = client.post(start, {"package": "safety_check", "once": ""}).url
    plan = Plan.objects.get(name="Safety check")
    assert plan.packages == ["safety_check"]
    assert client.post(start, {"package": "poem", "once": ""}).status_code == 422
    shown = client.get(page).text
    assert 'aria-pressed="true"' in shown
    quote = PlanCost(found=planned(owner, plan.pk), settings=settings_of(owner)).quote
    assert "Safety check" in [row.title for row in quote.rows]
    content = {
        "title": "Quick look", "says": "Ten minutes.", "steps": ["check:{end}_hub:wheel"], "moves": [],
        "brings": [], "price": "15", "once": "",
    }  # fmt: skip
    write = reverse("jobs:package-write")
    assert client.post(write, {**content, "code": ""}).status_code == 302
    made = WorkPackage.objects.get()
    assert made.code == "quick_look"
    to = reverse("plans:plan-packages", args=[plan.pk])
    plan.refresh_from_db()
    client.post(to, {"version": plan.version, "code": "quick_look", "wanted": "on", "once": ""})
    row = next(
        row
        for row in PlanCost(found=planned(owner, plan.pk), settings=settings_of(owner)).quote.rows
        if row.title == "Quick look"
    )
    assert row.labour == 1500  # a fixed price, whatever its minutes
    for wrong in ({"steps": []}, {"steps": ["fit:cassette"]}, {"title": ""}, {"price": "-1"}):
        assert client.post(write, {**content, "code": "", **wrong}).status_code == 422
    client.post(write, {**content, "code": "safety_check", "title": "Our check"})
    assert "Our check" in client.get(reverse("jobs:packages")).text
    client.post(reverse("jobs:package-drop"), {"code": "safety_check", "once": ""})
    assert "Our check" not in client.get(reverse("jobs:packages")).text
    client.force_login(mechanic)
    assert client.post(write, {**content, "code": ""}).status_code == 403


def test_a_missing_tool_is_said_on_the_plan_and_at_the_step(client, owner, job) -> None:
    client.force_login(owner)
    tools = reverse("jobs:tools")
    had = ["hex 5", "torque wrench", "lockring key"]
    assert client.post(tools, {"tool": had, "once": ""}).status_code == 302
    owner.workshop.refresh_from_db()
    assert "chain whip" in owner.workshop.tools_missing
    plan = client.get(reverse("plans:show", args=[job.plan_id])).text
    assert "chain whip (1)" in plan
    step = at(job, "take_off:cassette")
    shown = client.get(reverse("jobs:job", args=[job.plan_id]), {"step": step.pk}).text
    assert "no chain whip here" in shown


@pytest.mark.own_database
def test_two_mechanics_tick_one_sheet_at_once_and_none_is_lost_or_doubled(owner, mechanic, plan) -> None:
    """Both try every open step of a full service until all are done, again and again: each is done once, by one."""
    plans.pick_packages(actor=owner, plan_id=plan.pk, version=plan.version, codes=["full_service"])
    job = services.start_job(actor=owner, plan_id=plan.pk)

    def work(actor: User, error: list[tuple[str, str]]) -> None:
        try:
            while left := list(job.steps.filter(done_at=None).exclude(key="hand_over:bike")):
                for one in left:
                    try:
                        tick(actor, job, one.key)
                    except (Refused, Conflict):
                        continue
                    error.append((one.key, actor.username))
        finally:
            connection.close()

    ticks = 0
    for one in job.steps.all():  # waits would end tomorrow
        one.content["wait_minutes"] = 0
        one.save()
    while ticks < 200:
        error: list[tuple[str, str]] = []
        hands = [threading.Thread(target=work, args=(actor, error)) for actor in (owner, mechanic)]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
        stored = {one.key: one.done_by.username for one in job.steps.exclude(done_at=None)}
        assert dict(error) == stored
        assert len(error) == len(stored) == job.steps.count() - 1
        assert Job.objects.get(pk=job.pk).open_facts == []
        ticks += len(error)
        stepping.undo_step(actor=owner, job_id=job.pk, step_id=at(job, "look:bike").pk, with_later=True)
        assert not job.steps.exclude(done_at=None).exists()


def test_an_apprentice_skips_no_torque(owner, apprentice, job) -> None:
    step = up_to(owner, job, "fit:cassette")
    with pytest.raises(NotAllowed):
        stepping.skip_step(actor=apprentice, job_id=job.pk, step_id=step.pk, reason="no wrench")


def test_a_part_of_a_job_handed_over_early_is_on_the_record_at_once(
    client, owner, plan, bike, catalogue
) -> None:
    """The chain is on the bike's record before the cassette: its links as they were read, the cassette untouched."""
    parts = {"chain": catalogue["Chain of 114"].pk, "cassette": catalogue["Eight"].pk}
    job = agreed(owner, plan, **parts)
    for one in job.steps.all():
        if one.content["does"] != "hand_over":
            more = {"reading": 112, "keep_why": "cut again"} if one.key == "fit:chain" else {}
            more = {"reading": 0.4} if one.key == "measure:chain:old" else more
            tick(owner, job, one.key, **more)
    old = bike.fitted.get(slot="chain")
    cassette = bike.fitted.get(slot="cassette").name
    client.force_login(owner)
    fresh = Plan.objects.get(pk=plan.pk)
    url = reverse("plans:change-apply", args=[plan.pk, "chain"])
    sent = {
        "version": fresh.version,
        "bike_version": Bike.objects.get(pk=bike.pk).version,
        "goes_to": "bench",
    }
    assert client.post(url, {**sent, "once": ""}).status_code == 302
    assert bike.fitted.get(slot="chain").attrs["links"] == 112
    assert bike.fitted.get(slot="cassette").name == cassette
    JobStep.objects.exclude(done_at=None).update(done_at=timezone.now() - datetime.timedelta(days=2))
    handover.hand_over(actor=owner, job_id=job.pk)
    assert bike.fitted.get(slot="cassette").name == "Eight"
    assert bike.fitted.get(slot="chain").attrs["links"] == 112
    old.refresh_from_db()
    assert old.attrs["elongation_pct"] == 0.4  # of the old chain, once, and not of the one that replaced it
    assert "elongation_pct" not in bike.fitted.get(slot="chain").attrs
    assert [one.part_id for one in WearReading.objects.all()] == [old.pk]


# a ready-built wheel


@pytest.fixture
def wheel(owner, workshop, bike):
    """A ready-built front wheel of the bike's own measures, in the catalogue."""
    build = bike.build(list(bike.fitted.all()))
    attrs: dict = {}
    for kind in ("spokes", "rim", "hub"):
        part = build.parts.get(f"front_{kind}")
        attrs |= dict(part.attrs) if part else {}
    also = wheel_slots("front")[1:]
    values = {
        "name": "Ready wheel",
        "maker": "",
        "price": Decimal(60),
        "attrs": plain(attrs) or {"holes": 32},
    }
    return add_part(actor=owner, kind="hub", values=values, also=also)


def test_a_ready_built_wheel_is_planned_ordered_fitted_and_kept_as_one_thing(
    client, owner, plan, bike, wheel, workshop
) -> None:
    client.force_login(owner)
    drawer = client.get(reverse("plans:drawer", args=[plan.pk, "front_rim"])).text
    assert "Ready-built wheels" in drawer
    swap = reverse("plans:part-swap", args=[plan.pk, "front_hub"])
    assert client.post(swap, {"version": 1, "part": wheel.pk, "once": ""}).status_code == 302
    wrong = client.post(
        reverse("plans:part-swap", args=[plan.pk, "rear_hub"]), {"version": 2, "part": wheel.pk}
    )
    assert wrong.status_code in (403, 409, 422)
    change = plan.changes.get()
    assert change.also == ["front_rim", "front_spokes"]
    page = client.get(reverse("plans:show", args=[plan.pk])).text
    over = [slot for slot in ("front_tyre", "front_valve", "front_rotor") if bike.fitted.filter(slot=slot)]
    assert ("What goes over from the old wheel?" in page) is bool(over)
    to = reverse("plans:take-over", args=[plan.pk, "front_hub"])
    client.post(to, {"version": Plan.objects.get(pk=plan.pk).version, "over": over[1:], "once": ""})
    assert set(plan.changes.filter(empties=True).values_list("slot", flat=True)) == set(over[:1])
    version = Plan.objects.get(pk=plan.pk).version
    client.post(to, {"version": version, "over": over, "once": ""})  # said again: it goes over after all
    assert not plan.changes.filter(empties=True).exists()
    quote = PlanCost(found=planned(owner, plan.pk), settings=settings_of(owner)).quote
    assert [row.title for row in quote.rows if row.cause.startswith("change:")] == ["Front hub: Ready wheel"]
    plan.refresh_from_db()
    plans.move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="agreed")
    job = services.start_job(actor=owner, plan_id=plan.pk)
    keys = set(job.steps.values_list("key", flat=True))
    assert not {"fit:front_spokes", "take_off:front_rim", "adjust:front_rim:true"} & keys
    tick_all(owner, job)
    handover.hand_over(actor=owner, job_id=job.pk)
    for kind in ("rim", "spokes"):
        for part in BikePart.objects.filter(workshop=workshop, where=Where.BENCH, kind=kind):
            assert part.kept_with.kind == "hub"  # the old wheel is kept whole
    fitted = bike.fitted.get(slot="front_hub")
    assert (fitted.name, fitted.also) == ("Ready wheel", ["front_rim", "front_spokes"])
    assert not bike.fitted.filter(slot__in=("front_rim", "front_spokes")).exists()


def test_a_wheel_in_the_catalogue_has_the_figures_of_all_three(client, owner, workshop) -> None:
    client.force_login(owner)
    new = reverse("catalogue:part-new")
    form = client.get(new, {"kind": "rear_wheel"}).text
    assert "Rear wheel, ready-built" in form
    typed = {
        "name": "Rear 622",
        "price": "90",
        "bsd_mm": "622",
        "spacing_mm": "135",
        "crosses": "3",
        "once": "",
    }
    assert client.post(f"{new}?kind=rear_wheel", typed).status_code == 302
    made = CataloguePart.objects.get(name="Rear 622")
    assert (made.also, made.attrs["bsd_mm"], made.attrs["spacing_mm"], made.fit_class) == (
        ["rear_rim", "rear_spokes"], 622, 135, None,
    )  # fmt: skip


def test_the_log_says_steps_in_words(client, owner, job, bike) -> None:
    tick(owner, job, "look:bike")
    client.force_login(owner)
    text = client.get(reverse("bikes:log", args=[bike.pk])).text
    assert "look the bike" in text
    assert "look:bike" not in text


def test_a_refusal_leads_back_to_where_one_came_from(client, owner, job) -> None:
    client.force_login(owner)
    page = reverse("jobs:job", args=[job.plan_id])
    url = reverse("jobs:tick", args=[job.pk, at(job, "fit:cassette").pk])
    for came, shown in (
        (f"http://testserver{page}?step=3", f'href="{page}?step=3">Back'),
        ("http://else.where/", ""),
    ):
        answer = client.post(url, {"reading": "40", "once": ""}, headers={"referer": came})
        assert answer.status_code == 422
        assert (shown or "To the") in answer.text
        assert "else.where" not in answer.text


def test_the_links_of_a_chain_are_asked_only_where_they_are_not_known(owner, plan, bike, catalogue) -> None:
    job = agreed(owner, plan, chain=catalogue["Chain of 114"].pk)
    known = "links" in bike.fitted.get(slot="chain").attrs
    assert (at(job, "take_off:chain").content["reading"] is None) is known


def test_find_ways_knows_a_ready_built_wheel_and_takes_it_as_one_change(owner, plan, bike, wheel) -> None:
    shelf = shelf_of(owner, bike.build(list(bike.fitted.all())))
    own = [one for one in shelf if one.id == f"c{wheel.pk}"]
    assert [(one.slots, one.part.also) for one in own] == [(("front_hub",), ("front_rim", "front_spokes"))]
    assert own == [one for one in one_of_each(owner) if one.id == f"c{wheel.pk}"]
    version = Plan.objects.get(pk=plan.pk).version
    picks = {"front_hub": f"c{wheel.pk}", "front_rim": None, "front_spokes": None}
    plan_picks(actor=owner, plan_id=plan.pk, version=version, picks=picks)
    assert [(one.slot, one.also) for one in plan.changes.all()] == [
        ("front_hub", ["front_rim", "front_spokes"])
    ]
