"""How a chain without a derailleur is kept tight."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.vocabulary import Area

TENSION = rule(
    "chain-tension",
    title="A chain without a derailleur can be tightened",
    plain=(
        "One chainring and one sprocket without a derailleur want track ends, slots, sliding dropouts or an "
        "eccentric. Without any of them a spring tensioner does it; a coaster brake, a fixed wheel or a belt would "
        "tear it round. A school calls a length that happens to fit good enough; at 0.5 % of wear it is not."
    ),
    why="A slack chain comes off; on a fixed wheel or a coaster brake the brake goes with it.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={
        "frame": "frame",
        "rings": required("chainrings"),
        "cassette": "cassette",
        "derailleur": optional("rear_derailleur"),
        "hub": optional("rear_hub"),
    },
    messages={
        "taken_up": "The chain is tightened by: {frame.tensioning}.",
        "tensioner": "Nothing on the frame tightens the chain: a spring tensioner does.",
        "pulls_back": "Nothing on the frame tightens the chain, and a {what} tears a tensioner round.",
    },
    figures={"what": ("what pulls the lower run tight", "")},
    sources=("wrap",),
    safety=True,
)


@TENSION.clause("rings.count cassette.sprockets", may="derailleur.mount", silences=True)
def is_single(rings: View, cassette: View, derailleur: View) -> Outcome | None:
    return SILENT if rings.count != 1 or cassette.sprockets != 1 or not derailleur.empty else None


@TENSION.clause("frame.tensioning rings cassette", asks="cassette.mount", may="hub.coaster")
def taken_up(frame: View, rings: View, cassette: View, hub: View) -> Outcome:
    if frame.tensioning != "none":
        return goes("taken_up")
    ways = (way_out(frame, "tensioning", "!=", "none"),)
    if hub.coaster:
        return no_go("pulls_back", *ways, what="coaster brake")
    if require(cassette).mount == "fixed_threaded":
        return no_go("pulls_back", *ways, what="fixed wheel")
    return goes_if("tensioner", need("spring tensioner"))
