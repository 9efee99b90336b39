"""Suspension: sag and its target, leverage, spring rates, the next pressure, an air spring, another rider."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, Values, calculation, figure
from unkett.core.calc.suspension_scenes import ring_scene
from unkett.core.errors import bad
from unkett.core.scene import Scene
from unkett.core.standards import SLACK, table
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.types import Choice, Number

AIR_BAR = 1.01325  # air around us: gauge pressures are above it
GRAVITY = 9.80665
NEWTON_PER_POUND = 4.4482216152605
MM_PER_INCH = 25.4
N_MM_OF = {"n_mm": 1.0, "lbf_in": NEWTON_PER_POUND / MM_PER_INCH, "kgf_mm": GRAVITY}
TAKEN_AS = "xc"  # the use whose targets count where none are listed

FULL = Number(unit="mm", low=10.0, high=300.0)
TRAVEL = Number(unit="mm", low=5.0, high=400.0)
LEVERAGE = Number(unit="", low=0.3, high=6.0)
MASS = Number(unit="kg", low=10.0, high=250.0)
BIKE_MASS = Number(unit="kg", low=0.0, high=80.0)
AIR = Number(unit="bar", low=0.5, high=25.0)
MOST_AIR = Number(unit="bar", low=0.5, high=50.0)
PERCENT_OF_SAG = Number(unit="%", low=5.0, high=60.0)
RATE = Number(unit="N/mm", low=0.0, high=100_000.0)
LINKAGE = (
    Input(name="wheel_travel_mm", title="Wheel travel", type=TRAVEL, optional=True,
          says="Travel of the wheel over the whole stroke; in place of both leverages."),
    Input(name="leverage_start", title="Leverage at the start", type=LEVERAGE, optional=True,
          says="Wheel movement per shock movement, unladen."),
    Input(name="leverage_end", title="Leverage at the end", type=LEVERAGE, optional=True,
          says="Wheel movement per shock movement, at full stroke."),
)  # fmt: skip


@frozen(kw_only=True)
class Linkage:
    """A leverage that changes evenly over the stroke; p is the share of the stroke that is used."""

    stroke_mm: float
    start: float
    end: float

    @classmethod
    def of(
        cls, stroke_mm: float, wheel_travel_mm: float | None, start: float | None, end: float | None
    ) -> Linkage:
        """From the wheel's travel, or from both leverages. Raises InputError for none, half or both."""
        if wheel_travel_mm is not None:
            if start is not None or end is not None:
                raise bad("wheel_travel_mm", "give the wheel's travel or both leverages, not both")
            return cls(
                stroke_mm=stroke_mm, start=wheel_travel_mm / stroke_mm, end=wheel_travel_mm / stroke_mm
            )
        if start is None or end is None:
            missing = "leverage_start" if start is None else "leverage_end"
            raise bad(missing, "missing; give the wheel's travel, or both leverages")
        return cls(stroke_mm=stroke_mm, start=start, end=end)

    @classmethod
    def known(
        cls, stroke_mm: float | None, wheel_travel_mm: float | None, start: float | None, end: float | None
    ) -> Linkage | None:
        """From what a frame says: both leverages first, else its travel; None where neither or no stroke is known."""
        if stroke_mm is None or not stroke_mm:
            return None
        if start is not None and end is not None:
            return cls(stroke_mm=stroke_mm, start=start, end=end)
        return cls.of(stroke_mm, wheel_travel_mm, None, None) if wheel_travel_mm else None

    @property
    def change(self) -> float:
        return self.end - self.start

    @property
    def progression_pct(self) -> float:
        """How much the leverage falls over the stroke, in per cent of what it begins with."""
        return 100 * (self.start - self.end) / self.start

    @property
    def travel_mm(self) -> float:
        return self.stroke_mm * (self.start + self.end) / 2

    def at(self, p: float) -> float:
        """Return the leverage where a share p of the stroke is used."""
        return self.start + self.change * p

    def wheel_mm(self, p: float) -> float:
        return self.stroke_mm * (self.start * p + self.change * p * p / 2)

    def share_at_wheel(self, wheel_mm: float) -> float:
        """Return the share of the stroke that a movement of the wheel uses."""
        q = wheel_mm / self.stroke_mm
        return 2 * q / (self.start + math.sqrt(max(0.0, self.start**2 + 2 * self.change * q)))


