"""Springs: the coil on its shock, whether the frame allows one, whether it suits the rider; air, sag."""

from __future__ import annotations

from unkett.core.calc.air_springs import next_pressure
from unkett.core.calc.suspension import Linkage, sag_of_rate, sag_target, wheel_load_n
from unkett.core.errors import InputError
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area

SEAT_FREE_MM, SEAT_MOST_MM = limit_of("spring_seat_free_mm"), limit_of("spring_seat_most_mm")
PROGRESSION_PCT = limit_of("coil_progression_pct")
SHARES = (limit_of("rear_share_low"), limit_of("rear_share_high"))
SAG_NEAR_PCT = limit_of("sag_near_pct")
SPRUNG_BIKE_KG = limit_of("sprung_bike_kg")

SEAT = rule(
    "spring-on-shock",
    title="Spring sits on the shock",
    plain=(
        "The spring's inside is 0 to {spring_seat_free_mm} mm over the shock's seat, with centring rings up to "
        "{spring_seat_most_mm} mm. Its stroke is at least the shock's and the preload; its length lies within the "
        "collar's range."
    ),
    why="A coil that binds stops the shock like a wall; one that wanders on its seat breaks it.",
    area=Area.STEERING,
    joint="shock",
    parts={"spring": "shock_spring", "shock": "shock"},
    messages={
        "sits": "The spring sits on the shock and has stroke enough.",
        "rings": "Spring {play_mm:.1f} mm over the shock's seat: it needs centring rings.",
        "too_tight": "Spring {spring.inner_mm:g} mm inside; the shock's seat is {shock.spring_inner_mm:g} mm.",
        "too_loose": "Spring {play_mm:.1f} mm over the shock's seat: too much even for rings.",
        "binds": "Spring stroke {spring.stroke_mm:g} mm; the shock uses {used_mm:g} mm: its coils bind.",
        "length": "Spring {spring.length_mm:g} mm long; the collar takes {low_mm:g} to {high_mm:g} mm.",
    },
    figures={
        "play_mm": ("spring's inside − seat", "mm"),
        "used_mm": ("stroke + preload", "mm"),
        "low_mm": ("shortest spring", "mm"),
        "high_mm": ("longest spring", "mm"),
    },
    sources=("suspension",),
    safety=True,
)


@SEAT.clause("spring.stroke_mm shock.stroke_mm", may="shock.set_preload_mm")
def binds(spring: View, shock: View) -> Outcome | None:
    used = shock.stroke_mm + (shock.set_preload_mm or 0.0)
    if spring.stroke_mm < used - SLACK:
        return no_go("binds", way_out(spring, "stroke_mm", ">=", used), used_mm=used)
    return None


@SEAT.clause("spring.length_mm shock.spring_length_mm")
def spring_length(spring: View, shock: View) -> Outcome | None:
    low, high = shock.spring_length_mm
    if low - SLACK <= spring.length_mm <= high + SLACK:
        return None
    way = (
        way_out(spring, "length_mm", ">=", low)
        if spring.length_mm < low
        else way_out(spring, "length_mm", "<=", high)
    )
    return no_go("length", way, low_mm=low, high_mm=high)


@SEAT.clause("spring.inner_mm shock.spring_inner_mm")
def on_seat(spring: View, shock: View) -> Outcome:
    play = spring.inner_mm - shock.spring_inner_mm
    if play < -SLACK:
        return no_go("too_tight", way_out(spring, "inner_mm", ">=", shock.spring_inner_mm))
    if play > SEAT_MOST_MM + SLACK:
        return no_go(
            "too_loose", way_out(spring, "inner_mm", "<=", shock.spring_inner_mm + SEAT_MOST_MM), play_mm=play
        )
    if play > SEAT_FREE_MM + SLACK:
        return goes_if("rings", need("centring rings"), play_mm=play)
    return goes("sits")


COIL = rule(
    "coil-allowed",
    title="Frame allows a coil",
    plain=(
        "A coil goes only where the frame's manufacturer lists it. Without a list it is asked; a yoke bends the shaft "
        "of a coil shock, so there it must be listed. A leverage that falls by less than {coil_progression_pct} % "
        "over the stroke lets a coil bottom sooner."
    ),
    why="A coil does not stiffen towards the end, and on a yoke its side load breaks the shaft.",
    area=Area.STEERING,
    joint="shock",
    parts={"frame": "frame", "shock": "shock", "spring": optional("shock_spring")},
    messages={
        "allowed": "The frame allows a coil; its leverage falls by {progression_pct:.0f} %.",
        "sooner": "The frame allows a coil, but its linkage does little against bottoming.",
        "not_listed": "The frame's manufacturer does not list a coil.",
        "yoke": "A yoke bends the shaft of a coil shock; the frame's manufacturer lists no coil.",
        "ask": "Whether this frame takes a coil is its manufacturer's word.",
    },
    figures={"progression_pct": ("fall of the leverage over the stroke", "%")},
    sources=("suspension", "maker-limits"),
    safety=True,
)


