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
    axle("goes_if", "trainer", frame={"material": "carbon"}, rear_hub={"trainer": True}),
    axle("goes", "fits", frame={"material": "steel"}, rear_hub={"trainer": True}),
    axle("goes", "fits", frame={"material": "carbon"}, rear_hub={"trainer": False}),
    axle("unmeasured", "missing", rear_hub={"trainer": True}, asks=("frame.material",)),
    axle("goes", "fits", rear_hub={"axle_kind": "solid"}),
    axle("goes_if", "caps", frame=THRU, rear_hub={"end_caps": [CAP]}),
    axle(
        "goes_if",
        "caps",
        rear_hub={
            "axle_kind": "thru",
            "axle_dia_mm": 12,
            "spacing_mm": 142,
            "end_caps": [{"axle_kind": "quick_release", "axle_dia_mm": 10, "spacing_mm": 135}],
        },
        needs=("end caps",),
    ),
    # a cap for another size than this frame's does not help
    axle(
        "no_go",
        "other_spacing",
        frame={**THRU, "rear_axle_dia_mm": 12},
        rear_hub={"end_caps": [{**CAP, "spacing_mm": 135}, {**CAP, "axle_kind": "solid", "axle_dia_mm": 10}]},
    ),
    axle("goes_if", "kit", frame=THRU, rear_hub={"end_caps": [{**CAP, "kit": True}]}),
    # caps for 10 × 135 and 12 × 142 are usual: it is asked whether there are any for this hub
    axle("unmeasured", "missing", frame=THRU, asks=("rear_hub.end_caps",)),
    axle("no_go", "other_spacing", frame=THRU, rear_hub={"end_caps": []}),
    axle("no_go", "other_spacing", frame={**THRU, "rear_spacing_mm": 148}),
    axle(
        "no_go",
        "other_spacing",
        rear_hub={"end_caps": [], "axle_kind": None, "axle_dia_mm": None, "spacing_mm": 126},
    ),
    axle(
        "no_go",
        "other_dia",
        rear_hub={"end_caps": [], "axle_kind": None, "axle_dia_mm": 12, "spacing_mm": None},
    ),
    axle(
        "no_go",
        "other_kind",
        rear_hub={"end_caps": [], "axle_kind": "thru", "axle_dia_mm": None, "spacing_mm": None},
    ),
    axle(
        "goes_if",
        "narrower",
        rear_hub={"spacing_mm": 129},
        figures={"off_mm": 6},
        needs=("axle spacers", "re-dish the wheel"),
    ),
    axle("no_go", "other_spacing", rear_hub={"spacing_mm": 128.9}),
    axle("goes_if", "cold_set", frame={"rear_spacing_mm": 131, "material": "steel"}, figures={"off_mm": 4}),
    axle("no_go", "other_spacing", frame={"rear_spacing_mm": 130.9, "material": "steel"}),
    axle("goes_if", "narrower", rear_hub={"spacing_mm": 130}),
    axle("no_go", "other_spacing", rear_hub={"spacing_mm": 126}),  # 9 mm
    axle("goes_if", "cold_set", frame={"rear_spacing_mm": 132, "material": "steel"}),
    axle("no_go", "other_spacing", frame={"rear_spacing_mm": 132, "material": "aluminium"}),
    axle("unmeasured", "missing", frame={"rear_spacing_mm": 132}),
    axle("no_go", "other_spacing", frame={"rear_spacing_mm": 130, "material": "steel"}),  # 5 mm
    axle("unmeasured", "missing", rear_hub={"spacing_mm": None}),
    fork("goes", "fits"),
    fork("no_go", "other_spacing", front_hub={"spacing_mm": 100}),
    fork(
        "unmeasured",
        "missing",
        fork={"axle_dia_mm": 12, "spacing_mm": 100},
        front_hub={"spacing_mm": 100},
        asks=("front_hub.end_caps",),
    ),
    fork("goes", "fits", front_hub={"spacing_mm": 110.5}),
    fork("no_go", "other_spacing", front_hub={"spacing_mm": 110.6}),
    fork(
        "no_go",
        "other_spacing",
        fork={"axle_kind": "quick_release", "axle_dia_mm": 9, "spacing_mm": 100},
        front_hub={"axle_kind": "quick_release", "axle_dia_mm": 9, "spacing_mm": 96},
    ),
    axle(None, None, rear_hub=None),
]

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
    seat("unmeasured", "hookless_unknown", front_rim={"bead": "hookless"}),
    seat("no_go", "tubular", front_rim={"bead": "hookless", "bsd_mm": None}, front_tyre={"type": "tubular"}),
    seat(
        "unmeasured",
        "hookless_unknown",
        front_rim={"bead": "hookless", "inner_width_mm": None},
        front_tyre=HOOKLESS,
    ),
    seat("unmeasured", "missing", front_rim={"bead": None}),
    seat("unmeasured", "missing", front_rim={"bsd_mm": None}),
    seat(None, None, front_tyre=None),
]