@frozen(kw_only=True)
class SagTarget(Result):
    low_pct: float = figure("%", "From")
    high_pct: float = figure("%", "To")
    aim_pct: float = figure("%", "Aim")
    low_mm: float = figure("mm", "From")
    high_mm: float = figure("mm", "To")
    aim_mm: float = figure("mm", "Aim")
    sag_pct: float | None = figure("%", "Read")
    reading: str | None = figure("", "So it is")


def _ring(inputs: Values, _answer: Values) -> Scene:
    """The ring on the shaft against its target."""
    title = "Fork" if inputs["end"] == "front" else "Shock"
    return ring_scene(title, inputs["full_mm"], sag_target(**inputs), inputs.get("sag_mm"))


@calculation(
    "sag_target",
    title="Sag target",
    says="How much a fork or shock should sink under the rider, and what a reading says.",
    inputs=(
        Input(name="use", title="Use", type=Choice(of=enums.USE),
              says="What the bike is for.", known=(("bike", "use"),)),
        Input(name="end", title="End", type=Choice(of=enums.WHEEL_END), says="Fork or shock."),
        Input(name="full_mm", title="Travel or stroke", type=FULL, says="Fork travel or shock stroke."),
        Input(name="school", title="School", type=Choice(of=enums.SAG_SCHOOL), optional=True, default="fork_less",
              says="Whose targets: the fork less than the rear, or both alike."),
        Input(name="sag_mm", title="Sag read", type=Number(unit="mm", low=0.0, high=300.0), optional=True,
              says="How far the ring moved under the rider."),
    ),
    picture=_ring,
    formula="the table's percentages × travel or stroke",
    sources=("suspension",),
)  # fmt: skip
def sag_target(
    *, use: str, end: str, full_mm: float, school: str = "fork_less", sag_mm: float | None = None
) -> SagTarget:
    """Targets by use, end and school; a use that is not listed counts as cross-country."""
    if sag_mm is not None and sag_mm > full_mm + SLACK:
        raise bad("sag_mm", f"{sag_mm:g} mm is more than the {full_mm:g} mm there are")
    rows = [row for row in table("sag_targets").rows if row["school"] == school and row["by_end"] == end]
    by_use = {row["use"]: row for row in rows}
    row = by_use.get(use, by_use[TAKEN_AS])
    low, high = float(row["low_pct"]), float(row["high_pct"])
    aim = (low + high) / 2
    pct = None if sag_mm is None else sag_mm / full_mm * 100
    reading = None
    if pct is not None:
        reading = "firm" if pct < low - SLACK else "soft" if pct > high + SLACK else "within"
    return SagTarget(
        low_pct=low,
        high_pct=high,
        aim_pct=aim,
        low_mm=full_mm * low / 100,
        high_mm=full_mm * high / 100,
        aim_mm=full_mm * aim / 100,
        sag_pct=pct,
        reading=reading,
        trace=(
            TraceLine("aim_pct", aim, "%", f"middle of {low:g} and {high:g}"),
            TraceLine("aim_mm", full_mm * aim / 100, "mm", f"{aim:g} % of {full_mm:g}"),
        ),
    )


@frozen(kw_only=True)
class Leverage(Result):
    shock_mm: float = figure("mm", "At the shock")
    shock_pct: float = figure("%", "Of the stroke")
    wheel_mm: float = figure("mm", "At the wheel")
    wheel_pct: float = figure("%", "Of the travel")
    leverage: float = figure("", "Leverage there")
    mean_leverage: float = figure("", "Mean leverage")
    wheel_travel_mm: float = figure("mm", "Wheel travel")
    progression_pct: float = figure("%", "Progression")


