"""Kinds of the drivetrain: bracket, crank, rings, chain, cassette, derailleurs, shifters, guide, pedals, motor."""

import functools
from collections.abc import Mapping
from typing import Any

from unkett.core.standards import rows_where
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import (
    Derived,
    choice,
    choice_by_ring,
    choices,
    code,
    counted,
    kind,
    largest,
    mm,
    mm_list,
    number,
    sizes,
    smallest,
    torque,
    unless_printed,
    whole,
    whole_list,
    yes_no,
)

SPEEDS_MAX = 14
SPEEDS_HOW = "Count them; the family is printed on the part."

BOTTOM_BRACKET = kind(
    "bottom_bracket",
    "Bottom bracket",
    choice("shell", "Shell it fits", "Outside diameter and thread of the cups.", enums.BB_SHELL),
    mm_list("shell_widths_mm", "Shell widths", "Printed on the cup or box.", 68, 73, 83),
    choice("spindle", "Spindle", "Bore of the bearings, or the spindle's end.", enums.SPINDLE),
    mm("spindle_length_mm", "Spindle length", "End to end, cartridge brackets.", 107, 110, 113, 118, 122.5),
    mm("flanges_mm", "Cups outside the shell", "Both flanges together.", 0, 22),
    mm("spacers_mm", "Spacers fitted", "All cup spacers together.", 0, 7.5),
    choices("shells", "Shells it fits, several", "Printed: brackets made for two shells.", enums.BB_SHELL),
    sizes("bearings", "Bearings", "Inner × outer × width as on the seals; as often as fitted."),
    choice("drive_thread", "Drive-side thread", "Which way the drive cup turns in.", enums.THREAD_HAND),
)

CRANK = kind(
    "crank",
    "Crank",
    choice("spindle", "Spindle", "Diameter, splines or square of the spindle.", enums.SPINDLE),
    mm(
        "spindle_length_mm",
        "Spindle length wanted",
        "Manufacturer's figure for a cartridge bracket.",
        107,
        122.5,
    ),
    mm_list("shell_widths_mm", "Shell widths", "Manufacturer's figure.", 68, 73, 83),
    mm(
        "spindle_needs_mm",
        "Width between the arms",
        "Manufacturer's figure: shell, flanges and spacers together.",
        90,
        104,
    ),
    mm("preload_range_mm", "Preload range", "What the ring or washer takes up.", 0, 3),
    mm("arm_mm", "Arm length", "Spindle centre to pedal centre.", 100, 180),
    choice_by_ring(
        "ring_mount",
        "Ring mount",
        "Bolt centre to neighbouring bolt centre, count the bolts.",
        enums.RING_MOUNT,
    ),
    whole("rings", "Rings it is made for", "Seats for rings, used or not.", 1, 4, 1, 2, 3),
    mm("chainline_mm", "Chainline", "Centre plane to the middle of the rings.", 43.5, 45, 49, 52, 55),
    mm_list(
        "ring_offset_mm",
        "Offset by ring",
        "Each ring's plane from the chainline, outwards positive.",
        -5,
        5,
        signed=True,
    ),
    mm(
        "line_at_zero_mm",
        "Line of a ring without offset",
        "Manufacturer's figure for rings bolted to the arm.",
        40,
        65,
    ),
    choice("power_where", "Power meter", "Where its pod or its electronics sit.", enums.POWER_WHERE),
    mm("pod_mm", "Height of the pod", "Inside of the arm to the pod's face.", 5, 20),
    mm("q_mm", "Tread", "Outside of arm to outside of arm.", 140, 185),
    choice("pedal_thread", "Pedal thread", "9/16 in; one-piece cranks 1/2 in.", enums.PEDAL_THREAD),
    torque("bolt_nm", "Arm bolt", "Printed on the arm."),
)

