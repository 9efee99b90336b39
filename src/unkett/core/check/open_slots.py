"""Which slots a complete bike of this sort would still want filled.

Each want is declared with what it reads, as a clause of a rule is: words `slot.name` for a value (None where it
is not known) and `slot` for whether a part stands there.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.errors import CoreError
from unkett.core.standards import disc_mounts
from unkett.core.vocabulary import SLOTS, kind_of

Values = Mapping[str, Any]


@frozen(kw_only=True)
class Want:
    """Slots that a bike wants filled where `when`, over what it reads, says so."""

    slots: tuple[str, ...]
    reads: tuple[str, ...] = ()
    when: Callable[[Values], bool] = lambda _values: True


_DISC_MOUNTS = disc_mounts()
_ONE_SPROCKET_MOUNTS = ("fixed_threaded", "single_cog", "bmx_threaded")


def _shifts_by_derailleur(v: Values) -> bool:
    """Return a track bike, a lone sprocket, a gear hub and a child's bike with one gear want none."""
    if v["bike.use"] == "track" or v["rear_hub.internal_gears"]:
        return False
    if v["cassette.mount"] in _ONE_SPROCKET_MOUNTS or v["cassette.sprockets"] == 1:
        return False
    return v["bike.use"] != "kids" or not v["cassette"] or (v["cassette.sprockets"] or 0) > 1


_DERAILLEUR = ("bike.use", "rear_hub.internal_gears", "cassette.mount", "cassette.sprockets", "cassette")


def _rotor(end: str, mount: str) -> Want:
    brake = f"{end}_caliper.type"

    def disc(v: Values) -> bool:
        by_mount = v[brake] is None and v[mount] in _DISC_MOUNTS
        return v["bike.use"] != "track" and (v[brake] == "disc" or by_mount)

    return Want(slots=(f"{end}_rotor",), reads=("bike.use", brake, mount), when=disc)


WANTS: tuple[Want, ...] = (
    Want(
        slots=(
            "frame", "fork", "headset", "stem", "handlebar", "seatpost", "saddle", "crank", "chainrings", "chain",
            "cassette", "pedals", "front_hub", "rear_hub", "front_rim", "rear_rim", "front_tyre", "rear_tyre",
            "front_spokes", "rear_spokes",
        )
    ),
    Want(slots=("bottom_bracket",), reads=("motor.type",), when=lambda v: v["motor.type"] != "mid_bracket"),
    Want(slots=("rear_derailleur", "rear_shifter"), reads=_DERAILLEUR, when=_shifts_by_derailleur),
    Want(
        slots=("rear_shift_line",),
        reads=(*_DERAILLEUR, "rear_derailleur.actuation"),
        when=lambda v: _shifts_by_derailleur(v) and v["rear_derailleur.actuation"] != "electronic",
    ),
    Want(
        slots=("rear_shifter", "rear_shift_line"),
        reads=("rear_hub.internal_gears", "rear_shifter.mode"),
        when=lambda v: bool(v["rear_hub.internal_gears"]) and v["rear_shifter.mode"] != "electronic",
    ),
    Want(
        slots=("front_derailleur", "front_shifter"),
        reads=("bike.use", "chainrings.count"),
        when=lambda v: v["bike.use"] != "track" and (v["chainrings.count"] or 0) > 1,
    ),
    Want(
        slots=("front_shift_line",),
        reads=("bike.use", "chainrings.count", "front_derailleur.actuation"),
        when=lambda v: v["bike.use"] != "track"
        and (v["chainrings.count"] or 0) > 1
        and v["front_derailleur.actuation"] != "electronic",
    ),
    Want(
        slots=tuple(f"{end}_{part}" for end in ("front", "rear") for part in ("brake_lever", "brake_line", "caliper")),
        reads=("bike.use",),
        when=lambda v: v["bike.use"] != "track",
    ),
    _rotor("front", "fork.brake_mount"),
    _rotor("rear", "frame.rear_brake_mount"),
    Want(
        slots=("shock",),
        reads=("frame.shock_eye_to_eye_mm", "frame.wheel_travel_mm"),
        when=lambda v: bool(v["frame.shock_eye_to_eye_mm"] or v["frame.wheel_travel_mm"]),
    ),
    Want(
        slots=("dropper_lever",),
        reads=("seatpost.dropper_travel_mm",),
        when=lambda v: bool(v["seatpost.dropper_travel_mm"]),
    ),
    Want(
        slots=("dropper_line",),
        reads=("seatpost.dropper_travel_mm", "seatpost.actuation"),
        when=lambda v: bool(v["seatpost.dropper_travel_mm"]) and v["seatpost.actuation"] != "electronic",
    ),
)  # fmt: skip


def _check(wants: tuple[Want, ...]) -> None:
    for word in {word for want in wants for word in want.reads}:
        slot, _, name = word.partition(".")
        if slot not in SLOTS and slot != "bike":
            raise CoreError(f"open slots: unknown slot {slot}")
        declared = kind_of(slot)
        if name and name not in declared.attributes and name not in declared.derived:
            raise CoreError(f"open slots: {slot} has no attribute {name}")


_check(WANTS)

READS = tuple(sorted({word for want in WANTS for word in want.reads}))


def wanted_slots(build: Build) -> tuple[str, ...]:
    """The slots that a complete bike of this sort and use fills, in slot order, whether or not they are filled."""
    filled = build.filled()
    parts: dict[str, Values] = {"bike": build.bike_attrs()}
    values: dict[str, Any] = {}
    for word in READS:
        slot, _, name = word.partition(".")
        if slot in filled and slot not in parts:
            parts[slot] = kind_of(slot).read(part_attrs_for(slot, filled[slot]))
        values[word] = parts.get(slot, {}).get(name) if name else slot in filled
    wanted = {slot for want in WANTS if want.when(values) for slot in want.slots}
    return tuple(slot for slot in SLOTS if slot in wanted)


def open_slots(build: Build) -> tuple[str, ...]:
    """Return the slots that a complete bike of this use would fill; filled and known-empty ones are left out."""
    filled = build.filled()
    return tuple(slot for slot in wanted_slots(build) if slot not in filled and slot not in build.empty)
