"""The words and figures of a step: what it says, its torque, its reading, why it is done."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from unkett.core.bike.figures import chain_of
from unkett.core.bike.lines import line_reports
from unkett.core.settings import Settings
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect
from unkett.core.work.facts import says
from unkett.core.work.needs import is_safety
from unkett.core.work.operations import Operation, part_steps
from unkett.core.work.planner import Plan
from unkett.core.work.replay import mend_of
from unkett.core.work.scope import Scope, place_of
from unkett.core.work.step import Step, Torque
from unkett.core.work.templates import Template
from unkett.core.work.torque import LOWER_END, from_table, stated

CAUSES = ("change", "need", "defect", "found", "package", "job", "access", "proof")
MENDS_RANK = 200


class Mends:
    """The mends of defects, by the step that does each; a defect of a part that is changed goes with the change."""

    def __init__(self, scope: Scope) -> None:
        self.scope = scope
        self.steps: dict[str, list[str]] = {}  # by step id its causes
        self.by_step: dict[str, list[Defect]] = {}

    def add(self, one: Defect, sort: str) -> None:
        scope = self.scope
        if one.slot in scope.new:
            name = part_steps("fit", one.slot, scope.then)[0]
        elif one.slot in scope.gone:
            name = part_steps("take_off", one.slot, scope.now)[0]
        else:
            name = mend_of(lookup("look_over", "code")[one.defect], one)
        self.steps.setdefault(name, []).append(f"{sort}:{one.ref}")
        self.by_step.setdefault(name, []).append(one)

    def settle(self, plan: Plan) -> None:
        """A mend that is a step of the tables which this bike has not is done by a step of its own."""
        for name in [name for name in self.by_step if name not in plan.steps and name not in plan.done]:
            for one in self.by_step.pop(name):
                row = lookup("look_over", "code")[one.defect]
                own = f"{row.get('does', 'look')}:{one.slot}:{one.defect}"
                plan.add(own, self.steps.get(name, [f"defect:{one.ref}"]))
                self.by_step.setdefault(own, []).append(one)


class Wording:
    """Makes steps of a plan's operations."""

    def __init__(self, *, scope: Scope, plan: Plan, mends: Mends, settings: Settings) -> None:
        self.scope = scope
        self.plan = plan
        self.mends = mends
        self.settings = settings

    def step(self, one: Operation) -> Step:
        """Return an operation as a step of the sheet."""
        row, mended = one.row, lookup("look_over", "code").get(one.word)
        causes = self.plan.causes.get(one.id, {})
        found = [*self.mends.by_step.get(one.id, ()), *(own for own in self.scope.own if own.step == one.id)]
        defects = tuple(each.ref for each in found)
        common: dict[str, Any] = {
            "id": one.id,
            "slot": one.slot,
            "does": one.does,
            "requires": tuple(says(wanted) for wanted in one.requires),
            "causes": tuple(sorted(causes, key=lambda cause: CAUSES.index(cause.partition(":")[0]))),
            "defects": defects,
            "place": place_of(one.slot),
            "along": self._along(one),
        }
        if row is None:
            return self._mend(one, mended or {}, common)
        torque = self._torque(row, one.end)
        reading = {**row.reading} if row.reading else None
        if reading and "slot" in reading:
            reading["slot"] = one.slot
        if torque is None and reading == {"word": "torque", "unit": "Nm"}:
            reading = None
        if one.id == "take_off:chain" and "links" in self.scope.now.parts["chain"].attrs:
            reading = None  # its links are known
        part = self._part(one)
        attr = reading.get("attr") if reading else None
        return Step(
            **common,
            says=self._says(row, one, part.name if part else ""),
            part=(part.name or SLOTS[one.slot].title) if part and one.moves_part else None,
            tools=row.tools,
            compound=row.compound,
            torque=torque,
            thread=row.thread,
            passes=row.passes,
            minutes=row.minutes,
            wait_minutes=row.wait_minutes,
            reading=reading,
            effects=({"slot": one.slot, "attr": attr, "value": None},) if attr else (),
            caution=row.caution,
            most=self.settings.number(row.most_setting) if row.most_setting else row.most,
            safety=row.safety or (one.does in ("fit", "adjust", "check") and is_safety(one.slot)),
            rank=row.rank * 2 + (one.end == "rear"),
        )

    def _mend(self, one: Operation, row: Mapping[str, Any], common: dict[str, Any]) -> Step:
        """Return a mend in the words of the inspection's table."""
        torque = from_table(row["torque"]) if "torque" in row else None
        return Step(
            **common,
            says=f"{row['title']}: {row['mend'][0].lower()}{row['mend'][1:]}",
            tools=tuple(row.get("tools", ())),
            torque=torque,
            thread="right" if torque else None,
            reading={"word": "torque", "unit": "Nm"} if torque else None,
            minutes=row["minutes"],
            safety=is_safety(one.slot) and one.does in ("fit", "adjust", "check"),
            rank=_rank_of(row["code"]),
        )

    def _part(self, one: Operation) -> Any:
        build = self.scope.now if one.takes_off else self.scope.then
        return build.filled().get(one.slot) if one.does in ("take_off", "fit") else None

    def _along(self, one: Operation) -> tuple[str, ...]:
        return self.plan.along(one) if one.moves_part else ()

    def _says(self, row: Template, one: Operation, part: str) -> str:
        title = SLOTS[one.slot].title.lower() if one.slot in SLOTS else ""
        text = row.says.replace("{end}", one.end).replace("{part}", part or title)
        if "{line}" in text or "{chain}" in text:
            text = text.replace("{line}", self._figures.get(one.slot, ""))
            text = text.replace("{chain}", self._figures.get("chain", ""))
        also = [defect for defect in self.mends.by_step.get(one.id, ()) if one.word]
        titles = [
            lookup("look_over", "code")[defect.defect]["title"]
            for defect in also
            if one.word != defect.defect
        ]
        return " ".join([*(f"{title}:" for title in titles), text.strip()])

    @functools.cached_property
    def _figures(self) -> Mapping[str, str]:
        """The lengths of the chain and the lines in a sentence, where they can be worked out."""
        then = self.scope.then
        chain = chain_of(then, self.settings) if "chain" in then.filled() else None
        titles = {"chain": f"Its window: {chain.shown} links. {chain.cut}" if chain and chain.shown else ""}
        for line in line_reports(then):
            if line.need_mm is not None:
                titles[line.slot] = f"Its path needs {line.need_mm:.0f} mm, the bar turned."
        return titles

    def _torque(self, row: Template, end: str) -> Torque | None:
        """Return what the part itself states, else the table's."""
        if row.stated:
            slot, _, attr = row.stated.partition(".")
            part = self.scope.then.filled().get(slot)
            said = None if part is None else part.attrs.get(attr)
            if said is not None:
                return stated(said)
        if row.torque is None:
            return None
        return from_table(row.torque.replace("{end}", end), lower_end=row.compound == LOWER_END)


@functools.cache
def _rank_of(defect: str) -> int:
    return MENDS_RANK + [row["code"] for row in lookup("look_over", "code").values()].index(defect)
