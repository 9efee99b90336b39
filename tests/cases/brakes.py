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
    mount("unmeasured", "unknown", fork={"native_rotor_mm": None}),
    mount("unmeasured", "unknown", front_rotor={"diameter_mm": None}),
    mount(
        "unmeasured",
        "unknown",
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
    mount("no_go", "no_way", fork={"brake_mount": "post"}, front_caliper={"mount": "is"}),
    mount("unmeasured", "missing", fork={"brake_mount": None}),
    mount(None, None, front_rotor=None),
    tabs("goes_if", "needs_adapter"),
    tabs("goes", "adapter_there", rear_brake_adapter=IS_PLATE),
    tabs("goes", "adapter_there", rear_brake_adapter={**IS_PLATE, "end": "either"}),
    tabs("no_go", "other_end", rear_brake_adapter={**IS_PLATE, "end": "front"}),
    tabs("unmeasured", "unknown", rear_brake_adapter={**IS_PLATE, "end": None}),
    tabs("no_go", "wrong_size", rear_brake_adapter={**IS_PLATE, "rotor_mm": 180}),
    tabs("no_go", "no_way", rear_rotor={"diameter_mm": 203}),
    # flat mounts: in front 140 or 160 by turning the plate, behind 160 wants a plate
    tabs("goes_if", "needs_adapter", frame={"rear_brake_mount": "flat"}, rear_caliper={"mount": "flat"}),
    tabs(
        "goes",
        "same",
        frame={"rear_brake_mount": "flat"},
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
    # 200 on a 203 place: the rotor is the smaller one
    position("goes_if", "tall_pads", front_rotor={"track_mm": 12}, front_caliper={"pad_height_mm": 16}),
    position("goes", "centred", front_rotor={"track_mm": 16}, front_caliper={"pad_height_mm": 16}),
    position("no_go", "off", fork={"native_rotor_mm": 160}, front_brake_adapter=PLUS_20),
    position("no_go", "off", front_rotor={"diameter_mm": 203}, front_brake_adapter=PLUS_20),
    position("unmeasured", "unknown", fork={"native_rotor_mm": None}),
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
    thick("unmeasured", "unknown", front_rotor={"thickness_min_mm": None, "thickness_mm": None}),
    thick("unmeasured", "missing", front_rotor={"measured_mm": None}),
    thick(
        "no_go",
        "caliper",
        front_rotor={"thickness_mm": 2.3},
        front_caliper={"rotor_thickness_mm": [1.75, 2.0]},
    ),
    thick("goes", "thick", front_caliper={"rotor_thickness_mm": [1.75, 2.0]}),
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
    fluid("goes", "one_fluid", front_brake_line={"type": "hose", "fluid": "mineral"}),
    fluid("unmeasured", "unknown", front_brake_line={"type": "hose"}),
    fluid("unmeasured", "unknown", front_caliper={"fluid": None}),
    fluid("unmeasured", "unknown", front_caliper={"fluid": None, "actuation": None}),
    fluid(None, None, front_brake_lever={"actuation": "cable"}),
    fluid(None, None, front_caliper={"actuation": "cable_hydraulic"}),
]
fitting = table("hose-fitting", front_brake_lever=OIL, front_caliper=OIL)
FITTING = [
    fitting("goes", "same"),
    fitting("goes_if", "other", front_caliper={"hose_fitting": "olive-6"}),
    fitting("unmeasured", "unknown", front_caliper={"hose_fitting": None}),
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
    pull("unmeasured", "unknown", rear_caliper={"cable_pull": None}),
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
    line("no_go", "other", front_brake_line={"type": "hose"}),
    line("no_go", "other", front_caliper={"actuation": "hydraulic"}),
    line("unmeasured", "unknown", front_caliper={"actuation": None}),
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
    drag("no_go", "too_tight", front_brake_line={"radius_min_mm": 30}),
    drag("goes_if", "bearable", frame=None, handlebar={"routing": "fully_hidden"}),
    drag("unmeasured", "unknown", front_brake_line={"turns_deg": None}),
    drag("unmeasured", "unknown", front_brake_line=None),
    drag("unmeasured", "unknown", front_caliper={"actuation": None}),
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
    cut("unmeasured", "unknown", front_brake_lever={"cutoff_switch": None}),
    cut("unmeasured", "missing", motor={"needs_cutoff": None}),
    cut(None, None, motor={"needs_cutoff": False}),
    cut(None, None, motor=None),
]

reach = table("lever-reach", front_brake_lever={"reach_min_mm": 65})
SPAN = {"rider": {"hand_span_mm": 70}}
REACH = [
    reach("goes", "within", SPAN),
    reach("no_go", "too_far", SPAN, front_brake_lever={"reach_min_mm": 75}),
    reach("unmeasured", "unknown", SPAN, front_brake_lever={"reach_min_mm": None}),
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
    rim("unmeasured", "unknown", front_caliper={"reach_mm": None}),
    rim("unmeasured", "unknown", fork={"bridge_radius_mm": None}),
    rim("unmeasured", "missing", front_rim={"bsd_mm": None}),
    rim("goes", "same_size", front_caliper={"type": "linear_pull"}, fork={"post_bsd_mm": 622}),
    rim("goes_if", "in_slot", front_caliper={"type": "linear_pull"}, fork={"post_bsd_mm": 630}),  # 4
    rim("no_go", "off_slot", front_caliper={"type": "cantilever"}, fork={"post_bsd_mm": 584}),  # 19
    rim("unmeasured", "unknown", front_caliper={"type": "cantilever"}),
    rim(None, None, front_caliper={"type": "disc"}),
]

track = table("rim-brake-track", rear_caliper={"type": "linear_pull"}, rear_rim={"brake_track": True})
TRACK = [
    track("goes", "track"),
    track("no_go", "no_track", rear_rim={"brake_track": False}),
    track("unmeasured", "unknown", rear_rim={"brake_track": None}),
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

CASES: list[Case] = [
    *ROTOR_MOUNT, *ROTOR_LIMIT, *CALIPER_MOUNT, *CALIPER_POSITION, *THICKNESS, *ACTUATION, *FLUID, *FITTING,
    *PULL, *LINE_TYPE, *DRAG, *CUTOFF, *REACH, *RIM_REACH, *TRACK, *BOLT,
]  # fmt: skip
