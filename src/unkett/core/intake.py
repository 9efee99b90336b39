"""Taking a bike in: what a kind of bike needs, in the order one looks at it, and only that."""

from __future__ import annotations

import functools

from attrs import frozen

from unkett.core.rules import RULES
from unkett.core.vocabulary import KINDS, SLOTS, Attribute

GEARS = {
    "derailleur": "Derailleur, one ring",
    "rings": "Derailleur, two or three rings",
    "hub": "Gears in the hub",
    "single": "One gear",
}
BRAKES = {"disc": "Discs", "rim": "Rim brakes", "mixed": "One of each", "none": "None, or in the hub"}

# What no rule requires and the drawing or the numbers of a page want all the same.
DRAWN: dict[str, tuple[str, ...]] = {
    "frame": (
        "material",
        "head_tube_length_mm",
        "head_angle_deg",
        "seat_angle_deg",
        "wheelbase_mm",
        "bb_drop_mm",
        "seat_tube_length_mm",
        "rear_native_rotor_mm",
        "rear_rotor_max_mm",
    ),
    "fork": ("steerer_length_mm", "axle_to_crown_mm", "offset_mm", "native_rotor_mm", "rotor_max_mm"),
    "stem": ("length_mm", "angle_deg", "clamp_height_mm"),
    "headset": ("stack_upper_mm", "stack_lower_mm"),
    "handlebar": ("shape", "material"),
    "spacers": ("below_mm", "above_mm"),
    "grips": ("bore_mm", "length_mm"),
    "saddle": ("rail_height_mm",),
    "seatpost": ("length_mm", "min_insertion_mm", "mark_inside", "dropper_travel_mm"),
    "dropper_line": ("type", "length_mm"),
    "front_rim": ("inner_width_mm", "brake_track"),
    "rear_rim": ("inner_width_mm", "brake_track"),
    "front_mudguard": ("width_mm", "bsd_mm"),
    "rear_mudguard": ("width_mm", "bsd_mm"),
    "front_tyre": ("width_mm", "width_measured_mm"),
    "rear_tyre": ("width_mm", "width_measured_mm"),
    "front_hub": ("rotor_mount",),
    "rear_hub": ("rotor_mount", "freehub_spacer_mm"),
    "chainrings": ("teeth",),
    "cassette": ("teeth", "speeds"),
    "chain": ("links",),
    "crank": ("arm_mm", "chainline_mm"),
    "rear_derailleur": (
        "shift_ratio",
        "capacity_teeth",
        "sprocket_max_teeth",
        "sprocket_min_teeth",
        "clutch",
    ),
    "rear_shifter": ("speeds", "pull_per_click_mm"),
    "front_caliper": ("cable_pull", "fluid", "hose_fitting", "reach_mm"),
    "rear_caliper": ("cable_pull", "fluid", "hose_fitting", "reach_mm"),
    "front_brake_lever": ("cable_pull", "fluid", "hose_fitting"),
    "rear_brake_lever": ("cable_pull", "fluid", "hose_fitting"),
    "front_rotor": ("diameter_mm", "mount", "measured_mm", "thickness_min_mm"),
    "rear_rotor": ("diameter_mm", "mount", "measured_mm", "thickness_min_mm"),
}
NOT_WITH_DISCS = frozenset(
    {
        "brake_bolt",
        "rear_bridge_radius_mm",
        "rear_post_bsd_mm",
        "bridge_radius_mm",
        "post_bsd_mm",
        "brake_track",
        "reach_mm",
        "bolt",
    }
)
NOT_WITH_RIMS = frozenset(
    {"native_rotor_mm", "rotor_max_mm", "rear_native_rotor_mm", "rear_rotor_max_mm", "rotor_mount"}
)
NOT_WITH_ONE_GEAR = frozenset({"hanger", "fd_mount", "fd_cable_from", "chain_growth_mm"})
RIGID = frozenset(
    {"shock_eye_to_eye_mm", "shock_stroke_mm", "wheel_travel_mm", "chain_growth_mm", "dropper_entry"}
)
NOT_WITHOUT_A_GEAR_HUB = frozenset(
    {"internal_gears", "cog_min_teeth", "cog_max_teeth", "ratio_min", "line_mm", "axle_flats_mm"}
)
MUDGUARD_USES = frozenset({"city", "touring", "audax", "cargo", "tandem", "kids"})
SPRUNG_USES = frozenset({"xc", "trail", "enduro", "downhill"})


