"""One piece of the bin: where it lies, what it is worth, its life, where it goes; a piece written down again."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary import KINDS, Kind, slots_of_kind
from unkett.web.bikes.models import BikePart, Move, Where
from unkett.web.bikes.permissions import parts_seen_by
from unkett.web.bin.queries import BikesNeeding, bikes_needing
from unkett.web.bin.services import (
    BACK_FROM,
    LEAVES_TO,
    WHY_WANTED,
    Kept,
    come_back,
    enter_piece,
    is_cracked_carbon,
    keep_in_bin,
    leave_bin,
)
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import parts_seen_by as catalogue_seen_by
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import Money, VersionForm, clean, whole_number, wrong_in
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import wanted_parts
from unkett.web.show.fields import Field, by_name, field_of, filled_in, left_over, marked, read_all
from unkett.web.show.words import ShownValue, shown_value
from unkett.web.wear.queries import Series, wear_of_part
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

MOVES_SHOWN = 100
WORDS = {
    Where.CUSTOMER: "Give to the customer",
    Where.SOLD: "Sell",
    Where.RETURNED: "Send back",
    Where.SCRAPPED: "Scrap",
}


class KeepForm(VersionForm):
    """Where a piece lies, what it is worth and weighs, what it is kept with."""

    box = forms.CharField(required=False, max_length=40, strip=True, label="Box")
    value = Money(required=False, min_value=0, max_digits=9, decimal_places=2, label="Value")
    mass_g = forms.IntegerField(required=False, min_value=0, max_value=100_000, label="Weight, g")
    kept_with = forms.CharField(required=False, max_length=14, strip=True, label="Kept with, its label")


class LeaveForm(forms.Form):
    """Where the piece goes, and why."""

    to = forms.CharField(max_length=10)
    why = forms.CharField(required=False, max_length=1000, strip=True)
    cracked = forms.BooleanField(required=False)


class BackForm(forms.Form):
    """Why a piece comes back, and into which box."""

    why = forms.CharField(required=False, max_length=1000, strip=True)
    box = forms.CharField(required=False, max_length=100, strip=True)


@frozen(kw_only=True, slots=False)
class PiecePage:
    """One piece, wherever it is now; `form` holds what could not be kept."""

    actor: User
    part: BikePart
    form: KeepForm
    wrong: Mapping[str, Fault] = field(factory=dict)

    @property
    def kind(self) -> str:
        return KINDS[self.part.kind].title

    @property
    def is_here(self) -> bool:
        return self.part.where == Where.BENCH

    @property
    def may_come_back(self) -> bool:
        return self.part.where in BACK_FROM and not self.part.never_back

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-bikes")

    @property
    def cracked(self) -> bool:
        return is_cracked_carbon(self.part)

    @property
    def values(self) -> list[ShownValue]:
        """The figures that are known of it."""
        attrs, origins = self.part.attrs, self.part.origins
        declared = KINDS[self.part.kind].attributes
        slot = slots_of_kind(self.part.kind)[0].name
        known = [name for name in declared if attrs.get(name) is not None]
        return [shown_value(slot, name, attrs[name], origins.get(name, "stated")) for name in known]

    @cached_property
    def wanted(self) -> Plan | None:
        return wanted_parts(self.actor, self.part.pk).get(self.part.pk)

    @cached_property
    def moves(self) -> list[Move]:
        """Its life, the latest first."""
        lines = self.part.moves.select_related("line__actor", "from_bike", "to_bike")
        return list(lines.order_by("-pk")[:MOVES_SHOWN])

    @cached_property
    def wear(self) -> list[Series]:
        """Its readings of wear, on whichever bikes they were taken."""
        return wear_of_part(self.actor, self.part)

    @property
    def ways(self) -> list[tuple[str, str, bool]]:
        """Where it may go from the bin, and whether a reason is wanted."""
        return [(to.value, WORDS[to], to in WHY_WANTED) for to in LEAVES_TO]


def _page(request: Request, part_id: int, form: KeepForm | None = None, **more: Any) -> PiecePage:
    part = parts_seen_by(request.user).select_related("bike", "kept_with").filter(pk=part_id).first()
    if part is None or part.where == Where.NEVER:
        raise Http404
    known = {name: getattr(part, name) for name in ("box", "value", "mass_g")}
    known["kept_with"] = part.kept_with.label if part.kept_with else ""
    return PiecePage(actor=request.user, part=part, form=form or KeepForm(initial=known), **more)


@allowed("see-bench")
def piece(request: Request, bike_part_id: int) -> HttpResponse:
    """One piece; one that stands on a bike is shown there."""
    page = _page(request, bike_part_id)
    if page.part.bike_id is not None:
        return redirect("bikes:part-edit", page.part.bike_id, page.part.slot)
    return answer(request, "parts_bin/piece.html", page)


@allowed("change-bikes", "POST")
def keep(request: Request, bike_part_id: int) -> HttpResponse:
    """Keep a piece's box and value; what cannot be read is reported beside its field."""
    form = KeepForm(request.POST)
    if form.is_valid():
        try:
            keep_in_bin(actor=request.user, part_id=bike_part_id, **form.cleaned_data)
        except InputError as error:
            for fault in error.faults:
                form.add_error(fault.path, fault.says)
        else:
            return redirect("bench:piece", bike_part_id)
    return answer(request, "parts_bin/piece.html", _page(request, bike_part_id, form), status=422)


