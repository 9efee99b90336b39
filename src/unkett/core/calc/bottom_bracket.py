"""Bottom bracket: width and spacers, centring, spindles, bolt circles, guide shims."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH
from unkett.core.standards import SLACK, table
from unkett.core.vocabulary.types import ListOf, Number, Whole


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
    formula="gap = needs − shell − flanges; spacers = gap − range / 2 outside the range",
    sources=("bracket-shells",),
)
def crank_spacing(
    *, spindle_needs_mm: float, shell_mm: float, flanges_mm: float, range_mm: float
) -> CrankSpacing:
    """Return a gap below 0 squeezes the bearings: it does not fit. Within the range no spacer is wanted."""
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
    """Return every sum of stock sizes up to a length, in thousandths, with its fewest pieces."""
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
    formula="a spacer behind the drive cup moves the whole crank by its size",
    sources=("bracket-shells",),
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
    formula="BCD = c / sin(π / n)",
    sources=("bolt-circles",),
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
    formula="1 mm of chainline is 2 mm of a symmetrical spindle",
    sources=("chainline-geometry",),
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
    formula="gap / shim to the nearest whole, a tie to fewer",
    sources=("chainline-geometry",),
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
