"""Cases of bracket, crank, pedals and mid motors."""

from tests.cases import Case, table

shell = table(
    "bb-shell",
    frame={"bb_shell": "bsa", "bb_shell_width_mm": 68},
    bottom_bracket={"shell": "bsa", "shell_widths_mm": [68, 73]},
)
SHELL = [
    shell("goes", "fits"),
    shell("goes", "fits", frame={"bb_shell_width_mm": 68.4}),
    shell("no_go", "other_width", frame={"bb_shell_width_mm": 83}),
    shell("no_go", "other_shell", frame={"bb_shell": "italian", "bb_shell_width_mm": 70}),
    shell("no_go", "other_shell", frame={"bb_shell": "mid_bmx"}, bottom_bracket={"shell": "bb86"}),
    shell("goes_if", "converted", frame={"bb_shell": "bb30"}),
    shell("goes_if", "converted", frame={"bb_shell": "pf30"}, bottom_bracket={"shell": "t47"}),
    shell("no_go", "other_width", frame={"bb_shell": "bb30", "bb_shell_width_mm": 83}),
    shell(
        "goes_if",
        "small_bearings",
        frame={"bb_shell": "bb86", "bb_shell_width_mm": 86.5},
        bottom_bracket={"shell": "bb86", "shell_widths_mm": [86.5], "spindle": "d30"},
    ),
    shell(
        "no_go",
        "cannot_hold",
        frame={"bb_shell": "bb90", "bb_shell_width_mm": 90.5},
        bottom_bracket={"shell": "bb90", "shell_widths_mm": [90.5], "spindle": "d30"},
    ),
    shell("goes", "fits", bottom_bracket={"spindle": "d30", "flanges_mm": 22}),
    shell("no_go", "cannot_hold", bottom_bracket={"spindle": "d30", "flanges_mm": 0}),
    shell("unmeasured", "missing", bottom_bracket={"spindle": "d30"}),
    # certain at once: no width, no bracket and no spindle saves these
    shell(
        "no_go",
        "cast",
        frame={"bb_shell": "motor_cast", "bb_shell_width_mm": None},
        bottom_bracket={"shell": None},
    ),
    shell("no_go", "cast", frame=None, bottom_bracket={"shell": "motor_cast"}),
    shell(
        "no_go",
        "cannot_hold",
        frame={"bb_shell": "bb90", "bb_shell_width_mm": None},
        bottom_bracket={"shell": None, "spindle": "d30"},
    ),
    shell(
        "no_go",
        "cannot_hold",
        frame={"bb_shell": "spanish_bmx"},
        bottom_bracket={"shell": None, "spindle": "d30"},
    ),
    shell("no_go", "other_shell", frame={"bb_shell": "italian", "bb_shell_width_mm": None}),
    shell("no_go", "other_width", frame={"bb_shell": None, "bb_shell_width_mm": 83}),
    shell("goes_if", "converted", frame={"bb_shell": "one_piece"}, needs=("adapter cups",)),
    shell("unmeasured", "missing", frame={"bb_shell_width_mm": None}),
    shell("unmeasured", "missing", bottom_bracket={"shell": None}),
    shell(None, None, bottom_bracket=None),
]

spindle = table("crank-spindle", crank={"spindle": "d24"}, bottom_bracket={"spindle": "d24", "shell": "bsa"})
SPINDLE = [
    spindle("goes", "same"),
    spindle("goes_if", "by_sleeve", bottom_bracket={"spindle": "d30"}),
    spindle(
        "goes_if",
        "by_sleeve",
        crank={"spindle": "d24_22"},
        bottom_bracket={"spindle": "d30", "shell": "pf30"},
    ),
    spindle(
        "no_go",
        "other_spindle",
        crank={"spindle": "d24_22"},
        bottom_bracket={"spindle": "d30", "shell": "bsa"},
    ),
    spindle("no_go", "other_spindle", crank={"spindle": "d24_22"}),
    spindle("no_go", "other_spindle", crank={"spindle": "d30"}),
    spindle(
        "goes_if", "by_sleeve", crank={"spindle": "square_iso"}, bottom_bracket={"spindle": "square_jis"}
    ),
    spindle(
        "no_go", "other_spindle", crank={"spindle": "square_jis"}, bottom_bracket={"spindle": "square_iso"}
    ),
    spindle("no_go", "other_spindle", crank={"spindle": "spline10"}, bottom_bracket={"spindle": "spline8"}),
    spindle(
        "goes",
        "same",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 112},
    ),
    spindle(
        "goes_if",
        "length_close",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 110},
        figures={"way": "short", "off_mm": 3},
    ),
    spindle(
        "no_go",
        "length_far",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 118},
    ),
    spindle("unmeasured", "missing", crank={"spindle": None}),
    # a stepped crank in a 30 mm bracket: it hangs on the shell
    spindle(
        "unmeasured",
        "missing",
        crank={"spindle": "d24_22"},
        bottom_bracket={"spindle": "d30", "shell": None},
        asks=("bottom_bracket.shell",),
    ),
    spindle(
        "no_go",
        "length_far",
        crank={"spindle": None, "spindle_length_mm": 113},
        bottom_bracket={"spindle": None, "spindle_length_mm": 116.1},
    ),
    spindle(
        "goes_if",
        "length_close",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 116},
        figures={"moves_mm": 1.5, "way": "long"},
    ),
    spindle(
        "goes_if",
        "length_close",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 114.1},
    ),
    spindle(None, None, crank=None),
]


