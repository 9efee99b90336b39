"""Cases of the less common parts: belts, lights, two-bolt brakes, catchers, angled cups, linkages, tandems."""

from tests.cases import Case, table

BELT = {"belt": {"drive": "belt_centre", "teeth": 118}, "chainrings": {"drive": "belt_centre", "teeth": [50]},
        "cassette": {"drive": "belt_centre", "teeth": [22]}}  # fmt: skip
drive = table("belt-drive", **BELT, frame={"belt_opening": True})
DRIVE = [
    drive("goes", "one_drive"),
    drive("no_go", "other_drive", cassette={"drive": "belt_flat"}),
    drive("no_go", "closed", frame={"belt_opening": False}),
    drive("no_go", "derailleur", rear_derailleur={"mount": "m10"}),
    drive("unmeasured", "missing", frame={"belt_opening": None}, asks=("frame.belt_opening",)),
    drive(None, None, belt=None),
]
long = table("belt-length", **BELT, frame={"chainstay_range_mm": [440, 455]})
LENGTH = [
    long("goes", "within", figures={"centre_mm": 448.32}),  # 118, 50/22: 448.3
    long(  # the same belt round the same pulleys, the larger one behind
        "goes", "within", chainrings={"teeth": [22]}, cassette={"teeth": [50]}, figures={"centre_mm": 448.32}
    ),
    long("no_go", "off", frame={"chainstay_range_mm": [400, 447]}),
    long("unmeasured", "missing", frame={"chainstay_range_mm": None}, asks=("frame.chainstay_range_mm",)),
    long(None, None, belt=None),
]
line = table("belt-line", belt={"teeth": 118}, crank={"chainline_mm": 46}, rear_hub={"line_mm": 45})
LINE = [
    line("goes", "straight"),
    line("goes_if", "shim", crank={"chainline_mm": 47}),
    line("no_go", "off", crank={"chainline_mm": 47.1}),
    line("unmeasured", "missing", rear_hub={"line_mm": None}, asks=("rear_hub.line_mm",)),
    line(None, None, belt=None),
]
light = table("light-supply", front_light={"supply": "dynamo", "watts": 2.4, "volts": 6},
              front_hub={"dynamo": True, "dynamo_w": 3})  # fmt: skip
OUT = {"type": "mid_bracket", "light_volts": 6, "light_max_w": 10}
LIGHTS = [
    light("goes", "fed"),
    light("goes", "fed", front_light={"supply": "battery"}),
    light("no_go", "no_dynamo", front_hub={"dynamo": False}),
    light("goes_if", "dimmer", front_light={"watts": 3.1}, figures={"watts": 3.1, "limit_w": 3}),
    light("goes", "fed", front_light={"supply": "motor"}, motor=OUT),
    light("no_go", "volts", front_light={"supply": "motor", "volts": 12}, motor=OUT),
    light("no_go", "too_much", front_light={"supply": "motor", "watts": 11}, motor=OUT),
    light("unmeasured", "missing", front_light={"supply": None}, asks=("front_light.supply",)),
    light(None, None, front_light=None),
]
place = table(
    "shifter-place", rear_shifter={"place": "down_tube"}, frame={"shifter_bosses": True, "material": "steel"}
)
PLACE = [
    place("goes", "bosses"),
    place("goes_if", "band", frame={"shifter_bosses": False}),
    place("no_go", "carbon", frame={"shifter_bosses": False, "material": "carbon"}),
    place("unmeasured", "missing", frame={"shifter_bosses": None}, asks=("frame.shifter_bosses",)),
    place(None, None, rear_shifter={"place": "bar_clamp"}),
]
link = table("linkage-fit", linkage={"linkage_code": "holm"}, frame={"linkage_code": "holm"})
LINK = [
    link("goes", "same"),
    link("no_go", "other", frame={"linkage_code": "ness"}),
    link("unmeasured", "missing", frame={"linkage_code": None}, asks=("frame.linkage_code",)),
    link(None, None, linkage=None),
]
timing = table("timing", timing_rings={"teeth": [36, 36]}, timing_chain={"links": 150},
               frame={"timing_centre_mm": 720, "eccentric_mm": 5})  # fmt: skip
