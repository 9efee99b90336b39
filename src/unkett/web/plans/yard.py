"""The yard: the workshop's bikes by what they need, and the plans in work."""

from __future__ import annotations

from attrs import frozen
from django.db.models import Count, F, Prefetch, Q, QuerySet, TextField
from django.db.models.functions import Cast

from unkett.core.rules.finding import Verdict
from unkett.web.bikes.models import Bike, BikePart, Status
from unkett.web.bikes.permissions import bikes_gone_from, every_bike_of
from unkett.web.bikes.verdicts import renewed, stale_bikes
from unkett.web.plans.models import Plan, State
from unkett.web.rulebook.queries import codes_called
from unkett.web.workshop.models import User
from unkett.web.workshop.search import folded_columns, searched

YARD_PAGE = 25
OPEN_PLANS = ("name", "letter", "bike_id", "job__open_facts")
YARD_FIELDS = (
    "name", "use", "frame_number", "wish", "verdict", "summary", "judged_by", "accepted_until", "search",
)  # fmt: skip


@frozen(kw_only=True)
class Yard:
    """One page of the workshop's bikes by verdict, how many there are of each, and the plans in work."""

    bikes: tuple[Bike, ...]
    counts: dict[str, int]
    page: int
    pages: int
    plans: tuple[Plan, ...]
    waiting: int  # bikes whose verdict is being renewed
    gone: int  # bikes that are put away or removed

    @property
    def total(self) -> int:
        return sum(self.counts.values())


def _found(actor: User, find: str) -> QuerySet[Bike]:
    """Return the actor's bikes that hold these words in name, customer, frame number, plan or bench name."""
    bikes = every_bike_of(actor).filter(status=Status.HERE)
    if not find:
        return bikes
    columns = folded_columns("name", "customer__name", "frame_number", "use")

    def elsewhere(word: str) -> list[Q]:
        plans = bikes.filter(plans__name__icontains=word).values("pk")
        codes = codes_called(actor.workshop_id, word)
        texts = BikePart.objects.alias(codes=Cast("attrs", TextField()))
        holding = [texts.filter(codes__icontains=f'"{code}"').values("bike_id") for code in codes]
        return [Q(pk__in=plans), *(Q(pk__in=bike_ids) for bike_ids in holding)]

    return searched(bikes.alias(folded=columns), find, elsewhere)


def yard(actor: User, find: str, verdict: str = "", page: int = 1) -> Yard:
    """Bikes by name, customer, frame number or bench name, changed last first; `verdict` narrows to one."""
    found = _found(actor, find)
    counts = dict(found.order_by().values_list("verdict").annotate(number=Count("pk")))
    shown = found.filter(verdict=verdict) if verdict else found
    number = counts.get(verdict, 0) if verdict else sum(counts.values())
    pages = max(1, -(-number // YARD_PAGE))
    page = min(max(page, 1), pages)
    plans = Plan.objects.exclude(state__in=(State.DROPPED, State.HANDED_OVER))
    named = Prefetch("plans", queryset=plans.select_related("job").only(*OPEN_PLANS), to_attr="open_plans")
    bikes = shown.annotate(customer_name=F("customer__name")).only(*YARD_FIELDS).prefetch_related(named)
    start = (page - 1) * YARD_PAGE
    latest = (
        plans.filter(bike__workshop_id=actor.workshop_id, bike__status=Status.HERE)
        .select_related("bike")
        .only("name", "letter", "changed", "state", "bike__name")
        .annotate(number=Count("changes"))
    )
    return Yard(
        bikes=tuple(renewed(bikes.order_by("-changed", "-id")[start : start + YARD_PAGE], actor.workshop)),
        counts={verdict.value: counts.get(verdict.value, 0) for verdict in Verdict},
        page=page,
        pages=pages,
        plans=tuple(latest.order_by("-changed", "-id")[:12]),
        waiting=stale_bikes(actor.workshop).filter(status=Status.HERE).count(),
        gone=bikes_gone_from(actor).count(),
    )
