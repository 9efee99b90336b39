"""Thru axles: thread, diameter, length and head against the dropout they screw into. All safety."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

DIA_OFF_MM = limit_of("thru_axle_dia_off_mm")
PITCH_OFF_MM = limit_of("thru_axle_pitch_off_mm")
LENGTH_OFF_MM = limit_of("thru_axle_length_off_mm")
SHORT_MM = limit_of("thru_axle_short_mm")
LONG_MM = limit_of("thru_axle_long_mm")

THREAD = rule(
    "axle-thread",
    title="Thru axle screws into the dropout",
    plain=(
        "Diameter within {thru_axle_dia_off_mm} mm and pitch within {thru_axle_pitch_off_mm} mm, else it does not go "
        "and is never forced. Length within {thru_axle_length_off_mm} mm goes, to {thru_axle_short_mm} mm shorter if "
        "the turns are counted (10 mm of thread), to {thru_axle_long_mm} mm longer if the head clamps before the "
        "thread runs out. A flat head and a cone never mix."
    ),
    why="An axle that does not screw in fully is pulled out by the brake.",
    area=Area.WHEELS,
    joint=both_ends("axle"),
    parts=at_both_ends(axle="{end}_axle", holder=HOLDER),
    messages={
        "fits": "Thru axle M{axle.dia_mm:g} × {axle.thread_pitch_mm:g}, {axle.length_mm:g} mm, as the dropout needs.",
        "other_dia": "Thru axle {axle.dia_mm:g} mm; dropout {holder.axle_dia_mm:g} mm.",
        "other_pitch": "Thru axle pitch {axle.thread_pitch_mm:g} mm; dropout {holder.axle_thread_pitch_mm:g} mm.",
        "other_head": "Thru axle head and dropout seat differ: one is flat, one a cone.",
        "short": "Thru axle {off_mm:g} mm shorter than the {holder.axle_length_mm:g} mm the dropout needs.",
        "long": "Thru axle {off_mm:g} mm longer than the {holder.axle_length_mm:g} mm the dropout needs.",
        "too_short": "Thru axle {axle.length_mm:g} mm; the dropout needs {holder.axle_length_mm:g} mm.",
        "too_long": "Thru axle {axle.length_mm:g} mm is too long; the dropout needs {holder.axle_length_mm:g} mm.",
    },
    figures={"off_mm": ("difference of the lengths", "mm")},
    sources=("axles",),
    safety=True,
)


@THREAD.clause("axle.dia_mm holder.axle_dia_mm")
def diameter(axle: View, holder: View) -> Outcome | None:
    if near(axle.dia_mm, holder.axle_dia_mm, DIA_OFF_MM):
        return None
    return no_go("other_dia", way_out(axle, "dia_mm", "==", holder.axle_dia_mm))


@THREAD.clause("axle.thread_pitch_mm holder.axle_thread_pitch_mm")
def pitch(axle: View, holder: View) -> Outcome | None:
    if near(axle.thread_pitch_mm, holder.axle_thread_pitch_mm, PITCH_OFF_MM):
        return None
    return no_go("other_pitch", way_out(axle, "thread_pitch_mm", "==", holder.axle_thread_pitch_mm))


@THREAD.clause("holder.axle_head", given="axle.head")
def head(axle: View, holder: View) -> Outcome | None:
    if axle.head == holder.axle_head:
        return None
    return no_go("other_head", way_out(axle, "head", "==", holder.axle_head))


@THREAD.clause("axle.head", given="holder.axle_head")
def head_unread(axle: View, holder: View) -> None:
    """The dropout's seat is read, so the axle's head must be."""


@THREAD.clause("axle.length_mm holder.axle_length_mm")
def length(axle: View, holder: View) -> Outcome:
    off = axle.length_mm - holder.axle_length_mm
    if near(off, 0, LENGTH_OFF_MM):
        return goes("fits", off_mm=abs(off))
    way = way_out(axle, "length_mm", "==", holder.axle_length_mm)
    if off < 0:
        if off < -SHORT_MM - SLACK:
            return no_go("too_short", way, off_mm=-off)
        return goes_if("short", need("count the axle's turns: 10 mm of thread at least"), off_mm=-off)
    if off > LONG_MM + SLACK:
        return no_go("too_long", way, off_mm=off)
    return goes_if("long", need("check that the axle's head clamps and its tip stands clear"), off_mm=off)
