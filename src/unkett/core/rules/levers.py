"""Lever to caliper: actuation, fluid, pull, fitting, line, hidden routes, motor cut-off, reach. All safety."""

from __future__ import annotations

from unkett.core.calc.base import SLACK
from unkett.core.calc.brakes import line_drag
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    both_ends,
    goes,
    goes_if,
    missing,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.vocabulary import Area

USED_HOUSING_MU = 0.10
HIDDEN_LOSS_MAX_PCT = 35.0
HOUSING_RADIUS_MIN_MM = 35.0
CABLE_CALIPERS = ("cable", "cable_hydraulic")


@rule(
    "brake-actuation",
    title="Lever works the caliper",
    plain=(
        "A cable lever works a cable caliper or a cable-pulled hydraulic one; a hydraulic lever only a "
        "hydraulic caliper."
    ),
    area=Area.BRAKES,
    reads=both_ends(lever=at("{end}_brake_lever", "actuation"), caliper=at("{end}_caliper", "actuation")),
    messages={
        "same": "Lever and caliper work the same way.",
        "cable_hydraulic": "A cable lever works this cable-pulled hydraulic caliper.",
        "other": "A {lever.actuation} lever does not work a {caliper.actuation} caliper.",
    },
    sources=("brake-practice",),
    safety=True,
)
def brake_actuation(lever: View, caliper: View) -> Outcome:
    if lever.actuation == caliper.actuation:
        return goes("same")
    if (lever.actuation, caliper.actuation) == ("cable", "cable_hydraulic"):
        return goes("cable_hydraulic")
    fitting = ["cable", "cable_hydraulic"] if lever.actuation == "cable" else ["hydraulic"]
    return no_go("other", way_out(caliper, "actuation", "in", fitting))


def _is_cable(lever: View, caliper: View) -> bool:
    """Whether either side is known to work by cable, so that no fluid runs between them."""
    return lever.actuation == "cable" or caliper.actuation in CABLE_CALIPERS


@rule(
    "brake-fluid",
    title="One fluid in lever, hose and caliper",
    plain="Mineral oil and glycol fluid never mix: seals swell or shrink. Unknown is unmeasured, never a guess.",
    area=Area.BRAKES,
    reads=both_ends(
        lever=at("{end}_brake_lever", optional("actuation"), optional("fluid")),
        caliper=at("{end}_caliper", optional("actuation"), optional("fluid")),
        line=at("{end}_brake_line", optional("fluid"), may_be_empty=True),
    ),
    messages={
        "one_fluid": "Lever and caliper run on one fluid ({lever.fluid}).",
        "mixed": "Lever, hose and caliper run on different fluids: seals fail.",
        "unknown": "Which fluid runs in lever, hose and caliper is not known.",
    },
    sources=("brake-practice",),
    safety=True,
)
def brake_fluid(lever: View, caliper: View, line: View) -> Outcome | None:
    if _is_cable(lever, caliper):
        return None
    known = {view.fluid for view in (lever, caliper, line) if view.fluid is not None}
    if len(known) > 1:
        wanted = lever.fluid or line.fluid
        return no_go("mixed", way_out(caliper, "fluid", "==", wanted))
    asks = missing((lever, "fluid"), (caliper, "fluid"), *([] if line.empty else [(line, "fluid")]))
    return unmeasured("unknown", *asks) if asks else goes("one_fluid")


@rule(
    "brake-cable-pull",
    title="Lever pulls as much cable as the brake wants",
    plain=(
        "Short-pull levers go with short-pull brakes, long with long. A short lever on a long brake meets the "
        "bar before the brake is on; a long lever on a short brake feels hard and grabs."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        lever=at("{end}_brake_lever", optional("actuation"), optional("cable_pull")),
        caliper=at("{end}_caliper", optional("actuation"), optional("cable_pull")),
    ),
    messages={
        "same": "Lever and brake have one pull ({lever.cable_pull}).",
        "short_on_long": "A short-pull lever on a long-pull brake meets the bar before the brake is on.",
        "long_on_short": "A long-pull lever on a short-pull brake is weak and grabs.",
        "unknown": "The pull of lever and brake is not known.",
    },
    sources=("brake-practice",),
    safety=True,
)
def brake_cable_pull(lever: View, caliper: View) -> Outcome | None:
    if lever.actuation == "hydraulic" or caliper.actuation == "hydraulic":
        return None
    asks = missing((lever, "cable_pull"), (caliper, "cable_pull"))
    if asks:
        return unmeasured("unknown", *asks)
    if lever.cable_pull == caliper.cable_pull:
        return goes("same")
    ways = (
        way_out(lever, "cable_pull", "==", caliper.cable_pull),
        way_out(caliper, "cable_pull", "==", lever.cable_pull),
    )
    return no_go("short_on_long" if lever.cable_pull == "short" else "long_on_short", *ways)


