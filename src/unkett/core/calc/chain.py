"""Chain length as a window: never shorter than big/big allows, never longer than the cage can tension."""

from __future__ import annotations

import functools
import math

from attrs import frozen

from unkett.core.build import Build
from unkett.core.calc.base import (
    Input,
    Result,
    TraceLine,
    Values,
    calculation,
    ceil_slack,
    figure,
    floor_slack,
)
from unkett.core.calc.fields import CASSETTE, CHAINRINGS, LENGTH, RING, SPROCKET
from unkett.core.calc.gears import CHAIN_PITCH_MM, MM_PER_INCH, capacity, pitch_radius
from unkett.core.errors import bad
from unkett.core.scene import Box, Circle, Scene, Shape, Text, dimension
from unkett.core.standards import SLACK, table
from unkett.core.vocabulary.types import Bool, Number, Whole

TEETH_PER_PAIR = 4  # one tooth of capacity takes up half a link, so four teeth take up one pair


@frozen(kw_only=True)
class ChainLength(Result):
    big_big_mm: float = figure("mm", "Round largest ring and sprocket")
    small_small_mm: float = figure("mm", "Round smallest ring and sprocket")
    min_links: int = figure("links", "Lower end")
    max_links: int | None = figure("links", "Upper end")
    links: int | None = figure("links", "Recommended length")
    simple_formula_links: int = figure("links", "Simple formula")
    window_empty: bool = figure("", "No length serves both ends")


def belt_length(*, centre_mm: float, ring: int, sprocket: int) -> float:
    """Length in mm of a straight-line belt round two chain wheels; centre ≥ the sum of their radii."""
    large, small = sorted((pitch_radius(ring), pitch_radius(sprocket)), reverse=True)
    step = large - small
    angle = math.asin(step / centre_mm)
    straight = math.sqrt(centre_mm**2 - step**2)
    return 2 * straight + large * (math.pi + 2 * angle) + small * (math.pi - 2 * angle)


def sprung_rear(*, shock: bool, wheel_travel_mm: float | None, shock_stroke_mm: float | None) -> bool:
    """Whether the rear wheel has travel of its own, by a shock or by the frame's figures, so that its stay may grow."""
    return shock or bool(wheel_travel_mm) or bool(shock_stroke_mm)


def is_sprung(bike: Build) -> bool:
    """Return whether a bike's rear wheel has travel of its own, as far as its parts say."""
    parts = bike.filled()
    frame = parts["frame"].attrs if "frame" in parts else {}
    return sprung_rear(
        shock="shock" in parts,
        wheel_travel_mm=frame.get("wheel_travel_mm"),
        shock_stroke_mm=frame.get("shock_stroke_mm"),
    )


def even_at_or_above(links: float) -> int:
    """Return the next even number of links at or above a length in links."""
    return 2 * ceil_slack(links / 2)


def lower_end(big_big_mm: float, extra_links: int) -> int:
    """Return the shortest chain in links: big/big to the next even number, and the extra links."""
    return even_at_or_above(big_big_mm / CHAIN_PITCH_MM) + extra_links


def simple_formula_links(*, chainstay_mm: float, ring: int, sprocket: int) -> int:
    """Return the old workshop formula, 2·C + F/4 + R/4 + 1 in inches, rounded up to a whole inch, in links."""
    inches = 2 * chainstay_mm / MM_PER_INCH + ring / 4 + sprocket / 4 + 1
    return 2 * ceil_slack(inches)


