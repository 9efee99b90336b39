"""The bin in the browser: a label scanned, its piece reserved and fitted; an order that arrives; a gear that talks."""

import asyncio
import re
import threading

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_instruments import Bench
from unkett.devices.standins import GearStandIn
from unkett.devices.supplier import Supplier as StandIn
from unkett.devices.supplier import SupplierServer
from unkett.web.bikes.models import BikePart
from unkett.web.bin.services import Kept, enter_piece
from unkett.web.catalogue.models import CataloguePart
from unkett.web.jobs.services import start_job
from unkett.web.plans.models import State
from unkett.web.plans.services import move_plan, swap_part
from unkett.web.supply.services import keep_supplier
from unkett.web.tasks.services import do_next

pytestmark = pytest.mark.own_database


def test_a_label_is_scanned_reserved_and_fitted(bike, plan, owner, signed_in: Page, expected_faults) -> None:
    expected_faults.append("422")  # what is reserved is not sold
    values = {"speeds": 9, "links": 114}
    piece = enter_piece(actor=owner, kind="chain", name="Old chain", values=values, kept=Kept(box="C 1"))
    page = signed_in
    page.goto(f"/bench/labels/?part={piece.pk}")
    expect(page.get_by_label(f"Label {piece.label}").locator("svg")).to_be_visible()
    page.goto("/customers/")
    page.keyboard.type(f"{piece.scanned}\n")  # as a scanner types it, the caret nowhere
    expect(page.get_by_role("heading", name="Old chain")).to_be_visible()
    page.goto(f"/plans/{plan.pk}/parts/chain/lying/")
    page.get_by_role("button", name="Take it: Old chain").click()
    page.get_by_text("Old chain").first.wait_for()
    page.goto(f"/bench/{piece.pk}/")
    expect(page.get_by_text("reserved for")).to_be_visible()
    page.get_by_role("button", name="Sell").click()
    expect(page.get_by_text("is reserved for Plan A")).to_be_visible()
    plan.refresh_from_db()
    for to in (State.AGREED, State.ON_STAND):
        plan = move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to=to)
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("button", name="Carried out").first.click()
    page.get_by_text("Old chain").first.wait_for()
    page.goto(f"/bikes/{bike.pk}/history/")
    piece.refresh_from_db()
    assert (piece.bike_id, piece.slot) == (bike.pk, "chain")
    page.goto("/customers/")
    page.keyboard.type(f"{piece.scanned}\n")
    expect(page).to_have_url(re.compile(rf"/bikes/{bike.pk}/parts/chain/$"))


def test_an_order_is_sent_and_arrives(plan, catalogue, owner, signed_in: Page) -> None:
    CataloguePart.objects.update(days=3)
    server = SupplierServer(StandIn([{"kind": "chain", "name": "Chain of 114", "price": 16}]))
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05})
    thread.start()
    keep_supplier(actor=owner, supplier_id=None, name="Store", url=server.url)
    part = catalogue["Chain of 114"].pk
    made = swap_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="chain", part_id=part)
    move_plan(actor=owner, plan_id=plan.pk, version=made.version, to=State.AGREED)
    page = signed_in
    try:
        page.goto("/supply/")  # its offers are asked for by themselves
        page.get_by_text("being asked").wait_for()
        assert do_next()
        expect(page.get_by_text("1 offers")).to_be_visible()
        page.goto(f"/plans/{plan.pk}/parts-list/")
        page.get_by_role("button", name="Order from Store").click()
        page.get_by_role("button", name="Send").click()
        page.get_by_text("Being sent").wait_for()
        assert do_next()
        expect(page.get_by_text("there it is number O1")).to_be_visible()
        page.get_by_role("button", name="Receive: Chain of 114").click()
        expect(page.get_by_text("Here", exact=True).first).to_be_visible()
    finally:
        server.shutdown()
        thread.join()
        server.server_close()
    plan.refresh_from_db()
    assert plan.state == "ready"
    assert BikePart.objects.filter(where="bench", name="Chain of 114").count() == 1


def test_an_electronic_gear_fills_the_look_over_and_the_trim(
    bike, plan, catalogue, owner, signed_in: Page, expected_faults
) -> None:
    cage = bike.fitted.get(slot="rear_derailleur")
    cage.attrs["actuation"] = "electronic"
    cage.save()
    owner.bridge_port = None
    gear = GearStandIn()
    bench = Bench(gear)
    page = signed_in
    try:
        expected_faults.append(f"http://127.0.0.1:{bench.bridge.port}/events")
        type(owner).objects.filter(pk=owner.pk).update(bridge_port=bench.bridge.port)
        page.goto(f"/bikes/{bike.pk}/look-over/")
        page.locator("body[data-listens]").wait_for()

        async def pair() -> None:
            while not gear._open:
                await asyncio.sleep(0.02)
            gear.pair()

        bench.do(pair())
        form = page.get_by_role("form", name="Electronic gear")
        expect(form.get_by_label("Battery, %")).to_have_value("64")
        expect(form.get_by_label("Paired")).to_be_checked()
        expect(form.get_by_label("Speeds")).to_have_value("12")
        form.get_by_role("button", name="Save gear readings").click()
        expect(form.get_by_label("Protocol")).to_have_value("hill_12")
        part = catalogue["Close nine"].pk
        swap_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="cassette", part_id=part)
        job = start_job(actor=owner, plan_id=plan.pk)
        step = job.steps.get(key="adjust:rear_derailleur:index")
        page.goto(f"/plans/{plan.pk}/job/?step={step.pk}")
        page.locator("body[data-listens]").wait_for()

        async def trim() -> None:
            while not bench.bridge._listeners:
                await asyncio.sleep(0.02)
            gear.click(-3)

        bench.do(trim())
        expect(page.get_by_label("Trim")).to_have_value("-3")
        page.goto("about:blank")
    finally:
        bench.close()
    cage.refresh_from_db()
    assert (cage.attrs["speeds"], cage.attrs["protocol"]) == (12, "hill_12")
    assert cage.instruments["protocol"] == "electronic gear"
    reading = bike.wear.get()
    assert (reading.sort, reading.value, reading.instrument) == ("battery_pct", 64.0, "electronic gear")
