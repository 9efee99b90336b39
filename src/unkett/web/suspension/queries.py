"""The records of a bike's ends, and the reading before that a next pressure may be worked out from."""

from __future__ import annotations

from collections.abc import Mapping

from unkett.web.bikes.models import Bike
from unkett.web.suspension.models import SuspensionRecord

SHOWN = 4


def records_of(bike: Bike) -> dict[str, list[SuspensionRecord]]:
    """Return the last records of a bike by slot, newest first, one query for both ends."""
    out: dict[str, list[SuspensionRecord]] = {}
    for one in bike.suspension.all():
        rows = out.setdefault(one.slot, [])
        if len(rows) < SHOWN:
            rows.append(one)
    return out


def earlier_readings(records: Mapping[str, list[SuspensionRecord]]) -> dict[str, tuple[float, float]]:
    """Return by slot pressure and sag of an earlier reading: read alike, with another pressure."""
    out = {}
    for slot, rows in records.items():
        read = [one for one in rows if one.value("set_pressure_bar") and one.value("set_sag_mm")]
        if not read:
            continue
        now = read[0]
        alike = [
            one
            for one in read[1:]
            if (one.school, one.posture, one.mass_kg, one.value("set_spacers"))
            == (now.school, now.posture, now.mass_kg, now.value("set_spacers"))
            and one.value("set_pressure_bar") != now.value("set_pressure_bar")
        ]
        if alike:
            out[slot] = (alike[0].value("set_pressure_bar"), alike[0].value("set_sag_mm"))
    return out