@COIL.clause(
    "frame shock",
    may=(
        "frame.shock_springs frame.shock_shaft_end shock.shaft_end frame.leverage_start frame.leverage_end "
        "shock.spring spring.rate_n_mm"
    ),
)
def coil(frame: View, shock: View, spring: View) -> Outcome | None:
    if shock.spring != "coil" and (spring.empty or shock.spring is not None):
        return None
    listed = frame.shock_springs
    if listed is not None and "coil" not in listed:
        return no_go("not_listed", way_out(shock, "spring", "in", list(listed) or ["air"]))
    if listed is None:
        if "yoke" in (frame.shock_shaft_end, shock.shaft_end):
            return no_go("yoke", way_out(shock, "spring", "==", "air"))
        return unmeasured("ask", (frame, "shock_springs"))
    if None in (frame.leverage_start, frame.leverage_end):
        return goes_if("sooner", need("bottoms sooner"))
    falls = 100 * (frame.leverage_start - frame.leverage_end) / frame.leverage_start
    if falls < PROGRESSION_PCT - SLACK:
        return goes_if("sooner", need("bottoms sooner"))
    return goes("allowed", progression_pct=falls)


RIDER = rule(
    "spring-for-rider",
    title="Spring suits the rider",
    plain=(
        "The sag that this spring gives is worked out with {rear_share_low} and {rear_share_high} of rider and bike on "
        "the rear wheel. Both within the target go; where the span comes within {sag_near_pct} points of it, the sag "
        "is measured; else another rate is needed. Share, friction and pivots are guessed: right to one step."
    ),
    why="Too soft a spring sits deep and bottoms; too stiff a one never uses its travel.",
    area=Area.STEERING,
    joint="shock",
    parts={"spring": "shock_spring", "shock": "shock", "frame": "frame", "bike": BIKE},
    messages={
        "suits": "Sag {low:.0f} to {high:.0f} % with this spring; target {from_pct:g} to {to_pct:g} %.",
        "near": "Sag {low:.0f} to {high:.0f} % by calculation; target {from_pct:g} to {to_pct:g} %: measure it.",
        "soft": "Sag {low:.0f} to {high:.0f} % with this spring: too soft; target {from_pct:g} to {to_pct:g} %.",
        "stiff": "Sag {low:.0f} to {high:.0f} % with this spring: too stiff; target {from_pct:g} to {to_pct:g} %.",
        "beyond": "This spring gives this rider no sag within the stroke.",
    },
    figures={
        "low": ("sag with the smaller share", "%"),
        "high": ("sag with the larger share", "%"),
        "from_pct": ("target, from", "%"),
        "to_pct": ("target, to", "%"),
    },
    settings=("sag_school",),
    sources=("suspension",),
)


@RIDER.clause(
    "spring.rate_n_mm shock.stroke_mm frame",
    given="bike.mass_kg",
    asks="frame.wheel_travel_mm",
    may="shock.set_preload_mm frame.leverage_start frame.leverage_end bike.use",
)
def rate(spring: View, shock: View, frame: View, bike: View, settings: Settings) -> Outcome | None:
    linkage = Linkage.known(shock.stroke_mm, frame.wheel_travel_mm, frame.leverage_start, frame.leverage_end)
    if linkage is None:
        require(frame, "wheel_travel_mm")
        return None  # a travel of 0: no suspension to judge
    target = sag_target(
        use=bike.use or "xc", end="rear", full_mm=shock.stroke_mm, school=settings.school("sag_school")
    )
    loads = [wheel_load_n(bike.mass_kg, SPRUNG_BIKE_KG, share) for share in SHARES]
    preload = shock.set_preload_mm or 0.0
    low, high = (sag_of_rate(spring.rate_n_mm, linkage, load, preload) for load in loads)
    figures = {"from_pct": target.low_pct, "to_pct": target.high_pct}
    middle = wheel_load_n(bike.mass_kg, SPRUNG_BIKE_KG, sum(SHARES) / 2)
    aim = target.aim_pct / 100
    right = middle * linkage.at(aim) / (aim * linkage.stroke_mm + preload)
    if low is None or high is None:
        return no_go("beyond", way_out(spring, "rate_n_mm", "==", round(right, 2)))
    figures |= {"low": low, "high": high}
    if low >= target.low_pct - SLACK and high <= target.high_pct + SLACK:
        return goes("suits", **figures)
    if low <= target.high_pct + SAG_NEAR_PCT + SLACK and high >= target.low_pct - SAG_NEAR_PCT - SLACK:
        return goes_if("near", need("measure the sag"), **figures)
    soft = low > target.high_pct
    way = way_out(spring, "rate_n_mm", "==", round(right, 2))
    return no_go("soft" if soft else "stiff", way, **figures)


