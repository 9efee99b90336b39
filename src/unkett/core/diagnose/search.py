"""The search: causes by share, and the checks in the order of what they are worth. Pure: same question, same answer.

Shares are by practice and by what checks have said, never proof: a cause holds only where something shows it. The
figures of the model are rows of the table `complaint_model`.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.diagnose.asked import Answer, Asked, Complained
from unkett.core.diagnose.proof import Certain, Proof, Why
from unkett.core.diagnose.tables import ENDS, NO_WORD, Cause, Check, Complaint, Tables
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import SLACK

FORMAT = "unkett.causes/1"
LIKELY, POSSIBLE = 0.25, 0.05
PLACES = 9  # decimals that an order is made by
LOOKING, FOUND, NOT_FOUND = "looking", "found", "not_found"


def word_of(share: float) -> str:
    """Return a share in a word: likely from 0.25, possible from 0.05, else unlikely."""
    return "likely" if share >= LIKELY else "possible" if share >= POSSIBLE else "unlikely"


@frozen(kw_only=True)
class Suspect:
    """A cause of a run: `holds` where it is certain to be there, else its share of what is left."""

    cause: Cause
    end: str | None
    holds: bool
    share: float | None
    why: tuple[Why, ...]

    @property
    def slots(self) -> tuple[str, ...]:
        return self.cause.slots(self.end)

    @property
    def word(self) -> str:
        return "held" if self.share is None else word_of(self.share)

    def to_json(self) -> dict[str, Any]:
        return {
            "cause": self.cause.code,
            "title": self.cause.title,
            "slots": list(self.slots),
            "holds": self.holds,
            "share": self.share,
            "word": self.word,
            "stop": self.cause.stop,
            "why": [dict(one) for one in self.why],
            "settles": self.cause.settles(self.end),
        }


@frozen(kw_only=True)
class Offered:
    """A check that is worth doing: its gain in bits, and what a minute of it is worth."""

    check: Check
    gain: float
    value: float
    safety: bool
    confirms: str | None = None

    def to_json(self) -> dict[str, Any]:
        check = self.check
        return {
            "check": check.code,
            "does": check.does,
            "title": check.title,
            "results": list(check.results),
            "minutes": check.minutes,
            "tool": check.tool,
            "gain": self.gain,
            "gain_per_minute": self.gain / check.minutes,
            "value": self.value,
            "safety": self.safety,
            "confirms": self.confirms,
        }


@frozen(kw_only=True)
class Run:
    """One search: the complaints of one end, or of none, with their causes and the checks that are left."""

    end: str | None
    complaints: tuple[Complained, ...]
    state: str
    causes: tuple[Suspect, ...]
    rest: float
    next: tuple[Offered, ...]

    def to_json(self) -> dict[str, Any]:
        return {
            "end": self.end,
            "complaints": [one.code for one in self.complaints],
            "state": self.state,
            "causes": [one.to_json() for one in self.causes],
            "rest": self.rest,
            "next": [one.to_json() for one in self.next],
        }


@frozen(kw_only=True)
class Stop:
    """Why a bike is not ridden: a complaint, or a cause that holds. `line` is all of it in words for a page."""

    because: str
    end: str | None
    says: str
    line: str

    def to_json(self) -> dict[str, Any]:
        return {"because": self.because, "end": self.end, "says": self.says}


@frozen(kw_only=True)
class Causes:
    """What a search says: a run for each end that is complained of, and what forbids riding."""

    runs: tuple[Run, ...]
    stops: tuple[Stop, ...]

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "runs": [run.to_json() for run in self.runs],
            "stops": [stop.to_json() for stop in self.stops],
        }


def causes_of(asked: Asked, tables: Tables, settings: Settings = DEFAULTS) -> Causes:
    """Rank the causes of complaints and name the next checks."""
    proof = Proof(asked, tables, settings)
    runs = tuple(
        _Search(end, reported, _answers_of(end, asked), proof, tables).run()
        for end, reported in _runs(asked.complaints)
    )
    return Causes(runs=runs, stops=(*complaint_stops(asked.complaints, tables), *_held_stops(runs)))


def _runs(complaints: Sequence[Complained]) -> list[tuple[str | None, tuple[Complained, ...]]]:
    """Complaints of one end, and those of none with them, are one run; of both ends, each end and the rest its own."""
    ends = [end for end in ENDS if any(reported.end == end for reported in complaints)]
    if len(ends) < len(ENDS):
        return [(ends[0] if ends else None, tuple(complaints))]
    split: list[str | None] = [*ENDS, None]
    found = [(end, tuple(reported for reported in complaints if reported.end == end)) for end in split]
    return [(end, reported) for end, reported in found if reported]


def _answers_of(end: str | None, asked: Asked) -> tuple[Answer, ...]:
    """Return the answers that count in a run: those of its end and those without one; in a run of no end, all."""
    return tuple(one for one in asked.answers if None in (one.end, end) or one.end == end)


def complaint_stops(complaints: Iterable[Complained], tables: Tables) -> list[Stop]:
    """Return what the complaints alone forbid, whatever a search finds."""
    found = []
    for reported in complaints:
        complaint = tables.complaints[reported.code]
        title = f"{complaint.title}, {reported.end}" if reported.end else complaint.title
        if complaint.stop:
            line = f"{title}. {complaint.stop}"
            found.append(Stop(because=reported.code, end=reported.end, says=complaint.stop, line=line))
    return found


def _held_stops(runs: Iterable[Run]) -> list[Stop]:
    return [
        Stop(because=one.cause.code, end=run.end, says=one.cause.not_ridden, line=one.cause.not_ridden)
        for run in runs
        for one in run.causes
        if one.holds and one.cause.stop
    ]


@frozen(kw_only=True)
class _Shares:
    """Of one complaint, what each open cause and the rest have of it."""

    causes: Mapping[str, float]
    rest: float

    @property
    def entropy(self) -> float:
        """In bits, the rest included."""
        return -math.fsum(p * math.log2(p) for p in (*self.causes.values(), self.rest) if p > 0)


def _shares(causes: Mapping[str, float], rest: float) -> _Shares:
    whole = math.fsum(causes.values()) + rest
    return _Shares(causes={code: x / whole for code, x in causes.items()}, rest=rest / whole)


class _Search:
    """One run while it is worked out."""

    def __init__(
        self,
        end: str | None,
        reported: tuple[Complained, ...],
        answers: tuple[Answer, ...],
        proof: Proof,
        tables: Tables,
    ) -> None:
        self.end, self.reported, self.tables = end, reported, tables
        self.complaints: list[Complaint] = [tables.complaints[one.code] for one in reported]
        self.answered = {one.check for one in answers}
        self.answers = [one for one in answers if one.result is not None]
        named = {code for one in self.complaints for code, weight in one.weights.items() if weight}
        self.codes = [code for code in tables.causes if code in named]  # in table order
        self.certain: Certain = proof.of(self.codes, end, self.answers)
        closed = self.certain.held.keys() | self.certain.excluded
        self.open = [code for code in self.codes if code not in closed]
        self.shares = [self._shares_of(n) for n in range(len(self.complaints))]

    def _in_words(self, cause: str | None) -> float:
        """Return how likely the answers are where this is the cause."""
        product = 1.0
        for one in self.answers:
            check = self.tables.checks[one.check]
            product *= self.tables.chances(check, cause)[check.results.index(str(one.result))]
        return product

    def _shares_of(self, n: int) -> _Shares:
        """Return the n-th complaint's: a cause that another complaint has too is the likelier."""
        weights = self.complaints[n].weights
        others = [one.weights for place, one in enumerate(self.complaints) if place != n]
        found = {
            code: weights[code] * math.prod(1 + other.get(code, 0) for other in others) * self._in_words(code)
            for code in self.open
            if weights.get(code)
        }
        held = math.fsum(weights.get(code, 0) for code in self.certain.held)
        figures = self.tables.figures
        rest = (figures["rest"] + figures["rest_per_held"] * held) * self._in_words(None)
        return _shares(found, rest)

    def run(self) -> Run:
        count = len(self.shares)
        mean = {
            code: math.fsum(one.causes.get(code, 0.0) for one in self.shares) / count for code in self.open
        }
        order = sorted(self.open, key=lambda code: (-round(mean[code], PLACES), self.codes.index(code)))
        held = [self._suspect(code, None) for code in self.codes if code in self.certain.held]
        offered = tuple(self._next())
        return Run(
            end=self.end,
            complaints=self.reported,
            state=LOOKING if offered else FOUND if self._all_held() else NOT_FOUND,
            causes=(*held, *(self._suspect(code, mean[code]) for code in order)),
            rest=math.fsum(one.rest for one in self.shares) / count,
            next=offered,
        )

    def _suspect(self, code: str, share: float | None) -> Suspect:
        weighed: list[Why] = [
            {"complaint": complaint.code, "weight": complaint.weights[code]}
            for complaint in self.complaints
            if complaint.weights.get(code)
        ]
        said: list[Why] = []
        for one in self.answers:
            word = self.tables.checks[one.check].word(str(one.result), code)
            if word not in (NO_WORD, "shows"):
                said.append({"check": one.check, "result": one.result, "word": word})
        holds = share is None
        why = (*self.certain.held[code], *weighed, *said) if holds else (*weighed, *said)
        return Suspect(cause=self.tables.causes[code], end=self.end, holds=holds, share=share, why=why)

    # what to do next

    def _has_held(self, complaint: Complaint) -> bool:
        return any(complaint.weights.get(code) for code in self.certain.held)

    def _all_held(self) -> bool:
        return all(self._has_held(complaint) for complaint in self.complaints)

    def _next(self) -> list[Offered]:
        """Return the checks that are offered, best first."""
        all_held = self._all_held()
        counted = [n for n, one in enumerate(self.complaints) if all_held or not self._has_held(one)]
        stopped = all_held and any(one.stop for one in self.complaints)
        found = [
            self._offer(check, counted, stopped)
            for check in self.tables.checks.values()
            if check.code not in self.answered
        ]
        places = {code: n for n, code in enumerate(self.tables.checks)}
        found.sort(key=lambda one: (-round(one.value, PLACES), places[one.check.code]))
        worth = [one for one in found if self._is_worth(one, all_held, stopped)]
        return worth if all_held else self._confirmed(found, worth, counted)

    def _is_worth(self, one: Offered, all_held: bool, stopped: bool) -> bool:
        figures = self.tables.figures
        if one.value < figures["least_gain"] - SLACK:
            return False
        quick = one.check.minutes <= figures["quick_minutes"] and one.value >= figures["quick_gain"] - SLACK
        return not all_held or quick or (stopped and one.safety)

    def _confirmed(self, found: list[Offered], worth: list[Offered], counted: Sequence[int]) -> list[Offered]:
        """A strong suspicion is confirmed: the best check that shows it goes before all but quicker safety checks."""
        figures = self.tables.figures
        best = {code: max(self.shares[n].causes.get(code, 0.0) for n in counted) for code in self.open}
        strong = sorted(
            (code for code in self.open if best[code] >= figures["suspect"] - SLACK),
            key=lambda code: (-round(best[code], PLACES), self.codes.index(code)),
        )
        for code in strong:
            shows = next((one for one in found if one.check.shows(code)), None)
            if shows is None:
                continue
            sure = Offered(
                check=shows.check, gain=shows.gain, value=shows.value, safety=shows.safety, confirms=code
            )
            rest = [one for one in worth if one.check is not shows.check]
            first = [
                one
                for one in rest
                if one.safety and one.check.minutes <= figures["quick_minutes"] and one.value > shows.value
            ]
            return [*first, sure, *(one for one in rest if one not in first)]
        return worth

    def _offer(self, check: Check, counted: Sequence[int], stopped: bool) -> Offered:
        speaks = {code for said in check.words.values() for code in said}
        if speaks.isdisjoint(self.open):
            return Offered(check=check, gain=0.0, value=0.0, safety=False)
        gain = math.fsum(self._gain(check, self.shares[n]) for n in counted)
        safety = self._is_safety(check, counted, stopped)
        factor = self.tables.figures["safety_factor"] if safety else 1.0
        return Offered(check=check, gain=gain, value=factor * gain / check.minutes, safety=safety)

    def _gain(self, check: Check, shares: _Shares) -> float:
        """Return the entropy of one complaint that a check takes away on average, in bits."""
        chances = {code: self.tables.chances(check, code) for code in shares.causes}
        unknown = self.tables.chances(check, None)
        left = 0.0
        for n in range(len(check.results)):
            weighed = {code: share * chances[code][n] for code, share in shares.causes.items()}
            rest = shares.rest * unknown[n]
            likely = math.fsum(weighed.values()) + rest
            if likely > 0:
                left += likely * _shares(weighed, rest).entropy
        return shares.entropy - left

    def _is_safety(self, check: Check, counted: Sequence[int], stopped: bool) -> bool:
        """No question, and the causes with a stop that it can show or speaks strongly for hold enough together."""
        if check.does == "ask":
            return False
        strong = {
            code
            for said in check.words.values()
            for code, word in said.items()
            if word in ("shows", "strong") and self.tables.causes[code].stop
        }
        figures = self.tables.figures
        least = figures["least_gain"] if stopped else figures["danger_share"]
        return any(
            math.fsum(share for code, share in self.shares[n].causes.items() if code in strong)
            >= least - SLACK
            for n in counted
        )
