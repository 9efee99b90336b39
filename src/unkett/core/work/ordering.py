"""The order of a sheet's steps: links first, long waits early, then what is at one place with one tool together."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from unkett.core.errors import CoreError
from unkett.core.work.step import Step

LONG_WAIT_MIN = 60


def ordered(steps: Sequence[Step]) -> tuple[Step, ...]:
    """Return the steps in their order, each with the links that say something. Raises CoreError for steps in a ring.

    Steps that lead to a wait of an hour or more, that step with them, stand before all others. Of the steps that may
    come next the one at the place and with the tool of the last is taken, else the next by the table of steps.
    """
    by_id = {step.id: step for step in steps}
    before = _all_before(by_id)
    early = {step.id for step in steps if step.wait_minutes >= LONG_WAIT_MIN}
    early |= {name for one in early for name in before[one]}
    left = {step.id: set(step.after) for step in steps}
    out: list[Step] = []
    while left:
        ready = [by_id[name] for name, waits in left.items() if not waits]
        last = out[-1] if out else None
        taken = min(ready, key=lambda step: (step.id not in early, *_apart(step, last), step.rank, step.id))
        out.append(taken)
        del left[taken.id]
        for waits in left.values():
            waits.discard(taken.id)
    place = {step.id: n for n, step in enumerate(out)}
    return tuple(evolve(step, after=_bare(step, before, place)) for step in out)


def _apart(step: Step, last: Step | None) -> tuple[bool, bool]:
    """Return whether a step is at another place, or with another tool, than the last."""
    if last is None:
        return True, True
    tool = step.tools[:1] == last.tools[:1]
    return not (tool and step.slot == last.slot), not (tool and step.place == last.place)


def _all_before(by_id: dict[str, Step]) -> dict[str, set[str]]:
    """Return by step everything that is finished before it. Raises CoreError for steps in a ring."""
    found: dict[str, set[str]] = {}
    on_path: set[str] = set()

    def gather(name: str) -> set[str]:
        if name in found:
            return found[name]
        if name in on_path:
            raise CoreError(f"the step {name} waits for itself: {sorted(on_path)}")
        on_path.add(name)
        mine: set[str] = set()
        for one in by_id[name].after:
            mine |= {one} | gather(one)
        on_path.discard(name)
        found[name] = mine
        return mine

    for name in by_id:
        gather(name)
    return found


def _bare(step: Step, before: dict[str, set[str]], place: dict[str, int]) -> tuple[str, ...]:
    """The links that no other link of the step says already, in the sheet's order; what was measured stays named."""
    said = {name for one in step.after for name in before[one] if not name.startswith("measure:")}
    return tuple(sorted(set(step.after) - said, key=place.__getitem__))
