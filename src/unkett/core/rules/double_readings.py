"""Readings of a part that say the same thing twice and do not agree."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, unmeasured
from unkett.core.rules.view import View
from unkett.core.vocabulary import Area, describe
from unkett.core.vocabulary.words import in_sentence

PARTS = {
    "rear_hub": "cassette",
    "cassette": "cassette",
    "chain": "chain",
    "bottom_bracket": "bracket",
    "captain_bracket": "captain_bracket",
    "seatpost": "post",
    "front_rotor": "front_brake",
    "rear_rotor": "rear_brake",
    "rear_shifter": "shifting",
    "front_shifter": "rings",
}

TWICE = rule(
    "two-readings",
    title="Readings of one part agree",
    plain=(
        "Some readings say again what another says: a body's code and its length, a chain's print and its width. "
        "Within the table's windows they agree. Beyond them one of the two is misread: every joint of the part is "
        "judged with each, a No-go with both stands, and else both are measured again. Neither the print nor the "
        "caliper wins unasked."
    ),
    why="One of two readings that contradict each other is wrong, and a verdict on the wrong one costs parts.",
    area=Area.DRIVETRAIN,
    joint=tuple(PARTS.values()),
    parts=tuple({"part": slot} for slot in PARTS),
    messages={"differ": "{titles}: one of the two is misread. Measure both again."},
    figures={"titles": ("the readings that do not agree", "")},
    sources=("double-readings",),
)


@TWICE.clause(given="part.misread")
def misread(part: View) -> Outcome:
    asks = [(part, name) for one in part.misread for name in one.pair.names]
    first, again = (describe(part.slot, name).title for name in part.misread[0].pair.names)
    return unmeasured("differ", *dict.fromkeys(asks), titles=f"{first} and {in_sentence(again)}")
