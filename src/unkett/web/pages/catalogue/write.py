"""Parts of one's own: written into the catalogue, changed, copied, taken from a bike's part, retired."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.core.bike.wheels import ENDS, end_of_wheel, wheel_slots
from unkett.core.errors import Fault, InputError
from unkett.core.formats.typed_text import only_size
from unkett.core.identify import SUBJECTS
from unkett.core.vocabulary import KINDS, SLOTS, Kind
from unkett.web.bikes import permissions as bikes
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import parts_seen_by
from unkett.web.catalogue.services import SHOP, add_part, change_part, retire_part
from unkett.web.pages.common.answers import answer, back_or
from unkett.web.pages.common.forms import Money, VersionForm, clean, whole_number, wrong_in
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import Field, by_name, field_of, filled_in, left_over, marked, read_all

WHEELS = {f"{end}_wheel": end for end in ENDS}  # asked for as a kind: a wheel of one piece
NOT_OF_A_SORT = {"damage"}  # what one part has, not every part like it


class ShopForm(forms.Form):
    """What the workshop keeps of a part beside its dimensions."""

    name = forms.CharField(max_length=200, strip=True, error_messages={"required": "enter a name"})
    maker = forms.CharField(required=False, max_length=80, strip=True)
    price = Money(required=False, min_value=0, max_digits=9, decimal_places=2)
    mass_g = forms.IntegerField(required=False, min_value=0, max_value=100_000)
    place = forms.CharField(required=False, max_length=80, strip=True)
    days = forms.IntegerField(required=False, min_value=0, max_value=1000)


class RetireForm(VersionForm):
    """Whether a part is offered no more."""

    retired = forms.BooleanField(required=False)


@frozen(kw_only=True, slots=False)
class WritePage:
    """A part in fields: `known` and `shop` stand there at first, `posted` is what was typed, `part` is changed."""

    kind: Kind
    known: Mapping[str, Any]
    shop: Mapping[str, Any]
    also: tuple[str, ...] = ()
    part: CataloguePart | None = None
    next: str = ""
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @cached_property
    def fields(self) -> list[Field]:
        size = only_size(self.known)
        kinds = [self.kind, *(KINDS[SLOTS[slot].kind] for slot in self.also)]
        attributes = {name: attr for kind in reversed(kinds) for name, attr in kind.attributes.items()}
        declared = [attr for name, attr in attributes.items() if name not in NOT_OF_A_SORT]
        fields = [field_of(attr, known=self.known.get(attr.name), size=size) for attr in declared]
        return fields if self.posted is None else marked(filled_in(fields, self.posted), self.faults)

    @property
    def title(self) -> str:
        """What is written: a part of its kind, or a wheel of one piece."""
        return (
            f"{end_of_wheel(self.also[0]).capitalize()} wheel, ready-built" if self.also else self.kind.title
        )

    @property
    def back(self) -> str:
        """Where one goes who keeps nothing."""
        return reverse("catalogue:part", args=[self.part.pk]) if self.part else reverse("catalogue:parts")

    @property
    def typed(self) -> Mapping[str, Any]:
        """What stands in the fields beside the dimensions."""
        return self.shop if self.posted is None else {name: self.posted.get(name, "") for name in SHOP}

    @property
    def wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    @property
    def other_faults(self) -> list[Fault]:
        """Faults that stand beside no field."""
        return left_over(self.fields, self.faults, SHOP)

    def read(self) -> dict[str, Any]:
        """Everything that was typed. Raises InputError with all that is wrong at once."""
        form = ShopForm(self.posted)
        typed, faults = read_all(self.fields)
        if not form.is_valid():
            faults += wrong_in(form).faults
        if faults:
            raise InputError(faults)
        known = {name: value for name, value in self.known.items() if name not in NOT_OF_A_SORT}
        attrs = {name: value for name, value in {**known, **typed}.items() if value is not None}
        return {**form.cleaned_data, "days": form.cleaned_data["days"] or 0, "attrs": attrs}


def _shop(part: CataloguePart, name: str) -> dict[str, Any]:
    own = {field: getattr(part, field) for field in SHOP}
    return {**own, "name": name, "mass_g": "" if part.mass_g is None else part.mass_g}


def _started(request: Request) -> WritePage | None:
    """A new part: of a kind, like another (`like`), like a bike's part (`of`), or with what measuring found (`sort`);
    None where no kind is chosen.
    """
    asked = request.GET
    next_page = asked.get("next", "")
    if "like" in asked:
        part = _own(request, whole_number(asked["like"]))
        shop = _shop(part, f"{part.name}, copy")
        return WritePage(
            kind=KINDS[part.kind], known=part.attrs, shop=shop, next=next_page, also=tuple(part.also)
        )
    if "of" in asked:
        return _like_fitted(request, next_page)
    if "sort" in asked:
        kind, known = _found(asked)
        return WritePage(kind=kind, known=known, shop={}, next=next_page)
    if not asked.get("kind"):
        return None
    if asked["kind"] in WHEELS:
        also = wheel_slots(WHEELS[asked["kind"]])[1:]
        return WritePage(kind=KINDS["hub"], known={}, shop={}, next=next_page, also=also)
    if asked["kind"] not in KINDS:
        raise Http404
    return WritePage(kind=KINDS[asked["kind"]], known={}, shop={}, next=next_page)


def _like_fitted(request: Request, next_page: str) -> WritePage:
    """Return a new part like one of a bike. Raises Http404."""
    fitted = bikes.parts_seen_by(request.user).filter(pk=whole_number(request.GET["of"]) or 0).first()
    if fitted is None:
        raise Http404
    kind = KINDS[fitted.kind]
    known = {name: value for name, value in fitted.attrs.items() if name in kind.attributes}
    return WritePage(kind=kind, known=known, shop={"name": fitted.name}, next=next_page)


def _found(asked: Mapping[str, str]) -> tuple[Kind, dict[str, Any]]:
    """Return the kind of part that a standard was found on by measuring, and what it settles of it."""
    sort = SUBJECTS.get(asked["sort"])
    place, code = whole_number(asked.get("place", "")), asked.get("code", "")
    row = next((row for row in sort.rows if row["code"] == code), None) if sort else None
    if sort is None or row is None or place is None or place >= len(sort.puts):
        raise Http404
    put = sort.puts[place]
    kind = KINDS[SLOTS[put.slot].kind]
    return kind, {name: value for name, value in put.values(row).items() if name in kind.attributes}


def _own(request: Request, part_id: int | None) -> CataloguePart:
    part = parts_seen_by(request.user).filter(pk=part_id or 0).first()
    if part is None:
        raise Http404
    return part


@allowed("change-catalogue", "GET", "HEAD", "POST")
def new(request: Request) -> HttpResponse:
    """A new part in fields; without a kind, the kinds to choose from."""
    page = _started(request)
    if page is None:
        return answer(request, "catalogue/kinds.html", sorted(KINDS.values(), key=lambda kind: kind.title))
    if request.method != "POST":
        return answer(request, "catalogue/write.html", page)
    page = evolve(page, posted=request.POST)
    try:
        part = add_part(actor=request.user, kind=page.kind.name, values=page.read(), also=page.also)
    except InputError as error:
        return answer(request, "catalogue/write.html", evolve(page, faults=tuple(error.faults)), status=422)
    return back_or(request, "catalogue:part", part.pk)


@allowed("change-catalogue", "GET", "HEAD", "POST")
def change(request: Request, part_id: int) -> HttpResponse:
    """A part of the catalogue in fields."""
    part = _own(request, part_id)
    shop = _shop(part, part.name)
    page = WritePage(kind=KINDS[part.kind], known=part.attrs, shop=shop, part=part, also=tuple(part.also))
    if request.method != "POST":
        return answer(request, "catalogue/write.html", page)
    page = evolve(page, posted=request.POST)
    version = clean(VersionForm(request.POST))["version"]
    try:
        change_part(actor=request.user, part_id=part_id, version=version, values=page.read())
    except InputError as error:
        return answer(request, "catalogue/write.html", evolve(page, faults=tuple(error.faults)), status=422)
    return redirect("catalogue:part", part_id)


@allowed("change-catalogue", "POST")
def retire(request: Request, part_id: int) -> HttpResponse:
    """Take a part off the offer, or offer it again."""
    retire_part(actor=request.user, part_id=part_id, **clean(RetireForm(request.POST)))
    return redirect("catalogue:part", part_id)