@calculation(
    "chain_length",
    title="Chain length",
    says="The window of chain lengths: lower end from big/big, upper end from what the cage takes up.",
    inputs=(
        Input(
            name="chainstay_mm",
            title="Chainstay",
            known=(("frame", "chainstay_mm"),),
            type=LENGTH,
            says="Bracket centre to axle centre.",
        ),
        CHAINRINGS,
        CASSETTE,
        Input(
            name="capacity_teeth",
            title="Cage capacity",
            known=(("rear_derailleur", "capacity_teeth"),),
            type=Whole(unit="teeth", low=0, high=90),
            says="The derailleur's capacity; without it there is no upper end.",
            optional=True,
        ),
        Input(
            name="extra_links",
            title="Extra links",
            known=(("rear_derailleur", "extra_links"),),
            type=Whole(unit="links", low=2, high=20, even=True),
            says="Links over big/big; wide-range single-ring makers ask for more.",
            optional=True,
            default=2,
        ),
        Input(
            name="growth_mm",
            title="Stay grows with travel",
            known=(("frame", "chain_growth_mm"),),
            type=Number(unit="mm", low=0.0, high=200.0),
            says="How much the distance bracket to axle grows with rear suspension.",
            optional=True,
            default=0.0,
            wanted="A sprung rear: measure how far the stay grows over the travel; 0 where it does not.",
            wanted_of=is_sprung,
        ),
    ),
    formula="belt round two wheels, 12.7 mm pitch (ISO 9633)",
    sources=("belt-geometry", "chain-iso"),
)
def chain_length(
    *,
    chainstay_mm: float,
    chainrings: tuple[int, ...],
    sprockets: tuple[int, ...],
    capacity_teeth: int | None = None,
    extra_links: int = 2,
    growth_mm: float = 0.0,
) -> ChainLength:
    """Lower end: big/big at stay + growth, up to the next even number, plus the extra links.

    Upper end: lower end + 2·floor((capacity − needed)/4). The window is empty where the capacity
    is under what is needed; then no length is recommended. Raises InputError naming chainstay_mm
    where the wheels would overlap.
    """
    ring, cog = max(chainrings), max(sprockets)
    radii = pitch_radius(ring) + pitch_radius(cog)
    if chainstay_mm <= radii:
        says = f"{chainstay_mm:g} mm is too short: ring {ring} and sprocket {cog} alone need {radii:.1f} mm"
        raise bad("chainstay_mm", says)
    longest = chainstay_mm + growth_mm
    big = belt_length(centre_mm=longest, ring=ring, sprocket=cog)
    small = belt_length(centre_mm=chainstay_mm, ring=min(chainrings), sprocket=min(sprockets))
    low = lower_end(big, extra_links)
    needed = capacity(chainrings=chainrings, sprockets=sprockets).needed_teeth
    high = None
    empty = False
    trace = [
        TraceLine("big_big_mm", big, "mm", f"belt round {ring} and {cog} teeth at {longest:g} mm"),
        TraceLine("big_big_links", big / CHAIN_PITCH_MM, "links", "big/big ÷ 12.7"),
        TraceLine("min_links", low, "links", f"next even number, plus {extra_links}"),
        TraceLine("small_small_mm", small, "mm", f"belt round {min(chainrings)} and {min(sprockets)} teeth"),
        TraceLine("needed_teeth", needed, "teeth", "ring difference + sprocket difference"),
    ]
    if capacity_teeth is not None:
        empty = capacity_teeth < needed
        high = low + 2 * math.floor((capacity_teeth - needed) / TEETH_PER_PAIR + SLACK)
        formula = f"{low} + 2 × floor(({capacity_teeth} − {needed}) / 4)"
        trace.append(TraceLine("max_links", high, "links", formula))
    return ChainLength(
        big_big_mm=big,
        small_small_mm=small,
        min_links=low,
        max_links=high,
        links=None if empty else low,
        simple_formula_links=simple_formula_links(chainstay_mm=chainstay_mm, ring=ring, sprocket=cog),
        window_empty=empty,
        trace=tuple(trace),
    )


@frozen(kw_only=True)
class ChainOption:
    """A number of links and the centre distance at which it is just tight."""

    links: int = figure("links", "Links")
    centre_mm: float = figure("mm", "Centre")


@frozen(kw_only=True)
class SingleSpeedChain(Result):
    options: tuple[ChainOption, ...] = figure("", "Options")


def centre_for(*, links: int, ring: int, sprocket: int, low_mm: float, high_mm: float) -> float:
    """Centre distance in mm at which a belt of so many links is tight; it must lie within low and high."""
    wanted = links * CHAIN_PITCH_MM
    for _ in range(200):
        middle = (low_mm + high_mm) / 2
        if middle in (low_mm, high_mm):
            break
        if belt_length(centre_mm=middle, ring=ring, sprocket=sprocket) < wanted:
            low_mm = middle
        else:
            high_mm = middle
    return (low_mm + high_mm) / 2