width = table("tyre-width", rear_rim={"inner_width_mm": 20}, rear_tyre={"width_mm": 32})
WIDTH = [
    width("goes", "within"),  # 24 to 48
    width("goes", "within", rear_tyre={"width_mm": 24}),
    width("goes_if", "outside", rear_tyre={"width_mm": 23}),  # 22 to 60
    # wide tyres on narrow rims: to 62 on 19 and more, 52 on 17, 64 on 21; 66 is three times 22
    width("goes_if", "outside", rear_tyre={"width_mm": 62}),
    width("no_go", "too_far", rear_tyre={"width_mm": 63}),
    width(
        "goes_if",
        "outside",
        rear_rim={"inner_width_mm": 19},
        rear_tyre={"width_mm": 58},
        needs=("squirming tyre",),
    ),
    width("goes_if", "outside", rear_rim={"inner_width_mm": 17}, rear_tyre={"width_mm": 52}),
    width("no_go", "too_far", rear_rim={"inner_width_mm": 17}, rear_tyre={"width_mm": 53}),
    width("goes_if", "outside", rear_rim={"inner_width_mm": 21}, rear_tyre={"width_mm": 64}),
    width("no_go", "too_far", rear_rim={"inner_width_mm": 21}, rear_tyre={"width_mm": 65}),
    width("goes_if", "outside", rear_rim={"inner_width_mm": 22}, rear_tyre={"width_mm": 66}),
    width("goes_if", "outside", rear_tyre={"width_mm": 22}, needs=("pressure watched: it bottoms easily",)),
    # a listed limit forbids without an inner width
    width("no_go", "too_far", rear_rim={"inner_width_mm": None, "tyre_max_mm": 28}),
    width(None, None, rear_rim={"inner_width_mm": None}, rear_tyre={"type": "tubular"}),
    width(None, None, rear_rim={"inner_width_mm": None, "bead": "tubular"}),
    width("no_go", "too_far", rear_tyre={"width_mm": 21}),
    width("no_go", "too_far", rear_rim={"tyre_min_mm": 35, "tyre_max_mm": 50}),
    width("goes_if", "outside", rear_rim={"tyre_min_mm": 34, "tyre_max_mm": 50}),
    width("goes", "within", rear_rim={"inner_width_mm": None, "tyre_min_mm": 28, "tyre_max_mm": 50}),
    width("unmeasured", "missing", rear_rim={"inner_width_mm": None}),
    width("unmeasured", "missing", rear_tyre={"width_mm": None}),
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
    room("unmeasured", "limit_unknown", fork={"tyre_max_mm": {"584": 50}}),
    room("goes_if", "over", fork={"tyre_max_mm": {"622": 30.4}}, figures={"width_mm": 32.4, "over_mm": 2.0}),
    room("no_go", "no_room", fork={"tyre_max_mm": {"622": 30.3}}),
    room("goes", "room", fork={"tyre_max_mm": {"622": 32.4}}),
    room("unmeasured", "missing", front_tyre={"width_mm": None}),
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
    size(
        "goes_if",
        "close",
        frame={"tyre_max_mm": {"622": 22}},
        rear_rim={"bsd_mm": 584},
        figures={"change_mm": 6},
    ),
    size(
        "goes_if",
        "far",
        frame={"tyre_max_mm": {"622": 21}},
        rear_rim={"bsd_mm": 584},
        figures={"change_mm": 7},
    ),
    size(
        "goes_if",
        "far",
        frame={"tyre_max_mm": {"622": 43}},
        rear_rim={"bsd_mm": 584},
        figures={"change_mm": 15},
    ),
    size(
        "goes_if",
        "lower",
        frame={"tyre_max_mm": {"622": 44}},
        rear_rim={"bsd_mm": 584},
        figures={"change_mm": 16},
    ),
    size(
        "goes_if",
        "close",
        frame={"tyre_max_mm": {"622": 28}},
        rear_rim={"bsd_mm": 584},
        rear_tyre={"width_measured_mm": 44},
        figures={"change_mm": 3},
    ),
    # judged with its tyre, not before
    size("unmeasured", "widest_unknown", rear_rim={"bsd_mm": 584}, asks=("frame.tyre_max_mm",)),
    size(
        "unmeasured",
        "missing",
        frame={"tyre_max_mm": {"622": 28}},
        rear_rim={"bsd_mm": 584},
        rear_tyre=None,
        asks=("rear_tyre",),
    ),
    size(
        "unmeasured",
        "missing",
        frame={"tyre_max_mm": {"622": 28}},
        rear_rim={"bsd_mm": 584},
        rear_tyre={"width_mm": None},
    ),
    size("goes", "designed", rear_tyre=None),
    size("unmeasured", "missing", frame={"design_bsd_mm": None}),
    size(None, None, rear_rim=None),
]

