"""How long a gauge's reading takes from the stand-in through the bridge into the wear book on the page."""

from __future__ import annotations

import asyncio
import statistics
import threading
import time
from typing import Any

from unkett.devices.bridge import Bridge
from unkett.devices.standins import StandIn

READINGS = 7


def reading_ms(page: Any, url: str, bike: str) -> float:
    """Median milliseconds from the press of the gauge until the page shows the reading. The page is signed in."""
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()

    def do(what: Any) -> Any:
        return asyncio.run_coroutine_threadsafe(what, loop).result(20)

    async def press(value: float) -> None:
        while not gauge._open or not bridge._listeners:
            await asyncio.sleep(0.005)
        gauge.press(value)

    gauge = StandIn("GAU", noise=0, bad_one_in=0)
    do(gauge.plug_in())
    bridge = Bridge([gauge.source], port=0)
    running = asyncio.run_coroutine_threadsafe(bridge.run(), loop)
    while bridge.port == 0:
        time.sleep(0.02)
    page.goto(f"{url}/units/")
    page.get_by_label("Port, empty for none").fill(str(bridge.port))
    page.get_by_role("button", name="Listen there").click()
    times = []
    for n in range(READINGS):
        value = 0.11 + n / 100
        page.goto(f"{url}/bikes/{bike}/wear/")
        page.get_by_label("What").select_option("chain_pct:chain")
        page.locator("body[data-listens]").wait_for()
        page.get_by_label("Reading", exact=True).focus()
        begin = time.perf_counter()
        do(press(value))
        page.get_by_test_id("series").get_by_text(f"{value:.2f}").first.wait_for()
        times.append((time.perf_counter() - begin) * 1000)
    page.goto("about:blank")
    do(gauge.unplug())
    running.cancel()
    do(asyncio.sleep(0.1))
    loop.call_soon_threadsafe(loop.stop)
    thread.join()
    return round(statistics.median(times))
