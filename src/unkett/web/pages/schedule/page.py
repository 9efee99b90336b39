"""What the day plan shows: a row for everybody at work, blocks of jobs on it, what shifted and what breaks."""

from __future__ import annotations

import datetime
from functools import cached_property

from attrs import frozen
from django.utils import timezone

from unkett.web.jobs.models import Job, Schedule, WorkHours
from unkett.web.jobs.queries import jobs_seen_by
from unkett.web.jobs.schedule import DAY, TASK, board_of, clock, hands_of, hours_of, sessions_in
from unkett.web.tasks.models import GOING_ON, Task
from unkett.web.tasks.services import last_asked
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

LEFT, WIDTH, ROW = 110, 1000, 56  # of the drawing, in its own units
FROM, TO = 7 * 60, 20 * 60  # the hours it shows


@frozen(kw_only=True)
class Block:
    """A session of a job on somebody's row, in minutes of the day and units of the drawing."""

    job: Job
    session: int
    hand: str
    hand_id: int
    start: int
    end: int
    row: int
    steps: int
    late: bool
    shifted: int | None

    @property
    def x(self) -> float:
        return across(self.start)

    @property
    def words_x(self) -> float:
        return self.x + 4

    @property
    def width(self) -> float:
        return max(3.0, across(self.end) - across(self.start))

    @property
    def y(self) -> int:
        return 24 + self.row * ROW

    @property
    def says(self) -> str:
        return f"{clock(self.start)}–{clock(self.end)}"

    @property
    def fits_words(self) -> int:
        """How many letters of the bike's name the block holds."""
        return int(self.width / 6.2)

    @property
    def name(self) -> str:
        name = self.job.plan.bike.name
        return (
            name
            if len(name) <= self.fits_words
            else name[: max(self.fits_words - 1, 0)] + ("…" if self.fits_words > 3 else "")
        )


def across(minute: int) -> float:
    """Return where a minute of the day is drawn."""
    return round(LEFT + (min(max(minute, FROM), TO) - FROM) / (TO - FROM) * (WIDTH - 20 - LEFT), 1)


@frozen(kw_only=True, slots=False)
class DaysPage:
    """The plan of one day, `day` days from the first."""

    actor: User
    day: int = 0

    @cached_property
    def board(self) -> Schedule:
        return board_of(self.actor.workshop)

    @cached_property
    def first_day(self) -> datetime.date:
        return self.board.first_day or timezone.localdate()

    @property
    def date(self) -> datetime.date:
        return self.first_day + datetime.timedelta(days=self.day)

    @cached_property
    def people(self) -> list[User]:
        return hands_of(self.actor.workshop)

    @property
    def hours(self) -> list[tuple[User, WorkHours]]:
        return [(user, hours_of(user)) for user in self.people]

    @cached_property
    def jobs(self) -> dict[str, Job]:
        open_ones = jobs_seen_by(self.actor).filter(ended=None).select_related("plan__bike")
        return {str(job.pk): job for job in open_ones}

    @cached_property
    def blocks(self) -> list[Block]:
        """The sessions of every day, in their order."""
        before = sessions_in(self.board.before)
        late = self.board.content.get("late", {})
        rows = {str(user.pk): (n, user) for n, user in enumerate(self.people)}
        found = []
        for key, (start, end, hand, steps) in sessions_in(self.board.content).items():
            if key[0] not in self.jobs or hand not in rows:
                continue
            row, user = rows[hand]
            was = before.get(key)
            found.append(Block(
                job=self.jobs[key[0]], session=key[1], hand=user.called, hand_id=user.pk, start=start, end=end, row=row,
                steps=steps, late=key[0] in late, shifted=start - was[0] if was and was[0] != start else None,
            ))  # fmt: skip
        return sorted(found, key=lambda one: (one.start, one.row))

    @property
    def today(self) -> list[Block]:
        """The blocks of the day that is shown, by its own minutes."""
        from_minute = self.day * DAY
        found = []
        for block in self.blocks:
            low, high = block.start - from_minute, block.end - from_minute
            if low < DAY and high > 0:
                found.append(_within(block, low, high))
        return found

    @property
    def ticks(self) -> list[tuple[float, str]]:
        return [(across(minute), clock(minute)) for minute in range(FROM, TO + 1, 60)]

    @property
    def rests(self) -> list[tuple[float, float, int]]:
        """What nobody works, shaded: x, width and y."""
        found = []
        for n, (_, hours) in enumerate(self.hours):
            clock_at = FROM
            for low, high in hours.windows(self.date, 0):
                found.append((across(clock_at), across(low) - across(clock_at), 24 + n * ROW))
                clock_at = high
            found.append((across(clock_at), across(TO) - across(clock_at), 24 + n * ROW))
        return [one for one in found if one[1] > 0]

    @property
    def height(self) -> int:
        return 30 + ROW * max(1, len(self.people))

    @property
    def now_at(self) -> float | None:
        """Where now is drawn on today's line."""
        local = timezone.localtime()
        minute = local.hour * 60 + local.minute
        return across(minute) if self.date == local.date() and FROM < minute < TO else None

    @property
    def late(self) -> list[tuple[Job, int, str]]:
        """The promises that break: by how many minutes and why."""
        why = self.board.content.get("why", {})
        late = self.board.content.get("late", {})
        rows = [
            (self.jobs[key], minutes, why.get(key, "")) for key, minutes in late.items() if key in self.jobs
        ]
        return sorted(rows, key=lambda row: -row[1])

    @property
    def left(self) -> list[Job]:
        return [self.jobs[key] for key in self.board.content.get("left", ()) if key in self.jobs]

    @property
    def proven(self) -> bool:
        return bool(self.board.content.get("proven"))

    @cached_property
    def task(self) -> Task | None:
        """The work in the background, while it goes on."""
        task = last_asked(self.actor, TASK, self.actor.workshop_id or 0, {})
        return task if task is not None and task.state in GOING_ON else None

    @property
    def may_plan(self) -> bool:
        return may(self.actor, "plan-days")

    @property
    def days_shown(self) -> list[tuple[int, datetime.date]]:
        used = {block.start // DAY for block in self.blocks} | {0, self.day}
        return [(n, self.first_day + datetime.timedelta(days=n)) for n in sorted(used)]


def _within(block: Block, low: int, high: int) -> Block:
    return Block(
        job=block.job, session=block.session, hand=block.hand, hand_id=block.hand_id, start=max(low, 0),
        end=min(high, DAY), row=block.row, steps=block.steps, late=block.late, shifted=block.shifted,
    )  # fmt: skip