@calculation(
    "leverage",
    title="Leverage",
    says="Movement of the wheel against that of the shock, with a leverage that changes evenly.",
    inputs=(
        Input(name="stroke_mm", title="Stroke", type=FULL,
              says="Stroke of the shock.", known=(("shock", "stroke_mm"),)),
        *LINKAGE,
        Input(name="shock_mm", title="At the shock", type=Number(unit="mm", low=0.0, high=300.0), optional=True,
              says="Movement of the shock; this or the wheel's."),
        Input(name="wheel_mm", title="At the wheel", type=Number(unit="mm", low=0.0, high=1000.0), optional=True,
              says="Movement of the wheel; this or the shock's."),
    ),
    formula="wheel = S(L0·p + D·p²/2), p = shock/S; back: p = 2q/(L0 + √(L0² + 2Dq)), q = wheel/S",
    sources=("suspension",),
)  # fmt: skip
def leverage(
    *,
    stroke_mm: float,
    wheel_travel_mm: float | None = None,
    leverage_start: float | None = None,
    leverage_end: float | None = None,
    shock_mm: float | None = None,
    wheel_mm: float | None = None,
) -> Leverage:
    """Raises InputError for none or both of shock and wheel, and for more than there is."""
    linkage = Linkage.of(stroke_mm, wheel_travel_mm, leverage_start, leverage_end)
    if (shock_mm is None) == (wheel_mm is None):
        raise bad("shock_mm", "give the movement of the shock or of the wheel, one of them")
    if shock_mm is not None:
        if shock_mm > stroke_mm + SLACK:
            raise bad("shock_mm", f"{shock_mm:g} mm is more than the stroke of {stroke_mm:g}")
        p = shock_mm / stroke_mm
        wheel = linkage.wheel_mm(p)
    else:
        assert wheel_mm is not None
        if wheel_mm > linkage.travel_mm + SLACK:
            raise bad("wheel_mm", f"{wheel_mm:g} mm is more than the travel of {linkage.travel_mm:g}")
        wheel, p = wheel_mm, linkage.share_at_wheel(wheel_mm)
    return Leverage(
        shock_mm=p * stroke_mm,
        shock_pct=100 * p,
        wheel_mm=wheel,
        wheel_pct=100 * wheel / linkage.travel_mm,
        leverage=linkage.at(p),
        mean_leverage=linkage.travel_mm / stroke_mm,
        wheel_travel_mm=linkage.travel_mm,
        progression_pct=linkage.progression_pct,
        trace=(
            TraceLine("shock_pct", 100 * p, "%", f"share of the stroke of {stroke_mm:g}"),
            TraceLine(
                "wheel_mm", wheel, "mm", f"{stroke_mm:g} × ({linkage.start:g} p + {linkage.change:g} p² / 2)"
            ),
        ),
    )


@frozen(kw_only=True)
class SpringOption:
    """A spring that is sold, and the sag it gives; none where it is too soft or too stiff for any."""

    rate_lbf_in: float = figure("lbf/in", "Rate")
    rate_n_mm: float = figure("N/mm", "Rate")
    sag_pct: float | None = figure("%", "Sag")


@frozen(kw_only=True)
class SpringRate(Result):
    wheel_load_n: float = figure("N", "Load on the wheel")
    leverage_at_sag: float = figure("", "Leverage at sag")
    rate_n_mm: float = figure("N/mm", "Rate")
    rate_lbf_in: float = figure("lbf/in", "Rate")
    options: tuple[SpringOption, ...] = figure("", "Springs sold")


@calculation(
    "spring_rate",
    title="Spring rate",
    says="The coil that gives a sag for a rider, and the next ones sold. A sum of guesses: right to one step.",
    inputs=(
        Input(name="mass_kg", title="Rider with kit", type=MASS, says="Rider with everything worn.",
              known=(("bike", "mass_kg"),)),
        Input(name="bike_sprung_kg", title="Sprung part of the bike", type=BIKE_MASS, optional=True, default=10.0,
              says="The bike without its wheels and what moves with them."),
        Input(name="load_share", title="Share on this wheel", type=Number(unit="", low=0.2, high=0.9), optional=True,
              default=0.65, says="How much of the load this wheel carries."),
        Input(name="stroke_mm", title="Stroke", type=FULL,
              says="Stroke of the shock.", known=(("shock", "stroke_mm"),)),
        *LINKAGE,
        Input(name="sag_pct", title="Sag wished", type=PERCENT_OF_SAG, says="Sag in percent of the stroke."),
        Input(name="preload_mm", title="Preload", type=Number(unit="mm", low=0.0, high=15.0),
              optional=True, default=0.0,
              says="How far the collar presses the spring."),
        Input(name="step_lbf_in", title="Step of the springs sold", type=Number(unit="lbf/in", low=1.0, high=100.0),
              optional=True, default=25.0, says="Springs are sold in such steps."),
    ),
    formula="k = F·L(p)/(p·S + preload), F = (rider + bike)·g·share",
    sources=("suspension",),
)  # fmt: skip
def spring_rate(
    *,
    mass_kg: float,
    bike_sprung_kg: float = 10.0,
    load_share: float = 0.65,
    stroke_mm: float,
    wheel_travel_mm: float | None = None,
    leverage_start: float | None = None,
    leverage_end: float | None = None,
    sag_pct: float,
    preload_mm: float = 0.0,
    step_lbf_in: float = 25.0,
) -> SpringRate:
    """Raises InputError where the linkage is given twice or by half."""
    linkage = Linkage.of(stroke_mm, wheel_travel_mm, leverage_start, leverage_end)
    load = wheel_load_n(mass_kg, bike_sprung_kg, load_share)
    p = sag_pct / 100
    rate = load * linkage.at(p) / (p * stroke_mm + preload_mm)
    pounds = rate / N_MM_OF["lbf_in"]
    steps = pounds / step_lbf_in
    near = round(steps)
    sold = [near] if abs(steps - near) <= SLACK else [math.floor(steps), math.ceil(steps)]
    options = tuple(_option(step_lbf_in * step, linkage, load, preload_mm) for step in sold if step > 0)
    return SpringRate(
        wheel_load_n=load,
        leverage_at_sag=linkage.at(p),
        rate_n_mm=rate,
        rate_lbf_in=pounds,
        options=options,
        trace=(
            TraceLine(
                "wheel_load_n", load, "N", f"({mass_kg:g} + {bike_sprung_kg:g}) × {GRAVITY} × {load_share:g}"
            ),
            TraceLine(
                "rate_n_mm", rate, "N/mm", f"{load:.1f} × {linkage.at(p):g} / {p * stroke_mm + preload_mm:g}"
            ),
        ),
    )


