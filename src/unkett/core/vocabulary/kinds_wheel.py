"""Kinds of wheels, brakes and lines."""

from collections.abc import Mapping
from typing import Any

from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import (
    Attribute,
    Derived,
    choice,
    choices,
    code,
    kind,
    mm,
    mm_pair,
    number,
    number_list,
    places,
    sizes,
    unless_printed,
    whole,
    yes_no,
)
from unkett.core.vocabulary.types import Bool, Choice, ListOf, Number, Record

PRESSURE_MAX_BAR = 20.0

HUB = kind(
    "hub",
    "Hub",
    choice("axle_kind", "Axle", "Quick release, nuts or thru axle.", enums.AXLE_KIND),
    mm("axle_dia_mm", "Axle diameter", "Caliper on the axle end or in the bore.", 9, 10, 12, 15, 20),
    mm("spacing_mm", "Over locknuts", "Locknut face to locknut face.", 100, 110, 130, 135, 142, 148),
    Attribute(
        name="end_caps",
        title="Other end caps",
        how="Manufacturer's list. A kit moves rotor, sprockets or dish as well.",
        type=ListOf(
            item=Record(
                fields={
                    "axle_kind": Choice(of=enums.AXLE_KIND),
                    "axle_dia_mm": Number(unit="mm", low=0, high=100),
                    "spacing_mm": Number(unit="mm", low=0, high=300),
                    "kit": Bool(),
                },
                optional=frozenset({"kit"}),
            ),
            least=0,
        ),
    ),
    choice("rotor_mount", "Rotor mount", "Six bolts, splines or nothing.", enums.ROTOR_MOUNT),
    mm("rotor_offset_mm", "Rotor face", "Locknut face to the rotor's mounting face.", 10, 16, signed=True),
    whole("holes", "Spoke holes", "Count them.", 8, 80, 28, 32, 36),
    choice("spoke_head", "Spoke head", "Bent or straight.", enums.SPOKE_HEAD),
    mm(
        "flange_pcd_left_mm", "Left hole circle", "Hole centre to hole centre across the left flange.", 38, 62
    ),
    mm("flange_pcd_right_mm", "Right hole circle", "The same on the right.", 38, 62),
    mm("flange_offset_left_mm", "Left flange offset", "Hub centre to the left flange.", 20, 37, signed=True),
    mm(
        "flange_offset_right_mm",
        "Right flange offset",
        "Hub centre to the right flange.",
        15,
        37,
        signed=True,
    ),
    unless_printed(mm("spoke_hole_mm", "Spoke hole", "Drill shank that just goes in.", 2.4, 2.6), "2.6 mm"),
    whole("crosses_fixed", "Crosses (fixed by the hub)", "Straight-pull hubs only.", 0, 4),
    sizes(
        "bearings", "Bearings", "Inner × outer × width as on the seals, such as 15x28x7; as often as fitted."
    ),
    number(
        "system_max_kg", "System limit", "Manufacturer's figure for rider, load and bike.", 40, 300, 90, 130
    ),
    number_list("ratios", "Gear ratios", "Turns of the wheel for one of the cog, lowest gear first.", 0.2, 5),
    number(
        "torque_max_nm", "Torque limit", "Motor torque at the crank that its maker allows.", 20, 200, 50, 85
    ),
    yes_no(
        "trainer", "Stands on a trainer", "The axle of a trainer that the bike is clamped in, not of a wheel."
    ),
    yes_no("coaster", "Coaster brake", "Brakes when pedalled backwards."),
    yes_no("arm_fixed", "Brake arm fixed", "Its arm is strapped to the stay."),
    yes_no("dynamo", "Dynamo", "Two contacts by the axle."),
    number("dynamo_w", "Dynamo, power", "Printed on it.", 1, 6, 1.5, 3),
    choice("freehub_material", "Body, material", "Magnet; look for bites of cogs.", enums.MATERIAL),
    choice("freehub", "Freehub body", "Count the splines; measure the usable length.", enums.FREEHUB),
    choices(
        "freehub_swaps", "Bodies that swap on", "Manufacturer's list for this hub.", enums.FREEHUB, least=0
    ),
    mm("freehub_length_mm", "Body length", "Usable splined length.", 30.4, 34.9, 36.75),
    mm(
        "freehub_spacer_mm",
        "Spacer behind the cassette",
        "Caliper on the spacer; 0 for none.",
        0,
        1.0,
        1.85,
        4.5,
    ),
    whole(
        "internal_gears", "Gears inside", "Printed on the shell; 0 for a hub without.", 0, 20, 3, 5, 7, 8, 11
    ),
    code("protocol", "Protocol", "The code its shifter must carry too: which levers pull this gear hub."),
    whole(
        "cog_min_teeth", "Smallest cog", "Manufacturer's figure for a gear hub.", 9, 40, 16, 19, unit="teeth"
    ),
    whole(
        "cog_max_teeth", "Largest cog", "Manufacturer's figure for a gear hub.", 9, 40, 22, 24, unit="teeth"
    ),
    number(
        "ratio_min",
        "Least ring ÷ cog",
        "Manufacturer's limit, so that the torque does not break the gears.",
        0.5,
        5,
        1.8,
        2.5,
    ),
    mm("line_mm", "Cog line", "Frame centre to the middle of the cog.", 40, 57),
    mm("axle_flats_mm", "Axle over its flats", "Caliper over the flats of a solid axle.", 7, 12),
)

