"""Cases of small parts: axles, bearings, hanger, valves, clamp, tension, hub brakes, cleats, racks, battery, inners."""

from typing import Any

from tests.cases import Case, table

HOLDS = {"rear_axle_dia_mm": 12, "rear_axle_length_mm": 172, "rear_axle_thread_pitch_mm": 1.5}
thru = table("axle-thread", frame=HOLDS, rear_axle={"dia_mm": 12, "length_mm": 172, "thread_pitch_mm": 1.5})
AXLES = [
    thru("goes", "fits", figures={"off_mm": 0}),
    thru("goes", "fits", rear_axle={"length_mm": 171}),
    thru("goes", "fits", rear_axle={"length_mm": 173}),
    thru("goes_if", "short", rear_axle={"length_mm": 170}, figures={"off_mm": 2}),
    thru("no_go", "too_short", rear_axle={"length_mm": 169.9}),
    thru("goes_if", "long", rear_axle={"length_mm": 175}, figures={"off_mm": 3}),
    thru("no_go", "too_long", rear_axle={"length_mm": 175.1}),
    thru("no_go", "other_pitch", rear_axle={"thread_pitch_mm": 1.75}),  # 1.75 in 1.5
    thru("no_go", "other_pitch", frame={"rear_axle_thread_pitch_mm": 1.75}),
    thru("goes", "fits", rear_axle={"thread_pitch_mm": 1.55}),
    thru("no_go", "other_dia", rear_axle={"dia_mm": 12.2}),
    thru("goes", "fits", rear_axle={"dia_mm": 11.9}),
    thru("unmeasured", "missing", rear_axle={"thread_pitch_mm": None}, asks=("rear_axle.thread_pitch_mm",)),
    thru("unmeasured", "missing", rear_axle={"head": "cone"}, asks=("frame.rear_axle_head",)),
    thru("unmeasured", "missing", frame={"rear_axle_head": "flat"}, asks=("rear_axle.head",)),
    thru("no_go", "other_head", frame={"rear_axle_head": "flat"}, rear_axle={"head": "cone"}),
    thru(None, None, rear_axle=None),
]
bearing = table("bearing-size", rear_hub={"bearings": ["15x28x7", "17x30x7"]},
                rear_hub_bearings={"sizes": ["17x30x7", "15x28x7"]})  # fmt: skip