holes = table("spoke-holes", front_hub={"holes": 32}, front_rim={"holes": 32})
HOLES = [
    holes("goes", "same"),
    holes("no_go", "other", front_rim={"holes": 28}),
    holes("unmeasured", "missing", front_rim={"holes": None}),
    holes(None, None, front_rim=None),
    # one wheel, bought whole: nothing in it is held against itself, read or not
    holes(
        "goes", "as_built", also={"front_hub": ("front_rim", "front_spokes", "front_tyre")}, front_rim=None
    ),
    holes("goes", "as_built", also={"front_hub": ("front_rim",)}, front_hub={"holes": None}, front_rim=None),
    holes("no_go", "other", also={"front_hub": ("front_spokes",)}, front_rim={"holes": 28}),
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
    lace(
        "no_go",
        "fixed",
        rear_hub={"spoke_head": "straight_pull", "crosses_fixed": 2},
        rear_spokes={"head": "straight_pull"},
    ),
    lace(
        "goes",
        "laces",
        rear_hub={"spoke_head": "straight_pull", "crosses_fixed": 3},
        rear_spokes={"head": "straight_pull"},
    ),
    lace(
        "unmeasured",
        "missing",
        rear_hub={"spoke_head": "straight_pull"},
        rear_spokes={"head": "straight_pull"},
        asks=("rear_hub.crosses_fixed",),
    ),
    lace("goes", "laces", rear_hub={"crosses_fixed": 2}),
    # crosses × 720 / holes: 4 on 34 leave at 84.71°, under 85; 3 on 24 at 90; 3 on 22 at 98.18; 3 on 20 at 108
    lace("goes", "laces", rear_hub={"holes": 34}, rear_spokes={"crosses": 4}, figures={"leaves_deg": 84.71}),
    lace("goes_if", "leans", rear_hub={"holes": 24}, figures={"leaves_deg": 90}),
    lace("goes_if", "leans", rear_hub={"holes": 22}, figures={"leaves_deg": 98.18}),
    lace("no_go", "too_many", rear_hub={"holes": 20}, figures={"leaves_deg": 108}),
    lace("unmeasured", "missing", rear_spokes={"crosses": None}),
    lace(None, None, rear_spokes=None),
    lace("goes", "as_built", also={"rear_hub": ("rear_rim", "rear_spokes")}, rear_hub={"spoke_head": "straight_pull"},
         rear_spokes=None),
    lace("no_go", "other_head", also={"rear_hub": ("rear_rim",)}, rear_spokes={"head": "straight_pull"}),
]  # fmt: skip

