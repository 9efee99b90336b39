"""Brake cases. Every rule here is safety: what is not measured is never Goes."""

from tests.cases import Case, table

rotor = table("rotor-mount", front_hub={"rotor_mount": "six_bolt"}, front_rotor={"mount": "six_bolt"})
ROTOR_MOUNT = [
    rotor("goes", "same"),
    rotor("goes", "same", front_hub={"rotor_mount": "splined"}, front_rotor={"mount": "splined"}),
    rotor("goes_if", "ring", front_hub={"rotor_mount": "splined"}),
    rotor("no_go", "other", front_rotor={"mount": "splined"}),
    rotor("no_go", "other", front_rotor={"mount": "five_bolt"}),
    rotor("no_go", "no_mount", front_hub={"rotor_mount": "none"}),
    rotor("unmeasured", "missing", front_rotor={"mount": None}),
    rotor(None, None, front_rotor=None),
]

limit = table("rotor-limit", frame={"rear_rotor_max_mm": 180}, rear_rotor={"diameter_mm": 180})
ROTOR_LIMIT = [
    limit("goes", "within"),
    limit("no_go", "over", rear_rotor={"diameter_mm": 183}),
    limit("unmeasured", "missing", frame={"rear_rotor_max_mm": None}),
    # the fork's limit says nothing about the rear
    limit("unmeasured", "missing", frame={"rear_rotor_max_mm": None}, fork={"rotor_max_mm": 203}),
    limit(None, None, rear_rotor=None),
]

POST = {
    "fork": {"brake_mount": "post", "native_rotor_mm": 160},
    "front_caliper": {"mount": "post"},
    "front_rotor": {"diameter_mm": 160},
}
PLUS_20 = {"frame_side": "post", "caliper_side": "post", "rotor_mm": 180, "native_mm": 160}
IS_REAR = {
    "frame": {"rear_brake_mount": "is"},
    "rear_caliper": {"mount": "post"},
    "rear_rotor": {"diameter_mm": 160},
}
IS_PLATE = {"frame_side": "is", "caliper_side": "post", "rotor_mm": 160, "end": "rear"}

FLAT_PLATE = {"frame_side": "post", "caliper_side": "flat", "rotor_mm": 160, "end": "front"}
FLAT_140 = {"brake_mount": "flat", "native_rotor_mm": 140}

