"""Job sheets and the day plan: milliseconds for a bike built from its frame, seconds for a day of twelve jobs."""

from __future__ import annotations

import statistics
import time
from typing import Any

from tests.core.test_work import demo_plans

from unkett.core.formats.reader import build_from
from unkett.core.work.day_plan import Hand, Work, plan_days
from unkett.core.work.replay import Walked, replay
from unkett.core.work.scope import Scope
from unkett.core.work.sheet import job_steps

RUNS = 20
JOBS, STEPS, STANDS, DAY = 12, 150, 3, 1440
NINE, ONE, TWO, SIX = 540, 780, 840, 1080


def figures() -> dict[str, Any]:
    plans = {name: (build_from(work["build"]), build_from(work["planned"])) for name, work in demo_plans()}
    now, then = plans["From the frame"]
    times = []
    for _ in range(RUNS):
        begin = time.perf_counter()
        sheet = job_steps(now, then)
        times.append((time.perf_counter() - begin) * 1000)
    scope = Scope.of(now, then)
    walked = [Walked(id=step.id, along=step.along) for step in sheet.steps]
    begin = time.perf_counter()
    for _ in range(RUNS):
        assert replay(scope, walked).ok
    replay_ms = (time.perf_counter() - begin) * 1000 / RUNS
    sheets = [job_steps(*pair) for pair in plans.values()]
    works = [
        Work(
            name=str(n),
            steps=sheets[n % len(sheets)].steps[: STEPS // JOBS + (n < STEPS % JOBS)],
            promised=(n % 3) * DAY + SIX,
        )
        for n in range(JOBS)
    ]
    hours = tuple(
        (d * DAY + low, d * DAY + high) for d in range(6) for low, high in ((NINE, ONE), (TWO, SIX))
    )
    hands = [Hand(name=name, hours=hours) for name in "abc"]
    begin = time.perf_counter()
    plan = plan_days(works, hands, stands=STANDS)
    return {
        "steps_of_a_build_ms": round(statistics.median(times), 1),
        "steps": len(sheet.steps),
        "replay_ms": round(replay_ms, 1),
        "day_plan_s": round(time.perf_counter() - begin, 2),
        "day_plan_steps": len(plan.placed),
        "minutes_late": sum(plan.late.values()),
        "proven": plan.proven,
    }
