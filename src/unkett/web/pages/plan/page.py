"""What the plan page and its drawer show."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import frozen
from django import forms
from django.urls import reverse

from unkett.core.bike.lines import LineReport, line_reports
from unkett.core.bike.wheels import end_of_wheel, goes_over, wheel_slots
from unkett.core.build import Build, Part
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.rules.lines import LINES
from unkett.core.vocabulary import SLOTS, Area, Slot
from unkett.core.work.package_steps import is_for
from unkett.core.work.packages import Package
from unkett.web.bikes.models import Where
from unkett.web.catalogue.queries import Candidates, Wheel, what_goes, wheels_that_go
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.pages.common.forms import CandidatesForm
from unkett.web.pages.plan.forms import NameForm
from unkett.web.plans.models import Change, Plan, State
from unkett.web.plans.queries import options_of, part_now
from unkett.web.plans.set_ups import SetUpEffect, set_ups_in_plan
from unkett.web.rulebook.packages import packages_of
from unkett.web.show.values import Shown
from unkett.web.workshop.permissions import may

WAYS = {
    State.DRAFT: "Back to a draft",
    State.QUOTED: "Mark as quoted",
    State.AGREED: "Mark as agreed",
    State.GATHERING: "Wait for parts",
    State.READY: "Mark parts ready",
    State.ON_STAND: "Start work",
    State.CHECKED: "Mark as checked",
    State.HANDED_OVER: "Hand over",
    State.DROPPED: "Discard",
}


# changes of these move the ends or the way of a line
MOVES_LINES = frozenset(
    {
        "frame",
        "fork",
        "headset",
        "spacers",
        "stem",
        "handlebar",
        "seatpost",
        "front_derailleur",
        "rear_derailleur",
    }
    | {f"{end}_{part}" for end in ("front", "rear") for part in ("brake_lever", "shifter", "caliper")}
    | {"rear_hub", "dropper_lever"}
    | set(LINES)
)
LINE_MOVES_MM = 1.0


COMES_OFF = {
    Where.BENCH: "is kept in the bin",
    Where.CUSTOMER: "goes to the customer",
    Where.SCRAPPED: "is scrapped",
}


@frozen(kw_only=True)
class SlotLine(Shown):
    """A slot in the ledger: what is planned there, and whether a complete bike wants it filled."""

    slot: Slot
    then: Part | None
    open: bool
    drawer: str  # the address of its candidates


@frozen(kw_only=True)
class AreaLines(Shown):
    """The slots of an area that hold or want something."""

    area: Area
    lines: list[SlotLine]


@frozen(kw_only=True)
class ChangeShown(Shown):
    """A change with what stands there now and the findings it pulls along, each with the other slots at fault."""

    slot: Slot
    change: Change
    was: Part | None
    pulls: list[tuple[Finding, tuple[str, ...]]]
    done: bool
    over: list[tuple[str, str, bool]]
    take_back: str  # the address that takes it back
    apply: str  # the address that says it is done


@frozen(kw_only=True, slots=False)
class PlanPage(BikePage):
    """A plan: its changes, what they pull along, its numbers and its findings."""

    form: forms.Form | None = None

    @cached_property
    def measurable(self) -> bool:
        return False

    @cached_property
    def packages(self) -> Mapping[str, Package]:
        """The service packages of the workshop that have anything to do on this bike."""
        return {code: one for code, one in packages_of(self.actor.workshop).items() if is_for(one, self.now)}

    @property
    def picked(self) -> list[str]:
        return [code for code in (self.plan.packages if self.plan else ()) if code in self.packages]

    @cached_property
    def tools_missing(self) -> list[tuple[str, int]]:
        """The tools that steps of the plan need and that the workshop does not have, each with how many steps."""
        missing = self.actor.workshop.tools_missing
        if not missing or self.cost is None or not self.cost.has_sheet:
            return []
        steps = self.cost.sheet.steps
        found = [(tool, sum(tool in step.tools for step in steps)) for tool in missing]
        return [(tool, number) for tool, number in found if number]

    @cached_property
    def set_ups(self) -> list[SetUpEffect]:
        """What the plan does to the bike's other set-ups."""
        return set_ups_in_plan(self.actor, self.planned) if self.planned and self.plan_open else []

    @cached_property
    def lines(self) -> list[LineReport]:
        """The lines that the plan changes, or that need another length by it."""
        if self.planned is None or not (self.changed_slots & MOVES_LINES):
            return []
        return [
            one
            for one in line_reports(self.now, self.then)
            if one.slot in self.changed_slots or abs(one.change_mm or 0.0) >= LINE_MOVES_MM
        ]

    @property
    def agreed(self) -> bool:
        return self.cost is not None and self.cost.agreed is not None

    @property
    def may_price(self) -> bool:
        return may(self.actor, "change-plans")

    @property
    def name_form(self) -> forms.Form:
        plan = self.plan
        return self.form or NameForm(initial={"name": plan.name, "note": plan.note} if plan else {})

    @cached_property
    def ways(self) -> list[tuple[str, str]]:
        """Where the plan may go, each with what is said when it does."""
        if self.plan is None:
            return []
        taken_up = self.plan.state == State.DROPPED
        return [(to.value, "Restore" if taken_up else WAYS[to]) for to in self.plan.may_go]

    @cached_property
    def options(self) -> list[Plan]:
        """The plan with its other options."""
        if self.plan is None:
            return []
        return options_of(self.actor, self.plan) if self.plan.letter else [self.plan]

    @property
    def comes_off_to(self) -> list[tuple[str, str]]:
        """Where a part that comes off may go."""
        return [(to.value, words) for to, words in COMES_OFF.items()]

    @property
    def to_apply(self) -> list[ChangeShown]:
        """What is left to be done of a plan on the stand."""
        return [shown for shown in self.changes if not shown.done] if self.plan and self.plan.on_stand else []

    @property
    def comes_off(self) -> list[str]:
        """The parts that come off with all that is left."""
        return [shown.was.name or shown.slot.title.lower() for shown in self.to_apply if shown.was]

    @property
    def opened(self) -> str:
        return str(self.asked.get("area", ""))

    @property
    def drawn(self) -> bool:
        """Whether the drawing comes with the page at once."""
        return self.everything or self.chosen is not None

    @cached_property
    def slots_by_area(self) -> list[AreaLines]:
        """Every slot by area: what stands there, what is planned, whether it is open."""
        stands, then = self.now.filled(), self.build.filled()
        wanted = set(self.check.open_slots)
        shown = [slot for slot in SLOTS.values() if {slot.name} & (stands.keys() | then.keys() | wanted)]
        by_area = [(area, [slot for slot in shown if slot.area is area]) for area in Area]
        return [
            AreaLines(
                area=area,
                lines=[
                    SlotLine(
                        slot=slot,
                        then=then.get(slot.name),
                        open=slot.name in wanted,
                        drawer=self.drawer_of(slot.name),
                    )
                    for slot in slots
                ],
            )
            for area, slots in by_area
            if slots
        ]

    @property
    def other_slots(self) -> list[Slot]:
        """The slots that the ledger does not show."""
        shown = {line.slot.name for group in self.slots_by_area for line in group.lines}
        return [slot for slot in SLOTS.values() if slot.name not in shown]

    @property
    def area_lines(self) -> AreaLines | None:
        """The area that is asked for."""
        return next((lines for lines in self.slots_by_area if lines.area.value == self.opened), None)

    def _address(self, name: str) -> str:
        """Return an address of this plan's slots, asked for once; SLOT stands for the slot."""
        return reverse(name, args=[self.plan.pk, "SLOT"]) if self.plan else ""

    @cached_property
    def changes(self) -> list[ChangeShown]:
        """Each change with what it pulls along: the new findings, each under its first cause."""
        if self.planned is None:
            return []
        stands, causes = self.now.filled(), self.planned.difference.causes
        back, done = (self._address(f"plans:change-{verb}") for verb in ("take-back", "apply"))
        asking = [item for item in self.planned.difference.new if item.verdict is not Verdict.GOES]
        return [
            ChangeShown(
                slot=SLOTS[slot],
                change=change,
                was=stands.get(slot),
                pulls=[
                    (finding, causes[finding.about][1:])
                    for finding in asking
                    if causes[finding.about][:1] == (slot,)
                ],
                done=slot in self.planned.done,
                over=self._over(change),
                take_back=back.replace("SLOT", slot),
                apply=done.replace("SLOT", slot),
            )
            for slot, change in self.planned.changes.items()
        ]

    def _over(self, change: Change) -> list[tuple[str, str, bool]]:
        """Of a planned wheel, what may go over from the old one: slot, title, and whether it does."""
        if not change.also or change.fitted_id is not None:
            return []
        there = goes_over(self.stands.build, end_of_wheel(change.slot))
        return [
            (slot, SLOTS[slot].title, change.goes_over is None or slot in change.goes_over) for slot in there
        ]


