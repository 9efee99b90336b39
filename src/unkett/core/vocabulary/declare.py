"""Short forms for declaring attributes: the name's ending gives the unit, the rest is said once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.errors import CoreError, Fault
from unkett.core.vocabulary.enums import DAMAGE, Enumeration
from unkett.core.vocabulary.types import (
    AttributeType,
    Bool,
    ByKey,
    Choice,
    Code,
    Either,
    ListOf,
    Number,
    Pair,
    Record,
    Whole,
)

UNITS = {
    "mm": "mm",
    "deg": "°",
    "nm": "Nm",
    "g": "g",
    "bar": "bar",
    "min": "min",
    "km": "km",
    "rpm": "rpm",
    "pct": "%",
    "teeth": "teeth",
    "kg": "kg",
}
LENGTH_MAX_MM = 3500.0


def unit_of(kind: AttributeType) -> str:
    """Return the unit of a type, or of what it is a list or a pair of."""
    if isinstance(kind, (ListOf, Pair)):
        return unit_of(kind.item)
    if isinstance(kind, Either):
        return unit_of(kind.one)
    return kind.unit if isinstance(kind, (Number, Whole)) else ""


@frozen(kw_only=True)
class Attribute:
    """One dimension or code of a part: its type, how it is measured and what is usually met.

    `unstated` says in words what holds where a maker prints nothing; such a figure is no reading.
    """

    name: str
    title: str
    type: AttributeType
    how: str
    usual: tuple[Any, ...] = ()
    unstated: str = ""

    @property
    def unit(self) -> str:
        """The unit shown beside the value; empty for codes and counts."""
        return unit_of(self.type)

    def unlikely(self, value: Any) -> bool:
        """Return whether a single reading lies far from what is usually met: further out than half the usual spread.

        The spread is at least a quarter of the largest usual value. Without usual values nothing is
        unlikely, and lists and codes never are: they are counted or chosen, not mistyped by a digit.
        """
        numbers = [figure for figure in self.usual if isinstance(figure, (int, float))]
        if not numbers or isinstance(value, bool) or not isinstance(value, (int, float)):
            return False
        low, high = min(numbers), max(numbers)
        room = max(high - low, abs(high) / 4, abs(low) / 4) / 2
        return not low - room <= value <= high + room

    def doubt(self, value: Any, path: str) -> Fault | None:
        """Return the fault of a reading that is unlikely, or None."""
        if not self.unlikely(value):
            return None
        usual = [figure for figure in self.usual if isinstance(figure, (int, float))]
        says = f"Check this reading: {value:g} {self.unit}."
        return Fault(
            path=path,
            says=f"{says} Usual: {min(usual):g} to {max(usual):g} {self.unit}.",
            unlikely=True,
        )


@frozen(kw_only=True)
class Derived:
    """A value that rules read like an attribute and that is worked out from a part's own attributes.

    `of` names them, the one that is asked for first; `op` is put before a wish's operator on it
    (`max` of `teeth`: `max<=`). `helped_by` names those that may tell it too and are never asked for. The function gets
    the part's attributes and answers None where they do not tell.
    """

    name: str
    of: tuple[str, ...]
    function: Callable[[Mapping[str, Any]], Any]
    op: str = ""
    helped_by: tuple[str, ...] = ()


@frozen(kw_only=True)
class Kind:
    """A sort of part, the attributes it may carry and what is derived from them."""

    name: str
    title: str
    attributes: dict[str, Attribute] = field(repr=False)
    derived: dict[str, Derived] = field(factory=dict, repr=False)

    def read(self, attrs: Mapping[str, Any]) -> Mapping[str, Any]:
        """A part's attributes with what is derived from them, as rules read them."""
        if not self.derived:
            return attrs
        known = ((name, derived_value.function(attrs)) for name, derived_value in self.derived.items())
        return {**attrs, **{name: value for name, value in known if value is not None}}


DAMAGE_HOW = (
    "Clean it, look and feel along it under a lamp: cracks, "
    "dents, bends, leaks, threads. Nothing found is an answer."
)


def kind(
    name: str, title: str, *attributes: Attribute, derived: tuple[Derived, ...] = (), part: bool = True
) -> Kind:
    """Declare a kind; every part may carry damage. Raises CoreError when a name is declared twice."""
    declared = (
        [*attributes, choices("damage", "Damage", DAMAGE_HOW, DAMAGE, least=0)] if part else [*attributes]
    )
    by_name = {attribute.name: attribute for attribute in declared}
    own = {derived_value.name: derived_value for derived_value in derived}
    if len({**by_name, **own}) != len(declared) + len(derived):
        raise CoreError(f"kind {name}: a name is declared twice")
    return Kind(name=name, title=title, attributes=by_name, derived=own)


def largest(name: str, of: str) -> Derived:
    """Return the largest of a list."""
    return Derived(
        name=name, of=(of,), op="max", function=lambda attrs: max(attrs[of]) if attrs.get(of) else None
    )


def smallest(name: str, of: str) -> Derived:
    """Return the smallest of a list."""
    return Derived(
        name=name, of=(of,), op="min", function=lambda attrs: min(attrs[of]) if attrs.get(of) else None
    )


def counted(name: str, of: str) -> Derived:
    """Return how many a list holds."""
    return Derived(
        name=name, of=(of,), op="len", function=lambda attrs: len(attrs[of]) if attrs.get(of) else None
    )


