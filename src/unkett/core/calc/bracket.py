"""Chainline and chain angle; spacers between bracket and crank."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH, LINK_PITCH, OFFSETS, RINGS, SPROCKETS
from unkett.core.errors import bad
from unkett.core.standards import SLACK, table
from unkett.core.vocabulary.types import ListOf, Number, Whole

RING_SPACING_MM = 7.0
FIRST_SPROCKET_MM = 4.5
FIRST_SPROCKET_THRU_MM = 8.0  # 12 mm thru axles of 142 and up: their faces stand 3.5 mm further out


def first_sprocket(*, axle_kind: str | None, spacing_mm: float) -> float:
    """Right locknut face to the smallest sprocket's plane, in mm."""
    return FIRST_SPROCKET_THRU_MM if axle_kind == "thru" and spacing_mm >= 142 else FIRST_SPROCKET_MM


def ring_lines(*, chainline_mm: float, rings: int, offsets_mm: tuple[float, ...] | None) -> tuple[float, ...]:
    """Each ring's distance from the centre plane in mm; without stated offsets they stand 7 mm apart."""
    if offsets_mm is not None and len(offsets_mm) >= rings:
        return tuple(chainline_mm + offset for offset in offsets_mm[:rings])
    return tuple(chainline_mm + ((rings - 1) / 2 - place) * RING_SPACING_MM for place in range(rings))


@frozen(kw_only=True)
class ChainAngle:
    """One pair of ring and sprocket; positive when the ring is further out."""

    ring: int = figure("", "Ring")
    sprocket: int = figure("", "Sprocket")
    offset_mm: float = figure("mm", "Offset")
    angle_deg: float = figure("°", "Angle")


@frozen(kw_only=True)
class Chainline(Result):
    rear_mm: tuple[float, ...] = figure("mm", "Sprockets from the centre plane")
    angles: tuple[ChainAngle, ...] = figure("", "Chain angles")


def worst_in_use(angles: tuple[ChainAngle, ...]) -> ChainAngle:
    """The largest chain angle among the gears in use: with several rings big/big and small/small are ridden
    by nobody.
    """
    rings, cogs = {angle.ring for angle in angles}, {angle.sprocket for angle in angles}
    crossed = (
        {(max(rings), max(cogs)), (min(rings), min(cogs))} if len(rings) > 1 and len(cogs) > 1 else set()
    )
    return max(
        (angle for angle in angles if (angle.ring, angle.sprocket) not in crossed),
        key=lambda angle: abs(angle.angle_deg),
    )


@calculation(
    "chainline",
    title="Chainline",
    says="Lines of the sprockets and the chain's angle in every gear.",
    inputs=(
        Input(
            name="front_mm",
            title="Rings from the centre plane",
            type=OFFSETS,
            says="Each ring's distance from the centre plane, rings as given.",
        ),
        Input(
            name="spacing_mm",
            title="Rear spacing",
            type=Number(unit="mm", low=80.0, high=250.0),
            says="Rear hub over locknuts.",
        ),
        Input(
            name="locknut_to_first_mm",
            title="Locknut to smallest sprocket",
            type=Number(unit="mm", low=0.0, high=30.0),
            says="Right locknut face to the smallest sprocket; 8.0 for 12 mm thru axles of 142 and up.",
            optional=True,
            default=4.5,
        ),
        Input(
            name="sprocket_pitch_mm",
            title="Sprocket pitch",
            type=LINK_PITCH,
            says="Centre to centre of neighbouring sprockets.",
        ),
        Input(name="sprockets", title="Sprockets", type=SPROCKETS, says="Teeth, smallest first."),
        Input(name="chainrings", title="Chainrings", type=RINGS, says="Teeth, one per front line."),
        Input(
            name="chainstay_mm",
            title="Chainstay",
            type=Number(unit="mm", low=100.0, high=3500.0),
            says="Bracket to axle.",
        ),
    ),
    source="rear line = spacing/2 − e − (k − 1) × pitch; angle = atan(offset / stay)",
)
def chainline(
    *,
    front_mm: tuple[float, ...],
    spacing_mm: float,
    locknut_to_first_mm: float = 4.5,
    sprocket_pitch_mm: float,
    sprockets: tuple[int, ...],
    chainrings: tuple[int, ...],
    chainstay_mm: float,
) -> Chainline:
    """Rings as given, within each the sprockets as given. Raises InputError where lines and rings differ in number."""
    if len(front_mm) != len(chainrings):
        raise bad("front_mm", f"{len(front_mm)} lines for {len(chainrings)} rings; one per ring is wanted")
    first = spacing_mm / 2 - locknut_to_first_mm
    rear = tuple(first - k * sprocket_pitch_mm for k in range(len(sprockets)))
    angles = tuple(
        ChainAngle(
            ring=ring,
            sprocket=sprocket,
            offset_mm=front - line,
            angle_deg=math.degrees(math.atan((front - line) / chainstay_mm)),
        )
        for ring, front in zip(chainrings, front_mm, strict=True)
        for sprocket, line in zip(sprockets, rear, strict=True)
    )
    worst = max(angles, key=lambda angle: abs(angle.angle_deg))
    return Chainline(
        rear_mm=rear,
        angles=angles,
        trace=(
            TraceLine("first_sprocket_mm", first, "mm", f"{spacing_mm:g} / 2 − {locknut_to_first_mm:g}"),
            TraceLine("last_sprocket_mm", rear[-1], "mm", f"first − {len(rear) - 1} × {sprocket_pitch_mm:g}"),
            TraceLine(
                "worst_offset_mm", worst.offset_mm, "mm", f"ring {worst.ring} less sprocket {worst.sprocket}"
            ),
            TraceLine("worst_angle_deg", worst.angle_deg, "°", f"atan(offset / {chainstay_mm:g})"),
        ),
    )


