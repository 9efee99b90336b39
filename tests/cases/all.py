"""Every table of rule cases."""

from tests.cases import Case, bracket, brakes, drivetrain, steering, transmission, wheels

CASES: list[Case] = [
    *drivetrain.CASES,
    *transmission.CASES,
    *bracket.CASES,
    *brakes.CASES,
    *wheels.CASES,
    *steering.CASES,
]
