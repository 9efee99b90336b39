"""How lines run on a bike: the places a route names, and the path of each piece between them, in millimetres.

Forward, up and to the drive side, from the bracket. A place that turns with the bar is laid for every angle of it; the
length a piece needs is the longest of the shortest paths. Every place may be put elsewhere by the line's own points.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from attrs import evolve, frozen

from unkett.core.bike.curves import BAR_TURN_DEG, LEAST_MM, RADIUS_MM, USED_MU, Curve, Spot, shortest_curve
from unkett.core.bike.facts import Facts
from unkett.core.bike.skeleton import Skeleton, skeleton
from unkett.core.build import Build
from unkett.core.calc.lines import Vector, between, line_drag, unit
from unkett.core.rules.lines import LINES
from unkett.core.standards import lookup, table

LAID_ON = frozenset(
    {
        *LINES, "frame", "fork", "headset", "spacers", "stem", "handlebar", "front_rim", "rear_rim", "front_tyre",
        "rear_tyre", "saddle", "seatpost", "shock",
    }
)  # fmt: skip


@frozen(kw_only=True)
class Piece:
    """A piece of a line: what it is, from where to where, as drawn and as the turned bar wants it."""

    type: str
    start: str
    end: str
    curve: Curve
    need_mm: float

    @property
    def length_mm(self) -> float:
        return self.curve.length_mm

    @property
    def tight(self) -> list[tuple[Vector, float]]:
        """Bends tighter than the piece bears: the corner and its radius."""
        least = LEAST_MM[self.type]
        bends = zip(self.curve.points[1:-1], self.curve.radii, self.curve.turns, strict=True)
        return [(at, radius) for at, radius, turn in bends if radius < least and turn > math.radians(20)]


@frozen(kw_only=True)
class Line:
    """A line of a bike as it runs: its pieces, its guides, what had to be assumed."""

    slot: str
    route: str
    pieces: tuple[Piece, ...]
    spots: tuple[Spot, ...]
    guessed: bool
    ties: int = 0
    sleeve: bool = False
    growth_mm: float = 0.0

    @property
    def title(self) -> str:
        return str(lookup("routes", "code")[self.route]["title"])

    @property
    def need_mm(self) -> float:
        """From control to component, bar turned fully both ways, suspension at its longest."""
        return sum(piece.need_mm for piece in self.pieces) + self.growth_mm

    @property
    def turns_deg(self) -> tuple[float, ...]:
        """Every bend of the housing or hose, bar straight."""
        return tuple(
            round(turn, 1)
            for piece in self.pieces
            if piece.type != "bare"
            for turn in piece.curve.turns_deg
            if turn >= 0.5
        )

    @property
    def loss_pct(self) -> float:
        """The friction loss in its bends, in per cent, with used housing."""
        return line_drag(turns_deg=self.turns_deg, mu=USED_MU).loss_pct

    @property
    def radius_min_mm(self) -> float | None:
        """The tightest bend of the housing or hose."""
        bends = [
            radius
            for piece in self.pieces
            if piece.type != "bare"
            for radius, turn in zip(piece.curve.radii, piece.curve.turns_deg, strict=True)
            if turn >= 20
        ]
        return min(bends, default=None)

    def segments(self) -> list[dict[str, Any]]:
        """Its pieces as `line_length` takes them."""
        return [{"type": piece.type, "length_mm": piece.need_mm} for piece in self.pieces]


def routes_for(slot: str, build: Build | None = None) -> list[tuple[str, str]]:
    """The routes that a line may take, code and title; on a bike a brake's line leads to the brake that is there."""
    at_brake = build is not None and slot.endswith("_brake_line")
    caliper = build.filled().get(slot.replace("_brake_line", "_caliper")) if build and at_brake else None
    there = caliper.attrs.get("type") if caliper else None
    return [
        (row["code"], row["title"])
        for row in table("routes").rows
        if slot in row["fits"] and (there is None or there in row.get("brakes", (there,)))
    ]


