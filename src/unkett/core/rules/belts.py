"""Belt drive: pulleys, opening of the frame, length and line."""

from __future__ import annotations

import math

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

PITCH_MM = limit_of("belt_pitch_mm")
LINE_MM = limit_of("belt_line_mm")
LINE_SHIM_MM = limit_of("belt_line_shim_mm")

DRIVE = rule(
    "belt-drive",
    title="Belt, pulleys and frame are made for each other",
    plain=(
        "Belt, chainring and sprocket are of one drive, and the frame opens for the belt: a steel frame can have a "
        "joint brazed in elsewhere. A belt takes no derailleur."
    ),
    why="A belt cannot be opened like a chain, and teeth of another drive cut it.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={
        "belt": "belt",
        "rings": required("chainrings"),
        "cassette": required("cassette"),
        "frame": required("frame"),
        "derailleur": optional("rear_derailleur"),
    },
    messages={
        "one_drive": "Belt and pulleys are of one drive, and the frame opens for the belt.",
        "other_drive": "Belt: {belt.drive}. Chainring: {rings.drive}. Sprocket: {cassette.drive}. Incompatible.",
        "closed": "The frame does not open for a belt.",
        "derailleur": "A belt takes no derailleur.",
    },
    sources=("gear-hubs",),
)


@DRIVE.clause("belt", may="derailleur.mount")
def no_derailleur(belt: View, derailleur: View) -> Outcome | None:
    return None if derailleur.empty else no_go("derailleur", way_out(derailleur, "mount", "==", "none"))


@DRIVE.clause("belt frame.belt_opening")
def opens(belt: View, frame: View) -> Outcome | None:
    return None if frame.belt_opening else no_go("closed", way_out(frame, "belt_opening", "==", True))


@DRIVE.clause("belt.drive rings.drive cassette.drive")
def pulleys(belt: View, rings: View, cassette: View) -> Outcome:
    if belt.drive == rings.drive == cassette.drive:
        return goes("one_drive")
    others = [pulley for pulley in (rings, cassette) if pulley.drive != belt.drive]
    return no_go("other_drive", *(way_out(pulley, "drive", "==", belt.drive) for pulley in others))


LENGTH = rule(
    "belt-length",
    title="Belt is as long as the frame can tension",
    plain="The centre distance at which the belt is tight must lie between the frame's shortest and longest chainstay.",
    why="A belt has one length: only the frame can tension it.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={
        "belt": "belt",
        "rings": required("chainrings"),
        "cassette": required("cassette"),
        "frame": required("frame"),
    },
    messages={
        "within": "The belt is tight at {centre_mm:.1f} mm; the frame allows {low_mm:g} to {high_mm:g} mm.",
        "off": "The belt would be tight at {centre_mm:.1f} mm; the frame allows {low_mm:g} to {high_mm:g} mm.",
    },
    figures={
        "centre_mm": ("centre distance at which the belt is tight", "mm"),
        "low_mm": ("shortest chainstay", "mm"),
        "high_mm": ("longest chainstay", "mm"),
    },
    sources=("belt-geometry",),
)


def belt_centre(*, teeth: int, ring: int, sprocket: int) -> float:
    """Return the centre distance in mm at which a belt is tight round two pulleys; 0 where it never goes round.

    L = 2C cos b + pi (R + r) + 2 b (R - r) with sin b = (R - r) / C, solved by halving. Plane geometry.
    """
    large, small = (count * PITCH_MM / (2 * math.pi) for count in (max(ring, sprocket), min(ring, sprocket)))
    length = teeth * PITCH_MM

    def round_both(centre: float) -> float:
        lean = math.asin((large - small) / centre)
        return 2 * centre * math.cos(lean) + math.pi * (large + small) + 2 * lean * (large - small)

    low, high = large - small + 1e-6, length
    if round_both(low) > length:
        return 0.0
    while high - low > 1e-7:
        middle = (low + high) / 2
        low, high = (middle, high) if round_both(middle) < length else (low, middle)
    return (low + high) / 2


@LENGTH.clause("belt.teeth rings.largest_teeth cassette.largest_teeth frame.chainstay_range_mm")
def length(belt: View, rings: View, cassette: View, frame: View) -> Outcome:
    centre = belt_centre(teeth=belt.teeth, ring=rings.largest_teeth, sprocket=cassette.largest_teeth)
    low, high = frame.chainstay_range_mm
    figures = {"centre_mm": centre, "low_mm": low, "high_mm": high}
    if low - SLACK <= centre <= high + SLACK:
        return goes("within", **figures)
    way = (
        way_out(belt, "teeth", ">=", belt.teeth + 1)
        if centre < low
        else way_out(belt, "teeth", "<=", belt.teeth - 1)
    )
    return no_go("off", way, **figures)


LINE = rule(
    "belt-line",
    title="Belt runs straight",
    plain=(
        "The crank's line against the hub's: within {belt_line_mm} mm it goes, to {belt_line_shim_mm} mm with shims, "
        "more does not."
    ),
    why="A belt that runs out of line climbs off its sprocket and frays at the edge.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={"belt": "belt", "crank": required("crank"), "hub": required("rear_hub")},
    messages={
        "straight": "Belt line: crank {crank.chainline_mm:g} mm, hub {hub.line_mm:g} mm.",
        "shim": "Belt line: crank {crank.chainline_mm:g} mm, hub {hub.line_mm:g} mm: shims bring them together.",
        "off": "Belt line: crank {crank.chainline_mm:g} mm, hub {hub.line_mm:g} mm: the belt climbs off.",
    },
    sources=("chainline-geometry",),
)


@LINE.clause("belt crank.chainline_mm hub.line_mm")
def line(belt: View, crank: View, hub: View) -> Outcome:
    off = abs(crank.chainline_mm - hub.line_mm)
    if off <= LINE_MM + SLACK:
        return goes("straight")
    if off <= LINE_SHIM_MM + SLACK:
        return goes_if("shim", need("belt line shims"))
    return no_go("off", way_out(crank, "chainline_mm", "==", hub.line_mm))
