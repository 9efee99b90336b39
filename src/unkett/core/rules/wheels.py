"""Wheels: hub in the dropouts, spokes, room for screw-on freewheels."""

from __future__ import annotations

from unkett.core.calc.base import SLACK
from unkett.core.calc.wheels import LACING_CAUTION_DEG, LACING_LIMIT_DEG, leaving_angle
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    both_ends,
    goes,
    goes_if,
    missing,
    near,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.standards import rows_where
from unkett.core.vocabulary import Area

AXLE_TOLERANCE_MM = 0.5
SPACE_OUT_MM = 6.0
COLD_SET_MM = 4.0
OPEN_AXLES = ("quick_release", "solid")


def _same_axle(kind: str, dia: float, spacing: float, holder: View) -> bool:
    kinds = {kind, holder.axle_kind}
    alike = len(kinds) == 1 or kinds <= set(OPEN_AXLES)
    return (
        alike
        and near(dia, holder.axle_dia_mm, AXLE_TOLERANCE_MM)
        and near(spacing, holder.spacing_mm, AXLE_TOLERANCE_MM)
    )


@rule(
    "axle-fit",
    title="Hub sits in the dropouts",
    plain=(
        "Axle kind, diameter and spacing must be equal within 0.5 mm; quick release and solid axles of one "
        "diameter interchange. Else one of the hub's end caps must fit. Behind, an open-axle hub narrower by up to 6 mm "
        "takes spacers and a new dish; one wider by up to 4 mm goes in a steel frame that is cold-set, for good."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        holder={
            "front": at("fork", "axle_kind", "axle_dia_mm", "spacing_mm"),
            "rear": at(
                "frame",
                optional("material"),
                axle_kind="rear_axle_kind",
                axle_dia_mm="rear_axle_dia_mm",
                spacing_mm="rear_spacing_mm",
            ),
        },
        hub=at("{end}_hub", "axle_kind", "axle_dia_mm", "spacing_mm", optional("end_caps")),
    ),
    messages={
        "fits": "{hub.axle_dia_mm:g} × {hub.spacing_mm:g} mm in dropouts of {holder.spacing_mm:g}.",
        "caps": "The hub has end caps for {holder.axle_dia_mm:g} × {holder.spacing_mm:g} mm.",
        "kit": "The hub has a kit for {holder.axle_dia_mm:g} × {holder.spacing_mm:g} mm that moves rotor and sprockets.",
        "narrower": "The hub is {off_mm:.1f} mm narrower than the dropouts.",
        "cold_set": "The hub is {off_mm:.1f} mm wider than the steel frame's dropouts.",
        "material_unknown": "The hub is {off_mm:.1f} mm wider; only steel can be cold-set, the material is not known.",
        "other": "{hub.axle_dia_mm:g} × {hub.spacing_mm:g} mm does not go in {holder.axle_dia_mm:g} × {holder.spacing_mm:g}.",
    },
    figures={"off_mm": "difference of the spacings"},
    sources=("axles",),
    safety=True,
)
def axle_fit(holder: View, hub: View) -> Outcome:
    if _same_axle(hub.axle_kind, hub.axle_dia_mm, hub.spacing_mm, holder):
        return goes("fits")
    for kit in (False, True):
        for cap in hub.end_caps or ():
            if bool(cap.get("kit")) is kit and _same_axle(
                cap["axle_kind"], cap["axle_dia_mm"], cap["spacing_mm"], holder
            ):
                if kit:
                    return goes_if("kit", need("axle kit"), need("check rotor, sprockets and dish"))
                return goes_if("caps", need("end caps", size_mm=cap["axle_dia_mm"]))
    ways = (
        way_out(hub, "axle_kind", "==", holder.axle_kind),
        way_out(hub, "axle_dia_mm", "==", holder.axle_dia_mm),
        way_out(hub, "spacing_mm", "==", holder.spacing_mm),
    )
    off = hub.spacing_mm - holder.spacing_mm
    open_axles = {hub.axle_kind, holder.axle_kind} <= set(OPEN_AXLES)
    same_dia = near(hub.axle_dia_mm, holder.axle_dia_mm, AXLE_TOLERANCE_MM)
    if holder.slot == "frame" and open_axles and same_dia:
        if -SPACE_OUT_MM - SLACK <= off < 0:
            spacers = need("axle spacers", size_mm=round(-off, 2), where="shared between the sides")
            return goes_if("narrower", spacers, need("re-dish the wheel"), off_mm=-off)
        if 0 < off <= COLD_SET_MM + SLACK:
            if holder.material is None:
                return unmeasured("material_unknown", (holder, "material"), off_mm=off)
            if holder.material == "steel":
                aligned = need("cold-set the frame, dropouts and hanger aligned", caution="cannot be undone")
                return goes_if("cold_set", aligned, off_mm=off)
    return no_go("other", *ways, off_mm=abs(off))


