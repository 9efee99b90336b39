"""Bottom bracket and crank: shell, spindle, width, height over the ground, pedals."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.bottom_bracket import crank_spacing
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import at_both_brackets, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup, table
from unkett.core.vocabulary import Area

WIDTH_TOLERANCE_MM = limit_of("shell_width_off_mm")
SPACER_TOLERANCE_MM = limit_of("bracket_spacers_off_mm")
PLATE_MM = limit_of("bracket_plate_mm")
SPINDLE_CLOSE_MM = limit_of("spindle_close_mm")
SPINDLE_FAR_MM = limit_of("spindle_far_mm")
CARTRIDGE_SPINDLES = ("square_jis", "square_iso", "spline8", "spline10", "one_piece")

SHELL = rule(
    "bb-shell",
    title="Bracket goes in the shell",
    plain=(
        "A bracket goes in a shell of its own code and a listed width. A few shells take another bracket by a "
        "sleeve, by adapter cups or by tapping. A thick spindle is more than some shells can hold: in a threaded "
        "shell its bearings must stand outside. A cast motor housing takes no bracket."
    ),
    why=(
        "Threads of another pitch strip the shell, and a bracket pressed into the wrong bore creaks, moves or "
        "splits it."
    ),
    area=Area.BRACKET,
    joint=("bracket", "captain_bracket"),
    parts=at_both_brackets(frame="frame", bracket="bottom_bracket"),
    messages={
        "fits": "Shell and bracket are alike and {frame.bb_shell_width_mm:g} mm is a width it is made for.",
        "converted": "Bottom bracket needs {by}.",
        "other_shell": "Bottom bracket: {bracket.shell}. Shell: {frame.bb_shell}. Incompatible.",
        "cast": "A cast motor housing is its own bracket: none goes in.",
        "other_width": "The shell is {frame.bb_shell_width_mm:g} mm wide; the bracket is made for {widths}.",
        "small_bearings": "{bracket.spindle}: room for small bearings only; they wear out soon.",
        "cannot_hold": "{bracket.spindle}: this shell has no room for it and its bearings.",
        "adapter_cups": "{bracket.spindle}: it goes in this shell in adapter cups.",
    },
    figures={
        "by": ("what converts the shell", ""),
        "widths": ("shell widths the bracket is made for, mm", ""),
    },
    sources=("bracket-shells", "bracket-reducers"),
)


@SHELL.clause("frame.bb_shell bracket")
def cast(frame: View, bracket: View) -> Outcome | None:
    if frame.bb_shell != "motor_cast":
        return None
    return no_go("cast", way_out(frame, "bb_shell", "==", "bsa"))


@SHELL.clause("bracket.shell")
def for_a_motor(bracket: View) -> Outcome | None:
    if bracket.shell != "motor_cast":
        return None
    return no_go("cast", way_out(bracket, "shell", "!=", "motor_cast"))


@SHELL.clause("frame.bb_shell bracket.shell", may="bracket.shells")
def code(frame: View, bracket: View) -> Outcome | None:
    if frame.bb_shell in (bracket.shell, *(bracket.shells or ())):
        return None
    for row in table("bracket_conversions").rows:
        if (row["shell"], row["bracket"]) == (frame.bb_shell, bracket.shell):
            return goes_if("converted", need(row["by"], fits=bracket.shell), by=row["by"])
    return no_go("other_shell", way_out(bracket, "shell", "==", frame.bb_shell))


@SHELL.clause(
    "frame.bb_shell_width_mm bracket.shell_widths_mm", may="frame.bb_shell bracket.shell bracket.shells"
)
def width(frame: View, bracket: View) -> Outcome | None:
    widths = bracket.shell_widths_mm
    if bracket.shells and frame.bb_shell in bracket.shells:  # of several shells those of this one count
        widths = [*widths, *lookup("bracket_shells", "code")[frame.bb_shell]["widths_mm"]]
    if any(near(frame.bb_shell_width_mm, item, WIDTH_TOLERANCE_MM) for item in widths):
        return None if None in (frame.bb_shell, bracket.shell) else goes("fits")
    way = way_out(bracket, "shell_widths_mm", "has", frame.bb_shell_width_mm)
    return no_go("other_width", way, widths=", ".join(f"{item:g}" for item in widths))


def room_for(spindle: str, shell: str) -> str:
    """Return what a shell's room means for a spindle, by the table; empty where there is room."""
    return next(
        (
            row["room"]
            for row in table("spindle_room").rows
            if shell in row["shells"] and spindle in row["spindles"]
        ),
        "",
    )


