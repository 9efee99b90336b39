"""Walks a sheet over the bike, step by step, and says the first that cannot be done, or what is left open at the end.

It shares the tables with the planner and nothing else: it orders nothing, brings nothing in, and takes the facts of
a step by its id, never from what the sheet says of itself.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

from attrs import field, frozen

from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect
from unkett.core.work.facts import ENDS, Literal, facts_of_slot, says, settings, starts_false
from unkett.core.work.operations import Operation, operation, with_riders
from unkett.core.work.scope import CONTROL_OF, LINES, Scope
from unkett.core.work.step import DOES

NEED_SORTS = ("prepare", "fit", "adjust", "check", "measure", "look")


@frozen(kw_only=True)
class Walked:
    """One step as a sheet lists it: its id and the slots that move along."""

    id: str
    along: tuple[str, ...] = ()


@frozen(kw_only=True)
class Replay:
    """How far a sheet can be done: `step` is the first that cannot, None where a goal is left open."""

    ok: bool
    step: str | None = None
    why: str | None = None

    def to_json(self) -> dict[str, object]:
        return {"ok": self.ok, "step": self.step, "why": self.why}


@frozen(kw_only=True)
class Goal:
    """What a sheet has to reach beside the parts: mends of defects, and steps that the workshop or a need added."""

    defects: tuple[Defect, ...] = ()
    allowed: frozenset[str] = field(factory=frozenset)  # ids that no table has and that need nothing
    done: frozenset[str] = field(factory=frozenset)  # steps that were done, whatever they were done for


def replay(scope: Scope, steps: Iterable[Walked], goal: Goal | None = None) -> Replay:
    """Walk the steps over the bike; the first whose requirements fail, else the first goal that is left open."""
    goal = goal or Goal()
    facts = scope.facts_at_start()
    new: set[str] = set()  # slots whose new part is on
    gone: set[str] = set()  # slots whose old part came off
    walked: set[str] = set()
    for step in steps:
        one = _operation(scope, step, goal)
        if one is None:
            return Replay(ok=False, step=step.id, why=f"{step.id} is no step")
        if step.id in walked:
            return Replay(ok=False, step=step.id, why=f"{step.id} is listed twice")
        missing = next((wanted for wanted in one.requires if (wanted.fact in facts) != wanted.holds), None)
        if missing is not None and step.id not in goal.done:
            return Replay(ok=False, step=step.id, why=f"before this: {says(missing)}")
        hangs = _left_on(scope, one, step.along, facts)
        if hangs and step.id not in goal.done:
            return Replay(ok=False, step=step.id, why=f"still on it: {SLOTS[hangs].title.lower()}")
        walked.add(step.id)
        facts = (facts - one.ends) | one.gives
        if one.moves_part:
            (gone if one.takes_off else new).update((one.slot, *step.along))
    left = _left_open(scope, facts, gone, new, walked, goal)
    return Replay(ok=left is None, why=left)


def _operation(scope: Scope, step: Walked, goal: Goal) -> Operation | None:
    name = step.id
    does, slot, word = [*name.split(":", 2), "", ""][:3]
    if (
        does not in DOES
        or (slot != "bike" and slot not in SLOTS)
        or any(one not in SLOTS for one in step.along)
    ):
        return None
    one = operation(scope, name)
    if one is not None:
        return with_riders(one, step.along, scope) if step.along else one
    needed = bool(word) and does in NEED_SORTS and _is_need(word)
    known = needed or word == "misread" or name in goal.allowed | goal.done
    return Operation(id=name, does=does, slot=slot, word=word) if known else None


def _is_need(word: str) -> bool:
    return any(slug(what) == word for what in lookup("needs", "what"))


def slug(words: str) -> str:
    """Return the words of a need as a step's id has them."""
    kept = "".join(letter if letter.isascii() and letter.isalnum() else " " for letter in words.lower())
    return "-".join(kept.split())[:60]


def _left_on(scope: Scope, one: Operation, along: Collection[str], facts: Collection[str]) -> str | None:
    """Return a part that still sits on what comes off and does not go along with it."""
    if not one.takes_off or not one.moves_part or one.slot not in scope.now.parts:
        return None
    riding = {*along, *(child for name in along for child in scope.children_now.get(name, ()))}
    for child in scope.children_now.get(one.slot, ()):
        strict = one.slot in scope.holders(child, scope.now) or one.slot.endswith(("_hub", "_rim"))
        on = any(fact in facts for fact in facts_of_slot(child, scope.now))
        if strict and on and child not in riding:
            return child
    return None


def _left_open(
    scope: Scope,
    facts: Collection[str],
    gone: Collection[str],
    new: Collection[str],
    walked: Collection[str],
    goal: Goal,
) -> str | None:
    """Return the first goal that is not reached, in words."""
    for slot in scope.then.parts:
        if slot in scope.new and slot not in new:
            return f"{SLOTS[slot].title} is not fitted"
        if any(fact not in facts for fact in facts_of_slot(slot, scope.then)):
            return f"{SLOTS[slot].title} is not on"
    for slot in sorted(scope.gone):
        if slot not in gone:
            return f"{SLOTS[slot].title} is not off"
        if slot not in scope.filled_then and any(fact in facts for fact in facts_of_slot(slot, scope.now)):
            return f"{SLOTS[slot].title} is still on"
    wanted = [f"in:{end}" for end in ENDS if f"{end}_hub" in scope.filled_then]
    wanted += [f"joined:{line}" for line in LINES if line in scope.filled_then and _both_ends(scope, line)]
    wanted += [fact for fact in settings() if fact not in starts_false() and scope.givers(fact)]
    wanted += [fact for fact in ("steerer_cut",) if scope.cuts]
    for fact in wanted:
        if fact not in facts:
            return f"left open: {says(Literal(fact=fact))}"
    for defect in goal.defects:
        if not _mended(scope, defect, walked, {*new, *gone}):
            return f"not mended: {defect.ref}"
    return None


def _both_ends(scope: Scope, line: str) -> bool:
    return CONTROL_OF[line] in scope.filled_then or line in scope.filled_now


def _mended(scope: Scope, defect: Defect, walked: Collection[str], changed: Collection[str]) -> bool:
    if defect.slot in changed and defect.slot in scope.gone | scope.new:
        return True
    row = lookup("look_over", "code")[defect.defect]
    return mend_of(row, defect) in walked


def mend_of(row: Mapping[str, object], defect: Defect) -> str:
    """Return the id of the step that mends a defect: its own, or the one of the tables that is its mend."""
    end = defect.slot.partition("_")[0]
    done_by = row.get("settled_by")
    if isinstance(done_by, str):
        return done_by.replace("{end}", end)
    return f"{row.get('does', 'look')}:{defect.slot}:{defect.defect}"
