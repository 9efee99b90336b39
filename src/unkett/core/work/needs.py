"""What a plan's findings need, as steps: one for each need, and the alternative that is taken."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.rules.finding import Finding
from unkett.core.rules.outcome import need_words
from unkett.core.standards import limit_of, lookup
from unkett.core.vocabulary import SLOTS, Area
from unkett.core.work.facts import ENDS, facts_of_slot
from unkett.core.work.planner import Plan
from unkett.core.work.readings import CUT
from unkett.core.work.replay import slug
from unkett.core.work.scope import Scope, place_of
from unkett.core.work.step import Step

Need = Mapping[str, Any]
CUT_STEP, STEERER_STEP = "prepare:fork:cut", "measure:fork:steerer"
SPACERS = "spacers above the stem"
LAST_RANK = 10_000


@frozen(kw_only=True)
class NeedStep:
    """The steps of a need, the last its own, and the ids that come after it."""

    steps: tuple[Step, ...]
    before: tuple[str, ...] = ()


def groups_of(finding: Finding, chosen: Sequence[Need]) -> list[list[Need]]:
    """The needs of a finding; of those that may stand for each other the one taken is first.

    What the plan chose is taken; else what can be undone before what cannot, then the cheapest.
    """
    either: dict[int, list[Need]] = {}
    groups: list[list[Need]] = []
    for need in finding.needs:
        if "either" not in need:
            groups.append([need])
        elif need["either"] in either:
            either[need["either"]].append(need)
        else:
            groups.append(either.setdefault(need["either"], [need]))
    picked = {
        one["what"]
        for one in chosen
        if one["rule"] == finding.rule and set(one["slots"]) == set(finding.slots)
    }
    return [sorted(group, key=lambda need: (need["what"] not in picked, *_cost(need))) for group in groups]


def _cost(need: Need) -> tuple[bool, bool, float, float]:
    """Return what tells which need is taken of those that may stand for each other, the least first."""
    row = lookup("needs", "what")[need["what"]]
    tall = need["what"] == SPACERS and need.get("size_mm", 0) > limit_of("spacers_above_mm")
    return tall, "irreversible" in row, row.get("price", 0.0), row.get("minutes", 0)


def take_need(
    finding: Finding, group: Sequence[Need], steps: Mapping[str, Step], plan: Plan
) -> NeedStep | tuple[str, tuple[str, ...]]:
    """A need as steps of its own; else the id of the step that settles it, empty where it is accepted at the end."""
    scope = plan.scope
    slot = slot_of(finding, scope)
    first, whats = group[0], tuple(str(need["what"]) for need in group)
    row = lookup("needs", "what")[first["what"]]
    if first["sort"] == "accept":
        return "", whats
    does = {"part": "fit", "work": row.get("step", "prepare"), "check": "check"}[first["sort"]]
    does = row["step"] if first["sort"] == "check" and row.get("step") in ("measure", "look") else does
    name = f"{does}:{slot}:{slug(first['what'])}"
    settled = (
        CUT_STEP
        if first["what"] == CUT
        else row.get("settled_by", "").replace("{end}", slot.partition("_")[0])
    )
    name = settled if settled in steps or settled in plan.done else name
    if name in steps or name in plan.done:
        return name, whats
    early = first["sort"] == "part" or does == "prepare"
    after = {"look:bike"}
    for one in finding.slots:
        for done in ("take_off",) if early else ("fit", "adjust"):
            after |= {known for known in steps if _is_on(known, done, one)}
    if not early:
        after |= {f"fit:{end}_hub:wheel" for end in _ends_of(finding)} & steps.keys()
    made: list[Step] = []
    rows = [lookup("needs", "what")[what] for what in whats]
    cannot = next((one["irreversible"] for one in rows if "irreversible" in one), None)
    if CUT in whats and (STEERER_STEP in steps or STEERER_STEP in plan.done):
        after.add(STEERER_STEP)
    elif cannot:
        measured = _measured(slot, first, cannot, steps)
        after.add(measured.id)
        made += [] if measured.id in plan.done else [measured]
    words = need_says(first) + "".join(f" (or {need_says(other)})" for other in group[1:])
    made.append(
        Step(
            id=name,
            slot=slot,
            does=does,
            says=f"{words[0].upper()}{words[1:]}. {finding.says}",
            minutes=round(row.get("minutes", 5)),
            after=tuple(sorted(after - {name})),
            caution=lookup("cautions", "code")[cannot]["says"] if cannot else None,
            safety=is_safety(slot) and does in ("fit", "adjust", "check"),
            needs=whats,
            irreversible=bool(cannot),
            causes=tuple(f"need:{what}" for what in whats[:1]),
            place=place_of(slot),
            rank=_rank_of(slot, steps, early),
        )
    )
    return NeedStep(steps=tuple(made), before=_counting_on(slot, plan) if early else ())


def _counting_on(slot: str, plan: Plan) -> tuple[str, ...]:
    """Return the steps that put a slot's part on or count on its being on."""
    facts = set(facts_of_slot(slot, plan.scope.then))
    return tuple(
        name
        for name, one in plan.steps.items()
        if not one.takes_off
        and (facts & one.gives or any(need.holds and need.fact in facts for need in one.requires))
    )


