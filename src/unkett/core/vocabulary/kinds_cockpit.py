"""Kinds of the cockpit and the seat: headset, spacers, stem, bar, grips, post, saddle."""

from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import (
    choice,
    choices,
    headset_code,
    kind,
    mm,
    mm_pair,
    number,
    torque,
    unless_printed,
    yes_no,
)
from unkett.core.vocabulary.kinds_suspension import HOURS

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
    number(
        "angle_change_deg", "Change of the head angle", "Printed on the cups; slacker is negative.", -2, 2
    ),
    mm_pair("head_tube_range_mm", "Head tubes it is made for", "Manufacturer's figure.", 90, 180),
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
        mm("max_spacers_mm", "Most spacers below", "Manufacturer's limit.", 30, 50),
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
    mm(
        "drop_mm",
        "Depth of the drop",
        "Drop bar: from the top down to the end, centre to centre.",
        115,
        125,
        140,
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
    *HOURS,
)


SADDLE = kind(
    "saddle",
    "Saddle",
    choices("rails", "Rails", "Caliper on the rail, both ways.", enums.RAILS),
    mm("rail_height_mm", "Height over rails", "Rail centre to saddle top.", 40, 60),
)


GRIPS = kind(
    "grips",
    "Grips",
    mm("bore_mm", "Bore", "Inside caliper; printed on the end.", 22.2, 23.8),
    mm("length_mm", "Length", "End to end.", 90, 145),
    yes_no("lock_on", "Clamped on", "A bolted ring at one end or both."),
    yes_no("end_plugs", "Ends closed", "Plugs in both bar ends, or grips closed at the end."),
)

COCKPIT_KINDS = (HEADSET, SPACERS, STEM, HANDLEBAR, GRIPS, SEATPOST, SADDLE)
