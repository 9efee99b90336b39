"""Find ways on a plan: asked for, done in the background, shown as cards, taken as an option."""

import json

import pytest
from django.core.management import call_command
from django.urls import reverse

from tests.conftest import BUILD
from tests.web.forms import forms_of
from unkett.core.errors import CoreError
from unkett.web.catalogue.services import add_parts
from unkett.web.plans import pricing
from unkett.web.plans.models import Plan
from unkett.web.plans.services import swap_part
from unkett.web.plans.way_search import ask_ways, take_way, ways_asked
from unkett.web.tasks.models import Task, TaskState
from unkett.web.tasks.services import Report, begin_again, do_next, stop_task
from unkett.web.workshop.errors import NotThere, Refused

WIDE = [{"slot": "cassette", "attr": "teeth", "op": "max>=", "value": 42}]


@pytest.fixture
def shelf(workshop, catalogue):
    """The catalogue with a wide cassette, and a derailleur that reaches its 42 teeth."""
    cage = {**BUILD["parts"]["rear_derailleur"]["attrs"], "sprocket_max_teeth": 42}
    teeth = [12, 14, 16, 18, 21, 24, 28, 34, 42]
    wide = {"speeds": 9, "teeth": teeth, "mount": "spline9"}
    entries = [
        {"kind": "rear_derailleur", "name": "Long cage", "attrs": cage, "price": "40.00", "days": 3},
        {"kind": "cassette", "name": "Very wide nine", "attrs": wide, "price": "50.00"},
    ]
    return catalogue | {part.name: part for part in add_parts(workshop, entries)}


@pytest.fixture
def page(client, owner, plan):
    """The page's address, its owner signed in."""
    client.force_login(owner)
    return reverse("plans:ways", args=[plan.pk])


def wish_form(client, page, **typed):
    form = next(form for form in forms_of(client.get(page).text) if "largest" in form.fields)
    return client.post(reverse("plans:ways-ask", args=[page.split("/")[2]]), {**form.fields, **typed})


def test_a_wish_becomes_cards_and_a_card_an_option(client, page, plan, shelf) -> None:
    """Parts of 50.00 and 40.00, here in 3 days; its card, the option, its plan and its quote say one total."""
    assert wish_form(client, page, largest="42").status_code == 302
    waiting = client.get(page).text
    assert 'data-testid="going-on"' in waiting
    assert do_next()
    assert not do_next()
    shown = client.get(page).text
    assert shown.count('data-testid="way"') == 1
    total = shown.split('data-testid="total">')[1].split("<")[0]
    assert "Very wide nine" in shown
    assert "Long cage" in shown
    form = next(form for form in forms_of(shown) if "card" in form.fields)
    answer = client.post(form.action, form.fields)
    option = Plan.objects.get(letter="B")
    assert answer.url == reverse("plans:show", args=[option.pk])
    assert set(option.changes.values_list("slot", "name")) == {
        ("cassette", "Very wide nine"),
        ("rear_derailleur", "Long cage"),
    }
    assert not plan.changes.exists()
    quote = client.get(reverse("plans:quote", args=[option.pk])).text
    assert quote.split('data-testid="gross">')[1].split("<")[0] == total
    assert f">{total}<" in client.get(reverse("plans:options", args=[option.pk])).text.replace("\n", "")
    row = client.get(reverse("plans:show", args=[option.pk])).text.split('data-number="total"')[1]
    assert f">{total}<" in row.split("</tr>")[0]


def test_a_plan_that_no_sheet_can_be_made_of_is_shown_without_a_total(
    client, page, plan, shelf, monkeypatch
) -> None:
    def no_order(*_: object, **__: object) -> None:
        raise CoreError("these steps wait for each other")

    monkeypatch.setattr("unkett.web.plans.pricing.job_steps", no_order)
    pricing._made.cache_clear()
    assert wish_form(client, page, largest="42").status_code == 302
    assert do_next()
    assert 'data-testid="way"' in client.get(page).text
    shown = client.get(reverse("plans:show", args=[plan.pk]))
    for name in ("plans:options", "plans:parts-list"):
        assert shown.status_code == client.get(reverse(name, args=[plan.pk])).status_code == 200
    assert "total, with labour and tax" in shown.text


