"""From minutes of work to days of the calendar."""

from __future__ import annotations

import datetime

DAY_MINUTES = 480  # of work, hands on and waits, in a day
WEEKEND = (6, 7)  # days of the week on which nobody works, Monday being 1


def ready_on(parts_on: datetime.date, ready_minutes: int) -> datetime.date:
    """Return the day on which work of so many minutes is finished that begins on the day its parts are here.

    Every begun eight hours take a working day, Monday to Friday; a wait over night counts as work, so that the day is
    rather late than early. 0 minutes are finished on that day.
    """
    day = _working(parts_on)
    for _ in range(max(0, ready_minutes - 1) // DAY_MINUTES):
        day = _working(day + datetime.timedelta(days=1))
    return day


def _working(day: datetime.date) -> datetime.date:
    while day.isoweekday() in WEEKEND:
        day += datetime.timedelta(days=1)
    return day