AIR = rule(
    "air-limit",
    title="Pressure and spacers within what is printed",
    plain="The pressure set is at most what is printed by the valve, the spacers at most what the manufacturer allows.",
    why="Over its limit an air spring bursts its seals, or the can off its body.",
    area=Area.STEERING,
    joint=("fork", "shock"),
    parts=({"part": required("fork")}, {"part": required("shock")}),
    messages={
        "within": "Pressure {part.set_pressure_bar:g} bar; maximum {part.pressure_max_bar:g} bar.",
        "over": "Pressure {part.set_pressure_bar:g} bar; maximum {part.pressure_max_bar:g} bar.",
        "spacers": "{part.set_spacers} volume spacers; the manufacturer allows {part.spacers_max}.",
    },
    sources=("maker-limits", "suspension"),
    safety=True,
)


@AIR.clause("part.pressure_max_bar", given="part.set_pressure_bar")
def pressure(part: View) -> Outcome:
    if part.set_pressure_bar > part.pressure_max_bar + SLACK:
        return no_go("over", way_out(part, "set_pressure_bar", "<=", part.pressure_max_bar))
    return goes("within")


@AIR.clause("part.spacers_max", given="part.set_spacers")
def spacers(part: View) -> Outcome | None:
    if part.set_spacers > part.spacers_max:
        return no_go("spacers", way_out(part, "set_spacers", "<=", part.spacers_max))
    return None


SAG = rule(
    "sag-set",
    title="Sag is in its target",
    plain=(
        "The sag read under the rider lies in the target for what the bike is for, by the workshop's school. Else the "
        "next pressure to try is worked out, never far at once."
    ),
    why="Sag decides how much travel is left for what the wheel falls into and what it meets.",
    area=Area.STEERING,
    joint=("fork", "shock"),
    parts=(
        {"part": required("fork", full_mm="travel_mm"), "bike": BIKE},
        {"part": required("shock", full_mm="stroke_mm"), "bike": BIKE},
    ),
    messages={
        "within": "Sag {sag_pct:.0f} %; target {from_pct:g} to {to_pct:g} %.",
        "firm": "Sag {sag_pct:.0f} %, too firm; target {from_pct:g} to {to_pct:g} %{try_next}.",
        "soft": "Sag {sag_pct:.0f} %, too soft; target {from_pct:g} to {to_pct:g} %{try_next}.",
    },
    figures={
        "sag_pct": ("sag / travel or stroke", "%"),
        "from_pct": ("target, from", "%"),
        "to_pct": ("target, to", "%"),
        "try_next": ("pressure to try next", ""),
        "next_bar": ("pressure to try next", "bar"),
    },
    settings=("sag_school",),
    sources=("suspension",),
)


@SAG.clause(
    "part.full_mm",
    given="part.set_sag_mm",
    may="bike.use part.set_pressure_bar part.pressure_max_bar part.spring",
)
def sag(part: View, bike: View, settings: Settings) -> Outcome:
    end = "front" if part.slot == "fork" else "rear"
    target = sag_target(
        use=bike.use or "xc",
        end=end,
        full_mm=part.full_mm,
        school=settings.school("sag_school"),
        sag_mm=part.set_sag_mm,
    )
    figures = {"sag_pct": target.sag_pct, "from_pct": target.low_pct, "to_pct": target.high_pct}
    if target.reading == "within":
        return goes("within", **figures)
    return goes_if(str(target.reading), need("set the sag"), **figures, **_next(part, target.aim_pct))


def _next(part: View, aim_pct: float) -> dict[str, object]:
    """Return the pressure to try next, in words and as a figure; nothing for a coil or an unread pressure."""
    if part.spring == "coil" or not part.set_pressure_bar:
        return {"try_next": ""}
    try:
        found = next_pressure(
            pressure_bar=part.set_pressure_bar,
            full_mm=part.full_mm,
            sag_mm=part.set_sag_mm,
            target_pct=aim_pct,
            max_bar=part.pressure_max_bar,
        )
    except InputError:
        return {"try_next": ""}  # outside what an air spring is worked out for
    return {"try_next": f": try {found.next_bar:.1f} bar", "next_bar": found.next_bar}