def test_a_wish_that_cannot_be_is_reported_with_what_to_let_go_of(client, page, catalogue) -> None:
    wish_form(client, page, largest="42")
    do_next()
    shown = client.get(page).text
    assert "No way found" in shown
    assert "Cassette, sprockets: the largest at least 42 teeth." in shown
    assert "Drop one" in shown


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"largest": "many"}, "whole number"),
        ({"money": "-3"}, "greater than"),
        ({"by": "2001-01-01"}, "past"),
    ],
)
def test_a_wish_that_cannot_be_read_is_reported_beside_its_field(client, page, typed, says) -> None:
    answer = wish_form(client, page, **typed)
    assert answer.status_code == 422
    assert says in answer.text
    assert not Task.objects.exists()


def test_a_search_is_stopped_and_keeps_what_it_found(owner, plan, shelf, monkeypatch) -> None:
    task = ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])
    stop_task(actor=owner, task_id=task.pk)
    task.refresh_from_db()
    assert (task.state, do_next()) == (TaskState.STOPPED, False)
    running = ask_ways(actor=owner, plan_id=plan.pk, wish={"require": WIDE}, best=["cheapest"])

    def stopping(task: Task, report: Report) -> object:
        report.found({"so_far": {"price": 1, "changes": 1}})
        stop_task(actor=owner, task_id=task.pk)
        assert report.unwanted()
        return {"cards": []}

    monkeypatch.setattr("unkett.web.plans.way_search.search_ways", stopping)
    do_next()
    running.refresh_from_db()
    assert (running.state, running.found) == (TaskState.STOPPED, {"cards": []})


def test_what_breaks_in_the_background_is_reported_and_nothing_else_stops(
    owner, plan, monkeypatch, caplog
) -> None:
    task = ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])
    monkeypatch.setattr("unkett.web.plans.way_search.search_ways", lambda _task, _report: 1 / 0)
    call_command("do_tasks", "--once")
    task.refresh_from_db()
    assert task.state == TaskState.FAILED
    assert "could not be worked out" in task.says
    assert "ZeroDivisionError" in caplog.text


def test_what_a_process_left_running_waits_again(owner, plan) -> None:
    task = ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])
    Task.objects.filter(pk=task.pk).update(state=TaskState.RUNNING)
    assert (begin_again(), do_next()) == (1, True)
    task.refresh_from_db()
    assert task.state == TaskState.DONE


def test_what_ended_its_process_twice_is_given_up(owner, plan) -> None:
    task = ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])
    Task.objects.filter(pk=task.pk).update(state=TaskState.RUNNING, tries=2)
    assert (begin_again(), do_next()) == (0, False)
    task.refresh_from_db()
    assert (task.state, "could not be worked out" in task.says) == (TaskState.FAILED, True)


def test_a_workshop_may_wait_for_a_few_searches_only(owner, plan) -> None:
    for _ in range(5):
        ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])
    with pytest.raises(Refused, match="under way"):
        ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"])


def test_a_way_whose_part_is_gone_is_refused_and_nothing_is_stored(owner, plan, shelf) -> None:
    task = ask_ways(actor=owner, plan_id=plan.pk, wish={"require": WIDE}, best=["cheapest"])
    do_next()
    shelf["Very wide nine"].retired = True
    shelf["Very wide nine"].save()
    with pytest.raises(Refused, match="not in the catalogue"):
        take_way(actor=owner, plan_id=plan.pk, version=1, task_id=task.pk, card=0)
    with pytest.raises(NotThere):
        take_way(actor=owner, plan_id=plan.pk, version=1, task_id=task.pk, card=1)
    assert Plan.objects.count() == 1


def test_what_is_stored_is_what_the_command_line_tells(owner, plan, shelf) -> None:
    ask_ways(actor=owner, plan_id=plan.pk, wish={"require": WIDE}, best=["cheapest", "soonest"])
    do_next()
    task = ways_asked(owner, plan.pk)
    card = task.found["cards"][0]
    assert card["best"] == ["cheapest", "soonest"]
    assert (card["price"], card["days"], card["proven"], card["beyond"]) == (111.0, 3, True, [])
    assert json.loads(json.dumps(task.found)) == task.found


