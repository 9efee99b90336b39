"""Cases of steering, cockpit and seat."""

from tests.cases import Case, table

cups = table(
    "headset-fit",
    frame={"headset_upper": "ZS44", "headset_lower": "ZS44"},
    headset={"upper": "ZS44/28.6", "lower": "ZS44/30"},
)
INTEGRATED = {"headset_upper": "IS42", "headset_lower": "IS52", "headset_seat_deg": 45}
IS_HEADSET = {"upper": "IS42/28.6", "lower": "IS52/40", "bearing_angle_deg": 45}
HEADSET = [
    cups("goes", "fits"),
    cups("goes_if", "other_cup", headset={"lower": "EC44/40"}),
    cups("no_go", "other_bore", headset={"lower": "EC49/40"}),
    cups("no_go", "other_bore", headset={"upper": "EC34/28.6"}),
    cups("no_go", "own_bearing", headset={"upper": "IS42/28.6"}),
    cups("goes", "fits", frame=INTEGRATED, headset=IS_HEADSET),
    cups("no_go", "own_bearing", frame=INTEGRATED, headset={**IS_HEADSET, "upper": "IS41/28.6"}),
    cups("no_go", "other_angle", frame=INTEGRATED, headset={**IS_HEADSET, "bearing_angle_deg": 36}),
    cups(
        "no_go",
        "other_angle",
        frame={"headset_upper": "IS42", "headset_lower": None, "headset_seat_deg": 45},
        headset={"upper": None, "lower": None, "bearing_angle_deg": 36},
    ),
    cups("unmeasured", "missing", frame={**INTEGRATED, "headset_seat_deg": None}, headset=IS_HEADSET),
    # a tapered race wants EC44 or larger below; the frame's bore alone may forbid a tapered fork
    cups("no_go", "tapered_cup", headset={"lower": "ZS44/40"}),
    cups(
        "no_go",
        "tapered_cup",
        frame={"headset_upper": None, "headset_lower": None},
        headset={"lower": "EC34/40"},
    ),
    cups("goes", "fits", frame={"headset_lower": "ZS56"}, headset={"lower": "ZS56/40"}),
    cups("goes", "fits", frame={"headset_lower": "EC49"}, headset={"lower": "EC49/40"}),
    cups(
        "no_go",
        "tapered_fork",
        frame={"headset_lower": "EC34"},
        headset={"lower": None},
        fork={"crown_race_mm": 39.8},
    ),
    cups("goes_if", "other_cup", headset={"lower": "EC44/40"}, fork={"crown_race_mm": 39.8}),
    # a code that stands in no table, and the two one-inch cups, are measured
    cups(
        "unmeasured",
        "code_unknown",
        frame={"headset_upper": "EC35"},
        headset={"upper": "EC35/28.6"},
        asks=("frame.headset_upper",),
    ),
    cups(
        "unmeasured",
        "one_inch",
        frame={"headset_upper": "EC29"},
        headset={"upper": "EC30/25.4"},
        asks=("frame.headset_upper", "headset.upper"),
    ),
    cups("goes", "fits", frame={"headset_upper": "EC30"}, headset={"upper": "EC30/25.4"}),
    cups("no_go", "other_bore", headset={"upper": "EC34/28.6", "lower": None}),
    cups("unmeasured", "missing", headset={"lower": None}),
    cups(None, None, headset=None),
]

steerer = table(
    "steerer-fit",
    headset={"upper": "ZS44/28.6", "lower": "ZS56/40"},
    fork={"steerer_upper_mm": 28.6, "crown_race_mm": 39.8},
)
STEERER = [
    steerer("goes", "fits"),
    steerer("goes_if", "reducer", fork={"crown_race_mm": 30.0}),  # straight fork, tapered tube
    steerer("no_go", "other_race", headset={"lower": "ZS44/30"}),
    steerer("no_go", "other_race", fork={"crown_race_mm": 27.0}),
    steerer("no_go", "other_steerer", fork={"steerer_upper_mm": 25.4}),
    steerer("goes", "fits", headset={"lower": "ZS56", "crown_race_mm": 39.8}),
    steerer(
        "no_go",
        "other_steerer",
        headset={"lower": None},
        fork={"steerer_upper_mm": 25.4, "crown_race_mm": None},
    ),
    steerer("unmeasured", "missing", headset={"lower": "ZS56"}),
    steerer("unmeasured", "missing", fork={"crown_race_mm": None}),
    steerer(None, None, fork=None),
]

