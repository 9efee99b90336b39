"""What the Lines page tells: each line's need, the old line against it, what its bends cost, what to cut and get."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from attrs import frozen

from unkett.core.bike.routes import Ground, Line, line_of, routes_for
from unkett.core.build import Build
from unkett.core.calc.base import TraceLine
from unkett.core.calc.cutting import Cut, CutList
from unkett.core.calc.lines import line_drag, line_length
from unkett.core.errors import bad
from unkett.core.rules.lines import LINES, slack_most
from unkett.core.vocabulary import SLOTS

FRICTION = (("new", 0.06), ("used", 0.10), ("dirty", 0.15))
LEVER_MM = {"brake": 60.0, "shift": 45.0}  # inner inside the control
TAIL_MM = 50.0
BLEED_FREE_MM = 60.0  # a hose shortened by less may keep its fluid, where none is lost


@frozen(kw_only=True)
class LineReport:
    """A line as it runs and, with a plan, as it will: need, old length, slack, drag."""

    slot: str
    now: Line | None
    then: Line | None
    has_mm: float | None
    caliper: str | None = None

    @property
    def title(self) -> str:
        return SLOTS[self.slot].title

    @property
    def shown(self) -> Line | None:
        return self.then or self.now

    @property
    def need_mm(self) -> float | None:
        return self.shown.need_mm if self.shown else None

    @property
    def change_mm(self) -> float | None:
        """What the plan does to the need."""
        if self.now is None or self.then is None:
            return None
        return self.then.need_mm - self.now.need_mm

    @property
    def slack_mm(self) -> float | None:
        """What the old line has over the need, bar turned; negative where it is too short."""
        return None if self.has_mm is None or self.need_mm is None else self.has_mm - self.need_mm

    @property
    def says(self) -> str:
        """Whether the old line can stay."""
        slack = self.slack_mm
        if slack is None:
            return "Measure the old line when it comes off." if self.shown else ""
        if slack < 0:
            return f"A new line: the old one is {-slack:.0f} mm short with the bar turned."
        if self.shown and slack > slack_most(self.slot, route=self.shown.route, caliper=self.caliper):
            return f"Stays if it is cut {slack:.0f} mm shorter; left long it buckles."
        return f"The old line stays, with {slack:.0f} mm of slack."

    def drag(self) -> list[tuple[str, float]]:
        """Return the friction loss in its bends, in per cent, by the housing's state."""
        if self.shown is None:
            return []
        turns = self.shown.turns_deg
        return [(says, line_drag(turns_deg=turns, mu=mu).loss_pct) for says, mu in FRICTION]


def line_reports(now: Build, then: Build | None = None) -> list[LineReport]:
    """Return every line of a bike that has one or could."""
    shown = (then or now).filled()
    ground = Ground.of(now)
    ground_then = Ground.of(then) if then is not None else None
    out = []
    for slot in LINES:
        if slot not in shown:
            continue
        has = shown[slot].attrs.get("length_mm")
        planned = line_of(then, slot, ground=ground_then) if then is not None else None
        stands = line_of(now, slot, ground=ground)
        brake = shown.get(slot.replace("_brake_line", "_caliper"))
        caliper = brake.attrs.get("type") if brake is not None else None
        out.append(LineReport(slot=slot, now=stands, then=planned, has_mm=has, caliper=caliper))
    return out


def routes_of(build: Build, slot: str) -> list[Line]:
    """The line by each route it may take, the shortest first."""
    ground = Ground.of(build)
    found = [line_of(build, slot, code, ground) for code, _ in routes_for(slot, build)]
    return sorted((line for line in found if line is not None), key=lambda line: line.need_mm)


@frozen(kw_only=True)
class CutPiece:
    """A length to be cut: what, for which line, how long; `spare_mm` of it is kept for later."""

    sort: str
    slot: str
    length_mm: float
    spare_mm: float = 0.0


SORTS = {
    "brake_housing": "Brake housing, coil, 5 mm",
    "shift_housing": "Shift housing, straight strands, 4 mm",
    "hose": "Hose",
    "brake_inner": "Brake inner, stainless",
    "shift_inner": "Shift inner, stainless",
}


