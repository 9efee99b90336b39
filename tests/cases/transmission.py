"""Cases of the rest of the drivetrain."""

from tests.cases import Case, table

hang = table("derailleur-mount", frame={"hanger": "m10"}, rear_derailleur={"mount": "m10"})
MOUNT = [
    hang("goes", "same"),
    hang("goes", "same", frame={"hanger": "axle_clamped"}, rear_derailleur={"mount": "axle_clamped"}),
    hang("goes_if", "link_off", frame={"hanger": "m10_direct"}, rear_derailleur={"removable_link": True}),
    hang("no_go", "other", frame={"hanger": "m10_direct"}, rear_derailleur={"removable_link": False}),
    hang("unmeasured", "missing", frame={"hanger": "m10_direct"}),
    hang("goes_if", "claw", frame={"hanger": "claw"}),
    hang("no_go", "other", rear_derailleur={"mount": "axle_clamped"}),
    hang("no_go", "other", rear_derailleur={"mount": "m10_direct"}),
    hang("no_go", "none", frame={"hanger": "none"}, rear_derailleur={"mount": None}),
    hang("no_go", "none", frame={"hanger": None}, rear_derailleur={"mount": "none"}),
    hang("unmeasured", "missing", frame={"hanger": None}),
    hang(None, None, frame=None),
]

differ = table(
    "ring-difference", chainrings={"teeth": [50, 34]}, rear_derailleur={"ring_difference_max_teeth": 16}
)
DIFFERENCE = [
    differ("goes", "within"),
    differ("goes_if", "over", rear_derailleur={"ring_difference_max_teeth": 14}),
    differ("no_go", "too_far", rear_derailleur={"ring_difference_max_teeth": 13}),
    differ("unmeasured", "missing", rear_derailleur={"ring_difference_max_teeth": None}),
    differ("unmeasured", "missing", chainrings={"teeth": None}),
    differ(None, None, chainrings={"teeth": [40]}, rear_derailleur={"ring_difference_max_teeth": None}),
]

