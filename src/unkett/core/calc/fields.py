"""Input types that several calculations share; the ranges are those of the vocabulary."""

from __future__ import annotations

from unkett.core.vocabulary.types import ListOf, Number, Whole

LENGTH = Number(unit="mm", low=0.0, high=3500.0)
OFFSET = Number(unit="mm", low=-3500.0, high=3500.0)
RING = Whole(unit="teeth", low=16, high=80)
SPROCKET = Whole(unit="teeth", low=9, high=60)
RINGS = ListOf(item=RING, most=4)
SPROCKETS = ListOf(item=SPROCKET, most=20)
ANGLE = Number(unit="°", low=-90.0, high=90.0)
BSD = Number(unit="mm", low=100.0, high=800.0)
ROTOR = Number(unit="mm", low=80.0, high=300.0)
PRESSURE = Number(unit="bar", low=0.0, high=20.0)
LINK_PITCH = Number(unit="mm", low=1.0, high=12.0)
OFFSETS = ListOf(item=OFFSET, most=4)