mount, tabs = table("caliper-mount", **POST), table("caliper-mount", **IS_REAR)
CALIPER_MOUNT = [
    mount("goes", "same"),
    mount("goes_if", "needs_adapter", front_rotor={"diameter_mm": 180}),
    mount("goes", "adapter_there", front_rotor={"diameter_mm": 180}, front_brake_adapter=PLUS_20),
    # an adapter counts by its step: 160 -> 180 lifts 180 to 200
    mount(
        "goes",
        "adapter_there",
        fork={"native_rotor_mm": 180},
        front_rotor={"diameter_mm": 200},
        front_brake_adapter=PLUS_20,
    ),
    mount("no_go", "wrong_size", front_rotor={"diameter_mm": 203}, front_brake_adapter=PLUS_20),
    mount("no_go", "wrong_size", front_brake_adapter=PLUS_20),
    mount("goes_if", "needs_adapter", front_rotor={"diameter_mm": 203}),  # +43
    mount("no_go", "no_way", front_rotor={"diameter_mm": 220}),  # +60 is not made
    mount(
        "goes", "same", fork={"native_rotor_mm": 200}, front_rotor={"diameter_mm": 203}
    ),  # washers: the position says so
    mount("no_go", "smaller", fork={"native_rotor_mm": 180}),
    # a millimetre of radius is the pads' edge, more is not
    mount("no_go", "smaller", fork={"native_rotor_mm": 182.5}, front_rotor={"diameter_mm": 180}),
    mount("unmeasured", "missing", fork={"native_rotor_mm": None}),
    mount("unmeasured", "missing", front_rotor={"diameter_mm": None}),
    mount(
        "unmeasured",
        "missing",
        front_rotor={"diameter_mm": 180},
        front_brake_adapter={**PLUS_20, "native_mm": None},
    ),
    mount("no_go", "other_adapter", front_brake_adapter={**PLUS_20, "frame_side": "is"}),
    mount("no_go", "no_mount", fork={"brake_mount": "none"}),
    mount("no_go", "other_mount", fork={"brake_mount": "posts"}),
    mount("goes", "same", fork={"brake_mount": "posts"}, front_caliper={"mount": "posts"}, front_rotor=None),
    mount(
        "no_go",
        "no_adapter",
        fork={"brake_mount": "posts"},
        front_caliper={"mount": "posts"},
        front_rotor=None,
        front_brake_adapter=PLUS_20,
    ),
    # a 51 mm caliper goes on 51 mm tabs only, whatever the rotor is; a flat one on posts by its plate
    mount("no_go", "other_mount", front_caliper={"mount": "is"}, front_rotor=None),
    mount(
        "no_go", "other_mount", fork={"brake_mount": "flat"}, front_caliper={"mount": "is"}, front_rotor=None
    ),
    mount("goes_if", "needs_adapter", front_caliper={"mount": "flat"}, needs=("adapter",)),
    # a plate lifts or moves out, it never lowers
    mount(
        "no_go",
        "smaller",
        fork={"native_rotor_mm": 180},
        front_caliper={"mount": "flat"},
        front_brake_adapter=FLAT_PLATE,
    ),
    mount(
        "no_go", "smaller", fork={"native_rotor_mm": 180}, front_brake_adapter={**PLUS_20, "rotor_mm": 160}
    ),
    mount(
        "no_go",
        "wrong_size",
        front_caliper={"mount": "flat"},
        front_brake_adapter={**FLAT_PLATE, "rotor_mm": 140},
    ),
    mount(
        "no_go",
        "wrong_size",
        fork={"native_rotor_mm": None},
        front_caliper={"mount": "flat"},
        front_brake_adapter={**FLAT_PLATE, "rotor_mm": 140},
    ),
    mount(
        "no_go",
        "lowers",
        fork={"native_rotor_mm": 162},
        front_caliper={"mount": "flat"},
        front_brake_adapter=FLAT_PLATE,
    ),
    mount("goes", "adapter_there", front_caliper={"mount": "flat"}, front_brake_adapter=FLAT_PLATE),
    # the flat fork's own plate, turned, brings 140 to 160
    mount(
        "goes_if",
        "turn_plate",
        fork=FLAT_140,
        front_caliper={"mount": "flat"},
        needs=("turn the flat mount's plate",),
    ),
    mount(
        "unmeasured", "missing", fork={**FLAT_140, "native_rotor_mm": None}, front_caliper={"mount": "flat"}
    ),
    mount("goes", "same", fork={**FLAT_140, "native_rotor_mm": 160}, front_caliper={"mount": "flat"}),
    mount("goes", "same", fork=FLAT_140, front_caliper={"mount": "flat"}, front_rotor={"diameter_mm": 140}),
    mount(
        "goes_if",
        "needs_adapter",
        fork=FLAT_140,
        front_caliper={"mount": "flat"},
        front_rotor={"diameter_mm": 180},
        figures={"wants_mm": 180},
    ),
    # the sort of a rim brake names its mount
    mount(
        "goes",
        "same",
        fork={"brake_mount": "rim_bolt"},
        front_caliper={"mount": None, "type": "dual_pivot"},
        front_rotor=None,
    ),
    mount(
        "goes",
        "same",
        fork={"brake_mount": "posts"},
        front_caliper={"mount": None, "type": "cantilever"},
        front_rotor=None,
    ),
    mount(
        "goes",
        "same",
        fork={"brake_mount": "posts"},
        front_caliper={"mount": None, "type": "linear_pull"},
        front_rotor=None,
    ),
    mount(
        "goes",
        "same",
        fork={"brake_mount": "u_posts"},
        front_caliper={"mount": None, "type": "u_brake"},
        front_rotor=None,
    ),
    mount(
        "goes",
        "same",
        fork={"brake_mount": "roller_arm"},
        front_caliper={"mount": None, "type": "roller"},
        front_rotor=None,
    ),
    mount(
        "no_go",
        "other_mount",
        fork={"brake_mount": "posts"},
        front_caliper={"mount": None, "type": "roller"},
        front_rotor=None,
    ),
    mount("no_go", "no_mount", fork={"brake_mount": "none"}, front_caliper={"mount": None}, front_rotor=None),
    mount("no_go", "no_mount", fork=None, front_caliper={"mount": "none"}, front_rotor=None),
    mount("unmeasured", "missing", fork={"brake_mount": None}),
    mount(None, None, front_rotor=None),
    tabs("goes_if", "needs_adapter"),
    tabs("goes", "adapter_there", rear_brake_adapter=IS_PLATE),
    # stamped for either end: which one is measured first; behind, 140 is only made for the rear
    tabs("unmeasured", "which_end", rear_brake_adapter={**IS_PLATE, "end": "either"}),
    tabs(
        "goes",
        "adapter_there",
        rear_brake_adapter={**IS_PLATE, "end": "either", "rotor_mm": 140},
        rear_rotor={"diameter_mm": 140},
    ),
    tabs("no_go", "other_end", rear_brake_adapter={**IS_PLATE, "end": "front"}),
    tabs("unmeasured", "missing", rear_brake_adapter={**IS_PLATE, "end": None}),
    tabs("no_go", "wrong_size", rear_brake_adapter={**IS_PLATE, "rotor_mm": 180}),
    tabs("no_go", "no_way", rear_rotor={"diameter_mm": 203}),
    tabs("no_go", "other_adapter", rear_brake_adapter={**IS_PLATE, "caliper_side": "flat"}, rear_rotor=None),
    # flat mounts: in front 140 or 160 by turning the plate, behind 160 wants a plate
    tabs(
        "goes_if",
        "needs_adapter",
        frame={"rear_brake_mount": "flat", "rear_native_rotor_mm": 140},
        rear_caliper={"mount": "flat"},
    ),
    tabs(
        "goes",
        "same",
        frame={"rear_brake_mount": "flat", "rear_native_rotor_mm": 140},
        rear_caliper={"mount": "flat"},
        rear_rotor={"diameter_mm": 140},
    ),
    tabs("goes_if", "needs_adapter", frame={"rear_brake_mount": "flat"}),
]

