"""Why a bike on the stand is not to be ridden: parts that are off, and safety settings that a step spoiled."""

from __future__ import annotations

import functools
from collections.abc import Collection, Iterable, Mapping

from attrs import frozen

from unkett.core.standards import table
from unkett.core.work.facts import ENDS, Literal, says


@frozen(kw_only=True)
class Did:
    """What a finished step made true and what it made false."""

    gives: tuple[str, ...]
    ends: tuple[str, ...]


def open_words(done: Iterable[Did], to_come: Collection[str]) -> list[str]:
    """Return what forbids riding in mid-work, in words: `front wheel out`, `front brake not proved`.

    `done` are the finished steps in the order they were done; `to_come` the facts that open steps will make true: what
    none of them does, such as a part that stays off, forbids nothing.
    """
    facts: dict[str, None] = {}
    for step in done:
        facts.update(dict.fromkeys(step.ends))
        for fact in step.gives:
            facts.pop(fact, None)
    words = []
    for fact in facts:
        if fact in to_come:
            if fact.partition(":")[0] in ("on", "in", "joined"):
                words.append(says(Literal(fact=fact, holds=False)))
            elif fact in _safety():
                words.append(_safety()[fact])
    return list(dict.fromkeys(words))


@functools.cache
def _safety() -> Mapping[str, str]:
    """Return by fact what is said while it is open, both ends spelled out."""
    return {
        row["code"].replace("{end}", end): row["open"].replace("{end}", end)
        for row in table("work_facts").rows
        if "open" in row
        for end in (ENDS if "{end}" in row["code"] else ("",))
    }
