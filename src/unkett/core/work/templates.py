"""Step templates: the rows of the table `steps`."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.build import Build
from unkett.core.standards import lookup, table
from unkett.core.standards.columns import refers
from unkett.core.vocabulary import SLOTS
from unkett.core.work.facts import ENDS, holds
from unkett.core.work.step import DOES

refers("deed", DOES.__contains__)
STAGES = ("first", "work", "check", "bolts", "ride", "last")


@frozen(kw_only=True, eq=False)
class Template:
    """A step as the table has it; `{end}` in its names stands for front and rear in turn."""

    code: str
    does: str
    slot: str
    word: str = ""
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
    most: float | None = None
    most_setting: str = ""  # the workshop's setting that says the most its reading may be
    after: tuple[str, ...] = ()  # of a workshop's own steps: the steps that they follow
    requires: tuple[str, ...] = ()
    gives: tuple[str, ...] = ()
    brings: str = ""  # the small part that goes in where the control of a line is new
    stage: str = "work"
    caution: str | None = None
    safety: bool = False
    irreversible: bool = False  # cannot be undone: asked once more before it is ticked
    rank: int = 0
    own: bool = False  # a step that the workshop added

    @property
    def id(self) -> str:
        return ":".join(word for word in (self.does, self.slot, self.word) if word)

    def fits(self, end: str, build: Build) -> bool:
        """Return whether a bike is one that the row is for."""
        return all(holds(test.replace("{end}", end), build) for test in self.only)


def _template(rank: int, row: Mapping[str, Any]) -> Template:
    does, slot, word = [*row["code"].partition("#")[0].split(":"), ""][:3]
    reading: dict[str, str] | None = None
    if "slot_attr" in row:
        reading = {"slot": slot, "attr": row["slot_attr"], "unit": row.get("unit", "")}
    elif "reading_word" in row:
        reading = {"word": row["reading_word"], "unit": row.get("unit", "")}
    elif "torque" in row or "stated" in row:
        reading = {"word": "torque", "unit": "Nm"}
    return Template(
        code=row["code"],
        does=does,
        slot=slot,
        word=word,
        only=tuple(row.get("only", ())),
        says=row["says"],
        tools=tuple(row.get("tools", ())),
        compound=row.get("compound"),
        torque=row.get("torque"),
        stated=row.get("stated"),
        thread=row.get("thread"),
        passes=row.get("passes", 1),
        minutes=row["minutes"],
        wait_minutes=lookup("waits", "code")[row["wait"]]["minutes"] if "wait" in row else 0,
        reading=reading,
        most=row.get("most"),
        most_setting=row.get("most_setting", ""),
        requires=tuple(row.get("requires", ())),
        gives=tuple(row.get("gives", ())),
        brings=row.get("brings", ""),
        stage=row.get("stage", "work"),
        caution=lookup("cautions", "code")[row["caution"]]["says"] if "caution" in row else None,
        safety=row.get("safety", False),
        irreversible=row.get("irreversible", False),
        rank=rank,
    )


def _is_step(code: str) -> bool:
    does, slot, *_ = [*code.partition("#")[0].split(":"), ""]
    return does in DOES and (slot == "bike" or all(slot.replace("{end}", end) in SLOTS for end in ENDS))


def _is_torque(code: str) -> bool:
    return all(code.replace("{end}", end) in lookup("tightening", "code") for end in ENDS)


refers("step", _is_step)
refers("torque", _is_torque)


@functools.cache
def shipped() -> tuple[Template, ...]:
    """Return the templates that ship, in the order of the work."""
    return tuple(_template(rank, row) for rank, row in enumerate(table("steps").rows))