# 135 mm: first sprocket 67.5 − 4.5 = 63.0, ninth 63.0 − 8 × 4.35 = 28.2
angle = table(
    "chain-angle",
    chainrings={"teeth": [38]},
    cassette={"speeds": 9, "teeth": [11, 13, 15, 17, 20, 23, 26, 30, 34], "mount": "spline9"},
    crank={"chainline_mm": 45.6, "rings": 1},
    rear_hub={"spacing_mm": 135, "axle_kind": "quick_release"},
    frame={"chainstay_mm": 440},
)
ANGLE = [
    angle("goes", "quiet"),  # 17.4 / 440: atan = 2.26°
    angle("goes_if", "noisy", crank={"chainline_mm": 50}),  # 50 − 28.2 = 21.8: 2.84°
    angle("goes_if", "avoid", crank={"chainline_mm": 56}),  # 27.8: 3.62°
    # one ring on a crank for two: inner seat 46.5 − 3.5 = 43.0; 63.0 − 43.0 = 20.0, 2.60°
    angle("goes", "quiet", crank={"chainline_mm": 46.5, "rings": 2}),
    angle("goes", "quiet", crank={"chainline_mm": 46.5, "rings": 2, "ring_offset_mm": [3.5, -3.5]}),
    # the lone ring's own offset says where it sits: 50, as above
    angle("goes_if", "noisy", crank={"chainline_mm": 46.5, "rings": 2, "ring_offset_mm": [3.5]}),
    # a crank for three, 52, 45 and 38: the middle seat, 63 − 45 = 18: 2.34°
    angle("goes", "quiet", crank={"chainline_mm": 45, "rings": 3}),
    # 12 mm thru 148: first 74 − 8 = 66, twelfth 66 − 11 × 3.65 = 25.85; 52: 26.15 / 440 = 3.40°
    angle(
        "goes_if",
        "noisy",
        cassette={"speeds": 12, "teeth": None, "mount": "fine23"},
        crank={"chainline_mm": 52},
        rear_hub={"spacing_mm": 148, "axle_kind": "thru"},
    ),
    # a fast bike, two seats at 50 and 43: outer 50 − 28.2 = 21.8 (2.84°), inner 20.0 (2.60°) in 38/11;
    # the fast half (11 to 20) counts twice: inner 2 × 2.60 = 5.21, outer 2.84: the outer seat
    angle(
        "goes_if",
        "noisy",
        {"use": "road"},
        crank={"chainline_mm": 46.5, "rings": 2},
        figures={"seat": " with the ring on the outer seat", "worst_deg": 2.836},
    ),
    angle(
        "goes",
        "quiet",
        {"use": "gravel"},
        crank={"chainline_mm": 46.5, "rings": 2},
        figures={"seat": " with the ring on the inner seat", "worst_deg": 2.603},
    ),
    angle("unmeasured", "missing", cassette={"speeds": None, "teeth": None}),
    angle("unmeasured", "missing", crank={"chainline_mm": None}),
    angle(None, None, crank=None),
    angle(None, None, cassette={"speeds": 1, "teeth": [16], "mount": "fixed_threaded"}),
]
keep = table(
    "ring-retention",
    chainrings={"teeth": [32], "tooth_profile": "narrow_wide"},
    rear_derailleur={"clutch": True},
)
TRAIL = {"use": "trail"}
NO_GUIDE = ("chain_guide",)
RETENTION = [
    keep("goes", "kept", TRAIL),
    keep("goes", "guided", TRAIL, rear_derailleur={"clutch": False}, chain_guide={}),
    keep(
        "goes_if",
        "drops",
        TRAIL,
        rear_derailleur={"clutch": False},
        empty=NO_GUIDE,
        needs=("chain guide", "narrow-wide ring with a clutch derailleur"),
    ),
    keep("goes_if", "drops", TRAIL, chainrings={"tooth_profile": "plain"}, empty=NO_GUIDE),
    keep("goes_if", "drops", {"use": "gravel"}, rear_derailleur={"clutch": False}, empty=NO_GUIDE),
    keep("unmeasured", "missing", TRAIL, rear_derailleur={"clutch": False}, asks=("chain_guide",)),
    keep(
        "unmeasured",
        "missing",
        TRAIL,
        rear_derailleur={"clutch": None},
        empty=NO_GUIDE,
        asks=("rear_derailleur.clutch",),
    ),
    keep("unmeasured", "missing", TRAIL, chainrings={"tooth_profile": None}, empty=NO_GUIDE),
    keep("goes", "smooth", rear_derailleur={"clutch": False}),
    keep("goes", "smooth", {"use": "road"}, rear_derailleur={"clutch": None}),
    keep("unmeasured", "missing", chainrings={"teeth": None}),
    keep(None, None, chainrings={"teeth": [44, 32]}),
]

clear = table(
    "ring-clearance",
    frame={"chainring_max_teeth": {"1": 36, "2": 38}},
    chainrings={"teeth": [36], "shape": "round"},
)
CLEARANCE = [
    clear("goes", "within"),
    clear("no_go", "too_large", chainrings={"teeth": [37]}),
    clear("no_go", "too_large", chainrings={"teeth": [37], "shape": None}),
    clear("goes", "within", chainrings={"teeth": [38, 24]}),
    # an oval ring of 34 stands out like 36, one of 35 like 37
    clear("goes", "within", chainrings={"teeth": [34], "shape": "oval"}, figures={"largest": 36}),
    clear("no_go", "too_large", chainrings={"teeth": [35], "shape": "oval"}, figures={"largest": 37}),
    clear("goes", "within", chainrings={"teeth": [34], "shape": None}),
    clear("unmeasured", "missing", chainrings={"teeth": [35], "shape": None}, asks=("chainrings.shape",)),
    clear("unmeasured", "missing", chainrings={"teeth": None}),
    clear(None, None, frame={"chainring_max_teeth": {"2": 38}}),
    clear(None, None, frame={"chainring_max_teeth": None}),
]

