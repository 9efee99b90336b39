"""The rear shock in its frame: size, mount, hardware, room at full stroke, and whether the frame's figures agree."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.suspension import Linkage, true_size
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

SIZE_OFF_MM = limit_of("shock_off_mm")
HARDWARE_UNDER_MM = limit_of("hardware_under_mm")
EYE_WALL_MM = limit_of("eye_wall_mm")
BOLT_OFF_MM = limit_of("eye_bolt_off_mm")
ROOM_MM, TYRE_ROOM_MM = limit_of("shock_room_mm"), limit_of("tyre_room_full_mm")
LEVERAGE_OFF_PCT = limit_of("leverage_off_pct")

FIT = rule(
    "shock-fit",
    title="Shock is the frame's",
    plain=(
        "Length, stroke and mount of the rear shock must be the frame's, the sizes within {shock_off_mm} mm, or a size "
        "that the frame's manufacturer lists beside them. Inch sizes are printed rounded and count as what they "
        "measure. A longer stroke goes only with the stroke spacer of the shock's manufacturer."
    ),
    why="A shock that is too long or has too much stroke drives the frame or the tyre into the frame at full travel.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame", "shock": "shock"},
    messages={
        "fits": "Length and stroke are the frame's.",
        "listed": "Shock {shock.eye_to_eye_mm:g} × {shock.stroke_mm:g} is on the frame's list{travel}.",
        "other_length": "Shock {shock.eye_to_eye_mm:g} mm long; frame needs {frame.shock_eye_to_eye_mm:g} mm.",
        "other_mount": "Shock: {shock.mount}. Frame: {frame.shock_mount}. They are incompatible.",
        "other_stroke": "Shock stroke {shock.stroke_mm:g} mm; frame needs {frame.shock_stroke_mm:g} mm.",
    },
    figures={"travel": ("what the rear travel becomes", ""), "travel_mm": ("stroke × mean leverage", "mm")},
    sources=("maker-limits", "suspension"),
    safety=True,
)


def _is_size(shock: View, eye_mm: float | None, stroke_mm: float | None) -> tuple[bool, bool]:
    """Return whether length and stroke of a shock are those of a size; what is not read on either side is not."""
    has = true_size(shock.eye_to_eye_mm, shock.stroke_mm) if shock.eye_to_eye_mm else (None, shock.stroke_mm)
    wants = true_size(eye_mm, stroke_mm) if eye_mm else (None, stroke_mm)
    length = _alike(shock.eye_to_eye_mm, eye_mm) or _alike(has[0], wants[0])
    return length, _alike(shock.stroke_mm, stroke_mm) or _alike(has[1], wants[1])


def _alike(one: float | None, other: float | None) -> bool:
    return one is not None and other is not None and near(one, other, SIZE_OFF_MM)


def _listed(frame: View, shock: View) -> bool:
    """Whether a size that the frame's manufacturer lists besides is the shock's; of an unread stroke it may be."""
    sizes = [_is_size(shock, row["eye_to_eye_mm"], row["stroke_mm"]) for row in frame.shock_sizes or ()]
    return any(length and (stroke or shock.stroke_mm is None) for length, stroke in sizes)


@FIT.clause(
    "frame.shock_eye_to_eye_mm shock.eye_to_eye_mm",
    may="frame.shock_stroke_mm shock.stroke_mm frame.shock_sizes",
)
def length(frame: View, shock: View) -> Outcome | None:
    if _is_size(shock, frame.shock_eye_to_eye_mm, frame.shock_stroke_mm)[0] or _listed(frame, shock):
        return None
    return no_go("other_length", way_out(shock, "eye_to_eye_mm", "==", frame.shock_eye_to_eye_mm))


@FIT.clause("frame.shock_mount shock", given="shock.mount")
def mount(frame: View, shock: View) -> Outcome | None:
    if frame.shock_mount == shock.mount:
        return None
    return no_go("other_mount", way_out(shock, "mount", "==", frame.shock_mount))


@FIT.clause("shock.mount", given="frame.shock_mount")
def mount_unread(shock: View, frame: View) -> None:
    """The frame's mount is read, so the shock's must be."""


@FIT.clause(
    "frame.shock_stroke_mm shock.stroke_mm",
    may=(
        "frame.shock_eye_to_eye_mm shock.eye_to_eye_mm frame.shock_sizes frame.wheel_travel_mm "
        "frame.leverage_start frame.leverage_end"
    ),
)
def stroke(frame: View, shock: View) -> Outcome:
    length, same = _is_size(shock, frame.shock_eye_to_eye_mm, frame.shock_stroke_mm)
    if same and (length or not _listed(frame, shock)):
        return goes("fits")
    if shock.eye_to_eye_mm is not None and _listed(frame, shock):
        return goes("listed", **_travel(frame, shock))
    return no_go("other_stroke", way_out(shock, "stroke_mm", "==", frame.shock_stroke_mm))


def _travel(frame: View, shock: View) -> dict[str, Any]:
    linkage = Linkage.known(
        frame.shock_stroke_mm, frame.wheel_travel_mm, frame.leverage_start, frame.leverage_end
    )
    if linkage is None:
        return {"travel": ""}
    travel = linkage.travel_mm / linkage.stroke_mm * shock.stroke_mm
    return {"travel": f": rear travel {travel:.0f} mm", "travel_mm": travel}


MOUNT = rule(
    "shock-mount",
    title="Shock's ends are the frame's",
    plain=(
        "A trunnion shock bolts into a trunnion frame, an eyelet into an eyelet; a shaft end that takes the frame's "
        "yoke has no eye. There is no adapter between them."
    ),
    why="A shock held by the wrong end bends its shaft or tears out.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame", "shock": "shock"},
    messages={
        "same": "The shock's ends are the frame's.",
        "other_head": "The shock's head ({shock.mount}) does not bolt into this frame ({frame.shock_mount}).",
        "other_shaft": "Shaft end: {shock.shaft_end}. Frame: {frame.shock_shaft_end}. No adapter.",
    },
    sources=("suspension",),
    safety=True,
)


@MOUNT.clause(given="frame.shock_mount shock.mount")
def head(frame: View, shock: View) -> Outcome:
    """Which of the two mounts is not read `shock-fit` asks."""
    if frame.shock_mount == shock.mount:
        return goes("same")
    return no_go("other_head", way_out(shock, "mount", "==", frame.shock_mount))


@MOUNT.clause("shock.shaft_end", given="frame.shock_shaft_end")
def shaft(shock: View, frame: View) -> Outcome:
    if frame.shock_shaft_end == shock.shaft_end:
        return goes("same")
    return no_go("other_shaft", way_out(shock, "shaft_end", "==", frame.shock_shaft_end))


@MOUNT.clause("frame.shock_shaft_end shock", given="shock.shaft_end")
def shaft_unread(frame: View, shock: View) -> None:
    """The shock's shaft end is read, so the frame's must be."""


HARDWARE = rule(
    "shock-hardware",
    title="Shock's hardware fills the frame's gap",
    plain=(
        "At each eyelet end the pin must be the frame's bolt and the hardware 0 to {hardware_under_mm} mm narrower "
        "than the gap. Another width or bolt is a kit of gap × bolt × bore. An eye wider than the gap, or a bolt "
        "within {eye_wall_mm} mm of the bore, does not go. A trunnion head and a yoke have no eye."
    ),
    why="Loose hardware hammers the bush; a pin that is too thin breaks.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame", "shock": "shock"},
    messages={
        "fits": "Hardware and bolts of the shock are the frame's.",
        "kit": "{End}: another hardware kit, {gap_mm:g} × {bolt_mm:g} × {bore_mm:g} mm.",
        "too_wide": "{End}: eye {eye_mm:g} mm wide; gap {gap_mm:g} mm.",
        "no_wall": "{End}: bolt {bolt_mm:g} mm leaves no wall in an eye of {bore_mm:g} mm.",
    },
    figures={
        "End": ("which end", ""),
        "gap_mm": ("gap in the frame", "mm"),
        "bolt_mm": ("bolt of the frame", "mm"),
        "bore_mm": ("bore of the eye", "mm"),
        "eye_mm": ("width of the eye", "mm"),
    },
    sources=("suspension",),
    safety=True,
)


def _too_wide(end: str, gap: float, shock: View) -> Outcome | None:
    """Return what an eye that is wider than the frame's gap means, whatever hardware is in it."""
    if shock.eye_width_mm <= gap + SLACK:
        return None
    way = way_out(shock, "eye_width_mm", "<=", gap)
    return no_go("too_wide", way, End=f"{end} end", gap_mm=gap, eye_mm=shock.eye_width_mm)


