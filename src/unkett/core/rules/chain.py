"""The chain: wide enough for sprockets and rings, long enough for big/big."""

from __future__ import annotations

import functools
from typing import Any

from attrs import evolve

from unkett.core.calc.chain import chain_length as length_of
from unkett.core.calc.chain import sprung_rear
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    goes,
    goes_if,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.settings import Settings
from unkett.core.standards import table
from unkett.core.vocabulary import Area


@functools.cache
def chain_class(speeds: int) -> int:
    """Place of a chain in the classes, 0 the widest. Raises LookupError for no class."""
    for n, row in enumerate(table("chain_widths").rows):
        if speeds in row["speeds"]:
            return n
    raise LookupError(speeds)


def class_name(place: int) -> str:
    return f"{table('chain_widths').rows[place]['code']}-speed"


@rule(
    "chain-width",
    title="Chain runs between the sprockets",
    plain=(
        "A chain of the cassette's own class goes. One class narrower goes, shifting a little slower. "
        "A wider one rubs the neighbouring sprocket; two classes narrower does not sit on the teeth."
    ),
    area=Area.DRIVETRAIN,
    reads={"chain": ("speeds",), "cassette": ("speeds",)},
    messages={
        "same": "A {chain_class} chain on a {cassette_class} cassette.",
        "narrower": "A {chain_class} chain is one class narrower than the {cassette_class} cassette.",
        "too_narrow": "A {chain_class} chain is too narrow for a {cassette_class} cassette.",
        "too_wide": "A {chain_class} chain is too wide for a {cassette_class} cassette: it rubs.",
    },
    figures={"chain_class": "class of the chain", "cassette_class": "class of the cassette"},
    sources=("sprocket-pitches",),
)
def chain_width(chain: View, cassette: View) -> Outcome:
    has, wants = chain_class(chain.speeds), chain_class(cassette.speeds)
    figures = {"chain_class": class_name(has), "cassette_class": class_name(wants)}
    if has == wants:
        return goes("same", **figures)
    if has == wants + 1:
        return goes_if("narrower", need("accept slightly slower shifts"), **figures)
    ways = (way_out(chain, "speeds", "==", cassette.speeds),)
    return no_go("too_wide" if has < wants else "too_narrow", *ways, **figures)


@rule(
    "chain-length",
    title="Chain is long enough for big/big and short enough to stay tight",
    plain=(
        "The lower end of the window is the way round the largest ring and the largest sprocket, to the "
        "next even number, plus one pair of links (more where the derailleur's maker asks). A shorter chain "
        "can tear the derailleur off. The upper end is what the cage can still tension in small/small."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "chain": ("links",),
        "frame": (
            "chainstay_mm",
            optional("chain_growth_mm"),
            optional("wheel_travel_mm"),
            optional("shock_stroke_mm"),
        ),
        "chainrings": ("teeth",),
        "cassette": ("teeth",),
        "rear_derailleur": (optional("capacity_teeth"), optional("extra_links")),
        "shock": at("shock", may_be_empty=True),
    },
    messages={
        "within": "{has} links; the window is {low} to {high}.",
        "lower_end": "{has} links, the shortest that big/big allows; the cage cannot serve small/small.",
        "too_short": "{has} links, {short_by} fewer than big/big needs ({low}).",
        "too_long": "{has} links, {long_by} over the {wanted} recommended; the upper end is {high}.",
        "upper_unknown": "{has} links are enough for big/big ({low}); the cage's capacity is not known.",
        "growth_unknown": "The rear is sprung and how far the stay grows is not measured.",
    },
    figures={
        "has": "links on the bike",
        "low": "lower end: big/big to the next even number + extra links",
        "high": "upper end: lower end + 2 × floor((capacity − needed) / 4)",
        "short_by": "low − has",
        "long_by": "has − wanted",
        "wanted": "lower or upper end, by the workshop's school",
        "big_big_mm": "belt round largest ring and largest sprocket",
        "simple_links": "old simple formula, as a check",
    },
    settings=("chain_length_school",),
    sources=("belt-geometry", "chain-iso", "wrap"),
    safety=True,
)
def chain_length(
    chain: View,
    frame: View,
    chainrings: View,
    cassette: View,
    rear_derailleur: View,
    shock: View,
    settings: Settings,
) -> Outcome:
    sprung = sprung_rear(
        shock=not shock.empty, wheel_travel_mm=frame.wheel_travel_mm, shock_stroke_mm=frame.shock_stroke_mm
    )
    if sprung and frame.chain_growth_mm is None:
        return unmeasured("growth_unknown", (frame, "chain_growth_mm"))
    window = length_of(
        chainstay_mm=frame.chainstay_mm,
        chainrings=chainrings.teeth,
        sprockets=cassette.teeth,
        capacity_teeth=rear_derailleur.capacity_teeth,
        extra_links=rear_derailleur.extra_links or 2,
        growth_mm=frame.chain_growth_mm or 0.0,
    )
    has, low, high = chain.links, window.min_links, window.max_links
    figures: dict[str, Any] = {
        "has": has,
        "low": low,
        "high": high,
        "big_big_mm": window.big_big_mm,
        "simple_links": window.simple_formula_links,
    }
    if has < low:
        return no_go("too_short", way_out(chain, "links", ">=", low), short_by=low - has, **figures)
    if high is None:
        return goes_if("upper_unknown", need("check small/small: the chain must not hang"), **figures)
    if has > max(low, high):
        school = settings.school("chain_length_school")
        wanted = max(low, high) if school == "upper" else low
        take_out = need("take links out", links=has - wanted, to_links=wanted)
        outcome = goes_if("too_long", take_out, long_by=has - wanted, wanted=wanted, **figures)
        return evolve(outcome, school=school)
    return goes("lower_end", **figures) if window.window_empty else goes("within", **figures)
