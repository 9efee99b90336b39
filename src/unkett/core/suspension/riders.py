"""The settings of a bike for another rider: pressure and rate by mass, clicks as they are, all of it a start."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.air_springs import setup_scale
from unkett.core.suspension.ends import SuspensionEnd


def for_rider(end: SuspensionEnd, mass_to_kg: float) -> dict[str, Any]:
    """Return an end's settings for another rider on this bike: a start, its sag measured; no sag is carried over,
    and the printed maximum is never passed.

    Raises InputError for a mass out of range; the rider that the settings were made for must be known.
    """
    values = {name: value for name, value in end.values.items() if name != "set_sag_mm"}
    bar = values.get("set_pressure_bar")
    if bar and end.mass_kg is not None:
        scaled = setup_scale(
            mass_from_kg=end.mass_kg,
            mass_to_kg=mass_to_kg,
            pressure_bar=bar,
            max_bar=end.most.get("set_pressure_bar"),
        )
        most = end.most.get("set_pressure_bar", scaled.pressure_bar)
        values["set_pressure_bar"] = round(min(scaled.pressure_bar or 0.0, most), 2)
    return values


def rate_for_rider(end: SuspensionEnd, mass_to_kg: float) -> float | None:
    """Return the coil's rate in N/mm for another rider; None where there is no coil or no rider is known."""
    if not end.is_coil or end.rate_n_mm is None or end.mass_kg is None:
        return None
    return setup_scale(mass_from_kg=end.mass_kg, mass_to_kg=mass_to_kg, rate_n_mm=end.rate_n_mm).rate_n_mm
