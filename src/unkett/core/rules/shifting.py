"""Lever to cassette: clicks against sprockets, a click against the sprocket pitch, electronic codes, the
line between.
"""

from __future__ import annotations

from typing import Any

from unkett.core.calc.gears import gears_within, index_error
from unkett.core.errors import InputError
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import SLACK, Row, limit_of, rows_where, table
from unkett.core.vocabulary import Area

PULL_TOLERANCE_MM = limit_of("pull_off_mm")
RATIO_TOLERANCE = limit_of("shift_ratio_off")
PITCH_TOLERANCE_MM = limit_of("sprocket_pitch_off_mm")


CLICKS = rule(
    "click-count",
    title="Clicks and sprockets are as many",
    plain=(
        "An indexed lever must have as many positions as the cassette has sprockets; one sprocket left out of "
        "the lever's own count leaves one click unused, which the limit screws stop. An electronic derailleur "
        "counts in itself. A friction lever takes any count, if "
        "it pulls enough cable. A gear hub has a rule of its own."
    ),
    why="A click too many or too few leaves gears that cannot be reached or that never sit.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "cassette": "cassette",
        "shifter": required("rear_shifter"),
        "derailleur": optional("rear_derailleur"),
        "hub": optional("rear_hub"),
    },
    messages={
        "equal": "{clicks} clicks for {sprockets} sprockets.",
        "one_left_out": "Shifter {clicks} positions; {sprockets} sprockets of the same family: one position unused.",
        "differ": "{clicks} clicks for {sprockets} sprockets.",
        "differ_usable": "Shifter {clicks} positions; cassette {sprockets} sprockets: only {usable} gears usable.",
        "electronic_differ": "Derailleur programmed for {clicks}; cassette {sprockets} sprockets.",
        "friction": "A friction lever shifts any {sprockets} sprockets.",
        "friction_short": "Lever pulls {total_mm:.1f} mm; {sprockets} sprockets need {needed_mm:.1f} mm.",
    },
    figures={
        "clicks": ("positions of the lever (or the derailleur's program)", ""),
        "sprockets": ("sprockets there", ""),
        "clean": ("gears clean from the small end", ""),
        "usable": ("gears usable from the small end", ""),
        "total_mm": ("cable the lever pulls in all", "mm"),
        "needed_mm": ("(sprockets − 1) × pitch ÷ shift ratio", "mm"),
        "table": ("what each click does", ""),
    },
    sources=("index-tolerance", "pull-families"),
)


@CLICKS.clause(may="hub.internal_gears", silences=True)
def hub_shifts(hub: View) -> Outcome | None:
    return SILENT if hub.internal_gears else None


@CLICKS.clause(
    "shifter.mode cassette.sprockets",
    asks="shifter.speeds derailleur.speeds cassette.speeds hub.internal_gears",
    may="cassette.left_out",
    shows="cassette.pitches_mm derailleur.shift_ratio shifter.pull_per_click_mm",
)
def counts(shifter: View, cassette: View, derailleur: View, hub: View) -> Outcome | None:
    if shifter.mode == "friction" or hub.internal_gears:
        return None
    electronic = shifter.mode == "electronic"
    counter = derailleur if electronic and not derailleur.empty else shifter
    clicks, count = int(require(counter).speeds), cassette.sprockets
    figures: dict[str, Any] = {"clicks": clicks, "sprockets": count}
    if clicks == count:
        return goes("equal", **figures)
    if (
        count == 1 and require(hub).internal_gears
    ):  # a lone cog may sit on a gear hub: asked before it is refused
        return None
    if clicks == count + 1 and cassette.left_out != 0 and require(cassette).speeds == clicks:
        return goes_if("one_left_out", need("set the limit screws to stop the unused click"), **figures)
    ways = (way_out(cassette, "speeds", "==", clicks), way_out(counter, "speeds", "==", count))
    if electronic:
        return no_go("electronic_differ", *ways, **figures)
    return _differ(shifter, derailleur, cassette, ways, figures)


