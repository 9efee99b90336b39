"""Rulebook → Complaints: what the causes of each weigh, how often they held here, and the workshop's own weights."""

from __future__ import annotations

from functools import cached_property

from attrs import frozen
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.diagnose.tables import Complaint, shipped
from unkett.core.errors import Fault, InputError
from unkett.core.intake.inspection import AREAS
from unkett.web.causes.services import CASES_LEAST, CauseWeight, cases_of, counted, weigh
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.values import Shown
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may


@frozen(kw_only=True, slots=False)
class ComplaintsBook(Shown):
    """All complaints by area, with the closed cases of each."""

    actor: User

    @cached_property
    def areas(self) -> list[tuple[str, list[tuple[Complaint, int]]]]:
        cases = cases_of(self.actor.workshop)
        by_area: dict[str, list[tuple[Complaint, int]]] = {}
        for one in shipped().complaints.values():
            by_area.setdefault(AREAS[one.area], []).append((one, cases.get(one.code, 0)))
        return list(by_area.items())

    least = CASES_LEAST


@frozen(kw_only=True, slots=False)
class ComplaintPage(Shown):
    """One complaint with its causes; `faults` are weights that cannot be kept."""

    actor: User
    complaint: Complaint
    faults: tuple[Fault, ...] = ()

    @cached_property
    def _counted(self) -> tuple[int, list[CauseWeight]]:
        return counted(self.actor.workshop, self.complaint.code)

    @property
    def cases(self) -> int:
        return self._counted[0]

    @property
    def causes(self) -> list[CauseWeight]:
        return self._counted[1]

    @property
    def offers(self) -> bool:
        return any(one.offered is not None for one in self.causes)

    least = CASES_LEAST

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-settings")


@allowed("see-rules")
def complaints(request: Request) -> HttpResponse:
    """All complaints."""
    return answer(request, "rulebook/complaints.html", ComplaintsBook(actor=request.user))


@allowed("see-rules")
def complaint(request: Request, code: str) -> HttpResponse:
    """One complaint."""
    if code not in shipped().complaints:
        raise Http404
    page = ComplaintPage(actor=request.user, complaint=shipped().complaints[code])
    return answer(request, "rulebook/complaint.html", page)


@allowed("change-settings", "POST")
def keep(request: Request, code: str) -> HttpResponse:
    """Keep own weights; what cannot be one answers beside it."""
    if code not in shipped().complaints:
        raise Http404
    try:
        weigh(actor=request.user, complaint=code, weights=_weights(request))
    except InputError as error:
        page = ComplaintPage(
            actor=request.user, complaint=shipped().complaints[code], faults=tuple(error.faults)
        )
        return answer(request, "rulebook/complaint.html", page, status=422)
    return redirect("rulebook:complaint", code)


def _weights(request: Request) -> dict[str, float]:
    """Return the weights that were typed, by cause. Raises InputError naming the cause for what is no number."""
    found, faults = {}, {}
    for name, text in request.POST.items():
        cause = name.removeprefix("weight-")
        if cause == name or not str(text).strip():
            continue
        try:
            found[cause] = float(str(text).replace(",", "."))
        except ValueError:
            faults[cause] = ["enter a number"]
    if faults:
        raise InputError.of(faults)
    return found
