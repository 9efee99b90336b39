"""Cleats: on the pedal and on the shoe."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.view import View
from unkett.core.vocabulary import Area

FIT = rule(
    "cleat-fit",
    title="Cleats fit pedal and shoe",
    plain=(
        "The cleat's code must be the pedal's. Two bolts go on a sole of three holes with a plate; three bolts never "
        "on two holes."
    ),
    why="A cleat that does not match does not engage, or does not let go when the rider falls.",
    area=Area.BRACKET,
    joint="bracket",
    parts={"cleats": "cleats", "pedals": "pedals"},
    messages={
        "same": "Cleats and pedals are one system.",
        "other": "Cleats {cleats.cleat_code}; pedals take {pedals.cleat_code}.",
        "plate": "Cleats with {cleats.bolts} bolts on a shoe of {cleats.shoe_bolts} holes: with a plate.",
        "other_shoe": "Cleats with {cleats.bolts} bolts do not go on a shoe of {cleats.shoe_bolts} holes.",
    },
    sources=("maker-limits",),
)


@FIT.clause("cleats.cleat_code pedals.cleat_code")
def code(cleats: View, pedals: View) -> Outcome:
    if cleats.cleat_code == pedals.cleat_code:
        return goes("same")
    return no_go("other", way_out(cleats, "cleat_code", "==", pedals.cleat_code))


@FIT.clause(given="cleats.bolts cleats.shoe_bolts")
def shoe(cleats: View) -> Outcome | None:
    if cleats.bolts == cleats.shoe_bolts:
        return None
    if (cleats.bolts, cleats.shoe_bolts) == (2, 3):
        return goes_if("plate", need("cleat plate"))
    return no_go("other_shoe", way_out(cleats, "bolts", "==", cleats.shoe_bolts))
