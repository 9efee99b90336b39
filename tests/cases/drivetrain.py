"""Drivetrain cases. Expected values come from the trade's tables, worked by hand in the margin."""

from tests.cases import Case, table

ELEVEN_TO_32 = [11, 12, 14, 16, 18, 21, 24, 28, 32]
TEN = [11, 13, 15, 17, 19, 21, 24, 28, 32, 36]

ROAD_11 = {"mount": "spline9_road11", "speeds": 11}
TO_34 = [11, 12, 13, 14, 15, 17, 19, 21, 23, 27, 34]

seat = table("freehub-seat", cassette={"mount": "spline9", "speeds": 9}, rear_hub={"freehub": "spline9"})
FREEHUB_SEAT = [
    seat("goes", "seated"),
    seat("goes", "own_body", cassette={"mount": "fine23", "speeds": 12}, rear_hub={"freehub": "fine23"}),
    seat("goes", "own_body", cassette={"mount": "threaded", "speeds": 7}, rear_hub={"freehub": "threaded"}),
    # 36.75 − 34.9 = 1.85
    seat("goes_if", "spacer", rear_hub={"freehub": "spline9_road11"}),
    seat("goes_if", "spacer", rear_hub={"freehub": "spline9_road11", "freehub_spacer_mm": 0}),
    seat("goes", "spacer_there", rear_hub={"freehub": "spline9_road11", "freehub_spacer_mm": 1.85}),
    seat("no_go", "wrong_spacer", rear_hub={"freehub": "spline9_road11", "freehub_spacer_mm": 1.0}),
    seat("no_go", "wrong_spacer", rear_hub={"freehub_spacer_mm": 1.85}),
    # 34.9 − 30.4 = 4.5; on the longer body 6.35
    seat(
        "goes",
        "spacer_there",
        cassette={"mount": "spline9_short", "speeds": 7},
        rear_hub={"freehub_spacer_mm": 4.5},
    ),
    seat(
        "goes",
        "spacer_there",
        cassette={"mount": "spline9_short", "speeds": 7},
        rear_hub={"freehub": "spline9_road11", "freehub_spacer_mm": 6.35},
    ),
    # a maker's own spacer: 0 + 1.0; on the longer body 2.85
    seat("goes_if", "spacer", cassette={"speeds": 10, "extra_spacer_mm": 1.0}),
    seat(
        "goes",
        "spacer_there",
        cassette={"speeds": 10, "extra_spacer_mm": 1.0},
        rear_hub={"freehub_spacer_mm": 1.0},
    ),
    # too long by 1.85, unless dished
    seat(
        "no_go",
        "body_too_short",
        cassette={"mount": "spline9_road11", "speeds": 11, "dished_mm": 0},
        ways=("cassette.mount", "rear_hub.freehub", "cassette.teeth"),
    ),
    seat("unmeasured", "missing", cassette={"mount": "spline9_road11", "speeds": 11}),
    # an overhang of 2.5 makes up 1.85 on 34 teeth, not on 32; one of 1.5 does not
    seat("goes", "seated", cassette={**ROAD_11, "teeth": TO_34, "dished_mm": 2.5}),
    seat("goes", "seated", cassette={**ROAD_11, "teeth": TO_34, "dished_mm": 1.85}),
    seat("no_go", "body_too_short", cassette={**ROAD_11, "teeth": TO_34, "dished_mm": 1.8}),
    seat("no_go", "body_too_short", cassette={**ROAD_11, "teeth": [*TO_34[:-1], 33], "dished_mm": 2.5}),
    seat("no_go", "body_too_short", cassette={**ROAD_11, "teeth": [*TO_34[:-1], 32]}),
    seat("unmeasured", "missing", cassette={**ROAD_11, "dished_mm": 2.5}, asks=("cassette.teeth",)),
    # overhanging it is as short as 34.9, and the long body wants 1.85 behind it
    seat(
        "goes_if",
        "spacer",
        cassette={**ROAD_11, "teeth": TO_34, "dished_mm": 2.5},
        rear_hub={"freehub": "spline9_road11"},
        figures={"spacer_mm": 1.85},
    ),
    # just enough overhang (36.75 − 34.9 = 1.85); a little less, or a tooth fewer, and it fills the long body
    seat(
        "goes_if",
        "spacer",
        cassette={**ROAD_11, "teeth": TO_34, "dished_mm": 1.85},
        rear_hub={"freehub": "spline9_road11"},
        figures={"stack_mm": 34.9, "spacer_mm": 1.85},
    ),
    *(
        seat(
            "goes",
            "seated",
            cassette={**ROAD_11, **overhang},
            rear_hub={"freehub": "spline9_road11"},
            figures={"stack_mm": 36.75},
        )
        for overhang in (
            {"teeth": TO_34, "dished_mm": 1.8},
            {"teeth": TO_34, "dished_mm": 0},
            {"teeth": [*TO_34[:-1], 33], "dished_mm": 2.5},
        )
    ),
    seat(
        "goes",
        "seated",
        cassette={"mount": "spline9_road11", "speeds": 11},
        rear_hub={"freehub": "spline9_road11"},
    ),
    # dished or not, 34.9 on 30.4 is too long: nothing to measure
    seat(
        "no_go",
        "body_too_short",
        cassette={"mount": "spline9_road11", "speeds": 11},
        rear_hub={"freehub": "spline9_short"},
    ),
    # nine sprockets less one: 34.9 − 4.35 = 30.55, 0.15 too long for 30.4
    seat(
        "goes_if",
        "lockring_short",
        cassette={"teeth": ELEVEN_TO_32[:-1]},
        rear_hub={"freehub": "spline9_short"},
    ),
    # ten less one: 34.9 − 3.95 = 30.95, 0.55 too long; pitch 3.8 stated: 31.1, 0.7; 3.75: 31.15, 0.75
    seat(
        "goes_if",
        "lockring_short",
        cassette={"speeds": 10, "teeth": TEN[:-1]},
        rear_hub={"freehub": "spline9_short"},
        figures={"too_long_mm": 0.55},
        needs=("count the lockring's threads: three at least",),
    ),
    seat(
        "goes_if",
        "lockring_short",
        cassette={"speeds": 10, "teeth": TEN[:-1], "sprocket_pitch_mm": 3.8},
        rear_hub={"freehub": "spline9_short"},
    ),
    seat(
        "no_go",
        "body_too_short",
        cassette={"speeds": 10, "teeth": TEN[:-1], "sprocket_pitch_mm": 3.75},
        rear_hub={"freehub": "spline9_short"},
    ),
    # one lone cog wants spacers on both sides; a freewheel screws on a fixed hub
    seat("goes_if", "lone_cog", cassette={"speeds": 1, "teeth": [16]}, needs=("cog spacers",)),
    seat(
        "goes_if",
        "freewheel_on_fixed",
        cassette={"mount": "threaded", "speeds": 1, "teeth": [16]},
        rear_hub={"freehub": "fixed_threaded"},
        needs=("leave the lockring's thread free", "ride with two brakes"),
    ),
    seat(
        "no_go",
        "other_family",
        cassette={"mount": "fixed_threaded", "speeds": 1, "teeth": [16]},
        rear_hub={"freehub": "threaded"},
    ),
    # eight less one: 34.9 − 4.8 = 30.1, 0.3 short
    seat(
        "goes_if",
        "spacer",
        cassette={"speeds": 8, "teeth": [11, 13, 15, 18, 21, 24, 28]},
        rear_hub={"freehub": "spline9_short"},
    ),
    seat("unmeasured", "missing", rear_hub={"freehub": "fine23"}, asks=("rear_hub.freehub_swaps",)),
    seat("no_go", "other_family", rear_hub={"freehub": "fine23", "freehub_swaps": []}),
    seat("no_go", "other_family", rear_hub={"freehub": "threaded"}),
    seat("no_go", "other_family", cassette={"mount": "threaded", "speeds": 7}),
    seat("goes_if", "swap_body", rear_hub={"freehub": "fine23", "freehub_swaps": ["spline9", "step_thread"]}),
    seat("no_go", "other_family", rear_hub={"freehub": "fine23", "freehub_swaps": ["step_thread"]}),
    seat(
        "goes_if",
        "spacer",
        cassette={"mount": "step_thread", "speeds": 12},
        rear_hub={"freehub": "step_thread_road"},
    ),
    seat(
        "no_go",
        "body_too_short",
        cassette={"mount": "step_thread_road", "speeds": 12},
        rear_hub={"freehub": "step_thread"},
    ),
    seat(
        "goes_if",
        "ring_adapter",
        cassette={"mount": "italic8", "speeds": 12},
        rear_hub={"freehub": "italic8_13"},
    ),
    seat(
        "no_go",
        "other_family",
        cassette={"mount": "italic8_13", "speeds": 13},
        rear_hub={"freehub": "italic8", "freehub_swaps": []},
    ),
    seat("unmeasured", "missing", cassette={"mount": None}),
    seat("unmeasured", "missing", rear_hub={"freehub": None}),
    seat(None, None, rear_hub=None),
]

