"""The cassette: on its body, under its lever's clicks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.gears import gears_within, index_error, sprocket_pitches
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    goes,
    goes_if,
    missing,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.settings import Settings
from unkett.core.standards import lookup, rows_where
from unkett.core.vocabulary import Area

SIZE_TOLERANCE_MM = 0.1  # two spacers, or a stack and a body, count as equal within this
LEFT_OUT_TOO_LONG_MM = 0.3  # a shortened stack may be this much too long before the lockring is at risk
PULL_TOLERANCE_MM = 0.03
RATIO_TOLERANCE = 0.015
PITCH_TOLERANCE_MM = 0.1


def sprocket_count(cassette: View) -> int | None:
    """Sprockets really there: the teeth's count, else the family's speeds."""
    if cassette.teeth:
        return len(cassette.teeth)
    return None if cassette.speeds is None else int(cassette.speeds)


def left_out(cassette: View) -> int:
    """How many sprockets of the family were left out."""
    if not cassette.teeth or cassette.speeds is None:
        return 0
    return int(cassette.speeds) - len(cassette.teeth)


def pitches(cassette: View) -> tuple[float, ...]:
    """The sprocket pitches this cassette may have, in mm: one when it is stated or the table tells."""
    return sprocket_pitches(
        speeds=cassette.speeds, mount=cassette.mount, stated_mm=cassette.sprocket_pitch_mm
    )


class _Stack:
    """How a cassette's stack sits on one body of its family."""

    def __init__(self, cassette: View, body: Mapping[str, Any], *, dished: bool) -> None:
        own = lookup("freehub_bodies", "code")[cassette.mount]
        self.same_family = own["family"] == body["family"]
        length = lookup("freehub_bodies", "code")["spline9"]["length_mm"] if dished else own["length_mm"]
        missing = left_out(cassette)
        pitch = pitches(cassette)
        self.stack_mm: float = length - (missing * pitch[0] if missing and pitch else 0.0)
        self.spacer_mm: float = body["length_mm"] - self.stack_mm + (cassette.extra_spacer_mm or 0.0)
        self.shortened = missing > 0

    @property
    def too_long_mm(self) -> float:
        return max(0.0, -self.spacer_mm)

    def fits(self) -> bool:
        """Whether the stack goes on at all, with a spacer or with the lockring just holding."""
        room = LEFT_OUT_TOO_LONG_MM if self.shortened else SIZE_TOLERANCE_MM
        return self.same_family and self.too_long_mm <= room + SLACK


def _swap_bodies(cassette: View, hub: View, *, dished: bool) -> list[str]:
    """The bodies that swap onto this hub and take this cassette, its own family's body first."""
    bodies = lookup("freehub_bodies", "code")
    own_first = sorted(hub.freehub_swaps or (), key=lambda code: code != cassette.mount)
    return [
        code
        for code in own_first
        if code != hub.freehub and _Stack(cassette, bodies[code], dished=dished).fits()
    ]


