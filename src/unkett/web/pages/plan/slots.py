"""What a plan puts in one slot: from the catalogue, typed here, from the bin, another bike or plan, from the
customer; and its changes carried out.
"""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.core.build import part_attrs_for
from unkett.core.check.part_effect import Chooser, PartEffect
from unkett.core.errors import Fault, InputError
from unkett.core.formats.typed_text import only_size
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import BikePart
from unkett.web.catalogue.queries import plate_slot
from unkett.web.jobs.found import find_parts
from unkett.web.jobs.handover import apply_change
from unkett.web.jobs.queries import job_in_work
from unkett.web.pages.common.answers import answer, sent_to
from unkett.web.pages.common.bike_page import of_plan
from unkett.web.pages.common.forms import VersionForm, clean, wrong_in
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.plan.forms import AsThereForm, BroughtForm, CarryOutForm, SwapForm, TakeForm, TypedForm
from unkett.web.pages.plan.page import DrawerPage
from unkett.web.plans import services, wheels
from unkett.web.plans.models import Change
from unkett.web.plans.queries import planned_elsewhere, plans_seen_by, to_be_taken
from unkett.web.show.fields import Field, by_name, field_of, filled_in, left_over, marked, read_all
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import wear_marks

THERE_SHOWN = 30
NOT_PLANNED = {"damage"}  # what a part may have come to, not what is planned


@frozen(kw_only=True)
class There:
    """A part that is somewhere already, judged in the slot."""

    thing: BikePart | Change
    where: str
    chosen: PartEffect
    wear: tuple[WearReading, ...] = ()


@frozen(kw_only=True, slots=False)
class SlotPage(DrawerPage):
    """One slot of a plan: what lies about that could go there; a part for it in fields, `posted` is what was typed."""

    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @cached_property
    def _chooser(self) -> Chooser:
        return Chooser(self.against, self.slot.name, self.settings)

    def _chosen(self, thing: BikePart | Change) -> PartEffect:
        known = {
            name: value for name, value in thing.attrs.items() if name in KINDS[self.slot.kind].attributes
        }
        return self._chooser.choose(known)

    @cached_property
    def lying(self) -> list[There]:
        """Parts in the bin and on other bikes, what goes first."""
        if self.plan is None:
            return []
        parts = list(to_be_taken(self.actor, self.plan, self.slot.name)[:THERE_SHOWN])
        marks = wear_marks(self.actor, [part.pk for part in parts])
        found = [
            There(
                thing=part,
                where=part.bike.name if part.bike else "in the bin",
                chosen=self._chosen(part),
                wear=tuple(marks.get(part.pk, ())),
            )
            for part in parts
        ]
        return sorted(found, key=lambda one: -one.chosen.verdict.order)

    @cached_property
    def elsewhere(self) -> list[There]:
        """What other plans have for a slot of this kind, what goes first."""
        if self.plan is None:
            return []
        changes = planned_elsewhere(self.actor, self.plan, self.slot.name)[:THERE_SHOWN]
        found = [
            There(thing=one, where=f"{one.plan.bike.name}, {one.plan.called}", chosen=self._chosen(one))
            for one in changes
        ]
        return sorted(found, key=lambda one: -one.chosen.verdict.order)

    @cached_property
    def known(self) -> dict[str, Any]:
        """What the fields begin with: nothing, or what is planned there now where that is asked for."""
        if self.part is None or self.asked.get("like") != "now":
            return {}
        declared = KINDS[self.slot.kind].attributes
        return {
            name: value
            for name, value in part_attrs_for(self.slot.name, self.part).items()
            if name in declared
        }

    @cached_property
    def fields(self) -> list[Field]:
        size = only_size(self.known)
        declared = [
            attr for name, attr in KINDS[self.slot.kind].attributes.items() if name not in NOT_PLANNED
        ]
        fields = [field_of(attr, known=self.known.get(attr.name), size=size) for attr in declared]
        return fields if self.posted is None else marked(filled_in(fields, self.posted), self.faults)

    @property
    def typed(self) -> dict[str, Any]:
        """Name, price and whether the customer brings it, as they stand in their fields."""
        names = ("name", "price", "brought")
        if self.posted is not None:
            return {name: self.posted.get(name, "") for name in names}
        return {"name": self.part.name if self.known and self.part else "", "price": "", "brought": ""}

    @property
    def wrong(self) -> Any:
        return by_name(self.faults)

    @property
    def other_faults(self) -> list[Fault]:
        """Faults that stand beside no field."""
        return left_over(self.fields, self.faults, ("name", "price"))

    @cached_property
    def origins_kept(self) -> dict[str, str]:
        """Where the figures come from that were not typed again."""
        own = self.origins.get(self.slot.name, {})
        return {one.name: own[one.name] for one in self.fields if not one.was_typed and one.name in own}


