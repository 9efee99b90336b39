"""Steering and seat: the steerer's stack, the bar's place, another fork, the seat."""

from __future__ import annotations

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import toe_room_of, wheel_radius
from unkett.core.bike.overlay import swap_of
from unkett.core.bike.skeleton import bar_from_bracket
from unkett.core.build import Build
from unkett.core.calc.bar import bar_place, bar_position
from unkett.core.calc.dropper import seat_room
from unkett.core.calc.geometry import seat_angle, trail
from unkett.core.calc.steering import SHOE_PAST_PEDAL_MM, steerer_cut
from unkett.core.drawing.sections import steerer_scene
from unkett.core.drawing.side import change_scene
from unkett.core.panels.base import Number, Panel, given, panel_of, require_values

CUT_CAUTION = (
    "Cutting cannot be undone: mark it with the real stem and spacers on, measure twice, leave spacers above."
)


def steering_sheet(build: Build) -> Panel:
    """Steerer stack with the cut mark, and where the bar is."""
    return panel_of("steering", "Steerer stack", build, _steering)


def _steering(facts: Facts) -> Panel:
    lower, tube, upper, clamp, below, above = require_values(
        facts,
        ("headset", "stack_lower_mm"),
        ("frame", "head_tube_length_mm"),
        ("headset", "stack_upper_mm"),
        ("stem", "clamp_height_mm"),
        ("spacers", "below_mm"),  # none is 0, measured; a cut to a guess cannot be undone
        ("spacers", "above_mm"),
    )
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
        Number(name="length", title="steerer length needed", value=cut.length_mm, trace=cut.trace),
        given(facts, "fork", "steerer_length_mm", "steerer now", "steerer"),
        Number(name="cut_off", title="to cut off", value=cut.cut_off_mm, trace=cut.trace),
        Number(name="below", title="spacers below", value=below, given=("spacers", "below_mm")),
        Number(name="above", title="spacers above", value=above, given=("spacers", "above_mm")),
        *_bar(facts, below, clamp),
    ]
    stack = (
        ("lower stack", lower),
        ("head tube", tube),
        ("upper stack", upper),
        ("spacers", below),
        ("stem", clamp),
        ("spacers", above),
    )
    return Panel(
        name="steering",
        title="Steerer stack",
        numbers=tuple(numbers),
        scene=steerer_scene(stack=stack, wanted_mm=cut.length_mm, steerer_mm=steerer),
        cautions=(CUT_CAUTION,),
        finds="stem",
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


def toe_lines(*states: tuple[str, Facts]) -> tuple[list[Number], tuple[str, ...]]:
    """Room between toe and front tyre in each state, the shoe assumed, and what is said where they meet in the last.

    A state in which it cannot be known has no line.
    """
    found = [(when, room) for when, facts in states if (room := toe_room_of(facts)) is not None]
    numbers = [
        Number(
            name=f"toe_{when}".rstrip("_"),
            title=f"toe to front tyre {when}".rstrip(),
            value=room.room_mm,
            origin="assumed",
            trace=room.trace,
        )
        for when, room in found
    ]
    last = toe_room_of(states[-1][1])
    if last is None or last.room_mm >= 0:
        return numbers, ()
    says = (
        f"Toe and tyre meet by {-last.room_mm:.0f} mm when the bar is turned far, a shoe "
        f"{SHOE_PAST_PEDAL_MM:.0f} mm past the pedal assumed: try it with the rider's own shoes."
    )
    return numbers, (says,)


def handling_sheet(build: Build) -> Panel:
    """Head angle, offset and trail of a bike."""
    return panel_of("handling", "Handling", build, _handling)


def _handling(facts: Facts) -> Panel:
    head, offset = require_values(facts, ("frame", "head_angle_deg"), ("fork", "offset_mm"))
    radius = wheel_radius(facts, "front")
    numbers = [
        given(facts, "frame", "head_angle_deg", "head angle", "head", "°"),
        given(facts, "fork", "offset_mm", "fork offset", "offset"),
        given(facts, "fork", "axle_to_crown_mm", "axle to crown", "a2c"),
    ]
    if radius is not None:
        found = trail(wheel_radius_mm=radius, head_angle_deg=head, offset_mm=offset)
        numbers.append(Number(name="trail", title="trail", value=found.trail_mm, trace=found.trace))
    toe, cautions = toe_lines(("", facts))
    return Panel(name="handling", title="Handling", numbers=(*numbers, *toe), cautions=cautions)


def seat_sheet(build: Build) -> Panel:
    """Post in the seat tube: what shows, what is in, the effective seat angle, room for a dropper."""
    return panel_of("seat", "Seat", build, _seat)


def _seat(facts: Facts) -> Panel:
    height, tube, rail = require_values(
        facts,
        ("bike", "saddle_height_mm"),
        ("frame", "seat_tube_length_mm"),
        ("saddle", "rail_height_mm"),
    )
    room = seat_room(saddle_height_mm=height, seat_tube_mm=tube, rail_height_mm=rail)
    numbers = [
        given(facts, "bike", "saddle_height_mm", "saddle height", "height"),
        Number(name="room", title="collar to rail", value=room.value, trace=(room,)),
        given(facts, "seatpost", "length_mm", "post length", "post"),
    ]
    post = facts.get("seatpost", "length_mm")
    if post is not None:
        numbers.append(Number(name="insertion", title="post in the tube", value=post - room.value))
    numbers += [
        given(facts, "seatpost", "min_insertion_mm", "least insertion", "least"),
        given(facts, "frame", "seat_tube_depth_mm", "tube open to", "depth"),
    ]
    angle, setback = facts.get("frame", "seat_angle_deg"), facts.get("seatpost", "setback_mm")
    if angle is not None and setback is not None:
        forward = setback if facts.get("seatpost", "turned") else -setback
        found = seat_angle(saddle_forward_mm=forward, saddle_height_mm=height, seat_angle_deg=angle)
        title = "seat angle, effective"
        numbers.append(
            Number(name="seat_angle", title=title, value=found.effective_deg, unit="°", trace=found.trace)
        )
    return Panel(name="seat", title="Seat", numbers=tuple(numbers))


def fork_change_sheet(now: Build, then: Build) -> Panel | None:
    """Return what another fork or lower cup does; None where neither changes."""
    old, new = Facts(now), Facts(then)
    names = (("fork", "axle_to_crown_mm"), ("fork", "offset_mm"), ("headset", "stack_lower_mm"))
    if all(old.get(*name) == new.get(*name) for name in names):
        return None
    return panel_of("fork_swap", "What the other fork does", now, lambda facts: _fork_change(facts, then))


def _fork_change(facts: Facts, then: Build) -> Panel:
    require_values(
        facts, ("frame", "head_angle_deg"), ("frame", "wheelbase_mm"), ("fork", "axle_to_crown_mm")
    )
    new = facts.beside(then)
    require_values(new, ("fork", "axle_to_crown_mm"))
    stacks = [state.get("headset", "stack_lower_mm") for state in (facts, new)]
    offsets = [state.get("fork", "offset_mm") for state in (facts, new)]
    equal = [
        says
        for says, pair, slot in (("offsets", offsets, "fork"), ("lower cups", stacks, "headset"))
        if None in pair and facts.filled.get(slot) != new.filled.get(slot)
    ]
    swap = swap_of(facts, new)
    assert swap is not None
    lines = (
        ("rotation", "frame turns back by", swap.rotation_deg, "°"),
        ("head", "head angle", swap.head_angle_deg, "°"),
        ("seat", "seat angle", swap.seat_angle_deg, "°"),
        ("trail", "trail", swap.trail_mm, "mm"),
        ("rise", "bracket rises by", swap.bb_rise_mm, "mm"),
        ("reach", "reach changes by", swap.reach_change_mm, "mm"),
    )
    return Panel(
        name="fork_swap",
        title="What the other fork does",
        numbers=tuple(
            Number(name=name, title=title, value=value, unit=unit, trace=swap.trace)
            for name, title, value, unit in lines
        ),
        cautions=(
            "A fork longer than the frame's maker allows overloads the head tube; the maker's limit comes first.",
            *(f"The {says} are not both measured: taken as equal." for says in equal),
        ),
    )


def position_sheet(now: Build, then: Build) -> Panel | None:
    """Return the bar before and after on the side view; None where nothing that carries it changes."""
    old, new = Facts(now), Facts(then)
    if all(old.get(*name) == new.get(*name) for name in CARRIES_THE_BAR):
        return None
    return panel_of("bar_position", "Bar before and after", now, lambda facts: _position(facts, now, then))


CARRIES_THE_BAR = (
    ("stem", "length_mm"),
    ("stem", "angle_deg"),
    ("stem", "clamp_height_mm"),
    ("spacers", "below_mm"),
    ("headset", "stack_upper_mm"),
    ("headset", "stack_lower_mm"),
    ("fork", "axle_to_crown_mm"),
    ("fork", "offset_mm"),
    ("handlebar", "shape"),
    ("handlebar", "rise_mm"),
)
BAR = (("stem", "length_mm"), ("stem", "angle_deg"))


def _position(facts: Facts, now: Build, then: Build) -> Panel:
    new = facts.beside(then)
    (head,) = require_values(facts, ("frame", "head_angle_deg"))
    below, below_to = (state.get("spacers", "below_mm") for state in (facts, new))
    # unknown on both sides the spacers are the same ones, and the difference does not hang on them
    asks = BAR if (below is None) == (below_to is None) else (*BAR, ("spacers", "below_mm"))
    length, angle, *_ = require_values(facts, *asks)
    length_to, angle_to, *_ = require_values(new, *asks)
    clamps = [state.get("stem", "clamp_height_mm") or 40.0 for state in (facts, new)]
    place = bar_position(
        head_angle_deg=head,
        length_mm=length,
        angle_deg=angle,
        spacers_mm=below or 0.0,
        clamp_height_mm=clamps[0],
        head_angle_deg_to=new.get("frame", "head_angle_deg"),
        length_mm_to=length_to,
        angle_deg_to=angle_to,
        spacers_mm_to=below_to or 0.0,
        clamp_height_mm_to=clamps[1],
    )
    moved = bar_from_bracket(now, then)
    return Panel(
        name="bar_position",
        title="Bar before and after",
        numbers=(
            Number(
                name="forward",
                title="stem and spacers: forward",
                value=place.change.forward_mm,
                trace=place.trace,
            ),
            Number(name="up", title="stem and spacers: up", value=place.change.up_mm, trace=place.trace),
            Number(name="whole_forward", title="bar from the bracket: forward", value=moved[0]),
            Number(name="whole_up", title="bar from the bracket: up", value=moved[1]),
        ),
        scene=change_scene(now, then),
    )


def changes(now: Build, then: Build) -> list[Panel]:
    """Return the sheets of a change at steering and seat."""
    return [sheet for sheet in (position_sheet(now, then), fork_change_sheet(now, then)) if sheet is not None]
