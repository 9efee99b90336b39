"""The kinds of thing that can be identified: their tables, what is measured of them and where the answer goes."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.bottom_bracket import bcd
from unkett.core.identify.subject import Measure, Put, Sort
from unkett.core.standards import Row


def _code(slot: str, attr: str) -> Put:
    return Put(slot, {attr: "code"})


PITCH_TOLERANCE_MM = 0.015  # a gauge lies in the thread or not: 24 to the inch is never 1 mm
RATIO_SHARE = 0.03


def _measure(name: str, title: str, how: str, column: str = "", **more: Any) -> Measure:
    return Measure(name=name, title=title, how=how, column=column or name, **more)


def _pitch(how: str) -> Measure:
    return _measure("pitch_mm", "Thread pitch", how, tolerance=PITCH_TOLERANCE_MM)


NOTCH = _measure(
    "notch_turns",
    "Does the notch turn?",
    "Turn the sprockets backwards: the remover's notches turn with a cassette and stand still in a screw-on freewheel.",
    yes_no=True,
)


SORTS: dict[str, Sort] = {
    sort.name: sort
    for sort in (
        Sort(
            name="bb_shell",
            title="Bracket shell",
            table="bracket_shells",
            measures=(
                _measure(
                    "bore_mm",
                    "Bore",
                    "Inside caliper in the bare shell; on the crests where there is a thread.",
                    within="crest_mm",
                ),
                _measure("width_mm", "Width", "Face to face, cups out.", "widths_mm"),
                _pitch("Thread gauge in the shell; 24 to the inch is 1.058."),
                _measure(
                    "left_hand",
                    "Drive side left-hand?",
                    "Which way the drive cup came out: clockwise is left-hand.",
                    yes_no=True,
                ),
            ),
            puts=(_code("frame", "bb_shell"),),
        ),
        Sort(
            name="spindle",
            title="Spindle",
            table="spindles",
            measures=(
                _measure("diameter_mm", "Diameter", "Caliper on the spindle between the bearings."),
                _measure("splines", "Splines", "Count them; 0 for smooth or square.", counted=True),
                _measure("flat_mm", "Across the flats at the end", "Caliper over the square's end."),
                _measure(
                    "other_end_mm", "Diameter at the other end", "Caliper on the left end: some are stepped."
                ),
            ),
            puts=(
                _code("crank", "spindle"),
                _code("bottom_bracket", "spindle"),
            ),
        ),
        Sort(
            name="headset_bore",
            title="Headset bore",
            table="headset_bores",
            measures=(
                _measure("bore_mm", "Bore", "Inside caliper in the head tube, twice at right angles."),
            ),
            puts=(
                _code("frame", "headset_upper"),
                _code("frame", "headset_lower"),
            ),
        ),
        Sort(
            name="steerer",
            title="Steerer and crown race",
            table="steerers",
            measures=(
                _measure("steerer_mm", "Steerer at the stem", "Caliper on the tube."),
                _measure("race_mm", "Crown race seat", "Caliper on the seat above the crown."),
            ),
            puts=(Put("fork", {"steerer_upper_mm": "steerer_mm", "crown_race_mm": "race_mm"}),),
        ),
        Sort(
            name="axle",
            title="Axle and spacing",
            table="axles",
            measures=(
                _measure("dia_mm", "Axle diameter", "Caliper on the axle end."),
                _measure("spacing_mm", "Spacing", "Locknut face to locknut face.", tolerance=1.0),
            ),
            puts=(
                *(
                    Put(
                        f"{end}_hub",
                        {"axle_kind": "axle_kind", "axle_dia_mm": "dia_mm", "spacing_mm": "spacing_mm"},
                    )
                    for end in ("front", "rear")
                ),
                Put("fork", {"axle_kind": "axle_kind", "axle_dia_mm": "dia_mm", "spacing_mm": "spacing_mm"}),
                Put(
                    "frame",
                    {
                        "rear_axle_kind": "axle_kind",
                        "rear_axle_dia_mm": "dia_mm",
                        "rear_spacing_mm": "spacing_mm",
                    },
                ),
            ),
        ),
        Sort(
            name="freehub",
            title="Freehub body",
            table="freehub_shapes",
            measures=(
                NOTCH,
                _measure("splines", "Splines", "Count them.", counted=True),
                _measure("length_mm", "Usable length", "From the stop to the lockring thread's end."),
                _measure("diameter_mm", "Outside diameter", "Over the splines."),
                _measure(
                    "stepped",
                    "Stepped, with a thread inside?",
                    "Look at the inner end of the body.",
                    yes_no=True,
                ),
                _measure("sprockets", "Sprockets it carried", "Count them.", counted=True),
                _measure(
                    "loose",
                    "Does a short cassette stand loose?",
                    "Held by its lockring without a 1.85 mm spacer, can it be shaken?",
                    yes_no=True,
                ),
            ),
            puts=(_code("rear_hub", "freehub"),),
        ),
        Sort(
            name="freewheel_thread",
            title="Freewheel thread",
            table="freewheel_threads",
            measures=(
                NOTCH,
                _measure("diameter_mm", "Thread diameter", "Caliper over the thread."),
                _pitch("Thread gauge; 24 to the inch is 1.058."),
                _measure(
                    "lockring_step",
                    "A smaller step for a lockring?",
                    "Look beside the thread: a second thread, smaller, left-hand.",
                    yes_no=True,
                ),
            ),
            puts=(Put("rear_hub", {"freehub": "freehub"}),),
        ),
        Sort(
            name="axle_thread",
            title="Axle thread",
            table="axle_threads",
            measures=(
                _measure("diameter_mm", "Thread diameter", "Caliper over the thread."),
                _pitch("Thread gauge; 26 to the inch is 0.977."),
            ),
            puts=(),
        ),
        Sort(
            name="thru_axle",
            title="Thru axle",
            table="thru_axles",
            measures=(
                _measure("dia_mm", "Diameter", "Caliper on the shank."),
                _pitch("Thread gauge on the axle."),
            ),
            puts=(
                Put("front_axle", {"dia_mm": "dia_mm", "thread_pitch_mm": "pitch_mm"}),
                Put("rear_axle", {"dia_mm": "dia_mm", "thread_pitch_mm": "pitch_mm"}),
                Put("fork", {"axle_dia_mm": "dia_mm", "axle_thread_pitch_mm": "pitch_mm"}),
                Put("frame", {"rear_axle_dia_mm": "dia_mm", "rear_axle_thread_pitch_mm": "pitch_mm"}),
            ),
        ),
        Sort(
            name="bearing",
            title="Sealed bearing",
            table="bearing_sizes",
            measures=(
                _measure("inner_mm", "Inside", "Inside caliper, seals clean."),
                _measure("outer_mm", "Outside", "Caliper over the outer ring."),
                _measure("width_mm", "Width", "Caliper over both faces."),
            ),
            puts=tuple(
                Put(slot, {"sizes": "sizes"})
                for slot in ("front_hub_bearings", "rear_hub_bearings", "bracket_bearings")
            ),
        ),
        Sort(
            name="remover",
            title="Remover pattern",
            table="remover_patterns",
            measures=(
                _measure("splines", "Splines or notches", "Count them all round.", counted=True),
                _measure(
                    "across_mm",
                    "Across them",
                    "Inside: caliper over the widest of a remover that fits, or across the grooves. Outside: over "
                    "the notched rim.",
                    tolerance=0.7,
                ),
                _measure(
                    "outside", "On the outside?", "Notches round the rim, not in the bore.", yes_no=True
                ),
            ),
            puts=(),
        ),
        Sort(
            name="spoke",
            title="Spoke",
            table="spoke_gauges",
            measures=(
                _measure("diameter_mm", "Wire", "Caliper near the head.", tolerance=0.05),
                _measure("bent", "Bent at the head?", "Look: a bend, or straight to the head.", yes_no=True),
            ),
            puts=tuple(
                Put(f"{end}_spokes", {"gauge_mm": "gauge_mm", "head": "head"}) for end in ("front", "rear")
            ),
        ),
        Sort(
            name="hose",
            title="Hose or housing",
            table="hoses",
            measures=(
                _measure("diameter_mm", "Outside diameter", "Caliper on the outside, not squeezed."),
                _measure(
                    "coiled",
                    "Wound of wire?",
                    "Look at a cut end: a coil, wires along it, or plain.",
                    yes_no=True,
                ),
            ),
            puts=tuple(Put(f"{end}_brake_line", {"type": "type"}) for end in ("front", "rear")),
        ),
        Sort(
            name="fluid",
            title="Brake fluid",
            table="fluids",
            measures=(
                _measure(
                    "says_mineral",
                    "Does the lever say mineral oil?",
                    "Read the lever and its cap; never by taste.",
                    yes_no=True,
                ),
                _measure(
                    "says_glycol",
                    "Does it name a glycol fluid?",
                    "Read the lever and its cap: a class of glycol fluid.",
                    yes_no=True,
                ),
            ),
            puts=tuple(
                _code(f"{end}_{part}", "fluid")
                for end in ("front", "rear")
                for part in ("brake_lever", "caliper", "brake_line")
            ),
        ),
        Sort(
            name="ring_bolt_circle",
            title="Ring bolt circle",
            table="ring_mounts",
            measures=(
                _measure("bcd_mm", "Bolt circle", "Across, where the bolts lie opposite."),
                _measure(
                    "neighbour_mm", "Neighbouring bolts", "Centre to centre of two neighbours.", "bcd_mm"
                ),
                _measure("bolts", "Bolts", "Count them.", counted=True),
            ),
            puts=(
                _code("crank", "ring_mount"),
                _code("chainrings", "mount"),
            ),
        ),
        Sort(
            name="seatpost",
            title="Seatpost",
            table="seatposts",
            measures=(_measure("diameter_mm", "Diameter", "Caliper on the post, twice at right angles."),),
            puts=(
                Put("seatpost", {"diameter_mm": "diameter_mm"}),
                Put("frame", {"seat_tube_bore_mm": "diameter_mm"}),
            ),
        ),
        Sort(
            name="bar_clamp",
            title="Bar clamp",
            table="bar_clamps",
            measures=(_measure("diameter_mm", "Diameter", "Caliper in the middle of the bar."),),
            puts=(
                Put("handlebar", {"clamp_mm": "diameter_mm"}),
                Put("stem", {"bar_clamp_mm": "diameter_mm"}),
            ),
        ),
        Sort(
            name="rim_size",
            title="Rim size",
            table="rim_sizes",
            measures=(
                _measure(
                    "bsd_mm", "Bead seat diameter", "Printed on the tyre, or tape round the bead seat ÷ π."
                ),
            ),
            puts=tuple(
                Put(slot, {"bsd_mm": "bsd_mm"})
                for slot in ("front_rim", "rear_rim", "front_tyre", "rear_tyre")
            ),
        ),
        Sort(
            name="brake_mount",
            title="Brake mount",
            table="brake_mounts",
            measures=(
                _measure(
                    "spacing_mm", "Bolt spacing", "Centre to centre of the two bolt holes.", tolerance=0.3
                ),
            ),
            puts=(
                _code("fork", "brake_mount"),
                _code("frame", "rear_brake_mount"),
            ),
        ),
        Sort(
            name="chain",
            title="Chain",
            table="chains",
            measures=(
                _measure("outer_width_mm", "Outer width", "Caliper over the pin ends.", "outer_mm"),
                _measure(
                    "inner_width_mm", "Inner width", "Inside caliper between the inner plates.", "inner_mm"
                ),
            ),
            puts=(Put("chain", {"speeds": "speeds"}),),
        ),
        Sort(
            name="sprocket_pitch",
            title="Sprocket pitch",
            table="sprocket_pitches",
            measures=(
                _measure("pitch_mm", "Pitch", "Stack from first to last sprocket ÷ gaps."),
                _measure("speeds", "Sprockets", "Count them.", counted=True),
            ),
            puts=(Put("cassette", {"speeds": "speeds", "sprocket_pitch_mm": "pitch_mm"}),),
        ),
        Sort(
            name="pull_per_click",
            title="Pull per click",
            table="pull_families",
            measures=(
                _measure("pull_mm", "Pull per click", "Ruler on the cable over several clicks ÷ clicks."),
                _measure("speeds", "Positions", "Count the clicks and add one.", counted=True),
            ),
            puts=(Put("rear_shifter", {"pull_per_click_mm": "pull_mm", "speeds": "speeds"}),),
        ),
        Sort(
            name="shift_ratio",
            title="Shift ratio",
            table="pull_families",
            measures=(
                _measure(
                    "ratio",
                    "Shift ratio",
                    "Sideways travel of the upper pulley ÷ cable pulled.",
                    share=RATIO_SHARE,
                ),
                _measure("speeds", "Speeds", "Printed on the derailleur.", counted=True),
            ),
            puts=(Put("rear_derailleur", {"shift_ratio": "ratio"}),),
        ),
        Sort(
            name="rotor",
            title="Rotor",
            table="rotor_sizes",
            measures=(_measure("diameter_mm", "Diameter", "Across the rotor.", tolerance=0.7),),
            puts=(
                Put("front_rotor", {"diameter_mm": "diameter_mm"}),
                Put("rear_rotor", {"diameter_mm": "diameter_mm"}),
            ),
        ),
    )
}


def expected(row: Row, measure: Measure) -> tuple[float, ...]:
    """What a row says of a measure: one value, several (widths), or nothing."""
    if measure.name == "neighbour_mm":
        return (row["bcd_mm"] / bcd(neighbour_mm=1.0, bolts=row["bolts"]).bcd_mm,)
    value = row.get(measure.within) if measure.within else None
    if value is None:
        value = row.get(measure.column)
    if value is None:
        return ()
    return tuple(value) if isinstance(value, list) else (value,)
