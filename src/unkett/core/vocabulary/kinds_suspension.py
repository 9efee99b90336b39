"""Kinds of the suspension: shock, its spring, the linkage; what a fork and a shock have in common.

Settings (`set_…`) are what is dialled in on a part; a set-up keeps its own.
"""

from unkett.core.vocabulary import enums
from unkett.core.vocabulary.declare import Attribute, choice, choices, code, kind, mm, number, whole, yes_no
from unkett.core.vocabulary.types import Choice, ListOf, Number, Pair, Record, Whole

CLICKS_MOST = 40
SPACERS_MOST = 12
SIZE = Number(unit="mm", low=1.0, high=200.0)


def within(name: str, title: str, how: str, unit: str, low: float, high: float, *usual: float) -> Attribute:
    """Return a figure in a unit that its name does not end with."""
    return Attribute(name=name, title=title, how=how, usual=usual, type=Number(unit=unit, low=low, high=high))


def pair_within(name: str, title: str, how: str, low: float, high: float, *usual: float) -> Attribute:
    """Return two lengths, the lower first."""
    return Attribute(
        name=name, title=title, how=how, usual=usual, type=Pair(item=Number(unit="mm", low=low, high=high))
    )


def rate(how: str, low: float, high: float, *usual: float) -> Attribute:
    return within("rate_n_mm", "Spring rate", how, "N/mm", low, high, *usual)


HOURS = (
    number(
        "hours",
        "Hours ridden",
        "From the log; or km by 15 for cross-country, 12 trail, 8 downhill.",
        0,
        20000,
    ),
    number("hours_at_service", "Hours at the last service", "From the log.", 0, 20000),
)


def sprung(most_bar_low: float, most_bar_high: float) -> tuple[Attribute, ...]:
    """Return what a fork and a shock have in common: spring, printed limits, dials, and what is set on them."""
    return (
        choice("spring", "Spring", "A valve under a cap: air. A coil seen or felt: coil.", enums.SPRING),
        number(
            "pressure_max_bar",
            "Maximum pressure",
            "Printed by the valve.",
            3,
            25,
            most_bar_low,
            most_bar_high,
        ),
        whole("spacers_max", "Most volume spacers", "Manufacturer's sheet.", 0, SPACERS_MOST),
        within("spacer_cm3", "Size of a volume spacer", "Manufacturer's sheet.", "cm³", 0, 100),
        whole("rebound_clicks", "Rebound clicks", "Closed to open, counted; 0: no dial.", 0, CLICKS_MOST),
        whole(
            "low_clicks",
            "Low-speed compression clicks",
            "Closed to open, counted; 0: no dial.",
            0,
            CLICKS_MOST,
        ),
        whole(
            "high_clicks",
            "High-speed compression clicks",
            "Closed to open, counted; 0: no dial.",
            0,
            CLICKS_MOST,
        ),
        number("set_pressure_bar", "Pressure set", "Pump on, wheel off the ground.", 0, 25),
        whole("set_spacers", "Volume spacers fitted", "Counted, the air out.", 0, CLICKS_MOST),
        whole("set_rebound", "Rebound", "Clicks from closed, closed by fingers only.", 0, CLICKS_MOST),
        whole(
            "set_low", "Low-speed compression", "Clicks from closed, closed by fingers only.", 0, CLICKS_MOST
        ),
        whole(
            "set_high",
            "High-speed compression",
            "Clicks from closed, closed by fingers only.",
            0,
            CLICKS_MOST,
        ),
        number("set_preload_mm", "Preload", "Collar past where it touches the spring.", 0, 15),
        number("set_sag_mm", "Sag", "Ring to the seal, three times; the middle counts.", 0, 300),
        *HOURS,
    )


SETTINGS = (
    "set_pressure_bar", "set_spacers", "set_rebound", "set_low", "set_high", "set_preload_mm", "set_sag_mm",
)  # fmt: skip

