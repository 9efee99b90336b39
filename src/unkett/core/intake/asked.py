"""Which attributes a kind of bike is asked for when it is taken in: all that rules require and pages draw, less what
it cannot have.
"""

from __future__ import annotations

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
NOT_WITH_ONE_GEAR = frozenset({"hanger", "chain_growth_mm"})
NOT_WITH_ONE_RING = frozenset({"fd_mount", "fd_cable_from", "ring_difference_max_teeth"})
NOT_WITH_CABLES = frozenset({"fluid", "hose_fitting"})
NOT_WITH_HOSES = frozenset({"cable_pull", "cable_side"})
ONLY_WITH_A_MOTOR = frozenset({"cutoff_switch", "cutoff_sensor"})
RIGID = frozenset(
    {
        "shock_eye_to_eye_mm",
        "shock_stroke_mm",
        "wheel_travel_mm",
        "chain_growth_mm",
        "dropper_entry",
        "guide_mount",
    }
)
NOT_WITHOUT_A_GEAR_HUB = frozenset(
    {"internal_gears", "cog_min_teeth", "cog_max_teeth", "ratio_min", "line_mm", "axle_flats_mm"}
)
MUDGUARD_USES = frozenset({"city", "touring", "audax", "cargo", "tandem", "kids"})
SPRUNG_USES = frozenset({"xc", "trail", "enduro", "downhill"})

# Asked under "more of it": not wrong to know at once, and not in the way of the hand.
LATER = frozenset(
    {
        "axle_to_crown_mm",
        "bb_drop_mm",
        "bearing_angle_deg",
        "capacity_teeth",
        "clamp_height_mm",
        "clutch",
        "cog_min_teeth",
        "cog_max_teeth",
        "crosses_fixed",
        "cutoff_sensor",
        "cutoff_switch",
        "depth_mm",
        "dished_mm",
        "dropper_travel_mm",
        "end_caps",
        "erd_mm",
        "fd_cable_from",
        "flange_offset_left_mm",
        "flange_offset_right_mm",
        "flange_pcd_left_mm",
        "flange_pcd_right_mm",
        "flanges_mm",
        "fork_a2c_design_mm",
        "fork_a2c_max_mm",
        "freehub_spacer_mm",
        "freehub_swaps",
        "headset_seat_deg",
        "holes",
        "hookless_ok",
        "length_mm",
        "offset_mm",
        "outer_width_mm",
        "preload_range_mm",
        "pressure_max_bar",
        "protocol",
        "reach_min_mm",
        "removable_link",
        "rim_width_mm",
        "rotor_thickness_mm",
        "seat_angle_deg",
        "seat_tube_length_mm",
        "seat_tube_od_mm",
        "shape",
        "shell_widths_mm",
        "spoke_head",
        "sprocket_pitch_mm",
        "stack_lower_mm",
        "stack_mm",
        "stack_upper_mm",
        "steerer_threaded",
        "thickness_min_mm",
        "travel_max_mm",
        "travel_mm",
        "tubeless",
        "tyre_max_mm",
        "valve",
        "valve_hole_mm",
        "valve_length_mm",
        "wheelbase_mm",
        "width_measured_mm",
    }
)
FIRST_ALL_THE_SAME = {  # by kind, what would be later elsewhere
    "stem": frozenset({"length_mm"}),
    "seatpost": frozenset({"length_mm"}),
    "handlebar": frozenset({"shape"}),
    "frame": frozenset({"tyre_max_mm"}),
    "fork": frozenset({"tyre_max_mm"}),
}
