"""A reading is judged before it is taken: within its torque range, its limit, what was computed, what is possible."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.bike.figures import chain_of
from unkett.core.bike.wear import limit_of, sorts
from unkett.core.build import Build
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.work.step import Step, Taken

POSSIBLE_MAX = {"mm": 3500.0, "bar": 20.0, "Nm": 200.0, "": 400.0, "clicks": 40.0, "%": 3.0}
COMPUTED_OFF = {"links": 0.0, "steerer_length_mm": 3.0}  # how far a reading may be off what was worked out
SINGLE_FIGURE_LOW = 0.85  # a printed figure is a most: the wrench is set to 90 % of it, never under 85 %
CUT = "cut the steerer"


@frozen(kw_only=True)
class Expected:
    """What a step's reading should be: its unit, a torque range, a maximum, where the part is worn, a computed figure.

    `torque` holds the lowest and the highest torque in Nm; `attr` is the attribute that is read, else empty.
    """

    unit: str = ""
    attr: str = ""
    torque: tuple[float, float] | None = None
    most: float | None = None
    worn: tuple[str, float] | None = None
    computed: float | None = None

    @classmethod
    def of_step(cls, step: Step, computed: float | None = None) -> Expected:
        reading = step.reading or {}
        return cls(
            unit=reading.get("unit", ""),
            attr=reading.get("attr", ""),
            torque=(step.torque.low, step.torque.high) if step.torque else None,
            most=step.most,
            worn=step.worn,
            computed=computed,
        )

    @classmethod
    def of_stored(cls, content: Mapping[str, Any]) -> Expected:
        """Return what a stored step expects; `content` is as `Step.stored` has it, or older."""
        reading = content["reading"] or {}
        torque = content["torque_nm"]
        return cls(
            unit=reading.get("unit", ""),
            attr=reading.get("attr", ""),
            torque=None if torque is None else (torque[0], torque[1]),
            most=content.get("most"),
            worn=(worn[0], worn[1]) if (worn := content.get("worn")) else None,
            computed=content.get("computed"),
        )

    @property
    def torque_only(self) -> bool:
        """Whether the reading itself is the torque, not a figure beside it."""
        return self.torque is not None and self.unit == "Nm"


@frozen(kw_only=True)
class Judged:
    """Whether a reading is taken; if not, why, and it is read again or kept with a reason."""

    taken: bool
    why: str = ""
    possible: bool = True  # what is not possible is not kept for any reason


def judge(expected: Expected, values: Sequence[float]) -> Judged:
    """Judge what was read at a step; of several bolts each.

    A torque lies in its range, a single printed figure between 85 % and itself; a limited reading does not pass its
    limit; a computed one is met within its tolerance; nothing is beyond what is possible.
    """
    if not values:
        return Judged(taken=False, why="nothing was read", possible=False)
    for value in values:
        judged = _judge_one(expected, value)
        if not judged.taken:
            return judged
    return Judged(taken=True)


def _judge_one(expected: Expected, value: float) -> Judged:
    unit = f" {expected.unit}" if expected.unit else ""
    top = POSSIBLE_MAX.get(expected.unit, math.inf)
    if not math.isfinite(value) or not 0 <= value <= top:
        return Judged(taken=False, why=f"{value:g}{unit} is not possible: 0 to {top:g}{unit}", possible=False)
    if expected.torque is not None and expected.torque_only:
        low, high = expected.torque
        least = low if low < high else high * SINGLE_FIGURE_LOW
        if not least <= value <= high:
            return Judged(taken=False, why=f"{value:g} Nm; {low:g}–{high:g} Nm allowed")
    elif expected.most is not None and value > expected.most:
        return Judged(taken=False, why=f"{value:g}{unit}; at most {expected.most:g}{unit}")
    elif expected.worn is not None:
        way, limit = expected.worn
        if value >= limit if way == "up" else value <= limit:
            return Judged(taken=False, why=f"{value:g}{unit}; worn at {limit:g}{unit}")
    off = COMPUTED_OFF.get(expected.attr)
    if expected.computed is not None and off is not None and abs(value - expected.computed) > off:
        return Judged(taken=False, why=f"{value:g}{unit} read, {expected.computed:g}{unit} worked out")
    return Judged(taken=True)


def worn_at(step: Step, build: Build, settings: Settings = DEFAULTS) -> tuple[str, float] | None:
    """Return on which side (up, down) and where the part that a step reads is worn; None where nothing limits it."""
    attr = (step.reading or {}).get("attr")
    for sort in sorts().values():
        if attr and sort.attr == attr and step.slot in sort.slots and sort.way != "none":
            limit = limit_of(sort, build, step.slot, settings)
            return None if limit is None else (sort.way, limit.value)
    return None


def computed(
    step: Step, build: Build, settings: Settings = DEFAULTS, needs: Sequence[Taken] = ()
) -> float | None:
    """Return what was worked out for a step's reading, or None: a chain's links, a steerer's length in mm.

    `build` is the bike as planned; `needs` those that the sheet meets, since a cut says how long a steerer becomes.
    """
    attr = (step.reading or {}).get("attr")
    if attr == "steerer_length_mm":
        return _steerer(build, needs)
    chain = chain_of(build, settings) if attr == "links" else None
    if chain is None or chain.window is None:
        return None
    low, high = chain.window.min_links, chain.window.max_links
    links = build.parts["chain"].attrs.get("links") if "chain" in build.parts else None
    if links is not None and low <= links <= (high or links):
        return float(links)
    return float(max(low, high or low) if chain.school == "upper" else low)


def _steerer(build: Build, needs: Sequence[Taken]) -> float | None:
    """Return the length that a steerer is cut to, in mm: its length less what its need takes off."""
    length = build.parts["fork"].attrs.get("steerer_length_mm") if "fork" in build.parts else None
    sizes = [need.need.get("size_mm") for need in needs if need.what == CUT]
    if length is None or not sizes or not isinstance(sizes[0], (int, float)):
        return None
    return round(float(length) - float(sizes[0]), 1)