def _options(inputs: Values, answer: Values) -> Scene | None:
    """Return where the axle stands in the dropout for each number of links."""
    options, low, high = answer["options"], inputs["centre_mm_min"], inputs["centre_mm_max"]
    if not options or high <= low:
        return None
    left, span = 40.0, 420.0

    def x(centre: float) -> float:
        return left + float((centre - low) / (high - low)) * span

    shapes: list[Shape] = [Box(corner=(left, 50), width=span, height=14, role="part-other", title="dropout")]
    for option in options:
        shapes.append(Circle(centre=(x(option["centre_mm"]), 57), radius=6, role="axle"))
        shapes.append(Text(at=(x(option["centre_mm"]), 40), text=str(option["links"]), role="end-number"))
    shapes += dimension((left, 96), (left + span, 96), f"bracket to axle {low:g} to {high:g}")
    says = "; ".join(f"{option['links']} links at {option['centre_mm']:.1f} mm" for option in options)
    return Scene(width=500, height=112, title="Axle in the dropout", says=says + ".", shapes=tuple(shapes))


@calculation(
    "single_speed_chain",
    title="Single speed chain",
    page="chain",
    says="Every chain that a single-speed's dropout or eccentric can tension, with its axle position.",
    inputs=(
        Input(
            name="centre_mm_min",
            title="Bracket to axle, shortest",
            type=LENGTH,
            says="Shortest distance bracket to axle.",
        ),
        Input(
            name="centre_mm_max",
            title="Bracket to axle, longest",
            type=LENGTH,
            says="Longest distance bracket to axle.",
        ),
        Input(
            name="ring", title="Ring", known=(("chainrings", "teeth"),), type=RING, says="Teeth of the ring."
        ),
        Input(
            name="sprocket",
            title="Sprocket",
            known=(("cassette", "teeth"),),
            type=SPROCKET,
            says="Teeth of the sprocket.",
        ),
        Input(
            name="half_link",
            title="Half link",
            type=Bool(),
            says="Odd numbers too.",
            optional=True,
            default=False,
        ),
    ),
    picture=_options,
    formula="belt round two wheels, solved for the distance",
    sources=("belt-geometry", "chain-iso"),
)
def single_speed_chain(
    *, centre_mm_min: float, centre_mm_max: float, ring: int, sprocket: int, half_link: bool = False
) -> SingleSpeedChain:
    """Ascending, both ends included. Raises InputError where the wheels would overlap or the ends are swapped."""
    radii = pitch_radius(ring) + pitch_radius(sprocket)
    if centre_mm_min <= radii:
        raise bad("centre_mm_min", f"{centre_mm_min:g} mm is too short: the wheels alone need {radii:.1f} mm")
    if centre_mm_max < centre_mm_min:
        raise bad("centre_mm_max", f"{centre_mm_max:g} mm is less than centre_mm_min")
    shortest = belt_length(centre_mm=centre_mm_min, ring=ring, sprocket=sprocket) / CHAIN_PITCH_MM
    longest = belt_length(centre_mm=centre_mm_max, ring=ring, sprocket=sprocket) / CHAIN_PITCH_MM
    options = []
    for links in range(ceil_slack(shortest), floor_slack(longest) + 1):
        if links % 2 and not half_link:
            continue
        centre = centre_for(
            links=links, ring=ring, sprocket=sprocket, low_mm=centre_mm_min, high_mm=centre_mm_max
        )
        options.append(ChainOption(links=links, centre_mm=centre))
    return SingleSpeedChain(
        options=tuple(options),
        trace=(
            TraceLine("shortest_links", shortest, "links", f"belt at {centre_mm_min:g} mm ÷ 12.7"),
            TraceLine("longest_links", longest, "links", f"belt at {centre_mm_max:g} mm ÷ 12.7"),
            TraceLine("options", len(options), "", "whole numbers between, odd ones only with a half link"),
        ),
    )


@functools.cache
def chain_class(speeds: int) -> int:
    """Place of a chain in the classes of the chain_widths table, 0 the widest. Raises LookupError for no class."""
    for n, row in enumerate(table("chain_widths").rows):
        if speeds in row["speeds"]:
            return n
    raise LookupError(speeds)


def class_title(place: int) -> str:
    """Return a class in a mechanic's words: 'an 11-speed', 'a single-speed'."""
    return str(table("chain_widths").rows[place]["says"])


def single_wide(place: int) -> bool:
    """Return whether a class is the 1/8 in one of single sprockets."""
    return place == 0
