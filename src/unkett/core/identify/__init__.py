"""What is this part? Measurements against the standards: ranked, with what is ruled out and what to measure next."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.calc.base import SLACK
from unkett.core.calc.bracket import bcd
from unkett.core.errors import Fault, InputError, bad, listed, nearest, shown
from unkett.core.standards import Row, table
from unkett.core.vocabulary.types import Number

FORMAT = "unkett.identify/1"
RULED_OUT = 3.0  # a measure this many tolerances off rules a standard out
COUNT_TOLERANCE = 0.25
TOLERANCE = Number(unit="mm", low=0.001, high=5.0)
TOLERANCE_MM = 0.1


@frozen(kw_only=True)
class Measure:
    """One thing that can be measured: how, and which column of the table holds it."""

    name: str
    title: str
    how: str
    column: str
    counted: bool = False
    yes_no: bool = False  # 1 for yes, 0 for no
    within: str = ""  # a column of [low, high] that stands in where a row has it: 0 off inside
    tolerance: float | None = None  # its own, in its unit
    share: float | None = None  # its own, as a part of the standard's figure

    def tolerance_for(self, value: float, tolerance_mm: float) -> float:
        """How far a reading may lie from a standard's figure to be one tolerance off."""
        if self.counted or self.yes_no:
            return COUNT_TOLERANCE
        if self.share is not None:
            return self.share * value
        return tolerance_mm if self.tolerance is None else self.tolerance


@frozen
class Put:
    """Where an answer goes: a slot, and for each attribute the column of the standard's row that it takes."""

    slot: str
    takes: Mapping[str, str]

    def values(self, row: Row) -> dict[str, Any]:
        """The attributes that this row gives; what it says nothing of is left out."""
        found = {attr: row.get(column) for attr, column in self.takes.items()}
        return {attr: value for attr, value in found.items() if value is not None}


def _code(slot: str, attr: str) -> Put:
    return Put(slot, {attr: "code"})


@frozen(kw_only=True)
class Sort:
    """A kind of thing to identify: its table, its measures and where the answer goes on a bike."""

    name: str
    title: str
    table: str
    measures: tuple[Measure, ...]
    puts: tuple[Put, ...]

    @property
    def rows(self) -> tuple[Row, ...]:
        return table(self.table).rows


PITCH_TOLERANCE_MM = 0.02
RATIO_SHARE = 0.03


def _measure(name: str, title: str, how: str, column: str = "", **more: Any) -> Measure:
    return Measure(name=name, title=title, how=how, column=column or name, **more)


def _pitch(how: str) -> Measure:
    return _measure("pitch_mm", "Thread pitch", how, tolerance=PITCH_TOLERANCE_MM)


NOTCH = _measure(
    "notch_turns",
    "Does the notch turn?",
    "Turn the sprockets backwards: the remover's notches turn with a cassette and stand still in a screw-on freewheel.",
    yes_no=True,
)