@rule(
    "spoke-holes",
    title="Hub and rim have as many holes",
    plain="Hub and rim must have the same number of spoke holes.",
    area=Area.WHEELS,
    reads=both_ends(hub=at("{end}_hub", "holes"), rim=at("{end}_rim", "holes")),
    messages={
        "same": "{hub.holes} holes in hub and rim.",
        "other": "{hub.holes} holes in the hub, {rim.holes} in the rim.",
    },
    sources=("wheel-building",),
    safety=True,
)
def spoke_holes(hub: View, rim: View) -> Outcome:
    if hub.holes == rim.holes:
        return goes("same")
    return no_go("other", way_out(rim, "holes", "==", hub.holes), way_out(hub, "holes", "==", rim.holes))


@rule(
    "spoke-lacing",
    title="Spokes lace into the hub",
    plain=(
        "Heads must be the hub's sort; a straight-pull hub fixes the crosses. Spokes that leave at 100° or more "
        "under their neighbour's head cannot be laced; from 85° they lean on it."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        hub=at("{end}_hub", optional("spoke_head"), optional("crosses_fixed"), optional("holes")),
        spokes=at("{end}_spokes", optional("head"), optional("crosses")),
    ),
    messages={
        "laces": "Heads are the hub's and the spokes leave at {leaves_deg:.0f}°.",
        "other_head": "{spokes.head} spokes do not go in a {hub.spoke_head} hub.",
        "fixed": "The hub fixes {hub.crosses_fixed} crosses; the spokes are for {spokes.crosses}.",
        "too_many": "{spokes.crosses} crosses with {hub.holes} holes leave at {leaves_deg:.0f}°: it cannot be laced.",
        "leans": "{spokes.crosses} crosses with {hub.holes} holes leave at {leaves_deg:.0f}°: they lean on the next head.",
        "unknown": "Heads, crosses or holes are not measured.",
    },
    figures={"leaves_deg": "crosses × 720 / holes"},
    sources=("wheel-building",),
    safety=True,
)
def spoke_lacing(hub: View, spokes: View) -> Outcome:
    if None not in (hub.spoke_head, spokes.head) and hub.spoke_head != spokes.head:
        return no_go("other_head", way_out(spokes, "head", "==", hub.spoke_head))
    if None not in (hub.crosses_fixed, spokes.crosses) and hub.crosses_fixed != spokes.crosses:
        return no_go("fixed", way_out(spokes, "crosses", "==", hub.crosses_fixed))
    pairs = ((hub, "spoke_head"), (spokes, "head"), (spokes, "crosses"), (hub, "holes"))
    asks = missing(*pairs)
    if asks:
        return unmeasured("unknown", *asks)
    leaves = leaving_angle(spokes.crosses, hub.holes)
    if leaves >= LACING_LIMIT_DEG - SLACK:
        return no_go(
            "too_many",
            way_out(spokes, "crosses", "<=", int(LACING_LIMIT_DEG / leaving_angle(1, hub.holes) - SLACK)),
            leaves_deg=leaves,
        )
    if leaves >= LACING_CAUTION_DEG - SLACK:
        return goes_if("leans", need("look at the heads: they may lean"), leaves_deg=leaves)
    return goes("laces", leaves_deg=leaves)


@rule(
    "freewheel-room",
    title="Screw-on freewheel has room on the hub",
    plain="The hub's spacing sets how many sprockets a screw-on freewheel may have: 120 six, 126 seven (eight tight), 130 and up eight.",
    area=Area.WHEELS,
    reads={
        "rear_hub": ("freehub", optional("spacing_mm")),
        "cassette": (optional("teeth"), optional("speeds")),
    },
    messages={
        "room": "{count} sprockets have room on a {rear_hub.spacing_mm:g} mm hub.",
        "tight": "{count} sprockets on a {rear_hub.spacing_mm:g} mm hub are tight.",
        "no_room": "{count} sprockets have no room on a {rear_hub.spacing_mm:g} mm hub.",
        "unknown": "The sprockets or the hub's spacing are not measured.",
    },
    figures={"count": "sprockets there"},
    sources=("axles",),
)
def freewheel_room(rear_hub: View, cassette: View) -> Outcome | None:
    if rear_hub.freehub != "threaded":
        return None
    count = len(cassette.teeth) if cassette.teeth else cassette.speeds
    if count is None or rear_hub.spacing_mm is None:
        return unmeasured("unknown", (cassette, "teeth") if count is None else (rear_hub, "spacing_mm"))
    spacing = 130 if rear_hub.spacing_mm >= 129 else 126 if rear_hub.spacing_mm >= 125 else 120
    row = rows_where("freewheel_room", "spacing_mm", spacing)[0]
    if count <= row["most"]:
        return goes("room", count=count)
    if count <= row.get("tight", 0):
        return goes_if("tight", need("check the chain against the dropout in top gear"), count=count)
    return no_go("no_room", way_out(cassette, "speeds", "<=", row["most"]), count=count)
