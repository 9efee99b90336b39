"""The chain: wide enough for sprockets and rings, long enough for big/big, straight enough."""

from __future__ import annotations

from typing import Any

from attrs import evolve

from unkett.core.calc.chain import (
    belt_length,
    chain_class,
    class_title,
    lower_end,
    single_wide,
    sprung_rear,
)
from unkett.core.calc.chain import chain_length as length_of
from unkett.core.calc.gears import CHAIN_PITCH_MM, pitch_radius
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, unmeasured, way_out
from unkett.core.rules.roles import optional, required
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area
from unkett.core.vocabulary.words import a

SPRUNG_USES = ("xc", "trail", "enduro", "downhill")
DROPOUT_LINKS = limit_of("dropout_links")
LEAST_RING, LEAST_SPROCKET = int(limit_of("smallest_ring_teeth")), int(limit_of("smallest_sprocket_teeth"))
TOOTH_PLAY_LEAST_MM = limit_of("tooth_play_least_mm")
TOOTH_PLAY_MOST_MM = limit_of("tooth_play_most_mm")
ONE_CHAIN_LINKS = int(limit_of("one_chain_links"))
NARROW_WIDE = range(int(limit_of("narrow_wide_least_speeds")), int(limit_of("narrow_wide_most_speeds")) + 1)

WIDTH = rule(
    "chain-width",
    title="Chain runs between the sprockets",
    plain=(
        "A chain of the cassette's own class goes. One class narrower goes, shifting a little slower. A wider "
        "one rubs the neighbouring sprocket; two classes narrower does not sit on the teeth. A 3/32 in chain "
        "does not go over 1/8 in teeth; a 1/8 in chain runs on a lone 3/32 in cog. A tooth that is measured must have "
        "{tooth_play_least_mm} to {tooth_play_most_mm} mm of play between the chain's inner plates; on more than one "
        "sprocket the class counts as well."
    ),
    why="A chain that is too wide rubs its neighbours and catches on them; one that is too narrow rides up and slips.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={"chain": "chain", "cassette": "cassette"},
    messages={
        "same": "{A_chain} chain on {a_cassette} cassette.",
        "narrower": "{A_chain} chain is one class narrower than {a_cassette} cassette needs.",
        "too_narrow": "{A_chain} chain is too narrow for {a_cassette} cassette.",
        "too_wide": "{A_chain} chain is too wide for {a_cassette} cassette: it rubs.",
        "lone_cog": "A 1/8 in chain runs on a lone 3/32 in cog, with some play.",
        "eighth": "Teeth 1/8 in wide; a 3/32 in chain does not fit.",
        "tooth_wide": "Tooth {cassette.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside: does not fit.",
        "tooth_play": "Tooth {cassette.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside: some play.",
        "tooth_fits": "Tooth {cassette.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside.",
    },
    figures={"A_chain": ("class of the chain", ""), "a_cassette": ("class of the cassette", "")},
    sources=("sprocket-pitches",),
)


def _classes(chain: int, other: int) -> dict[str, str]:
    has = a(class_title(chain))
    return {"A_chain": has[:1].upper() + has[1:], "a_cassette": a(class_title(other))}


def _tooth(tooth_mm: float, chain: View, other: View, *, at_the: str) -> Outcome:
    """Return what the tooth's play between the chain's inner plates means."""
    play = chain.inner_width_mm - tooth_mm
    if play < TOOTH_PLAY_LEAST_MM - SLACK:
        return no_go(
            "tooth_wide", way_out(other, "tooth_mm", "<=", chain.inner_width_mm - TOOTH_PLAY_LEAST_MM)
        )
    if play <= TOOTH_PLAY_MOST_MM + SLACK:
        return goes("tooth_fits")
    return goes_if("tooth_play", need(f"a little play at the {at_the}"))


@WIDTH.clause(given="chain.inner_width_mm cassette.tooth_mm", may="cassette.sprockets")
def cassette_tooth(chain: View, cassette: View) -> Outcome:
    return _tooth(cassette.tooth_mm, chain, cassette, at_the="cog")