@frozen(kw_only=True)
class Ground:
    """What every line of a bike is laid on, worked out once."""

    bones: Skeleton
    facts: Facts

    @classmethod
    def of(cls, build: Build) -> Ground:
        return cls(bones=skeleton(build), facts=Facts(build))


def line_of(build: Build, slot: str, route: str = "", ground: Ground | None = None) -> Line | None:
    """Return a line as it runs on a bike; with a route, as it would run that way. None where no route is known."""
    part = build.filled().get(slot)
    attrs: Mapping[str, Any] = part.attrs if part else {}
    code = route or attrs.get("route") or ""
    row = lookup("routes", "code").get(code)
    if row is None or slot not in row["fits"]:
        return None
    ground = ground or Ground.of(build)
    bones, facts = ground.bones, ground.facts
    places = _places(bones, facts, slot)
    own = {item["point"]: item for item in attrs.get("points_mm") or ()}
    groups: list[tuple[str, list[Spot]]] = []
    held: list[Spot] = []
    spots: list[Spot] = []
    for word in _way(row["way"], facts, slot):
        name, _, by = word.partition(":")
        spot = places[name]
        if name in own:
            moved = own[name]
            at = (moved["forward_mm"], moved["up_mm"], moved["right_mm"])
            spot = evolve(spot, at=at, own=True)
        spots.append(spot)
        held.append(spot)
        if by:
            groups.append((by, held))
            held = [spot]
    axis = (
        (*bones["head_bottom"], 0.0),
        unit(between((*bones["head_bottom"], 0.0), (*bones["head_top"], 0.0))),
    )
    pieces = tuple(_piece(slot, by, through, axis) for by, through in groups)
    growth = facts.get("frame", "chain_growth_mm") or 0.0
    return Line(
        slot=slot,
        route=code,
        pieces=pieces,
        spots=tuple(spots),
        guessed=bones.guesses("frame", "fork", "headset", "stem", "handlebar"),
        ties=row.get("ties", 0),
        sleeve=row.get("sleeve", False),
        growth_mm=growth if slot.startswith("rear") else 0.0,
    )


def _way(way: Sequence[str], facts: Facts, slot: str) -> list[str]:
    """The places of a route in order; a control in the bar's end leads the line along the bar to where the hoods sit,
    and one on the down tube wants nothing before the tube's stop.
    """
    place = _control_place(facts, slot)
    if place == "bar_end":
        return ["bar_end", *way]
    if place == "down_tube":
        stops = [n for n, word in enumerate(way) if word.startswith("down_tube_stop")]
        if stops:
            return [way[stops[0]].partition(":")[0], *way[stops[0] + 1 :]]
    return list(way)


def _control_place(facts: Facts, slot: str) -> str | None:
    """Return where the control of a line sits, where that is read; None for one on the bar."""
    control = slot.replace("_brake_line", "_brake_lever").replace("_shift_line", "_shifter")
    place = facts.get(control, "place") if control.endswith("_shifter") else None
    if control != slot and place is None and facts.get(control, "bar_end"):
        return "bar_end"
    return None if place is None else str(place)


def lines_of(build: Build) -> list[Line]:
    """Return every line of a bike whose route is known, in the order of the work."""
    ground = Ground.of(build)
    found = (line_of(build, slot, ground=ground) for slot in LINES)
    return [line for line in found if line is not None]


def _piece(slot: str, by: str, through: Sequence[Spot], axis: tuple[Vector, Vector]) -> Piece:
    kind = by
    if by == "housing":
        kind = "brake_housing" if slot.endswith("brake_line") else "shift_housing"

    def laid(angle: float) -> Curve:
        turned = [spot.turned(axis, angle) for spot in through]
        return shortest_curve([spot.at for spot in turned], turned[0].way, turned[-1].way, RADIUS_MM[kind])

    moves = len({spot.turns for spot in through}) > 1
    straight = laid(0)
    need = straight.length_mm
    if moves:
        need = max(need, *(laid(angle).length_mm for angle in BAR_TURN_DEG))
    return Piece(type=kind, start=through[0].name, end=through[-1].name, curve=straight, need_mm=need)


