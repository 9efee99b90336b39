"""The reader of `unkett.build/1`: JSON or Python values to a build, with every fault by its path."""

from __future__ import annotations

import functools
import json
import math
from collections.abc import Iterable, Mapping
from typing import Any

from unkett.core.build import ABOUT, FORMAT, ORIGINS, Build, Json, Part, Settled
from unkett.core.errors import Fault, InputError, bad, listed, nearest, shown
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, enums
from unkett.core.vocabulary.types import AttributeType

BUILD_KEYS = ("format", "name", "use", *ABOUT, "rider", "lever_hand", "parts", "empty", "settled")


PART_KEYS = ("kind", "name", "also", "attrs", "origins")


RIDER_KEYS = ("mass_kg", "load_kg", "hand_span_mm", "saddle_height_mm")


NAME_MAX = 200


FAULTS_MAX = 50


DEPTH_MAX = 60  # objects in objects: a build needs eight


class _Doubled(dict[str, Any]):
    """A JSON object in which a key stood twice; the reader names it with its path."""

    key = ""


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out = dict(pairs)
    if len(out) == len(pairs):
        return out
    seen: set[str] = set()
    doubled = _Doubled(out)
    for key, _ in pairs:
        if key in seen:
            doubled.key = key
        seen.add(key)
    return doubled


def parse_json(text: str | bytes) -> Any:
    """JSON from text: UTF-8, no key twice. Raises InputError that says where."""
    try:
        if isinstance(text, bytes):
            text = text.decode("utf-8-sig")
        value = json.loads(text, object_pairs_hook=_object)
    except UnicodeDecodeError as error:
        raise bad("", f"not UTF-8 text (byte {error.start})") from error
    except json.JSONDecodeError as error:
        raise bad("", f"not JSON: line {error.lineno}, column {error.colno}: {error.msg}") from error
    except ValueError as error:
        raise bad("", "not JSON: a number is too long to read") from error
    except RecursionError as error:
        raise bad("", "nested too deeply to read") from error
    faults = list(_unkeepable(value, ""))
    if faults:
        raise InputError(faults[:FAULTS_MAX])
    return value


def _unkeepable(value: Any, path: str, depth: int = 0) -> Iterable[Fault]:
    """Keys that stand twice, numbers that are none, nesting beyond reason and text that no database can hold."""
    if depth > DEPTH_MAX:
        yield Fault(path=f"{path[:80]}…", says=f"nested too deeply: at most {DEPTH_MAX} levels are read")
    elif isinstance(value, dict):
        if isinstance(value, _Doubled):
            yield Fault(path=f"{path}.{value.key}".lstrip("."), says="this key stands twice")
        for key, item in value.items():
            yield from _unkeepable(key, path)
            yield from _unkeepable(item, f"{path}.{key}".lstrip("."), depth + 1)
    elif isinstance(value, list):
        for n, item in enumerate(value):
            yield from _unkeepable(item, f"{path}[{n}]", depth + 1)
    elif isinstance(value, float) and not math.isfinite(value):
        yield Fault(path=path, says=f"{value} given; a finite number allowed")
    elif isinstance(value, str) and not storable(value):
        yield Fault(path=ascii(path)[1:-1], says="text with a character that cannot be stored")


def storable(text: str) -> bool:
    """Return whether text can be kept: no NUL, no half of a surrogate pair."""
    return "\x00" not in text and not any("\ud800" <= char <= "\udfff" for char in text)


@functools.cache
def _declared(kinds: tuple[str, ...]) -> dict[str, list[AttributeType]]:
    """Return the types that an attribute of a part of these kinds may have, by name."""
    declared: dict[str, list[AttributeType]] = {}
    for kind in kinds:
        for name, attribute in KINDS[kind].attributes.items():
            declared.setdefault(name, []).append(attribute.type)
    return declared