@SHELL.clause("frame.bb_shell", given="bracket.spindle", may="bracket.shell")
def spindle_in_shell(frame: View, bracket: View) -> Outcome | None:
    """Return a spindle in a shell that has no room for it, whatever the bracket is."""
    room = room_for(bracket.spindle, frame.bb_shell)
    if room == "no":
        return no_go("cannot_hold", way_out(bracket, "spindle", "!=", bracket.spindle))
    if room == "adapter cups" and bracket.shell == frame.bb_shell:
        return goes_if("adapter_cups", need("adapter cups", fits="bsa"))
    return None


@SHELL.clause("bracket.shell", given="bracket.spindle", asks="bracket.flanges_mm")
def spindle_in_bracket(bracket: View) -> Outcome | None:
    """Return what a spindle means for the bracket's own shell."""
    room = room_for(bracket.spindle, bracket.shell)
    if room == "small balls":
        return goes_if("small_bearings", need("small-ball bearings, replaced more often"))
    flanges = bracket.flanges_mm
    if room == "outside" and bracket.spindle == "d30":
        flanges = require(bracket).flanges_mm
    if room == "no" or (room == "outside" and flanges == 0):
        return no_go("cannot_hold", way_out(bracket, "spindle", "!=", bracket.spindle))
    return None


CRANK_SHELL = rule(
    "crank-shell",
    title="Crank has room in the shell",
    plain=(
        "Where no bracket is recorded the crank alone is held against the shell: its spindle must have room there. A "
        "one-piece crank goes in its own shell only, and a cast motor housing takes the motor's own cranks."
    ),
    why="A spindle thicker than the shell leaves no room for bearings that last.",
    area=Area.BRACKET,
    joint=("bracket", "captain_bracket"),
    parts=at_both_brackets(
        frame="frame", crank="crank", bracket=optional("bottom_bracket"), motor=optional("motor")
    ),
    messages={
        "cannot_hold": "{crank.spindle}: this shell has no room for it and its bearings.",
        "small_bearings": "{crank.spindle}: room for small bearings only; they wear out soon.",
        "adapter_cups": "{crank.spindle}: it goes in this shell in adapter cups.",
        "one_piece": "A one-piece crank fits only a 51.3 mm shell.",
        "cast": "A cast motor housing takes only the motor's own cranks.",
    },
    sources=("bracket-shells",),
)


@CRANK_SHELL.clause(may="bracket.shell", silences=True)
def has_no_bracket(bracket: View) -> Outcome | None:
    return None if bracket.empty else SILENT


@CRANK_SHELL.clause("crank", given="frame.bb_shell", asks="motor")
def cast_housing(frame: View, crank: View, motor: View) -> Outcome | None:
    if frame.bb_shell != "motor_cast" or require(motor).there:
        return None  # with a motor its own rule speaks
    return no_go("cast", way_out(frame, "bb_shell", "!=", "motor_cast"))


@CRANK_SHELL.clause(given="frame.bb_shell crank.spindle")
def crank_in_shell(frame: View, crank: View) -> Outcome | None:
    shell, spindle = frame.bb_shell, crank.spindle
    other = way_out(crank, "spindle", "!=", spindle)
    if shell == "motor_cast":
        return None
    if spindle == "one_piece" != shell:
        return no_go("one_piece", other)
    room = room_for(spindle, shell)
    if room == "no":
        return no_go("cannot_hold", other)
    if room == "small balls":
        return goes_if("small_bearings", need("small-ball bearings, replaced more often"))
    if room == "adapter cups":
        return goes_if("adapter_cups", need("adapter cups", fits="bsa"))
    return None


SPINDLE = rule(
    "crank-spindle",
    title="Crank sits on the bracket's spindle or in its bearings",
    plain=(
        "Spindle codes must be equal. A few cranks go in another bracket's bearings by sleeves. A cartridge spindle "
        "within {spindle_close_mm} mm of the crank's figure goes, to {spindle_far_mm} mm if the chainline may move "
        "by half of it."
    ),
    why="An arm on the wrong taper or splines works loose, rounds its seat and comes off under the rider's weight.",
    area=Area.BRACKET,
    joint=("bracket", "captain_bracket"),
    parts=at_both_brackets(crank="crank", bracket="bottom_bracket"),
    messages={
        "same": "Crank and bracket have one sort of spindle.",
        "by_sleeve": "Crank: {crank.spindle}. Bracket: {bracket.spindle}. They go with {by}.",
        "other_spindle": "Crank: {crank.spindle}. Bottom bracket: {bracket.spindle}. Incompatible.",
        "length_close": "The spindle is {off_mm:.1f} mm too {way}: the chainline moves {moves_mm:.2f} mm.",
        "length_far": "The spindle is {off_mm:.1f} mm too {way} for this crank.",
    },
    figures={
        "by": ("what makes it fit", ""),
        "off_mm": ("spindle length against the crank's figure", "mm"),
        "way": ("long or short", ""),
        "moves_mm": ("half the difference", "mm"),
    },
    sources=("bracket-reducers",),
)


