"""A job's sheet: the operations of a plan and of what was found, with their words, figures and order."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve

from unkett.core.bike.figures import chain_of
from unkett.core.bike.lines import line_reports
from unkett.core.build import Build
from unkett.core.check.engine import check
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect
from unkett.core.work.doubted import doubted
from unkett.core.work.facts import says
from unkett.core.work.halfway import halfway
from unkett.core.work.needs import CUT, NeedStep, groups_of, is_safety, take_need
from unkett.core.work.operations import Operation, part_steps
from unkett.core.work.ordering import ordered
from unkett.core.work.planner import Begun, Plan, plan_of
from unkett.core.work.replay import mend_of
from unkett.core.work.scope import CONTROL_OF, Scope, place_of
from unkett.core.work.step import JobSheet, Step, Taken, Torque
from unkett.core.work.templates import Template
from unkett.core.work.torque import LOWER_END, from_table, stated

CAUSES = ("change", "need", "defect", "found", "package", "job", "access", "proof")
MENDS_RANK = 200
# Gears are adjusted once their lines are fitted, the rear ones first.
GEARS_IN_TURN = (
    ("adjust:rear_derailleur:", "fit:rear_shift_line"),
    ("adjust:front_derailleur:", "fit:front_shift_line"),
    ("adjust:front_derailleur:", "adjust:rear_derailleur:"),
)


def job_steps(
    build: Build,
    planned: Build | None = None,
    *,
    defects: Sequence[Defect] = (),
    found: Sequence[Defect] = (),
    skip: Sequence[str] = (),
    replaced: Sequence[str] = (),
    chosen: Sequence[Mapping[str, Any]] = (),
    done: Sequence[str] = (),
    findings: Sequence[Finding] | None = None,
    settings: Settings = DEFAULTS,
    templates: Sequence[Template] | None = None,
) -> JobSheet:
    """The sheet of a bike and what is planned for it; without a plan only its defects are worked on.

    `skip` leaves classes of defects out; `found` are defects met on the stand; `replaced` names slots that get a new
    piece of the same sort; `chosen` the alternative taken of a finding's needs; `done` the steps that are finished.
    `findings` are those of the planned bike that it does not have now, where they are known already; `templates` the
    workshop's, else those that ship. The same input gives the same sheet.
    """
    then = planned if planned is not None else build
    asking = _new_findings(build, then, settings) if findings is None else _asking(findings)
    needs = [(finding, group) for finding in asking for group in groups_of(finding, chosen)]
    cuts = any(group[0]["what"] == CUT for _, group in needs)
    scope = Scope.of(build, then, replaced=replaced, cuts=cuts, templates=templates)
    mends = _Mends(scope)
    for one in defects:
        if one.do not in skip:
            mends.add(one, "defect")
    for one in found:
        mends.add(one, "found")
    begun = halfway(scope, done, mends.steps)
    plan = plan_of(scope, begun=begun, mends=mends.steps)
    mends.settle(plan)
    fresh: dict[str, Step] = {}
    if done:
        again = plan_of(scope, mends=mends.steps)
        mends.settle(again)
        whole = _Sheet(scope=scope, plan=again, mends=mends, settings=settings)
        begin = Begun(facts=frozenset(scope.facts_at_start()))
        fresh = {step.id: step for step in whole.made(needs, (), begin, {}).steps}
    return _Sheet(scope=scope, plan=plan, mends=mends, settings=settings).made(needs, done, begun, fresh)


def _new_findings(now: Build, then: Build, settings: Settings) -> list[Finding]:
    """The findings that need something and that the bike now does not already have."""
    if then is now:
        return []
    known = {(*finding.about, finding.says) for finding in check(now, settings).findings}
    found = check(then, settings).findings
    return _asking(finding for finding in found if (*finding.about, finding.says) not in known)


def _asking(findings: Iterable[Finding]) -> list[Finding]:
    return [finding for finding in findings if finding.verdict is Verdict.GOES_IF]


class _Mends:
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


class _Sheet:
    """Words, figures and order for the operations of a plan."""

    def __init__(self, *, scope: Scope, plan: Plan, mends: _Mends, settings: Settings) -> None:
        self.scope = scope
        self.plan = plan
        self.mends = mends
        self.settings = settings
        self.accepted: list[str] = []

    def made(
        self,
        needs: Sequence[tuple[Finding, Sequence[Mapping[str, Any]]]],
        done: Sequence[str],
        begun: Begun,
        fresh: Mapping[str, Step],
    ) -> JobSheet:
        """The sheet: needs met, steps linked and ordered, those that are done first."""
        steps = {name: self._step(one) for name, one in self.plan.steps.items()}
        links = self.plan.links()
        met = [self._meet(finding, group, steps, links) for finding, group in needs]
        for then, first in GEARS_IN_TURN:
            for name in steps:
                if name.startswith(then):
                    links[name] |= {one for one in steps if one.startswith(first)}
        self._custom_steps(steps, links)
        for step, held in doubted(self.scope.then, steps, self.settings):
            steps[step.id] = step
            links[step.id] = {"look:bike"}
            for name in held:
                links[name].add(step.id)
        self._sign(steps)
        stages = {name: one.stage for name, one in self.plan.steps.items()}
        final = {name for name, stage in stages.items() if stage not in ("first", "work")}
        for name in steps.keys() - self.plan.steps.keys() - final:
            links[name].add("look:bike")
            for last in final:
                links[last].add(name)
        made = [
            evolve(step, after=tuple(sorted(links[name] & steps.keys() - {name})))
            for name, step in steps.items()
        ]
        scope = self.scope
        return JobSheet(
            steps=(*self._finished(done, begun, fresh), *ordered(made)),
            fitted={slot: scope.then.parts[slot].name for slot in SLOTS if slot in scope.new},
            taken_off=tuple(slot for slot in SLOTS if slot in scope.gone - scope.new),
            needs=tuple(met),
            brings=tuple(self._brought()),
        )

    def _brought(self) -> Iterable[Taken]:
        """The small parts that steps bring along for a new control."""
        for one in self.plan.steps.values():
            if one.row is not None and one.row.brings and CONTROL_OF[one.slot] in self.scope.new:
                need = lookup("needs", "what")[one.row.brings]
                yield Taken(
                    rule="", slots=(one.slot,), what=need["what"], need=need, is_part=True, step=one.id
                )

    def _meet(
        self,
        finding: Finding,
        group: Sequence[Mapping[str, Any]],
        steps: dict[str, Step],
        links: dict[str, set[str]],
    ) -> Taken:
        """Take one need of a finding onto the sheet."""
        first = group[0]
        taken = take_need(finding, group, steps, self.plan)
        if isinstance(taken, NeedStep):
            _link_need(taken, steps, links)
            name = taken.steps[-1].id
        else:
            name, whats = taken
            if name in steps:
                known = steps[name].needs
                steps[name] = evolve(steps[name], needs=tuple(dict.fromkeys((*known, *whats))))
            elif not name:
                self.accepted += [what for what in whats if what not in self.accepted]
        count = first.get("count", 1)
        return Taken(
            rule=finding.rule,
            slots=finding.slots,
            what=first["what"],
            need=first,
            is_part=first["sort"] == "part",
            count=count if isinstance(count, int) else 1,
            step=name,
        )

    def _finished(self, done: Sequence[str], begun: Begun, fresh: Mapping[str, Step]) -> list[Step]:
        """The steps that are done, in the order they were done; `fresh` is the same sheet with nothing done."""
        found = []
        for name in done:
            one, does, slot = begun.done.get(name), *name.split(":")[:2]
            step = fresh.get(name) or (
                self._step(one) if one else Step(id=name, slot=slot, does=does, says=f"{name} (done)")
            )
            found.append(evolve(step, done=True, after=(), causes=step.causes or ("job",)))
        return found

    def _custom_steps(self, steps: dict[str, Step], links: dict[str, set[str]]) -> None:
        """The steps that the workshop added, each after those it names."""
        for row in self.scope.templates:
            if row.after and row.id in self.plan.steps:
                for first in row.after:
                    links[row.id] |= {one for one in (first, *_sides_of(first)) if one in steps}

    def _sign(self, steps: dict[str, Step]) -> None:
        """What is accepted is signed at the hand-over."""
        ends = steps.get("hand_over:bike")
        if ends and self.accepted:
            says = f"{ends.says} Accepted and signed: {'; '.join(self.accepted)}."
            steps[ends.id] = evolve(ends, needs=tuple(self.accepted), says=says)

    # one step

    def _step(self, one: Operation) -> Step:
        row, mended = one.row, lookup("look_over", "code").get(one.word)
        causes = self.plan.causes.get(one.id, {})
        defects = tuple(defect.ref for defect in self.mends.by_step.get(one.id, ()))
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
            most=row.most,
            safety=row.safety or (one.does in ("fit", "adjust", "check") and is_safety(one.slot)),
            rank=row.rank * 2 + (one.end == "rear"),
        )

    def _mend(self, one: Operation, row: Mapping[str, Any], common: dict[str, Any]) -> Step:
        """A mend in the words of the inspection's table."""
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
        return self.plan.riders.get(one.slot, ()) if one.moves_part else ()

    def _says(self, row: Template, one: Operation, part: str) -> str:
        title = SLOTS[one.slot].title.lower() if one.slot in SLOTS else ""
        text = row.says.replace("{end}", one.end).replace("{part}", part or title)
        if "{line}" in text or "{chain}" in text:
            text = text.replace("{line}", self._figures.get(one.slot, ""))
            text = text.replace("{chain}", self._figures.get("chain", ""))
        also = [defect for defect in self.mends.by_step.get(one.id, ()) if one.word]
        told = [
            lookup("look_over", "code")[defect.defect]["title"]
            for defect in also
            if one.word != defect.defect
        ]
        return " ".join([*(f"{title}:" for title in told), text.strip()])

    @functools.cached_property
    def _figures(self) -> Mapping[str, str]:
        """The lengths of the chain and the lines in a sentence, where they can be worked out."""
        then = self.scope.then
        chain = chain_of(then, self.settings) if "chain" in then.filled() else None
        told = {"chain": f"Its window: {chain.shown} links. {chain.cut}" if chain and chain.shown else ""}
        for line in line_reports(then):
            if line.need_mm is not None:
                told[line.slot] = f"Its path needs {line.need_mm:.0f} mm, the bar turned."
        return told

    def _torque(self, row: Template, end: str) -> Torque | None:
        """What the part itself states, else the table's."""
        if row.stated:
            slot, _, attr = row.stated.partition(".")
            part = self.scope.then.filled().get(slot)
            said = None if part is None else part.attrs.get(attr)
            if said is not None:
                return stated(said)
        if row.torque is None:
            return None
        return from_table(row.torque.replace("{end}", end), lower_end=row.compound == LOWER_END)


def _sides_of(name: str) -> Iterable[str]:
    return [f"{name}:{side}" for side in ("left", "right", "drive", "other")]


def _link_need(need: NeedStep, steps: dict[str, Step], links: dict[str, set[str]]) -> None:
    """Add a need's steps and hold them between what they are after and before."""
    for step in need.steps:
        if step.id in steps:
            known = steps[step.id]
            steps[step.id] = evolve(known, needs=tuple(dict.fromkeys((*known.needs, *step.needs))))
        else:
            steps[step.id] = step
        links.setdefault(step.id, set()).update(name for name in step.after if name in steps)
    last = need.steps[-1].id
    first = _all_before(last, links)
    for name in need.before:
        if name in steps and name not in first:
            links[name].add(last)


def _all_before(name: str, links: Mapping[str, set[str]]) -> set[str]:
    """A step and everything that comes before it."""
    found: set[str] = set()
    queue = [name]
    while queue:
        one = queue.pop()
        if one not in found:
            found.add(one)
            queue += links.get(one, ())
    return found


@functools.cache
def _rank_of(defect: str) -> int:
    return MENDS_RANK + [row["code"] for row in lookup("look_over", "code").values()].index(defect)
