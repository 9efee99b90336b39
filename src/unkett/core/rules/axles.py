"""Wheels: hub in the dropouts, spokes, mudguards."""

from __future__ import annotations

from unkett.core.calc.base import SLACK
from unkett.core.calc.spokes import (
    LACING_CAUTION_DEG,
    LACING_LIMIT_DEG,
    flange_to_rim,
    leaving_angle,
    spoke_length,
)
from unkett.core.calc.wheels import real_width
from unkett.core.rules.base import HOLDER, at_both_ends, beside, both_ends, end_of, rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.view import View, require
from unkett.core.standards import Row, table
from unkett.core.vocabulary import Area

AXLE_TOLERANCE_MM = 0.5
SPACE_OUT_MM = 6.0
COLD_SET_MM = 4.0
OPEN_AXLES = ("quick_release", "solid")
SPOKE_CLOSE_MM = 1.0
SPOKE_FAR_MM = 2.0
GUARD_SIDE_MM = 6.0
GUARD_OVER_FRAME_MM = 8.0


def _kinds_alike(word: str, other: str) -> bool:
    """Quick release and solid axles interchange."""
    return word == other or {word, other} <= set(OPEN_AXLES)


def _same_axle(kind: str, dia: float, spacing: float, holder: View) -> bool:
    return (
        _kinds_alike(kind, holder.axle_kind)
        and near(dia, holder.axle_dia_mm, AXLE_TOLERANCE_MM)
        and near(spacing, holder.spacing_mm, AXLE_TOLERANCE_MM)
    )


def _is_usual(view: View, row: Row) -> bool:
    """Whether an axle may be of a usual size; what is not known of it may be."""
    kind, dia, spacing = view.axle_kind, view.axle_dia_mm, view.spacing_mm
    return (
        (kind is None or _kinds_alike(kind, row["axle_kind"]))
        and (dia is None or near(dia, row["dia_mm"], 0.0))
        and (spacing is None or near(spacing, row["spacing_mm"], 0.0))
    )


def _cap_may_exist(hub: View, holder: View) -> bool:
    """Whether hubs of the one size usually have end caps for the other, by the table."""
    groups: dict[str, list[Row]] = {}
    for row in table("usual_end_caps").rows:
        groups.setdefault(row["group"], []).append(row)
    return any(
        all(any(_is_usual(view, row) for row in rows) for view in (hub, holder)) for rows in groups.values()
    )


def _may_match(kind: str | None, dia: float | None, spacing: float | None, holder: View) -> bool:
    """Whether an axle may be the dropouts'; what is not known of either may be."""
    own_kind, own_dia, own_spacing = holder.axle_kind, holder.axle_dia_mm, holder.spacing_mm
    return (
        (None in (kind, own_kind) or _kinds_alike(str(kind), own_kind))
        and (dia is None or own_dia is None or near(dia, own_dia, AXLE_TOLERANCE_MM))
        and (spacing is None or own_spacing is None or near(spacing, own_spacing, AXLE_TOLERANCE_MM))
    )


def _may_spread(hub: View, holder: View) -> bool:
    """Whether open dropouts behind may be spaced out or cold-set for this hub."""
    if end_of(holder) == "front" or "thru" in (hub.axle_kind, holder.axle_kind):
        return False
    if hub.spacing_mm is None or holder.spacing_mm is None:
        return _may_match(hub.axle_kind, hub.axle_dia_mm, None, holder)
    off = hub.spacing_mm - holder.spacing_mm
    widest = COLD_SET_MM if holder.material in (None, "steel") else AXLE_TOLERANCE_MM
    within = -SPACE_OUT_MM - SLACK <= off <= widest + SLACK
    return within and _may_match(hub.axle_kind, hub.axle_dia_mm, None, holder)


