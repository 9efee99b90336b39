"""Rotor and caliper: radial shift, the adapter's step; rim brake reach; what a cable route costs."""

from __future__ import annotations

import math

from attrs import frozen

from unkett.core.calc.base import Cautioned, Input, Result, TraceLine, Values, calculation, figure
from unkett.core.calc.fields import BSD, LENGTH, OFFSET, ROTOR, ByName
from unkett.core.errors import bad
from unkett.core.scene import Box, Scene, Segment, Shape, Text
from unkett.core.standards import SLACK, table
from unkett.core.vocabulary import enums
from unkett.core.vocabulary.types import Choice, Number

POST_STEPS_MM = (0, 20, 23, 40, 43)
WASHERED_SIZES_MM = (180, 200, 220)
WASHER_STEP_MM = 3


@frozen(kw_only=True)
class RotorShift(Result):
    radial_mm: float = figure("mm", "Caliper moves out")


@calculation(
    "rotor_shift",
    title="Rotor shift",
    says="How far the caliper moves outwards for another rotor.",
    inputs=(
        Input(name="from_mm", title="Rotor now", type=ROTOR, says="Rotor diameter now."),
        Input(name="to_mm", title="Rotor then", type=ROTOR, says="Rotor diameter then."),
    ),
    formula="half the difference of the diameters",
    sources=("rotor-mounts",),
)
def rotor_shift(*, from_mm: float, to_mm: float) -> RotorShift:
    """(to − from) / 2; positive is outwards."""
    radial = (to_mm - from_mm) / 2
    return RotorShift(
        radial_mm=radial, trace=(TraceLine("radial_mm", radial, "mm", f"({to_mm:g} − {from_mm:g}) / 2"),)
    )


SHIMS_MOST_MM = 0.6  # common practice: beyond it a wrong end cap is likelier than the hub
WORN_UNDER_NEW_MM = 0.3  # least thickness without a stamp, under the new one: assumed


def caliper_place(
    *, native_mm: float | None, adapter_rotor_mm: float | None, adapter_native_mm: float | None
) -> float | None:
    """Rotor diameter in mm that mount and adapter put the caliper for; None where a figure is missing.

    An adapter counts from its own starting size: on another bare mount it lifts by the same step. A plate
    without one is stamped with the rotor it is for.
    """
    if adapter_rotor_mm is None:
        return native_mm
    if adapter_native_mm is None or native_mm is None:
        return adapter_rotor_mm if adapter_native_mm is None else None
    return native_mm + adapter_rotor_mm - adapter_native_mm


def least_thickness(*, stamped_mm: float | None, new_mm: float | None) -> float | None:
    """Least thickness of a rotor in mm: as stamped, else 0.3 mm under new (assumed); None where neither is known."""
    if stamped_mm is not None:
        return stamped_mm
    return None if new_mm is None else new_mm - WORN_UNDER_NEW_MM


def plates_made(frame_side: str, caliper_side: str, end: str) -> list[float]:
    """Return the rotors in mm that plates between two mounts are made for at one end. Source: `caliper_adapters`."""
    joins = (frame_side, caliper_side)
    for row in table("caliper_adapters").rows:
        if (row["frame_side"], row["caliper_side"]) == joins and row["end"] in (end, "either"):
            return list(row["rotors_mm"])
    return []


@frozen(kw_only=True)
class Adapter(Result):
    step_mm: float = figure("mm", "Rotor larger by, in diameter")
    lift_mm: float = figure("mm", "Caliper moves out by")
    possible: bool = figure("", "Possible")
    washers_mm: float | None = figure("mm", "Washers under both bolts")


