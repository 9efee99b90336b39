"""Kinds of small parts: axles, bearings, hanger, valves, seat clamp, cleats, racks, battery."""

from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import choice, code, kind, mm, number, sizes, whole, whole_list, yes_no

AXLE = kind(
    "axle",
    "Thru axle",
    mm("dia_mm", "Diameter", "Caliper on the shank.", 12, 15, 20),
    mm("length_mm", "Length", "Under the head to the tip.", 90, 240),
    mm("thread_pitch_mm", "Thread pitch", "Thread gauge.", 1.0, 1.5, 1.75),
    choice("head", "Head", "Flat under the head, or a cone.", enums.AXLE_HEAD),
)
_SIZES = sizes(
    "sizes", "Bearings", "Inner × outer × width as on the seal, such as 15x28x7; as often as fitted."
)
HUB_BEARINGS = kind("hub_bearings", "Hub bearings", _SIZES)
BRACKET_BEARINGS = kind("bracket_bearings", "Bottom bracket bearings", _SIZES)
DERAILLEUR_HANGER = kind(
    "derailleur_hanger",
    "Derailleur hanger",
    code("hanger_code", "Hanger code", "Printed on it, or the old one laid on the new."),
    choice("mount", "Mount", "Thread of the hanger.", enums.HANGER),
)
VALVE = kind(
    "valve",
    "Valve",
    choice("valve", "Valve", "Caliper on the stem: 6 slim, 8 wide.", enums.VALVE),
    mm("length_mm", "Length", "Stem without the cap.", 40, 80),
    yes_no("tubeless", "Tubeless", "A rubber foot and no tube."),
    yes_no("core_removable", "Removable core", "Two flats on the valve's head."),
)
SEAT_CLAMP = kind(
    "seat_clamp", "Seat clamp", mm("bore_mm", "Bore", "Caliper inside, bolt loose.", 28.6, 31.8, 34.9, 38.6)
)
CLEATS = kind(
    "cleats",
    "Cleats",
    code("cleat_code", "Cleat code", "Manufacturer's name of the cleat."),
    whole("bolts", "Bolts", "Count the holes.", 2, 4, 2, 3),
    whole("shoe_bolts", "Holes of the shoe", "Count the threads in the sole.", 2, 4, 2, 3),
)
RACK = kind(
    "rack",
    "Rack",
    number("load_max_kg", "Load limit", "Stamped on it.", 1, 200, 10, 35),
    choice("mount", "Mount", "What it bolts to.", enums.RACK_MOUNT),
)
BATTERY = kind(
    "battery",
    "Shifting battery",
    choice("place", "Place", "Where it sits.", enums.BATTERY_PLACE),
    code("protocol", "Protocol", "Manufacturer's code of the electronic family."),
    code("plug_code", "Plug", "Manufacturer's code of the plug."),
)
BELT = kind(
    "belt",
    "Belt",
    whole("teeth", "Teeth", "Printed on it.", 80, 200, 113, 128, unit="teeth"),
    choice("drive", "Drive", "With a track in the middle, or flat.", enums.DRIVE),
)
LIGHT = kind(
    "light",
    "Light",
    choice("supply", "Supply", "What its wire goes to.", enums.LIGHT_SUPPLY),
    number("volts", "Voltage", "Printed on it.", 3, 60, 6, 12),
    number("watts", "Power", "Printed on it.", 0, 40, 0.6, 3),
)
TIMING_RINGS = kind(
    "timing_rings",
    "Timing rings",
    whole_list("teeth", "Teeth", "Captain's, then stoker's.", 20, 60, 36, 44, unit="teeth"),
)
TIMING_CHAIN = kind(
    "timing_chain", "Timing chain", whole("links", "Links", "Count the pitches.", 80, 240, 140, 150, 152, 160)
)
FITTING_KINDS = (
    AXLE, HUB_BEARINGS, BRACKET_BEARINGS, DERAILLEUR_HANGER, VALVE, SEAT_CLAMP, CLEATS, RACK, BATTERY, BELT, LIGHT,
    TIMING_RINGS, TIMING_CHAIN,
)  # fmt: skip
