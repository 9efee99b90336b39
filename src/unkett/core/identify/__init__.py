"""What is this part? Measurements against the standards: ranked, with what is ruled out and what to measure next."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.errors import Fault, InputError, bad, listed, nearest, shown
from unkett.core.identify.subject import Measure, Subject
from unkett.core.identify.subjects import SUBJECTS, expected
from unkett.core.standards import SLACK, Row
from unkett.core.vocabulary.types import Number

__all__ = [
    "PRINT",
    "SUBJECTS",
    "TOLERANCE_MM",
    "Identified",
    "Match",
    "Measure",
    "Start",
    "Subject",
    "expected",
    "identify",
    "identify_json",
    "start_from",
]  # fmt: skip

FORMAT = "unkett.identify/1"
RULED_OUT = 3.0  # a measure this many tolerances off rules a standard out
TOLERANCE = Number(unit="mm", low=0.001, high=5.0)
TOLERANCE_MM = 0.1
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
        ranked = [
            {"code": match.code, "score": match.score, "misses": list(match.misses)} for match in self.ranked
        ]
        return {"format": FORMAT, "ranked": ranked, "next": self.next}


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
    if kind not in SUBJECTS:
        raise bad("kind", f"{shown(kind)} given; one of {listed(SUBJECTS)} allowed{nearest(kind, SUBJECTS)}")
    sort = SUBJECTS[kind]
    known = {measure.name: measure for measure in sort.measures}
    readings = _readings(measures, known)
    TOLERANCE.check(tolerance_mm, "tolerance_mm")
    matches = []
    for row in sort.rows:
        apart = {name: _apart(row, known[name], reading) for name, reading in readings.items()}
        near = {name: distance for name, distance in apart.items() if distance is not None}
        if not near:
            continue  # a row that says nothing of these measures cannot be ranked by them
        stated = {
            name: off / known[name].tolerance_for(figure, tolerance_mm)
            for name, (off, figure) in near.items()
        }
        off_by = {name: off for name, (off, _) in near.items()}
        misses = tuple(name for name, off in stated.items() if off > RULED_OUT + SLACK)
        score = sum(off**2 for off in stated.values())
        unsaid = len(readings) - len(stated)  # a row that says less fits less surely
        matches.append(
            (
                len(misses),
                unsaid,
                score,
                Match(code=row["code"], score=score, misses=misses, row=row, off=off_by),
            )
        )
    matches.sort(key=lambda match: match[:3])
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


def _next(sort: Subject, ranked: tuple[Match, ...], had: set[str]) -> str | None:
    """Return the measure not yet taken that differs most between the leading two, in tolerances.

    Where both fit and no figure parts them, a measure that only one of them has; the part's own print is the last
    resort.
    """
    if len(ranked) < 2:
        return None
    first, second = ranked[0].row, ranked[1].row
    open_ = [item for item in sort.measures if item.name not in had]
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
    if ranked[1].misses:
        return None
    one_sided = (item.name for item in open_ if bool(expected(first, item)) != bool(expected(second, item)))
    return next(one_sided, PRINT)


@frozen(kw_only=True)
class Start:
    """What one reading may be: a kind, one of its measures and the standards within reach of it."""

    sort: Subject
    measure: Measure
    matches: tuple[Match, ...]


def start_from(reading: float, tolerance_mm: float = TOLERANCE_MM) -> tuple[Start, ...]:
    """Every measure of every kind that this reading fits, best first. Raises InputError for what is no reading."""
    value = Number(unit="", low=0.0, high=3500.0).check(reading, "reading")
    starts = []
    for sort in SUBJECTS.values():
        for measure in sort.measures:
            if measure.counted or measure.yes_no:
                continue
            found = identify(kind=sort.name, measures={measure.name: value}, tolerance_mm=tolerance_mm)
            matches = tuple(match for match in found.ranked if not match.misses)
            if matches:
                starts.append(Start(sort=sort, measure=measure, matches=matches))
    return tuple(sorted(starts, key=lambda start: start.matches[0].score))


def identify_json(data: Any) -> Identified:
    """Return the same from a JSON object with kind, measures and tolerance_mm."""
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