@calculation(
    "adapter",
    title="Adapter",
    page="brakes",
    says="The step in rotor diameter an adapter is for, and how far out it moves the caliper.",
    inputs=(
        Input(
            name="mount",
            title="Mount",
            known=(("fork", "brake_mount"),),
            type=Choice(of=enums.BRAKE_MOUNT),
            says="Only post mounts go by steps.",
        ),
        Input(
            name="native_mm",
            title="Rotor without adapter",
            known=(("fork", "native_rotor_mm"),),
            type=ROTOR,
            says="Rotor of the bare mount.",
        ),
        Input(
            name="rotor_mm",
            title="Rotor wanted",
            known=(("front_rotor", "diameter_mm"),),
            type=ROTOR,
            says="Rotor wanted.",
        ),
    ),
    formula="steps made for post mounts: 0, 20, 23, 40, 43; 3 mm more is washers of 1.5",
    sources=("caliper-mounts",),
)
def adapter(*, mount: str, native_mm: float, rotor_mm: float) -> Adapter:
    """Return whether an adapter of this step exists. Smaller than native never; +3 on 180, 200 and 220 is washers."""
    if mount != "post":
        raise bad("mount", f"'{mount}' given; only 'post' goes by steps")
    step = rotor_mm - native_mm
    possible = any(abs(step - step_mm) <= SLACK for step_mm in POST_STEPS_MM)
    washers = abs(step - WASHER_STEP_MM) <= SLACK and native_mm in WASHERED_SIZES_MM
    washers_mm = WASHER_STEP_MM / 2 if washers else None
    return Adapter(
        step_mm=step,
        lift_mm=step / 2,
        possible=possible,
        washers_mm=washers_mm,
        trace=(
            TraceLine("step_mm", step, "mm", f"{rotor_mm:g} − {native_mm:g}"),
            TraceLine("lift_mm", step / 2, "mm", f"{step:g} / 2: the radius grows by half the diameter"),
            TraceLine(
                "possible", possible, "", "one of " + ", ".join(str(step_mm) for step_mm in POST_STEPS_MM)
            ),
        ),
    )


@frozen(kw_only=True)
class RimBrakeReach(Result):
    reach_mm: float = figure("mm", "Reach wanted")


