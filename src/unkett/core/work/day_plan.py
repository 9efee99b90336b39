"""The day plan: the steps of several jobs on mechanics' hours and stands, so that promises hold or say why not.

Time is counted in minutes from the first day's midnight. A job has sessions: it is taken off the stand where all that
is left waits for an hour or more. One mechanic does a session in the sheet's order, in blocks of up to 45 minutes that
nobody breaks off; hours off and other bikes may lie between two blocks.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence

from attrs import field, frozen

from unkett.core.solver import ConstraintModel
from unkett.core.work.step import Step

LONG_WAIT_MIN = 60
BLOCK_MIN = 45
FINISH_SECONDS = 2.0
FINISH_GAP = 0.05  # the finish is proven within so much of the earliest


@frozen(kw_only=True)
class Hand:
    """A mechanic and the hours they work: from one minute to another."""

    name: str
    hours: tuple[tuple[int, int], ...]


@frozen(kw_only=True)
class Pin:
    """What somebody moved by hand: a session at the earliest then, or by this mechanic."""

    session: int = 0
    not_before: int = 0
    hand: str = ""


@frozen(kw_only=True)
class Work:
    """A job to be placed: its steps in order, when its parts are here, until when it is promised."""

    name: str
    steps: tuple[Step, ...]
    from_minute: int = 0
    promised: int | None = None
    pins: tuple[Pin, ...] = ()


@frozen(kw_only=True)
class Placed:
    """A step of a job with who does it and when."""

    work: str
    step: str
    session: int
    hand: str
    start: int
    end: int


@frozen(kw_only=True)
class DayPlan:
    """Every step in its place; `late` in minutes by job whose promise breaks, with why.

    `proven` where no plan is less late in all; `bound` what the lateness cannot be below. `left` are jobs for which
    the hours do not reach.
    """

    placed: tuple[Placed, ...] = ()
    finish: Mapping[str, int] = field(factory=dict)
    late: Mapping[str, int] = field(factory=dict)
    why: Mapping[str, str] = field(factory=dict)
    proven: bool = True
    bound: int = 0
    left: tuple[str, ...] = ()


def sessions_of(steps: Sequence[Step]) -> list[list[Step]]:
    """Return the steps as they are done in one go: a new session begins where a step waits for an hour or more."""
    long = {step.id for step in steps if step.wait_minutes >= LONG_WAIT_MIN}
    found: list[list[Step]] = [[]]
    here: set[str] = set()
    for step in steps:
        if here & set(step.after):
            found.append([])
            here = set()
        found[-1].append(step)
        here |= {step.id} & long
    return [session for session in found if session]


def blocks_of(session: Sequence[Step], waits: Mapping[str, int]) -> list[list[Step]]:
    """The steps of a session that are done without putting the bike down; a step that waits begins a new block."""
    found: list[list[Step]] = []
    for step in session:
        held = any(waits.get(name) for name in step.after)
        if not found or held or sum(one.minutes for one in found[-1]) + step.minutes > BLOCK_MIN:
            found.append([])
        found[-1].append(step)
    return found


def plan_days(
    works: Sequence[Work], hands: Sequence[Hand], *, stands: int, seconds: float = 10.0, workers: int = 2
) -> DayPlan:
    """Places every step: least minutes late in all, proven; then the last of it done within 5 % of the earliest."""
    able = [work for work in works if work.steps and _alone(work, hands) is not None]
    left = tuple(work.name for work in works if work.steps and work not in able)
    if not able or not hands:
        return DayPlan(left=left)
    model = _Model(able, hands, stands)
    greedy = model.greedy()
    late = model.choices.minimize(model.late_terms, seconds=seconds, hint=greedy, workers=workers)
    if not late.feasible:
        return DayPlan(left=tuple(work.name for work in works), proven=late.proven)
    if model.late_terms:
        model.choices.add_at_most(model.late_terms, late.objective)
    hint = dict(enumerate(late.values))
    last = model.choices.minimize(
        {model.last: 1}, seconds=min(seconds, FINISH_SECONDS), hint=hint, gap=FINISH_GAP, workers=workers
    )
    values = last.values if last.feasible else late.values
    return model.build_plan(values, late.proven, late.bound, left)


class _Model:
    """The plan as whole numbers: when each step starts, who does each session."""

    def __init__(self, works: Sequence[Work], hands: Sequence[Hand], stands: int) -> None:
        self.works, self.hands, self.stands = works, hands, stands
        self.choices = ConstraintModel()
        self.horizon = max(high for hand in hands for _, high in hand.hours)
        self.starts: dict[
            tuple[str, str], tuple[int, int]
        ] = {}  # by step its block's start, and how far in it is
        self.whose: dict[tuple[str, int], list[int]] = {}
        self.late_terms: dict[int, int] = {}
        self.ends: dict[str, int] = {}
        by_hand: list[list[int]] = [[] for _ in hands]
        on_stand: list[int] = []
        self._all: list[int] = []
        self.last = self.choices.new_int(_soonest(works, hands), 2 * self.horizon)
        for work in works:
            self._work(work, by_hand, on_stand)
        for hand, intervals in zip(hands, by_hand, strict=True):
            self.choices.add_no_overlap(intervals, _off(hand.hours, self.horizon))
        self.choices.add_cumulative(on_stand, stands)
        together = [hours for hand in hands for hours in hand.hours]
        self.choices.add_cumulative(
            self._all, len(hands), _off(together, self.horizon)
        )  # follows from the rest: a bound

    def _work(self, work: Work, by_hand: list[list[int]], on_stand: list[int]) -> None:
        choices = self.choices
        pins = {pin.session: pin for pin in work.pins}
        by_id = {step.id: step for step in work.steps}
        waits = {step.id: step.wait_minutes for step in work.steps}
        before: tuple[int, int] | None = None  # when the block before starts, and its minutes
        for n, session in enumerate(sessions_of(work.steps)):
            whose = self.whose[work.name, n] = [choices.new_bool() for _ in self.hands]
            choices.add_exactly_one(whose)
            pin = pins.get(n, Pin())
            for literal, hand in zip(whose, self.hands, strict=True):
                if pin.hand and pin.hand != hand.name:
                    choices.fix(literal, 0)
            least = max(work.from_minute, pin.not_before)
            first: int | None = None
            for block in blocks_of(session, waits):
                minutes = sum(step.minutes for step in block)
                start = choices.new_int(least, self.horizon - minutes)
                first = start if first is None else first
                if before is not None:
                    self._after(*before, start)
                offset = 0
                for step in block:
                    self.starts[work.name, step.id] = (start, offset)
                    for name in step.after:
                        if waits.get(name) and name in by_id:
                            begin, earlier = self.starts[work.name, name]
                            self._after(begin, earlier + by_id[name].minutes + waits[name] - offset, start)
                    offset += step.minutes
                before = (start, minutes)
                if minutes:
                    self._all.append(choices.new_interval(start, minutes))
                    for literal, intervals in zip(whose, by_hand, strict=True):
                        intervals.append(choices.new_interval(start, minutes, given=literal))
            assert first is not None
            assert before is not None
            end = choices.new_int(0, self.horizon)
            choices.add_at_most({before[0]: 1, end: -1}, -before[1])
            choices.add_at_most({end: 1, before[0]: -1}, before[1])
            on_stand.append(choices.new_span(first, end))
        self._ends(work)

    def _after(self, first: int, minutes: int, then: int) -> None:
        self.choices.add_at_most({first: 1, then: -1}, -minutes)

    def _ends(self, work: Work) -> None:
        """When a job is done, its waits too, and how late that is."""
        end = self.ends[work.name] = self.choices.new_int(0, 2 * self.horizon)
        for step in work.steps:
            start, offset = self.starts[work.name, step.id]
            self._after(start, offset + step.minutes + step.wait_minutes, end)
        self.choices.add_at_most({end: 1, self.last: -1}, 0)
        if work.promised is not None:
            late = self.choices.new_int(0, 2 * self.horizon)
            self.choices.add_at_most({end: 1, late: -1}, work.promised)
            self.late_terms[late] = 1

    def greedy(self) -> dict[int, int]:
        """Return a plan by the nearest promise first, one session after another; a beginning for the search."""
        free = {hand.name: 0 for hand in self.hands}
        stands = [0] * self.stands
        found: dict[int, int] = {}
        order = sorted(self.works, key=lambda work: (work.promised is None, work.promised or 0, work.name))
        for work in order:
            done: dict[str, int] = {}
            clock = work.from_minute
            for n, session in enumerate(sessions_of(work.steps)):
                tries = []
                for place, hand in enumerate(self.hands):
                    begin = max(
                        clock, free[hand.name], min(stands), *(pin.not_before for pin in work.pins), 0
                    )
                    at = _placed(session, hand.hours, begin, done)
                    if at is not None:
                        tries.append((at[session[-1].id] + session[-1].minutes, place, at))
                if not tries:
                    return {}
                clock, place, at = min(tries, key=lambda one: one[:2])
                free[self.hands[place].name] = clock
                stands[stands.index(min(stands))] = clock
                done |= {step.id: at[step.id] + step.minutes + step.wait_minutes for step in session}
                for name, start in at.items():
                    number, offset = self.starts[work.name, name]
                    found.setdefault(number, start - offset)
                for one, literal in enumerate(self.whose[work.name, n]):
                    found[literal] = int(one == place)
        return found

    def build_plan(self, values: Sequence[int], proven: bool, bound: int, left: tuple[str, ...]) -> DayPlan:
        placed, late, why, finish = [], {}, {}, {}
        for work in self.works:
            ends = 0
            for n, session in enumerate(sessions_of(work.steps)):
                hand = next(
                    h for h, one in zip(self.hands, self.whose[work.name, n], strict=True) if values[one]
                )
                for step in session:
                    begin, offset = self.starts[work.name, step.id]
                    start = values[begin] + offset
                    ends = max(ends, start + step.minutes + step.wait_minutes)
                    one = {"work": work.name, "step": step.id, "session": n, "hand": hand.name}
                    placed.append(Placed(**one, start=start, end=start + step.minutes))  # type: ignore[arg-type]
            finish[work.name] = ends
            if work.promised is not None and ends > work.promised:
                late[work.name] = ends - work.promised
                why[work.name] = self._why(work)
        placed.sort(key=lambda one: (one.start, one.hand, one.work, one.end))
        return DayPlan(
            placed=tuple(placed), finish=finish, late=late, why=why, proven=proven, bound=bound, left=left
        )

    def _why(self, work: Work) -> str:
        """Return why a promise breaks: the parts, the work itself, or that hands are busy with other jobs."""
        assert work.promised is not None
        alone = _alone(work, self.hands)
        if alone is not None and alone <= work.promised:
            return "the hands and stands are busy with other jobs"
        here = Work(name=work.name, steps=work.steps, promised=work.promised)
        early = _alone(here, self.hands)
        if early is not None and early <= work.promised:
            return "its parts come too late, or it was moved"
        return "its work and waits alone take longer"


def _alone(work: Work, hands: Sequence[Hand]) -> int | None:
    """Return when a job would be done had it every hand to itself; None where the hours do not reach."""
    done: dict[str, int] = {}
    pins = {pin.session: pin for pin in work.pins}
    clock = work.from_minute
    for n, session in enumerate(sessions_of(work.steps)):
        pin = pins.get(n, Pin())
        tries = [
            at
            for hand in hands
            if not pin.hand or hand.name == pin.hand
            if (at := _placed(session, hand.hours, max(clock, pin.not_before), done)) is not None
        ]
        if not tries:
            return None
        at = min(tries, key=lambda one: one[session[-1].id])
        clock = at[session[-1].id] + session[-1].minutes
        done |= {step.id: at[step.id] + step.minutes + step.wait_minutes for step in session}
    return max(done.values(), default=0)


def _placed(
    session: Sequence[Step], hours: Sequence[tuple[int, int]], begin: int, done: Mapping[str, int]
) -> dict[str, int] | None:
    """Return by step when it starts, block by block as early as it goes; None where the hours do not reach."""
    clock, ended = begin, dict(done)
    found: dict[str, int] = {}
    waits = {step.id: step.wait_minutes for step in session} | dict.fromkeys(done, 1)
    for block in blocks_of(session, waits):
        minutes = sum(step.minutes for step in block)
        clock = max([clock, *(ended[name] for name in block[0].after if name in ended)])
        fits = (max(clock, low) for low, high in sorted(hours) if max(clock, low) + minutes <= high)
        start = clock if not minutes else next(fits, None)
        if start is None:
            return None
        clock = start
        for step in block:
            found[step.id] = clock
            clock += step.minutes
            ended[step.id] = clock + step.wait_minutes
    return found


def _soonest(works: Sequence[Work], hands: Sequence[Hand]) -> int:
    """Before this minute the hours of all hands together do not reach for the work."""
    minutes = sum(step.minutes for work in works for step in work.steps)
    begins = sorted({minute for hand in hands for hours in hand.hours for minute in hours})
    for low, high in itertools.pairwise(begins):
        at_work = sum(one <= low and high <= other for hand in hands for one, other in hand.hours)
        if at_work and minutes <= at_work * (high - low):
            return low + -(-minutes // at_work)
        minutes -= at_work * (high - low)
    return 0


def _off(hours: Iterable[tuple[int, int]], horizon: int) -> list[tuple[int, int]]:
    """Return the minutes between the hours."""
    found, clock = [], 0
    for low, high in sorted(hours):
        if low > clock:
            found.append((clock, low))
        clock = max(clock, high)
    return [*found, (clock, horizon + 1)]
