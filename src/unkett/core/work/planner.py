"""From a goal to the operations that reach it: what must be out of the way, what goes back, what is proved again.

The planner works back from the goal. A change takes its part off and puts the other on; what either requires brings
the operations that make it true; a part that is only in the way comes off with all that it holds and goes back; every
setting that an operation spoils is made again. The order follows from the facts: who makes one before who requires it,
who requires it before who ends it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from attrs import define, evolve, field, frozen

from unkett.core.errors import CoreError
from unkett.core.work.facts import ENDS, facts_of_slot, settings, starts_false
from unkett.core.work.operations import (
    AGAIN,
    BACK,
    Operation,
    children_off,
    operation,
    own_operation,
    part_steps,
    with_riders,
)
from unkett.core.work.package_steps import bolts_of, moves_of, steps_of
from unkett.core.work.precedence import checks_last, precedence, ring
from unkett.core.work.scope import CONTROL_OF, Scope, is_wheel

ACCESS, PROOF = "access", "proof"
STEERER_STEPS = ("prepare:fork:stack", "measure:fork:steerer", "prepare:fork:unstack")


@frozen(kw_only=True)
class Begun:
    """How far the work is: the facts as the rest begins.

    `ids` are the steps before that, `done` those that the tables know; `riders` by slot what came off with its part;
    `back` by slot the ids that undo what was done for a goal that is gone.
    """

    facts: frozenset[str]
    ids: tuple[str, ...] = ()
    done: Mapping[str, Operation] = field(factory=dict)
    riders: Mapping[str, tuple[str, ...]] = field(factory=dict)
    back: Mapping[str, tuple[str, ...]] = field(factory=dict)


@define(kw_only=True)
class Plan:
    """Operations by id with their causes, the parts that ride along, and how the operations follow each other."""

    scope: Scope
    start: frozenset[str]
    done: frozenset[str] = frozenset()
    steps: dict[str, Operation] = field(factory=dict)
    causes: dict[str, dict[str, None]] = field(factory=dict)
    riders: dict[str, tuple[str, ...]] = field(
        factory=dict
    )  # by slot that comes off for access, what it takes along
    moved: set[str] = field(factory=set)  # slots whose part stays and comes off on the way

    # gathering

    def add(self, name: str, causes: Iterable[str]) -> Operation | None:
        """Add a step with its causes; None where the tables have none for this bike.

        A step that is done stays away, unless what it did has to be done a second time.
        """
        if name in self.done:
            if not self._needed_again(name):
                return None
            name = f"{name}:{AGAIN}"
        known = self.steps.get(name)
        if known is None:
            known = operation(self.scope, name)
            if known is None:
                return None
            self.steps[name] = known
            self.causes[name] = {}
        for cause in causes:
            self.causes[name].setdefault(cause)
        return known

    def _needed_again(self, name: str) -> bool:
        """Return whether what a finished step did has been undone since, or will be."""
        one = operation(self.scope, name)
        if one is None:
            return False
        if one.takes_off:
            undone = (
                {f"on:{one.slot}", *facts_of_slot(one.slot, self.scope.now)}
                if one.moves_part
                else set(one.ends)
            )
            places = {fact for fact in undone & one.ends if fact.partition(":")[0] in ("on", "in", "joined")}
            return bool(places & self.start)
        made = one.gives - starts_false()
        return bool(made - self.start) or any(made & other.ends for other in self.steps.values())

    def add_operation(self, one: Operation, causes: Iterable[str]) -> None:
        """Add an operation that is in no table, such as a need's."""
        self.steps[one.id] = one
        self.causes.setdefault(one.id, {}).update(dict.fromkeys(causes))

    def take_off(self, slot: str, causes: Iterable[str], *, once: bool = False) -> None:
        """Take a slot's part off, each of its sides; `once` never a second time."""
        causes = list(causes)
        for name in part_steps("take_off", slot, self.scope.now):
            if not (once and name in self.done):
                self.add(name, causes)

    def fit(self, slot: str, causes: Iterable[str], *, once: bool = False) -> None:
        """Put a slot's part on, each of its sides; `once` never a second time."""
        causes = list(causes)
        for name in part_steps("fit", slot, self.scope.then):
            if not (once and name in self.done):
                self.add(name, causes)

    def change(self, slot: str, causes: Iterable[str]) -> None:
        """Plan that a slot's part comes off for good, another goes on, or both; what it held moves over to the next."""
        scope, causes = self.scope, list(causes)
        if slot in scope.gone and not scope.rides_whole(slot):
            self.take_off(slot, causes, once=True)
            for child in scope.children_now.get(slot, ()):
                self.move_over(child, causes)
        if slot in scope.new:
            self.fit(slot, causes, once=True)
            for child in scope.children_then.get(slot, ()):
                self.move_over(child, causes)

    def _stands(self, slot: str) -> bool:
        """Return whether the part is on as the work begins: it may have come off in a part of the job that is done."""
        return any(fact in self.start for fact in facts_of_slot(slot, self.scope.now))

    def move_over(self, slot: str, causes: Sequence[str]) -> None:
        """Plan the two steps that move a part over whose holder changes."""
        scope = self.scope
        if slot not in scope.kept:
            return
        names = part_steps("take_off", slot, scope.now)
        if all(name in self.done for name in names):
            self.moved.add(slot)
            self.fit(slot, [*causes, ACCESS], once=True)
        else:
            self.move(slot, causes)

    def move(self, slot: str, causes: Iterable[str]) -> None:
        """Plan that a part comes off and goes on again."""
        if f"fit:{slot}:{BACK}" in self.steps:
            return  # comes off and goes on again anyway
        if self.scope.leaves_with_control(slot):
            if self.scope.runs_inside(slot):
                self._release(slot, causes)
            return
        causes = [*causes, ACCESS]
        self.moved.add(slot)
        if self._stands(slot):
            self.take_off(slot, causes)
        self.fit(slot, causes)

    def _release(self, line: str, causes: Iterable[str]) -> None:
        causes = [*causes, ACCESS]
        if f"joined:{line}" in self.start:
            self.add(f"take_off:{line}:release", causes)
        self.add(f"fit:{line}:join", causes)

    def bring_back(self, slot: str, names: Sequence[str]) -> None:
        """Undo what was done for a goal that is gone: the other part off again, the old one on."""
        for name in names:
            one = operation(self.scope, name)
            if one is not None:
                along = {
                    fact
                    for rider in self.riders.get(slot, ())
                    for fact in facts_of_slot(rider, self.scope.now)
                }
                left = [need for need in children_off(self.scope, slot) if need.fact not in along]
                requires = (*one.requires, *left) if one.takes_off else one.requires
                self.add_operation(evolve(one, requires=requires), ["job"])

    # closing over what is required and what is spoiled

    def close(self) -> None:
        """Bring in what the steps require and make again what they spoil, until nothing is missing."""
        seen: dict[str, tuple[int, int]] = {}
        while True:
            before = {name: len(causes) for name, causes in self.causes.items()}
            for name in list(self.steps):
                size = (len(self.causes[name]), len(self.steps))
                if seen.get(name) != size:
                    seen[name] = size
                    self._bring(self.steps[name])
            self._rejoin()
            if before == {name: len(causes) for name, causes in self.causes.items()}:
                return

    def _bring(self, one: Operation) -> None:
        causes = [cause for cause in self.causes[one.id] if cause not in (ACCESS, PROOF)]
        for wanted in one.requires:
            if wanted.holds:
                self._make(wanted.fact, causes)
            else:
                self._clear(wanted.fact, causes)
        for fact in one.ends:
            self._restore(fact, causes)

    def _clear(self, fact: str, causes: Sequence[str]) -> None:
        """See that a fact does not hold: the part comes off, the wheel out, the line free."""
        sort, _, name = fact.partition(":")
        scope = self.scope
        if sort == "on":
            slot = name.partition(":")[0]
            body = slot if slot in scope.now.parts else _body(slot, scope)
            fitted = body in scope.new and set(part_steps("fit", body, scope.then)) <= self.done
            if fact in self.start and (body in scope.kept or fitted):
                self.move(body, causes)
        elif sort == "in" and fact in self.start:
            self.add(f"take_off:{name}_hub:wheel", [*causes, ACCESS])
        elif sort == "joined" and fact in self.start and name in scope.kept:
            self._release(name, causes)

    def _make(self, fact: str, causes: Sequence[str]) -> None:
        """See that a fact holds where nothing makes it yet and it does not hold from the start."""
        if fact in self.start and not any(fact in one.ends for one in self.steps.values()):
            return
        if not any(fact in one.gives for one in self.steps.values()):
            self._restore(fact, causes)

    def _restore(self, fact: str, causes: Sequence[str]) -> None:
        """Bring the step that makes a fact true again."""
        sort, _, name = fact.partition(":")
        if sort == "in":
            if f"{name}_hub" in self.scope.filled_then:
                self.add(f"fit:{name}_hub:wheel", [*causes, ACCESS])
            return
        if sort == "joined":
            if name in self.scope.kept or self._laid_only(name):
                self.add(f"fit:{name}:join", [*causes, ACCESS])
            return
        if sort == "on" or fact not in settings():
            return
        if any(fact in one.gives and one.does == "fit" for one in self.steps.values()):
            return
        for row, end in self.scope.givers(fact):
            if row.does in ("fit", "take_off"):
                continue
            slot = row.slot.replace("{end}", end)
            self.add(":".join(part for part in (row.does, slot, row.word) if part), [*causes, PROOF])
            return

    def _laid_only(self, line: str) -> bool:
        """Return whether a new line is drawn in without being joined, as a hidden one is."""
        step = self.steps.get(f"fit:{line}")
        return step is not None and f"joined:{line}" not in step.gives

    def _rejoin(self) -> None:
        """Plan that wheels with their parts go in, lines are joined and what was off goes back on."""
        scope = self.scope
        for end in ENDS:
            made = [f"{end}_{kind}" for kind in ("hub", "rim", "spokes", "tyre", "rotor")]
            steps = [name for name in self.steps if name.split(":")[1] in made and name.startswith("fit:")]
            if f"{end}_hub" in scope.filled_then and (f"in:{end}" not in self.start or steps):
                causes = [one for name in steps for one in self.causes[name] if one not in (ACCESS, PROOF)]
                self.add(f"fit:{end}_hub:wheel", [*dict.fromkeys(causes), ACCESS])
        for line in CONTROL_OF:
            if line in scope.new and self._laid_only(line):
                self.add(f"fit:{line}:join", self.causes[f"fit:{line}"])

    def finish_what_is_open(self) -> None:
        """Finish work that was begun: parts that are off go on, spoiled settings are made again."""
        scope = self.scope
        whole = scope.facts_at_start()
        riding = {name for along in self.riders.values() for name in along}
        for slot in sorted(scope.kept - riding):
            if f"fit:{slot}:back" not in self.steps and not self._stands(slot):
                self.fit(slot, ["job"])
        for fact in sorted(whole - self.start):
            if fact in settings() or fact.partition(":")[0] in ("in", "joined"):
                self._restore(fact, ["job"])
        self.close()

    def open_lines_once(self) -> None:
        """Drop the release and the joining of a line that comes off whole and goes on whole anyway."""
        for line in CONTROL_OF:
            fact = f"joined:{line}"
            off, on = self.steps.get(f"take_off:{line}"), self.steps.get(f"fit:{line}")
            if off is not None and fact in off.ends:
                self._drop(f"take_off:{line}:release")
            if on is not None and fact in on.gives:
                self._drop(f"fit:{line}:join")

    def _drop(self, name: str) -> None:
        self.steps.pop(name, None)
        self.causes.pop(name, None)

    # groups

    def group(self) -> None:
        """Let what a moved part holds ride along with it; what has steps of its own does not."""
        scope = self.scope
        own = {one.slot for one in self.steps.values() if one.moves_part}
        for slot in sorted(self.moved - self.riders.keys()):
            self.riders[slot] = tuple(self._along(slot, own))
        for name, one in self.steps.items():
            if one.moves_part:
                self.steps[name] = with_riders(one, self.along(one), scope)

    def along(self, one: Operation) -> tuple[str, ...]:
        """Return the slots that move along with a part; a wheel that is laced takes nothing with its hub."""
        end, _, kind = one.slot.partition("_")
        laced = kind == "hub" and not one.takes_off and not is_wheel(self.scope.then.parts.get(one.slot), end)
        return () if laced else self.riders.get(one.slot, ())

    def _along(self, slot: str, own: set[str]) -> Iterable[str]:
        scope = self.scope
        lines = [line for line, lever in CONTROL_OF.items() if lever == slot and line in scope.kept]
        leaving = lines if "frame" in scope.gone else []
        for child in (*scope.children_now.get(slot, ()), *leaving):
            if child in scope.kept and child not in own and self._stands(child):
                yield child
                yield from self._along(child, own)

    def links(self) -> dict[str, set[str]]:
        """Return by step the steps before it, its checks last."""
        return checks_last(self.lawful(), self.steps)

    def lawful(self) -> dict[str, set[str]]:
        """Return by step only the steps that must come before it."""
        return precedence(self.steps, self.start)