@SPINDLE.clause("crank.spindle bracket.spindle", asks="bracket.shell")
def spindle(crank: View, bracket: View) -> Outcome:
    if crank.spindle == bracket.spindle:
        return goes("same")
    for row in table("spindle_pairs").rows:
        if (row["crank"], row["bracket"]) == (crank.spindle, bracket.spindle) and (
            "shells" not in row or require(bracket).shell in row["shells"]
        ):
            return goes_if("by_sleeve", need(row["by"]), by=row["by"])
    ways = (
        way_out(bracket, "spindle", "==", crank.spindle),
        way_out(crank, "spindle", "==", bracket.spindle),
    )
    return no_go("other_spindle", *ways)


@SPINDLE.clause(given="crank.spindle_length_mm bracket.spindle_length_mm")
def spindle_length(crank: View, bracket: View) -> Outcome | None:
    """Return a cartridge spindle against the crank's figure, where both are given."""
    off = bracket.spindle_length_mm - crank.spindle_length_mm
    if near(off, 0, SPINDLE_CLOSE_MM):
        return None
    figures = {"off_mm": abs(off), "moves_mm": abs(off) / 2, "way": "long" if off > 0 else "short"}
    if near(off, 0, SPINDLE_FAR_MM):
        return goes_if("length_close", need("check the chainline and the arms' clearance"), **figures)
    way = way_out(bracket, "spindle_length_mm", "==", crank.spindle_length_mm)
    return no_go("length_far", way, **figures)


WIDTH = rule(
    "bb-width",
    title="Crank spans shell, cups and spacers",
    plain=(
        "Shell + cups outside it + spacers must be what the crank's spindle wants, within its preload range. A crank "
        "that lists several widths of this shell's family is built for the widest of them: the difference goes into "
        "spacers. A plate behind a cup (of a chain guide or a front derailleur) takes the place of "
        "{bracket_plate_mm} mm."
    ),
    why="Too wide and the bearings are crushed; too narrow and the crank knocks from side to side.",
    area=Area.BRACKET,
    joint=("bracket", "captain_bracket"),
    parts=at_both_brackets(
        frame="frame",
        bracket="bottom_bracket",
        crank="crank",
        guide=optional("chain_guide"),
        fd=optional("front_derailleur"),
    ),
    messages={
        "fits": "Gap {gap_mm:.1f} mm; the preload takes up {range_mm:.1f} mm.",
        "squeezed": "Shell, cups and spacers {over_mm:.1f} mm too wide.",
        "spacers": "Gap {gap_mm:.1f} mm: add {spacers_mm:.1f} mm of spacers.",
        "widest": "The crank is built for this shell width.",
        "shell_spacers": "Shell {frame.bb_shell_width_mm:g} mm: this crank needs {spacers_mm:.1f} mm of spacers.",
        "shell_spaced": "The {spacers_mm:.1f} mm of spacers that this shell needs are fitted.",
        "too_wide": "The shell is wider than any this crank is built for ({widest_mm:g} mm).",
        "no_width": "The crank lists no width of this shell's family.",
    },
    figures={
        "gap_mm": ("width the spindle wants − shell − cups − spacers fitted", "mm"),
        "range_mm": ("what the preload takes up", "mm"),
        "over_mm": ("how much wider than wanted", "mm"),
        "spacers_mm": ("spacers in all, plates counted", "mm"),
        "widest_mm": ("widest shell of this family that the crank lists", "mm"),
    },
    sources=("bracket-reducers", "bracket-shells"),
)
_PLATES = "guide.mount fd.mount"


def _plates(guide: View, fd: View) -> float:
    """Millimetres of plates behind the cups."""
    return PLATE_MM * sum(1 for view in (guide, fd) if view.mount == "bb_plate")


def _by_figures(crank: View, bracket: View) -> bool:
    return None not in (crank.spindle_needs_mm, bracket.flanges_mm)