position, plate = table("caliper-position", **POST), table("caliper-position", **IS_REAR)
CALIPER_POSITION = [
    position("goes", "centred"),
    position("goes", "centred", front_rotor={"diameter_mm": 180}, front_brake_adapter=PLUS_20),
    # 203 on the 200 place: 1.5 mm of washers
    position("goes_if", "washers", fork={"native_rotor_mm": 200}, front_rotor={"diameter_mm": 203}),
    position("goes_if", "edge", fork={"native_rotor_mm": 203}, front_rotor={"diameter_mm": 205}),
    position("goes_if", "edge", fork={"native_rotor_mm": 185}, front_rotor={"diameter_mm": 183}),
    # 204 on 203: half a millimetre of radius; 205.1: 1.05, washers; 207 on 203: 2.0; 207.1: off
    position("goes", "centred", fork={"native_rotor_mm": 203}, front_rotor={"diameter_mm": 204}),
    position("goes_if", "edge", fork={"native_rotor_mm": 203}, front_rotor={"diameter_mm": 204.1}),
    position(
        "goes_if",
        "washers",
        fork={"native_rotor_mm": 203},
        front_rotor={"diameter_mm": 205.1},
        figures={"off_mm": 1.05},
    ),
    position(
        "goes_if",
        "washers",
        fork={"native_rotor_mm": 203},
        front_rotor={"diameter_mm": 207},
        figures={"off_mm": 2.0},
        needs=("pair of washers", "bolts long enough"),
    ),
    position("no_go", "off", fork={"native_rotor_mm": 160}, front_brake_adapter=PLUS_20),
    position("no_go", "off", front_rotor={"diameter_mm": 203}, front_brake_adapter=PLUS_20),
    position("unmeasured", "missing", fork={"native_rotor_mm": None}),
    position("unmeasured", "missing", front_caliper={"mount": None}),
    position(None, None, front_rotor=None),
    position(None, None, front_rotor={"diameter_mm": 180}),  # the mount asks for the adapter
    plate("goes", "centred", rear_brake_adapter=IS_PLATE),
    plate("goes_if", "edge", rear_rotor={"diameter_mm": 162}, rear_brake_adapter=IS_PLATE),
]

