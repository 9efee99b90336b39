"""Price, parts and promise of a plan on every page; what a customer reads; lines, set-ups and wear in plans."""

import datetime
from decimal import Decimal

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from tests.web.forms import forms_of
from tests.web.ticking import tick_all
from unkett.core.bike.routes import routes_for
from unkett.core.errors import InputError
from unkett.devices.supplier import Supplier as StandIn
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import settings_of
from unkett.web.catalogue.models import CataloguePart, StockItem
from unkett.web.jobs.handover import hand_over
from unkett.web.jobs.models import JobStep, OutsideWork, Schedule
from unkett.web.jobs.services import back_from_outside, goes_outside, send_outside, start_job
from unkett.web.plans import lines, news, quote_items, services
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.links import address_of_link, answer_quote, give_link
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import planned
from unkett.web.plans.set_ups import set_ups_in_plan
from unkett.web.plans.shelf import shelf_of
from unkett.web.rulebook.services import change_setting
from unkett.web.supply import expecting, feed
from unkett.web.supply import services as supply
from unkett.web.supply.models import Offer, Order
from unkett.web.supply.queries import DRAWER, HOUSE, ORDERED, parts_to_get
from unkett.web.tasks.models import Task
from unkett.web.wear.queries import wear_marks
from unkett.web.wear.services import read_wear
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User


@pytest.fixture
def chain(owner, plan, catalogue) -> Plan:
    """A plan with one new chain: 16.00 and 29 minutes, the job itself 28 minutes, consumables 3.00."""
    part = catalogue["Chain of 114"].pk
    return services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=part)


def cost_of(owner, plan) -> PlanCost:
    return PlanCost(found=planned(owner, plan.pk), settings=settings_of(owner))


def at(owner, plan) -> dict:
    return {
        "actor": owner,
        "plan_id": plan.pk,
        "version": Plan.objects.values_list("version", flat=True).get(pk=plan.pk),
    }


def agree(owner, plan) -> Plan:
    return services.move_plan(**at(owner, plan), to="agreed")


# price


def test_a_line_free_of_charge_keeps_its_minutes(client, owner, chain) -> None:
    """Without the chain's 16.00 and 21.75: 3.00 + 21.00 = 24.00, with 20 % 28.80; the 57 minutes are still worked."""
    quote_items.set_free(**at(owner, chain), cause="change:chain", free=True)
    quote = cost_of(owner, chain).quote
    assert (quote.totals.gross, quote.totals.minutes) == (2880, 57)
    client.force_login(owner)
    assert "no charge" in client.get(reverse("plans:quote", args=[chain.pk])).text
    quote_items.set_free(**at(owner, chain), cause="change:chain", free=False)
    assert cost_of(owner, chain).quote.totals.gross == 7410
    with pytest.raises(NotThere):
        quote_items.set_free(**at(owner, chain), cause="gift:chain", free=True)


def test_a_part_without_a_price_is_named_and_not_counted(client, owner, plan) -> None:
    """Consumables 3.00, labour 21.75 + 21.00, with 20 % 54.90; once the chain costs 10.00: 66.90."""
    services.type_part(
        **at(owner, plan), slot="chain", name="Found chain", values={"links": 114, "speeds": 9}
    )
    quote = cost_of(owner, plan).quote
    assert (quote.totals.gross, [one["title"] for one in quote.unpriced]) == (5490, ["Found chain"])
    client.force_login(owner)
    for name in ("plans:show", "plans:quote"):
        assert 'data-testid="unpriced"' in client.get(reverse(name, args=[plan.pk])).text
    page = client.get(reverse("plans:quote", args=[plan.pk])).text
    form = next(form for form in forms_of(page) if form.fields.get("ref") == "chain")
    assert client.post(form.action, {**form.fields, "price": "-1"}).status_code == 422
    assert client.post(form.action, {**form.fields, "price": "10,00"}).status_code == 302
    assert cost_of(owner, plan).quote.totals.gross == 6690
    with pytest.raises(NotThere):
        quote_items.set_price(**at(owner, plan), ref="saddle", price=Decimal(1))