def wheel_load_n(mass_kg: float, bike_sprung_kg: float, load_share: float) -> float:
    """Return what a wheel carries of rider and bike, in newtons."""
    return (mass_kg + bike_sprung_kg) * GRAVITY * load_share


def sag_of_rate(rate_n_mm: float, linkage: Linkage, load_n: float, preload_mm: float = 0.0) -> float | None:
    """Return the sag that a coil gives, in per cent of the stroke; None where it is too soft or too stiff for any."""
    divisor = rate_n_mm * linkage.stroke_mm - load_n * linkage.change
    if divisor <= 0:
        return None
    sag = 100 * (load_n * linkage.start - rate_n_mm * preload_mm) / divisor
    return sag if 0 <= sag <= 100 else None


def _option(pounds: float, linkage: Linkage, load: float, preload_mm: float) -> SpringOption:
    rate = pounds * N_MM_OF["lbf_in"]
    return SpringOption(
        rate_lbf_in=pounds, rate_n_mm=rate, sag_pct=sag_of_rate(rate, linkage, load, preload_mm)
    )


def true_size(eye_mm: float, stroke_mm: float | None) -> tuple[float, float | None]:
    """Return a shock's length and stroke as they measure: an inch size is printed rounded, a metric one as it is.

    Without the stroke a length counts as an inch size only where no metric shock is as long.
    """
    rows = [row for row in table("shock_sizes").rows if abs(row["eye_mm"] - eye_mm) <= SLACK]
    inch = [row for row in rows if "true_eye_mm" in row]
    inch += [
        row
        for row in table("shock_sizes").rows
        if "true_eye_mm" in row and row not in inch and abs(row["true_eye_mm"] - eye_mm) <= SLACK
    ]
    if stroke_mm is None:
        return (float(inch[0]["true_eye_mm"]) if inch and len(inch) == len(rows) else eye_mm), None
    for row in inch:
        if any(abs(printed - stroke_mm) <= SLACK for printed in (*row["strokes_mm"], row["true_stroke_mm"])):
            return float(row["true_eye_mm"]), float(row["true_stroke_mm"])
    return eye_mm, stroke_mm


@frozen(kw_only=True)
class RateConverted(Result):
    value: float = figure("", "Rate")


@calculation(
    "rate_convert",
    title="Spring rate in other units",
    says="A spring's rate in another unit.",
    inputs=(
        Input(name="value", title="Rate", type=Number(unit="", low=0.0, high=100_000.0),
              says="The rate that is printed."),
        Input(name="from", title="In", type=Choice(of=enums.RATE_UNIT), says="The unit it is printed in."),
        Input(name="to", title="Wished in", type=Choice(of=enums.RATE_UNIT), says="The unit it is wished in."),
    ),
    formula="1 lbf/in = 4.4482216152605 / 25.4 N/mm, 1 kgf/mm = 9.80665 N/mm",
    sources=("suspension",),
)  # fmt: skip
def rate_convert(**given: object) -> RateConverted:
    """`from` is a word of the language, so the inputs come by name."""
    value, before, after = given["value"], given["from"], given["to"]
    assert isinstance(value, (int, float))
    result = value * N_MM_OF[str(before)] / N_MM_OF[str(after)]
    return RateConverted(
        value=result, trace=(TraceLine("value", result, str(after), f"{value:g} {before} by N/mm"),)
    )
