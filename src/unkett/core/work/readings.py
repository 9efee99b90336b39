"""A reading is judged before it is taken: within its torque range, its limit, what was computed, what is possible."""

from __future__ import annotations

import math
from collections.abc import Sequence

from attrs import frozen

from unkett.core.work.step import Step

POSSIBLE_MAX = {"mm": 3500.0, "bar": 20.0, "Nm": 200.0, "": 400.0, "clicks": 40.0}
COMPUTED_OFF = {"links": 0.0, "steerer_length_mm": 3.0}  # how far a reading may be off what was worked out
SINGLE_FIGURE_LOW = 0.85  # a printed figure is a most: the wrench stands at 90 % of it, never under 85 %


@frozen(kw_only=True)
class Judged:
    """Whether a reading is taken; if not, why, and it is read again or kept with a reason."""

    taken: bool
    why: str = ""


def judge(step: Step, values: Sequence[float], computed: float | None = None) -> Judged:
    """Judge what was read at a step; of several bolts each.

    `computed` is the figure that was worked out for it, in the reading's unit. A torque lies in its range, a single
    printed figure between 85 % and itself; a limited reading does not pass its limit; a computed one is met within
    its tolerance; nothing is beyond what is possible.
    """
    reading = step.reading or {}
    unit = reading.get("unit", "")
    if not values:
        return Judged(taken=False, why="nothing was read")
    for value in values:
        if not math.isfinite(value) or not 0 <= value <= POSSIBLE_MAX.get(unit, math.inf):
            most = POSSIBLE_MAX.get(unit, 0)
            return Judged(
                taken=False, why=f"{value:g} {unit} is not possible: 0 to {most:g}".replace("  ", " ")
            )
        if step.torque is not None:
            low, high = step.torque.low, step.torque.high
            low = low if low < high else high * SINGLE_FIGURE_LOW
            if not low <= value <= high:
                return Judged(taken=False, why=f"{value:g} Nm; {step.torque.low:g}–{high:g} Nm allowed")
        elif step.most is not None and value > step.most:
            return Judged(taken=False, why=f"{value:g} {unit}; at most {step.most:g} {unit}")
        off = COMPUTED_OFF.get(reading.get("attr", ""))
        if computed is not None and off is not None and abs(value - computed) > off:
            return Judged(
                taken=False, why=f"{value:g} {unit} read, {computed:g} {unit} worked out".replace("  ", " ")
            )
    return Judged(taken=True)