@allowed("change-plans", "POST")
def swap(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Put a catalogue part into a slot of the plan."""
    data = clean(SwapForm(request.POST))
    parts = {slot: data["part"]} | ({plate_slot(slot): data["plate"]} if data["plate"] else {})
    job = job_in_work(request.user, plan_id)
    if job is not None:  # found on the stand: on the sheet and the quote, too
        find_parts(actor=request.user, job_id=job.pk, version=data["version"], parts=parts)
        return sent_to(request, reverse("jobs:job", args=[plan_id]))
    services.swap_parts(actor=request.user, plan_id=plan_id, version=data["version"], parts=parts)
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def take_over(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Keep which parts go over from the old wheel."""
    version = clean(VersionForm(request.POST))["version"]
    wheels.take_over(
        actor=request.user, plan_id=plan_id, version=version, slot=slot, slots=request.POST.getlist("over")
    )
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def empty(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Leave a slot empty in the plan."""
    services.empty_slot(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def take_back(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Take a change back."""
    services.take_back(actor=request.user, plan_id=plan_id, slot=slot, **clean(VersionForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("see-plans")
def drawer(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Show what could go in a slot, each part with its verdict before it is chosen."""
    if slot not in SLOTS:
        raise Http404
    page = of_plan(request, plan_id, DrawerPage, "plan", slot=SLOTS[slot])
    return answer(request, "plan/_drawer.html" if request.htmx else "plan/drawer.html", page)


@allowed("change-plans")
def open_slot(request: Request, plan_id: int) -> HttpResponse:
    """Redirect to what could go in the chosen slot."""
    slot = request.GET.get("slot", "")
    if slot not in SLOTS or not plans_seen_by(request.user).filter(pk=plan_id).exists():
        raise Http404
    return redirect("plans:drawer", plan_id, slot)


@allowed("change-plans", "GET", "HEAD", "POST")
def typed(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """A part for a slot in fields; POST plans it. `?like=now` begins with what is planned there now."""
    page = _slot_page(request, plan_id, slot)
    if request.method != "POST":
        return answer(request, "plan/typed.html", page)
    page = evolve(page, posted=request.POST)
    faults = _typed(request, page)
    if not faults:
        return redirect("plans:show", plan_id)
    return answer(request, "plan/typed.html", evolve(page, faults=tuple(faults)), status=422)


def _slot_page(request: Request, plan_id: int, slot: str) -> SlotPage:
    if slot not in SLOTS:
        raise Http404
    page: SlotPage = of_plan(request, plan_id, SlotPage, "plan", slot=SLOTS[slot])
    return page


def _typed(request: Request, page: SlotPage) -> list[Fault]:
    """Plan what was typed; all that is wrong with it, by field."""
    form = TypedForm(request.POST)
    read, faults = read_all(page.fields)
    if not form.is_valid():
        faults += wrong_in(form).faults
    if faults:
        return faults
    given = form.cleaned_data
    values = {name: value for name, value in {**page.known, **read}.items() if value is not None}
    try:
        services.type_part(
            actor=request.user,
            plan_id=page.plan.pk if page.plan else 0,
            slot=page.slot.name,
            values=values,
            origins=page.origins_kept,
            **given,
        )
    except InputError as error:
        return [evolve(fault, path=fault.path.removeprefix(".")) for fault in error.faults]
    return []


@allowed("see-plans")
def lying(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Show parts for such a slot in the bin, on other bikes or in other plans, each judged."""
    page = _slot_page(request, plan_id, slot)
    return answer(request, "plan/_lying.html" if request.htmx else "plan/lying.html", page)


@allowed("change-plans", "POST")
def take(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Plan a part that lies in the bin or stands on another bike."""
    data = clean(TakeForm(request.POST))
    services.take_part(
        actor=request.user, plan_id=plan_id, version=data["version"], slot=slot, part_id=data["part"]
    )
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def as_there(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Plan what another plan has."""
    data = clean(AsThereForm(request.POST))
    services.plan_as_there(
        actor=request.user, plan_id=plan_id, version=data["version"], slot=slot, change_id=data["change"]
    )
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def brought(request: Request, plan_id: int, slot: str) -> HttpResponse:
    """Keep whether the customer brings the part."""
    services.set_supplier(actor=request.user, plan_id=plan_id, slot=slot, **clean(BroughtForm(request.POST)))
    return redirect("plans:show", plan_id)


@allowed("change-plans", "POST")
def apply(request: Request, plan_id: int, slot: str = "") -> HttpResponse:
    """Carry out one change of the plan on the bike, or all that are left."""
    apply_change(actor=request.user, plan_id=plan_id, slot=slot, **clean(CarryOutForm(request.POST)))
    return redirect("plans:show", plan_id)
