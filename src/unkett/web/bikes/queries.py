"""Reads of more than one row: the yard's list, a bike with its parts."""

from __future__ import annotations

from typing import Any

from attrs import frozen
from django.db.models import Count, Prefetch, Q, QuerySet, TextField
from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.db.models.functions import Cast
from django.http import Http404

from unkett.core.build import Build
from unkett.core.engine import Check, check
from unkett.core.finding import Verdict
from unkett.core.settings import Settings
from unkett.web.bikes.judging import judge_stale
from unkett.web.bikes.models import Bike, FittedPart
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.rulebook.queries import codes_called
from unkett.web.workshop.models import User


@frozen(kw_only=True)
class Standing:
    """A bike with everything a page shows of it as it stands."""

    bike: Bike
    fitted: dict[str, FittedPart]
    build: Build
    check: Check


def settings_of(actor: User) -> Settings:
    """The settings of the actor's workshop."""
    return Settings.of(actor.workshop.settings)


def standing(actor: User, bike_id: int) -> Standing:
    """A bike as it stands, with its findings. 404 for one that is not the actor's."""
    bike = _lean(bikes_seen_by(actor)).filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    return standing_of(bike, settings_of(actor))


def _lean(bikes: QuerySet[Bike]) -> QuerySet[Bike]:
    """Bikes without the bulk that only an undo reads; what it would undo is said all the same."""
    said = {"undo_says": KeyTextTransform("says", "undo"), "undo_version": KeyTransform("version", "undo")}
    return bikes.defer("undo", "standing").annotate(**said)


def standing_of(bike: Bike, settings: Settings) -> Standing:
    """The same for a bike that is fetched already; its parts are fetched here."""
    fitted = list(FittedPart.objects.filter(bike_id=bike.pk))
    build = bike.build(fitted)
    return Standing(
        bike=bike, fitted={part.slot: part for part in fitted}, build=build, check=check(build, settings)
    )


YARD_PAGE = 25
YARD_FIELDS = ("name", "use", "frame_number", "customer", "wish", "verdict", "standing")


@frozen(kw_only=True)
class Yard:
    """One page of the workshop's bikes by verdict, how many there are of each, and the plans in work."""

    bikes: tuple[Bike, ...]
    counts: dict[str, int]
    page: int
    pages: int
    plans: tuple[Any, ...]
    waiting: int

    @property
    def total(self) -> int:
        return sum(self.counts.values())


def _found(actor: User, find: str) -> QuerySet[Bike]:
    """The actor's bikes that hold these words in name, customer, frame number, plan or bench name."""
    bikes = bikes_seen_by(actor)
    if not find:
        return bikes
    words = Q(name__icontains=find) | Q(customer__icontains=find) | Q(frame_number__icontains=find)
    words |= Q(pk__in=bikes.filter(plans__name__icontains=find).values("pk"))
    for code in codes_called(actor.workshop_id, find):
        holding = FittedPart.objects.alias(codes=Cast("attrs", TextField())).filter(
            codes__icontains=f'"{code}"'
        )
        words |= Q(pk__in=holding.values("bike_id"))
    return bikes.filter(words)


def yard(actor: User, find: str, verdict: str = "", page: int = 1) -> Yard:
    """Bikes by name, customer, frame number or bench name, changed last first; `verdict` narrows to one."""
    from unkett.web.plans.models import Plan, State

    waiting = judge_stale(actor.workshop)
    found = _found(actor, find)
    counts = dict(found.order_by().values_list("verdict").annotate(number=Count("pk")))
    shown = found.filter(verdict=verdict) if verdict else found
    number = counts.get(verdict, 0) if verdict else sum(counts.values())
    pages = max(1, -(-number // YARD_PAGE))
    page = min(max(page, 1), pages)
    plans = Plan.objects.exclude(state=State.DROPPED)
    named = Prefetch("plans", queryset=plans.only("name", "bike_id"), to_attr="open_plans")
    bikes = shown.only(*YARD_FIELDS).prefetch_related(named)
    start = (page - 1) * YARD_PAGE
    latest = (
        plans.filter(bike__workshop_id=actor.workshop_id)
        .select_related("bike")
        .only("name", "changed", "bike__name")
        .annotate(number=Count("changes"))
    )
    return Yard(
        bikes=tuple(bikes.order_by("-changed", "-id")[start : start + YARD_PAGE]),
        counts={one.value: counts.get(one.value, 0) for one in Verdict},
        page=page,
        pages=pages,
        plans=tuple(latest.order_by("-changed", "-id")[:12]),
        waiting=waiting,
    )
