"""Drivetrain cases. Expected values come from the trade's tables, worked by hand in the margin."""

from tests.cases import Case, table

ELEVEN_TO_32 = [11, 12, 14, 16, 18, 21, 24, 28, 32]
TEN = [11, 13, 15, 17, 19, 21, 24, 28, 32, 36]

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
    seat("no_go", "body_too_short", cassette={"mount": "spline9_road11", "speeds": 11, "dished_mm": 0}),
    seat("unmeasured", "dished_unknown", cassette={"mount": "spline9_road11", "speeds": 11}),
    seat("goes", "seated", cassette={"mount": "spline9_road11", "speeds": 11, "dished_mm": 2.5}),
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
    # ten less one: 34.9 − 3.95 = 30.95, 0.55 too long
    seat(
        "no_go",
        "body_too_short",
        cassette={"speeds": 10, "teeth": TEN[:-1]},
        rear_hub={"freehub": "spline9_short"},
    ),
    # eight less one: 34.9 − 4.8 = 30.1, 0.3 short
    seat(
        "goes_if",
        "spacer",
        cassette={"speeds": 8, "teeth": [11, 13, 15, 18, 21, 24, 28]},
        rear_hub={"freehub": "spline9_short"},
    ),
    seat("no_go", "other_family", rear_hub={"freehub": "fine23"}),
    seat("no_go", "other_family", rear_hub={"freehub": "threaded"}),
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
        rear_hub={"freehub": "italic8"},
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
    clicks("goes_if", "one_left_out", cassette={"teeth": ELEVEN_TO_32[:-1]}),
    clicks("unmeasured", "unknown", cassette={"teeth": ELEVEN_TO_32[:-1], "speeds": None}),
    clicks("unmeasured", "unknown", cassette={"teeth": None, "speeds": None}),
    clicks("unmeasured", "unknown", rear_shifter={"speeds": None}),
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
    index("no_go", "skips", rear_shifter={"speeds": 8, "pull_per_click_mm": 2.8}),
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
        "unknown",
        cassette={"speeds": 11, "teeth": None, "sprocket_pitch_mm": None, "mount": "spline9"},
        rear_shifter={"speeds": 11, "pull_per_click_mm": 2.7},
        rear_derailleur={"shift_ratio": 1.4},
    ),
    index("unmeasured", "unknown", rear_shifter={"pull_per_click_mm": None}),
    index("unmeasured", "unknown", rear_derailleur={"shift_ratio": None}),
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
    large("unmeasured", "hanger_unknown", rear_derailleur={"sprocket_max_teeth": 35}, frame={"hanger": None}),
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
    length("goes_if", "too_long", chain={"links": 118}),
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
    bolts("unmeasured", "mount_unknown", chainrings={"mount": ["104x4"], "teeth": [44, 32]}),
    bolts("unmeasured", "missing", crank={"ring_mount": None}),
    bolts(None, None, crank=None),
]

CASES: list[Case] = [
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
