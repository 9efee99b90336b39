"""Mudguards: size and room."""

from __future__ import annotations

from unkett.core.calc.wheels import real_width
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, near, no_go, unmeasured, way_out
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

GUARD_SIDE_MM = limit_of("guard_side_mm")
GUARD_OVER_FRAME_MM = limit_of("guard_over_frame_mm")


GUARD = rule(
    "mudguard-room",
    title="Mudguard has room over the tyre and in the frame",
    plain=(
        "A mudguard is bent for its wheel's size, {guard_side_mm} mm wider than the tyre to each side, and at most "
        "{guard_over_frame_mm} mm wider than the widest tyre frame or fork takes. {guard_room_mm} mm stay free above "
        "the tyre."
    ),
    why="A mudguard that touches collects stones, folds under and blocks the wheel.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(guard="{end}_mudguard", tyre="{end}_tyre", rim=optional("{end}_rim"), holder=HOLDER),
    messages={
        "room": "A {guard.width_mm:g} mm guard over a tyre of {tyre_mm:.1f}: keep {guard_room_mm} mm above it.",
        "narrow": "A {guard.width_mm:g} mm guard is too narrow for a tyre of {tyre_mm:.1f}: {least_mm:.1f} at least.",
        "wide": "A {guard.width_mm:g} mm guard is too wide: {most_mm:g} go in here.",
        "limit_unknown": "How wide a tyre goes in here is not known for this wheel size.",
        "other_size": "The guard is bent for {guard.bsd_mm} mm wheels, the tyre is {tyre.bsd_mm:g}.",
    },
    figures={
        "tyre_mm": ("real width of the tyre", "mm"),
        "least_mm": ("tyre + 2 × {guard_side_mm}", "mm"),
        "most_mm": ("widest tyre + {guard_over_frame_mm}", "mm"),
    },
    sources=("mudguards",),
)


@GUARD.clause("guard.bsd_mm tyre.bsd_mm")
def guard_size(guard: View, tyre: View) -> Outcome | None:
    if near(guard.bsd_mm, tyre.bsd_mm, 0.0):
        return None
    return no_go("other_size", way_out(guard, "bsd_mm", "==", round(tyre.bsd_mm)))


@GUARD.clause("guard.width_mm holder.tyre_max_mm", asks="guard.bsd_mm", may="tyre.bsd_mm")
def guard_in_frame(guard: View, holder: View, tyre: View) -> Outcome | None:
    limit = holder.tyre_max_mm.get(round(tyre.bsd_mm or require(guard).bsd_mm))
    if limit is None or guard.width_mm <= limit + GUARD_OVER_FRAME_MM + SLACK:
        return None if limit is not None else unmeasured("limit_unknown", (holder, "tyre_max_mm"))
    most = limit + GUARD_OVER_FRAME_MM
    return no_go("wide", way_out(guard, "width_mm", "<=", most), most_mm=most)


@GUARD.clause("guard.width_mm", asks="tyre.width_mm", may="tyre.width_measured_mm rim.inner_width_mm")
def guard_over_tyre(guard: View, tyre: View, rim: View) -> Outcome:
    width = real_width(
        nominal_mm=tyre.width_mm, measured_mm=tyre.width_measured_mm, inner_mm=rim.inner_width_mm
    )
    width = require(tyre).width_mm if width is None else width
    least = width + 2 * GUARD_SIDE_MM
    figures = {"tyre_mm": width, "least_mm": least}
    if guard.width_mm >= least - SLACK:
        return goes("room", **figures)
    return no_go("narrow", way_out(guard, "width_mm", ">=", least), **figures)
