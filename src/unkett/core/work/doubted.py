"""Steps that take doubted readings again: those of a part that say one thing twice and do not agree."""

from __future__ import annotations

from collections.abc import Mapping

from unkett.core.build import Build, values_in
from unkett.core.check.engine import check
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS, describe
from unkett.core.vocabulary.double_readings import MISREAD, Misread
from unkett.core.vocabulary.words import in_sentence, listed, value_text
from unkett.core.work.scope import place_of
from unkett.core.work.step import Step

TOLD_BY = ("two_readings", "differ")  # keys of findings of readings that do not agree


def doubted(then: Build, steps: Mapping[str, Step], settings: Settings) -> list[tuple[Step, list[str]]]:
    """One step for every part whose readings do not agree, with the ids of those that wait for it.

    What is fitted or set at a joint of such a part waits; where nothing is, no step is made.
    """
    misread = {slot: values_in(slot, part).get(MISREAD, ()) for slot, part in then.filled().items()}
    if not any(misread.values()):
        return []
    found = []
    findings = [one for one in check(then, settings).findings if one.key in TOLD_BY]
    for slot, differing in misread.items():
        joints = {name for finding in findings if slot in finding.slots for name in finding.slots}
        held = [step.id for step in steps.values() if step.slot in joints and step.does in ("fit", "adjust")]
        if differing and held:
            found.append((_again(slot, differing, min(steps[name].rank for name in held) - 1), held))
    return found


def _again(slot: str, differing: tuple[Misread, ...], rank: int) -> Step:
    again = differing[0].pair.again
    doubts = "; ".join(_doubt_says(slot, one) for one in differing)
    return Step(
        id=f"measure:{slot}:misread",
        slot=slot,
        does="measure",
        says=f"{SLOTS[slot].title}: {doubts}. One of the two is misread: take both again before it is fitted.",
        minutes=4,
        after=("look:bike",),
        reading={"slot": slot, "attr": again, "unit": describe(slot, again).unit},
        causes=("job",),
        place=place_of(slot),
        rank=rank,
    )


def _doubt_says(slot: str, one: Misread) -> str:
    """Return the two readings of a part that do not agree, in words."""
    words = []
    for name, value in ((one.pair.says, one.first), (one.pair.again, one.again)):
        attribute = describe(slot, name)
        figure = value_text(value, attribute.type)
        number = f"{figure:g}" if isinstance(figure, (int, float)) else str(figure)
        words.append(
            " ".join(word for word in (in_sentence(attribute.title), number, attribute.unit) if word)
        )
    return listed(words)
