"""The options of a plan side by side; one added, one chosen."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial

from attrs import frozen
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.bike.figures import chain_of, gears_of
from unkett.core.bike.skeleton import bar_from_bracket
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.vocabulary import SLOTS
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans import options
from unkett.web.plans.cost import PlanCost
from unkett.web.plans.models import Plan, State
from unkett.web.plans.queries import Planned, options_of, planned
from unkett.web.show.values import Shown
from unkett.web.show.words import in_money

SUMS = ("Parts and small parts", "Work", "Total, with labour and tax", "Ready")


@frozen(kw_only=True)
class Row(Shown):
    """One thing reported of every option, and whether the options differ in it."""

    title: str
    unit: str = ""
    cells: tuple[str, ...]

    @property
    def differs(self) -> bool:
        return len(set(self.cells)) > 1


@frozen(kw_only=True)
class Column(Shown):
    """An option with what is said of it alone: findings that not every option has, worst first."""

    planned: Planned
    own: tuple[Finding, ...]

    @property
    def plan(self) -> Plan:
        return self.planned.plan

    @property
    def verdict(self) -> Verdict:
        return self.planned.check.verdict


def _number(value: float | None, places: int) -> str:
    return "–" if value is None else f"{value:.{places}f}"


def _moved(value: float, forward: str, back: str) -> str:
    """Return how far the bar moves, in words."""
    return "no" if round(value) == 0 else f"{abs(value):.0f} mm {forward if value > 0 else back}"


@frozen(kw_only=True, slots=False)
class OptionsPage(BikePage):
    """The options that are not dropped, by letter."""

    @cached_property
    def found(self) -> list[Planned]:
        plans = options_of(self.actor, self.plan) if self.plan else []
        return [planned(self.actor, plan.pk) for plan in plans if plan.state != State.DROPPED]

    @cached_property
    def columns(self) -> list[Column]:
        said = [{(f.rule, f.slots, f.says) for f in one.check.findings} for one in self.found]
        common = set.intersection(*said) if said else set()
        return [
            Column(
                planned=one,
                own=tuple(
                    finding
                    for finding in one.check.findings
                    if finding.verdict is not Verdict.GOES
                    and (finding.rule, finding.slots, finding.says) not in common
                ),
            )
            for one in self.found
        ]

    @cached_property
    def costs(self) -> dict[int, PlanCost]:
        return {one.plan.pk: PlanCost(found=one, settings=self.settings) for one in self.found}

    def _sums(self, one: Planned, n: int) -> str:
        """Parts, minutes, total or day of a plan, as its quote has them; a dash where no sheet can be made."""
        cost = self.costs[one.plan.pk]
        if cost.total is None:
            return "–"
        parts, gross = (in_money(sum, self.settings) for sum in (cost.total.parts, cost.total.gross))
        return (parts, f"{cost.total.minutes} min", gross, f"{cost.ready_on:%a %-d %b}")[n]

    def _row(self, title: str, tell: Callable[[Planned], str], unit: str = "") -> Row:
        return Row(title=title, unit=unit, cells=tuple(tell(one) for one in self.found))

    @cached_property
    def slots(self) -> list[Row]:
        """What each option has in the slots that one of them changes."""
        changed = [slot for slot in SLOTS if any(slot in one.changes for one in self.found)]
        return [self._row(SLOTS[slot].title, partial(_held, slot=slot)) for slot in changed]

    @property
    def compared(self) -> list[Row]:
        """What the options differ in; of one option everything."""
        rows = [*self.slots, *self.numbers]
        return [row for row in rows if row.differs or len(self.found) == 1]

    @property
    def same(self) -> list[Row]:
        """The slots that several options have alike."""
        return [row for row in self.slots if not row.differs and len(self.found) > 1]

    @property
    def same_numbers(self) -> list[Row]:
        return [row for row in self.numbers if not row.differs and len(self.found) > 1]

    @cached_property
    def numbers(self) -> list[Row]:
        """Gears, chain, bar, weight, price and days of each option."""
        gears = {one.plan.pk: gears_of(one.build) for one in self.found}
        bars = {one.plan.pk: bar_from_bracket(self.now, one.build) for one in self.found}

        def chain(one: Planned) -> str:
            figures = chain_of(one.build, self.settings)
            return figures.shown or "–" if figures else "–"

        return [
            self._row("Lowest gear", lambda one: _number(gears[one.plan.pk].low_m, 2), "m"),
            self._row("Highest gear", lambda one: _number(gears[one.plan.pk].high_m, 2), "m"),
            self._row("Chain", chain, "links"),
            self._row("Bar moves", lambda one: _moved(bars[one.plan.pk][0], "forward", "back")),
            self._row("Bar height", lambda one: _moved(bars[one.plan.pk][1], "higher", "lower")),
            self._row("Parts, weight where known", lambda one: _number(one.mass_g, 0), "g"),
            *(self._row(title, partial(self._sums, n=n)) for n, title in enumerate(SUMS)),
        ]


def _held(one: Planned, slot: str) -> str:
    if slot not in one.changes:
        return "now"
    return one.changes[slot].name or "empty"


@allowed("see-plans")
def show(request: Request, plan_id: int) -> HttpResponse:
    """The options of a plan side by side."""
    return answer(request, "options/options.html", of_plan(request, plan_id, OptionsPage, "plan"))


@allowed("change-plans", "POST")
def add(request: Request, plan_id: int) -> HttpResponse:
    """Add an option with the same changes."""
    new = options.add_option(actor=request.user, plan_id=plan_id, **clean(VersionForm(request.POST)))
    return redirect("plans:show", new.pk)


@allowed("change-plans", "POST")
def choose(request: Request, plan_id: int) -> HttpResponse:
    """Choose this option."""
    options.choose_option(actor=request.user, plan_id=plan_id, **clean(VersionForm(request.POST)))
    return redirect("plans:show", plan_id)
