"""What is counted: small parts and lengths, each with its ledger; and the count of a box."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.db.models import Q
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.web.bikes.models import BikePart
from unkett.web.bin.queries import boxes_of, in_box
from unkett.web.bin.services import count_box
from unkett.web.catalogue.models import CountMove, StockItem
from unkett.web.catalogue.stock import (
    ALL_SORTS,
    WHY_WORDS,
    WHYS,
    add_stock,
    change_count,
    remove_stock,
    stock_seen_by,
)
from unkett.web.pages.common.answers import answer, back_or
from unkett.web.pages.common.forms import Money, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

SHOWN = 500


class AddForm(forms.Form):
    """A length or a sort of small parts."""

    sort = forms.ChoiceField(choices=list(ALL_SORTS.items()))
    name = forms.CharField(required=False, max_length=200, strip=True)
    length_mm = forms.FloatField(required=False)
    count = forms.IntegerField(required=False)
    box = forms.CharField(required=False, max_length=100, strip=True)
    value = Money(required=False, max_digits=9, decimal_places=2)


class ChangeForm(forms.Form):
    """So many came or went, and why."""

    number = forms.IntegerField(label="How many")
    why = forms.CharField(max_length=10)
    note = forms.CharField(required=False, max_length=1000, strip=True)


@frozen(kw_only=True, slots=False)
class StockPage:
    """Everything that is counted; `posted` is what could not be kept."""

    actor: User
    posted: Any = None
    wrong: Mapping[str, Fault] = field(factory=dict)
    wrong_of: int | None = None

    @cached_property
    def rows(self) -> list[tuple[str, StockItem]]:
        there = Q(count=None) | Q(count__gt=0) | Q(name__gt="")
        rows = stock_seen_by(self.actor).filter(there)
        return [(ALL_SORTS.get(row.sort, row.sort), row) for row in rows[:SHOWN]]

    @property
    def sorts(self) -> list[tuple[str, str]]:
        return list(ALL_SORTS.items())

    @property
    def whys(self) -> list[tuple[str, str]]:
        return [(why, WHY_WORDS[why]) for why in WHYS]

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-bikes")


@allowed("see-bench")
def counted(request: Request) -> HttpResponse:
    """What is counted."""
    return answer(request, "parts_bin/counted.html", StockPage(actor=request.user))


@allowed("change-catalogue", "POST")
def add(request: Request) -> HttpResponse:
    """Add a counted sort."""
    try:
        add_stock(actor=request.user, **clean(AddForm(request.POST)))
    except InputError as error:
        page = StockPage(actor=request.user, posted=request.POST, wrong=by_name(error.faults))
        return answer(request, "parts_bin/counted.html", page, status=422)
    return back_or(request, "bench:counted")


@allowed("change-bikes", "POST")
def change(request: Request, stock_id: int) -> HttpResponse:
    """Change the count of a sort."""
    try:
        change_count(actor=request.user, stock_id=stock_id, **clean(ChangeForm(request.POST)))
    except InputError as error:
        page = StockPage(actor=request.user, wrong=by_name(error.faults), wrong_of=stock_id)
        return answer(request, "parts_bin/counted.html", page, status=422)
    return redirect("bench:counted")


@allowed("change-catalogue", "POST")
def remove(request: Request, stock_id: int) -> HttpResponse:
    """Remove a sort or a length from the list."""
    remove_stock(actor=request.user, stock_id=stock_id)
    return back_or(request, "bench:counted")


@frozen(kw_only=True)
class LifePage:
    """The ledger of one sort, the latest line first."""

    row: StockItem
    title: str

    @property
    def moves(self) -> list[tuple[str, CountMove]]:
        lines = self.row.moves.select_related("line__actor").order_by("-pk")[:SHOWN]
        return [(WHY_WORDS.get(move.why, move.why), move) for move in lines]


@allowed("see-bench")
def life(request: Request, stock_id: int) -> HttpResponse:
    """Show the changes of one counted sort."""
    row = stock_seen_by(request.user).filter(pk=stock_id).first()
    if row is None:
        raise Http404
    return answer(request, "parts_bin/life.html", LifePage(row=row, title=ALL_SORTS.get(row.sort, row.sort)))


class CountForm(forms.Form):
    """What was found in a box."""

    box = forms.CharField(required=False, max_length=100, strip=False)
    scanned = forms.CharField(required=False, max_length=4000, strip=True)
    why = forms.CharField(required=False, max_length=1000, strip=True)


@frozen(kw_only=True, slots=False)
class CountPage:
    """A box with what should lie in it; `posted` is what was found and could not be kept."""

    actor: User
    box: str
    posted: Any = None
    wrong: Mapping[str, Fault] = field(factory=dict)

    @cached_property
    def _there(self) -> tuple[list[BikePart], list[StockItem]]:
        return in_box(self.actor, self.box)

    @property
    def pieces(self) -> list[tuple[BikePart, bool]]:
        found = set(self.posted.getlist("found")) if self.posted else set()
        return [(part, str(part.pk) in found) for part in self._there[0]]

    @property
    def rows(self) -> list[tuple[str, StockItem, str]]:
        posted = self.posted or {}
        return [
            (ALL_SORTS.get(row.sort, row.sort), row, posted.get(f"count-{row.pk}", ""))
            for row in self._there[1]
        ]

    @cached_property
    def boxes(self) -> list[str]:
        return boxes_of(self.actor)


@allowed("change-bikes", "GET", "HEAD", "POST")
def count(request: Request) -> HttpResponse:
    """Keep the count of a box: what is not found is missing, what turns up is there again; differences want a
    reason.
    """
    if request.method != "POST":
        box = request.GET.get("box", "")[:40]
        return answer(request, "parts_bin/count.html", CountPage(actor=request.user, box=box))
    data = clean(CountForm(request.POST))
    try:
        count_box(
            actor=request.user,
            expected=_ids(request.POST.getlist("expected")),
            found=_ids(request.POST.getlist("found")),
            counts=_counts(request.POST),
            **data,
        )
    except InputError as error:
        page = CountPage(
            actor=request.user, box=data["box"], posted=request.POST, wrong=by_name(error.faults)
        )
        return answer(request, "parts_bin/count.html", page, status=422)
    return redirect("bench:counted-out")


def _ids(texts: list[str]) -> list[int]:
    return [int(text) for text in texts if text.isdecimal() and len(text) < 13]


def _counts(post: Any) -> dict[int, int]:
    """By counted sort how many there are; a field left empty was not counted. Raises InputError naming the field."""
    out, faults = {}, []
    for name, text in post.items():
        pk = name.removeprefix("count-")
        if name == pk or not pk.isdecimal() or not text.strip():
            continue
        if not text.strip().isdecimal() or len(text.strip()) > 6:
            faults.append(Fault(path=name, says=f"{text!r} given; enter a whole number"))
        else:
            out[int(pk)] = int(text)
    if faults:
        raise InputError(faults)
    return out


@frozen(kw_only=True)
class CountedOutPage:
    """The differences of the latest counts, with their reasons."""

    actor: User

    @property
    def lines(self) -> list[Any]:
        return list(
            self.actor.workshop.log.filter(verb__in=("miss", "find", "counted"))
            .select_related("actor")
            .order_by("-pk")[:100]
        )


@allowed("see-bench")
def counted_out(request: Request) -> HttpResponse:
    """Show the differences that counts found."""
    return answer(request, "parts_bin/counted_out.html", CountedOutPage(actor=request.user))