@rule(
    "hose-fitting",
    title="Hose ends fit lever and caliper",
    plain=(
        "Lever and caliper of one fluid and one fitting go. With another fitting they go with the right barb and "
        "olive at each end, checked for full pad travel, since the leverage differs."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        lever=at("{end}_brake_lever", optional("actuation"), optional("fluid"), optional("hose_fitting")),
        caliper=at("{end}_caliper", optional("actuation"), optional("fluid"), optional("hose_fitting")),
    ),
    messages={
        "same": "Lever and caliper take one fitting.",
        "other": "Lever and caliper take different fittings.",
        "unknown": "Which fittings lever and caliper take is not known.",
    },
    sources=("brake-practice",),
    safety=True,
)
def hose_fitting(lever: View, caliper: View) -> Outcome | None:
    mixed = None not in (lever.fluid, caliper.fluid) and lever.fluid != caliper.fluid
    if _is_cable(lever, caliper) or mixed:
        return None
    asks = missing((lever, "hose_fitting"), (caliper, "hose_fitting"))
    if asks:
        return unmeasured("unknown", *asks)
    if lever.hose_fitting == caliper.hose_fitting:
        return goes("same")
    ends = need("fittings", lever=lever.hose_fitting, caliper=caliper.hose_fitting, where="one at each end")
    return goes_if("other", ends, need("check full pad travel: the leverage differs"))


@rule(
    "brake-line-type",
    title="Brake line is made for brakes",
    plain=(
        "A cable brake wants brake housing: shift housing has straight strands and can burst. A hydraulic one "
        "wants a hose."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        line=at("{end}_brake_line", "type"),
        caliper=at("{end}_caliper", optional("actuation"), may_be_empty=True),
        lever=at("{end}_brake_lever", optional("actuation"), may_be_empty=True),
    ),
    messages={
        "right": "The line is made for this brake.",
        "shift_housing": "Shift housing on a brake can burst.",
        "other": "A {line.type} line does not work this brake.",
        "unknown": "Whether the brake works by cable or hose is not known.",
    },
    sources=("brake-practice",),
    safety=True,
)
def brake_line_type(line: View, caliper: View, lever: View) -> Outcome | None:
    if line.type == "shift_housing":
        return no_go("shift_housing", way_out(line, "type", "==", "brake_housing"))
    if caliper.empty and lever.empty:
        return None
    if caliper.actuation is None and lever.actuation is None:
        return unmeasured("unknown", (lever if caliper.empty else caliper, "actuation"))
    cable = _is_cable(lever, caliper)
    if cable == (line.type != "hose"):
        return goes("right")
    return no_go("other", way_out(line, "type", "==", "brake_housing" if cable else "hose"))


