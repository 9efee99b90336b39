"""Gears: ratio, development, gear inches, gain, speed; capacity; indexing error; smallest ring."""

from __future__ import annotations

import functools
import itertools
import math

from attrs import frozen

from unkett.core.build import bead_seat_from, tyre_width_from
from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import CASSETTE, CHAINRINGS
from unkett.core.errors import bad
from unkett.core.standards import SLACK
from unkett.core.vocabulary.types import Number, Whole

MM_PER_INCH = 25.4
CHAIN_PITCH_MM = 12.7
ROLLER_RADIUS_MM = 3.9
RING_CLEARANCE_MM = 7.0
INDEX_CLEAN_MM = 0.5
INDEX_USABLE_MM = 1.2


@frozen(kw_only=True)
class Gear:
    """One pair of ring and sprocket."""

    ring: int = figure("", "Ring")
    sprocket: int = figure("", "Sprocket")
    ratio: float = figure("", "Ratio")
    development_m: float = figure("m", "Development")
    gear_inches: float = figure("", "Gear inches")
    gain: float | None = figure("", "Gain")
    speed_kmh: float = figure("km/h", "Speed")
    hub_gear: int = 0  # 0: the hub has none

    @property
    def name(self) -> str:
        """How the gear is called: ring/sprocket, with the gear of the hub."""
        inside = f", hub gear {self.hub_gear}" if self.hub_gear else ""
        return f"{self.ring}/{self.sprocket}{inside}"


@frozen(kw_only=True)
class Gears(Result):
    circumference_mm: float = figure("mm", "Roll-out")
    gears: tuple[Gear, ...] = figure("", "Gears")
    range_pct: float = figure("%", "Range")
    steps_pct: tuple[float, ...] = figure("%", "Steps")

    def to_json(self) -> dict[str, object]:
        out = super().to_json()
        for gear in out["gears"]:
            if gear["gain"] is None:
                del gear["gain"]
            if not gear["hub_gear"]:
                del gear["hub_gear"]
        return out


def circumference(*, bsd_mm: float, tyre_mm: float) -> float:
    """Roll-out of a wheel in mm: π × (bead seat + 2 × tyre height), height taken as the tyre's width."""
    return math.pi * (bsd_mm + 2 * tyre_mm)


@functools.cache
def pitch_radius(teeth: int) -> float:
    """Pitch radius in mm of a ring or sprocket: p / (2 sin(π/N)), N at least 3."""
    return CHAIN_PITCH_MM / (2 * math.sin(math.pi / teeth))


def speed_at(*, development_m: float, cadence_rpm: float) -> float:
    """Speed in km/h of a gear at a cadence."""
    return development_m * cadence_rpm * 60 / 1000


OVERLAP_PCT = 3.0


def overlapping(developments_m: tuple[float, ...], within_pct: float = OVERLAP_PCT) -> tuple[bool, ...]:
    """Return which of the developments, low to high, lie within so many per cent of a neighbour."""
    near = [high <= low * (1 + within_pct / 100) + SLACK for low, high in itertools.pairwise(developments_m)]
    return tuple(before or after for before, after in zip([False, *near], [*near, False], strict=True))


@calculation(
    "gears",
    title="Gears",
    says="Every gear from low to high: ratio, development, gear inches, gain and speed.",
    inputs=(
        CHAINRINGS,
        CASSETTE,
        Input(
            name="circumference_mm",
            title="Roll-out",
            type=Number(unit="mm", low=300.0, high=3500.0),
            says="Measured roll-out; wins over the rim size.",
            optional=True,
        ),
        Input(
            name="bsd_mm",
            title="Rim size",
            known=bead_seat_from("rear"),
            type=Number(unit="mm", low=100.0, high=800.0),
            says="Rim size, with tyre_mm.",
            optional=True,
        ),
        Input(
            name="tyre_mm",
            title="Tyre width",
            known=tyre_width_from("rear"),
            type=Number(unit="mm", low=10.0, high=150.0),
            says="Tyre width, with bsd_mm.",
            optional=True,
        ),
        Input(
            name="crank_mm",
            title="Crank length",
            known=(("crank", "arm_mm"),),
            type=Number(unit="mm", low=50.0, high=250.0),
            says="Crank arm, for the gain.",
            optional=True,
        ),
        Input(
            name="cadence_rpm",
            title="Cadence",
            type=Number(unit="rpm", low=1.0, high=250.0),
            says="Cadence, for the speed.",
            optional=True,
            default=90.0,
        ),
    ),
    formula="ratio = ring / sprocket; development = ratio × circumference",
    sources=("chain-iso", "plane-geometry"),
)
def gears(
    *,
    chainrings: tuple[int, ...],
    sprockets: tuple[int, ...],
    circumference_mm: float | None = None,
    bsd_mm: float | None = None,
    tyre_mm: float | None = None,
    crank_mm: float | None = None,
    cadence_rpm: float = 90.0,
) -> Gears:
    """Return every pair of ring and sprocket, ordered low to high; equal ratios: the smaller ring first."""
    if circumference_mm is not None:
        first = TraceLine("circumference_mm", circumference_mm, "mm", "measured roll-out")
    else:
        if bsd_mm is None:
            raise bad(
                "bsd_mm" if tyre_mm is not None else "circumference_mm",
                "missing; a roll-out, or bsd_mm and tyre_mm",
            )
        if tyre_mm is None:
            raise bad("tyre_mm", "missing; a tyre width goes with bsd_mm")
        circumference_mm = circumference(bsd_mm=bsd_mm, tyre_mm=tyre_mm)
        first = TraceLine("circumference_mm", circumference_mm, "mm", f"π × ({bsd_mm:g} + 2 × {tyre_mm:g})")
    return gear_table(
        chainrings=chainrings,
        sprockets=sprockets,
        circumference_mm=circumference_mm,
        crank_mm=crank_mm,
        cadence_rpm=cadence_rpm,
        first=first,
    )


