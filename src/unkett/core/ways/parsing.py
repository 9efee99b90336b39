"""Reads `unkett.wish/1`: every fault at once, each with its path."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from unkett.core.build import Build, Json, Part
from unkett.core.errors import InputError, bad, listed, nearest, shown
from unkett.core.formats.reader import FAULTS_MAX, Reader
from unkett.core.vocabulary import KINDS, SLOTS, describe, kind_of, slots_of_kind
from unkett.core.vocabulary.types import AttributeType, Either, ListOf, Number, Pair, Whole
from unkett.core.ways.wish import (
    BEST,
    FORMAT,
    LIST_OPS,
    PLAIN_OPS,
    WHERE_FROM,
    Effort,
    GearsWanted,
    Question,
    Requirement,
    ShelfPart,
    Wish,
)

QUESTION_KEYS = (
    "format", "build", "wish", "shelf", "needs", "stands_g", "take_off_minutes", "labour_per_hour", "best", "more",
    "seconds",
)  # fmt: skip
WISH_KEYS = (
    "require", "keep", "fit", "empty", "gears", "price_max", "ready_in_days_max", "allow_unmeasured",
)  # fmt: skip
SHELF_KEYS = ("id", "slot", "slots", "part", "price", "minutes", "days", "grams", "from", "count")
GEAR_KEYS = ("lowest_development_m_max", "highest_development_m_min")
MONEY_MAX = 1_000_000
WHOLE_MAX = 1_000_000
SHELF_MAX = 50_000
MORE_MAX = 50
SECONDS_MAX = 3600.0
ID_MAX = 100


def question_from(value: Any) -> Question:
    """Return a question from parsed JSON. Raises InputError with every fault and its path."""
    reader = _Asked()
    question = reader.question(value)
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return question


def wish_from(value: Any, ids: frozenset[str]) -> Wish:
    """Return a wish alone from parsed JSON; `ids` are those of the shelf. Raises InputError."""
    reader = _Asked()
    wish = reader.wish(value, set(ids))
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return wish


class _Asked(Reader):
    """Reads a wish with its build and shelf and gathers every fault."""

    def question(self, value: Any) -> Question:
        if not isinstance(value, Mapping):
            self.fault("", f"{shown(value)} given; a wish ({FORMAT}) is an object")
            return Question(build=Build())
        known, _ = self.mapping(value, "", QUESTION_KEYS)
        if known.get("format", FORMAT) != FORMAT:
            self.fault("format", f'{shown(known["format"])} given; "{FORMAT}" allowed')
        build = self.inner_build(known)
        shelf = self.shelf(known)
        return Question(
            build=build,
            wish=self.wish(known.get("wish"), {part.id for part in shelf}),
            shelf=shelf,
            needs=self.needs(known.get("needs")),
            stands_g={
                slot: self.whole({slot: grams}, slot, f"stands_g.{slot}")
                for slot, grams in self.mapping(known.get("stands_g"), "stands_g", SLOTS)[0].items()
            },
            take_off_minutes=self.whole(known, "take_off_minutes", "take_off_minutes"),
            labour_per_hour=self.money(known, "labour_per_hour", "labour_per_hour"),
            best=self.best(known.get("best")),
            more=self.whole(known, "more", "more", most=MORE_MAX),
            seconds=self.number(known, "seconds", "seconds", SECONDS_MAX, 10.0),
        )

    def inner_build(self, known: Json) -> Build:
        if "build" not in known:
            self.fault("build", "missing; a build (unkett.build/1) allowed")
            return Build()
        inner = Reader()
        build = inner.build(known["build"])
        for fault in inner.faults:
            self.fault(f"build.{fault.path}".rstrip("."), fault.says)
        return build

    def whole(
        self, known: Json, key: str, path: str, *, otherwise: int = 0, least: int = 0, most: int = WHOLE_MAX
    ) -> int:
        value = known.get(key, otherwise)
        fine = isinstance(value, (int, float)) and not isinstance(value, bool)
        if not fine or not least <= value <= most or value != int(value):
            self.fault(path, f"{shown(value)} given; a whole number from {least} to {most} allowed")
            return otherwise
        return int(value)

    def money(self, known: Json, key: str, path: str) -> int:
        """Money in hundredths."""
        value = known.get(key, 0)
        fine = isinstance(value, (int, float)) and not isinstance(value, bool)
        if not fine or not 0 <= value <= MONEY_MAX or (cents := Decimal(str(value)) * 100) != int(cents):
            says = f"{shown(value)} given; a number from 0 to {MONEY_MAX} with at most two decimals allowed"
            self.fault(path, says)
            return 0
        return int(cents)

    def number(self, known: Json, key: str, path: str, most: float, otherwise: float) -> float:
        value = known.get(key, otherwise)
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not 0 < value <= most:
            self.fault(path, f"{shown(value)} given; a number above 0, at most {most:g}, allowed")
            return otherwise
        return float(value)

    def one_of(self, value: Any, path: str, allowed: Any) -> str:
        if not isinstance(value, str) or value not in allowed:
            self.fault(
                path, f"{shown(value)} given; one of {listed(allowed)} allowed{nearest(value, allowed)}"
            )
            return ""
        return value

    def rows(self, value: Any, path: str) -> list[tuple[str, Any]]:
        """Return the members of a list, each with its path."""
        if value is None:
            return []
        if not isinstance(value, list):
            self.fault(path, f"{shown(value)} given; a list allowed")
            return []
        return [(f"{path}[{n}]", item) for n, item in enumerate(value)]

    def words(self, value: Any, path: str, allowed: Any) -> tuple[str, ...]:
        """Return a list of allowed words, none twice."""
        found: list[str] = []
        for place, item in self.rows(value, path):
            word = self.one_of(item, place, allowed)
            if word in found:
                self.fault(place, f'"{word}" stands twice')
            elif word:
                found.append(word)
        return tuple(found)

    def best(self, value: Any) -> tuple[str, ...]:
        if value is None:
            return BEST[:1]
        if value == []:
            self.fault("best", f"empty; at least one of {listed(BEST)} allowed")
        return self.words(value, "best", BEST) or BEST[:1]

    def needs(self, value: Any) -> dict[str, Effort]:
        if value is not None and not isinstance(value, Mapping):
            self.fault("needs", f"{shown(value)} given; an object allowed")
            return {}
        found = {}
        for what, cost in (value or {}).items():
            path = f"needs.{self.text(what, 'needs')}"
            known, _ = self.mapping(cost, path, ("price", "minutes"))
            found[what] = Effort(
                price=self.money(known, "price", f"{path}.price"),
                minutes=self.whole(known, "minutes", f"{path}.minutes"),
            )
        return found

    def wish(self, value: Any, ids: set[str]) -> Wish:
        known, _ = self.mapping(value, "wish", WISH_KEYS)
        allow = known.get("allow_unmeasured", False)
        if not isinstance(allow, bool):
            self.fault("wish.allow_unmeasured", f"{shown(allow)} given; true or false allowed")
        rows = self.rows(known.get("require"), "wish.require")
        return Wish(
            require=tuple(found for path, row in rows if (found := self.requirement(row, path))),
            keep=self.words(known.get("keep"), "wish.keep", SLOTS),
            fit=self.words(known.get("fit"), "wish.fit", ids),
            empty=self.words(known.get("empty"), "wish.empty", SLOTS),
            gears=self.gears(known.get("gears")),
            price_max=self.money(known, "price_max", "wish.price_max") if "price_max" in known else None,
            ready_in_days_max=self.whole(known, "ready_in_days_max", "wish.ready_in_days_max")
            if "ready_in_days_max" in known
            else None,
            allow_unmeasured=allow is True,
        )

    def gears(self, value: Any) -> GearsWanted | None:
        known, _ = self.mapping(value, "wish.gears", GEAR_KEYS)
        if not known:
            return None
        low, high = (
            self.number(known, key, f"wish.gears.{key}", 100.0, 1.0) if key in known else None
            for key in GEAR_KEYS
        )
        return GearsWanted(lowest_m_max=low, highest_m_min=high)

    def requirement(self, value: Any, path: str) -> Requirement | None:
        if not isinstance(value, Mapping):
            self.fault(path, f"{shown(value)} given; an object allowed")
            return None
        before = len(self.faults)
        known, _ = self.mapping(value, path, ("slot", "attr", "op", "value"))
        slot = self.one_of(known.get("slot"), f"{path}.slot", SLOTS)
        op = self.one_of(known.get("op"), f"{path}.op", (*PLAIN_OPS, *LIST_OPS))
        if not slot or not op:
            return None
        attr = self.one_of(known.get("attr"), f"{path}.attr", kind_of(slot).attributes)
        if "value" not in known:
            self.fault(f"{path}.value", "missing")
        if len(self.faults) > before:
            return None
        try:
            wanted = compared(describe(slot, attr).type, op, known["value"], path)
        except InputError as error:
            self.faults.extend(error.faults)
            return None
        return Requirement(slot=slot, attr=attr, op=op, value=wanted)

    def shelf(self, known: Json) -> tuple[ShelfPart, ...]:
        if known.get("shelf") == []:
            self.fault("shelf", "empty; at least one part allowed")
        rows = self.rows(known.get("shelf"), "shelf")
        if len(rows) > SHELF_MAX:
            self.fault("shelf", f"{len(rows)} parts given; at most {SHELF_MAX} allowed")
            return ()
        found: dict[str, ShelfPart] = {}
        for path, row in rows:
            part = self.shelf_part(row, path)
            if part is not None and part.id in found:
                self.fault(f"{path}.id", f'"{part.id}" stands twice')
            elif part is not None:
                found[part.id] = part
        return tuple(found.values())

    def shelf_part(self, row: Any, path: str) -> ShelfPart | None:
        if not isinstance(row, Mapping):
            self.fault(path, f"{shown(row)} given; an object allowed")
            return None
        known, _ = self.mapping(row, path, SHELF_KEYS)
        name = known.get("id")
        if not isinstance(name, str) or not name:
            self.fault(f"{path}.id", f"{shown(name)} given; text of 1 to {ID_MAX} characters allowed")
            name = ""
        self.text(name, f"{path}.id", ID_MAX)
        slots = self.shelf_slots(known, path)
        part = self.part(known.get("part"), slots[0], f"{path}.part") if slots else None
        if part is not None and part.also and not self.also_goes(part, slots, path):
            part = None
        made = ShelfPart(
            id=name,
            slots=slots,
            part=part or Part(kind=""),
            price=self.money(known, "price", f"{path}.price"),
            minutes=self.whole(known, "minutes", f"{path}.minutes"),
            days=self.whole(known, "days", f"{path}.days"),
            grams=self.whole(known, "grams", f"{path}.grams"),
            source=self.one_of(known.get("from", "stock"), f"{path}.from", WHERE_FROM),
            count=self.whole(known, "count", f"{path}.count", otherwise=1),
        )
        return made if name and part is not None else None

    def also_goes(self, part: Part, slots: tuple[str, ...], path: str) -> bool:
        """Return whether a part in more slots than one names one of them, and each other one once."""
        if len(slots) > 1:
            self.fault(f"{path}.slots", "a part with also lists one slot")
            return False
        every = (*slots, *part.also)
        if len(set(every)) < len(every):
            self.fault(f"{path}.part.also", "a slot stands twice")
            return False
        return True

    def shelf_slots(self, known: Json, path: str) -> tuple[str, ...]:
        """Return the slots that a part on the shelf may go into."""
        if "slots" in known:
            if "slot" in known:
                self.fault(f"{path}.slots", "slot or slots, not both")
            found = self.words(known["slots"], f"{path}.slots", SLOTS)
            kinds = {SLOTS[slot].kind for slot in found}
            if not found or len(kinds) > 1:
                self.fault(f"{path}.slots", f"{shown(known['slots'])} given; slots of one kind allowed")
                return ()
            return found
        if "slot" in known:
            slot = self.one_of(known["slot"], f"{path}.slot", SLOTS)
            return (slot,) if slot else ()
        given = known.get("part")
        kind = given.get("kind") if isinstance(given, Mapping) else None
        if kind not in KINDS:
            self.fault(f"{path}.part.kind", f"{shown(kind)} given; one of {listed(KINDS)} allowed")
            return ()
        suits = tuple(slot.name for slot in slots_of_kind(kind))
        if len(suits) != 1:
            self.fault(f"{path}.slot", f"missing; one of {listed(suits)} allowed")
            return ()
        return suits


def _item_of(kind: AttributeType) -> AttributeType | None:
    """Return the type of a list's members; None for what is no list."""
    if isinstance(kind, (ListOf, Pair)):
        return kind.item
    return _item_of(kind.other) if isinstance(kind, Either) else None


