"""Typed readings with their units: `1 1/8"`, `34,9`, `48 in-lb`, `5.5 Nm`, `73mm`. The only place that converts."""

from __future__ import annotations

import re
from collections.abc import Mapping

from unkett.core.errors import bad, listed, shown

NM_PER_POUND_INCH = 0.1129848290276167
NM_PER_POUND_FOOT = 12 * NM_PER_POUND_INCH
NM_PER_KGF_CM = 0.0980665
N_MM_PER_POUND_INCH = 4.4482216152605 / 25.4
# By the unit wanted: what may be typed, and how many wanted units one typed unit is.
TYPED: Mapping[str, Mapping[str, float]] = {
    "mm": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, '"': 25.4, "inch": 25.4, "″": 25.4},
    "Nm": {
        "nm": 1.0,
        "in-lb": NM_PER_POUND_INCH,
        "lbf-in": NM_PER_POUND_INCH,
        "in-lbf": NM_PER_POUND_INCH,
        "ft-lb": NM_PER_POUND_FOOT,
        "lbf-ft": NM_PER_POUND_FOOT,
        "ft-lbf": NM_PER_POUND_FOOT,
        "kgf-cm": NM_PER_KGF_CM,
    },
    "bar": {"bar": 1.0, "psi": 0.0689475729, "kpa": 0.01},
    "N/mm": {"n/mm": 1.0, "lbf/in": N_MM_PER_POUND_INCH, "lb/in": N_MM_PER_POUND_INCH, "kgf/mm": 9.80665},
    "cm³": {"cm³": 1.0, "cm3": 1.0, "ml": 1.0},
    "kg": {"kg": 1.0, "lb": 0.45359237, "g": 0.001},
    "g": {"g": 1.0, "kg": 1000.0, "oz": 28.349523125},
    "°": {"°": 1.0, "deg": 1.0},
    "%": {"%": 1.0},
    "teeth": {"t": 1.0, "teeth": 1.0},
    "links": {"links": 1.0},
    "": {},
}
MPH = 0.621371192
# By the unit of the tables: the units it may be shown in, and how many of them one is.
PREFERRED: Mapping[str, Mapping[str, float]] = {
    "mm": {"mm": 1.0, "in": 1 / TYPED["mm"]["in"]},
    "Nm": {"Nm": 1.0, "lbf-in": 1 / TYPED["Nm"]["lbf-in"], "lbf-ft": 1 / TYPED["Nm"]["lbf-ft"]},
    "bar": {"bar": 1.0, "psi": 1 / TYPED["bar"]["psi"]},
    "kg": {"kg": 1.0, "lb": 1 / TYPED["kg"]["lb"]},
    "km/h": {"km/h": 1.0, "mph": MPH},
}


def in_preferred(value: float, unit: str, chosen: Mapping[str, str]) -> tuple[float, str]:
    """Return a figure in the unit somebody prefers to read; unchanged where nothing or nothing known is preferred."""
    wanted = chosen.get(unit, unit)
    factor = PREFERRED.get(unit, {}).get(wanted)
    return (value, unit) if factor is None else (value * factor, wanted)


# a whole number, a fraction, or a whole number and a fraction divided by a space or a dash: 15/16 is no 1 5/16
_NUMBER = re.compile(
    r"(?:(?P<whole>[+-]?\d+(?:[.,]\d+)?)(?:(?:\s+|-)(?P<top>\d+)/(?P<bottom>\d+))?"
    r"|(?P<sign>[+-])?(?P<over>\d+)/(?P<under>\d+))\s*(?P<unit>\D*)$"
)


def read_reading(text: str, unit: str, path: str = "value") -> float:
    """Return a typed reading in `unit`; without a unit it is in `unit` already.

    Raises InputError for text that is no number, or a unit that does not measure this.
    """
    found = _NUMBER.match(text.strip())
    if found is None:
        raise bad(path, f'{shown(text)} given; a number such as 34.9, 34,9 or 1 1/8" allowed')
    whole, top, bottom = found["whole"], found["top"] or found["over"], found["bottom"] or found["under"]
    value = float((whole or "0").replace(",", "."))
    if top is not None:
        if int(bottom) == 0 or (whole and not re.fullmatch(r"\d+", whole)):
            raise bad(path, f"{shown(text)} given; a fraction such as 1 1/8 allowed")
        value += int(top) / int(bottom) * (-1 if found["sign"] == "-" else 1)
    typed = re.sub(r"[\s·.]+", "-", found["unit"].strip().lower()).strip("-")
    if not typed:
        return value
    known = TYPED.get(unit, {})
    if typed not in known:
        raise bad(path, f"{shown(found['unit'].strip())} given; {listed(known) or 'no unit'} allowed")
    return value * known[typed]