thick = table(
    "rotor-thickness", front_rotor={"measured_mm": 1.75, "thickness_min_mm": 1.5, "thickness_mm": 1.8}
)
THICKNESS = [
    thick("goes", "thick"),
    thick("goes_if", "soon", front_rotor={"measured_mm": 1.6}),
    thick("no_go", "worn", front_rotor={"measured_mm": 1.5}),
    thick("no_go", "worn", front_rotor={"measured_mm": 1.5, "thickness_min_mm": None}),  # 1.8 − 0.3
    thick("goes_if", "assumed", front_rotor={"thickness_min_mm": None}),
    thick("unmeasured", "missing", front_rotor={"thickness_min_mm": None, "thickness_mm": None}),
    thick("unmeasured", "missing", front_rotor={"measured_mm": None}),
    thick(
        "no_go",
        "caliper",
        front_rotor={"thickness_mm": 2.3, "measured_mm": 2.2, "thickness_min_mm": 2.0},
        front_caliper={"rotor_thickness_mm": [1.75, 2.0]},
    ),
    thick("goes", "thick", front_caliper={"rotor_thickness_mm": [1.75, 2.0]}),
    # too thick is certain before anything is measured; too thin when new likewise
    thick(
        "no_go",
        "caliper",
        front_rotor={"measured_mm": None, "thickness_mm": 2.3},
        front_caliper={"rotor_thickness_mm": [1.75, 2.0]},
    ),
    thick(
        "no_go",
        "caliper",
        front_rotor={"measured_mm": None},
        front_caliper={"rotor_thickness_mm": [2.0, 2.3]},
        ways=("front_rotor.thickness_mm",),
    ),
    thick(
        "no_go",
        "caliper",
        front_rotor={"measured_mm": 2.1, "thickness_mm": None},
        front_caliper={"rotor_thickness_mm": [1.75, 2.0]},
    ),
    # up to 2.0 mm goes through any disc caliper, thicker is asked for
    thick(
        "goes",
        "thick",
        front_rotor={"measured_mm": 2.0, "thickness_mm": 2.0, "thickness_min_mm": 1.7},
        front_caliper={},
    ),
    thick(
        "unmeasured",
        "missing",
        front_rotor={"measured_mm": 2.05, "thickness_mm": 2.05, "thickness_min_mm": 1.7},
        front_caliper={},
        asks=("front_caliper.rotor_thickness_mm",),
    ),
    # a stamp of 1.5 is a 1.8 rotor's, too thin when new for this caliper: ask how thick it was
    thick(
        "unmeasured",
        "missing",
        front_rotor={"thickness_mm": None},
        front_caliper={"rotor_thickness_mm": [2.0, 2.3]},
        asks=("front_rotor.thickness_mm",),
    ),
    thick(
        "goes", "thick", front_rotor={"thickness_mm": None}, front_caliper={"rotor_thickness_mm": [1.8, 2.0]}
    ),
    thick("goes", "thick", front_rotor={"measured_mm": 1.61}),
    thick(None, None, front_rotor=None),
]

works = table("brake-actuation", rear_brake_lever={"actuation": "cable"}, rear_caliper={"actuation": "cable"})
ACTUATION = [
    works("goes", "same"),
    works("goes", "cable_hydraulic", rear_caliper={"actuation": "cable_hydraulic"}),
    works("no_go", "other", rear_caliper={"actuation": "hydraulic"}),
    works("no_go", "other", rear_brake_lever={"actuation": "hydraulic"}),
    works(
        "no_go",
        "other",
        rear_brake_lever={"actuation": "hydraulic"},
        rear_caliper={"actuation": "cable_hydraulic"},
    ),
    works("unmeasured", "missing", rear_caliper={"actuation": None}),
    works(None, None, rear_caliper=None),
]