def _differ(
    shifter: View, derailleur: View, cassette: View, ways: tuple[Any, ...], figures: dict[str, Any]
) -> Outcome:
    """Unequal counts: how many gears work all the same is said where pull, ratio and pitch are known and can be."""
    clicks, count = figures["clicks"], figures["sprockets"]
    table = [
        {"click": n, "does": f"sprocket {n}" if n <= count else "no sprocket there"}
        for n in range(1, clicks + 1)
    ]
    pitches = cassette.pitches_mm
    known = pitches and len(pitches) == 1 and shifter.pull_per_click_mm and derailleur.shift_ratio
    if not known or 3 * min(clicks, count) < max(clicks, count):
        return no_go("differ", *ways, table=table, **figures)
    try:
        result = index_error(
            pull_per_click_mm=shifter.pull_per_click_mm,
            shift_ratio=derailleur.shift_ratio,
            sprocket_pitch_mm=pitches[0],
            sprockets=count,
            clicks=clicks,
        )
    except InputError:  # such as a pull of 300 mm: the counts differ all the same
        return no_go("differ", *ways, table=table, **figures)
    more = {"clean": result.clean_gears, "usable": result.usable_gears, "table": table}
    return no_go("differ_usable", *ways, **figures, **more)


@CLICKS.clause(
    "shifter.mode cassette.sprockets",
    may="cassette.pitches_mm shifter.total_pull_mm derailleur.shift_ratio hub.internal_gears",
)
def friction_reach(shifter: View, cassette: View, derailleur: View, hub: View) -> Outcome | None:
    """Return a friction lever: any count, so long as its travel reaches the last sprocket."""
    if shifter.mode != "friction" or hub.internal_gears:
        return None
    count, pitch = cassette.sprockets, cassette.pitches_mm
    if shifter.total_pull_mm is None or derailleur.shift_ratio is None or pitch is None:
        return goes("friction", sprockets=count)
    needed = (count - 1) * max(pitch) / derailleur.shift_ratio
    figures = {"sprockets": count, "total_mm": shifter.total_pull_mm, "needed_mm": needed}
    if needed > shifter.total_pull_mm + SLACK:
        return no_go("friction_short", way_out(shifter, "total_pull_mm", ">=", needed), **figures)
    return goes("friction", **figures)


INDEX = rule(
    "index-alignment",
    title="A click moves the chain by one sprocket",
    plain=(
        "Cable pulled per click × shift ratio should equal the sprocket pitch. Lever, derailleur and cassette "
        "of one family match. Mixed ones are judged by the worst error with the adjustment centred over the "
        "whole cassette: quiet, noisy at the ends, or skipping."
    ),
    why="Errors add up from click to click until the chain lies between two sprockets.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "cassette": "cassette",
        "shifter": required("rear_shifter"),
        "derailleur": required("rear_derailleur"),
        "hub": optional("rear_hub"),
    },
    messages={
        "one_family": "{travel_mm:.2f} mm per click, pitch {pitch_mm:.2f} mm: one family ({family}).",
        "adjust": "{travel_mm:.2f} mm per click, pitch {pitch_mm:.2f} mm; centred, {worst_mm:.2f} mm off at the ends.",
        "noisy": "{travel_mm:.2f} mm per click, pitch {pitch_mm:.2f} mm; {worst_mm:.2f} mm off: noisy at the ends.",
        "skips": "{travel_mm:.2f} mm per click, pitch {pitch_mm:.2f} mm; {worst_mm:.2f} mm off at the ends: will skip.",
        "two_systems": "Shifter {clicks} positions; cassette {sprockets} sprockets: cannot index.",
        "two_pitches": "Cassettes of this count have two pitches: measure which this is.",
    },
    figures={
        "travel_mm": ("pull per click × shift ratio", "mm"),
        "pitch_mm": ("sprocket pitch", "mm"),
        "error_mm": ("travel − pitch", "mm"),
        "worst_mm": ("|error| × (gears − 1) / 2, adjustment centred", "mm"),
        "worst_from_small_mm": ("|error| × (gears − 1), set at the small sprocket", "mm"),
        "clean": ("gears clean from the small end", ""),
        "usable": ("gears usable from the small end", ""),
        "family": ("pull family of all three", ""),
        "clicks": ("positions of the lever", ""),
        "sprockets": ("sprockets there", ""),
    },
    settings=("index_clean_mm", "index_noisy_mm"),
    sources=("pull-families", "sprocket-pitches", "index-tolerance"),
)


