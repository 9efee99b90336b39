"""Lever to caliper: actuation, fluid, pull, fitting, line, bends, motor cut-off, reach. All safety."""

from __future__ import annotations

from unkett.core.calc.lines import line_drag
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.roles import BIKE, at_both_ends, both_ends, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area
from unkett.core.vocabulary.words import a, in_sentence

USED_HOUSING_MU = limit_of("used_housing_mu")
HIDDEN_LOSS_MAX_PCT = limit_of("hidden_loss_max_pct")
HOUSING_RADIUS_MIN_MM = limit_of("housing_radius_min_mm")
HOSE_RADIUS_MIN_MM = limit_of("hose_radius_min_mm")
ALWAYS_SHORT = ("dual_pivot", "cantilever", "u_brake")
LONG_ARM_MM = limit_of("long_arm_mm")
SHORT_ARM_MM = limit_of("short_arm_mm")
CABLE_CALIPERS = ("cable", "cable_hydraulic")

ACTUATION = rule(
    "brake-actuation",
    title="Lever works the caliper",
    plain=(
        "A cable lever works a cable caliper or a cable-pulled hydraulic one; a hydraulic lever only a "
        "hydraulic caliper."
    ),
    why="A lever that moves cable cannot push fluid, nor the other way round.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(lever="{end}_brake_lever", caliper="{end}_caliper"),
    messages={
        "same": "Lever and caliper work the same way.",
        "cable_hydraulic": "A cable lever works this cable-pulled hydraulic caliper.",
        "other": "The lever works by {lever.actuation}, the caliper by {caliper.actuation}.",
    },
    sources=("brake-practice",),
    safety=True,
)


@ACTUATION.clause("lever.actuation caliper.actuation")
def actuation(lever: View, caliper: View) -> Outcome:
    if lever.actuation == caliper.actuation:
        return goes("same")
    if (lever.actuation, caliper.actuation) == ("cable", "cable_hydraulic"):
        return goes("cable_hydraulic")
    fitting = ["cable", "cable_hydraulic"] if lever.actuation == "cable" else ["hydraulic"]
    return no_go("other", way_out(caliper, "actuation", "in", fitting))


def _by_cable(lever: View, caliper: View) -> bool:
    """Return whether either side is known to work by cable, so that no fluid runs between them."""
    return lever.actuation == "cable" or caliper.actuation in CABLE_CALIPERS


FLUID = rule(
    "brake-fluid",
    title="One fluid in lever, hose and caliper",
    plain="Mineral oil and glycol fluid never mix: seals swell or shrink. Unknown is unmeasured, never a guess.",
    why="The wrong fluid swells or shrinks the seals until the brake fails.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(lever="{end}_brake_lever", caliper="{end}_caliper", line=optional("{end}_brake_line")),
    messages={
        "one_fluid": "Lever and caliper use the same fluid ({lever.fluid}).",
        "mixed": "{one} {one_fluid}, {other} {other_fluid}: never mix fluids, seals fail.",
    },
    figures={
        "one": ("a part", ""),
        "other": ("another", ""),
        "one_fluid": ("its fluid", ""),
        "other_fluid": ("its fluid", ""),
    },
    sources=("brake-practice",),
    safety=True,
)
_FLUIDS = {"mineral": "mineral oil", "glycol": "glycol fluid"}


def _mixed(first: View, one_says: str, other: View, other_says: str) -> Outcome | None:
    if first.fluid == other.fluid:
        return None
    words = {"one_fluid": _FLUIDS[first.fluid], "other_fluid": _FLUIDS[other.fluid]}
    return no_go("mixed", way_out(other, "fluid", "==", first.fluid), one=one_says, other=other_says, **words)


@FLUID.clause(may="lever.actuation caliper.actuation", silences=True)
def has_fluid(lever: View, caliper: View) -> Outcome | None:
    return SILENT if _by_cable(lever, caliper) else None


@FLUID.clause("lever.fluid line.fluid")
def lever_and_hose(lever: View, line: View) -> Outcome | None:
    return _mixed(lever, "The lever", line, "the hose")