clicks = table(
    "click-count",
    cassette={"speeds": 9, "teeth": ELEVEN_TO_32},
    rear_shifter={"mode": "indexed", "speeds": 9},
)
CLICK_COUNT = [
    clicks("goes", "equal"),
    clicks("goes", "equal", cassette={"teeth": None}),
    clicks("no_go", "differ", rear_shifter={"speeds": 8}),
    clicks("no_go", "differ", rear_shifter={"speeds": 10}),
    # where the families are known: 2.8 × 1.7 = 4.76 for a pitch of 4.35: 0.41 more each click; clean to the second
    # gear (0.41), usable to the third (0.82)
    clicks(
        "no_go",
        "differ_usable",
        cassette={"mount": "spline9"},
        rear_shifter={"speeds": 8, "pull_per_click_mm": 2.8},
        rear_derailleur={"shift_ratio": 1.7},
        figures={"clean": 2, "usable": 3},
    ),
    # no lever pulls 300 mm a click: how many gears work cannot be reported, that the counts differ can
    clicks(
        "no_go",
        "differ",
        cassette={"mount": "spline9"},
        rear_shifter={"speeds": 8, "pull_per_click_mm": 300},
        rear_derailleur={"shift_ratio": 1.7},
    ),
    # a lone cog on a gear hub is not clicks and sprockets; where it may be one it is asked
    clicks(None, None, cassette={"speeds": 1, "teeth": [18]}, rear_hub={"internal_gears": 8}),
    clicks(
        "unmeasured",
        "missing",
        cassette={"speeds": 1, "teeth": [18]},
        rear_hub={},
        asks=("rear_hub.internal_gears",),
    ),
    clicks("no_go", "differ", cassette={"speeds": 1, "teeth": [18]}, rear_hub={"internal_gears": 0}),
    clicks("goes_if", "one_left_out", cassette={"teeth": ELEVEN_TO_32[:-1]}),
    clicks("unmeasured", "missing", cassette={"teeth": ELEVEN_TO_32[:-1], "speeds": None}),
    clicks("unmeasured", "missing", cassette={"teeth": None, "speeds": None}),
    clicks("unmeasured", "missing", rear_shifter={"speeds": None}),
    clicks("unmeasured", "missing", rear_shifter={"mode": None}),
    clicks("goes", "friction", rear_shifter={"mode": "friction", "speeds": None}),
    # (9 − 1) × 4.35 / 1.7 = 20.47 mm
    clicks(
        "no_go",
        "friction_short",
        rear_shifter={"mode": "friction", "total_pull_mm": 20.0},
        rear_derailleur={"shift_ratio": 1.7},
    ),
    clicks(
        "goes",
        "friction",
        rear_shifter={"mode": "friction", "total_pull_mm": 21.0},
        rear_derailleur={"shift_ratio": 1.7},
    ),
    clicks(
        "no_go",
        "electronic_differ",
        rear_shifter={"mode": "electronic"},
        rear_derailleur={"actuation": "electronic", "speeds": 11},
    ),
    clicks(
        "goes",
        "equal",
        rear_shifter={"mode": "electronic", "speeds": None},
        rear_derailleur={"actuation": "electronic", "speeds": 9},
    ),
    clicks(None, None, rear_shifter=None),
]

