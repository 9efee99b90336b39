"""The bench: parts that came off a bike, and where they go from there."""

from __future__ import annotations

from decimal import Decimal

from attrs import frozen
from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import InputError
from unkett.core.vocabulary import KINDS
from unkett.web.bikes.fitting import keep_in_bin, leave_bench
from unkett.web.bikes.models import BikePart, Move, Where
from unkett.web.bikes.queries import bench_of
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import Money, clean, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import wanted_parts
from unkett.web.workshop.models import User


@frozen(kw_only=True)
class Lying:
    """A part on the bench with the line of the ledger that laid it there."""

    part: BikePart
    kind: str
    came: Move | None
    wanted: Plan | None  # the plan that it is reserved for


class BinForm(forms.Form):
    """Where a part lies, what it is worth and weighs, what it is kept with."""

    box = forms.CharField(required=False, max_length=40, strip=True)
    value = Money(required=False, min_value=0, max_digits=9, decimal_places=2)
    mass_g = forms.IntegerField(required=False, min_value=0, max_value=100_000)
    kept_with = forms.CharField(required=False, max_length=14, strip=True)


@frozen(kw_only=True)
class BenchPage:
    """The parts that lie on the bench, the latest first."""

    actor: User
    only: int | None = None
    typed: BinForm | None = None
    typed_of: int | None = None

    @property
    def parts(self) -> list[Lying]:
        found = [part for part in bench_of(self.actor) if self.only in (None, part.pk)]
        wanted = wanted_parts(self.actor)
        return [
            Lying(part=part, kind=KINDS[part.kind].title, came=_came(part), wanted=wanted.get(part.pk))
            for part in found
        ]

    @property
    def worth(self) -> Decimal:
        """What lies here is worth together, where it is known."""
        return sum((lying.part.value for lying in self.parts if lying.part.value is not None), Decimal(0))

    @property
    def form(self) -> BinForm | None:
        """What was typed of one part and could not be kept."""
        return self.typed

    @property
    def ways(self) -> list[tuple[str, str]]:
        """Where a part may go from the bench, but back on a bike."""
        return [(Where.CUSTOMER.value, "Give to the customer"), (Where.SCRAPPED.value, "Scrap")]


def _came(part: BikePart) -> Move | None:
    moves = [move for move in part.moves.all() if move.to_where == Where.BENCH]
    return moves[-1] if moves else None


@allowed("see-bench")
def bench(request: HttpRequest) -> HttpResponse:
    """The parts that lie on the bench."""
    return answer(request, "bench/bench.html", BenchPage(actor=request.user))


class LeaveForm(forms.Form):
    """Where the part goes, and why."""

    to = forms.CharField(max_length=10)
    why = forms.CharField(required=False, max_length=200, strip=True)


@allowed("change-bikes", "POST")
def leave(request: HttpRequest, bike_part_id: int) -> HttpResponse:
    """A part is scrapped or goes to the customer."""
    leave_bench(actor=request.user, part_id=bike_part_id, **clean(LeaveForm(request.POST)))
    return redirect("bench:list")


@allowed("change-bikes", "POST")
def keep(request: HttpRequest, bike_part_id: int) -> HttpResponse:
    """Where a part lies and what it is worth; what cannot be read is told beside its part."""
    form = BinForm(request.POST)
    if form.is_valid():
        try:
            keep_in_bin(actor=request.user, part_id=bike_part_id, **form.cleaned_data)
        except InputError as error:
            for fault in error.faults:
                form.add_error(fault.path, fault.says)
        else:
            return redirect("bench:list")
    page = BenchPage(actor=request.user, typed=form, typed_of=bike_part_id)
    if bike_part_id not in {lying.part.pk for lying in page.parts}:
        raise Http404
    return answer(request, "bench/bench.html", page, status=422)


@allowed("see-bench")
def labels(request: HttpRequest) -> HttpResponse:
    """Labels to print: of one part, or of all that lie here."""
    page = BenchPage(actor=request.user, only=whole_number(request.GET.get("part", "")))
    return answer(request, "bench/labels.html", page)
