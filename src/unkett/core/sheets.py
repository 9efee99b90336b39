"""Sheets: the numbers of one part of the work, from the bike's own data, with their picture.

Every sheet is made by one function of a build; as it stands and as planned are two calls. What is
missing is named; nothing is asked that the bike already knows.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from attrs import frozen

from unkett.core.build import Build
from unkett.core.calc.base import Step, floor_slack
from unkett.core.calc.bracket import chainline, crank_spacing, first_sprocket, ring_lines, worst_in_use
from unkett.core.calc.brakes import rotor_gain
from unkett.core.calc.gears import sprocket_pitches
from unkett.core.calc.geometry import bar_place
from unkett.core.calc.steering import steerer_cut
from unkett.core.calc.wheels import spoke_length, tension_ratio, tyre_pressure_limit, tyre_width
from unkett.core.drawing.scene import Scene
from unkett.core.drawing.sections import bracket_scene, rotor_scene, steerer_scene, tyre_scene
from unkett.core.errors import InputError
from unkett.core.figures import Facts, Missing


@frozen(kw_only=True)
class Number:
    """One line of a sheet: a computed figure with its trace, or the reading of a part (`given`: slot, attribute)."""

    name: str
    title: str
    value: float | str | None
    unit: str = "mm"
    origin: str = "computed"
    trace: tuple[Step, ...] = ()
    given: tuple[str, str] | None = None


@frozen(kw_only=True)
class Sheet:
    """One part of the work: its numbers, its picture and what is missing for it."""

    name: str
    title: str
    numbers: tuple[Number, ...] = ()
    missing: tuple[Missing, ...] = ()
    scene: Scene | None = None
    cautions: tuple[str, ...] = ()
    fault: str = ""

    def value(self, name: str) -> float | str | None:
        """A number by name; None where the sheet has none."""
        return next((one.value for one in self.numbers if one.name == name), None)


def _sheet(name: str, title: str, build: Build, make: Callable[[Facts], Sheet]) -> Sheet:
    """Run a maker; what it wants and does not find, or cannot be worked out, becomes the sheet's answer."""
    facts = Facts(build)
    try:
        sheet = make(facts)
    except _Incomplete:
        return Sheet(name=name, title=title, missing=tuple(facts.missing))
    except InputError as error:
        return Sheet(name=name, title=title, fault=str(error))
    return sheet


class _Incomplete(Exception):  # noqa: N818 - an answer, not a fault
    pass


def _want(facts: Facts, *pairs: tuple[str, str]) -> list[Any]:
    values = [facts.want(slot, attr) for slot, attr in pairs]
    if facts.missing:
        raise _Incomplete
    return values


def steering_sheet(build: Build) -> Sheet:
    """Steerer stack with the cut mark, and where the bar is."""
    return _sheet("steering", "Steerer stack", build, _steering)


def _steering(facts: Facts) -> Sheet:
    lower, tube, upper, clamp = _want(
        facts,
        ("headset", "stack_lower_mm"),
        ("frame", "head_tube_length_mm"),
        ("headset", "stack_upper_mm"),
        ("stem", "clamp_height_mm"),
    )
    below, above = facts.get("spacers", "below_mm") or 0.0, facts.get("spacers", "above_mm") or 0.0
    steerer = facts.get("fork", "steerer_length_mm")
    cut = steerer_cut(
        lower_stack_mm=lower,
        head_tube_mm=tube,
        upper_stack_mm=upper,
        spacers_below_mm=below,
        clamp_height_mm=clamp,
        spacers_above_mm=above,
        steerer_mm=steerer,
    )
    numbers = [
        Number(name="length", title="steerer wanted", value=cut.length_mm, trace=cut.trace),
        Number(name="steerer", title="steerer now", value=steerer, given=("fork", "steerer_length_mm")),
        Number(name="cut_off", title="to cut off", value=cut.cut_off_mm, trace=cut.trace),
        Number(name="below", title="spacers below", value=below, given=("spacers", "below_mm")),
        Number(name="above", title="spacers above", value=above, given=("spacers", "above_mm")),
    ]
    numbers += _bar(facts, below, clamp)
    stack = (
        ("lower stack", lower),
        ("head tube", tube),
        ("upper stack", upper),
        ("spacers", below),
        ("stem", clamp),
        ("spacers", above),
    )
    return Sheet(
        name="steering",
        title="Steerer stack",
        numbers=tuple(numbers),
        scene=steerer_scene(stack=stack, wanted_mm=cut.length_mm, steerer_mm=steerer),
        cautions=(
            "Cutting cannot be undone: mark it with the real stem and spacers on, measure twice, leave spacers above.",
        ),
    )