CHAINRINGS = kind(
    "chainrings",
    "Chainrings",
    whole_list(
        "teeth", "Teeth", "Count, largest ring first.", 16, 80, 22, 53, unit="teeth", order="descending"
    ),
    choice_by_ring(
        "mount", "Mount", "Bolt centre to neighbouring bolt centre, count the bolts.", enums.RING_MOUNT
    ),
    mm("offset_mm", "Offset", "Printed on a ring bolted to the arm; inwards positive.", 0, 6, signed=True),
    choice("drive", "Drive", "Teeth for a chain, or a belt's pulley.", enums.DRIVE),
    choice("tooth_profile", "Tooth profile", "Every other tooth wide: narrow-wide.", enums.TOOTH_PROFILE),
    choice("shape", "Shape", "Measure across, twice.", enums.RING_SHAPE),
    whole_list("speeds", "Chains it takes", "Printed on the ring, by speeds.", 1, SPEEDS_MAX, 8, 12),
    mm("tooth_mm", "Tooth width", "Caliper on a plain or narrow tooth.", 1.7, 2.1, 3.0),
    yes_no("threaded_in", "Threads in the ring itself", "Bolts screw into the ring, no nuts behind it."),
    derived=(
        counted("count", "teeth"),
        largest("largest_teeth", "teeth"),
        smallest("smallest_teeth", "teeth"),
    ),
)

CHAIN = kind(
    "chain",
    "Chain",
    whole(
        "speeds",
        "Speeds",
        "Printed on the plates; else outer width with the caliper.",
        1,
        SPEEDS_MAX,
        8,
        9,
        10,
        11,
        12,
    ),
    whole("links", "Links", "Count the 12.7 mm pitches, joined chain.", 20, 400, 104, 126),
    mm("inner_width_mm", "Inner width", "Between the inner plates.", 2.18, 2.38, 3.3),
    mm("outer_width_mm", "Outer width", "Over the pin ends.", 5.0, 7.8),
    choice("closing", "Closing", "Quick link or pin.", enums.CLOSING),
    yes_no("directional", "Directional", "Does it carry an arrow or print on one side only?"),
    whole("joints", "Closed places", "Quick links and joining pins in the chain, counted.", 0, 10, 1),
    number("elongation_pct", "Elongation", "Chain gauge, or the length over 24 links.", -1, 5, 0, 1),
)


def _sprockets(attrs: Mapping[str, Any]) -> int | None:
    """Sprockets really there: the teeth's count, else the family's speeds."""
    teeth, speeds = attrs.get("teeth"), attrs.get("speeds")
    return len(teeth) if teeth else None if speeds is None else int(speeds)


def _left_out(attrs: Mapping[str, Any]) -> int | None:
    """Return how many sprockets of the family were left out; None until family and sprockets are counted."""
    teeth, speeds = attrs.get("teeth"), attrs.get("speeds")
    return None if not teeth or speeds is None else int(speeds) - len(teeth)


def _pitches(attrs: Mapping[str, Any]) -> tuple[float, ...] | None:
    """Return the sprocket pitches in mm that a cassette may have: the stated one, else by the table.

    A mount that names its own row decides; a count with one usual row takes it; else every row of
    that count is possible. None for a count the table does not know.
    """
    stated = attrs.get("sprocket_pitch_mm")
    if stated is not None:
        return (float(stated),)
    return _usual_pitches(attrs.get("speeds"), attrs.get("mount")) or None


@functools.cache
def _usual_pitches(speeds: int | None, mount: str | None) -> tuple[float, ...]:
    rows = rows_where("sprocket_pitches", "speeds", speeds)
    by_mount = [row for row in rows if mount in row.get("mounts", ())]
    usual = [row for row in rows if "mounts" not in row]
    return tuple(sorted({float(row["pitch_mm"]) for row in by_mount or usual or rows}))