def _body(slot: str, scope: Scope) -> str:
    return next((name for name, part in scope.now.parts.items() if slot in part.also), slot)


def plan_of(
    scope: Scope,
    *,
    begun: Begun | None = None,
    mends: Mapping[str, Sequence[str]] | None = None,
) -> Plan:
    """The operations of a job: its changes and `mends` (by step id their causes), closed, grouped, without order.

    `begun` says how far the work is. Raises CoreError for steps that wait for each other.
    """
    begun = begun or Begun(facts=frozenset(scope.facts_at_start()))
    riders = {f"{end}_hub": (f"{end}_rim", f"{end}_spokes") for end in sorted(scope.whole_wheels)} | dict(
        begun.riders
    )
    plan = Plan(scope=scope, start=begun.facts, done=frozenset(begun.ids), riders=riders)
    for slot in sorted(scope.gone | scope.new):
        plan.change(slot, [f"change:{slot}"])
    if scope.stacks:
        why = ["change:fork"] if "fork" in scope.new else ["need:cut the steerer"]
        for name in STEERER_STEPS:
            plan.add(name, why)
        if scope.cuts:
            plan.add("prepare:fork:cut", ["need:cut the steerer", *why])
            if "fork" in scope.kept:
                plan.move_over("fork", ["need:cut the steerer"])
    for name, causes in (mends or {}).items():
        plan.add(name, causes)
    for slot, names in begun.back.items():
        plan.bring_back(slot, names)
    for slot, cause in moves_of(scope):
        plan.move(slot, [cause])
    for name, cause in steps_of(scope):
        plan.add(name, [cause])
    for found in scope.own:
        if found.step not in plan.done:
            plan.add_operation(own_operation(scope, found), [f"defect:{found.ref}"])
    plan.add("look:bike", ["job"])
    for row in scope.templates:
        if row.own and (row.slot == "bike" or row.slot in scope.new or f"fit:{row.slot}" in plan.steps):
            plan.add_operation(
                Operation(id=row.id, does=row.does, slot=row.slot, word=row.word, row=row), ["job"]
            )
    plan.close()
    for name, cause in bolts_of(scope, list(plan.steps)):
        plan.add(name, [cause])
    plan.finish_what_is_open()
    if any(one.does in ("take_off", "fit", "prepare", "adjust", "clean") for one in plan.steps.values()):
        plan.add("look:motor", ["job"])
    for name in ("check:bike:bolts", "check:bike:ride", "hand_over:bike"):
        plan.add(name, ["job"])
    plan.close()
    plan.open_lines_once()
    plan.group()
    looped = ring(plan.links())
    if looped:
        raise CoreError(f"these steps wait for each other: {' → '.join(looped)}")
    return plan
