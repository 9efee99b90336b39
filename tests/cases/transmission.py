"""Cases of the rest of the drivetrain."""

from tests.cases import Case, table

hang = table("derailleur-mount", frame={"hanger": "m10"}, rear_derailleur={"mount": "m10"})
MOUNT = [
    hang("goes", "same"),
    hang("goes", "same", frame={"hanger": "axle_clamped"}, rear_derailleur={"mount": "axle_clamped"}),
    hang("goes_if", "link_off", frame={"hanger": "m10_direct"}, rear_derailleur={"removable_link": True}),
    hang("no_go", "other", frame={"hanger": "m10_direct"}, rear_derailleur={"removable_link": False}),
    hang("unmeasured", "link_unknown", frame={"hanger": "m10_direct"}),
    hang("goes_if", "claw", frame={"hanger": "claw"}),
    hang("no_go", "other", rear_derailleur={"mount": "axle_clamped"}),
    hang("no_go", "other", rear_derailleur={"mount": "m10_direct"}),
    hang("no_go", "other", frame={"hanger": "none"}, rear_derailleur={"mount": "none"}),
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
    differ("unmeasured", "unknown", rear_derailleur={"ring_difference_max_teeth": None}),
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
    angle("unmeasured", "unknown", cassette={"speeds": None, "teeth": None}),
    angle("unmeasured", "missing", crank={"chainline_mm": None}),
    angle(None, None, crank=None),
    angle(None, None, cassette={"speeds": 1, "teeth": [16], "mount": "fixed_threaded"}),
]
keep = table(
    "ring-retention",
    chainrings={"teeth": [32], "tooth_profile": "narrow_wide"},
    rear_derailleur={"clutch": True},
)
RETENTION = [
    keep("goes", "kept"),
    keep("goes", "guided", rear_derailleur={"clutch": False}, chain_guide={}),
    keep("goes_if", "drops", rear_derailleur={"clutch": False}),
    keep("goes_if", "drops", chainrings={"tooth_profile": "plain"}),
    keep("goes", "smooth", {"use": "city"}, rear_derailleur={"clutch": False}),
    keep("goes_if", "drops", {"use": "trail"}, rear_derailleur={"clutch": False}),
    keep("unmeasured", "unknown", rear_derailleur={"clutch": None}),
    keep("unmeasured", "unknown", chainrings={"tooth_profile": None}),
    keep("unmeasured", "missing", chainrings={"teeth": None}),
    keep(None, None, chainrings={"teeth": [44, 32]}),
]

clear = table("ring-clearance", frame={"chainring_max_teeth": {"1": 36, "2": 38}}, chainrings={"teeth": [36]})
CLEARANCE = [
    clear("goes", "within"),
    clear("no_go", "too_large", chainrings={"teeth": [38]}),
    clear("goes", "within", chainrings={"teeth": [38, 24]}),
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
    guide("unmeasured", "unknown", chainrings={"shape": "oval"}),
    guide("no_go", "out_of_range", chainrings={"teeth": [26]}),
    guide("no_go", "bash", chain_guide={"bash_max_teeth": 32}),
    guide("no_go", "no_mount", frame={"guide_mount": "none"}),
    guide("no_go", "no_mount", frame={"guide_mount": "iscg"}),
    guide("unmeasured", "unknown", chain_guide={"ring_max_teeth": None}),
    guide("unmeasured", "unknown", chainrings={"shape": None}),
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
    wire("unmeasured", "unknown", rear_shifter={"protocol": None}),
    wire("unmeasured", "works_unknown", rear_shifter={"mode": None}),
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

front = table(
    "front-derailleur",
    chainrings={"teeth": [48, 38, 28]},
    front_derailleur={
        "mount": "band_34_9",
        "cable_from": "below",
        "rings": 3,
        "outer_max_teeth": 48,
        "ring_difference_max_teeth": 22,
        "speeds": [8, 9],
        "pull_family": "short",
    },
    frame={"fd_mount": "band_34_9", "fd_cable_from": "below"},
    chain={"speeds": 9},
    front_shifter={"mode": "indexed", "pull_family": "short"},
)
FRONT = [
    front("goes", "fits"),
    front("goes", "fits", frame={"fd_mount": "none", "seat_tube_od_mm": 34.9}),
    front("goes", "fits", frame={"fd_cable_from": "above"}, front_derailleur={"cable_from": "either"}),
    front("no_go", "other_mount", frame={"fd_mount": "braze_on"}),
    front("no_go", "other_mount", frame={"fd_mount": "none", "seat_tube_od_mm": 31.8}),
    front("no_go", "other_cable", frame={"fd_cable_from": "above"}),
    front("no_go", "too_many_rings", front_derailleur={"rings": 2}),
    front("goes_if", "outer_over", front_derailleur={"outer_max_teeth": 47}),
    front("no_go", "outer_too_large", front_derailleur={"outer_max_teeth": 46}),
    front("goes_if", "outer_small", front_derailleur={"outer_max_teeth": 53}),
    front("goes", "fits", front_derailleur={"outer_max_teeth": 52}),
    front("goes_if", "difference_over", front_derailleur={"ring_difference_max_teeth": 19}),
    front("no_go", "difference_too_large", front_derailleur={"ring_difference_max_teeth": 18}),
    front("no_go", "other_chain", chain={"speeds": 11}),
    front("no_go", "other_family", front_shifter={"pull_family": "long"}),
    front("goes", "fits", front_shifter={"mode": "friction", "pull_family": None}),
    front("unmeasured", "unknown", front_shifter={"pull_family": None}),
    front("unmeasured", "unknown", front_derailleur={"outer_max_teeth": None}),
    front("unmeasured", "unknown", frame={"fd_mount": "none"}),
    front("no_go", "none", front_derailleur=None),
    front("goes_if", "by_hand", {"use": "touring"}, front_derailleur=None),
    front("unmeasured", "missing", chainrings={"teeth": None}),
    front(None, None, front_derailleur=None, chainrings={"teeth": [40]}),
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
]
