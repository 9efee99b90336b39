"""What a bike already knows of a calculation's inputs, so that nothing is typed twice."""

from __future__ import annotations

from typing import Any

from unkett.core.bike.facts import Facts
from unkett.core.build import Build
from unkett.core.calc.base import Calculation, Input, SlotAttr


def _first(facts: Facts, sources: tuple[SlotAttr, ...]) -> Any:
    values = (facts.get(slot, attr) for slot, attr in sources)
    return next((value for value in values if value is not None), None)


def prefill(calculation: Calculation, now: Build, then: Build | None = None) -> dict[str, Any]:
    """Return by input, what the bike knows.

    With a plan a comparison takes each side from its own build; any other calculation is about the
    bike as planned.
    """
    compares = then is not None and any(wanted.then for wanted in calculation.inputs)
    facts = Facts(then if then is not None and not compares else now)
    out = {wanted.name: _first(facts, wanted.known) for wanted in calculation.inputs}
    if compares and then is not None:
        planned = Facts(then)
        out |= {wanted.name: _first(planned, wanted.then) for wanted in calculation.inputs if wanted.then}
    return {name: value for name, value in out.items() if value is not None}


def kept_at(wanted: Input) -> SlotAttr | None:
    """Return the slot and attribute on which a reading for this input is kept; None where it is no part's."""
    return wanted.known[0] if wanted.known else None


def may_not_be_left(wanted: Input, bike: Build) -> bool:
    """Return whether an input that may be missing elsewhere is wanted on this bike."""
    return bool(wanted.wanted) and wanted.wanted_of(bike)
