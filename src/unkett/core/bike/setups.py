"""Set-ups of one bike side by side: what differs between them that a hand has to know before it swaps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import frozen

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import chain_of, gears_of
from unkett.core.build import Build, tyre_width_from
from unkett.core.calc.brakes import rotor_shims
from unkett.core.errors import InputError
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS, describe
from unkett.core.vocabulary.kinds_suspension import SETTINGS
from unkett.core.vocabulary.words import in_sentence

Row = tuple[str, str, Callable[[Facts], Any], Callable[[Mapping[str, Any]], str]]
RIM_BRAKES = ("dual_pivot", "linear_pull", "cantilever", "u_brake", "roller")


@frozen(kw_only=True)
class Compared:
    """One figure of several set-ups: by name (None where it is not measured), and what follows from the difference."""

    title: str
    unit: str
    values: Mapping[str, Any]
    says: str = ""

    @property
    def differs(self) -> bool:
        known = {value for value in self.values.values() if value is not None}
        return len(known) > 1


def _rotor(end: str) -> Callable[[Facts], Any]:
    return lambda facts: (
        facts.get(f"{end}_hub", "rotor_offset_mm") if f"{end}_rotor" in facts.filled else None
    )


def _shims(values: Mapping[str, Any]) -> str:
    """Return the shims between hub and rotor that bring all rotors into one plane. Source: rotor_shims.

    The face is measured from the locknut inwards, the calculation wants it outwards from a common plane.
    """
    known = {name: value for name, value in values.items() if value is not None}
    if len(known) < 2:
        return ""
    inmost = max(known.values())
    try:
        answer = rotor_shims(planes_mm={name: inmost - value for name, value in known.items()})
    except InputError:
        return ""
    shims = [f"{count} of 0.2 mm behind the rotor of {name}" for name, count in answer.shims.items() if count]
    says = f"Shims: {', '.join(shims)}." if shims else "The rotors stand in one plane."
    return f"{says} {answer.caution[:1].upper()}{answer.caution[1:]}." if answer.caution else says


def _track(values: Mapping[str, Any]) -> str:
    known = [value for value in values.values() if value is not None]
    apart = max(known) - min(known) if len(known) > 1 else 0
    return (
        f"The pads move {apart / 2:g} mm on each side: set the cable anew with every swap."
        if apart > 1
        else ""
    )


def _sprocket(values: Mapping[str, Any]) -> str:
    return "Another smallest sprocket: look at the room to the dropout and at the high limit screw."


def _tyre(end: str) -> Callable[[Facts], Any]:
    return lambda facts: facts.first(tyre_width_from(end))


def _rim(end: str) -> Callable[[Facts], Any]:
    braked = RIM_BRAKES
    return lambda facts: (
        facts.get(f"{end}_rim", "outer_width_mm") if facts.get(f"{end}_caliper", "type") in braked else None
    )


def _setting(slot: str, name: str) -> Row:
    """Return the row of what is set on a fork or shock."""
    declared = describe(slot, name)
    title = f"{SLOTS[slot].title}, {in_sentence(declared.title)}"
    return title, declared.unit, lambda facts: facts.get(slot, name), lambda _: ""


def compared(builds: Mapping[str, Build], settings: Settings = DEFAULTS) -> list[Compared]:
    """Return what the set-ups are compared by, those rows of which anything is known."""
    facts = {name: Facts(build) for name, build in builds.items()}
    rows: list[Row] = []
    for end in ("front", "rear"):
        rows += [
            (f"{end.title()} rotor, locknut to its face", "mm", _rotor(end), _shims),
            (f"{end.title()} brake track, over the rim", "mm", _rim(end), _track),
            (f"{end.title()} tyre", "mm", _tyre(end), lambda _: ""),
        ]
    rows += [
        ("Smallest sprocket", "teeth", lambda f: min(f.get("cassette", "teeth") or [None]), _sprocket),
        ("Largest sprocket", "teeth", lambda f: max(f.get("cassette", "teeth") or [None]), lambda _: ""),
        ("Chain", "links", lambda f: f.get("chain", "links"), lambda _: ""),
        ("Chain wanted", "links", lambda f: _window(f.build, settings), lambda _: ""),
        ("Lowest gear", "m", lambda f: _development(f.build, "low_m"), lambda _: ""),
        ("Highest gear", "m", lambda f: _development(f.build, "high_m"), lambda _: ""),
        ("Fork, axle to crown", "mm", lambda f: f.get("fork", "axle_to_crown_mm"), lambda _: ""),
        ("Rider", "kg", lambda f: f.get("bike", "mass_kg"), lambda _: ""),
        *(_setting(slot, name) for slot in ("fork", "shock") for name in SETTINGS),
    ]
    out = []
    for title, unit, read, says in rows:
        values = {name: read(item) for name, item in facts.items()}
        row = Compared(title=title, unit=unit, values=values)
        if any(value is not None for value in values.values()):
            out.append(
                Compared(title=title, unit=unit, values=values, says=says(values) if row.differs else "")
            )
    return out


def _window(build: Build, settings: Settings) -> str | None:
    chain = chain_of(build, settings)
    return chain.shown or None if chain is not None else None


def _development(build: Build, which: str) -> float | None:
    value = getattr(gears_of(build), which)
    return None if value is None else round(value, 2)