AXLE = rule(
    "axle-fit",
    title="Hub sits in the dropouts",
    plain=(
        "Axle kind, diameter and spacing must be equal within 0.5 mm; quick release and solid axles of one "
        "diameter interchange. Else one of the hub's end caps must fit; where another set is usual for the size, it is "
        "asked whether one exists. Behind, an open-axle hub narrower by up to 6 mm takes spacers and a new dish; one "
        "wider by up to 4 mm goes in a steel frame that is cold-set, for good."
    ),
    area=Area.WHEELS,
    joint=both_ends("axle"),
    parts=at_both_ends(holder=HOLDER, hub="{end}_hub"),
    messages={
        "fits": "{hub.axle_dia_mm:g} × {hub.spacing_mm:g} mm in dropouts of {holder.spacing_mm:g}.",
        "caps": "The hub has end caps for {holder.axle_dia_mm:g} × {holder.spacing_mm:g} mm.",
        "kit": (
            "The hub has a kit for {holder.axle_dia_mm:g} × "
            "{holder.spacing_mm:g} mm that moves rotor and sprockets."
        ),
        "narrower": "The hub is {off_mm:.1f} mm narrower than the dropouts.",
        "cold_set": "The hub is {off_mm:.1f} mm wider than the steel frame's dropouts.",
        "other_spacing": "A hub of {hub.spacing_mm:g} mm does not go in dropouts of {holder.spacing_mm:g}.",
        "other_dia": "An axle of {hub.axle_dia_mm:g} mm does not go in dropouts for {holder.axle_dia_mm:g}.",
        "other_kind": "Hub: {hub.axle_kind}. Dropouts: {holder.axle_kind}. They do not go together.",
    },
    figures={"off_mm": ("difference of the spacings", "mm")},
    sources=("axles",),
    safety=True,
)


_AXLES = "holder.axle_kind holder.axle_dia_mm holder.spacing_mm hub.axle_kind hub.axle_dia_mm hub.spacing_mm"


@AXLE.look(may=f"{_AXLES} hub.end_caps holder.material")
def nothing_fits(holder: View, hub: View) -> Outcome | None:
    """Neither the hub as it is nor any of its caps may be the dropouts', whatever is not measured yet."""
    caps = hub.end_caps
    offered = [(cap["axle_kind"], cap["axle_dia_mm"], cap["spacing_mm"]) for cap in caps or ()]
    offered.append((hub.axle_kind, hub.axle_dia_mm, hub.spacing_mm))
    if any(_may_match(*size, holder) for size in offered) or _may_spread(hub, holder):
        return None
    if caps is None and _cap_may_exist(hub, holder):
        return None
    return _what_differs(hub, holder)


def _what_differs(hub: View, holder: View) -> Outcome:
    """The No go of a hub that is not the dropouts', by the first size that differs."""
    for name, key in (("spacing_mm", "other_spacing"), ("axle_dia_mm", "other_dia")):
        has, wants = getattr(hub, name), getattr(holder, name)
        if None not in (has, wants) and not near(has, wants, AXLE_TOLERANCE_MM):
            return no_go(key, way_out(hub, name, "==", wants))
    return no_go("other_kind", way_out(hub, "axle_kind", "==", holder.axle_kind))


@AXLE.look(_AXLES, asks="hub.end_caps holder.material")
def axle(holder: View, hub: View) -> Outcome | None:
    if _same_axle(hub.axle_kind, hub.axle_dia_mm, hub.spacing_mm, holder):
        return goes("fits")
    for cap in sorted(hub.end_caps or (), key=lambda item: bool(item.get("kit"))):
        if _same_axle(cap["axle_kind"], cap["axle_dia_mm"], cap["spacing_mm"], holder):
            if cap.get("kit"):
                return goes_if("kit", need("axle kit"), need("check rotor, sprockets and dish"))
            return goes_if("caps", need("end caps", size_mm=cap["axle_dia_mm"]))
    opened = _spread(holder, hub)
    if opened is not None:
        return opened
    if _cap_may_exist(hub, holder):
        require(hub, "end_caps")
    return None  # said already


