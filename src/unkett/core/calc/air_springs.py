"""Air springs: the next pressure for a sag, the curve of a chamber with spacers, the set-up for another rider."""

from __future__ import annotations

import math
from collections.abc import Sequence

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, Values, calculation, figure
from unkett.core.calc.suspension import AIR, AIR_BAR, BIKE_MASS, FULL, MASS, MOST_AIR, PERCENT_OF_SAG, RATE
from unkett.core.calc.suspension_scenes import curves_scene
from unkett.core.errors import bad
from unkett.core.scene import Scene
from unkett.core.standards import SLACK
from unkett.core.vocabulary.types import ListOf, Number, Whole

USUAL_EXPONENT, USUAL_LOW, USUAL_HIGH = 0.8, 0.6, 1.0  # self-equalising air springs
OWN_OFF = 0.1  # how far an exponent from two readings may be off
EXPONENT_LOW, EXPONENT_HIGH = 0.2, 1.6  # beyond these two readings do not belong together
LEAST_SAG_MM = 0.1
ROOM = 1.05  # a chamber is at least this much larger than what the piston sweeps
CURVE_AT = (0.0, 25.0, 50.0, 75.0, 100.0)


@frozen(kw_only=True)
class NextPressure(Result):
    sag_pct: float = figure("%", "Sag now")
    target_mm: float = figure("mm", "Sag wished")
    exponent: float = figure("", "Exponent")
    earlier_used: bool = figure("", "The earlier reading counts")
    wanted_bar: float = figure("bar", "Pressure for it")
    low_bar: float = figure("bar", "At least")
    high_bar: float = figure("bar", "At most")
    next_bar: float = figure("bar", "Try next")
    change_pct: float = figure("%", "Change")
    limited: str = figure("", "Held by")


@calculation(
    "next_pressure",
    title="Next pressure",
    says="The pressure to try next for a sag, from one reading or two; never far at once.",
    inputs=(
        Input(name="pressure_bar", title="Pressure now", type=AIR, says="Gauge pressure at the reading."),
        Input(name="full_mm", title="Travel or stroke", type=FULL, says="Fork travel or shock stroke."),
        Input(name="sag_mm", title="Sag read", type=Number(unit="mm", low=1.0, high=300.0),
              says="Sag at this pressure."),
        Input(name="target_pct", title="Sag wished", type=PERCENT_OF_SAG, says="In percent of travel or stroke."),
        Input(name="reading_mm", title="A reading is right to", type=Number(unit="mm", low=0.0, high=5.0),
              optional=True,
              default=1.0, says="How far a reading of the ring may be off."),
        Input(name="step_pct", title="Most change at once", type=Number(unit="%", low=1.0, high=50.0), optional=True,
              default=15.0, says="Most change of pressure at once."),
        Input(name="max_bar", title="Printed most", type=MOST_AIR, optional=True,
              says="Most pressure that is printed."),
        Input(name="earlier_pressure_bar", title="Pressure of an earlier reading", type=AIR, optional=True,
              says="With the earlier sag."),
        Input(name="earlier_sag_mm", title="Sag of an earlier reading", type=Number(unit="mm", low=1.0, high=300.0),
              optional=True, says="With the earlier pressure."),
    ),
    formula="(p + 1.01325)·(sag/target)^e − 1.01325; e = ln((p + pa)/(pe + pa))/ln(se/s) from two readings",
    sources=("suspension",),
)  # fmt: skip
def next_pressure(
    *,
    pressure_bar: float,
    full_mm: float,
    sag_mm: float,
    target_pct: float,
    reading_mm: float = 1.0,
    step_pct: float = 15.0,
    max_bar: float | None = None,
    earlier_pressure_bar: float | None = None,
    earlier_sag_mm: float | None = None,
) -> NextPressure:
    """Raises InputError for a sag over the travel, and for half of an earlier reading."""
    for name, value in (("sag_mm", sag_mm), ("earlier_sag_mm", earlier_sag_mm)):
        if value is not None and value > full_mm + SLACK:
            raise bad(name, f"{value:g} mm is more than the {full_mm:g} mm there are")
    if (earlier_pressure_bar is None) != (earlier_sag_mm is None):
        missing = "earlier_sag_mm" if earlier_sag_mm is None else "earlier_pressure_bar"
        raise bad(missing, "missing; an earlier reading is a pressure and a sag")
    target = full_mm * target_pct / 100
    own = _exponent(pressure_bar, sag_mm, earlier_pressure_bar, earlier_sag_mm, reading_mm)
    exponent = USUAL_EXPONENT if own is None else own
    bounds = (USUAL_LOW, USUAL_HIGH) if own is None else (own - OWN_OFF, own + OWN_OFF)

    def pressure(sag: float, power: float) -> float:
        return max(0.0, (pressure_bar + AIR_BAR) * math.pow(sag / target, power) - AIR_BAR)

    wanted = pressure(sag_mm, exponent)
    corners = [
        pressure(max(LEAST_SAG_MM, sag), power)
        for sag in (sag_mm - reading_mm, sag_mm + reading_mm)
        for power in bounds
    ]
    then, limited = _held(pressure_bar, wanted, abs(sag_mm - target) <= reading_mm + SLACK, step_pct, max_bar)
    return NextPressure(
        sag_pct=100 * sag_mm / full_mm,
        target_mm=target,
        exponent=exponent,
        earlier_used=own is not None,
        wanted_bar=wanted,
        low_bar=min(corners),
        high_bar=max(corners),
        next_bar=then,
        change_pct=100 * (then - pressure_bar) / pressure_bar,
        limited=limited,
        trace=(
            TraceLine("target_mm", target, "mm", f"{target_pct:g} % of {full_mm:g}"),
            TraceLine("wanted_bar", wanted, "bar",
                      f"({pressure_bar:g} + {AIR_BAR}) × ({sag_mm:g} / {target:g})^{exponent:.3g} − {AIR_BAR}"),
            TraceLine("next_bar", then, "bar", f"held by: {limited}"),
        ),
    )  # fmt: skip


