"""What was done to a bike: every action with the parts it moved, from the log and the ledger."""

from __future__ import annotations

import json
from datetime import date, datetime, time
from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.db.models import Q
from django.http import HttpResponse
from django.utils import timezone

from unkett.core.build import plain
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Move
from unkett.web.bikes.queries import bike_on_date, history_of, known_since
from unkett.web.jobs.models import Job
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.words import changes_in, values_of
from unkett.web.workshop.models import LogEntry

LINES_MOST = 2000


class DayForm(forms.Form):
    """The day that is asked for."""

    on = forms.DateField()


@frozen(kw_only=True)
class Deed:
    """One action: its line of the log, and each part it touched with what changed of it."""

    line: LogEntry
    moves: list[tuple[Move, list[tuple[str, str, str]]]]


@frozen(kw_only=True, slots=False)
class HistoryPage(BikePage):
    """The actions on a bike, the latest first."""

    @cached_property
    def deeds(self) -> list[Deed]:
        return [
            Deed(
                line=line,
                moves=[
                    (move, changes_in(move.part.kind, move.before, move.after)) for move in line.moves.all()
                ],
            )
            for line in history_of(self.actor, self.bike)
        ]

    @cached_property
    def day(self) -> date | None:
        """The day that is asked for; None for none, or what is no day."""
        form = DayForm(self.asked)
        return form.cleaned_data["on"] if form.is_valid() else None

    @property
    def known(self) -> bool:
        """Whether the bike was written down by then, as far as the log says."""
        since = known_since(self.actor, self.bike)
        return since is None or since <= self._evening

    @property
    def _evening(self) -> datetime:
        assert self.day is not None
        return timezone.make_aware(datetime.combine(self.day, time.max))

    @cached_property
    def stood(self) -> list[tuple[str, str, list[tuple[str, str]]]]:
        """Each part that was on the bike at the end of that day: slot, name, what was known of it."""
        if self.day is None or not self.known:
            return []
        return [
            (SLOTS[one.slot].title, one.part.name, values_of(one.part.kind, plain(one.part.attrs)))
            for one in bike_on_date(self.bike, self._evening)
        ]


@frozen(kw_only=True, slots=False)
class BikeLogPage(BikePage):
    """Every line of the log about a bike, its plans and jobs, the latest first."""

    @cached_property
    def lines(self) -> list[LogEntry]:
        plans = list(self.bike.plans.values_list("pk", flat=True))
        jobs = list(Job.objects.filter(plan__in=plans).values_list("pk", flat=True))
        about = Q(about="bike", about_id=self.bike.pk) | Q(about="plan", about_id__in=plans)
        about |= Q(about="job", about_id__in=jobs)
        mine = LogEntry.objects.filter(about, workshop_id=self.actor.workshop_id).select_related("actor")
        return list(mine.order_by("-pk")[:LINES_MOST])

    @property
    def rows(self) -> list[list[Any]]:
        """The lines as a table, figures as they are stored."""
        head = ["at", "who", "did", "about", "name", "before", "after"]
        return [head] + [
            [
                line.at.isoformat(timespec="seconds"), line.actor.username if line.actor else "", line.verb, line.about,
                line.about_name, _stored(line.before), _stored(line.after),
            ]
            for line in self.lines
        ]  # fmt: skip


def _stored(value: Any) -> str:
    return "" if value is None else json.dumps(value, ensure_ascii=False, sort_keys=True)


@allowed("see-bikes")
def log(request: Request, bike_id: int) -> HttpResponse:
    """Every change of a bike with before and after; also as CSV and ODS."""
    page = of_bike(request, bike_id, BikeLogPage)
    rows = page.rows if request.GET.get("as") else []
    return download(request, f"log-bike-{bike_id}", None, rows) or answer(request, "history/log.html", page)


@allowed("see-bikes")
def history(request: Request, bike_id: int) -> HttpResponse:
    """What was done to a bike, the latest first."""
    return answer(request, "history/history.html", of_bike(request, bike_id, HistoryPage))
