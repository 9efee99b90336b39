"""The ways out of one finding, each tried as a change and shown with its effect before it is taken."""

from __future__ import annotations

from functools import cached_property

from attrs import frozen
from django import forms
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect

from unkett.core.errors import bad
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.fixes import Fix, fixes
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.forms import VersionForm, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans import way_search
from unkett.web.plans.shelf import one_of_each
from unkett.web.show.values import Shown

PICKS_MOST = 4


@frozen(kw_only=True)
class Tried(Shown):
    """An attempt as it is shown."""

    fix: Fix

    @property
    def verdict(self) -> Verdict:
        found = [one.verdict for one in self.fix.asking]
        return worst(found) if found else Verdict.GOES

    @property
    def parts(self) -> list[tuple[str, str, str]]:
        """The parts: the slot's title, the part's name, and what picks it."""
        return [
            (SLOTS[slot].title, part.part.name or SLOTS[slot].title, f"{slot}:{part.id}")
            for slot, part in self.fix.parts
        ]

    @property
    def called(self) -> str:
        return " with ".join(name for _, name, _ in self.parts)

    @property
    def cures(self) -> list[str]:
        return list(dict.fromkeys(RULES[one.rule].title for one in self.fix.cured))

    @property
    def price(self) -> float | None:
        """The price of its parts; None where one of them has none yet."""
        priced = all(part.priced for _, part in self.fix.parts)
        return self.fix.price / 100 if priced else None


@frozen(kw_only=True, slots=False)
class WayOutPage(BikePage):
    """One finding of a plan with what was tried."""

    @cached_property
    def finding(self) -> Finding | None:
        return next((one for one in self.check.findings if one.ref == self.asked.get("finding")), None)

    @cached_property
    def tried(self) -> list[Tried]:
        if self.finding is None:
            return []
        shelf = one_of_each(self.actor)
        found = fixes(self.build, self.check, self.finding, shelf, self.settings)
        return [Tried(fix=one) for one in found]


class PickForm(VersionForm):
    """Parts of the shelf by slot, each `slot:part`."""

    data: QueryDict

    pick = forms.CharField(max_length=400)

    def picks(self) -> dict[str, str]:
        rows = [row.partition(":") for row in self.data.getlist("pick")]
        picks = {slot: name for slot, _, name in rows}
        if not 0 < len(picks) == len(rows) <= PICKS_MOST:
            raise bad("pick", "give slot:part, each slot once")
        return picks


@allowed("see-plans")
def way_out(request: Request, plan_id: int) -> HttpResponse:
    """What was tried for one finding; 404 for one that the plan does not have."""
    page = of_plan(request, plan_id, WayOutPage, "plan")
    if page.finding is None and "finding" in request.GET:
        raise Http404
    return answer(request, "ways/way_out.html", page)


@allowed("change-plans", "POST")
def pick(request: Request, plan_id: int) -> HttpResponse:
    """Plan what was tried."""
    form = PickForm(request.POST)
    version = clean(form)["version"]
    way_search.plan_picks(actor=request.user, plan_id=plan_id, version=version, picks=form.picks())
    return redirect("plans:show", plan_id)