@allowed("change-bikes", "POST")
def leave(request: Request, bike_part_id: int) -> HttpResponse:
    """Scrap a piece, sell it, send it back or give it to the customer."""
    try:
        leave_bin(actor=request.user, part_id=bike_part_id, **clean(LeaveForm(request.POST)))
    except InputError as error:
        page = _page(request, bike_part_id, wrong=by_name(error.faults))
        return answer(request, "parts_bin/piece.html", page, status=422)
    return redirect("bench:piece", bike_part_id)


@allowed("change-bikes", "POST")
def back(request: Request, bike_part_id: int) -> HttpResponse:
    """Put a piece back into the bin."""
    try:
        come_back(actor=request.user, part_id=bike_part_id, **clean(BackForm(request.POST)))
    except InputError as error:
        page = _page(request, bike_part_id, wrong=by_name(error.faults))
        return answer(request, "parts_bin/piece.html", page, status=422)
    return redirect("bench:piece", bike_part_id)


@frozen(kw_only=True, slots=False)
class NeedingPage:
    """The bikes that want a piece."""

    part: BikePart
    found: BikesNeeding


@allowed("see-bench")
def who_wants(request: Request, bike_part_id: int) -> HttpResponse:
    """Show which of the workshop's bikes need this piece."""
    part = _page(request, bike_part_id).part
    return answer(
        request, "parts_bin/needing.html", NeedingPage(part=part, found=bikes_needing(request.user, part))
    )


class EnterForm(forms.Form):
    """What is kept of a new piece beside its figures."""

    name = forms.CharField(required=False, max_length=200, strip=True)
    box = forms.CharField(required=False, max_length=40, strip=True)
    value = Money(required=False, min_value=0, max_digits=9, decimal_places=2)
    mass_g = forms.IntegerField(required=False, min_value=0, max_value=100_000)
    came_from = forms.CharField(required=False, max_length=200, strip=True)


@frozen(kw_only=True, slots=False)
class EnterPage:
    """A new piece in fields, of a kind, or like a part of the catalogue."""

    kind: Kind
    like: CataloguePart | None = None
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @cached_property
    def fields(self) -> list[Field]:
        known = self.like.attrs if self.like else {}
        fields = [field_of(attr, known=known.get(name)) for name, attr in self.kind.attributes.items()]
        return fields if self.posted is None else marked(filled_in(fields, self.posted), self.faults)

    @property
    def typed(self) -> Mapping[str, Any]:
        if self.posted is None:
            return {"name": self.like.name, "mass_g": self.like.mass_g or ""} if self.like else {}
        return {name: self.posted.get(name, "") for name in EnterForm.base_fields}

    @property
    def wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    @property
    def other_faults(self) -> list[Fault]:
        return left_over(self.fields, self.faults, list(EnterForm.base_fields))

    def read(self) -> dict[str, Any]:
        """Everything that was typed. Raises InputError with all that is wrong at once."""
        form = EnterForm(self.posted)
        values, faults = read_all(self.fields)
        if not form.is_valid():
            faults += wrong_in(form).faults
        if faults:
            raise InputError(faults)
        data = form.cleaned_data
        kept = Kept(box=data["box"], value=data["value"], mass_g=data["mass_g"])
        return {"name": data["name"], "values": values, "kept": kept, "came_from": data["came_from"]}


@allowed("change-bikes", "GET", "HEAD", "POST")
def enter(request: Request) -> HttpResponse:
    """Enter a piece by hand; without a kind, show the kinds to choose from."""
    like = catalogue_seen_by(request.user).filter(pk=whole_number(request.GET.get("like", "")) or 0).first()
    kind = KINDS.get(like.kind if like else request.GET.get("kind", ""))
    if kind is None:
        return answer(request, "parts_bin/kinds.html", sorted(KINDS.values(), key=lambda one: one.title))
    page = EnterPage(kind=kind, like=like)
    if request.method != "POST":
        return answer(request, "parts_bin/enter.html", page)
    page = evolve(page, posted=request.POST)
    try:
        part = enter_piece(actor=request.user, kind=kind.name, like=like.pk if like else None, **page.read())
    except InputError as error:
        return answer(request, "parts_bin/enter.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("bench:piece", part.pk)