ring = table("ring-chain", chain={"speeds": 10}, chainrings={"speeds": [9, 10]})
RING_CHAIN = [
    ring("goes", "takes"),
    ring("goes_if", "narrower", chain={"speeds": 11}),
    ring("no_go", "other", chain={"speeds": 12}),
    ring("no_go", "other", chain={"speeds": 8}),
    # 3/32 in does not go over 1/8 in teeth; 1/8 in runs on a lone 3/32 in ring, not on two
    ring("no_go", "other", chain={"speeds": 8}, chainrings={"speeds": [1]}),
    ring("goes_if", "lone_ring", chain={"speeds": 1}, chainrings={"speeds": [8], "teeth": [44]}),
    ring("no_go", "other", chain={"speeds": 1}, chainrings={"speeds": [8], "teeth": [44, 32]}),
    ring("no_go", "other", chain={"speeds": 1}, chainrings={"speeds": [9], "teeth": [44]}),
    ring(
        "goes",
        "takes",
        chain={"speeds": 12},
        chainrings={"speeds": None, "tooth_profile": "narrow_wide", "teeth": [32]},
    ),
    ring("unmeasured", "missing", chain={"speeds": None}),
    ring(None, None, chainrings={"speeds": None}),
]

guide = table(
    "chain-guide",
    frame={"guide_mount": "iscg05"},
    chain_guide={"mount": "iscg05", "ring_min_teeth": 28, "ring_max_teeth": 36},
    chainrings={"teeth": [34], "shape": "round"},
)
GUIDE = [
    guide("goes", "fits"),
    guide("goes", "fits", chainrings={"shape": "oval"}, chain_guide={"oval_ok": True}),
    guide(
        "no_go", "out_of_range", chainrings={"teeth": [36], "shape": "oval"}, chain_guide={"oval_ok": True}
    ),
    guide("no_go", "oval", chainrings={"shape": "oval"}, chain_guide={"oval_ok": False}),
    guide("unmeasured", "missing", chainrings={"shape": "oval"}),
    guide("no_go", "out_of_range", chainrings={"teeth": [26]}),
    guide("no_go", "bash", chain_guide={"bash_max_teeth": 32}),
    guide("no_go", "no_mount", chain_guide={"mount": "none"}, frame={"guide_mount": None}),
    # a plate goes behind any threaded cup, whatever tabs the frame has; a smooth shell has none
    guide(
        "goes", "fits", chain_guide={"mount": "bb_plate"}, frame={"guide_mount": "none", "bb_shell": "bsa"}
    ),
    guide("goes", "fits", chain_guide={"mount": "bb_plate"}, frame={"guide_mount": None, "bb_shell": "t47"}),
    guide("no_go", "no_cup", chain_guide={"mount": "bb_plate"}, frame={"bb_shell": "pf30"}),
    guide("unmeasured", "missing", chain_guide={"mount": "bb_plate"}, asks=("frame.bb_shell",)),
    guide("goes", "fits", chain_guide={"bash_max_teeth": 34}),
    guide("no_go", "bash", chain_guide={"bash_max_teeth": 33}),
    # oval 34 stands like 36; 27 like 29, and 26 like 28
    guide("goes", "fits", chainrings={"teeth": [26], "shape": "oval"}, chain_guide={"oval_ok": True}),
    guide(
        "no_go", "out_of_range", chainrings={"teeth": [25], "shape": "oval"}, chain_guide={"oval_ok": True}
    ),
    guide("no_go", "out_of_range", chainrings={"teeth": [37], "shape": None}),
    guide("no_go", "no_mount", frame={"guide_mount": "none"}),
    guide("no_go", "no_mount", frame={"guide_mount": "iscg"}),
    guide("unmeasured", "missing", chain_guide={"ring_max_teeth": None}),
    guide("unmeasured", "missing", chainrings={"shape": None}),
    guide("unmeasured", "missing", frame={"guide_mount": None}),
    guide(None, None, chain_guide=None),
]

