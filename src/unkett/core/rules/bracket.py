"""Bottom bracket and crank: shell, spindle, width; pedals and mid motors."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.bracket import crank_spacing
from unkett.core.rules.base import (
    Outcome,
    View,
    goes,
    goes_if,
    near,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
    worst_outcome,
)
from unkett.core.standards import lookup, table
from unkett.core.vocabulary import Area

WIDTH_TOLERANCE_MM = 0.5
SPACER_TOLERANCE_MM = 0.3
SPINDLE_CLOSE_MM = 1.0
SPINDLE_FAR_MM = 3.0
CARTRIDGE_SPINDLES = ("square_jis", "square_iso", "spline8", "spline10", "one_piece")


@rule(
    "bb-shell",
    title="Bracket goes in the shell",
    plain=(
        "A bracket goes in a shell of its own code and a listed width. A few shells take another bracket by "
        "a sleeve or by tapping, for good. A 30 mm spindle is more than some shells can hold."
    ),
    area=Area.BRACKET,
    reads={
        "frame": ("bb_shell", "bb_shell_width_mm"),
        "bottom_bracket": ("shell", "shell_widths_mm", optional("spindle"), optional("flanges_mm")),
    },
    messages={
        "fits": "Shell and bracket are alike and {frame.bb_shell_width_mm:g} mm is a width it is made for.",
        "converted": "The shell takes this bracket by {by}.",
        "other_shell": "A {bottom_bracket.shell} bracket does not go in a {frame.bb_shell} shell.",
        "other_width": "The shell is {frame.bb_shell_width_mm:g} mm wide; the bracket is made for {widths}.",
        "small_bearings": "A 30 mm spindle leaves room for small bearings only: short life.",
        "cannot_hold": "This shell cannot hold a 30 mm spindle.",
        "cups_unknown": "A 30 mm spindle wants cups outside this shell; they are not measured.",
    },
    figures={"by": "what converts the shell", "widths": "shell widths the bracket is made for, mm"},
    sources=("bracket-shells", "bracket-reducers"),
)
def bb_shell(frame: View, bottom_bracket: View) -> Outcome:
    widths = bottom_bracket.shell_widths_mm
    outcome = goes("fits")
    if bottom_bracket.shell != frame.bb_shell:
        for row in table("bracket_conversions").rows:
            if (row["shell"], row["bracket"]) == (frame.bb_shell, bottom_bracket.shell):
                outcome = goes_if("converted", need(row["by"], caution=row["caution"]), by=row["by"])
                break
        else:
            return no_go("other_shell", way_out(bottom_bracket, "shell", "==", frame.bb_shell))
    if not any(near(frame.bb_shell_width_mm, width, WIDTH_TOLERANCE_MM) for width in widths):
        way = way_out(bottom_bracket, "shell_widths_mm", "has", frame.bb_shell_width_mm)
        return no_go("other_width", way, widths=", ".join(f"{width:g}" for width in widths))
    return worst_outcome([_thirty(bottom_bracket), outcome]) or outcome


def _thirty(bracket: View) -> Outcome | None:
    """What a 30 mm spindle means for this shell."""
    if bracket.spindle != "d30":
        return None
    holds = lookup("bracket_shells", "code")[bracket.shell]["holds_30"]
    if holds == "small bearings":
        return goes_if(
            "small_bearings", need("small-ball bearings, replaced more often", caution="short life")
        )
    if holds == "external" and bracket.flanges_mm is None:
        return unmeasured("cups_unknown", (bracket, "flanges_mm"))
    if holds == "no" or (holds == "external" and bracket.flanges_mm == 0):
        return no_go("cannot_hold", way_out(bracket, "spindle", "!=", "d30"))
    return None


@rule(
    "crank-spindle",
    title="Crank sits on the bracket's spindle or in its bearings",
    plain=(
        "Spindle codes must be equal. A few cranks go in another bracket's bearings by sleeves. A cartridge "
        "spindle within 1 mm of the crank's figure goes, to 3 mm if the chainline may move by half of it."
    ),
    area=Area.BRACKET,
    reads={
        "crank": ("spindle", optional("spindle_length_mm")),
        "bottom_bracket": ("spindle", optional("spindle_length_mm"), optional("shell")),
    },
    messages={
        "same": "Crank and bracket have one sort of spindle.",
        "by_sleeve": "A {crank.spindle} crank goes on a {bottom_bracket.spindle} bracket with {by}.",
        "other_spindle": "A {crank.spindle} crank does not go on a {bottom_bracket.spindle} bracket.",
        "length_close": "The spindle is {off_mm:+.1f} mm off the crank's figure: the chainline moves {moves_mm:.2f} mm.",
        "length_far": "The spindle is {off_mm:+.1f} mm off the crank's figure.",
    },
    figures={
        "by": "what makes it fit",
        "off_mm": "spindle length − the crank's figure",
        "moves_mm": "half the difference",
    },
    sources=("bracket-reducers",),
)
def crank_spindle(crank: View, bottom_bracket: View) -> Outcome:
    outcome = goes("same")
    if crank.spindle != bottom_bracket.spindle:
        for row in table("spindle_pairs").rows:
            shells = row.get("shells")
            if (row["crank"], row["bracket"]) == (crank.spindle, bottom_bracket.spindle) and (
                shells is None or bottom_bracket.shell in shells
            ):
                outcome = goes_if("by_sleeve", need(row["by"]), by=row["by"])
                break
        else:
            ways = (
                way_out(bottom_bracket, "spindle", "==", crank.spindle),
                way_out(crank, "spindle", "==", bottom_bracket.spindle),
            )
            return no_go("other_spindle", *ways)
    return worst_outcome([_length(crank, bottom_bracket), outcome]) or outcome


def _length(crank: View, bracket: View) -> Outcome | None:
    """A cartridge spindle against the crank's figure, where both are given."""
    if crank.spindle_length_mm is None or bracket.spindle_length_mm is None:
        return None
    off = bracket.spindle_length_mm - crank.spindle_length_mm
    if near(off, 0, SPINDLE_CLOSE_MM):
        return None
    figures = {"off_mm": off, "moves_mm": abs(off) / 2}
    if near(off, 0, SPINDLE_FAR_MM):
        return goes_if("length_close", need("check the chainline and the arms' clearance"), **figures)
    return no_go(
        "length_far", way_out(bracket, "spindle_length_mm", "==", crank.spindle_length_mm), **figures
    )