@FLUID.clause("caliper.fluid line.fluid")
def caliper_and_hose(caliper: View, line: View) -> Outcome | None:
    return _mixed(caliper, "The caliper", line, "the hose")


@FLUID.clause("lever.fluid caliper.fluid")
def lever_and_caliper(lever: View, caliper: View) -> Outcome | None:
    return _mixed(lever, "The lever", caliper, "the caliper") or goes("one_fluid")


PULL = rule(
    "brake-cable-pull",
    title="Lever pulls as much cable as the brake wants",
    plain=(
        "Short-pull levers go with short-pull brakes, long with long. A short lever on a long brake meets the "
        "bar before the brake is on; a long lever on a short brake feels hard and grabs. Dual-pivot brakes, "
        "cantilevers and U-brakes always want a short pull; linear-pull arms of {long_arm_mm} mm and more a long one, "
        "of {short_arm_mm} mm and less a short one; of other brakes it is read."
    ),
    why="With the wrong pull the lever meets the bar before the brake is on, or the brake grabs and throws the rider.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(lever="{end}_brake_lever", caliper="{end}_caliper"),
    messages={
        "same": "Lever and brake have one pull.",
        "short_on_long": "A short-pull lever on a long-pull brake meets the bar before the brake is on.",
        "long_on_short": "A long-pull lever on a short-pull brake is weak and grabs.",
    },
    sources=("brake-practice",),
    safety=True,
)


@PULL.clause(may="lever.actuation caliper.actuation", silences=True)
def has_cable(lever: View, caliper: View) -> Outcome | None:
    return SILENT if "hydraulic" in (lever.actuation, caliper.actuation) else None


def _wanted_pull(caliper: View) -> str:
    """The pull a brake wants: read, else known by its sort or by the length of its arms, else asked for."""
    if caliper.cable_pull is not None:
        return str(caliper.cable_pull)
    if caliper.type in ALWAYS_SHORT:
        return "short"
    if caliper.type == "linear_pull" and caliper.arm_mm is not None:
        if caliper.arm_mm >= LONG_ARM_MM - SLACK:
            return "long"
        if caliper.arm_mm <= SHORT_ARM_MM + SLACK:
            return "short"
    return str(require(caliper).cable_pull)


@PULL.clause("lever.cable_pull caliper", asks="caliper.cable_pull", may="caliper.type caliper.arm_mm")
def cable_pull(lever: View, caliper: View) -> Outcome:
    wanted = _wanted_pull(caliper)
    if lever.cable_pull == wanted:
        return goes("same")
    ways = (
        way_out(lever, "cable_pull", "==", wanted),
        way_out(caliper, "cable_pull", "==", lever.cable_pull),
    )
    return no_go("short_on_long" if lever.cable_pull == "short" else "long_on_short", *ways)


FITTING = rule(
    "hose-fitting",
    title="Hose ends fit lever and caliper",
    plain=(
        "Lever, hose and caliper of one fluid and one fitting go. With another fitting they go with the right barb "
        "and olive at each end, checked for full pad travel, since the leverage differs."
    ),
    why="A joint that is only nearly right leaks when the lever is pulled in earnest.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(lever="{end}_brake_lever", caliper="{end}_caliper", line=optional("{end}_brake_line")),
    messages={
        "same": "Lever and caliper take one fitting.",
        "other": "Lever and caliper take different fittings.",
        "other_hose": "Hose fitting does not match {part}.",
    },
    figures={"part": ("the end that takes another fitting", "")},
    sources=("brake-practice",),
    safety=True,
)


@FITTING.clause(may="lever.actuation caliper.actuation lever.fluid caliper.fluid line.fluid", silences=True)
def has_hose(lever: View, caliper: View, line: View) -> Outcome | None:
    mixed = len({view.fluid for view in (lever, caliper, line)} - {None}) > 1
    return SILENT if _by_cable(lever, caliper) or mixed else None


