"""Rotor and caliper: radial shift, the adapter's step; rim brake reach; what a cable route costs."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import SLACK, Input, Result, Step, calculation
from unkett.core.calc.fields import BSD, LENGTH, ROTOR
from unkett.core.errors import bad
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.types import Choice, ListOf, Number

POST_STEPS_MM = (0, 20, 23, 40, 43)
WASHERED_SIZES_MM = (180, 200, 220)
WASHER_STEP_MM = 3


@frozen(kw_only=True)
class RotorShift(Result):
    radial_mm: float


@calculation(
    "rotor_shift",
    says="How far the caliper moves outwards for another rotor.",
    inputs=(
        Input(name="from_mm", type=ROTOR, says="Rotor diameter now."),
        Input(name="to_mm", type=ROTOR, says="Rotor diameter then."),
    ),
    source="half the difference of the diameters",
)
def rotor_shift(*, from_mm: float, to_mm: float) -> RotorShift:
    """(to − from) / 2; positive is outwards."""
    radial = (to_mm - from_mm) / 2
    return RotorShift(
        radial_mm=radial, trace=(Step("radial_mm", radial, "mm", f"({to_mm:g} − {from_mm:g}) / 2"),)
    )


@frozen(kw_only=True)
class Adapter(Result):
    step_mm: float
    possible: bool
    washers_mm: float | None


@calculation(
    "adapter",
    says="The step an adapter must lift the caliper by.",
    inputs=(
        Input(name="mount", type=Choice(of=enums.BRAKE_MOUNT), says="Only post mounts go by steps."),
        Input(name="native_mm", type=ROTOR, says="Rotor of the bare mount."),
        Input(name="rotor_mm", type=ROTOR, says="Rotor wanted."),
    ),
    source="steps made for post mounts: 0, 20, 23, 40, 43; 3 mm more is washers of 1.5",
)
def adapter(*, mount: str, native_mm: float, rotor_mm: float) -> Adapter:
    """Whether an adapter of this step exists. Smaller than native never; +3 on 180, 200 and 220 is washers."""
    if mount != "post":
        raise bad("mount", f"'{mount}' given; only 'post' goes by steps")
    step = rotor_mm - native_mm
    possible = any(abs(step - one) <= SLACK for one in POST_STEPS_MM)
    washers = abs(step - WASHER_STEP_MM) <= SLACK and native_mm in WASHERED_SIZES_MM
    washers_mm = WASHER_STEP_MM / 2 if washers else None
    return Adapter(
        step_mm=step,
        possible=possible,
        washers_mm=washers_mm,
        trace=(
            Step("step_mm", step, "mm", f"{rotor_mm:g} − {native_mm:g}"),
            Step("possible", possible, "", "one of " + ", ".join(str(one) for one in POST_STEPS_MM)),
        ),
    )


@frozen(kw_only=True)
class RimBrakeReach(Result):
    reach_mm: float


@calculation(
    "rim_brake_reach",
    says="Reach a rim brake needs, from the bolt's radius or from the reach on the old wheel.",
    inputs=(
        Input(name="bridge_radius_mm", type=LENGTH, says="Axle to brake bolt, with bsd_mm.", optional=True),
        Input(name="bsd_mm", type=BSD, says="Rim size.", optional=True),
        Input(name="reach_now_mm", type=LENGTH, says="Reach on the old wheel.", optional=True),
        Input(name="bsd_from_mm", type=BSD, says="Old rim size.", optional=True),
        Input(name="bsd_to_mm", type=BSD, says="New rim size.", optional=True),
    ),
    source="track radius taken as half the bead seat",
)
def rim_brake_reach(
    *,
    bridge_radius_mm: float | None = None,
    bsd_mm: float | None = None,
    reach_now_mm: float | None = None,
    bsd_from_mm: float | None = None,
    bsd_to_mm: float | None = None,
) -> RimBrakeReach:
    """Bolt radius − bead seat / 2, or old reach + (old − new bead seat) / 2; both sets given is an error."""
    by_bolt = {"bridge_radius_mm": bridge_radius_mm, "bsd_mm": bsd_mm}
    by_wheel = {"reach_now_mm": reach_now_mm, "bsd_from_mm": bsd_from_mm, "bsd_to_mm": bsd_to_mm}
    chosen = [group for group in (by_bolt, by_wheel) if any(value is not None for value in group.values())]
    if len(chosen) == 2:
        raise bad(
            "reach_now_mm", "give bridge_radius_mm and bsd_mm, or reach_now_mm and both rim sizes, not both"
        )
    wanted = chosen[0] if chosen else by_bolt
    for name, value in wanted.items():
        if value is None:
            raise bad(name, "missing; " + " and ".join(wanted) + " go together")
    if reach_now_mm is not None and bsd_from_mm is not None and bsd_to_mm is not None:
        return reach_for_another_rim(reach_now_mm=reach_now_mm, bsd_from_mm=bsd_from_mm, bsd_to_mm=bsd_to_mm)
    return reach_from_bolt(bridge_radius_mm=bridge_radius_mm or 0.0, bsd_mm=bsd_mm or 0.0)


def reach_from_bolt(*, bridge_radius_mm: float, bsd_mm: float) -> RimBrakeReach:
    """Reach in mm from the brake bolt's distance to the axle and the rim size."""
    reach = bridge_radius_mm - bsd_mm / 2
    step = Step("reach_mm", reach, "mm", f"{bridge_radius_mm:g} − {bsd_mm:g} / 2")
    return RimBrakeReach(reach_mm=reach, trace=(step,))


def reach_for_another_rim(*, reach_now_mm: float, bsd_from_mm: float, bsd_to_mm: float) -> RimBrakeReach:
    """Reach in mm on another rim size, from the reach on the old one."""
    reach = reach_now_mm + (bsd_from_mm - bsd_to_mm) / 2
    step = Step("reach_mm", reach, "mm", f"{reach_now_mm:g} + ({bsd_from_mm:g} − {bsd_to_mm:g}) / 2")
    return RimBrakeReach(reach_mm=reach, trace=(step,))


@frozen(kw_only=True)
class LineDrag(Result):
    total_deg: float
    ratio: float
    loss_pct: float


@calculation(
    "line_drag",
    says="How much of the lever's pull the bends of a cable's housing leave.",
    inputs=(
        Input(
            name="turns_deg",
            type=ListOf(item=Number(unit="°", low=0.0, high=3600.0)),
            says="Angle of every bend.",
        ),
        Input(
            name="mu",
            type=Number(unit="", low=0.0, high=1.0),
            says="Friction: new lined 0.06, used 0.10, dirty 0.15.",
            optional=True,
            default=0.06,
        ),
    ),
    source="belt friction: force out / in = exp(−μθ)",
)
def line_drag(*, turns_deg: tuple[float, ...], mu: float = 0.06) -> LineDrag:
    """exp(−μ·θ) with θ the sum of all bends in radians."""
    total = math.fsum(turns_deg)
    ratio = math.exp(-mu * math.radians(total))
    return LineDrag(
        total_deg=total,
        ratio=ratio,
        loss_pct=(1 - ratio) * 100,
        trace=(
            Step("total_deg", total, "°", "sum of the bends"),
            Step("ratio", ratio, "", f"exp(−{mu:g} × {math.radians(total):.4f})"),
            Step("loss_pct", (1 - ratio) * 100, "%", "(1 − ratio) × 100"),
        ),
    )
