"""Bar in the stem and what sits on the bar."""

from __future__ import annotations

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of, lookup, table
from unkett.core.vocabulary import Area

CLAMP_TOLERANCE_MM = limit_of("bar_clamp_off_mm")
GRIP_TOLERANCE_MM = limit_of("grip_off_mm")
SHIMMED_BARS = ("steel", "aluminium")
BAR_END_BORE_MM = (limit_of("bar_end_bore_least_mm"), limit_of("bar_end_bore_most_mm"))

BAR = rule(
    "stem-bar",
    title="Bar sits in the stem's clamp",
    plain=(
        "Clamp and bar must be equal. A larger clamp takes a smaller steel or aluminium bar through a sleeve that is "
        "made, never a carbon one; never the other way; 25.4 and 26.0 never mix; a 25.8 bar is taken in a 26.0 clamp "
        "if the hair between them is accepted."
    ),
    why="A bar that is not gripped all round slips under braking or cracks at the edge of the clamp.",
    area=Area.STEERING,
    joint="bar",
    parts={"stem": "stem", "bar": required("handlebar")},
    messages={
        "same": "Clamp and bar are both {bar.clamp_mm:g} mm.",
        "as_one": "Bar {bar.clamp_mm:g} mm; clamp {stem.bar_clamp_mm:g} mm: the trade takes them as one size.",
        "sleeve": "Bar {bar.clamp_mm:g} mm; clamp {stem.bar_clamp_mm:g} mm: fit a sleeve.",
        "carbon": "Bar of {bar.material}: never use a sleeve.",
        "other": "Bar {bar.clamp_mm:g} mm; stem clamp {stem.bar_clamp_mm:g} mm.",
    },
    sources=("steering-practice",),
    safety=True,
)


@BAR.clause("stem.bar_clamp_mm bar.clamp_mm", asks="bar.material")
def clamped(stem: View, bar: View) -> Outcome:
    clamp, size = stem.bar_clamp_mm, bar.clamp_mm
    if near(clamp, size, CLAMP_TOLERANCE_MM):
        return goes("same")
    same = way_out(bar, "clamp_mm", "==", clamp)
    for row in table("bars_as_one").rows:
        if near(row["clamp_mm"], clamp, SLACK) and near(row["bar_mm"], size, SLACK):
            return goes_if("as_one", need("a clamp a hair larger than the bar"))
    for row in table("bar_sleeves").rows:
        if near(row["clamp_mm"], clamp, CLAMP_TOLERANCE_MM) and near(row["bar_mm"], size, CLAMP_TOLERANCE_MM):
            if require(bar).material not in SHIMMED_BARS:
                return no_go("carbon", same, way_out(stem, "bar_clamp_mm", "==", size))
            return goes_if("sleeve", need("bar sleeve", size_mm=size, where="between bar and clamp"))
    return no_go("other", same, way_out(stem, "bar_clamp_mm", "==", size))


def bar_family(shape: str) -> str:
    """Return the family of a bar's shape, by how the hand holds it. Source: the bar_families table."""
    return str(lookup("bar_families", "code")[shape]["family"])


def _made_for(control: View, bar: View) -> Outcome | None:
    """Return whether a control's bars are of this bar's family."""
    if bar_family(bar.shape) in {bar_family(fit) for fit in control.fits_bar}:
        return None
    return no_go("other_shape", way_out(control, "fits_bar", "has", bar.shape))


def _clamps(control: View, bar: View) -> Outcome | None:
    if near(require(control).clamp_mm, require(bar).grip_mm, GRIP_TOLERANCE_MM):
        return None
    return no_go("other_clamp", way_out(control, "clamp_mm", "==", require(bar).grip_mm))


CONTROLS = rule(
    "bar-controls",
    title="Lever or shifter fits the bar",
    plain=(
        "The clamp must be the bar's ({bar_families.flat.grip_mm} mm flat, {bar_families.drop.grip_mm} to 24.2 mm "
        "drop) and the bar of the family it is made for: flat, riser and swept are one, drop and bullhorn another, a "
        "base bar stands alone. A shifter in the bar's end wants a bore of {bar_end_bore_least_mm} to "
        "{bar_end_bore_most_mm} mm, straight as deep as its plug."
    ),
    why="A clamp of another size slips under the hand or crushes the bar.",
    area=Area.STEERING,
    joint="bar",
    parts=tuple(
        {"control": required(slot), "bar": required("handlebar")}
        for slot in ("front_brake_lever", "rear_brake_lever", "rear_shifter", "front_shifter")
    ),
    messages={
        "fits": "Clamp and shape are the bar's.",
        "end_bore": "The bar's end is {bar.bore_mm:g} mm inside: look that it is straight as deep as the plug.",
        "other_bore": (
            "Bar end {bar.bore_mm:g} mm inside; the plug needs {bar_end_bore_least_mm} to "
            "{bar_end_bore_most_mm}."
        ),
        "other_shape": "It is not made for this bar ({bar.shape}).",
        "other_clamp": "Its clamp is {control.clamp_mm:g} mm; the bar is {bar.grip_mm:g}.",
    },
    sources=("steering-practice",),
    safety=True,
)


@CONTROLS.clause("control.fits_bar bar.shape")
def shape(control: View, bar: View) -> Outcome | None:
    return _made_for(control, bar)


@CONTROLS.clause("control bar", asks="control.clamp_mm bar.grip_mm", may="control.bar_end")
def clamp(control: View, bar: View) -> Outcome | None:
    if control.bar_end:
        return None
    return _clamps(control, bar) or goes("fits")


@CONTROLS.clause("control bar", asks="bar.bore_mm", may="control.bar_end")
def in_the_end(control: View, bar: View) -> Outcome | None:
    if not control.bar_end:
        return None
    low, high = BAR_END_BORE_MM
    if low - SLACK <= require(bar).bore_mm <= high + SLACK:
        return goes_if("end_bore", need("look that the bar's end is straight as deep as the plug"))
    return no_go("other_bore", way_out(bar, "bore_mm", "in", list(BAR_END_BORE_MM)))


GRIPS = rule(
    "bar-ends",
    title="Grips fit and the bar's ends are closed",
    plain="The grips' bore is the bar's grip diameter. An open bar end wounds whoever falls on it: it takes a plug.",
    why="An open bar end cuts like a tube: it has killed riders in simple falls.",
    area=Area.STEERING,
    joint="bar",
    parts={"grips": "grips", "bar": required("handlebar")},
    messages={
        "closed": "The bar's ends are closed.",
        "open": "The bar's ends are open: an open end wounds in a fall.",
        "other_bore": "The grips are for {grips.bore_mm:g} mm; the bar is {bar.grip_mm:g}.",
    },
    sources=("steering-practice",),
    safety=True,
)


@GRIPS.clause("grips.bore_mm bar.grip_mm")
def bore(grips: View, bar: View) -> Outcome | None:
    if near(grips.bore_mm, bar.grip_mm, GRIP_TOLERANCE_MM):
        return None
    return no_go("other_bore", way_out(grips, "bore_mm", "==", bar.grip_mm))


@GRIPS.clause("grips.end_plugs")
def plugs(grips: View) -> Outcome:
    return goes("closed") if grips.end_plugs else goes_if("open", need("bar plugs", count=2))
