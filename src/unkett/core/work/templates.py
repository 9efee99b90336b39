"""Step templates: rows of the table `steps`, and a workshop's own over them."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build
from unkett.core.errors import Fault, InputError, listed, nearest
from unkett.core.standards import lookup, table
from unkett.core.standards.columns import refers
from unkett.core.vocabulary import SLOTS
from unkett.core.work.step import DOES

ENDS = ("front", "rear")
refers("deed", DOES.__contains__)
MINUTES_MAX = 1440
SAYS_MAX = 400


@frozen(kw_only=True)
class Template:
    """A step as the table has it; `{end}` in its names stands for front and rear in turn."""

    code: str
    does: str
    slot: str
    word: str = ""
    on: str
    only: tuple[str, ...] = ()
    says: str
    tools: tuple[str, ...] = ()
    compound: str | None = None
    torque: str | None = None
    stated: str | None = None
    thread: str | None = None
    passes: int = 1
    minutes: int = 0
    wait_minutes: int = 0
    reading: Mapping[str, str] | None = None
    after: tuple[str, ...] = ()
    caution: str | None = None
    safety: bool = False
    rank: int = 0

    @property
    def id(self) -> str:
        return ":".join(word for word in (self.does, self.slot, self.word) if word)

    def fits(self, end: str, build: Build) -> bool:
        """Whether a bike is one that the row is for."""
        return all(holds(test.replace("{end}", end), build) for test in self.only)


def holds(test: str, build: Build) -> bool:
    """A test of a row.

    `slot` is fitted, `!slot` is not; `slot.attr` is known and not nothing, is one of (`=a|b`) or none of (`!=a|b`).
    """
    filled = build.filled()
    if test.startswith("!"):
        return test[1:] not in filled
    name, sign, codes = test.partition("!=" if "!=" in test else "=")
    slot, _, attr = name.partition(".")
    part = filled.get(slot)
    if not attr:
        return part is not None
    value = None if part is None else part.attrs.get(attr)
    said = (
        set(value) if isinstance(value, (list, tuple)) else {str(value).lower() if value is True else value}
    )
    if sign == "!=":
        return not said & set(codes.split("|"))
    return bool(said & set(codes.split("|"))) if sign else value not in (None, False, 0)


def _template(rank: int, row: Mapping[str, Any]) -> Template:
    waits = lookup("waits", "code")
    slot = row["slot"]
    reading: dict[str, str] | None = None
    if "slot_attr" in row:
        reading = {"slot": slot, "attr": row["slot_attr"], "unit": row.get("unit", "")}
    elif "reading_word" in row:
        reading = {"word": row["reading_word"], "unit": row.get("unit", "")}
    elif "torque" in row or "stated" in row:
        reading = {"word": "torque", "unit": "Nm"}
    return Template(
        code=row["code"],
        does=row["does"],
        slot=slot,
        word=row.get("word", ""),
        on=row["on"],
        only=tuple(row.get("only", ())),
        says=row["says"],
        tools=tuple(row.get("tools", ())),
        compound=row.get("compound"),
        torque=row.get("torque"),
        stated=row.get("stated"),
        thread=row.get("thread"),
        passes=row.get("passes", 1),
        minutes=row["minutes"],
        wait_minutes=waits[row["wait"]]["minutes"] if "wait" in row else 0,
        reading=reading,
        after=tuple(row.get("after", ())),
        caution=lookup("cautions", "code")[row["caution"]]["says"] if "caution" in row else None,
        safety=row.get("safety", False),
        rank=rank,
    )


@functools.cache
def shipped() -> tuple[Template, ...]:
    """The templates that ship, in the order of the work."""
    return tuple(_template(rank, row) for rank, row in enumerate(table("steps").rows))


@frozen(kw_only=True)
class OwnStep:
    """A workshop's own step: written over a row that ships (`code`), or one more on a slot after another step."""

    code: str
    does: str
    slot: str
    says: str
    minutes: int
    wait_minutes: int = 0
    after: tuple[str, ...] = ()
    left_out: bool = False


def with_own(own: Sequence[OwnStep]) -> tuple[Template, ...]:
    """The templates with a workshop's own over them. Raises InputError where these cannot be."""
    faults = list(_faults(own))
    if faults:
        raise InputError(faults)
    by_code = {one.code: one for one in own}
    found = []
    for row in shipped():
        mine = by_code.pop(row.code, None)
        if mine is None:
            found.append(row)
        elif not mine.left_out:
            found.append(_written_over(row, mine))
    rank = len(shipped())
    for n, mine in enumerate(by_code.values()):
        found.append(_own_template(rank + n, mine))
    return tuple(found)