fork = table(
    "fork-length", frame={"fork_a2c_max_mm": 450, "fork_a2c_design_mm": 440}, fork={"axle_to_crown_mm": 445}
)
FORK = [
    fork("goes", "within"),
    fork("no_go", "too_long", fork={"axle_to_crown_mm": 455}),
    fork("no_go", "too_much_travel", fork={"travel_mm": 120, "travel_max_mm": 100}),
    fork("goes", "within", fork={"travel_mm": 100, "travel_max_mm": 100}),
    fork("no_go", "too_much_travel", frame=None, fork={"travel_mm": 120, "travel_max_mm": 100}),
    fork("unmeasured", "missing", fork={"travel_mm": 100}, asks=("fork.travel_max_mm",)),
    fork("unmeasured", "missing", fork={"travel_max_mm": 100}, asks=("fork.travel_mm",)),
    fork("goes", "within", fork={"travel_mm": 0}),
    fork("goes", "within", fork={"axle_to_crown_mm": 450}),
    # 20 under the design of 440 goes, to 40 with steeper angles: 440 → 410 at 72° and 1000 mm turns the bike by
    # atan(30 sin 72° / (1000 − 30 cos 72°)) = 1.65° the other way
    fork("goes", "within", fork={"axle_to_crown_mm": 420}),
    fork("goes_if", "short", fork={"axle_to_crown_mm": 419}, needs=("handling with steeper angles",)),
    fork(
        "goes_if",
        "short",
        frame={"head_angle_deg": 72, "wheelbase_mm": 1000},
        fork={"axle_to_crown_mm": 410},
        figures={"short_mm": 30, "head_angle_deg": 73.65},
    ),
    fork("goes_if", "short", fork={"axle_to_crown_mm": 400}),
    fork("no_go", "too_short", fork={"axle_to_crown_mm": 399}, figures={"short_mm": 41}),
    fork("no_go", "too_short", frame={"fork_a2c_max_mm": None}, fork={"axle_to_crown_mm": 399}),
    fork("goes", "within", frame={"fork_a2c_min_mm": 405}, fork={"axle_to_crown_mm": 405}),
    fork(
        "goes_if",
        "short",
        frame={"fork_a2c_min_mm": 405, "fork_a2c_design_mm": None},
        fork={"axle_to_crown_mm": 404},
    ),
    # within 20 mm of the longest allowed it cannot be short; further under it that must be known
    fork("goes", "within", frame={"fork_a2c_design_mm": None}, fork={"axle_to_crown_mm": 430}),
    fork(
        "unmeasured",
        "missing",
        frame={"fork_a2c_design_mm": None},
        fork={"axle_to_crown_mm": 429},
        asks=("frame.fork_a2c_design_mm",),
    ),
    fork("unmeasured", "missing", frame={"fork_a2c_max_mm": None}),
    fork(None, None, fork=None),
]

stem = table(
    "stem-steerer",
    stem={"mount": "threadless", "steerer_mm": 28.6},
    fork={"steerer_upper_mm": 28.6, "steerer_threaded": False},
)
QUILL = {"mount": "quill", "steerer_mm": 22.2}
STEM = [
    stem("goes", "clamps"),
    stem("goes_if", "sleeve", fork={"steerer_upper_mm": 25.4}),
    stem("no_go", "other_size", stem={"steerer_mm": 25.4}),
    # 22.2 is the quill of a 25.4 steerer, not of this one
    stem("no_go", "other_size", stem={"mount": None, "steerer_mm": 22.2}, fork={"steerer_threaded": None}),
    stem("no_go", "on_thread", fork={"steerer_threaded": True}),
    stem("goes", "quill", stem=QUILL, fork={"steerer_upper_mm": 25.4, "steerer_threaded": True}),
    stem("no_go", "other_size", stem=QUILL, fork={"steerer_threaded": True}),
    stem("no_go", "quill_in_threadless", stem=QUILL),
    # quill and thread tell without a size; a size that holds neither way tells without them
    stem("no_go", "quill_in_threadless", stem={**QUILL, "steerer_mm": None}, fork={"steerer_upper_mm": None}),
    stem("no_go", "on_thread", stem={"steerer_mm": None}, fork={"steerer_threaded": True}),
    stem(
        "no_go",
        "other_size",
        stem={"mount": None, "steerer_mm": 35},
        fork={"steerer_threaded": None, "steerer_upper_mm": 25.4},
    ),
    stem(
        "no_go",
        "no_quill",
        stem={"mount": "quill", "steerer_mm": 28.6},
        fork={"steerer_upper_mm": None, "steerer_threaded": True},
    ),
    stem("unmeasured", "missing", stem={"mount": None, "steerer_mm": 28.6}, fork={"steerer_threaded": None}),
    stem("unmeasured", "missing", fork={"steerer_threaded": None}),
    stem(None, None, stem=None),
]

