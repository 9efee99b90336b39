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
    cups("unmeasured", "angle_unknown", frame={**INTEGRATED, "headset_seat_deg": None}, headset=IS_HEADSET),
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
    steerer("unmeasured", "unknown", headset={"lower": "ZS56"}),
    steerer("unmeasured", "missing", fork={"crown_race_mm": None}),
    steerer(None, None, fork=None),
]

fork = table("fork-length", frame={"fork_a2c_max_mm": 450}, fork={"axle_to_crown_mm": 445})
FORK = [
    fork("goes", "within"),
    fork("no_go", "too_long", fork={"axle_to_crown_mm": 455}),
    fork("no_go", "too_much_travel", fork={"travel_mm": 120, "travel_max_mm": 100}),
    fork("goes", "within", fork={"travel_mm": 100, "travel_max_mm": 100}),
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
    stem("no_go", "on_thread", fork={"steerer_threaded": True}),
    stem("goes", "quill", stem=QUILL, fork={"steerer_upper_mm": 25.4, "steerer_threaded": True}),
    stem("no_go", "other_size", stem=QUILL, fork={"steerer_threaded": True}),
    stem("no_go", "quill_in_threadless", stem=QUILL),
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
    length("no_go", "short", fork={"steerer_length_mm": 229}),
    length("goes_if", "long", fork={"steerer_length_mm": 234}),
    length("unmeasured", "unknown", stem={"clamp_height_mm": None}),
    length("unmeasured", "unknown", headset={"stack_upper_mm": None}),
    length("unmeasured", "missing", stem={"mount": None}),
    length(None, None, stem={"mount": "quill"}, headset={"stack_upper_mm": None}),
    length(None, None, spacers=None),
]

anchor = table("steerer-anchor", headset={"anchor": "star_nut"}, fork={"steerer_material": "aluminium"})
ANCHOR = [
    anchor("goes", "suits"),
    anchor("no_go", "splits", fork={"steerer_material": "carbon"}),
    anchor("goes", "suits", headset={"anchor": "expander"}, fork={"steerer_material": "carbon"}),
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
    anchor("unmeasured", "unknown", fork={"steerer_material": None}),
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
    stack("unmeasured", "unknown", fork={"steerer_material": None}),
    stack("unmeasured", "missing", spacers={"below_mm": None}),
    stack(None, None, spacers=None),
]

bar = table("stem-bar", stem={"bar_clamp_mm": 31.8}, handlebar={"clamp_mm": 31.8})
BAR = [
    bar("goes", "same"),
    bar("goes_if", "sleeve", handlebar={"clamp_mm": 25.4, "material": "aluminium"}),
    bar("goes_if", "sleeve", handlebar={"clamp_mm": 26.0, "material": "steel"}),
    bar("no_go", "carbon", handlebar={"clamp_mm": 26.0, "material": "carbon"}),
    bar("unmeasured", "material_unknown", handlebar={"clamp_mm": 26.0}),
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
    control("unmeasured", "unknown", handlebar={"grip_mm": None}),
    control(None, None, handlebar=None),
]

post = table("seatpost-fit", frame={"seat_tube_bore_mm": 27.2}, seatpost={"diameter_mm": 27.2})
POST = [
    post("goes", "fits"),
    post("goes", "fits", frame={"seat_tube_bore_mm": 27.3}),
    post("goes_if", "shim", frame={"seat_tube_bore_mm": 31.6}),
    post("no_go", "too_large", seatpost={"diameter_mm": 30.9}),
    post("no_go", "too_deep", frame={"seat_tube_depth_mm": 100}, seatpost={"min_insertion_mm": 110}),
    post("unmeasured", "missing", seatpost={"diameter_mm": None}),
    post(None, None, seatpost=None),
]

entry = table("dropper-entry", frame={"dropper_entry": True}, seatpost={"actuation": "cable"})
ENTRY = [
    entry("goes", "entry"),
    entry("no_go", "no_entry", frame={"dropper_entry": False}),
    entry("unmeasured", "unknown", frame={"dropper_entry": None}),
    entry("unmeasured", "unknown", seatpost={"actuation": None, "dropper_travel_mm": 120}),
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
    drop("unmeasured", "unknown", TALL, saddle={"rail_height_mm": None}),
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
    shock("no_go", "other", shock={"stroke_mm": 45}),
    shock("unmeasured", "missing", shock={"stroke_mm": None}),
    shock(None, None, shock=None),
]

CASES: list[Case] = [
    *HEADSET, *STEERER, *FORK, *STEM, *LENGTH, *ANCHOR, *SPACERS, *BAR, *CONTROLS, *POST, *ENTRY, *DROPPER, *RAILS,
    *SHOCK,
]  # fmt: skip
