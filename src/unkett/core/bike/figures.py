"""The numbers that pages show of a bike: the calculations fed with the bike's own data.

Nothing is asked twice: what is missing is named as something to measure, and what had to be
assumed is said.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.bike.facts import Facts, Missing
from unkett.core.build import Build, Part, bead_seat_from, tyre_width_from
from unkett.core.calc.base import TraceLine
from unkett.core.calc.chain import ChainLength, chain_length, is_sprung
from unkett.core.calc.chainline import Chainline, Seated, seated_chainlines
from unkett.core.calc.climbing import climb
from unkett.core.calc.gears import Gears, circumference, gear_table, overlapping, speed_at
from unkett.core.calc.steering import ToeRoom, toe_room
from unkett.core.errors import InputError
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import table as table_of
from unkett.core.vocabulary import describe

AXLES_LEVEL_MM = 10.0  # wheels that differ by more in radius do not count as equal
TYRE_AS_HIGH_AS_WIDE = "tyre height taken as its width: measure the roll-out for the real figure"


def wheel_radius(facts: Facts, end: str) -> float | None:
    """Outer radius of a wheel in mm, the tyre taken as high as wide; None where rim or tyre is not measured."""
    bsd, width = facts.first(bead_seat_from(end)), facts.first(tyre_width_from(end))
    return None if bsd is None or width is None else float(bsd / 2 + width)


USUAL_RATIOS = "ratios of a usual hub with {} gears: count the turns for the real ones"
NO_RATIOS = "the {} gears in the hub have their maker's ratios, which are not known: the table is ring on cog"


def toe_room_of(facts: Facts) -> ToeRoom | None:
    """Room between toe and front tyre with a usual shoe.

    None where a number of it is missing or makes no bike, and where the wheels differ: the axles are not level then.
    """
    wheelbase, stay, drop = (
        facts.get("frame", attr) for attr in ("wheelbase_mm", "chainstay_mm", "bb_drop_mm")
    )
    front, rear, crank = (
        wheel_radius(facts, "front"),
        wheel_radius(facts, "rear"),
        facts.get("crank", "arm_mm"),
    )
    if front is None or rear is None or abs(front - rear) > AXLES_LEVEL_MM:
        return None
    if wheelbase is None or stay is None or drop is None or crank is None:
        return None
    try:
        return toe_room(
            wheelbase_mm=wheelbase, chainstay_mm=stay, bb_drop_mm=drop, wheel_radius_mm=front, crank_mm=crank
        )
    except InputError:
        return None


@frozen(kw_only=True)
class GearFigures:
    """The gear table of a build, or what is missing for it."""

    gears: Gears | None
    missing: tuple[Missing, ...] = ()
    assumed: str = ""
    in_the_hub: int = 0  # gears inside the hub whose ratios are not known, so that they are not in the table

    @property
    def low_m(self) -> float | None:
        return self.gears.gears[0].development_m if self.gears else None

    @property
    def high_m(self) -> float | None:
        return self.gears.gears[-1].development_m if self.gears else None


def _hub_ratios(inside: int, read: tuple[float, ...] | None) -> tuple[tuple[float, ...], str]:
    """The ratios of the gears in a hub, and what is assumed of them: read, else those of a usual hub of that count."""
    if inside <= 1:
        return (), ""
    if read is not None and len(read) == inside:
        return tuple(read), ""
    usual = next((row["ratios"] for row in table_of("hub_ratios").rows if row["gears"] == inside), ())
    return tuple(usual), f"; {(USUAL_RATIOS if usual else NO_RATIOS).format(inside)}"


def gears_of(build: Build, cadence_rpm: float = 90.0) -> GearFigures:
    """Return the gears of a build from its rings, sprockets and rear tyre."""
    facts = Facts(build)
    rings, sprockets = facts.want("chainrings", "teeth"), facts.want("cassette", "teeth")
    bsd, width = facts.want_first(bead_seat_from("rear")), facts.want_first(tyre_width_from("rear"))
    if facts.missing:
        return GearFigures(gears=None, missing=tuple(facts.missing))
    roll_out = circumference(bsd_mm=bsd, tyre_mm=width)
    inside = facts.get("rear_hub", "internal_gears") or 0
    ratios, note = _hub_ratios(inside, facts.get("rear_hub", "ratios"))
    table = gear_table(
        chainrings=rings,
        sprockets=sprockets,
        circumference_mm=roll_out,
        crank_mm=facts.get("crank", "arm_mm"),
        cadence_rpm=cadence_rpm,
        first=TraceLine("circumference_mm", roll_out, "mm", f"π × ({bsd:g} + 2 × {width:g})"),
        hub_ratios=ratios,
    )
    return GearFigures(
        gears=table, assumed=f"{TYRE_AS_HIGH_AS_WIDE}{note}", in_the_hub=0 if ratios else inside
    )


@frozen(kw_only=True)
class ChainFigures:
    """The chain's window for a build, with what hangs on the bike, or what is missing for it.

    `school` is the workshop's: a chain is cut to the window's lower or its upper end.
    """

    school: str = "lower"
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
    def longest_mm(self) -> float:
        """Bracket to axle where the chain must reach furthest."""
        return self.chainstay_mm + self.growth_mm

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
        high = self.window.max_links
        wanted = max(low, high or low) if self.school == "upper" else low
        if has is None:
            return f"Cut a new chain to {wanted} links; count them, do not hang it against the worn one."
        if has % 2:
            return f"{has} links are an odd number, which no joined chain has: count them again."
        if has < low:
            return f"{low - has} links short: a new chain of at least {low} links. Do not lengthen this one."
        if has > max(low, high if high is not None else has):
            return f"Take {has - wanted} links out and keep them."
        return "Leave it as long as it is."


def chain_of(build: Build, settings: Settings = DEFAULTS) -> ChainFigures | None:
    """Return the chain's window of a build; None where no derailleur takes up slack."""
    facts, school = Facts(build), settings.school("chain_length_school")
    if "rear_derailleur" not in facts.filled:
        return None
    rings, sprockets = facts.want("chainrings", "teeth"), facts.want("cassette", "teeth")
    stay = facts.want("frame", "chainstay_mm")
    links = facts.get("chain", "links")
    ask = facts.want if is_sprung(facts.build) else facts.get
    growth = ask("frame", "chain_growth_mm")
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
        school=school,
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
        cadences_rpm=tuple(finding.cadence_rpm for finding in found),
    )


