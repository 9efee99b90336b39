"""Chainline and chain angle; spacers between bracket and crank."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import SLACK, Input, Result, Step, calculation
from unkett.core.calc.fields import LENGTH, LINK_PITCH, OFFSETS, RINGS, SPROCKETS
from unkett.core.errors import bad
from unkett.core.vocabulary.types import Number


@frozen(kw_only=True)
class ChainAngle:
    """One pair of ring and sprocket; positive when the ring is further out."""

    ring: int
    sprocket: int
    offset_mm: float
    angle_deg: float


@frozen(kw_only=True)
class Chainline(Result):
    rear_mm: tuple[float, ...]
    angles: tuple[ChainAngle, ...]


@calculation(
    "chainline",
    says="Lines of the sprockets and the chain's angle in every gear.",
    inputs=(
        Input(
            name="front_mm", type=OFFSETS, says="Each ring's distance from the centre plane, rings as given."
        ),
        Input(
            name="spacing_mm", type=Number(unit="mm", low=80.0, high=250.0), says="Rear hub over locknuts."
        ),
        Input(
            name="locknut_to_first_mm",
            type=Number(unit="mm", low=0.0, high=30.0),
            says="Right locknut face to the smallest sprocket; 8.0 for 12 mm thru axles of 142 and up.",
            optional=True,
            default=4.5,
        ),
        Input(name="sprocket_pitch_mm", type=LINK_PITCH, says="Centre to centre of neighbouring sprockets."),
        Input(name="sprockets", type=SPROCKETS, says="Teeth, smallest first."),
        Input(name="chainrings", type=RINGS, says="Teeth, one per front line."),
        Input(name="chainstay_mm", type=Number(unit="mm", low=100.0, high=3500.0), says="Bracket to axle."),
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
    worst = max(angles, key=lambda one: abs(one.angle_deg))
    return Chainline(
        rear_mm=rear,
        angles=angles,
        trace=(
            Step("first_sprocket_mm", first, "mm", f"{spacing_mm:g} / 2 − {locknut_to_first_mm:g}"),
            Step("last_sprocket_mm", rear[-1], "mm", f"first − {len(rear) - 1} × {sprocket_pitch_mm:g}"),
            Step(
                "worst_offset_mm", worst.offset_mm, "mm", f"ring {worst.ring} less sprocket {worst.sprocket}"
            ),
            Step("worst_angle_deg", worst.angle_deg, "°", f"atan(offset / {chainstay_mm:g})"),
        ),
    )


@frozen(kw_only=True)
class CrankSpacing(Result):
    gap_mm: float
    spacers_mm: float
    fits: bool


@calculation(
    "crank_spacing",
    says="Spacers between bracket and crank: what the spindle wants, less what is there.",
    inputs=(
        Input(name="spindle_needs_mm", type=LENGTH, says="Width the arms want between them."),
        Input(name="shell_mm", type=LENGTH, says="Width of the shell."),
        Input(name="flanges_mm", type=LENGTH, says="Both cups outside the shell together."),
        Input(name="range_mm", type=LENGTH, says="What the preload ring or washer takes up."),
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
            Step("gap_mm", gap, "mm", f"{spindle_needs_mm:g} − {shell_mm:g} − {flanges_mm:g}"),
            Step("spacers_mm", spacers, "mm", f"gap − {range_mm:g} / 2 where the gap exceeds the range"),
        ),
    )