@FITTING.clause("lever.hose_fitting caliper.hose_fitting")
def two_ends(lever: View, caliper: View) -> Outcome:
    if lever.hose_fitting == caliper.hose_fitting:
        return goes("same")
    ends = need("fittings", lever=lever.hose_fitting, caliper=caliper.hose_fitting, where="one at each end")
    return goes_if("other", ends, need("check full pad travel: the leverage differs"))


@FITTING.clause("line.hose_fitting", may="lever.hose_fitting caliper.hose_fitting")
def hose_ends(line: View, lever: View, caliper: View) -> Outcome | None:
    for view, says in ((lever, "the lever"), (caliper, "the caliper")):
        if None not in (line.hose_fitting, view.hose_fitting) and line.hose_fitting != view.hose_fitting:
            return goes_if(
                "other_hose", need("fittings", where=f"at {says}", fits=view.hose_fitting), part=says
            )
    return None


LINE = rule(
    "brake-line-type",
    title="Brake line is made for brakes",
    plain=(
        "A cable brake wants brake housing: shift housing has straight strands and can burst, a bare inner cannot "
        "push back on the lever. A hydraulic one wants a hose."
    ),
    why="Shift housing splits under brake force, and the brake is gone at once.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(
        line="{end}_brake_line", caliper=optional("{end}_caliper"), lever=optional("{end}_brake_lever")
    ),
    messages={
        "right": "The line is made for this brake.",
        "shift_housing": "Shift housing on a brake can burst.",
        "bare": "A bare inner alone is no brake line.",
        "other": "The line is {a_line}; the brake works by {works}.",
    },
    figures={"a_line": ("what the line is", ""), "works": ("cable or hose", "")},
    sources=("brake-practice",),
    safety=True,
)


@LINE.clause("line.type")
def no_brake_line(line: View) -> Outcome | None:
    if line.type in ("shift_housing", "bare"):
        return no_go(line.type, way_out(line, "type", "in", ["brake_housing", "hose"]))
    return None


@LINE.clause("line.type", asks="lever.actuation caliper.actuation")
def line_for_brake(line: View, lever: View, caliper: View) -> Outcome | None:
    if (lever.empty and caliper.empty) or line.type in ("shift_housing", "bare"):
        return None
    known = (lever.actuation, caliper.actuation)
    if known == (None, None):
        require(lever if caliper.empty else caliper, "actuation")
    cable = known[0] == "cable" or known[1] in CABLE_CALIPERS
    if cable == (line.type != "hose"):
        return goes("right")
    says = a(in_sentence("Hose" if line.type == "hose" else "Brake housing"))
    way = way_out(line, "type", "==", "brake_housing" if cable else "hose")
    return no_go("other", way, a_line=says, works="cable" if cable else "hose")


DRAG = rule(
    "brake-line-drag",
    title="Brake line is not bent too tightly",
    plain=(
        "A cable pulled through bar, stem and headset loses force in every bend: exp(−μθ). It goes at best if not "
        "more than {hidden_loss_max_pct} % is lost with used housing and no bend is tighter than "
        "{housing_radius_min_mm} mm. A hose kinks below {hose_radius_min_mm} mm."
    ),
    why="Force lost in bends is missing at the pads, and a dragging cable does not release.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(
        frame=optional("frame"),
        bar=optional("handlebar"),
        caliper="{end}_caliper",
        line=optional("{end}_brake_line"),
    ),
    messages={
        "bearable": "The bends cost {loss_pct:.0f} % of the pull ({total_deg:.0f}° in all).",
        "too_much": "The bends cost {loss_pct:.0f} % of the pull ({total_deg:.0f}° in all).",
        "too_tight": "A bend of {line.radius_min_mm:g} mm radius is too tight for brake housing.",
        "kinks": "A hose bent to {line.radius_min_mm:g} mm radius kinks.",
    },
    figures={
        "loss_pct": ("(1 − exp(−{used_housing_mu} × θ)) × 100", "%"),
        "total_deg": ("sum of the bends", "°"),
    },
    sources=("belt-friction", "brake-practice"),
    safety=True,
)