def gear_table(
    *,
    chainrings: tuple[int, ...],
    sprockets: tuple[int, ...],
    circumference_mm: float,
    crank_mm: float | None,
    cadence_rpm: float,
    first: TraceLine,
    hub_ratios: tuple[float, ...] = (),
) -> Gears:
    """Return the gear table of a known roll-out; `first` says where the roll-out came from.

    `hub_ratios` are turns of the wheel for one of the cog, of a hub with gears inside.
    """
    diameter_mm = circumference_mm / math.pi
    table = []
    for ring, sprocket in itertools.product(chainrings, sprockets):
        for hub_gear, inside in enumerate(hub_ratios, start=1) if hub_ratios else ((0, 1.0),):
            ratio = ring / sprocket * inside
            development_m = ratio * circumference_mm / 1000
            table.append(
                Gear(
                    ring=ring,
                    sprocket=sprocket,
                    hub_gear=hub_gear,
                    ratio=ratio,
                    development_m=development_m,
                    gear_inches=ratio * diameter_mm / MM_PER_INCH,
                    gain=None if crank_mm is None else ratio * diameter_mm / 2 / crank_mm,
                    speed_kmh=speed_at(development_m=development_m, cadence_rpm=cadence_rpm),
                )
            )
    table.sort(key=lambda gear: (gear.ratio, gear.ring))
    low, high = table[0], table[-1]
    range_pct = high.ratio / low.ratio * 100
    steps = tuple((b.ratio / a.ratio - 1) * 100 for a, b in itertools.pairwise(table))
    return Gears(
        circumference_mm=circumference_mm,
        gears=tuple(table),
        range_pct=range_pct,
        steps_pct=steps,
        trace=(
            first,
            TraceLine("lowest_ratio", low.ratio, "", _ratio_of(low, hub_ratios)),
            TraceLine("lowest_development_m", low.development_m, "m", "lowest ratio × circumference / 1000"),
            TraceLine("highest_ratio", high.ratio, "", _ratio_of(high, hub_ratios)),
            TraceLine(
                "highest_development_m", high.development_m, "m", "highest ratio × circumference / 1000"
            ),
            TraceLine("range_pct", range_pct, "%", "highest / lowest × 100"),
        ),
    )


def _ratio_of(gear: Gear, hub_ratios: tuple[float, ...]) -> str:
    inside = f" × {hub_ratios[gear.hub_gear - 1]:g}" if gear.hub_gear else ""
    return f"{gear.ring} / {gear.sprocket}{inside}"


@frozen(kw_only=True)
class Capacity(Result):
    needed_teeth: int = figure("teeth", "Needed")


@calculation(
    "capacity",
    title="Capacity",
    says="How many teeth of chain slack the cage must take up.",
    inputs=(
        CHAINRINGS,
        CASSETTE,
    ),
    formula="sum of the differences of rings and of sprockets",
    sources=("wrap",),
)
def capacity(*, chainrings: tuple[int, ...], sprockets: tuple[int, ...]) -> Capacity:
    """(largest ring − smallest ring) + (largest − smallest sprocket), in teeth."""
    rings = max(chainrings) - min(chainrings)
    cogs = max(sprockets) - min(sprockets)
    return Capacity(
        needed_teeth=rings + cogs,
        trace=(
            TraceLine("ring_difference", rings, "teeth", f"{max(chainrings)} − {min(chainrings)}"),
            TraceLine("sprocket_difference", cogs, "teeth", f"{max(sprockets)} − {min(sprockets)}"),
            TraceLine("needed_teeth", rings + cogs, "teeth", "ring difference + sprocket difference"),
        ),
    )


@frozen(kw_only=True)
class IndexError_(Result):  # noqa: N801 - IndexError is Python's
    travel_per_click_mm: float = figure("mm", "Travel per click")
    error_per_click_mm: float = figure("mm", "Error per click")
    worst_from_small_mm: float = figure("mm", "Worst, set at the smallest")
    worst_centred_mm: float = figure("mm", "Worst, shared out")
    clean_gears: int = figure("", "Clean gears")
    usable_gears: int = figure("", "Usable gears")