index = table(
    "index-alignment",
    cassette={"speeds": 9, "teeth": ELEVEN_TO_32, "sprocket_pitch_mm": 4.35},
    rear_shifter={"mode": "indexed", "speeds": 9, "pull_per_click_mm": 2.5},
    rear_derailleur={"actuation": "cable", "shift_ratio": 1.7},
)
INDEX_ALIGNMENT = [
    index("goes", "one_family"),  # 2.5 × 1.7 = 4.25, one row of the table
    index("goes", "one_family", cassette={"sprocket_pitch_mm": None}),
    # 4.0 × 1.1 = 4.40 is the long-pull row
    index(
        "goes", "one_family", rear_shifter={"pull_per_click_mm": 4.0}, rear_derailleur={"shift_ratio": 1.1}
    ),
    # 2.55 × 1.7 = 4.335: 0.015 off, but 0.05 from the row's pull: mixed; 0.015 × 8 / 2 = 0.06
    index("goes_if", "adjust", rear_shifter={"pull_per_click_mm": 2.55}),
    # 2.65 × 1.7 = 4.505: 0.155 × 4 = 0.62
    index("goes_if", "noisy", rear_shifter={"pull_per_click_mm": 2.65}),
    # 3.0 × 1.7 = 5.1: 0.75 × 4 = 3.0
    index("no_go", "skips", rear_shifter={"pull_per_click_mm": 3.0}),
    # eight clicks on nine: 2.8 × 1.7 = 4.76; 0.41 × 7 / 2 = 1.435
    index(
        "no_go", "skips", rear_shifter={"speeds": 8, "pull_per_click_mm": 2.8}, figures={"worst_mm": 1.435}
    ),
    index("no_go", "two_systems", cassette={"speeds": 12, "teeth": None}, rear_shifter={"speeds": 5}),
    # eleven, 2.7 × 1.4 = 3.78: road pitch by its mount; on a 34.9 body either pitch, so it hangs on it
    index(
        "goes",
        "one_family",
        cassette={"speeds": 11, "teeth": None, "sprocket_pitch_mm": None, "mount": "spline9_road11"},
        rear_shifter={"speeds": 11, "pull_per_click_mm": 2.7},
        rear_derailleur={"shift_ratio": 1.4},
    ),
    index(
        "unmeasured",
        "two_pitches",
        cassette={"speeds": 11, "teeth": None, "sprocket_pitch_mm": None, "mount": "spline9"},
        rear_shifter={"speeds": 11, "pull_per_click_mm": 2.7},
        rear_derailleur={"shift_ratio": 1.4},
    ),
    index("unmeasured", "missing", rear_shifter={"pull_per_click_mm": None}),
    index("unmeasured", "missing", rear_derailleur={"shift_ratio": None}),
    index("unmeasured", "missing", rear_shifter={"mode": None}),
    index(None, None, rear_shifter={"mode": "friction"}),
    index(None, None, rear_derailleur={"actuation": "electronic"}),
]