def OF_WIDTHS(widths):  # noqa: N802 - reads like the constants beside it
    return {"spindle_needs_mm": None, "shell_widths_mm": widths}


# 94.0 wanted, 68 + 22 = 90: gap 4.0
width = table(
    "bb-width",
    frame={"bb_shell": "bsa", "bb_shell_width_mm": 68},
    bottom_bracket={"flanges_mm": 22},
    crank={"spindle_needs_mm": 91, "preload_range_mm": 2},
)
WIDTH = [
    width("goes", "fits"),
    width("no_go", "squeezed", frame={"bb_shell_width_mm": 73}),
    width("goes_if", "spacers", crank={"spindle_needs_mm": 94}),  # 4 − 2/2 = 3 mm
    width("goes", "fits", crank={"spindle_needs_mm": 94}, bottom_bracket={"spacers_mm": 3}),
    width("unmeasured", "missing", crank={"preload_range_mm": None}),
    width("goes", "fits", crank={"spindle_needs_mm": 90, "preload_range_mm": None}),
    # a list: built for 73, this shell is 68: 5 mm in all, 2.5 a side
    width("goes_if", "shell_spacers", crank={"spindle_needs_mm": None, "shell_widths_mm": [68, 73]}),
    width(
        "goes",
        "shell_spaced",
        crank={"spindle_needs_mm": None, "shell_widths_mm": [68, 73]},
        bottom_bracket={"spacers_mm": 5},
    ),
    width(
        "no_go",
        "squeezed",
        frame={"bb_shell_width_mm": 73},
        crank={"spindle_needs_mm": None, "shell_widths_mm": [68, 73]},
        bottom_bracket={"spacers_mm": 5},
    ),
    width(
        "goes",
        "widest",
        frame={"bb_shell_width_mm": 73},
        crank={"spindle_needs_mm": None, "shell_widths_mm": [68, 73]},
    ),
    width(
        "no_go",
        "too_wide",
        frame={"bb_shell_width_mm": 83},
        crank={"spindle_needs_mm": None, "shell_widths_mm": [68, 73]},
    ),
    # widths of another family say nothing of spacers: [68, 70] and [68, 86.5] on 68 threaded want none
    width("goes", "widest", crank=OF_WIDTHS([68, 70])),
    width("goes", "widest", crank=OF_WIDTHS([68, 86.5])),
    width("unmeasured", "no_width", crank=OF_WIDTHS([70, 86.5])),
    width(
        "goes_if",
        "shell_spacers",
        crank=OF_WIDTHS([68, 73, 86.5]),
        figures={"spacers_mm": 5},
        needs=("cup spacers",),
    ),
    # a plate behind the cup takes 2.5 of the 5 mm; two take all; on 73 there is no room for it
    width("goes_if", "shell_spacers", crank=OF_WIDTHS([68, 73]), chain_guide={"mount": "bb_plate"}),
    width(
        "goes",
        "shell_spaced",
        crank=OF_WIDTHS([68, 73]),
        chain_guide={"mount": "bb_plate"},
        front_derailleur={"mount": "bb_plate"},
    ),
    width(
        "no_go",
        "squeezed",
        frame={"bb_shell_width_mm": 73},
        crank=OF_WIDTHS([68, 73]),
        chain_guide={"mount": "bb_plate"},
        figures={"over_mm": 2.5},
    ),
    width("no_go", "too_wide", frame={"bb_shell": None, "bb_shell_width_mm": 83}, crank=OF_WIDTHS([68, 73])),
    width("unmeasured", "missing", bottom_bracket={"flanges_mm": None}),
    width("unmeasured", "missing", crank={"spindle_needs_mm": None, "preload_range_mm": None}),
    width("unmeasured", "missing", frame={"bb_shell_width_mm": None}),
    width(None, None, crank={"spindle_needs_mm": None, "spindle": "square_jis"}),
]

