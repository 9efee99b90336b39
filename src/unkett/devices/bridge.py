"""The bridge on the bench's own computer: from serial ports and sockets to an event stream on loopback.

It knows nothing of the server: the page in front listens, and what it takes it posts as if a hand had typed it.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import re
import termios
import tty
from collections.abc import Iterable

from unkett.devices.readings import DeviceReading, Lines

HOST = "127.0.0.1"
PORT = 8731
AGAIN_S = (0.2, 0.5, 1.0, 2.0)  # how long it waits before it tries a lost instrument again
HEAD_MAX = 8_192
LISTENERS_MAX = 8
KEEP_ALIVE_S = 15.0
READ_BYTES = 4_096
_LOOPBACK = re.compile(r"https?://(?:127\.0\.0\.1|localhost|\[::1\])(?::\d{1,5})?")


class SourceError(Exception):
    """A source that is none: neither `tcp:HOST:PORT` nor `serial:PATH`."""


class Bridge:
    """Reads its sources for ever and tells whoever listens. `origins` may listen beside pages on loopback."""

    def __init__(self, sources: Iterable[str], port: int = PORT, origins: Iterable[str] = ()) -> None:
        self.sources = list(sources)
        self.port = port
        self.origins = frozenset(origins)
        self._listeners: set[asyncio.Queue[DeviceReading]] = set()
        self._pages: set[asyncio.Task[None]] = set()
        for source in self.sources:
            _checked(source)

    async def run(self) -> None:
        """Serve until cancelled."""
        server = await asyncio.start_server(self._listener, HOST, self.port, limit=HEAD_MAX)
        self.port = server.sockets[0].getsockname()[1]
        try:
            async with server:
                await asyncio.gather(
                    server.serve_forever(), *(self._follow(source) for source in self.sources)
                )
        finally:
            pages = list(self._pages)
            for page in pages:
                page.cancel()
            await asyncio.gather(*pages, return_exceptions=True)

    def tell(self, reading: DeviceReading) -> None:
        for queue in self._listeners:
            if not queue.full():
                queue.put_nowait(reading)

    # instruments

    async def _follow(self, source: str) -> None:
        """Read a source; when it is lost, again and again until it is back."""
        tries = 0
        while True:
            lines = Lines()
            try:
                reader, close = await _opened(source)
            except OSError:
                tries += 1
                await asyncio.sleep(AGAIN_S[min(tries, len(AGAIN_S)) - 1])
                continue
            tries = 0
            try:
                while data := await reader.read(READ_BYTES):
                    for reading in lines.feed(data):
                        self.tell(reading)
            except OSError:
                lines.lost()
            finally:
                close()
            await asyncio.sleep(AGAIN_S[0])

    # pages

    async def _listener(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        task = asyncio.current_task()
        assert task is not None
        self._pages.add(task)
        try:
            await self._answer(reader, writer)
        except asyncio.CancelledError:
            pass  # the bridge ends; its server would take this for a fault
        finally:
            self._pages.discard(task)
            writer.close()

    async def _answer(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(
            OSError, asyncio.LimitOverrunError, asyncio.IncompleteReadError, TimeoutError
        ):
            head = await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), 5)
            origin = self._origin_of(head.decode("latin-1"))
            if origin is None or len(self._listeners) >= LISTENERS_MAX:
                writer.write(b"HTTP/1.1 403 Forbidden\r\nContent-Length: 0\r\nConnection: close\r\n\r\n")
                await writer.drain()
            else:
                await self._stream(writer, origin)

    def _origin_of(self, head: str) -> str | None:
        """Return the page's origin where it may listen: on loopback or named; and only by this machine's own name."""
        first, *rest = head.split("\r\n")
        fields = {
            name.strip().lower(): value.strip() for name, _, value in (line.partition(":") for line in rest)
        }
        origin, host = fields.get("origin", ""), fields.get("host", "")
        here = host.rpartition(":")[0] in ("127.0.0.1", "localhost", "[::1]")
        may = origin in self.origins or _LOOPBACK.fullmatch(origin) is not None
        return origin if first.startswith("GET /events ") and here and may else None

    async def _stream(self, writer: asyncio.StreamWriter, origin: str) -> None:
        queue: asyncio.Queue[DeviceReading] = asyncio.Queue(maxsize=100)
        self._listeners.add(queue)
        head = (
            "HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\nCache-Control: no-store\r\n"
            f"Access-Control-Allow-Origin: {origin}\r\nVary: Origin\r\nConnection: close\r\n\r\n: here\n\n"
        )
        try:
            writer.write(head.encode())
            await writer.drain()
            while True:
                try:
                    event = (await asyncio.wait_for(queue.get(), KEEP_ALIVE_S)).to_event()
                except TimeoutError:
                    event = b": still here\n\n"
                writer.write(event)
                await writer.drain()
        finally:
            self._listeners.discard(queue)


def _checked(source: str) -> tuple[str, str, int]:
    """Return a source's sort, place and port. Raises SourceError."""
    sort, _, place = source.partition(":")
    if sort == "serial" and place:
        return sort, place, 0
    host, _, port = place.rpartition(":")
    if sort == "tcp" and host and port.isdecimal() and 1 <= int(port) <= 65535:
        return sort, host, int(port)
    raise SourceError(f"{source}: tcp:HOST:PORT or serial:PATH is wanted")


class _Closing:
    def __init__(self, *things: object) -> None:
        self.things = things

    def __call__(self) -> None:
        for thing in self.things:
            with contextlib.suppress(OSError):
                thing.close()  # type: ignore[attr-defined]


async def _opened(source: str) -> tuple[asyncio.StreamReader, _Closing]:
    sort, place, port = _checked(source)
    if sort == "tcp":
        reader, writer = await asyncio.open_connection(place, port)
        return reader, _Closing(writer)
    handle = os.open(place, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
    try:
        tty.setraw(handle, termios.TCSANOW)
    except termios.error as error:
        os.close(handle)
        raise OSError(str(error)) from error
    file = os.fdopen(handle, "rb", buffering=0)
    stream = asyncio.StreamReader()
    transport, _ = await asyncio.get_running_loop().connect_read_pipe(
        lambda: asyncio.StreamReaderProtocol(stream), file
    )
    return stream, _Closing(transport)