def _spread(holder: View, hub: View) -> Outcome | None:
    """Open dropouts behind: a narrower hub is spaced out, a wider one goes in steel."""
    off = hub.spacing_mm - holder.spacing_mm
    open_axles = {hub.axle_kind, holder.axle_kind} <= set(OPEN_AXLES)
    same_dia = near(hub.axle_dia_mm, holder.axle_dia_mm, AXLE_TOLERANCE_MM)
    if end_of(holder) == "front" or not open_axles or not same_dia:
        return None
    if -SPACE_OUT_MM - SLACK <= off < 0:
        spacers = need("axle spacers", size_mm=round(-off, 2), where="shared between the sides")
        return goes_if("narrower", spacers, need("re-dish the wheel"), off_mm=-off)
    if 0 < off <= COLD_SET_MM + SLACK and require(holder).material == "steel":
        return goes_if("cold_set", need("cold-set the frame, dropouts and hanger aligned"), off_mm=off)
    return None


HOLES = rule(
    "spoke-holes",
    title="Hub and rim have as many holes",
    plain="Hub and rim must have the same number of spoke holes.",
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(hub="{end}_hub", rim="{end}_rim"),
    messages={
        "same": "{hub.holes} holes in hub and rim.",
        "other": "{hub.holes} holes in the hub, {rim.holes} in the rim.",
    },
    sources=("wheel-building",),
    safety=True,
)


@HOLES.look("hub.holes rim.holes")
def holes(hub: View, rim: View) -> Outcome:
    if hub.holes == rim.holes:
        return goes("same")
    return no_go("other", way_out(rim, "holes", "==", hub.holes), way_out(hub, "holes", "==", rim.holes))


LACING = rule(
    "spoke-lacing",
    title="Spokes lace into the hub",
    plain=(
        "Heads must be the hub's sort; a straight-pull hub fixes the crosses. Spokes that leave at 100° or more "
        "under their neighbour's head cannot be laced; from 85° they lean on it."
    ),
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(hub="{end}_hub", spokes="{end}_spokes"),
    messages={
        "laces": "Heads are the hub's and the spokes leave at {leaves_deg:.0f}°.",
        "other_head": "Spokes: {spokes.head}. Hub: {hub.spoke_head}. They do not go together.",
        "fixed": "The hub fixes {hub.crosses_fixed} crosses; the spokes are for {spokes.crosses}.",
        "too_many": "{spokes.crosses} crosses with {hub.holes} holes leave at {leaves_deg:.0f}°: it cannot be laced.",
        "leans": (
            "{spokes.crosses} crosses with {hub.holes} holes "
            "leave at {leaves_deg:.0f}°: they lean on the next head."
        ),
    },
    figures={"leaves_deg": ("crosses × 720 / holes", "°")},
    sources=("wheel-building",),
    safety=True,
)


@LACING.look("hub.spoke_head spokes.head")
def heads(hub: View, spokes: View) -> Outcome | None:
    if hub.spoke_head == spokes.head:
        return None
    return no_go("other_head", way_out(spokes, "head", "==", hub.spoke_head))


@LACING.look("spokes.crosses hub.spoke_head", asks="hub.crosses_fixed")
def fixed_crosses(hub: View, spokes: View) -> Outcome | None:
    if hub.spoke_head != "straight_pull" or require(hub).crosses_fixed == spokes.crosses:
        return None
    return no_go("fixed", way_out(spokes, "crosses", "==", require(hub).crosses_fixed))


@LACING.look("spokes.crosses hub.holes")
def leaving(hub: View, spokes: View) -> Outcome:
    leaves = leaving_angle(spokes.crosses, hub.holes)
    if leaves >= LACING_LIMIT_DEG - SLACK:
        most = int(LACING_LIMIT_DEG / leaving_angle(1, hub.holes) - SLACK)
        return no_go("too_many", way_out(spokes, "crosses", "<=", most), leaves_deg=leaves)
    if leaves >= LACING_CAUTION_DEG - SLACK:
        return goes_if("leans", need("look at the heads: they may lean"), leaves_deg=leaves)
    return goes("laces", leaves_deg=leaves)