OIL = {"actuation": "hydraulic", "fluid": "mineral", "hose_fitting": "olive-8"}
fluid = table("brake-fluid", front_brake_lever=OIL, front_caliper=OIL)
FLUID = [
    fluid("goes", "one_fluid"),
    fluid("no_go", "mixed", front_caliper={"fluid": "glycol"}),
    fluid("no_go", "mixed", front_brake_line={"fluid": "glycol"}),
    # any two of lever, hose and caliper tell
    fluid("no_go", "mixed", front_caliper=None, front_brake_line={"fluid": "glycol"}),
    fluid("no_go", "mixed", front_brake_lever=None, front_brake_line={"fluid": "glycol"}),
    fluid(
        "no_go",
        "mixed",
        front_caliper={"fluid": "glycol", "actuation": None},
        front_brake_lever={"actuation": None},
    ),
    fluid("goes", "one_fluid", front_brake_line={"type": "hose", "fluid": "mineral"}),
    fluid("unmeasured", "missing", front_brake_line={"type": "hose"}),
    fluid("unmeasured", "missing", front_caliper={"fluid": None}),
    fluid("unmeasured", "missing", front_caliper={"fluid": None, "actuation": None}),
    fluid(None, None, front_brake_lever={"actuation": "cable"}),
    fluid(None, None, front_caliper={"actuation": "cable_hydraulic"}),
]
fitting = table("hose-fitting", front_brake_lever=OIL, front_caliper=OIL)
FITTING = [
    fitting("goes", "same"),
    fitting("goes_if", "other", front_caliper={"hose_fitting": "olive-6"}),
    fitting("goes_if", "other_hose", front_brake_line={"hose_fitting": "olive-6"}, needs=("fittings",)),
    fitting("goes", "same", front_brake_line={"hose_fitting": "olive-8"}),
    fitting(
        "unmeasured", "missing", front_brake_line={"type": "hose"}, asks=("front_brake_line.hose_fitting",)
    ),
    fitting("unmeasured", "missing", front_caliper={"hose_fitting": None}),
    fitting(None, None, front_caliper={"fluid": "glycol"}),
    fitting(None, None, front_brake_lever={"actuation": "cable"}),
]

CABLE = {"actuation": "cable", "cable_pull": "long"}
pull = table("brake-cable-pull", rear_brake_lever=CABLE, rear_caliper=CABLE)
PULL = [
    pull("goes", "same"),
    pull("goes", "same", rear_caliper={"actuation": "cable_hydraulic"}),
    pull("no_go", "short_on_long", rear_brake_lever={"cable_pull": "short"}),
    pull("no_go", "long_on_short", rear_caliper={"cable_pull": "short"}),
    pull("unmeasured", "missing", rear_caliper={"cable_pull": None}),
    pull(None, None, rear_brake_lever={"actuation": "hydraulic"}),
]

line = table(
    "brake-line-type", front_brake_line={"type": "brake_housing"}, front_caliper={"actuation": "cable"}
)
LINE_TYPE = [
    line("goes", "right"),
    line("goes", "right", front_brake_line={"type": "hose"}, front_caliper={"actuation": "hydraulic"}),
    line("goes", "right", front_caliper={"actuation": "cable_hydraulic"}),
    line("no_go", "shift_housing", front_brake_line={"type": "shift_housing"}),
    line("no_go", "shift_housing", front_brake_line={"type": "shift_housing"}, front_caliper=None),
    line("no_go", "bare", front_brake_line={"type": "bare"}),
    line("no_go", "bare", front_brake_line={"type": "bare"}, front_caliper=None),
    line("no_go", "other", front_brake_line={"type": "hose"}),
    line("goes", "right", front_caliper=None, front_brake_lever={"actuation": "cable"}),
    line("no_go", "other", front_caliper={"actuation": "hydraulic"}),
    line("unmeasured", "missing", front_caliper={"actuation": None}),
    line("unmeasured", "missing", front_brake_line={"type": None}),
    line(None, None, front_caliper=None),
]

