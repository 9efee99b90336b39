"""Facts of the work: what holds of a bike on the stand, as steps require it, make it true or end it.

A fact is `on:SLOT` (the part is on its place; two-sided parts have `on:SLOT:SIDE`), `in:END` (a wheel is in),
`joined:LINE` (a line is joined at both ends) or a code of the table `work_facts`.
"""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import frozen

from unkett.core.build import PIECE, Build
from unkett.core.errors import CoreError
from unkett.core.standards import table
from unkett.core.standards.columns import refers
from unkett.core.vocabulary import SLOTS
from unkett.core.vocabulary.words import in_sentence

ENDS = ("front", "rear")
SIDES: Mapping[str, tuple[str, str]] = {"pedals": ("right", "left"), "bottom_bracket": ("drive", "other")}
THREADED_SHELLS = ("bsa", "t47", "swiss", "italian", "french")


@frozen(kw_only=True)
class Literal:
    """A fact that must hold, or must not, on bikes that pass a test."""

    fact: str
    holds: bool = True
    test: str = ""

    def __str__(self) -> str:
        return f"{'' if self.holds else '!'}{self.fact}"


@functools.cache
def literals(texts: tuple[str, ...], end: str = "") -> tuple[Literal, ...]:
    """Literals as the tables write them: `!in:{end}`, `on:fork if fork.travel_mm`, `rear>!on:cassette`."""
    kept = [text for text in texts if ">" not in text or text.startswith(f"{end}>")]
    return tuple(literal(text.rpartition(">")[2], end) for text in kept)


@functools.cache
def literal(text: str, end: str = "") -> Literal:
    """One literal of a table's cell, for one end of the bike."""
    fact, _, test = text.replace("{end}", end).partition(" if ")
    return Literal(fact=fact.removeprefix("!"), holds=not fact.startswith("!"), test=test)


def facts_of_slot(slot: str, build: Build) -> tuple[str, ...]:
    """Return what being on means for the part in a slot: one fact, or one for each of its two sides."""
    if slot == "bottom_bracket":
        part = build.filled().get(slot)
        if part is None or part.attrs.get("shell") not in THREADED_SHELLS:
            return (f"on:{slot}",)
    return tuple(f"on:{slot}:{side}" for side in SIDES[slot]) if slot in SIDES else (f"on:{slot}",)


@functools.cache
def settings() -> Mapping[str, str]:
    """Return by code what each fact of the table `work_facts` says, both ends of a bike spelled out."""
    return {
        row["code"].replace("{end}", end): row["title"].replace("{end}", end)
        for row in table("work_facts").rows
        for end in (ENDS if "{end}" in row["code"] else ("",))
    }


@functools.cache
def starts_false() -> frozenset[str]:
    """Return the facts that hold only once a step made them true."""
    return frozenset(
        row["code"].replace("{end}", end)
        for row in table("work_facts").rows
        if row.get("starts_false")
        for end in (ENDS if "{end}" in row["code"] else ("",))
    )


def says(one: Literal) -> str:
    """Return a literal in words, such as `rear wheel out`."""
    sort, _, name = one.fact.partition(":")
    slot, _, side = name.partition(":")
    match sort:
        case "on":
            title = in_sentence(SLOTS[slot].title)
            if slot == "pedals" and side:
                title = f"{side} pedal"
            elif side:
                title = f"{title} cup, {side} side,"
            return f"{title} {'on' if one.holds else 'off'}"
        case "in":
            return f"{name} wheel {'in' if one.holds else 'out'}"
        case "joined":
            return f"{in_sentence(SLOTS[name].title)} {'joined' if one.holds else 'free'}"
    title = settings()[one.fact]
    return title if one.holds else f"not yet: {title}"


def holds(test: str, build: Build) -> bool:
    """Return whether a bike passes a test of a row.

    `slot` is fitted, `!slot` is not; `slot.attr` is known and not nothing, is one of (`=a|b`), none of (`!=a|b`) or
    begins with one of (`^=A|B`). `slot.one_piece` holds
    the other slots that its part fills, such as a ready-built wheel.
    """
    filled = build.filled()
    if test.startswith("!"):
        return test[1:] not in filled
    sign = next((sign for sign in ("!=", "^=", "=") if sign in test), "")
    name, _, codes = test.partition(sign) if sign else (test, "", "")
    slot, _, attr = name.partition(".")
    part = filled.get(slot)
    if not attr:
        return part is not None
    value: Any = None if part is None else part.also if attr == PIECE else part.attrs.get(attr)
    if not sign:
        return value not in (None, False, 0)
    listed = value if isinstance(value, (list, tuple)) else [value]
    said = {"" if one is None else str(one).lower() if isinstance(one, bool) else str(one) for one in listed}
    wanted = codes.split("|")
    if sign == "^=":
        return any(one.startswith(tuple(wanted)) for one in said)
    return bool(said & set(wanted)) == (sign == "=")


def _is_test(text: str) -> bool:
    name = text.removeprefix("!").partition("!=")[0].partition("^=")[0].partition("=")[0]
    name = name.replace("{end}", "rear").partition(" if ")[0]
    return name.partition(".")[0] in SLOTS


def _is_fact(text: str) -> bool:
    try:
        one = literal(text.removeprefix("rear>"), "rear")
        says(one)
    except (KeyError, CoreError):
        return False
    named = not one.fact.startswith("in:") or one.fact.removeprefix("in:") in ENDS
    return named and (not one.test or _is_test(one.test))


refers("test", _is_test)
refers("fact", _is_fact)