@WIDTH.clause("chain.speeds cassette.speeds", may="cassette.sprockets cassette.tooth_mm chain.inner_width_mm")
def width(chain: View, cassette: View) -> Outcome | None:
    if cassette.sprockets == 1 and None not in (cassette.tooth_mm, chain.inner_width_mm):
        return None  # the measured tooth has said it
    has, wants = chain_class(chain.speeds), chain_class(cassette.speeds)
    figures = _classes(has, wants)
    ways = (way_out(chain, "speeds", "==", cassette.speeds),)
    if has == wants:
        return goes("same", **figures)
    if single_wide(wants):
        return no_go("eighth", *ways, **figures)
    if single_wide(has) and wants == has + 1 and cassette.sprockets == 1:
        return goes_if("lone_cog", need("a little play at the cog"), **figures)
    if has == wants + 1:
        return goes_if("narrower", need("slightly slower shifts"), **figures)
    return no_go("too_wide" if has < wants else "too_narrow", *ways, **figures)


RING_CHAIN = rule(
    "ring-chain",
    title="Chain sits on the rings",
    plain=(
        "Where the rings say which chains they take: the chain's class must be among them, or one class narrower. "
        "Single narrow-wide rings take {narrow_wide_least_speeds} to {narrow_wide_most_speeds}. A 3/32 in chain does "
        "not go over 1/8 in teeth; a 1/8 in chain runs on a lone 3/32 in ring. A measured tooth must have play "
        "between the chain's inner plates."
    ),
    why="A chain that does not seat between the teeth climbs out and drops under load.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={"chain": "chain", "rings": required("chainrings")},
    messages={
        "takes": "The rings take {a_chain} chain.",
        "narrower": "{A_chain} chain is one class narrower than the rings are made for.",
        "lone_ring": "A 1/8 in chain runs on a lone 3/32 in ring, with some play.",
        "other": "The rings do not take {a_chain} chain.",
        "tooth_wide": "Tooth {rings.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside: does not fit.",
        "tooth_play": "Tooth {rings.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside: some play.",
        "tooth_fits": "Tooth {rings.tooth_mm:g} mm; chain {chain.inner_width_mm:g} mm inside.",
    },
    figures={"a_chain": ("class of the chain", ""), "A_chain": ("class of the chain", "")},
    sources=("sprocket-pitches",),
)


@RING_CHAIN.clause(given="chain.inner_width_mm rings.tooth_mm")
def ring_tooth(chain: View, rings: View) -> Outcome:
    return _tooth(rings.tooth_mm, chain, rings, at_the="ring")


@RING_CHAIN.clause(
    "chain.speeds", may="rings.speeds rings.tooth_profile rings.count rings.tooth_mm chain.inner_width_mm"
)
def ring_chain(chain: View, rings: View) -> Outcome | None:
    takes = rings.speeds
    if rings.count == 1 and None not in (rings.tooth_mm, chain.inner_width_mm):
        return None  # the measured tooth has said it
    if takes is None and rings.tooth_profile == "narrow_wide" and rings.count == 1:
        takes = tuple(NARROW_WIDE)
    if takes is None:
        return None
    has, classes = chain_class(chain.speeds), {chain_class(attr) for attr in takes}
    says = a(class_title(has))
    figures = {"a_chain": says, "A_chain": says[:1].upper() + says[1:]}
    if has in classes:
        return goes("takes", **figures)
    if has - 1 in classes and not single_wide(has - 1):
        return goes_if("narrower", need("a little more noise"), **figures)
    if single_wide(has) and has + 1 in classes and rings.count == 1:
        return goes_if("lone_ring", need("a little play at the ring"), **figures)
    return no_go("other", way_out(rings, "speeds", "has", chain.speeds), **figures)