CASSETTE = kind(
    "cassette",
    "Cassette",
    whole("speeds", "Speeds of its family", SPEEDS_HOW, 1, SPEEDS_MAX, 7, 8, 9, 10, 11, 12),
    whole_list(
        "teeth",
        "Sprockets",
        "Count the teeth, smallest first.",
        9,
        60,
        11,
        52,
        unit="teeth",
        order="ascending",
    ),
    choice(
        "mount",
        "Mount",
        "Count the splines, also of a single cog for a freehub; screw-on: the notches stand still turning backwards.",
        enums.FREEHUB,
    ),
    choice("drive", "Drive", "Teeth for a chain, or a belt's pulley.", enums.DRIVE),
    mm("cog_base_mm", "Width of the cog's base", "Caliper where it sits on the splines.", 1.5, 8),
    mm("tooth_mm", "Tooth width", "Caliper on a plain or narrow tooth.", 1.7, 2.1, 3.0),
    mm("sprocket_pitch_mm", "Sprocket pitch", "Stack from first to last sprocket ÷ gaps.", 3.4, 5.5),
    mm(
        "dished_mm", "Overhang behind the body", "How far the largest sprocket hangs behind the spider.", 0, 4
    ),
    unless_printed(
        mm("extra_spacer_mm", "Spacer its maker asks for", "In the box or the manual.", 0, 1.0), "none"
    ),
    yes_no("unused", "Never ridden", "New, with no chain's wear on its teeth."),
    derived=(
        Derived(name="sprockets", of=("teeth", "speeds"), function=_sprockets, op="len"),
        Derived(name="left_out", of=("teeth", "speeds"), function=_left_out),
        Derived(
            name="pitches_mm", of=("sprocket_pitch_mm",), helped_by=("speeds", "mount"), function=_pitches
        ),
        largest("largest_teeth", "teeth"),
        smallest("smallest_teeth", "teeth"),
    ),
)

REAR_DERAILLEUR = kind(
    "rear_derailleur",
    "Rear derailleur",
    whole("speeds", "Speeds", SPEEDS_HOW, 1, SPEEDS_MAX, 7, 8, 9, 10, 11, 12),
    choice("actuation", "Actuation", "Cable or electronic.", enums.GEAR_ACTUATION),
    number("shift_ratio", "Shift ratio", "Upper pulley's sideways travel ÷ cable pulled.", 0.3, 4, 1.0, 1.7),
    code("protocol", "Protocol", "Manufacturer's code of the electronic family."),
    whole("sprocket_max_teeth", "Largest sprocket", "Manufacturer's figure.", 9, 60, 25, 52, unit="teeth"),
    whole("sprocket_min_teeth", "Smallest sprocket", "Manufacturer's figure.", 9, 60, 10, 12, unit="teeth"),
    whole(
        "ring_difference_max_teeth", "Ring difference", "Manufacturer's figure.", 0, 60, 10, 22, unit="teeth"
    ),
    whole(
        "capacity_teeth",
        "Capacity",
        "Manufacturer's figure: rings' difference plus sprockets' difference.",
        0,
        90,
        26,
        47,
        unit="teeth",
    ),
    unless_printed(
        whole(
            "extra_links", "Links over big/big", "Manufacturer's figure; 2 as a rule.", 2, 20, 2, 4, even=True
        ),
        "2",
    ),
    choice("mount", "Mount", "Bolt thread, and whether an upper link is between.", enums.HANGER),
    yes_no("removable_link", "Upper link comes off", "For direct hangers."),
    yes_no("clutch", "Clutch", "A lever or a stiff cage."),
    choice("cage", "Cage", "Pulley to pulley: to 55 short, to 75 medium.", enums.CAGE),
)

FRONT_DERAILLEUR = kind(
    "front_derailleur",
    "Front derailleur",
    choice("mount", "Mount", "Band, tab, direct or plate.", enums.FD_MOUNT),
    choice("cable_from", "Cable", "Where the cable must come from.", enums.CABLE_FROM),
    whole("rings", "Rings", "Two or three.", 1, 4, 2, 3),
    whole("outer_max_teeth", "Largest ring", "Manufacturer's figure.", 16, 80, 44, 53, unit="teeth"),
    whole(
        "ring_difference_max_teeth", "Ring difference", "Manufacturer's figure.", 0, 60, 16, 22, unit="teeth"
    ),
    whole_list("speeds", "Chains it takes", "Printed on the cage.", 1, SPEEDS_MAX, 8, 12),
    mm("chainline_mm", "Chainline", "Manufacturer's figure.", 43.5, 50),
    choice("actuation", "Actuation", "Cable or electronic.", enums.GEAR_ACTUATION),
    code("pull_family", "Pull family", "The workshop's name for levers and derailleurs that work together."),
    code("protocol", "Protocol", "Manufacturer's code of the electronic family."),
)

