"""What the Measure pages show: what a number may be, and the ranking by what is typed."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any
from urllib.parse import quote

from attrs import evolve, frozen

from unkett.core.build import plain
from unkett.core.drawing.cards import card_scene
from unkett.core.errors import Fault, InputError
from unkett.core.identify import (
    PRINT,
    SUBJECTS,
    TOLERANCE_MM,
    Identified,
    Match,
    Measure,
    Start,
    Subject,
    expected,
    identify,
    start_from,
)
from unkett.core.scene import Scene
from unkett.core.units import read_reading
from unkett.core.vocabulary import SLOTS, describe
from unkett.core.vocabulary.types import Bool, Number
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.pages.common.forms import whole_number
from unkett.web.rulebook.queries import bench_names_of, known_codes
from unkett.web.show.fields import Field, filled_in, marked
from unkett.web.show.words import plain_value
from unkett.web.workshop.models import User

TYPED_MAX = 40
SHOWN = 12
STARTS_SHOWN = 3
BIKES_SHOWN = 200
LARGEST_MM = 10_000.0
SAME_SCORE = 1e-9


@frozen(kw_only=True, slots=False)
class SortsPage:
    """Everything that can be identified, and what a number typed first may be."""

    asked: Any

    @property
    def text(self) -> str:
        return str(self.asked.get("reading", "")).strip()[:TYPED_MAX]

    @property
    def bike(self) -> str:
        return str(self.asked.get("bike", ""))

    @property
    def of_bike(self) -> str:
        """The end of an address that hands on the number and the bike it is for."""
        return quote(self.text) + (f"&bike={quote(self.bike)}" if self.bike else "")

    @cached_property
    def _started(self) -> tuple[tuple[Start, ...], str]:
        if not self.text:
            return (), ""
        try:
            return start_from(read_reading(self.text, "mm", "reading")), ""
        except InputError as error:
            return (), error.faults[0].says

    @property
    def fault(self) -> str:
        return self._started[1]

    @property
    def starts(self) -> list[tuple[Start, list[str]]]:
        """What the number may be, each with its first few standards by name."""
        titles = known_codes()
        return [
            (start, [titles.get(match.code, match.code) for match in start.matches[:STARTS_SHOWN]])
            for start in self._started[0]
        ]

    @property
    def sorts(self) -> list[tuple[Subject, Scene]]:
        return [(sort, card_scene(sort)) for sort in SUBJECTS.values()]


@frozen(kw_only=True)
class Said:
    """What a standard says of one measure, and how near a reading comes that misses it."""

    measure: Measure
    values: tuple[Any, ...]
    missed: bool
    off: str


@frozen(kw_only=True)
class Place:
    """Where a standard may be put on the bike: the `number` of the place, the part, its attributes, and what
    other answer stands there and would go.
    """

    number: int
    part: str
    attrs: list[str]
    instead: list[str]


@frozen(kw_only=True)
class Ranked:
    """A standard in the ranking, and where it may be put."""

    match: Match
    places: list[Place]
    writes: list[Place]  # the parts it may be written into the catalogue for
    title: str
    note: str
    called: list[str]
    says: list[Said]


@frozen(kw_only=True, slots=False)
class SortPage:
    """One kind: its measuring card, its fields, the ranking, and where the leading ones may be put."""

    actor: User
    asked: Any
    sort: Subject

    @cached_property
    def bike(self) -> Bike | None:
        """The bike that the answer is for, where it is the actor's."""
        number = whole_number(str(self.asked.get("bike", "")))
        return bikes_seen_by(self.actor).filter(pk=number).first() if number is not None else None

    @property
    def bikes(self) -> list[Bike]:
        return list(bikes_seen_by(self.actor).order_by("name")[:BIKES_SHOWN])

    @property
    def card(self) -> Scene:
        return card_scene(self.sort)

    @property
    def tolerance(self) -> float:
        try:
            return min(5.0, max(0.001, float(self.asked.get("tolerance", "").replace(",", "."))))
        except ValueError:
            return TOLERANCE_MM

    @cached_property
    def _read(self) -> tuple[list[Field], Identified | None]:
        """The fields with what is wrong beside each, and what the readings come to."""
        fields = filled_in([_field(measure) for measure in self.sort.measures], self.asked)
        readings: dict[str, float] = {}
        faults: list[Fault] = []
        for field in fields:
            try:
                value = evolve(field, text=field.text[:TYPED_MAX]).read()
                readings |= {} if value is None else {field.name: float(value)}
            except InputError as error:
                faults.append(Fault(path=field.name, says=error.faults[0].says))
        found = None
        if readings:
            try:
                found = identify(kind=self.sort.name, measures=readings, tolerance_mm=self.tolerance)
            except InputError as error:
                faults += [
                    Fault(path=fault.path.removeprefix("measures."), says=fault.says)
                    for fault in error.faults
                ]
        return marked(fields, faults), found

    @property
    def fields(self) -> list[Field]:
        return self._read[0]

    @property
    def faulty(self) -> bool:
        return any(field.fault for field in self.fields)

    @property
    def found(self) -> Identified | None:
        return self._read[1]

    @property
    def next(self) -> str:
        """What to measure next."""
        titles = {measure.name: measure.title for measure in self.sort.measures}
        return titles.get(self.found.next or "", "") if self.found else ""

    @property
    def next_is_print(self) -> bool:
        return bool(self.found and self.found.next == PRINT)

    @property
    def ranking(self) -> list[Ranked]:
        """The leading standards with what each says of every measure."""
        if self.found is None:
            return []
        names, titles = bench_names_of(self.actor), known_codes()
        return [
            Ranked(
                match=match,
                places=self._places(match) if self.bike else [],
                writes=_one_of_a_kind(self.sort, self._places(match)),
                title=titles.get(match.code, match.code),
                note=match.row.get("note", ""),
                called=names.get(match.code, []),
                says=[
                    _said(match, measure) for measure in self.sort.measures if expected(match.row, measure)
                ],
            )
            for match in self.found.ranked[:SHOWN]
        ]

    @cached_property
    def _stands(self) -> dict[str, dict[str, Any]]:
        """By slot, the attributes of the parts that are on the bike."""
        return (
            {slot: part.attrs for part in self.bike.fitted.all() for slot in part.slots()}
            if self.bike
            else {}
        )

    def _places(self, match: Match) -> list[Place]:
        """Return where a standard may be put: offered for the first, and for those that fit as well as it does."""
        if self.found is None or match.misses:
            return []
        if match.score - self.found.ranked[0].score > SAME_SCORE:
            return []
        offered = [(number, put, put.values(match.row)) for number, put in enumerate(self.sort.puts)]
        return [
            Place(
                number=number,
                part=SLOTS[put.slot].title,
                attrs=[describe(put.slot, attr).title for attr in values],
                instead=self._instead(put.slot, values),
            )
            for number, put, values in offered
            if values
        ]

    def _instead(self, slot: str, values: Mapping[str, Any]) -> list[str]:
        """Return what stands in a slot now and is another answer."""
        stands = self._stands.get(slot, {})
        return [
            plain_value(stands[attr], describe(slot, attr).type)
            for attr, value in values.items()
            if stands.get(attr) not in (None, plain(value))
        ]