def test_a_catalogue_part_without_a_price_is_compared_as_the_dearest_and_never_charged(
    client, owner, plan
) -> None:
    client.force_login(owner)
    page = client.get(reverse("catalogue:part-new"), {"kind": "chain"}).text
    form = next(form for form in forms_of(page) if "mass_g" in form.fields)
    typed = {**form.fields, "name": "Chain from a friend", "price": ""}
    assert client.post(form.action or reverse("catalogue:part-new") + "?kind=chain", typed).status_code == 302
    part = CataloguePart.objects.get(name="Chain from a friend")
    assert part.price is None
    assert "no price yet" in client.get(reverse("catalogue:part", args=[part.pk])).text
    bike = Bike.objects.get(pk=plan.bike_id)
    shelf = {one.id: one for one in shelf_of(owner, bike.build(list(bike.fitted.all())))}
    chains = CataloguePart.objects.filter(workshop=owner.workshop, kind="chain", price__isnull=False)
    dearest = max((one.price for one in chains), default=0)
    assert (shelf[f"c{part.pk}"].price, shelf[f"c{part.pk}"].priced) == (dearest * 100, False)


def test_extra_work_is_a_step_of_the_sheet(owner, chain) -> None:
    """30 minutes more are 22.50, and 5.00 of parts: 61.75 + 27.50 = 89.25, with 20 % 107.10; on the sheet, too."""
    quote_items.add_quote_line(**at(owner, chain), title="Clean the frame", price=Decimal(5), minutes=30)
    cost = cost_of(owner, chain)
    assert cost.quote.totals.gross == 10710
    assert cost.quote.totals.minutes == cost.sheet.minutes == 87
    assert [step.minutes for step in cost.sheet.steps if "Clean the frame" in step.says] == [30]
    agree(owner, chain)
    job = start_job(actor=owner, plan_id=chain.pk)
    assert sum(step.content["minutes"] for step in job.steps.all()) == 87


def test_work_found_before_a_quote_is_agreed_again_counts_once(owner, chain) -> None:
    """74.10 and 30 minutes, 22.50 with 20 % 27.00: 101.10 before it is taken back, then and agreed again."""
    agree(owner, chain)
    quote_items.add_quote_line(**at(owner, chain), title="Bent hanger", price=Decimal(0), minutes=30)
    quote_items.agree_quote_line(**at(owner, chain), line_id=chain.quote_lines.get().pk)
    totals = [cost_of(owner, chain).quote.totals.gross]
    services.move_plan(**at(owner, chain), to="draft")
    totals.append(cost_of(owner, chain).quote.totals.gross)
    agree(owner, chain)
    totals.append(cost_of(owner, chain).quote.totals.gross)
    assert totals == [10110, 10110, 10110]


def test_work_outside_is_on_the_quote_and_comes_back_before_the_hand_over(client, owner, chain) -> None:
    """50.00 more: 111.75, with 20 % 134.10. Sent out later, 10.00 are to be agreed: 146.10 then."""
    quote_items.add_quote_line(
        **at(owner, chain), title="Powder coat", price=Decimal(50), outside=True, days=4, minutes=60
    )
    totals = cost_of(owner, chain).quote.totals
    assert (totals.gross, totals.outside, totals.minutes) == (13410, 5000, 57)
    agree(owner, chain)
    job = start_job(actor=owner, plan_id=chain.pk)
    work = OutsideWork.objects.get()
    assert (work.what, work.cost, work.days, work.since) == ("Powder coat", Decimal(50), 4, None)
    goes_outside(actor=owner, job_id=job.pk, outside_id=work.pk)
    work.refresh_from_db()
    assert work.due == timezone.localdate() + datetime.timedelta(days=4)
    tick_all(owner, job)
    with pytest.raises(Refused, match="Powder coat"):
        hand_over(actor=owner, job_id=job.pk)
    back_from_outside(actor=owner, job_id=job.pk, outside_id=work.pk)
    with pytest.raises(InputError) as error:
        send_outside(actor=owner, job_id=job.pk, what="", cost=Decimal(1), days=900)
    assert [fault.path for fault in error.value.faults] == ["what", "days"]
    send_outside(actor=owner, job_id=job.pk, what="Face the shell", cost=Decimal(10), days=1)
    quote = cost_of(owner, chain).quote
    assert (quote.totals.gross, [row.title for row in quote.to_agree]) == (13410, ["Face the shell"])
    line = chain.quote_lines.get(title="Face the shell")
    quote_items.agree_quote_line(**at(owner, chain), line_id=line.pk)
    assert cost_of(owner, chain).quote.totals.gross == 14610


