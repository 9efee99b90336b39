"""Taking a bike in: what a kind of bike needs, in the order one looks at it, and only that.

What the first look settles is not asked again (`BikeProfile.settles`); what stands on another part of the bike is taken
over from it (`fellows`); what is printed on a part is typed as it is printed (`printed`).
"""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.intake import asked
from unkett.core.rules import RULES
from unkett.core.vocabulary import KINDS, SLOTS, Attribute

GEARS = {
    "derailleur": "Derailleur, one ring",
    "rings": "Derailleur, two or three rings",
    "hub": "Gears in the hub",
    "single": "One gear",
}
BRAKES = {
    "disc_hose": "Discs, hydraulic",
    "disc_cable": "Discs, cable",
    "rim": "Rim brakes",
    "mixed": "One of each",
    "none": "None, or in the hub",
}
MOTORS = {
    "none": "No motor",
    "mid_bracket": "In the bracket's place",
    "motor_cast": "Cast into the frame",
    "hub_front": "In the front hub",
    "hub_rear": "In the rear hub",
}
DISCS = ("disc_hose", "disc_cable")


@frozen(kw_only=True)
class Station:
    """One look at the bike: which parts are seen there."""

    name: str
    title: str
    slots: tuple[str, ...]


STATIONS: tuple[Station, ...] = (
    Station(
        name="drive",
        title="Drivetrain",
        slots=(
            "cassette",
            "rear_derailleur",
            "rear_shifter",
            "rear_shift_line",
            "chain",
            "chainrings",
            "front_derailleur",
            "front_shifter",
            "front_shift_line",
            "crank",
            "bottom_bracket",
            "motor",
            "pedals",
        ),
    ),
    Station(
        name="brakes",
        title="Brakes",
        slots=tuple(
            f"{end}_{part}"
            for end in ("front", "rear")
            for part in ("brake_lever", "brake_line", "caliper", "rotor")
        ),
    ),
    Station(
        name="wheels",
        title="Wheels",
        slots=tuple(
            f"{end}_{part}" for end in ("front", "rear") for part in ("tyre", "rim", "hub", "mudguard")
        ),
    ),
    Station(name="steering", title="Steering", slots=("headset", "spacers", "stem", "handlebar", "grips")),
    Station(name="seat", title="Seat", slots=("seatpost", "saddle", "dropper_lever", "dropper_line")),
    Station(name="frame", title="Frame and fork", slots=("frame", "fork", "shock")),
)


@frozen(kw_only=True)
class BikeProfile:
    """What was seen at the first look: what the bike is for, its gears, its brakes and its motor."""

    use: str
    gears: str
    brakes: str
    motor: str = "none"

    def has(self, slot: str) -> bool:
        """Return whether a bike of this kind has a part there."""
        if slot in ("front_derailleur", "front_shifter", "front_shift_line"):
            return self.gears == "rings"
        if slot == "rear_derailleur":
            return self.gears not in ("single", "hub")
        if slot in ("rear_shifter", "rear_shift_line"):
            return self.gears != "single"
        if slot.endswith("_mudguard"):
            return self.use in asked.MUDGUARD_USES
        if slot.startswith("dropper_"):
            return self.use in asked.SPRUNG_USES or self.use == "gravel"
        if slot.endswith("_rotor"):
            return self.brakes in (*DISCS, "mixed")
        if slot.endswith(("_caliper", "_brake_lever", "_brake_line")):
            return self.brakes != "none"
        if slot == "shock":
            return self.use in asked.SPRUNG_USES
        if slot == "bottom_bracket":
            return self.motor not in ("mid_bracket", "motor_cast")
        return slot != "motor" or self.motor != "none"

    def settles(self, slot: str) -> Mapping[str, Any]:
        """Return by attribute, what the first look has said of the part in a slot already."""
        out: dict[str, Any] = {}
        if slot.endswith("_caliper") and self.brakes in DISCS:
            out = {"type": "disc", "actuation": "hydraulic" if self.brakes == "disc_hose" else "cable"}
        if slot.endswith("_brake_lever") and self.brakes in (*DISCS, "rim"):
            out = {"actuation": "hydraulic" if self.brakes == "disc_hose" else "cable"}
        if slot.endswith("_brake_line") and self.brakes in DISCS:
            out = {"type": "hose" if self.brakes == "disc_hose" else "brake_housing"}
        if slot == "frame" and self.motor == "motor_cast":
            out = {"bb_shell": "motor_cast"}
        if slot == "motor" and self.motor not in ("none", "motor_cast"):
            out = {"type": self.motor}
        return out

    def asks(self, slot: str) -> tuple[Attribute, ...]:
        """Return the attributes worth measuring on that part, in the order they are declared; not what this bike
        cannot have, nor what another answer settles.
        """
        skip = _skipped(self) | self.settles(slot).keys()
        if slot.endswith("_caliper") and self.brakes == "rim":
            skip |= {"mount"}  # the caliper's sort names it
        wanted = _wanted(slot)
        declared = KINDS[SLOTS[slot].kind].attributes
        return tuple(attr for name, attr in declared.items() if name in wanted and name not in skip)

    def later(self, slot: str, attr: str) -> bool:
        """Return whether an attribute is asked under "more of it"."""
        return attr in asked.LATER - asked.FIRST_ALL_THE_SAME.get(SLOTS[slot].kind, frozenset())

    def stations(self) -> list[Station]:
        """Return the looks that this bike needs, each with its parts."""
        seen = [
            Station(
                name=station.name,
                title=station.title,
                slots=tuple(slot for slot in station.slots if self.has(slot)),
            )
            for station in STATIONS
        ]
        return [station for station in seen if station.slots]


@functools.cache
def _skipped(profile: BikeProfile) -> frozenset[str]:
    """Return what no part of such a bike is asked for."""
    skip: frozenset[str] = frozenset()
    for holds, names in (
        (profile.brakes in (*DISCS, "none"), asked.NOT_WITH_DISCS),
        (profile.brakes in ("rim", "none"), asked.NOT_WITH_RIMS),
        (profile.brakes in ("disc_cable", "rim"), asked.NOT_WITH_CABLES),
        (profile.brakes == "disc_hose", asked.NOT_WITH_HOSES),
        (profile.gears in ("single", "hub"), asked.NOT_WITH_ONE_GEAR),
        (profile.gears != "rings", asked.NOT_WITH_ONE_RING),
        (profile.gears != "hub", asked.NOT_WITHOUT_A_GEAR_HUB),
        (profile.use not in asked.SPRUNG_USES, asked.RIGID),
        (profile.motor == "none", asked.ONLY_WITH_A_MOTOR),
    ):
        if holds:
            skip |= names
    return skip


@functools.cache
def _wanted(slot: str) -> frozenset[str]:
    """Return what any rule cannot do without on the part in a slot, and what drawing and pages want."""
    names = set(asked.DRAWN.get(slot, ()))
    for rule in RULES.values():
        for site in rule.sites:
            names.update(attr for (of, attr), needed in site.measured.items() if of == slot and needed)
    return frozenset(names)