def _exponent(
    pressure: float, sag: float, earlier: float | None, earlier_sag: float | None, reading: float
) -> float | None:
    """Return the exponent of two readings that are apart and belong together; else none."""
    if earlier is None or earlier_sag is None or abs(earlier_sag - sag) <= reading or earlier == pressure:
        return None
    found = math.log((pressure + AIR_BAR) / (earlier + AIR_BAR)) / math.log(earlier_sag / sag)
    return found if EXPONENT_LOW <= found <= EXPONENT_HIGH else None


def _held(now: float, wanted: float, reached: bool, step_pct: float, most: float | None) -> tuple[float, str]:
    """Return the pressure to try, and what held it."""
    then, limited = (now, "reading") if reached else (wanted, "none")
    low, high = now * (1 - step_pct / 100), now * (1 + step_pct / 100)
    if not reached and not low <= wanted <= high:
        then, limited = min(max(wanted, low), high), "step"
    if most is not None and then > most:
        then, limited = most, "max"
    return then, limited


@frozen(kw_only=True)
class CurvePoint:
    """One point of a spring's curve."""

    pct: float = figure("%", "Of the travel")
    mm: float = figure("mm", "In")
    pressure_bar: float = figure("bar", "Pressure")
    force_n: float = figure("N", "Force")


@frozen(kw_only=True)
class Curve:
    """A chamber at a pressure, with some spacers."""

    pressure_bar: float = figure("bar", "Pressure")
    compression_ratio: float = figure("", "Compression")
    end_force_n: float = figure("N", "Force at the end")
    points: tuple[CurvePoint, ...] = figure("", "Curve")


@frozen(kw_only=True)
class AirSpring(Result):
    area_mm2: float = figure("mm²", "Area of the piston")
    swept_cm3: float = figure("cm³", "Swept")
    pressure_bar: float = figure("bar", "Pressure")
    compression_ratio: float = figure("", "Compression")
    end_force_n: float = figure("N", "Force at the end")
    points: tuple[CurvePoint, ...] = figure("", "Curve")
    to: Curve | None = figure("", "With the other spacers")
    end_force_change_pct: float | None = figure("%", "End force changes")


@frozen(kw_only=True)
class Chamber:
    """A chamber without its spacers, and the negative one behind its piston; volumes in cm³."""

    area_mm2: float
    full_mm: float
    volume_cm3: float
    negative_cm3: float | None
    exponent: float

    def swept(self, mm: float) -> float:
        return self.area_mm2 * mm / 1000

    def squeezed(self, mm: float) -> float:
        return self.volume_cm3 / (self.volume_cm3 - self.swept(mm))

    def drawn(self, mm: float) -> float:
        """Return how far the negative chamber's air has thinned out; none without one."""
        return 0.0 if self.negative_cm3 is None else self.negative_cm3 / (self.negative_cm3 + self.swept(mm))

    def point(self, mm: float, absolute_bar: float) -> CurvePoint:
        pressed = absolute_bar * self.squeezed(mm) ** self.exponent
        behind = AIR_BAR if self.negative_cm3 is None else absolute_bar * self.drawn(mm) ** self.exponent
        return CurvePoint(
            pct=100 * mm / self.full_mm,
            mm=mm,
            pressure_bar=pressed - AIR_BAR,
            force_n=0.1 * self.area_mm2 * (pressed - behind),
        )

    def curve(self, absolute_bar: float, at_pct: Sequence[float]) -> Curve:
        return Curve(
            pressure_bar=absolute_bar - AIR_BAR,
            compression_ratio=self.squeezed(self.full_mm),
            end_force_n=self.point(self.full_mm, absolute_bar).force_n,
            points=tuple(self.point(self.full_mm * pct / 100, absolute_bar) for pct in at_pct),
        )


