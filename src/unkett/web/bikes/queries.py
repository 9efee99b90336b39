"""Reads of more than one row: the yard's list, a bike with its parts."""

from __future__ import annotations

from attrs import frozen
from django.db.models import Prefetch, Q, TextField
from django.db.models.functions import Cast
from django.http import Http404

from unkett.core.build import Build
from unkett.core.engine import Check, check
from unkett.core.finding import Finding, Verdict
from unkett.core.settings import Settings
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

    @property
    def worst(self) -> Finding | None:
        """The finding that the verdict comes from, unless everything goes."""
        found = self.check.findings
        return found[0] if found and self.check.verdict is not Verdict.GOES else None


def settings_of(actor: User) -> Settings:
    """The settings of the actor's workshop."""
    return Settings.of(actor.workshop.settings)


def standing(actor: User, bike_id: int) -> Standing:
    """A bike as it stands, with its findings. 404 for one that is not the actor's."""
    bike = bikes_seen_by(actor).prefetch_related("fitted").filter(pk=bike_id).first()
    if bike is None:
        raise Http404
    return standing_of(bike, settings_of(actor))


def standing_of(bike: Bike, settings: Settings) -> Standing:
    """The same for a bike whose parts are already fetched."""
    fitted = list(bike.fitted.all())
    build = bike.build(fitted)
    return Standing(
        bike=bike, fitted={part.slot: part for part in fitted}, build=build, check=check(build, settings)
    )


def yard(actor: User, find: str) -> list[Standing]:
    """The workshop's bikes, found by name, customer or frame number, each checked as it stands."""
    from unkett.web.plans.models import Plan, State

    bikes = bikes_seen_by(actor)
    if find:
        words = Q(name__icontains=find) | Q(customer__icontains=find) | Q(frame_number__icontains=find)
        for code in codes_called(actor.workshop_id, find):
            holding = FittedPart.objects.alias(codes=Cast("attrs", TextField())).filter(
                codes__icontains=f'"{code}"'
            )
            words |= Q(pk__in=holding.values("bike_id"))
        bikes = bikes.filter(words)
    plans = Plan.objects.exclude(state=State.DROPPED)
    bikes = bikes.prefetch_related("fitted", Prefetch("plans", queryset=plans, to_attr="open_plans"))
    settings = settings_of(actor)
    return [standing_of(bike, settings) for bike in bikes]