def _ends_of(finding: Finding) -> set[str]:
    """Return the wheels that a finding's parts turn with: of their end, of the drivetrain the rear one."""
    ends = {slot.partition("_")[0] for slot in finding.slots}
    drives = any(slot in SLOTS and SLOTS[slot].area is Area.DRIVETRAIN for slot in finding.slots)
    return {end for end in ENDS if end in ends} | ({"rear"} if drives else set())


def slot_of(finding: Finding, scope: Scope) -> str:
    """The slot of a finding that its needs are worked on: one that changes before one that stays, a frame last."""
    filled = scope.filled_then
    slots = sorted(finding.slots, key=lambda slot: slot == "frame")
    for among in (scope.new, set(scope.then.parts), set(filled)):
        for slot in slots:
            if slot in among:
                return slot
    return "bike"


def need_says(need: Need) -> str:
    """Return a need in words, with its size and where it goes."""
    size = f", {need['size_mm']:g} mm" if isinstance(need.get("size_mm"), (int, float)) else ""
    where = f", {need['where']}" if need.get("where") else ""
    return f"{need_words(str(need['what']))}{size}{where}"


def _is_on(name: str, does: str, slot: str) -> bool:
    return name == f"{does}:{slot}" or name.startswith(f"{does}:{slot}:")


def _measured(slot: str, need: Need, cannot: str, steps: Mapping[str, Step]) -> Step:
    """Return the step that measures before something that cannot be undone."""
    off = {known for known in steps if _is_on(known, "take_off", slot)}
    return Step(
        id=f"measure:{slot}:{slug(str(need['what']))}",
        slot=slot,
        does="measure",
        says="Measure, mark, measure again: this cannot be undone.",
        minutes=5,
        after=tuple(sorted({"look:bike", *off})),
        caution=lookup("cautions", "code")[cannot]["says"],
        reading={"word": str(need["what"]), "unit": "mm"},
        causes=(f"need:{need['what']}",),
        place=place_of(slot),
        rank=_rank_of(slot, steps, early=True),
    )


def _rank_of(slot: str, steps: Mapping[str, Step], early: bool) -> int:
    """Return the rank of the slot's own step, a little before or after it."""
    ranks = [step.rank for step in steps.values() if step.slot == slot and step.does in ("fit", "adjust")]
    return min(ranks) - 1 if ranks and early else max(ranks) if ranks else LAST_RANK


def is_safety(slot: str) -> bool:
    """Return whether a slot is one on which a life hangs: brakes and steering."""
    return slot in SLOTS and SLOTS[slot].area in (Area.BRAKES, Area.STEERING)
