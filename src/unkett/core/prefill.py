"""Inputs of calculations that a bike already knows, so that nothing is typed twice."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.build import Build
from unkett.core.figures import Facts, is_sprung

Place = tuple[str, str]

# calculation -> input -> the slots and attributes that may give it, first known wins
KNOWN: Mapping[str, Mapping[str, tuple[Place, ...]]] = {
    "gears": {
        "chainrings": (("chainrings", "teeth"),),
        "sprockets": (("cassette", "teeth"),),
        "bsd_mm": (("rear_rim", "bsd_mm"), ("rear_tyre", "bsd_mm")),
        "tyre_mm": (("rear_tyre", "width_measured_mm"), ("rear_tyre", "width_mm")),
        "crank_mm": (("crank", "arm_mm"),),
    },
    "capacity": {"chainrings": (("chainrings", "teeth"),), "sprockets": (("cassette", "teeth"),)},
    "chain_length": {
        "chainstay_mm": (("frame", "chainstay_mm"),),
        "chainrings": (("chainrings", "teeth"),),
        "sprockets": (("cassette", "teeth"),),
        "capacity_teeth": (("rear_derailleur", "capacity_teeth"),),
        "extra_links": (("rear_derailleur", "extra_links"),),
        "growth_mm": (("frame", "chain_growth_mm"),),
    },
    "index_error": {
        "pull_per_click_mm": (("rear_shifter", "pull_per_click_mm"),),
        "shift_ratio": (("rear_derailleur", "shift_ratio"),),
        "sprocket_pitch_mm": (("cassette", "sprocket_pitch_mm"),),
        "sprockets": (("cassette", "speeds"),),
        "clicks": (("rear_shifter", "speeds"),),
    },
    "steerer_cut": {
        "lower_stack_mm": (("headset", "stack_lower_mm"),),
        "head_tube_mm": (("frame", "head_tube_length_mm"),),
        "upper_stack_mm": (("headset", "stack_upper_mm"),),
        "spacers_below_mm": (("spacers", "below_mm"),),
        "clamp_height_mm": (("stem", "clamp_height_mm"),),
        "spacers_above_mm": (("spacers", "above_mm"),),
        "steerer_mm": (("fork", "steerer_length_mm"),),
    },
    "bar_position": {
        "head_angle_deg": (("frame", "head_angle_deg"),),
        "length_mm": (("stem", "length_mm"),),
        "angle_deg": (("stem", "angle_deg"),),
        "spacers_mm": (("spacers", "below_mm"),),
        "clamp_height_mm": (("stem", "clamp_height_mm"),),
    },
    "fork_swap": {
        "head_angle_deg": (("frame", "head_angle_deg"),),
        "seat_angle_deg": (("frame", "seat_angle_deg"),),
        "wheelbase_mm": (("frame", "wheelbase_mm"),),
        "a2c_from_mm": (("fork", "axle_to_crown_mm"),),
        "offset_from_mm": (("fork", "offset_mm"),),
        "bb_drop_mm": (("frame", "bb_drop_mm"),),
        "stack_mm": (("frame", "stack_mm"),),
    },
    "wheel_swap": {
        "bsd_from_mm": (("rear_rim", "bsd_mm"),),
        "tyre_from_mm": (("rear_tyre", "width_measured_mm"), ("rear_tyre", "width_mm")),
    },
    "spoke_length": {
        "erd_mm": (("rear_rim", "erd_mm"),),
        "pcd_mm": (("rear_hub", "flange_pcd_right_mm"),),
        "offset_mm": (("rear_hub", "flange_offset_right_mm"),),
        "spokes": (("rear_hub", "holes"),),
        "crosses": (("rear_spokes", "crosses"),),
        "hole_mm": (("rear_hub", "spoke_hole_mm"),),
    },
    "tension_ratio": {
        "offset_left_mm": (("rear_hub", "flange_offset_left_mm"),),
        "offset_right_mm": (("rear_hub", "flange_offset_right_mm"),),
    },
    "crank_spacing": {
        "spindle_needs_mm": (("crank", "spindle_needs_mm"),),
        "shell_mm": (("frame", "bb_shell_width_mm"),),
        "flanges_mm": (("bottom_bracket", "flanges_mm"),),
        "range_mm": (("crank", "preload_range_mm"),),
    },
    "rotor_gain": {"from_mm": (("front_rotor", "diameter_mm"),), "track_mm": (("front_rotor", "track_mm"),)},
    "tyre_width": {"nominal_mm": (("rear_tyre", "width_mm"),), "inner_mm": (("rear_rim", "inner_width_mm"),)},
    "tyre_pressure_limit": {
        "bead": (("rear_rim", "bead"),),
        "rim_bar": (("rear_rim", "pressure_max_bar"),),
        "tyre_bar": (("rear_tyre", "pressure_max_bar"),),
    },
    "line_drag": {"turns_deg": (("rear_brake_line", "turns_deg"), ("front_brake_line", "turns_deg"))},
    "single_speed_chain": {"ring": (("chainrings", "teeth"),), "sprocket": (("cassette", "teeth"),)},
    "adapter": {
        "mount": (("fork", "brake_mount"),),
        "native_mm": (("fork", "native_rotor_mm"),),
        "rotor_mm": (("front_rotor", "diameter_mm"),),
    },
    "dropper_fit": {
        "saddle_height_mm": (("bike", "saddle_height_mm"),),
        "seat_tube_mm": (("frame", "seat_tube_length_mm"),),
        "rail_height_mm": (("saddle", "rail_height_mm"),),
        "depth_mm": (("frame", "seat_tube_depth_mm"),),
    },
    "spindle_choice": {
        "spindle_now_mm": (("bottom_bracket", "spindle_length_mm"),),
        "chainline_now_mm": (("crank", "chainline_mm"),),
        "chainline_wanted_mm": (("frame", "chainline_mm"),),
    },
    "toe_room": {
        "wheelbase_mm": (("frame", "wheelbase_mm"),),
        "chainstay_mm": (("frame", "chainstay_mm"),),
        "bb_drop_mm": (("frame", "bb_drop_mm"),),
        "crank_mm": (("crank", "arm_mm"),),
    },
    "trail": {"head_angle_deg": (("frame", "head_angle_deg"),), "offset_mm": (("fork", "offset_mm"),)},
    "seat_angle": {
        "saddle_height_mm": (("bike", "saddle_height_mm"),),
        "seat_angle_deg": (("frame", "seat_angle_deg"),),
    },
    "sag": {"full_mm": (("fork", "travel_mm"), ("shock", "stroke_mm"))},
    "rim_brake_reach": {"bridge_radius_mm": (("frame", "rear_bridge_radius_mm"),), "bsd_mm": (("rear_rim", "bsd_mm"),)},
}  # fmt: skip


# comparisons: the inputs that the bike as planned gives, the others come from the bike as it stands
THEN: Mapping[str, Mapping[str, tuple[Place, ...]]] = {
    "wheel_swap": {
        "bsd_to_mm": (("rear_rim", "bsd_mm"),),
        "tyre_to_mm": (("rear_tyre", "width_measured_mm"), ("rear_tyre", "width_mm")),
    },
    "fork_swap": {
        "a2c_to_mm": (("fork", "axle_to_crown_mm"),),
        "offset_to_mm": (("fork", "offset_mm"),),
    },
    "bar_position": {
        "head_angle_deg_to": (("frame", "head_angle_deg"),),
        "length_mm_to": (("stem", "length_mm"),),
        "angle_deg_to": (("stem", "angle_deg"),),
        "spacers_mm_to": (("spacers", "below_mm"),),
        "clamp_height_mm_to": (("stem", "clamp_height_mm"),),
    },
    "rotor_gain": {"to_mm": (("front_rotor", "diameter_mm"),)},
}  # fmt: skip


# what a workshop usually has on the shelf, where nothing was typed
USUAL: Mapping[str, Mapping[str, Any]] = {
    "crank_centring": {"stock_mm": (0.5, 0.7, 1.0, 1.8, 2.0, 2.5)},
}


def cannot_be_left(name: str, build: Build) -> dict[str, str]:
    """Inputs that may be missing elsewhere but not on this bike, each with why."""
    if name == "chain_length" and is_sprung(Facts(build)):
        return {
            "growth_mm": "A sprung rear: measure how far the stay grows over the travel; 0 where it does not."
        }
    if name == "tyre_pressure_limit":
        return {
            "rim_bar": "Read it off the rim: half a limit is none.",
            "tyre_bar": "Read it off the side wall: half a limit is none.",
        }
    return {}


def place_of(name: str, field: str) -> Place | None:
    """The slot and attribute on which a reading for this input is kept; None where it is no part's."""
    places = KNOWN.get(name, {}).get(field)
    return places[0] if places else None


def _first(facts: Facts, places: tuple[Place, ...]) -> Any:
    values = (facts.get(slot, attr) for slot, attr in places)
    return next((one for one in values if one is not None), None)


def prefill(name: str, now: Build, then: Build | None = None) -> dict[str, Any]:
    """What the bike knows of a calculation's inputs.

    With a plan a comparison takes each side from its own build; any other calculation is about the
    bike as planned.
    """
    compares = name in THEN and then is not None
    facts = Facts(then if then is not None and not compares else now)
    out = {field: _first(facts, places) for field, places in KNOWN.get(name, {}).items()}
    if compares and then is not None:
        planned = Facts(then)
        out |= {field: _first(planned, places) for field, places in THEN[name].items()}
    return {field: value for field, value in out.items() if value is not None}
