"""Kinds of the chassis: frame, fork, headset, stem, spacers, handlebar, seatpost, saddle, shock."""

from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import (
    Attribute,
    choice,
    choices,
    kind,
    mm,
    mm_by_bsd,
    number,
    torque,
    unless_printed,
    whole,
    whole_list,
    yes_no,
)
from unkett.core.vocabulary.types import ByKey, Code, Whole

TYRE_WIDTH_HOW = "Widest tyre the maker allows for each rim size, or the measured space less both gaps."


def headset_code(name: str, title: str) -> Attribute:
    """A headset identification code, bare (ZS44) or with what it carries (ZS44/28.6)."""
    form = "a headset code such as ZS44 or ZS44/28.6 (EC, ZS or IS, the bore, then what it carries)"
    pattern = r"(EC|ZS|IS)\d{2}(\.\d)?(/\d{2}(\.\d)?)?"
    how = "Bore of the head tube with the caliper; cup outside (EC), flush (ZS) or bearing in the frame (IS)."
    return Attribute(
        name=name, title=title, how=how, type=Code(form=form, pattern=pattern, upper=("EC", "ZS", "IS"))
    )


FRAME = kind(
    "frame",
    "Frame",
    choice(
        "material",
        "Material",
        "Magnet: steel. Tap and look: carbon rings dull, weave shows inside.",
        enums.MATERIAL,
    ),
    choice(
        "bb_shell",
        "Bracket shell",
        "Bore and width of the bare shell; look for thread, then its hand.",
        enums.BB_SHELL,
    ),
    mm(
        "bb_shell_width_mm",
        "Bracket shell width",
        "Caliper across the faces, cups out, paint off.",
        68,
        70,
        73,
        83,
        86.5,
        91.5,
    ),
    choice(
        "rear_axle_kind",
        "Rear axle",
        "Open slots: quick release or nuts. Closed holes: thru axle.",
        enums.AXLE_KIND,
    ),
    mm("rear_axle_dia_mm", "Rear axle diameter", "Caliper on the axle where it sits in the dropout.", 10, 12),
    mm(
        "rear_spacing_mm",
        "Rear spacing",
        "Inside face to inside face of the dropouts, unsprung.",
        120,
        126,
        130,
        135,
        142,
        148,
        157,
        177,
        197,
    ),
    choice("hanger", "Hanger", "Thread of the hanger eye; slot without eye: claw.", enums.HANGER),
    choice(
        "fd_mount", "Front derailleur mount", "Look at the seat tube above the large ring.", enums.FD_MOUNT
    ),
    choice(
        "fd_cable_from",
        "Front derailleur cable",
        "Follow the cable: along the top tube (above) or under the bracket (below).",
        enums.CABLE_FROM,
    ),
    mm(
        "seat_tube_bore_mm",
        "Seat tube bore",
        "Inside caliper below the collar, twice at right angles; mean.",
        25.4,
        27.2,
        30.9,
        31.6,
        34.9,
    ),
    mm(
        "seat_tube_od_mm",
        "Seat tube outside",
        "Caliper on the tube where a band would sit.",
        28.6,
        31.8,
        34.9,
    ),
    mm(
        "seat_tube_depth_mm",
        "Open seat tube depth",
        "Lower a rod from the collar until it stops at a bend, bolt or bottle boss.",
        120,
        280,
    ),
    mm("seat_tube_length_mm", "Seat tube length", "Bracket centre to the top of the seat tube.", 400, 600),
    headset_code("headset_upper", "Head tube, upper"),
    headset_code("headset_lower", "Head tube, lower"),
    number(
        "headset_seat_deg",
        "Bearing seat angle",
        "Read it off the bearing: 36 or 45; both look alike in the frame.",
        30,
        50,
        36,
        45,
    ),
    mm("head_tube_length_mm", "Head tube length", "Face to face, cups out.", 90, 220),
    number(
        "head_angle_deg",
        "Head angle",
        "Angle gauge on the head tube, bike level, against the ground.",
        45,
        90,
        64,
        74,
    ),
    number("seat_angle_deg", "Seat angle", "Angle gauge on the seat tube, bike level.", 50, 90, 71, 78),
    mm("chainstay_mm", "Chainstay", "Bracket centre to axle centre in a straight line.", 405, 480),
    mm("wheelbase_mm", "Wheelbase", "Axle to axle, fork straight ahead.", 970, 2000),
    mm(
        "bb_drop_mm",
        "Bracket drop",
        "How far the bracket centre lies under the line of the axles.",
        50,
        85,
        signed=True,
    ),
    mm("stack_mm", "Stack", "Bracket centre to top of head tube, straight up.", 500, 660),
    mm("reach_mm", "Reach", "Bracket centre to top of head tube, level.", 360, 500),
    mm("fork_a2c_design_mm", "Fork length designed for", "Maker's figure, axle to crown.", 365, 570),
    mm("fork_a2c_max_mm", "Longest fork allowed", "Maker's limit, axle to crown. Never a guess.", 400, 600),
    mm("fork_a2c_min_mm", "Shortest fork allowed", "Maker's limit, axle to crown.", 350, 550),
    whole_list(
        "design_bsd_mm",
        "Rim sizes designed for",
        "Maker's figure; or the size it came with.",
        100,
        800,
        406,
        559,
        584,
        622,
        unit="mm",
    ),
    mm_by_bsd("tyre_max_mm", "Widest rear tyre", TYRE_WIDTH_HOW, 28, 60),
    choice(
        "rear_brake_mount",
        "Rear brake mount",
        "Spacing of the bolt holes: 51, 74.2 or 34 mm; bosses; a single hole.",
        enums.BRAKE_MOUNT,
    ),
    mm(
        "rear_native_rotor_mm",
        "Rear rotor without adapter",
        "Maker's figure for a bare post or flat mount.",
        140,
        160,
        180,
    ),
    mm(
        "rear_rotor_max_mm",
        "Largest rear rotor",
        "Maker's limit, printed near the mount or in the manual.",
        160,
        180,
        203,
    ),
    mm(
        "rear_bridge_radius_mm",
        "Rear brake bolt radius",
        "Axle centre to the centre of the brake bolt.",
        340,
        380,
    ),
    mm(
        "rear_post_bsd_mm",
        "Rear bosses placed for",
        "Rim size the brake bosses are placed for.",
        559,
        584,
        622,
    ),
    Attribute(
        name="chainring_max_teeth",
        title="Largest ring that clears",
        how="Maker's figure by number of rings; or measure to the stay: 3 mm must stay free.",
        type=ByKey(key=Whole(low=1, high=4), value=Whole(unit="teeth", low=16, high=80)),
    ),
    mm(
        "chain_growth_mm",
        "Growth of the stay",
        "Bracket to axle at full travel less the same at rest.",
        0,
        25,
    ),
    mm("chainline_mm", "Chainline designed for", "Maker's figure, from the centre plane.", 43.5, 52, 55),
    choice(
        "guide_mount",
        "Chain guide mount",
        "Three tabs round the shell, a tab on the seat tube, or none.",
        enums.GUIDE_MOUNT,
    ),
    choice(
        "brake_bolt",
        "Rear brake bolt hole",
        "Same small hole both sides: nutted. One side 8 mm: recessed.",
        enums.BOLT,
    ),
    choice("routing", "Routing", "How the lines run along the frame.", enums.ROUTING),
    choices(
        "cable_stops",
        "Cable stops",
        "Where housing stops are brazed or bolted on.",
        enums.CABLE_STOP,
        least=0,
    ),
    yes_no(
        "cable_hanger",
        "Rear cable hanger",
        "A stop on the seat stays or at the collar that holds the straddle cable's housing.",
    ),
    yes_no("dropper_entry", "Dropper line entry", "Is there a hole for a dropper's line?"),
    yes_no("battery_in_seat_tube", "Battery in the seat tube", "Look down the tube with the post out."),
    mm("shock_eye_to_eye_mm", "Shock length", "Bolt centre to bolt centre, no air in it.", 165, 230),
    mm("shock_stroke_mm", "Shock stroke", "Maker's figure, or rod showing at full length.", 38, 65),
    choice(
        "shock_mount",
        "Shock mount",
        "Seen: eyes at both ends, or bolts into the shock's side.",
        enums.SHOCK_MOUNT,
    ),
    mm("wheel_travel_mm", "Rear travel", "Maker's figure.", 0, 200),
)