SHIFTER = kind(
    "shifter",
    "Shifter",
    choice("mode", "Mode", "Clicks, slides or switches.", enums.SHIFT_MODE),
    whole("speeds", "Positions", "Count the clicks and add one.", 1, SPEEDS_MAX, 3, 8, 9, 10, 11, 12),
    mm("pull_per_click_mm", "Pull per click", "Ruler on the cable over several clicks ÷ clicks.", 2.3, 4.5),
    mm("total_pull_mm", "Pull in all", "Cable from slack to end.", 18, 40),
    code("pull_family", "Pull family", "The workshop's name for levers and derailleurs that work together."),
    code("protocol", "Protocol", "Manufacturer's code of the electronic family."),
    mm("clamp_mm", "Clamp", "Bore of the clamp.", 22.2, 23.8),
    choices("fits_bar", "Bars it fits", "Shape of bar it is made for.", enums.BAR_SHAPE),
    choice("place", "Place", "Where it sits.", enums.SHIFTER_PLACE),
    choice("inner_head", "Head it takes", "Shape of the seat of the inner's head.", enums.INNER_HEAD),
    yes_no("bar_end", "Sits in the bar's end", "Held by a plug in the end of the bar, not by a clamp."),
    choice("expander_thread", "Expander's thread", "Which way the plug's bolt tightens.", enums.THREAD_HAND),
)

CHAIN_GUIDE = kind(
    "chain_guide",
    "Chain guide",
    choice("mount", "Mount", "Tabs, direct, plate, band or braze-on tab.", enums.GUIDE_MOUNT),
    choice("sort", "Sort", "A guide round the ring, or a catcher inside it.", enums.GUIDE_SORT),
    whole("ring_min_teeth", "Smallest ring", "Manufacturer's figure.", 16, 80, 28, unit="teeth"),
    whole("ring_max_teeth", "Largest ring", "Manufacturer's figure.", 16, 80, 38, unit="teeth"),
    yes_no("oval_ok", "Takes oval rings", "Manufacturer's word."),
    whole("bash_max_teeth", "Bash guard covers", "Manufacturer's figure.", 16, 80, 34, unit="teeth"),
)

PEDALS = kind(
    "pedals",
    "Pedals",
    choice("thread", "Thread", "Caliper over the thread: 14.3 or 12.7.", enums.PEDAL_THREAD),
    code("cleat_code", "Cleat it takes", "Manufacturer's name of the cleat."),
)

MOTOR = kind(
    "motor",
    "Motor",
    choice("type", "Type", "In a hub or at the bracket.", enums.MOTOR_TYPE),
    yes_no("needs_cutoff", "Wants a cut-off switch", "Manufacturer's word; local law may ask for it."),
    choices("bb_shell", "Shells it fits", "Manufacturer's list.", enums.BB_SHELL),
    number("torque_nm", "Torque", "Manufacturer's figure.", 0, 200, 40, 85),
    mm_list("shell_widths_mm", "Shell widths", "Manufacturer's list, mid motors.", 68, 73, 83),
    choice_by_ring(
        "ring_mount", "Ring mount", "Bolt circle or direct mount of a mid motor's ring.", enums.RING_MOUNT
    ),
    number("light_volts", "Light output", "Printed by the plug.", 3, 60, 6, 12),
    number("light_max_w", "Light output, power", "Printed by the plug.", 0, 40, 2, 20),
    yes_no(
        "torque_arm",
        "Torque arm",
        "Hub motor: an arm or plate that keeps its axle from turning in the dropout.",
    ),
)

DROPPER_LEVER = kind(
    "dropper_lever",
    "Dropper lever",
    choice("actuation", "Actuation", "Cable, hose or radio.", enums.POST_ACTUATION),
    mm("clamp_mm", "Clamp", "Bore of the clamp.", 22.2, 23.8),
    choices("fits_bar", "Bars it fits", "Shape of bar it is made for.", enums.BAR_SHAPE),
)

DRIVE_KINDS = (
    BOTTOM_BRACKET,
    CRANK,
    CHAINRINGS,
    CHAIN,
    CASSETTE,
    REAR_DERAILLEUR,
    FRONT_DERAILLEUR,
    SHIFTER,
    CHAIN_GUIDE,
    PEDALS,
    MOTOR,
    DROPPER_LEVER,
)
