"""Brakes: rotor and caliper to scale, lever against caliper, what a change of rotor does."""

from __future__ import annotations

import functools

from unkett.core.bike.facts import Facts
from unkett.core.build import Build
from unkett.core.calc.brakes import adapter, caliper_place, least_thickness, rotor_gain
from unkett.core.calc.lines import line_drag
from unkett.core.drawing.brakes import rotor_scene
from unkett.core.panels.base import Grid, GridRow, Number, Panel, given, panel_of, require_values
from unkett.core.vocabulary import describe
from unkett.core.vocabulary.types import Choice

CAUTION = (
    "Brakes: the manufacturer's instructions first; right fluid only; "
    "bed new pads in; a lever that comes to the bar is not rideable."
)
HOUSING = (("new, lined", 0.06), ("used", 0.10), ("dirty", 0.15))
MATCHES = (
    ("worked by", "actuation", "brake-actuation"),
    ("cable pull", "cable_pull", "brake-cable-pull"),
    ("fluid", "fluid", "brake-fluid"),
    ("hose fitting", "hose_fitting", "hose-fitting"),
)


def brake_sheet(build: Build, end: str) -> Panel | None:
    """Rotor, caliper, mount and limit in section; None where no rotor stands there."""
    if f"{end}_rotor" not in build.filled():
        return None
    return panel_of(f"{end}_brake", f"{end.capitalize()} rotor", build, lambda facts: _brake(facts, end))


def _brake(facts: Facts, end: str) -> Panel:
    (rotor,) = require_values(facts, (f"{end}_rotor", "diameter_mm"))
    slot, prefix = ("fork", "") if end == "front" else ("frame", "rear_")
    native, limit = facts.get(slot, f"{prefix}native_rotor_mm"), facts.get(slot, f"{prefix}rotor_max_mm")
    plate, disc = f"{end}_brake_adapter", f"{end}_rotor"
    stands, lifts_to = plate in facts.filled, facts.get(plate, "rotor_mm")
    place = None  # an adapter of unknown size puts the caliper nowhere that is known
    if lifts_to is not None or not stands:
        place = caliper_place(
            native_mm=native, adapter_rotor_mm=lifts_to, adapter_native_mm=facts.get(plate, "native_mm")
        )
    thickness, least = (
        facts.get(disc, "measured_mm"),
        least_thickness(
            stamped_mm=facts.get(disc, "thickness_min_mm"), new_mm=facts.get(disc, "thickness_mm")
        ),
    )
    stamped = facts.get(disc, "thickness_min_mm") is not None
    numbers = [
        given(facts, disc, "diameter_mm", "rotor", "rotor"),
        given(facts, slot, f"{prefix}native_rotor_mm", "bare mount is for", "native"),
        given(facts, plate, "rotor_mm", "adapter is for", "adapter"),
        Number(name="place", title="caliper sits for", value=place),
        given(facts, slot, f"{prefix}rotor_max_mm", "largest allowed", "limit"),
        given(facts, disc, "measured_mm", "thickness now", "thickness"),
        Number(
            name="least", title="least thickness", value=least, origin="computed" if stamped else "assumed"
        ),
        Number(
            name="left",
            title="left to wear",
            value=None if thickness is None or least is None else thickness - least,
        ),
    ]
    numbers += _adapter_wanted(facts, slot, prefix, native, rotor)
    if native is not None and native != rotor:
        gain = rotor_gain(from_mm=native, to_mm=rotor, track_mm=facts.get(disc, "track_mm") or 0.0)
        numbers += _gain(gain.torque_pct, gain.area_pct, gain, "against the bare size")
    return Panel(
        name=f"{end}_brake",
        title=f"{end.capitalize()} rotor",
        numbers=tuple(numbers),
        scene=rotor_scene(
            end=end,
            rotor_mm=rotor,
            thickness_mm=thickness if thickness is not None else facts.get(disc, "thickness_mm"),
            track_mm=facts.get(disc, "track_mm"),
            pad_height_mm=facts.get(f"{end}_caliper", "pad_height_mm"),
            native_mm=native,
            place_mm=place,
            limit_mm=limit,
            doubted=facts.doubted(disc, "measured_mm"),
        ),
        cautions=(CAUTION,),
        finds=plate,
    )