def _one_of_a_kind(sort: Subject, places: list[Place]) -> list[Place]:
    """Return the first place of each kind of part: a front and a rear hub are one sort of part."""
    first: dict[str, Place] = {}
    for place in places:
        first.setdefault(SLOTS[sort.puts[place.number].slot].kind, place)
    return list(first.values())


def _field(measure: Measure) -> Field:
    kind = Bool() if measure.yes_no else Number(unit=measure.unit, low=-LARGEST_MM, high=LARGEST_MM)
    return Field(
        name=measure.name, ident=f"m-{measure.name}", title=measure.title, type=kind, how=measure.how
    )


def _said(match: Match, measure: Measure) -> Said:
    missed = measure.name in match.misses
    off = None if measure.yes_no else match.off.get(measure.name)
    return Said(
        measure=measure, values=_values(measure, match.row), missed=missed, off=_off_says(measure, off)
    )


def _values(measure: Measure, row: dict[str, Any]) -> tuple[Any, ...]:
    values = expected(row, measure)
    if measure.within and measure.within in row:
        return (f"{values[0]:g} to {values[1]:g}",)
    return tuple("yes" if value else "no" for value in values) if measure.yes_no else values


def _off_says(measure: Measure, off: float | None) -> str:
    """Return how near a reading comes to a standard that it misses."""
    unit = f" {measure.unit}" if measure.unit else ""
    return f"{off:.2f}".rstrip("0").rstrip(".") + f"{unit} off" if off else ""
