"""The line an instrument sends: its code, a unit and a number, such as `CAL mm 34.87`."""

from __future__ import annotations

import json
import math
import re

from attrs import frozen

LINE_MAX = 200
NAMES = {"CAL": "caliper", "TRQ": "torque wrench", "GAU": "chain gauge"}
UNITS = {
    "mm": "mm",
    "in": "in",
    "nm": "Nm",
    "pct": "",
}  # as a field takes them; a gauge's per cent stand alone
_LINE = re.compile(r"([A-Z]{3}) ([a-z]{2,4}) ([+-]?\d{1,6}(?:\.\d{1,6})?)")


@frozen(kw_only=True)
class DeviceReading:
    """What an instrument read; `typed` is what a hand would type for it."""

    name: str
    unit: str
    value: float
    typed: str

    def to_event(self) -> bytes:
        """As the event stream has it."""
        told = json.dumps({"name": self.name, "unit": self.unit, "value": self.value, "typed": self.typed})
        return f"data: {told}\n\n".encode()


def reading_from(line: str) -> DeviceReading | None:
    """A whole line as a reading; None for a bad one, which an instrument sends now and then."""
    found = _LINE.fullmatch(line.strip())
    if found is None or found[1] not in NAMES or found[2] not in UNITS:
        return None
    value = float(found[3])
    if not math.isfinite(value):
        return None
    typed = f"{found[3]} {UNITS[found[2]]}".strip()
    return DeviceReading(name=NAMES[found[1]], unit=found[2], value=value, typed=typed)


class Lines:
    """Gathers bytes into whole lines; what is too long, or was cut off when the line was lost, is dropped."""

    def __init__(self) -> None:
        self._rest = b""
        self._skips = False

    def feed(self, data: bytes) -> list[DeviceReading]:
        """The readings that these bytes complete."""
        found = []
        for piece in re.split(rb"(?<=[\r\n])", data):
            self._rest += piece
            if not self._rest.endswith((b"\r", b"\n")):
                if len(self._rest) > LINE_MAX:
                    self._rest, self._skips = b"", True
                continue
            line, self._rest = self._rest, b""
            skipped, self._skips = self._skips, False
            reading = None if skipped else reading_from(line.decode("ascii", "replace"))
            if reading is not None:
                found.append(reading)
        return found

    def lost(self) -> None:
        """The line was lost: half a number is no number."""
        self._rest, self._skips = b"", False