large = table(
    "largest-sprocket",
    cassette={"teeth": TEN},
    rear_derailleur={"sprocket_max_teeth": 36},
    frame={"hanger": "m10"},
)
LARGEST_SPROCKET = [
    large("goes", "within"),
    large("goes", "within", frame=None),
    large("goes_if", "over", rear_derailleur={"sprocket_max_teeth": 34}),
    large("no_go", "too_far", rear_derailleur={"sprocket_max_teeth": 33}),
    large("no_go", "no_extender", rear_derailleur={"sprocket_max_teeth": 35}, frame={"hanger": "m10_direct"}),
    large("no_go", "no_extender", rear_derailleur={"sprocket_max_teeth": 35}, frame={"hanger": "claw"}),
    large("unmeasured", "missing", rear_derailleur={"sprocket_max_teeth": 35}, frame={"hanger": None}),
    large("unmeasured", "missing", cassette={"teeth": None}),
    large("unmeasured", "missing", rear_derailleur={"sprocket_max_teeth": None}),
    large(None, None, rear_derailleur=None),
]

small = table("smallest-sprocket", cassette={"teeth": TEN}, rear_derailleur={"sprocket_min_teeth": 11})
SMALLEST_SPROCKET = [
    small("goes", "within"),
    small("goes_if", "one_under", rear_derailleur={"sprocket_min_teeth": 12}),
    small("no_go", "too_small", rear_derailleur={"sprocket_min_teeth": 13}),
    small("unmeasured", "missing", rear_derailleur={"sprocket_min_teeth": None}),
    small(None, None, cassette=None),
]

