"""Cases of wheels."""

from tests.cases import Case, table

axle = table(
    "axle-fit",
    frame={"rear_axle_kind": "quick_release", "rear_axle_dia_mm": 10, "rear_spacing_mm": 135},
    rear_hub={"axle_kind": "quick_release", "axle_dia_mm": 10, "spacing_mm": 135},
)
fork = table(
    "axle-fit",
    fork={"axle_kind": "thru", "axle_dia_mm": 15, "spacing_mm": 110},
    front_hub={"axle_kind": "thru", "axle_dia_mm": 15, "spacing_mm": 110},
)
CAP = {"axle_kind": "thru", "axle_dia_mm": 12, "spacing_mm": 142}
THRU = {"rear_axle_kind": "thru", "rear_axle_dia_mm": 12, "rear_spacing_mm": 142}
AXLE = [
    axle("goes", "fits"),
    axle("goes", "fits", rear_hub={"axle_kind": "solid"}),
    axle("goes_if", "caps", frame=THRU, rear_hub={"end_caps": [CAP]}),
    axle("goes_if", "kit", frame=THRU, rear_hub={"end_caps": [{**CAP, "kit": True}]}),
    axle("no_go", "other", frame=THRU),
    axle("goes_if", "narrower", rear_hub={"spacing_mm": 130}),
    axle("no_go", "other", rear_hub={"spacing_mm": 126}),  # 9 mm
    axle("goes_if", "cold_set", frame={"rear_spacing_mm": 132, "material": "steel"}),
    axle("no_go", "other", frame={"rear_spacing_mm": 132, "material": "aluminium"}),
    axle("unmeasured", "material_unknown", frame={"rear_spacing_mm": 132}),
    axle("no_go", "other", frame={"rear_spacing_mm": 130, "material": "steel"}),  # 5 mm
    axle("unmeasured", "missing", rear_hub={"spacing_mm": None}),
    fork("goes", "fits"),
    fork("no_go", "other", front_hub={"spacing_mm": 100}),
    fork("no_go", "other", fork={"axle_kind": "quick_release", "axle_dia_mm": 9, "spacing_mm": 100}, front_hub={"axle_kind": "quick_release", "axle_dia_mm": 9, "spacing_mm": 96}),
    axle(None, None, rear_hub=None),
]  # fmt: skip

seat = table(
    "tyre-seat",
    front_rim={"bsd_mm": 622, "bead": "hooked", "inner_width_mm": 25},
    front_tyre={"bsd_mm": 622, "type": "clincher", "width_mm": 32},
)
HOOKLESS = {"hookless_ok": True, "tubeless": True}
TYRE_SEAT = [
    seat("goes", "seated"),
    seat("no_go", "other_size", front_tyre={"bsd_mm": 630}),
    seat("no_go", "tubular", front_tyre={"type": "tubular"}),
    seat("no_go", "tubular", front_rim={"bead": "tubular"}),
    seat("goes", "seated", front_rim={"bead": "tubular"}, front_tyre={"type": "tubular"}),
    seat("goes", "seated", front_rim={"bead": "hookless"}, front_tyre=HOOKLESS),
    seat(
        "no_go", "not_marked", front_rim={"bead": "hookless"}, front_tyre={**HOOKLESS, "hookless_ok": False}
    ),
    seat("no_go", "not_tubeless", front_rim={"bead": "hookless"}, front_tyre={**HOOKLESS, "tubeless": False}),
    seat(
        "no_go", "too_narrow", front_rim={"bead": "hookless"}, front_tyre={**HOOKLESS, "width_mm": 28}
    ),  # 29 on 25
    seat(
        "no_go",
        "too_narrow",
        front_rim={"bead": "hookless", "inner_width_mm": 21},
        front_tyre={**HOOKLESS, "width_mm": 27},
    ),
    seat(
        "goes",
        "seated",
        front_rim={"bead": "hookless", "inner_width_mm": 21},
        front_tyre={**HOOKLESS, "width_mm": 28},
    ),
    seat(
        "no_go", "not_marked", front_rim={"bead": "hookless"}, front_tyre={"type": None, "hookless_ok": False}
    ),
    seat("unmeasured", "unknown", front_rim={"bead": "hookless"}),
    seat(
        "unmeasured", "unknown", front_rim={"bead": "hookless", "inner_width_mm": None}, front_tyre=HOOKLESS
    ),
    seat("unmeasured", "unknown", front_rim={"bead": None}),
    seat("unmeasured", "missing", front_rim={"bsd_mm": None}),
    seat(None, None, front_tyre=None),
]

width = table("tyre-width", rear_rim={"inner_width_mm": 20}, rear_tyre={"width_mm": 32})
WIDTH = [
    width("goes", "within"),  # 24 to 48
    width("goes", "within", rear_tyre={"width_mm": 24}),
    width("goes_if", "outside", rear_tyre={"width_mm": 23}),  # 22 to 60
    width("goes_if", "outside", rear_tyre={"width_mm": 60}),
    width("no_go", "too_far", rear_tyre={"width_mm": 61}),
    width("no_go", "too_far", rear_tyre={"width_mm": 21}),
    width("no_go", "too_far", rear_rim={"tyre_min_mm": 35, "tyre_max_mm": 50}),
    width("goes_if", "outside", rear_rim={"tyre_min_mm": 34, "tyre_max_mm": 50}),
    width("goes", "within", rear_rim={"inner_width_mm": None, "tyre_min_mm": 28, "tyre_max_mm": 50}),
    width("unmeasured", "unknown", rear_rim={"inner_width_mm": None}),
    width("unmeasured", "unknown", rear_tyre={"width_mm": None}),
    width(None, None, rear_rim=None),
]

