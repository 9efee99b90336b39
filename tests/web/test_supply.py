"""Suppliers through the real stand-in: offers that age, answers that lie or stall, orders that bring plans on."""

import threading
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from unkett.devices.supplier import Supplier as StandIn
from unkett.devices.supplier import SupplierServer
from unkett.web.bikes.models import BikePart
from unkett.web.catalogue.models import CataloguePart
from unkett.web.plans.carrying import apply_changes
from unkett.web.plans.models import Change, State
from unkett.web.plans.services import move_plan, swap_part
from unkett.web.supply import feed, services
from unkett.web.supply.models import Offer, Order, Supplier
from unkett.web.supply.queries import is_stale
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import do_next
from unkett.web.workshop.errors import Conflict, NotThere, Refused

PARTS = [
    {"kind": "cassette", "name": "Wide nine", "price": 34},
    {"kind": "cassette", "name": "Eight", "price": 18},
    {"kind": "chain", "name": "Chain of 114", "price": 16},
    {"kind": "saddle", "name": "Nobody here knows it", "price": 5},
]


@pytest.fixture
def store():
    server = SupplierServer(StandIn(PARTS))
    for offer in server.supplier.offers:
        offer.update(price=f"{10 + len(offer['name'])}.50", stock=3, lead_days=2)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02})
    thread.start()
    yield server
    server.supplier.stalled.set()
    server.shutdown()
    thread.join()
    server.server_close()


@pytest.fixture
def supplier(owner, store, catalogue) -> Supplier:
    CataloguePart.objects.update(days=3)
    return services.keep_supplier(actor=owner, supplier_id=None, name="Store", url=store.url)


def refresh(owner, supplier) -> Task:
    task = services.ask_offers(actor=owner, supplier_id=supplier.pk)
    assert do_next()
    task.refresh_from_db()
    supplier.refresh_from_db()
    return task


@pytest.fixture
def agreed(owner, bike, plan, catalogue):
    """A plan that buys a cassette and a chain, agreed."""
    for slot, name in (("cassette", "Wide nine"), ("chain", "Chain of 114")):
        plan = swap_part(
            actor=owner, plan_id=plan.pk, version=plan.version, slot=slot, part_id=catalogue[name].pk
        )
    return move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to=State.AGREED)


def test_offers_come_beside_the_workshops_own_figures(client, owner, supplier, catalogue) -> None:
    client.force_login(owner)
    assert is_stale(supplier)
    task = refresh(owner, supplier)
    assert (task.state, task.found) == ("done", {"offers": 4, "left_out": 0})
    offer = Offer.objects.get(name="Wide nine")
    assert (offer.catalogue_part_id, offer.price) == (
        catalogue["Wide nine"].pk,
        Decimal("19.50"),
    )
    assert offer.stock in (2, 3, 4)  # it moves with every answer
    assert Offer.objects.get(kind="saddle").catalogue_part_id is None
    catalogue["Wide nine"].refresh_from_db()
    assert (catalogue["Wide nine"].price, catalogue["Wide nine"].days) == (Decimal(34), 3)
    assert not is_stale(supplier)
    assert "19.50" in client.get(reverse("catalogue:part", args=[catalogue["Wide nine"].pk])).text
    Supplier.objects.update(answered_at=timezone.now() - timedelta(minutes=31))
    supplier.refresh_from_db()
    assert is_stale(supplier)
    shown = client.get(reverse("supply:list")).text
    assert "4 offers, 31" in shown
    assert 'hx-trigger="load, submit"' in shown


@pytest.mark.parametrize(
    ("mood", "says"),
    [("broken", "answered 500"), ("megabyte", "more than 2 MB"), ("lies", "None of its offers"), ("cut off", "no JSON"),
     ("stall", "said nothing"), ("slow", "did not end")],
)  # fmt: skip
def test_a_bad_answer_changes_nothing_and_is_reported(
    client, owner, supplier, store, monkeypatch, mood, says
) -> None:
    monkeypatch.setattr(feed, "QUIET_SECONDS", 0.5)
    monkeypatch.setattr(feed, "SECONDS", 0.9)
    client.force_login(owner)
    refresh(owner, supplier)
    before = list(Offer.objects.values_list("code", "price", "stock"))
    answered = supplier.answered_at
    store.supplier.mood = mood
    task = refresh(owner, supplier)
    assert task.state == "failed"
    assert says in supplier.says
    assert supplier.answered_at == answered
    assert list(Offer.objects.values_list("code", "price", "stock")) == before
    assert not is_stale(supplier)  # left in peace for a while
    assert says in client.get(reverse("supply:list")).text
    store.supplier.mood = "well"
    store.supplier.stalled.set()
    assert refresh(owner, supplier).state == "done"
    assert supplier.says == ""


def test_a_lie_among_truths_is_left_out() -> None:
    good = {"code": "A", "name": "Stem", "price": "1.00", "stock": None, "lead_days": 0}
    rows = [
        good, {**good, "code": "B", "price": "NaN"}, {**good, "code": "C", "stock": True},
        {**good, "code": "D", "lead_days": 2.5}, {**good, "code": "E\x07"}, good, {**good, "code": "F", "price": None},
        {**good, "code": "G", "price": -1}, {**good, "code": "H", "price": True}, 7,
    ]  # fmt: skip
    found = feed.read_feed({"format": "unkett.offers/1", "offers": rows})
    assert [one.code for one in found.offers] == ["A", "F"]
    assert len(found.left_out) == 8
    assert found.left_out[0] == "offers[1].price: 'NaN' is no price"
    for answer in (None, [], {"format": "unkett.offers/1"}, {"format": "other", "offers": []}):
        with pytest.raises(feed.SupplierError):
            feed.read_feed(answer)


