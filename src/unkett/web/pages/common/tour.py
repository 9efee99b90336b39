"""The stops of the first tour, in the order of the work: each is a strip on its own page."""

from __future__ import annotations

from attrs import frozen

from unkett.web.workshop.models import User

OFFERED = 1


@frozen(kw_only=True)
class Stop:
    """A stop: its page's name, whether that page is a bike's, and what to see there."""

    title: str
    page: str
    says: str
    of: str = ""  # which page of the work
    of_bike: bool = False


STOPS = (
    Stop(title="Yard", page="bikes:yard",
         says="Every bike with its verdict and what to measure next. On top: what happened since you looked."),
    Stop(title="Stand", page="bikes:stand", of_bike=True,
         says="The bike drawn from its figures. Press a mark: the joint opens with its figures and fixes."),
    Stop(title="Gears", page="bikes:work", of="gears", of_bike=True,
         says="Every gear where it carries. Try another cassette in a plan, and both curves lie over each other."),
    Stop(title="Catalogue", page="catalogue:parts",
         says="Parts by dimension. A size is enough to search: 11-34, 28-622, 27.2."),
    Stop(title="Identify", page="measure:sorts",
         says="A part without a name: type any figure off the caliper and the list orders itself."),
    Stop(title="Schedule", page="jobs:days",
         says="Who works on what, and which promise breaks. From a bike's plan come quote, job sheet and hand-over."),
)  # fmt: skip


def stop_of(actor: User) -> tuple[int, Stop] | None:
    """Return the stop that this person is at, with its number from 1; None where the tour is offered or closed."""
    number = actor.tour - OFFERED
    return (number, STOPS[number - 1]) if 0 < number <= len(STOPS) else None
