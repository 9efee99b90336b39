"""Stand-ins for a caliper, a torque wrench, a chain gauge and an electronic gear: the same lines on a loopback port.

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


class Talker:
    """Something on a port of its own that tells lines to whoever is connected; it can be unplugged and come back."""

    def __init__(self) -> None:
        self.port = 0
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

    def tell(self, *lines: str) -> None:
        """Send lines to whoever is connected."""
        for writer in self._open:
            writer.write("".join(f"{line}\r\n" for line in lines).encode())


class StandIn(Talker):
    """One instrument; `press` sends a reading."""

    def __init__(
        self, code: str, *, seed: int = 1, noise: float = NOISE, bad_one_in: int = BAD_ONE_IN
    ) -> None:
        super().__init__()
        if code not in NAMES:
            raise ValueError(f"{code}: {', '.join(NAMES)} allowed")
        self.code = code
        self._pick = random.Random(seed)  # noqa: S311 - repeatable, no secret
        self._noise, self._bad_one_in = noise, bad_one_in

    def line(self, value: float) -> str:
        """Return what it sends for a value."""
        words = value + self._pick.choice((-1, 0, 0, 0, 1)) * self._noise
        return f"{self.code} {UNIT[self.code]} {words:.2f}"

    def press(self, value: float) -> str:
        """Send a reading; the line that was sent."""
        line = self.line(value)
        bad = self._bad_one_in and self._pick.randrange(self._bad_one_in) == 0
        self.tell(*([self._pick.choice(BAD)] if bad else []), line)
        return line


class GearStandIn(Talker):
    """A rear derailleur with a battery: it pairs, is trimmed by clicks, and tells what it knows of itself."""

    TRIM_MOST = 15  # clicks to either side

    def __init__(self, *, battery: int = 64, speeds: int = 12, protocol: str = "hill_12") -> None:
        super().__init__()
        self.battery, self.speeds, self.protocol = battery, speeds, protocol
        self.paired, self.trim = False, 0

    def pair(self) -> None:
        """Pair lever and derailleur, then report everything."""
        self.paired = True
        self.tell_all()

    def click(self, clicks: int) -> int:
        """Trim by clicks, towards the larger sprocket where positive; it stops at its ends and costs no battery."""
        if self.paired:
            self.trim = max(-self.TRIM_MOST, min(self.TRIM_MOST, self.trim + clicks))
            self.tell(f"GEA trm {self.trim}")
        return self.trim

    def tell_all(self) -> None:
        """Report everything it knows; unpaired, only that and its battery."""
        lines = [f"GEA par {int(self.paired)}", f"GEA bat {self.battery}"]
        if self.paired:
            lines += [f"GEA spd {self.speeds}", f"GEA pro {self.protocol}", f"GEA trm {self.trim}"]
        self.tell(*lines)