def test_a_way_out_is_shown_with_its_effect_and_planned_as_one(client, owner, plan, bike, shelf) -> None:
    """The cassette of 42 teeth is too large for the derailleur: a longer cage is the way out."""
    client.force_login(owner)
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=shelf["Very wide nine"].pk)
    shown = client.get(reverse("plans:show", args=[plan.pk])).text
    finding = "largest-sprocket:cassette:rear_derailleur:frame"
    assert reverse("plans:way-out", args=[plan.pk]) in shown
    page = client.get(reverse("plans:way-out", args=[plan.pk]), {"finding": finding}).text
    assert "Long cage" in page
    assert "Puts right:" in page
    picked = [form for form in forms_of(page) if form.fields.get("pick", "").startswith("rear_derailleur:")]
    assert client.post(picked[0].action, picked[0].fields).status_code == 302
    assert plan.changes.get(slot="rear_derailleur").name == "Long cage"
    assert client.get(reverse("plans:way-out", args=[plan.pk]), {"finding": "no"}).status_code == 404


@pytest.mark.parametrize(
    ("pick", "status"),
    [("cassette:x1", 404), ("cassette:c999999", 422), ("cog:c1", 404), ("", 422), ("cassette", 404)],
)
def test_a_pick_that_is_no_part_is_refused(client, owner, plan, pick, status) -> None:
    client.force_login(owner)
    answer = client.post(reverse("plans:pick", args=[plan.pk]), {"version": 1, "pick": pick, "once": ""})
    assert answer.status_code == status
    assert not plan.changes.exists()


def test_gears_to_order_are_found_for_a_gear_and_for_a_hill(client, owner, plan, shelf) -> None:
    """40/42 of 2.205 m are 2.10 m."""
    client.force_login(owner)
    url = reverse("plans:gear-search", args=[plan.pk])
    assert "how steep the hill" in client.get(url).text
    page = client.get(url, {"low": "2.2"}).text
    assert page.count('data-testid="gear-set"') == 1
    assert "Very wide nine" in page
    assert "2.10" in page
    form = next(form for form in forms_of(page) if "pick" in form.fields)
    client.post(form.action, form.fields)
    assert plan.changes.get().name == "Very wide nine"
    hill = client.get(url, {"grade": "4", "power": "200", "mass": "90", "by": "price"})
    assert 'data-testid="gear-set"' in hill.text
    wrong = client.get(url, {"grade": "4"})
    assert wrong.status_code == 422
    assert "power" in wrong.text


def test_a_part_without_a_price_is_named_and_its_estimate_never_charged(client, page, plan, shelf) -> None:
    """Both wide parts without a price: the card's total is the quote's, which counts the work alone."""
    for name in ("Very wide nine", "Long cage"):
        part = shelf[name]
        part.price = None
        part.save()
    assert wish_form(client, page, largest="42").status_code == 302
    assert do_next()
    card = ways_asked(plan.made_by, plan.pk).found["cards"][0]
    assert {one["price"] for one in card["parts"].values()} == {None}
    shown = " ".join(client.get(page).text.split())
    assert "without 2 parts that have no price" in shown
    total = shown.split('data-testid="total">')[1].split("<")[0]
    form = next(form for form in forms_of(shown) if "card" in form.fields)
    client.post(form.action, form.fields)
    option = Plan.objects.get(letter="B")
    assert set(option.changes.values_list("price", flat=True)) == {None}
    quote = client.get(reverse("plans:quote", args=[option.pk])).text
    assert quote.split('data-testid="gross">')[1].split("<")[0] == total


def test_the_form_says_what_the_bike_has_today_and_the_picture_lays_a_way_over_it(
    client, page, shelf
) -> None:
    """Sprockets of BUILD's cassette before the search; after it the wide cassette's largest sprocket is drawn, too."""
    teeth = BUILD["parts"]["cassette"]["attrs"]["teeth"]
    before = " ".join(client.get(page).text.split())
    assert f"now {len(teeth)}<" in before
    assert f"now {max(teeth)} teeth<" in before
    picture = before.partition("ways-gears")[2].partition("</figure>")[0]
    assert "Gears now<" in picture
    assert ">42<" not in picture
    assert wish_form(client, page, largest="42", low="2.3").status_code == 302
    assert do_next()
    after = client.get(page).text.partition("ways-gears")[2].partition("</figure>")[0]
    assert ">42<" in after
    assert "lowest wished" in after
    assert "d-gear-planned" in after