@rule(
    "bb-width",
    title="Crank spans shell, cups and spacers",
    plain=(
        "Shell + cups outside it + spacers must be what the crank's spindle wants, within its preload range. "
        "A crank that lists several shell widths is built for the widest: the difference goes into spacers."
    ),
    area=Area.BRACKET,
    reads={
        "frame": ("bb_shell_width_mm",),
        "bottom_bracket": (optional("flanges_mm"), optional("spacers_mm")),
        "crank": (
            optional("spindle"),
            optional("shell_widths_mm"),
            optional("spindle_needs_mm"),
            optional("preload_range_mm"),
        ),
    },
    messages={
        "fits": "The gap is {gap_mm:.1f} mm and the preload takes up {range_mm:.1f} mm.",
        "squeezed": "Shell, cups and spacers are {over_mm:.1f} mm wider than the spindle wants.",
        "spacers": "The gap is {gap_mm:.1f} mm: {spacers_mm:.1f} mm of spacers are wanted.",
        "range_unknown": "The gap is {gap_mm:.1f} mm; what the preload takes up is not measured.",
        "widest": "The crank is built for this shell width.",
        "shell_spacers": "A {frame.bb_shell_width_mm:g} mm shell wants {spacers_mm:.1f} mm of spacers with this crank.",
        "shell_spaced": "The {spacers_mm:.1f} mm of spacers this shell wants are fitted.",
        "too_wide": "The shell is wider than any this crank is built for ({widest_mm:g} mm).",
        "unknown": "How wide the crank wants the bracket is not measured.",
    },
    figures={
        "gap_mm": "width the spindle wants − shell − cups − spacers fitted",
        "range_mm": "what the preload takes up",
        "over_mm": "how much wider than wanted",
        "spacers_mm": "spacers in all",
        "widest_mm": "widest shell of the crank",
    },
    sources=("bracket-reducers",),
)
def bb_width(frame: View, bottom_bracket: View, crank: View) -> Outcome | None:
    if crank.spindle_needs_mm is not None and bottom_bracket.flanges_mm is not None:
        return _by_figures(frame, bottom_bracket, crank)
    if crank.shell_widths_mm is not None:
        return _by_list(frame, bottom_bracket, crank)
    if crank.spindle in CARTRIDGE_SPINDLES:
        return None
    if crank.spindle_needs_mm is not None:
        return unmeasured("unknown", (bottom_bracket, "flanges_mm"))
    return unmeasured("unknown", (crank, "shell_widths_mm"))