def pieces_of(line: Line, spare_mm: float = 0.0) -> list[CutPiece]:
    """The lengths a line is made of: housing and hose piece by piece, the inner in one."""
    sort = "brake" if line.slot.endswith("brake_line") else "shift"
    housings = [
        CutPiece(sort=piece.type, slot=line.slot, length_mm=math.ceil(piece.need_mm))
        for piece in line.pieces
        if piece.type != "bare"
    ]
    if any(piece.type == "hose" for piece in line.pieces):
        return housings
    whole = line_length(
        segments=tuple(line.segments()), lever_mm=LEVER_MM[sort], past_clamp_mm=TAIL_MM, spare_mm=spare_mm
    )
    inner = CutPiece(
        sort=f"{sort}_inner", slot=line.slot, length_mm=math.ceil(whole.inner_mm), spare_mm=spare_mm
    )
    return [*housings, inner]


def inners_from(pieces: Sequence[float], stock: Sequence[Mapping[str, float]]) -> CutList:
    """Inners from ready ones: each has one head, so that each wants a length of its own, the shortest that does.

    Raises InputError naming `pieces_mm` where there is none long enough.
    """
    left: dict[float, float] = {}
    for item in stock:  # several rows may hold one length
        length = float(item["length_mm"])
        left[length] = left.get(length, 0) + item.get("count", math.inf)
    cuts = []
    for piece in sorted(pieces, reverse=True):
        fits = [length for length, count in left.items() if length >= piece and count > 0]
        if not fits:
            raise bad("pieces_mm", f"no inner of {piece:.0f} mm or more is left")
        length = min(fits)
        left[length] -= 1
        cuts.append(Cut(stock_mm=length, pieces_mm=(piece,)))
    waste = sum(cut.stock_mm for cut in cuts) - sum(pieces)
    traced = (TraceLine("waste_mm", waste, "mm", "for each the shortest that does, less the piece"),)
    return CutList(cuts=tuple(cuts), waste_mm=waste, proven=True, bound_mm=waste, trace=traced)


def small_parts(lines: list[Line]) -> list[tuple[str, int]]:
    """Ferrules, caps, olives, ties and sleeve for these lines."""
    tally: dict[str, int] = {}

    def add(what: str, number: int) -> None:
        if number:
            tally[what] = tally.get(what, 0) + number

    for line in lines:
        kinds = [piece.type for piece in line.pieces]
        add("ferrule, metal, for brake housing", 2 * kinds.count("brake_housing"))
        add("ferrule, plastic, for shift housing", 2 * kinds.count("shift_housing"))
        hoses = kinds.count("hose")
        add("insert and olive", 2 * hoses)
        add("end cap", 0 if hoses else 1)
        add("tie", line.ties)
        add("foam sleeve against rattle", 1 if line.sleeve else 0)
    return sorted(tally.items())


def bleed_says(report_line: LineReport) -> str:
    """Return whether a hose that is changed wants a bleed; nothing for a cable."""
    line = report_line.shown
    if line is None or not any(piece.type == "hose" for piece in line.pieces):
        return ""
    slack = report_line.slack_mm
    if slack is not None and 0 <= slack <= BLEED_FREE_MM:
        return "The hose stays as it is: no bleed."
    return "A joined or changed hose: fluid lost? Then bleed. Lever firm, hold a minute before it is ridden."


def electronic_says(build: Build) -> list[str]:
    """Return what wireless and wired shifting want of the lines' holes and of the seat tube."""
    filled = build.filled()
    says = []
    derailleur = filled.get("rear_derailleur")
    actuation = derailleur.attrs.get("actuation") if derailleur else None
    if actuation == "electronic":
        says.append("Wireless: no shift lines, plug the holes where they went into the frame.")
        ways = [("rear", "rear_shift_line"), ("front", "front_shift_line")]
        for end, slot in ways:
            lines = routes_of(build, slot)
            inside = next((line for line in lines if line.sleeve), lines[0] if lines else None)
            if inside is not None and f"{end}_derailleur" in filled:
                stock = math.ceil(inside.need_mm / 50) * 50
                says.append(
                    f"Wired: {inside.need_mm:.0f} mm to the {end} derailleur, the stock length {stock} mm."
                )
        post = filled.get("seatpost")
        if post is not None and post.attrs.get("dropper_travel_mm"):  # a battery wants the seat tube
            says.append("A battery in the seat tube and a dropper post do not go together.")
    return says