# 10 + 140 + 20 + 20 + 40 + 5 − 3 = 232
length = table(
    "steerer-length",
    frame={"head_tube_length_mm": 140},
    headset={"stack_upper_mm": 20, "stack_lower_mm": 10},
    spacers={"below_mm": 20, "above_mm": 5},
    stem={"mount": "threadless", "clamp_height_mm": 40},
    fork={"steerer_length_mm": 232},
)
LENGTH = [
    length("goes", "right"),
    length("goes", "right", fork={"steerer_length_mm": 230}),  # 5 mm under the cap
    length("goes", "right", fork={"steerer_length_mm": 233}),  # 2 mm
    length("no_go", "short", fork={"steerer_length_mm": 217}),
    length("no_go", "short", fork={"steerer_length_mm": 229}, figures={"short_mm": 3, "over_mm": 0}),
    length("goes_if", "long", fork={"steerer_length_mm": 234}, figures={"short_mm": 0, "over_mm": 2}),
    # 10 + 140 + 20 + 40 − 3 = 207 is sure without any spacer: 205 is 2 short and still caps, 204.9 does not
    length(
        "no_go",
        "short_at_least",
        spacers={"below_mm": None, "above_mm": None},
        fork={"steerer_length_mm": 204.9},
        figures={"wanted_mm": 207, "short_mm": 2.1},
    ),
    length(
        "unmeasured", "missing", spacers={"below_mm": None, "above_mm": None}, fork={"steerer_length_mm": 205}
    ),
    length("no_go", "short_at_least", spacers=None, fork={"steerer_length_mm": 190}),
    # a threaded steerer reaches through 170 mm of cups and head tube
    length(
        "no_go",
        "thread_short",
        stem={"mount": "quill"},
        spacers=None,
        fork={"steerer_threaded": True, "steerer_length_mm": 169},
    ),
    length(None, None, stem={"mount": "quill"}, fork={"steerer_threaded": True, "steerer_length_mm": 170}),
    length("unmeasured", "missing", stem={"clamp_height_mm": None}),
    length("unmeasured", "missing", headset={"stack_upper_mm": None}),
    length("unmeasured", "missing", stem={"mount": None}),
    length(None, None, stem={"mount": "quill"}, headset={"stack_upper_mm": None}),
    length(None, None, spacers=None),
]

