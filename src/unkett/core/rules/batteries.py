"""Batteries and wires of electronic shifting."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

SPARE_MM = limit_of("wire_spare_mm")

PLACE = rule(
    "battery-place",
    title="Shifting battery has its place, plug and protocol",
    plain=(
        "Battery, derailleur and wire are of one protocol and one plug. A battery in the seat tube and a dropper "
        "never go together. A wire must reach; up to {wire_spare_mm} mm more is coiled loosely, more is wound up."
    ),
    why="Parts of different protocols never talk to each other, and a plug that does not match cannot be made to.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={
        "battery": "battery",
        "derailleur": optional("rear_derailleur"),
        "wire": optional("rear_shift_line"),
        "post": optional("seatpost"),
    },
    messages={
        "placed": "Battery, derailleur and wire are one system.",
        "other_protocol": "Protocols differ: battery {battery.protocol}, derailleur {derailleur.protocol}.",
        "other_plug": "Plugs differ: battery {battery.plug_code}, wire {wire.plug_code}.",
        "dropper": "Battery in the seat tube and dropper seatpost are incompatible.",
        "short": "Wire {wire.length_mm:g} mm; {short_mm:.0f} mm too short.",
        "coil": "Wire {wire.length_mm:g} mm; {spare_mm:.0f} mm more than it needs: coil it.",
    },
    figures={"short_mm": ("needs − has", "mm"), "spare_mm": ("has − needs", "mm")},
    sources=("maker-limits",),
)


@PLACE.clause("battery.protocol derailleur.protocol")
def protocol(battery: View, derailleur: View) -> Outcome:
    if battery.protocol == derailleur.protocol:
        return goes("placed")
    return no_go("other_protocol", way_out(battery, "protocol", "==", derailleur.protocol))


@PLACE.clause(given="battery.plug_code wire.plug_code")
def plug(battery: View, wire: View) -> Outcome | None:
    if battery.plug_code == wire.plug_code:
        return None
    return no_go("other_plug", way_out(wire, "plug_code", "==", battery.plug_code))


@PLACE.clause(given="battery.place post.dropper_travel_mm")
def room(battery: View, post: View) -> Outcome | None:
    if battery.place != "seat_tube" or not post.dropper_travel_mm:
        return None
    return no_go("dropper", way_out(battery, "place", "!=", "seat_tube"))


@PLACE.clause("battery", given="wire.length_mm wire.need_mm")
def wire_length(battery: View, wire: View) -> Outcome | None:
    spare = wire.length_mm - wire.need_mm
    if spare < -SLACK:
        return no_go("short", way_out(wire, "length_mm", ">=", wire.need_mm), short_mm=-spare)
    return goes_if("coil", need("coil the spare wire"), spare_mm=spare) if spare > SPARE_MM + SLACK else None