def _by_figures(frame: View, bracket: View, crank: View) -> Outcome:
    result = crank_spacing(
        spindle_needs_mm=crank.spindle_needs_mm,
        shell_mm=frame.bb_shell_width_mm,
        flanges_mm=bracket.flanges_mm + (bracket.spacers_mm or 0.0),
        range_mm=crank.preload_range_mm or 0.0,
    )
    figures: dict[str, Any] = {"gap_mm": result.gap_mm, "range_mm": crank.preload_range_mm or 0.0}
    if not result.fits:
        way = way_out(crank, "spindle_needs_mm", ">=", crank.spindle_needs_mm - result.gap_mm)
        return no_go("squeezed", way, over_mm=-result.gap_mm, **figures)
    if result.spacers_mm == 0:
        return goes("fits", **figures)
    if crank.preload_range_mm is None:
        return unmeasured("range_unknown", (crank, "preload_range_mm"), **figures)
    spacers = need("spacers", size_mm=round(result.spacers_mm, 2), where="between cups and arms")
    return goes_if("spacers", spacers, spacers_mm=result.spacers_mm, **figures)


def _by_list(frame: View, bracket: View, crank: View) -> Outcome:
    widest = max(crank.shell_widths_mm)
    wanted = widest - frame.bb_shell_width_mm
    if wanted < -WIDTH_TOLERANCE_MM - SLACK:
        way = way_out(crank, "shell_widths_mm", "has", frame.bb_shell_width_mm)
        return no_go("too_wide", way, widest_mm=widest)
    wanted = 0.0 if near(wanted, 0, WIDTH_TOLERANCE_MM) else wanted
    fitted = bracket.spacers_mm or 0.0
    if fitted > wanted + SPACER_TOLERANCE_MM:
        return no_go("squeezed", way_out(bracket, "spacers_mm", "==", wanted), over_mm=fitted - wanted)
    if wanted == 0:
        return goes("widest")
    if near(fitted, wanted, SPACER_TOLERANCE_MM):
        return goes("shell_spaced", spacers_mm=wanted)
    half = need("spacers", size_mm=round(wanted / 2, 2), where="on each side")
    return goes_if("shell_spacers", half, spacers_mm=wanted)


@rule(
    "pedal-thread",
    title="Pedals screw into the arms",
    plain="9/16 in pedals go in 9/16 in arms, 1/2 in in one-piece cranks. The left pedal has a left-hand thread.",
    area=Area.BRACKET,
    reads={"crank": ("pedal_thread",), "pedals": ("thread",)},
    messages={
        "same": "Pedals and arms have one thread; the left pedal is left-hand.",
        "other": "The pedals have another thread than the arms.",
    },
    sources=("pedal-threads",),
    safety=True,
)
def pedal_thread(crank: View, pedals: View) -> Outcome:
    if crank.pedal_thread == pedals.thread:
        return goes("same")
    return no_go("other", way_out(pedals, "thread", "==", crank.pedal_thread))


@rule(
    "motor-shell",
    title="Mid motor goes in the shell",
    plain="A motor at the bracket fits only the shells its maker lists; a cast motor housing takes only its own.",
    area=Area.BRACKET,
    reads={"frame": ("bb_shell",), "motor": ("type", optional("bb_shell"))},
    messages={
        "listed": "The motor is made for this shell.",
        "other": "The motor is not made for a {frame.bb_shell} shell.",
        "unknown": "Which shells the motor fits is not known.",
    },
    sources=("maker-limits",),
)
def motor_shell(frame: View, motor: View) -> Outcome | None:
    if motor.type != "mid_bracket":
        return None
    if motor.bb_shell is None:
        return unmeasured("unknown", (motor, "bb_shell"))
    if frame.bb_shell in motor.bb_shell:
        return goes("listed")
    return no_go("other", way_out(motor, "bb_shell", "has", frame.bb_shell))