BEARINGS = [
    bearing("goes", "same", figures={"has": "15x28x7, 17x30x7"}),
    bearing("no_go", "other", rear_hub_bearings={"sizes": ["15x28x7"]}),  # as often
    bearing("no_go", "other", rear_hub_bearings={"sizes": ["15x28x7", "17x28x7"]}),
    bearing("unmeasured", "missing", rear_hub={"bearings": None}, asks=("rear_hub.bearings",)),
    bearing(None, None, rear_hub_bearings=None),
]
hanger = table(
    "hanger-fit", frame={"hanger_code": "kestrel 4"}, derailleur_hanger={"hanger_code": "kestrel 4"}
)
HANGERS = [
    hanger("goes", "same"),
    hanger("no_go", "other", derailleur_hanger={"hanger_code": "kestrel 5"}),
    hanger("unmeasured", "missing", frame={"hanger_code": None}, asks=("frame.hanger_code",)),
    hanger("no_go", "other_mount", derailleur_hanger={"mount": "m10"}, rear_derailleur={"mount": "axle_clamped"}),
    hanger("goes_if", "open", frame={"hanger": "axle_clamped", "hanger_code": "open"}, rear_derailleur={"mount": "m10"},
           derailleur_hanger={"hanger_code": "open", "mount": "axle_clamped"}),
    hanger(None, None, derailleur_hanger=None),
]  # fmt: skip
clamp = table("seat-clamp", frame={"collar_mm": 34.9}, seat_clamp={"bore_mm": 34.9})
CLAMPS = [
    clamp("goes", "fits"),
    clamp("goes", "fits", seat_clamp={"bore_mm": 35.2}),
    clamp("goes_if", "shim", seat_clamp={"bore_mm": 38.1}),
    clamp("no_go", "other", seat_clamp={"bore_mm": 38.2}),
    clamp("no_go", "other", seat_clamp={"bore_mm": 31.8}),
    clamp("unmeasured", "missing", frame={"collar_mm": None}, asks=("frame.collar_mm",)),
    clamp(None, None, seat_clamp=None),
]
ONE = {
    "frame": {"tensioning": "none"},
    "chainrings": {"teeth": [44]},
    "cassette": {"teeth": [16], "mount": "single_cog"},
}
tight = table("chain-tension", **ONE)
TENSION = [
    tight("goes_if", "tensioner", needs=("spring tensioner",)),
    tight("goes", "taken_up", frame={"tensioning": "track_ends"}),
    tight("no_go", "pulls_back", cassette={"mount": "fixed_threaded"}, figures={"what": "fixed wheel"}),
    tight("no_go", "pulls_back", rear_hub={"coaster": True}, figures={"what": "coaster brake"}),
    tight("unmeasured", "missing", frame={"tensioning": None}, asks=("frame.tensioning",)),
    tight(None, None, rear_derailleur={"mount": "m10"}),
    tight(None, None, chainrings={"teeth": [44, 34]}),
]
back = table("coaster", rear_hub={"coaster": True, "arm_fixed": True}, front_caliper={"type": "dual_pivot"})
COASTERS = [
    back("goes", "holds"),
    back("no_go", "loose", rear_hub={"arm_fixed": False}),
    back("no_go", "torn", rear_derailleur={"mount": "m10"}),
    back("goes_if", "alone", front_caliper=None),
    back("unmeasured", "missing", rear_hub={"arm_fixed": None}, asks=("rear_hub.arm_fixed",)),
    back(None, None, rear_hub={"coaster": False}),
]
MID = {"type": "mid_bracket", "torque_nm": 65}
strong = table("hub-torque", rear_hub={"internal_gears": 8, "torque_max_nm": 65}, motor=MID)
TORQUE = [
    strong("goes", "stands"),
    strong("no_go", "over", motor={"torque_nm": 66}),
    strong(None, None, rear_hub={"internal_gears": 1}),
    strong("unmeasured", "missing", rear_hub={"torque_max_nm": None}, asks=("rear_hub.torque_max_nm",)),
    strong(None, None, motor={"type": "hub_front"}),
]
cleat = table("cleat-fit", cleats={"cleat_code": "heron"}, pedals={"cleat_code": "heron"})
CLEATS = [
    cleat("goes", "same"),
    cleat("no_go", "other", pedals={"cleat_code": "tern"}),
    cleat("goes_if", "plate", cleats={"bolts": 2, "shoe_bolts": 3}),
    cleat("no_go", "other_shoe", cleats={"bolts": 3, "shoe_bolts": 2}),
    cleat("unmeasured", "missing", pedals={"cleat_code": None}, asks=("pedals.cleat_code",)),
    cleat(None, None, cleats=None),
]
LOADED: dict[str, Any] = {"rider": {"load_kg": 20}}
rack = table("rack-fit", frame={"eyelets": ["rack"], "material": "steel"},
             rear_rack={"load_max_kg": 25, "mount": "eyelets"})  # fmt: skip
RACKS = [
    rack("goes", "held", LOADED, figures={"load_kg": 20, "limit_kg": 25}),
    rack("no_go", "overloaded", {"rider": {"load_kg": 25.5}}),
    rack("goes_if", "clamps", {"rider": {"load_kg": 10}}, frame={"eyelets": []}),
    rack("no_go", "no_axle", {"rider": {"load_kg": 10.5}}, frame={"eyelets": []}),
    rack("no_go", "carbon", LOADED, frame={"eyelets": [], "material": "carbon"}),
    rack("goes_if", "longer_bolt", LOADED, frame={"eyelets": ["mudguard"]}, rear_mudguard={"width_mm": 45}),
    rack("goes", "held", LOADED, frame={"eyelets": ["mudguard"]}),
    rack("goes", "held", LOADED, frame={"eyelets": []}, rear_rack={"mount": "axle"}),
    rack("unmeasured", "missing", LOADED, frame={"eyelets": None}, asks=("frame.eyelets",)),
    rack("unmeasured", "missing", asks=("bike.load_kg",)),
    rack(None, None, LOADED, rear_rack=None),
]
guard = table("mudguard-eyelets", frame={"eyelets": ["mudguard"]}, rear_mudguard={"width_mm": 45})
GUARDS = [
    guard("goes", "there"),
    guard("goes_if", "clamps", frame={"eyelets": []}),
    guard(None, None, frame={"eyelets": None}),
]
power = table("battery-place", battery={"protocol": "gannet", "place": "down_tube", "plug_code": "g2"},
              rear_derailleur={"protocol": "gannet"},
              rear_shift_line={"plug_code": "g2", "length_mm": 900, "need_mm": 800})  # fmt: skip