@frozen(kw_only=True)
class Station:
    """One look at the bike: which parts are seen there."""

    name: str
    title: str
    slots: tuple[str, ...]


STATIONS: tuple[Station, ...] = (
    Station(name="frame", title="Frame and fork", slots=("frame", "fork", "shock")),
    Station(
        name="wheels",
        title="Wheels",
        slots=(
            "front_rim",
            "front_tyre",
            "front_hub",
            "rear_rim",
            "rear_tyre",
            "rear_hub",
            "front_mudguard",
            "rear_mudguard",
        ),
    ),
    Station(
        name="drive",
        title="Drivetrain",
        slots=(
            "cassette",
            "rear_derailleur",
            "rear_shifter",
            "chain",
            "chainrings",
            "front_derailleur",
            "front_shifter",
        ),
    ),
    Station(name="bracket", title="Bracket and crank", slots=("bottom_bracket", "crank", "pedals", "motor")),
    Station(
        name="brakes",
        title="Brakes",
        slots=(
            "front_brake_lever",
            "front_caliper",
            "front_rotor",
            "rear_brake_lever",
            "rear_caliper",
            "rear_rotor",
        ),
    ),
    Station(name="steering", title="Steering", slots=("headset", "spacers", "stem", "handlebar", "grips")),
    Station(name="seat", title="Seat", slots=("seatpost", "saddle", "dropper_lever", "dropper_line")),
)


@frozen(kw_only=True)
class Looks:
    """What was seen at the first look: what the bike is for, its gears and its brakes."""

    use: str
    gears: str
    brakes: str

    def has(self, slot: str) -> bool:
        """Whether a bike of this kind has a part there."""
        if slot in ("front_derailleur", "front_shifter"):
            return self.gears == "rings"
        if slot == "rear_derailleur":
            return self.gears not in ("single", "hub")
        if slot == "rear_shifter":
            return self.gears != "single"
        if slot.endswith("_mudguard"):
            return self.use in MUDGUARD_USES
        if slot.startswith("dropper_"):
            return self.use in SPRUNG_USES or self.use == "gravel"
        if slot.endswith("_rotor"):
            return self.brakes in ("disc", "mixed")
        if slot.endswith(("_caliper", "_brake_lever")):
            return self.brakes != "none"
        if slot == "shock":
            return self.use in SPRUNG_USES
        return slot != "motor"

    def asks(self, slot: str) -> tuple[Attribute, ...]:
        """The attributes worth measuring on that part, in the order they are declared; not what this bike
        cannot have.
        """
        skip: frozenset[str] = frozenset()
        if self.brakes in ("disc", "none"):
            skip |= NOT_WITH_DISCS
        if self.brakes in ("rim", "none"):
            skip |= NOT_WITH_RIMS
        if self.gears in ("single", "hub"):
            skip |= NOT_WITH_ONE_GEAR
        if self.gears != "hub":
            skip |= NOT_WITHOUT_A_GEAR_HUB
        if self.use not in SPRUNG_USES:
            skip |= RIGID
        wanted = _wanted(slot)
        declared = KINDS[SLOTS[slot].kind].attributes
        return tuple(attr for name, attr in declared.items() if name in wanted and name not in skip)

    def stations(self) -> list[Station]:
        """The looks that this bike needs, each with its parts."""
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
def _wanted(slot: str) -> frozenset[str]:
    """What any rule cannot do without on the part in a slot, and what drawing and pages want."""
    names = set(DRAWN.get(slot, ()))
    for rule in RULES.values():
        for site in rule.sites:
            names.update(attr for (of, attr), asked in site.measured.items() if of == slot and asked)
    return frozenset(names)
