"""Slots, kinds, attributes and enumerations, declared once.

`KINDS` and `SLOTS` are the tables everything else looks in; `describe` gives an attribute with
its title, unit, range, usual values and how it is measured.
"""

from __future__ import annotations

from enum import Enum

from attrs import evolve, frozen

from unkett.core.standards.columns import refers
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import Attribute, Derived, Kind, choice, kind, mm, number
from unkett.core.vocabulary.double_readings import misread_of
from unkett.core.vocabulary.kinds_cockpit import COCKPIT_KINDS
from unkett.core.vocabulary.kinds_drive import DRIVE_KINDS
from unkett.core.vocabulary.kinds_fittings import FITTING_KINDS
from unkett.core.vocabulary.kinds_frame import FRAME_KINDS
from unkett.core.vocabulary.kinds_suspension import SUSPENSION_KINDS
from unkett.core.vocabulary.kinds_wheel import WHEEL_AND_BRAKE_KINDS

__all__ = [
    "BIKE",
    "KINDS",
    "SLOTS",
    "Area",
    "Attribute",
    "Derived",
    "Kind",
    "Slot",
    "describe",
    "enums",
    "kind_of",
    "measured_by",
    "slots_of_kind",
]


class Area(Enum):
    """The parts of the work, in the order a mechanic looks at a bike."""

    DRIVETRAIN = "Drivetrain"
    BRACKET = "Bracket"
    BRAKES = "Brakes"
    WHEELS = "Wheels"
    STEERING = "Steering"
    SEAT = "Seat"

    order: int


for _n, _area in enumerate(Area):
    _area.order = _n


@frozen(kw_only=True)
class Slot:
    """A place on the bike that one part fills."""

    name: str
    kind: str
    area: Area
    title: str


def _read_twice(declared: Kind) -> Kind:
    """Return a kind with the derived value that tells which of its readings do not agree."""
    misread = misread_of(declared.name)
    if misread is None:
        return declared
    return evolve(declared, derived={**declared.derived, misread.name: misread})


KINDS: dict[str, Kind] = {
    k.name: _read_twice(k)
    for k in (
        *FRAME_KINDS,
        *COCKPIT_KINDS,
        *DRIVE_KINDS,
        *WHEEL_AND_BRAKE_KINDS,
        *FITTING_KINDS,
        *SUSPENSION_KINDS,
    )
}

# What a rule may ask of the bike as a whole; not a part, so not in KINDS.
BIKE = kind(
    "bike",
    "Bike and rider",
    choice("use", "Use", "What the bike is for.", enums.USE),
    number("mass_kg", "Rider's mass", "Ask.", 0, 300, 50, 110),
    number("load_kg", "Load", "Ask: bags, boxes, children.", 0, 500, 0, 100),
    mm("hand_span_mm", "Hand span", "Web of the thumb to the first joint of the forefinger.", 60, 110),
    mm("saddle_height_mm", "Saddle height", "Bracket centre to saddle top along the seat tube.", 550, 850),
    choice("front_hand", "Front brake's hand", "Which hand works the front brake.", enums.HAND),
    choice("rear_hand", "Rear brake's hand", "Which hand works the rear brake.", enums.HAND),
    part=False,
)

_AREAS: dict[Area, tuple[str, ...]] = {
    Area.DRIVETRAIN: (
        "cassette", "rear_derailleur", "rear_shifter", "rear_shift_line", "chain", "chainrings",
        "front_derailleur", "front_shifter", "front_shift_line", "chain_guide", "motor", "derailleur_hanger",
        "battery", "belt",
    ),
    Area.BRACKET: (
        "bottom_bracket", "bracket_bearings", "crank", "pedals", "cleats", "captain_bracket", "captain_crank",
        "timing_rings", "timing_chain",
    ),
    Area.BRAKES: (
        "front_brake_lever", "front_brake_line", "front_caliper", "front_brake_adapter", "front_rotor",
        "rear_brake_lever", "rear_brake_line", "rear_caliper", "rear_brake_adapter", "rear_rotor",
    ),
    Area.WHEELS: (
        "front_hub", "front_spokes", "front_rim", "front_tyre",
        "rear_hub", "rear_spokes", "rear_rim", "rear_tyre", "front_axle", "rear_axle", "front_hub_bearings",
        "rear_hub_bearings", "front_valve", "rear_valve", "front_mudguard", "rear_mudguard", "front_rack", "rear_rack",
        "front_light", "rear_light",
    ),
    Area.STEERING: (
        "frame", "fork", "headset", "spacers", "stem", "handlebar", "grips", "shock", "shock_spring",
        "linkage",
    ),
    Area.SEAT: ("seatpost", "seat_clamp", "saddle", "dropper_lever", "dropper_line"),
}  # fmt: skip
_OWN_KIND = {"front_derailleur", "rear_derailleur"}
_CAPTAIN = {"captain_bracket": "bottom_bracket", "captain_crank": "crank"}  # a tandem's front pair


def _slot(name: str, area: Area) -> Slot:
    if name in _CAPTAIN:
        kind = _CAPTAIN[name]
        return Slot(name=name, kind=kind, area=area, title=f"Captain's {KINDS[kind].title.lower()}")
    end, _, rest = name.partition("_")
    if end not in ("front", "rear") or name in _OWN_KIND:
        return Slot(name=name, kind=name, area=area, title=KINDS[name].title)
    title = f"{end.capitalize()} {KINDS[rest].title.lower()}"
    return Slot(name=name, kind=rest, area=area, title=title)


SLOTS: dict[str, Slot] = {name: _slot(name, area) for area, names in _AREAS.items() for name in names}


def title_of(slot: str) -> str:
    """Return what a slot is called, or the bike as a whole. KeyError for an unknown slot."""
    return "Bike" if slot == "bike" else SLOTS[slot].title


def slots_of_kind(kind_name: str) -> tuple[Slot, ...]:
    """Return the slots that a part of this kind may fill."""
    return tuple(slot for slot in SLOTS.values() if slot.kind == kind_name)


def kind_of(slot: str) -> Kind:
    """Return the kind of part that a slot holds; the bike's own for 'bike'. KeyError for unknown slots."""
    return BIKE if slot == "bike" else KINDS[SLOTS[slot].kind]


def describe(slot: str, attribute: str) -> Attribute:
    """Return the declaration of an attribute of the part in `slot` (or of 'bike'). KeyError for unknown names."""
    return kind_of(slot).attributes[attribute]


def measured_by(slot: str, name: str) -> tuple[str, ...]:
    """Return the attributes behind a name that a rule reads: its own, or those a derived value is worked out from."""
    derived = kind_of(slot).derived.get(name)
    return (name,) if derived is None else (*derived.of, *derived.helped_by)


def _is_slot(name: str) -> bool:
    """Return whether a table may say this for a slot: `{end}` stands for front and rear."""
    return name == "bike" or name in SLOTS or ("{end}" in name and name.replace("{end}", "front") in SLOTS)


refers("slot", _is_slot)
refers("kind", KINDS.__contains__)
for _codes in vars(enums).values():
    if isinstance(_codes, enums.Enumeration):
        refers(f"code {_codes.name}", _codes.has)