@rule(
    "freehub-seat",
    title="Cassette sits on the freehub body",
    plain=(
        "Cassette and body must be of one family. Within the nine-spline and the stepped family a longer "
        "body wants a spacer of the difference behind the largest sprocket; a cassette for a longer body "
        "goes on a shorter one only when its largest sprocket is dished over the body, or when a sprocket "
        "is left out. A hub whose body swaps takes the body the cassette needs."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "cassette": (
            "mount",
            "speeds",
            optional("teeth"),
            optional("dished_mm"),
            optional("extra_spacer_mm"),
            optional("sprocket_pitch_mm"),
        ),
        "rear_hub": ("freehub", optional("freehub_swaps"), optional("freehub_spacer_mm")),
    },
    messages={
        "seated": "The cassette fills the {body_mm:.2f} mm body.",
        "own_body": "Cassette and body are of one sort.",
        "spacer_there": "The {spacer_mm:.2f} mm spacer on the body is the one this stack needs.",
        "spacer": "The stack is {spacer_mm:.2f} mm short of this body.",
        "wrong_spacer": "The stack needs a {spacer_mm:.2f} mm spacer; {fitted_mm:.2f} mm is on the body.",
        "lockring_short": "With a sprocket left out the stack is {too_long_mm:.2f} mm too long for this body.",
        "body_too_short": "The stack is {too_long_mm:.2f} mm too long for this body.",
        "dished_unknown": "It goes only if its largest sprocket hangs over the body; that is not measured.",
        "ring_adapter": "The shorter body takes this cassette with its own adapter ring.",
        "swap_body": "The hub's body swaps to {body}, which takes this cassette.",
        "other_family": "A {cassette.mount} cassette does not slide on a {rear_hub.freehub} body.",
    },
    figures={
        "body_mm": "usable length of the body",
        "stack_mm": "length of body the stack fills",
        "spacer_mm": "body length − stack + spacer the maker asks for",
        "fitted_mm": "spacer on the body now",
        "too_long_mm": "stack − body length",
        "body": "body to fit",
    },
    sources=("freehub-bodies",),
)
def freehub_seat(cassette: View, rear_hub: View) -> Outcome:
    bodies = lookup("freehub_bodies", "code")
    body = bodies[rear_hub.freehub]
    dished = (cassette.dished_mm or 0) > 0 and body["family"] == "nine splines"
    stack = _Stack(cassette, body, dished=dished)
    swaps = _swap_bodies(cassette, rear_hub, dished=dished)
    ways = (
        way_out(cassette, "mount", "==", rear_hub.freehub),
        way_out(rear_hub, "freehub", "==", cassette.mount),
    )
    figures: dict[str, Any] = {"body_mm": body["length_mm"], "stack_mm": stack.stack_mm}
    if not stack.same_family:
        if cassette.mount in body.get("takes_with_ring", ()):
            return goes_if(
                "ring_adapter", need("adapter ring", where="behind the cassette", fits=cassette.mount)
            )
        if swaps:
            return goes_if("swap_body", need("freehub body", body=swaps[0]), body=swaps[0])
        return no_go("other_family", *ways)
    if not stack.fits():
        if swaps:
            return goes_if("swap_body", need("freehub body", body=swaps[0]), body=swaps[0], **figures)
        figures["too_long_mm"] = stack.too_long_mm
        may_be_dished = cassette.dished_mm is None and cassette.mount == "spline9_road11"
        if may_be_dished and _Stack(cassette, body, dished=True).fits():
            return unmeasured("dished_unknown", (cassette, "dished_mm"), **figures)
        return no_go("body_too_short", *ways, **figures)
    return _with_spacer(stack, rear_hub, figures)


def _with_spacer(stack: _Stack, rear_hub: View, figures: dict[str, Any]) -> Outcome:
    """The verdict once the stack goes on the body: is the right spacer behind it?"""
    fitted = rear_hub.freehub_spacer_mm or 0.0
    wanted = max(0.0, stack.spacer_mm)
    figures.update(spacer_mm=wanted, fitted_mm=fitted)
    equal = abs(fitted - wanted) <= SIZE_TOLERANCE_MM + SLACK
    if fitted > 0 and not equal:
        return no_go("wrong_spacer", way_out(rear_hub, "freehub_spacer_mm", "==", wanted), **figures)
    if stack.too_long_mm > SLACK:
        figures["too_long_mm"] = stack.too_long_mm
        return goes_if("lockring_short", need("check that the lockring holds on full thread"), **figures)
    if wanted > SIZE_TOLERANCE_MM + SLACK and fitted == 0:
        where = "behind the largest sprocket"
        return goes_if("spacer", need("spacer", size_mm=round(wanted, 2), where=where), **figures)
    if fitted > 0:
        return goes("spacer_there", **figures)
    return goes("seated", **figures) if figures["body_mm"] else goes("own_body", **figures)


def _click_table(clicks: int, sprockets: int) -> list[dict[str, Any]]:
    """What each position of the lever would do on this cassette, from the smallest sprocket."""
    return [
        {"click": n, "does": f"sprocket {n}" if n <= sprockets else "no sprocket there"}
        for n in range(1, max(clicks, sprockets) + 1)
        if n <= clicks
    ]


