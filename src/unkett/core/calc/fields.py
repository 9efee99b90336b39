"""Input types that several calculations share; the ranges are those of the vocabulary."""

from __future__ import annotations

from unkett.core.vocabulary.types import ListOf, Number, Whole

LENGTH = Number(unit="mm", low=0.0, high=3500.0)
OFFSET = Number(unit="mm", low=-3500.0, high=3500.0)
RING = Whole(unit="teeth", low=16, high=80)
SPROCKET = Whole(unit="teeth", low=9, high=60)
RINGS = ListOf(item=RING, most=4)
SPROCKETS = ListOf(item=SPROCKET, most=20)
