"""Sealed bearings of hubs and brackets: the sizes that belong there."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, no_go, way_out
from unkett.core.rules.view import View
from unkett.core.vocabulary import Area

SIZE = rule(
    "bearing-size",
    title="Bearings are of the sizes that belong there",
    plain="The same sizes as often as the hub or the bottom bracket has them; any other does not go.",
    why=(
        "A bearing that is loose in its seat turns there and wears it out; one that is tight is crushed as it "
        "is pressed in."
    ),
    area=Area.WHEELS,
    joint=("front_axle", "rear_axle", "bracket"),
    parts=(
        {"bearings": "front_hub_bearings", "holder": "front_hub"},
        {"bearings": "rear_hub_bearings", "holder": "rear_hub"},
        {"bearings": "bracket_bearings", "holder": "bottom_bracket"},
    ),
    messages={
        "same": "Bearings {has}: the sizes that belong there.",
        "other": "Bearings {has}; needed {wants}.",
    },
    figures={"has": ("sizes of the bearings", ""), "wants": ("sizes that belong there", "")},
    sources=("bearings-iso",),
)


@SIZE.clause("bearings.sizes holder.bearings")
def sizes(bearings: View, holder: View) -> Outcome:
    has, wants = sorted(bearings.sizes), sorted(holder.bearings)
    figures = {"has": ", ".join(has), "wants": ", ".join(wants)}
    if has == wants:
        return goes("same", **figures)
    return no_go("other", way_out(bearings, "sizes", "==", list(holder.bearings)), **figures)
