"""What a step requires, makes true, ends and spoils, from the tables, by its id."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence

from attrs import evolve, frozen

from unkett.core.build import Build
from unkett.core.standards import lookup, table
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import OwnFinding
from unkett.core.work.facts import ENDS, SIDES, Literal, facts_of_slot, holds, literals
from unkett.core.work.package_steps import TORQUE, fit_step, reached_by, torque_row
from unkett.core.work.scope import Holds, Scope, body_of, held
from unkett.core.work.templates import Template

PARTS_OF_WHEEL = ("hub", "rim", "spokes", "tyre", "valve", "rotor", "axle", "hub_bearings")
BACK, AGAIN = "back", "again"
WHOLE = "whole"  # of a wheel that comes off as one piece
PART_WORDS = ("", "left", "right", "drive", "other", BACK)


@frozen(kw_only=True)
class Operation:
    """A step as facts: all of `requires` hold when it begins; `gives` hold after it and `ends` no longer do."""

    id: str
    does: str
    slot: str
    word: str = ""
    row: Template | None = None
    end: str = ""
    requires: tuple[Literal, ...] = ()
    gives: frozenset[str] = frozenset()
    ends: frozenset[str] = frozenset()
    stage: str = "work"

    @property
    def takes_off(self) -> bool:
        return self.does == "take_off"

    @property
    def moves_part(self) -> bool:
        """Whether it takes a part off its place or puts it on."""
        return self.does in ("take_off", "fit") and self.word in PART_WORDS


@frozen(kw_only=True)
class Spoils:
    """A row of the table `spoils`, for one end."""

    only: tuple[str, ...]
    new: bool
    settings: tuple[str, ...]


@functools.cache
def spoilers() -> Mapping[str, tuple[Spoils, ...]]:
    """Return by step id what it spoils."""
    found: dict[str, list[Spoils]] = {}
    for row in table("spoils").rows:
        for by in row["by"]:
            texts = [by, *row["settings"]]
            for end in ENDS if any("{end}" in text for text in texts) else ("",):
                one = Spoils(
                    only=tuple(test.replace("{end}", end) for test in row.get("only", ())),
                    new=row.get("new", False),
                    settings=tuple(name.replace("{end}", end) for name in row["settings"]),
                )
                found.setdefault(by.replace("{end}", end), []).append(one)
    return {name: tuple(ones) for name, ones in found.items()}


def end_of(slot: str) -> str:
    """Return the end that a slot names, or none."""
    end = slot.partition("_")[0]
    return end if end in ENDS else ""


def row_for(scope: Scope, name: str) -> tuple[Template, str] | None:
    """Return the first row for an id that fits the bike, with its end: now for what comes off, else as planned."""
    does, slot, word = [*name.split(":", 2), ""][:3]
    end = end_of(slot)
    general = slot.replace(f"{end}_", "{end}_", 1) if end else slot
    build = scope.now if does in ("take_off", "look") else scope.then
    for row in _rows_by_id(tuple(scope.templates)).get((does, word), ()):
        if row.slot in (slot, general) and row.fits(end, build):
            return row, end
    return None


@functools.lru_cache(maxsize=8)
def _rows_by_id(templates: tuple[Template, ...]) -> Mapping[tuple[str, str], tuple[Template, ...]]:
    found: dict[tuple[str, str], list[Template]] = {}
    for row in templates:
        found.setdefault((row.does, row.word), []).append(row)
    return {key: tuple(rows) for key, rows in found.items()}


def operation(scope: Scope, name: str) -> Operation | None:
    """Return what a step of the tables requires and does, by its id; None for an id that no table has.

    `:back` after a slot undoes what was done for a goal that is gone; `:again` after an id does it a second time.
    """
    base = name.removesuffix(f":{AGAIN}")
    does, slot, word = [*base.split(":", 2), "", ""][:3]
    if base != name:
        once = operation(scope, base)
        return once and evolve(once, id=name)
    if word == BACK:
        return _back(scope, does, slot)
    if does == "check" and word.partition("_")[0] == TORQUE:
        return _torque(scope, base, slot, word)
    found = row_for(scope, f"{name}:{WHOLE}" if _set_aside(scope, does, slot, word) else name)
    if word in lookup("look_over", "code"):
        return _mend(scope, name, found)
    if found is None:
        return None
    row, end = found
    build = scope.now if does == "take_off" else scope.then
    texts = list(literals(row.requires, end))
    gives = {text.replace("{end}", end) for text in row.gives}
    ends: set[str] = set()
    moves = does in ("take_off", "fit") and (not word or word in SIDES.get(slot, ()))
    if moves:
        texts += _reached(scope, does, slot, build)
        mine = _facts_moved(slot, word, build)
        texts += [Literal(fact=fact, holds=does == "take_off") for fact in mine]
        (ends if does == "take_off" else gives).update(mine)
        if does == "take_off" and slot.endswith("_line"):
            ends.add(f"joined:{slot}")
    elif word == "wheel" and does in ("take_off", "fit"):
        texts += _wheel(scope, does, end)
        (ends if does == "take_off" else gives).add(f"in:{end}")
    elif word == "release":
        texts.append(Literal(fact=f"joined:{slot}"))
        ends.add(f"joined:{slot}")
    elif word == "unstack":
        ends.add("stacked")
    ends |= _spoiled(scope, name, slot)
    requires = dict.fromkeys(one for text in texts for one in scope.means(text, build))
    return Operation(
        id=name,
        does=does,
        slot=slot,
        word=word,
        row=row,
        end=end,
        requires=tuple(requires),
        gives=frozenset(gives),
        ends=frozenset(ends - gives),
        stage=row.stage,
    )


def _torque(scope: Scope, name: str, slot: str, word: str) -> Operation | None:
    """Return the step that reads the torque of a part that is on; None for a part whose bolts have none."""
    found = row_for(scope, fit_step(name)) if slot in scope.filled_then else None
    row = torque_row(found[0]) if found else None
    if found is None or row is None:
        return None
    reached = reached_by(slot)
    texts = [*reached, *(Literal(fact=fact) for fact in facts_of_slot(slot, scope.then))]
    requires = dict.fromkeys(one for text in texts for one in scope.means(text, scope.then))
    return Operation(
        id=name,
        does="check",
        slot=slot,
        word=word,
        row=row,
        end=found[1],
        requires=tuple(requires),
        stage="work" if any(not one.holds for one in reached) else "check",
    )


def _set_aside(scope: Scope, does: str, slot: str, word: str) -> bool:
    """Return whether a step takes a wheel off as one piece."""
    return (
        does == "take_off"
        and not word
        and slot.endswith("_hub")
        and slot.partition("_")[0] in scope.whole_wheels
    )


def own_operation(scope: Scope, found: OwnFinding) -> Operation:
    """Return the work of a finding in somebody's own words: on its part, which nothing else is known of."""
    there = (
        [Literal(fact=fact) for fact in facts_of_slot(found.slot, scope.then)] if found.slot in SLOTS else []
    )
    row = Template(
        code=found.step,
        does="adjust",
        slot=found.slot,
        word=found.code,
        says=found.says,
        minutes=found.minutes,
    )
    return Operation(
        id=found.step,
        does="adjust",
        slot=found.slot,
        word=found.code,
        row=row,
        requires=tuple(one for text in there for one in scope.means(text, scope.then)),
    )


