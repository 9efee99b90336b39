"""Tyres: on the rim, in the frame, their pressure, another wheel size, the valve."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.wheels import hookless_limits, nominal_within, real_width, tyre_pressure_limit
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup, table
from unkett.core.vocabulary import Area

CLEARANCE_OVER_MM = limit_of("tyre_room_over_mm")
RADIUS_SMALL_MM = limit_of("wheel_radius_small_mm")
RADIUS_LARGE_MM = limit_of("wheel_radius_large_mm")
TUBELESS_VALVE_LEAST_MM = limit_of("tubeless_valve_least_mm")
VALVE_OVER_DEPTH_MM = limit_of("valve_over_depth_mm")
HOLE_TOLERANCE_MM = limit_of("valve_hole_off_mm")

SEAT = rule(
    "tyre-seat",
    title="Tyre sits on the rim",
    plain=(
        "The bead seat diameters must be equal: names mislead, the number decides. Tubulars only on tubular rims. A "
        "hookless rim wants a tyre marked for it, tubeless, at least {hookless.hookless.least_width_mm} mm and wide "
        "enough for the rim."
    ),
    why="A tyre of another diameter blows off the rim or cannot be mounted.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(rim="{end}_rim", tyre="{end}_tyre"),
    messages={
        "seated": "Rim and tyre are both {rim.bsd_mm:g} mm and the bead is the tyre's.",
        "other_size": "Tyre {tyre.bsd_mm:g} mm; rim {rim.bsd_mm:g} mm.",
        "tubular": "A tubular fits only a tubular rim, and nothing else fits one.",
        "not_marked": "The rim is hookless and the tyre is not marked for it.",
        "not_tubeless": "The rim is hookless and the tyre is not tubeless.",
        "hookless_unknown": "The rim is hookless; not all that keeps the bead on it is known.",
        "too_narrow": "Hookless rim: tyre minimum {least_mm:.1f} mm; this one is {tyre.width_mm:g} mm.",
    },
    figures={
        "least_mm": (
            "{hookless.hookless.least_width_mm} mm, or {hookless.hookless.width_per_inner} × the rim's inner width "
            "if that is more",
            "mm",
        )
    },
    sources=("rims-iso", "hookless"),
    safety=True,
)


@SEAT.clause("rim.bsd_mm tyre.bsd_mm")
def bead_seat(rim: View, tyre: View) -> Outcome | None:
    if near(rim.bsd_mm, tyre.bsd_mm, 0.0):
        return None
    return no_go("other_size", way_out(tyre, "bsd_mm", "==", rim.bsd_mm))


@SEAT.clause("rim.bead tyre.type", may="rim.bsd_mm")
def bead(rim: View, tyre: View) -> Outcome | None:
    if (rim.bead == "tubular") != (tyre.type == "tubular"):
        kind = "tubular" if rim.bead == "tubular" else "clincher"
        return no_go("tubular", way_out(tyre, "type", "==", kind))
    return goes("seated") if rim.bead != "hookless" and rim.bsd_mm is not None else None


@SEAT.clause(
    "rim.bead", asks="tyre.hookless_ok tyre.tubeless tyre.width_mm rim.inner_width_mm", may="rim.bsd_mm"
)
def hookless(rim: View, tyre: View) -> Outcome | None:
    """Each thing that forbids a hookless rim does so by itself; all must be known before it goes."""
    if rim.bead != "hookless":
        return None
    if tyre.hookless_ok is False:
        return no_go("not_marked", way_out(tyre, "hookless_ok", "==", True))
    if tyre.tubeless is False:
        return no_go("not_tubeless", way_out(tyre, "tubeless", "==", True))
    limits, width = hookless_limits(), tyre.width_mm
    inner = rim.inner_width_mm or 0.0
    least = max(limits["least_width_mm"], inner * limits["width_per_inner"])
    if width is not None and width < least - SLACK:
        return no_go("too_narrow", way_out(tyre, "width_mm", ">=", least), least_mm=least)
    asks = [(tyre, name) for name in ("hookless_ok", "tubeless", "width_mm") if getattr(tyre, name) is None]
    asks += [(rim, "inner_width_mm")] if rim.inner_width_mm is None else []
    if asks:
        return unmeasured("hookless_unknown", *asks)
    return goes("seated") if rim.bsd_mm is not None else None


WIDTH = rule(
    "tyre-width",
    title="Tyre's width suits the rim",
    plain=(
        "The rim maker's own limits win, {rim_tyre_limits.hooked and hookless.listed_over_mm} mm outside them at "
        "most. Else the inner width decides: {rim_tyre_limits.hooked and hookless.low} to {rim_tyre_limits.hooked "
        "and hookless.high} times goes, {rim_tyre_limits.hooked and hookless.loose_low} to {rim_tyre_limits.hooked "
        "and hookless.loose_high} times if squirming or bottoming is accepted; wide tyres on old narrow rims to 52 "
        "mm on 17, 62 on 19 and 64 on 21. Tubulars are glued: nothing is said."
    ),
    why="Too narrow and the rim is hit; too wide and the tyre rolls over in bends.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(rim="{end}_rim", tyre="{end}_tyre"),
    messages={
        "within": "Tyre {width_mm:g} mm; this rim takes {low_mm:.1f} to {high_mm:.1f} mm.",
        "outside": "{width_mm:g} mm is a little outside {low_mm:.1f} to {high_mm:.1f} mm for this rim.",
        "too_far": "{width_mm:g} mm is outside {low_mm:.1f} to {high_mm:.1f} mm for this rim.",
    },
    figures={
        "width_mm": ("nominal width of the tyre", "mm"),
        "low_mm": ("narrowest tyre for the rim", "mm"),
        "high_mm": ("widest tyre for the rim", "mm"),
    },
    sources=("rims-iso", "tyre-practice"),
)


@WIDTH.clause(may="rim.bead tyre.type", silences=True)
def glued(rim: View, tyre: View) -> Outcome | None:
    return SILENT if "tubular" in (rim.bead, tyre.type) else None


def _limits(
    inner: float | None, low_mm: float | None, high_mm: float | None
) -> tuple[float, float, float, float]:
    """Narrowest and widest that go, then narrowest and widest that go with a caution; without an inner width 0."""
    row = table("rim_tyre_limits").rows[0]
    low, high, loose_low, loose_high = (
        row[name] * (inner or 0.0) for name in ("low", "high", "loose_low", "loose_high")
    )
    wide = [
        item["tyre_mm"] for item in table("wide_on_narrow").rows if item["inner_mm"] <= (inner or 0.0) + SLACK
    ]
    loose_high = max([loose_high, *wide])
    if low_mm is not None:
        low, loose_low = low_mm, low_mm - row["listed_over_mm"]
    if high_mm is not None:
        high, loose_high = high_mm, high_mm + row["listed_over_mm"]
    return low, high, loose_low, loose_high


@WIDTH.clause(
    "rim",
    asks="rim.inner_width_mm tyre.width_mm",
    may="rim.tyre_min_mm rim.tyre_max_mm tyre.width_measured_mm rim.bead tyre.type",
)
def width(rim: View, tyre: View) -> Outcome | None:
    if "tubular" in (rim.bead, tyre.type):
        return None
    nominal = tyre.width_mm
    wide = nominal if nominal is not None else tyre.width_measured_mm
    inner, least, most = rim.inner_width_mm, rim.tyre_min_mm, rim.tyre_max_mm
    wide = require(tyre).width_mm if wide is None else wide
    low, high, loose_low, loose_high = _limits(inner, least, most)
    figures = {"width_mm": wide, "low_mm": low, "high_mm": high}
    over = (most is not None or inner is not None) and wide > loose_high + SLACK
    under = (least is not None or inner is not None) and wide < loose_low - SLACK
    if over or under:
        return no_go(
            "too_far", way_out(tyre, "width_mm", "<=" if over else ">=", high if over else low), **figures
        )
    if None in (least, most):
        require(rim, "inner_width_mm")
    if low - SLACK <= wide <= high + SLACK:
        return goes("within", **figures)
    return goes_if(
        "outside", need("squirming tyre" if wide > high else "pressure watched: it bottoms easily"), **figures
    )


PRESSURE = rule(
    "tyre-pressure",
    title="Pressure limit of rim and tyre",
    plain=(
        "The lowest of the rim's and the tyre's limit, and never more than {hookless.hookless.max_bar} bar on "
        "a hookless rim."
    ),
    why="Above its limit a tyre leaves the rim suddenly.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(rim="{end}_rim", tyre="{end}_tyre"),
    messages={"limit": "Maximum {max_bar:.1f} bar."},
    figures={"max_bar": ("lowest of rim, tyre and {hookless.hookless.max_bar} on hookless", "bar")},
    sources=("hookless", "maker-limits"),
    safety=True,
)


@PRESSURE.clause("rim.pressure_max_bar rim.bead tyre.pressure_max_bar")
def pressure(rim: View, tyre: View) -> Outcome:
    limit = tyre_pressure_limit(bead=rim.bead, rim_bar=rim.pressure_max_bar, tyre_bar=tyre.pressure_max_bar)
    return goes("limit", max_bar=limit.max_bar)


CLEARANCE = rule(
    "tyre-clearance",
    title="Tyre has room in frame or fork",
    plain=(
        "The real width counts: measured, else estimated from the rim, else nominal. Against the limit for this rim "
        "size it goes, up to {tyre_room_over_mm} mm over it goes if mud and buckles are watched, beyond not."
    ),
    why="A tyre that touches saws into the frame or stops the wheel when it picks up a stone.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(holder=HOLDER, tyre="{end}_tyre", rim=optional("{end}_rim")),
    messages={
        "room": "Tyre {width_mm:.1f} mm; maximum {limit_mm:g} mm.",
        "over": "Tyre {width_mm:.1f} mm; {over_mm:.1f} mm over the maximum of {limit_mm:g} mm.",
        "no_room": "Tyre {width_mm:.1f} mm is too wide; maximum {limit_mm:g} mm.",
        "limit_unknown": "How wide a tyre goes in here is not known for this wheel size.",
    },
    figures={
        "width_mm": ("measured width, else nominal + 0.4 × (inner − design inner), else nominal", "mm"),
        "limit_mm": ("limit for this rim size", "mm"),
        "over_mm": ("width − limit", "mm"),
    },
    sources=("tyre-practice", "maker-limits"),
)


@CLEARANCE.clause(
    "holder.tyre_max_mm tyre.bsd_mm", asks="tyre.width_mm", may="tyre.width_measured_mm rim.inner_width_mm"
)
def clearance(holder: View, tyre: View, rim: View) -> Outcome:
    limit = holder.tyre_max_mm.get(round(tyre.bsd_mm))
    if limit is None:
        return unmeasured("limit_unknown", (holder, "tyre_max_mm"))
    wide = real_width(
        nominal_mm=tyre.width_mm, measured_mm=tyre.width_measured_mm, inner_mm=rim.inner_width_mm
    )
    wide = require(tyre).width_mm if wide is None else wide
    figures = {"width_mm": wide, "limit_mm": limit, "over_mm": max(0.0, wide - limit)}
    if wide <= limit + SLACK:
        return goes("room", **figures)
    if wide <= limit + CLEARANCE_OVER_MM + SLACK:
        return goes_if("over", need("measure the gaps: 4 mm to each side, 6 on top"), **figures)
    return no_go(
        "no_room", way_out(tyre, "width_mm", "<=", nominal_within(limit, tyre.width_mm, wide)), **figures
    )


SIZE = rule(
    "wheel-size",
    title="Wheel size is one the frame is made for",
    plain=(
        "A rim size the frame or fork is designed for goes. Another is judged with its tyre, by how far the wheel's "
        "outer radius moves against the designed size with the widest tyre stated for it: to {wheel_radius_small_mm} "
        "mm it goes, to {wheel_radius_large_mm} mm if bracket height, toe room and handling are looked at. A wheel "
        "that is smaller still goes if the lower bracket is accepted; a larger one does not."
    ),
    why="Another wheel size moves brakes, bracket height, steering and toe room.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(holder=HOLDER, rim="{end}_rim", tyre=optional("{end}_tyre")),
    messages={
        "designed": "{rim.bsd_mm:g} mm is a size it is designed for.",
        "close": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
        "far": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
        "too_far": "In radius {change_mm:.1f} mm off the {design_mm} mm wheel this end is made for.",
        "lower": "Radius {change_mm:.1f} mm under the widest {design_mm} mm wheel: the bracket is lower.",
        "widest_unknown": "The widest tyre of the size this end is made for is not known.",
    },
    figures={
        "change_mm": ("change of outer radius: half the rims' difference and the tyres' difference", "mm"),
        "design_mm": ("nearest rim size it is designed for", "mm"),
    },
    sources=("tyre-practice", "rims-iso"),
)


@SIZE.clause(
    "holder.design_bsd_mm rim.bsd_mm tyre",
    asks="tyre.width_mm",
    may="holder.tyre_max_mm tyre.width_measured_mm",
)
def wheel_size(holder: View, rim: View, tyre: View) -> Outcome:
    if any(near(rim.bsd_mm, design, 0.0) for design in holder.design_bsd_mm):
        return goes("designed")
    require(tyre, "there")
    wide = tyre.width_measured_mm or require(tyre).width_mm
    stated = {size: (holder.tyre_max_mm or {}).get(size) for size in holder.design_bsd_mm}
    known = [
        ((rim.bsd_mm - design) / 2 + wide - widest, design)
        for design, widest in stated.items()
        if widest is not None
    ]
    if not known:
        return unmeasured("widest_unknown", (holder, "tyre_max_mm"))
    larger, design = min(known, key=lambda one: abs(one[0]))
    change = abs(larger)
    figures: dict[str, Any] = {"change_mm": change, "design_mm": design}
    if change <= RADIUS_SMALL_MM + SLACK:
        return goes_if("close", need("check brake reach and room"), **figures)
    if larger < -RADIUS_LARGE_MM - SLACK:
        return goes_if("lower", need("check brake reach and room"), need("a lower bracket"), **figures)
    if change <= RADIUS_LARGE_MM + SLACK:
        caution = "bracket height, toe room and handling change"
        return goes_if("far", need("check brake reach and room", caution=caution), **figures)
    return no_go("too_far", way_out(rim, "bsd_mm", "in", list(holder.design_bsd_mm)), **figures)


VALVE = rule(
    "valve-fit",
    title="Valve goes through the rim",
    plain=(
        "The stem must be {valve_over_depth_mm} mm longer than the rim is deep, or take an extender; a tubeless "
        "valve {tubeless_valve_least_mm} mm at least, or its nut finds no thread. A wide valve does not go through a "
        "slim hole; a slim one in a wide hole takes a grommet. Where nothing is noted of valve or hole, nothing is "
        "said."
    ),
    why="A valve that is too short cannot be pumped or sealed; one too thick does not pass the rim.",
    area=Area.WHEELS,
    joint=both_ends("tyre"),
    parts=at_both_ends(rim="{end}_rim", tyre=optional("{end}_tyre"), valve=optional("{end}_valve")),
    messages={
        "fits": "The valve goes through and is long enough.",
        "too_wide": "A wide valve does not fit a {rim.valve_hole_mm:g} mm hole.",
        "grommet": "A slim valve in a {rim.valve_hole_mm:g} mm hole needs a grommet.",
        "extender": "Valve {valve.length_mm:g} mm, rim {rim.depth_mm:g} mm deep: an extender on the core's thread.",
        "fixed_core": "Valve {short_mm:.0f} mm too short, and its core does not come out for an extender.",
        "too_short": "Valve {valve.length_mm:g} mm; rim {rim.depth_mm:g} mm deep: too short for its nut.",
        "short": "Valve {short_mm:.0f} mm too short for a rim {rim.depth_mm:g} mm deep.",
    },
    figures={"short_mm": ("depth + {valve_over_depth_mm} − stem", "mm")},
    sources=("tyre-practice",),
)


@VALVE.clause(may="tyre.valve tyre.valve_length_mm rim.valve_hole_mm rim.depth_mm valve.valve", silences=True)
def noted(tyre: View, rim: View, valve: View) -> Outcome | None:
    if not valve.empty:
        return None
    of_tyre, of_rim = (tyre.valve, tyre.valve_length_mm), (rim.valve_hole_mm, rim.depth_mm)
    return SILENT if of_tyre == (None, None) or of_rim == (None, None) else None


def _in_hole(view: View, rim: View) -> Outcome:
    wants = lookup("valves", "code")[view.valve]["hole_mm"]
    if rim.valve_hole_mm < wants - HOLE_TOLERANCE_MM - SLACK:
        return no_go("too_wide", way_out(view, "valve", "==", "slim"))
    if rim.valve_hole_mm > wants + HOLE_TOLERANCE_MM + SLACK:
        return goes_if("grommet", need("grommet", where="in the valve hole"))
    return goes("fits")


@VALVE.clause("tyre.valve rim.valve_hole_mm", may="valve.valve")
def hole(tyre: View, rim: View, valve: View) -> Outcome | None:
    return _in_hole(tyre, rim) if valve.empty else None


@VALVE.clause("tyre.valve_length_mm rim.depth_mm", may="valve.length_mm")
def stem_length(tyre: View, rim: View, valve: View) -> Outcome | None:
    if not valve.empty:
        return None  # a valve of its own speaks for itself
    short = rim.depth_mm + VALVE_OVER_DEPTH_MM - tyre.valve_length_mm
    return goes_if("short", need("valve extender"), short_mm=short) if short > SLACK else None


@VALVE.clause(given="valve.valve rim.valve_hole_mm")
def own_hole(valve: View, rim: View) -> Outcome | None:
    return _in_hole(valve, rim)


@VALVE.clause(given="valve.length_mm rim.depth_mm", asks="valve.tubeless valve.core_removable")
def own_length(valve: View, rim: View) -> Outcome:
    out = valve.length_mm - rim.depth_mm
    figures = {"short_mm": max(0.0, VALVE_OVER_DEPTH_MM - out)}
    if out >= VALVE_OVER_DEPTH_MM - SLACK:
        return goes("fits", **figures)
    longer = way_out(valve, "length_mm", ">=", rim.depth_mm + VALVE_OVER_DEPTH_MM)
    if require(valve).tubeless and out < TUBELESS_VALVE_LEAST_MM - SLACK:
        return no_go("too_short", longer, **figures)
    if not require(valve).core_removable:
        return no_go("fixed_core", longer, **figures)
    return goes_if("extender", need("valve extender"), **figures)
