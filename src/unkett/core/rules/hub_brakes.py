"""Coaster brakes, and what a motor may ask of a gear hub."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.vocabulary import Area

COASTER = rule(
    "coaster",
    title="Coaster brake can hold",
    plain=(
        "A coaster brake's arm is strapped to the stay, or it turns with the wheel. A derailleur or a tensioner is "
        "torn round by it. As the only brake it goes if that is accepted."
    ),
    why="A loose brake arm turns with the wheel: the brake is gone and the spokes with it.",
    area=Area.BRAKES,
    joint="rear_brake",
    parts={
        "hub": required("rear_hub"),
        "derailleur": optional("rear_derailleur"),
        "front": optional("front_caliper"),
        "rear": optional("rear_caliper"),
    },
    messages={
        "holds": "The coaster brake's arm is held and nothing is torn round.",
        "loose": "The coaster brake's arm is loose: it turns with the wheel.",
        "torn": "A derailleur or tensioner is torn round by a coaster brake.",
        "alone": "The coaster brake is the only brake.",
    },
    sources=("brake-practice",),
    safety=True,
)


@COASTER.clause(given="hub.coaster", asks="hub.arm_fixed", may="derailleur.mount front.type rear.type")
def held(hub: View, derailleur: View, front: View, rear: View) -> Outcome | None:
    if not hub.coaster:
        return None
    if hub.arm_fixed is False:
        return no_go("loose", way_out(hub, "arm_fixed", "==", True))
    if not derailleur.empty:
        return no_go("torn", way_out(hub, "coaster", "==", False))
    require(hub, "arm_fixed")
    if front.empty and rear.empty:
        return goes_if("alone", need("a coaster brake as the only brake"))
    return goes("holds")


TORQUE = rule(
    "hub-torque",
    title="Gear hub stands the motor",
    plain=(
        "A mid motor's torque must not exceed what the gear hub's maker allows at the crank; a figure given at the "
        "cog is multiplied by ring and divided by cog first."
    ),
    why="More torque than the hub is made for strips its gears or turns its axle in the dropouts.",
    area=Area.DRIVETRAIN,
    joint="shifting",
    parts={"hub": required("rear_hub"), "motor": "motor"},
    messages={
        "stands": "Motor {motor.torque_nm:g} Nm; gear hub maximum {hub.torque_max_nm:g} Nm.",
        "over": "Motor {motor.torque_nm:g} Nm; gear hub maximum {hub.torque_max_nm:g} Nm.",
    },
    sources=("gear-hubs",),
)


@TORQUE.clause(given="hub.internal_gears motor.type", asks="motor.torque_nm hub.torque_max_nm")
def torque(hub: View, motor: View) -> Outcome | None:
    if motor.type != "mid_bracket" or hub.internal_gears <= 1:
        return None
    most = require(hub).torque_max_nm
    if require(motor).torque_nm <= most:
        return goes("stands")
    return no_go("over", way_out(hub, "torque_max_nm", ">=", motor.torque_nm))
