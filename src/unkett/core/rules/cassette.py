"""Sprockets on the hub: the cassette on its body, fixed wheels, screw-on freewheels, gear hubs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup, rows_where
from unkett.core.vocabulary import Area, enums
from unkett.core.vocabulary.words import in_sentence

SIZE_TOLERANCE_MM = limit_of("cassette_stack_off_mm")
LOCKRING_HOLDS_MM = limit_of("lockring_holds_mm")
DISHED_LEAST_TEETH = limit_of("dished_least_teeth")
DISHED_SPROCKETS = limit_of("dished_sprockets")
COG_BASE_MM = limit_of("cog_base_mm")
COG_LINE_MM = limit_of("cog_line_mm")

SEAT = rule(
    "freehub-seat",
    title="Cassette sits on the freehub body",
    plain=(
        "Cassette and body must be of one family. Within the nine-spline and the stepped family a longer body wants "
        "a spacer of the difference behind the largest sprocket. A stack up to {lockring_holds_mm} mm too long goes "
        "if the lockring still holds three threads; a dished largest sprocket of {dished_least_teeth} teeth or more "
        "makes up what its overhang is; eleven sprockets are made both ways, so there it is measured. A hub whose "
        "body swaps takes the body the cassette needs. A lone cog on a long body wants spacers that set its line; a "
        "freewheel on a fixed hub's thread leaves the lockring's thread free."
    ),
    why=(
        "A cassette that is loose on its body chews the splines and shifts badly; a lockring on too few "
        "threads lets go."
    ),
    area=Area.DRIVETRAIN,
    joint="cassette",
    parts={"cassette": "cassette", "hub": required("rear_hub")},
    messages={
        "seated": "The cassette fills the {body_mm:.2f} mm body.",
        "own_body": "Cassette and body match.",
        "spacer_there": "The {spacer_mm:.2f} mm spacer that this cassette needs is fitted.",
        "spacer": "Cassette needs a {spacer_mm:.2f} mm spacer.",
        "wrong_spacer": "Cassette needs a {spacer_mm:.2f} mm spacer; {fitted_mm:.2f} mm is fitted.",
        "lockring_short": "Cassette {too_long_mm:.2f} mm too long for this body: count the lockring's threads.",
        "body_too_short": "Cassette {too_long_mm:.2f} mm too long for this body.",
        "lone_cog": "A single sprocket on a {body_mm:.2f} mm body needs spacers on both sides.",
        "ring_adapter": "The shorter body takes this cassette with the cassette's adapter ring.",
        "swap_body": "Fit the hub's other body ({body}): this cassette fits it.",
        "freewheel_on_fixed": "A freewheel screws on the fixed hub's thread; the lockring's thread stays free.",
        "bites": "A cog {cassette.cog_base_mm:g} mm wide at its base bites into an aluminium body.",
        "other_family": "Cassette: {cassette.mount}. Hub: {hub.freehub}. Incompatible.",
    },
    figures={
        "body_mm": ("usable length of the body", "mm"),
        "stack_mm": ("length of body the stack fills", "mm"),
        "spacer_mm": ("body length − stack + spacer the maker asks for", "mm"),
        "fitted_mm": ("spacer on the body now", "mm"),
        "too_long_mm": ("stack − body length", "mm"),
        "body": ("body to fit", ""),
    },
    sources=("freehub-bodies",),
)
_READS = "cassette.left_out cassette.sprockets cassette.pitches_mm cassette.extra_spacer_mm"


class _Stack:
    """How long a cassette's stack is on the bodies of its family."""

    def __init__(self, cassette: View, *, dished: bool = False) -> None:
        own = lookup("freehub_bodies", "code")["spline9" if dished else cassette.mount]
        pitch = cassette.pitches_mm
        left_out = cassette.left_out or 0
        self.family = own["family"]
        self.stack_mm: float = own["length_mm"] - (left_out * pitch[0] if left_out and pitch else 0.0)
        self.extra_mm: float = cassette.extra_spacer_mm or 0.0

    def short_of(self, body: Mapping[str, Any]) -> float:
        """Return how much shorter the stack is than a body, its maker's own spacer counted; negative: too long."""
        return float(body["length_mm"]) - self.stack_mm + self.extra_mm

    def goes_on(self, body: Mapping[str, Any]) -> bool:
        """Return whether the stack goes on a body at all, with a spacer or with the lockring just holding."""
        return bool(self.family == body["family"]) and self.short_of(body) >= -LOCKRING_HOLDS_MM - SLACK


