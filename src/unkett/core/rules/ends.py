"""What carries a wheel at each end: the fork in front, the frame behind, under one set of role names."""

from __future__ import annotations

from unkett.core.rules.base import Reads, at, optional

_REAR = {
    "brake_mount": "rear_brake_mount",
    "native_rotor_mm": "rear_native_rotor_mm",
    "rotor_max_mm": "rear_rotor_max_mm",
    "bridge_radius_mm": "rear_bridge_radius_mm",
    "post_bsd_mm": "rear_post_bsd_mm",
    "axle_kind": "rear_axle_kind",
    "axle_dia_mm": "rear_axle_dia_mm",
    "spacing_mm": "rear_spacing_mm",
}


def holder(*attrs: str | optional, may_be_empty: bool = False) -> dict[str, Reads]:
    """Fork and frame read under the fork's names, for `both_ends`."""
    rear: dict[str, str | optional] = {}
    for attr in attrs:
        name = attr.name if isinstance(attr, optional) else attr
        own = _REAR.get(name, name)
        rear[name] = optional(own) if isinstance(attr, optional) else own
    return {
        "front": at("fork", *attrs, may_be_empty=may_be_empty),
        "rear": at("frame", may_be_empty=may_be_empty, **rear),
    }