def _no_wall(end: str, bolt: float, shock: View) -> Outcome | None:
    """Return what a bolt means that leaves the bush in the eye no wall."""
    if bolt + EYE_WALL_MM <= shock.eye_bore_mm + SLACK:
        return None
    way = way_out(shock, "eye_bore_mm", ">=", bolt + EYE_WALL_MM)
    return no_go("no_wall", way, End=f"{end} end", bolt_mm=bolt, bore_mm=shock.eye_bore_mm)


@HARDWARE.clause(given="frame.shock_head_width_mm shock.eye_width_mm", may="shock.mount")
def head_too_wide(frame: View, shock: View) -> Outcome | None:
    return None if shock.mount == "trunnion" else _too_wide("Head", frame.shock_head_width_mm, shock)


@HARDWARE.clause(given="frame.shock_head_bolt_mm shock.eye_bore_mm", may="shock.mount")
def head_no_wall(frame: View, shock: View) -> Outcome | None:
    return None if shock.mount == "trunnion" else _no_wall("Head", frame.shock_head_bolt_mm, shock)


@HARDWARE.clause(given="frame.shock_shaft_width_mm shock.eye_width_mm", may="shock.shaft_end")
def shaft_too_wide(frame: View, shock: View) -> Outcome | None:
    return None if shock.shaft_end == "yoke" else _too_wide("Shaft", frame.shock_shaft_width_mm, shock)