@pytest.mark.own_database("demo")
def test_a_choice_is_made_once_and_sheet_quote_and_order_follow_it(client, db) -> None:
    owner = User.objects.get(username="rona")
    plan = Plan.objects.get(name="Rigid for winter")
    cost = cost_of(owner, plan)
    choice = next(one for one in cost.choices if any(what == "cut the steerer" for what, *_ in one.options))
    assert [what for what, _, taken, *_ in choice.options if taken] == ["cut the steerer"]
    assert any(step.id == "prepare:fork:cut" for step in cost.sheet.steps)
    client.force_login(owner)
    page = client.get(reverse("plans:quote", args=[plan.pk])).text
    form = next(form for form in forms_of(page) if "/choose/" in form.action)
    sent = {**form.fields, "slots": list(choice.slots), "rule": choice.rule, "what": "spacers above the stem"}
    assert client.post(form.action, sent).url == reverse("plans:quote", args=[plan.pk])
    after = cost_of(owner, plan)
    assert not any(step.id == "prepare:fork:cut" for step in after.sheet.steps)
    assert "spacers above the stem" in {one.what for one in parts_to_get(owner, after)}
    assert after.quote.totals.gross != cost.quote.totals.gross
    assert after.quote.totals.minutes == after.sheet.minutes
    with pytest.raises(NotThere):
        quote_items.choose_need(**at(owner, plan), rule=choice.rule, slots=choice.slots, what="torque arm")
    copied = services.copy_plan(actor=owner, plan_id=plan.pk)
    assert copied.chosen == after.found.plan.chosen


def test_the_workshops_currency_stands_beside_every_sum(client, owner, chain) -> None:
    change_setting(actor=owner, name="currency", value="SKR")
    with pytest.raises(InputError):
        change_setting(actor=owner, name="currency", value="a very long one")
    client.force_login(owner)
    for name in ("plans:show", "plans:quote", "plans:options"):
        assert "SKR\u00a074.10" in client.get(reverse(name, args=[chain.pk])).text, name


# promise and order


def late(owner, plan, days: int) -> Order:
    """The plan agreed and its chain on the way, expected in so many days."""
    CataloguePart.objects.update(days=2)
    agree(owner, plan)
    shop = supply.keep_supplier(actor=owner, supplier_id=None, name="By phone", url="")
    order = supply.order_for_plan(actor=owner, plan_id=plan.pk, supplier_id=shop.pk, refs=["chain"])
    order = supply.send_order(actor=owner, order_id=order.pk, version=order.version)
    day = timezone.localdate() + datetime.timedelta(days=days)
    return expecting.expect_line(
        actor=owner, order_id=order.pk, version=order.version, line_id=order.lines.get().pk, due=day
    )