anchor = table(
    "steerer-anchor",
    headset={"anchor": "star_nut"},
    fork={"steerer_material": "aluminium", "steerer_threaded": False},
)
PLUG = {"anchor": "expander"}
ANCHOR = [
    anchor("goes", "suits"),
    anchor("no_go", "splits", fork={"steerer_material": "carbon"}),
    anchor("goes", "suits", headset={**PLUG, "plug_in_clamp": True}, fork={"steerer_material": "carbon"}),
    anchor("no_go", "too_deep", headset={**PLUG, "plug_in_clamp": False}),
    anchor("unmeasured", "plug_unknown", headset=PLUG, asks=("headset.plug_in_clamp",)),
    anchor(
        "goes",
        "suits",
        headset={**PLUG, "anchor_depth_mm": 45},
        figures={"reach_mm": 45},  # clamp 40 and 5 above
        stem={"clamp_height_mm": 40},
        spacers={"above_mm": 5},
    ),
    anchor(
        "no_go",
        "too_deep",
        headset={**PLUG, "anchor_depth_mm": 45.1},
        stem={"clamp_height_mm": 40},
        spacers={"above_mm": 5},
    ),
    # a star nut has no place in a thread or beside a quill
    anchor("no_go", "in_thread", fork={"steerer_threaded": True, "steerer_material": None}),
    anchor("no_go", "in_thread", fork={"steerer_material": None}, stem={"mount": "quill"}),
    anchor("goes", "suits", fork={"steerer_threaded": None}, stem={"mount": "threadless"}),
    anchor("unmeasured", "missing", fork={"steerer_threaded": None}, asks=("fork.steerer_threaded",)),
    # a plug 50 mm down under 5 mm of spacers and a 40 mm clamp backs nothing
    anchor(
        "no_go",
        "too_deep",
        headset={"anchor": "expander", "anchor_depth_mm": 50},
        stem={"clamp_height_mm": 40},
        spacers={"above_mm": 5},
    ),
    anchor(
        "goes",
        "suits",
        headset={"anchor": "expander", "anchor_depth_mm": 25},
        stem={"clamp_height_mm": 40},
        spacers={"above_mm": 5},
    ),
    anchor("unmeasured", "missing", fork={"steerer_material": None}),
    anchor("unmeasured", "missing", headset={"anchor": None}),
    anchor(None, None, headset=None),
]

stack = table("stem-spacers", spacers={"below_mm": 35}, stem={}, fork={"steerer_material": "aluminium"})
SPACERS = [
    stack("goes", "within"),
    stack("no_go", "too_many", fork={"steerer_material": "carbon"}),
    stack("goes", "within", fork={"steerer_material": "carbon"}, stem={"max_spacers_mm": 40}),
    stack("no_go", "too_many", stem={"max_spacers_mm": 30}),
    stack("goes", "within", spacers={"below_mm": 30}, fork={"steerer_material": None}),
    stack("unmeasured", "missing", fork={"steerer_material": None}),
    stack("unmeasured", "missing", spacers={"below_mm": None}),
    stack(None, None, spacers=None),
]

bar = table("stem-bar", stem={"bar_clamp_mm": 31.8}, handlebar={"clamp_mm": 31.8})
BAR = [
    bar("goes", "same"),
    bar("goes_if", "sleeve", handlebar={"clamp_mm": 25.4, "material": "aluminium"}),
    bar("goes_if", "sleeve", handlebar={"clamp_mm": 26.0, "material": "steel"}),
    bar("no_go", "carbon", handlebar={"clamp_mm": 26.0, "material": "carbon"}),
    bar("unmeasured", "missing", handlebar={"clamp_mm": 26.0}),
    bar("no_go", "other", handlebar={"clamp_mm": 35.0}),
    bar("no_go", "other", stem={"bar_clamp_mm": 26.0}, handlebar={"clamp_mm": 25.4, "material": "steel"}),
    bar("unmeasured", "missing", stem={"bar_clamp_mm": None}),
    bar(None, None, stem=None),
]

