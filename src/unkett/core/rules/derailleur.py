"""The rear derailleur's reach and wrap: largest and smallest sprocket, capacity."""

from __future__ import annotations

from unkett.core.calc.gears import capacity as capacity_of
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    goes,
    goes_if,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.vocabulary import Area

OVER_CAPACITY_TEETH = 2
OVER_LARGEST_TEETH = 2
UNDER_SMALLEST_TEETH = 1


@rule(
    "largest-sprocket",
    title="Derailleur reaches under the largest sprocket",
    plain=(
        "The largest sprocket must not exceed the derailleur's figure. Up to two teeth more go on a plain "
        "M10 hanger with the B-screw in, or a hanger extender, at the price of slower shifting."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "cassette": ("teeth",),
        "rear_derailleur": ("sprocket_max_teeth",),
        "frame": at("frame", optional("hanger"), may_be_empty=True),
    },
    messages={
        "within": "{largest} teeth, the derailleur takes {limit}.",
        "over": "{largest} teeth, {over} more than the derailleur's {limit}: set the B-screw and look.",
        "too_far": "{largest} teeth, {over} more than the derailleur's {limit}.",
        "no_extender": "{largest} teeth, {over} over {limit}; nothing lengthens a {frame.hanger} hanger.",
        "hanger_unknown": "{largest} teeth, {over} over {limit}: it hangs on the hanger, which is not measured.",
    },
    figures={
        "largest": "largest sprocket",
        "limit": "derailleur's largest sprocket",
        "over": "largest − limit",
    },
    sources=("maker-limits",),
)
def largest_sprocket(cassette: View, rear_derailleur: View, frame: View) -> Outcome:
    largest, limit = max(cassette.teeth), rear_derailleur.sprocket_max_teeth
    figures = {"largest": largest, "limit": limit, "over": largest - limit}
    if largest <= limit:
        return goes("within", **figures)
    ways = (
        way_out(cassette, "teeth", "max<=", limit),
        way_out(rear_derailleur, "sprocket_max_teeth", ">=", largest),
    )
    if largest > limit + OVER_LARGEST_TEETH:
        return no_go("too_far", *ways, **figures)
    if frame.hanger is None:
        return unmeasured("hanger_unknown", (frame, "hanger"), **figures)
    if frame.hanger != "m10":
        return no_go("no_extender", *ways, **figures)
    needs = (
        need("turn the B-screw in and check the gap of the upper pulley", gap_mm=[5, 15]),
        need("or fit a hanger extender", caution="shifting suffers"),
    )
    return goes_if("over", *needs, **figures)


@rule(
    "smallest-sprocket",
    title="Upper pulley clears the smallest sprocket",
    plain=(
        "The smallest sprocket must not be under the derailleur's figure; one tooth under goes if the "
        "upper pulley is looked at in top gear."
    ),
    area=Area.DRIVETRAIN,
    reads={"cassette": ("teeth",), "rear_derailleur": ("sprocket_min_teeth",)},
    messages={
        "within": "{smallest} teeth, the derailleur takes {limit} and up.",
        "one_under": "{smallest} teeth, one under the derailleur's {limit}.",
        "too_small": "{smallest} teeth, {under} under the derailleur's {limit}.",
    },
    figures={
        "smallest": "smallest sprocket",
        "limit": "derailleur's smallest sprocket",
        "under": "limit − smallest",
    },
    sources=("maker-limits",),
)
def smallest_sprocket(cassette: View, rear_derailleur: View) -> Outcome:
    smallest, limit = min(cassette.teeth), rear_derailleur.sprocket_min_teeth
    figures = {"smallest": smallest, "limit": limit, "under": limit - smallest}
    if smallest >= limit:
        return goes("within", **figures)
    if smallest >= limit - UNDER_SMALLEST_TEETH:
        return goes_if("one_under", need("look at the upper pulley in top gear"), **figures)
    ways = (
        way_out(cassette, "teeth", "min>=", limit),
        way_out(rear_derailleur, "sprocket_min_teeth", "<=", smallest),
    )
    return no_go("too_small", *ways, **figures)


def slack_gears(*, chainrings: tuple[int, ...], sprockets: tuple[int, ...], capacity_teeth: int) -> list[str]:
    """Gears (ring/sprocket) in which a chain cut to the lower end hangs slack.

    A cage takes up `capacity` teeth from big/big down; a pair with fewer teeth together hangs.
    """
    most = max(chainrings) + max(sprockets)
    return [f"{ring}/{cog}" for ring in chainrings for cog in sprockets if most - ring - cog > capacity_teeth]


@rule(
    "capacity",
    title="Cage takes up the chain",
    plain=(
        "Ring difference plus sprocket difference must not exceed the derailleur's capacity. Up to two "
        "teeth over go if the gears that hang slack are kept out of."
    ),
    area=Area.DRIVETRAIN,
    reads={"chainrings": ("teeth",), "cassette": ("teeth",), "rear_derailleur": ("capacity_teeth",)},
    messages={
        "within": "{needed} teeth to take up, the cage takes {has}.",
        "over": "{needed} teeth to take up, {over} more than the cage's {has}: {slack} hang slack.",
        "too_far": "{needed} teeth to take up, {over} more than the cage's {has}.",
    },
    figures={
        "needed": "ring difference + sprocket difference",
        "has": "derailleur's capacity",
        "over": "needed − has",
        "slack": "gears in which the chain hangs",
    },
    sources=("wrap", "maker-limits"),
)
def capacity(chainrings: View, cassette: View, rear_derailleur: View) -> Outcome:
    needed = capacity_of(chainrings=chainrings.teeth, sprockets=cassette.teeth).needed_teeth
    has = rear_derailleur.capacity_teeth
    figures = {"needed": needed, "has": has, "over": needed - has}
    if needed <= has:
        return goes("within", **figures)
    if needed <= has + OVER_CAPACITY_TEETH:
        slack = slack_gears(chainrings=chainrings.teeth, sprockets=cassette.teeth, capacity_teeth=has)
        return goes_if(
            "over", need("keep out of the slack gears", gears=slack), slack=", ".join(slack), **figures
        )
    ways = (
        way_out(rear_derailleur, "capacity_teeth", ">=", needed),
        way_out(cassette, "teeth", "max<=", max(cassette.teeth) - (needed - has)),
    )
    return no_go("too_far", *ways, **figures)
