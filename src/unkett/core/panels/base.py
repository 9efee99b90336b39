"""What a sheet is made of: numbers with where they come from, grids, a picture, what is missing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from attrs import frozen

from unkett.core.bike.facts import Facts, Missing
from unkett.core.build import Build
from unkett.core.calc.base import Calculation, TraceLine
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError
from unkett.core.scene import Scene
from unkett.core.settings import Settings


@frozen(kw_only=True)
class Number:
    """One line of a sheet: a computed figure with its trace, or the reading of a part (`given`: slot, attribute)."""

    name: str
    title: str
    value: float | str | None
    unit: str = "mm"
    origin: str = "computed"
    trace: tuple[TraceLine, ...] = ()
    given: tuple[str, str] | None = None


@frozen(kw_only=True)
class GridRow:
    """A line of a table; `rule` names the rule whose verdict belongs beside it, `strong` marks its loud cells."""

    title: str
    cells: tuple[float | str | None, ...]
    rule: str = ""
    loud: frozenset[int] = frozenset()


@frozen(kw_only=True)
class Grid:
    """A small table of a sheet."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[GridRow, ...]
    says: str = ""


@frozen(kw_only=True)
class Panel:
    """One part of the work: its numbers, its grids, its picture and what is missing for it."""

    name: str
    title: str
    numbers: tuple[Number, ...] = ()
    grids: tuple[Grid, ...] = ()
    missing: tuple[Missing, ...] = ()
    scene: Scene | None = None
    cautions: tuple[str, ...] = ()
    fault: str = ""
    finds: str = ""  # the slot whose candidates answer this sheet

    def value(self, name: str) -> float | str | None:
        """Return a number by name; None where the sheet has none."""
        return next((number.value for number in self.numbers if number.name == name), None)

    @property
    def can_cut(self) -> bool:
        """Whether something is to be cut off."""
        off = self.value("cut_off")
        return isinstance(off, (int, float)) and off > 0


class Incomplete(Exception):  # noqa: N818 - an answer, not a fault
    """Something a sheet cannot do without is not measured."""


def panel_of(name: str, title: str, build: Build, make: Callable[[Facts], Panel]) -> Panel:
    """Run a maker; what it wants and does not find, or cannot be worked out, becomes the sheet's answer."""
    facts = Facts(build)
    try:
        return make(facts)
    except Incomplete:
        return Panel(name=name, title=title, missing=tuple(facts.missing))
    except InputError as error:
        return Panel(name=name, title=title, fault=str(error))


def require_values(facts: Facts, *pairs: tuple[str, str]) -> list[Any]:
    """Return the values of slots and attributes; Incomplete, with all that is missing named, where one is not known."""
    values = [facts.want(slot, attr) for slot, attr in pairs]
    if facts.missing:
        raise Incomplete
    return values


def given(facts: Facts, slot: str, attr: str, title: str, name: str = "", unit: str = "mm") -> Number:
    """Return a reading of a part as a line of a sheet; one that another reading contradicts stands as in doubt."""
    doubted = facts.doubted(slot, attr)
    return Number(
        name=name or attr,
        title=f"{title}, in doubt" if doubted else title,
        value=facts.get(slot, attr),
        unit=unit,
        origin="assumed" if doubted else "computed",
        given=(slot, attr),
    )


@frozen(kw_only=True)
class Page:
    """The sheets of one page of the work and the calculations worked out there; its findings are those of its joints.

    `compares` makes sheets of the bike as it stands against the bike as planned.
    """

    name: str
    title: str
    sheets: Callable[[Build, Settings], list[Panel]]
    compares: Callable[[Build, Build], list[Panel]] = lambda _now, _then: []
    empty: str = ""

    @property
    def tools(self) -> list[Calculation]:
        """The calculations that name this page as theirs."""
        return [calculation for calculation in CALCULATIONS.values() if calculation.page == self.name]