RIM = kind(
    "rim",
    "Rim",
    mm("bsd_mm", "Rim size (bead seat)", "Printed on rim and tyre, such as 622.", 406, 507, 559, 584, 622),
    mm(
        "erd_mm",
        "Effective diameter",
        "Two rods of 200 mm in opposite holes, gap plus 400, plus nipple seats.",
        520,
        610,
    ),
    mm("inner_width_mm", "Inner width", "Between the hooks.", 13, 45),
    mm("outer_width_mm", "Outer width", "Caliper over the braking faces or side walls.", 18, 50),
    choice("material", "Material", "Magnet, tap, look at the weave.", enums.MATERIAL),
    whole("holes", "Spoke holes", "Count them.", 8, 80, 28, 32, 36),
    yes_no("brake_track", "Brake track", "A flat, machined side wall."),
    choice("bead", "Bead", "Hooked, straight wall, or a bed for tubulars.", enums.BEAD),
    yes_no("tubeless", "Tubeless", "Marked by its maker."),
    mm("tyre_min_mm", "Narrowest tyre", "Manufacturer's figure.", 23, 50),
    mm("tyre_max_mm", "Widest tyre", "Manufacturer's figure.", 32, 70),
    number("pressure_max_bar", "Pressure limit", "Printed on the rim.", 0, PRESSURE_MAX_BAR, 3, 8),
    mm("depth_mm", "Depth", "Tyre edge to spoke bed.", 15, 60),
    mm("valve_hole_mm", "Valve hole", "Drill shank that just goes in: 6.5 or 8.5.", 6.5, 8.5),
    unless_printed(
        mm(
            "drilling_offset_mm",
            "Drilling offset",
            "Holes off the rim's centre, to the left positive.",
            0,
            4,
            signed=True,
        ),
        "0: drilled in the middle",
    ),
    number(
        "wall_mm", "Wall thickness", "Rim brakes: caliper over the wall, its thinnest place.", 0.1, 5, 0.8, 2
    ),
)

TYRE = kind(
    "tyre",
    "Tyre",
    mm("bsd_mm", "Bead seat", "Second figure on the side wall: 37-622.", 406, 507, 559, 584, 622),
    mm("width_mm", "Nominal width", "First figure on the side wall.", 23, 65),
    mm("width_measured_mm", "Measured width", "Caliper over the casing, mounted and pumped.", 23, 65),
    choice("type", "Type", "Open with beads, or sewn round.", enums.TYRE_TYPE),
    yes_no("tubeless", "Tubeless", "Marked on the side wall."),
    yes_no("hookless_ok", "Allowed on hookless rims", "Marked on the side wall or in the maker's list."),
    number("pressure_max_bar", "Pressure limit", "Printed on the side wall.", 0, PRESSURE_MAX_BAR, 3, 8),
    yes_no("directional", "Directional", "An arrow on the side wall."),
    choice("valve", "Valve", "Caliper on the stem: 6 slim, 8 wide.", enums.VALVE),
    mm("valve_length_mm", "Valve length", "Stem without the cap.", 40, 80),
    number("tread_mm", "Tread left", "Depth gauge in the middle of the tread.", 0, 20, 0.5, 5),
)