pump = table(
    "tyre-pressure", front_rim={"pressure_max_bar": 6, "bead": "hooked"}, front_tyre={"pressure_max_bar": 5.5}
)
PRESSURE = [
    pump("goes", "limit"),
    pump("unmeasured", "missing", front_rim={"pressure_max_bar": None}),
    pump("unmeasured", "missing", front_tyre={"pressure_max_bar": None}),
    pump("unmeasured", "missing", front_rim={"bead": None}),
    pump(None, None, front_rim=None),
]

# a 30 on 25 mm inner measures about 30 + 0.4 × (25 − 19) = 32.4
room = table(
    "tyre-clearance",
    fork={"tyre_max_mm": {"622": 33}},
    front_tyre={"bsd_mm": 622, "width_mm": 30},
    front_rim={"inner_width_mm": 25},
)
ROOM = [
    room("goes", "room"),
    room("goes_if", "over", fork={"tyre_max_mm": {"622": 31}}),
    room("no_go", "no_room", fork={"tyre_max_mm": {"622": 30}}),
    room("goes", "room", fork={"tyre_max_mm": {"622": 30}}, front_rim=None),  # nominal
    room("no_go", "no_room", fork={"tyre_max_mm": {"622": 30}}, front_tyre={"width_measured_mm": 32.1}),
    room("unmeasured", "unknown", fork={"tyre_max_mm": {"584": 50}}),
    room("unmeasured", "unknown", front_tyre={"width_mm": None}),
    room("unmeasured", "missing", fork={"tyre_max_mm": None}),
    # the frame's room says nothing about the fork
    room("unmeasured", "missing", fork={"tyre_max_mm": None}, frame={"tyre_max_mm": {"622": 60}}),
    room(None, None, front_tyre=None),
]

size = table(
    "wheel-size", frame={"design_bsd_mm": [622]}, rear_rim={"bsd_mm": 622}, rear_tyre={"width_mm": 47}
)
SIZE = [
    size("goes", "designed"),
    # 584 × 47 against 622 × 28: (584 − 622)/2 + 47 − 28 = 0
    size("goes_if", "close", frame={"tyre_max_mm": {"622": 28}}, rear_rim={"bsd_mm": 584}),
    size("goes_if", "far", frame={"design_bsd_mm": [559]}, rear_rim={"bsd_mm": 584}),  # 12.5
    size("no_go", "too_far", rear_rim={"bsd_mm": 584}),  # 19 with no tyre stated
    size("goes_if", "close", frame={"design_bsd_mm": [630]}),  # 4
    size("unmeasured", "missing", frame={"design_bsd_mm": None}),
    size(None, None, rear_rim=None),
]

holes = table("spoke-holes", front_hub={"holes": 32}, front_rim={"holes": 32})
HOLES = [
    holes("goes", "same"),
    holes("no_go", "other", front_rim={"holes": 28}),
    holes("unmeasured", "missing", front_rim={"holes": None}),
    holes(None, None, front_rim=None),
]

lace = table(
    "spoke-lacing",
    rear_hub={"spoke_head": "j_bend", "holes": 32},
    rear_spokes={"head": "j_bend", "crosses": 3},
)
LACING = [
    lace("goes", "laces"),  # 67.5°
    lace("goes_if", "leans", rear_spokes={"crosses": 4}),  # 90°
    lace("no_go", "too_many", rear_hub={"holes": 28}, rear_spokes={"crosses": 4}),  # 102.9°
    lace("no_go", "other_head", rear_spokes={"head": "straight_pull"}),
    lace("no_go", "fixed", rear_hub={"crosses_fixed": 2}),
    lace("unmeasured", "unknown", rear_spokes={"crosses": None}),
    lace(None, None, rear_spokes=None),
]

valve = table(
    "valve-fit",
    rear_rim={"depth_mm": 30, "valve_hole_mm": 6.5},
    rear_tyre={"valve": "slim", "valve_length_mm": 48},
)
VALVE = [
    valve("goes", "fits"),
    valve("goes_if", "short", rear_rim={"depth_mm": 50}),
    valve("no_go", "too_wide", rear_tyre={"valve": "wide"}),
    valve("goes_if", "grommet", rear_rim={"valve_hole_mm": 8.5}),
    valve("unmeasured", "unknown", rear_rim={"depth_mm": None}),
    valve(None, None, rear_tyre={"valve": None, "valve_length_mm": None}),
]

screw = table("freewheel-room", rear_hub={"freehub": "threaded", "spacing_mm": 126}, cassette={"speeds": 7})
SCREW = [
    screw("goes", "room"),
    screw("goes_if", "tight", cassette={"speeds": 8}),
    screw("no_go", "no_room", rear_hub={"spacing_mm": 120}),
    screw("goes", "room", rear_hub={"spacing_mm": 135}, cassette={"speeds": 8}),
    screw("unmeasured", "unknown", cassette={"speeds": None}),
    screw("unmeasured", "missing", rear_hub={"freehub": None}),
    screw("unmeasured", "unknown", rear_hub={"spacing_mm": None}),
    screw(None, None, rear_hub={"freehub": "spline9", "spacing_mm": None}),
]

CASES: list[Case] = [
    *AXLE, *TYRE_SEAT, *WIDTH, *PRESSURE, *ROOM, *SIZE, *HOLES, *LACING, *VALVE, *SCREW,
]  # fmt: skip