# (50 − 34) + (36 − 11) = 41
wrap = table(
    "capacity",
    chainrings={"teeth": [50, 34]},
    cassette={"teeth": TEN},
    rear_derailleur={"capacity_teeth": 41},
)
CAPACITY = [
    wrap("goes", "within"),
    wrap("goes_if", "over", rear_derailleur={"capacity_teeth": 39}),
    wrap("no_go", "too_far", rear_derailleur={"capacity_teeth": 38}),
    wrap("unmeasured", "missing", rear_derailleur={"capacity_teeth": None}),
    # the rings alone differ by 16, the sprockets by 25: more than two over is certain without the other
    wrap("no_go", "rings_too_far", cassette={"teeth": None}, rear_derailleur={"capacity_teeth": 13}),
    wrap("unmeasured", "missing", cassette={"teeth": None}, rear_derailleur={"capacity_teeth": 14}),
    wrap("no_go", "sprockets_too_far", chainrings={"teeth": None}, rear_derailleur={"capacity_teeth": 22}),
    wrap("unmeasured", "missing", chainrings={"teeth": None}, rear_derailleur={"capacity_teeth": 23}),
    wrap("unmeasured", "missing", chainrings={"teeth": None}),
    wrap(None, None, rear_derailleur=None),
]

width = table("chain-width", chain={"speeds": 9}, cassette={"speeds": 9})
CHAIN_WIDTH = [
    width("goes", "same"),
    width("goes", "same", chain={"speeds": 8}, cassette={"speeds": 6}),
    width("goes_if", "narrower", chain={"speeds": 10}),
    width("goes_if", "narrower", chain={"speeds": 9}, cassette={"speeds": 8}),
    width("no_go", "too_narrow", chain={"speeds": 11}),
    width("no_go", "too_wide", chain={"speeds": 8}),
    width("no_go", "too_wide", chain={"speeds": 1}, cassette={"speeds": 8}),
    # 3/32 in does not go over 1/8 in teeth; 1/8 in runs on a lone 3/32 in cog
    width("no_go", "eighth", chain={"speeds": 8}, cassette={"speeds": 1}),
    width(
        "goes_if",
        "lone_cog",
        chain={"speeds": 1},
        cassette={"speeds": 8, "teeth": [18]},
        needs=("a little play at the cog",),
    ),
    width("no_go", "too_wide", chain={"speeds": 1}, cassette={"speeds": 9, "teeth": [18]}),
    width("unmeasured", "missing", chain={"speeds": None}),
    width(None, None, chain=None),
]

