"""Stand-ins for a caliper, a torque wrench and a chain gauge: they speak the same lines on a loopback port.

Every reading carries a little noise in its last digit; now and then a bad line comes before it.
"""

from __future__ import annotations

import asyncio
import random

from unkett.devices.readings import NAMES

HOST = "127.0.0.1"
UNIT = {"CAL": "mm", "TRQ": "nm", "GAU": "pct"}
NOISE = 0.01
BAD_ONE_IN = 7
BAD = ("CAL mm 3\x00.87", "ERR", "CAL mm", "GAU pct --.--", "TRQ nm 5,,4")


class StandIn:
    """One instrument on a port of its own; `press` sends a reading to whoever is connected."""

    def __init__(
        self, code: str, *, seed: int = 1, noise: float = NOISE, bad_one_in: int = BAD_ONE_IN
    ) -> None:
        if code not in NAMES:
            raise ValueError(f"{code}: {', '.join(NAMES)} allowed")
        self.code = code
        self.port = 0
        self._pick = random.Random(seed)  # noqa: S311 - repeatable, no secret
        self._noise, self._bad_one_in = noise, bad_one_in
        self._server: asyncio.Server | None = None
        self._open: set[asyncio.StreamWriter] = set()

    @property
    def source(self) -> str:
        return f"tcp:{HOST}:{self.port}"

    async def plug_in(self) -> None:
        """Listen, on the same port again after it was unplugged."""
        self._server = await asyncio.start_server(self._connected, HOST, self.port)
        self.port = self._server.sockets[0].getsockname()[1]

    async def unplug(self, half: str = "") -> None:
        """The cable is pulled, in the middle of a line if wished."""
        for writer in self._open:
            writer.write(half.encode())
            writer.close()
        self._open.clear()
        if self._server is not None:
            self._server.close()

    async def _connected(self, _reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self._open.add(writer)

    def line(self, value: float) -> str:
        """What it sends for a value."""
        told = value + self._pick.choice((-1, 0, 0, 0, 1)) * self._noise
        return f"{self.code} {UNIT[self.code]} {told:.2f}"

    def press(self, value: float) -> str:
        """Send a reading; the line that was sent."""
        line = self.line(value)
        bad = (
            f"{self._pick.choice(BAD)}\r\n"
            if self._bad_one_in and self._pick.randrange(self._bad_one_in) == 0
            else ""
        )
        for writer in self._open:
            writer.write(f"{bad}{line}\r\n".encode())
        return line
