"""What is certain of causes before anything is weighed: proven by rules, readings and ticks, or excluded."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import frozen

from unkett.core.bike.wear import limit_of, sorts
from unkett.core.build import Build
from unkett.core.check.engine import check
from unkett.core.diagnose.asked import Answer, Asked
from unkett.core.diagnose.tables import Cause, Tables, at_ends
from unkett.core.intake.inspection import TICKS
from unkett.core.rules.finding import Finding
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import lookup

Why = dict[str, Any]


@frozen(kw_only=True)
class Certain:
    """Of the causes of one run: those that hold, each with why, and those that are left out."""

    held: Mapping[str, tuple[Why, ...]]
    excluded: frozenset[str]


class Proof:
    """What is certain of a bike's causes; rules are run once for all runs."""

    def __init__(self, asked: Asked, tables: Tables, settings: Settings = DEFAULTS) -> None:
        self.asked, self.tables, self.settings = asked, tables, settings
        self.build: Build = asked.build
        self.filled = asked.build.filled()

    @functools.cached_property
    def _findings(self) -> dict[str, list[Finding]]:
        by_rule: dict[str, list[Finding]] = {}
        for finding in check(self.build, self.settings).findings if self.filled else ():
            by_rule.setdefault(finding.rule, []).append(finding)
        return by_rule

    def of(self, causes: Iterable[str], end: str | None, answers: Sequence[Answer]) -> Certain:
        """Return what is certain of these causes at one end, or at either."""
        codes = list(causes)
        ticked = self._ticked(end)
        held: dict[str, tuple[Why, ...]] = {}
        excluded = set()
        for code in codes:
            cause = self.tables.causes[code]
            if self._excluded(cause, end):
                excluded.add(code)
                continue
            why = [*self._by_rule(cause, end), *self._by_reading(cause, end), *ticked.get(code, ())]
            why += self._by_damage(cause, end)
            why += self._shown(code, answers)
            if code in self.asked.proven:
                why.append({"given": "proven"})
            if why:
                held[code] = tuple(why)
        return Certain(held=held, excluded=frozenset(excluded))

    def _at(self, cause: Cause, end: str | None) -> list[Finding]:
        slots = set(cause.slots(end))
        return [finding for finding in self._findings.get(cause.rule, ()) if slots & set(finding.slots)]

    def _by_rule(self, cause: Cause, end: str | None) -> list[Why]:
        if not cause.rule:
            return []
        return [
            {"rule": finding.rule, "message": finding.key, "says": finding.says}
            for finding in self._at(cause, end)
            if _among(finding, cause.on)
        ]

    def _by_reading(self, cause: Cause, end: str | None) -> list[Why]:
        if not cause.read:
            return []
        sort = sorts()[cause.read]
        last = {slot: value for slot, code, value in self.asked.readings if code == cause.read}
        found = []
        for slot in cause.slots(end):
            limit = limit_of(sort, self.build, slot, self.settings) if slot in last else None
            if limit is None:
                continue
            if sort.is_worn(last[slot], limit.value):
                found.append({"reading": cause.read, "slot": slot, "value": last[slot], "limit": limit.value})
        return found

    def _ticked(self, end: str | None) -> dict[str, list[Why]]:
        """By cause the ticks that hold it: the first cause with that defect on that slot, else the first with it."""
        found: dict[str, list[Why]] = {}
        for slot, defect in self.asked.ticks:
            if end is not None and slot.startswith(("front_", "rear_")) and _other_end(slot, end):
                continue
            having = [one for one in self.tables.causes.values() if one.defect == defect]
            there = [one for one in having if slot in one.slots(end)]
            for cause in (there or having)[:1]:
                found.setdefault(cause.code, []).append({"defect": defect, "slot": slot})
        return found

    def _by_damage(self, cause: Cause, end: str | None) -> list[Why]:
        """Return whether the part has the damage that the cause's defect puts on it."""
        damage = lookup("look_over", "code")[cause.defect].get("damage") if cause.defect else None
        if not damage:
            return []
        places = [
            slot for slot in cause.slots(end) if slot in TICKS[cause.defect].slots and slot in self.filled
        ]
        return [
            {"defect": cause.defect, "slot": slot}
            for slot in places
            if damage in self.filled[slot].attrs.get("damage", ())
            and (slot, cause.defect) not in self.asked.ticks
        ]

    def _shown(self, code: str, answers: Sequence[Answer]) -> list[Why]:
        return [
            {"check": one.check, "result": one.result, "word": "shows"}
            for one in answers
            if one.result is not None and self.tables.checks[one.check].word(one.result, code) == "shows"
        ]

    def _excluded(self, cause: Cause, end: str | None) -> bool:
        if cause.code in self.asked.mended or cause.code in self.asked.excluded:
            return True
        if all(slot in self.build.empty for slot in cause.slots(end)):
            return True
        if cause.only and self._other_kind(cause.only, end):
            return True
        found = self._at(cause, end) if cause.off else []
        wanted = len(at_ends(cause.slot, end))
        return len(found) >= wanted and all(_among(finding, cause.off) for finding in found)

    def _other_kind(self, only: str, end: str | None) -> bool:
        """Return whether the bike is known to be of another kind, at every end that is asked about."""
        row = lookup("complaint_fits", "code")[only]
        values = [
            self.filled[slot].attrs.get(row["attr"]) if slot in self.filled else None
            for slot in at_ends(row["slot"], end)
        ]
        return all(value is not None and value not in row["among"] for value in values)


def _other_end(slot: str, end: str) -> bool:
    return slot.partition("_")[0] != end and slot.replace("front_", "").replace("rear_", "") not in (
        "derailleur", "shifter", "shift_line",
    )  # fmt: skip


def _among(finding: Finding, words: Sequence[str]) -> bool:
    """Return whether a finding is one of `verdict` or `verdict:message`."""
    return finding.verdict.value in words or f"{finding.verdict.value}:{finding.key}" in words