# 432 mm, 40 × 11–42: big/big 1385.248 mm = 109.07 links, next even 110, + 2 = 112; capacity 39: + 2·2
length = table(
    "chain-length",
    chain={"links": 112},
    frame={"chainstay_mm": 432},
    chainrings={"teeth": [40]},
    cassette={"teeth": [11, 42]},
    rear_derailleur={"capacity_teeth": 39},
)
CHAIN_LENGTH = [
    length("goes", "within"),
    length("goes", "within", chain={"links": 116}),
    length(
        "goes_if",
        "too_long",
        chain={"links": 118},
        needs=("take links out",),
        figures={"wanted": 112, "long_by": 6},
    ),
    # certain whatever is missing: the shortest way round 40/42 on 432 is 109.1 links; round 16/9 at the least
    length("no_go", "never_round", chain={"links": 90}, rear_derailleur=None, figures={"low": 110}),
    length("no_go", "never_round", chain={"links": 60}, chainrings={"teeth": None}, cassette={"teeth": None}),
    length("no_go", "too_short", chain={"links": 110}, shock={"stroke_mm": 50}),
    length("unmeasured", "odd", chain={"links": 113}),
    length("no_go", "too_short", chain={"links": 109}),
    # sprung by its use, and nobody looked for a shock
    length("unmeasured", "sprung_unknown", {"use": "trail"}, asks=("frame.chain_growth_mm", "shock")),
    length("goes", "within", {"use": "trail"}, empty=("shock",)),
    length("goes", "within", {"use": "gravel"}),
    length("no_go", "too_short", chain={"links": 110}),
    length("no_go", "too_short", chain={"links": 110}, rear_derailleur={"capacity_teeth": None}),
    length("goes_if", "upper_unknown", rear_derailleur={"capacity_teeth": None}),
    length("goes", "lower_end", rear_derailleur={"capacity_teeth": 30}),
    length("goes_if", "too_long", chain={"links": 114}, rear_derailleur={"capacity_teeth": 30}),
    length("no_go", "too_short", rear_derailleur={"extra_links": 4}),
    # growth 15 mm lengthens both runs: 1385.25 + 30 = 1415.2 mm = 111.4 links, 112 + 2 = 114
    length("no_go", "too_short", frame={"chain_growth_mm": 15}, shock={}),
    length("goes", "within", chain={"links": 114}, frame={"chain_growth_mm": 15}, shock={}),
    length("unmeasured", "growth_unknown", shock={"stroke_mm": 50}),
    length("unmeasured", "growth_unknown", frame={"wheel_travel_mm": 120}),
    length("unmeasured", "beyond", frame={"chainstay_mm": 140}),
    length("unmeasured", "missing", frame={"chainstay_mm": None}),
    length("unmeasured", "missing", chain={"links": None}),
    length(None, None, rear_derailleur=None),
]

bolts = table(
    "ring-mount",
    crank={"ring_mount": "104x4", "rings": 1},
    chainrings={"mount": "104x4", "teeth": [34]},
)
RING_MOUNT = [
    # rings of two circles may hang on this crank: which ones they are is asked for, never guessed
    bolts(
        "unmeasured",
        "missing",
        crank={"ring_mount": ["110x5", "74x5"], "rings": 2},
        chainrings={"mount": None, "teeth": [46, 30]},
        asks=("chainrings.mount",),
    ),
    bolts(
        "unmeasured",
        "missing",
        crank={"ring_mount": None, "rings": 2},
        chainrings={"mount": ["110x5", "74x5"], "teeth": [46, 30]},
        asks=("crank.ring_mount",),
    ),
    # 30 teeth go on 74 mm, not on 110: two rings on a crank for three
    bolts(
        "unmeasured",
        "missing",
        crank={"ring_mount": ["110x5", "110x5", "74x5"], "rings": 3},
        chainrings={"mount": None, "teeth": [46, 30]},
    ),
    # the inner ring's circle is none of the crank's
    bolts(
        "no_go",
        "other_mount",
        crank={"ring_mount": ["104x4", "104x4"], "rings": 2},
        chainrings={"mount": ["104x4", "64x4"], "teeth": [44, 32]},
    ),
    bolts("goes", "mounted"),
    bolts(
        "goes",
        "mounted",
        crank={"ring_mount": "direct_8notch"},
        chainrings={"mount": "direct_8notch", "teeth": [28]},
    ),
    bolts(
        "goes",
        "mounted",
        crank={"ring_mount": ["104x4", "104x4", "64x4"], "rings": 3},
        chainrings={"mount": ["104x4", "104x4", "64x4"], "teeth": [44, 32, 22]},
    ),
    bolts("goes_if", "fewer_rings", crank={"rings": 2}),
    bolts("no_go", "other_mount", chainrings={"mount": "96x4"}),
    bolts("no_go", "other_mount", chainrings={"mount": "110x4"}, crank={"ring_mount": "110x5"}),
    bolts("no_go", "other_mount", crank={"ring_mount": "direct_quay"}, chainrings={"mount": "direct_8notch"}),
    bolts("no_go", "too_many", chainrings={"teeth": [44, 32]}),
    bolts("no_go", "too_small", chainrings={"teeth": [28]}),
    bolts("no_go", "too_small", chainrings={"teeth": [30], "threaded_in": False}),
    bolts("goes", "mounted", chainrings={"teeth": [30], "threaded_in": True}),
    bolts("unmeasured", "threaded_unknown", chainrings={"teeth": [30]}),
    bolts("no_go", "too_small", crank={"ring_mount": "130x5"}, chainrings={"mount": "130x5", "teeth": [37]}),
    bolts("goes", "mounted", crank={"ring_mount": "130x5"}, chainrings={"mount": "130x5", "teeth": [38]}),
    bolts(
        "unmeasured", "mount_unknown", crank={"rings": 2}, chainrings={"mount": ["104x4"], "teeth": [44, 32]}
    ),
    bolts("unmeasured", "missing", crank={"ring_mount": None}),
    bolts(None, None, crank=None),
]