@HARDWARE.clause(given="frame.shock_shaft_bolt_mm shock.eye_bore_mm", may="shock.shaft_end")
def shaft_no_wall(frame: View, shock: View) -> Outcome | None:
    return None if shock.shaft_end == "yoke" else _no_wall("Shaft", frame.shock_shaft_bolt_mm, shock)


def _end(end: str, gap: float, bolt: float, width: float, pin: float, shock: View) -> Outcome:
    """Return what one eyelet end needs: frame's gap and bolt against the shock's hardware, in millimetres."""
    if near(pin, bolt, BOLT_OFF_MM) and -SLACK <= gap - width <= HARDWARE_UNDER_MM + SLACK:
        return goes("fits")
    bore = require(shock).eye_bore_mm
    require(shock, "eye_width_mm")
    kit = need("shock hardware", gap_mm=gap, bolt_mm=bolt, bore_mm=bore)
    return goes_if("kit", kit, End=f"{end} end", gap_mm=gap, bolt_mm=bolt, bore_mm=bore)


@HARDWARE.clause(
    "frame shock",
    asks=(
        "frame.shock_head_width_mm frame.shock_head_bolt_mm shock.head_width_mm shock.head_bolt_mm "
        "shock.eye_bore_mm shock.eye_width_mm"
    ),
    may="shock.mount",
)
def head_end(frame: View, shock: View) -> Outcome | None:
    read = (frame.shock_head_width_mm, frame.shock_head_bolt_mm, shock.head_width_mm, shock.head_bolt_mm)
    if shock.mount == "trunnion" or not any(read):
        return None
    gap, bolt = require(frame).shock_head_width_mm, require(frame).shock_head_bolt_mm
    return _end("Head", gap, bolt, require(shock).head_width_mm, require(shock).head_bolt_mm, shock)