SORTS: dict[str, Sort] = {
    sort.name: sort
    for sort in (
        Sort(
            name="bb_shell",
            title="Bracket shell",
            table="bracket_shells",
            measures=(
                _measure(
                    "bore_mm",
                    "Bore",
                    "Inside caliper in the bare shell; on the crests where there is a thread.",
                    within="crest_mm",
                ),
                _measure("width_mm", "Width", "Face to face, cups out.", "widths_mm"),
                _pitch("Thread gauge in the shell; 24 to the inch is 1.058."),
                _measure(
                    "left_hand",
                    "Drive side left-hand?",
                    "Which way the drive cup came out: clockwise is left-hand.",
                    yes_no=True,
                ),
            ),
            puts=(_code("frame", "bb_shell"),),
        ),
        Sort(
            name="spindle",
            title="Spindle",
            table="spindles",
            measures=(
                _measure("diameter_mm", "Diameter", "Caliper on the spindle between the bearings."),
                _measure("splines", "Splines", "Count them; 0 for smooth or square.", counted=True),
                _measure("flat_mm", "Across the flats at the end", "Caliper over the square's end."),
                _measure(
                    "other_end_mm", "Diameter at the other end", "Caliper on the left end: some are stepped."
                ),
            ),
            puts=(
                _code("crank", "spindle"),
                _code("bottom_bracket", "spindle"),
            ),
        ),
        Sort(
            name="headset_bore",
            title="Headset bore",
            table="headset_bores",
            measures=(
                _measure("bore_mm", "Bore", "Inside caliper in the head tube, twice at right angles."),
            ),
            puts=(
                _code("frame", "headset_upper"),
                _code("frame", "headset_lower"),
            ),
        ),
        Sort(
            name="steerer",
            title="Steerer and crown race",
            table="steerers",
            measures=(
                _measure("steerer_mm", "Steerer at the stem", "Caliper on the tube."),
                _measure("race_mm", "Crown race seat", "Caliper on the seat above the crown."),
            ),
            puts=(Put("fork", {"steerer_upper_mm": "steerer_mm", "crown_race_mm": "race_mm"}),),
        ),
        Sort(
            name="axle",
            title="Axle and spacing",
            table="axles",
            measures=(
                _measure("dia_mm", "Axle diameter", "Caliper on the axle end."),
                _measure("spacing_mm", "Spacing", "Locknut face to locknut face."),
            ),
            puts=(
                *(
                    Put(
                        f"{end}_hub",
                        {"axle_kind": "axle_kind", "axle_dia_mm": "dia_mm", "spacing_mm": "spacing_mm"},
                    )
                    for end in ("front", "rear")
                ),
                Put("fork", {"axle_kind": "axle_kind", "axle_dia_mm": "dia_mm", "spacing_mm": "spacing_mm"}),
                Put(
                    "frame",
                    {
                        "rear_axle_kind": "axle_kind",
                        "rear_axle_dia_mm": "dia_mm",
                        "rear_spacing_mm": "spacing_mm",
                    },
                ),
            ),
        ),
        Sort(
            name="freehub",
            title="Freehub body",
            table="freehub_shapes",
            measures=(
                NOTCH,
                _measure("splines", "Splines", "Count them.", counted=True),
                _measure("length_mm", "Usable length", "From the stop to the lockring thread's end."),
                _measure("diameter_mm", "Outside diameter", "Over the splines."),
                _measure(
                    "stepped",
                    "Stepped, with a thread inside?",
                    "Look at the inner end of the body.",
                    yes_no=True,
                ),
                _measure("sprockets", "Sprockets it carried", "Count them.", counted=True),
                _measure(
                    "loose",
                    "Does a short cassette stand loose?",
                    "Held by its lockring without a 1.85 mm spacer, can it be shaken?",
                    yes_no=True,
                ),
            ),
            puts=(_code("rear_hub", "freehub"),),
        ),
        Sort(
            name="freewheel_thread",
            title="Freewheel thread",
            table="freewheel_threads",
            measures=(
                NOTCH,
                _measure("diameter_mm", "Thread diameter", "Caliper over the thread."),
                _pitch("Thread gauge; 24 to the inch is 1.058."),
                _measure(
                    "lockring_step",
                    "A smaller step for a lockring?",
                    "Look beside the thread: a second thread, smaller, left-hand.",
                    yes_no=True,
                ),
            ),
            puts=(Put("rear_hub", {"freehub": "freehub"}),),
        ),
        Sort(
            name="axle_thread",
            title="Axle thread",
            table="axle_threads",
            measures=(
                _measure("diameter_mm", "Thread diameter", "Caliper over the thread."),
                _pitch("Thread gauge; 26 to the inch is 0.977."),
            ),
            puts=(),
        ),
        Sort(
            name="spoke",
            title="Spoke",
            table="spoke_gauges",
            measures=(
                _measure("diameter_mm", "Wire", "Caliper near the head.", tolerance=0.05),
                _measure("bent", "Bent at the head?", "Look: a bend, or straight to the head.", yes_no=True),
            ),
            puts=tuple(
                Put(f"{end}_spokes", {"gauge_mm": "gauge_mm", "head": "head"}) for end in ("front", "rear")
            ),
        ),
        Sort(
            name="hose",
            title="Hose or housing",
            table="hoses",
            measures=(
                _measure("diameter_mm", "Outside diameter", "Caliper on the outside, not squeezed."),
                _measure(
                    "coiled",
                    "Wound of wire?",
                    "Look at a cut end: a coil, wires along it, or plain.",
                    yes_no=True,
                ),
            ),
            puts=tuple(Put(f"{end}_brake_line", {"type": "type"}) for end in ("front", "rear")),
        ),
        Sort(
            name="fluid",
            title="Brake fluid",
            table="fluids",
            measures=(
                _measure(
                    "says_mineral",
                    "Does the lever say mineral oil?",
                    "Read the lever and its cap; never by taste.",
                    yes_no=True,
                ),
                _measure(
                    "says_glycol",
                    "Does it name a glycol fluid?",
                    "Read the lever and its cap: a class of glycol fluid.",
                    yes_no=True,
                ),
            ),
            puts=tuple(
                _code(f"{end}_{part}", "fluid")
                for end in ("front", "rear")
                for part in ("brake_lever", "caliper", "brake_line")
            ),
        ),
        Sort(
            name="ring_bolt_circle",
            title="Ring bolt circle",
            table="ring_mounts",
            measures=(
                _measure("bcd_mm", "Bolt circle", "Across, where the bolts lie opposite."),
                _measure("neighbour_mm", "Neighbouring bolts", "Centre to centre of two neighbours."),
                _measure("bolts", "Bolts", "Count them.", counted=True),
            ),
            puts=(
                _code("crank", "ring_mount"),
                _code("chainrings", "mount"),
            ),
        ),
        Sort(
            name="seatpost",
            title="Seatpost",
            table="seatposts",
            measures=(_measure("diameter_mm", "Diameter", "Caliper on the post, twice at right angles."),),
            puts=(
                Put("seatpost", {"diameter_mm": "diameter_mm"}),
                Put("frame", {"seat_tube_bore_mm": "diameter_mm"}),
            ),
        ),
        Sort(
            name="bar_clamp",
            title="Bar clamp",
            table="bar_clamps",
            measures=(_measure("diameter_mm", "Diameter", "Caliper in the middle of the bar."),),
            puts=(
                Put("handlebar", {"clamp_mm": "diameter_mm"}),
                Put("stem", {"bar_clamp_mm": "diameter_mm"}),
            ),
        ),
        Sort(
            name="rim_size",
            title="Rim size",
            table="rim_sizes",
            measures=(
                _measure(
                    "bsd_mm", "Bead seat diameter", "Printed on the tyre, or tape round the bead seat ÷ π."
                ),
            ),
            puts=tuple(
                Put(slot, {"bsd_mm": "bsd_mm"})
                for slot in ("front_rim", "rear_rim", "front_tyre", "rear_tyre")
            ),
        ),
        Sort(
            name="brake_mount",
            title="Brake mount",
            table="brake_mounts",
            measures=(_measure("spacing_mm", "Bolt spacing", "Centre to centre of the two bolt holes."),),
            puts=(
                _code("fork", "brake_mount"),
                _code("frame", "rear_brake_mount"),
            ),
        ),
        Sort(
            name="chain",
            title="Chain",
            table="chains",
            measures=(
                _measure("outer_width_mm", "Outer width", "Caliper over the pin ends.", "outer_mm"),
                _measure(
                    "inner_width_mm", "Inner width", "Inside caliper between the inner plates.", "inner_mm"
                ),
            ),
            puts=(Put("chain", {"speeds": "speeds"}),),
        ),
        Sort(
            name="sprocket_pitch",
            title="Sprocket pitch",
            table="sprocket_pitches",
            measures=(
                _measure("pitch_mm", "Pitch", "Stack from first to last sprocket ÷ gaps."),
                _measure("speeds", "Sprockets", "Count them.", counted=True),
            ),
            puts=(Put("cassette", {"speeds": "speeds", "sprocket_pitch_mm": "pitch_mm"}),),
        ),
        Sort(
            name="pull_per_click",
            title="Pull per click",
            table="pull_families",
            measures=(
                _measure("pull_mm", "Pull per click", "Ruler on the cable over several clicks ÷ clicks."),
                _measure("speeds", "Positions", "Count the clicks and add one.", counted=True),
            ),
            puts=(Put("rear_shifter", {"pull_per_click_mm": "pull_mm", "speeds": "speeds"}),),
        ),
        Sort(
            name="shift_ratio",
            title="Shift ratio",
            table="pull_families",
            measures=(
                _measure(
                    "ratio",
                    "Shift ratio",
                    "Sideways travel of the upper pulley ÷ cable pulled.",
                    share=RATIO_SHARE,
                ),
                _measure("speeds", "Speeds", "Printed on the derailleur.", counted=True),
            ),
            puts=(Put("rear_derailleur", {"shift_ratio": "ratio"}),),
        ),
        Sort(
            name="rotor",
            title="Rotor",
            table="rotor_sizes",
            measures=(_measure("diameter_mm", "Diameter", "Across the rotor."),),
            puts=(
                Put("front_rotor", {"diameter_mm": "diameter_mm"}),
                Put("rear_rotor", {"diameter_mm": "diameter_mm"}),
            ),
        ),
    )
}


