"""Lights and what feeds them. Safety."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK
from unkett.core.vocabulary import Area

ENDS = ("front", "rear")

SUPPLY = rule(
    "light-supply",
    title="Light has its supply",
    plain=(
        "A light for a dynamo wants one in a hub; over the dynamo's power it burns dimmer. A light on a motor has the "
        "motor's voltage and stays within its power."
    ),
    why="A light on the wrong supply stays dark or burns out, and the motor's fuse with it.",
    area=Area.WHEELS,
    joint=("front_axle", "rear_axle"),
    parts=tuple(
        {
            "light": f"{end}_light",
            "other": optional("front_light" if end == "rear" else "rear_light"),
            "hub": required(f"{end}_hub"),
            "far": optional("front_hub" if end == "rear" else "rear_hub"),
            "motor": optional("motor"),
        }
        for end in ENDS
    ),
    messages={
        "fed": "The light's supply is there.",
        "no_dynamo": "The light needs a dynamo; no hub has one.",
        "volts": "Light {light.volts:g} V; motor output {motor.light_volts:g} V.",
        "dimmer": "Lights {watts:g} W; dynamo {limit_w:g} W: dimmer.",
        "too_much": "Lights {watts:g} W; motor output {limit_w:g} W.",
    },
    figures={"watts": ("both lights on this supply", "W"), "limit_w": ("what feeds them gives", "W")},
    sources=("brake-practice",),
    safety=True,
)


def _watts(light: View, other: View) -> float:
    both = other.watts if other.supply == light.supply and other.watts is not None else 0.0
    return float(require(light).watts + both)


@SUPPLY.clause(
    "light.supply",
    asks="light.watts hub.dynamo far.dynamo",
    may="other.supply other.watts hub.dynamo_w far.dynamo_w",
)
def dynamo(light: View, other: View, hub: View, far: View) -> Outcome | None:
    if light.supply == "battery":
        return goes("fed")
    if light.supply != "dynamo":
        return None
    feeds = far if far.dynamo else hub
    if not require(feeds).dynamo:
        return no_go("no_dynamo", way_out(hub, "dynamo", "==", True))
    if feeds.dynamo_w is None:
        return goes("fed")
    watts = _watts(light, other)
    if watts <= feeds.dynamo_w + SLACK:
        return goes("fed")
    return goes_if("dimmer", need("dimmer lights"), watts=watts, limit_w=feeds.dynamo_w)


@SUPPLY.clause(
    "light.supply motor",
    asks="light.volts light.watts motor.light_volts motor.light_max_w",
    may="other.supply other.watts",
)
def from_motor(light: View, motor: View, other: View) -> Outcome | None:
    if light.supply != "motor" or motor.empty:
        return None
    if None not in (light.volts, motor.light_volts) and light.volts != motor.light_volts:
        return no_go("volts", way_out(light, "volts", "==", motor.light_volts))
    if None not in (light.watts, motor.light_max_w):
        watts, most = _watts(light, other), motor.light_max_w
        if watts > most + SLACK:
            return no_go("too_much", way_out(light, "watts", "<=", most), watts=watts, limit_w=most)
    require(light, "volts", "watts")
    require(motor, "light_volts", "light_max_w")
    return goes("fed")
