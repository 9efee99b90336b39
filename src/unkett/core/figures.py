"""The numbers that pages show of a bike: the calculations fed with the bike's own data.

Nothing is asked twice: what is missing is named as something to measure, and what had to be
assumed is said.
"""

from __future__ import annotations

from typing import Any

from attrs import frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.calc.base import Step
from unkett.core.calc.chain import ChainLength, chain_length
from unkett.core.calc.climbing import climb
from unkett.core.calc.gears import Gears, circumference, gear_table
from unkett.core.errors import InputError
from unkett.core.vocabulary import SLOTS, describe

TYRE_AS_HIGH_AS_WIDE = "tyre height taken as its width: measure the roll-out for the real figure"


@frozen(kw_only=True)
class Missing:
    """Something to measure before a number can be given."""

    slot: str
    attr: str

    @property
    def says(self) -> str:
        return f"{SLOTS[self.slot].title}: {describe(self.slot, self.attr).title.lower()}"

    @property
    def how(self) -> str:
        return describe(self.slot, self.attr).how


class Facts:
    """Attributes of a build by slot, noting what was asked for and missing."""

    def __init__(self, build: Build) -> None:
        self.attrs = {slot: part_attrs_for(slot, part) for slot, part in build.filled().items()}
        self.missing: list[Missing] = []

    def get(self, slot: str, attr: str) -> Any:
        return self.attrs.get(slot, {}).get(attr)

    def want(self, slot: str, attr: str) -> Any:
        value = self.get(slot, attr)
        if value is None:
            self.missing.append(Missing(slot=slot, attr=attr))
        return value


@frozen(kw_only=True)
class GearFigures:
    """The gear table of a build, or what is missing for it."""

    gears: Gears | None
    missing: tuple[Missing, ...] = ()
    assumed: str = ""

    @property
    def low_m(self) -> float | None:
        return self.gears.gears[0].development_m if self.gears else None

    @property
    def high_m(self) -> float | None:
        return self.gears.gears[-1].development_m if self.gears else None


def gears_of(build: Build, cadence_rpm: float = 90.0) -> GearFigures:
    """The gears of a build from its rings, sprockets and rear tyre."""
    facts = Facts(build)
    rings, sprockets = facts.want("chainrings", "teeth"), facts.want("cassette", "teeth")
    bsd = facts.get("rear_rim", "bsd_mm") or facts.want("rear_tyre", "bsd_mm")
    width = facts.get("rear_tyre", "width_measured_mm") or facts.want("rear_tyre", "width_mm")
    if facts.missing:
        return GearFigures(gears=None, missing=tuple(facts.missing))
    roll_out = circumference(bsd_mm=bsd, tyre_mm=width)
    table = gear_table(
        chainrings=rings,
        sprockets=sprockets,
        circumference_mm=roll_out,
        crank_mm=facts.get("crank", "arm_mm"),
        cadence_rpm=cadence_rpm,
        first=Step("circumference_mm", roll_out, "mm", f"π × ({bsd:g} + 2 × {width:g})"),
    )
    return GearFigures(gears=table, assumed=TYRE_AS_HIGH_AS_WIDE)


@frozen(kw_only=True)
class ChainFigures:
    """The chain's window for a build, with what hangs on the bike, or what is missing for it."""

    window: ChainLength | None
    links: int | None = None
    ring: int = 0
    sprocket: int = 0
    small_ring: int = 0
    small_sprocket: int = 0
    chainstay_mm: float = 0.0
    growth_mm: float = 0.0
    missing: tuple[Missing, ...] = ()
    fault: str = ""

    @property
    def shown(self) -> str:
        """The window in a few signs: one length, low–high, or the lower end and up."""
        if self.window is None:
            return ""
        low, high = self.window.min_links, self.window.max_links
        if high is None:
            return f"{low} and up"
        return f"{low}–{high}" if high > low else f"{low}"

    @property
    def cut(self) -> str:
        """What to do with the chain in hand, in words."""
        if self.window is None:
            return ""
        low, has = self.window.min_links, self.links
        if has is None:
            return f"Cut a new chain to {low} links; count them, do not hang it against the worn one."
        if has < low:
            return f"{low - has} links short: a new chain of at least {low} links. Do not lengthen this one."
        high = self.window.max_links
        if has > max(low, high if high is not None else has):
            return f"Take {has - low} links out and keep them."
        return "Leave it as long as it is."


def chain_of(build: Build) -> ChainFigures | None:
    """The chain's window of a build; None where no derailleur takes up slack."""
    facts = Facts(build)
    if "rear_derailleur" not in facts.attrs:
        return None
    rings, sprockets = facts.want("chainrings", "teeth"), facts.want("cassette", "teeth")
    stay = facts.want("frame", "chainstay_mm")
    links = facts.get("chain", "links")
    sprung = (
        "shock" in facts.attrs
        or facts.get("frame", "wheel_travel_mm")
        or facts.get("frame", "shock_stroke_mm")
    )
    growth = facts.want("frame", "chain_growth_mm") if sprung else facts.get("frame", "chain_growth_mm")
    if facts.missing:
        return ChainFigures(window=None, links=links, missing=tuple(facts.missing))
    try:
        window = chain_length(
            chainstay_mm=stay,
            chainrings=rings,
            sprockets=sprockets,
            capacity_teeth=facts.get("rear_derailleur", "capacity_teeth"),
            extra_links=facts.get("rear_derailleur", "extra_links") or 2,
            growth_mm=growth or 0.0,
        )
    except InputError as error:
        return ChainFigures(window=None, links=links, fault=str(error))
    return ChainFigures(
        window=window,
        links=links,
        ring=max(rings),
        sprocket=max(sprockets),
        small_ring=min(rings),
        small_sprocket=min(sprockets),
        chainstay_mm=stay,
        growth_mm=growth or 0.0,
    )


BIKE_KG = 15.0  # assumed until somebody weighs it
EASY_CADENCE_RPM = 60.0


@frozen(kw_only=True)
class Hill:
    """A slope for a power: the steady speed, and the cadence in every gear, low to high."""

    grade_pct: float
    power_w: float
    mass_kg: float
    speed_kmh: float
    cadences_rpm: tuple[float, ...]

    @property
    def easy(self) -> int | None:
        """Place of the highest gear that still turns at 60 rpm; None where even the lowest turns slower."""
        places = [n for n, cadence in enumerate(self.cadences_rpm) if cadence >= EASY_CADENCE_RPM]
        return places[-1] if places else None


def hill_of(build: Build, table: Gears, *, grade_pct: float, power_w: float) -> Hill:
    """This hill, this rider, this load. Raises InputError for a slope or a power out of range.

    The rider's mass and load are the bike's own where known; 15 kg for the bike and 75 for the rider
    are assumed.
    """
    mass = BIKE_KG + float(build.rider.get("mass_kg", 75.0)) + float(build.rider.get("load_kg", 0.0))
    found = [
        climb(mass_kg=mass, power_w=power_w, grade_pct=grade_pct, development_m=gear.development_m)
        for gear in table.gears
    ]
    return Hill(
        grade_pct=grade_pct,
        power_w=power_w,
        mass_kg=mass,
        speed_kmh=found[0].speed_kmh,
        cadences_rpm=tuple(one.cadence_rpm for one in found),
    )