JOINTS = rule(
    "chain-joints",
    title="Chain is of one piece",
    plain=(
        "A chain is closed in one place. Pieces joined to a longer chain are accepted on a plain bike; a cargo bike, "
        "a tandem or a motor tears joints, so up to {one_chain_links} links theirs is one piece. A longer one is "
        "joined of new pieces of one sort, since none is sold that long; the strict school buys it off the reel."
    ),
    why="Each place where a chain was opened is its weakest; it parts there when the rider stands on the pedals.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={"chain": "chain", "motor": optional("motor"), "bike": required("bike")},
    messages={
        "joined": "The chain is closed in {chain.joints} places.",
        "loaded": "The chain is closed in {chain.joints} places: under this load it is one piece.",
        "too_long_for_one": "{chain.links} links are sold in no one piece: all pieces are new and of one sort.",
    },
    sources=("chain-iso",),
    safety=True,
)
LOADED_USES = ("cargo", "tandem")


@JOINTS.clause(given="chain.joints", asks="bike.use chain.links motor", silences=True)
def joined(chain: View, motor: View, bike: View) -> Outcome:
    if chain.joints <= 1:
        return SILENT
    if motor.there or require(bike).use in LOADED_USES or require(motor).there:
        if require(chain).links > ONE_CHAIN_LINKS:
            return goes_if("too_long_for_one", need("chain joined of new pieces of one sort"))
        return no_go("loaded", way_out(chain, "joints", "<=", 1))
    return goes_if("joined", need("a chain closed in more than one place"))


LENGTH = rule(
    "chain-length",
    title="Chain is long enough for big/big and short enough to stay tight",
    plain=(
        "The lower end of the window is the way round the largest ring and the largest sprocket, to the "
        "next even number, plus one pair of links (more where the derailleur's maker asks). A shorter chain "
        "can tear the derailleur off. The upper end is what the cage can still tension in small/small. A sprung "
        "rear is measured where its stay is longest. An odd number of links is counted again."
    ),
    why="Too short and big/big tears the derailleur off; too long and the chain hangs, slaps and drops.",
    area=Area.DRIVETRAIN,
    joint="chain",
    parts={
        "chain": "chain",
        "frame": "frame",
        "rings": required("chainrings"),
        "cassette": "cassette",
        "derailleur": required("rear_derailleur"),
        "shock": optional("shock"),
        "bike": required("bike"),
    },
    messages={
        "within": "Chain {has} links; {low} to {high} fit.",
        "lower_end": "Chain {has} links, the minimum for big/big; slack in small/small.",
        "too_short": "Chain {has} links; big/big needs {low}.",
        "never_round": "Chain {has} links; minimum {low}, even in the smallest gear.",
        "too_long": "Chain {has} links; recommended {wanted}, maximum {high}.",
        "upper_unknown": "Chain {has} links, enough for big/big ({low}). Not recorded: the derailleur's capacity.",
        "growth_unknown": "Not recorded: how much the chainstay grows with the suspension.",
        "sprung_unknown": "Not recorded: rear suspension, and how much its chainstay grows.",
        "odd": "{has} links is odd: recount.",
    },
    figures={
        "has": ("links on the bike", ""),
        "low": ("lower end: big/big to the next even number + extra links", ""),
        "high": ("upper end: lower end + 2 × floor((capacity − needed) / 4)", ""),
        "short_by": ("low − has", ""),
        "long_by": ("has − wanted", ""),
        "wanted": ("lower or upper end, by the workshop's school", ""),
        "big_big_mm": ("belt round largest ring and largest sprocket", "mm"),
        "simple_links": ("old simple formula, as a check", "links"),
    },
    settings=("chain_length_school",),
    sources=("belt-geometry", "chain-iso", "wrap"),
    safety=True,
)
_BIG = "rings.largest_teeth cassette.largest_teeth"


