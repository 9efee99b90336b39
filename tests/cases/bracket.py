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
    shell("unmeasured", "cups_unknown", bottom_bracket={"spindle": "d30"}),
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
    ),
    spindle(
        "no_go",
        "length_far",
        crank={"spindle": "square_jis", "spindle_length_mm": 113},
        bottom_bracket={"spindle": "square_jis", "spindle_length_mm": 118},
    ),
    spindle("unmeasured", "missing", crank={"spindle": None}),
    spindle(None, None, crank=None),
]

# 94.0 wanted, 68 + 22 = 90: gap 4.0
width = table(
    "bb-width",
    frame={"bb_shell_width_mm": 68},
    bottom_bracket={"flanges_mm": 22},
    crank={"spindle_needs_mm": 91, "preload_range_mm": 2},
)
WIDTH = [
    width("goes", "fits"),
    width("no_go", "squeezed", frame={"bb_shell_width_mm": 73}),
    width("goes_if", "spacers", crank={"spindle_needs_mm": 94}),  # 4 − 2/2 = 3 mm
    width("goes", "fits", crank={"spindle_needs_mm": 94}, bottom_bracket={"spacers_mm": 3}),
    width("unmeasured", "range_unknown", crank={"preload_range_mm": None}),
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
    width("unmeasured", "unknown", bottom_bracket={"flanges_mm": None}),
    width("unmeasured", "unknown", crank={"spindle_needs_mm": None, "preload_range_mm": None}),
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
    motor("unmeasured", "unknown", motor={"bb_shell": None}),
    motor("unmeasured", "missing", frame={"bb_shell": None}),
    motor(None, None, motor={"type": "hub_rear"}),
]

CASES: list[Case] = [*SHELL, *SPINDLE, *WIDTH, *PEDALS, *MOTOR]