SPOKES = kind(
    "spokes",
    "Spokes",
    mm("length_left_mm", "Length, left", "Inside of the bend to the thread's end.", 180, 305),
    mm("length_right_mm", "Length, right", "The same on the right.", 180, 305),
    whole("crosses", "Crosses", "Count the spokes one spoke passes.", 0, 4, 2, 3),
    unless_printed(
        whole("crosses_left", "Crosses, left", "Where the left side differs.", 0, 4, 2, 3),
        "as the other side",
    ),
    unless_printed(
        whole("crosses_right", "Crosses, right", "Where the right side differs.", 0, 4, 2, 3),
        "as the other side",
    ),
    unless_printed(
        yes_no(
            "to_lace",
            "Still to be laced",
            "Yes for a wheel that is built anew: cut to the lengths worked out.",
        ),
        "laced as it stands",
    ),
    choice("head", "Head", "Bent or straight.", enums.SPOKE_HEAD),
    mm("gauge_mm", "Gauge", "Caliper near the head.", 1.8, 2.0),
    unless_printed(
        mm(
            "nipple_gauge_mm",
            "Nipple gauge",
            "Printed on their box: the spoke gauge they are threaded for.",
            1.8,
            2.0,
        ),
        "as the spokes",
    ),
)

ROTOR = kind(
    "rotor",
    "Rotor",
    mm("diameter_mm", "Diameter", "Across the rotor.", 140, 160, 180, 203),
    choice("mount", "Mount", "Six bolts or splines.", enums.ROTOR_MOUNT),
    mm("thickness_mm", "Thickness, new", "Printed, or the unswept rim of it.", 1.8, 2.0, 2.3),
    mm("thickness_min_mm", "Least thickness", "Stamped on the rotor.", 1.5, 1.7),
    mm("measured_mm", "Thickness now", "Micrometer on the swept band, thinnest of four.", 1.5, 2.0),
    mm("track_mm", "Track height", "Height of the swept band.", 12, 16),
)

MOUNT_OF_BRAKE = {
    "dual_pivot": "rim_bolt",
    "linear_pull": "posts",
    "cantilever": "posts",
    "u_brake": "u_posts",
    "roller": "roller_arm",
}


def _bolts_to(attrs: Mapping[str, Any]) -> str | None:
    """The mount a caliper wants: its own, or the one that its sort of brake always has."""
    return attrs.get("mount") or MOUNT_OF_BRAKE.get(attrs.get("type", ""))


CALIPER = kind(
    "caliper",
    "Caliper",
    choice("type", "Type", "Look.", enums.CALIPER_TYPE),
    choice(
        "actuation", "Actuation", "Cable, hose, or a cable into a hydraulic caliper.", enums.CALIPER_ACTUATION
    ),
    choice("cable_pull", "Cable pull", "How much cable it wants.", enums.CABLE_PULL),
    choice("fluid", "Fluid", "Printed on the lever or caliper. Never by taste.", enums.FLUID),
    code("hose_fitting", "Hose fitting", "Barb, olive and thread as its maker names them."),
    choice("mount", "Mount", "Spacing of its bolts.", enums.BRAKE_MOUNT),
    mm_pair("rotor_thickness_mm", "Rotor thickness", "Manufacturer's figure.", 1.8, 2.3),
    whole("pistons", "Pistons", "Count them.", 1, 8, 2, 4),
    mm_pair("reach_mm", "Reach", "Bolt centre to pad centre, pad up and pad down.", 39, 73),
    mm_pair("rim_width_mm", "Rim width it takes", "Manufacturer's figure, outside width of the rim.", 17, 35),
    mm(
        "tyre_max_mm",
        "Tallest tyre under it",
        "Manufacturer's figure, or rim edge to the arms less 4 mm.",
        25,
        45,
    ),
    choice("cable_side", "Cable enters", "From behind: the side the housing comes in.", enums.SIDE),
    choice("bolt", "Bolt", "Long with a nut, or short with a sleeve.", enums.BOLT),
    mm("pad_height_mm", "Pad height", "Of the friction material.", 10, 17),
    number("pad_mm", "Pad lining left", "Thinnest pad, lining without its plate.", 0, 20, 0.5, 8),
    yes_no("rim_direct", "Two bolts", "Bolted on two threads instead of one."),
    mm("arm_mm", "Arm length", "Linear pull: boss centre to the cable.", 80, 110),
    yes_no("cutoff_sensor", "Cut-off sensor", "A switch for the motor in the caliper."),
    derived=(Derived(name="bolts_to", of=("mount", "type"), function=_bolts_to),),
)