def _bar(facts: Facts, below: float, clamp: float) -> list[Number]:
    """Bar position where head angle and stem are known."""
    head, length, angle = (
        facts.get("frame", "head_angle_deg"),
        facts.get("stem", "length_mm"),
        facts.get("stem", "angle_deg"),
    )
    if head is None or length is None or angle is None:
        return []
    place = bar_place(
        head_angle_deg=head, length_mm=length, angle_deg=angle, spacers_mm=below, clamp_height_mm=clamp
    )
    return [
        Number(name="bar_forward", title="bar ahead of the steerer", value=place.forward_mm),
        Number(name="bar_up", title="bar above the headset", value=place.up_mm),
    ]


def wheel_sheet(build: Build, end: str) -> Sheet:
    """Rim and tyre in section, room in frame or fork, pressure limit; `end` is front or rear."""
    return _sheet(f"{end}_wheel", f"{end.capitalize()} wheel", build, lambda facts: _wheel(facts, end))


def _wheel(facts: Facts, end: str) -> Sheet:
    bsd, inner, nominal = _want(
        facts, (f"{end}_rim", "bsd_mm"), (f"{end}_rim", "inner_width_mm"), (f"{end}_tyre", "width_mm")
    )
    measured = facts.get(f"{end}_tyre", "width_measured_mm")
    estimate = tyre_width(nominal_mm=nominal, inner_mm=inner)
    width = measured if measured is not None else estimate.estimate_mm
    holder = "fork" if end == "front" else "frame"
    limit = (facts.get(holder, "tyre_max_mm") or {}).get(round(bsd))
    bead = facts.get(f"{end}_rim", "bead")
    pressure = None
    if bead is not None:
        pressure = tyre_pressure_limit(
            bead=bead,
            rim_bar=facts.get(f"{end}_rim", "pressure_max_bar"),
            tyre_bar=facts.get(f"{end}_tyre", "pressure_max_bar"),
        )
    numbers = (
        Number(name="bsd", title="rim size", value=bsd, given=(f"{end}_rim", "bsd_mm")),
        Number(name="inner", title="inner width", value=inner, given=(f"{end}_rim", "inner_width_mm")),
        Number(
            name="width",
            title="tyre's real width",
            value=width,
            given=(f"{end}_tyre", "width_measured_mm") if measured is not None else None,
            trace=() if measured is not None else estimate.trace,
        ),
        Number(name="limit", title=f"room in the {holder}", value=limit, given=(holder, "tyre_max_mm")),
        Number(name="gap", title="left to each side", value=None if limit is None else (limit - width) / 2),
        Number(name="radius", title="outer radius", value=bsd / 2 + width, origin="assumed"),
        Number(
            name="pressure",
            title="never above",
            value=None if pressure is None else pressure.max_bar,
            unit="bar",
            trace=() if pressure is None else pressure.trace,
        ),
    )
    return Sheet(
        name=f"{end}_wheel",
        title=f"{end.capitalize()} wheel",
        numbers=(*numbers, *_spokes(facts, end)),
        scene=tyre_scene(end=end, inner_mm=inner, width_mm=width, limit_mm=limit),
    )


