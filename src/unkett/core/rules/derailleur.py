"""The rear derailleur: its hanger, largest and smallest sprocket, capacity, difference of the rings."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.gears import capacity as capacity_of
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import limit_of
from unkett.core.vocabulary import Area

OVER_CAPACITY_TEETH = limit_of("over_capacity_teeth")
OVER_LARGEST_TEETH = limit_of("over_largest_teeth")
UNDER_SMALLEST_TEETH = limit_of("under_smallest_teeth")
RING_DIFFERENCE_OVER_TEETH = limit_of("ring_difference_over_teeth")

LARGEST = rule(
    "largest-sprocket",
    title="Derailleur reaches under the largest sprocket",
    plain=(
        "The largest sprocket must not exceed the derailleur's figure. Up to {over_largest_teeth} teeth more go on a "
        "plain M10 hanger with the B-screw in, or a hanger extender, at the price of slower shifting."
    ),
    why="The upper pulley meets the sprocket: shifting jams and the cage is torn into the wheel.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={"cassette": "cassette", "derailleur": required("rear_derailleur"), "frame": optional("frame")},
    messages={
        "within": "Largest sprocket {largest} T; derailleur maximum {limit} T.",
        "over": "Largest sprocket {largest} T; derailleur maximum {limit} T: set the B-screw and check.",
        "too_far": "Largest sprocket {largest} T; derailleur maximum {limit} T: {over} T too large.",
        "no_extender": "Largest sprocket {largest} T; maximum {limit} T, and no extender fits this hanger.",
    },
    figures={
        "largest": ("largest sprocket", ""),
        "limit": ("derailleur's largest sprocket", ""),
        "over": ("largest − limit", ""),
    },
    sources=("maker-limits",),
)


@LARGEST.clause("cassette.largest_teeth derailleur.sprocket_max_teeth", asks="frame.hanger")
def reach(cassette: View, derailleur: View, frame: View) -> Outcome:
    largest, limit = cassette.largest_teeth, derailleur.sprocket_max_teeth
    figures = {"largest": largest, "limit": limit, "over": largest - limit}
    if largest <= limit:
        return goes("within", **figures)
    ways = (
        way_out(cassette, "largest_teeth", "<=", limit),
        way_out(derailleur, "sprocket_max_teeth", ">=", largest),
    )
    if largest > limit + OVER_LARGEST_TEETH:
        return no_go("too_far", *ways, **figures)
    if require(frame).hanger != "m10":
        return no_go("no_extender", *ways, **figures)
    needs = (
        need(
            "turn the B-screw in, check the gap of the upper pulley",
            either=1,
            gap_mm=[limit_of("upper_pulley_gap_least_mm"), limit_of("upper_pulley_gap_most_mm")],
        ),
        need("hanger extender", either=1),
    )
    return goes_if("over", *needs, **figures)


SMALLEST = rule(
    "smallest-sprocket",
    title="Upper pulley clears the smallest sprocket",
    plain=(
        "The smallest sprocket must not be under the derailleur's figure; {under_smallest_teeth} tooth under goes if "
        "the upper pulley is looked at in top gear."
    ),
    why="The pulley stands too far from a very small sprocket, so that the chain skips on it.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={"cassette": "cassette", "derailleur": required("rear_derailleur")},
    messages={
        "within": "Smallest sprocket {smallest} T; derailleur minimum {limit} T.",
        "one_under": "Smallest sprocket {smallest} T; derailleur minimum {limit} T: one too few.",
        "too_small": "Smallest sprocket {smallest} T; derailleur minimum {limit} T: {under} T too small.",
    },
    figures={
        "smallest": ("smallest sprocket", ""),
        "limit": ("derailleur's smallest sprocket", ""),
        "under": ("limit − smallest", ""),
    },
    sources=("maker-limits",),
)


@SMALLEST.clause("cassette.smallest_teeth derailleur.sprocket_min_teeth")
def smallest(cassette: View, derailleur: View) -> Outcome:
    teeth, limit = cassette.smallest_teeth, derailleur.sprocket_min_teeth
    figures = {"smallest": teeth, "limit": limit, "under": limit - teeth}
    if teeth >= limit:
        return goes("within", **figures)
    if teeth >= limit - UNDER_SMALLEST_TEETH:
        return goes_if("one_under", need("look at the upper pulley in top gear"), **figures)
    ways = (
        way_out(cassette, "smallest_teeth", ">=", limit),
        way_out(derailleur, "sprocket_min_teeth", "<=", teeth),
    )
    return no_go("too_small", *ways, **figures)


CAPACITY = rule(
    "capacity",
    title="Cage takes up the chain",
    plain=(
        "Ring difference plus sprocket difference must not exceed the derailleur's capacity. Up to two "
        "teeth over go if the gears that hang slack are kept out of."
    ),
    why="A cage that cannot take up the slack lets the chain hang, or is stretched flat and torn off.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "rings": required("chainrings"),
        "cassette": "cassette",
        "derailleur": required("rear_derailleur"),
    },
    messages={
        "within": "Gears need {needed} T capacity; derailleur has {has} T.",
        "over": "Gears need {needed} T capacity; derailleur has {has} T: slack chain in {slack}.",
        "too_far": "Gears need {needed} T capacity; derailleur has {has} T: {over} T too little.",
        "rings_too_far": "Chainrings alone need {needed} T capacity; derailleur has {has} T.",
        "sprockets_too_far": "Sprockets alone need {needed} T capacity; derailleur has {has} T.",
    },
    figures={
        "needed": ("ring difference + sprocket difference", ""),
        "has": ("derailleur's capacity", ""),
        "over": ("needed − has", ""),
        "slack": ("gears in which the chain hangs", ""),
    },
    sources=("wrap", "maker-limits"),
)


def slack_gears(*, chainrings: tuple[int, ...], sprockets: tuple[int, ...], capacity_teeth: int) -> list[str]:
    """Gears (ring/sprocket) in which a chain cut to the lower end hangs slack.

    A cage takes up `capacity` teeth from big/big down; a pair with fewer teeth together hangs.
    """
    most = max(chainrings) + max(sprockets)
    return [f"{ring}/{cog}" for ring in chainrings for cog in sprockets if most - ring - cog > capacity_teeth]


def _far(key: str, needed: int, derailleur: View, *more: Any) -> Outcome | None:
    has = derailleur.capacity_teeth
    if needed <= has + OVER_CAPACITY_TEETH:
        return None
    ways = (way_out(derailleur, "capacity_teeth", ">=", needed), *more)
    return no_go(key, *ways, needed=needed, has=has, over=needed - has)


@CAPACITY.clause("rings.teeth cassette.teeth derailleur.capacity_teeth")
def wrap(rings: View, cassette: View, derailleur: View) -> Outcome:
    needed = capacity_of(chainrings=rings.teeth, sprockets=cassette.teeth).needed_teeth
    has = derailleur.capacity_teeth
    figures = {"needed": needed, "has": has, "over": needed - has}
    if needed <= has:
        return goes("within", **figures)
    if needed <= has + OVER_CAPACITY_TEETH:
        slack = slack_gears(chainrings=rings.teeth, sprockets=cassette.teeth, capacity_teeth=has)
        out = need("keep out of the slack gears", gears=slack)
        return goes_if("over", out, slack=", ".join(slack), **figures)
    ways = (
        way_out(derailleur, "capacity_teeth", ">=", needed),
        way_out(cassette, "teeth", "max<=", max(cassette.teeth) - (needed - has)),
    )
    return no_go("too_far", *ways, **figures)


@CAPACITY.clause("rings.largest_teeth rings.smallest_teeth derailleur.capacity_teeth")
def wrap_of_rings(rings: View, derailleur: View) -> Outcome | None:
    return _far("rings_too_far", rings.largest_teeth - rings.smallest_teeth, derailleur)


@CAPACITY.clause("cassette.largest_teeth cassette.smallest_teeth derailleur.capacity_teeth")
def wrap_of_sprockets(cassette: View, derailleur: View) -> Outcome | None:
    return _far("sprockets_too_far", cassette.largest_teeth - cassette.smallest_teeth, derailleur)


MOUNT = rule(
    "derailleur-mount",
    title="Derailleur bolts to the hanger",
    plain=(
        "Hanger and derailleur must be of one sort. A derailleur whose upper link comes off goes on a direct "
        "hanger; a slot dropout takes a claw hanger; a derailleur clamped round the axle wants a frame made for it."
    ),
    why="A derailleur on the wrong hanger stands at the wrong place and turns into the spokes.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={"frame": "frame", "derailleur": required("rear_derailleur")},
    messages={
        "same": "Hanger and derailleur are of one sort.",
        "link_off": "On a direct hanger this derailleur goes without its upper link.",
        "claw": "The dropout has no thread: a claw hanger carries the derailleur.",
        "other": "Derailleur: {derailleur.mount}. Hanger: {frame.hanger}. They do not bolt together.",
        "none": "There is nothing to bolt a derailleur to.",
    },
    sources=("maker-limits",),
)


@MOUNT.clause("frame.hanger derailleur")
def no_hanger(frame: View, derailleur: View) -> Outcome | None:
    return no_go("none", way_out(frame, "hanger", "!=", "none")) if frame.hanger == "none" else None


@MOUNT.clause("derailleur.mount")
def no_bolt(derailleur: View) -> Outcome | None:
    none = derailleur.mount in ("none", "claw")  # a claw is the frame's, no derailleur's
    return no_go("none", way_out(derailleur, "mount", "==", "m10")) if none else None


@MOUNT.clause("frame.hanger derailleur.mount", asks="derailleur.removable_link")
def hanger(frame: View, derailleur: View) -> Outcome:
    pair = (frame.hanger, derailleur.mount)
    if pair[0] == pair[1]:
        return goes("same")
    if pair == ("m10_direct", "m10") and require(derailleur).removable_link:
        return goes_if("link_off", need("take the upper link off"))
    if pair == ("claw", "m10"):
        return goes_if("claw", need("claw hanger"))
    return no_go("other", way_out(derailleur, "mount", "==", frame.hanger))


DIFFERENCE = rule(
    "ring-difference",
    title="Rings differ no more than the rear derailleur takes",
    plain=(
        "The largest less the smallest ring must not exceed the derailleur's figure. Up to {over_capacity_teeth} "
        "teeth over go if small/small is kept out of. A single ring has no difference."
    ),
    why="A cage made for close chainrings cannot wrap what the smaller one lets go.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={"rings": required("chainrings"), "derailleur": required("rear_derailleur")},
    messages={
        "within": "Chainring difference {differ} T; derailleur maximum {limit} T.",
        "over": "Chainring difference {differ} T; maximum {limit} T.",
        "too_far": "Chainring difference {differ} T; maximum {limit} T: it will not shift.",
    },
    figures={
        "differ": ("largest ring − smallest ring", ""),
        "limit": ("derailleur's figure", ""),
        "over": ("differ − limit", ""),
    },
    sources=("maker-limits",),
)


@DIFFERENCE.clause(
    "rings.count rings.largest_teeth rings.smallest_teeth",
    asks="derailleur.ring_difference_max_teeth",
    silences=True,
)
def difference(rings: View, derailleur: View) -> Outcome:
    if rings.count == 1:
        return SILENT
    differ, limit = rings.largest_teeth - rings.smallest_teeth, require(derailleur).ring_difference_max_teeth
    figures = {"differ": differ, "limit": limit, "over": differ - limit}
    if differ <= limit:
        return goes("within", **figures)
    if differ <= limit + RING_DIFFERENCE_OVER_TEETH:
        return goes_if("over", need("keep out of small/small"), **figures)
    return no_go("too_far", way_out(derailleur, "ring_difference_max_teeth", ">=", differ), **figures)
