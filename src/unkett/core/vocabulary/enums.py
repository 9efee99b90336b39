"""The short codes of the trade's interfaces and their long names.

Codes are open standards or plain dimensions, never trade names. A code family with an
`open_prefix` also takes any code that starts with it (a maker's own direct mount): such a
code fits only an equal one.
"""

from __future__ import annotations

from collections.abc import Mapping

from attrs import field, frozen


@frozen(kw_only=True)
class Enumeration:
    """A closed list of codes with their long names; `open_prefix` lets a maker's own code in."""

    name: str
    codes: Mapping[str, str]
    open_prefix: str | None = field(default=None)

    def has(self, code: str) -> bool:
        return code in self.codes or bool(
            self.open_prefix and code.startswith(self.open_prefix) and len(code) > len(self.open_prefix)
        )

    def title(self, code: str) -> str:
        """Return the long name of a code; a maker's own direct code stands for itself."""
        return self.codes.get(code, code.replace("_", " "))


def _enumeration(name: str, open_prefix: str | None = None, /, **codes: str) -> Enumeration:
    return Enumeration(name=name, codes=codes, open_prefix=open_prefix)


USE = _enumeration(
    "use",
    road="Road", gravel="Gravel", cyclocross="Cyclocross", touring="Touring", audax="Audax",
    time_trial="Time trial", triathlon="Triathlon", track="Track", city="City", cargo="Cargo",
    kids="Children's", xc="Cross-country", trail="Trail", enduro="Enduro", downhill="Downhill",
    fat="Fat", tandem="Tandem",
)  # fmt: skip

BB_SHELL = _enumeration(
    "bb_shell",
    bsa="1.37 in × 24 thread, drive side left-hand",
    italian="36 mm × 24 thread, both right-hand",
    french="35 mm × 1 thread, both right-hand",
    swiss="35 mm × 1 thread, drive side left-hand",
    t47="47 mm × 1 thread",
    bb30="42 mm smooth bore with circlips",
    pf30="46 mm smooth bore for 30 mm spindles",
    bb86="41 mm smooth bore",
    bb386="46 mm smooth bore, 86.5 wide",
    offset46="46 mm smooth bore, off centre",
    bb90="37 mm bore, bearings in the frame, 90.5 wide",
    bb95="37 mm bore, bearings in the frame, 95.5 wide",
    one_piece="51.3 mm smooth bore for one-piece cranks",
    mid_bmx="41.2 mm smooth bore",
    spanish_bmx="37 mm smooth bore, 68 wide",
    motor_cast="Cast motor housing in place of a shell",
)

SPINDLE = _enumeration(
    "spindle",
    square_jis="Square taper, JIS",
    square_iso="Square taper, ISO",
    spline10="Ten splines, open standard",
    spline8="Eight splines",
    d24="24 mm through spindle",
    d24_22="24 mm spindle stepping to 22",
    d25="25 mm spindle",
    d28_99="28.99 mm spindle",
    d30="30 mm spindle",
    one_piece="One-piece crank",
)

FREEHUB = _enumeration(
    "freehub",
    spline9_short="Nine splines, 30.4 mm (7-speed length)",
    spline9="Nine splines, 34.9 mm (8/9/10-speed)",
    spline9_road11="Nine splines, 36.75 mm (11-speed road)",
    step_thread="Stepped body with inner thread, 10-tooth start",
    step_thread_road="Stepped body with inner thread, 1.85 mm longer",
    fine23="23 fine splines, 10-tooth start",
    italic8="Eight deep splines",
    italic8_13="Eight deep splines, 13-speed length",
    threaded="Screw-on freewheel, 1.375 in × 24",
    bmx_threaded="Screw-on freewheel, 30 mm × 1",
    fixed_threaded="Fixed sprocket thread with lockring",
    single_cog="Three lugs and a snap ring (gear hub, coaster)",
)