wire = table(
    "electronic-protocol",
    rear_derailleur={"actuation": "electronic", "protocol": "sound"},
    rear_shifter={"mode": "electronic", "protocol": "sound"},
)
PROTOCOL = [
    wire("goes", "one_protocol"),
    wire("no_go", "other_protocol", rear_shifter={"protocol": "haar"}),
    wire("no_go", "cable_and_wire", rear_shifter={"mode": "indexed", "protocol": None}),
    wire("no_go", "cable_and_wire", rear_derailleur={"actuation": "cable", "protocol": None}),
    wire("unmeasured", "missing", rear_shifter={"protocol": None}),
    wire("unmeasured", "missing", rear_shifter={"mode": None}),
    wire(None, None, rear_derailleur={"actuation": None}, rear_shifter={"mode": "indexed"}),
    wire(None, None, rear_derailleur={"actuation": "cable"}, rear_shifter={"mode": "friction"}),
    wire(
        "no_go",
        "other_protocol",
        rear_shifter=None,
        front_derailleur={"actuation": "electronic", "protocol": "haar"},
    ),
    wire(None, None, rear_shifter=None, front_derailleur={"actuation": "cable"}),
]

BAND = {"fd_mount": "band_34_9", "fd_cable_from": "below"}
front = table(
    "front-derailleur",
    chainrings={"teeth": [48, 38, 28]},
    front_derailleur={
        "mount": "band_34_9",
        "cable_from": "below",
        "rings": 3,
        "outer_max_teeth": 48,
        "ring_difference_max_teeth": 22,
        "speeds": [9],
        "pull_family": "short",
    },
    frame=BAND,
    chain={"speeds": 9},
    front_shifter={"mode": "indexed", "pull_family": "short", "speeds": 3},
)
NONE_FITTED = ("front_derailleur",)
FRONT = [
    front("goes", "fits"),
    front("goes", "fits", frame={"fd_mount": "none", "seat_tube_od_mm": 34.9}),
    front("goes", "fits", frame={"fd_mount": "none", "seat_tube_od_mm": 35.2}),
    front("no_go", "band_small", frame={"fd_mount": "none", "seat_tube_od_mm": 35.3}),
    front("goes", "fits", frame={"fd_cable_from": "above"}, front_derailleur={"cable_from": "either"}),
    front("no_go", "other_mount", frame={"fd_mount": "braze_on"}),
    # a larger band takes its shim, a smaller one does not go round, whatever the rings are
    front("goes_if", "band_shim", frame={"fd_mount": "none", "seat_tube_od_mm": 31.8}, needs=("band shim",)),
    front("goes_if", "band_shim", frame={"fd_mount": "band_28_6"}),
    front(
        "no_go",
        "band_small",
        front_derailleur={"mount": "band_31_8"},
        figures={"tube_mm": 34.9, "band_mm": 31.8},
    ),
    front("no_go", "band_small", front_derailleur={"mount": "band_31_8"}, chainrings=None),
    # a braze-on derailleur on a round tube takes a band adapter
    front("goes_if", "band_adapter", front_derailleur={"mount": "braze_on"}, needs=("band adapter",)),
    front("goes_if", "band_adapter", front_derailleur={"mount": "braze_on"}, frame={"fd_mount": "none"}),
    front("no_go", "other_mount", front_derailleur={"mount": "braze_on"}, frame={"fd_mount": "direct"}),
    front("no_go", "no_mount", front_derailleur={"mount": "none"}, frame={"fd_mount": "none"}),
    front(
        "goes", "fits", front_derailleur={"mount": "bb_plate"}, frame={"fd_mount": "none", "bb_shell": "bsa"}
    ),
    front(
        "no_go",
        "no_cup",
        front_derailleur={"mount": "bb_plate"},
        frame={"fd_mount": "none", "bb_shell": "bb86"},
    ),
    front("no_go", "other_cable", frame={"fd_cable_from": "above"}),
    front("no_go", "too_many_rings", front_derailleur={"rings": 2}),
    front("goes_if", "outer_over", front_derailleur={"outer_max_teeth": 47}),
    front("no_go", "outer_too_large", front_derailleur={"outer_max_teeth": 46}),
    front("goes_if", "outer_small", front_derailleur={"outer_max_teeth": 53}),
    front("goes", "fits", front_derailleur={"outer_max_teeth": 52}),
    front("goes_if", "difference_over", front_derailleur={"ring_difference_max_teeth": 19}),
    front("no_go", "difference_too_large", front_derailleur={"ring_difference_max_teeth": 18}),
    # within 3 mm of the rings' line, then to 5 if the cage reaches
    front("goes", "fits", front_derailleur={"chainline_mm": 47}, crank={"chainline_mm": 50}),
    front("goes_if", "line_off", front_derailleur={"chainline_mm": 46.9}, crank={"chainline_mm": 50}),
    front("goes_if", "line_off", front_derailleur={"chainline_mm": 55}, crank={"chainline_mm": 50}),
    front("no_go", "line_too_far", front_derailleur={"chainline_mm": 55.1}, crank={"chainline_mm": 50}),
    # one class off, either way, is looked at; two do not go
    front("goes_if", "chain_off", chain={"speeds": 10}),
    front("goes_if", "chain_off", chain={"speeds": 8}),
    front("no_go", "other_chain", chain={"speeds": 11}),
    front("no_go", "other_family", front_shifter={"pull_family": "long"}),
    front("no_go", "few_positions", front_shifter={"speeds": 2}),
    front("goes", "fits", front_shifter={"speeds": 3}, chainrings={"teeth": [48, 34]}),
    front(
        "goes_if", "friction_positions", front_shifter={"mode": "friction", "speeds": 2, "pull_family": None}
    ),
    front("goes", "fits", front_shifter={"mode": "friction", "pull_family": None, "speeds": None}),
    front("unmeasured", "missing", front_shifter={"speeds": None}, asks=("front_shifter.speeds",)),
    front("unmeasured", "missing", front_shifter={"pull_family": None}),
    front("unmeasured", "missing", front_derailleur={"outer_max_teeth": None}),
    front("unmeasured", "missing", frame={"fd_mount": "none"}),
    front("no_go", "none", empty=NONE_FITTED),
    front("goes_if", "by_hand", {"use": "touring"}, empty=NONE_FITTED),
    front("unmeasured", "missing", front_derailleur=None, asks=("front_derailleur",)),
    front("unmeasured", "missing", chainrings={"teeth": None}),
    front(None, None, front_derailleur=None, chainrings={"teeth": [40]}),
    front(None, None, empty=NONE_FITTED, chainrings={"teeth": [40]}),
]