def gears_within(*, limit_mm: float, error_mm: float, positions: int) -> int:
    """Return how many gears from the small end stay within a limit when each click adds the same error."""
    size = abs(error_mm)
    if size * (positions - 1) <= limit_mm + SLACK:
        return positions
    return math.floor((limit_mm + SLACK) / size) + 1


@calculation(
    "index_error",
    title="Index error",
    page="gears",
    says="What a lever's click does at the sprockets: error per click, worst error, clean and usable gears.",
    inputs=(
        Input(
            name="pull_per_click_mm",
            title="Pull per click",
            known=(("rear_shifter", "pull_per_click_mm"),),
            type=Number(unit="mm", low=0.1, high=20.0),
            says="Cable pulled by one click.",
        ),
        Input(
            name="shift_ratio",
            title="Shift ratio",
            known=(("rear_derailleur", "shift_ratio"),),
            type=Number(unit="", low=0.1, high=10.0),
            says="Sideways travel ÷ cable pulled.",
        ),
        Input(
            name="sprocket_pitch_mm",
            title="Sprocket pitch",
            known=(("cassette", "sprocket_pitch_mm"),),
            type=Number(unit="mm", low=1.0, high=12.0),
            says="Centre to centre of neighbouring sprockets.",
        ),
        Input(
            name="sprockets",
            title="Sprockets in all",
            known=(("cassette", "speeds"),),
            type=Whole(low=1, high=14),
            says="How many sprockets.",
        ),
        Input(
            name="clicks",
            title="Lever positions",
            known=(("rear_shifter", "speeds"),),
            type=Whole(low=1, high=14),
            says="How many positions the lever has.",
        ),
    ),
    formula="movement per click = pull × ratio, against the sprocket pitch",
    sources=("pull-families", "index-tolerance"),
)
def index_error(
    *, pull_per_click_mm: float, shift_ratio: float, sprocket_pitch_mm: float, sprockets: int, clicks: int
) -> IndexError_:
    """Signed error per click and the worst error over n = the smaller of sprockets and clicks.

    Worst figures are magnitudes. Set at the small sprocket the error grows click by click;
    centred, it is halved. Clean up to 0.5 mm, usable to 1.2 mm, both included.
    Raises InputError where one count is under a third of the other: they are not one system.
    """
    if 3 * min(sprockets, clicks) < max(sprockets, clicks):
        raise bad("sprockets", f"{sprockets} sprockets for {clicks} clicks; these are not one system")
    n = min(sprockets, clicks)
    travel = pull_per_click_mm * shift_ratio
    error = travel - sprocket_pitch_mm
    worst = abs(error) * (n - 1)
    clean = gears_within(limit_mm=INDEX_CLEAN_MM, error_mm=error, positions=n)
    usable = gears_within(limit_mm=INDEX_USABLE_MM, error_mm=error, positions=n)
    return IndexError_(
        travel_per_click_mm=travel,
        error_per_click_mm=error,
        worst_from_small_mm=worst,
        worst_centred_mm=worst / 2,
        clean_gears=clean,
        usable_gears=usable,
        trace=(
            TraceLine("travel_per_click_mm", travel, "mm", f"{pull_per_click_mm:g} × {shift_ratio:g}"),
            TraceLine("error_per_click_mm", error, "mm", f"travel − {sprocket_pitch_mm:g}"),
            TraceLine("positions", n, "", f"smaller of {sprockets} sprockets and {clicks} clicks"),
            TraceLine("worst_from_small_mm", worst, "mm", "|error| × (positions − 1)"),
            TraceLine("worst_centred_mm", worst / 2, "mm", "half of it"),
            TraceLine("clean_gears", clean, "", f"error from the small end ≤ {INDEX_CLEAN_MM} mm"),
            TraceLine("usable_gears", usable, "", f"error from the small end ≤ {INDEX_USABLE_MM} mm"),
        ),
    )


@frozen(kw_only=True)
class SmallestRing(Result):
    teeth: int = figure("", "Smallest ring")


@calculation(
    "smallest_ring",
    title="Smallest ring",
    page="gears",
    says="The smallest ring that clears the bolts of a bolt circle.",
    inputs=(
        Input(
            name="bcd_mm",
            title="Bolt circle",
            type=Number(unit="mm", low=20.0, high=300.0),
            says="Bolt circle diameter.",
        ),
    ),
    formula="pitch radius − roller 3.9 mm − half the bolt circle ≥ 7 mm",
    sources=("bolt-circles",),
)
def smallest_ring(*, bcd_mm: float) -> SmallestRing:
    """Return the fewest teeth N with R(N) − 3.9 − bcd/2 ≥ 7 mm."""
    wanted = bcd_mm / 2 + ROLLER_RADIUS_MM + RING_CLEARANCE_MM
    teeth = 3
    while pitch_radius(teeth) < wanted - SLACK:
        teeth += 1
    return SmallestRing(
        teeth=teeth,
        trace=(
            TraceLine("radius_needed_mm", wanted, "mm", f"{bcd_mm:g} / 2 + 3.9 roller + 7 clearance"),
            TraceLine(
                "teeth", teeth, "teeth", f"fewest with pitch radius {pitch_radius(teeth):.2f} ≥ needed"
            ),
        ),
    )
