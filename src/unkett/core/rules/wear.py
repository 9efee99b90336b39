"""Wear: pads, rims and tyres at their minimum, and a chain at its limit. The piece carries its last reading."""

from __future__ import annotations

from unkett.core.calc.wear import chain_limit_setting
from unkett.core.rules.base import rule
from unkett.core.rules.damage import joint_of_slot
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import SLACK, limit_of, lookup
from unkett.core.vocabulary import Area, kind_of

CASSETTE_TOO_PCT = limit_of("chain_cassette_too_pct")
NEAR_PCT = float(lookup("wear_sorts", "code")["chain_pct"]["near"])
SORT_OF = {"caliper": "pad_mm", "rim": "rim_wall_mm", "tyre": "tread_mm"}  # by kind, its sort of the wear log
SLOTS_LEFT = tuple(f"{end}_{kind}" for kind in SORT_OF for end in ("front", "rear"))


def _sort_of(slot: str) -> dict[str, object]:
    return dict(lookup("wear_sorts", "code")[SORT_OF[kind_of(slot).name]])


LEFT = rule(
    "wear-limit",
    title="Pads, rims and tyres have enough left",
    plain=(
        "Brake pads, braking rims and tyres at or under their minimum are replaced before the bike is ridden; close "
        "to it a new one is ordered. The minimums are the workshop's settings; a larger one that the manufacturer "
        "prints comes first. A part keeps its last reading wherever it goes."
    ),
    why="A pad worn to its plate does not brake, a thin rim wall bursts, a bald tyre slips and punctures.",
    area=Area.BRAKES,
    joint=tuple(joint_of_slot(slot) for slot in SLOTS_LEFT),
    parts=tuple({"part": required(slot, left_mm=str(_sort_of(slot)["attr"]))} for slot in SLOTS_LEFT),
    messages={
        "enough": "{left_mm:g} mm left; minimum {least_mm:g} mm.",
        "soon": "{left_mm:g} mm left, close to the minimum of {least_mm:g} mm.",
        "worn": "{left_mm:g} mm left; minimum {least_mm:g} mm: replace before riding.",
    },
    figures={"left_mm": ("last reading", "mm"), "least_mm": ("minimum, by the workshop's setting", "mm")},
    settings=("pad_least_mm", "rim_wall_least_mm", "tread_least_mm"),
    sources=("wear-limits",),
    safety=True,
)


@LEFT.clause(given="part.left_mm")
def left(part: View, settings: Settings) -> Outcome:
    sort = _sort_of(part.slot)
    least, near = settings.number(str(sort["limit_setting"])), float(str(sort["near"]))
    figures = {"left_mm": part.left_mm, "least_mm": least}
    if part.left_mm <= least + SLACK:
        return no_go("worn", way_out(part, "left_mm", ">=", least + near), **figures)
    if part.left_mm <= least + near + SLACK:
        return goes_if("soon", need("new part soon"), **figures)
    return goes("enough", **figures)


CHAIN = rule(
    "chain-wear",
    title="Chain is not worn out",
    plain=(
        "A chain past its limit is replaced; on a cassette that was never ridden it does not go at all, since it "
        "wears the new teeth to its own pitch. {chain_cassette_too_pct} % past the limit the sprockets have probably "
        "worn with it: a ride under load tells. The limit follows the number of sprockets and is a setting."
    ),
    why="A stretched chain rides up the teeth, wears sprockets and chainrings with it and skips under load.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={"chain": "chain", "cassette": optional("cassette")},
    messages={
        "fresh": "Elongation {chain.elongation_pct:g} %; limit {limit_pct:g} %.",
        "soon": "Elongation {chain.elongation_pct:g} %, close to the limit of {limit_pct:g} %.",
        "worn": "Elongation {chain.elongation_pct:g} %; limit {limit_pct:g} %: replace the chain.",
        "far": "Elongation {chain.elongation_pct:g} %, {over_pct:g} % past the limit: the sprockets may be worn too.",
        "new_cassette": "Elongation {chain.elongation_pct:g} %; limit {limit_pct:g} %: it would ruin a new cassette.",
    },
    figures={
        "limit_pct": ("limit by the number of sprockets, a setting", "%"),
        "over_pct": ("elongation − limit", "%"),
    },
    settings=("chain_worn_single_pct", "chain_worn_wide_pct", "chain_worn_narrow_pct"),
    sources=("wear-limits",),
)


@CHAIN.clause(given="chain.elongation_pct", asks="chain.speeds", may="cassette.sprockets cassette.unused")
def elongation(chain: View, cassette: View, settings: Settings) -> Outcome:
    sprockets = cassette.sprockets or require(chain).speeds
    limit, has = settings.number(chain_limit_setting(sprockets)), chain.elongation_pct
    over, known = round(has - limit, 3), {"limit_pct": limit}
    if over < -NEAR_PCT - SLACK:
        return goes("fresh", **known)
    if over < -SLACK:
        return goes_if("soon", need("new chain soon"), **known)
    if cassette.unused:
        return no_go("new_cassette", way_out(chain, "elongation_pct", "<=", limit - NEAR_PCT), **known)
    if over < CASSETTE_TOO_PCT - SLACK:
        return goes_if("worn", need("new chain"), **known)
    ride = need("ride it under load: worn sprockets skip")
    return goes_if("far", need("new chain"), ride, over_pct=over, **known)