@DRAG.clause(given="line.type line.radius_min_mm")
def kinks(line: View) -> Outcome | None:
    if line.type != "hose" or line.radius_min_mm >= HOSE_RADIUS_MIN_MM - SLACK:
        return None
    return no_go("kinks", way_out(line, "radius_min_mm", ">=", HOSE_RADIUS_MIN_MM))


@DRAG.clause(may="frame.routing bar.routing caliper.actuation", silences=True)
def hidden(frame: View, bar: View, caliper: View) -> Outcome | None:
    cable = caliper.actuation in (None, *CABLE_CALIPERS)
    return None if cable and "fully_hidden" in (frame.routing, bar.routing) else SILENT


@DRAG.clause("caliper.actuation", asks="line.radius_min_mm line.turns_deg", may="frame.routing bar.routing")
def drag(caliper: View, line: View, frame: View, bar: View) -> Outcome | None:
    if caliper.actuation not in CABLE_CALIPERS or "fully_hidden" not in (frame.routing, bar.routing):
        return None
    ways = (
        way_out(caliper, "actuation", "==", "hydraulic"),
        way_out(frame, "routing", "!=", "fully_hidden"),
        way_out(bar, "routing", "!=", "fully_hidden"),
    )
    radius, turns = line.radius_min_mm, line.turns_deg
    lost = None if turns is None else line_drag(turns_deg=turns, mu=USED_HOUSING_MU)
    figures = {} if lost is None else {"loss_pct": lost.loss_pct, "total_deg": lost.total_deg}
    if radius is not None and radius < HOUSING_RADIUS_MIN_MM - SLACK:
        return no_go("too_tight", *ways, **figures)
    if lost is not None and lost.loss_pct > HIDDEN_LOSS_MAX_PCT + SLACK:
        return no_go("too_much", *ways, **figures)
    require(line, "turns_deg", "radius_min_mm")
    return goes_if("bearable", need("a harder lever; lined housing, stainless inner"), **figures)


CUTOFF = rule(
    "motor-cutoff",
    title="Lever cuts the motor",
    plain=(
        "A motor that wants a cut-off needs a switch in the lever or a sensor at lever, line or caliper; local law "
        "may require it, and without it motor and brake fight."
    ),
    why="A motor that pushes while the rider brakes makes the stopping distance longer.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(motor="motor", lever="{end}_brake_lever", caliper=optional("{end}_caliper")),
    messages={
        "switched": "The brake cuts the motor.",
        "no_switch": "Motor needs a brake cut-off switch; this brake has none.",
    },
    sources=("local-law",),
    safety=True,
)


@CUTOFF.clause("motor.needs_cutoff", asks="lever.cutoff_switch", may="caliper.cutoff_sensor", silences=True)
def cutoff(motor: View, lever: View, caliper: View) -> Outcome | None:
    if not motor.needs_cutoff:
        return SILENT
    if caliper.cutoff_sensor or require(lever).cutoff_switch:
        return goes("switched")
    return goes_if("no_switch", need("cut-off sensor", where="on lever or line"))


REACH = rule(
    "lever-reach",
    title="Fingers reach the lever",
    plain="With its reach screw full in, the lever must come within the rider's span. Without a span nothing is said.",
    why="A lever that the fingers cannot reach cannot be pulled hard.",
    area=Area.BRAKES,
    joint=both_ends("lever"),
    parts=at_both_ends(lever="{end}_brake_lever", bike=BIKE),
    messages={
        "within": "The lever comes to {lever.reach_min_mm:g} mm, the hand spans {bike.hand_span_mm:g}.",
        "too_far": "Lever reach {lever.reach_min_mm:g} mm; hand span {bike.hand_span_mm:g} mm.",
    },
    sources=("brake-practice",),
    safety=True,
)


@REACH.clause("lever", asks="lever.reach_min_mm", may="bike.hand_span_mm", silences=True)
def reach(lever: View, bike: View) -> Outcome | None:
    if bike.hand_span_mm is None:
        return SILENT
    if require(lever).reach_min_mm <= bike.hand_span_mm + SLACK:
        return goes("within")
    return no_go("too_far", way_out(lever, "reach_min_mm", "<=", bike.hand_span_mm))