@frozen(kw_only=True, slots=False)
class DrawerPage(BikePage):
    """What could go in one slot of the plan, each part with its verdict before it is chosen."""

    slot: Slot

    @property
    def part(self) -> Part | None:
        return part_now(self.planned, self.slot.name) if self.planned else None

    @property
    def wheel_slot(self) -> str:
        """Where a ready-built wheel is planned that fills this slot; empty for another slot."""
        end = end_of_wheel(self.slot.name)
        return wheel_slots(end)[0] if end else ""

    @cached_property
    def wheels(self) -> list[Wheel]:
        """The ready-built wheels on offer that would fill this slot, each judged on the bike as planned."""
        end = end_of_wheel(self.slot.name)
        return wheels_that_go(self.actor, self.against, end, self.settings) if end else []

    @cached_property
    def wanted(self) -> dict[str, Any]:
        return CandidatesForm.wanted(self.asked)

    @property
    def sorts(self) -> Any:
        return CandidatesForm.base_fields["sort"].widget.choices

    @cached_property
    def against(self) -> Build:
        """The bike as planned with what stands in this slot now: what a candidate is held against."""
        stands = self.now.parts.get(self.slot.name)
        return self.build if stands is None else self.build.with_part(self.slot.name, stands)

    @cached_property
    def found(self) -> Candidates:
        return what_goes(self.actor, self.against, self.slot.name, self.settings, new=True, **self.wanted)

    @property
    def previous(self) -> str:
        return urlencode({**self.wanted, "page": self.found.page - 1})

    @property
    def next(self) -> str:
        return urlencode({**self.wanted, "page": self.found.page + 1})
