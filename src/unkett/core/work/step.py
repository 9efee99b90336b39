"""A step of a job and the sheet they make; what the sheet comes to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import field, frozen

from unkett.core.rules.outcome import need_words
from unkett.core.work.defect import OwnFinding
from unkett.core.work.packages import Package

FORMAT = "unkett.job/1"
DOES = (
    "look", "order", "take_off", "prepare", "clean", "fit", "adjust", "wait", "measure", "check", "hand_over",
)  # fmt: skip


@frozen(kw_only=True)
class Torque:
    """A torque in Nm: its range, what to set the wrench to, and whether the part or the table says so."""

    low: float
    high: float
    target: float
    said_by: str


@frozen(kw_only=True)
class Step:
    """One thing done with the hands. `after` names the steps that are finished, with their waits, before it starts."""

    id: str
    slot: str
    does: str
    says: str
    part: str | None = None
    tools: tuple[str, ...] = ()
    compound: str | None = None
    torque: Torque | None = None
    thread: str | None = None
    passes: int = 1
    minutes: int = 0
    wait_minutes: int = 0
    after: tuple[str, ...] = ()
    reading: Mapping[str, str] | None = None
    caution: str | None = None
    safety: bool = False
    needs: tuple[str, ...] = ()
    defects: tuple[str, ...] = ()
    requires: tuple[str, ...] = ()  # what must hold before it, in words
    effects: tuple[Mapping[str, Any], ...] = ()  # what it writes into the bike's record
    along: tuple[str, ...] = ()  # slots that move with the step's own
    causes: tuple[str, ...] = ()  # why it is done; the first owns its minutes
    done: bool = False
    irreversible: bool = field(default=False, eq=False)
    most: float | None = field(default=None, eq=False)  # what its reading may be at most
    worn: tuple[str, float] | None = field(default=None, eq=False)  # up or down, and where the part is worn
    computed: float | None = field(default=None, eq=False)  # what its reading should be
    lawful: tuple[str, ...] = field(
        default=(), eq=False
    )  # the steps that must come before it, in whatever order
    made_by: Mapping[str, tuple[str, ...]] = field(
        factory=dict, eq=False
    )  # by requirement the steps that meet it
    gives: tuple[str, ...] = field(default=(), eq=False)  # facts that it makes true
    ends: tuple[str, ...] = field(default=(), eq=False)  # facts that it makes false
    place: str = field(default="", eq=False)
    rank: int = field(default=0, eq=False)

    def to_json(self) -> dict[str, Any]:
        torque = self.torque
        return {
            "id": self.id,
            "slot": self.slot,
            "does": self.does,
            "says": self.says,
            "part": self.part,
            "tools": list(self.tools),
            "compound": self.compound,
            "torque_nm": [torque.low, torque.high] if torque else None,
            "target_nm": torque.target if torque else None,
            "torque_from": torque.said_by if torque else None,
            "thread": self.thread,
            "passes": self.passes,
            "minutes": self.minutes,
            "wait_minutes": self.wait_minutes,
            "after": list(self.after),
            "reading": dict(self.reading) if self.reading else None,
            "caution": self.caution,
            "safety": self.safety,
            "needs": list(self.needs),
            "defects": list(self.defects),
            "requires": list(self.requires),
            "effects": [dict(one) for one in self.effects],
            "with": list(self.along),
            "causes": list(self.causes),
            "done": self.done,
        }

    def stored(self) -> dict[str, Any]:
        """Return the step as a workshop keeps it: its public fields, and what counts while it is done."""
        return self.to_json() | {
            "irreversible": self.irreversible,
            "most": self.most,
            "worn": list(self.worn) if self.worn else None,
            "computed": self.computed,
            "lawful": list(self.lawful),
            "made_by": {words: list(names) for words, names in self.made_by.items()},
            "gives": list(self.gives),
            "ends": list(self.ends),
        }


@frozen(kw_only=True)
class Taken:
    """A need of a finding as the sheet takes it: its rule and slots, what it is, whether a part, and how many."""

    rule: str
    slots: tuple[str, ...]
    what: str
    need: Mapping[str, Any] = field(factory=dict, eq=False)
    is_part: bool = False
    count: int = 1
    step: str = ""  # the id that settles it; empty where it is accepted at the hand-over


@frozen(kw_only=True)
class JobSheet:
    """Steps in their order, the parts that go on and come off for good, and the needs that are met.

    `fitted` names by slot the part that goes on; `taken_off` the slots that are left empty; `brings` the small parts
    that the work itself takes, such as an inner for a new shifter.
    """

    steps: tuple[Step, ...]
    fitted: Mapping[str, str] = field(factory=dict)
    taken_off: tuple[str, ...] = ()
    needs: tuple[Taken, ...] = ()
    brings: tuple[Taken, ...] = ()
    packages: tuple[Package, ...] = ()
    own: tuple[OwnFinding, ...] = ()

    @property
    def accepted(self) -> list[str]:
        """What is accepted as it is and signed at the hand-over, as sentences, once each."""
        found = [need_words(need.what) for need in self.needs if need.need.get("sort") == "accept"]
        return [f"{what[:1].upper()}{what[1:]}" for what in dict.fromkeys(found)]

    @property
    def small_parts(self) -> list[Taken]:
        """The needs that are a thing to get, one of each finding, and what the work takes."""
        return [need for need in (*self.needs, *self.brings) if need.is_part]

    @property
    def minutes(self) -> int:
        """Hands on."""
        return sum(step.minutes for step in self.steps)

    @property
    def ready_minutes(self) -> int:
        """When all that is left is done by one mechanic who takes the steps in their order."""
        left = [step for step in self.steps if not step.done]
        return max((end for _, end in times(left).values()), default=0)

    @property
    def path(self) -> tuple[str, ...]:
        """The critical path: the chain of steps that no number of hands can shorten, first step first."""
        return longest_path(self.steps)

    @property
    def path_minutes(self) -> int:
        by_id = {step.id: step for step in self.steps}
        return sum(by_id[name].minutes + by_id[name].wait_minutes for name in self.path)

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "steps": [step.to_json() for step in self.steps],
            "minutes": self.minutes,
            "ready_minutes": self.ready_minutes,
        }


def times(steps: Iterable[Step], begin: int = 0) -> dict[str, tuple[int, int]]:
    """By step when it starts and when it is finished with its wait, in minutes; one pair of hands, in this order."""
    free = begin
    found: dict[str, tuple[int, int]] = {}
    for step in steps:
        start = max([free, *(found[name][1] for name in step.after if name in found)])
        free = start + step.minutes
        found[step.id] = (start, free + step.wait_minutes)
    return found


def longest_path(steps: Sequence[Step]) -> tuple[str, ...]:
    """The chain of steps, each after the one before, that takes longest with its waits; steps in a lawful order."""
    best: dict[str, tuple[int, str | None]] = {}
    for step in steps:
        before = max(step.after, key=lambda name: best[name][0], default=None)
        so_far = 0 if before is None else best[before][0]
        best[step.id] = (so_far + step.minutes + step.wait_minutes, before)
    at = max(best, key=lambda name: best[name][0], default=None)
    path: list[str] = []
    while at is not None:
        path.append(at)
        at = best[at][1]
    return tuple(reversed(path))
