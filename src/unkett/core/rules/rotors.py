"""Rotors: on their hub, within the frame's or fork's limit, thick enough, under the right pads."""

from __future__ import annotations

from unkett.core.calc.brakes import (
    WORN_UNDER_NEW_MM,
    least_thickness,
)
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import (
    Outcome,
    goes,
    goes_if,
    need,
    no_go,
    way_out,
)
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, table
from unkett.core.vocabulary import Area

ORDER_SOON_MM = limit_of("rotor_order_soon_mm")
ANY_CALIPER_MM = limit_of("rotor_any_caliper_mm")


MOUNT = rule(
    "rotor-mount",
    title="Rotor mounts on the hub",
    plain=(
        "Six bolts on six bolts, splines on splines. A six-bolt rotor goes on a splined hub with an adapter "
        "ring; a splined rotor never goes on six bolts. 15 and 20 mm axles take the lockring with outside notches."
    ),
    why="A rotor that is not held as it was made to be loosens under braking.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(hub="{end}_hub", rotor="{end}_rotor"),
    messages={
        "same": "Rotor and hub have one mount.",
        "ring": "A six-bolt rotor goes on a splined hub with an adapter ring.",
        "no_mount": "The hub has no rotor mount.",
        "other": "Rotor: {rotor.mount}. Hub: {hub.rotor_mount}. Incompatible.",
    },
    sources=("rotor-mounts",),
    safety=True,
)


@MOUNT.clause("hub.rotor_mount rotor")
def no_mount(hub: View, rotor: View) -> Outcome | None:
    if hub.rotor_mount != "none":
        return None
    return no_go("no_mount", way_out(hub, "rotor_mount", "==", "six_bolt"))


@MOUNT.clause("rotor.mount")
def no_rotor_mount(rotor: View) -> Outcome | None:
    return no_go("no_mount", way_out(rotor, "mount", "!=", "none")) if rotor.mount == "none" else None


@MOUNT.clause("hub.rotor_mount rotor.mount")
def mounts(hub: View, rotor: View) -> Outcome:
    for row in table("rotor_pairs").rows:
        if (row["hub"], row["rotor"]) == (hub.rotor_mount, rotor.mount):
            return goes_if("ring", need(row["by"])) if "by" in row else goes("same")
    return no_go(
        "other",
        way_out(rotor, "mount", "==", hub.rotor_mount),
        way_out(hub, "rotor_mount", "==", rotor.mount),
    )


LIMIT = rule(
    "rotor-limit",
    title="Rotor is within the frame's or fork's limit",
    plain="A rotor larger than the maker of frame or fork allows does not go, without exception. No limit, no verdict.",
    why="A larger rotor puts more force on fork legs and stays than they are made for.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(holder=HOLDER, rotor="{end}_rotor"),
    messages={
        "within": "Rotor {rotor.diameter_mm:g} mm; maximum {holder.rotor_max_mm:g} mm.",
        "over": "Rotor {rotor.diameter_mm:g} mm is too large; maximum {holder.rotor_max_mm:g} mm.",
    },
    sources=("maker-limits",),
    safety=True,
)


@LIMIT.clause("holder.rotor_max_mm rotor.diameter_mm")
def rotor_limit(holder: View, rotor: View) -> Outcome:
    if rotor.diameter_mm <= holder.rotor_max_mm + SLACK:
        return goes("within")
    return no_go("over", way_out(rotor, "diameter_mm", "<=", holder.rotor_max_mm))


PADS = rule(
    "pad-height",
    title="Pads are no taller than the rotor's track",
    plain=(
        "Pads taller than the swept band grow a lip over its edge. Said where both are known; it costs pads and "
        "noise, not the brake."
    ),
    why="Pads that overhang the track wear a lip that folds over and rubs.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(caliper="{end}_caliper", rotor="{end}_rotor"),
    messages={
        "within": "Pads of {caliper.pad_height_mm:g} mm on a track of {rotor.track_mm:g}.",
        "tall": "The pads are {over_mm:.1f} mm taller than the rotor's track: a lip grows.",
    },
    figures={"over_mm": ("pad height − track height", "mm")},
    sources=("brake-practice",),
)


@PADS.clause(given="caliper.pad_height_mm rotor.track_mm")
def tall_pads(caliper: View, rotor: View) -> Outcome:
    pad, track = caliper.pad_height_mm, rotor.track_mm
    if pad <= track + SLACK:
        return goes("within")
    return goes_if("tall", need("watch the pads' inner edge"), over_mm=pad - track)


