"""Pedals: in the arms, and clear of the ground."""

from __future__ import annotations

from unkett.core.calc.wheels import bracket_height
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import required
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

PEDAL_CLEAR_MM = limit_of("pedal_clear_mm")


HEIGHT = rule(
    "bracket-height",
    title="Pedals clear the ground",
    plain=(
        "Bracket height less the arm is what a pedal has to spare; under {pedal_clear_mm} mm it may strike in a "
        "bend. Said where wheel, drop and arm are known."
    ),
    why="A pedal that strikes the ground in a bend lifts the wheel and throws the rider.",
    area=Area.BRACKET,
    joint="bracket",
    parts={
        "frame": "frame",
        "crank": "crank",
        "rim": required("rear_rim"),
        "tyre": required("rear_tyre"),
    },
    messages={
        "clear": "Bottom bracket {height_mm:.0f} mm high; {left_mm:.0f} mm under the crank.",
        "strikes": "Bottom bracket {height_mm:.0f} mm high; {left_mm:.0f} mm under the crank: pedal strike possible.",
    },
    figures={
        "height_mm": ("outer radius of the rear wheel − bracket drop", "mm"),
        "left_mm": ("height − arm", "mm"),
    },
    sources=("tyre-practice",),
)


@HEIGHT.clause(given="frame.bb_drop_mm crank.arm_mm rim.bsd_mm", may="tyre.width_mm tyre.width_measured_mm")
def pedal_height(frame: View, crank: View, rim: View, tyre: View) -> Outcome | None:
    height = bracket_height(
        drop_mm=frame.bb_drop_mm,
        bsd_mm=rim.bsd_mm,
        nominal_mm=tyre.width_mm,
        measured_mm=tyre.width_measured_mm,
    )
    if height is None:
        return None
    left = height - crank.arm_mm
    figures = {"height_mm": height, "left_mm": left}
    if left >= PEDAL_CLEAR_MM - SLACK:
        return goes("clear", **figures)
    return goes_if("strikes", need("pedal may strike in a bend"), **figures)


PEDAL = rule(
    "pedal-thread",
    title="Pedals screw into the arms",
    plain="9/16 in pedals go in 9/16 in arms, 1/2 in in one-piece cranks. The left pedal has a left-hand thread.",
    why="A pedal in the wrong thread strips the arm and breaks off underfoot.",
    area=Area.BRACKET,
    joint="bracket",
    parts={"crank": "crank", "pedals": "pedals"},
    messages={
        "same": "Pedal and crank threads match; the left pedal is left-hand.",
        "other": "Pedal and crank threads differ.",
    },
    sources=("pedal-threads",),
    safety=True,
)


@PEDAL.clause("crank.pedal_thread pedals.thread")
def pedal_thread(crank: View, pedals: View) -> Outcome:
    if crank.pedal_thread == pedals.thread:
        return goes("same")
    return no_go("other", way_out(pedals, "thread", "==", crank.pedal_thread))
