"""Tyres on rims: real width and pressure limit."""

from __future__ import annotations

from attrs import frozen

from unkett.core.calc.base import SLACK, Input, Result, Step, calculation
from unkett.core.calc.fields import PRESSURE
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.types import Choice, Number

# Widest nominal width of each class and the inner rim width its nominal is made on.
DESIGN_INNER_MM = ((23, 15), (25, 17), (32, 19), (35, 21), (45, 23), (52, 25))
DESIGN_INNER_WIDEST_MM = 30
WIDENING = 0.4
HOOKLESS_MAX_BAR = 5.0


def design_inner(nominal_mm: float) -> int:
    """Inner rim width in mm that a nominal tyre width is made on; between the classes the next one up."""
    for widest, inner in DESIGN_INNER_MM:
        if nominal_mm <= widest + SLACK:
            return inner
    return DESIGN_INNER_WIDEST_MM


@frozen(kw_only=True)
class TyreWidth(Result):
    estimate_mm: float


@calculation(
    "tyre_width",
    says="How wide a tyre will really be on a rim.",
    inputs=(
        Input(
            name="nominal_mm", type=Number(unit="mm", low=10.0, high=150.0), says="Width printed on the tyre."
        ),
        Input(name="inner_mm", type=Number(unit="mm", low=5.0, high=120.0), says="Inner width of the rim."),
    ),
    source="nominal + 0.4 × (inner − the inner width the nominal is made on)",
)
def tyre_width(*, nominal_mm: float, inner_mm: float) -> TyreWidth:
    """An estimate; a measured width wins."""
    design = design_inner(nominal_mm)
    estimate = nominal_mm + WIDENING * (inner_mm - design)
    return TyreWidth(
        estimate_mm=estimate,
        trace=(
            Step("design_inner_mm", design, "mm", f"class of {nominal_mm:g}"),
            Step("estimate_mm", estimate, "mm", f"{nominal_mm:g} + 0.4 × ({inner_mm:g} − {design})"),
        ),
    )


@frozen(kw_only=True)
class PressureLimit(Result):
    max_bar: float | None


@calculation(
    "tyre_pressure_limit",
    says="The lowest of the rim's, the tyre's and the hookless limit.",
    inputs=(
        Input(name="rim_bar", type=PRESSURE, says="Printed on the rim.", optional=True),
        Input(name="tyre_bar", type=PRESSURE, says="Printed on the tyre.", optional=True),
        Input(name="bead", type=Choice(of=enums.BEAD), says="Bead of the rim; hookless is never above 5.0."),
    ),
    source="lowest limit wins; hookless rims 5.0 bar",
)
def tyre_pressure_limit(
    *, bead: str, rim_bar: float | None = None, tyre_bar: float | None = None
) -> PressureLimit:
    """Null where nothing is known and the bead is not hookless."""
    limits = [
        ("rim", rim_bar),
        ("tyre", tyre_bar),
        ("hookless", HOOKLESS_MAX_BAR if bead == "hookless" else None),
    ]
    known = [(name, value) for name, value in limits if value is not None]
    lowest = min((value for _, value in known), default=None)
    formula = (
        "lowest of " + ", ".join(f"{name} {value:g}" for name, value in known) if known else "nothing known"
    )
    return PressureLimit(max_bar=lowest, trace=(Step("max_bar", lowest, "bar", formula),))
