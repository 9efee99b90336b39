"""Tyres: on the rim, in the frame, their pressure, another wheel size, the valve."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.wheels import hookless_limits, tyre_pressure_limit, tyre_width
from unkett.core.finding import Verdict
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
from unkett.core.rules.ends import holder
from unkett.core.standards import lookup, table
from unkett.core.vocabulary import Area

CLEARANCE_OVER_MM = 2.0
RADIUS_SMALL_MM = 6.0
RADIUS_LARGE_MM = 15.0
VALVE_OVER_DEPTH_MM = 15.0
HOLE_TOLERANCE_MM = 0.5


@rule(
    "tyre-seat",
    title="Tyre sits on the rim",
    plain=(
        "The bead seat diameters must be equal: names mislead, the number decides. Tubulars only on tubular rims. "
        "A hookless rim wants a tyre marked for it, tubeless, at least 28 mm and wide enough for the rim."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        rim=at("{end}_rim", "bsd_mm", optional("bead"), optional("inner_width_mm")),
        tyre=at(
            "{end}_tyre", "bsd_mm", *(optional(n) for n in ("type", "hookless_ok", "tubeless", "width_mm"))
        ),
    ),
    messages={
        "seated": "Rim and tyre are both {rim.bsd_mm:g} mm and the bead is the tyre's.",
        "other_size": "A {tyre.bsd_mm:g} mm tyre does not go on a {rim.bsd_mm:g} mm rim.",
        "tubular": "A tubular goes on a tubular rim only, and nothing else does.",
        "not_marked": "The rim is hookless and the tyre is not marked for it.",
        "not_tubeless": "The rim is hookless and the tyre is not tubeless.",
        "too_narrow": "The rim is hookless and wants a tyre of {least_mm:.1f} mm at least; it is {tyre.width_mm:g}.",
        "unknown": "What decides whether the bead holds is not measured.",
    },
    figures={"least_mm": "28 mm, or 1.16 × the rim's inner width if that is more"},
    sources=("rims-iso", "hookless"),
    safety=True,
)
def tyre_seat(rim: View, tyre: View) -> Outcome:
    if not near(rim.bsd_mm, tyre.bsd_mm, 0.0):
        return no_go("other_size", way_out(tyre, "bsd_mm", "==", rim.bsd_mm))
    hookless = _hookless(rim, tyre) if rim.bead == "hookless" else None
    if hookless is not None and hookless.verdict is Verdict.NO_GO:
        return hookless
    asks = missing((rim, "bead"), (tyre, "type"))
    if asks:
        return unmeasured("unknown", *asks)
    if (rim.bead == "tubular") != (tyre.type == "tubular"):
        return no_go(
            "tubular", way_out(tyre, "type", "==", "tubular" if rim.bead == "tubular" else "clincher")
        )
    return hookless or goes("seated")


def _hookless(rim: View, tyre: View) -> Outcome:
    if tyre.hookless_ok is False:
        return no_go("not_marked", way_out(tyre, "hookless_ok", "==", True))
    if tyre.tubeless is False:
        return no_go("not_tubeless", way_out(tyre, "tubeless", "==", True))
    limits = hookless_limits()
    least = max(limits["least_width_mm"], (rim.inner_width_mm or 0.0) * limits["width_per_inner"])
    if tyre.width_mm is not None and tyre.width_mm < least - SLACK:
        return no_go("too_narrow", way_out(tyre, "width_mm", ">=", least), least_mm=least)
    pairs = ((tyre, "hookless_ok"), (tyre, "tubeless"), (tyre, "width_mm"), (rim, "inner_width_mm"))
    asks = missing(*pairs)
    return unmeasured("unknown", *asks) if asks else goes("seated")


@rule(
    "tyre-width",
    title="Tyre's width suits the rim",
    plain=(
        "The rim maker's own limits win, 2 mm outside them at most. Else the inner width decides: 1.2 to 2.4 times "
        "goes, 1.1 to 3.0 times if squirming or bottoming is accepted."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        rim=at("{end}_rim", optional("inner_width_mm"), optional("tyre_min_mm"), optional("tyre_max_mm")),
        tyre=at("{end}_tyre", optional("width_mm"), optional("width_measured_mm")),
    ),
    messages={
        "within": "{width_mm:g} mm lies within {low_mm:.1f} to {high_mm:.1f} mm for this rim.",
        "outside": "{width_mm:g} mm is a little outside {low_mm:.1f} to {high_mm:.1f} mm for this rim.",
        "too_far": "{width_mm:g} mm is outside {low_mm:.1f} to {high_mm:.1f} mm for this rim.",
        "unknown": "The tyre's width, or the rim's inner width, is not measured.",
    },
    figures={
        "width_mm": "nominal width of the tyre",
        "low_mm": "narrowest tyre for the rim",
        "high_mm": "widest tyre for the rim",
    },
    sources=("rims-iso", "tyre-practice"),
)
def tyre_width_rule(rim: View, tyre: View) -> Outcome:
    width = tyre.width_mm if tyre.width_mm is not None else tyre.width_measured_mm
    if width is None:
        return unmeasured("unknown", (tyre, "width_mm"))
    inner = rim.inner_width_mm
    if inner is None and None in (rim.tyre_min_mm, rim.tyre_max_mm):
        return unmeasured("unknown", (rim, "inner_width_mm"))
    low, high, loose_low, loose_high = _width_limits(rim, inner)
    figures = {"width_mm": width, "low_mm": low, "high_mm": high}
    if low - SLACK <= width <= high + SLACK:
        return goes("within", **figures)
    if loose_low - SLACK <= width <= loose_high + SLACK:
        words = "accept that it squirms" if width > high else "watch the pressure: it bottoms easily"
        return goes_if("outside", need(words), **figures)
    return no_go(
        "too_far",
        way_out(tyre, "width_mm", ">=" if width < low else "<=", low if width < low else high),
        **figures,
    )


def _width_limits(rim: View, inner: float | None) -> tuple[float, float, float, float]:
    """Narrowest and widest that go, then narrowest and widest that go with a caution."""
    row = table("rim_tyre_limits").rows[0]
    low, high, loose_low, loose_high = (
        row[name] * (inner or 0.0) for name in ("low", "high", "loose_low", "loose_high")
    )
    if rim.tyre_min_mm is not None:
        low, loose_low = rim.tyre_min_mm, rim.tyre_min_mm - row["listed_over_mm"]
    if rim.tyre_max_mm is not None:
        high, loose_high = rim.tyre_max_mm, rim.tyre_max_mm + row["listed_over_mm"]
    return low, high, loose_low, loose_high


@rule(
    "tyre-pressure",
    title="Pressure limit of rim and tyre",
    plain="The lowest of the rim's and the tyre's limit, and never more than 5.0 bar on a hookless rim.",
    area=Area.WHEELS,
    reads=both_ends(
        rim=at("{end}_rim", "pressure_max_bar", "bead"), tyre=at("{end}_tyre", "pressure_max_bar")
    ),
    messages={"limit": "Never above {max_bar:.1f} bar."},
    figures={"max_bar": "lowest of rim, tyre and 5.0 on hookless"},
    sources=("hookless", "maker-limits"),
    safety=True,
)
def tyre_pressure(rim: View, tyre: View) -> Outcome:
    limit = tyre_pressure_limit(bead=rim.bead, rim_bar=rim.pressure_max_bar, tyre_bar=tyre.pressure_max_bar)
    return goes("limit", max_bar=limit.max_bar)


def _real_width(tyre: View, rim: View) -> float | None:
    """Measured, else estimated from the rim, else nominal."""
    if tyre.width_measured_mm is not None:
        return float(tyre.width_measured_mm)
    if tyre.width_mm is None:
        return None
    if rim.inner_width_mm is None or not 10 <= tyre.width_mm <= 150 or not 5 <= rim.inner_width_mm <= 120:
        return float(tyre.width_mm)
    return tyre_width(nominal_mm=tyre.width_mm, inner_mm=rim.inner_width_mm).estimate_mm


@rule(
    "tyre-clearance",
    title="Tyre has room in frame or fork",
    plain=(
        "The real width counts: measured, else estimated from the rim, else nominal. Against the limit for this rim "
        "size it goes, up to 2 mm over it goes if mud and buckles are watched, beyond not."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        holder=holder("tyre_max_mm"),
        tyre=at("{end}_tyre", "bsd_mm", optional("width_mm"), optional("width_measured_mm")),
        rim=at("{end}_rim", optional("inner_width_mm"), may_be_empty=True),
    ),
    messages={
        "room": "The tyre is {width_mm:.1f} mm wide; up to {limit_mm:g} is allowed.",
        "over": "The tyre is {width_mm:.1f} mm wide, {over_mm:.1f} over the {limit_mm:g} allowed.",
        "no_room": "The tyre is {width_mm:.1f} mm wide; only {limit_mm:g} is allowed.",
        "unknown": "The tyre's width, or the room for {tyre.bsd_mm:g} mm rims, is not measured.",
    },
    figures={
        "width_mm": "measured width, else nominal + 0.4 × (inner − design inner), else nominal",
        "limit_mm": "limit for this rim size",
        "over_mm": "width − limit",
    },
    sources=("tyre-practice", "maker-limits"),
)
def tyre_clearance(holder: View, tyre: View, rim: View) -> Outcome:
    limit = holder.tyre_max_mm.get(round(tyre.bsd_mm))
    if limit is None:
        return unmeasured("unknown", (holder, "tyre_max_mm"))
    width = _real_width(tyre, rim)
    if width is None:
        return unmeasured("unknown", (tyre, "width_mm"))
    figures = {"width_mm": width, "limit_mm": limit, "over_mm": max(0.0, width - limit)}
    if width <= limit + SLACK:
        return goes("room", **figures)
    if width <= limit + CLEARANCE_OVER_MM + SLACK:
        return goes_if("over", need("measure the gaps: 4 mm to each side, 6 on top"), **figures)
    return no_go("no_room", way_out(tyre, "width_mm", "<=", limit), **figures)


@rule(
    "wheel-size",
    title="Wheel size is one the frame is made for",
    plain=(
        "A rim size the frame or fork is designed for goes. Another is judged by how far the wheel's outer radius "
        "moves: to 6 mm it goes, to 15 mm if bracket height, toe room and handling are looked at."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        holder=holder("design_bsd_mm", optional("tyre_max_mm")),
        rim=at("{end}_rim", "bsd_mm"),
        tyre=at("{end}_tyre", optional("width_mm"), optional("width_measured_mm"), may_be_empty=True),
    ),
    messages={
        "designed": "{rim.bsd_mm:g} mm is a size it is designed for.",
        "close": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
        "far": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
        "too_far": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
    },
    figures={
        "change_mm": "change of outer radius: half the rims' difference and, where the widest tyre of that size is stated, the tyres' difference",
        "design_mm": "nearest rim size it is designed for",
    },
    sources=("tyre-practice", "rims-iso"),
)
def wheel_size(holder: View, rim: View, tyre: View) -> Outcome:
    if any(near(rim.bsd_mm, design, 0.0) for design in holder.design_bsd_mm):
        return goes("designed")
    change, design = min((abs(_radius_change(holder, rim, tyre, one)), one) for one in holder.design_bsd_mm)
    figures: dict[str, Any] = {"change_mm": change, "design_mm": design}
    if change <= RADIUS_SMALL_MM + SLACK:
        return goes_if("close", need("check brake reach and room"), **figures)
    if change <= RADIUS_LARGE_MM + SLACK:
        caution = "bracket height, toe room and handling change"
        return goes_if("far", need("check brake reach and room", caution=caution), **figures)
    return no_go("too_far", way_out(rim, "bsd_mm", "in", list(holder.design_bsd_mm)), **figures)


def _radius_change(holder: View, rim: View, tyre: View, design: int) -> float:
    """Against the widest tyre of the designed size where it is stated, else against a tyre of the same height."""
    change: float = (rim.bsd_mm - design) / 2
    width = tyre.width_measured_mm or tyre.width_mm
    stated = (holder.tyre_max_mm or {}).get(design)
    return change if width is None or stated is None else change + width - stated


@rule(
    "valve-fit",
    title="Valve goes through the rim",
    plain=(
        "The stem must be 15 mm longer than the rim is deep, or take an extender. A wide valve does not go through "
        "a slim hole; a slim one in a wide hole takes a grommet."
    ),
    area=Area.WHEELS,
    reads=both_ends(
        rim=at("{end}_rim", optional("depth_mm"), optional("valve_hole_mm")),
        tyre=at("{end}_tyre", optional("valve"), optional("valve_length_mm")),
    ),
    messages={
        "fits": "The valve goes through and stands out far enough.",
        "too_wide": "A wide valve does not go through a {rim.valve_hole_mm:g} mm hole.",
        "grommet": "A slim valve in a {rim.valve_hole_mm:g} mm hole wants a grommet.",
        "short": "The stem is {short_mm:.0f} mm short for a rim {rim.depth_mm:g} mm deep.",
        "unknown": "Valve, hole, stem or depth is not measured.",
    },
    figures={"short_mm": "depth + 15 − stem"},
    sources=("tyre-practice",),
)
def valve_fit(rim: View, tyre: View) -> Outcome | None:
    pairs = ((tyre, "valve"), (rim, "valve_hole_mm"), (tyre, "valve_length_mm"), (rim, "depth_mm"))
    asks = missing(*pairs)
    if (tyre.valve is None and tyre.valve_length_mm is None) or (
        rim.valve_hole_mm is None and rim.depth_mm is None
    ):
        return None
    hole = lookup("valves", "code")[tyre.valve]["hole_mm"] if tyre.valve else None
    if hole is not None and rim.valve_hole_mm is not None and rim.valve_hole_mm < hole - HOLE_TOLERANCE_MM:
        return no_go("too_wide", way_out(tyre, "valve", "==", "slim"))
    if asks:
        return unmeasured("unknown", *asks)
    short = rim.depth_mm + VALVE_OVER_DEPTH_MM - tyre.valve_length_mm
    if short > SLACK:
        return goes_if("short", need("valve extender"), short_mm=short)
    if hole is not None and rim.valve_hole_mm > hole + HOLE_TOLERANCE_MM:
        return goes_if("grommet", need("grommet", where="in the valve hole"))
    return goes("fits")