def test_a_later_part_moves_the_promise_and_the_yard_says_so(client, owner, chain) -> None:
    Schedule.objects.create(workshop=owner.workshop, made=timezone.now())
    order = late(owner, chain, days=20)
    plan = Plan.objects.get(pk=chain.pk)
    due = timezone.localdate() + datetime.timedelta(days=20)
    assert plan.parts_on == due
    assert plan.promised is not None
    assert timezone.localtime(plan.promised).date() >= due
    assert Schedule.objects.get().stale
    client.force_login(owner)
    yard = client.get(reverse("bikes:yard")).text
    assert "The promise moves from" in yard
    assert "Chain of 114 comes" in yard
    form = next(form for form in forms_of(yard) if form.action.endswith("/customer-told/"))
    client.post(form.action, form.fields)
    assert "The promise moves from" not in client.get(reverse("bikes:yard")).text
    listed = client.get(reverse("plans:parts-list", args=[plan.pk])).text
    assert f"{due:%a} {due.day} {due:%b}" in listed
    supply.arrive(
        actor=owner, order_id=order.pk, version=order.version, line_id=order.lines.get().pk, count=1
    )
    plan.refresh_from_db()
    assert (plan.state, plan.parts_on) == ("ready", None)
    assert "All parts are here" in client.get(reverse("bikes:yard")).text


def test_a_part_in_time_moves_nothing(owner, chain) -> None:
    late(owner, chain, days=1)
    assert Plan.objects.get(pk=chain.pk).moved == {}


def test_an_agreed_plan_is_promised_for_the_day_its_pages_reported(client, owner, chain) -> None:
    CataloguePart.objects.update(days=5)
    error = cost_of(owner, chain).ready_on
    assert error is not None
    assert error.isoweekday() < 6
    agree(owner, chain)
    assert cost_of(owner, chain).ready_on == error
    services.move_plan(**at(owner, chain), to="draft")
    assert Plan.objects.get(pk=chain.pk).promised is None


def test_a_supplier_that_tells_a_later_day_moves_the_plan(owner, chain, monkeypatch) -> None:
    store = StandIn([{"kind": "chain", "name": "Chain of 114", "price": 16}])
    store.offers[0].update(price="15.00", stock=0, lead_days=2)

    def ask(url: str, send=None):
        path = url.removeprefix("http://store")
        if path == "/offers":
            return store.feed()
        return store.order(send) if send else store.called(path.rpartition("/")[2])

    monkeypatch.setattr(supply, "ask", ask)
    monkeypatch.setattr(feed, "ask", ask)
    CataloguePart.objects.update(days=2)
    agree(owner, chain)
    shop = supply.keep_supplier(actor=owner, supplier_id=None, name="Store", url="http://store")
    asked = supply.ask_offers(actor=owner, supplier_id=shop.pk)
    supply.refresh(asked, None)
    order = supply.order_for_plan(actor=owner, plan_id=chain.pk, supplier_id=shop.pk)
    supply.send_order(actor=owner, order_id=order.pk, version=order.version)
    supply.send(Task.objects.filter(sort="order").latest("pk"), None)
    order.refresh_from_db()
    assert (order.state, order.lines.get().due) == ("sent", timezone.localdate() + datetime.timedelta(days=2))
    store.delay(order.number, 12)
    supply.refresh(asked, None)
    plan = Plan.objects.get(pk=chain.pk)
    assert plan.parts_on == timezone.localdate() + datetime.timedelta(days=14)
    assert "Store" in plan.moved["why"]


def test_what_is_not_in_stock_is_said_before_it_is_ordered(client, owner, chain, catalogue) -> None:
    CataloguePart.objects.update(days=2)
    shop = supply.keep_supplier(actor=owner, supplier_id=None, name="Store", url="http://127.0.0.1:9")
    part = catalogue["Chain of 114"]
    Offer.objects.create(supplier=shop, code="A", kind="chain", name=part.name, stock=0, catalogue_part=part)
    agree(owner, chain)
    client.force_login(owner)
    page = client.get(reverse("plans:parts-list", args=[chain.pk])).text
    assert "Not in stock there: Chain of 114" in page
    assert page.index("Not in stock there") > page.index("Order from Store")


