"""The line an instrument sends: its code, a unit and a number, such as `CAL mm 34.87`.

An electronic gear sends what it knows of itself in the same way: `GEA bat 71`, `GEA trm -2`, `GEA spd 12`,
`GEA par 1`, `GEA pro hill_12`.
"""

from __future__ import annotations

import json
import math
import re

from attrs import frozen

LINE_MAX = 200
NAMES = {"CAL": "caliper", "TRQ": "torque wrench", "GAU": "chain gauge"}
GEAR = "electronic gear"
FACTS = {"bat": "battery", "trm": "trim", "spd": "speeds", "par": "paired", "pro": "protocol"}
UNITS = {
    "mm": "mm",
    "in": "in",
    "nm": "Nm",
    "pct": "",
}  # as a field takes them; a gauge's per cent stand alone
_GEAR_LINE = re.compile(r"GEA ([a-z]{3}) ([+-]?\d{1,3}|[a-z][a-z0-9_]{0,19})")
_LINE = re.compile(r"([A-Z]{3}) ([a-z]{2,4}) ([+-]?\d{1,6}(?:\.\d{1,6})?)")


@frozen(kw_only=True)
class DeviceReading:
    """What an instrument read; `typed` is what a hand would type for it, `fact` what an electronic gear says of."""

    name: str
    unit: str
    value: float
    typed: str
    fact: str = ""

    def to_event(self) -> bytes:
        """Return the reading as an event of the stream."""
        said = {
            "name": self.name,
            "unit": self.unit,
            "value": self.value,
            "typed": self.typed,
            "fact": self.fact,
        }
        words = json.dumps(said)
        return f"data: {words}\n\n".encode()


def reading_from(line: str) -> DeviceReading | None:
    """Return a whole line as a reading; None for a bad one, which an instrument sends now and then."""
    if line.startswith("GEA"):
        return _of_gear(line.strip())
    found = _LINE.fullmatch(line.strip())
    if found is None or found[1] not in NAMES or found[2] not in UNITS:
        return None
    value = float(found[3])
    if not math.isfinite(value):
        return None
    typed = f"{found[3]} {UNITS[found[2]]}".strip()
    return DeviceReading(name=NAMES[found[1]], unit=found[2], value=value, typed=typed)


def _of_gear(line: str) -> DeviceReading | None:
    found = _GEAR_LINE.fullmatch(line)
    if found is None or found[1] not in FACTS:
        return None
    is_word = found[1] == "pro"
    if is_word != found[2][0].isalpha():
        return None
    value = 0.0 if is_word else float(found[2])
    return DeviceReading(name=GEAR, unit="", value=value, typed=found[2].lstrip("+"), fact=FACTS[found[1]])


class Lines:
    """Gathers bytes into whole lines; what is too long, or was cut off when the line was lost, is dropped."""

    def __init__(self) -> None:
        self._rest = b""
        self._skips = False

    def feed(self, data: bytes) -> list[DeviceReading]:
        """Return the readings that these bytes complete."""
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
        """Drop what was read so far when the line is lost."""
        self._rest, self._skips = b"", False
