"""The bike after the hand-over: new parts on, what the steps did to it, and the needs that are settled."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build, Part, Settled
from unkett.core.check.engine import check
from unkett.core.errors import Fault, InputError
from unkett.core.rules.finding import Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import describe
from unkett.core.work.needs import SPACERS, groups_of
from unkett.core.work.readings import CUT, Expected, computed, judge
from unkett.core.work.step import JobSheet, Step, Taken

Changes = dict[tuple[str, str], Any]  # by slot and attribute its value; None: not known any more


@frozen(kw_only=True)
class Done:
    """How a sheet was done: readings by step id, one for each bolt; ids left out; why a reading outside was kept."""

    readings: Mapping[str, tuple[float, ...]]
    skipped: frozenset[str] = frozenset()
    kept: Mapping[str, tuple[str, str]] | None = None  # by step id why, and who


def finished(
    build: Build, planned: Build, sheet: JobSheet, done: Done, settings: Settings = DEFAULTS
) -> Build:
    """Return the bike as a finished sheet leaves it.

    A part is on where its steps were done; a step that was left out has no effect and its need stays. What was read
    is the value; what was not is kept as worked out, as planned. Needs that no attribute can show are `settled`.
    Raises InputError for a reading outside its range that nobody kept, and for ids that the sheet has not.
    """
    _refuse(sheet, done, planned, settings)
    steps = {step.id: step for step in sheet.steps if step.id not in done.skipped}
    then = _fitted(build, planned, sheet, steps)
    changes: Changes = {}
    for need in sheet.needs:
        if need.step in steps:
            changes |= _of_need(need, then)
    for step in steps.values():
        changes |= _of_reading(step, done, then, changes, settings)
    after = _to_be_ridden(_changed(then, changes))
    met = [need for need in sheet.needs if (need.step or "hand_over:bike") in steps]
    return evolve(after, settled=_settled(build, after, met, settings))


def _to_be_ridden(build: Build) -> Build:
    """Return a bike that leaves: no part of it counts as unused any more."""
    return _changed(
        build, {(slot, "unused"): None for slot, part in build.parts.items() if "unused" in part.attrs}
    )


@frozen(kw_only=True)
class DoneStep:
    """A step of a stored sheet as it was done: what it met, what it writes, what was read at it."""

    id: str
    slot: str
    needs: tuple[str, ...] = ()
    effects: tuple[Mapping[str, Any], ...] = ()
    reading: float | None = None
    computed: float | None = None  # what it should be: kept as planned where nothing was read


def recorded(build: Build, steps: Sequence[DoneStep], settings: Settings = DEFAULTS) -> Build:
    """Return a bike that has its new parts on already, with what the steps of its job did to it.

    The same as `finished`, from the steps as they were stored and done.
    """
    met = _met(build, steps, settings)
    changes: Changes = {}
    for need in met:
        changes |= _of_need(need, build)
    for step in steps:
        for effect in step.effects:
            slot, attr = effect["slot"], effect["attr"]
            value = step.computed if step.reading is None else step.reading
            if (
                value is not None
                and slot in build.parts
                and (step.reading is not None or (slot, attr) not in changes)
            ):
                changes[slot, attr] = int(value) if attr == "links" else value
    after = _to_be_ridden(_changed(build, changes))
    return evolve(after, settled=_settled(build, after, met, settings))


def _met(build: Build, steps: Sequence[DoneStep], settings: Settings) -> list[Taken]:
    """The needs of the bike's findings that a step met; of alternatives the one that its step did."""
    found = []
    for finding in check(build, settings).findings:
        groups = groups_of(finding, ()) if finding.verdict is Verdict.GOES_IF else []
        for group in groups:
            whats = [need["what"] for need in group]
            for step in steps:
                done = next((what for what in step.needs if what in whats), None)
                if done is not None and step.slot in (*finding.slots, "bike"):
                    need = group[whats.index(done)]
                    found.append(
                        Taken(rule=finding.rule, slots=finding.slots, what=done, need=need, step=step.id)
                    )
                    break
    return found