def _spokes(facts: Facts, end: str) -> list[Number]:
    """Spoke lengths by side, the stock to cut them from and the tension ratio, where hub and rim are measured."""
    hub, spokes = f"{end}_hub", f"{end}_spokes"
    erd, holes, crosses = (
        facts.get(f"{end}_rim", "erd_mm"),
        facts.get(hub, "holes"),
        facts.get(spokes, "crosses"),
    )
    off = facts.get(f"{end}_rim", "drilling_offset_mm") or 0.0
    offsets = {side: facts.get(hub, f"flange_offset_{side}_mm") for side in ("left", "right")}
    numbers = []
    for side, sign in (("left", 1), ("right", -1)):
        circle, offset = facts.get(hub, f"flange_pcd_{side}_mm"), offsets[side]
        if erd is None or holes is None or crosses is None or circle is None or offset is None:
            continue
        found = spoke_length(
            erd_mm=erd,
            pcd_mm=circle,
            offset_mm=abs(offset - sign * off),
            spokes=holes,
            crosses=crosses,
            hole_mm=facts.get(hub, "spoke_hole_mm") or 2.6,
        )
        numbers.append(
            Number(name=f"spoke_{side}", title=f"spokes, {side}", value=found.length_mm, trace=found.trace)
        )
        stock = float(2 * floor_slack(found.length_mm / 2))
        numbers.append(Number(name=f"stock_{side}", title=f"stock length, {side}", value=stock))
    if offsets["left"] and offsets["right"]:
        ratio = tension_ratio(offset_left_mm=offsets["left"], offset_right_mm=offsets["right"])
        numbers.append(
            Number(
                name="tension",
                title="tension left to right",
                value=ratio.left_to_right_pct,
                unit="%",
                trace=ratio.trace,
            )
        )
    return numbers


def brake_sheet(build: Build, end: str) -> Sheet | None:
    """Rotor, bare mount and limit to scale; None where no rotor stands there."""
    if f"{end}_rotor" not in build.filled():
        return None
    return _sheet(f"{end}_brake", f"{end.capitalize()} brake", build, lambda facts: _brake(facts, end))


def _brake(facts: Facts, end: str) -> Sheet:
    (rotor,) = _want(facts, (f"{end}_rotor", "diameter_mm"))
    slot, prefix = ("fork", "") if end == "front" else ("frame", "rear_")
    native, limit = facts.get(slot, f"{prefix}native_rotor_mm"), facts.get(slot, f"{prefix}rotor_max_mm")
    lifts = facts.get(f"{end}_brake_adapter", "rotor_mm")
    numbers = [
        Number(name="rotor", title="rotor", value=rotor, given=(f"{end}_rotor", "diameter_mm")),
        Number(
            name="native", title="bare mount is for", value=native, given=(slot, f"{prefix}native_rotor_mm")
        ),
        Number(
            name="adapter", title="adapter is for", value=lifts, given=(f"{end}_brake_adapter", "rotor_mm")
        ),
        Number(name="limit", title="largest allowed", value=limit, given=(slot, f"{prefix}rotor_max_mm")),
    ]
    if native is not None and native != rotor:
        gain = rotor_gain(from_mm=native, to_mm=rotor, track_mm=facts.get(f"{end}_rotor", "track_mm") or 0.0)
        numbers.append(
            Number(
                name="torque",
                title="torque against the bare size",
                value=gain.torque_pct,
                unit="%",
                trace=gain.trace,
            )
        )
        numbers.append(
            Number(
                name="heat", title="swept area against it", value=gain.area_pct, unit="%", trace=gain.trace
            )
        )
    return Sheet(
        name=f"{end}_brake",
        title=f"{end.capitalize()} brake",
        numbers=tuple(numbers),
        scene=rotor_scene(
            end=end,
            rotor_mm=rotor,
            native_mm=native,
            limit_mm=limit,
            track_mm=facts.get(f"{end}_rotor", "track_mm"),
        ),
        cautions=(
            "Brakes: the maker's instructions first; right fluid only; bed new pads in; a lever that comes to the bar is not rideable.",
        ),
    )


def bracket_sheet(build: Build) -> Sheet:
    """Shell, cups and spacers against the crank; chainline and chain angle."""
    return _sheet("bracket", "Bracket and chainline", build, _bracket)


