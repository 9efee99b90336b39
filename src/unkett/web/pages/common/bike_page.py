"""The one value behind every page of a bike: as it stands and, where a plan is open, as planned. Costly
things come when asked.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Any

from attrs import frozen
from django.urls import reverse

from unkett.core.bike.figures import ChainFigures, GearFigures, chain_of, gears_of
from unkett.core.build import Build
from unkett.core.check.engine import Check
from unkett.core.check.joint_verdicts import Judged, judged, of_page
from unkett.core.check.next_measure import NextMeasure, next_measures
from unkett.core.diagnose.search import Causes
from unkett.core.drawing.bicycle import Gear
from unkett.core.drawing.marks import with_joints
from unkett.core.drawing.side import Bones, drawn
from unkett.core.panels import PAGES, Page, Panel
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.rules.joints import Joint
from unkett.core.scene import Scene
from unkett.core.settings import Settings
from unkett.core.suspension.ends import is_sprung
from unkett.core.vocabulary import SLOTS, Slot
from unkett.web.bikes.complaints import TRIED, OpenComplaint, open_complaints
from unkett.web.bikes.models import Bike
from unkett.web.bikes.queries import CurrentBike, current_bike, settings_of
from unkett.web.causes.services import search_of, stops_of
from unkett.web.jobs.queries import interrupted
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import Planned, planned
from unkett.web.show.values import Shown
from unkett.web.workshop.models import User

GROUP_FIRST = 12  # findings of a group that a page brings at once
NEXT_SHOWN = 4
GROUPS = {
    Verdict.NO_GO: "Problems",
    Verdict.GOES_IF: "Needs",
    Verdict.UNMEASURED: "Measure next",
    Verdict.GOES: "Go",
}


@frozen(kw_only=True)
class Tab(Shown):
    """One page in the second line: its address, its worst verdict and how many findings ask for work."""

    name: str
    title: str
    url: str
    verdict: Verdict
    count: int
    here: bool


@frozen(kw_only=True)
class Group(Shown):
    """Findings of one verdict: the first that a page brings at once, and the rest."""

    verdict: Verdict
    title: str
    findings: tuple[Finding, ...]

    @property
    def first(self) -> tuple[Finding, ...]:
        return self.findings[:GROUP_FIRST]

    @property
    def more(self) -> tuple[Finding, ...]:
        return self.findings[GROUP_FIRST:]


def by_verdict(findings: Iterable[Finding]) -> list[Group]:
    """Findings in the four groups a page shows, worst first; empty groups are left out, accepted ones stand apart."""
    found = [finding for finding in findings if not finding.accepted]
    groups = [
        Group(
            verdict=verdict,
            title=title,
            findings=tuple(finding for finding in found if finding.verdict is verdict),
        )
        for verdict, title in GROUPS.items()
    ]
    return [group for group in groups if group.findings]


@frozen(kw_only=True, slots=False)
class BikePage(Shown):
    """A page of one bike. `here` is its tab, `url` its own address, `asked` what its address asks for."""

    actor: User
    stands: CurrentBike
    planned: Planned | None = None
    here: str = ""
    url: str = ""
    asked: Mapping[str, Any] = {}

    @cached_property
    def bike(self) -> Bike:
        return self.stands.bike

    @cached_property
    def plan(self) -> Plan | None:
        return self.planned.plan if self.planned else None

    @cached_property
    def plan_open(self) -> bool:
        """Whether a plan is shown whose changes may be changed."""
        return self.plan is not None and self.plan.is_open

    @cached_property
    def now(self) -> Build:
        return self.stands.build

    @cached_property
    def then(self) -> Build | None:
        return self.planned.build if self.planned else None

    @cached_property
    def build(self) -> Build:
        """The bike that is shown: as planned, else as it stands."""
        return self.then or self.now

    @cached_property
    def check(self) -> Check:
        return self.planned.check if self.planned else self.stands.check

    @cached_property
    def settings(self) -> Settings:
        return settings_of(self.actor)

    @cached_property
    def cost(self) -> PlanCost | None:
        """What the shown plan comes to: its quote, its sheet, its days."""
        return PlanCost(found=self.planned, settings=self.settings) if self.planned else None

    @cached_property
    def is_sprung(self) -> bool:
        """Whether the bike has a fork with travel or a shock."""
        return is_sprung(self.now)

    @cached_property
    def changed_slots(self) -> frozenset[str]:
        """The slots that the shown plan changes and that are not carried out."""
        return frozenset(self.planned.changes) - self.planned.done if self.planned else frozenset()

    @cached_property
    def origins(self) -> dict[str, dict[str, str]]:
        """Where each attribute of each slot comes from."""
        return {**self.stands.origins, **{slot: {} for slot in self.changed_slots}}

    @cached_property
    def tabs(self) -> list[Tab]:
        """Stand · Plan · Gears · Chain · Bracket · Brakes · Wheels · Steering, of what is shown."""
        bike, plan = self.bike.pk, self.plan
        first = [self._tab("stand", "Stand", reverse("bikes:stand", args=[bike]), self.stands.check.findings)]
        if plan is not None:
            first.append(
                self._tab("plan", "Plan", reverse("plans:show", args=[plan.pk]), self.check.findings)
            )
        work = ("plans:work", plan.pk) if plan is not None else ("bikes:work", bike)
        address = reverse(work[0], args=[work[1], "PAGE"])  # asked for once, a page has six of them
        return first + [
            self._tab(
                page.name,
                page.title.split(" and ")[0],
                address.replace("PAGE", page.name),
                of_page(self.check.findings, page.name),
            )
            for page in PAGES.values()
        ]

    def _tab(self, name: str, title: str, url: str, findings: Iterable[Finding]) -> Tab:
        verdicts = [finding.verdict for finding in findings]
        count = sum(verdict is not Verdict.GOES for verdict in verdicts)
        return Tab(
            name=name, title=title, url=url, verdict=worst(verdicts), count=count, here=name == self.here
        )

    def drawer_of(self, slot: str) -> str:
        """Return the address of a slot's candidates in the shown plan."""
        return self._drawers.replace("SLOT", slot)

    @cached_property
    def _drawers(self) -> str:
        return reverse("plans:drawer", args=[self.plan.pk, "SLOT"]) if self.plan else ""

    @cached_property
    def complaints(self) -> list[OpenComplaint]:
        """What the rider complains of and is not gone yet."""
        return open_complaints(self.bike)

    outcomes = tuple(TRIED.items())  # of a complaint that is asked again

    @cached_property
    def causes(self) -> Causes:
        """The causes of what the rider complains of, as far as they are known now."""
        return search_of(self.actor, self.stands)

    @cached_property
    def stops(self) -> list[str]:
        """Why the bike is not ridden, by its complaints and by the causes that hold."""
        return [*interrupted(self.actor, self.bike.pk), *stops_of(self.causes)]

    # Findings and joints

    @cached_property
    def measurable(self) -> bool:
        """Whether readings are asked for beside the findings."""
        return True

    @cached_property
    def everything(self) -> bool:
        """Whether all that is folded is brought at once."""
        return "all" in self.asked

    @cached_property
    def folds(self) -> bool:
        """Whether what stands behind the findings comes as it is opened."""
        return not self.everything and self.chosen is None

    @cached_property
    def asked_beside(self) -> frozenset[tuple[str, str]]:
        """Readings that the page asks for elsewhere than beside the findings."""
        return frozenset()

    @cached_property
    def joints(self) -> list[Judged]:
        return judged(self.check.findings)

    @cached_property
    def chosen(self) -> Judged | None:
        """The joint that is asked for."""
        asked = self.asked.get("joint", "")
        return next((judged for judged in self.joints if judged.joint.name == asked), None)

    @cached_property
    def chosen_name(self) -> str:
        return self.chosen.joint.name if self.chosen else ""

    def _beside(self, steps: int) -> Joint:
        names = [judged.joint for judged in self.joints]
        here = next(n for n, joint in enumerate(names) if joint.name == self.chosen_name)
        return names[(here + steps) % len(names)]

    @property
    def joint_before(self) -> Joint:
        return self._beside(-1)

    @property
    def joint_after(self) -> Joint:
        return self._beside(1)

    @property
    def joint_work(self) -> Page | None:
        """The page of the work that shows the chosen joint."""
        return PAGES[self.chosen.joint.page] if self.chosen else None

    @cached_property
    def section(self) -> Panel | None:
        """The sheet that shows the chosen joint in section."""
        work = self.joint_work
        if self.chosen is None or work is None or not self.chosen.joint.sheet:
            return None
        wanted = self.chosen.joint.sheet
        sheets = work.sheets(self.build, self.settings)
        return next((sheet for sheet in sheets if sheet.name == wanted and sheet.scene), None)

    @cached_property
    def groups(self) -> list[Group]:
        return by_verdict(self.chosen.findings if self.chosen else self.check.findings)

    @cached_property
    def accepted(self) -> list[Finding]:
        """Findings that somebody took as they are."""
        found = self.chosen.findings if self.chosen else self.check.findings
        return [finding for finding in found if finding.accepted]

    @cached_property
    def next_measures(self) -> list[NextMeasure]:
        return next_measures(self.check.findings)[:NEXT_SHOWN]

    # Numbers and drawing

    @cached_property
    def gears_now(self) -> GearFigures:
        return gears_of(self.now)

    @cached_property
    def gears(self) -> GearFigures:
        return gears_of(self.build) if self.planned else self.gears_now

    @cached_property
    def chain_now(self) -> ChainFigures | None:
        return chain_of(self.now, self.settings)

    @cached_property
    def chain(self) -> ChainFigures | None:
        return chain_of(self.build, self.settings) if self.planned else self.chain_now

    @cached_property
    def gear(self) -> Gear | None:
        """The gear asked for as ring-sprocket, else the largest ring with the middle sprocket."""
        if self.gears.gears is None:
            return None
        pairs = [(gear.ring, gear.sprocket) for gear in self.gears.gears.gears]
        asked = self.asked.get("gear", "")
        named = next((pair for pair in pairs if f"{pair[0]}-{pair[1]}" == asked), None)
        largest = max(ring for ring, _ in pairs)
        on_it = [pair for pair in pairs if pair[0] == largest]
        ring, sprocket = named or on_it[len(on_it) // 2]
        return Gear(ring=ring, sprocket=sprocket)

    @cached_property
    def bones(self) -> Bones:
        return Bones.of(self.now, self.then) if self.then else Bones.of(self.now)

    @cached_property
    def scene(self) -> Scene:
        """The side view with its joints, as planned over as it stands."""
        return with_joints(drawn(self.bones, self.gear), self.joints, self.bones, self.chosen_name)

    @cached_property
    def open_slots(self) -> list[Slot]:
        """Slots that a complete bike has filled."""
        return [SLOTS[name] for name in self.check.open_slots]


def of_bike(request: Any, bike_id: int, kind: type[Any], here: str = "", **more: Any) -> Any:
    """Return the value of a page of a bike as it stands."""
    return kind(
        actor=request.user,
        stands=current_bike(request.user, bike_id),
        here=here,
        url=request.path,
        asked=request.GET,
        **more,
    )


def of_plan(request: Any, plan_id: int, kind: type[Any], here: str = "", **more: Any) -> Any:
    """Return the value of a page of a bike as planned."""
    found = planned(request.user, plan_id)
    url = reverse("plans:show", args=[plan_id])
    return kind(
        actor=request.user,
        stands=found.stands,
        planned=found,
        here=here,
        url=url,
        asked=request.GET,
        **more,
    )


def folded_findings(page: BikePage) -> tuple[str, dict[str, Any]] | None:
    """The template of a folded part of the findings and what it shows; None for a part that is none of these.

    `goes` and `more-` with a verdict are findings; `where` is what stands behind the one called `finding`.
    """
    part = page.asked["part"]
    for group in page.groups:
        if part == "goes" and group.verdict is Verdict.GOES:
            return "common/_findings.html", {"findings": group.findings}
        if part == f"more-{group.verdict.value}":
            return "common/_findings.html", {"findings": group.more}
        for finding in group.findings:
            if part == "where" and finding.ref == page.asked.get("finding"):
                return "common/_where.html", {"finding": finding}
    return None
