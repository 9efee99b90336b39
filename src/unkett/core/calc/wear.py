"""Chain wear and the straight-line forecast with its uncertainty."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Cautioned, Input, Result, TraceLine, calculation, figure
from unkett.core.calc.gears import CHAIN_PITCH_MM
from unkett.core.errors import bad
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary.types import ListOf, Number, Whole

CHAIN_ODD_PCT = limit_of("chain_odd_pct")
NARROW_FROM = 11  # sprockets: from this number on a chain is worn out sooner
ANY = Number(unit="", low=-1e9, high=1e9)


@frozen(kw_only=True)
class ChainWear(Cautioned):
    elongation_pct: float = figure("%", "Elongation")


@calculation(
    "chain_wear",
    title="Chain wear",
    page="chain",
    says="Elongation of a chain: over a number of links, or as a gauge reads it.",
    inputs=(
        Input(
            name="links",
            title="Links measured over",
            type=Whole(unit="links", low=1, high=400),
            says="Pitches measured over; better 24 than 12.",
            optional=True,
        ),
        Input(
            name="measured_mm",
            title="Measured length",
            type=Number(unit="mm", low=1.0, high=6000.0),
            says="Pin to pin, pulled straight.",
            optional=True,
        ),
        Input(
            name="gauge_pct",
            title="Gauge",
            type=Number(unit="%", low=-2.0, high=5.0),
            says="What a chain gauge reads, instead of links and millimetres.",
            optional=True,
        ),
    ),
    formula="measured / (links × 12.7) − 1; a gauge's reading stands as it is",
    sources=("chain-iso", "wear-limits"),
)
def chain_wear(
    *, links: int | None = None, measured_mm: float | None = None, gauge_pct: float | None = None
) -> ChainWear:
    """Per cent; a new chain reads 0 to 0.2 on most gauges. Raises InputError for both ways at once, or half a way."""
    if gauge_pct is not None:
        if links is not None or measured_mm is not None:
            raise bad("gauge_pct", "given beside links or a length; one of the two ways allowed")
        return _chain_wear(gauge_pct, "as the gauge reads")
    if links is None or measured_mm is None:
        name = "measured_mm" if links is not None else "links"
        raise bad(name, "missing; links and the length over them, or a gauge's reading, are wanted")
    elongation = (measured_mm / (links * CHAIN_PITCH_MM) - 1) * 100
    formula = f"({measured_mm:g} / ({links} × 12.7) − 1) × 100"
    return _chain_wear(elongation, formula)


def _chain_wear(elongation: float, formula: str) -> ChainWear:
    """Return the result; more than a chain that still runs ever shows is asked about."""
    odd = f"really {elongation:.1f} %? No chain in use is so long: count the links and measure again"
    return ChainWear(
        elongation_pct=elongation,
        caution=odd if elongation > CHAIN_ODD_PCT + SLACK else None,
        trace=(TraceLine("elongation_pct", elongation, "%", formula),),
    )


def chain_limit_setting(sprockets: int) -> str:
    """Return the name of the setting that limits a chain's elongation, by the number of sprockets it runs on.

    Source: `wear-limits`; one sprocket, 2 to 10, and 11 or more have limits of their own.
    """
    if sprockets == 1:
        return "chain_worn_single_pct"
    return "chain_worn_narrow_pct" if sprockets >= NARROW_FROM else "chain_worn_wide_pct"


def t_probability(t: float, freedom: int) -> float:
    """P(|T| ≤ t) of Student's distribution with whole degrees of freedom, by its finite series.

    Source: Abramowitz and Stegun, 26.7.3 and 26.7.4.
    """
    angle = math.atan(t / math.sqrt(freedom))
    cosine, sine = math.cos(angle), math.sin(angle)
    if freedom % 2 == 0:
        term, total = 1.0, 1.0
        for k in range(2, freedom, 2):
            term *= cosine**2 * (k - 1) / k
            total += term
        return sine * total
    if freedom == 1:
        return 2 * angle / math.pi
    term = total = cosine
    for k in range(3, freedom, 2):
        term *= cosine**2 * (k - 1) / k
        total += term
    return 2 / math.pi * (angle + sine * total)


def t_value(freedom: int, confidence: float = 0.95) -> float:
    """Return the t for which P(|T| ≤ t) is the confidence; freedom at least 1."""
    low, high = 0.0, 1e4
    for _ in range(200):
        middle = (low + high) / 2
        if t_probability(middle, freedom) < confidence:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@frozen(kw_only=True)
class WearForecast(Result):
    slope_per_unit: float | None = figure("", "Wears per unit")
    reaches_limit_at: float | None = figure("", "Reaches limit at")
    low: float | None = figure("", "Earliest")
    high: float | None = figure("", "Latest")


@calculation(
    "wear_forecast",
    title="Wear forecast",
    says="Straight line through readings: where the limit is met, with its 95 % bounds.",
    inputs=(
        Input(
            name="readings",
            title="Readings",
            type=ListOf(item=ListOf(item=ANY, most=2), most=2000),
            says="Pairs [x, value].",
        ),
        Input(name="limit", title="Limit", type=ANY, says="Value at which the part is worn."),
    ),
    formula="least squares; bounds by Fieller's theorem with t(n − 2)",
    sources=("least-squares",),
)
def wear_forecast(*, readings: tuple[tuple[float, ...], ...], limit: float) -> WearForecast:
    """Bounds are null with two readings; an unbounded side is null; a level line meets no limit.

    Raises InputError for a reading that is no pair, or fewer than two different x.
    """
    for n, reading in enumerate(readings):
        if len(reading) != 2:
            raise bad(f"readings[{n}]", "enter a pair [x, value]")
    if len({reading[0] for reading in readings}) < 2:
        raise bad("readings", "at least two different x are wanted")
    count = len(readings)
    x_mean = math.fsum(x for x, _ in readings) / count
    y_mean = math.fsum(y for _, y in readings) / count
    spread = math.fsum((x - x_mean) ** 2 for x, _ in readings)
    slope = math.fsum((x - x_mean) * (y - y_mean) for x, y in readings) / spread
    if slope == 0:
        step = TraceLine("slope_per_unit", 0.0, "", "least squares: a level line")
        return WearForecast(slope_per_unit=0.0, reaches_limit_at=None, low=None, high=None, trace=(step,))
    at = x_mean + (limit - y_mean) / slope
    low = high = None
    trace = [
        TraceLine("slope_per_unit", slope, "", "least squares"),
        TraceLine("reaches_limit_at", at, "", f"{x_mean:g} + ({limit:g} − {y_mean:g}) / slope"),
    ]
    if count > 2:
        rest = math.fsum((y - y_mean - slope * (x - x_mean)) ** 2 for x, y in readings)
        low, high = _fieller(
            slope=slope,
            lack=y_mean - limit,
            noise=t_value(count - 2) ** 2 * rest / (count - 2),
            count=count,
            spread=spread,
            at=at - x_mean,
        )
        low = None if low is None else low + x_mean
        high = None if high is None else high + x_mean
        trace += [TraceLine("low", low, "", "Fieller, 95 %"), TraceLine("high", high, "", "Fieller, 95 %")]
    return WearForecast(slope_per_unit=slope, reaches_limit_at=at, low=low, high=high, trace=tuple(trace))


def _fieller(
    *, slope: float, lack: float, noise: float, count: int, spread: float, at: float
) -> tuple[float | None, float | None]:
    """Bounds of u with (lack + slope·u)² ≤ noise·(1/n + u²/spread), the branch that holds `at`."""
    a, half_b, c = slope**2 - noise / spread, slope * lack, lack**2 - noise / count
    if a == 0:
        edge = -c / (2 * half_b) if half_b else None
        return (None, edge) if half_b > 0 else (edge, None)
    square = half_b**2 - a * c
    if square < 0:
        return None, None
    roots = sorted(((-half_b - math.sqrt(square)) / a, (-half_b + math.sqrt(square)) / a))
    if a > 0:
        return roots[0], roots[1]
    return (roots[1], None) if at >= roots[1] else (None, roots[0])
