"""A reading far from the usual is asked again before it is kept."""

from __future__ import annotations

from attrs import frozen
from django.http import HttpResponse

from unkett.core.errors import InputError
from unkett.web.bikes.models import Bike
from unkett.web.bikes.queries import current_bike
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.request import Request

NOT_AGAIN = ("csrfmiddlewaretoken", "once", "really")


@frozen(kw_only=True)
class ReallyPage:
    """What was typed, and why it is asked again."""

    bike: Bike
    says: list[str]
    again: list[tuple[str, str]]


def ask_really(request: Request, bike_id: int, error: InputError) -> HttpResponse:
    """Show the same form again, to be kept on purpose or typed again. What is more than unlikely is raised again."""
    if not error.only_unlikely:
        raise error
    again = [(name, str(value)) for name, value in request.POST.items() if name not in NOT_AGAIN]
    bike = current_bike(request.user, bike_id).bike
    page = ReallyPage(bike=bike, says=[fault.says for fault in error.faults], again=again)
    return answer(request, "common/really.html", page, status=422)