@pytest.mark.own_database("demo")
def test_small_parts_are_ordered_and_counted_in(client, db) -> None:
    owner = User.objects.get(username="rona")
    plan = Plan.objects.get(name="Wide tens")
    agree(owner, plan)
    spacer = next(one for one in parts_to_get(owner, cost_of(owner, plan)) if one.what == "spacer")
    assert spacer.source == DRAWER
    shop = supply.keep_supplier(actor=owner, supplier_id=None, name="By phone", url="")
    order = supply.order_for_plan(actor=owner, plan_id=plan.pk, supplier_id=shop.pk, refs=[spacer.ref])
    assert [(one.name, one.what) for one in order.lines.all()] == [(spacer.name, "spacer")]
    again = next(one for one in parts_to_get(owner, cost_of(owner, plan)) if one.what == "spacer")
    assert again.source == ORDERED
    order = supply.send_order(actor=owner, order_id=order.pk, version=order.version)
    supply.arrive(
        actor=owner, order_id=order.pk, version=order.version, line_id=order.lines.get().pk, count=1, box="S1"
    )
    assert StockItem.objects.get(name=spacer.name).count == 1
    Order.objects.filter(pk=order.pk).delete()
    here = next(one for one in parts_to_get(owner, cost_of(owner, plan)) if one.what == "spacer")
    assert (here.source, here.place) == (HOUSE, "S1")


# the customer


@pytest.mark.own_database("demo")
def test_a_customer_reads_what_it_does_and_what_it_costs(client, db) -> None:
    """The lowest gear of 2.31 m becomes 1.80 m: 1 − 1.80 ÷ 2.31 = 22 %."""
    owner = User.objects.get(username="rona")
    plan = Plan.objects.get(name="Wide tens")
    cost = cost_of(owner, plan)
    assert [one.says for one in cost.quote.ride] == ["22 % easier uphill"]
    link = give_link(actor=owner, plan_id=plan.pk)
    page = Client().get(reverse("workshop:look", args=[address_of_link(link)])).text
    assert plan.bike.wish in page
    assert "22 % easier uphill" in page
    assert "<svg" in page
    for bench in ("Remove links", "0.00<", "Minutes", "cage", "big/big"):
        assert bench not in page, bench
    shown = sum(line.price or 0 for line in cost.for_customer)
    assert shown + cost.quote.totals.tax == cost.quote.totals.gross
    assert f"{cost.quote.totals.gross / 100:.2f}" in page
    agree(owner, plan)
    assert cost_of(owner, plan).quote.ride == cost.quote.ride


def test_after_the_work_a_customer_reads_what_was_done_and_what_is_next(owner, chain) -> None:
    agree(owner, chain)
    job = start_job(actor=owner, plan_id=chain.pk)
    link = give_link(actor=owner, plan_id=chain.pk)
    tick_all(owner, job)
    JobStep.objects.filter(job=job).update(countersigned_by=owner, countersigned_at=timezone.now())
    hand_over(actor=owner, job_id=job.pk)
    page = Client().get(reverse("workshop:look", args=[address_of_link(link)])).text
    assert page.index("What was done") < page.index("What is next") < page.index("Torques and measurements")
    assert "Chain: Chain of 114" in page
    assert "Your answer" not in page


def test_an_answer_stands_on_the_yard_until_it_is_taken_in(client, owner, chain) -> None:
    link = give_link(actor=owner, plan_id=chain.pk)
    version = Plan.objects.get(pk=chain.pk).version
    answer_quote(link=address_of_link(link), answer="question", says="Why a new one?", version=version)
    client.force_login(owner)
    yard = client.get(reverse("bikes:yard")).text
    assert yard.index("Ebba Holm asks") < yard.index("by-verdict")
    assert "Why a new one?" in yard
    form = next(form for form in forms_of(yard) if form.action.endswith("/seen/"))
    assert client.post(form.action, form.fields).url == reverse("plans:quote", args=[chain.pk])
    assert not news.news_of(owner)
    with pytest.raises(NotThere):
        news.take_in_answer(actor=owner, link_id=give_link(actor=owner, plan_id=chain.pk).pk)


