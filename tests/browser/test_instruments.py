"""A gauge's reading from the stand-in, through the real bridge, into the wear log; the forecast moves."""

import asyncio
import datetime
import threading

import pytest
from django.utils import timezone
from playwright.sync_api import Page, expect

from unkett.devices.bridge import Bridge
from unkett.devices.standins import StandIn
from unkett.web.wear.models import WearReading
from unkett.web.wear.services import read_wear

pytestmark = pytest.mark.own_database


class Bench:
    """The bridge, a gauge and whatever else speaks its lines, in a thread of their own."""

    def __init__(self, *more) -> None:
        self.loop = asyncio.new_event_loop()
        self.gauge = StandIn("GAU", noise=0, bad_one_in=0)
        self.thread = threading.Thread(target=self.loop.run_forever, daemon=True)
        self.thread.start()
        self.plugged = (self.gauge, *more)
        for one in self.plugged:
            self.do(one.plug_in())
        self.bridge = Bridge([one.source for one in self.plugged], port=0)
        self.running = asyncio.run_coroutine_threadsafe(self.bridge.run(), self.loop)
        while self.bridge.port == 0:
            self.do(asyncio.sleep(0.02))

    def do(self, what):
        return asyncio.run_coroutine_threadsafe(what, self.loop).result(300)

    async def measured(self, value: float) -> None:
        while not self.gauge._open or not self.bridge._listeners:
            await asyncio.sleep(0.02)
        self.gauge.press(value)

    def close(self) -> None:
        for one in self.plugged:
            self.do(one.unplug())
        self.running.cancel()
        self.do(asyncio.sleep(0.2))
        self.loop.call_soon_threadsafe(self.loop.stop)
        self.thread.join()
        self.loop.close()


@pytest.fixture
def bench():
    made = Bench()
    yield made
    made.close()


def test_a_gauge_writes_into_the_wear_book(bike, owner, bench, signed_in: Page, expected_faults) -> None:
    ago = timezone.localdate() - datetime.timedelta(days=40)
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.15, on=ago)
    page = signed_in
    expected_faults.append(f"http://127.0.0.1:{bench.bridge.port}/events")  # the one other address it asks
    page.goto("/units/")
    page.get_by_label("Port, empty for none").fill(str(bench.bridge.port))
    page.get_by_role("button", name="Listen there").click()
    page.goto(f"/bikes/{bike.pk}/wear/")
    page.get_by_label("What").select_option("chain_pct:chain")
    page.locator("body[data-listens]").wait_for()
    page.get_by_label("Reading", exact=True).focus()
    bench.do(bench.measured(0.45))
    expect(page.get_by_test_id("series")).to_contain_text("0.45")
    due = timezone.localdate() + datetime.timedelta(days=40)
    expect(page.get_by_test_id("series")).to_contain_text(f"{due.day} {due:%b %Y}")
    assert WearReading.objects.last().instrument == "chain gauge"
    page.locator("body[data-listens]").wait_for()
    bench.do(bench.measured(0.7))  # with the caret nowhere
    expect(page.get_by_role("alert")).to_contain_text("The chain gauge reads 0.70")
    assert WearReading.objects.count() == 2
