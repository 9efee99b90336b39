"""What was done to a bike: every action with the parts it moved, from the log and the ledger."""

from __future__ import annotations

from functools import cached_property

from attrs import frozen
from django.http import HttpRequest, HttpResponse

from unkett.web.bikes.models import Move
from unkett.web.bikes.queries import history_of
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.bike_page import BikePage, of_bike
from unkett.web.pages.common.guard import allowed
from unkett.web.show.words import changes_in
from unkett.web.workshop.models import LogLine


@frozen(kw_only=True)
class Deed:
    """One action: its line of the log, and each part it touched with what changed of it."""

    line: LogLine
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


@allowed("see-bikes")
def history(request: HttpRequest, bike_id: int) -> HttpResponse:
    """What was done to a bike, the latest first."""
    return answer(request, "history/history.html", of_bike(request, bike_id, HistoryPage))