def _body_to_fit(cassette: View, hub: View, swaps: tuple[str, ...]) -> str | None:
    """Return the body that swaps onto this hub and takes this cassette, its own family's first."""
    stack, bodies = _Stack(cassette), lookup("freehub_bodies", "code")
    own_first = sorted(swaps, key=lambda code: code != cassette.mount)
    return next((code for code in own_first if code != hub.freehub and stack.goes_on(bodies[code])), None)


def _swap(cassette: View, hub: View, swaps: tuple[str, ...], **figures: Any) -> Outcome | None:
    body = _body_to_fit(cassette, hub, swaps)
    if body is None:
        return None
    says = in_sentence(enums.FREEHUB.title(body))
    return goes_if("swap_body", need("freehub body", body=body), body=says, **figures)


def _ways(cassette: View, hub: View) -> tuple[Mapping[str, Any], ...]:
    return way_out(cassette, "mount", "==", hub.freehub), way_out(hub, "freehub", "==", cassette.mount)


@SEAT.clause("cassette.mount hub.freehub", asks="hub.freehub_swaps", may=_READS)
def other_family(cassette: View, hub: View) -> Outcome | None:
    bodies = lookup("freehub_bodies", "code")
    own, body = bodies[cassette.mount], bodies[hub.freehub]
    if own["family"] == body["family"]:
        return None
    if cassette.mount in body.get("takes_with_ring", ()):
        ring = need("adapter ring", where="behind the cassette", fits=cassette.mount)
        return goes_if("ring_adapter", ring)
    if (cassette.mount, hub.freehub) == ("threaded", "fixed_threaded"):
        free = need("leave the lockring's thread free", where="under the freewheel")
        return goes_if("freewheel_on_fixed", free, need("ride with two brakes"))
    swaps = require(hub).freehub_swaps if own["splined"] and body["splined"] else ()
    return _swap(cassette, hub, swaps) or no_go("other_family", *_ways(cassette, hub))


@SEAT.clause(
    "cassette.mount hub.freehub",
    asks="cassette.dished_mm cassette.largest_teeth",
    may=f"{_READS} hub.freehub_swaps hub.freehub_spacer_mm",
)
def stack_on_body(cassette: View, hub: View) -> Outcome | None:
    body = lookup("freehub_bodies", "code")[hub.freehub]
    stack = _Stack(cassette)
    if stack.family != body["family"]:
        return None
    if not body["length_mm"] and not stack.stack_mm:
        return goes("own_body")
    figures: dict[str, Any] = {"body_mm": body["length_mm"], "stack_mm": stack.stack_mm}
    if cassette.sprockets == 1 and body["family"] == "nine splines":
        return goes_if("lone_cog", need("cog spacers", where="on both sides, to set its line"), **figures)
    too_long = -stack.short_of(body)
    if too_long > SIZE_TOLERANCE_MM + SLACK:
        return _too_long(cassette, hub, too_long, figures)
    if cassette.mount == "spline9_road11" and _may_hang(cassette):
        shorter = _Stack(cassette, dished=True)
        if require(cassette).dished_mm >= stack.stack_mm - shorter.stack_mm - SLACK:
            stack = shorter
    return _with_spacer(hub, stack.short_of(body), {**figures, "stack_mm": stack.stack_mm})


def _may_hang(cassette: View) -> bool:
    """Return whether the largest sprocket may hang over the body: eleven with a big one are made both ways."""
    big = (cassette.largest_teeth or 0) >= DISHED_LEAST_TEETH
    return big and (cassette.sprockets == DISHED_SPROCKETS or (cassette.dished_mm or 0) > 0)