BRAKE_LEVER = kind(
    "brake_lever",
    "Brake lever",
    choice("actuation", "Actuation", "Cable or hose.", enums.LEVER_ACTUATION),
    choice(
        "cable_pull",
        "Cable pull",
        "Pull the lever, measure the cable: 7–10 short, 14–17 long.",
        enums.CABLE_PULL,
    ),
    choice("fluid", "Fluid", "Printed on the reservoir.", enums.FLUID),
    code("hose_fitting", "Hose fitting", "Barb, olive and thread as its maker names them."),
    mm("clamp_mm", "Clamp", "Bore of the clamp.", 22.2, 23.8),
    choices("fits_bar", "Bars it fits", "Shape of bar it is made for.", enums.BAR_SHAPE),
    yes_no("cutoff_switch", "Cut-off switch", "A wire to the motor."),
    mm("reach_min_mm", "Least reach", "Bar to lever, reach screw full in.", 45, 80),
    choice("inner_head", "Head it takes", "Shape of the seat of the inner's head.", enums.INNER_HEAD),
    yes_no("bar_end", "Sits in the bar's end", "Held by a plug in the end of the bar, not by a clamp."),
)

BRAKE_ADAPTER = kind(
    "brake_adapter",
    "Brake adapter",
    choice("frame_side", "Frame side", "Bolt spacing towards the frame.", enums.BRAKE_MOUNT),
    choice("caliper_side", "Caliper side", "Bolt spacing towards the caliper.", enums.BRAKE_MOUNT),
    mm("rotor_mm", "Rotor it is for", "Stamped on it.", 160, 180, 203),
    mm("native_mm", "Rotor without it", "Post mount: the size it starts from.", 140, 160, 180),
    choice("end", "End", "Stamped: front, rear or either.", enums.END),
)

LINE_ATTRIBUTES = (
    choice("type", "Type", "Straight strands: shift. Coil: brake. Plastic hose: hydraulic.", enums.LINE_TYPE),
    mm("length_mm", "Length", "Ruler along it, ends included.", 300, 2500),
    number_list("turns_deg", "Bends", "Angle of every bend.", 0, 1440, 30, 180, least=0),
    mm("radius_min_mm", "Tightest bend", "Radius of a coin or tube that lies in it.", 25, 100),
    choice("fluid", "Fluid", "What is in the hose.", enums.FLUID),
    code("hose_fitting", "Hose fitting", "Barb, olive and thread as its maker names them."),
    choice("route", "Route", "Follow it from lever to component.", enums.ROUTE),
    mm(
        "need_mm",
        "Length it needs",
        "Bar turned fully both ways, suspension at its longest: the line just free.",
        300,
        2500,
    ),
    mm("inner_mm", "Inner", "Caliper on the bare wire.", 1.1, 1.2, 1.5, 1.6),
    mm("inner_length_mm", "Length of the inner", "Ruler, head to end.", 500, 3000),
    choice("inner_head", "Head of the inner", "Its shape.", enums.INNER_HEAD),
    mm("housing_od_mm", "Housing, outside", "Caliper.", 4, 5),
    code("plug_code", "Plug", "Manufacturer's code of the plug of a wire."),
    choice("friction", "Runs", "Pull it by hand.", enums.FRICTION),
    places(
        "points_mm",
        "Points of its own",
        "From the bracket: forward, up and to the drive side of a guide that is elsewhere.",
    ),
)
BRAKE_LINE = kind("brake_line", "Brake line", *LINE_ATTRIBUTES)
SHIFT_LINE = kind("shift_line", "Shift line", *LINE_ATTRIBUTES)
DROPPER_LINE = kind("dropper_line", "Dropper line", *LINE_ATTRIBUTES)

WHEEL_AND_BRAKE_KINDS = (
    HUB,
    RIM,
    TYRE,
    SPOKES,
    ROTOR,
    CALIPER,
    BRAKE_LEVER,
    BRAKE_ADAPTER,
    BRAKE_LINE,
    SHIFT_LINE,
    DROPPER_LINE,
)