FORK = kind(
    "fork",
    "Fork",
    choice("material", "Material", "Magnet, tap, look inside the steerer.", enums.MATERIAL),
    mm(
        "steerer_upper_mm",
        "Steerer diameter, top",
        "Caliper on the steerer where the stem sits.",
        25.4,
        28.6,
        31.8,
        38.1,
    ),
    mm(
        "crown_race_mm",
        "Crown race seat",
        "Caliper on the seat above the crown.",
        26.4,
        27.0,
        30.0,
        33.0,
        39.8,
    ),
    mm("steerer_length_mm", "Steerer length", "Crown race seat to the top of the tube.", 180, 300),
    choice("steerer_material", "Steerer material", "Magnet; look down the tube.", enums.MATERIAL),
    yes_no("steerer_threaded", "Threaded steerer", "Thread on the top of the tube?"),
    mm(
        "axle_to_crown_mm",
        "Axle to crown",
        "Axle centre to the crown race seat, along the steerer.",
        365,
        570,
    ),
    mm("offset_mm", "Offset", "Axle centre square off the steerer axis.", 37, 55, signed=True),
    mm("travel_mm", "Travel", "Stanchion showing with no air or preload.", 80, 200),
    mm("travel_max_mm", "Longest travel its internals allow", "Maker's figure for this chassis.", 100, 200),
    choice("axle_kind", "Axle", "Open slots: quick release or nuts. Closed: thru axle.", enums.AXLE_KIND),
    mm("axle_dia_mm", "Axle diameter", "Caliper in the dropout.", 9, 12, 15, 20),
    mm("spacing_mm", "Spacing", "Inside face to inside face of the dropouts.", 100, 110, 135, 150),
    choice(
        "brake_mount",
        "Brake mount",
        "Spacing of the bolt holes: 51, 74.2 or 34 mm; bosses; a single hole.",
        enums.BRAKE_MOUNT,
    ),
    mm(
        "native_rotor_mm",
        "Rotor without adapter",
        "Maker's figure for a bare post or flat mount.",
        140,
        160,
        180,
        200,
        203,
    ),
    mm(
        "rotor_max_mm",
        "Largest rotor",
        "Maker's limit, printed on the leg or in the manual. Never a guess.",
        160,
        180,
        203,
        220,
    ),
    mm("bridge_radius_mm", "Brake bolt radius", "Axle centre to the centre of the brake bolt.", 340, 380),
    mm("post_bsd_mm", "Bosses placed for", "Rim size the brake bosses are placed for.", 559, 584, 622),
    choice(
        "brake_bolt",
        "Brake bolt hole",
        "Same small hole both sides: nutted. Back 8 mm: recessed.",
        enums.BOLT,
    ),
    whole_list(
        "design_bsd_mm", "Rim sizes designed for", "Maker's figure.", 100, 800, 406, 559, 584, 622, unit="mm"
    ),
    mm_by_bsd("tyre_max_mm", "Widest front tyre", TYRE_WIDTH_HOW, 28, 65),
    yes_no("cable_hanger", "Cable hanger", "A stop on the crown that holds the straddle cable's housing."),
)

