"""What may stand in each slot, as yes/no answers: what stays, what comes off, what goes on.

A slot is filled by its own part or by one that stands in two slots. Alike states, in all that any rule, want or wish
reads, make a group; joints are tabled over groups, never over single parts.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable, Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.build import values_in
from unkett.core.check.engine import signature, values_of
from unkett.core.check.open_slots import READS as WANT_READS
from unkett.core.check.open_slots import WANTS, open_slots
from unkett.core.solver import ConstraintModel
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.wish import Question, ShelfPart

GEAR_READS = {
    "chainrings": ("teeth",),
    "cassette": ("teeth",),
    "rear_hub": ("internal_gears",),
    "rear_rim": ("bsd_mm",),
    "rear_tyre": ("bsd_mm", "width_measured_mm", "width_mm"),
}


@frozen(kw_only=True, eq=False)
class State:
    """What a slot may hold: a part's values, or None where nothing stands there; `choice` puts it there."""

    literal: int
    values: Mapping[str, Any] | None
    known_empty: bool = False
    part: ShelfPart | None = None
    stays: bool = False


@frozen(kw_only=True, eq=False)
class Group:
    """States of a slot that nothing tells apart."""

    place: int
    states: tuple[State, ...]
    values: Mapping[str, Any] | None
    known_empty: bool
    signs: Mapping[str, Hashable]  # by name, none where nothing stands there

    def sign(self, names: Iterable[str]) -> Hashable:
        """Return what tells it apart from others of its slot in these names."""
        return self.known_empty if self.values is None else tuple([self.signs[name] for name in names])


@frozen(kw_only=True, eq=False)
class Domains:
    """The states and groups of every slot, and the answers that make a change: by slot and id, None taking off."""

    choices: ConstraintModel
    states: dict[str, list[State]] = field(factory=dict)
    groups: dict[str, list[Group]] = field(factory=dict)
    changes: dict[tuple[str, str | None], int] = field(factory=dict)
    stays: dict[str, int] = field(factory=dict)  # the answer by which a slot is not named by a change
    nothing: dict[str, int] = field(factory=dict)  # the answer by which a slot ends with nothing in it


def domains_of(question: Question) -> Domains:
    """Return every choice of a question, none left out yet."""
    choices = ConstraintModel()
    domains = Domains(choices=choices)
    build, holders = question.build, question.holders()
    also: dict[str, list[tuple[int, ShelfPart]]] = defaultdict(list)
    for slot in SLOTS:
        if slot in build.parts:
            domains.stays[slot] = choices.new_bool(f"keep {slot}")
            domains.changes[slot, None] = choices.new_bool(f"empty {slot}")
    own: dict[str, list[State]] = {slot: [] for slot in SLOTS}
    for part in sorted(question.shelf, key=lambda part: part.id):
        if part.count < 1:
            continue
        for slot in part.slots:
            literal = domains.changes[slot, part.id] = choices.new_bool(f"{slot} = {part.id}")
            own[slot].append(State(literal=literal, values=values_in(slot, part.part), part=part))
            for other in part.part.also:
                also[other].append((literal, part))
    for slot in SLOTS:
        _slot(domains, question, slot, holders.get(slot), own[slot], also[slot])
    _counts(domains, question)
    return domains


def _slot(
    domains: Domains,
    question: Question,
    slot: str,
    holder: str | None,
    own: list[State],
    also: list[tuple[int, ShelfPart]],
) -> None:
    """Return the states of one slot; exactly one of them holds."""
    build, choices = question.build, domains.choices
    states: list[State] = []
    if holder is not None:
        stays = domains.stays[holder]
        states.append(State(literal=stays, values=values_in(slot, build.parts[holder]), stays=True))
    states += own
    states += [State(literal=literal, values=values_in(slot, part.part), part=part) for literal, part in also]
    if slot in build.parts:
        off = domains.changes[slot, None]
        choices.add_exactly_one([domains.stays[slot], off, *(state.literal for state in own)])
        nothing = choices.new_bool(f"nothing in {slot}") if also else off
        if also:
            choices.add_or([~nothing, off])
    else:
        nothing = choices.new_bool(f"nothing in {slot}")
        if own:
            domains.stays[slot] = choices.new_bool(f"keep {slot}")
            choices.add_exactly_one([domains.stays[slot], *(state.literal for state in own)])
    domains.nothing[slot] = nothing
    known = holder is not None or slot in build.empty
    states.append(State(literal=nothing, values=None, known_empty=known, stays=holder is None))
    choices.add_exactly_one([state.literal for state in states])
    domains.states[slot] = states
    domains.groups[slot] = _grouped(slot, states)


def _counts(domains: Domains, question: Question) -> None:
    """Require that no shelf part is used more often than there are."""
    for part in question.shelf:
        uses = [domains.changes[slot, part.id] for slot in part.slots if (slot, part.id) in domains.changes]
        if len(uses) > part.count:
            domains.choices.add_at_most(dict.fromkeys(uses, 1), part.count)


def _names(slot: str) -> tuple[str, ...]:
    """Return all names that tell two parts in a slot apart."""
    wants = (word.partition(".")[2] for word in WANT_READS if word.startswith(f"{slot}."))
    return tuple(sorted({*values_of(slot), *wants, *GEAR_READS.get(slot, ())}))


def _grouped(slot: str, states: list[State]) -> list[Group]:
    names = _names(slot)
    by_signs: dict[Any, list[State]] = {}
    for state in states:
        by_signs.setdefault(signature(state.values, state.known_empty, names), []).append(state)
    found: list[Group] = []
    for own, alike in by_signs.items():
        values, known_empty = alike[0].values, alike[0].known_empty
        words = {} if values is None else dict(zip(names, own, strict=True))
        found.append(
            Group(place=len(found), states=tuple(alike), values=values, known_empty=known_empty, signs=words)
        )
    return found


def left_open(question: Question, place: int) -> list[str]:
    """The slots of a want that the changes must not leave with nothing in them, unless the wish wants them so."""
    build = question.build
    filled = build.filled()
    open_before = set(open_slots(build)) | build.empty
    return [slot for slot in WANTS[place].slots if slot in filled or slot not in open_before]