control = table(
    "bar-controls",
    front_brake_lever={"clamp_mm": 22.2, "fits_bar": ["flat", "riser"]},
    handlebar={"grip_mm": 22.2, "shape": "flat"},
)
IN_THE_END = {"clamp_mm": None, "bar_end": True}
CONTROLS = [
    control("goes", "fits"),
    control("no_go", "other_shape", handlebar={"shape": "drop"}),
    control("no_go", "other_clamp", handlebar={"grip_mm": 23.8}),
    control(
        "goes",
        "fits",
        front_brake_lever={"clamp_mm": 23.8, "fits_bar": ["drop"]},
        handlebar={"shape": "drop", "grip_mm": 24.2},
    ),
    # flat, riser and swept are one family, drop and bullhorn another, a base bar stands alone
    control("goes", "fits", handlebar={"shape": "swept"}),
    control("no_go", "other_shape", handlebar={"shape": "base_bar"}),
    control(
        "goes",
        "fits",
        front_brake_lever={"clamp_mm": 23.8, "fits_bar": ["drop"]},
        handlebar={"shape": "bullhorn", "grip_mm": 23.8},
    ),
    control(
        "no_go",
        "other_shape",
        front_brake_lever={"clamp_mm": None},
        handlebar={"shape": "drop", "grip_mm": None},
    ),
    control("no_go", "other_clamp", front_brake_lever={"fits_bar": None}, handlebar={"grip_mm": 22.7}),
    control("goes", "fits", handlebar={"grip_mm": 22.6}),
    # in the bar's end there is no clamp: a bore of 20 to 22 mm
    control(
        "goes_if",
        "end_bore",
        front_brake_lever=IN_THE_END,
        handlebar={"bore_mm": 20},
        needs=("look that the bar's end is straight as deep as the plug",),
    ),
    control("goes_if", "end_bore", front_brake_lever=IN_THE_END, handlebar={"bore_mm": 22}),
    control("no_go", "other_bore", front_brake_lever=IN_THE_END, handlebar={"bore_mm": 19.9}),
    control("no_go", "other_bore", front_brake_lever=IN_THE_END, handlebar={"bore_mm": 22.1}),
    control("unmeasured", "missing", front_brake_lever=IN_THE_END, asks=("handlebar.bore_mm",)),
    control("unmeasured", "missing", handlebar={"grip_mm": None}),
    control(None, None, handlebar=None),
]

post = table(
    "seatpost-fit", frame={"seat_tube_bore_mm": 27.2}, seatpost={"diameter_mm": 27.2, "mark_inside": True}
)
UNSEEN = {"mark_inside": None}
LEAST_110 = {"mark_inside": None, "min_insertion_mm": 110}
AT_720 = {"rider": {"saddle_height_mm": 720}}
# 720 − 480 − 50 = 190 mm of post stand out
OUT_190 = {
    "frame": {"seat_tube_length_mm": 480, "seat_tube_depth_mm": 200},
    "saddle": {"rail_height_mm": 50},
}
DROPS = {"mark_inside": None, "stack_mm": 150, "dropper_travel_mm": 100, "min_insertion_mm": 100}
POST = [
    post("goes", "fits"),
    post("goes", "fits", frame={"seat_tube_bore_mm": 27.3}),
    post("goes_if", "shim", frame={"seat_tube_bore_mm": 31.6}),
    post("no_go", "too_large", seatpost={"diameter_mm": 30.9}),
    # without the rider's height: least within depth, or the mark seen
    post("goes", "fits", frame={"seat_tube_depth_mm": 110}, seatpost=LEAST_110),
    post("no_go", "too_deep", frame={"seat_tube_depth_mm": 109}, seatpost=LEAST_110),
    post("no_go", "mark_out", seatpost={"mark_inside": False}),
    post("no_go", "mark_out", frame=None, seatpost={"mark_inside": False}),
    post(
        "unmeasured",
        "insertion_unknown",
        seatpost=UNSEEN,
        asks=("seatpost.mark_inside", "seatpost.min_insertion_mm", "frame.seat_tube_depth_mm"),
    ),
    # with it: 300 long leaves 110 in the tube
    post("goes", "fits", AT_720, **OUT_190, seatpost={**LEAST_110, "length_mm": 300}, figures={"in_mm": 110}),
    post(
        "no_go",
        "too_little",
        AT_720,
        **OUT_190,
        seatpost={**LEAST_110, "length_mm": 299},
        figures={"in_mm": 109},
    ),
    post("goes", "fits", AT_720, **OUT_190, seatpost={**LEAST_110, "length_mm": 390}),
    post(
        "no_go",
        "bottoms",
        AT_720,
        **OUT_190,
        seatpost={**LEAST_110, "length_mm": 391},
        figures={"in_mm": 201},
    ),
    post("unmeasured", "missing", AT_720, **OUT_190, seatpost=LEAST_110, asks=("seatpost.length_mm",)),
    # a dropper 150 high, 400 long: body 250; raised 190 − 150 = 40, so 210 in: over the depth of 200
    post("no_go", "bottoms", AT_720, **OUT_190, seatpost={**DROPS, "length_mm": 400}, figures={"in_mm": 210}),
    post("goes", "fits", AT_720, **OUT_190, seatpost={**DROPS, "length_mm": 380}, figures={"in_mm": 190}),
    # a set-back post turned to the front
    post("no_go", "turned", seatpost={"turned": True, "setback_mm": 20, "fits_forward": False}),
    post(
        "unmeasured",
        "turned_unknown",
        seatpost={"turned": True, "setback_mm": 20},
        asks=("seatpost.fits_forward",),
    ),
    post(
        "unmeasured",
        "turned_unknown",
        seatpost={"setback_mm": 20, "fits_forward": False},
        asks=("seatpost.turned",),
    ),
    post("goes", "fits", seatpost={"setback_mm": 20}),
    post("goes", "fits", seatpost={"turned": True, "setback_mm": 20, "fits_forward": True}),
    post("goes", "fits", seatpost={"turned": False, "setback_mm": 20, "fits_forward": False}),
    post("unmeasured", "missing", seatpost={"diameter_mm": None}),
    post(None, None, seatpost=None),
]