pedal = table("pedal-thread", crank={"pedal_thread": "9_16"}, pedals={"thread": "9_16"})
PEDALS = [
    pedal("goes", "same"),
    pedal("no_go", "other", pedals={"thread": "1_2"}),
    pedal("unmeasured", "missing", pedals={"thread": None}),
    pedal(None, None, pedals=None),
]

motor = table(
    "motor-shell", frame={"bb_shell": "bsa"}, motor={"type": "mid_bracket", "bb_shell": ["bsa", "pf30"]}
)
MOTOR = [
    motor("goes", "listed"),
    motor("no_go", "other", frame={"bb_shell": "italian"}),
    motor("unmeasured", "missing", motor={"bb_shell": None}),
    motor("unmeasured", "missing", frame={"bb_shell": None}),
    motor(None, None, motor={"type": "hub_rear"}),
]

# 622/2 + 40 − 75 = 276; less 170: 106. With a 60 mm smaller wheel and a long arm it strikes.
height = table(
    "bracket-height",
    frame={"bb_drop_mm": 75},
    crank={"arm_mm": 170},
    rear_rim={"bsd_mm": 622},
    rear_tyre={"width_mm": 40},
)
HEIGHT = [
    height("goes", "clear", figures={"height_mm": 276, "left_mm": 106}),
    height("goes", "clear", frame={"bb_drop_mm": 96}, figures={"left_mm": 85}),
    height(
        "goes_if",
        "strikes",
        frame={"bb_drop_mm": 97},
        figures={"left_mm": 84},
        needs=("pedal may strike in a bend",),
    ),
    height("goes_if", "strikes", frame={"bb_drop_mm": 96}, rear_tyre={"width_measured_mm": 39}),
    height(None, None, crank={"arm_mm": None}),
    height(None, None, frame={"bb_drop_mm": None}),
    height(None, None, rear_tyre=None),
]

place = table("motor-place", motor={"type": "hub_rear", "torque_arm": True})
MID = {"type": "mid_bracket", "torque_arm": None, "shell_widths_mm": [68, 73]}
PLACE = [
    place("goes", "placed"),
    place("goes_if", "torque_arm", motor={"torque_arm": False}, needs=("torque arm",)),
    place("goes_if", "torque_arm", motor={"torque_arm": None}),
    place("no_go", "both", motor=MID, bottom_bracket={}),
    place("no_go", "weak_fork", motor={"type": "hub_front"}, fork={"material": "carbon"}),
    place("no_go", "weak_fork", motor={"type": "hub_front"}, fork={"material": "magnesium"}),
    place("goes", "placed", motor={"type": "hub_front"}, fork={"material": "steel"}),
    place("unmeasured", "missing", motor={"type": "hub_front"}, fork={}, asks=("fork.material",)),
    place("goes", "placed", fork={"material": "carbon"}),
    place("goes", "placed", motor=MID, frame={"bb_shell": "bsa", "bb_shell_width_mm": 73.5}),
    place("no_go", "other_width", motor=MID, frame={"bb_shell": "bsa", "bb_shell_width_mm": 73.6}),
    place("unmeasured", "missing", motor=MID, frame={"bb_shell": "bsa"}),
    place("no_go", "other_ring", motor={**MID, "ring_mount": "direct_spline"}, chainrings={"mount": "104x4"}),
    place(
        "goes", "placed", motor={**MID, "ring_mount": "direct_spline"}, chainrings={"mount": "direct_spline"}
    ),
    place("goes_if", "own_crank", motor=MID, frame={"bb_shell": "motor_cast"}, crank={}),
    place("unmeasured", "missing", motor=MID, chainrings={"mount": "104x4"}, asks=("motor.ring_mount",)),
    place("unmeasured", "missing", motor={"type": None}),
    place(None, None, motor=None),
]

CASES: list[Case] = [*SHELL, *SPINDLE, *WIDTH, *HEIGHT, *PEDALS, *MOTOR, *PLACE]