def _too_long(cassette: View, hub: View, too_long: float, figures: dict[str, Any]) -> Outcome:
    """Return a stack longer than the body: another body, an overhang, or a lockring that still holds."""
    figures = {**figures, "too_long_mm": too_long}
    swap = _swap(cassette, hub, hub.freehub_swaps or (), **figures)
    if swap is not None:
        return swap
    if too_long <= LOCKRING_HOLDS_MM + SLACK:
        return goes_if("lockring_short", need("count the lockring's threads: three at least"), **figures)
    if (cassette.mount, hub.freehub) == ("spline9_road11", "spline9") and _hangs(cassette, too_long):
        return _with_spacer(hub, 0.0, figures)
    ways = _ways(cassette, hub)
    if (cassette.mount, hub.freehub) == ("spline9_road11", "spline9") and not cassette.left_out:
        ways = (*ways, way_out(cassette, "sprockets", "==", 10))  # of the eleven, the smallest left out
    return no_go("body_too_short", *ways, **figures)


def _hangs(cassette: View, too_long: float) -> bool:
    """Return whether the largest sprocket hangs over the body by what the stack is too long."""
    largest, dished = cassette.largest_teeth, cassette.dished_mm
    if largest is not None and largest < DISHED_LEAST_TEETH:
        return False
    if dished is not None and dished < too_long - SLACK:
        return False
    return bool(
        require(cassette).dished_mm >= too_long - SLACK
        and require(cassette).largest_teeth >= DISHED_LEAST_TEETH
    )


def _with_spacer(hub: View, short_mm: float, figures: dict[str, Any]) -> Outcome:
    """The verdict once the stack goes on the body: is the right spacer behind it?"""
    fitted, wanted = hub.freehub_spacer_mm or 0.0, max(0.0, short_mm)
    figures = {**figures, "spacer_mm": wanted, "fitted_mm": fitted}
    if fitted > 0 and not near(fitted, wanted, SIZE_TOLERANCE_MM):
        return no_go("wrong_spacer", way_out(hub, "freehub_spacer_mm", "==", wanted), **figures)
    if wanted > SIZE_TOLERANCE_MM + SLACK and fitted == 0:
        where = "behind the largest sprocket"
        return goes_if("spacer", need("spacer", size_mm=round(wanted, 2), where=where), **figures)
    return goes("spacer_there" if fitted > 0 else "seated", **figures)


@SEAT.clause(given="cassette.cog_base_mm hub.freehub_material")
def bites(cassette: View, hub: View) -> Outcome | None:
    if cassette.cog_base_mm >= COG_BASE_MM - SLACK or hub.freehub_material != "aluminium":
        return None
    return goes_if("bites", need("a cog that bites into the body"))


FIXED = rule(
    "fixed-wheel",
    title="Fixed sprocket is held and nothing pulls against it",
    plain=(
        "A fixed sprocket wants a hub with a lockring's thread: on a freewheel's thread it unscrews when the "
        "rider holds back. A derailleur or a sprung tensioner is torn round when a fixed wheel is held back."
    ),
    why="A fixed sprocket that unscrews takes away the rider's only hold on the rear wheel.",
    area=Area.DRIVETRAIN,
    joint="cassette",
    parts={"cassette": "cassette", "hub": required("rear_hub"), "derailleur": optional("rear_derailleur")},
    messages={
        "held": "The fixed sprocket is held by its lockring.",
        "tensioner": "A fixed wheel with a derailleur or sprung tensioner: holding back tears it round.",
        "unscrews": "A fixed sprocket unscrews from a freewheel's thread when the rider holds back.",
    },
    sources=("freehub-bodies",),
    safety=True,
)


@FIXED.clause(asks="cassette.mount", may="cassette.sprockets", silences=True)
def is_fixed(cassette: View) -> Outcome | None:
    if (cassette.sprockets or 1) > 1 or require(cassette).mount != "fixed_threaded":
        return SILENT
    return None