line = table("crank-chainline", crank={"chainline_mm": 52}, frame={"chainline_mm": 52})
CHAINLINE = [
    line("goes", "close", crank={"chainline_mm": 54}),
    line("goes", "close", crank={"chainline_mm": 50}),
    line("goes_if", "off", crank={"chainline_mm": 49.9}, figures={"off_mm": 2.1, "way": "in"}),
    line("goes_if", "off", crank={"chainline_mm": 48}),
    line("no_go", "too_near", crank={"chainline_mm": 47.9}, figures={"off_mm": 4.1}),
    line(
        "goes_if",
        "off",
        crank={"chainline_mm": 57},
        figures={"off_mm": 5, "way": "out"},
        needs=("look at ring and stay: 3 mm at least", "look at arm and stay: 2 mm at least"),
    ),
    line("unmeasured", "missing", frame={"chainline_mm": None}),
    line(None, None, crank=None),
]

shift_line = table("shift-line-type", rear_shift_line={"type": "shift_housing"})
SHIFT_LINE = [
    shift_line("goes", "housing"),
    shift_line("goes_if", "brake_housing", rear_shift_line={"type": "brake_housing"}),
    shift_line("no_go", "other", rear_shift_line={"type": "hose"}),
    shift_line("no_go", "other", rear_shift_line={"type": "bare"}),
    shift_line("unmeasured", "missing", rear_shift_line={"type": None}),
    shift_line(None, None, rear_shift_line=None),
]

CASES: list[Case] = [
    *MOUNT,
    *DIFFERENCE,
    *ANGLE,
    *RETENTION,
    *CLEARANCE,
    *RING_CHAIN,
    *GUIDE,
    *PROTOCOL,
    *FRONT,
    *CHAINLINE,
    *SHIFT_LINE,
]
