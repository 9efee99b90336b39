"""A build: what stands on a bike, slot by slot, and the reader and writer of `unkett.build/1`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.errors import InputError
from unkett.core.vocabulary import KINDS, SLOTS

FORMAT = "unkett.build/1"
ABOUT = {
    "customer": 120,
    "frame_number": 60,
    "wish": 2000,
    "complaint": 2000,
}  # texts about a bike, at most so long
ORIGINS = ("measured", "stated", "assumed", "alike")  # where an attribute comes from


def bead_seat_from(end: str) -> tuple[tuple[str, str], ...]:
    """Return the slots and attributes that tell a wheel's bead seat diameter, the first known wins."""
    return ((f"{end}_rim", "bsd_mm"), (f"{end}_tyre", "bsd_mm"))


def tyre_width_from(end: str) -> tuple[tuple[str, str], ...]:
    """Return the slots and attributes that tell a tyre's width, measured before printed."""
    return ((f"{end}_tyre", "width_measured_mm"), (f"{end}_tyre", "width_mm"))


Json = dict[str, Any]


@frozen(kw_only=True)
class Part:
    """A part with its measured attributes. An attribute that is absent is not measured yet.

    `origins` says of attributes where they come from; no rule and no calculation looks at it.
    """

    kind: str
    name: str = ""
    attrs: Mapping[str, Any] = field(factory=dict)
    also: tuple[str, ...] = ()
    extra: Mapping[str, Any] = field(factory=dict)
    origins: Mapping[str, str] = field(factory=dict, eq=False)

    def to_json(self) -> Json:
        out: Json = {"kind": self.kind, "name": self.name}
        if self.also:
            out["also"] = list(self.also)
        origins = {"origins": dict(self.origins)} if self.origins else {}
        return {**out, "attrs": plain(self.attrs), **origins, **self.extra}


@frozen(kw_only=True)
class Settled:
    """A need that was met and that no attribute can show; it lapses when one of its parts changes."""

    rule: str
    slots: tuple[str, ...]
    what: str

    def to_json(self) -> Json:
        return {"rule": self.rule, "slots": list(self.slots), "what": self.what}


@frozen(kw_only=True)
class Build:
    """A bike as it stands or as planned: parts by slot, its use and its rider.

    `about` holds whose it is and what is wished and complained of, in the bike's own words.
    `empty` names the slots that somebody looked at and found nothing fitted in. A slot that is neither
    filled nor empty is not recorded yet. `settled` names the needs of findings that were met.
    """

    name: str = ""
    use: str | None = None
    rider: Mapping[str, float] = field(factory=dict)
    lever_hand: Mapping[str, str] = field(factory=dict)
    parts: Mapping[str, Part] = field(factory=dict)
    empty: frozenset[str] = frozenset()
    about: Mapping[str, str] = field(factory=dict)
    extra: Mapping[str, Any] = field(factory=dict)
    parts_extra: Mapping[str, Any] = field(factory=dict)
    settled: tuple[Settled, ...] = ()

    def filled(self) -> dict[str, Part]:
        """Return every filled slot with its part; a part that fills two slots stands under both."""
        out = dict(self.parts)
        for part in self.parts.values():
            for slot in part.also:
                out[slot] = part
        return out

    def bike_attrs(self) -> dict[str, Any]:
        """Return what rules may ask of the bike as a whole (the vocabulary's BIKE)."""
        hands = {f"{end}_hand": self.lever_hand[end] for end in ("front", "rear") if end in self.lever_hand}
        return {"use": self.use, **self.rider, **hands}

    def with_part(self, slot: str, part: Part | None) -> Build:
        """This build with another part in a slot, or with nothing fitted there (None): then it is known empty.

        A part fitted in two slots leaves both; what it leaves behind is known empty too.
        """
        going = set(part.also if part else ()) | {slot}
        parts = dict(self.parts)
        left = {slot}
        for name, old in self.parts.items():
            if name in going or going & set(old.also):
                left |= {name, *old.also}
                del parts[name]
        if part is not None:
            parts[slot] = part
            left -= going
        settled = tuple(one for one in self.settled if not (left | going) & set(one.slots))
        empty = (self.empty | left) - (going if part else frozenset())
        return evolve(self, parts=parts, empty=empty, settled=settled)

    def to_json(self) -> Json:
        out: Json = {"format": FORMAT, "name": self.name}
        if self.use is not None:
            out["use"] = self.use
        out |= {key: text for key, text in self.about.items() if text}
        if self.rider:
            out["rider"] = dict(self.rider)
        if self.lever_hand:
            out["lever_hand"] = dict(self.lever_hand)
        parts = {slot: part.to_json() for slot, part in self.parts.items()}
        out = {**out, **self.extra, "parts": {**parts, **plain(self.parts_extra)}}
        if self.empty:
            out["empty"] = [slot for slot in SLOTS if slot in self.empty]
        if self.settled:
            out["settled"] = [one.to_json() for one in self.settled]
        return out


def plain(value: Any) -> Any:
    """Return a value as JSON has it: lists for tuples, text keys."""
    if isinstance(value, Mapping):
        return {str(key): plain(item) for key, item in value.items()}
    if isinstance(value, (list, tuple)):
        return [plain(item) for item in value]
    return value


def part_attrs_for(slot: str, part: Part) -> Mapping[str, Any]:
    """Return the part's attributes as the part in `slot`: only those that its kind declares and allows.

    A part in two slots carries the attributes of both kinds; one that only the other kind allows
    counts as not measured here.
    """
    declared = KINDS[SLOTS[slot].kind].attributes
    if SLOTS[slot].kind == part.kind:
        if part.attrs.keys() <= declared.keys():
            return part.attrs
        return {name: value for name, value in part.attrs.items() if name in declared}
    out = {}
    for name, value in part.attrs.items():
        if name in declared:
            try:
                out[name] = declared[name].type.check(value, name)
            except InputError:
                continue
    return out


PIECE = "one_piece"  # beside the readings of a part that fills several slots: the others that it fills


def values_in(slot: str, part: Part) -> Mapping[str, Any]:
    """A part's values in a slot as clauses read them: its attributes, what is derived, what it is one piece with."""
    values = KINDS[SLOTS[slot].kind].read(part_attrs_for(slot, part))
    return {**values, PIECE: part.also} if part.also else values


def one_piece(stand: Iterable[Mapping[str, Any] | None]) -> bool:
    """Return whether one part is what stands in several slots, by their values."""
    pieces = {None if values is None else values.get(PIECE) for values in stand}
    return len(pieces) == 1 and None not in pieces
