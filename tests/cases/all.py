"""Every table of rule cases."""

from tests.cases import Case, bracket, brakes, drivetrain, lines, steering, transmission, wheels

CASES: list[Case] = [
    *drivetrain.CASES,
    *transmission.CASES,
    *bracket.CASES,
    *brakes.CASES,
    *lines.CASES,
    *wheels.CASES,
    *steering.CASES,
]