@rule(
    "click-count",
    title="Clicks and sprockets are as many",
    plain=(
        "An indexed lever must have as many positions as the cassette has sprockets; one sprocket left "
        "out of the lever's own count leaves one click unused, which the limit screws stop. An electronic "
        "derailleur counts in itself. A friction lever takes any count, if it pulls enough cable."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "cassette": (optional("speeds"), optional("teeth"), optional("sprocket_pitch_mm"), optional("mount")),
        "rear_shifter": ("mode", optional("speeds"), optional("total_pull_mm")),
        "rear_derailleur": at(
            "rear_derailleur", optional("speeds"), optional("shift_ratio"), may_be_empty=True
        ),
    },
    messages={
        "equal": "{clicks} clicks for {sprockets} sprockets.",
        "one_left_out": "{clicks} clicks, {sprockets} sprockets of the same family: one click is unused.",
        "differ": "{clicks} clicks for {sprockets} sprockets; it seems to work up to sprocket {seems}.",
        "electronic_differ": "The derailleur is programmed for {clicks}; the cassette has {sprockets}.",
        "friction": "A friction lever takes {sprockets} sprockets as they come.",
        "friction_short": "The lever pulls {total_mm:.1f} mm; {sprockets} sprockets want {needed_mm:.1f} mm.",
        "unknown": "The number of clicks or of sprockets is not measured.",
    },
    figures={
        "clicks": "positions of the lever (or the derailleur's program)",
        "sprockets": "sprockets there",
        "seems": "smaller of the two counts",
        "total_mm": "cable the lever pulls in all",
        "needed_mm": "(sprockets − 1) × pitch ÷ shift ratio",
        "table": "what each click does",
    },
    sources=("index-tolerance",),
)
def click_count(cassette: View, rear_shifter: View, rear_derailleur: View) -> Outcome:
    count = sprocket_count(cassette)
    if count is None:
        return unmeasured("unknown", (cassette, "teeth"))
    if rear_shifter.mode == "friction":
        return _friction(cassette, rear_shifter, rear_derailleur, count)
    electronic = rear_shifter.mode == "electronic"
    counter = rear_derailleur if electronic and not rear_derailleur.empty else rear_shifter
    if counter.speeds is None:
        return unmeasured("unknown", (counter, "speeds"))
    clicks = int(counter.speeds)
    figures: dict[str, Any] = {"clicks": clicks, "sprockets": count}
    if clicks == count:
        return goes("equal", **figures)
    if clicks == count + 1 and cassette.teeth:
        if cassette.speeds is None:
            return unmeasured("unknown", (cassette, "speeds"), **figures)
        if cassette.speeds == clicks:
            return goes_if("one_left_out", need("set the limit screws to stop the unused click"), **figures)
    ways = (way_out(cassette, "speeds", "==", clicks), way_out(counter, "speeds", "==", count))
    if electronic:
        return no_go("electronic_differ", *ways, **figures)
    figures.update(seems=min(clicks, count), table=_click_table(clicks, count))
    return no_go("differ", *ways, **figures)


def _friction(cassette: View, lever: View, derailleur: View, count: int) -> Outcome:
    """A friction lever: any count, so long as its travel reaches the last sprocket."""
    pitch = pitches(cassette)
    if lever.total_pull_mm is None or derailleur.shift_ratio is None or not pitch:
        return goes("friction", sprockets=count)
    needed = (count - 1) * max(pitch) / derailleur.shift_ratio
    figures = {"sprockets": count, "total_mm": lever.total_pull_mm, "needed_mm": needed}
    if needed > lever.total_pull_mm + SLACK:
        return no_go("friction_short", way_out(lever, "total_pull_mm", ">=", needed), **figures)
    return goes("friction", **figures)


def _one_family(shifter: View, derailleur: View, cassette: View, pitch_mm: float) -> str | None:
    """The pull family in which lever, derailleur and cassette are one row, or None."""
    for row in rows_where("pull_families", "speeds", shifter.speeds):
        if (
            shifter.speeds == cassette.speeds
            and abs(row["pull_mm"] - shifter.pull_per_click_mm) <= PULL_TOLERANCE_MM + SLACK
            and abs(row["ratio"] - derailleur.shift_ratio) <= RATIO_TOLERANCE + SLACK
            and abs(row["pitch_mm"] - pitch_mm) <= PITCH_TOLERANCE_MM + SLACK
        ):
            return str(row["family"])
    return None