@WIDTH.clause(
    "frame.bb_shell_width_mm",
    given="crank.spindle_needs_mm bracket.flanges_mm",
    asks="crank.preload_range_mm",
    may=f"bracket.spacers_mm {_PLATES}",
)
def by_figures(frame: View, crank: View, bracket: View, guide: View, fd: View) -> Outcome:
    taken_up = crank.preload_range_mm
    result = crank_spacing(
        spindle_needs_mm=crank.spindle_needs_mm,
        shell_mm=frame.bb_shell_width_mm,
        flanges_mm=bracket.flanges_mm + (bracket.spacers_mm or 0.0) + _plates(guide, fd),
        range_mm=taken_up or 0.0,
    )
    figures: dict[str, Any] = {"gap_mm": result.gap_mm, "range_mm": taken_up or 0.0}
    if not result.fits:
        way = way_out(crank, "spindle_needs_mm", ">=", crank.spindle_needs_mm - result.gap_mm)
        return no_go("squeezed", way, over_mm=-result.gap_mm, **figures)
    if result.spacers_mm == 0:
        return goes("fits", **figures)
    require(crank, "preload_range_mm")
    spacers = need("cup spacers", size_mm=round(result.spacers_mm, 2), where="between cups and arms")
    return goes_if("spacers", spacers, spacers_mm=result.spacers_mm, **figures)


@WIDTH.clause(
    "frame.bb_shell_width_mm",
    given="crank.shell_widths_mm",
    asks="frame.bb_shell",
    may=f"bracket.spacers_mm bracket.flanges_mm crank.spindle_needs_mm {_PLATES}",
)
def by_list(frame: View, crank: View, bracket: View, guide: View, fd: View) -> Outcome | None:
    if _by_figures(crank, bracket):
        return None
    if all(frame.bb_shell_width_mm > item + WIDTH_TOLERANCE_MM + SLACK for item in crank.shell_widths_mm):
        return _too_wide(frame, crank, max(crank.shell_widths_mm))
    family = lookup("bracket_shells", "code")[require(frame).bb_shell]["widths_mm"]
    listed = [
        item for item in crank.shell_widths_mm if any(near(item, own, WIDTH_TOLERANCE_MM) for own in family)
    ]
    if not listed:
        return unmeasured("no_width", (crank, "shell_widths_mm"))
    spare = max(listed) - frame.bb_shell_width_mm
    if spare < -WIDTH_TOLERANCE_MM - SLACK:
        return _too_wide(frame, crank, max(listed))
    spare = 0.0 if near(spare, 0, WIDTH_TOLERANCE_MM) else spare
    there = (bracket.spacers_mm or 0.0) + _plates(guide, fd)
    if there > spare + SPACER_TOLERANCE_MM + SLACK:
        return no_go("squeezed", way_out(bracket, "spacers_mm", "==", spare), over_mm=there - spare)
    if spare == 0:
        return goes("widest")
    if near(there, spare, SPACER_TOLERANCE_MM):
        return goes("shell_spaced", spacers_mm=spare)
    left = spare - there
    plates = _plates(guide, fd)
    other = left + (bracket.spacers_mm or 0.0) if plates else 0.0
    if plates and near(other, spare / 2, SPACER_TOLERANCE_MM):  # the plate is the drive side's half
        one = need(
            "cup spacers",
            size_mm=round(left, 2),
            count=1,
            where="on the left; the plate takes the drive side",
        )
        return goes_if("shell_spacers", one, spacers_mm=spare)
    half = need("cup spacers", size_mm=round(left / 2, 2), count=2, where="one on each side")
    return goes_if("shell_spacers", half, spacers_mm=spare)


def _too_wide(frame: View, crank: View, widest: float) -> Outcome:
    way = way_out(crank, "shell_widths_mm", "has", frame.bb_shell_width_mm)
    return no_go("too_wide", way, widest_mm=widest)


@WIDTH.clause(
    "crank", asks="crank.shell_widths_mm bracket.flanges_mm", may="crank.spindle crank.spindle_needs_mm"
)
def how_wide(crank: View, bracket: View) -> Outcome | None:
    """Return what must be known: the figures, or the list; nothing for a cartridge."""
    if _by_figures(crank, bracket) or crank.shell_widths_mm is not None:
        return None
    if crank.spindle not in CARTRIDGE_SPINDLES:
        if crank.spindle_needs_mm is not None:
            require(bracket, "flanges_mm")
        else:
            require(crank, "shell_widths_mm")
    return None