entry = table("dropper-entry", frame={"dropper_entry": True}, seatpost={"actuation": "cable"})
ENTRY = [
    entry("goes", "entry"),
    entry("no_go", "no_entry", frame={"dropper_entry": False}),
    entry("unmeasured", "missing", frame={"dropper_entry": None}),
    entry("unmeasured", "missing", seatpost={"actuation": None, "dropper_travel_mm": 120}),
    entry(None, None, seatpost={"actuation": None}),
    entry(None, None, seatpost={"actuation": "electronic"}),
]

# 720 − 440 − 50 = 230
drop = table(
    "dropper-room",
    frame={"seat_tube_length_mm": 440},
    seatpost={"dropper_travel_mm": 150, "stack_mm": 200},
    saddle={"rail_height_mm": 50},
)
TALL = {"rider": {"saddle_height_mm": 720}}
DROPPER = [
    drop("goes", "room", TALL),
    drop("no_go", "no_room", TALL, seatpost={"stack_mm": 240}),
    drop("unmeasured", "missing", TALL, saddle={"rail_height_mm": None}),
    # certain without the saddle: 720 − 440 = 280 at most
    drop("no_go", "no_room", TALL, saddle={"rail_height_mm": None}, seatpost={"stack_mm": 281}),
    drop("goes", "room", TALL, seatpost={"stack_mm": 230}),
    drop("no_go", "no_room", TALL, seatpost={"stack_mm": 231}),
    drop(None, None),
    drop(None, None, TALL, seatpost={"dropper_travel_mm": 0}),
]

rails = table("saddle-rails", seatpost={"rails": ["7x7"]}, saddle={"rails": ["7x7"]})
RAILS = [
    rails("goes", "clamps"),
    rails("no_go", "other", saddle={"rails": ["7x9"]}),
    rails("unmeasured", "missing", saddle={"rails": None}),
    rails(None, None, saddle=None),
]

shock = table(
    "shock-fit",
    frame={"shock_eye_to_eye_mm": 190, "shock_stroke_mm": 50},
    shock={"eye_to_eye_mm": 190, "stroke_mm": 50},
)
SHOCK = [
    shock("goes", "fits"),
    shock("no_go", "other_stroke", shock={"stroke_mm": 45}),
    # 190 × 50 is an inch size and measures 50.8
    shock("no_go", "other_stroke", shock={"stroke_mm": 51.4, "eye_to_eye_mm": None}),
    shock("goes", "fits", shock={"stroke_mm": 50.5, "eye_to_eye_mm": 189.5}),
    shock("no_go", "other_length", shock={"eye_to_eye_mm": 189.4, "stroke_mm": None}),
    shock("unmeasured", "missing", shock={"stroke_mm": None}),
    shock(None, None, shock=None),
]

grips = table("bar-ends", grips={"bore_mm": 22.2, "end_plugs": True}, handlebar={"grip_mm": 22.2})
GRIPS = [
    grips("goes", "closed"),
    grips("goes", "closed", grips={"bore_mm": 22.6}),
    grips("goes_if", "open", grips={"end_plugs": False}, needs=("bar plugs",)),
    grips("no_go", "other_bore", grips={"bore_mm": 22.7, "end_plugs": None}),
    grips("unmeasured", "missing", grips={"end_plugs": None}),
    grips("unmeasured", "missing", grips={"bore_mm": None}),
    grips(None, None, grips=None),
]