def mm(name: str, title: str, how: str, *usual: float, signed: bool = False) -> Attribute:
    """Return a length, 0 to 3500 mm; `signed` lets it be negative (an offset)."""
    low = -LENGTH_MAX_MM if signed else 0.0
    return Attribute(
        name=name, title=title, how=how, usual=usual, type=Number(unit="mm", low=low, high=LENGTH_MAX_MM)
    )


def mm_list(name: str, title: str, how: str, *usual: float, signed: bool = False) -> Attribute:
    low = -LENGTH_MAX_MM if signed else 0.0
    item = Number(unit="mm", low=low, high=LENGTH_MAX_MM)
    return Attribute(name=name, title=title, how=how, usual=usual, type=ListOf(item=item))


def mm_pair(name: str, title: str, how: str, *usual: float) -> Attribute:
    item = Number(unit="mm", low=0.0, high=LENGTH_MAX_MM)
    return Attribute(name=name, title=title, how=how, usual=usual, type=Pair(item=item))


def mm_by_bsd(name: str, title: str, how: str, *usual: float) -> Attribute:
    """Return a width per rim size: {"622": 42}."""
    by_bsd = ByKey(key=Whole(unit="mm", low=100, high=800), value=Number(unit="mm", low=0, high=200))
    return Attribute(name=name, title=title, how=how, usual=usual, type=by_bsd)


def number(name: str, title: str, how: str, low: float, high: float, *usual: float) -> Attribute:
    ending = UNITS.get(name.rsplit("_", 1)[-1], "")
    return Attribute(
        name=name, title=title, how=how, usual=usual, type=Number(unit=ending, low=low, high=high)
    )


def number_list(
    name: str, title: str, how: str, low: float, high: float, *usual: float, least: int = 1
) -> Attribute:
    ending = UNITS.get(name.rsplit("_", 1)[-1], "")
    item = Number(unit=ending, low=low, high=high)
    return Attribute(name=name, title=title, how=how, usual=usual, type=ListOf(item=item, least=least))


def torque(name: str, title: str, how: str) -> Attribute:
    """Return a torque, one figure or a printed range, 0 to 200 Nm."""
    item = Number(unit="Nm", low=0.0, high=200.0)
    return Attribute(name=name, title=title, how=how, type=Either(one=item, other=Pair(item=item)))


def unless_printed(attribute: Attribute, says: str) -> Attribute:
    """Return an attribute whose absence has a meaning of its own, since makers print only what differs from it."""
    return evolve(attribute, unstated=says)


def whole(
    name: str, title: str, how: str, low: int, high: int, *usual: int, unit: str = "", even: bool = False
) -> Attribute:
    return Attribute(
        name=name, title=title, how=how, usual=usual, type=Whole(unit=unit, low=low, high=high, even=even)
    )


def whole_list(
    name: str,
    title: str,
    how: str,
    low: int,
    high: int,
    *usual: int,
    unit: str = "",
    order: str | None = None,
) -> Attribute:
    item = Whole(unit=unit, low=low, high=high)
    kind = ListOf(item=item, order=order, row=order == "ascending")
    return Attribute(name=name, title=title, how=how, usual=usual, type=kind)


def yes_no(name: str, title: str, how: str) -> Attribute:
    return Attribute(name=name, title=title, how=how, type=Bool())


def choice(name: str, title: str, how: str, of: Enumeration) -> Attribute:
    return Attribute(name=name, title=title, how=how, type=Choice(of=of))


def choices(name: str, title: str, how: str, of: Enumeration, least: int = 1) -> Attribute:
    return Attribute(name=name, title=title, how=how, type=ListOf(item=Choice(of=of), least=least))


def choice_by_ring(name: str, title: str, how: str, of: Enumeration) -> Attribute:
    """One code, or a list of codes by ring, largest ring first."""
    one = Choice(of=of)
    return Attribute(name=name, title=title, how=how, type=Either(one=one, other=ListOf(item=one, most=4)))


def places(name: str, title: str, how: str) -> Attribute:
    """Named points in millimetres: a row of a name and three coordinates each."""
    item = Number(unit="mm", low=-LENGTH_MAX_MM, high=LENGTH_MAX_MM)
    at = Record(fields={"point": Code(), "forward_mm": item, "up_mm": item, "right_mm": item})
    return Attribute(name=name, title=title, how=how, type=ListOf(item=at, least=1, most=30))


def code(name: str, title: str, how: str) -> Attribute:
    return Attribute(name=name, title=title, how=how, type=Code())


def sizes(name: str, title: str, how: str) -> Attribute:
    """Sizes of bearings as they are printed: inner × outer × width, `15x28x7`."""
    size = Code(form="inner x outer x width such as 15x28x7", pattern=r"\d{1,3}x\d{1,3}x\d{1,2}(?:\.\d)?")
    return Attribute(name=name, title=title, how=how, type=ListOf(item=size))


def headset_code(name: str, title: str) -> Attribute:
    """Return a headset identification code, bare (ZS44) or with what it carries (ZS44/28.6)."""
    form = "a headset code such as ZS44 or ZS44/28.6 (EC, ZS or IS, the bore, then what it carries)"
    pattern = r"(EC|ZS|IS)\d{2}(\.\d)?(/\d{2}(\.\d)?)?"
    how = "Bore of the head tube with the caliper; cup outside (EC), flush (ZS) or bearing in the frame (IS)."
    return Attribute(
        name=name, title=title, how=how, type=Code(form=form, pattern=pattern, upper=("EC", "ZS", "IS"))
    )