SIDE_OF = {
    "front_brake_line": "left",
    "rear_brake_line": "right",
    "rear_shift_line": "right",
    "front_shift_line": "left",
    "dropper_line": "left",
}
DEFAULT_BAR_MM = {"drop": 420.0, "bullhorn": 420.0}
DEFAULT_REACH_MM = 80.0
DEFAULT_DROP_MM = 125.0
BAR_END_MM = 60.0  # a bullhorn's end before the hoods


def _hand(facts: Facts, slot: str) -> float:
    """+1 where the control is on the drive side, −1 on the other."""
    side = SIDE_OF[slot]
    if slot.endswith("brake_line"):
        end = slot.split("_")[0]
        side = facts.get("bike", f"{end}_hand") or side
    return 1.0 if side == "right" else -1.0


def _places(bones: Skeleton, facts: Facts, slot: str) -> dict[str, Spot]:
    """Return every place that a route may name, for a line of this slot."""
    out: dict[str, Spot] = {}

    def put(
        name: str,
        at: tuple[float, float],
        side: float,
        way: Sequence[float] | None = None,
        turns: bool = False,
    ) -> None:
        towards = None if way is None else unit((float(way[0]), float(way[1]), float(way[2])))
        out[name] = Spot(name=name, at=(at[0], at[1], side), way=towards, turns=turns)

    hand = _hand(facts, slot)
    _cockpit(put, bones, facts, hand)
    _frame(put, bones, hand)
    _ends(put, bones)
    return out


Put = Any


def _cockpit(put: Put, bones: Skeleton, facts: Facts, hand: float) -> None:
    bar, shape = bones["bar"], facts.get("handlebar", "shape") or "flat"
    half = (facts.get("handlebar", "width_mm") or DEFAULT_BAR_MM.get(shape, 700.0)) / 2
    if shape in ("drop", "bullhorn", "base_bar"):
        reach = facts.get("handlebar", "reach_mm") or DEFAULT_REACH_MM
        drop = facts.get("handlebar", "drop_mm") or DEFAULT_DROP_MM
        along_bar = facts.get("handlebar", "shape") == "drop"
        put("lever", (bar[0] + reach, bar[1] - 8), hand * half, (-1.0, 0.1, -0.1 * hand), True)
        end = (bar[0] + reach, bar[1] - 8 - drop) if along_bar else (bar[0] + reach + BAR_END_MM, bar[1] - 8)
        put("bar_end", end, hand * half, None, True)
        put("bar_exit", (bar[0] + 12, bar[1] - 4), hand * 60.0, None, True)
    else:
        put("lever", (bar[0] + 6, bar[1] - 8), hand * max(half - 140.0, 60.0), (0.45, 0.0, -0.9 * hand), True)
        put("bar_exit", (bar[0] + 60, bar[1] - 10), hand * max(half - 260.0, 50.0), None, True)
        put("bar_end", (bar[0], bar[1]), hand * half, None, True)
    put("bar_middle", (bar[0], bar[1]), hand * 20.0, None, True)
    put("headset_entry", bones["headset_top"], 0.0, None, True)


