"""Wheels: rim and tyre in frame or fork, pressure limit, spokes, and what another wheel size moves."""

from __future__ import annotations

from typing import Any

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import gears_of, wheel_radius
from unkett.core.build import Build, bead_seat_from, tyre_width_from
from unkett.core.calc.base import floor_slack
from unkett.core.calc.brakes import rim_brake_reach
from unkett.core.calc.geometry import trail
from unkett.core.calc.spokes import lacing_scene, spoke_length, tension_ratio
from unkett.core.calc.wheels import tyre_pressure_limit, tyre_width, wheel_swap
from unkett.core.drawing.sections import tyre_scene
from unkett.core.errors import InputError
from unkett.core.panels.base import Number, Panel, given, panel_of, require_values
from unkett.core.panels.steering import toe_lines

STOCK_STEP_MM = 2.0


def wheel_sheet(build: Build, end: str) -> Panel:
    """Rim and tyre in section, the widest that frame or fork takes, pressure limit; `end` is front or rear."""
    return panel_of(f"{end}_wheel", f"{end.capitalize()} wheel", build, lambda facts: _wheel(facts, end))


def _wheel(facts: Facts, end: str) -> Panel:
    bsd, inner, nominal = require_values(
        facts, (f"{end}_rim", "bsd_mm"), (f"{end}_rim", "inner_width_mm"), (f"{end}_tyre", "width_mm")
    )
    measured = facts.get(f"{end}_tyre", "width_measured_mm")
    estimate = tyre_width(nominal_mm=nominal, inner_mm=inner)
    width = measured if measured is not None else estimate.estimate_mm
    holder = "fork" if end == "front" else "frame"
    limit = (facts.get(holder, "tyre_max_mm") or {}).get(round(bsd))
    numbers = (
        given(facts, f"{end}_rim", "bsd_mm", "rim size", "bsd"),
        given(facts, f"{end}_rim", "inner_width_mm", "inner width", "inner"),
        Number(
            name="width",
            title="tyre's real width",
            value=width,
            given=(f"{end}_tyre", "width_measured_mm") if measured is not None else None,
            trace=() if measured is not None else estimate.trace,
        ),
        Number(name="limit", title=f"widest the {holder} takes", value=limit, given=(holder, "tyre_max_mm")),
        Number(
            name="gap", title="narrower than the widest by", value=None if limit is None else limit - width
        ),
        Number(name="radius", title="outer radius", value=bsd / 2 + width, origin="assumed"),
        _pressure(facts, end),
    )
    return Panel(
        name=f"{end}_wheel",
        title=f"{end.capitalize()} wheel",
        numbers=numbers,
        scene=tyre_scene(end=end, inner_mm=inner, width_mm=width, limit_mm=limit),
        finds=f"{end}_tyre",
    )


def _pressure(facts: Facts, end: str) -> Number:
    """Return the pressure limit where bead and both limits are known; else open, with what is to be read off first."""
    asks = [
        (f"{end}_rim", "bead"),
        (f"{end}_rim", "pressure_max_bar"),
        (f"{end}_tyre", "pressure_max_bar"),
    ]
    bead, rim, tyre = (facts.get(slot, attr) for slot, attr in asks)
    unknown = next((pair for pair in asks if facts.get(*pair) is None), None)
    if unknown is not None:
        return Number(name="pressure", title="never above", value=None, unit="bar", given=unknown)
    found = tyre_pressure_limit(bead=bead, rim_bar=rim, tyre_bar=tyre)
    return Number(name="pressure", title="never above", value=found.max_bar, unit="bar", trace=found.trace)


def spokes_sheet(build: Build, end: str) -> Panel | None:
    """Spoke lengths by side, stock and tension ratio, with the lacing drawn; None where no spokes are known of."""
    known = {f"{end}_spokes", f"{end}_hub", f"{end}_rim"} & set(build.filled())
    if len(known) < 3:
        return None
    title = f"{end.capitalize()} spokes"
    return panel_of(f"{end}_spokes", title, build, lambda facts: _spokes(facts, end, title))


def _spokes(facts: Facts, end: str, title: str) -> Panel:
    hub = f"{end}_hub"
    erd, holes, crosses = require_values(
        facts, (f"{end}_rim", "erd_mm"), (hub, "holes"), (f"{end}_spokes", "crosses")
    )
    numbers: list[Number] = []
    scene = None
    for side, sign in (("left", 1), ("right", -1)):
        found = _side(facts, end, side, sign, erd, holes, crosses)
        if found is None:
            continue
        circle, length = found
        numbers.append(
            Number(name=f"spoke_{side}", title=f"spokes, {side}", value=length.length_mm, trace=length.trace)
        )
        stock = STOCK_STEP_MM * floor_slack(length.length_mm / STOCK_STEP_MM)
        numbers.append(Number(name=f"stock_{side}", title=f"stock length, {side}", value=stock))
        scene = lacing_scene(
            title=f"{title}, {side} side",
            erd_mm=erd,
            pcd_mm=circle,
            spokes=holes,
            crosses=crosses,
            length_mm=length.length_mm,
        )
    offsets = {side: facts.get(hub, f"flange_offset_{side}_mm") for side in ("left", "right")}
    if offsets["left"] and offsets["right"]:
        ratio = tension_ratio(offset_left_mm=offsets["left"], offset_right_mm=offsets["right"])
        value = ratio.left_to_right_pct
        numbers.append(
            Number(name="tension", title="tension left to right", value=value, unit="%", trace=ratio.trace)
        )
    return Panel(
        name=f"{end}_spokes",
        title=title,
        numbers=tuple(numbers),
        scene=scene,
        missing=tuple(facts.missing),
    )