def _number(value: Any, path: str) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise bad(path, f"{shown(value)} given; a number allowed")
    return value


def compared(kind: AttributeType, op: str, value: Any, path: str) -> Any:
    """Return the value that an attribute of a type is compared with, in the core's form. Raises InputError."""
    item = _item_of(kind)
    place = f"{path}.value"
    if op in LIST_OPS and item is None:
        raise bad(f"{path}.op", f'"{op}" given; the attribute is no list: one of {listed(PLAIN_OPS)} allowed')
    if op == "has":
        return _one(item or kind, value, place)
    if op in ("==", "!="):
        return _one(kind, value, place)
    if op == "in":
        if not isinstance(value, list) or not value:
            raise bad(place, f"{shown(value)} given; a list of values allowed")
        return tuple(_one(kind, one, f"{place}[{n}]") for n, one in enumerate(value))
    numbers = item if op in LIST_OPS else kind
    if op != "len==" and not isinstance(numbers, (Number, Whole)):
        raise bad(f"{path}.op", f'"{op}" given; the attribute is no number')
    return _number(value, place)


def _one(kind: AttributeType, value: Any, path: str) -> Any:
    """Return a single value: any number where the attribute is one, since a wish may lie beyond what there is."""
    return _number(value, path) if isinstance(kind, (Number, Whole)) else kind.check(value, path)
