"""Tyres on rims: real width and pressure limit."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.build import bead_seat_from, tyre_width_from
from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.brakes import reach_for_another_rim
from unkett.core.calc.fields import BSD, LENGTH, PRESSURE
from unkett.core.standards import SLACK, Row, table
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.types import Choice, Number

WIDENING = 0.4


def design_inner(nominal_mm: float) -> float:
    """Inner rim width in mm that a nominal tyre width is made on; between the classes the next one up."""
    rows = table("tyre_design_widths").rows
    return float(next(row["inner_mm"] for row in rows if nominal_mm <= row["nominal_to_mm"] + SLACK))


def hookless_limits() -> Row:
    """Return the one row of the hookless table: least width, width per inner width, highest pressure."""
    return table("hookless").rows[0]


@frozen(kw_only=True)
class TyreWidth(Result):
    estimate_mm: float = figure("mm", "Real width, about")


@calculation(
    "tyre_width",
    title="Tyre width",
    says="How wide a tyre will really be on a rim.",
    inputs=(
        Input(
            name="nominal_mm",
            title="Width on the side wall",
            known=(("rear_tyre", "width_mm"),),
            type=Number(unit="mm", low=10.0, high=150.0),
            says="Width printed on the tyre.",
        ),
        Input(
            name="inner_mm",
            title="Rim's inner width",
            known=(("rear_rim", "inner_width_mm"),),
            type=Number(unit="mm", low=5.0, high=120.0),
            says="Inner width of the rim.",
        ),
        Input(
            name="share",
            title="Widening per inner width",
            type=Number(unit="", low=0.0, high=1.0),
            says="Millimetres the tyre gains for each millimetre of inner width.",
            optional=True,
            default=WIDENING,
        ),
    ),
    formula="nominal + share × (inner − the inner width the nominal is made on)",
    sources=("tyre-practice",),
)
def tyre_width(*, nominal_mm: float, inner_mm: float, share: float = WIDENING) -> TyreWidth:
    """Return an estimate; a measured width wins."""
    design = design_inner(nominal_mm)
    estimate = nominal_mm + share * (inner_mm - design)
    return TyreWidth(
        estimate_mm=estimate,
        trace=(
            TraceLine("design_inner_mm", design, "mm", f"class of {nominal_mm:g}"),
            TraceLine(
                "estimate_mm", estimate, "mm", f"{nominal_mm:g} + {share:g} × ({inner_mm:g} − {design:g})"
            ),
        ),
    )


ESTIMATED = ((10.0, 150.0), (5.0, 120.0))  # nominal and inner widths that an estimate is made for, mm


def nominal_within(limit_mm: float, nominal_mm: float | None, real_mm: float) -> float:
    """Return the nominal width in mm up to which a tyre stays within a limit where it swells as the one that is fitted.

    limit − (real − nominal), a tyre's swelling on its rim being much alike; rounded down to 0.1. Source: tyre-practice.
    """
    swells = 0.0 if nominal_mm is None else max(0.0, real_mm - nominal_mm)
    return math.floor((limit_mm - swells) * 10 + SLACK) / 10


def real_width(
    *, nominal_mm: float | None, measured_mm: float | None, inner_mm: float | None
) -> float | None:
    """Return how wide a tyre really is, in mm: measured, else estimated from the rim, else nominal; None where
    neither is known.
    """
    if measured_mm is not None or nominal_mm is None:
        return measured_mm
    (low, high), (inner_low, inner_high) = ESTIMATED
    if inner_mm is None or not low <= nominal_mm <= high or not inner_low <= inner_mm <= inner_high:
        return nominal_mm
    return tyre_width(nominal_mm=nominal_mm, inner_mm=inner_mm).estimate_mm


def outer_radius(
    *, bsd_mm: float | None, nominal_mm: float | None, measured_mm: float | None
) -> float | None:
    """Outer radius of a wheel in mm, the tyre as high as wide (measured, else nominal); None where a figure
    is missing.
    """
    width = nominal_mm if measured_mm is None else measured_mm
    return None if bsd_mm is None or width is None else bsd_mm / 2 + width


def bracket_height(
    *, drop_mm: float | None, bsd_mm: float | None, nominal_mm: float | None, measured_mm: float | None
) -> float | None:
    """Bracket centre over the ground in mm: outer radius of the rear wheel − drop, the axles level."""
    radius = outer_radius(bsd_mm=bsd_mm, nominal_mm=nominal_mm, measured_mm=measured_mm)
    return None if radius is None or drop_mm is None else radius - drop_mm


@frozen(kw_only=True)
class PressureLimit(Result):
    max_bar: float | None = figure("bar", "Never above")


@calculation(
    "tyre_pressure_limit",
    title="Tyre pressure limit",
    page="wheels",
    says="The lowest of the rim's, the tyre's and the hookless limit.",
    inputs=(
        Input(
            name="rim_bar",
            title="Limit of the rim",
            known=(("rear_rim", "pressure_max_bar"),),
            type=PRESSURE,
            says="Printed on the rim.",
            wanted="Read it off the rim: half a limit is none.",
            optional=True,
        ),
        Input(
            name="tyre_bar",
            title="Limit of the tyre",
            known=(("rear_tyre", "pressure_max_bar"),),
            type=PRESSURE,
            says="Printed on the tyre.",
            wanted="Read it off the side wall: half a limit is none.",
            optional=True,
        ),
        Input(
            name="bead",
            title="Bead",
            known=(("rear_rim", "bead"),),
            type=Choice(of=enums.BEAD),
            says="Bead of the rim; hookless is never above 5.0.",
        ),
    ),
    formula="lowest limit wins; hookless rims 5.0 bar",
    sources=("hookless",),
)
def tyre_pressure_limit(
    *, bead: str, rim_bar: float | None = None, tyre_bar: float | None = None
) -> PressureLimit:
    """Null where nothing is known and the bead is not hookless."""
    limits = [
        ("rim", rim_bar),
        ("tyre", tyre_bar),
        ("hookless", hookless_limits()["max_bar"] if bead == "hookless" else None),
    ]
    known = [(name, value) for name, value in limits if value is not None]
    lowest = min((value for _, value in known), default=None)
    formula = (
        "lowest of " + ", ".join(f"{name} {value:g}" for name, value in known) if known else "nothing known"
    )
    return PressureLimit(max_bar=lowest, trace=(TraceLine("max_bar", lowest, "bar", formula),))


@frozen(kw_only=True)
class WheelSwap(Result):
    radius_change_mm: float = figure("mm", "Radius change")
    circumference_change_pct: float = figure("%", "Circumference change")
    reach_mm: float | None = figure("mm", "Brake reach then")
    bb_height_mm: float | None = figure("mm", "Bracket height")


TYRE = Number(unit="mm", low=10.0, high=150.0)


@calculation(
    "wheel_swap",
    title="Wheel swap",
    page="wheels",
    says="What another wheel size moves: radius, roll-out, brake reach, bracket height.",
    inputs=(
        Input(
            name="bsd_from_mm",
            title="Rim size now",
            known=bead_seat_from("rear"),
            type=BSD,
            says="Rim size now.",
        ),
        Input(
            name="tyre_from_mm",
            title="Tyre now",
            known=tyre_width_from("rear"),
            type=TYRE,
            says="Tyre height now, as a first guess its width.",
        ),
        Input(
            name="bsd_to_mm",
            title="Rim size then",
            then=bead_seat_from("rear"),
            type=BSD,
            says="Rim size then.",
        ),
        Input(
            name="tyre_to_mm",
            title="Tyre then",
            then=tyre_width_from("rear"),
            type=TYRE,
            says="Tyre height then.",
        ),
        Input(
            name="reach_now_mm",
            title="Brake reach now",
            type=LENGTH,
            says="Rim brake reach now.",
            optional=True,
        ),
        Input(
            name="bb_height_mm",
            title="Bracket height",
            type=LENGTH,
            says="Bracket height now.",
            optional=True,
        ),
    ),
    formula="outer radius = bead seat / 2 + tyre height",
    sources=("rims-iso", "plane-geometry"),
)
def wheel_swap(
    *,
    bsd_from_mm: float,
    tyre_from_mm: float,
    bsd_to_mm: float,
    tyre_to_mm: float,
    reach_now_mm: float | None = None,
    bb_height_mm: float | None = None,
) -> WheelSwap:
    """Reach and bracket height where they are given now."""
    before, after = bsd_from_mm / 2 + tyre_from_mm, bsd_to_mm / 2 + tyre_to_mm
    change = after - before
    rolls = (after / before - 1) * 100
    reach = None
    if reach_now_mm is not None:
        reach = reach_for_another_rim(
            reach_now_mm=reach_now_mm, bsd_from_mm=bsd_from_mm, bsd_to_mm=bsd_to_mm
        ).reach_mm
    return WheelSwap(
        radius_change_mm=change,
        circumference_change_pct=rolls,
        reach_mm=reach,
        bb_height_mm=None if bb_height_mm is None else bb_height_mm + change,
        trace=(
            TraceLine("radius_from_mm", before, "mm", f"{bsd_from_mm:g} / 2 + {tyre_from_mm:g}"),
            TraceLine("radius_to_mm", after, "mm", f"{bsd_to_mm:g} / 2 + {tyre_to_mm:g}"),
            TraceLine("radius_change_mm", change, "mm", "to − from"),
            TraceLine("circumference_change_pct", rolls, "%", "to / from − 1"),
        ),
    )