SEATS: dict[int, tuple[str, ...]] = {2: ("outer", "inner"), 3: ("outer", "middle", "inner")}


@frozen(kw_only=True)
class Seated:
    """The rings in one place: the seat of a lone ring on a crank for more (else nothing), lines and
    largest angle in use.

    `judged_deg` is the figure by which seats are compared: the largest angle, those of the fast gears
    doubled where the bike is ridden in them.
    """

    seat: str = figure("", "Seat")
    fronts_mm: tuple[float, ...] = figure("mm", "Fronts")
    line: Chainline = figure("", "Line")
    worst: ChainAngle = figure("", "Worst")
    judged_deg: float = figure("°", "Judged")


FAST_USES = ("road", "time_trial", "triathlon", "track")


def _judged(line: Chainline, sprockets: tuple[int, ...], use: str | None) -> float:
    """The largest angle in degrees; on fast bikes the smaller half of the sprockets, the middle one with
    it, counts twice.
    """
    fast = set(sorted(sprockets)[: (len(sprockets) + 1) // 2]) if use in FAST_USES else set()
    return max(abs(angle.angle_deg) * (2 if angle.sprocket in fast else 1) for angle in line.angles)


def _seats(
    chainline_mm: float, rings: int, crank_rings: int | None, offsets_mm: tuple[float, ...] | None
) -> dict[str, tuple[float, ...]]:
    """The ways the rings may sit; a stated offset for the lone ring alone says where it sits."""
    if rings == 1 and crank_rings in SEATS and (offsets_mm is None or len(offsets_mm) == crank_rings):
        lines = ring_lines(chainline_mm=chainline_mm, rings=crank_rings or 1, offsets_mm=offsets_mm)
        return {seat: (line,) for seat, line in zip(SEATS[crank_rings or 1], lines, strict=True)}
    return {"": ring_lines(chainline_mm=chainline_mm, rings=rings, offsets_mm=offsets_mm)}


def seated_chainlines(
    *,
    chainline_mm: float,
    crank_rings: int | None,
    offsets_mm: tuple[float, ...] | None,
    axle_kind: str | None,
    spacing_mm: float,
    sprocket_pitch_mm: float,
    sprockets: tuple[int, ...],
    chainrings: tuple[int, ...],
    chainstay_mm: float,
    use: str | None = None,
) -> tuple[Seated, ...]:
    """The chainline for every way the rings may sit, straightest among the gears ridden first.

    Raises InputError as `chainline` does.
    """
    found = []
    for seat, fronts in _seats(chainline_mm, len(chainrings), crank_rings, offsets_mm).items():
        line = chainline(
            front_mm=fronts,
            spacing_mm=spacing_mm,
            locknut_to_first_mm=first_sprocket(axle_kind=axle_kind, spacing_mm=spacing_mm),
            sprocket_pitch_mm=sprocket_pitch_mm,
            sprockets=sprockets,
            chainrings=chainrings,
            chainstay_mm=chainstay_mm,
        )
        found.append(
            Seated(
                seat=seat,
                fronts_mm=fronts,
                line=line,
                worst=worst_in_use(line.angles),
                judged_deg=_judged(line, sprockets, use),
            )
        )
    return tuple(sorted(found, key=lambda finding: finding.judged_deg))


@frozen(kw_only=True)
class CrankSpacing(Result):
    gap_mm: float = figure("mm", "Gap")
    spacers_mm: float = figure("mm", "Spacers in all")
    fits: bool = figure("", "Fits")


@calculation(
    "crank_spacing",
    title="Crank spacing",
    page="bracket",
    says="Spacers between bracket and crank: what the spindle wants, less what is there.",
    inputs=(
        Input(
            name="spindle_needs_mm",
            title="Arms want between them",
            known=(("crank", "spindle_needs_mm"),),
            type=LENGTH,
            says="Width the arms want between them.",
        ),
        Input(
            name="shell_mm",
            title="Shell width",
            known=(("frame", "bb_shell_width_mm"),),
            type=LENGTH,
            says="Width of the shell.",
        ),
        Input(
            name="flanges_mm",
            title="Cups outside the shell",
            known=(("bottom_bracket", "flanges_mm"),),
            type=LENGTH,
            says="Both cups outside the shell together.",
        ),
        Input(
            name="range_mm",
            title="Preload range",
            known=(("crank", "preload_range_mm"),),
            type=LENGTH,
            says="What the preload ring or washer takes up.",
        ),
    ),
    source="gap = needs − shell − flanges; spacers = gap − range / 2 outside the range",
)
def crank_spacing(
    *, spindle_needs_mm: float, shell_mm: float, flanges_mm: float, range_mm: float
) -> CrankSpacing:
    """A gap below 0 squeezes the bearings: it does not fit. Within the range no spacer is wanted."""
    gap = spindle_needs_mm - shell_mm - flanges_mm
    fits = gap >= -SLACK
    spacers = gap - range_mm / 2 if gap > range_mm + SLACK else 0.0
    return CrankSpacing(
        gap_mm=gap,
        spacers_mm=spacers,
        fits=fits,
        trace=(
            TraceLine("gap_mm", gap, "mm", f"{spindle_needs_mm:g} − {shell_mm:g} − {flanges_mm:g}"),
            TraceLine("spacers_mm", spacers, "mm", f"gap − {range_mm:g} / 2 where the gap exceeds the range"),
        ),
    )


@frozen(kw_only=True)
class CrankCentring(Result):
    drive_spacer_mm: float = figure("mm", "Drive side wants")
    non_drive_spacer_mm: float = figure("mm", "Other side wants")
    drive_pieces: tuple[float, ...] = figure("", "Drive side, from stock")
    non_drive_pieces: tuple[float, ...] = figure("", "Other side, from stock")
    left_over_mm: float = figure("mm", "Play left")
    arms_mm: tuple[float, float] = figure("mm", "Arms then, drive and other")
    off_centre_mm: float = figure("mm", "Still off centre, towards the other side")


MICRON = 1000  # sums of spacers are counted in whole thousandths of a millimetre


def _sums(stock_mm: tuple[float, ...], most_mm: float) -> dict[int, tuple[float, ...]]:
    """Every sum of stock sizes up to a length, in thousandths, with its fewest pieces."""
    best: dict[int, tuple[float, ...]] = {0: ()}
    most = math.floor(most_mm * MICRON + 1e-6)
    sizes = sorted({round(size * MICRON) for size in stock_mm if size > 0}, reverse=True)
    reached = [0]
    while reached:
        fresh = []
        for total in reached:
            for size in sizes:
                grown = total + size
                if grown <= most and grown not in best:
                    best[grown] = tuple(sorted((*best[total], size / MICRON), reverse=True))
                    fresh.append(grown)
        reached = fresh
    return best


@calculation(
    "crank_centring",
    title="Crank centring",
    page="bracket",
    says="Spacers that centre the crank, exact and from the sizes in stock.",
    inputs=(
        Input(
            name="drive_mm",
            title="Drive arm to frame centre",
            type=LENGTH,
            says="Arm to frame centre, drive side, arm home on its bearing.",
        ),
        Input(
            name="non_drive_mm",
            title="Other arm to frame centre",
            type=LENGTH,
            says="The same on the other side.",
        ),
        Input(
            name="free_mm",
            title="Free play",
            type=Number(unit="mm", low=0.0, high=50.0),
            says="Free play, all on the other side.",
        ),
        Input(
            name="stock_mm",
            title="Spacers in stock",
            usual=(0.5, 0.7, 1.0, 1.8, 2.0, 2.5),
            type=ListOf(item=Number(unit="mm", low=0.1, high=20.0)),
            says="Spacer sizes in stock, any number of each.",
            optional=True,
        ),
        Input(
            name="ring_range_mm",
            title="Preload ring takes up",
            type=Number(unit="mm", low=0.0, high=20.0),
            says="What the preload ring takes up.",
            optional=True,
            default=0.0,
        ),
    ),
    source="a spacer behind the drive cup moves the whole crank by its size",
)
def crank_centring(
    *,
    drive_mm: float,
    non_drive_mm: float,
    free_mm: float,
    stock_mm: tuple[float, ...] | None = None,
    ring_range_mm: float = 0.0,
) -> CrankCentring:
    """Exact: (n − d)/2 within 0 and the play on the drive side, the rest on the other.

    From stock: on the drive side the sum nearest to it within the play (ties: fewer pieces, then
    smaller); on the other side the fewest pieces that leave what the ring takes up, else the largest
    sum that fits.
    """
    exact = min(max((non_drive_mm - drive_mm) / 2, 0.0), free_mm)
    sums = _sums(stock_mm or (), free_mm)
    drive = min(sums, key=lambda item: (round(abs(item - exact * MICRON), 3), len(sums[item]), item))
    rest = free_mm - drive / MICRON
    others = {total: pieces for total, pieces in sums.items() if total <= rest * MICRON + 1e-6}
    taken = [total for total in others if rest - total / MICRON <= ring_range_mm + SLACK]
    if taken:
        other = min(taken, key=lambda item: (len(others[item]), -item))
    else:
        other = max(others)
    left = rest - other / MICRON
    arms = (drive_mm + drive / MICRON, non_drive_mm - drive / MICRON)
    off_centre = (arms[1] - arms[0]) / 2
    return CrankCentring(
        drive_spacer_mm=exact,
        non_drive_spacer_mm=free_mm - exact,
        drive_pieces=sums[drive],
        non_drive_pieces=others[other],
        left_over_mm=max(0.0, left),
        arms_mm=arms,
        off_centre_mm=off_centre,
        trace=(
            TraceLine(
                "drive_spacer_mm",
                exact,
                "mm",
                f"({non_drive_mm:g} − {drive_mm:g}) / 2, within 0 and {free_mm:g}",
            ),
            TraceLine("non_drive_spacer_mm", free_mm - exact, "mm", f"{free_mm:g} − drive spacer"),
            TraceLine("drive_pieces_mm", drive / MICRON, "mm", "nearest sum from stock"),
            TraceLine("left_over_mm", max(0.0, left), "mm", "play left after the pieces of both sides"),
            TraceLine(
                "off_centre_mm",
                off_centre,
                "mm",
                f"({arms[1]:g} − {arms[0]:g}) / 2; below 0 towards the drive side; only 0 is centred",
            ),
        ),
    )


@frozen(kw_only=True)
class BoltCircle(Result):
    bcd_mm: float = figure("mm", "Bolt circle")


@calculation(
    "bcd",
    title="Bolt circle",
    says="Bolt circle from the distance of two neighbouring bolts.",
    inputs=(
        Input(
            name="neighbour_mm",
            title="Bolt to its neighbour",
            type=Number(unit="mm", low=1.0, high=300.0),
            says="Centre to centre.",
        ),
        Input(name="bolts", title="Bolts", type=Whole(low=3, high=12), says="How many bolts."),
    ),
    source="BCD = c / sin(π / n)",
)
def bcd(*, neighbour_mm: float, bolts: int) -> BoltCircle:
    """Bolt circle diameter in mm of evenly spaced bolts."""
    circle = neighbour_mm / math.sin(math.pi / bolts)
    return BoltCircle(
        bcd_mm=circle, trace=(TraceLine("bcd_mm", circle, "mm", f"{neighbour_mm:g} / sin(π / {bolts})"),)
    )


@frozen(kw_only=True)
class SpindleChoice(Result):
    spindle_mm: float = figure("mm", "Spindle wanted")
    choose_mm: float = figure("mm", "Nearest in stock")
    chainline_mm: float = figure("mm", "Chainline then")
    off_mm: float = figure("mm", "Off by")


@calculation(
    "spindle_choice",
    title="Spindle choice",
    page="bracket",
    says="The cartridge spindle that brings the chainline wanted.",
    inputs=(
        Input(
            name="spindle_now_mm",
            title="Spindle now",
            known=(("bottom_bracket", "spindle_length_mm"),),
            type=Number(unit="mm", low=80.0, high=200.0),
            says="Spindle that is in.",
        ),
        Input(
            name="chainline_now_mm",
            title="Chainline now",
            known=(("crank", "chainline_mm"),),
            type=Number(unit="mm", low=20.0, high=90.0),
            says="Chainline measured with it.",
        ),
        Input(
            name="chainline_wanted_mm",
            title="Chainline wanted",
            known=(("frame", "chainline_mm"),),
            type=Number(unit="mm", low=20.0, high=90.0),
            says="Chainline wanted.",
        ),
        Input(
            name="stock_mm",
            title="Spindles in stock",
            type=ListOf(item=Number(unit="mm", low=80.0, high=200.0)),
            says="Spindle lengths to be had; the usual ones where none are typed.",
            optional=True,
        ),
    ),
    source="1 mm of chainline is 2 mm of a symmetrical spindle",
)
def spindle_choice(
    *,
    spindle_now_mm: float,
    chainline_now_mm: float,
    chainline_wanted_mm: float,
    stock_mm: tuple[float, ...] | None = None,
) -> SpindleChoice:
    """Symmetrical spindles only. The nearest length; of two equally near the longer, which clears the stay.

    `off_mm` is the chainline it gives less the one wanted.
    """
    usual = tuple(row["length_mm"] for row in table("cartridge_spindles").rows)
    exact = spindle_now_mm + 2 * (chainline_wanted_mm - chainline_now_mm)
    chosen = min(stock_mm or usual, key=lambda item: (round(abs(item - exact), 6), -item))
    line = chainline_now_mm + (chosen - spindle_now_mm) / 2
    return SpindleChoice(
        spindle_mm=exact,
        choose_mm=chosen,
        chainline_mm=line,
        off_mm=line - chainline_wanted_mm,
        trace=(
            TraceLine(
                "spindle_mm",
                exact,
                "mm",
                f"{spindle_now_mm:g} + 2 × ({chainline_wanted_mm:g} − {chainline_now_mm:g})",
            ),
            TraceLine("choose_mm", chosen, "mm", "nearest length to be had"),
            TraceLine(
                "chainline_mm", line, "mm", f"{chainline_now_mm:g} + ({chosen:g} − {spindle_now_mm:g}) / 2"
            ),
        ),
    )


@frozen(kw_only=True)
class GuideShims(Result):
    shims: int = figure("", "Shims")
    left_over_mm: float = figure("mm", "Still off")


@calculation(
    "guide_shims",
    title="Guide shims",
    page="bracket",
    says="How many shims bring a chain guide in line with the ring.",
    inputs=(
        Input(
            name="gap_mm",
            title="Gap to close",
            type=Number(unit="mm", low=0.0, high=50.0),
            says="From the guide as it stands to where it belongs.",
        ),
        Input(
            name="shim_mm",
            title="Thickness of a shim",
            type=Number(unit="mm", low=0.05, high=10.0),
            says="Thickness of a shim.",
            optional=True,
            default=0.5,
        ),
    ),
    source="gap / shim to the nearest whole, a tie to fewer",
)
def guide_shims(*, gap_mm: float, shim_mm: float = 0.5) -> GuideShims:
    """`left_over_mm` is the gap less the shims: negative where they stand out too far."""
    shims = max(0, math.ceil(gap_mm / shim_mm - 0.5 - SLACK))
    left = gap_mm - shims * shim_mm
    return GuideShims(
        shims=shims,
        left_over_mm=left,
        trace=(
            TraceLine("shims", shims, "", f"round({gap_mm:g} / {shim_mm:g}), a tie to fewer"),
            TraceLine("left_over_mm", left, "mm", f"{gap_mm:g} − shims × {shim_mm:g}"),
        ),
    )
