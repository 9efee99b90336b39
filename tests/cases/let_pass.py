"""Cases of readings that say something across two parts: an overhang, a mount's own rotor, a brake's pull, room."""

from tests.cases import Case, table

ELEVEN_34 = [11, 13, 15, 17, 19, 21, 23, 25, 27, 30, 34]
road = {"mount": "spline9_road11", "speeds": 11, "teeth": ELEVEN_34}
hang = table("freehub-seat", cassette=road, rear_hub={"freehub": "spline9_road11"})
HANG = [
    hang("unmeasured", "missing", asks=("cassette.dished_mm",)),
    hang("unmeasured", "missing", rear_hub={"freehub_spacer_mm": 1.85}, asks=("cassette.dished_mm",)),
    hang("goes_if", "spacer", cassette={"dished_mm": 1.85}),  # 36.75 − 34.9
    hang("goes", "spacer_there", cassette={"dished_mm": 1.9}, rear_hub={"freehub_spacer_mm": 1.85}),
    hang("goes", "seated", cassette={"dished_mm": 1.8}),
    hang("no_go", "wrong_spacer", cassette={"dished_mm": 0}, rear_hub={"freehub_spacer_mm": 1.85}),
    hang("goes", "seated", cassette={"teeth": [*ELEVEN_34[:-1], 33]}),
    hang("goes", "seated", cassette={"speeds": 10, "teeth": ELEVEN_34[1:]}),
]

flat = table(
    "caliper-mount",
    frame={"rear_brake_mount": "flat"},
    rear_caliper={"mount": "flat"},
    rear_rotor={"diameter_mm": 140},
)
asked = ("frame.rear_native_rotor_mm",)
FLAT = [
    flat("unmeasured", "missing", asks=asked),  # 140 straight on, or smaller than a mount for 160
    flat("unmeasured", "missing", rear_rotor={"diameter_mm": 160}, asks=asked),  # plate, or straight on
    flat("goes", "same", frame={"rear_native_rotor_mm": 140}),
    flat("no_go", "smaller", frame={"rear_native_rotor_mm": 160}),
    flat("goes_if", "needs_adapter", rear_rotor={"diameter_mm": 180}),  # a plate either way
    flat("no_go", "no_way", rear_rotor={"diameter_mm": 203}),  # no plate either way
]
place = table(
    "caliper-position",
    frame={"rear_brake_mount": "flat"},
    rear_caliper={"mount": "flat"},
    rear_rotor={"diameter_mm": 140},
)
PLACE = [
    place("unmeasured", "missing", asks=asked),
    place("goes", "centred", frame={"rear_native_rotor_mm": 140}),
]

LONG = {"actuation": "cable", "cable_pull": "long"}
pull = table("brake-cable-pull", rear_brake_lever=LONG, rear_caliper={"actuation": "cable"})
PULL = [
    *(
        case
        for sort in ("dual_pivot", "cantilever", "u_brake")
        for case in (
            pull("no_go", "long_on_short", rear_caliper={"type": sort}),
            pull("goes", "same", rear_caliper={"type": sort}, rear_brake_lever={"cable_pull": "short"}),
        )
    ),
    *(
        pull("unmeasured", "missing", rear_caliper={"type": sort})
        for sort in ("disc", "roller", "linear_pull")
    ),
    pull("goes", "same", rear_caliper={"type": "linear_pull", "arm_mm": 95}),
    pull("no_go", "long_on_short", rear_caliper={"type": "linear_pull", "arm_mm": 90}),
    pull("unmeasured", "missing", rear_caliper={"type": "linear_pull", "arm_mm": 94.9}),
    pull("unmeasured", "missing", rear_caliper={"type": "linear_pull", "arm_mm": 90.1}),
    # what is read wins over what the sort tells
    pull("goes", "same", rear_caliper={"type": "dual_pivot", "cable_pull": "long"}),
]

room = table("bb-shell", frame={"bb_shell_width_mm": 68}, bottom_bracket={"shell_widths_mm": [68]})