PRINT = "print"  # what is printed on the part, or on what it came off


@frozen(kw_only=True)
class Match:
    """How well one standard fits: the sum of squared deviations over tolerance, and what rules it out."""

    code: str
    score: float
    misses: tuple[str, ...]
    row: Row
    off: Mapping[str, float]  # how far each reading lies from this standard, in its unit


@frozen(kw_only=True)
class Identified:
    """Ranked standards, best first, and the one measure that best tells the leading two apart."""

    ranked: tuple[Match, ...]
    next: str | None

    def to_json(self) -> dict[str, Any]:
        ranked = [{"code": one.code, "score": one.score, "misses": list(one.misses)} for one in self.ranked]
        return {"format": FORMAT, "ranked": ranked, "next": self.next}


def expected(row: Row, measure: Measure) -> tuple[float, ...]:
    """What a row says of a measure: one value, several (widths), or nothing."""
    if measure.name == "neighbour_mm":
        return (row["bcd_mm"] / bcd(neighbour_mm=1.0, bolts=row["bolts"]).bcd_mm,)
    value = row.get(measure.within) if measure.within else None
    if value is None:
        value = row.get(measure.column)
    if value is None:
        return ()
    return tuple(value) if isinstance(value, list) else (value,)


def _apart(row: Row, measure: Measure, reading: float) -> tuple[float, float] | None:
    """How far a reading lies from a standard, and the figure it is nearest to; None where the row says nothing."""
    values = expected(row, measure)
    if not values:
        return None
    if measure.within and measure.within in row:
        low, high = values
        return max(low - reading, reading - high, 0.0), low
    return min((abs(reading - value), value) for value in values)