def _frame(put: Put, bones: Skeleton, hand: float) -> None:
    """Stops and guides of the frame; a line from one hand runs on that hand's side of the head tube."""

    def share(a: tuple[float, float], b: tuple[float, float], part: float) -> tuple[float, float]:
        return (a[0] + (b[0] - a[0]) * part, a[1] + (b[1] - a[1]) * part)

    top, bottom, bracket = bones["head_top"], bones["head_bottom"], bones["bracket"]
    upper, lower, collar, axle = (
        share(top, bottom, 0.2),
        share(top, bottom, 0.8),
        bones["collar"],
        bones["rear_axle"],
    )
    down = (bracket[0] - lower[0], bracket[1] - lower[1], 0.0)
    over = (collar[0] - upper[0], collar[1] - upper[1], 0.0)
    stay = (axle[0] - bracket[0], axle[1] - bracket[1], 0.0)
    put("head_front", (share(top, bottom, 0.5)[0] + 45, share(top, bottom, 0.5)[1]), 0.0)
    put("down_tube_stop", share(lower, bracket, 0.16), hand * 20.0, down)
    put("down_tube_stop_far", share(lower, bracket, 0.16), -hand * 20.0, down)
    put("down_tube_top", share(lower, bracket, 0.14), hand * 20.0)
    put("down_tube_top_left", share(lower, bracket, 0.14), -20.0)
    put("under_bracket", (bracket[0], bracket[1] - 28), 8.0)
    put("inside_bracket", (bracket[0] + 10, bracket[1] + 12), 0.0)
    put("inside_head", share(top, bottom, 0.6), 0.0)
    put("frame_entry", share(lower, bracket, 0.12), hand * 18.0, down)
    put("top_tube_front", share(upper, collar, 0.16), 0.0, over)
    put("top_tube_rear", share(upper, collar, 0.84), 0.0, over)
    put("top_tube_middle", share(upper, collar, 0.6), 0.0, over)
    put("stay_stop", share(bracket, axle, 0.72), 55.0, stay)
    put("stay_end", share(bracket, axle, 0.82), 58.0)
    put("seat_stay_end", share(collar, axle, 0.8), 55.0)


def _ends(put: Put, bones: Skeleton) -> None:
    axle, collar, crown, front = bones["rear_axle"], bones["collar"], bones["crown"], bones["front_axle"]
    bracket = bones["bracket"]
    put("derailleur", (axle[0] - 18, axle[1] - 62), 72.0, (0.95, 0.3, 0.0))
    put("front_derailleur", (bracket[0] - 20, bracket[1] + 110), 40.0, (0.0, 1.0, 0.0))
    above = unit((collar[0] - axle[0], collar[1] - axle[1], 0.0))
    rim = bones.rear_bsd_mm / 2 + 60
    put("rear_rim_caliper", (axle[0] + above[0] * rim, axle[1] + above[1] * rim), -25.0, (-0.5, -0.85, 0.0))
    put("rear_hanger", (collar[0] - 10, collar[1] - 20), 0.0, (-0.3, -0.95, 0.0))
    put("rear_disc", (axle[0] + 60, axle[1] + 40), -58.0, (-1.0, 0.2, 0.0))
    put("front_rim_caliper", (crown[0] + 40, crown[1] + 30), 25.0, (0.0, -1.0, 0.0), True)
    put("front_hanger", (bones["head_top"][0] + 40, bones["head_top"][1] + 10), 0.0, (0.0, -1.0, 0.0), True)
    leg = (front[0] - crown[0], front[1] - crown[1])
    own = (
        "wheel_head_top" not in bones.points
    )  # the fork turns with the bar, not under a head tube of its own
    put("fork_crown", (crown[0] - 12, crown[1] - 20), -38.0, None, own)
    put("front_disc", (front[0] - leg[0] * 0.2 - 24, front[1] - leg[1] * 0.2), -52.0, (*leg, 0.0), own)
    foot = bones.points.get("column_foot", bones["head_bottom"])
    put("load_foot", (foot[0], foot[1] - 30), -20.0)
    nose = bones.points.get("wheel_head_top", crown)
    put("load_nose", (nose[0] - 40, nose[1] - 60), -20.0)
    seat = unit((collar[0] - bracket[0], collar[1] - bracket[1], 0.0))
    deep = max(60.0, math.dist(collar, bracket) - 240.0)
    put("post_foot", (bracket[0] + seat[0] * deep, bracket[1] + seat[1] * deep), 0.0, seat)
    put("post_head", (collar[0] - 20, collar[1] + 10), 0.0, (0.0, 1.0, 0.0))


def figures_of(line: Line) -> dict[str, Any]:
    """Return what a part keeps of its path: the rules read it; what is typed of it wins."""
    out: dict[str, Any] = {"route": line.route, "need_mm": round(line.need_mm, 1)}
    if line.turns_deg:
        out["turns_deg"] = list(line.turns_deg)
    if line.radius_min_mm is not None:
        out["radius_min_mm"] = round(line.radius_min_mm, 1)
    return out
