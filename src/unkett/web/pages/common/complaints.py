"""Complaints to choose on a page of a bike: by the rider's words, by words typed there, or from the list."""

from __future__ import annotations

from functools import cached_property

from attrs import frozen

from unkett.core.diagnose.asked import key_of
from unkett.core.diagnose.tables import ENDS, Complaint, shipped
from unkett.core.diagnose.words import end_in_words, sounds_like
from unkett.core.intake.inspection import AREAS
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.show.values import Shown
from unkett.web.workshop.permissions import may


@frozen(kw_only=True)
class Chip(Shown):
    """A complaint that may be chosen, with its key."""

    key: str
    title: str
    chosen: bool


@frozen(kw_only=True, slots=False)
class ComplaintsPage(BikePage):
    """A page on which complaints are chosen; `?words=` is what somebody looks for one by."""

    @property
    def typed(self) -> str:
        return str(self.asked.get("words", ""))[:200]

    @cached_property
    def offered_chips(self) -> list[Chip]:
        """Complaints that the rider's words, or those typed here, sound like; not those that are open already."""
        text = self.typed or ("" if self.complaints else self.bike.complaint)
        end = end_in_words(text)
        there = {one.complaint.code for one in self.complaints}
        return [
            chip
            for one in sounds_like(text, shipped())
            if one.code not in there
            for chip in self._chips(one, end)
        ]

    @cached_property
    def every_chip(self) -> list[tuple[str, list[Chip]]]:
        """Every complaint that is not open, by area."""
        there = {one.key for one in self.complaints}
        by_area: dict[str, list[Chip]] = {}
        for one in shipped().complaints.values():
            chips = [chip for chip in self._chips(one, None) if chip.key not in there]
            by_area.setdefault(AREAS[one.area], []).extend(chips)
        return list(by_area.items())

    @staticmethod
    def _chips(one: Complaint, end: str | None) -> list[Chip]:
        if not one.by_end:
            return [Chip(key=one.code, title=one.title, chosen=False)]
        ends = (end,) if end else ENDS
        return [Chip(key=key_of(one.code, at), title=f"{one.title}, {at}", chosen=False) for at in ends]

    @property
    def keys(self) -> list[str]:
        return [one.key for one in self.complaints]

    @property
    def may_do(self) -> bool:
        return may(self.actor, "change-bikes")