def test_nobody_answering_is_reported(owner, supplier, store) -> None:
    Supplier.objects.update(url="http://127.0.0.1:9")
    assert refresh(owner, supplier).state == "failed"
    assert "cannot be reached" in supplier.says


@pytest.mark.parametrize(
    "url", ["ftp://x", "file:///etc/passwd", "127.0.0.1:1", "http://", "http://a:b@c", "http://x:99999"]
)
def test_an_address_that_is_none_is_refused(client, owner, url) -> None:
    client.force_login(owner)
    answer = client.post(reverse("supply:supplier-new"), {"name": "X", "url": url, "once": ""})
    assert answer.status_code == 422
    assert not Supplier.objects.exists()


def test_an_order_brings_its_plan_from_agreed_to_ready(client, owner, supplier, store, agreed) -> None:
    client.force_login(owner)
    refresh(owner, supplier)
    assert "Order from Store" in client.get(reverse("plans:parts-list", args=[agreed.pk])).text
    answer = client.post(
        reverse("supply:plan-order", args=[agreed.pk]), {"supplier": supplier.pk, "once": ""}
    )
    order = Order.objects.get()
    assert answer.url == reverse("supply:order", args=[order.pk])
    assert [line.name for line in order.lines.all()] == ["Wide nine", "Chain of 114"]
    with pytest.raises(Refused, match="Nothing of this plan"):
        services.order_for_plan(actor=owner, plan_id=agreed.pk, supplier_id=supplier.pk)
    with pytest.raises(Conflict):
        services.send_order(actor=owner, order_id=order.pk, version=order.version - 1)
    client.post(reverse("supply:order-send", args=[order.pk]), {"version": order.version, "once": ""})
    order.refresh_from_db()
    agreed.refresh_from_db()
    assert (order.state, agreed.state) == ("sending", "agreed")
    assert "Being sent" in client.get(reverse("supply:order", args=[order.pk])).text
    assert do_next()
    order.refresh_from_db()
    agreed.refresh_from_db()
    assert (order.state, order.number, agreed.state) == ("sent", "O1", "gathering")
    first, second = order.lines.all()
    where = reverse("supply:line-arrive", args=[order.pk])
    for count in ("0", "2"):
        typed = {"version": order.version, "line": first.pk, "count": count, "once": ""}
        assert client.post(where, typed).status_code == 422
    client.post(where, {"version": order.version, "line": first.pk, "count": "1", "box": "Shelf", "once": ""})
    order.refresh_from_db()
    agreed.refresh_from_db()
    assert (order.state, agreed.state) == ("part here", "gathering")
    piece = BikePart.objects.get(where="bench")
    assert (piece.name, piece.box, piece.attrs["mount"]) == ("Wide nine", "Shelf", "spline9")
    assert Change.objects.get(plan=agreed, slot="cassette").part_id == piece.pk
    client.post(where, {"version": order.version, "line": second.pk, "count": "1", "once": ""})
    order.refresh_from_db()
    agreed.refresh_from_db()
    assert (order.state, agreed.state) == ("here", "ready")
    plan = move_plan(actor=owner, plan_id=agreed.pk, version=agreed.version, to=State.ON_STAND)
    version = plan.bike.version
    apply_changes(actor=owner, plan_id=plan.pk, version=plan.version, bike_version=version, slot="cassette")
    piece.refresh_from_db()
    assert (piece.where, piece.bike_id, piece.slot) == ("on bike", plan.bike_id, "cassette")


def test_an_order_that_cannot_be_sent_is_a_draft_again(owner, supplier, store, agreed) -> None:
    refresh(owner, supplier)
    order = services.order_for_plan(actor=owner, plan_id=agreed.pk, supplier_id=supplier.pk)
    store.supplier.mood = "broken"
    order = services.send_order(actor=owner, order_id=order.pk, version=order.version)
    with pytest.raises(Refused, match="being sent already"):
        services.send_order(actor=owner, order_id=order.pk, version=order.version)
    assert do_next()
    order.refresh_from_db()
    assert (order.state, order.says) == ("draft", "It could not be sent. It answered 500.")
    store.supplier.mood = "cut off"  # it took the order, and its answer was lost
    services.send_order(actor=owner, order_id=order.pk, version=order.version)
    assert do_next()
    store.supplier.mood = "well"
    order.refresh_from_db()
    services.send_order(actor=owner, order_id=order.pk, version=order.version)
    assert do_next()
    order.refresh_from_db()
    assert order.state == "sent"
    assert len(store.supplier.orders) == 1  # by its reference the same order


def test_a_supplier_without_a_feed_is_ordered_from_by_hand(owner, agreed, stranger) -> None:
    CataloguePart.objects.update(days=3)
    by_hand = services.keep_supplier(actor=owner, supplier_id=None, name="By phone", url="")
    with pytest.raises(NotThere):
        services.ask_offers(actor=owner, supplier_id=by_hand.pk)
    order = services.order_for_plan(actor=owner, plan_id=agreed.pk, supplier_id=by_hand.pk)
    order = services.count_line(
        actor=owner, order_id=order.pk, version=order.version, line_id=order.lines.first().pk, count=0
    )
    order = services.send_order(actor=owner, order_id=order.pk, version=order.version)
    assert order.state == "sent"
    line = order.lines.get()
    order = services.arrive(actor=owner, order_id=order.pk, version=order.version, line_id=line.pk, count=1)
    agreed.refresh_from_db()
    assert (order.state, agreed.state) == ("here", "gathering")  # the part left out is still to be got
    assert not Task.objects.exists()
