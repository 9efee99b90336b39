"""Every calculation with its fields, filled from a bike where the bike knows, its answer and its trace."""

from __future__ import annotations

from functools import cached_property
from typing import Any
from urllib.parse import urlencode, urlsplit, urlunsplit

from attrs import frozen
from django.http import Http404, HttpResponse

from unkett.core.build import Build
from unkett.core.calc.base import Calculation
from unkett.core.calc.registry import CALCULATIONS
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.forms import whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.common.tools import Tool, make_tool
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import Planned, planned, plans_seen_by
from unkett.web.workshop.models import User

BIKES_SHOWN = 200


@frozen(kw_only=True)
class NamesPage:
    """Everything that can be worked out."""

    calculations: list[Calculation]


@allowed("measure")
def names(request: Request) -> HttpResponse:
    """Everything that can be worked out."""
    return answer(request, "calculators/names.html", NamesPage(calculations=list(CALCULATIONS.values())))


@frozen(kw_only=True, slots=False)
class ToolPage:
    """One calculation, filled from the bike and the plan it is about; `shown_at` is the address it stands on."""

    actor: User
    calculation: Calculation
    asked: Any
    shown_at: str
    own_page: bool

    @cached_property
    def planned(self) -> Planned | None:
        """The plan that fills the fields, where it is the actor's."""
        number = whole_number(self.asked.get("plan", ""))
        own = number is not None and plans_seen_by(self.actor).filter(pk=number).exists()
        return planned(self.actor, number) if own and number is not None else None

    @property
    def plan(self) -> Plan | None:
        return self.planned.plan if self.planned else None

    @cached_property
    def bike(self) -> Bike | None:
        """The bike that fills the fields, where it is the actor's."""
        if self.planned is not None:
            return self.planned.stands.bike
        number = whole_number(self.asked.get("bike", ""))
        own = bikes_seen_by(self.actor).prefetch_related("fitted")
        return own.filter(pk=number).first() if number is not None else None

    @cached_property
    def tool(self) -> Tool:
        """The calculation with its fields and, once it can be worked out, its answer."""
        now: Build | None = None
        if self.planned is not None:
            now = self.planned.stands.build
        elif self.bike is not None:
            now = self.bike.build(list(self.bike.fitted.all()))
        kept = self.bike.kept.get(self.calculation.name) if self.bike is not None else None
        then = self.planned.build if self.planned else None
        return make_tool(self.calculation, self.asked, now=now, then=then, kept=kept)

    @property
    def bikes(self) -> list[Bike]:
        return list(bikes_seen_by(self.actor).order_by("name")[:BIKES_SHOWN])

    @property
    def query(self) -> str:
        """The address part that asks for this very answer again."""
        texts = {field.name: field.text for field in self.tool.fields if field.text}
        owners = {"bike": self.bike, "plan": self.plan}
        return urlencode({**{name: owner.pk for name, owner in owners.items() if owner is not None}, **texts})


@allowed("measure")
def calculation(request: Request, name: str) -> HttpResponse:
    """One calculation: fields, answer, trace. Faults stand beside their fields."""
    if name not in CALCULATIONS:
        raise Http404
    here = urlsplit(request.htmx.current_url or "") if request.htmx else urlsplit(request.get_full_path())
    page = ToolPage(
        actor=request.user,
        calculation=CALCULATIONS[name],
        asked=request.GET,
        shown_at=urlunsplit(("", "", here.path, here.query, "")),
        own_page=here.path == request.path,
    )
    tool = page.tool
    file = download(request, name, tool.scene, tool.csv_rows())
    if file is not None:
        return file
    status = 422 if tool.asked and tool.faulty else 200
    template = "common/_tool.html" if request.htmx else "calculators/calculation.html"
    return answer(request, template, page, status=status, tool=tool)