def _adapter_wanted(facts: Facts, slot: str, prefix: str, native: float | None, rotor: float) -> list[Number]:
    """The step of the adapter this rotor wants on a post mount; other mounts go by the plate's stamp."""
    if facts.get(slot, f"{prefix}brake_mount") != "post" or native is None:
        return []
    found = adapter(mount="post", native_mm=native, rotor_mm=rotor)
    words = "none made" if not found.possible else "none" if found.step_mm == 0 else f"+{found.step_mm:g}"
    if found.washers_mm is not None:
        words = f"washers {found.washers_mm:g}"
    return [Number(name="step", title="adapter wanted", value=words, trace=found.trace)]


def _gain(torque: float, area: float, of: object, against: str) -> list[Number]:
    trace = getattr(of, "trace", ())
    return [
        Number(name="torque", title=f"torque {against}", value=torque, unit="%", trace=trace),
        Number(name="heat", title=f"swept area {against}", value=area, unit="%", trace=trace),
    ]


def lever_sheet(build: Build, end: str) -> Panel | None:
    """Lever, line and caliper side by side with the rules that match them; None without a caliper and a lever."""
    if not {f"{end}_brake_lever", f"{end}_caliper"} & set(build.filled()):
        return None
    title = f"{end.capitalize()} lever and caliper"
    return panel_of(f"{end}_lever", title, build, lambda facts: _lever(facts, end, title))


def _said(facts: Facts, slot: str, attr: str) -> str | None:
    """Return a code in words, as the vocabulary has it."""
    value = facts.get(slot, attr)
    if value is None:
        return None
    kind = describe(slot, attr).type
    return kind.of.title(value) if isinstance(kind, Choice) else str(value)


def _lever(facts: Facts, end: str, title: str) -> Panel:
    lever, line, caliper = f"{end}_brake_lever", f"{end}_brake_line", f"{end}_caliper"
    rows = [
        GridRow(
            title=says,
            cells=(
                _said(facts, lever, attr),
                _said(facts, line, attr) if attr in ("fluid", "hose_fitting") else None,
                _said(facts, caliper, attr),
            ),
            rule=rule,
        )
        for says, attr, rule in MATCHES
    ]
    rows.append(GridRow(title="line", cells=(None, _said(facts, line, "type"), None), rule="brake-line-type"))
    kept = tuple(row for row in rows if any(cell is not None for cell in row.cells))
    return Panel(
        name=f"{end}_lever",
        title=title,
        numbers=tuple(_drag(facts, line)),
        grids=(Grid(title="What must match", columns=("lever", "line", "caliper"), rows=kept),),
    )


def _drag(facts: Facts, line: str) -> list[Number]:
    """Return what the bends of a cable line cost, by the state of its housing."""
    turns, kind = facts.get(line, "turns_deg"), facts.get(line, "type")
    if turns is None or kind == "hose":
        return []
    found = [(says, line_drag(turns_deg=turns, mu=mu)) for says, mu in HOUSING]
    numbers = [Number(name="turns", title="bends in all", value=found[0][1].total_deg, unit="°")]
    return numbers + [
        Number(
            name=f"loss_{says}",
            title=f"friction loss, {says} housing",
            value=item.loss_pct,
            unit="%",
            trace=item.trace,
        )
        for says, item in found
    ]


def change_sheets(now: Build, then: Build) -> list[Panel]:
    """Return what a rotor of another size does, by end."""
    sheets = []
    for end in ("front", "rear"):
        old, new = (Facts(state).get(f"{end}_rotor", "diameter_mm") for state in (now, then))
        if old is None or new is None or old == new:
            continue
        title = f"{end.capitalize()} rotor {old:g} → {new:g}"
        sheets.append(panel_of(f"{end}_gain", title, then, functools.partial(_grown, end, old, title)))
    return sheets


def _grown(end: str, old: float, title: str, facts: Facts) -> Panel:
    disc = f"{end}_rotor"
    gain = rotor_gain(
        from_mm=old, to_mm=facts.get(disc, "diameter_mm"), track_mm=facts.get(disc, "track_mm") or 0.0
    )
    numbers = _gain(gain.torque_pct, gain.area_pct, gain, "against now")
    return Panel(name=f"{end}_gain", title=title, numbers=tuple(numbers))
