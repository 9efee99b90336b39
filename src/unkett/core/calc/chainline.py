"""Chainline and chain angle."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LINK_PITCH, OFFSETS, RINGS, SPROCKETS
from unkett.core.errors import bad
from unkett.core.vocabulary.types import Number

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
    """Return the largest chain angle among the gears in use: with several rings big/big and small/small are ridden
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
    formula="rear line = spacing/2 − e − (k − 1) × pitch; angle = atan(offset / stay)",
    sources=("chainline-geometry",),
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
    """Return the largest angle in degrees; on fast bikes the smaller half of the sprockets, the middle one with
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