def _chamber(
    name: str,
    area: float,
    full: float,
    volume: float,
    spacers: float,
    negative: float | None,
    exponent: float,
) -> Chamber:
    made = Chamber(
        area_mm2=area, full_mm=full, volume_cm3=volume - spacers, negative_cm3=negative, exponent=exponent
    )
    if made.volume_cm3 <= ROOM * made.swept(full):
        raise bad(name, f"{made.volume_cm3:g} cm³ are left for a piston that sweeps {made.swept(full):g}")
    return made


DRAWN = 20  # pieces of a drawn curve


def _curves(inputs: Values, answer: Values) -> Scene:
    """The curve now and with the other number of spacers, drawn finer than the points that are listed."""
    finer = {**inputs, "at_pct": [100 * n / DRAWN for n in range(DRAWN + 1)]}
    found = air_spring(**finer)
    curves = {f"{inputs.get('spacers', 0)} spacers": found.points}
    if found.to is not None:
        curves[f"{inputs['spacers_to']} spacers"] = found.to.points
    points = {
        title: [{"mm": point.mm, "force_n": point.force_n} for point in one] for title, one in curves.items()
    }
    return curves_scene(inputs["full_mm"], points, inputs.get("hold_pct"))


@calculation(
    "air_spring",
    title="Air spring",
    says="The curve of an air spring, and what volume spacers do to it. It compares, it does not foretell.",
    inputs=(
        Input(name="pressure_bar", title="Pressure", type=AIR, says="Gauge pressure, unladen."),
        Input(name="area_mm2", title="Area of the piston", type=Number(unit="mm²", low=50.0, high=5000.0),
              optional=True,
              says="This or the bore."),
        Input(name="bore_mm", title="Bore", type=Number(unit="mm", low=8.0, high=80.0), optional=True,
              says="This or the area."),
        Input(name="full_mm", title="Travel or stroke", type=FULL, says="Fork travel or shock stroke."),
        Input(name="volume_cm3", title="Chamber", type=Number(unit="cm³", low=5.0, high=2000.0),
              says="Volume of the chamber, unladen, without spacers."),
        Input(name="negative_cm3", title="Negative chamber", type=Number(unit="cm³", low=1.0, high=1000.0),
              optional=True,
              says="Volume of the negative chamber, unladen, at the same pressure."),
        Input(name="spacer_cm3", title="One spacer", type=Number(unit="cm³", low=0.0, high=1000.0), optional=True,
              default=0.0, says="Volume of one spacer."),
        Input(name="spacers", title="Spacers now", type=Whole(unit="", low=0, high=20), optional=True, default=0,
              says="Spacers in the chamber."),
        Input(name="spacers_to", title="Spacers then", type=Whole(unit="", low=0, high=20), optional=True,
              says="Spacers to compare with."),
        Input(name="hold_pct", title="Hold the force at", type=Number(unit="%", low=1.0, high=60.0), optional=True,
              says="Sag at which both carry the same."),
        Input(name="exponent", title="Exponent", type=Number(unit="", low=1.0, high=1.4), optional=True, default=1.3,
              says="1 slow, 1.3 usual, 1.4 a hard hit."),
        Input(name="at_pct", title="Points at", type=ListOf(item=Number(unit="%", low=0.0, high=100.0)), optional=True,
              says="Where the curve is worked out; 0, 25, 50, 75 and 100 % where nothing is given."),
    ),
    picture=_curves,
    formula="F = 0.1·A·P·(rⁿ − qⁿ), r = V/(V − A·x), q = N/(N + A·x), P absolute",
    sources=("suspension",),
)  # fmt: skip
def air_spring(
    *,
    pressure_bar: float,
    area_mm2: float | None = None,
    bore_mm: float | None = None,
    full_mm: float,
    volume_cm3: float,
    negative_cm3: float | None = None,
    spacer_cm3: float = 0.0,
    spacers: int = 0,
    spacers_to: int | None = None,
    hold_pct: float | None = None,
    exponent: float = 1.3,
    at_pct: Sequence[float] | None = None,
) -> AirSpring:
    """Raises InputError for none or both of area and bore, and for a chamber that the piston would fill."""
    if (area_mm2 is None) == (bore_mm is None):
        raise bad("area_mm2", "give the piston's area or its bore, one of them")
    area = math.pi * (bore_mm or 0.0) ** 2 / 4 if area_mm2 is None else area_mm2
    points = CURVE_AT if at_pct is None else at_pct
    absolute = pressure_bar + AIR_BAR
    now = _chamber("volume_cm3", area, full_mm, volume_cm3, spacers * spacer_cm3, negative_cm3, exponent)
    curve = now.curve(absolute, points)
    then = None
    if spacers_to is not None:
        filled = spacers_to * spacer_cm3
        other = _chamber("spacers_to", area, full_mm, volume_cm3, filled, negative_cm3, exponent)
        if hold_pct is not None:
            mm = full_mm * hold_pct / 100
            absolute *= (now.squeezed(mm) - now.drawn(mm)) / (other.squeezed(mm) - other.drawn(mm))
        then = other.curve(absolute, points)
    return AirSpring(
        area_mm2=area,
        swept_cm3=now.swept(full_mm),
        pressure_bar=curve.pressure_bar,
        compression_ratio=curve.compression_ratio,
        end_force_n=curve.end_force_n,
        points=curve.points,
        to=then,
        end_force_change_pct=None if then is None else 100 * (then.end_force_n / curve.end_force_n - 1),
        trace=(
            TraceLine("swept_cm3", now.swept(full_mm), "cm³", f"{area:g} × {full_mm:g} / 1000"),
            TraceLine("compression_ratio", curve.compression_ratio, "",
                      f"{now.volume_cm3:g} / ({now.volume_cm3:g} − {now.swept(full_mm):g})"),
        ),
    )  # fmt: skip