LENGTH = rule(
    "spoke-length",
    title="Spokes are as long as this wheel wants",
    plain=(
        "Each side's spokes against the length worked out from hub, rim and crossing: within 1 mm they go, to 2 mm if "
        "nipples and ends are looked at, beyond not. The rotor's side of a disc wheel and the driven side of a rear "
        "wheel are never laced radially. Straight-pull spokes are the hub maker's business."
    ),
    area=Area.WHEELS,
    joint=both_ends("spokes"),
    parts=at_both_ends(hub="{end}_hub", rim="{end}_rim", spokes="{end}_spokes", rotor=beside("{end}_rotor")),
    messages={
        "to_lace": "The wheel is laced anew, with spokes cut to the lengths worked out.",
        "right": "{side}: {has_mm:g} mm, worked out {wanted_mm:.1f}.",
        "close": "{side}: {has_mm:g} mm are {off_mm:.1f} mm too {way} for {wanted_mm:.1f}.",
        "off": "{side}: {has_mm:g} mm are {off_mm:.1f} mm too {way} for {wanted_mm:.1f}.",
        "radial_disc": "A disc wheel is not laced radially on the rotor's side.",
        "radial_driven": "A driven wheel is not laced radially on the drive side.",
    },
    figures={
        "side": ("side of the wheel", ""),
        "has_mm": ("length of the spokes there", "mm"),
        "wanted_mm": ("length worked out for hub, rim and crosses", "mm"),
        "off_mm": ("difference of the two", "mm"),
        "way": ("long or short", ""),
    },
    sources=("wheel-building",),
    safety=True,
)
_OF_WHEEL = "hub.holes rim.erd_mm"


@LENGTH.look(may="hub.spoke_head spokes.head", silences=True)
def bent_heads(hub: View, spokes: View) -> Outcome | None:
    return SILENT if "straight_pull" in (hub.spoke_head, spokes.head) else None


@LENGTH.look("spokes rotor", may="spokes.crosses spokes.crosses_left")
def radial_disc(spokes: View, rotor: View) -> Outcome | None:
    crosses = spokes.crosses if spokes.crosses_left is None else spokes.crosses_left
    if rotor.empty or crosses != 0:
        return None
    return no_go("radial_disc", way_out(spokes, "crosses", ">=", 1))


@LENGTH.look("spokes", may="spokes.crosses spokes.crosses_right")
def radial_driven(spokes: View) -> Outcome | None:
    crosses = spokes.crosses if spokes.crosses_right is None else spokes.crosses_right
    if spokes.slot != "rear_spokes" or crosses != 0:
        return None
    return no_go("radial_driven", way_out(spokes, "crosses", ">=", 1))


def _side(side: str, hub: View, rim: View, spokes: View) -> Outcome | None:
    own = getattr(spokes, f"crosses_{side}")
    if "straight_pull" in (hub.spoke_head, spokes.head):
        return None
    wants = spoke_length(
        erd_mm=rim.erd_mm,
        pcd_mm=getattr(hub, f"flange_pcd_{side}_mm"),
        offset_mm=flange_to_rim(
            offset_mm=getattr(hub, f"flange_offset_{side}_mm"), drilling_mm=rim.drilling_offset_mm, side=side
        ),
        spokes=hub.holes,
        crosses=require(spokes).crosses if own is None else own,
        hole_mm=hub.spoke_hole_mm or 2.6,
    ).length_mm
    if spokes.to_lace:
        work = [need("relace the wheel")] if side == "left" else []
        return goes_if(
            "to_lace",
            need("spokes", side=side, size_mm=round(wants, 1)),
            *work,
            side=side.capitalize(),
            wanted_mm=wants,
        )
    has = getattr(require(spokes), f"length_{side}_mm")
    off = has - wants
    figures = {
        "side": side.capitalize(),
        "has_mm": has,
        "wanted_mm": wants,
        "off_mm": abs(off),
        "way": "long" if off > 0 else "short",
    }
    if near(off, 0.0, SPOKE_CLOSE_MM):
        return goes("right", **figures)
    if near(off, 0.0, SPOKE_FAR_MM):
        return goes_if("close", need("look at nipples and spoke ends", side=side), **figures)
    return no_go("off", way_out(spokes, f"length_{side}_mm", "==", round(wants, 1)), **figures)


