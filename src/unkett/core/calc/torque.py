"""Torque: other units, the setting with an extension, the pull at a spanner, the middle of a printed range; sag."""

from __future__ import annotations

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH, TORQUE
from unkett.core.errors import bad
from unkett.core.units import NM_PER_KGF_CM, NM_PER_POUND_FOOT, NM_PER_POUND_INCH
from unkett.core.vocabulary.enums import Enumeration
from unkett.core.vocabulary.types import Choice, Number

NM_PER = {"nm": 1.0, "lbf_ft": NM_PER_POUND_FOOT, "lbf_in": NM_PER_POUND_INCH, "kgf_cm": NM_PER_KGF_CM}
UNITS = Choice(
    of=Enumeration(
        name="torque_unit",
        codes={
            "nm": "newton metre",
            "lbf_ft": "pound-foot",
            "lbf_in": "pound-inch",
            "kgf_cm": "kilogram-centimetre",
        },
    )
)


@frozen(kw_only=True)
class TorqueConvert(Result):
    value: float = figure("", "Value")


@calculation(
    "torque_convert",
    title="Torque convert",
    page="steering",
    says="A torque in another unit.",
    inputs=(
        Input(name="value", title="Value", type=Number(unit="", low=0.0, high=100000.0), says="The torque."),
        Input(name="from", title="From", type=UNITS, says="Its unit."),
        Input(name="to", title="To", type=UNITS, says="The unit wanted."),
    ),
    formula="1 lbf·ft = 1.3558179483314004 Nm; 1 kgf·cm = 0.0980665 Nm",
    sources=("si-units",),
)
def torque_convert(**given: object) -> TorqueConvert:
    """value × newton metres per old unit / newton metres per new unit."""
    old, new, value = str(given["from"]), str(given["to"]), given["value"]
    assert isinstance(value, (int, float))
    result = value * NM_PER[old] / NM_PER[new]
    step = TraceLine("value", result, new, f"{value:g} × {NM_PER[old]:.10g} / {NM_PER[new]:.10g}")
    return TorqueConvert(value=result, trace=(step,))


@frozen(kw_only=True)
class TorqueSetting(Result):
    set_nm: float = figure("Nm", "Set the wrench to")


@calculation(
    "torque_setting",
    title="Torque setting",
    page="steering",
    says="What to set on the wrench when an extension stands in line with it.",
    inputs=(
        Input(name="wanted_nm", title="Torque wanted", type=TORQUE, says="Torque wanted at the bolt."),
        Input(
            name="wrench_mm",
            title="Wrench, grip to square",
            type=Number(unit="mm", low=10.0, high=3500.0),
            says="Middle of the grip to the square.",
        ),
        Input(name="extension_mm", title="Extension", type=LENGTH, says="Square to the bolt, in line."),
    ),
    formula="wanted × wrench / (wrench + extension)",
    sources=("mechanics",),
)
def torque_setting(*, wanted_nm: float, wrench_mm: float, extension_mm: float) -> TorqueSetting:
    """Return an extension square to the wrench changes nothing; in line it lengthens the lever."""
    setting = wanted_nm * wrench_mm / (wrench_mm + extension_mm)
    formula = f"{wanted_nm:g} × {wrench_mm:g} / ({wrench_mm:g} + {extension_mm:g})"
    return TorqueSetting(set_nm=setting, trace=(TraceLine("set_nm", setting, "Nm", formula),))


@frozen(kw_only=True)
class ForceAtSpanner(Result):
    force_n: float = figure("", "Pull with")
    weight_kg: float = figure("kg", "As a weight")


STANDARD_GRAVITY = 9.80665  # m/s², ISO 80000-3


@calculation(
    "force_at_spanner",
    title="Force at spanner",
    page="steering",
    says="How hard to pull at a spanner for a torque, without a torque wrench.",
    inputs=(
        Input(name="torque_nm", title="Torque wanted", type=TORQUE, says="Torque wanted at the bolt."),
        Input(
            name="length_mm",
            title="Hand to bolt",
            type=Number(unit="mm", low=10.0, high=3500.0),
            says="Middle of the hand to the middle of the bolt, square to the pull.",
        ),
    ),
    formula="torque × 1000 / length; as a weight, force / 9.80665",
    sources=("mechanics",),
)
def force_at_spanner(*, torque_nm: float, length_mm: float) -> ForceAtSpanner:
    """40 Nm at 300 mm are 133 N, the weight of 13.6 kg."""
    force = torque_nm * 1000 / length_mm
    weight = force / STANDARD_GRAVITY
    return ForceAtSpanner(
        force_n=force,
        weight_kg=weight,
        trace=(
            TraceLine("force_n", force, "N", f"{torque_nm:g} × 1000 / {length_mm:g}"),
            TraceLine("weight_kg", weight, "kg", "force / 9.80665"),
        ),
    )


@frozen(kw_only=True)
class TorqueTarget(Result):
    target_nm: float = figure("Nm", "Target")


@calculation(
    "torque_target",
    title="Torque target",
    says="The middle of a printed range.",
    inputs=(
        Input(name="low_nm", title="Printed, lowest", type=TORQUE, says="Lower figure."),
        Input(name="high_nm", title="Printed, highest", type=TORQUE, says="Upper figure."),
    ),
    formula="(low + high) / 2",
    sources=("torques",),
)
def torque_target(*, low_nm: float, high_nm: float) -> TorqueTarget:
    """Raises InputError where the lower figure is the higher one."""
    if low_nm > high_nm:
        raise bad("low_nm", f"{low_nm:g} is more than high_nm, {high_nm:g}")
    target = (low_nm + high_nm) / 2
    return TorqueTarget(
        target_nm=target, trace=(TraceLine("target_nm", target, "Nm", f"({low_nm:g} + {high_nm:g}) / 2"),)
    )


@frozen(kw_only=True)
class Sag(Result):
    sag_pct: float = figure("%", "Sag")


@calculation(
    "sag",
    title="Sag",
    page="steering",
    says="Sag as a percentage of travel (fork) or stroke (shock).",
    inputs=(
        Input(
            name="full_mm",
            title="Travel or stroke",
            known=(("fork", "travel_mm"), ("shock", "stroke_mm")),
            type=Number(unit="mm", low=0.1, high=3500.0),
            says="Travel or stroke.",
        ),
        Input(
            name="sag_mm",
            title="Taken up by the rider",
            type=LENGTH,
            says="How far it sinks under the rider.",
        ),
    ),
    formula="sag / full × 100",
    sources=("maker-limits",),
)
def sag(*, full_mm: float, sag_mm: float) -> Sag:
    """Raises InputError where it sinks further than it can."""
    if sag_mm > full_mm:
        raise bad("sag_mm", f"{sag_mm:g} mm is more than the {full_mm:g} mm there are")
    percent = sag_mm / full_mm * 100
    return Sag(
        sag_pct=percent, trace=(TraceLine("sag_pct", percent, "%", f"{sag_mm:g} / {full_mm:g} × 100"),)
    )
