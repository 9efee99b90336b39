"""The parts of a joint by role: which slot, whether it must be there, what it calls its attributes."""

from __future__ import annotations

from collections.abc import Mapping

from attrs import evolve, field, frozen

from unkett.core.rules.view import View

REQUIRED = "required"  # the rule says nothing but a No-go of the others until a part is there
OPTIONAL = "optional"  # read where a part is there


@frozen(kw_only=True)
class Role:
    """A part of a joint: its slot, how it counts and the slot's own names of what the role calls otherwise."""

    slot: str
    presence: str = REQUIRED
    names: Mapping[str, str] = field(factory=dict)

    def own(self, name: str) -> str:
        """Return the slot's own name of an attribute that the role calls `name`."""
        return self.names.get(name, name)


def required(slot: str, **names: str) -> Role:
    """Return a part that must be there; `works="mode"` reads the slot's `mode` under the role's name `works`."""
    return Role(slot=slot, names=names)


def optional(slot: str, **names: str) -> Role:
    """Return a part that is read where it is recorded; where it is not, nothing is asked for."""
    return Role(slot=slot, presence=OPTIONAL, names=names)


BIKE = Role(slot="bike")


Parts = Mapping[str, "Role | str"]


ENDS = ("front", "rear")


def both_ends(joint: str) -> tuple[str, ...]:
    """Return the names of a joint that there is at both wheels."""
    return tuple(f"{end}_{joint}" for end in ENDS)


def at_both_ends(**roles: Role | str | Mapping[str, Role]) -> tuple[Parts, ...]:
    """Return the same parts at both wheels: slots written `{end}_hub`, or one role per end."""
    places = []
    for end in ENDS:
        here: dict[str, Role] = {}
        for name, given in roles.items():
            one = given if isinstance(given, (Role, str)) else given[end]
            one = Role(slot=one) if isinstance(one, str) else one
            here[name] = Role(slot=one.slot.replace("{end}", end), presence=one.presence, names=one.names)
        places.append(here)
    return tuple(places)


CAPTAIN = {"crank": "captain_crank", "bottom_bracket": "captain_bracket"}


def at_both_brackets(**roles: Role | str) -> tuple[Parts, ...]:
    """Return the same parts at the bracket and, of a tandem, at the captain's."""
    here = {name: Role(slot=given) if isinstance(given, str) else given for name, given in roles.items()}
    captain = {name: evolve(role, slot=CAPTAIN.get(role.slot, role.slot)) for name, role in here.items()}
    return here, captain


_REAR = {
    "brake_mount": "rear_brake_mount",
    "native_rotor_mm": "rear_native_rotor_mm",
    "rotor_max_mm": "rear_rotor_max_mm",
    "bridge_radius_mm": "rear_bridge_radius_mm",
    "post_bsd_mm": "rear_post_bsd_mm",
    "axle_kind": "rear_axle_kind",
    "axle_dia_mm": "rear_axle_dia_mm",
    "axle_length_mm": "rear_axle_length_mm",
    "axle_thread_pitch_mm": "rear_axle_thread_pitch_mm",
    "axle_head": "rear_axle_head",
    "spacing_mm": "rear_spacing_mm",
}


HOLDER: Mapping[str, Role] = {
    "front": required("fork"),
    "rear": required("frame", **_REAR),
}  # what carries a wheel


def end_of(view: View) -> str:
    """Return the end of the bike that a holder or a wheel's part is at."""
    return "front" if view.slot == "fork" or view.slot.startswith("front_") else "rear"
