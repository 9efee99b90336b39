"""The clamp round the top of the seat tube. Safety."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

OFF_MM = limit_of("seat_clamp_off_mm")
SHIM_MM = limit_of("seat_clamp_shim_mm")

CLAMP = rule(
    "seat-clamp",
    title="Seat clamp fits the seat tube",
    plain=(
        "The clamp's bore against the outside of the seat tube at its very top: within {seat_clamp_off_mm} mm it "
        "goes, up to {seat_clamp_shim_mm} mm larger with a shim, else it does not."
    ),
    why="A clamp that does not match cannot hold the post without deforming the tube.",
    area=Area.SEAT,
    joint="post",
    parts={"clamp": "seat_clamp", "frame": "frame"},
    messages={
        "fits": "Seat clamp {clamp.bore_mm:g} mm; seat tube {frame.collar_mm:g} mm.",
        "shim": "Seat clamp {clamp.bore_mm:g} mm; seat tube {frame.collar_mm:g} mm: a shim between them.",
        "other": "Seat clamp {clamp.bore_mm:g} mm does not fit a seat tube of {frame.collar_mm:g} mm.",
    },
    sources=("seat-practice",),
    safety=True,
)


@CLAMP.clause("clamp.bore_mm frame.collar_mm")
def bore(clamp: View, frame: View) -> Outcome:
    over = clamp.bore_mm - frame.collar_mm
    if near(over, 0, OFF_MM):
        return goes("fits")
    if 0 < over <= SHIM_MM + SLACK:
        return goes_if("shim", need("seat clamp shim", size_mm=round(over, 2), where="round the seat tube"))
    return no_go("other", way_out(clamp, "bore_mm", "==", frame.collar_mm))