@frozen(kw_only=True)
class SetupScaled(Result):
    ratio: float = figure("", "Ratio of the loads")
    pressure_bar: float | None = figure("bar", "Pressure")
    rate_n_mm: float | None = figure("N/mm", "Rate")
    over_max: bool | None = figure("", "Over the printed most")


@calculation(
    "setup_scale",
    title="Set-up for another rider",
    says="Pressure and spring rate for another rider on the same bike; a place to begin.",
    inputs=(
        Input(name="mass_from_kg", title="Rider now", type=MASS, says="Rider with kit that the set-up is for."),
        Input(name="mass_to_kg", title="Other rider", type=MASS, says="Rider with kit that it is wished for."),
        Input(name="bike_sprung_kg", title="Sprung part of the bike", type=BIKE_MASS, optional=True, default=10.0,
              says="The bike without its wheels and what moves with them."),
        Input(name="pressure_bar", title="Pressure now", type=AIR, optional=True,
              says="Gauge pressure; this, or a rate."),
        Input(name="rate_n_mm", title="Rate now", type=RATE, optional=True, says="Spring rate; this, or a pressure."),
        Input(name="max_bar", title="Printed most", type=MOST_AIR, optional=True,
              says="Most pressure that is printed."),
    ),
    formula="ratio = (to + bike)/(from + bike), on absolute pressure and on the rate",
    sources=("suspension",),
)  # fmt: skip
def setup_scale(
    *,
    mass_from_kg: float,
    mass_to_kg: float,
    bike_sprung_kg: float = 10.0,
    pressure_bar: float | None = None,
    rate_n_mm: float | None = None,
    max_bar: float | None = None,
) -> SetupScaled:
    """Raises InputError where neither a pressure nor a rate is given."""
    if pressure_bar is None and rate_n_mm is None:
        raise bad("pressure_bar", "missing; give a pressure, a rate or both")
    ratio = (mass_to_kg + bike_sprung_kg) / (mass_from_kg + bike_sprung_kg)
    pressure = None if pressure_bar is None else max(0.0, (pressure_bar + AIR_BAR) * ratio - AIR_BAR)
    return SetupScaled(
        ratio=ratio,
        pressure_bar=pressure,
        rate_n_mm=None if rate_n_mm is None else rate_n_mm * ratio,
        over_max=None if pressure is None or max_bar is None else pressure > max_bar,
        trace=(
            TraceLine("ratio", ratio, "",
                      f"({mass_to_kg:g} + {bike_sprung_kg:g}) / ({mass_from_kg:g} + {bike_sprung_kg:g})"),
        ),
    )  # fmt: skip
