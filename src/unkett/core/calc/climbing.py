"""This hill, this rider, this gear: steady speed and cadence."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.errors import bad
from unkett.core.standards import SLACK
from unkett.core.vocabulary.types import Number

GRAVITY = 9.80665
DRIVE_EFFICIENCY = 0.97


@frozen(kw_only=True)
class Climb(Result):
    speed_kmh: float = figure("km/h", "Speed")
    cadence_rpm: float = figure("rpm", "Cadence")


def steady_speed(*, drag: float, resist: float, power: float) -> float:
    """Largest v ≥ 0 with drag·v³ + resist·v = power, in m/s; drag above 0, power at least 0."""
    low, high = 0.0, 1.0  # downhill the curve falls below 0 first and crosses the power once
    while drag * high**3 + resist * high < power:
        high *= 2
    for _ in range(200):
        middle = (low + high) / 2
        if drag * middle**3 + resist * middle < power:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@calculation(
    "climb",
    title="Climb",
    says="Steady speed and cadence on a slope for a power.",
    inputs=(
        Input(
            name="mass_kg",
            title="Rider, bike and load",
            type=Number(unit="kg", low=1.0, high=1000.0),
            says="Rider, bike and load.",
        ),
        Input(
            name="power_w", title="Power", type=Number(unit="W", low=0.0, high=3000.0), says="At the pedals."
        ),
        Input(
            name="grade_pct",
            title="Grade",
            type=Number(unit="%", low=-100.0, high=100.0),
            says="Slope, downhill negative.",
        ),
        Input(
            name="crr",
            title="Rolling resistance",
            type=Number(unit="", low=0.0, high=0.2),
            says="Rolling resistance.",
            optional=True,
            default=0.005,
        ),
        Input(
            name="cda_m2",
            title="Drag area",
            type=Number(unit="m²", low=0.0, high=5.0),
            says="Drag area.",
            optional=True,
            default=0.4,
        ),
        Input(
            name="rho",
            title="Air density",
            type=Number(unit="kg/m³", low=0.0, high=2.0),
            says="Air density.",
            optional=True,
            default=1.2,
        ),
        Input(
            name="efficiency",
            title="Drive efficiency",
            type=Number(unit="", low=0.3, high=1.0),
            says="Share of the power that reaches the road: a clean chain 0.97, a gear hub 0.90 to 0.95.",
            optional=True,
            default=DRIVE_EFFICIENCY,
        ),
        Input(
            name="development_m",
            title="Development",
            type=Number(unit="m", low=0.2, high=30.0),
            says="Metres per turn of the crank.",
        ),
    ),
    formula="efficiency·P = (m·g·(sin θ + crr·cos θ) + ½·ρ·CdA·v²)·v",
    sources=("mechanics",),
)
def climb(
    *,
    mass_kg: float,
    power_w: float,
    grade_pct: float,
    crr: float = 0.005,
    cda_m2: float = 0.4,
    rho: float = 1.2,
    efficiency: float = DRIVE_EFFICIENCY,
    development_m: float,
) -> Climb:
    """Return the largest steady speed ≥ 0. Raises InputError where without air drag no speed is steady."""
    slope = math.atan(grade_pct / 100)
    resist = mass_kg * GRAVITY * (math.sin(slope) + crr * math.cos(slope))
    drag = 0.5 * rho * cda_m2
    power = efficiency * power_w
    if drag > 0:
        speed = steady_speed(drag=drag, resist=resist, power=power)
    elif resist > power * SLACK:
        speed = power / resist
    else:
        raise bad("cda_m2", "without air drag nothing holds the bike on this slope: it has no steady speed")
    cadence = speed * 60 / development_m
    return Climb(
        speed_kmh=speed * 3.6,
        cadence_rpm=cadence,
        trace=(
            TraceLine("slope_force_n", resist, "N", f"{mass_kg:g} × 9.80665 × (sin θ + {crr:g} × cos θ)"),
            TraceLine("speed_ms", speed, "m/s", f"largest root of {efficiency:g}·P = F·v"),
            TraceLine("speed_kmh", speed * 3.6, "km/h", "× 3.6"),
            TraceLine("cadence_rpm", cadence, "rpm", f"speed × 60 / {development_m:g}"),
        ),
    )