def inside(verdict: str, key: str, shell: str, spindle: str, width: float = 68, **bracket: object) -> Case:
    return room(
        verdict,
        key,
        frame={"bb_shell": shell, "bb_shell_width_mm": width},
        bottom_bracket={"shell": shell, "spindle": spindle, "shell_widths_mm": [width], **bracket},
    )


ROOM = [
    *(
        inside("no_go", "cannot_hold", shell, spindle, flanges_mm=0)
        for shell in ("bsa", "italian", "french", "swiss")
        for spindle in ("d24", "d24_22", "d25", "d28_99", "d30")
    ),
    inside("goes", "fits", "bsa", "d24", flanges_mm=22),
    inside("goes", "fits", "bsa", "d30", flanges_mm=22),
    inside("goes", "fits", "bsa", "square_jis", flanges_mm=0),
    inside("no_go", "cannot_hold", "bb90", "d28_99", 90.5),
    inside("no_go", "cannot_hold", "mid_bmx", "d30", 73),
    inside("no_go", "cannot_hold", "spanish_bmx", "d28_99", 68),
    inside("goes", "fits", "bb90", "d24", 90.5),
    inside("goes_if", "adapter_cups", "one_piece", "d30"),
    inside("goes_if", "adapter_cups", "one_piece", "d28_99"),
    inside("goes", "fits", "bb86", "d28_99", 86.5),
    inside("goes_if", "small_bearings", "bb86", "d30", 86.5),
]
alone = table("crank-shell", frame={"bb_shell": "bb90"}, crank={"spindle": "d30"})
ALONE = [
    alone("no_go", "cannot_hold"),
    alone(None, None, crank={"spindle": "d24"}),
    alone(None, None, bottom_bracket={"shell": "bb90"}),
    alone("goes_if", "small_bearings", frame={"bb_shell": "bb86"}),
    alone("goes_if", "adapter_cups", frame={"bb_shell": "one_piece"}),
    alone("no_go", "one_piece", crank={"spindle": "one_piece"}),
    alone(None, None, frame={"bb_shell": "one_piece"}, crank={"spindle": "one_piece"}),
    alone("no_go", "cast", frame={"bb_shell": "motor_cast"}, empty=("motor",)),
    alone("unmeasured", "missing", frame={"bb_shell": "motor_cast"}, asks=("motor",)),
    alone(None, None, frame={"bb_shell": "motor_cast"}, motor={"type": "mid_bracket"}),
    alone(None, None, frame={"bb_shell": "bsa"}),  # its cups may stand outside
]

tooth = table(
    "chain-width",
    chain={"speeds": 1, "inner_width_mm": 2.38},
    cassette={"speeds": 2, "teeth": [16], "tooth_mm": 2.33},
)
TOOTH = [
    tooth("goes", "tooth_fits"),  # 0.05 of play
    tooth("no_go", "tooth_wide", cassette={"tooth_mm": 2.34}),
    tooth("goes", "tooth_fits", cassette={"tooth_mm": 1.48}),  # 0.90
    tooth("goes_if", "tooth_play", cassette={"tooth_mm": 1.47}),
    # on more than one sprocket the class counts as well: a nine on a seven is two classes off
    tooth("no_go", "too_narrow", chain={"speeds": 10, "inner_width_mm": 2.18},
          cassette={"speeds": 7, "teeth": [14, 16, 18, 20, 22, 24, 28], "tooth_mm": 1.6}),
]  # fmt: skip
ring = table(
    "ring-chain", chain={"speeds": 1, "inner_width_mm": 2.38}, chainrings={"teeth": [44], "tooth_mm": 2.33}
)
RING = [
    ring("goes", "tooth_fits"),
    ring("no_go", "tooth_wide", chainrings={"tooth_mm": 2.34}),
    ring("goes_if", "tooth_play", chainrings={"tooth_mm": 1.47}),
    ring("no_go", "other", chain={"speeds": 12, "inner_width_mm": 2.18},
         chainrings={"teeth": [50, 34], "speeds": [9, 10], "tooth_mm": 1.7}),
]  # fmt: skip