# set-ups, lines, wear


@pytest.mark.own_database("demo")
def test_a_plan_tells_what_it_does_to_the_other_set_ups(client, db) -> None:
    """A ten-speed drive with the winter wheels' own eleven sprockets: one click short."""
    owner = User.objects.get(username="rona")
    plan = Plan.objects.get(name="Wide tens")
    (winter,) = set_ups_in_plan(owner, planned(owner, plan.pk))
    assert (winter.name, winter.after.value, winter.own) == ("Winter wheels", "no_go", ("cassette",))
    assert any("Shifter 10 positions; cassette 11 sprockets" in one.says for one in winter.new)
    client.force_login(owner)
    assert 'data-testid="set-ups"' in client.get(reverse("plans:show", args=[plan.pk])).text


@pytest.mark.own_database("demo")
def test_a_planned_line_takes_another_route(client, db) -> None:
    owner = User.objects.get(username="rona")
    plan = Plan.objects.get(name="Rigid for winter")
    found = planned(owner, plan.pk)
    slot = "rear_shift_line"
    routes = [code for code, _ in routes_for(slot, found.build)]
    now = found.build.filled()[slot].attrs.get("route") if slot in found.build.filled() else None
    other = next(code for code in routes if code != now)
    lines.choose_route(**at(owner, plan), slot=slot, route=other)
    change = plan.changes.get(slot=slot)
    assert (change.attrs["route"], change.price) == (other, None)
    assert change.attrs["need_mm"] > 0
    cost = cost_of(owner, plan)
    assert change.name in {one["title"] for one in cost.quote.unpriced}
    assert any(step.slot == slot for step in cost.sheet.steps)
    client.force_login(owner)
    assert 'data-testid="lines"' in client.get(reverse("plans:show", args=[plan.pk])).text
    assert "Use this route" in client.get(reverse("plans:work", args=[plan.pk, "lines"]), {"line": slot}).text
    with pytest.raises(InputError, match="allowed"):
        lines.choose_route(**at(owner, plan), slot=slot, route="by the moon")
    with pytest.raises(NotThere):
        lines.choose_route(**at(owner, plan), slot="chain", route=other)
    agree(owner, plan)
    with pytest.raises(Refused):
        lines.choose_route(**at(owner, plan), slot=slot, route=other)


def test_the_piece_before_is_drawn_beside_the_new_one(client, owner, bike, catalogue) -> None:
    read = {"actor": owner, "bike_id": bike.pk, "slot": "chain", "sort": "chain_pct"}
    day = timezone.localdate() - datetime.timedelta(days=90)
    read_wear(**read, value=0.1, km=0, on=day)
    read_wear(**read, value=1.45, km=3000, on=day + datetime.timedelta(days=60))
    old = BikePart.objects.get(bike=bike, slot="chain")
    version = Bike.objects.get(pk=bike.pk).version
    fitting.take_off(actor=owner, bike_id=bike.pk, version=version, slot="chain")
    new = BikePart.objects.create(workshop=owner.workshop, kind="chain", name="New chain", where="bench")
    version = Bike.objects.get(pk=bike.pk).version
    fitting.fit_part(actor=owner, bike_id=bike.pk, version=version, slot="chain", part_id=new.pk)
    read_wear(**read, value=0.05, km=3100, on=timezone.localdate())
    client.force_login(owner)
    page = client.get(reverse("bikes:wear", args=[bike.pk])).text
    assert "Hollow: the chain before it" in page
    assert ("0 km" in page, ">1.45<" in page) == (True, True)
    assert [one.short for one in wear_marks(owner, [old.pk])[old.pk]] == ["Elongation 1.45 %"]
    assert "0.70 %" in client.get(reverse("bench:piece", args=[old.pk])).text  # 1.45 is 0.70 over 0.75
    for url in (reverse("bench:list"), reverse("bikes:part-edit", args=[bike.pk, "chain"])):
        assert "longation" in client.get(url).text, url