@frozen(kw_only=True)
class ChainlineFigures:
    """The lines of rings and sprockets of a build with the chain's angle in every gear."""

    seats: tuple[Seated, ...]  # where the rings may sit, the straightest first: that one is shown
    chainstay_mm: float
    spacing_mm: float

    @property
    def line(self) -> Chainline:
        return self.seats[0].line

    @property
    def fronts_mm(self) -> tuple[float, ...]:
        return self.seats[0].fronts_mm

    @property
    def angles(self) -> dict[tuple[int, int], float]:
        """Signed angle in degrees by ring and sprocket."""
        return {(angle.ring, angle.sprocket): angle.angle_deg for angle in self.line.angles}


def chainline_of(facts: Facts, *, note: bool = True) -> ChainlineFigures | None:
    """Chainline and angles where all they need is known; else None, and with `note` the facts name what is missing.

    Raises InputError where rings and lines differ in number or a figure is out of range.
    """
    ask = facts.want if note else facts.get
    line, rings, teeth = ask("crank", "chainline_mm"), ask("chainrings", "teeth"), ask("cassette", "teeth")
    spacing, stay = ask("rear_hub", "spacing_mm"), ask("frame", "chainstay_mm")
    if None in (line, rings, teeth, spacing, stay):
        return None
    pitch = facts.get("cassette", "pitches_mm")
    if pitch is None or len(pitch) != 1:
        ask("cassette", "sprocket_pitch_mm")
        return None
    seats = seated_chainlines(
        chainline_mm=line,
        crank_rings=facts.get("crank", "rings"),
        offsets_mm=facts.get("crank", "ring_offset_mm"),
        axle_kind=facts.get("rear_hub", "axle_kind"),
        spacing_mm=spacing,
        sprocket_pitch_mm=pitch[0],
        sprockets=teeth,
        chainrings=rings,
        chainstay_mm=stay,
        use=facts.get("bike", "use"),
    )
    return ChainlineFigures(seats=seats, chainstay_mm=stay, spacing_mm=spacing)


@frozen(kw_only=True)
class SetUp:
    """One set of gears to lay beside others: its name, its table and the chain's angle where it is known."""

    label: str
    state: str
    table: Gears
    angles: Mapping[tuple[int, int], float]

    @property
    def overlaps(self) -> tuple[bool, ...]:
        return overlapping(tuple(gear.development_m for gear in self.table.gears))

    def rows(self) -> list[dict[str, Any]]:
        """Every gear, low to high, with its step from the one below, its angle and whether it nearly repeats one."""
        steps = (None, *self.table.steps_pct)
        return [
            {
                "gear": gear,
                "step": step,
                "angle": self.angles.get((gear.ring, gear.sprocket)),
                "overlaps": near,
            }
            for gear, step, near in zip(self.table.gears, steps, self.overlaps, strict=True)
        ]


SETUPS_MOST = 4


def setup_of(build: Build, label: str, state: str) -> SetUp | None:
    """Return the gears of a build as a set-up; None where they cannot be worked out."""
    figures = gears_of(build)
    if figures.gears is None:
        return None
    try:
        lines = chainline_of(Facts(build), note=False)
    except InputError:
        lines = None
    return SetUp(label=label, state=state, table=figures.gears, angles=lines.angles if lines else {})


def with_gears(build: Build, rings: tuple[int, ...], sprockets: tuple[int, ...]) -> Build:
    """Return the build with other rings and sprockets, to lay their gears beside its own. Raises InputError as the
    parts would.
    """
    for slot, teeth in (("chainrings", rings), ("cassette", sprockets)):
        part = build.filled().get(slot)
        attrs = {**(part.attrs if part else {}), "teeth": describe(slot, "teeth").type.check(teeth, slot)}
        attrs = {name: value for name, value in attrs.items() if name not in ("speeds", "sprocket_pitch_mm")}
        if slot == "cassette":
            attrs["speeds"] = len(sprockets)
        build = build.with_part(slot, Part(kind=slot, attrs=attrs))
    return build


TOP_CADENCE_RPM = 100.0


def top_speed(table: Gears, cadence_rpm: float) -> float:
    """Speed in km/h in the highest gear at a cadence."""
    return speed_at(development_m=table.gears[-1].development_m, cadence_rpm=cadence_rpm)