# θ = 180°: 1 − exp(−0.10 × π) = 27.0 %; 270°: 37.6 %
drag = table(
    "brake-line-drag",
    frame={"routing": "fully_hidden"},
    front_caliper={"actuation": "cable"},
    front_brake_line={"turns_deg": [90, 90], "radius_min_mm": 40},
)
DRAG = [
    drag("goes_if", "bearable"),
    drag("no_go", "too_much", front_brake_line={"turns_deg": [90, 90, 90]}),
    drag("no_go", "too_tight", front_brake_line={"radius_min_mm": 34.9}),
    drag("goes_if", "bearable", front_brake_line={"radius_min_mm": 35}),
    # either figure alone may forbid; 247°: 35.02 %, 246°: 34.91 %
    drag("no_go", "too_tight", front_brake_line={"radius_min_mm": 30, "turns_deg": None}),
    drag(
        "no_go",
        "too_much",
        front_brake_line={"radius_min_mm": None, "turns_deg": [247]},
        figures={"loss_pct": 35.02},
    ),
    drag("goes_if", "bearable", front_brake_line={"turns_deg": [246]}, figures={"loss_pct": 34.91}),
    drag("goes_if", "bearable", front_brake_line={"turns_deg": []}, figures={"loss_pct": 0}),
    # a hose kinks below 25 mm, hidden or not
    drag(
        "no_go",
        "kinks",
        frame=None,
        front_caliper={"actuation": "hydraulic"},
        front_brake_line={"type": "hose", "radius_min_mm": 24.9},
    ),
    drag(
        None,
        None,
        frame=None,
        front_caliper={"actuation": "hydraulic"},
        front_brake_line={"type": "hose", "radius_min_mm": 25},
    ),
    drag("goes_if", "bearable", frame=None, handlebar={"routing": "fully_hidden"}),
    drag("unmeasured", "missing", front_brake_line={"turns_deg": None}),
    drag("unmeasured", "missing", front_brake_line=None),
    drag("unmeasured", "missing", front_caliper={"actuation": None}),
    drag(None, None, frame={"routing": "external"}),
    drag(None, None, front_caliper={"actuation": "hydraulic"}),
]

cut = table("motor-cutoff", motor={"needs_cutoff": True}, front_brake_lever={"cutoff_switch": True})
CUTOFF = [
    cut("goes", "switched"),
    cut(
        "goes", "switched", front_brake_lever={"cutoff_switch": False}, front_caliper={"cutoff_sensor": True}
    ),
    cut("goes_if", "no_switch", front_brake_lever={"cutoff_switch": False}),
    cut("unmeasured", "missing", front_brake_lever={"cutoff_switch": None}),
    cut("unmeasured", "missing", motor={"needs_cutoff": None}),
    cut(None, None, motor={"needs_cutoff": False}),
    cut(None, None, motor=None),
]

reach = table("lever-reach", front_brake_lever={"reach_min_mm": 65})
SPAN = {"rider": {"hand_span_mm": 70}}
REACH = [
    reach("goes", "within", SPAN),
    reach("no_go", "too_far", SPAN, front_brake_lever={"reach_min_mm": 75}),
    reach("unmeasured", "missing", SPAN, front_brake_lever={"reach_min_mm": None}),
    reach(None, None),
]

# 361 − 622 / 2 = 50 mm
rim = table(
    "rim-brake-reach",
    fork={"bridge_radius_mm": 361},
    front_caliper={"type": "dual_pivot", "reach_mm": [47, 57]},
    front_rim={"bsd_mm": 622},
)
RIM_REACH = [
    rim("goes", "reaches"),
    rim("no_go", "too_far", front_rim={"bsd_mm": 584}),  # 69
    rim("no_go", "too_far", front_caliper={"reach_mm": [39, 49]}),
    rim("unmeasured", "missing", front_caliper={"reach_mm": None}),
    rim("unmeasured", "missing", fork={"bridge_radius_mm": None}),
    rim("unmeasured", "missing", front_rim={"bsd_mm": None}),
    rim("goes", "same_size", front_caliper={"type": "linear_pull"}, fork={"post_bsd_mm": 622}),
    rim("goes_if", "in_slot", front_caliper={"type": "linear_pull"}, fork={"post_bsd_mm": 630}),  # 4
    rim("no_go", "off_slot", front_caliper={"type": "cantilever"}, fork={"post_bsd_mm": 584}),  # 19
    rim("unmeasured", "missing", front_caliper={"type": "cantilever"}),
    rim(None, None, front_caliper={"type": "disc"}),
]

track = table("rim-brake-track", rear_caliper={"type": "linear_pull"}, rear_rim={"brake_track": True})
TRACK = [
    track("goes", "track"),
    track("no_go", "no_track", rear_rim={"brake_track": False}),
    track("unmeasured", "missing", rear_rim={"brake_track": None}),
    track("unmeasured", "missing", rear_caliper={"type": None}),
    track(None, None, rear_caliper={"type": "disc"}),
]