@INDEX.clause(may="shifter.mode derailleur.actuation hub.internal_gears", silences=True)
def by_clicks(shifter: View, derailleur: View, hub: View) -> Outcome | None:
    indexed = shifter.mode in (None, "indexed") and derailleur.actuation != "electronic"
    return None if indexed and not hub.internal_gears else SILENT


@INDEX.clause("shifter.mode shifter.speeds cassette.sprockets")
def one_system(shifter: View, cassette: View) -> Outcome | None:
    clicks, count = shifter.speeds, cassette.sprockets
    if 2 * min(count, clicks) >= max(count, clicks):
        return None
    return no_go("two_systems", way_out(shifter, "speeds", "==", count), clicks=clicks, sprockets=count)


@INDEX.clause(
    "shifter.mode shifter.speeds shifter.pull_per_click_mm derailleur.shift_ratio cassette.sprockets",
    asks="cassette.pitches_mm cassette.speeds",
)
def alignment(shifter: View, derailleur: View, cassette: View, settings: Settings) -> Outcome | None:
    outcomes = [
        _aligned(cassette, shifter, derailleur, pitch, settings) for pitch in require(cassette).pitches_mm
    ]
    if len({outcome.verdict for outcome in outcomes}) > 1:
        return unmeasured("two_pitches", (cassette, "sprocket_pitch_mm"))
    worst = max(outcomes, key=lambda outcome: float(outcome.because["worst_mm"]))
    if worst.key != "skips" and cassette.speeds is None:
        return unmeasured("two_pitches", (cassette, "speeds"))
    return worst


