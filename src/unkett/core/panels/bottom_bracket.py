"""Bracket: shell, cups and spacers against the crank; chainline and chain angle in every gear."""

from __future__ import annotations

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import chainline_of
from unkett.core.build import Build
from unkett.core.calc.bottom_bracket import crank_spacing
from unkett.core.calc.chainline import Seated
from unkett.core.drawing.bottom_bracket import bracket_scene, chainline_scene
from unkett.core.panels.base import Grid, GridRow, Incomplete, Number, Panel, given, panel_of, require_values
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import rows_where

LONE_SPROCKET = "One sprocket: measure ring and sprocket from the centre plane and set both lines alike."


def bracket_sheet(build: Build) -> Panel:
    """Return the section across the bracket."""
    return panel_of("section", "Across the bracket", build, _bracket)


def _spindle_mm(facts: Facts) -> float | None:
    code = facts.get("crank", "spindle") or facts.get("bottom_bracket", "spindle")
    row = next(iter(rows_where("spindles", "code", code)), None)
    return None if row is None else float(row["diameter_mm"])


def _bracket(facts: Facts) -> Panel:
    (shell,) = require_values(facts, ("frame", "bb_shell_width_mm"))
    needs, flanges = facts.get("crank", "spindle_needs_mm"), facts.get("bottom_bracket", "flanges_mm")
    spacers, reach = facts.get("bottom_bracket", "spacers_mm"), facts.get("crank", "preload_range_mm")
    numbers = [
        given(facts, "frame", "bb_shell_width_mm", "shell", "shell"),
        given(facts, "bottom_bracket", "flanges_mm", "cups outside it", "flanges"),
        given(facts, "bottom_bracket", "spacers_mm", "spacers fitted", "fitted"),
        given(facts, "crank", "spindle_needs_mm", "arms want between them", "needs"),
        given(facts, "bottom_bracket", "spindle_length_mm", "cartridge spindle", "cartridge"),
        given(facts, "crank", "q_mm", "tread", "tread"),
    ]
    if needs is not None and flanges is not None:
        gap = crank_spacing(
            spindle_needs_mm=needs,
            shell_mm=shell,
            flanges_mm=flanges + (spacers or 0.0),
            range_mm=reach or 0.0,
        )
        numbers.append(
            Number(name="gap", title="gap between cups and arms", value=gap.gap_mm, trace=gap.trace)
        )
        numbers.append(Number(name="spacers", title="spacers to add", value=gap.spacers_mm, trace=gap.trace))
    scene = bracket_scene(
        shell_mm=shell,
        flanges_mm=flanges,
        spacers_mm=spacers,
        needs_mm=needs if needs is not None else facts.get("bottom_bracket", "spindle_length_mm"),
        spindle_mm=_spindle_mm(facts),
        tread_mm=facts.get("crank", "q_mm"),
        rings=_rings(facts),
    )
    return Panel(
        name="section",
        title="Across the bracket",
        numbers=tuple(
            number
            for number in numbers
            if number.value is not None or number.name in ("shell", "flanges", "needs")
        ),
        scene=scene,
        finds="bottom_bracket",
    )


def _rings(facts: Facts) -> tuple[tuple[int, float], ...]:
    """Each ring's teeth and distance from the centre plane, where both are known."""
    teeth, found = facts.get("chainrings", "teeth") or (), chainline_of(facts, note=False)
    return () if found is None else tuple(zip(teeth, found.fronts_mm, strict=True))


def chainline_sheet(build: Build, settings: Settings = DEFAULTS) -> Panel:
    """Chainline and the chain's angle in every gear, on every seat a lone ring may have."""
    return panel_of("bracket", "Chainline", build, lambda facts: _chainline(facts, settings))


def _angles(seat: Seated, settings: Settings, facts: Facts, *, drawn: bool) -> Grid:
    """Return the chain's angle by gear with the rings on one seat; what runs noisy is loud, what runs quiet is said."""
    noisy, quiet = settings.number("chain_angle_noisy_deg"), settings.number("chain_angle_quiet_deg")
    angle = {(item.ring, item.sprocket): item.angle_deg for item in seat.line.angles}
    rings = tuple(dict.fromkeys(ring for ring, _ in angle))
    cogs = tuple(dict.fromkeys(cog for _, cog in angle))
    rows = tuple(
        GridRow(
            title=f"ring {ring}",
            cells=tuple(round(angle[ring, cog], 1) for cog in cogs),
            loud=frozenset(n for n, cog in enumerate(cogs) if abs(angle[ring, cog]) > noisy),
        )
        for ring in rings
    )
    runs_quiet = sum(abs(figure) <= quiet for figure in angle.values())
    says = (
        f"+ when the ring stands further out; over {noisy:g}° it is noisy and "
        f"wears. {runs_quiet} of {len(angle)} gears run quiet (to {quiet:g}°)."
    )
    where = f", ring on the {seat.seat} seat{' (drawn here)' if drawn else ''}" if seat.seat else ""
    limit = (facts.get("frame", "chainring_max_teeth") or {}).get(len(rings))
    if seat.seat:
        room = "" if limit is None else f"; the frame takes {limit} teeth"
        says += f" Room to the stay: look, 3 mm at least{room}."
    return Grid(
        title=f"Chain angle by sprocket, degrees{where}", columns=tuple(map(str, cogs)), rows=rows, says=says
    )


def _chainline(facts: Facts, settings: Settings) -> Panel:
    if len(facts.get("cassette", "teeth") or ()) == 1:
        return Panel(name="bracket", title="Chainline", cautions=(LONE_SPROCKET,))
    found = chainline_of(facts)
    if found is None:
        raise Incomplete
    line, rears = found.line, found.line.rear_mm
    worst = found.seats[0].worst
    numbers = (
        given(facts, "crank", "chainline_mm", "chainline, front", "chainline"),
        given(facts, "frame", "chainline_mm", "frame designed for", "designed"),
        Number(name="first", title="smallest sprocket's line", value=rears[0], trace=line.trace),
        Number(name="last", title="largest sprocket's line", value=rears[-1], trace=line.trace),
        Number(
            name="angle",
            title=f"largest angle, {worst.ring}/{worst.sprocket}",
            value=abs(worst.angle_deg),
            unit="°",
            trace=line.trace,
        ),
        *(
            Number(
                name=f"seat_{seat.seat}",
                title=(
                    f"ring on the {seat.seat} seat, "
                    f"{seat.worst.ring}/{seat.worst.sprocket}{', drawn here' if n == 0 else ''}"
                ),
                value=abs(seat.worst.angle_deg),
                unit="°",
            )
            for n, seat in enumerate(found.seats)
            if seat.seat
        ),
    )
    return Panel(
        name="bracket",
        title="Chainline",
        numbers=numbers,
        grids=tuple(_angles(seat, settings, facts, drawn=n == 0) for n, seat in enumerate(found.seats)),
        scene=chainline_scene(
            shell_mm=facts.get("frame", "bb_shell_width_mm"),
            fronts_mm=found.fronts_mm,
            rears_mm=rears,
            stay_mm=found.chainstay_mm,
            spacing_mm=found.spacing_mm,
        ),
    )
