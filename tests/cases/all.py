"""Every table of rule cases."""

from tests.cases import (
    Case,
    bottom_bracket,
    brakes,
    double_readings,
    drivetrain,
    fittings,
    less_common,
    let_pass,
    lines,
    steering,
    suspension,
    transmission,
    wear,
    wheels,
)

CASES: list[Case] = [
    *drivetrain.CASES,
    *transmission.CASES,
    *bottom_bracket.CASES,
    *brakes.CASES,
    *lines.CASES,
    *wheels.CASES,
    *steering.CASES,
    *suspension.CASES,
    *double_readings.CASES,
    *let_pass.CASES,
    *fittings.CASES,
    *less_common.CASES,
    *wear.CASES,
]