@INDEX.clause(
    "shifter.mode shifter.pull_per_click_mm derailleur.shift_ratio",
    may="shifter.speeds cassette.sprockets cassette.pitches_mm",
)
def skips_anyway(shifter: View, derailleur: View, cassette: View, settings: Settings) -> Outcome | None:
    """One count is not known: over the fewest gears that are still one system it skips already, and no
    family has such figures.
    """
    counts = [count for count in (shifter.speeds, cassette.sprockets) if count is not None]
    options = cassette.pitches_mm
    if len(counts) != 1 or not options:
        return None
    if any(
        _in_family(row, shifter, derailleur, option)
        for row in table("pull_families").rows
        for option in options
    ):
        return None
    fewest = -(-counts[0] // 2)
    travel = shifter.pull_per_click_mm * derailleur.shift_ratio
    pitch = min(options, key=lambda option: abs(travel - option))
    worst = abs(travel - pitch) * (fewest - 1) / 2
    if worst <= settings.number("index_noisy_mm") + SLACK:
        return None
    pull = shifter.pull_per_click_mm
    way = (
        way_out(derailleur, "shift_ratio", "==", round(pitch / pull, 2))
        if pull > SLACK
        else way_out(shifter, "pull_per_click_mm", "!=", pull)  # a lever that pulls nothing
    )
    return no_go("skips", way, travel_mm=travel, pitch_mm=pitch, worst_mm=worst)


def _in_family(row: Row, shifter: View, derailleur: View, pitch_mm: float) -> bool:
    """Return whether pull, ratio and pitch are those of a row of the pull families, within their rounding."""
    return (
        near(row["pull_mm"], shifter.pull_per_click_mm, PULL_TOLERANCE_MM)
        and near(row["ratio"], derailleur.shift_ratio, RATIO_TOLERANCE)
        and near(row["pitch_mm"], pitch_mm, PITCH_TOLERANCE_MM)
    )


def _family(shifter: View, derailleur: View, cassette: View, pitch_mm: float) -> str | None:
    """Return the pull family in which lever, derailleur and cassette are one row, or None."""
    for row in rows_where("pull_families", "speeds", shifter.speeds):
        if shifter.speeds == cassette.speeds and _in_family(row, shifter, derailleur, pitch_mm):
            return str(row["family"])
    return None


def _aligned(cassette: View, shifter: View, derailleur: View, pitch_mm: float, settings: Settings) -> Outcome:
    """Return the verdict for one sprocket pitch."""
    result = index_error(
        pull_per_click_mm=shifter.pull_per_click_mm,
        shift_ratio=derailleur.shift_ratio,
        sprocket_pitch_mm=pitch_mm,
        sprockets=cassette.sprockets,
        clicks=shifter.speeds,
    )
    clean_mm = settings.number("index_clean_mm")
    gears = min(cassette.sprockets, shifter.speeds)
    figures: dict[str, Any] = {
        "travel_mm": result.travel_per_click_mm,
        "pitch_mm": pitch_mm,
        "error_mm": result.error_per_click_mm,
        "worst_mm": result.worst_centred_mm,
        "worst_from_small_mm": result.worst_from_small_mm,
        "clean": gears_within(limit_mm=clean_mm, error_mm=result.error_per_click_mm, positions=gears),
        "usable": result.usable_gears,
    }
    family = _family(shifter, derailleur, cassette, pitch_mm)
    if family is not None:
        return goes("one_family", family=family, **figures)
    centre = need("adjust the cable in the middle of the cassette")
    if result.worst_centred_mm <= clean_mm + SLACK:
        return goes_if("adjust", centre, **figures)
    if result.worst_centred_mm <= settings.number("index_noisy_mm") + SLACK:
        return goes_if("noisy", centre, need("noise in the end gears"), **figures)
    wanted = pitch_mm / derailleur.shift_ratio
    repair = (
        way_out(shifter, "pull_per_click_mm", "==", round(wanted, 2)),
        way_out(derailleur, "shift_ratio", "==", round(pitch_mm / shifter.pull_per_click_mm, 2)),
    )
    return no_go("skips", *repair, **figures)


PROTOCOL = rule(
    "electronic-protocol",
    title="Electronic parts speak one protocol",
    plain=(
        "Electronic derailleurs and shifters share one protocol; a cable shifter moves no electronic "
        "derailleur and the other way round. Front and rear may be cable and electronic side by side."
    ),
    why="Parts of different protocols do not answer each other.",
    area=Area.DRIVETRAIN,
    joint=("shifting", "rings", "shifting"),
    parts=(
        {
            "one": required("rear_derailleur", works="actuation"),
            "other": required("rear_shifter", works="mode"),
        },
        {
            "one": required("front_derailleur", works="actuation"),
            "other": required("front_shifter", works="mode"),
        },
        {
            "one": required("rear_derailleur", works="actuation"),
            "other": required("front_derailleur", works="actuation"),
        },
    ),
    messages={
        "one_protocol": "Both speak {one.protocol}.",
        "other_protocol": "One speaks {one.protocol}, the other {other.protocol}.",
        "cable_and_wire": "One is electronic, the other works by cable.",
    },
    sources=("maker-limits",),
)


@PROTOCOL.clause(may="one.works other.works", silences=True)
def any_electronic(one: View, other: View) -> Outcome | None:
    return None if "electronic" in (one.works, other.works) else SILENT


@PROTOCOL.clause("one.works other.works", asks="one.protocol other.protocol", silences=True)
def speak(one: View, other: View) -> Outcome | None:
    electronic = [view.works == "electronic" for view in (one, other)]
    if not any(electronic):
        return None
    if all(electronic):
        if require(one).protocol == require(other).protocol:
            return goes("one_protocol")
        return no_go("other_protocol", way_out(other, "protocol", "==", require(one).protocol))
    if {one.slot, other.slot} == {"rear_derailleur", "front_derailleur"}:
        return SILENT
    return no_go(
        "cable_and_wire", way_out(other, "works", "==", "electronic" if electronic[0] else "indexed")
    )


SHIFT_LINE = rule(
    "shift-line-type",
    title="Shift line is shift housing",
    plain=(
        "A shift cable runs in shift housing; a hose carries "
        "none, and a bare inner alone cannot push back on a lever."
    ),
    why="Coiled housing shortens under load, so that the clicks no longer match the sprockets.",
    area=Area.DRIVETRAIN,
    joint=("shifting", "rings"),
    parts=({"line": required("rear_shift_line")}, {"line": required("front_shift_line")}),
    messages={
        "housing": "The line is made for shifting.",
        "brake_housing": "Brake housing gives under each click: shifting is vague.",
        "other": "A {line.type} is no shift line.",
    },
    sources=("brake-practice",),
)


@SHIFT_LINE.clause("line.type")
def line_type(line: View) -> Outcome | None:
    if line.type in ("hose", "bare"):
        return no_go("other", way_out(line, "type", "==", "shift_housing"))
    if line.type == "brake_housing":
        return goes_if("brake_housing", need("vague shifting"))
    return goes("housing")