def _back(scope: Scope, does: str, slot: str) -> Operation | None:
    """Return what undoes a change: all of a part off, or on, at once."""
    build = scope.now if slot in scope.now.parts else scope.then
    like = operation(scope, part_steps(does, slot, build)[0])
    if like is None:
        return None
    facts = frozenset(_facts_moved(slot, "", build))
    own = [one for one in like.requires if one.fact not in facts]
    requires = tuple(one for one in own if not (like.takes_off and one.holds))
    ends, gives = (like.ends | facts, like.gives) if like.takes_off else (like.ends, like.gives | facts)
    return evolve(like, id=f"{does}:{slot}:{BACK}", word=BACK, requires=requires, ends=ends, gives=gives)


def _facts_moved(slot: str, word: str, build: Build) -> set[str]:
    """The facts that a part's coming off or going on is: all slots that it fills, one side of a part with two."""
    if word:
        return {f"on:{slot}:{word}"}
    part = build.parts.get(slot)
    slots = (slot, *(part.also if part else ()))
    return {fact for one in slots for fact in facts_of_slot(one, build)}


def _reached(scope: Scope, does: str, slot: str, build: Build) -> list[Literal]:
    """Return what must be out of the way of a part, and there, to take it off or put it on."""
    holding = held().get(slot, Holds())
    part = build.parts.get(slot)
    found = [*holding.reach]
    for also in part.also if part else ():
        found += held().get(also, Holds()).reach
    changed = scope.gone if does == "take_off" else scope.new
    if slot in changed:
        found += [
            one
            for name in (slot, *(part.also if part else ()))
            for one in held().get(name, Holds()).reach_changed
        ]
    if does == "fit":
        found += holding.fit_after
        found += [Literal(fact=f"on:{one}") for one in scope.holders(slot, build)]
        return found
    if slot in scope.gone:
        found += holding.reach_off
    found += [Literal(fact=f"on:{one}") for one in scope.holders(slot, build)]
    carriers = scope.carriers(slot, build)
    found += [Literal(fact=f"on:{one}") for one in carriers if one.endswith(("_hub", "_rim"))]
    return [*found, *(children_off(scope, slot) if slot in scope.gone else ())]


