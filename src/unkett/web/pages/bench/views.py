"""The bench: parts that came off a bike, and where they go from there."""

from __future__ import annotations

from attrs import frozen
from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from unkett.core.vocabulary import KINDS
from unkett.web.bikes.fitting import leave_bench
from unkett.web.bikes.models import BikePart, Move, Where
from unkett.web.bikes.queries import bench_of
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.workshop.models import User


@frozen(kw_only=True)
class Lying:
    """A part on the bench with the line of the ledger that laid it there."""

    part: BikePart
    kind: str
    came: Move | None


@frozen(kw_only=True)
class BenchPage:
    """The parts that lie on the bench, the latest first."""

    actor: User

    @property
    def parts(self) -> list[Lying]:
        return [
            Lying(part=part, kind=KINDS[part.kind].title, came=_came(part)) for part in bench_of(self.actor)
        ]

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
    """Where the part goes."""

    to = forms.CharField(max_length=10)


@allowed("change-bikes", "POST")
def leave(request: HttpRequest, bike_part_id: int) -> HttpResponse:
    """A part is scrapped or goes to the customer."""
    leave_bench(actor=request.user, part_id=bike_part_id, **clean(LeaveForm(request.POST)))
    return redirect("bench:list")
