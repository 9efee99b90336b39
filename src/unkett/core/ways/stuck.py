"""Why there is no way: a smallest set of joints and wishes that cannot hold together, and which wish to let go of."""

from __future__ import annotations

import time
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.rules import RULES
from unkett.core.vocabulary import SLOTS, describe
from unkett.core.vocabulary.words import in_sentence, value_text
from unkett.core.ways.changes import Changes, evaluate
from unkett.core.ways.model import Found, Guard
from unkett.core.ways.search import Search
from unkett.core.ways.wish import LIST_OPS, Question, Requirement, Wish


@frozen(kw_only=True)
class Cause:
    """A joint that would not go, or a wish."""

    rule: str
    slots: tuple[str, ...]
    says: str
    drop: str = ""

    def to_json(self) -> dict[str, Any]:
        out: dict[str, Any] = {"slots": list(self.slots), "rule": self.rule, "says": self.says}
        return {**out, "drop": self.drop} if self.drop else out


@frozen(kw_only=True)
class Release:
    """A wish whose dropping alone gives a way, and the price of the cheapest way then, in hundredths."""

    drop: str
    says: str
    price: int

    def to_json(self) -> dict[str, Any]:
        return {"drop": self.drop, "price": self.price / 100}


@frozen(kw_only=True)
class Stuck:
    """What cannot hold together, and what would free it."""

    because: tuple[Cause, ...]
    free_by: tuple[Release, ...] = field(factory=tuple)

    def to_json(self) -> dict[str, Any]:
        return {
            "because": [cause.to_json() for cause in self.because],
            "free_by": [release.to_json() for release in self.free_by],
        }


def stuck_of(search: Search) -> Stuck | None:
    """Return the smallest conflict of a question that is proven to have no way; None where time ran out."""
    deadline = time.monotonic() + search.question.seconds
    model = search.model
    guards = dict(model.guards)
    for literal in guards.values():
        model.choices.release(literal)
    model.open_all()
    core = model.choices.conflicting_assumptions(list(guards.values()), seconds=search.question.seconds)
    if core is None:
        return None
    conflict = sorted((name for name, literal in guards.items() if literal in core), key=_order)
    says: dict[Guard, str] = {}
    for name in list(conflict):
        without = [other for other in conflict if other != name]
        found = _together(search, without, deadline)
        if found.changes is None and not found.proven:
            return None
        if found.changes is None:
            conflict = without
        elif name[0] == "joint":
            says[name] = _said(search, name, found.changes)
    causes = tuple(_cause(search.question, name, says) for name in reversed(conflict))
    return Stuck(because=causes, free_by=_releases(search))


def _said(search: Search, name: Guard, changes: Changes) -> str:
    """Return what a joint says where everything else holds together."""
    _, rule, *slots = name
    found = evaluate(search.question, search.baseline, changes).check.findings
    return next(
        (finding.says for finding in found if finding.about == (rule, tuple(slots))), RULES[rule].title
    )


def _order(name: Guard) -> tuple[bool, Guard]:
    """Order what is tried: joints first, so that a conflict is reported by wishes where it can be."""
    return name[0] == "wish", name


def _together(search: Search, names: Iterable[Guard], deadline: float) -> Found:
    """Return any changes by which these wishes and joints hold together."""
    model = search.model
    model.active = set(names)
    for name, literal in model.guards.items():
        model.choices.fix(literal, name in model.active)
    found = model.minimize((), deadline)
    model.active = None
    return found


def _releases(search: Search) -> tuple[Release, ...]:
    """Return every single wish whose dropping gives a way."""
    model, found = search.model, []
    wishes = [name for name in model.guards if name[0] == "wish"]
    for name in wishes:
        for other, literal in model.guards.items():
            model.choices.fix(literal, other != name)
        model.dropped = name
        cheapest = model.minimize((("price", 1),), time.monotonic() + search.question.seconds)
        model.dropped = None
        if cheapest.changes is not None:
            question = evolve(search.question, wish=_without(search.question, name[1]))
            price = Search.lay(evolve(search, question=question), cheapest.changes).charged
            says = _wish_says(search.question, name[1])[1]
            found.append(Release(drop=name[1], says=says, price=price))
    return tuple(found)


def _without(question: Question, drop: str) -> Wish:
    """Return the wish without one of its parts."""
    wish = question.wish
    part, _, which = drop.partition(".")
    if part.startswith("require["):
        place = int(part[8:-1])
        return evolve(wish, require=tuple(row for n, row in enumerate(wish.require) if n != place))
    changes: dict[str, Any] = {part: None}
    if part in ("keep", "fit", "empty"):
        changes = {part: tuple(name for name in getattr(wish, part) if name != which)}
    if part == "allow_unmeasured":
        changes = {part: True}
    return evolve(wish, **changes)


def _cause(question: Question, name: Guard, says: Mapping[Guard, str]) -> Cause:
    if name[0] == "wish":
        wished, words = _wish_says(question, name[1])
        return Cause(rule="wish", slots=wished, says=words, drop=name[1])
    _, rule, *slots = name
    return Cause(rule=rule, slots=tuple(slots), says=says[name])


def _wish_says(question: Question, drop: str) -> tuple[tuple[str, ...], str]:
    """Return a wish's slots and its words."""
    wish = question.wish
    part, _, which = drop.partition(".")
    if part.startswith("require["):
        row = wish.require[int(part[8:-1])]
        return (row.slot,), required(row)
    if part == "keep":
        return (which,), f"The {SLOTS[which].title.lower()} stays as it is."
    if part == "empty":
        return (which,), f"No {SLOTS[which].title.lower()} is fitted."
    if part == "fit":
        shelf = next(row for row in question.shelf if row.id == which)
        return shelf.slots, f"{shelf.part.name or which} goes on."
    if part == "gears":
        return ("chainrings", "cassette"), "The gears reach what is wished."
    if part == "price_max" and wish.price_max is not None:
        return (), f"It costs {wish.price_max / 100:.2f} at most."
    if part == "ready_in_days_max":
        return (), f"It is ready in {wish.ready_in_days_max} days at most."
    return (), "Nothing stays unmeasured that is not so now."


_OPS = {
    "==": "", "!=": "not ", "<=": "at most ", ">=": "at least ", "in": "one of ",
    "max<=": "the largest at most ", "max>=": "the largest at least ", "min<=": "the smallest at most ",
    "min>=": "the smallest at least ", "len==": "this many of them: ", "has": "with ",
}  # fmt: skip


def required(row: Requirement) -> str:
    """Return a required property in words."""
    declared = describe(row.slot, row.attr)
    values = row.value if row.op == "in" else (row.value,)
    item = row.op in LIST_OPS
    shown = ", ".join(str(value if item else value_text(value, declared.type)) for value in values)
    unit = f" {declared.unit}" if declared.unit and row.op != "len==" else ""
    return f"{SLOTS[row.slot].title}, {in_sentence(declared.title)}: {_OPS[row.op]}{shown}{unit}."