@FIXED.clause("cassette.mount derailleur")
def tensioner(cassette: View, derailleur: View) -> Outcome | None:
    if cassette.mount != "fixed_threaded" or derailleur.empty:
        return None
    return no_go("tensioner", way_out(cassette, "mount", "==", "threaded"))


@FIXED.clause("cassette.mount hub.freehub", silences=True)
def lockring(cassette: View, hub: View) -> Outcome | None:
    if cassette.mount != "fixed_threaded":
        return None
    if hub.freehub == "threaded":
        return no_go("unscrews", way_out(hub, "freehub", "==", "fixed_threaded"))
    return goes("held") if hub.freehub == "fixed_threaded" else SILENT


ROOM = rule(
    "freewheel-room",
    title="Screw-on freewheel has room on the hub",
    plain=(
        "The hub's spacing sets how many sprockets a screw-on freewheel may have: 120 mm {freewheel_room.120.most}, "
        "126 mm {freewheel_room.126.most} ({freewheel_room.126.tight} tight), 130 mm and up "
        "{freewheel_room.130.most}."
    ),
    why="With too many sprockets the chain touches the dropout and jams in the smallest.",
    area=Area.WHEELS,
    joint="cassette",
    parts={"hub": required("rear_hub"), "cassette": "cassette"},
    messages={
        "room": "{count} sprockets have room on a {hub.spacing_mm:g} mm hub.",
        "tight": "{count} sprockets on a {hub.spacing_mm:g} mm hub are tight.",
        "no_room": "{count} sprockets have no room on a hub of this spacing.",
    },
    figures={"count": ("sprockets there", "")},
    sources=("axles",),
)
MOST_SPROCKETS = limit_of("freewheel_most_sprockets")


@ROOM.clause(may="hub.freehub", silences=True)
def is_screwed_on(hub: View) -> Outcome | None:
    return SILENT if hub.freehub not in (None, "threaded") else None


@ROOM.clause("hub.freehub cassette.sprockets", asks="hub.spacing_mm")
def room(hub: View, cassette: View) -> Outcome | None:
    count = cassette.sprockets
    if hub.freehub != "threaded":
        return None
    if count > MOST_SPROCKETS:
        return no_go("no_room", way_out(cassette, "sprockets", "<=", MOST_SPROCKETS), count=count)
    spacing = 130 if require(hub).spacing_mm >= 129 else 126 if require(hub).spacing_mm >= 125 else 120
    row = rows_where("freewheel_room", "spacing_mm", spacing)[0]
    if count <= row["most"]:
        return goes("room", count=count)
    if count <= row.get("tight", 0):
        return goes_if("tight", need("check the chain against the dropout in top gear"), count=count)
    return no_go("no_room", way_out(cassette, "sprockets", "<=", row["most"]), count=count)


GEAR_HUB = rule(
    "gear-hub",
    title="Gear hub has its lever, cog, ratio and line",
    plain=(
        "The lever has as many positions as the hub has gears and speaks its code. The cog lies within the hub's "
        "figures; ring ÷ cog is not under the hub's least ratio, so that the torque does not break it; cog and "
        "ring lie in one line within {cog_line_mm} mm; the axle's flats take turn washers made for this dropout."
    ),
    why="Too much torque breaks the gears inside, and a lever that does not match leaves the hub between gears.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "hub": required("rear_hub"),
        "shifter": optional("rear_shifter"),
        "cog": optional("cassette"),
        "rings": optional("chainrings"),
        "crank": optional("crank"),
    },
    messages={
        "fits": "Lever, cog, ratio and line suit the {hub.internal_gears}-gear hub.",
        "positions": "The lever has {shifter.speeds} positions, the hub {hub.internal_gears} gears.",
        "other_code": "The lever's code is {shifter.protocol}, the hub's {hub.protocol}.",
        "cog": "A {teeth}-tooth cog is outside the hub's {low} to {high}.",
        "ratio": "Chainring ÷ sprocket {ratio:.2f}; hub minimum {hub.ratio_min:g}.",
        "line": "Cog and ring are {off_mm:.1f} mm out of line.",
        "washers": "The axle has flats of {hub.axle_flats_mm:g} mm: turn washers keep it from turning.",
    },
    figures={
        "teeth": ("teeth of the cog", ""),
        "low": ("hub's smallest cog", ""),
        "high": ("hub's largest cog", ""),
        "ratio": ("smallest ring ÷ cog", ""),
        "off_mm": ("distance of cog line and ring line", "mm"),
    },
    sources=("gear-hubs",),
)