@HARDWARE.clause(
    "frame shock",
    asks=(
        "frame.shock_shaft_width_mm frame.shock_shaft_bolt_mm shock.shaft_width_mm shock.shaft_bolt_mm "
        "shock.eye_bore_mm shock.eye_width_mm"
    ),
    may="shock.shaft_end",
)
def shaft_eye(frame: View, shock: View) -> Outcome | None:
    read = (frame.shock_shaft_width_mm, frame.shock_shaft_bolt_mm, shock.shaft_width_mm, shock.shaft_bolt_mm)
    if shock.shaft_end == "yoke" or not any(read):
        return None
    gap, bolt = require(frame).shock_shaft_width_mm, require(frame).shock_shaft_bolt_mm
    return _end("Shaft", gap, bolt, require(shock).shaft_width_mm, require(shock).shaft_bolt_mm, shock)


ROOM = rule(
    "shock-room",
    title="Shock has room through its stroke",
    plain=(
        "Another shock is tried before it is ridden: coil out, or both air chambers empty and the core out, then full "
        "stroke by hand. {shock_room_mm} mm must stay free round can, reservoir and hose, {tyre_room_full_mm} mm "
        "between tyre and frame. The bumper hides the last millimetres: swing the rear end to the eye-to-eye length "
        "less the stroke with the shock off."
    ),
    why="A can that strikes the frame breaks the shock or the tube, and a tyre that does stops the wheel.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame", "shock": "shock"},
    messages={
        "room": "{shock.room_mm:g} mm round the shock at full stroke.",
        "try": "Not tried at full stroke in this frame.",
        "strikes": "Only {shock.room_mm:g} mm round the shock at full stroke.",
        "tyre": "Only {frame.tyre_room_full_mm:g} mm between tyre and frame at full stroke.",
    },
    sources=("suspension",),
    safety=True,
)


@ROOM.clause("frame", given="shock.room_mm")
def strikes(frame: View, shock: View) -> Outcome | None:
    if shock.room_mm >= ROOM_MM - SLACK:
        return None
    return no_go("strikes", way_out(shock, "room_mm", ">=", ROOM_MM))


@ROOM.clause("shock", given="frame.tyre_room_full_mm")
def tyre_strikes(frame: View, shock: View) -> Outcome | None:
    if frame.tyre_room_full_mm >= TYRE_ROOM_MM - SLACK:
        return None
    return no_go("tyre", way_out(frame, "tyre_room_full_mm", ">=", TYRE_ROOM_MM))


@ROOM.clause("frame", given="shock.spring", may="shock.room_mm")
def room(frame: View, shock: View) -> Outcome:
    if shock.room_mm is None:
        return goes_if("try", need("check the shock's room at full stroke"))
    return goes("room")


SUMS = rule(
    "leverage-sums",
    title="Leverage, stroke and travel agree",
    plain=(
        "Stroke by the mean of the leverages is the rear travel, within {leverage_off_pct} %. Further off, one of the "
        "figures is wrong."
    ),
    why="Sag and spring are worked out from these figures; a wrong one leads to a wrong spring.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame"},
    messages={
        "agree": "Stroke by leverage is {travel_mm:.0f} mm of travel; stated {frame.wheel_travel_mm:g}.",
        "differ": "Stroke by leverage is {travel_mm:.0f} mm of travel, but {frame.wheel_travel_mm:g} is stated.",
    },
    figures={"travel_mm": ("stroke × mean leverage", "mm")},
    sources=("suspension",),
)


@SUMS.clause(given="frame.leverage_start frame.leverage_end frame.wheel_travel_mm frame.shock_stroke_mm")
def sums(frame: View) -> Outcome:
    travel = frame.shock_stroke_mm * (frame.leverage_start + frame.leverage_end) / 2
    if abs(travel - frame.wheel_travel_mm) <= frame.wheel_travel_mm * LEVERAGE_OFF_PCT / 100 + SLACK:
        return goes("agree", travel_mm=travel)
    asks = ("leverage_start", "leverage_end", "wheel_travel_mm", "shock_stroke_mm")
    return unmeasured("differ", *((frame, name) for name in asks), travel_mm=travel)