def identify(*, kind: str, measures: Mapping[str, float], tolerance_mm: float = TOLERANCE_MM) -> Identified:
    """Rank a kind's standards against readings. Standards that a reading rules out come last, each with its misses.

    Raises InputError for an unknown kind or measure, a reading that is no number from 0 to 3500, or none at all.
    """
    if kind not in SORTS:
        raise bad("kind", f"{shown(kind)} given; one of {listed(SORTS)} allowed{nearest(kind, SORTS)}")
    sort = SORTS[kind]
    known = {one.name: one for one in sort.measures}
    readings = _readings(measures, known)
    TOLERANCE.check(tolerance_mm, "tolerance_mm")
    matches = []
    for row in sort.rows:
        apart = {name: _apart(row, known[name], reading) for name, reading in readings.items()}
        near = {name: one for name, one in apart.items() if one is not None}
        if not near:
            continue  # a row that says nothing of these measures cannot be ranked by them
        told = {
            name: off / known[name].tolerance_for(figure, tolerance_mm)
            for name, (off, figure) in near.items()
        }
        off_by = {name: off for name, (off, _) in near.items()}
        misses = tuple(name for name, off in told.items() if off > RULED_OUT + SLACK)
        score = sum(off**2 for off in told.values())
        unsaid = len(readings) - len(told)  # a row that says less fits less surely
        matches.append(
            (
                len(misses),
                unsaid,
                score,
                Match(code=row["code"], score=score, misses=misses, row=row, off=off_by),
            )
        )
    matches.sort(key=lambda one: one[:3])
    ranked = tuple(match for _, _, _, match in matches)
    return Identified(ranked=ranked, next=_next(sort, ranked, set(readings)))


