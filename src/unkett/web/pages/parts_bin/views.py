"""The parts bin: its pieces found by words, kind and box; labels to print; what of it goes on a bike."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import frozen
from django import forms
from django.http import HttpResponse

from unkett.core.rules.finding import Verdict
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import BikePart, Move, Where
from unkett.web.bikes.queries import settings_of
from unkett.web.bin.queries import (
    FEW,
    Pieces,
    PiecesThatGo,
    all_that_go,
    pieces,
    pieces_by_slot,
    pieces_for,
)
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.forms import FindForm, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import wanted_parts
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import wear_marks
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

LISTS = {
    Where.BENCH.value: "In the bin",
    Where.MISSING.value: "Missing",
    Where.SOLD.value: "Sold",
    Where.CUSTOMER.value: "Given away",
    Where.RETURNED.value: "Sent back",
    Where.SCRAPPED.value: "Scrapped",
}


class BinForm(FindForm):
    """Which pieces: where they are now, by words, of a kind, in a box."""

    where = forms.ChoiceField(required=False, choices=list(LISTS.items()))
    kind = forms.ChoiceField(required=False, choices=[(name, kind.title) for name, kind in KINDS.items()])
    box = forms.CharField(required=False, max_length=40, strip=True)
    page = forms.IntegerField(required=False, min_value=1)

    @classmethod
    def asked(cls, data: Any) -> dict[str, Any]:
        """Return what was asked for; what cannot be read counts as not asked."""
        form = cls(data)
        form.is_valid()
        read = form.cleaned_data
        return {
            "where": read.get("where") or Where.BENCH.value,
            "find": read.get("find", ""),
            "kind": read.get("kind", ""),
            "box": read.get("box", ""),
            "page": read.get("page") or 1,
        }


@frozen(kw_only=True)
class Lying:
    """A piece with the line of the ledger that laid it where it is, and the plan it is reserved for."""

    part: BikePart
    came: Move | None
    wanted: Plan | None
    wear: Sequence[WearReading] = ()

    @property
    def kind(self) -> str:
        return KINDS[self.part.kind].title


@frozen(kw_only=True, slots=False)
class BinPage:
    """One sheet of the pieces that were asked for."""

    actor: User
    asked: dict[str, Any]
    only: int | None = None  # one piece, by its id

    @cached_property
    def found(self) -> Pieces:
        return pieces(self.actor, **self.asked)

    @cached_property
    def parts(self) -> list[Lying]:
        shown: list[BikePart] = list(self.found.sheet.object_list)
        if self.only is not None:
            shown = list(BikePart.objects.filter(workshop_id=self.actor.workshop_id, pk=self.only))
        ids = [part.pk for part in shown]
        wanted, marks = wanted_parts(self.actor, *ids), wear_marks(self.actor, ids)
        return [
            Lying(part=part, came=_came(part), wanted=wanted.get(part.pk), wear=marks.get(part.pk, ()))
            for part in shown
        ]

    @property
    def kinds(self) -> list[tuple[str, str]]:
        return sorted(((name, kind.title) for name, kind in KINDS.items()), key=lambda one: one[1])

    @property
    def lists(self) -> list[tuple[str, str]]:
        return list(LISTS.items())

    @property
    def narrowed(self) -> bool:
        """Whether words, a kind or a box narrow the list."""
        return any(self.asked[name] for name in ("find", "kind", "box"))

    @property
    def query(self) -> str:
        """What was asked for, but the sheet."""
        return urlencode({name: value for name, value in self.asked.items() if value and name != "page"})

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-bikes")


def _came(part: BikePart) -> Move | None:
    moves = [move for move in part.moves.all() if move.to_where == part.where]
    return moves[-1] if moves else None


@allowed("see-bench")
def bench(request: Request) -> HttpResponse:
    """The pieces of the bin."""
    return answer(
        request, "parts_bin/bench.html", BinPage(actor=request.user, asked=BinForm.asked(request.GET))
    )


@allowed("see-bench")
def labels(request: Request) -> HttpResponse:
    """Labels to print: of one piece, or of the sheet that was listed."""
    only = whole_number(request.GET.get("part", ""))
    page = BinPage(actor=request.user, asked=BinForm.asked(request.GET), only=only)
    return answer(request, "parts_bin/labels.html", page)


@frozen(kw_only=True, slots=False)
class FromBinPage(BikePage):
    """What in the bin goes on a bike: slot by slot, or one slot with what does not go."""

    slot: str = ""

    @cached_property
    def by_slot(self) -> list[tuple[str, str, int]]:
        """The slots that pieces of the bin are made for, with how many."""
        found = pieces_by_slot(self.actor)
        return [(slot, SLOTS[slot].title, number) for slot, number in found.items()]

    @cached_property
    def shown(self) -> list[PiecesThatGo]:
        """The pieces for the slot that was chosen; of a small bin everything that goes."""
        if self.slot:
            return [pieces_for(self.actor, self.now, self.slot, settings_of(self.actor))]
        return [] if self.too_many else all_that_go(self.actor, self.stands)

    @property
    def too_many(self) -> bool:
        """Whether the bin is too large to be judged for every slot at once."""
        kinds = {SLOTS[slot].kind: number for slot, _, number in self.by_slot}
        return sum(kinds.values()) > FEW

    @cached_property
    def wear(self) -> dict[int, list[WearReading]]:
        """By piece its last readings of wear."""
        return wear_marks(self.actor, [one.part.pk for group in self.shown for one in group.shown])

    @property
    def goes(self) -> tuple[Verdict, ...]:
        return (Verdict.GOES, Verdict.GOES_IF)


@allowed("see-bench")
def from_bin(request: Request, bike_id: int) -> HttpResponse:
    """What in the bin goes on this bike."""
    slot = request.GET.get("slot", "")
    page = of_bike(request, bike_id, FromBinPage, "bin", slot=slot if slot in SLOTS else "")
    return answer(request, "parts_bin/from_bin.html", page)