valve = table(
    "valve-fit",
    rear_rim={"depth_mm": 30, "valve_hole_mm": 6.5},
    rear_tyre={"valve": "slim", "valve_length_mm": 48},
)
VALVE = [
    valve("goes", "fits"),
    valve("goes", "fits", rear_rim={"depth_mm": 33}),
    valve("goes_if", "short", rear_rim={"depth_mm": 34}, figures={"short_mm": 1}, needs=("valve extender",)),
    valve(
        "no_go", "too_wide", rear_tyre={"valve": "wide", "valve_length_mm": None}, rear_rim={"depth_mm": None}
    ),
    valve("no_go", "too_wide", rear_tyre={"valve": "wide"}, rear_rim={"valve_hole_mm": 7.9}),
    valve("goes", "fits", rear_tyre={"valve": "wide"}, rear_rim={"valve_hole_mm": 8.0}),
    valve("no_go", "too_wide", rear_tyre={"valve": "wide"}),
    valve("goes_if", "grommet", rear_rim={"valve_hole_mm": 8.5}),
    valve("unmeasured", "missing", rear_rim={"depth_mm": None}),
    valve(None, None, rear_tyre={"valve": None, "valve_length_mm": None}),
]

screw = table("freewheel-room", rear_hub={"freehub": "threaded", "spacing_mm": 126}, cassette={"speeds": 7})
SCREW = [
    screw("goes", "room"),
    screw("goes_if", "tight", cassette={"speeds": 8}),
    screw("no_go", "no_room", rear_hub={"spacing_mm": 120}),
    screw("goes", "room", rear_hub={"spacing_mm": 120}, cassette={"speeds": 6}),
    screw("goes", "room", rear_hub={"spacing_mm": 125}),
    screw("no_go", "no_room", rear_hub={"spacing_mm": 124.9}),
    screw("no_go", "no_room", rear_hub={"spacing_mm": None}, cassette={"speeds": 9}),
    screw("goes", "room", rear_hub={"spacing_mm": 135}, cassette={"speeds": 8}),
    screw("unmeasured", "missing", cassette={"speeds": None}),
    screw("unmeasured", "missing", rear_hub={"freehub": None}),
    screw("unmeasured", "missing", rear_hub={"spacing_mm": None}),
    screw(None, None, rear_hub={"freehub": "spline9", "spacing_mm": None}),
]

