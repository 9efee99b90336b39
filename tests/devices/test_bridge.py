"""The real bridge with stand-ins: readings through sockets and a pseudo-terminal, lost and found again."""

from __future__ import annotations

import asyncio
import contextlib
import json
import os
import pty
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor

import pytest

from unkett.devices.bridge import Bridge, SourceError
from unkett.devices.readings import Lines, reading_from
from unkett.devices.standins import StandIn

PAGE = "http://127.0.0.1:8000"


@pytest.mark.parametrize(
    ("line", "typed"),
    [
        ("CAL mm 34.87", "34.87 mm"),
        ("CAL mm -0.02\r\n", "-0.02 mm"),
        ("CAL in 1.125", "1.125 in"),
        ("TRQ nm 5.42", "5.42 Nm"),
        ("GAU pct 0.62", "0.62"),
        ("CAL mm 34,87", None),
        ("CAL mm", None),
        ("CAL mm 3\x00.87", None),
        ("CAL mm 34.87 34.88", None),
        ("XYZ mm 1", None),
        ("CAL kg 1", None),
        ("CAL mm nan", None),
        ("CAL mm 12345678", None),
        ("", None),
    ],
)
def test_a_line_is_a_reading_or_nothing(line, typed) -> None:
    found = reading_from(line)
    assert (found and found.typed) == typed


def test_bytes_become_lines_however_they_are_cut() -> None:
    lines = Lines()
    found = [
        one.value for piece in (b"CAL mm 3", b"4.87\r", b"\nTRQ nm 5.4\nGAU p") for one in lines.feed(piece)
    ]
    assert found == [34.87, 5.4]
    lines.lost()
    assert [one.value for one in lines.feed(b"ct 0.6\nGAU pct 0.7\n")] == [0.7]
    assert lines.feed(b"x" * 5_000) == []
    assert [one.value for one in lines.feed(b" 9.9\nCAL mm 2.00\n")] == [2.0]


@pytest.mark.parametrize("source", ["tcp:here", "tcp::", "tcp:h:0", "tcp:h:70000", "serial:", "usb:1", ""])
def test_a_source_that_is_none_is_refused(source) -> None:
    with pytest.raises(SourceError):
        Bridge([source])


def alone(run):
    """What a coroutine answers, in a thread of its own: the browser tests have a loop in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(lambda: asyncio.run(run())).result(600)


OPEN: list[asyncio.StreamWriter] = []


async def listen(port: int, origin: str = PAGE, host: str = "127.0.0.1", path: str = "/events") -> tuple:
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    OPEN.append(writer)
    writer.write(f"GET {path} HTTP/1.1\r\nHost: {host}:{port}\r\nOrigin: {origin}\r\n\r\n".encode())
    head = await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), 300)
    return head.decode(), reader, writer


async def events(reader: asyncio.StreamReader, many: int) -> list[dict]:
    found = []
    while len(found) < many:
        line = await asyncio.wait_for(reader.readline(), 300)
        if line.startswith(b"data: "):
            found.append(json.loads(line[6:]))
    return found


@contextlib.asynccontextmanager
async def bridged(*sources: str) -> AsyncIterator[Bridge]:
    bridge = Bridge(sources, port=0, origins=["https://bikes.example"])
    running = asyncio.create_task(bridge.run())
    while bridge.port == 0:
        await asyncio.sleep(0.01)
    try:
        yield bridge
    finally:
        running.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await running
        while OPEN:
            OPEN.pop().close()
        await asyncio.sleep(0.05)  # what was closed has gone


async def until_connected(stand_in: StandIn) -> None:
    while not stand_in._open:
        await asyncio.sleep(0.02)


def test_readings_of_three_instruments_reach_the_page() -> None:
    async def run() -> list[dict]:
        stand_ins = [StandIn(code, noise=0, bad_one_in=2) for code in ("CAL", "TRQ", "GAU")]
        for one in stand_ins:
            await one.plug_in()
        async with bridged(*(one.source for one in stand_ins)) as bridge:
            head, reader, _ = await listen(bridge.port)
            assert "text/event-stream" in head
            assert f"Access-Control-Allow-Origin: {PAGE}" in head
            found = []
            for one, value in zip(stand_ins, (34.87, 5.42, 0.62), strict=True):
                await until_connected(one)
                one.press(value)
                found += await events(reader, 1)
            for one in stand_ins:
                await one.unplug()
            return found

    found = alone(run)
    assert [(one["name"], one["typed"]) for one in found] == [
        ("caliper", "34.87 mm"), ("torque wrench", "5.42 Nm"), ("chain gauge", "0.62"),
    ]  # fmt: skip


def test_a_line_lost_in_the_middle_of_a_number_is_no_reading_and_the_instrument_comes_back() -> None:
    async def run() -> list[dict]:
        caliper = StandIn("CAL", noise=0, bad_one_in=0)
        await caliper.plug_in()
        async with bridged(caliper.source) as bridge:
            _, reader, _ = await listen(bridge.port)
            await until_connected(caliper)
            await caliper.unplug("CAL mm 34")
            await caliper.plug_in()
            await until_connected(caliper)
            caliper.press(2.5)
            found = await events(reader, 1)
            await caliper.unplug()
            return found

    assert [one["value"] for one in alone(run)] == [2.5]


def test_a_serial_port_is_read_as_it_is() -> None:
    async def run() -> list[dict]:
        ours, theirs = pty.openpty()
        async with bridged(f"serial:{os.ttyname(theirs)}") as bridge:
            _, reader, _ = await listen(bridge.port)
            os.write(ours, b"CAL mm 27.")
            os.write(ours, b"20\r\nnoise\r\nCAL mm 31.80\r\n")
            found = await events(reader, 2)
        os.close(ours)
        os.close(theirs)
        return found

    assert [one["value"] for one in alone(run)] == [27.2, 31.8]


@pytest.mark.parametrize(
    ("given", "may"),
    [
        ({}, True),
        ({"origin": "http://localhost:9000"}, True),
        ({"origin": "https://bikes.example"}, True),
        ({"origin": "https://elsewhere.example"}, False),
        ({"origin": "http://127.0.0.1.elsewhere.example"}, False),
        ({"host": "bench.elsewhere.example"}, False),
        ({"path": "/"}, False),
    ],
)
def test_only_pages_of_this_machine_or_named_ones_listen(given, may) -> None:
    async def run() -> str:
        async with bridged() as bridge:
            head, _, writer = await listen(bridge.port, **given)
            writer.close()
            return head

    assert alone(run).startswith("HTTP/1.1 200" if may else "HTTP/1.1 403")


def test_a_stand_in_has_noise_and_now_and_then_a_bad_line() -> None:
    gauge = StandIn("GAU", seed=3)
    values = {reading_from(gauge.line(0.5)).value for _ in range(50)}
    assert values == {0.49, 0.5, 0.51}
    with pytest.raises(ValueError, match="CAL"):
        StandIn("SAW")