TIMING = [
    timing("goes", "tight", figures={"links": 149.39, "moves_mm": 3.9}),  # 2 × 720 / 12.7 + 36
    timing("no_go", "off", timing_chain={"links": 160}, frame={"timing_centre_mm": 737}),
    # 2 × 734 / 12.7 + 36 = 151.59: 152 links are nearest
    timing(
        "no_go",
        "off",
        timing_chain={"links": 160},
        frame={"timing_centre_mm": 734},
        figures={"links": 151.59},
    ),
    timing("no_go", "odd", timing_chain={"links": 149}),
    timing("no_go", "unequal", timing_rings={"teeth": [36, 34]}),
    timing("unmeasured", "missing", frame={"eccentric_mm": None}, asks=("frame.eccentric_mm",)),
    timing(None, None, timing_rings=None),
]
FRONT_PAIR = {"captain_bracket": {"shell": "bsa", "shell_widths_mm": [68], "spindle": "d24"},
              "captain_crank": {"spindle": "d24"}}  # fmt: skip
shell = table("bb-shell", frame={"bb_shell": "bsa", "bb_shell_width_mm": 68}, **FRONT_PAIR)
arms = table("crank-spindle", **FRONT_PAIR)
span = table("bb-width", frame={"bb_shell": "bsa", "bb_shell_width_mm": 68}, **FRONT_PAIR)
CAPTAIN = [
    shell("goes", "fits"),
    shell("no_go", "other_width", captain_bracket={"shell_widths_mm": [73]}),
    arms("goes", "same"),
    arms("no_go", "other_spindle", captain_crank={"spindle": "square_jis"}),
    span("unmeasured", "missing"),
    span("goes", "fits", captain_bracket={"flanges_mm": 22},
         captain_crank={"spindle_needs_mm": 90.5, "preload_range_mm": 1, "shell_widths_mm": [68]}),
]  # fmt: skip
two = table("caliper-mount", fork={"brake_mount": "rim_bolt", "rim_direct": False},
            front_caliper={"type": "dual_pivot", "mount": "rim_bolt", "rim_direct": False})  # fmt: skip
TWO = [
    two("goes", "same"),
    two("no_go", "two_bolts", front_caliper={"rim_direct": True}),
    two("unmeasured", "missing", fork={"rim_direct": None}, asks=("fork.rim_direct",)),
    two("unmeasured", "missing", front_caliper={"rim_direct": None}, asks=("front_caliper.rim_direct",)),
]
catch = table("chain-guide", chain_guide={"sort": "catcher", "mount": "braze_on"}, frame={"fd_mount": "braze_on"},
              chainrings={"teeth": [50, 34]})  # fmt: skip
CATCH = [
    catch("goes", "caught"),
    catch("no_go", "no_tab", frame={"fd_mount": "band_31_8"}),
    catch("goes_if", "longer_bolt", front_derailleur={"mount": "braze_on"}),
]
angled = table(
    "headset-fit",
    frame={
        "headset_upper": "ZS44",
        "headset_lower": "ZS44",
        "head_tube_length_mm": 120,
        "head_angle_deg": 66,
    },
    headset={"upper": "ZS44", "lower": "ZS44", "angle_change_deg": -1.5, "head_tube_range_mm": [100, 130]},
)
ANGLED = [
    angled("goes_if", "angled", figures={"becomes": ", 64.5° in all"}),  # 66 − 1.5
    angled("no_go", "angle_range", frame={"head_tube_length_mm": 131}),
    angled("no_go", "angle_in_frame", headset={"upper": "IS42"}, frame={"headset_upper": "IS42"}),
    angled("goes", "fits", headset={"angle_change_deg": 0}),
]
bite = table("freehub-seat", cassette={"mount": "spline9", "speeds": 8, "cog_base_mm": 2},
             rear_hub={"freehub": "spline9", "freehub_material": "aluminium"})  # fmt: skip
BITE = [
    bite("goes_if", "bites", needs=("a cog that bites into the body",)),
    bite("goes", "seated", cassette={"cog_base_mm": 3}),
    bite("goes", "seated", rear_hub={"freehub_material": "steel"}),
]
CASES: list[Case] = [
    *DRIVE, *LENGTH, *LINE, *LIGHTS, *PLACE, *LINK, *TIMING, *CAPTAIN, *TWO, *CATCH, *ANGLED, *BITE,
]  # fmt: skip