@GEAR_HUB.clause(may="hub.internal_gears", silences=True)
def is_gear_hub(hub: View) -> Outcome | None:
    return goes("fits") if hub.internal_gears else SILENT


@GEAR_HUB.clause("hub.internal_gears shifter", asks="shifter.speeds", may="shifter.mode")
def positions(hub: View, shifter: View) -> Outcome | None:
    if not hub.internal_gears or shifter.empty or require(shifter).speeds == hub.internal_gears:
        return None
    return no_go("positions", way_out(shifter, "speeds", "==", hub.internal_gears))


@GEAR_HUB.clause("hub.internal_gears shifter", asks="hub.protocol shifter.protocol")
def lever_code(hub: View, shifter: View) -> Outcome | None:
    if not hub.internal_gears or shifter.empty or require(shifter).protocol == require(hub).protocol:
        return None
    return no_go("other_code", way_out(shifter, "protocol", "==", require(hub).protocol))


@GEAR_HUB.clause("hub.internal_gears cog.smallest_teeth", may="hub.cog_min_teeth hub.cog_max_teeth")
def cog_size(hub: View, cog: View) -> Outcome | None:
    low, high, teeth = hub.cog_min_teeth, hub.cog_max_teeth, cog.smallest_teeth
    if not hub.internal_gears or ((low is None or teeth >= low) and (high is None or teeth <= high)):
        return None
    limit, op = (low, ">=") if low is not None and teeth < low else (high, "<=")
    way = way_out(cog, "smallest_teeth", op, limit)
    return no_go("cog", way, teeth=teeth, low="?" if low is None else low, high="?" if high is None else high)


@GEAR_HUB.clause("hub.internal_gears cog", asks="hub.cog_min_teeth hub.cog_max_teeth")
def cog_figures(hub: View, cog: View) -> Outcome | None:
    """Both figures must be known before the hub can be said to go."""
    if hub.internal_gears and not cog.empty:
        require(hub, "cog_min_teeth", "cog_max_teeth")
    return None


@GEAR_HUB.clause("hub.internal_gears cog.largest_teeth rings.smallest_teeth", asks="hub.ratio_min")
def least_ratio(hub: View, cog: View, rings: View) -> Outcome | None:
    if not hub.internal_gears:
        return None
    ratio = rings.smallest_teeth / cog.largest_teeth
    if ratio >= require(hub).ratio_min - SLACK:
        return None
    return no_go(
        "ratio",
        way_out(rings, "smallest_teeth", ">=", require(hub).ratio_min * cog.largest_teeth),
        ratio=ratio,
    )


@GEAR_HUB.clause("hub.internal_gears crank", asks="hub.line_mm crank.chainline_mm")
def cog_line(hub: View, crank: View) -> Outcome | None:
    if not hub.internal_gears or crank.empty:
        return None
    off = abs(require(hub).line_mm - require(crank).chainline_mm)
    if off <= COG_LINE_MM + SLACK:
        return None
    return no_go("line", way_out(crank, "chainline_mm", "==", require(hub).line_mm), off_mm=off)


@GEAR_HUB.clause("hub.internal_gears", given="hub.axle_flats_mm")
def axle_flats(hub: View) -> Outcome | None:
    if not hub.internal_gears:
        return None
    return goes_if("washers", need("turn washers", flats_mm=hub.axle_flats_mm, where="in both dropouts"))