THICKNESS = rule(
    "rotor-thickness",
    title="Rotor is thick enough and fits the caliper",
    plain=(
        "At or under the least thickness stamped on it a rotor is replaced; within {rotor_order_soon_mm} mm of it "
        "one is ordered. Without a stamp 0.3 mm under new is assumed. A new rotor's thickness must lie in the "
        "caliper's range; one of up to {rotor_any_caliper_mm} mm goes through a disc caliper of unknown range. "
        "Makers of rotor and caliper need not be the same where diameter, thickness, track and mount are."
    ),
    why="A thin rotor overheats, warps and can break; the pistons come out too far.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(rotor="{end}_rotor", caliper=optional("{end}_caliper")),
    messages={
        "thick": "Rotor {rotor.measured_mm:g} mm; minimum {least_mm:g} mm.",
        "soon": "Rotor {rotor.measured_mm:g} mm, close to the minimum of {least_mm:g} mm.",
        "worn": "Rotor {rotor.measured_mm:g} mm; minimum {least_mm:g} mm: replace.",
        "assumed": "Rotor {rotor.measured_mm:g} mm; no stamp: minimum {least_mm:g} mm is assumed.",
        "caliper": "Rotor {size_mm:g} mm thick; caliper takes {low_mm:g} to {high_mm:g} mm.",
    },
    figures={
        "least_mm": ("least thickness, stamped or assumed", "mm"),
        "low_mm": ("thinnest new rotor for the caliper", "mm"),
        "high_mm": ("thickest new rotor for the caliper", "mm"),
        "size_mm": ("thickness of the rotor, new if known", "mm"),
    },
    sources=("brake-practice",),
    safety=True,
)


def _outside(rotor: View, low: float, high: float, size: float) -> Outcome:
    way = way_out(rotor, "thickness_mm", "<=" if size > high else ">=", high if size > high else low)
    return no_go("caliper", way, low_mm=low, high_mm=high, size_mm=size)


@THICKNESS.clause(given="caliper.rotor_thickness_mm", asks="rotor.thickness_mm", may="rotor.thickness_min_mm")
def new_in_caliper(rotor: View, caliper: View) -> Outcome | None:
    """Return the thickness when new; where it is not known the stamp tells the sort, and one outside the range is
    asked for.
    """
    low, high = caliper.rotor_thickness_mm
    size, stamped = rotor.thickness_mm, rotor.thickness_min_mm
    if stamped is not None and stamped >= high - SLACK:  # thin enough for this caliper it is worn
        return _outside(rotor, low, high, stamped + WORN_UNDER_NEW_MM)
    if size is None and (stamped is None or low - SLACK <= stamped + WORN_UNDER_NEW_MM <= high + SLACK):
        return None
    size = require(rotor).thickness_mm
    return None if low - SLACK <= size <= high + SLACK else _outside(rotor, low, high, size)


@THICKNESS.clause(given="rotor.measured_mm caliper.rotor_thickness_mm")
def worn_in_caliper(rotor: View, caliper: View) -> Outcome | None:
    low, high = caliper.rotor_thickness_mm
    return None if rotor.measured_mm <= high + SLACK else _outside(rotor, low, high, rotor.measured_mm)


@THICKNESS.clause("rotor.measured_mm caliper", asks="caliper.rotor_thickness_mm", may="rotor.thickness_mm")
def any_caliper(rotor: View, caliper: View) -> Outcome | None:
    size = max(rotor.measured_mm, rotor.thickness_mm or 0.0)
    if not caliper.empty and size > ANY_CALIPER_MM + SLACK:
        require(caliper, "rotor_thickness_mm")
    return None


@THICKNESS.clause("rotor.measured_mm", asks="rotor.thickness_min_mm", may="rotor.thickness_mm")
def worn(rotor: View) -> Outcome | None:
    stamped = rotor.thickness_min_mm
    least = least_thickness(stamped_mm=stamped, new_mm=rotor.thickness_mm)
    if least is None:
        least = require(rotor).thickness_min_mm
    if rotor.measured_mm <= least + SLACK:
        return no_go("worn", way_out(rotor, "measured_mm", ">=", least + ORDER_SOON_MM), least_mm=least)
    if stamped is None:
        return goes_if("assumed", need("look up the least thickness of this rotor"), least_mm=least)
    if rotor.measured_mm <= least + ORDER_SOON_MM + SLACK:
        return goes_if("soon", need("order a rotor"), least_mm=least)
    return goes("thick", least_mm=least)