POWER = [
    power("goes", "placed"),
    power("no_go", "other_protocol", rear_derailleur={"protocol": "petrel"}),
    power("no_go", "other_plug", rear_shift_line={"plug_code": "g1"}),
    power("no_go", "dropper", battery={"place": "seat_tube"}, seatpost={"dropper_travel_mm": 125}),
    power("goes", "placed", seatpost={"dropper_travel_mm": 125}),
    power("goes", "placed", battery={"place": "seat_tube"}, seatpost={"dropper_travel_mm": 0}),
    power("no_go", "short", rear_shift_line={"length_mm": 799}, figures={"short_mm": 1}),
    power("goes", "placed", rear_shift_line={"length_mm": 950}),
    power("goes_if", "coil", rear_shift_line={"length_mm": 951}, figures={"spare_mm": 151}),
    power("unmeasured", "missing", rear_derailleur={"protocol": None}, asks=("rear_derailleur.protocol",)),
    power(None, None, battery=None),
]
RIDER = {"rider": {"mass_kg": 90, "load_kg": 8}}
wheel = table("wheel-load", rear_hub={"system_max_kg": 110})
LOADS = [
    wheel("goes", "carries", RIDER, figures={"own_kg": 98, "sum_kg": 110}),
    wheel("goes_if", "weigh", RIDER, rear_hub={"system_max_kg": 109}),
    wheel("goes_if", "weigh", RIDER, motor={"type": "hub_front"}, figures={"sum_kg": 123}),
    wheel("goes_if", "weigh", {**RIDER, "use": "cargo"}, figures={"sum_kg": 133}),
    wheel("no_go", "over", RIDER, rear_hub={"system_max_kg": 97}),
    wheel("unmeasured", "missing", asks=("bike.mass_kg",)),
    wheel(None, None, RIDER, rear_hub={"system_max_kg": None, "holes": 32}),
]
pod = table("power-room", crank={"pod_mm": 10, "power_where": "left_arm"}, frame={"arm_gap_left_mm": 12})
PODS = [
    pod("goes", "clear"),
    pod("goes_if", "close", frame={"arm_gap_left_mm": 11}),
    pod("no_go", "strikes", frame={"arm_gap_left_mm": 10.9}),
    pod("unmeasured", "missing", frame={"arm_gap_left_mm": None}, asks=("frame.arm_gap_left_mm",)),
    pod(None, None, crank={"pod_mm": None}),
    pod(None, None, crank={"power_where": "spider"}),
]
inner = table(
    "inner-head", rear_brake_line={"inner_head": "barrel"}, rear_brake_lever={"inner_head": "barrel"}
)
INNERS = [
    inner("goes", "seats"),
    inner("no_go", "other_head", rear_brake_line={"inner_head": "pear"}),
    inner("unmeasured", "missing", rear_brake_lever={"inner_head": None}, asks=("rear_brake_lever.inner_head",)),
    inner("unmeasured", "missing", rear_brake_line={"inner_head": None}, asks=("rear_brake_line.inner_head",)),
    inner("no_go", "too_thick", rear_brake_line={"inner_mm": 1.5, "housing_od_mm": 4}),
    inner("goes", "seats", rear_brake_line={"inner_mm": 1.3, "housing_od_mm": 4}),
    inner("no_go", "short", rear_brake_line={"length_mm": 1400, "inner_length_mm": 1484}, figures={"least_mm": 1485}),
    inner("goes_if", "scarce", rear_brake_line={"length_mm": 1400, "inner_length_mm": 1485}),
    inner("goes", "seats", rear_brake_line={"length_mm": 1400, "inner_length_mm": 1510}),
    inner("goes_if", "nosed", frame={"stop_bore_mm": 4.5}, rear_brake_line={"housing_od_mm": 5},
          needs=("nosed ferrule, metal",)),
    inner("no_go", "small_stop", frame={"stop_bore_mm": 3.9}, rear_brake_line={"housing_od_mm": 5}),
    inner("goes", "seats", frame={"stop_bore_mm": 6}, rear_brake_line={"housing_od_mm": 5}),
    inner("goes_if", "stepped", frame={"stop_bore_mm": 6.1}, rear_brake_line={"housing_od_mm": 5}),
    inner(None, None, rear_brake_line=None),
]  # fmt: skip
shift = table("inner-head", rear_shift_line={"inner_head": "shift", "length_mm": 1700},
              rear_shifter={"inner_head": "shift"})  # fmt: skip