def children_off(scope: Scope, slot: str) -> list[Literal]:
    """Return what a part holds, off it before it comes off for good; what it only carries comes off in the hand."""
    strict = slot.endswith(("_hub", "_rim"))
    children = [
        one
        for one in scope.children_now.get(slot, ())
        if (strict or slot in scope.holders(one, scope.now)) and not scope.rides_whole(one)
    ]
    texts = [Literal(fact=f"on:{one}", holds=False) for one in children]
    return [one for text in texts for one in scope.means(text, scope.now)]


def _wheel(scope: Scope, does: str, end: str) -> list[Literal]:
    if does == "take_off":
        return [Literal(fact=f"in:{end}")]
    parts = [f"{end}_{kind}" for kind in PARTS_OF_WHEEL] + (["cassette"] if end == "rear" else [])
    holder = "fork" if end == "front" else "frame"
    there = [slot for slot in (holder, *parts) if slot in scope.filled_then]
    made = [f"wheel_true_{end}"]
    return [
        Literal(fact=f"in:{end}", holds=False),
        *(Literal(fact=f"on:{slot}") for slot in there),
        *(Literal(fact=fact) for fact in made),
    ]


def _spoiled(scope: Scope, name: str, slot: str) -> set[str]:
    """Return the settings that a step leaves to be made again, as far as something on this bike makes them."""
    changed = (
        body_of(slot, scope.then) in scope.new or body_of(slot, scope.now) in scope.gone
        if slot in SLOTS
        else False
    )
    parts = [name]
    for build in (scope.now, scope.then):
        part = build.parts.get(slot)
        does, _, rest = name.partition(":")
        if part and part.also and rest == slot:
            parts += [f"{does}:{also}" for also in part.also]
    return {
        setting
        for one in dict.fromkeys(parts)
        for row in spoilers().get(one, ())
        if (changed or not row.new) and all(holds(test, scope.then) for test in row.only)
        for setting in row.settings
        if scope.givers(setting)
    }


def _mend(scope: Scope, name: str, found: tuple[Template, str] | None) -> Operation:
    """Return a mend of the inspection's table: what it says of the way to it, and what it leaves to be made again."""
    does, slot, code = name.split(":", 2)
    row, end = found or (None, end_of(slot))
    tick_row = lookup("look_over", "code")[code]
    texts = literals(row.requires if row and row.requires else tuple(tick_row.get("requires", ())), end)
    if slot in SLOTS and all(one.holds for one in texts):
        texts = (*texts, Literal(fact=f"on:{slot}"))
    requires = dict.fromkeys(one for text in texts for one in scope.means(text, scope.then))
    spoils = literals(tuple(tick_row.get("spoils", ())), end)
    ends = {one.fact for one in spoils if not one.test or holds(one.test, scope.then)}
    return Operation(
        id=name,
        does=does,
        slot=slot,
        word=code,
        row=row,
        end=end,
        requires=tuple(requires),
        ends=frozenset(fact for fact in ends if scope.givers(fact)),
        gives=frozenset({f"mended:{slot}:{code}"}),
    )


def with_riders(one: Operation, riders: Sequence[str], scope: Scope) -> Operation:
    """Return an operation that takes other parts along: what is on them comes off or goes on with it."""
    build = scope.now if one.takes_off else scope.then
    if not riders:
        return one
    facts = {fact for slot in riders for fact in _facts_moved(slot, "", build)}
    if one.takes_off:
        return evolve(one, ends=one.ends | facts)
    return evolve(one, gives=one.gives | facts)


def part_steps(does: str, slot: str, build: Build) -> Sequence[str]:
    """Return the ids that take a slot's part off, or put it on, in the order of the hands."""
    sides = [fact.split(":")[2] for fact in facts_of_slot(slot, build) if fact.count(":") == 2]
    if does == "take_off":
        sides.reverse()
    return [f"{does}:{slot}:{side}" for side in sides] or [f"{does}:{slot}"]