SHOCK = kind(
    "shock",
    "Shock",
    mm("eye_to_eye_mm", "Length", "Bolt centre to bolt centre.", 165, 230),
    mm("stroke_mm", "Stroke", "Rod showing at full length.", 38, 65),
    choice("mount", "Mount", "Eyes at both ends, or bolts into its side.", enums.SHOCK_MOUNT),
    choice("shaft_end", "Shaft end", "An eye, or a yoke that bolts on without a bush.", enums.SHAFT_END),
    number("head_width_mm", "Head hardware", "Over its ends, hardware fitted.", 10, 110, 19, 60),
    number("shaft_width_mm", "Shaft hardware", "Over its ends, hardware fitted.", 10, 110, 19, 60),
    number("head_bolt_mm", "Head bolt", "Bore of the pin.", 5, 12, 6, 8, 10),
    number("shaft_bolt_mm", "Shaft bolt", "Bore of the pin.", 5, 12, 6, 8, 10),
    number("eye_bore_mm", "Eye bore", "Bush out, inside caliper.", 10, 25, 12.7, 15),
    number("eye_width_mm", "Eye width", "Bush out, over the eye.", 8, 30, 12.7),
    number("spring_inner_mm", "Spring seat", "Outside of the collar's seat.", 25, 50),
    pair_within("spring_length_mm", "Spring lengths it takes", "Collar at both ends of its thread.", 80, 300),
    number(
        "room_mm",
        "Room at full stroke",
        "Empty, full stroke by hand: least gap round can and hose.",
        0,
        200,
        3,
    ),
    *sprung(20, 24),
)
SHOCK_SPRING = kind(
    "shock_spring",
    "Shock spring",
    rate("Printed on it; lbf/in may be typed.", 15, 250, 61, 105),
    number("stroke_mm", "Stroke", "Printed on it: how far it may be pressed.", 30, 120),
    number("inner_mm", "Inside", "Caliper, inside the coil's end.", 25, 50),
    number("length_mm", "Free length", "Caliper, off the shock.", 80, 300),
)
PIVOTS = Attribute(
    name="pivots",
    title="Pivots",
    how="By place: calipers, the number on the seal; the bolt's torque from the manufacturer.",
    type=ListOf(
        item=Record(
            fields={
                "place": Choice(of=enums.PIVOT),
                "sort": Choice(of=enums.PIVOT_SORT),
                "inner_mm": SIZE,
                "outer_mm": SIZE,
                "width_mm": SIZE,
                "count": Whole(low=1, high=8),
                "bolt_nm": Number(unit="Nm", low=0.0, high=200.0),
            },
            optional=frozenset({"count", "bolt_nm"}),
        ),
        least=0,
        most=20,
    ),
)
LINKAGE = kind(
    "linkage", "Linkage", code("linkage_code", "Linkage code", "Manufacturer's name of the linkage."), PIVOTS
)

_SIZES = Number(unit="mm", low=1.0, high=400.0)
FRAME_SUSPENSION = (  # what a frame says of the shock and the fork that it takes
    choice("shock_shaft_end", "Shaft end it takes", "An eye, or a yoke of the frame that bolts on.", enums.SHAFT_END),
    number("shock_head_width_mm", "Gap at the head", "Between the tabs, inside caliper.", 10, 110, 19, 60),
    number("shock_head_bolt_mm", "Bolt at the head", "Caliper on the bolt.", 5, 12, 6, 8, 10),
    number("shock_shaft_width_mm", "Gap at the shaft", "Between the tabs, inside caliper.", 10, 110, 19, 60),
    number("shock_shaft_bolt_mm", "Bolt at the shaft", "Caliper on the bolt.", 5, 12, 6, 8, 10),
    Attribute(
        name="shock_sizes",
        title="Other shock sizes",
        how="Length and stroke that the manufacturer also allows.",
        type=ListOf(item=Record(fields={"eye_to_eye_mm": _SIZES, "stroke_mm": _SIZES}), least=0, most=20),
    ),
    choices("shock_springs", "Springs allowed", "Manufacturer's list: air, coil.", enums.SPRING, least=0),
    within(
        "leverage_start", "Leverage at the start", "Manufacturer; or spring out, wheel raised in steps, shock read.",
        "", 0.3, 6, 1.8, 3.4,
    ),
    within("leverage_end", "Leverage at the end", "As at the start, at full stroke.", "", 0.3, 6, 1.8, 3.4),
    number("tyre_room_full_mm", "Tyre at full travel", "Empty, full stroke by hand: tyre to frame.", 0, 200, 5),
    number("fork_travel_max_mm", "Most fork travel", "Manufacturer's limit.", 0, 300),
    yes_no("double_crown_ok", "Double crown allowed", "Manufacturer's word."),
    PIVOTS,
)  # fmt: skip
FORK_SUSPENSION = (
    choice("crowns", "Crowns", "One above the wheel, or a second above the head tube.", enums.CROWNS),
    rate("Coil fork: printed on the spring; lbf/in may be typed.", 2, 20),
    *sprung(8, 14),
)
SUSPENSION_KINDS = (SHOCK, SHOCK_SPRING, LINKAGE)
