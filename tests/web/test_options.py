"""Parts of one's own in a plan, its options side by side, its parts list, and the whole of it carried out."""

import csv
import io
from decimal import Decimal

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import settings_of
from unkett.web.bikes.services import store_build
from unkett.web.bin.services import count_box, leave_bin
from unkett.web.plans import carrying, options, services
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import NotThere, Refused


def fresh(plan) -> Plan:
    return Plan.objects.select_related("bike").get(pk=plan.pk)


def on_stand(owner, plan) -> Plan:
    for to in ("agreed", "on stand"):
        services.move_plan(actor=owner, plan_id=plan.pk, version=fresh(plan).version, to=to)
    return fresh(plan)


def carry_all(owner, plan, **more) -> Plan:
    now = fresh(plan)
    return carrying.apply_changes(
        actor=owner, plan_id=now.pk, version=now.version, bike_version=now.bike.version, **more
    )


@pytest.fixture
def other(owner) -> Bike:
    """A second bike with a chain of ten."""
    parts = {"chain": {"name": "Ten", "attrs": {"speeds": 10, "links": 114}}}
    return store_build(owner, build_from({"name": "Quay bike", "parts": parts}))


def test_a_part_is_typed_in_the_plan_and_judged(client, owner, bike, plan) -> None:
    client.force_login(owner)
    url = reverse("plans:slot-typed", args=[plan.pk, "chain"])
    form = next(one for one in forms_of(client.get(url).text) if "speeds" in one.fields)
    wrong = client.post(url, {**form.fields, "speeds": "many", "price": "-1", "links": "112"})
    assert wrong.status_code == 422
    assert wrong.text.count('class="fault"') >= 2
    assert 'value="112"' in wrong.text
    assert not fresh(plan).changes.exists()
    good = {**form.fields, "name": "From the drawer", "speeds": "9", "links": "112", "price": "7,50"}
    assert client.post(url, good).status_code == 302
    change = fresh(plan).changes.get()
    assert (change.name, change.attrs, str(change.price)) == (
        "From the drawer",
        {"speeds": 9, "links": 112},
        "7.50",
    )
    assert planned(owner, plan.pk).build.parts["chain"].attrs["links"] == 112
    again = client.get(url, {"like": "now"}).text
    assert next(one for one in forms_of(again) if "links" in one.fields).fields["links"] == "112"


def test_a_typed_part_is_carried_out_as_measured_and_undone(owner, bike, plan) -> None:
    values = {"speeds": 9, "links": 112}
    services.type_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", name="Mine", values=values)
    before = {part.slot: part.pk for part in bike.fitted.all()}
    on_stand(owner, plan)
    carry_all(owner, plan)
    chain = Bike.objects.get(pk=bike.pk).fitted.get(slot="chain")
    assert (chain.name, chain.attrs) == ("Mine", values)
    assert set(chain.origins.values()) == {"measured"}
    now = Bike.objects.get(pk=bike.pk)
    fitting.undo(actor=owner, bike_id=bike.pk, version=now.version)
    assert {part.slot: part.pk for part in now.fitted.all()} == before


def test_the_very_part_of_another_bike_is_taken(client, owner, bike, other, plan) -> None:
    client.force_login(owner)
    chain = other.fitted.get()
    page = client.get(reverse("plans:slot-lying", args=[plan.pk, "chain"])).text
    assert "Quay bike" in page
    services.take_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=chain.pk)
    assert planned(owner, plan.pk).build.parts["chain"].attrs["speeds"] == 10
    on_stand(owner, plan)
    old = bike.fitted.get(slot="chain")
    carry_all(owner, plan, goes_to="customer")
    chain.refresh_from_db()
    old.refresh_from_db()
    assert (chain.bike_id, chain.slot) == (bike.pk, "chain")
    assert old.where == "customer"
    assert not other.fitted.exists()
    assert planned(owner, plan.pk).done == {"chain"}


def test_a_part_that_is_gone_is_not_fitted(owner, bike, other, plan) -> None:
    chain = other.fitted.get()
    services.take_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=chain.pk)
    on_stand(owner, plan)
    fitting.take_off(actor=owner, bike_id=other.pk, version=1, slot="chain")
    with pytest.raises(Refused, match="reserved"):
        leave_bin(actor=owner, part_id=chain.pk, to="sold")
    count_box(actor=owner, box="", expected=[chain.pk], found=[], scanned="", counts={}, why="not there")
    with pytest.raises(Refused):
        carry_all(owner, plan)
    assert Bike.objects.get(pk=bike.pk).version == 1


