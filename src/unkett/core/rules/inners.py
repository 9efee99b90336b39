"""Inner wires and their housing: the head in its seat, the wire in the housing, the housing in its stop. Safety."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

THICK_MM = limit_of("thick_inner_mm")
THIN_HOUSING_MM = limit_of("thin_housing_mm")
STOP_UNDER_MM = limit_of("stop_under_mm")
BRAKE_STOP_LEAST_MM = limit_of("brake_stop_least_mm")
OVER = {
    True: (limit_of("brake_inner_over_mm"), limit_of("brake_inner_over_good_mm")),
    False: (limit_of("shift_inner_over_mm"), limit_of("shift_inner_over_good_mm")),
}
LINES = {
    "front_brake_line": ("front_brake_lever", "front_lever"),
    "rear_brake_line": ("rear_brake_lever", "rear_lever"),
    "rear_shift_line": ("rear_shifter", "shift_lines"),
    "front_shift_line": ("front_shifter", "shift_lines"),
}

INNER = rule(
    "inner-head",
    title="Inner and housing suit control and stops",
    plain=(
        "The inner's head is the one that the control seats. An inner over {thick_inner_mm} mm does not run in "
        "{thin_housing_mm} mm housing. A brake's inner is longer than its line by {brake_inner_over_mm} mm at least, "
        "{brake_inner_over_good_mm} mm to be easy; a gear's by {shift_inner_over_mm} and {shift_inner_over_good_mm} "
        "mm. Housing thicker than the stop's bore takes a nosed ferrule, metal for a brake; thinner a stepped one."
    ),
    why="A head that does not seat pulls through its stop, and the brake or the gear is gone.",
    area=Area.BRAKES,
    joint=tuple(joint for _, joint in LINES.values()),
    parts=tuple(
        {"line": required(line), "control": optional(control), "frame": optional("frame")}
        for line, (control, _) in LINES.items()
    ),
    messages={
        "seats": "The inner's head is the control's.",
        "other_head": "Inner head: {line.inner_head}. Control: {control.inner_head}. They are incompatible.",
        "too_thick": "Inner {line.inner_mm:g} mm does not run in housing of {line.housing_od_mm:g} mm.",
        "short": "Inner {line.inner_length_mm:g} mm; minimum {least_mm:.0f} mm.",
        "scarce": "Inner {line.inner_length_mm:g} mm; {least_mm:.0f} mm would be easy to work with.",
        "small_stop": "Housing {line.housing_od_mm:g} mm; stop {frame.stop_bore_mm:g} mm: too small for a brake.",
        "nosed": "Housing {line.housing_od_mm:g} mm; stop {frame.stop_bore_mm:g} mm: a nosed ferrule.",
        "stepped": "Housing {line.housing_od_mm:g} mm; stop {frame.stop_bore_mm:g} mm: a stepped ferrule.",
    },
    figures={"least_mm": ("length of the line + what the ends take", "mm")},
    sources=("line-routes",),
    safety=True,
)


def _of_brake(line: View) -> bool:
    return line.slot.endswith("brake_line")


@INNER.clause("control.inner_head", given="line.inner_head")
def head(line: View, control: View) -> Outcome:
    if line.inner_head == control.inner_head:
        return goes("seats")
    return no_go("other_head", way_out(line, "inner_head", "==", control.inner_head))


@INNER.clause("line.inner_head", given="control.inner_head")
def head_unread(line: View, control: View) -> None:
    """The control's seat is read, so the inner's head must be."""


@INNER.clause(given="line.inner_mm line.housing_od_mm")
def in_housing(line: View) -> Outcome | None:
    if line.inner_mm <= THICK_MM + SLACK or not near(line.housing_od_mm, THIN_HOUSING_MM, 0.2):
        return None
    return no_go("too_thick", way_out(line, "inner_mm", "<=", THICK_MM))


@INNER.clause(given="line.inner_length_mm line.length_mm")
def long_enough(line: View) -> Outcome | None:
    least, good = (line.length_mm + over for over in OVER[_of_brake(line)])
    if line.inner_length_mm < least - SLACK:
        return no_go("short", way_out(line, "inner_length_mm", ">=", good), least_mm=least)
    if line.inner_length_mm < good - SLACK:
        return goes_if("scarce", need("an inner that is only just long enough"), least_mm=good)
    return None


@INNER.clause(given="line.housing_od_mm frame.stop_bore_mm")
def in_stop(line: View, frame: View) -> Outcome | None:
    over = line.housing_od_mm - frame.stop_bore_mm
    if over > SLACK:
        if _of_brake(line) and frame.stop_bore_mm < BRAKE_STOP_LEAST_MM - SLACK:
            return no_go("small_stop", way_out(line, "housing_od_mm", "<=", frame.stop_bore_mm))
        return goes_if("nosed", need("nosed ferrule, metal" if _of_brake(line) else "nosed ferrule"))
    return goes_if("stepped", need("stepped ferrule")) if -over > STOP_UNDER_MM + SLACK else None