def _written_over(row: Template, mine: OwnStep) -> Template:
    after = tuple(dict.fromkeys((*row.after, *mine.after)))
    return evolve(row, says=mine.says, minutes=mine.minutes, wait_minutes=mine.wait_minutes, after=after)


def _own_template(rank: int, mine: OwnStep) -> Template:
    on = "always" if mine.slot == "bike" else "on"
    word = mine.code.rpartition(":")[2]
    after = tuple(dict.fromkeys((*mine.after, f"fit:{mine.slot}")))
    return Template(
        code=mine.code, does=mine.does, slot=mine.slot, word=word, on=on, says=mine.says,
        minutes=mine.minutes, wait_minutes=mine.wait_minutes, after=after, rank=rank,
    )  # fmt: skip


def _faults(own: Sequence[OwnStep]) -> Iterable[Fault]:
    """What is wrong with a workshop's own steps, each told by its name."""
    known = {row.id for row in shipped()} | {one.code for one in own}
    for one in own:
        if one.slot != "bike" and one.slot not in SLOTS and one.slot.replace("{end}", "front") not in SLOTS:
            says = f"{one.slot or 'no slot'} given; a slot, or bike for the whole of it{nearest(one.slot, SLOTS)}"
            yield Fault(path=f"{one.code}.slot", says=says)
        if one.does not in DOES:
            yield Fault(path=f"{one.code}.does", says=f"{one.does} given; {listed(DOES)} allowed")
        for name in ("minutes", "wait_minutes"):
            if not 0 <= getattr(one, name) <= MINUTES_MAX * (1 if name == "minutes" else 60):
                yield Fault(
                    path=f"{one.code}.{name}", says=f"{getattr(one, name)} given; 0 and more minutes allowed"
                )
        if not 1 <= len(one.says.strip()) <= SAYS_MAX:
            yield Fault(path=f"{one.code}.says", says=f"a sentence of 1 to {SAYS_MAX} characters is wanted")
        for name in one.after:
            if name not in known:
                yield Fault(path=f"{one.code}.after", says=f"{name} is no step{nearest(name, sorted(known))}")
    loop = _loop(_links(own))
    if loop:
        yield Fault(path=f"{loop[0]}.after", says=f"these steps wait for each other: {' → '.join(loop)}")


def _links(own: Sequence[OwnStep]) -> dict[str, list[str]]:
    """By step all that it is after, as names; what the rows say with a star is spelled out."""
    rows = {row.code: row for row in shipped()}
    said: dict[str, tuple[str, ...]] = {row.id: row.after for row in rows.values()}
    for one in own:
        row = rows.get(one.code)
        name = row.id if row else one.code
        said[name] = (*said.get(name, ()), *one.after)
    final = {name for name, after in said.items() if "*" in after}
    found: dict[str, list[str]] = {}
    for name, after in said.items():
        first = [] if name.startswith("look:") else ["look:bike"]
        found[name] = [*first, *(one for link in after for one in _meant(link, said, final) if one != name)]
    return found


def _meant(link: str, said: Mapping[str, object], final: set[str]) -> list[str]:
    """The names that a link of a row stands for."""
    link = link.rpartition(">")[2].replace("{any}", "{end}")
    if link == "*":
        return [name for name in said if name not in final]
    if link == "check:*":
        return [name for name in said if name.startswith("check:") and not name.startswith("check:bike:")]
    if link.endswith("*"):
        return [name for name in said if name.startswith(link[:-1])]
    return [link]


def _loop(after: Mapping[str, Sequence[str]]) -> list[str]:
    """Steps that wait for each other in a ring, or none."""
    done: set[str] = set()
    for first in after:
        path: list[str] = []
        stack = [(first, iter(after[first]))]
        path.append(first)
        while stack:
            name, rest = stack[-1]
            follow = next((one for one in rest if one in after and one not in done), None)
            if follow is None:
                done.add(name)
                stack.pop()
                path.pop()
            elif follow in path:
                return [*path[path.index(follow) :], follow]
            else:
                path.append(follow)
                stack.append((follow, iter(after[follow])))
    return []