HEADSET = kind(
    "headset",
    "Headset",
    headset_code("upper", "Upper cup"),
    headset_code("lower", "Lower cup"),
    mm("steerer_upper_mm", "Steerer it takes, top", "Bore of the upper compression ring.", 25.4, 28.6),
    mm("crown_race_mm", "Crown race bore", "Caliper inside the crown race.", 26.4, 30.0, 33.0, 39.8),
    mm("stack_upper_mm", "Upper stack", "Head tube face to where the spacers begin, cover on.", 2, 30),
    mm("stack_lower_mm", "Lower stack", "Head tube face to the crown race seat.", 0, 18),
    number("bearing_angle_deg", "Bearing angle", "Printed on the bearing's edge: 36 or 45.", 30, 50, 36, 45),
    choice("anchor", "Anchor in the steerer", "Star-fangled nut or expander plug.", enums.ANCHOR),
    mm("anchor_depth_mm", "Anchor depth", "Top of the steerer to the anchor.", 12, 40),
    yes_no(
        "plug_in_clamp",
        "Plug within the clamp",
        "Stem off: does the plug's expanding part lie between the stem's edges?",
    ),
    yes_no(
        "cable_hanger",
        "Cable hanger",
        "A stop between the spacers that holds the front straddle cable's housing.",
    ),
)

SPACERS = kind(
    "spacers",
    "Spacers round the stem",
    mm("below_mm", "Below the stem", "All spacers under the stem together.", 0, 40),
    mm("above_mm", "Above the stem", "All spacers over the stem together.", 0, 20),
)

STEM = kind(
    "stem",
    "Stem",
    choice("mount", "Mount", "Clamps round the steerer, or a quill goes into it.", enums.STEM_MOUNT),
    mm(
        "steerer_mm",
        "Steerer clamp or quill",
        "Clamp bore; for a quill its own diameter.",
        22.2,
        25.4,
        28.6,
        31.8,
        38.1,
    ),
    mm("bar_clamp_mm", "Bar clamp", "Bore of the closed face plate.", 25.4, 26.0, 31.8, 35.0),
    mm("length_mm", "Length", "Steerer axis to bar axis.", 35, 130),
    number("angle_deg", "Angle", "From square to the steerer; rising is positive.", -90, 90, -17, -6, 6, 35),
    mm("clamp_height_mm", "Clamp height", "Along the steerer.", 32, 50),
    choice("faceplate_gap", "Face plate gap", "How its maker wants the gap.", enums.FACEPLATE),
    unless_printed(
        mm("max_spacers_mm", "Most spacers below", "Maker's limit.", 30, 50),
        "30 mm on a carbon steerer, no limit on metal",
    ),
    choice("material", "Material", "Magnet, tap, look at the weave.", enums.MATERIAL),
    number("mass_g", "Mass", "Scale.", 0, 5000, 100, 300),
    torque("steerer_bolt_nm", "Steerer bolts", "Printed beside the bolts."),
    torque("bar_bolt_nm", "Bar bolts", "Printed on the face plate."),
)