@LENGTH.clause("chain.links", may=f"{_BIG} frame.chainstay_mm")
def never_round(chain: View, rings: View, cassette: View, frame: View) -> Outcome | None:
    """Shorter than the way round the big wheels at the least distance they can have, whatever is missing."""
    ring, cog = rings.largest_teeth or LEAST_RING, cassette.largest_teeth or LEAST_SPROCKET
    touching = pitch_radius(ring) + pitch_radius(cog)
    stay = frame.chainstay_mm or touching
    if stay < touching:
        return None
    belt = belt_length(centre_mm=stay, ring=ring, sprocket=cog) / CHAIN_PITCH_MM
    if chain.links >= belt - DROPOUT_LINKS:
        return None
    least = 2 * -(-belt // 2)
    return no_go("never_round", way_out(chain, "links", ">=", int(least)), has=chain.links, low=int(least))


@LENGTH.clause(
    f"chain.links frame.chainstay_mm {_BIG} derailleur", may="derailleur.extra_links frame.chain_growth_mm"
)
def short(chain: View, frame: View, rings: View, cassette: View, derailleur: View) -> Outcome | None:
    """Too short for big/big, sprung or not: growth only makes it worse."""
    ring, cog = rings.largest_teeth, cassette.largest_teeth
    if frame.chainstay_mm <= pitch_radius(ring) + pitch_radius(cog):
        return None
    big = belt_length(centre_mm=frame.chainstay_mm + (frame.chain_growth_mm or 0.0), ring=ring, sprocket=cog)
    low = lower_end(big, derailleur.extra_links or 2)
    if chain.links + chain.links % 2 >= low:
        return None
    way = way_out(chain, "links", ">=", low)
    return no_go("too_short", way, has=chain.links, low=low, short_by=low - chain.links)


@LENGTH.clause("chain.links")
def odd(chain: View) -> Outcome | None:
    return unmeasured("odd", (chain, "links"), has=chain.links) if chain.links % 2 else None


@LENGTH.clause(
    may="frame.chain_growth_mm frame.wheel_travel_mm frame.shock_stroke_mm bike.use shock.stroke_mm"
)
def growth(frame: View, bike: View, shock: View) -> Outcome | None:
    if frame.chain_growth_mm is not None:
        return None
    asked = (frame, "chain_growth_mm")
    if sprung_rear(
        shock=not shock.empty,
        wheel_travel_mm=frame.wheel_travel_mm,
        shock_stroke_mm=frame.shock_stroke_mm,
    ):
        return unmeasured("growth_unknown", asked)
    if bike.use in SPRUNG_USES and not shock.recorded:
        return unmeasured("sprung_unknown", asked, (shock, None))
    return None


@LENGTH.clause(
    "chain.links frame.chainstay_mm rings.teeth cassette.teeth derailleur",
    may="derailleur.capacity_teeth derailleur.extra_links frame.chain_growth_mm",
)
def window(
    chain: View, frame: View, rings: View, cassette: View, derailleur: View, settings: Settings
) -> Outcome | None:
    found = length_of(
        chainstay_mm=frame.chainstay_mm,
        chainrings=rings.teeth,
        sprockets=cassette.teeth,
        capacity_teeth=derailleur.capacity_teeth,
        extra_links=derailleur.extra_links or 2,
        growth_mm=frame.chain_growth_mm or 0.0,
    )
    has, low, high = chain.links, found.min_links, found.max_links
    figures: dict[str, Any] = {
        "has": has,
        "low": low,
        "high": high,
        "big_big_mm": found.big_big_mm,
        "simple_links": found.simple_formula_links,
    }
    if has < low:
        return None  # said already
    if high is None:
        return goes_if("upper_unknown", need("hang it on small/small and look"), **figures)
    if has > max(low, high):
        school = settings.school("chain_length_school")
        wanted = max(low, high) if school == "upper" else low
        take_out = need("take links out", links=has - wanted, to_links=wanted)
        outcome = goes_if("too_long", take_out, long_by=has - wanted, wanted=wanted, **figures)
        return evolve(outcome, school=school)
    return goes("lower_end", **figures) if found.window_empty else goes("within", **figures)