INNERS += [
    shift("no_go", "short", rear_shift_line={"inner_length_mm": 1769}),
    shift("goes_if", "scarce", rear_shift_line={"inner_length_mm": 1770}),
    shift("goes", "seats", rear_shift_line={"inner_length_mm": 1795}),
    shift("goes_if", "nosed", frame={"stop_bore_mm": 3.9}, rear_shift_line={"housing_od_mm": 4},
          needs=("nosed ferrule",)),
]  # fmt: skip
valve = table("valve-fit", rear_rim={"depth_mm": 40, "valve_hole_mm": 6.5},
              rear_valve={"valve": "slim", "length_mm": 55, "tubeless": True, "core_removable": True})  # fmt: skip
VALVES = [
    valve("goes", "fits"),  # 15 out
    valve("goes_if", "extender", rear_valve={"length_mm": 54}),
    valve("goes_if", "extender", rear_valve={"length_mm": 48}),
    valve("no_go", "too_short", rear_valve={"length_mm": 47.9}),
    valve("no_go", "too_short", rear_rim={"depth_mm": 50}, rear_valve={"length_mm": 44}),  # 44 in 50
    valve(
        "no_go", "fixed_core", rear_valve={"length_mm": 50, "core_removable": False}, figures={"short_mm": 5}
    ),
    valve("goes_if", "extender", rear_valve={"length_mm": 44, "tubeless": False}),
    valve("no_go", "too_wide", rear_valve={"valve": "wide"}),
    valve(
        "unmeasured", "missing", rear_valve={"length_mm": 50, "tubeless": None}, asks=("rear_valve.tubeless",)
    ),
]
two = table("bb-shell", frame={"bb_shell": "bb386", "bb_shell_width_mm": 86.5},
            bottom_bracket={"shell": "pf30", "shells": ["pf30", "bb386"], "shell_widths_mm": [68, 73]})  # fmt: skip
TWO = [two("goes", "fits"), two("no_go", "other_shell", frame={"bb_shell": "bb90", "bb_shell_width_mm": 90.5},
                                bottom_bracket={"shell_widths_mm": [90.5]})]  # fmt: skip
direct = table("crank-chainline", crank={"line_at_zero_mm": 55, "chainline_mm": 55}, frame={"chainline_mm": 52},
               chainrings={"offset_mm": 3})  # fmt: skip
DIRECT = [
    direct("goes", "close", figures={"line_mm": 52}),  # 55 − 3
    direct("goes_if", "off", chainrings={"offset_mm": 6}, figures={"line_mm": 49, "off_mm": 3, "way": "in"}),
]
CASES: list[Case] = [
    *AXLES, *BEARINGS, *HANGERS, *CLAMPS, *TENSION, *COASTERS, *TORQUE, *CLEATS, *RACKS, *GUARDS, *POWER, *LOADS,
    *PODS, *INNERS, *VALVES, *TWO, *DIRECT,
]  # fmt: skip
