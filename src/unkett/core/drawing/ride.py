"""What a plan does to the ride, in figures that a rider understands, and their picture."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import frozen

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import gears_of
from unkett.core.bike.skeleton import bar_from_bracket
from unkett.core.build import Build
from unkett.core.calc.brakes import rotor_gain
from unkett.core.scene import Box, Scene, Shape, Text

SHOWN = 3
ROW, BAR, LEFT, WIDTH = 74.0, 18.0, 150.0, 460.0
LEAST_PCT, LEAST_MM = 1.0, 1.0  # smaller changes are not felt


@frozen(kw_only=True)
class RideFigure:
    """One figure before and after, and in words what the rider feels of it; `size` of both draws their bars."""

    title: str
    before: str
    after: str
    says: str
    sizes: tuple[float, float]


def ride_figures(now: Build, then: Build) -> tuple[RideFigure, ...]:
    """Return at most three figures of what changes for the rider, what is felt most first."""
    return tuple([*_gears(now, then), *_parts(now, then), *_bar(now, then)][:SHOWN])


def _gears(now: Build, then: Build) -> Iterator[RideFigure]:
    """The lowest and the highest gear in metres for a turn of the cranks."""
    old, new = gears_of(now), gears_of(then)
    for title, was, will, words in (
        ("Lowest gear", old.low_m, new.low_m, ("easier uphill", "harder uphill")),
        (
            "Highest gear",
            old.high_m,
            new.high_m,
            ("slower at the same pedalling", "faster at the same pedalling"),
        ),
    ):
        if was is None or will is None or abs(will / was - 1) * 100 < LEAST_PCT:
            continue
        share = abs(will / was - 1) * 100
        yield RideFigure(
            title=title,
            before=f"{was:.2f} m a turn",
            after=f"{will:.2f} m a turn",
            says=f"{share:.0f} % {words[will > was]}",
            sizes=(was, will),
        )


def _parts(now: Build, then: Build) -> Iterator[RideFigure]:
    """Brake discs, tyres and the fork's travel."""
    before, after = Facts(now), Facts(then)
    for slot, attr, title, more, less in (
        ("front_rotor", "diameter_mm", "Front brake disc", "", ""),
        ("rear_rotor", "diameter_mm", "Rear brake disc", "", ""),
        ("front_tyre", "width_mm", "Front tyre", "wider", "narrower"),
        ("rear_tyre", "width_mm", "Rear tyre", "wider", "narrower"),
        ("fork", "travel_mm", "Fork travel", "more travel", "less travel"),
    ):
        was, will = before.get(slot, attr), after.get(slot, attr)
        if was is None or will is None or abs(will - was) < LEAST_MM:
            continue
        says = f"{abs(will - was):g} mm {more if will > was else less}"
        if slot.endswith("_rotor"):
            share = rotor_gain(from_mm=was, to_mm=will).torque_pct
            says = f"{abs(share):.0f} % {'more' if share > 0 else 'less'} braking for the same pull"
        yield RideFigure(
            title=title,
            before=f"{was:g} mm",
            after=f"{will:g} mm",
            says=says,
            sizes=(float(was), float(will)),
        )


def _bar(now: Build, then: Build) -> Iterator[RideFigure]:
    """Where the hands are: how much higher or lower, further or nearer."""
    forward, up = bar_from_bracket(now, then)
    for title, moved, words in (
        ("Handlebar height", up, ("lower", "higher")),
        ("Reach to the bar", forward, ("nearer", "further away")),
    ):
        if abs(moved) >= LEAST_MM:
            says = f"{abs(moved):.0f} mm {words[moved > 0]}"
            yield RideFigure(title=title, before="now", after=says, says=says, sizes=(0.0, 0.0))


def ride_picture(figures: tuple[RideFigure, ...]) -> Scene | None:
    """Two bars for each figure, now above planned, each figure on a scale of its own; None where none has a size."""
    drawn = [one for one in figures if max(one.sizes) > 0]
    if not drawn:
        return None
    shapes: list[Shape] = []
    for n, one in enumerate(drawn):
        top = n * ROW + 8
        shapes.append(Text(at=(0, top + BAR + 8), text=one.title, role="row-planned", anchor="start"))
        for at, (size, text, role) in enumerate(
            ((one.sizes[0], one.before, "stands"), (one.sizes[1], one.after, "planned"))
        ):
            y = top + at * (BAR + 8)
            wide = WIDTH * size / max(one.sizes)
            shapes.append(Box(corner=(LEFT, y), width=wide, height=BAR, role=f"ride-{role}"))
            shapes.append(
                Text(at=(LEFT + 8, y + BAR - 4), text=text, role=f"ride-text-{role}", anchor="start")
            )
    says = "; ".join(f"{one.title}: {one.before}, then {one.after}" for one in drawn)
    return Scene(
        width=LEFT + WIDTH + 4,
        height=len(drawn) * ROW,
        title="Now and after the work",
        says=says,
        shapes=tuple(shapes),
    )
