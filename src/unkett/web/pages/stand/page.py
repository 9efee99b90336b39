"""What the Stand shows of a bike as it stands."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import frozen

from unkett.core.bike.skeleton import Assumption
from unkett.core.intake.inspection import HOWS, TICKS
from unkett.core.vocabulary import KINDS, SLOTS, Area, Attribute, Slot, describe, title_of
from unkett.core.work.package_steps import is_for
from unkett.core.work.packages import Package
from unkett.web.bikes.inspection import found_on
from unkett.web.bikes.models import BikePart
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import plans_of
from unkett.web.rulebook.packages import packages_of
from unkett.web.rulebook.queries import bench_names_of
from unkett.web.show.values import Shown
from unkett.web.show.words import ShownValue, shown_value
from unkett.web.workshop.permissions import may


@frozen(kw_only=True)
class PartShown(Shown):
    """A part with its attributes as the page shows them."""

    slot: Slot
    part: BikePart
    values: list[ShownValue]


@frozen(kw_only=True)
class AreaShown(Shown):
    """The filled slots of an area; its parts where it is unfolded, else None."""

    area: Area
    slots: list[Slot]
    parts: list[PartShown] | None


@frozen(kw_only=True)
class AssumedShown(Shown):
    """A number the drawing had to assume, with where it would be measured."""

    slot: str
    attr: str
    declared: Attribute
    value: float


def assumed_shown(number: Assumption) -> AssumedShown:
    """Return an assumed number with its declaration."""
    declared = describe(number.slot, number.attr)
    return AssumedShown(slot=number.slot, attr=number.attr, declared=declared, value=number.value)


@frozen(kw_only=True, slots=False)
class StandPage(BikePage):
    """One bike on the stand: drawing, findings, parts by area, plans."""

    @property
    def opened(self) -> str:
        """The area that is unfolded."""
        return str(self.asked.get("area", ""))

    @cached_property
    def areas(self) -> list[AreaShown]:
        """The areas that hold parts."""
        filled = [slot for slot in SLOTS.values() if slot.name in self.stands.fitted]
        by_area = [(area, [slot for slot in filled if slot.area is area]) for area in Area]
        return [
            AreaShown(area=area, slots=slots, parts=self._parts(slots) if self._unfolded(area) else None)
            for area, slots in by_area
            if slots
        ]

    @property
    def area_shown(self) -> AreaShown | None:
        """The area that is asked for."""
        return next((area for area in self.areas if area.parts is not None), None)

    def _unfolded(self, area: Area) -> bool:
        return self.everything or area.value == self.opened

    @cached_property
    def _names(self) -> dict[str, list[str]]:
        return bench_names_of(self.actor)

    def _parts(self, slots: list[Slot]) -> list[PartShown]:
        return [
            PartShown(slot=slot, part=part, values=self._values(slot, part))
            for slot in slots
            if (part := self.stands.fitted[slot.name])
        ]

    def _values(self, slot: Slot, part: BikePart) -> list[ShownValue]:
        attrs: Any = self.now.filled()[slot.name].attrs
        return [
            shown_value(slot.name, attr, value, part.origins.get(attr, "stated"), self._names)
            for attr in KINDS[slot.kind].attributes
            if (value := attrs.get(attr)) is not None
        ]

    @property
    def empty_slots(self) -> list[Slot]:
        """Slots without a part, known to be empty or not."""
        return [slot for slot in SLOTS.values() if slot.name not in self.now.filled()]

    @property
    def left_empty(self) -> list[Slot]:
        """Slots somebody looked at: nothing is fitted there."""
        return [slot for slot in SLOTS.values() if slot.name in self.now.empty]

    @cached_property
    def set_ups(self) -> list[str]:
        """The names of its set-ups."""
        return list(self.bike.set_ups.values_list("name", flat=True))

    @cached_property
    def looked(self) -> list[dict[str, Any]]:
        """What the inspection found, what must be done first."""
        if not self.bike.looked:
            return []
        pictured = set(self.bike.pictures.values_list("about", flat=True))
        found = sorted(found_on(self.bike).items(), key=lambda item: list(HOWS).index(item[1].how))
        return [
            {
                "code": code,
                "title": TICKS[code].title if code in TICKS else one.note,
                "where": ", ".join(title_of(slot).lower() for slot in one.slots),
                "how": HOWS[one.how],
                "note": one.note if code in TICKS else "",
                "picture": code in pictured,
            }
            for code, one in found
        ]

    @property
    def can_undo(self) -> bool:
        return bool(getattr(self.bike, "undo_version", None) == self.bike.version)

    @cached_property
    def assumed(self) -> list[AssumedShown]:
        """What the side view had to assume."""
        return [assumed_shown(number) for number in self.bones.new.assumed]

    @property
    def may_plan(self) -> bool:
        return may(self.actor, "change-plans")

    @property
    def packages(self) -> Mapping[str, Package]:
        """The service packages of the workshop that have anything to do on this bike."""
        return {code: one for code, one in packages_of(self.actor.workshop).items() if is_for(one, self.now)}

    @cached_property
    def plans(self) -> list[Plan]:
        return plans_of(self.actor, self.bike.pk)
