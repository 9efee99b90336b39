"""The derailleur hanger: the frame's own, and what hangs on it."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional
from unkett.core.rules.view import View
from unkett.core.vocabulary import Area

FIT = rule(
    "hanger-fit",
    title="Hanger is the frame's",
    plain=(
        "The hanger's code must be the frame's; where one is not read the old hanger is laid on the new. A derailleur "
        "for an M10 thread on a frame that clamps round the axle goes if the open hanger is fitted."
    ),
    why="A hanger that is nearly right holds the derailleur crooked, and no adjustment mends that.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "hanger": "derailleur_hanger",
        "frame": "frame",
        "derailleur": optional("rear_derailleur"),
    },
    messages={
        "same": "Hanger {hanger.hanger_code} is the frame's.",
        "other": "Hanger {hanger.hanger_code}; frame {frame.hanger_code}.",
        "other_mount": "Hanger: {hanger.mount}. Derailleur: {derailleur.mount}. They are incompatible.",
        "open": "Derailleur with an M10 thread on a frame that clamps it round the axle: fit the open hanger.",
    },
    sources=("maker-limits",),
)
OPEN = "open"


@FIT.clause("hanger.hanger_code frame.hanger_code")
def code(hanger: View, frame: View) -> Outcome:
    if hanger.hanger_code == frame.hanger_code:
        return goes("same")
    return no_go("other", way_out(hanger, "hanger_code", "==", frame.hanger_code))


@FIT.clause(given="hanger.mount derailleur.mount", may="frame.hanger frame.hanger_code")
def mount(hanger: View, derailleur: View, frame: View) -> Outcome | None:
    if hanger.mount == derailleur.mount:
        return None
    if derailleur.mount == "m10" and frame.hanger == "axle_clamped" and frame.hanger_code == OPEN:
        return goes_if("open", need("open hanger"))
    return no_go("other_mount", way_out(hanger, "mount", "==", derailleur.mount))