class Reader:
    """Reads one build and gathers every fault with its path."""

    def __init__(self) -> None:
        self.faults: list[Fault] = []

    def fault(self, path: str, says: str) -> None:
        self.faults.append(Fault(path=path, says=says))

    def mapping(self, value: Any, path: str, keys: Iterable[str]) -> tuple[Json, Json]:
        """Return the known and the x_ keys of an object; null counts as absent."""
        if value is None:
            return {}, {}
        if not isinstance(value, Mapping):
            self.fault(path, f"{shown(value)} given; an object allowed")
            return {}, {}
        allowed = list(keys)
        known: Json = {}
        extra: Json = {}
        for key, item in value.items():
            if str(key).startswith("x_"):
                extra[str(key)] = item
            elif key not in allowed:
                where = f"{path}.{key}".lstrip(".")
                self.fault(where, f"unknown; {listed(allowed)} allowed{nearest(key, allowed)}")
            elif item is not None:
                known[str(key)] = item
        return known, extra

    def text(self, value: Any, path: str, most: int = NAME_MAX) -> str:
        if not isinstance(value, str) or len(value) > most or not storable(value):
            self.fault(path, f"{shown(value)} given; text of at most {most} characters allowed")
            return ""
        return value

    def build(self, value: Any) -> Build:
        if not isinstance(value, Mapping):
            self.fault("", f"{shown(value)} given; a build ({FORMAT}) is an object")
            return Build()
        known, extra = self.mapping(value, "", BUILD_KEYS)
        if known.get("format", FORMAT) != FORMAT:
            self.fault("format", f'{shown(known["format"])} given; "{FORMAT}" allowed')
        if "parts" not in known:
            self.fault("parts", "missing; an object of slots allowed")
        name = self.text(known.get("name", ""), "name")
        use = self.attribute(known, "use", "use")
        rider = self.rider(known.get("rider"))
        lever_hand = self.hands(known.get("lever_hand"))
        parts, parts_extra = self.parts(known.get("parts"))
        return Build(
            name=name,
            use=use,
            rider=rider,
            lever_hand=lever_hand,
            parts=parts,
            empty=self.empty(known.get("empty"), parts),
            about={key: self.text(known[key], key, most) for key, most in ABOUT.items() if key in known},
            extra=extra,
            parts_extra=parts_extra,
            settled=self.settled(known.get("settled")),
        )

    def settled(self, value: Any) -> tuple[Settled, ...]:
        """The needs that were met: a rule, its slots and what was needed."""
        if value is None:
            return ()
        if not isinstance(value, (list, tuple)):
            self.fault("settled", f"{shown(value)} given; a list of rule, slots and what allowed")
            return ()
        found = []
        for n, given in enumerate(value):
            path = f"settled[{n}]"
            known, _ = self.mapping(given, path, ("rule", "slots", "what"))
            slots = known.get("slots")
            if not isinstance(slots, (list, tuple)) or not all(
                slot in SLOTS or slot == "bike" for slot in slots
            ):
                self.fault(f"{path}.slots", f"{shown(slots)} given; a list of slots allowed")
                continue
            rule, what = (self.text(known.get(key), f"{path}.{key}") for key in ("rule", "what"))
            found.append(Settled(rule=rule, slots=tuple(slots), what=what))
        return tuple(found)

    def empty(self, value: Any, parts: Mapping[str, Part]) -> frozenset[str]:
        if value is None:
            return frozenset()
        if not isinstance(value, (list, tuple)):
            self.fault("empty", f"{shown(value)} given; a list of slots allowed")
            return frozenset()
        taken = {slot: name for name, part in parts.items() for slot in (name, *part.also)}
        seen: set[str] = set()
        for n, slot in enumerate(value):
            if not isinstance(slot, str) or slot not in SLOTS:
                says = f"{shown(slot)} given; one of {listed(SLOTS)} allowed{nearest(slot, SLOTS)}"
                self.fault(f"empty[{n}]", says)
            elif slot in taken:
                self.fault(f"empty[{n}]", f'"{slot}" is filled: a part stands in parts.{taken[slot]}')
            elif slot in seen:
                self.fault(f"empty[{n}]", f'"{slot}" stands twice')
            else:
                seen.add(slot)
        return frozenset(seen)

    def attribute(self, known: Json, key: str, path: str) -> Any:
        if key not in known:
            return None
        try:
            return BIKE.attributes[key].type.check(known[key], path)
        except InputError as error:
            self.faults.extend(error.faults)
            return None

    def rider(self, value: Any) -> Json:
        known, extra = self.mapping(value, "rider", RIDER_KEYS)
        read = {key: self.attribute(known, key, f"rider.{key}") for key in known}
        return {key: item for key, item in {**read, **extra}.items() if item is not None}

    def hands(self, value: Any) -> dict[str, str]:
        known, extra = self.mapping(value, "lever_hand", ("front", "rear"))
        out = dict(extra)
        for end, hand in known.items():
            if not isinstance(hand, str) or hand not in enums.HAND.codes:
                self.fault(f"lever_hand.{end}", f"{shown(hand)} given; one of left, right allowed")
            else:
                out[end] = hand
        return out

    def parts(self, value: Any) -> tuple[dict[str, Part], Json]:
        known, extra = self.mapping(value, "parts", SLOTS)
        parts: dict[str, Part] = {}
        taken: dict[str, str] = {slot: slot for slot in known}
        for slot, given in known.items():
            part = self.part(given, slot, f"parts.{slot}")
            if part is None:
                continue
            for n, other in enumerate(part.also):
                if other in taken:
                    self.fault(f"parts.{slot}.also[{n}]", f'the slot "{other}" is filled twice')
                taken[other] = slot
            parts[slot] = part
        return parts, extra

    def part(self, given: Any, slot: str, path: str) -> Part | None:
        if not isinstance(given, Mapping):
            self.fault(path, f"{shown(given)} given; an object allowed")
            return None
        known, extra = self.mapping(given, path, PART_KEYS)
        kind = SLOTS[slot].kind
        given_kind = known.get("kind", kind)
        if given_kind != kind:
            self.fault(f"{path}.kind", f'{shown(given_kind)} given; "{kind}" allowed in this slot')
        also = self.also(known.get("also", []), path)
        kinds = [kind, *(SLOTS[name].kind for name in also)]
        attrs = self.attrs(known.get("attrs", {}), kinds, f"{path}.attrs")
        return Part(
            kind=kind,
            name=self.text(known.get("name", ""), f"{path}.name"),
            attrs=attrs,
            also=tuple(also),
            extra=extra,
            origins=self.origins(known.get("origins"), attrs, f"{path}.origins"),
        )

    def origins(self, value: Any, attrs: Mapping[str, Any], path: str) -> dict[str, str]:
        known, _ = self.mapping(value, path, attrs)
        for name, origin in known.items():
            if origin not in ORIGINS:
                says = f"{shown(origin)} given; one of {listed(ORIGINS)} allowed{nearest(origin, ORIGINS)}"
                self.fault(f"{path}.{name}", says)
        return {name: origin for name, origin in known.items() if origin in ORIGINS}

    def also(self, value: Any, path: str) -> list[str]:
        if not isinstance(value, (list, tuple)):
            self.fault(f"{path}.also", f"{shown(value)} given; a list of slots allowed")
            return []
        out = []
        for n, name in enumerate(value):
            if not isinstance(name, str) or name not in SLOTS:
                says = f"{shown(name)} given; one of {listed(SLOTS)} allowed{nearest(name, SLOTS)}"
                self.fault(f"{path}.also[{n}]", says)
            else:
                out.append(name)
        return out

    def attrs(self, value: Any, kinds: list[str], path: str) -> Json:
        declared = _declared(tuple(dict.fromkeys(kinds)))
        known, extra = self.mapping(value, path, declared)
        out: Json = {}
        for name, item in known.items():
            error: InputError | None = None
            for kind_type in declared[name]:
                try:
                    out[name] = kind_type.check(item, f"{path}.{name}")
                    break
                except InputError as caught:
                    error = error or caught
            else:
                if error:
                    self.faults.extend(error.faults)
        for fault in contradictions(kinds, out):
            self.fault(f"{path}.{fault.path}", fault.says)
        return {**out, **extra}


