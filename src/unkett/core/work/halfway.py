"""Where a job stands in mid-work: what holds after the steps that are done, and what of them is to be undone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from unkett.core.vocabulary import SLOTS
from unkett.core.work.facts import facts_of_slot
from unkett.core.work.operations import Operation, operation, with_riders
from unkett.core.work.planner import Begun, plan_of
from unkett.core.work.scope import CONTROL_OF, Scope


def halfway(scope: Scope, done: Sequence[str], mends: Mapping[str, Sequence[str]]) -> Begun:
    """Walk the steps that are done. What they moved and no goal asks for any more is taken back."""
    facts = set(scope.facts_at_start())
    if not done:
        return Begun(facts=frozenset(facts))
    wanted = plan_of(scope, mends=mends)
    asked = {one.slot for one in wanted.steps.values() if one.moves_part}
    finished: dict[str, Operation] = {}
    known = {name: one for name in done if (one := operation(scope, name)) is not None}
    own = {one.slot for one in known.values() if one.takes_off and one.moves_part}
    riders = {slot: tuple(one for one in along if one not in own) for slot, along in wanted.riders.items()}
    for name, one in known.items():
        if one.moves_part and one.takes_off and one.slot in scope.now.parts and one.slot not in asked:
            riders[one.slot] = tuple(_riding(scope, one.slot, facts, own))
        one = with_riders(one, riders.get(one.slot, ()), scope) if one.moves_part else one
        finished[name] = one
        facts = (facts - one.ends) | one.gives
    moved = [one for one in finished.values() if one.moves_part]
    along = {slot: names for slot, names in riders.items() if slot in {one.slot for one in moved}}
    return Begun(
        facts=frozenset(facts),
        ids=tuple(done),
        done=finished,
        riders=along,
        back=_to_undo(scope, moved, facts, asked),
    )


def _riding(scope: Scope, slot: str, facts: set[str], own: set[str]) -> Iterable[str]:
    """Return what still is on a part as it comes off and has no step of its own."""
    lines = [line for line, lever in CONTROL_OF.items() if lever == slot] if "frame" in scope.gone else []
    for child in (*scope.children_now.get(slot, ()), *lines):
        if child not in own and all(fact in facts for fact in facts_of_slot(child, scope.now)):
            yield child
            yield from _riding(scope, child, facts, own)


def _to_undo(
    scope: Scope, moved: Sequence[Operation], facts: set[str], asked: set[str]
) -> dict[str, tuple[str, ...]]:
    """Return by slot the ids that undo what was moved for a goal that is gone."""
    fitted = {one.slot for one in moved if not one.takes_off}
    back: dict[str, tuple[str, ...]] = {}
    for slot in SLOTS:
        if slot in asked or slot not in {one.slot for one in moved}:
            continue
        stands = all(fact in facts for fact in facts_of_slot(slot, scope.now))
        if slot not in scope.now.parts:
            back[slot] = (f"take_off:{slot}:back",) if stands else ()
        elif slot in fitted and stands:
            back[slot] = (f"take_off:{slot}:back", f"fit:{slot}:back")
        elif not stands:
            back[slot] = (f"fit:{slot}:back",)
    return back
