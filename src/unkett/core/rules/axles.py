"""Axles: the hub in the dropouts."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, end_of
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, Row, limit_of, table
from unkett.core.vocabulary import Area

AXLE_TOLERANCE_MM = limit_of("axle_off_mm")
SPACE_OUT_MM = limit_of("space_out_mm")
COLD_SET_MM = limit_of("cold_set_mm")
OPEN_AXLES = ("quick_release", "solid")


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
    """Return whether an axle may be of a usual size; what is not known of it may be."""
    kind, dia, spacing = view.axle_kind, view.axle_dia_mm, view.spacing_mm
    return (
        (kind is None or _kinds_alike(kind, row["axle_kind"]))
        and (dia is None or near(dia, row["dia_mm"], 0.0))
        and (spacing is None or near(spacing, row["spacing_mm"], 0.0))
    )


def _cap_may_exist(hub: View, holder: View) -> bool:
    """Return whether hubs of the one size usually have end caps for the other, by the table."""
    groups: dict[str, list[Row]] = {}
    for row in table("usual_end_caps").rows:
        groups.setdefault(row["group"], []).append(row)
    return any(
        all(any(_is_usual(view, row) for row in rows) for view in (hub, holder)) for rows in groups.values()
    )


def _may_match(kind: str | None, dia: float | None, spacing: float | None, holder: View) -> bool:
    """Return whether an axle may be the dropouts'; what is not known of either may be."""
    own_kind, own_dia, own_spacing = holder.axle_kind, holder.axle_dia_mm, holder.spacing_mm
    return (
        (None in (kind, own_kind) or _kinds_alike(str(kind), own_kind))
        and (dia is None or own_dia is None or near(dia, own_dia, AXLE_TOLERANCE_MM))
        and (spacing is None or own_spacing is None or near(spacing, own_spacing, AXLE_TOLERANCE_MM))
    )


def _may_spread(hub: View, holder: View) -> bool:
    """Return whether open dropouts behind may be spaced out or cold-set for this hub."""
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
        "Axle kind, diameter and spacing must be equal within {axle_off_mm} mm; quick release and solid axles of one "
        "diameter interchange. Else one of the hub's end caps must fit; where another set is usual for the size, it "
        "is asked whether one exists. Behind, an open-axle hub narrower by up to {space_out_mm} mm takes spacers and "
        "a new dish; one wider by up to {cold_set_mm} mm goes in a steel frame that is cold-set, for good. A carbon "
        "frame stands on a trainer if its maker allows it."
    ),
    why="A hub of another width or axle bends the frame, sits crooked or drops out under load.",
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
        "other_spacing": "Hub {hub.spacing_mm:g} mm; dropouts {holder.spacing_mm:g} mm.",
        "other_dia": "Axle {hub.axle_dia_mm:g} mm; dropouts take {holder.axle_dia_mm:g} mm.",
        "trainer": "A trainer twists the rear of a carbon frame: not every maker allows it.",
        "other_kind": "Hub: {hub.axle_kind}. Dropouts: {holder.axle_kind}. Incompatible.",
    },
    figures={"off_mm": ("difference of the spacings", "mm")},
    sources=("axles",),
    safety=True,
)


_AXLES = "holder.axle_kind holder.axle_dia_mm holder.spacing_mm hub.axle_kind hub.axle_dia_mm hub.spacing_mm"


@AXLE.clause(may=f"{_AXLES} hub.end_caps holder.material")
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
    """The No-go of a hub that is not the dropouts', by the first size that differs."""
    for name, key in (("spacing_mm", "other_spacing"), ("axle_dia_mm", "other_dia")):
        has, wants = getattr(hub, name), getattr(holder, name)
        if None not in (has, wants) and not near(has, wants, AXLE_TOLERANCE_MM):
            return no_go(key, way_out(hub, name, "==", wants))
    return no_go("other_kind", way_out(hub, "axle_kind", "==", holder.axle_kind))


@AXLE.clause(_AXLES, asks="hub.end_caps holder.material")
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


@AXLE.clause("holder", given="hub.trainer", asks="holder.material")
def trainer(hub: View, holder: View) -> Outcome | None:
    if hub.trainer and require(holder).material == "carbon":
        return goes_if("trainer", need("the frame maker's word that a trainer is allowed"))
    return None


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