def _refuse(sheet: JobSheet, done: Done, planned: Build, settings: Settings) -> None:
    """Refuse ids that the sheet has not, and readings outside that nobody kept."""
    steps = {step.id: step for step in sheet.steps}
    faults = [
        Fault(path=f"{where}.{name}", says="no step of this sheet")
        for where, names in (
            ("readings", done.readings),
            ("kept", done.kept or {}),
            ("skipped", done.skipped),
        )
        for name in names
        if name not in steps
    ]
    for name, values in done.readings.items():
        if name not in steps or name in (done.kept or {}):
            continue
        judged = judge(Expected.of_step(steps[name], computed(steps[name], planned, settings)), values)
        if not judged.taken:
            faults.append(
                Fault(path=f"readings.{name}", says=f"{judged.why}; read again, or keep it: why and who")
            )
    if faults:
        raise InputError(faults)


def _fitted(build: Build, planned: Build, sheet: JobSheet, steps: Mapping[str, Step]) -> Build:
    """Return the parts that are on: the old one where the steps were left out, none where it only came off."""

    def was_done(does: str, slot: str) -> bool:
        return any(
            step.part is not None and step.does == does and step.slot == slot for step in steps.values()
        )

    then = planned
    for slot in (*sheet.fitted, *sheet.taken_off):
        if was_done("fit", slot) or (slot in sheet.taken_off and was_done("take_off", slot)):
            continue
        left = None if was_done("take_off", slot) else build.parts.get(slot)
        then = then.with_part(slot, left)
    return then


def _of_need(need: Taken, build: Build) -> Changes:
    """Return what a need that was met did to the bike's figures."""
    size = need.need.get("size_mm")
    if need.what == CUT and isinstance(size, (int, float)):
        length = build.parts["fork"].attrs.get("steerer_length_mm") if "fork" in build.parts else None
        return {} if length is None else {("fork", "steerer_length_mm"): round(length - size, 1)}
    if need.what == SPACERS and isinstance(size, (int, float)) and "spacers" in build.parts:
        above = build.parts["spacers"].attrs.get("above_mm") or 0.0
        return {("spacers", "above_mm"): round(above + size, 1)}
    if need.what == "take links out" and need.need.get("to_links"):
        return {("chain", "links"): need.need["to_links"]}
    if need.what == "spokes" and isinstance(size, (int, float)):
        slot = next((one for one in need.slots if one.endswith("_spokes")), "")
        return {(slot, f"length_{need.need['side']}_mm"): size, (slot, "to_lace"): None} if slot else {}
    return {}


def _of_reading(step: Step, done: Done, build: Build, changes: Changes, settings: Settings) -> Changes:
    """Return what a step writes: what was read at it, else what was worked out."""
    found: Changes = {}
    for effect in step.effects:
        slot, attr, value = effect["slot"], effect["attr"], effect["value"]
        if slot not in build.parts:
            continue
        if value is None and step.id in done.readings:
            value = done.readings[step.id][-1]
        if value is None and (slot, attr) not in changes:
            value = computed(step, build, settings)
        if value is not None:
            found[slot, attr] = int(value) if attr == "links" else value
    return found


def _changed(build: Build, changes: Changes) -> Build:
    parts = dict(build.parts)
    for (slot, attr), value in changes.items():
        if slot in parts:
            parts[slot] = _with(parts[slot], slot, attr, value)
    return evolve(build, parts=parts)


def _with(part: Part, slot: str, attr: str, value: Any) -> Part:
    attrs = {name: had for name, had in part.attrs.items() if name != attr}
    if value is not None:
        attrs[attr] = describe(slot, attr).type.check(value, attr)
    return evolve(part, attrs=attrs)


def _settled(before: Build, after: Build, met: Sequence[Taken], settings: Settings) -> tuple[Settled, ...]:
    """The needs that were met and that the bike's figures still ask for, with those that were settled before."""
    known = [
        one for one in before.settled if all(before.parts.get(s) == after.parts.get(s) for s in one.slots)
    ]
    asked = {
        (finding.rule, frozenset(finding.slots), need["what"])
        for finding in check(evolve(after, settled=tuple(known)), settings).findings
        if finding.verdict is Verdict.GOES_IF
        for need in finding.needs
    }
    new = [
        Settled(rule=need.rule, slots=need.slots, what=need.what)
        for need in met
        if (need.rule, frozenset(need.slots), need.what) in asked
    ]
    return tuple(dict.fromkeys([*known, *new]))
