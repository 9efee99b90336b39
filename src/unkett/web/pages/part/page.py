"""What the page of one part shows: every attribute in its field, the condition, where the part may go."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.errors import Fault
from unkett.core.formats.typed_text import only_size
from unkett.core.vocabulary import KINDS, Slot
from unkett.web.bikes.models import Bike, BikePart, Feel, Origin
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.queries import bench_of
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.plans.queries import wanted_parts
from unkett.web.show.fields import Field, by_name, field_of, filled_in, marked
from unkett.web.wear.queries import Series, wear_of_part

BIKES_SHOWN = 200


@frozen(kw_only=True, slots=False)
class PartPage(BikePage):
    """One part of a bike in fields; `posted` is what was typed, `faults` what is wrong with it."""

    slot: Slot
    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    @property
    def part(self) -> BikePart | None:
        return self.stands.fitted.get(self.slot.name)

    @cached_property
    def fields(self) -> list[Field]:
        """Every attribute with what is known or was typed; damage last."""
        known, size = (self.part.attrs, only_size(self.part.attrs)) if self.part else ({}, None)
        declared = KINDS[self.slot.kind].attributes
        fields = [field_of(attr, known=known.get(name), size=size) for name, attr in declared.items()]
        fields.sort(key=lambda item: item.name == "damage")
        read_with = self.part.instruments if self.part else {}
        fields = [
            evolve(item, note=f"Read with the {read_with[item.name]}.") if item.name in read_with else item
            for item in fields
        ]
        return fields if self.posted is None else marked(filled_in(fields, self.posted), self.faults)

    @property
    def wrong(self) -> list[Field]:
        return [item for item in self.fields if item.fault]

    @property
    def other_faults(self) -> dict[str, Fault]:
        """What is wrong with name and condition, by field."""
        return dict(by_name(self.faults))

    @property
    def origin_of(self) -> dict[str, str]:
        """By attribute, where it comes from: as typed, as kept, else measured."""
        known = self.part.origins if self.part else {}
        posted = self.posted or {}
        names = [item.name for item in self.fields]
        return {name: posted.get(f"origin-{name}", known.get(name, Origin.MEASURED.value)) for name in names}

    @property
    def origin_choices(self) -> list[tuple[str, str]]:
        return list(Origin.choices)

    @property
    def feels(self) -> list[tuple[str, str]]:
        return list(Feel.choices)

    @property
    def name(self) -> str:
        known = self.part.name if self.part else ""
        return str(known if self.posted is None else self.posted.get("name", ""))

    @property
    def condition(self) -> dict[str, str]:
        """Feel, wear and damage in words."""
        if self.posted is None:
            return dict(self.part.condition) if self.part else {}
        typed = {name: self.posted.get(name, "") for name in ("feel", "wear")}
        return {**typed, "damage": self.posted.get("damage_note", "")}

    @property
    def is_empty(self) -> bool:
        """Whether somebody looked and found nothing fitted."""
        return self.slot.name in self.now.empty

    @property
    def is_filled(self) -> bool:
        return self.slot.name in self.now.filled()

    @cached_property
    def other_bikes(self) -> list[Bike]:
        """Where the part may go."""
        return list(bikes_seen_by(self.actor).exclude(pk=self.bike.pk).order_by("name")[:BIKES_SHOWN])

    @cached_property
    def on_bench(self) -> list[BikePart]:
        """Pieces of this kind that lie in the bin and are reserved for no other bike."""
        lying = bench_of(self.actor, self.slot.kind)
        wanted = wanted_parts(self.actor, *(part.pk for part in lying))
        return [part for part in lying if part.pk not in wanted or wanted[part.pk].bike_id == self.bike.pk]

    @cached_property
    def wear(self) -> list[Series]:
        """Its readings of wear, on whichever bikes they were taken."""
        return wear_of_part(self.actor, self.part) if self.part else []

    @property
    def life(self) -> list[Any]:
        """The lines of the ledger of this part, the latest first."""
        if self.part is None:
            return []
        return list(
            self.part.moves.select_related("line__actor", "from_bike", "to_bike").order_by("-pk")[:20]
        )