wire = table(
    "spoke-lacing",
    rear_hub={"spoke_head": "j_bend", "holes": 32, "spoke_hole_mm": 2.25},
    rear_spokes={"head": "j_bend", "crosses": 3, "gauge_mm": 2.0},
)
WIRE = [
    wire("goes", "laces"),  # the thread passes, 0.25 of play
    wire("goes_if", "hole_tight", rear_hub={"spoke_hole_mm": 2.15}, figures={"thread_mm": 2.25}),
    wire("no_go", "hole_small", rear_hub={"spoke_hole_mm": 2.14}),
    wire("goes", "laces", rear_hub={"spoke_hole_mm": 2.8}),  # 0.8
    wire("goes_if", "head_loose", rear_hub={"spoke_hole_mm": 2.81}),
    wire("goes_if", "head_loose", rear_hub={"spoke_hole_mm": 3.2}, figures={"play_mm": 1.2}),
    wire("no_go", "head_too_loose", rear_hub={"spoke_hole_mm": 3.21}),
    wire("goes", "laces", rear_hub={"spoke_hole_mm": 2.6}, rear_spokes={"gauge_mm": 2.34}),
    wire("no_go", "hole_small", rear_hub={"spoke_hole_mm": 2.6}, rear_spokes={"gauge_mm": 2.6}),
    wire("goes", "laces", rear_spokes={"nipple_gauge_mm": 2.1}),
    wire("no_go", "nipples", rear_spokes={"nipple_gauge_mm": 1.8}),
    wire("unmeasured", "missing", rear_spokes={"gauge_mm": None}, asks=("rear_spokes.gauge_mm",)),
]

joints = table("chain-joints", chain={"joints": 2, "links": 116})
CITY, CARGO, TANDEM = {"use": "city"}, {"use": "cargo"}, {"use": "tandem"}
JOINTS = [
    joints(None, None, chain={"joints": 1}),
    joints("goes_if", "joined", CITY, empty=("motor",)),
    joints("no_go", "loaded", CARGO),
    joints("no_go", "loaded", CITY, motor={"type": "hub_rear"}),
    joints("no_go", "loaded", TANDEM, chain={"links": 126}),
    joints("goes_if", "too_long_for_one", TANDEM, chain={"links": 127}),
    joints("unmeasured", "missing", TANDEM, chain={"links": None}, asks=("chain.links",)),
    joints("unmeasured", "missing", CITY, asks=("motor",)),
    joints("unmeasured", "missing", asks=("bike.use",)),
]

STEEL = {"routing": "external", "material": "steel", "cable_stops": ["down_tube"]}
stop = table("line-route", frame=STEEL, rear_shift_line={"route": "down_tube_stops"})
STOPS = [
    stop("goes_if", "stop_missing", needs=("clamp-on cable stops", "housing all the way, tied"),
         figures={"missing": "chainstay"}),
    stop("goes", "runs", frame={"cable_stops": ["down_tube", "chainstay"]}),
    stop("goes", "runs", frame={"cable_stops": None}),
    stop("goes_if", "stop_missing", frame={"material": "carbon"}, needs=("housing all the way, tied",)),
    stop("unmeasured", "missing", frame={"material": None}, asks=("frame.material",)),
]  # fmt: skip

CASES: list[Case] = [
    *HANG, *FLAT, *PLACE, *PULL, *ROOM, *ALONE, *TOOTH, *RING, *WIRE, *JOINTS, *STOPS,
]  # fmt: skip