def _bracket(facts: Facts) -> Sheet:
    shell, line, rings, teeth, spacing, stay = _want(
        facts,
        ("frame", "bb_shell_width_mm"),
        ("crank", "chainline_mm"),
        ("chainrings", "teeth"),
        ("cassette", "teeth"),
        ("rear_hub", "spacing_mm"),
        ("frame", "chainstay_mm"),
    )
    pitch = sprocket_pitches(
        speeds=facts.get("cassette", "speeds"),
        mount=facts.get("cassette", "mount"),
        stated_mm=facts.get("cassette", "sprocket_pitch_mm"),
    )
    if len(pitch) != 1:
        facts.want("cassette", "sprocket_pitch_mm")
        raise _Incomplete
    fronts = ring_lines(chainline_mm=line, rings=len(rings), offsets_mm=facts.get("crank", "ring_offset_mm"))
    found = chainline(
        front_mm=fronts,
        spacing_mm=spacing,
        locknut_to_first_mm=first_sprocket(axle_kind=facts.get("rear_hub", "axle_kind"), spacing_mm=spacing),
        sprocket_pitch_mm=pitch[0],
        sprockets=teeth,
        chainrings=rings,
        chainstay_mm=stay,
    )
    worst = worst_in_use(found.angles)
    numbers = [
        Number(name="shell", title="shell", value=shell, given=("frame", "bb_shell_width_mm")),
        Number(name="chainline", title="chainline, front", value=line, given=("crank", "chainline_mm")),
        Number(name="first", title="smallest sprocket's line", value=found.rear_mm[0], trace=found.trace),
        Number(name="last", title="largest sprocket's line", value=found.rear_mm[-1], trace=found.trace),
        Number(
            name="angle",
            title=f"largest angle, {worst.ring}/{worst.sprocket}",
            value=abs(worst.angle_deg),
            unit="°",
            trace=found.trace,
        ),
    ]
    needs, flanges = facts.get("crank", "spindle_needs_mm"), facts.get("bottom_bracket", "flanges_mm")
    if needs is not None and flanges is not None:
        gap = crank_spacing(
            spindle_needs_mm=needs,
            shell_mm=shell,
            flanges_mm=flanges + (facts.get("bottom_bracket", "spacers_mm") or 0.0),
            range_mm=facts.get("crank", "preload_range_mm") or 0.0,
        )
        numbers.append(
            Number(name="gap", title="gap between cups and arms", value=gap.gap_mm, trace=gap.trace)
        )
        numbers.append(Number(name="spacers", title="spacers to add", value=gap.spacers_mm, trace=gap.trace))
    return Sheet(
        name="bracket",
        title="Bracket and chainline",
        numbers=tuple(numbers),
        scene=bracket_scene(shell_mm=shell, fronts_mm=fronts, rears_mm=found.rear_mm, stay_mm=stay),
    )


@frozen(kw_only=True)
class Page:
    """The sheets of one page of the work and the rules whose findings belong there."""

    name: str
    title: str
    rules: tuple[str, ...]
    sheets: Callable[[Build], list[Sheet]]


def _both(make: Callable[[Build, str], Sheet | None]) -> Callable[[Build], list[Sheet]]:
    return lambda build: [sheet for end in ("front", "rear") if (sheet := make(build, end)) is not None]


PAGES: dict[str, Page] = {
    page.name: page
    for page in (
        Page(
            name="bracket",
            title="Bracket",
            rules=("bb-shell", "bb-width", "crank-spindle", "chain-angle", "ring-mount", "ring-clearance", "pedal-thread", "motor-shell"),
            sheets=lambda build: [bracket_sheet(build)],
        ),
        Page(
            name="brakes",
            title="Brakes",
            rules=(
                "rotor-mount", "rotor-limit", "caliper-mount", "caliper-position", "rotor-thickness", "brake-actuation",
                "brake-fluid", "brake-cable-pull", "hose-fitting", "brake-line-type", "brake-line-drag", "motor-cutoff",
                "lever-reach", "rim-brake-reach", "rim-brake-track", "rim-brake-bolt",
            ),
            sheets=_both(brake_sheet),
        ),
        Page(
            name="wheels",
            title="Wheels",
            rules=(
                "axle-fit", "tyre-seat", "tyre-width", "tyre-pressure", "tyre-clearance", "wheel-size", "spoke-holes",
                "spoke-lacing", "valve-fit", "freewheel-room",
            ),
            sheets=_both(wheel_sheet),
        ),
        Page(
            name="steering",
            title="Steering and seat",
            rules=(
                "headset-fit", "steerer-fit", "fork-length", "stem-steerer", "stem-bar", "bar-controls", "steerer-length",
                "steerer-anchor", "stem-spacers", "seatpost-fit", "dropper-entry", "dropper-room", "saddle-rails", "shock-fit",
            ),
            sheets=lambda build: [steering_sheet(build)],
        ),
    )
}  # fmt: skip