def _side(
    facts: Facts, end: str, side: str, sign: int, erd: float, holes: int, crosses: int
) -> tuple[float, Any] | None:
    """Return the hole circle and the spoke's length of one side; None, and noted, where the flange is not measured."""
    hub = f"{end}_hub"
    circle, offset = facts.want(hub, f"flange_pcd_{side}_mm"), facts.want(hub, f"flange_offset_{side}_mm")
    if circle is None or offset is None:
        return None
    drilled = facts.get(f"{end}_rim", "drilling_offset_mm") or 0.0
    found = spoke_length(
        erd_mm=erd,
        pcd_mm=circle,
        offset_mm=abs(offset - sign * drilled),
        spokes=holes,
        crosses=crosses,
        hole_mm=facts.get(hub, "spoke_hole_mm") or 2.6,
    )
    return circle, found


def change_sheets(now: Build, then: Build) -> list[Panel]:
    """Everything that another wheel or tyre size moves, by end."""
    return [one for end in ("front", "rear") if (one := _change(now, then, end)) is not None]


def _size(facts: Facts, end: str) -> tuple[float | None, float | None]:
    return facts.first(bead_seat_from(end)), facts.first(tyre_width_from(end))


def _change(now: Build, then: Build, end: str) -> Panel | None:
    old, new = Facts(now), Facts(then)
    (bsd, tyre), (bsd_to, tyre_to) = _size(old, end), _size(new, end)
    if (bsd, tyre) == (bsd_to, tyre_to) or bsd is None or tyre is None or bsd_to is None or tyre_to is None:
        return None
    name, title = f"{end}_swap", f"{end.capitalize()} wheel {bsd:g} × {tyre:g} → {bsd_to:g} × {tyre_to:g}"
    holder, prefix = ("fork", "") if end == "front" else ("frame", "rear_")
    bridge = old.get(holder, f"{prefix}bridge_radius_mm")
    try:
        swap = wheel_swap(
            bsd_from_mm=bsd,
            tyre_from_mm=tyre,
            bsd_to_mm=bsd_to,
            tyre_to_mm=tyre_to,
            reach_now_mm=None
            if bridge is None
            else rim_brake_reach(bridge_radius_mm=bridge, bsd_mm=bsd).reach_mm,
        )
    except InputError as error:
        return Panel(name=name, title=title, fault=str(error))
    numbers = [
        Number(name="radius", title="outer radius changes by", value=swap.radius_change_mm, trace=swap.trace),
        Number(
            name="roll_out",
            title="roll-out changes by",
            value=swap.circumference_change_pct,
            unit="%",
            trace=swap.trace,
        ),
        *(_trail(old, new) if end == "front" else _gearing(now, then)),
    ]
    if swap.reach_mm is not None:
        numbers.append(
            Number(name="reach", title="rim brake reach then", value=swap.reach_mm, trace=swap.trace)
        )
    if end == "rear":
        numbers.append(Number(name="height", title="bracket height then", value=_bracket_height(new)))
    toe, toe_says = toe_lines(("now", old), ("then", new)) if end == "front" else ([], ())
    numbers += toe
    limits = new.get(holder, "tyre_max_mm") or {}
    limit = limits.get(round(bsd_to))
    numbers.append(Number(name="room", title=f"widest the {holder} takes at {bsd_to:g}", value=limit))
    return Panel(
        name=name,
        title=title,
        numbers=tuple(numbers),
        cautions=(
            "Both ends moving together shift bracket height, toe room and handling; set the computer's roll-out anew.",
            *toe_says,
        ),
    )


def _bracket_height(facts: Facts) -> float | None:
    """Bracket over the ground in mm, where the drop is measured."""
    radius, drop = wheel_radius(facts, "rear"), facts.get("frame", "bb_drop_mm")
    return None if radius is None or drop is None else radius - drop


def _trail(old: Facts, new: Facts) -> list[Number]:
    """Trail before and after, where head angle and offset are known."""
    out = []
    for facts, says in ((old, "now"), (new, "then")):
        head, offset = facts.get("frame", "head_angle_deg"), facts.get("fork", "offset_mm")
        radius = wheel_radius(facts, "front")
        if head is None or offset is None or radius is None:
            return []
        found = trail(wheel_radius_mm=radius, head_angle_deg=head, offset_mm=offset)
        out.append(
            Number(name=f"trail_{says}", title=f"trail {says}", value=found.trail_mm, trace=found.trace)
        )
    return out


def _gearing(now: Build, then: Build) -> list[Number]:
    """Return the lowest and highest gear then, every development scaling with the wheel."""
    old, new = gears_of(now), gears_of(then)
    if old.low_m is None or new.low_m is None:
        return []
    return [
        Number(name="low", title="lowest gear then", value=new.low_m, unit="m"),
        Number(name="high", title="highest gear then", value=new.high_m, unit="m"),
    ]
