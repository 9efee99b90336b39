"""The day plan: promises, hours, stands and waits kept; small plans against every order tried; reasons for lateness."""

from __future__ import annotations

import itertools
import random

import pytest
from attrs import evolve

from unkett.core.work.day_plan import DayPlan, Hand, Pin, Work, plan_days, sessions_of
from unkett.core.work.step import Step

MORNING, NOON, ONE, EVENING = 540, 780, 840, 1080  # 9:00, 13:00, 14:00, 18:00
DAY = 1440


def step(name: str, minutes: int, wait: int = 0, after: tuple[str, ...] = ()) -> Step:
    return Step(
        id=name, slot="bike", does="adjust", says=name, minutes=minutes, wait_minutes=wait, after=after
    )


def hand(name: str = "Edda", days: int = 3) -> Hand:
    hours = [
        (d * DAY + low, d * DAY + high)
        for d in range(days)
        for low, high in ((MORNING, NOON), (ONE, EVENING))
    ]
    return Hand(name=name, hours=tuple(hours))


def job(name: str, *minutes: int, **more) -> Work:
    return Work(name=name, steps=tuple(step(f"{name}{n}", one) for n, one in enumerate(minutes)), **more)


def keeps(plan: DayPlan, works: list[Work], hands: list[Hand], stands: int) -> None:
    """Asserts all that holds for every plan."""
    by_work = {work.name: {step.id: step for step in work.steps} for work in works}
    at = {(one.work, one.step): one for one in plan.placed}
    assert len(at) == len(plan.placed) == sum(len(work.steps) for work in works if work.name not in plan.left)
    for one in plan.placed:
        made = by_work[one.work][one.step]
        assert one.end - one.start == made.minutes
        for name in made.after:
            assert at[one.work, name].end + by_work[one.work][name].wait_minutes <= one.start
        hours = next(h.hours for h in hands if h.name == one.hand)
        assert made.minutes == 0 or any(low <= one.start and one.end <= high for low, high in hours)
    for name in {one.hand for one in plan.placed}:
        mine = sorted((one.start, one.end) for one in plan.placed if one.hand == name and one.end > one.start)
        assert all(first[1] <= then[0] for first, then in itertools.pairwise(mine))
    on_stand: dict[tuple[str, int], list[int]] = {}
    for one in plan.placed:
        on_stand.setdefault((one.work, one.session), []).extend((one.start, one.end))
    spans = [(min(times), max(times)) for times in on_stand.values()]
    for begin, _ in spans:
        assert sum(low <= begin < high for low, high in spans) <= stands
    for work in works:
        if work.promised is not None and work.name in plan.finish:
            assert max(0, plan.finish[work.name] - work.promised) == plan.late.get(work.name, 0)


def least_late_by_trying(works: list[Work], hour: Hand) -> int:
    """One mechanic, jobs of one block: every order of the jobs tried."""
    best = None
    for order in itertools.permutations(works):
        clock, late = 0, 0
        for work in order:
            minutes = sum(one.minutes for one in work.steps)
            starts = (max(clock, work.from_minute, low) for low, high in hour.hours
                      if max(clock, work.from_minute, low) + minutes <= high)  # fmt: skip
            clock = next(starts) + minutes
            late += max(0, clock - (work.promised or 0))
        best = late if best is None else min(best, late)
    return best or 0


@pytest.mark.parametrize("seed", range(8))
def test_lateness_is_the_least_there_is(seed) -> None:
    pick = random.Random(seed)
    works = [
        job(f"j{n}", pick.randint(5, 20), pick.randint(5, 20), promised=MORNING + pick.randint(20, 120),
            from_minute=pick.choice([0, 0, MORNING + 30]))
        for n in range(5)
    ]  # fmt: skip
    plan = plan_days(works, [hand()], stands=5)
    keeps(plan, works, [hand()], 5)
    assert plan.proven
    assert sum(plan.late.values()) == plan.bound == least_late_by_trying(works, hand())


def test_waits_are_filled_with_other_bikes_and_free_the_stand() -> None:
    """A glues for 20 min and waits 120: the bike is off the stand, and B's 90 min fit into the wait."""
    glued = Work(
        name="a", steps=(step("a0", 20, wait=120), step("a1", 10, after=("a0",))), promised=MORNING + 150
    )
    works = [glued, job("b", 30, 30, 30, promised=MORNING + 110)]
    plan = plan_days(works, [hand()], stands=1)
    keeps(plan, works, [hand()], 1)
    assert plan.late == {}
    assert plan.finish == {"a": MORNING + 150, "b": MORNING + 110}
    assert [len(session) for session in sessions_of(glued.steps)] == [1, 1]


@pytest.mark.parametrize(
    ("work", "others", "late", "why"),
    [
        (job("a", 40, 40, promised=MORNING + 60), [], 20, "alone"),
        (job("a", 40, promised=MORNING + 60, from_minute=MORNING + 45), [], 25, "parts come too late"),
        (job("a", 40, promised=MORNING + 60), [job("b", 45, promised=MORNING + 45)], 25, "other jobs"),
    ],
)
def test_a_promise_that_breaks_is_reported_with_by_how_much_and_why(work, others, late, why) -> None:
    plan = plan_days([work, *others], [hand()], stands=1)
    assert plan.late == {"a": late}
    assert why in plan.why["a"]


def test_a_session_moved_by_hand_stays_where_it_was_put() -> None:
    works = [job("a", 30), job("b", 30)]
    moved = [evolve(works[0], pins=(Pin(not_before=ONE + 30, hand="Jory"),)), works[1]]
    hands = [hand(), hand("Jory")]
    plan = plan_days(moved, hands, stands=2)
    keeps(plan, moved, hands, 2)
    assert [(one.hand, one.start) for one in plan.placed if one.work == "a"] == [("Jory", ONE + 30)]


def test_what_the_hours_do_not_reach_is_named() -> None:
    plan = plan_days([job("a", 400), job("b", 30)], [hand()], stands=1)
    assert plan.left == ("a",)
    assert {one.work for one in plan.placed} == {"b"}
    assert plan_days([job("a", 30)], [], stands=1).left == ("a",)