GEARED = {
    "internal_gears": 8,
    "protocol": "eight",
    "cog_min_teeth": 16,
    "cog_max_teeth": 23,
    "ratio_min": 1.8,
    "line_mm": 46,
}
gear_hub = table(
    "gear-hub",
    rear_hub=GEARED,
    rear_shifter={"mode": "indexed", "speeds": 8, "protocol": "eight"},
    cassette={"speeds": 1, "teeth": [20], "mount": "single_cog"},
    chainrings={"teeth": [38]},
    crank={"chainline_mm": 47},
)
GEAR_HUB = [
    gear_hub("goes", "fits"),  # 38 / 20 = 1.9
    gear_hub("goes", "fits", chainrings={"teeth": [36]}),  # 1.8
    gear_hub("no_go", "ratio", chainrings={"teeth": [35]}, figures={"ratio": 1.75}),
    gear_hub("no_go", "positions", rear_shifter={"speeds": 7}),
    gear_hub("no_go", "other_code", rear_shifter={"protocol": "other"}),
    gear_hub("goes", "fits", cassette={"teeth": [16]}),
    gear_hub("goes", "fits", cassette={"teeth": [20]}, rear_hub={"cog_max_teeth": 20}),
    gear_hub("no_go", "cog", cassette={"teeth": [20]}, rear_hub={"cog_max_teeth": 19}),
    gear_hub("no_go", "cog", cassette={"teeth": [15]}),
    gear_hub("no_go", "cog", cassette={"teeth": [24]}, rear_hub={"cog_min_teeth": None}),
    gear_hub("goes", "fits", crank={"chainline_mm": 49}),
    gear_hub("no_go", "line", crank={"chainline_mm": 49.1}, figures={"off_mm": 3.1}),
    gear_hub("goes_if", "washers", rear_hub={"axle_flats_mm": 9}, needs=("turn washers",)),
    gear_hub("unmeasured", "missing", rear_hub={"protocol": None}, asks=("rear_hub.protocol",)),
    gear_hub("unmeasured", "missing", rear_hub={"ratio_min": None}, asks=("rear_hub.ratio_min",)),
    gear_hub("unmeasured", "missing", rear_hub={"cog_max_teeth": None}),
    gear_hub(None, None, rear_hub={"internal_gears": 0}),
    gear_hub(None, None, rear_hub={"internal_gears": None}),
]

fixed = table(
    "fixed-wheel",
    cassette={"mount": "fixed_threaded", "teeth": [16], "speeds": 1},
    rear_hub={"freehub": "fixed_threaded"},
)
FIXED = [
    fixed("goes", "held"),
    fixed("no_go", "tensioner", rear_derailleur={}),
    fixed("no_go", "tensioner", rear_derailleur={}, rear_hub=None),
    fixed("no_go", "unscrews", rear_hub={"freehub": "threaded"}),
    fixed("unmeasured", "missing", rear_hub={"freehub": None}),
    fixed("unmeasured", "missing", cassette={"mount": None}, asks=("cassette.mount",)),
    fixed(None, None, cassette={"mount": "single_cog"}),
    fixed(None, None, cassette={"mount": None, "teeth": [11, 13, 15], "speeds": 3}),
]

CASES: list[Case] = [
    *GEAR_HUB,
    *FIXED,
    *FREEHUB_SEAT,
    *CLICK_COUNT,
    *INDEX_ALIGNMENT,
    *LARGEST_SPROCKET,
    *SMALLEST_SPROCKET,
    *CAPACITY,
    *CHAIN_WIDTH,
    *CHAIN_LENGTH,
    *RING_MOUNT,
]