@rule(
    "brake-line-drag",
    title="Cable brake through a hidden route",
    plain=(
        "A cable pulled through bar, stem and headset loses force in every bend: exp(−μθ). It goes at best if "
        "not more than 35 % is lost with used housing and no bend is tighter than 35 mm."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        frame=at("frame", optional("routing"), may_be_empty=True),
        bar=at("handlebar", optional("routing"), may_be_empty=True),
        caliper=at("{end}_caliper", optional("actuation")),
        line=at("{end}_brake_line", optional("turns_deg"), optional("radius_min_mm"), may_be_empty=True),
    ),
    messages={
        "bearable": "The bends cost {loss_pct:.0f} % of the pull ({total_deg:.0f}° in all).",
        "too_much": "The bends cost {loss_pct:.0f} % of the pull ({total_deg:.0f}° in all).",
        "too_tight": "A bend of {line.radius_min_mm:g} mm radius is too tight for brake housing.",
        "unknown": "The route is hidden; how the brake works or how it bends is not measured.",
    },
    figures={"loss_pct": "(1 − exp(−0.10 × θ)) × 100", "total_deg": "sum of the bends"},
    sources=("belt-friction", "brake-practice"),
    safety=True,
)
def brake_line_drag(frame: View, bar: View, caliper: View, line: View) -> Outcome | None:
    hidden = "fully_hidden" in (frame.routing, bar.routing)
    if not hidden:
        return None
    if caliper.actuation is None:
        return unmeasured("unknown", (caliper, "actuation"))
    if caliper.actuation not in CABLE_CALIPERS:
        return None
    asks = missing((line, "turns_deg"), (line, "radius_min_mm"))
    if asks:
        return unmeasured("unknown", *asks)
    drag = line_drag(turns_deg=line.turns_deg, mu=USED_HOUSING_MU)
    figures = {"loss_pct": drag.loss_pct, "total_deg": drag.total_deg}
    ways = (
        way_out(caliper, "actuation", "==", "hydraulic"),
        way_out(frame, "routing", "!=", "fully_hidden"),
        way_out(bar, "routing", "!=", "fully_hidden"),
    )
    if line.radius_min_mm < HOUSING_RADIUS_MIN_MM - SLACK:
        return no_go("too_tight", *ways, **figures)
    if drag.loss_pct > HIDDEN_LOSS_MAX_PCT + SLACK:
        return no_go("too_much", *ways, **figures)
    return goes_if("bearable", need("accept a harder lever; lined housing, stainless inner"), **figures)


@rule(
    "motor-cutoff",
    title="Lever cuts the motor",
    plain=(
        "A motor that wants a cut-off needs a switch in the lever or a sensor at lever, line or caliper; local law "
        "may require it, and without it motor and brake fight."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        motor=at("motor", "needs_cutoff"),
        lever=at("{end}_brake_lever", optional("cutoff_switch")),
        caliper=at("{end}_caliper", optional("cutoff_sensor"), may_be_empty=True),
    ),
    messages={
        "switched": "The brake cuts the motor.",
        "no_switch": "The motor wants a cut-off and this brake has none.",
        "unknown": "Whether this brake cuts the motor is not known.",
    },
    sources=("local-law",),
    safety=True,
)
def motor_cutoff(motor: View, lever: View, caliper: View) -> Outcome | None:
    if not motor.needs_cutoff:
        return None
    if lever.cutoff_switch or caliper.cutoff_sensor:
        return goes("switched")
    if lever.cutoff_switch is None:
        return unmeasured("unknown", (lever, "cutoff_switch"))
    sensor = need("cut-off sensor", where="on lever or line", caution="local law may require it")
    return goes_if("no_switch", sensor)


@rule(
    "lever-reach",
    title="Fingers reach the lever",
    plain="With its reach screw full in, the lever must come within the rider's span. Without a span nothing is said.",
    area=Area.BRAKES,
    reads=both_ends(
        lever=at("{end}_brake_lever", optional("reach_min_mm")), bike=at("bike", optional("hand_span_mm"))
    ),
    messages={
        "within": "The lever comes to {lever.reach_min_mm:g} mm, the hand spans {bike.hand_span_mm:g}.",
        "too_far": "The lever comes to {lever.reach_min_mm:g} mm; the hand spans only {bike.hand_span_mm:g}.",
        "unknown": "How near the lever comes is not measured.",
    },
    sources=("brake-practice",),
    safety=True,
)
def lever_reach(lever: View, bike: View) -> Outcome | None:
    if bike.hand_span_mm is None:
        return None
    if lever.reach_min_mm is None:
        return unmeasured("unknown", (lever, "reach_min_mm"))
    if lever.reach_min_mm <= bike.hand_span_mm + SLACK:
        return goes("within")
    return no_go("too_far", way_out(lever, "reach_min_mm", "<=", bike.hand_span_mm))