# handbook corrections: smaller wheels, hairs of size, plates, what lies above a carbon steerer, routes by brake
size = table(
    "wheel-size", frame={"design_bsd_mm": [630], "tyre_max_mm": {"630": 38}}, rear_rim={"bsd_mm": 622}
)
SIZE = [
    size("goes_if", "lower", rear_tyre={"width_mm": 25}, figures={"change_mm": 17},  # −4 + 25 − 38
         needs=("check brake reach and room", "a lower bracket")),
    size("goes_if", "far", rear_tyre={"width_mm": 27}),
    size("no_go", "too_far", rear_tyre={"width_mm": 58}),  # −4 + 58 − 38 = 16 larger
]  # fmt: skip
hair = table("stem-bar", stem={"bar_clamp_mm": 26.0}, handlebar={"clamp_mm": 25.8})
HAIR = [
    hair("goes_if", "as_one", needs=("a clamp a hair larger than the bar",)),
    hair("no_go", "other", handlebar={"clamp_mm": 25.4}),
]
damper = table("shock-fit", frame={"shock_eye_to_eye_mm": 205, "shock_stroke_mm": 60},
               shock={"eye_to_eye_mm": 205, "stroke_mm": 60, "mount": "trunnion"})  # fmt: skip
SHOCK = [
    damper("unmeasured", "missing", asks=("frame.shock_mount",)),
    damper("no_go", "other_mount", frame={"shock_mount": "eyelet"}),
    damper("goes", "fits", frame={"shock_mount": "trunnion"}),
    damper(
        "unmeasured", "missing", frame={"shock_mount": "eyelet"}, shock={"mount": None}, asks=("shock.mount",)
    ),
]
bare = table(
    "stem-spacers", spacers={"below_mm": 10, "above_mm": 0}, fork={"steerer_material": "carbon"}, stem={}
)
BARE = [
    bare("goes_if", "nothing_above", needs=("one spacer above the stem",)),
    bare("goes", "within", spacers={"above_mm": 5}),
    bare("goes", "within", fork={"steerer_material": "steel"}),
    bare("unmeasured", "missing", fork={"steerer_material": None}, asks=("fork.steerer_material",)),
]
plate = table(
    "bb-width",
    frame={"bb_shell": "bsa", "bb_shell_width_mm": 68},
    bottom_bracket={"shell": "bsa"},
    crank={"shell_widths_mm": [68, 73]},
    chain_guide={"mount": "bb_plate"},
)
PLATE = [
    plate(
        "goes_if", "shell_spacers", needs=("cup spacers",), figures={"spacers_mm": 5}
    ),  # 2.5 of it the plate
    plate("goes", "shell_spaced", bottom_bracket={"spacers_mm": 2.5}),
]
guide = table(
    "chain-guide",
    frame={"guide_mount": "none", "bb_shell": "bsa"},
    chain_guide={"mount": "iscg05", "ring_min_teeth": 30, "ring_max_teeth": 36},
    chainrings={"teeth": [36], "shape": "round"},
)
GUIDE = [
    guide("no_go", "no_mount", ways=("chain_guide.mount",)),  # behind the threaded cup
    guide("no_go", "no_mount", frame={"bb_shell": "pf30"}, ways=("frame.guide_mount",)),
    guide("no_go", "out_of_range", frame={"guide_mount": "iscg05"}, chain_guide={"oval_ok": True},
          chainrings={"shape": "oval"}, figures={"ring": "36 T oval, which stands out like 38 T", "teeth": 38}),
]  # fmt: skip
RIM, HANGER, DISC = "rear_top_tube_stops", "rear_hanger", "rear_disc_full"
to_brake = table("line-route", frame={"routing": "external"}, rear_brake_line={"route": RIM})
LEADS = [
    to_brake("goes", "runs", rear_caliper={"type": "dual_pivot"}),
    to_brake("no_go", "other_brake", rear_caliper={"type": "disc"}),
    to_brake("no_go", "other_brake", rear_brake_line={"route": HANGER}, rear_caliper={"type": "disc"}),
    to_brake("goes", "runs", rear_brake_line={"route": DISC}, rear_caliper={"type": "disc"}),
]
CASES += [*SIZE, *HAIR, *SHOCK, *BARE, *PLATE, *GUIDE, *LEADS]