worked = table(
    "dropper-control",
    seatpost={"dropper_travel_mm": 125, "actuation": "cable"},
    dropper_lever={"actuation": "cable", "clamp_mm": 22.2, "fits_bar": ["flat"]},
    handlebar={"grip_mm": 22.2, "shape": "riser"},
    frame={"battery_in_seat_tube": False},
)
WORKED = [
    worked("goes", "works"),
    worked("goes", "works", seatpost={"dropper_travel_mm": None}),
    worked("no_go", "other_works", dropper_lever={"actuation": "hydraulic"}),
    worked("no_go", "other_works", seatpost={"actuation": "electronic"}),
    worked("no_go", "battery", frame={"battery_in_seat_tube": True}),
    worked(
        "no_go",
        "battery",
        frame={"battery_in_seat_tube": True},
        seatpost={"actuation": None},
        dropper_lever=None,
    ),
    worked("no_go", "other_shape", handlebar={"shape": "drop"}),
    worked("no_go", "other_clamp", handlebar={"grip_mm": 22.7}),
    worked("no_go", "no_line", dropper_line={"type": "shift_housing"}, frame={"dropper_entry": False}),
    worked("goes", "works", dropper_line={"type": "shift_housing"}, frame={"dropper_entry": True}),
    worked("no_go", "other_line", dropper_line={"type": "hose"}, frame={"dropper_entry": True}),
    worked("unmeasured", "missing", dropper_lever={"actuation": None}),
    worked("unmeasured", "missing", dropper_lever={"clamp_mm": None}),
    worked(None, None, seatpost={"dropper_travel_mm": None, "actuation": "none"}),
    worked(None, None, seatpost=None),
]

FORBIDS = {
    "crack": (
        "fork",
        "headset",
        "stem",
        "handlebar",
        "seatpost",
        "crank",
        "pedals",
        "rear_hub",
        "front_rim",
        "front_caliper",
        "rear_brake_lever",
    ),
    "bent": ("fork", "stem", "handlebar", "seatpost"),
    "leak": ("front_brake_lever", "rear_caliper", "front_brake_line"),
    "thread_stripped": (
        "stem",
        "handlebar",
        "front_brake_lever",
        "front_caliper",
        "rear_brake_adapter",
        "front_hub",
        "fork",
        "crank",
    ),
    "worn_through": ("front_caliper", "rear_rim", "front_tyre"),
}
LOOKED_AT = (("crack", "saddle"), ("bent", "rear_derailleur"), ("leak", "shock"), ("thread_stripped", "frame"),
             ("worn_through", "chain"), ("crash", "rear_derailleur"))  # fmt: skip
whole = table("sound", frame={"damage": [], "material": "steel"})
SOUND = [
    whole("goes", "whole"),
    whole("no_go", "forbidden", frame={"damage": ["crack"]}, figures={"What": "Crack"}),
    whole("goes_if", "look", frame={"damage": ["dent"]}, needs=("look at the damage",)),
    whole("no_go", "carbon", frame={"damage": ["dent"], "material": "carbon"}),
    whole("no_go", "carbon", frame={"damage": ["crash"], "material": "carbon"}),
    whole(
        "unmeasured",
        "material_unknown",
        frame={"damage": ["crash"], "material": None},
        asks=("frame.material",),
    ),
    whole("no_go", "forbidden", frame={"damage": ["crack", "dent"], "material": None}),
    whole(None, None, frame={"damage": None}),
    *(
        whole("no_go", "forbidden", **{"frame": None, slot: {"damage": [what]}})
        for what, slots in FORBIDS.items()
        for slot in slots
    ),
    *(whole("goes_if", "look", **{"frame": None, slot: {"damage": [what]}}) for what, slot in LOOKED_AT),
]

CASES: list[Case] = [
    *GRIPS, *WORKED, *SOUND,
    *HEADSET, *STEERER, *FORK, *STEM, *LENGTH, *ANCHOR, *SPACERS, *BAR, *CONTROLS, *POST, *ENTRY, *DROPPER, *RAILS,
    *SHOCK,
]  # fmt: skip