def contradictions(kinds: Iterable[str], attrs: Mapping[str, Any]) -> list[Fault]:
    """Return what a part's attributes say against each other, each by the attribute's name."""
    speeds, teeth = attrs.get("speeds"), attrs.get("teeth")
    if "cassette" in kinds and isinstance(speeds, int) and teeth and len(teeth) > speeds:
        return [
            Fault(path="teeth", says=f"{len(teeth)} sprockets given; at most {speeds}, its speeds, allowed")
        ]
    return []


def build_from(value: Any) -> Build:
    """Return a build from parsed JSON. Raises InputError with every fault and its path."""
    reader = Reader()
    build = reader.build(value)
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return build


def read_build(text: str | bytes) -> Build:
    """Return a build from JSON text. Raises InputError with every fault and its path."""
    return build_from(parse_json(text))


def attrs_from(value: Any, kind: str, path: str = "attrs", also: Iterable[str] = ()) -> Json:
    """A part's attributes from parsed JSON, checked for its kind and the slots that it fills too. Raises InputError."""
    reader = Reader()
    attrs = reader.attrs(value, [kind, *(SLOTS[slot].kind for slot in also)], path)
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return attrs


def stored_part(
    kind: str,
    name: str,
    attrs: Mapping[str, Any],
    also: Iterable[str] = (),
    extra: Mapping[str, Any] | None = None,
) -> Part:
    """Return a part from what a store kept. An attribute that no longer reads counts as not measured."""
    slots = tuple(also)
    clean = Reader().attrs(attrs, [kind, *(SLOTS[slot].kind for slot in slots)], "attrs")
    return Part(kind=kind, name=name, attrs=clean, also=slots, extra=extra or {})


def new_part(kind: str, name: str, attrs: Mapping[str, Any], also: Iterable[str] = ()) -> Part:
    """Return a catalogue entry as the new part that it becomes: where its kind can say so, never used."""
    unused = {"unused": True} if "unused" in KINDS[kind].attributes else {}
    return stored_part(kind, name, {**attrs, **unused}, also)
