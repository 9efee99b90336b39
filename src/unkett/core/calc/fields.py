"""Inputs and types of inputs that several calculations share; the ranges are those of the vocabulary."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.calc.base import Input
from unkett.core.errors import bad, shown
from unkett.core.vocabulary.types import AttributeType, ListOf, Number, Whole

LENGTH = Number(unit="mm", low=0.0, high=3500.0)
OFFSET = Number(unit="mm", low=-3500.0, high=3500.0)
RING = Whole(unit="teeth", low=16, high=80)
SPROCKET = Whole(unit="teeth", low=9, high=60)
RINGS = ListOf(item=RING, most=4)
SPROCKETS = ListOf(item=SPROCKET, most=20, row=True)
ANGLE = Number(unit="°", low=-90.0, high=90.0)
BSD = Number(unit="mm", low=100.0, high=800.0)
ROTOR = Number(unit="mm", low=80.0, high=300.0)
PRESSURE = Number(unit="bar", low=0.0, high=20.0)
LINK_PITCH = Number(unit="mm", low=1.0, high=12.0)
OFFSETS = ListOf(item=OFFSET, most=4)
HEAD_ANGLE = Number(unit="°", low=40.0, high=90.0)
TORQUE = Number(unit="Nm", low=0.0, high=200.0)
CHAINRINGS = Input(
    name="chainrings",
    title="Chainrings",
    known=(("chainrings", "teeth"),),
    type=RINGS,
    says="Teeth of the rings.",
)
CASSETTE = Input(
    name="sprockets",
    title="Sprockets",
    known=(("cassette", "teeth"),),
    type=SPROCKETS,
    says="Teeth of the sprockets.",
)


@frozen(kw_only=True)
class ByName:
    """An object from names to values of one type."""

    item: AttributeType
    most: int = 60

    def check(self, value: Any, path: str) -> dict[str, Any]:
        if not isinstance(value, Mapping) or not 1 <= len(value) <= self.most:
            raise bad(path, f"{shown(value)} given; {self.allowed()} allowed")
        return {str(name): self.item.check(item, f"{path}.{name}") for name, item in value.items()}

    def allowed(self) -> str:
        return f"an object of 1 to {self.most} names ({self.item.allowed()} each)"

    def schema(self) -> dict[str, Any]:
        return {"type": "object", "additionalProperties": self.item.schema(), "minProperties": 1}