HANDLEBAR = kind(
    "handlebar",
    "Handlebar",
    choice("shape", "Shape", "Look.", enums.BAR_SHAPE),
    mm("clamp_mm", "Clamp diameter", "Caliper in the middle of the bar.", 25.4, 26.0, 31.8, 35.0),
    mm("grip_mm", "Grip diameter", "Caliper where the controls sit.", 22.2, 23.8),
    mm("width_mm", "Width", "End to end; drop bars centre to centre.", 400, 800),
    mm(
        "reach_mm",
        "Reach",
        "Drop bar: from the middle of the top to the foremost point of the bend.",
        65,
        75,
        85,
    ),
    mm("rise_mm", "Rise", "Clamp centre to grip centre, upwards.", 0, 50, signed=True),
    choice("material", "Material", "Look inside an end.", enums.MATERIAL),
    mm("bore_mm", "Bore at the end", "Inside caliper at the bar's end.", 19, 22),
    choice("routing", "Routing", "Where the lines leave the bar.", enums.ROUTING),
)

SEATPOST = kind(
    "seatpost",
    "Seatpost",
    mm(
        "diameter_mm",
        "Diameter",
        "Stamped by the minimum mark, or the caliper.",
        25.4,
        27.2,
        30.9,
        31.6,
        34.9,
    ),
    mm("length_mm", "Length", "End to rail centre.", 250, 500),
    mm("min_insertion_mm", "Least insertion", "End of the post to its mark.", 65, 120),
    mm("dropper_travel_mm", "Dropper travel", "Stanchion showing, extended.", 50, 240),
    mm("stack_mm", "Stack", "Collar to rail centre, extended.", 100, 300),
    mm("setback_mm", "Setback", "Post axis to rail clamp centre, back is positive.", 0, 25, signed=True),
    choice("actuation", "Actuation", "How the dropper is worked.", enums.POST_ACTUATION),
    choices("rails", "Rails it clamps", "Shape of the clamp's grooves.", enums.RAILS),
    yes_no(
        "mark_inside",
        "Mark in the tube",
        "Is the least-insertion mark in the tube, and the post's end past the top tube's joint?",
    ),
    choice("material", "Material", "Magnet, tap, look inside.", enums.MATERIAL),
    yes_no("turned", "Faces forward", "Is the setback turned to the front?"),
    yes_no("fits_forward", "May face forward", "Only if its maker says so."),
)

SADDLE = kind(
    "saddle",
    "Saddle",
    choices("rails", "Rails", "Caliper on the rail, both ways.", enums.RAILS),
    mm("rail_height_mm", "Height over rails", "Rail centre to saddle top.", 40, 60),
)

SHOCK = kind(
    "shock",
    "Shock",
    mm("eye_to_eye_mm", "Length", "Bolt centre to bolt centre.", 165, 230),
    mm("stroke_mm", "Stroke", "Rod showing at full length.", 38, 65),
    choice("mount", "Mount", "Eyes at both ends, or bolts into its side.", enums.SHOCK_MOUNT),
)

GRIPS = kind(
    "grips",
    "Grips",
    mm("bore_mm", "Bore", "Inside caliper; printed on the end.", 22.2, 23.8),
    mm("length_mm", "Length", "End to end.", 90, 145),
    yes_no("lock_on", "Clamped on", "A bolted ring at one end or both."),
    yes_no("end_plugs", "Ends closed", "Plugs in both bar ends, or grips closed at the end."),
)

MUDGUARD = kind(
    "mudguard",
    "Mudguard",
    mm("width_mm", "Width", "Edge to edge, inside.", 35, 75),
    whole("bsd_mm", "Rim size", "The wheel it is bent for.", 100, 800, 406, 559, 584, 622, unit="mm"),
)

CHASSIS_KINDS = (FRAME, FORK, HEADSET, SPACERS, STEM, HANDLEBAR, GRIPS, SEATPOST, SADDLE, SHOCK, MUDGUARD)
