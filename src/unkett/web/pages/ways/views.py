"""Find ways: the wish, the search as it goes on, what was found as cards, and why there is no way."""

from __future__ import annotations

from datetime import date, timedelta
from functools import cached_property
from typing import Any

from attrs import frozen
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.datastructures import MultiValueDict

from unkett.core.bike.figures import SetUp, setup_of
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Scene
from unkett.core.vocabulary import SLOTS
from unkett.core.vocabulary.words import in_sentence
from unkett.core.work.dates import ready_on
from unkett.web.pages.common.answers import answer, is_for
from unkett.web.pages.common.bike_page import BikePage, of_plan
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.ways.forms import BEST_WORDS, TakeForm, WishForm
from unkett.web.pages.ways.today import figures_today, gears_of_ways
from unkett.web.plans import way_search
from unkett.web.show.values import Shown
from unkett.web.show.words import need_says
from unkett.web.tasks.models import Task, TaskState
from unkett.web.tasks.services import stop_task

SORTS = {"part": "Parts needed", "work": "Work needed", "check": "Check", "accept": "Accept"}


@frozen(kw_only=True)
class Swap(Shown):
    """One change of a way: its slot, what comes off, what goes on and what that costs."""

    slot: str
    out: str
    name: str
    price: float | None = None
    unpriced: bool = False
    days: int = 0
    came_from: str = ""


@frozen(kw_only=True)
class Card(Shown):
    """A way as it is shown."""

    place: int
    row: dict[str, Any]

    @property
    def title(self) -> str:
        words = [BEST_WORDS[name] for name in self.row["best"]]
        return " · ".join(words).capitalize() if words else "Another way"

    @property
    def verdict(self) -> Verdict:
        return Verdict(self.row["verdict"])

    @property
    def swaps(self) -> list[Swap]:
        return [self._swap(change) for change in self.row["changes"]]

    def _swap(self, change: dict[str, Any]) -> Swap:
        slot = SLOTS[change["slot"]].title
        part = self.row["parts"].get(change["in"])
        if part is None:
            return Swap(slot=slot, out=change["out"] or "", name="")
        return Swap(
            slot=slot,
            out=change["out"] or "",
            name=part["name"],
            price=part["price"],
            unpriced=part["price"] is None,
            days=part["days"],
            came_from=part["from"],
        )

    @property
    def needs(self) -> list[tuple[str, list[tuple[str, float]]]]:
        """What is needed, by what is done about it, with its price."""
        rows = [
            (need["sort"], need_says(_without_minutes(need)), need["price"]) for need in self.row["needs"]
        ]
        found = [
            (title, [(says, price) for own, says, price in rows if own == sort])
            for sort, title in SORTS.items()
        ]
        return [(title, words) for title, words in found if words]

    @property
    def measure(self) -> list[tuple[str, str]]:
        """What to measure first, by slot."""
        found: dict[str, list[str]] = {}
        for asked in self.row["measure"]:
            found.setdefault(SLOTS[asked["slot"]].title if asked["slot"] in SLOTS else "Bike", []).append(
                in_sentence(asked["title"])
            )
        return [(slot, ", ".join(titles)) for slot, titles in found.items()]

    @property
    def bound(self) -> str:
        """What the first thing it is best in cannot be below, where that is not proven; money alone is reported."""
        if "bound" not in self.row or self.row["best"][:1] not in (["cheapest"], []):
            return ""
        return f"{self.row['bound']:.2f}"

    @property
    def grams(self) -> str:
        """How much heavier or lighter, with its sign."""
        return f"{self.row['grams']:+d}".replace("-", "−")

    @property
    def ready(self) -> date:
        """When its parts are here and its work is done."""
        parts_on = timezone.localdate() + timedelta(days=self.row["days"])
        return ready_on(parts_on, self.row.get("ready_minutes", self.row["minutes"]))

    @property
    def total(self) -> int:
        """What its quote comes to, in hundredths; where no sheet could be made, its parts and usual work."""
        return round(float(self.row.get("total", self.row["price"])) * 100)

    @property
    def unpriced(self) -> int:
        """How many of its parts have no price yet: they are not in the total."""
        return sum(swap.unpriced for swap in self.swaps)

    @property
    def total_minutes(self) -> int:
        return int(self.row.get("sheet_minutes", self.row["minutes"]))

    @property
    def why(self) -> list[str]:
        """What the joints say then that is not simply Goes, and what they say no longer."""
        return [row["says"] for row in self.row["findings"] if row["verdict"] in ("goes_if", "unmeasured")]