@calculation(
    "rim_brake_reach",
    title="Rim brake reach",
    page="brakes",
    says="Reach a rim brake needs, from the bolt's radius or from the reach on the old wheel.",
    inputs=(
        Input(
            name="bridge_radius_mm",
            title="Axle to brake bolt",
            known=(("frame", "rear_bridge_radius_mm"),),
            type=LENGTH,
            says="Axle to brake bolt, with bsd_mm.",
            optional=True,
        ),
        Input(
            name="bsd_mm",
            title="Rim size",
            known=(("rear_rim", "bsd_mm"),),
            type=BSD,
            says="Rim size.",
            optional=True,
        ),
        Input(
            name="reach_now_mm", title="Reach now", type=LENGTH, says="Reach on the old wheel.", optional=True
        ),
        Input(name="bsd_from_mm", title="Rim size now", type=BSD, says="Old rim size.", optional=True),
        Input(name="bsd_to_mm", title="Rim size then", type=BSD, says="New rim size.", optional=True),
    ),
    formula="track radius taken as half the bead seat",
    sources=("rims-iso", "plane-geometry"),
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
    step = TraceLine("reach_mm", reach, "mm", f"{bridge_radius_mm:g} − {bsd_mm:g} / 2")
    return RimBrakeReach(reach_mm=reach, trace=(step,))


def reach_for_another_rim(*, reach_now_mm: float, bsd_from_mm: float, bsd_to_mm: float) -> RimBrakeReach:
    """Reach in mm on another rim size, from the reach on the old one."""
    reach = reach_now_mm + (bsd_from_mm - bsd_to_mm) / 2
    step = TraceLine("reach_mm", reach, "mm", f"{reach_now_mm:g} + ({bsd_from_mm:g} − {bsd_to_mm:g}) / 2")
    return RimBrakeReach(reach_mm=reach, trace=(step,))


@frozen(kw_only=True)
class RotorGain(Result):
    torque_pct: float = figure("%", "Torque more")
    area_pct: float = figure("%", "Swept area more")


@calculation(
    "rotor_gain",
    title="Rotor gain",
    page="brakes",
    says="What a larger rotor brings: torque at the same lever force, and swept area for heat.",
    inputs=(
        Input(
            name="from_mm",
            title="Rotor now",
            known=(("front_rotor", "diameter_mm"),),
            type=ROTOR,
            says="Rotor diameter now.",
        ),
        Input(
            name="to_mm",
            title="Rotor then",
            then=(("front_rotor", "diameter_mm"),),
            type=ROTOR,
            says="Rotor diameter then.",
        ),
        Input(
            name="track_mm",
            title="Track height",
            known=(("front_rotor", "track_mm"),),
            type=Number(unit="mm", low=0.0, high=40.0),
            says="Height of the swept band.",
            optional=True,
            default=0.0,
        ),
    ),
    formula="effective radius D/2 − track/2; swept band between D and D − 2 × track",
    sources=("mechanics",),
)
def rotor_gain(*, from_mm: float, to_mm: float, track_mm: float = 0.0) -> RotorGain:
    """Gains in per cent; without a track height the plain ratio of diameters and of their squares.

    Raises InputError where the track is as high as the rotor's radius.
    """
    if 2 * track_mm >= min(from_mm, to_mm):
        raise bad("track_mm", f"{track_mm:g} mm is as high as the rotor's radius")

    torque = ((to_mm - track_mm) / (from_mm - track_mm) - 1) * 100
    # D² − (D − 2h)² = 4h(D − h): bands of one height grow as their middle radius does
    swept = torque if track_mm else ((to_mm / from_mm) ** 2 - 1) * 100
    return RotorGain(
        torque_pct=torque,
        area_pct=swept,
        trace=(
            TraceLine(
                "torque_pct", torque, "%", f"({to_mm:g} − {track_mm:g}) / ({from_mm:g} − {track_mm:g}) − 1"
            ),
            TraceLine("area_pct", swept, "%", "swept area then / now − 1"),
        ),
    )


@frozen(kw_only=True)
class RotorShims(Cautioned):
    reference: str = figure("", "The wheel that stays")
    shims: dict[str, int] = figure("", "Shims")
    left_over_mm: dict[str, float] = figure("mm", "Still off")


def _shims(inputs: Values, answer: Values) -> Scene:
    """Each wheel's rotor plane against the reference, tenths of a millimetre made large."""
    planes, shim = inputs["planes_mm"], inputs.get("shim_mm", 0.2)
    reference = planes[answer["reference"]]
    scale, right, row = 150.0, 430.0, 46.0
    shapes: list[Shape] = [
        Segment(start=(right, 10), end=(right, 20 + row * len(planes)), role="cut-mark"),
        Text(at=(right + 8, 22), text="furthest outboard", role="note", anchor="start"),
    ]
    for n, (wheel, plane) in enumerate(planes.items()):
        y = 40 + row * n
        x = right - min((reference - plane) * scale, right - 110)
        count = answer["shims"][wheel]
        shapes.append(Segment(start=(x, y - 14), end=(x, y + 14), role="ring"))
        for piece in range(count):
            left = x + piece * shim * scale
            shapes.append(
                Box(
                    corner=(left, y - 9),
                    width=shim * scale,
                    height=18,
                    role="spacer",
                    title=f"shim {shim:g} mm",
                )
            )
        shapes.append(Text(at=(8, y + 4), text=wheel, role="row-planned", anchor="start"))
        shapes.append(Text(at=(right + 8, y + 6), text=f"{count} × {shim:g}", role="note", anchor="start"))
    says = "; ".join(f"{wheel} {count} shims" for wheel, count in answer["shims"].items())
    return Scene(
        width=560, height=30 + row * len(planes), title="Rotor planes", says=says + ".", shapes=tuple(shapes)
    )


@calculation(
    "rotor_shims",
    title="Rotor shims",
    page="brakes",
    says="Shims that bring the rotors of several wheels to one plane.",
    inputs=(
        Input(
            name="planes_mm",
            title="Each wheel's rotor from the fixed face",
            type=ByName(item=OFFSET, most=20),
            says="By wheel: rotor's distance from the reference face, larger is further outboard.",
        ),
        Input(
            name="shim_mm",
            title="Thickness of a shim",
            type=Number(unit="mm", low=0.01, high=2.0),
            says="Thickness of one shim.",
            optional=True,
            default=0.2,
        ),
    ),
    picture=_shims,
    formula="the wheel furthest outboard is the reference; the others are shimmed out to it",
    sources=("brake-practice",),
)
def rotor_shims(*, planes_mm: dict[str, float], shim_mm: float = 0.2) -> RotorShims:
    """Nearest count for each wheel, a tie to fewer; the reference (first named if equal) has none.

    More than 0.6 mm on one wheel carries a caution.
    """
    reference = max(planes_mm, key=lambda wheel: planes_mm[wheel])
    outermost = planes_mm[reference]
    shims = {
        wheel: max(0, math.ceil((outermost - plane) / shim_mm - 0.5 - SLACK))
        for wheel, plane in planes_mm.items()
    }
    left = {wheel: outermost - plane - shims[wheel] * shim_mm for wheel, plane in planes_mm.items()}
    most = max(count * shim_mm for count in shims.values())
    caution = (
        f"{most:.1f} mm of shims: look for a wrong end cap first" if most > SHIMS_MOST_MM + SLACK else None
    )
    return RotorShims(
        caution=caution,
        reference=reference,
        shims=shims,
        left_over_mm=left,
        trace=(
            TraceLine("reference_mm", outermost, "mm", f"{reference}, furthest outboard"),
            *[
                TraceLine(
                    f"shims_{wheel}", count, "", f"(reference − {planes_mm[wheel]:g}) / {shim_mm:g}, nearest"
                )
                for wheel, count in shims.items()
            ],
        ),
    )
