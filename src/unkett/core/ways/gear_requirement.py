"""The wished gears as a table. They grow with rings and wheel, so that one miss tells of many others.

A development is a product, so that its logarithm is a sum over the slots: a bound on it tells the solver at once most
of what the table would tell it box by box.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Iterator, Mapping
from typing import Any

from unkett.core.calc.gears import circumference
from unkett.core.ways.domains import GEAR_READS, Domains, Group
from unkett.core.ways.outcome_table import Combination, OutcomeTable, Ungeared, by_groups
from unkett.core.ways.wish import GearsWanted, wheel_of

MILLIONTHS = 1_000_000  # logarithms are handed over in whole millionths
Bound = tuple[
    dict[str, list[int]], int
]  # by slot, by place of the group a weight; what they are at most together
Box = dict[int, list[int]]  # by place of the slot the classes it spans; a slot left out is all the same


def gear_requirement(domains: Domains, wanted: GearsWanted) -> GearRequirement:
    """Return whether the wished gears are reached, over rings, sprockets and the rear wheel."""

    def evaluate(groups: Mapping[str, Group]) -> Hashable:
        return None if wanted.met_by(lambda slot: groups[slot].values or {}) else Ungeared()

    def sign(slot: str, group: Group) -> Hashable:
        teeth = (group.values or {}).get("teeth")
        return (min(teeth), max(teeth)) if teeth else group.sign(GEAR_READS[slot])

    return GearRequirement(domains, GEAR_READS, sign, by_groups(evaluate)).wishing(domains, wanted)


class GearRequirement(OutcomeTable):
    """A table that tells whole boxes of combinations which miss what is wished."""

    _wanted = GearsWanted()
    _groups: Mapping[str, list[Group]]

    def wishing(self, domains: Domains, wanted: GearsWanted) -> GearRequirement:
        self._groups, self._required = domains.groups, wanted
        return self

    def bounds(self) -> Iterator[Bound]:
        """Sums that every way with the wished gears keeps: of the lowest gear, and of the highest turned round."""
        if self._required.lowest_m_max is not None:
            yield self._bounded(1, self._required.lowest_m_max)
        if self._required.highest_m_min is not None:
            yield self._bounded(-1, self._required.highest_m_min)

    def _bounded(self, sign: int, wanted_m: float) -> Bound:
        """ln ring - ln sprocket + ln wheel within ln of what is wanted, each slot by itself and on the safe side.

        Of bead seat d and tyre w, ln(d + 2w) = ln d + ln(1 + 2w/d); the tyre's share is taken on the seat with which
        it is least (sign -1: most). What has no figure is taken for the best there is.
        """
        end, other = (min, max) if sign > 0 else (max, min)
        seats = self._figures("rear_rim", _seat) + self._figures("rear_tyre", _seat)
        on_mm = other((mm for mm in seats if mm is not None), default=1.0)
        rings = self._figures("chainrings", lambda values: _of(end, values.get("teeth")))
        cogs = self._figures("cassette", lambda values: _of(other, values.get("teeth")))
        wide = self._figures(
            "rear_tyre", lambda values: wheel_of({"rear_tyre": values, "rear_rim": {}}.__getitem__)[1]
        )
        shares = {
            "chainrings": [_ln(ring, sign) for ring in rings],
            "cassette": [_ln(cog, -sign) for cog in cogs],
            "rear_rim": [_ln(mm, sign) for mm in self._figures("rear_rim", _seat)],
            "rear_tyre": [_ln(1 + 2 * mm / on_mm if mm is not None else None, sign) for mm in wide],
        }
        least = {
            slot: min((one for one in row if one is not None), default=0.0) for slot, row in shares.items()
        }
        least["rear_rim"] = min((ln for mm in seats if (ln := _ln(mm, sign)) is not None), default=0.0)
        most = sign * math.log(wanted_m * 1000 / math.pi) - sum(least.values())
        weights = {
            slot: [
                math.floor(MILLIONTHS * ((least[slot] if one is None else one) - least[slot])) for one in row
            ]
            for slot, row in shares.items()
        }
        return weights, math.ceil(MILLIONTHS * most)

    def _figures(self, slot: str, read: Callable[[Mapping[str, Any]], float | None]) -> list[float | None]:
        """Return by place of the group what is read of it."""
        return [read(group.values or {}) for group in self._groups[slot]]

    def boxes(self, combination: Combination) -> Iterator[Box]:
        """Boxes of combinations that all miss, among them the one given; without figures one class misses alone."""
        at = dict(zip(self.slots, combination, strict=True))
        values = {slot: self._values(slot, at.get(slot, 0)) for slot in GEAR_READS}
        unread = [slot for slot in ("chainrings", "cassette") if not values[slot].get("teeth")]
        unread += ["rear_hub"] if values["rear_hub"].get("internal_gears") else []
        bsd, width = wheel_of(values.__getitem__)
        unread += ["rear_rim", "rear_tyre"] if bsd is None or width is None else []
        if unread or bsd is None or width is None:
            yield {n: [combination[n]] for n, slot in enumerate(self.slots) if slot in unread}
            return
        roll_out = circumference(bsd_mm=bsd, tyre_mm=width) / 1000
        rings, cogs = values["chainrings"]["teeth"], values["cassette"]["teeth"]
        low, high = self._required.lowest_m_max, self._required.highest_m_min
        if low is not None and min(rings) / max(cogs) * roll_out > low:
            yield from self._misses(at, values, roll_out, low, 1)
        elif high is not None:
            yield from self._misses(at, values, roll_out, high, -1)

    def _values(self, slot: str, place: int) -> Mapping[str, Any]:
        group = self.classes[self.slots.index(slot)][place][0] if slot in self.slots else self.fixed[slot]
        return group.values or {}

    def _misses(
        self,
        at: Mapping[str, int],
        values: Mapping[str, Mapping[str, Any]],
        roll_out: float,
        wanted_m: float,
        sign: int,
    ) -> Iterator[Box]:
        """For each ring the sprockets with which it misses, on wheels as large or larger (sign -1: smaller).

        Too high a lowest gear (sign 1): the smallest ring on the largest sprocket, so larger rings on smaller ones.
        """
        ends = {slot: self._ends(slot, sign) for slot in ("chainrings", "cassette")}
        wheel = self._wheels(at, values, sign)
        cog_before: int | None = None
        for ring in sorted(set(ends["chainrings"].values()), reverse=sign < 0):
            cogs = set(ends["cassette"].values())
            fails = [cog for cog in cogs if sign * ring / cog * roll_out > sign * wanted_m]
            if not fails:
                continue
            cog = max(fails, key=lambda one: sign * one)
            if cog == cog_before:
                continue  # the ring before says so too
            cog_before = cog
            box = dict(wheel)
            for slot, limit, way in (("chainrings", ring, sign), ("cassette", cog, -sign)):
                if slot in self.slots:
                    fits = [place for place, teeth in ends[slot].items() if way * teeth >= way * limit]
                    box[self.slots.index(slot)] = fits
            yield box

    def _ends(self, slot: str, sign: int) -> dict[int, int]:
        """By class the teeth that decide: of rings the smallest, of sprockets the largest (sign -1: the others)."""
        smallest = (slot == "chainrings") == (sign > 0)
        places = range(len(self.classes[self.slots.index(slot)])) if slot in self.slots else [0]
        teeth = {place: self._values(slot, place).get("teeth") for place in places}
        return {place: (min if smallest else max)(row) for place, row in teeth.items() if row}

    def _wheels(self, at: Mapping[str, int], values: Mapping[str, Mapping[str, Any]], sign: int) -> Box:
        """Return the rims and tyres that are known to make a wheel as large; a rim without a size is taken alone."""
        box: Box = {}
        rim = values["rear_rim"].get("bsd_mm")
        bsd, width = wheel_of(values.__getitem__)
        assert bsd is not None
        assert width is not None
        if "rear_rim" in at:
            n = self.slots.index("rear_rim")
            sizes = [self._values("rear_rim", place).get("bsd_mm") for place in range(len(self.classes[n]))]
            box[n] = [
                place
                for place, size in enumerate(sizes)
                if (size is None if rim is None else size is not None and sign * size >= sign * rim)
            ]
        if "rear_tyre" in at:
            n = self.slots.index("rear_tyre")
            box[n] = []
            for place in range(len(self.classes[n])):
                tyre = {"rear_rim": {"bsd_mm": rim}, "rear_tyre": self._values("rear_tyre", place)}
                size, wide = wheel_of(tyre.__getitem__)
                if (
                    size is not None
                    and wide is not None
                    and sign * size >= sign * bsd
                    and sign * wide >= sign * width
                ):
                    box[n].append(place)
        return box


def _seat(values: Mapping[str, Any]) -> float | None:
    return values.get("bsd_mm")


def _of(end: Callable[[Any], float], teeth: Any) -> float | None:
    return end(teeth) if teeth else None


def _ln(value: float | None, sign: int) -> float | None:
    return None if value is None else sign * math.log(value)
