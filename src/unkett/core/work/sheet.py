"""A job's sheet: the operations of a plan and of what was found, with their words, figures and order."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve

from unkett.core.build import Build
from unkett.core.check.engine import check
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect, OwnFinding
from unkett.core.work.doubted import doubted
from unkett.core.work.facts import says
from unkett.core.work.halfway import halfway
from unkett.core.work.needs import NeedStep, groups_of, take_need
from unkett.core.work.ordering import ordered
from unkett.core.work.packages import Package
from unkett.core.work.planner import Begun, Plan, plan_of
from unkett.core.work.precedence import checks_last
from unkett.core.work.readings import CUT, computed, worn_at
from unkett.core.work.scope import CONTROL_OF, Scope
from unkett.core.work.step import JobSheet, Step, Taken
from unkett.core.work.step_words import Mends, Wording
from unkett.core.work.templates import Template

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
    packages: Sequence[Package] = (),
    own: Sequence[OwnFinding] = (),
) -> JobSheet:
    """The sheet of a bike and what is planned for it; without a plan only its defects are worked on.

    `skip` leaves classes of defects out; `found` are defects met on the stand; `replaced` names slots that get a new
    piece of the same sort; `chosen` the alternative taken of a finding's needs; `done` the steps that are finished.
    `findings` are those of the planned bike that it does not have now, where they are known already; `templates` the
    workshop's, else those that ship; `packages` the service packages that are done beside the plan; `own` findings in
    somebody's own words. The same input gives the same sheet.
    """
    then = planned if planned is not None else build
    asking = _new_findings(build, then, settings) if findings is None else _asking(findings)
    needs = [(finding, group) for finding in asking for group in groups_of(finding, chosen)]
    cuts = any(group[0]["what"] == CUT for _, group in needs)
    scope = Scope.of(
        build, then, replaced=replaced, cuts=cuts, templates=templates, packages=packages, own=own
    )
    mends = Mends(scope)
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
    """Return the findings that need something and that the bike now does not already have."""
    if then is now:
        return []
    known = {(*finding.about, finding.says) for finding in check(now, settings).findings}
    found = check(then, settings).findings
    return _asking(finding for finding in found if (*finding.about, finding.says) not in known)


def _asking(findings: Iterable[Finding]) -> list[Finding]:
    return [finding for finding in findings if finding.verdict is Verdict.GOES_IF]


class _Sheet:
    """Words, figures and order for the operations of a plan."""

    def __init__(self, *, scope: Scope, plan: Plan, mends: Mends, settings: Settings) -> None:
        self.scope = scope
        self.plan = plan
        self.settings = settings
        self.words = Wording(scope=scope, plan=plan, mends=mends, settings=settings)
        self.accepted: list[str] = []

    def made(
        self,
        needs: Sequence[tuple[Finding, Sequence[Mapping[str, Any]]]],
        done: Sequence[str],
        begun: Begun,
        fresh: Mapping[str, Step],
    ) -> JobSheet:
        """Return the sheet: needs met, steps linked and ordered, those that are done first."""
        steps = {name: self.words.step(one) for name, one in self.plan.steps.items()}
        lawful = self.plan.lawful()
        links = checks_last(lawful, self.plan.steps)
        by_facts = {name: set(before) for name, before in links.items()}
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
        for name, before in links.items():
            lawful[name] = lawful.get(name, set()) | (before - by_facts.get(name, set()))
        made = [self._linked(step, links[name], lawful[name], steps, met) for name, step in steps.items()]
        scope = self.scope
        return JobSheet(
            steps=(*self._finished(done, begun, fresh), *ordered(made)),
            fitted={slot: scope.then.parts[slot].name for slot in SLOTS if slot in scope.new},
            taken_off=tuple(
                slot for slot in SLOTS if slot in scope.gone - scope.new - scope.filled_then.keys()
            ),
            needs=tuple(met),
            brings=tuple(self._brought()),
            packages=scope.packages,
            own=scope.own,
        )

    def _linked(
        self,
        step: Step,
        before: set[str],
        lawful: set[str],
        steps: Mapping[str, Step],
        met: Sequence[Taken],
    ) -> Step:
        """Return a step with the steps before it, what meets its requirements and what its reading should be."""
        others = steps.keys() - {step.id}
        one = self.plan.steps.get(step.id)
        made_by = {}
        for wanted in one.requires if one else ():
            makers = (
                name
                for name in lawful & self.plan.steps.keys()
                if wanted.fact
                in (self.plan.steps[name].gives if wanted.holds else self.plan.steps[name].ends)
            )
            made_by[says(wanted)] = tuple(sorted(makers))
        return evolve(
            step,
            worn=worn_at(step, self.scope.then, self.settings),
            after=tuple(sorted(before & others)),
            lawful=tuple(sorted(lawful & others)),
            made_by=made_by,
            computed=computed(step, self.scope.then, self.settings, met),
            irreversible=step.irreversible or bool(one and one.row and one.row.irreversible),
            gives=tuple(sorted(one.gives)) if one else (),
            ends=tuple(sorted(one.ends)) if one else (),
        )

    def _brought(self) -> Iterable[Taken]:
        """Return the small parts that steps bring along for a new control."""
        for one in self.plan.steps.values():
            if one.row is not None and one.row.brings and CONTROL_OF[one.slot] in self.scope.new:
                need = lookup("needs", "what")[one.row.brings]
                yield Taken(
                    rule="", slots=(one.slot,), what=need["what"], need=need, is_part=True, step=one.id
                )
        for package in self.scope.packages:
            for what in package.brings:
                need = lookup("needs", "what")[what]
                yield Taken(rule="", slots=("bike",), what=what, need=need, is_part=True, step="look:bike")

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
        """Return the steps that are done, in the order they were done; `fresh` is the same sheet with nothing done."""
        found = []
        for name in done:
            one, does, slot = begun.done.get(name), *name.split(":")[:2]
            step = fresh.get(name) or (
                self.words.step(one) if one else Step(id=name, slot=slot, does=does, says=f"{name} (done)")
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
        """Have what is accepted signed at the hand-over."""
        ends = steps.get("hand_over:bike")
        if ends and self.accepted:
            says = f"{ends.says} Accepted and signed: {'; '.join(self.accepted)}."
            steps[ends.id] = evolve(ends, needs=tuple(self.accepted), says=says)


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
    """Return a step and everything that comes before it."""
    found: set[str] = set()
    queue = [name]
    while queue:
        one = queue.pop()
        if one not in found:
            found.add(one)
            queue += links.get(one, ())
    return found