@rule(
    "index-alignment",
    title="A click moves the chain by one sprocket",
    plain=(
        "Cable pulled per click × shift ratio should equal the sprocket pitch. Lever, derailleur and "
        "cassette of one family match. Mixed ones are judged by the worst error with the adjustment "
        "centred over the whole cassette: quiet, noisy at the ends, or skipping."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "cassette": (
            "speeds",
            optional("teeth"),
            optional("sprocket_pitch_mm"),
            optional("mount"),
        ),
        "rear_shifter": ("mode", optional("speeds"), optional("pull_per_click_mm")),
        "rear_derailleur": (optional("actuation"), optional("shift_ratio")),
    },
    messages={
        "one_family": "A click moves {travel_mm:.2f} mm for a {pitch_mm:.2f} mm pitch: one family ({family}).",
        "adjust": "A click moves {travel_mm:.2f} mm for {pitch_mm:.2f}; centred, {worst_mm:.2f} mm off at the ends.",
        "noisy": "A click moves {travel_mm:.2f} mm for {pitch_mm:.2f}; {worst_mm:.2f} mm off: noisy at the ends.",
        "skips": "A click moves {travel_mm:.2f} mm for {pitch_mm:.2f}; {worst_mm:.2f} mm off at the ends: it skips.",
        "unknown": "Pull per click, shift ratio and sprocket pitch together decide; one is not measured.",
        "two_systems": "{clicks} clicks and {sprockets} sprockets are too far apart to index at all.",
    },
    figures={
        "travel_mm": "pull per click × shift ratio",
        "pitch_mm": "sprocket pitch",
        "error_mm": "travel − pitch",
        "worst_mm": "|error| × (gears − 1) / 2, adjustment centred",
        "worst_from_small_mm": "|error| × (gears − 1), set at the small sprocket",
        "clean": "gears clean from the small end",
        "usable": "gears usable from the small end",
        "family": "pull family of all three",
        "clicks": "positions of the lever",
        "sprockets": "sprockets there",
    },
    settings=("index_clean_mm", "index_noisy_mm"),
    sources=("pull-families", "sprocket-pitches", "index-tolerance"),
)
def index_alignment(
    cassette: View, rear_shifter: View, rear_derailleur: View, settings: Settings
) -> Outcome | None:
    if rear_shifter.mode != "indexed" or rear_derailleur.actuation == "electronic":
        return None
    wanted = (
        (rear_shifter, "speeds"),
        (rear_shifter, "pull_per_click_mm"),
        (rear_derailleur, "shift_ratio"),
    )
    asks = missing(*wanted)
    if asks:
        return unmeasured("unknown", *asks)
    options = pitches(cassette)
    if not options:
        return unmeasured("unknown", (cassette, "sprocket_pitch_mm"))
    outcomes = [_aligned(cassette, rear_shifter, rear_derailleur, pitch, settings) for pitch in options]
    if len({outcome.verdict for outcome in outcomes}) > 1:
        return unmeasured("unknown", (cassette, "sprocket_pitch_mm"))
    return max(outcomes, key=lambda outcome: outcome.because.get("worst_mm", 0.0))


def _aligned(cassette: View, shifter: View, derailleur: View, pitch_mm: float, settings: Settings) -> Outcome:
    """The verdict for one sprocket pitch."""
    count = sprocket_count(cassette) or 1
    if 2 * min(count, shifter.speeds) < max(count, shifter.speeds):
        ways = (way_out(shifter, "speeds", "==", count),)
        return no_go("two_systems", *ways, clicks=shifter.speeds, sprockets=count)
    result = index_error(
        pull_per_click_mm=shifter.pull_per_click_mm,
        shift_ratio=derailleur.shift_ratio,
        sprocket_pitch_mm=pitch_mm,
        sprockets=count,
        clicks=shifter.speeds,
    )
    clean_mm = settings.number("index_clean_mm")
    gears = min(count, shifter.speeds)
    figures: dict[str, Any] = {
        "travel_mm": result.travel_per_click_mm,
        "pitch_mm": pitch_mm,
        "error_mm": result.error_per_click_mm,
        "worst_mm": result.worst_centred_mm,
        "worst_from_small_mm": result.worst_from_small_mm,
        "clean": gears_within(limit_mm=clean_mm, error_mm=result.error_per_click_mm, positions=gears),
        "usable": result.usable_gears,
    }
    family = _one_family(shifter, derailleur, cassette, pitch_mm)
    if family is not None:
        return goes("one_family", family=family, **figures)
    if result.worst_centred_mm <= clean_mm + SLACK:
        return goes_if("adjust", need("adjust the cable in the middle of the cassette"), **figures)
    if result.worst_centred_mm <= settings.number("index_noisy_mm") + SLACK:
        what = need("accept noise in the end gears", caution="noisy at the ends")
        return goes_if("noisy", need("adjust the cable in the middle of the cassette"), what, **figures)
    wanted = pitch_mm / derailleur.shift_ratio
    repair = (
        way_out(shifter, "pull_per_click_mm", "==", round(wanted, 2)),
        way_out(derailleur, "shift_ratio", "==", round(pitch_mm / shifter.pull_per_click_mm, 2)),
    )
    return no_go("skips", *repair, **figures)
