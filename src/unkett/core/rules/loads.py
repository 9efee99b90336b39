"""What a wheel carries, and the room of a power meter."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

BIKE_KG = limit_of("bike_kg")
MOTOR_BIKE_KG = limit_of("motor_bike_kg")
CARGO_BIKE_KG = limit_of("cargo_bike_kg")
POD_CLEAR_MM = limit_of("pod_clear_mm")
POD_CLOSE_MM = limit_of("pod_close_mm")

LOAD = rule(
    "wheel-load",
    title="Wheel carries the load",
    plain=(
        "Rider and load over the wheel's system limit do not go. Where they pass it only with the bike (taken as "
        "{bike_kg} kg, with a motor {motor_bike_kg} kg, a cargo bike {cargo_bike_kg} kg) the whole is weighed."
    ),
    why="A wheel that carries more than it is made for loses spokes and then its shape.",
    area=Area.WHEELS,
    joint=("front_axle", "rear_axle"),
    parts=tuple(
        {"hub": required(f"{end}_hub"), "motor": optional("motor"), "bike": BIKE} for end in ("front", "rear")
    ),
    messages={
        "carries": "Rider, load and bike {sum_kg:g} kg; wheel maximum {hub.system_max_kg:g} kg.",
        "weigh": "Rider, load and an assumed bike {sum_kg:g} kg; wheel maximum {hub.system_max_kg:g} kg: weigh it.",
        "over": "Rider and load {own_kg:g} kg; wheel maximum {hub.system_max_kg:g} kg.",
    },
    figures={"own_kg": ("rider + load", "kg"), "sum_kg": ("rider + load + bike, assumed", "kg")},
    sources=("maker-limits",),
    safety=True,
)


@LOAD.clause("bike.mass_kg", given="hub.system_max_kg", may="bike.load_kg bike.use motor.type")
def carried(bike: View, hub: View, motor: View) -> Outcome:
    own = bike.mass_kg + (bike.load_kg or 0)
    weighs = CARGO_BIKE_KG if bike.use == "cargo" else BIKE_KG if motor.empty else MOTOR_BIKE_KG
    figures = {"own_kg": own, "sum_kg": own + weighs}
    if own > hub.system_max_kg + SLACK:
        return no_go("over", way_out(hub, "system_max_kg", ">=", own + weighs), **figures)
    if own + weighs > hub.system_max_kg + SLACK:
        return goes_if("weigh", need("weigh the bike with rider and load"), **figures)
    return goes("carries", **figures)


POD = rule(
    "power-room",
    title="Power meter's pod clears the frame",
    plain=(
        "Room at the left arm less the pod: {pod_clear_mm} mm and more go, {pod_close_mm} mm if it is looked at under "
        "load, less does not."
    ),
    why="A pod that touches the frame breaks off and marks the stay.",
    area=Area.BRACKET,
    joint="bracket",
    parts={"crank": "crank", "frame": "frame"},
    messages={
        "clear": "Pod {crank.pod_mm:g} mm in {frame.arm_gap_left_mm:g} mm of room.",
        "close": "Pod {crank.pod_mm:g} mm in {frame.arm_gap_left_mm:g} mm of room: check it under load.",
        "strikes": "Pod {crank.pod_mm:g} mm; the room at the arm is {frame.arm_gap_left_mm:g} mm.",
    },
    sources=("maker-limits",),
)


@POD.clause("frame.arm_gap_left_mm", given="crank.pod_mm", may="crank.power_where")
def pod(frame: View, crank: View) -> Outcome | None:
    if crank.power_where not in (None, "left_arm"):
        return None
    left = frame.arm_gap_left_mm - crank.pod_mm
    if left >= POD_CLEAR_MM - SLACK:
        return goes("clear")
    if left >= POD_CLOSE_MM - SLACK:
        return goes_if("close", need("check the pod's room under load"))
    return no_go("strikes", way_out(crank, "pod_mm", "<=", frame.arm_gap_left_mm - POD_CLEAR_MM))
