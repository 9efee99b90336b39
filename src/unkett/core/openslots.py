"""Which slots a complete bike of this sort would still want filled."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.build import Build, part_attrs_for
from unkett.core.vocabulary import SLOTS

_EVERY_BIKE = (
    "frame", "fork", "headset", "stem", "handlebar", "seatpost", "saddle", "bottom_bracket", "crank",
    "chainrings", "chain", "cassette", "pedals", "front_hub", "rear_hub", "front_rim", "rear_rim",
    "front_tyre", "rear_tyre", "front_spokes", "rear_spokes",
)  # fmt: skip
_BRAKE = ("brake_lever", "brake_line", "caliper")
_DISC_MOUNTS = ("is", "post", "flat")
_ONE_SPROCKET_MOUNTS = ("fixed_threaded", "single_cog", "bmx_threaded")


def _wants_derailleur(use: str | None, cassette: Mapping[str, Any], filled: set[str]) -> bool:
    if use == "track":
        return False
    if cassette.get("mount") in _ONE_SPROCKET_MOUNTS or len(cassette.get("teeth") or ()) == 1:
        return False
    return use != "kids" or "cassette" not in filled or len(cassette.get("teeth") or ()) > 1


def open_slots(build: Build) -> tuple[str, ...]:
    """The empty slots that a complete bike of this use would fill, in slot order.

    A track bike wants neither derailleurs nor brakes; a single sprocket wants no shifting; a front
    derailleur is wanted from two rings up; a rotor where the brake or the mount is a disc's.
    """
    filled = build.filled()
    attrs = {slot: part_attrs_for(slot, part) for slot, part in filled.items()}

    def get(slot: str, attr: str) -> Any:
        return attrs.get(slot, {}).get(attr)

    wanted = set(_EVERY_BIKE)
    if _wants_derailleur(build.use, attrs.get("cassette", {}), set(filled)):
        wanted |= {"rear_derailleur", "rear_shifter"}
        if get("rear_derailleur", "actuation") != "electronic":
            wanted.add("rear_shift_line")
    if build.use != "track" and len(get("chainrings", "teeth") or ()) > 1:
        wanted |= {"front_derailleur", "front_shifter"}
        if get("front_derailleur", "actuation") != "electronic":
            wanted.add("front_shift_line")
    if build.use != "track":
        wanted |= _brake_slots(get)
    if get("frame", "shock_eye_to_eye_mm") or get("frame", "wheel_travel_mm"):
        wanted.add("shock")
    return tuple(slot for slot in SLOTS if slot in wanted and slot not in filled)


def _brake_slots(get: Any) -> set[str]:
    wanted = set()
    for end, mount in (("front", get("fork", "brake_mount")), ("rear", get("frame", "rear_brake_mount"))):
        wanted |= {f"{end}_{name}" for name in _BRAKE}
        brake = get(f"{end}_caliper", "type")
        if brake == "disc" or (brake is None and mount in _DISC_MOUNTS):
            wanted.add(f"{end}_rotor")
    return wanted