@LENGTH.look(
    f"hub.flange_pcd_left_mm hub.flange_offset_left_mm {_OF_WHEEL} spokes",
    asks="spokes.crosses spokes.length_left_mm",
    may="spokes.to_lace spokes.crosses_left rim.drilling_offset_mm hub.spoke_hole_mm hub.spoke_head spokes.head",
)
def left_side(hub: View, rim: View, spokes: View) -> Outcome | None:
    return _side("left", hub, rim, spokes)


@LENGTH.look(
    f"hub.flange_pcd_right_mm hub.flange_offset_right_mm {_OF_WHEEL} spokes",
    asks="spokes.crosses spokes.length_right_mm",
    may="spokes.to_lace spokes.crosses_right rim.drilling_offset_mm hub.spoke_hole_mm hub.spoke_head spokes.head",
)
def right_side(hub: View, rim: View, spokes: View) -> Outcome | None:
    return _side("right", hub, rim, spokes)


GUARD = rule(
    "mudguard-room",
    title="Mudguard has room over the tyre and in the frame",
    plain=(
        "A mudguard is bent for its wheel's size, 6 mm wider than the tyre to each side, and at most 8 mm wider than "
        "the widest tyre frame or fork takes. 8 mm stay free above the tyre."
    ),
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(guard="{end}_mudguard", tyre="{end}_tyre", rim=beside("{end}_rim"), holder=HOLDER),
    messages={
        "room": "A {guard.width_mm:g} mm guard over a tyre of {tyre_mm:.1f}: keep 8 mm above it.",
        "narrow": "A {guard.width_mm:g} mm guard is too narrow for a tyre of {tyre_mm:.1f}: {least_mm:.1f} at least.",
        "wide": "A {guard.width_mm:g} mm guard is too wide: {most_mm:g} go in here.",
        "limit_unknown": "How wide a tyre goes in here is not known for this wheel size.",
        "other_size": "The guard is bent for {guard.bsd_mm} mm wheels, the tyre is {tyre.bsd_mm:g}.",
    },
    figures={
        "tyre_mm": ("real width of the tyre", "mm"),
        "least_mm": ("tyre + 2 × 6", "mm"),
        "most_mm": ("widest tyre + 8", "mm"),
    },
    sources=("mudguards",),
)


@GUARD.look("guard.bsd_mm tyre.bsd_mm")
def guard_size(guard: View, tyre: View) -> Outcome | None:
    if near(guard.bsd_mm, tyre.bsd_mm, 0.0):
        return None
    return no_go("other_size", way_out(guard, "bsd_mm", "==", round(tyre.bsd_mm)))


@GUARD.look("guard.width_mm holder.tyre_max_mm", asks="guard.bsd_mm", may="tyre.bsd_mm")
def guard_in_frame(guard: View, holder: View, tyre: View) -> Outcome | None:
    limit = holder.tyre_max_mm.get(round(tyre.bsd_mm or require(guard).bsd_mm))
    if limit is None or guard.width_mm <= limit + GUARD_OVER_FRAME_MM + SLACK:
        return None if limit is not None else unmeasured("limit_unknown", (holder, "tyre_max_mm"))
    most = limit + GUARD_OVER_FRAME_MM
    return no_go("wide", way_out(guard, "width_mm", "<=", most), most_mm=most)


@GUARD.look("guard.width_mm", asks="tyre.width_mm", may="tyre.width_measured_mm rim.inner_width_mm")
def guard_over_tyre(guard: View, tyre: View, rim: View) -> Outcome:
    width = real_width(
        nominal_mm=tyre.width_mm, measured_mm=tyre.width_measured_mm, inner_mm=rim.inner_width_mm
    )
    width = require(tyre).width_mm if width is None else width
    least = width + 2 * GUARD_SIDE_MM
    figures = {"tyre_mm": width, "least_mm": least}
    if guard.width_mm >= least - SLACK:
        return goes("room", **figures)
    return no_go("narrow", way_out(guard, "width_mm", ">=", least), **figures)