AXLE_KIND = _enumeration(
    "axle_kind", quick_release="Quick release", solid="Solid axle with nuts", thru="Thru axle"
)
HANGER = _enumeration(
    "hanger",
    m10="M10 thread",
    m10_direct="M10 thread, direct (no upper link)",
    axle_clamped="Clamped round the axle, no separate hanger",
    claw="Slot dropout without thread (claw hanger)",
    none="No derailleur mount",
)
FD_MOUNT = _enumeration(
    "fd_mount",
    none="None",
    band_28_6="Band 28.6 mm",
    band_31_8="Band 31.8 mm",
    band_34_9="Band 34.9 mm",
    braze_on="Braze-on tab",
    direct="Direct mount",
    bb_plate="Plate behind the bracket cup",
)
CABLE_FROM = _enumeration("fd_cable_from", above="From above", below="From below", either="Either way")
BRAKE_MOUNT = Enumeration(
    name="brake_mount",
    codes={
        "none": "None",
        "is": "51 mm tabs, bolts sideways",
        "post": "Posts 74.2 mm apart",
        "flat": "Flat, 34 mm apart",
        "rim_bolt": "Single centre bolt",
        "posts": "Two bosses on the stays or legs",
        "u_posts": "Two bosses above the rim",
        "roller_arm": "Reaction arm clip",
    },
)
ROTOR_MOUNT = _enumeration(
    "rotor_mount",
    six_bolt="Six bolts on a 44 mm circle",
    splined="Splines with lockring",
    five_bolt="Five bolts",
    none="None",
)
FLUID = _enumeration("fluid", mineral="Mineral oil", glycol="Glycol brake fluid")
RING_MOUNT = Enumeration(
    name="ring_mount",
    codes={
        **{
            code: f"{code.split('x')[1]} bolts on a {code.split('x')[0]} mm circle"
            for code in ("130x5", "110x5", "110x4", "104x4", "96x4", "94x5", "74x5", "64x4", "144x5", "135x5")
        },
        "direct_8notch": "Direct, eight notches",
        "direct_3bolt": "Direct, three bolts",
        "direct_spline": "Direct, splined",
    },
    open_prefix="direct_",
)
GUIDE_MOUNT = _enumeration(
    "guide_mount",
    none="None",
    iscg="Three tabs, old circle",
    iscg05="Three tabs, 2005 circle",
    direct_high="Direct, high on the seat tube",
    bb_plate="Plate behind the bracket cup",
    band_28_6="Band 28.6 mm",
    band_31_8="Band 31.8 mm",
    band_34_9="Band 34.9 mm",
    braze_on="Braze-on tab",
)
ROUTING = _enumeration(
    "routing",
    external="Outside, bare between stops",
    external_full_housing="Outside, housing all the way",
    internal_guided="Inside, guided",
    internal_open="Inside, open",
    fully_hidden="Hidden through bar, stem and headset",
)
MATERIAL = _enumeration(
    "material",
    steel="Steel",
    aluminium="Aluminium",
    titanium="Titanium",
    carbon="Carbon",
    magnesium="Magnesium",
)
PEDAL_THREAD = Enumeration(name="pedal_thread", codes={"9_16": "9/16 in × 20", "1_2": "1/2 in × 20"})
CABLE_STOP = _enumeration(
    "cable_stop",
    top_tube="Top tube",
    down_tube="Down tube",
    chainstay="Chainstay",
    seatstay="Seatstay",
    fork="Fork",
)
BOLT = _enumeration("brake_bolt", nutted="Nutted (through bolt)", recessed="Recessed (sleeve nut)")
CABLE_PULL = _enumeration("cable_pull", short="Short pull (7–10 mm)", long="Long pull (14–17 mm)")
ANCHOR = _enumeration("anchor", star_nut="Star-fangled nut", expander="Expander plug")
STEM_MOUNT = _enumeration("stem_mount", threadless="Clamps the steerer", quill="Quill in the steerer")
FACEPLATE = _enumeration("faceplate_gap", even="Even gap", closed_top="Top closed first")
BAR_SHAPE = _enumeration(
    "bar_shape",
    drop="Drop",
    flat="Flat",
    riser="Riser",
    bullhorn="Bullhorn",
    base_bar="Base bar",
    swept="Swept back",
)
RAILS = Enumeration(
    name="rails",
    codes={
        "7x7": "7 mm round",
        "7x9": "7 × 9 mm oval",
        "7x10": "7 × 10 mm oval",
        "8x8_5": "8 × 8.5 mm oval",
    },
)
POST_ACTUATION = _enumeration(
    "post_actuation", none="None", cable="Cable", hydraulic="Hydraulic", electronic="Electronic"
)
THREAD_HAND = _enumeration("thread_hand", left="Left-hand", right="Right-hand", none="No thread")
TOOTH_PROFILE = _enumeration(
    "tooth_profile", plain="Plain teeth", narrow_wide="Narrow-wide teeth", ramped="Ramped and pinned"
)
RING_SHAPE = _enumeration("ring_shape", round="Round", oval="Oval")
CLOSING = _enumeration("closing", quick_link="Quick link", pin="Pin")
GEAR_ACTUATION = _enumeration("gear_actuation", cable="Cable", electronic="Electronic")
CAGE = _enumeration("cage", short="Short", medium="Medium", long="Long")
SHIFT_MODE = _enumeration("shift_mode", indexed="Indexed", friction="Friction", electronic="Electronic")
SPOKE_HEAD = _enumeration("spoke_head", j_bend="Bent head", straight_pull="Straight pull")
BEAD = _enumeration("bead", hooked="Hooked", hookless="Hookless", tubular="Tubular")
TYRE_TYPE = _enumeration("tyre_type", clincher="Clincher", tubular="Tubular")
VALVE = _enumeration("valve", slim="Slim, 6 mm", wide="Wide, 8 mm")
LEVER_ACTUATION = _enumeration("lever_actuation", cable="Cable", hydraulic="Hydraulic")
CALIPER_ACTUATION = _enumeration(
    "caliper_actuation",
    cable="Cable",
    hydraulic="Hydraulic",
    cable_hydraulic="Cable pulled, hydraulic at the caliper",
)
CALIPER_TYPE = _enumeration(
    "caliper_type",
    disc="Disc",
    dual_pivot="Dual pivot",
    linear_pull="Linear pull",
    cantilever="Cantilever",
    u_brake="U-brake",
    roller="Roller",
)
END = _enumeration("end", front="Front", rear="Rear", either="Either end")
LINE_TYPE = _enumeration(
    "line_type", shift_housing="Shift housing", brake_housing="Brake housing", hose="Hose", bare="Bare inner"
)
ROUTE = Enumeration(
    name="route",
    codes={
        "down_tube_stops": "Down tube, stops, bare under the bracket",
        "crossed_stops": "Crossed before the head tube, down tube stops",
        "down_tube_full": "Housing all the way, tied along the down tube",
        "top_tube_stops": "Top tube, three stops",
        "internal_open": "Inside the frame, open",
        "hidden": "Hidden through stem and headset",
        "front_down_tube": "Down tube stop, bare under the bracket",
        "front_top_tube": "Top tube, from above",
        "front_full": "Housing all the way to a stop at the front derailleur",
        "rear_top_tube_stops": "Top tube stops, to a rim brake",
        "rear_hanger": "Top tube stops, to a hanger over cantilevers",
        "rear_full": "Housing all the way under the top tube, to a rim brake",
        "rear_disc_full": "Housing all the way along the down tube, to a disc on the stay",
        "rear_disc_hose": "Hose along the down tube, to a disc on the stay",
        "rear_disc_internal": "Hose inside the frame, to a disc on the stay",
        "rear_disc_hidden": "Hose hidden through stem and headset, to a disc on the stay",
        "front_rim": "Housing to a rim brake",
        "front_hanger": "Housing to a hanger at the headset",
        "front_disc_housing": "Housing down the fork, to a disc",
        "front_disc_hose": "Hose down the fork, to a disc",
        "front_disc_long": "Hose under the load to a wheel before it",
        "front_disc_hidden": "Hose hidden through stem, headset and fork, to a disc",
        "dropper_internal": "Inside the down and seat tube, to the post",
        "dropper_external": "Tied along the top tube, to the post's head",
    },
)
FRICTION = _enumeration("friction", new="New, lined", used="Used", dirty="Dirty")
MOTOR_TYPE = _enumeration(
    "motor_type", hub_front="Front hub motor", hub_rear="Rear hub motor", mid_bracket="Mid motor"
)
SHOCK_MOUNT = _enumeration("shock_mount", eyelet="Eyelet", trunnion="Trunnion")
SHAFT_END = _enumeration("shaft_end", eyelet="Eyelet", yoke="Yoke")
SPRING = _enumeration("spring", air="Air", coil="Coil", elastomer="Elastomer")
CROWNS = _enumeration("crowns", single="Single crown", double="Double crown")
PIVOT = _enumeration(
    "pivot",
    main="Main pivot",
    rear="At the rear axle",
    seat_stay="Seat stay",
    rocker="Rocker",
    lower_link="Lower link",
    shock_head="Shock, head",
    shock_shaft="Shock, shaft",
)
PIVOT_SORT = _enumeration("pivot_sort", bearing="Bearing", bush="Bush")
HAND = _enumeration("hand", left="Left hand", right="Right hand")
SIDE = _enumeration("side", left="Left", right="Right")
DAMAGE = _enumeration(
    "damage",
    crack="Crack",
    dent="Dent",
    crash="Was in a crash",
    leak="Leaks",
    thread_stripped="Thread stripped",
    bent="Bent",
    worn_through="Worn through",
)
AXLE_HEAD = _enumeration("axle_head", flat="Flat", cone="Cone")
INNER_HEAD = _enumeration("inner_head", shift="Shift, 4 mm drum", barrel="Barrel", pear="Pear")
TENSIONING = _enumeration(
    "tensioning",
    track_ends="Track ends",
    slots="Slotted dropouts",
    sliding="Sliding dropouts",
    eccentric="Eccentric bottom bracket",
    none="None",
)
EYELET = _enumeration("eyelet", mudguard="Mudguard", rack="Rack", low_rider="Low rider")
RACK_MOUNT = _enumeration("rack_mount", eyelets="Eyelets", axle="Axle", clamp="Clamps")
BATTERY_PLACE = _enumeration(
    "battery_place",
    seat_tube="In the seat tube",
    down_tube="In the down tube",
    outside="Outside",
    in_derailleur="In the derailleur",
)
POWER_WHERE = _enumeration("power_where", spindle="Spindle", left_arm="Left arm", spider="Spider")
DRIVE = _enumeration("drive", chain="Chain", belt_centre="Belt with a centre track", belt_flat="Flat belt")
LIGHT_SUPPLY = _enumeration(
    "light_supply", dynamo="Dynamo", battery="Its own battery", motor="The motor's battery"
)
SHIFTER_PLACE = _enumeration(
    "shifter_place",
    brake_lever="In the brake lever",
    bar_clamp="On the bar",
    bar_end="In the bar's end",
    down_tube="On the down tube",
)
GUIDE_SORT = _enumeration("guide_sort", guide="Guide", catcher="Chain catcher")

WHEEL_END = _enumeration("wheel_end", front="Front", rear="Rear")

SAG_SCHOOL = _enumeration("sag_school", fork_less="Fork five less than the rear", even="Both ends alike")

RATE_UNIT = _enumeration(
    "rate_unit", n_mm="N/mm", lbf_in="Pounds-force per inch", kgf_mm="Kilograms-force per millimetre"
)
