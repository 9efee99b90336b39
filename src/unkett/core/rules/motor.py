"""Motors: a mid motor in the shell, any motor in its place."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import optional
from unkett.core.rules.view import View, require
from unkett.core.standards import limit_of
from unkett.core.vocabulary import Area

WIDTH_TOLERANCE_MM = limit_of("motor_width_off_mm")
WEAK_FORKS = ("carbon", "magnesium")

SHELL = rule(
    "motor-shell",
    title="Mid motor goes in the shell",
    plain="A motor at the bracket fits only the shells its maker lists; a cast motor housing takes only its own.",
    why="A motor that is loose in its shell turns with every push and breaks its mounts.",
    area=Area.BRACKET,
    joint="motor",
    parts={"frame": "frame", "motor": "motor"},
    messages={
        "listed": "The motor is made for this shell.",
        "other": "The motor is not made for this shell ({frame.bb_shell}).",
    },
    sources=("maker-limits",),
)


@SHELL.clause("motor.type", silences=True)
def sits_in_a_shell(motor: View) -> Outcome | None:
    return None if motor.type == "mid_bracket" else SILENT


@SHELL.clause("motor.type frame.bb_shell", asks="motor.bb_shell")
def listed(motor: View, frame: View) -> Outcome | None:
    if motor.type != "mid_bracket":
        return None
    if frame.bb_shell in require(motor).bb_shell:
        return goes("listed")
    return no_go("other", way_out(motor, "bb_shell", "has", frame.bb_shell))


PLACE = rule(
    "motor-place",
    title="Motor has its place and cannot turn in it",
    plain=(
        "A mid motor takes the bracket's place, in a shell of a width it is made for, and its ring bolts to it. A hub "
        "motor turns its axle against the dropouts: it wants a torque arm, and no carbon or magnesium fork holds it."
    ),
    why="An axle that turns in the dropouts winds up its cable and lets the wheel go.",
    area=Area.BRACKET,
    joint="motor",
    parts={
        "motor": "motor",
        "bracket": optional("bottom_bracket"),
        "frame": optional("frame"),
        "fork": optional("fork"),
        "rings": optional("chainrings"),
        "crank": optional("crank"),
    },
    messages={
        "placed": "The motor sits where it is made to sit.",
        "both": "A mid motor sits where the bracket is: both do not go in.",
        "other_width": "The shell is {frame.bb_shell_width_mm:g} mm wide, which is no width of this motor.",
        "weak_fork": "A front hub motor breaks the dropouts of a {fork.material} fork.",
        "torque_arm": "A hub motor needs a torque arm, or its axle can turn in the dropout.",
        "other_ring": "The ring does not bolt to this motor.",
        "own_crank": "A cast-in motor takes only its own cranks.",
    },
    sources=("maker-limits",),
    safety=True,
)


@PLACE.clause("motor.type bracket")
def one_place(motor: View, bracket: View) -> Outcome | None:
    if motor.type != "mid_bracket" or bracket.empty:
        return None
    return no_go("both", way_out(motor, "type", "==", "hub_rear"))


@PLACE.clause("motor.type frame", asks="frame.bb_shell frame.bb_shell_width_mm motor.shell_widths_mm")
def shell_width(motor: View, frame: View) -> Outcome | None:
    if motor.type != "mid_bracket" or frame.empty or require(frame).bb_shell == "motor_cast":
        return None
    if any(
        near(require(frame).bb_shell_width_mm, width, WIDTH_TOLERANCE_MM)
        for width in require(motor).shell_widths_mm
    ):
        return None
    return no_go("other_width", way_out(motor, "shell_widths_mm", "has", require(frame).bb_shell_width_mm))


@PLACE.clause("motor.type fork", asks="fork.material")
def weak_fork(motor: View, fork: View) -> Outcome | None:
    if motor.type != "hub_front" or fork.empty or require(fork).material not in WEAK_FORKS:
        return None
    return no_go("weak_fork", way_out(fork, "material", "==", "steel"))


@PLACE.clause("motor.type", may="motor.torque_arm")
def torque_arm(motor: View) -> Outcome | None:
    if motor.type == "mid_bracket" or motor.torque_arm:
        return goes("placed")
    return goes_if("torque_arm", need("torque arm", where="at the motor's axle"))


@PLACE.clause("motor.type rings", asks="motor.ring_mount rings.mount")
def ring(motor: View, rings: View) -> Outcome | None:
    if motor.type != "mid_bracket" or rings.empty:
        return None
    own, given = (
        state if isinstance(state, tuple) else (state,)
        for state in (require(motor).ring_mount, require(rings).mount)
    )
    return None if set(given) <= set(own) else no_go("other_ring", way_out(rings, "mount", "==", own[0]))


@PLACE.clause("motor.type crank", may="frame.bb_shell")
def own_crank(motor: View, frame: View, crank: View) -> Outcome | None:
    if motor.type != "mid_bracket" or frame.bb_shell != "motor_cast" or crank.empty:
        return None
    return goes_if("own_crank", need("look whether the cranks are the motor's own"))
