"""Chainline and chain angle."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.chainline import seated_chainlines
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

LINE_CLOSE_MM = limit_of("chainline_close_mm")
LINE_FAR_MM = limit_of("chainline_far_mm")


ANGLE = rule(
    "chain-angle",
    title="Chain runs straight enough",
    plain=(
        "The chain's angle in the end gears: quiet up to a first limit, normal at the ends to a second, noisy "
        "and wearing above, to be avoided above a third. A single ring on a crank made for more is judged on the "
        "seat with the smaller worst angle among the gears ridden: on road, time trial, triathlon and track bikes "
        "the smaller half of the sprockets counts twice."
    ),
    why="A chain that runs askew is noisy, wears itself and the sprockets, and drops from the chainring.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "rings": required("chainrings"),
        "cassette": "cassette",
        "crank": "crank",
        "hub": required("rear_hub"),
        "frame": "frame",
        "bike": BIKE,
    },
    messages={
        "quiet": "Chain angle {worst_deg:.1f}° at most ({gear}){seat}.",
        "noisy": "Chain angle {worst_deg:.1f}° in {gear}{seat}: noise, wear.",
        "avoid": "Chain angle {worst_deg:.1f}° in {gear}{seat}: avoid that gear.",
    },
    figures={
        "worst_deg": ("largest chain angle among the gears in use", "°"),
        "gear": ("gear of the largest angle", ""),
        "seat": ("where a lone ring sits on a crank for more", ""),
        "rear_last_mm": ("line of the largest sprocket", "mm"),
        "front_mm": ("line of the ring in that gear", "mm"),
    },
    settings=("chain_angle_noisy_deg", "chain_angle_avoid_deg"),
    sources=("chainline-geometry",),
)


@ANGLE.clause(may="cassette.sprockets", silences=True)
def lone_sprocket(cassette: View) -> Outcome | None:
    """A lone sprocket's line is set at its hub, not by a stack."""
    return SILENT if cassette.sprockets == 1 else None


@ANGLE.clause(
    "rings.teeth cassette.sprockets crank hub.spacing_mm frame.chainstay_mm",
    asks="cassette.pitches_mm crank.chainline_mm",
    may=(
        "cassette.teeth crank.ring_offset_mm crank.rings crank.line_at_zero_mm rings.offset_mm hub.axle_kind bike.use"
    ),
)
def lean(
    rings: View, cassette: View, crank: View, hub: View, frame: View, bike: View, settings: Settings
) -> Outcome | None:
    count = cassette.sprockets
    if count == 1:
        return None
    teeth = cassette.teeth or tuple(range(11, 11 + count))
    line = own_line(crank, rings)
    best = seated_chainlines(
        chainline_mm=require(crank).chainline_mm if line is None else line,
        crank_rings=crank.rings,
        offsets_mm=crank.ring_offset_mm,
        axle_kind=hub.axle_kind,
        spacing_mm=hub.spacing_mm,
        sprocket_pitch_mm=max(require(cassette).pitches_mm),
        sprockets=teeth,
        chainrings=rings.teeth,
        chainstay_mm=frame.chainstay_mm,
        use=bike.use,
    )[0]
    worst, rear = best.worst, best.line.rear_mm
    leans = abs(worst.angle_deg)
    figures: dict[str, Any] = {
        "worst_deg": leans,
        "gear": f"{worst.ring}/{worst.sprocket}" if cassette.teeth else f"ring {worst.ring}",
        "seat": f" with the ring on the {best.seat} seat" if best.seat else "",
        "rear_last_mm": rear[-1],
        "front_mm": worst.offset_mm + rear[teeth.index(worst.sprocket)],
    }
    if leans <= settings.number("chain_angle_noisy_deg") + SLACK:
        return goes("quiet", **figures)
    if leans <= settings.number("chain_angle_avoid_deg") + SLACK:
        return goes_if("noisy", need("noise and wear in the end gears"), **figures)
    gears = [figures["gear"]]
    return goes_if("avoid", need("keep out of the end gear, or move the ring", gears=gears), **figures)


LINE = rule(
    "crank-chainline",
    title="Crank's chainline is the frame's",
    plain=(
        "Within {chainline_close_mm} mm of what the frame is made for it goes; to {chainline_far_mm} mm if ring "
        "({ring_room_mm} mm) and arm ({arm_room_mm} mm) clear the stay; more towards the frame does not go, more "
        "outwards only if looked at."
    ),
    why="A ring too far in strikes the stay; too far out and every gear runs askew.",
    area=Area.BRACKET,
    joint="rings",
    parts={"crank": "crank", "frame": "frame", "rings": optional("chainrings")},
    messages={
        "close": "Crank {line_mm:g} mm, frame {frame.chainline_mm:g} mm.",
        "off": "The crank's chainline is {off_mm:.1f} mm further {way} than the frame's.",
        "too_near": "The crank's chainline is {off_mm:.1f} mm nearer the frame than it is made for.",
    },
    figures={
        "line_mm": (
            "the crank's chainline; of a ring bolted to the arm its line without offset − its offset",
            "mm",
        ),
        "off_mm": ("difference of the chainlines", "mm"),
        "way": ("which way the rings move", ""),
    },
    sources=("chainline-geometry",),
)


def own_line(crank: View, rings: View) -> float | None:
    """Return the chainline: of a ring bolted to the arm by its offset, else the crank's own figure."""
    if crank.line_at_zero_mm is not None and rings.offset_mm is not None:
        return float(crank.line_at_zero_mm - rings.offset_mm)
    line: float | None = crank.chainline_mm
    return line


@LINE.clause(
    "frame.chainline_mm crank", asks="crank.chainline_mm", may="crank.line_at_zero_mm rings.offset_mm"
)
def crank_line(crank: View, frame: View, rings: View) -> Outcome:
    line = own_line(crank, rings)
    if line is None:
        line = require(crank).chainline_mm
    off = line - frame.chainline_mm
    if near(off, 0.0, LINE_CLOSE_MM):
        return goes("close", off_mm=abs(off), line_mm=line)
    if off < 0 and not near(off, 0.0, LINE_FAR_MM):
        way = way_out(crank, "chainline_mm", "==", frame.chainline_mm)
        return no_go("too_near", way, off_mm=-off, line_mm=line)
    ring = need("look at ring and stay: 3 mm at least")
    arm = need("look at arm and stay: 2 mm at least")
    return goes_if("off", ring, arm, off_mm=abs(off), line_mm=line, way="out" if off > 0 else "in")
