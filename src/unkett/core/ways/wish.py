"""What is asked of the search for ways: the bike, the wish and the shelf."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

from attrs import field, frozen

from unkett.core.build import Build, Part, bead_seat_from, part_attrs_for, tyre_width_from
from unkett.core.calc.gears import circumference
from unkett.core.settings import DEFAULTS, Settings

FORMAT = "unkett.wish/1"
KEYS: dict[str, tuple[str, ...]] = {
    "cheapest": ("price", "count", "minutes", "days"),
    "fewest": ("count", "price", "minutes", "days"),
    "soonest": ("days", "price", "count", "minutes"),
    "lightest": ("grams", "price", "count", "minutes"),
    "bin": ("not_from_bin", "price", "count", "minutes"),
}  # by what is best, what ways are compared by in turn, smaller first; ids come last
BEST = tuple(KEYS)
WHERE_FROM = ("bin", "stock", "supplier")
PLAIN_OPS = ("==", "!=", "<=", ">=", "in")
LIST_OPS = ("max<=", "max>=", "min<=", "min>=", "len==", "has")
Met = Callable[[Any, Any], bool]

_MET: dict[str, Met] = {
    "==": lambda has, value: bool(has == value),
    "!=": lambda has, value: bool(has != value),
    "<=": lambda has, value: bool(has <= value),
    ">=": lambda has, value: bool(has >= value),
    "in": lambda has, value: has in value,
    "has": lambda has, value: value in has,
}
_OF_LIST: dict[str, Callable[[Any], Any]] = {"max": max, "min": min, "len": len}


@frozen(kw_only=True)
class Requirement:
    """A property that the part in a slot must state. `op` is a plain one, `has`, or a plain one of a list's `max`,
    `min` or `len`.
    """

    slot: str
    attr: str
    op: str
    value: Any

    def met_by(self, attrs: Mapping[str, Any]) -> bool:
        """Return whether a part with these attributes meets it; one that does not state the attribute does not."""
        has = attrs.get(self.attr)
        if has is None:
            return False
        of_list, op = _OF_LIST.get(self.op[:3]), self.op
        if (of_list or op == "has") and not isinstance(has, tuple):
            has = (has,)
        if of_list is not None:
            if not has:
                return False
            has, op = of_list(has), op[3:]
        return _MET[op](has, self.value)


@frozen(kw_only=True)
class GearsWanted:
    """The lowest and the highest development wanted, in m; None where it is all the same."""

    lowest_m_max: float | None = None
    highest_m_min: float | None = None

    def met_by(self, attrs_in: Callable[[str], Mapping[str, Any]]) -> bool:
        """Whether rings, sprockets and rear wheel reach both; not where a size of them is unknown or the hub has gears.

        A hub's gears have their maker's ratios, which no reading tells.
        """
        rings, sprockets = attrs_in("chainrings").get("teeth"), attrs_in("cassette").get("teeth")
        bsd, width = wheel_of(attrs_in)
        if not rings or not sprockets or bsd is None or width is None:
            return False
        if attrs_in("rear_hub").get("internal_gears"):
            return False
        roll_out = circumference(bsd_mm=bsd, tyre_mm=width)
        low = min(rings) / max(sprockets) * roll_out / 1000
        high = max(rings) / min(sprockets) * roll_out / 1000
        return (self.lowest_m_max is None or low <= self.lowest_m_max) and (
            self.highest_m_min is None or high >= self.highest_m_min
        )


def wheel_of(attrs_in: Callable[[str], Mapping[str, Any]]) -> tuple[float | None, float | None]:
    """Return a rear wheel's bead seat and tyre width in mm; None where they are not known."""

    def first(sources: tuple[tuple[str, str], ...]) -> float | None:
        found = (attrs_in(slot).get(name) for slot, name in sources)
        return next((value for value in found if value is not None), None)

    return first(bead_seat_from("rear")), first(tyre_width_from("rear"))


@frozen(kw_only=True)
class Wish:
    """What the bike should be. Money is in hundredths, whole."""

    require: tuple[Requirement, ...] = ()
    keep: tuple[str, ...] = ()
    fit: tuple[str, ...] = ()
    empty: tuple[str, ...] = ()
    gears: GearsWanted | None = None
    price_max: int | None = None
    ready_in_days_max: int | None = None
    allow_unmeasured: bool = False


@frozen(kw_only=True)
class ShelfPart:
    """A part that may go on: where it may go, what it costs in money (hundredths), minutes, days and grams.

    A part that is not `priced` has an estimate for a price, by which ways are compared and never charged.
    """

    id: str
    slots: tuple[str, ...]
    part: Part = field(eq=False)
    price: int = 0
    minutes: int = 0
    days: int = 0
    grams: int = 0
    source: str = "stock"
    count: int = 1
    priced: bool = True

    @property
    def from_bin(self) -> bool:
        return self.source == "bin"


@frozen(kw_only=True)
class Effort:
    """What something costs: money in hundredths, and minutes."""

    price: int = 0
    minutes: int = 0

    def __add__(self, other: Effort) -> Effort:
        return Effort(price=self.price + other.price, minutes=self.minutes + other.minutes)

    def objective(self, labour_per_hour: int) -> Fraction:
        """Money with the labour of its minutes, in hundredths."""
        return self.price + Fraction(self.minutes * labour_per_hour, 60)

    def rounded(self, labour_per_hour: int) -> int:
        """Return the same, rounded half up to whole hundredths."""
        return (60 * self.price + self.minutes * labour_per_hour + 30) // 60


@frozen(kw_only=True)
class Question:
    """A bike, a wish, a shelf, and what things cost. Money is in hundredths."""

    build: Build
    wish: Wish = field(factory=Wish)
    shelf: tuple[ShelfPart, ...] = ()
    needs: Mapping[str, Effort] = field(factory=dict)
    stands_g: Mapping[str, int] = field(factory=dict)
    take_off_minutes: int = 0
    labour_per_hour: int = 0
    best: tuple[str, ...] = ("cheapest",)
    more: int = 0
    seconds: float = 10.0
    settings: Settings = DEFAULTS

    def holders(self) -> dict[str, str]:
        """For every filled slot the slot by which its part is named."""
        return {taken: slot for slot, part in self.build.parts.items() for taken in (slot, *part.also)}


def attrs_reader(build: Build) -> Callable[[str], Mapping[str, Any]]:
    """Return the attributes of the part in a slot of a build; nothing where none stands."""
    filled = build.filled()
    return lambda slot: part_attrs_for(slot, filled[slot]) if slot in filled else {}