def _without_minutes(need: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in need.items() if name != "minutes"}


@frozen(kw_only=True, slots=False)
class WaysPage(BikePage):
    """The wish of a plan and what was found for it."""

    form: WishForm | None = None

    @cached_property
    def task(self) -> Task | None:
        return way_search.ways_asked(self.actor, self.plan.pk) if self.plan else None

    @cached_property
    def wish_form(self) -> WishForm:
        if self.form is not None:
            return self.form
        return WishForm(MultiValueDict(self.task.asked["typed"])) if self.task else WishForm()

    @property
    def going_on(self) -> bool:
        return self.task is not None and self.task.going_on

    @property
    def failed(self) -> bool:
        return self.task is not None and self.task.state == TaskState.FAILED

    @property
    def _found(self) -> dict[str, Any]:
        return (self.task.found if self.task else None) or {}

    @property
    def so_far(self) -> dict[str, Any] | None:
        return self._found.get("so_far")

    @property
    def cards(self) -> list[Card]:
        return [Card(place=n, row=row) for n, row in enumerate(self._found.get("cards", []))]

    @cached_property
    def today(self) -> dict[str, str]:
        """What the bike has today of each field of the wish."""
        return figures_today(self.now, self.set_up_now)

    @cached_property
    def set_up_now(self) -> SetUp | None:
        """The bike's own gears; None where they are not known."""
        return setup_of(self.now, "now", "stands")

    @cached_property
    def picture(self) -> Scene | None:
        """Today's gears, each way's over them, and the wished limits."""
        typed = self.task.asked["wish"].get("gears", {}) if self.task else {}
        wanted = {
            "low": typed.get("lowest_development_m_max"),
            "high": typed.get("highest_development_m_min"),
        }
        cards = [(card.title, card.row) for card in self.cards]
        return gears_of_ways(self.now, self.set_up_now, cards, wanted, self.settings)

    @property
    def stuck(self) -> dict[str, Any] | None:
        return self._found.get("stuck")

    @property
    def nothing(self) -> bool:
        """Whether the search ended with neither a way nor a reason."""
        ended = self.task is not None and not self.going_on and not self.failed
        return ended and not self.cards and not self.stuck


@allowed("see-plans")
def ways(request: Request, plan_id: int) -> HttpResponse:
    """The wish and what was found; htmx asks again while the search goes on."""
    return _show(request, plan_id)


def _show(request: Request, plan_id: int, form: WishForm | None = None, status: int = 200) -> HttpResponse:
    page = of_plan(request, plan_id, WaysPage, "plan", form=form)
    template = "ways/_found.html" if is_for(request, "found") else "ways/ways.html"
    return answer(request, template, page, status=status)


@allowed("change-plans", "POST")
def ask(request: Request, plan_id: int) -> HttpResponse:
    """Start a search; a wish that cannot be read answers beside its field."""
    form = WishForm(request.POST)
    if not form.is_valid():
        return _show(request, plan_id, form, status=422)
    way_search.ask_ways(
        actor=request.user,
        plan_id=plan_id,
        wish=form.wish(),
        best=form.objectives,
        typed={name: value for name, value in request.POST.lists() if name in form.fields},
    )
    return redirect("plans:ways", plan_id)


@allowed("change-plans", "POST")
def stop(request: Request, plan_id: int, task_id: int) -> HttpResponse:
    """Stop a search and keep what it found."""
    stop_task(actor=request.user, task_id=task_id)
    return redirect("plans:ways", plan_id)


@allowed("change-plans", "POST")
def take(request: Request, plan_id: int, task_id: int) -> HttpResponse:
    """Take a way as another option of the plan."""
    data = clean(TakeForm(request.POST))
    option = way_search.take_way(actor=request.user, plan_id=plan_id, task_id=task_id, **data)
    return redirect("plans:show", option.pk)