def _readings(measures: Any, known: Mapping[str, Measure]) -> dict[str, float]:
    if not isinstance(measures, Mapping):
        raise bad("measures", f"{shown(measures)} given; an object of readings allowed")
    faults = []
    readings: dict[str, float] = {}
    for name, value in measures.items():
        if name not in known:
            says = f"unknown; {listed(known)} allowed{nearest(name, known)}"
            faults.append(Fault(path=f"measures.{name}", says=says))
            continue
        if value is None:
            continue
        try:
            answer = int(value) if isinstance(value, bool) and known[name].yes_no else value
            readings[name] = Number(unit="", low=0.0, high=3500.0).check(answer, f"measures.{name}")
        except InputError as error:
            faults.extend(error.faults)
    if faults:
        raise InputError(faults)
    if not readings:
        raise bad("measures", f"nothing measured; {listed(known)} allowed")
    return readings


def _next(sort: Sort, ranked: tuple[Match, ...], had: set[str]) -> str | None:
    """The measure not yet taken that differs most between the leading two, in tolerances.

    Where they tie and no figure parts them, a measure that only one of them has; the part's own print is the last
    resort of those who tie in everything.
    """
    if len(ranked) < 2:
        return None
    first, second = ranked[0].row, ranked[1].row
    open_ = [one for one in sort.measures if one.name not in had]
    best: tuple[float, str] | None = None
    for measure in open_:
        a, b = expected(first, measure), expected(second, measure)
        if not a or not b:
            continue
        apart = min(abs(x - y) / measure.tolerance_for(max(x, y), TOLERANCE_MM) for x in a for y in b)
        if apart > 1 and (best is None or apart > best[0]):
            best = apart, measure.name
    if best is not None:
        return best[1]
    if ranked[1].misses or ranked[0].score < ranked[1].score - SLACK:
        return None
    one_sided = (one.name for one in open_ if bool(expected(first, one)) != bool(expected(second, one)))
    return next(one_sided, PRINT)


@frozen(kw_only=True)
class Start:
    """What one reading may be: a kind, one of its measures and the standards within reach of it."""

    sort: Sort
    measure: Measure
    matches: tuple[Match, ...]


def start_from(reading: float, tolerance_mm: float = TOLERANCE_MM) -> tuple[Start, ...]:
    """Every measure of every kind that this reading fits, best first. Raises InputError for what is no reading."""
    value = Number(unit="", low=0.0, high=3500.0).check(reading, "reading")
    starts = []
    for sort in SORTS.values():
        for measure in sort.measures:
            if measure.counted or measure.yes_no:
                continue
            found = identify(kind=sort.name, measures={measure.name: value}, tolerance_mm=tolerance_mm)
            matches = tuple(match for match in found.ranked if not match.misses)
            if matches:
                starts.append(Start(sort=sort, measure=measure, matches=matches))
    return tuple(sorted(starts, key=lambda one: one.matches[0].score))


def identify_json(data: Any) -> Identified:
    """The same from a JSON object with kind, measures and tolerance_mm."""
    if not isinstance(data, Mapping):
        raise bad("", f"{shown(data)} given; an object with kind and measures allowed")
    allowed = ("kind", "measures", "tolerance_mm")
    for key in data:
        if key not in allowed and not str(key).startswith("x_"):
            raise bad(str(key), f"unknown; {listed(allowed)} allowed{nearest(key, allowed)}")
    for key in ("kind", "measures"):
        if data.get(key) is None:
            raise bad(key, "missing")
    tolerance = data.get("tolerance_mm")
    kind = data["kind"] if isinstance(data["kind"], str) else str(data["kind"])
    return identify(
        kind=kind, measures=data["measures"], tolerance_mm=TOLERANCE_MM if tolerance is None else tolerance
    )
