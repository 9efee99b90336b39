"""Steerer length: what stands between the crown race seat and the top cap."""

from __future__ import annotations

from attrs import frozen

from unkett.core.calc.base import Input, Result, Step, calculation
from unkett.core.calc.fields import LENGTH
from unkett.core.vocabulary.types import Number


@frozen(kw_only=True)
class SteererCut(Result):
    length_mm: float
    cut_off_mm: float | None


@calculation(
    "steerer_cut",
    says="Length of the steerer from its crown race seat, and what to cut off.",
    inputs=(
        Input(name="lower_stack_mm", type=LENGTH, says="Lower cup and race."),
        Input(name="head_tube_mm", type=LENGTH, says="Head tube."),
        Input(name="upper_stack_mm", type=LENGTH, says="Upper cup with its cover."),
        Input(name="spacers_below_mm", type=LENGTH, says="Spacers under the stem."),
        Input(name="clamp_height_mm", type=LENGTH, says="Stem clamp."),
        Input(name="spacers_above_mm", type=LENGTH, says="Spacers over the stem."),
        Input(
            name="clearance_mm",
            type=Number(unit="mm", low=0.0, high=20.0),
            says="Tube below the top edge, so that the cap presses the stack.",
            optional=True,
            default=3.0,
        ),
        Input(name="steerer_mm", type=LENGTH, says="Length it has now.", optional=True),
    ),
    source="sum of the stack less the clearance",
)
def steerer_cut(
    *,
    lower_stack_mm: float,
    head_tube_mm: float,
    upper_stack_mm: float,
    spacers_below_mm: float,
    clamp_height_mm: float,
    spacers_above_mm: float,
    clearance_mm: float = 3.0,
    steerer_mm: float | None = None,
) -> SteererCut:
    """Cutting cannot be undone. A negative cut-off means that the steerer is too short."""
    stack = (
        lower_stack_mm + head_tube_mm + upper_stack_mm + spacers_below_mm + clamp_height_mm + spacers_above_mm
    )
    length = stack - clearance_mm
    cut_off = None if steerer_mm is None else steerer_mm - length
    trace = [
        Step("stack_mm", stack, "mm", "lower + head tube + upper + spacers below + clamp + spacers above"),
        Step("length_mm", length, "mm", f"stack − {clearance_mm:g}"),
    ]
    if steerer_mm is not None:
        trace.append(Step("cut_off_mm", cut_off, "mm", f"{steerer_mm:g} − length"))
    return SteererCut(length_mm=length, cut_off_mm=cut_off, trace=tuple(trace))
