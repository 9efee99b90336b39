"""The wished gears as a table. They grow with rings and wheel, so that one miss tells of many others."""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping
from typing import Any

from unkett.core.calc.gears import circumference
from unkett.core.engine import signs
from unkett.core.planning.slate import GEAR_READS, Group, Slate
from unkett.core.planning.table import Combination, Table, Ungeared
from unkett.core.planning.wish import GearsWanted, wheel_of

Box = dict[int, list[int]]  # by place of the slot the classes it spans; a slot left out is all the same


def gears_table(slate: Slate, wanted: GearsWanted) -> GearsTable:
    """Whether the wished gears are reached, over rings, sprockets and the rear wheel."""

    def evaluate(groups: Mapping[str, Group]) -> Hashable:
        return None if wanted.met_by(lambda slot: groups[slot].values or {}) else Ungeared()

    def sign(slot: str, group: Group) -> Hashable:
        teeth = (group.values or {}).get("teeth")
        return (min(teeth), max(teeth)) if teeth else signs(group.values or {}, False, GEAR_READS[slot])

    return GearsTable(slate, list(GEAR_READS), sign, evaluate).wishing(wanted)


class GearsTable(Table):
    """A table that tells whole boxes of combinations which miss what is wished."""

    _wanted = GearsWanted()

    def wishing(self, wanted: GearsWanted) -> GearsTable:
        self._wanted = wanted
        return self

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
        low, high = self._wanted.lowest_m_max, self._wanted.highest_m_min
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
        told: int | None = None
        for ring in sorted(set(ends["chainrings"].values()), reverse=sign < 0):
            cogs = set(ends["cassette"].values())
            fails = [cog for cog in cogs if sign * ring / cog * roll_out > sign * wanted_m]
            if not fails:
                continue
            cog = max(fails, key=lambda one: sign * one)
            if cog == told:
                continue  # the ring before says so too
            told = cog
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
        """The rims and tyres that are known to make a wheel as large; a rim without a size is taken alone."""
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