bolt = table(
    "rim-brake-bolt",
    frame={"brake_bolt": "recessed"},
    rear_caliper={"type": "dual_pivot", "bolt": "recessed"},
)
BOLT = [
    bolt("goes", "same"),
    bolt("no_go", "other", rear_caliper={"bolt": "nutted"}),
    bolt("unmeasured", "missing", rear_caliper={"type": None}),
    bolt(None, None, frame={"brake_bolt": None}),
]

pads = table("pad-height", front_caliper={"pad_height_mm": 16}, front_rotor={"track_mm": 16})
PADS = [
    pads("goes", "within"),
    pads(
        "goes_if",
        "tall",
        front_rotor={"track_mm": 12},
        figures={"over_mm": 4},
        needs=("watch the pads' inner edge",),
    ),
    pads(None, None, front_rotor={"track_mm": None}),
    pads(None, None, front_caliper=None),
]

between = table(
    "rim-brake-room",
    front_caliper={"type": "dual_pivot", "rim_width_mm": [19, 28], "tyre_max_mm": 28},
    front_rim={"outer_width_mm": 23, "inner_width_mm": 17},
    front_tyre={"width_mm": 25},
    fork={},
)
POSTED = {"type": "cantilever", "tyre_max_mm": None}
BETWEEN = [
    between("goes", "room"),
    between("goes", "room", front_rim={"outer_width_mm": 28}),
    between("no_go", "rim", front_rim={"outer_width_mm": 28.1}, figures={"low_mm": 19, "high_mm": 28}),
    between("no_go", "rim", front_rim={"outer_width_mm": 18.9}),
    # 28 on 17 mm inner: 28 + 0.4 × (17 − 19) = 27.2; measured 28.1 is too tall
    between("goes", "room", front_tyre={"width_mm": 28}),
    between(
        "no_go", "tyre", front_tyre={"width_mm": None, "width_measured_mm": 28.1}, figures={"tyre_mm": 28.1}
    ),
    between("no_go", "tyre", front_tyre={"width_mm": 32}, front_rim={"outer_width_mm": None}),
    between("goes", "room", front_caliper=POSTED, fork={"cable_hanger": True}),
    between(
        "goes", "room", front_caliper=POSTED, fork={"cable_hanger": False}, headset={"cable_hanger": True}
    ),
    between(
        "no_go",
        "no_hanger",
        front_caliper=POSTED,
        fork={"cable_hanger": False},
        headset={"cable_hanger": False},
    ),
    between(
        "unmeasured",
        "hanger_unknown",
        front_caliper=POSTED,
        fork={"cable_hanger": False},
        headset={},
        asks=("headset.cable_hanger",),
    ),
    between(
        "unmeasured", "missing", front_caliper={"rim_width_mm": None}, asks=("front_caliper.rim_width_mm",)
    ),
    between("unmeasured", "missing", front_rim={"outer_width_mm": None}),
    between("unmeasured", "missing", front_caliper={"tyre_max_mm": None}),
    between(None, None, front_caliper={"type": "disc"}),
    between(None, None, front_rim=None),
]
stays = table(
    "rim-brake-room",
    rear_caliper={"type": "cantilever", "rim_width_mm": [19, 28]},
    rear_rim={"outer_width_mm": 23},
    frame={},
)
BETWEEN += [
    stays("goes", "room", frame={"cable_hanger": True}),
    stays("no_go", "no_hanger", frame={"cable_hanger": False}),
    # the headset's hanger holds the front cable only
    stays("no_go", "no_hanger", frame={"cable_hanger": False}, headset={"cable_hanger": True}),
]

CASES: list[Case] = [
    *PADS, *BETWEEN,
    *ROTOR_MOUNT, *ROTOR_LIMIT, *CALIPER_MOUNT, *CALIPER_POSITION, *THICKNESS, *ACTUATION, *FLUID, *FITTING,
    *PULL, *LINE_TYPE, *DRAG, *CUTOFF, *REACH, *RIM_REACH, *TRACK, *BOLT,
]  # fmt: skip