def test_a_bike_s_own_part_is_not_taken_for_it(owner, bike, plan) -> None:
    own = bike.fitted.get(slot="chain").pk
    with pytest.raises(NotThere):
        services.take_part(actor=owner, plan_id=plan.pk, version=1, slot="chain", part_id=own)


def test_all_is_carried_out_in_one_step(client, owner, bike, plan, catalogue) -> None:
    part = catalogue["Wide nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    services.empty_slot(actor=owner, plan_id=plan.pk, version=2, slot="chain")
    on_stand(owner, plan)
    client.force_login(owner)
    url = reverse("plans:plan-apply", args=[plan.pk])
    form = next(
        one for one in forms_of(client.get(reverse("plans:show", args=[plan.pk])).text) if one.action == url
    )
    assert client.post(url, {**form.fields, "goes_to": "scrapped"}).status_code == 302
    now = Bike.objects.get(pk=bike.pk)
    slots = {item.slot: item.name for item in now.fitted.all()}
    assert slots["cassette"] == "Wide nine"
    assert "chain" not in slots
    assert BikePart.objects.filter(where="scrapped").count() == 2
    assert now.version == 2
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert BikePart.objects.filter(where="scrapped").count() == 0


def parts_price(owner, plan) -> Decimal:
    """What the plan's own parts come to in its quote, without small parts."""
    rows = PlanCost(found=planned(owner, plan.pk), settings=settings_of(owner)).quote.rows
    return sum((Decimal(row.price) / 100 for row in rows if row.cause.startswith("change:")), Decimal(0))


def test_a_customer_s_part_costs_nothing_and_is_not_ordered(client, owner, plan, catalogue) -> None:
    part = catalogue["Wide nine"]
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part.pk)
    client.force_login(owner)
    listed = client.get(reverse("plans:parts-list", args=[plan.pk]), {"as": "csv"}).text
    row = next(csv.DictReader(io.StringIO(listed)))
    assert (row["name"], row["price"]) == ("Wide nine", str(part.price))
    services.set_supplier(actor=owner, plan_id=plan.pk, version=2, slot="cassette", brought=True)
    assert parts_price(owner, plan) == 0
    assert "Customer supplies" in client.get(reverse("plans:parts-list", args=[plan.pk])).text
    services.set_supplier(actor=owner, plan_id=plan.pk, version=3, slot="cassette", brought=False)
    assert parts_price(owner, plan) == part.price


def test_options_side_by_side_and_one_chosen(client, owner, plan, catalogue) -> None:
    wide, close = catalogue["Wide nine"].pk, catalogue["Close nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=wide)
    other = options.add_option(actor=owner, plan_id=plan.pk, version=2)
    assert (other.letter, fresh(plan).letter, other.changes.get().name) == ("B", "A", "Wide nine")
    services.swap_part(actor=owner, plan_id=other.pk, version=1, slot="cassette", part_id=close)
    client.force_login(owner)
    page = client.get(reverse("plans:options", args=[other.pk])).text
    assert page.index("Wide nine") < page.index("Close nine")
    assert "Lowest gear" in page
    third = options.add_option(actor=owner, plan_id=other.pk, version=2)
    assert (third.letter, third.option_of_id) == ("C", plan.pk)
    options.choose_option(actor=owner, plan_id=other.pk, version=2)
    assert [fresh(one).state for one in (plan, other, third)] == ["dropped", "draft", "dropped"]
    services.move_plan(actor=owner, plan_id=plan.pk, version=fresh(plan).version, to="draft")
    services.move_plan(actor=owner, plan_id=plan.pk, version=fresh(plan).version, to="agreed")
    with pytest.raises(Refused):  # what is agreed with the customer is not dropped unseen
        options.choose_option(actor=owner, plan_id=other.pk, version=fresh(other).version)


def test_what_another_plan_has_is_planned_here(owner, bike, other, plan, catalogue) -> None:
    part = catalogue["Wide nine"].pk
    services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part)
    there = services.start_plan(actor=owner, bike_id=other.pk)
    change = plan.changes.get().pk
    services.plan_as_there(actor=owner, plan_id=there.pk, version=1, slot="cassette", change_id=change)
    assert there.changes.get().name == "Wide nine"
    with pytest.raises(NotThere):  # a cassette is no chain
        services.plan_as_there(actor=owner, plan_id=there.pk, version=2, slot="chain", change_id=change)