# ERD 600, circle 45, offset 35, 32 holes, 3 cross, 2.6 mm hole: 292.919 (worked apart from the project); the right
# side at 20 mm: √(300² + 22.5² + 20² − 2·300·22.5·cos 67.5°) − 1.3 = 291.51
spoke = table(
    "spoke-length",
    front_hub={
        "holes": 32,
        "flange_pcd_left_mm": 45,
        "flange_pcd_right_mm": 45,
        "flange_offset_left_mm": 35,
        "flange_offset_right_mm": 35,
    },
    front_rim={"erd_mm": 600},
    front_spokes={"length_left_mm": 293, "length_right_mm": 293, "crosses": 3},
)
SPOKES = [
    spoke("goes", "right", figures={"wanted_mm": 292.919}),
    spoke("goes", "right", front_spokes={"length_left_mm": 293.9}),
    spoke(
        "goes_if",
        "close",
        front_spokes={"length_left_mm": 294},
        figures={"off_mm": 1.081, "way": "long"},
        needs=("look at nipples and spoke ends",),
    ),
    spoke(
        "goes_if", "close", front_spokes={"length_right_mm": 291}, figures={"side": "Right", "way": "short"}
    ),
    spoke("no_go", "off", front_spokes={"length_right_mm": 290.9}, ways=("front_spokes.length_right_mm",)),
    spoke("no_go", "off", front_spokes={"length_left_mm": 295, "length_right_mm": None}),
    spoke(
        "goes_if",
        "to_lace",
        front_spokes={"to_lace": True, "length_left_mm": None, "length_right_mm": 200},
        figures={"wanted_mm": 292.919},
        needs=("spokes", "relace the wheel", "spokes"),
    ),
    spoke("goes", "right", front_spokes={"to_lace": False}),
    spoke("unmeasured", "missing", front_spokes={"to_lace": True}, front_rim={"erd_mm": None}),
    # a rim drilled 3 mm to the left: 32 mm there (292.58), 38 on the right (293.29); its own crossing per side
    spoke("goes", "right", front_rim={"drilling_offset_mm": 3}, figures={"wanted_mm": 292.575}),
    # 2 crosses, 45°: √(300² + 22.5² + 35² − 13500 cos 45°) − 1.3 = 285.38; radial: 278.40
    spoke("no_go", "off", front_spokes={"crosses_left": 2}, figures={"wanted_mm": 285.38}),
    spoke("goes", "right", front_spokes={"crosses_left": 2, "length_left_mm": 285}),
    spoke(
        "goes",
        "right",
        front_spokes={"crosses": 0, "length_left_mm": 278.4, "length_right_mm": 278.4},
        empty=("front_rotor",),
    ),
    spoke(
        "unmeasured",
        "missing",
        front_hub={"flange_offset_left_mm": None},
        asks=("front_hub.flange_offset_left_mm",),
    ),
    spoke("unmeasured", "missing", front_spokes={"crosses": None}, asks=("front_spokes.crosses",)),
    spoke(None, None, front_hub={"spoke_head": "straight_pull"}, front_spokes={"length_left_mm": None}),
    # a disc wheel is never radial on the rotor's side, a rear wheel never on the drive side
    spoke("no_go", "radial_disc", front_spokes={"crosses": 0}, front_rotor={}, front_hub=None),
    spoke("no_go", "radial_disc", front_spokes={"crosses_left": 0}, front_rotor={}),
    spoke("no_go", "off", front_spokes={"crosses": 0}, empty=("front_rotor",)),
    spoke(None, None, front_spokes=None),
]
whole = table("spoke-length", rear_hub={"holes": 32})
SPOKES += [
    whole("goes", "as_built", also={"rear_hub": ("rear_rim", "rear_spokes")}),
    whole(None, None, also={"rear_hub": ("rear_rim",)}),  # relaced: the spokes are of another hand
]
driven = table("spoke-length", rear_hub={"holes": 32}, rear_rim={"erd_mm": 600}, rear_spokes={"crosses": 0})
SPOKES += [
    driven("no_go", "radial_driven"),
    driven("no_go", "radial_driven", rear_spokes={"crosses": 3, "crosses_right": 0}),
    driven("unmeasured", "missing", rear_spokes={"crosses": 0, "crosses_right": 3}),
]

guard = table(
    "mudguard-room",
    rear_mudguard={"width_mm": 50, "bsd_mm": 622},
    rear_tyre={"bsd_mm": 622, "width_mm": 38},
    frame={"tyre_max_mm": {"622": 42}},
)
GUARDS = [
    guard("goes", "room"),  # 38 + 12 = 50, and 42 + 8 = 50
    guard("no_go", "narrow", rear_mudguard={"width_mm": 49.9}, figures={"least_mm": 50}),
    guard("no_go", "wide", rear_mudguard={"width_mm": 50.1}, figures={"most_mm": 50}),
    guard("no_go", "wide", rear_mudguard={"width_mm": 51}, rear_tyre={"width_mm": None}),
    guard("no_go", "other_size", rear_mudguard={"bsd_mm": 584}),
    guard("unmeasured", "limit_unknown", frame={"tyre_max_mm": {"584": 42}}),
    guard("unmeasured", "missing", rear_mudguard={"width_mm": None}),
    guard(None, None, rear_mudguard=None),
]

CASES: list[Case] = [
    *SPOKES, *GUARDS,
    *AXLE, *TYRE_SEAT, *WIDTH, *PRESSURE, *ROOM, *SIZE, *HOLES, *LACING, *VALVE, *SCREW,
]  # fmt: skip
