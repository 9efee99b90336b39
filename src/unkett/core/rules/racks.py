"""Racks and mudguards on frame and fork: load, eyelets, clamps. Safety."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

CLAMPED_MOST_KG = limit_of("rack_clamped_most_kg")
ENDS = ("front", "rear")
HOLDER = {"front": "fork", "rear": "frame"}

RACK = rule(
    "rack-fit",
    title="Rack is held and carries the load",
    plain=(
        "The load must not exceed the rack's limit, front and rear together where it is not known what lies on "
        "which. Without eyelets clamps carry up to {rack_clamped_most_kg} kg on metal, nothing on carbon. Eyelets "
        "shared with a mudguard take a longer bolt."
    ),
    why="A rack that lets go falls into the wheel together with its load.",
    area=Area.STEERING,
    joint="frame",
    parts=tuple(
        {
            "rack": f"{end}_rack",
            "holder": required(HOLDER[end]),
            "other": optional("front_rack" if end == "rear" else "rear_rack"),
            "guard": optional(f"{end}_mudguard"),
            "bike": BIKE,
        }
        for end in ENDS
    ),
    messages={
        "held": "The rack is held and its limit is {rack.load_max_kg:g} kg.",
        "overloaded": "Load {load_kg:g} kg; rack maximum {limit_kg:g} kg.",
        "clamps": "No eyelets for the rack: clamps, up to {limit_kg:g} kg.",
        "carbon": "No eyelets for the rack, and nothing is clamped on carbon.",
        "no_axle": "The rack needs eyelets; the frame or fork has none for it.",
        "longer_bolt": "Rack and mudguard share an eyelet.",
    },
    figures={"load_kg": ("load that is carried", "kg"), "limit_kg": ("what the racks take", "kg")},
    sources=("rack-practice",),
    safety=True,
)


@RACK.clause("rack.load_max_kg bike.load_kg", may="other.load_max_kg")
def load(rack: View, bike: View, other: View) -> Outcome | None:
    limit = rack.load_max_kg + (other.load_max_kg or 0)
    if bike.load_kg <= limit + SLACK:
        return goes("held", load_kg=bike.load_kg, limit_kg=limit)
    way = way_out(rack, "load_max_kg", ">=", bike.load_kg - (other.load_max_kg or 0))
    return no_go("overloaded", way, load_kg=bike.load_kg, limit_kg=limit)


@RACK.clause("rack.mount", asks="holder.eyelets holder.material bike.load_kg", may="guard.width_mm")
def eyelets(rack: View, holder: View, guard: View, bike: View) -> Outcome | None:
    if rack.mount == "axle":
        return None
    there = require(holder).eyelets
    if rack.mount == "eyelets" and "rack" in there:
        return None
    if rack.mount == "eyelets" and "mudguard" in there:
        return None if guard.empty else goes_if("longer_bolt", need("longer eyelet bolt"))
    if require(holder).material == "carbon":
        return no_go("carbon", way_out(rack, "mount", "==", "axle"))
    if require(bike).load_kg > CLAMPED_MOST_KG + SLACK:
        return no_go("no_axle", way_out(rack, "mount", "==", "axle"))
    return goes_if("clamps", need("rack clamps"), limit_kg=CLAMPED_MOST_KG)


EYELET = rule(
    "mudguard-eyelets",
    title="Mudguard has something to bolt to",
    plain="A mudguard on a frame or fork that is known to have no eyelet for it takes clamps.",
    why="A mudguard without a fixed stay swings into the wheel.",
    area=Area.WHEELS,
    joint=("front_tyre", "rear_tyre"),
    parts=tuple({"guard": f"{end}_mudguard", "holder": required(HOLDER[end])} for end in ENDS),
    messages={
        "there": "There are eyelets for the mudguard.",
        "clamps": "No eyelets for the mudguard: clamps.",
    },
    sources=("mudguards",),
)


@EYELET.clause("guard", given="holder.eyelets")
def guard_eyelets(guard: View, holder: View) -> Outcome:
    if set(holder.eyelets) & {"mudguard", "rack"}:
        return goes("there")
    return goes_if("clamps", need("mudguard clamps"))
