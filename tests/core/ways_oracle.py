"""Ways by trying every combination, straight from `docs/ways.md`: slow, and written without a look at the search."""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Iterator
from copy import deepcopy
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from unkett.core.check.engine import check
from unkett.core.formats.reader import build_from
from unkett.core.vocabulary import SLOTS, slots_of_kind

Json = dict[str, Any]
ORDER = list(SLOTS)
CENT = Decimal("0.01")
FIGURES = ("price", "changes", "days", "minutes", "grams")
KEYS = {
    "cheapest": ("price", "changes", "minutes", "days"),
    "fewest": ("changes", "price", "minutes", "days"),
    "soonest": ("days", "price", "changes", "minutes"),
    "lightest": ("grams", "price", "changes", "minutes"),
    "bin": ("not_bin", "price", "changes", "minutes"),
}


def combinations(q: Json) -> Iterator[dict[str, str | None]]:
    """Every set of changes that can be written down: what stands in a slot leaves it named, none is filled twice."""
    parts, shelf = q["build"]["parts"], {row["id"]: row for row in q["shelf"]}
    choices: dict[str, list[Any]] = {}
    for slot in ORDER:
        ids = [name for name, row in shelf.items() if slot in row["slots"]]
        own = ["stay", *([None] if slot in parts else []), *sorted(ids)]
        if len(own) > 1:
            choices[slot] = own
    for chosen in itertools.product(*choices.values()):
        changes = {slot: one for slot, one in zip(choices, chosen, strict=True) if one != "stay"}
        filled = [
            place
            for slot, part in parts.items()
            if slot not in changes
            for place in (slot, *part.get("also", []))
        ]
        for slot, name in changes.items():
            if name is not None:
                filled += [slot, *shelf[name]["part"].get("also", [])]
        if len(filled) == len(set(filled)):
            yield changes


def counted(q: Json, changes: dict[str, str | None]) -> bool:
    used = [name for name in changes.values() if name]
    return all(used.count(row["id"]) <= row.get("count", 1) for row in q["shelf"])


def laid(q: Json, changes: dict[str, str | None]) -> Json:
    """The changed build as JSON."""
    shelf = {row["id"]: row["part"] for row in q["shelf"]}
    before = q["build"]
    parts = {slot: part for slot, part in before["parts"].items() if slot not in changes}
    parts |= {slot: shelf[name] for slot, name in changes.items() if name}
    filled = {place for slot, part in parts.items() for place in (slot, *part.get("also", []))}
    left = [
        place
        for slot in changes
        if slot in before["parts"]
        for place in (slot, *before["parts"][slot].get("also", []))
    ]
    empty = [slot for slot in ORDER if slot in {*before.get("empty", []), *left} - filled]
    return {**before, "parts": parts, "empty": empty}


def met(has: Any, op: str, value: Any) -> bool:
    if has is None:
        return False
    if op.startswith(("max", "min", "len")):
        has = {"max": max, "min": min, "len": len}[op[:3]](has)
        op = op[3:]
    if op == "has":
        return value in has
    if op == "in":
        return has in value
    if op in ("==", "!="):
        return (has == value) is (op == "==")
    return bool(has <= value if op == "<=" else has >= value)


def develops(parts: Json, wanted: Json) -> bool:
    attrs = {slot: parts.get(slot, {}).get("attrs", {}) for slot in ("chainrings", "cassette", "rear_hub")}
    rim, tyre = (parts.get(slot, {}).get("attrs", {}) for slot in ("rear_rim", "rear_tyre"))
    rings, cogs = attrs["chainrings"].get("teeth"), attrs["cassette"].get("teeth")
    size = rim.get("bsd_mm") or tyre.get("bsd_mm")
    width = tyre.get("width_measured_mm") or tyre.get("width_mm")
    if not rings or not cogs or not size or not width or attrs["rear_hub"].get("internal_gears"):
        return False
    every = [ring / cog * (math.pi * (size + 2 * width)) / 1000 for ring in rings for cog in cogs]
    low, high = wanted.get("lowest_development_m_max"), wanted.get("highest_development_m_min")
    return (low is None or min(every) <= low) and (high is None or max(every) >= high)


def wishes_of(q: Json) -> list[str]:
    wish = q["wish"]
    return [
        *(f"require[{n}]" for n in range(len(wish.get("require", [])))),
        *(f"keep.{slot}" for slot in wish.get("keep", [])),
        *(f"fit.{name}" for name in wish.get("fit", [])),
        *(f"empty.{slot}" for slot in wish.get("empty", [])),
        *(key for key in ("gears", "price_max", "ready_in_days_max") if key in wish),
        *([] if wish.get("allow_unmeasured") else ["allow_unmeasured"]),
    ]


class Facts:
    """What one set of changes comes to, whether or not it is a way."""

    def __init__(self, q: Json, before: Json, changes: dict[str, str | None]) -> None:
        self.changes = changes
        build = laid(q, changes)
        after = check(build_from(build)).to_json()
        self.findings = after["findings"]
        was = {(f["rule"], tuple(f["slots"])) for f in before["findings"] if f["verdict"] == "unmeasured"}
        said = {(f["rule"], tuple(f["slots"]), f["says"]) for f in before["findings"]}
        joints = [((f["rule"], tuple(f["slots"])), f["verdict"]) for f in self.findings]
        self.refused = {joint for joint, verdict in joints if verdict == "no_go"}
        self.unmeasured = {joint for joint, verdict in joints if verdict == "unmeasured" and joint not in was}
        shelf = {row["id"]: row for row in q["shelf"]}
        on = [shelf[name] for name in changes.values() if name]
        labour = Decimal(str(q.get("labour_per_hour", 0)))
        needs: list[Json] = []
        for f in self.findings:
            if f["verdict"] == "goes_if" and (f["rule"], tuple(f["slots"]), f["says"]) not in said:
                needs += self.chosen(q, f["needs"], labour)
        self.needs = [need["what"] for need in needs]
        priced = [q.get("needs", {}).get(what, {}) for what in self.needs]
        self.minutes = sum(row.get("minutes", 0) for row in [*on, *priced])
        self.minutes += q.get("take_off_minutes", 0) * list(changes.values()).count(None)
        price = sum((Decimal(str(row.get("price", 0))) for row in [*on, *priced]), Decimal(0))
        self.price = (price + self.minutes * labour / 60).quantize(CENT, ROUND_HALF_UP)
        self.days = max((row.get("days", 0) for row in on), default=0)
        stands = q.get("stands_g", {})
        self.grams = sum(row.get("grams", 0) for row in on) - sum(stands.get(slot, 0) for slot in changes)
        self.not_bin = sum(row.get("from", "stock") != "bin" for row in on)
        self.verdict = after["verdict"]
        filled = {place for slot, p in build["parts"].items() for place in (slot, *p.get("also", []))}
        without = {**build, "empty": []}
        self.wanted = set(check(build_from(without)).to_json()["open_slots"])
        self.open = self.wanted - set(before["open_slots"]) - set(q["build"].get("empty", []))
        self.unmet = self.fails(q, build, filled)

    @staticmethod
    def chosen(q: Json, needs: list[Json], labour: Decimal) -> list[Json]:
        def worth(need: Json) -> Decimal:
            row = q.get("needs", {}).get(need["what"], {})
            return Decimal(str(row.get("price", 0))) + row.get("minutes", 0) * labour / 60

        taken = {
            id(min((n for n in needs if n.get("either") == either), key=worth))
            for either in {need.get("either") for need in needs}
        }
        return [need for need in needs if need.get("either") is None or id(need) in taken]

    def fails(self, q: Json, build: Json, filled: set[str]) -> set[str]:
        wish, parts = q["wish"], build["parts"]
        out = set()
        for n, row in enumerate(wish.get("require", [])):
            holds = [p for slot, p in parts.items() if row["slot"] in (slot, *p.get("also", []))]
            if not holds or not met(holds[0]["attrs"].get(row["attr"]), row["op"], row["value"]):
                out.add(f"require[{n}]")
        before = q["build"]["parts"]
        for slot in wish.get("keep", []):
            key = next((k for k, p in before.items() if slot in (k, *p.get("also", []))), None)
            if (key in self.changes) if key else (slot in filled):
                out.add(f"keep.{slot}")
        out |= {f"fit.{name}" for name in wish.get("fit", []) if name not in self.changes.values()}
        out |= {f"empty.{slot}" for slot in wish.get("empty", []) if slot in filled}
        if "gears" in wish and not develops(parts, wish["gears"]):
            out.add("gears")
        if "price_max" in wish and self.price > Decimal(str(wish["price_max"])):
            out.add("price_max")
        if self.days > wish.get("ready_in_days_max", self.days):
            out.add("ready_in_days_max")
        return out

    @property
    def count(self) -> int:
        return len(self.changes)

    def figures(self) -> tuple[Any, ...]:
        return self.price, self.count, self.days, self.minutes, self.grams

    def key(self, best: str) -> tuple[Any, ...]:
        values = {**vars(self), "changes": self.count}
        ids = tuple(
            (0, "")
            if slot not in self.changes
            else (2, self.changes[slot])
            if self.changes[slot]
            else (1, "")
            for slot in ORDER
        )
        return (*(values[name] for name in KEYS[best]), ids)

    def holds(self, joints: set[Any] | None, wishes: set[str]) -> bool:
        """Whether these joints (None: all) and wishes hold; whole and counts always do."""
        exempt = {name.partition(".")[2] for name in wishes if name.startswith("empty.")}
        faults = self.refused | (self.unmeasured if "allow_unmeasured" in wishes else set())
        own = faults if joints is None else faults & joints
        return not own and not self.open - exempt and not self.unmet & wishes


def facts_of(q: Json) -> list[Facts]:
    before = check(build_from(q["build"])).to_json()
    return [Facts(q, before, changes) for changes in combinations(q) if counted(q, changes)]


def expected(q: Json, facts: list[Facts]) -> list[tuple[list[str], Facts]]:
    """The ways in the order they are reported."""
    wishes = set(wishes_of(q))
    ways = [one for one in facts if one.holds(None, wishes)]
    if not ways:
        return []
    error: list[tuple[list[str], Facts]] = []
    for best in q.get("best", ["cheapest"]):
        first = min(ways, key=lambda one: one.key(best))
        same = [names for names, one in error if one is first]
        if same:
            same[0].append(best)
        else:
            error.append(([best], first))
    first_best = q.get("best", ["cheapest"])[0]
    more = q.get("more", 0)
    for way in sorted(ways, key=lambda one: one.key(first_best)):
        if more and all(worth_telling(way, earlier) for _, earlier in error):
            error.append(([], way))
            more -= 1
    return error


def worth_telling(way: Facts, earlier: Facts) -> bool:
    if earlier.changes.items() <= way.changes.items():
        return False
    return any(a < b for a, b in zip(way.figures(), earlier.figures(), strict=True))


def compare(q: Json, answer: Json) -> int:
    """Raises AssertionError where an answer is not what trying everything gives; how many combinations were tried."""
    facts = facts_of(q)
    error = expected(q, facts)
    got = [
        (
            way["best"],
            {change["slot"]: change["in"] for change in way["changes"]},
            (way["price"], len(way["changes"]), way["days"], way["minutes"], way["grams"]),
            sorted(need["what"] for need in way["needs"]),
            way["verdict"],
            way["proven"],
        )
        for way in answer["ways"]
    ]
    want = [
        (best, one.changes, (float(one.price), *one.figures()[1:]), sorted(one.needs), one.verdict, True)
        for best, one in error
    ]
    assert got == want, f"got {got}\nwant {want}"
    if not error:
        compare_stuck(q, facts, answer["stuck"])
    else:
        assert answer["stuck"] is None
    return len(facts)


def compare_stuck(q: Json, facts: list[Facts], stuck: Json) -> None:
    wishes = set(wishes_of(q))
    because = [
        ("wish", cause["drop"]) if cause["rule"] == "wish" else (cause["rule"], tuple(cause["slots"]))
        for cause in stuck["because"]
    ]

    def together(members: list[Any]) -> bool:
        own = {member[1] for member in members if member[0] == "wish"}
        joints = {member for member in members if member[0] != "wish"}
        return any(one.holds(joints, own) for one in facts)

    assert not together(because), because
    for left_out in because:
        assert together([member for member in because if member != left_out]), (because, left_out)
    free = {}
    for drop in wishes:
        prices = [one.price for one in facts if one.holds(None, wishes - {drop})]
        if prices:
            free[drop] = float(min(prices))
    assert {row["drop"]: row["price"] for row in stuck["free_by"]} == free


# small shelves from the demo's own bikes and parts

PAIRS = (("front_brake_lever", "front_shifter"), ("rear_brake_lever", "rear_shifter"))


def small_question(seed: int, bikes: list[Json], catalogue: list[Json], most: int = 300) -> Json:
    """A random question with at most so many combinations: twins, ties, parts in two slots, wishes that fail."""
    pick = random.Random(seed)
    while True:
        q = _question(pick, bikes, catalogue)
        if 2 <= sum(1 for _ in itertools.islice(combinations(q), most + 1)) <= most:
            return q


def _row(pick: random.Random, n: int, part: Json, slots: list[str]) -> Json:
    return {
        "id": f"s{n:02d}",
        "slots": slots,
        "part": part,
        "price": pick.choice([0, 5, 9.99, 20, 20.5]),
        "minutes": pick.choice([0, 10, 10, 25]),
        "days": pick.choice([0, 0, 2, 5]),
        "grams": pick.choice([100, 300, 301]),
        "from": pick.choice(["bin", "stock", "supplier"]),
        "count": pick.choice([1, 1, 2]),
    }


def _question(pick: random.Random, bikes: list[Json], catalogue: list[Json]) -> Json:
    bike = deepcopy(pick.choice(bikes))
    parts = bike["parts"]
    areas = [
        ("cassette", "rear_derailleur", "rear_shifter", "chain", "chainrings", "front_derailleur"),
        ("front_rotor", "front_caliper", "front_brake_adapter", "fork", "front_brake_lever"),
        ("front_tyre", "rear_tyre", "front_rim", "rear_rim", "rear_hub"),
        ("bottom_bracket", "crank", "chainrings", "chain_guide", "headset", "stem", "handlebar", "seatpost"),
        ("rear_brake_lever", "rear_shifter", "rear_shift_line", "front_shifter", "front_brake_lever"),
    ]
    slots = pick.sample(pick.choice(areas), pick.choice([2, 3, 3, 4]))
    for lever, shifter in PAIRS:
        if lever in parts and shifter in parts and pick.random() < 0.5:
            both = parts.pop(shifter)["attrs"]
            own = parts[lever]["attrs"]
            parts[lever] = {**parts[lever], "also": [shifter], "attrs": {**both, **own}}
    shelf: list[Json] = []
    for slot in slots:
        baseline = [b["parts"][slot] for b in bikes if slot in b["parts"] and "also" not in b["parts"][slot]]
        known = [row for row in catalogue if row["kind"] == SLOTS[slot].kind]
        for _ in range(pick.choice([1, 2, 2, 3])):
            part = deepcopy(pick.choice(known if known and pick.random() < 0.5 else baseline or known))
            part = {"kind": part["kind"], "name": part["name"], "attrs": part["attrs"]}
            if pick.random() < 0.2 and part["attrs"]:
                del part["attrs"][pick.choice(list(part["attrs"]))]
            every = [one.name for one in slots_of_kind(part["kind"])]
            may_go = every if pick.random() < 0.5 else [slot]
            shelf.append(_row(pick, len(shelf), part, may_go))
            if pick.random() < 0.3:
                shelf.append({**deepcopy(shelf[-1]), "id": f"s{len(shelf):02d}"})
    for lever, shifter in PAIRS:
        found = [b["parts"] for b in bikes if lever in b["parts"] and shifter in b["parts"]]
        if (lever in slots or shifter in slots) and found and pick.random() < 0.7:
            one = pick.choice(found)
            part = deepcopy(one[lever])
            attrs = {**one[shifter]["attrs"], **part["attrs"]}
            part = {"kind": part["kind"], "name": "Both", "attrs": attrs, "also": [shifter]}
            shelf.append(_row(pick, len(shelf), part, [lever]))
    pick.shuffle(shelf)
    wish = _wish(pick, bike, shelf, slots)
    return {
        "format": "unkett.wish/1",
        "build": bike,
        "wish": wish,
        "shelf": shelf,
        "needs": {
            "spacer": {"price": 2.0, "minutes": 1},
            "take links out": {"price": 0, "minutes": 5},
            "new chain": {"price": 12.5},
            "cup spacers": {"price": 1.37, "minutes": 7},
            "relace the wheel": {"minutes": 75},
            "adapter": {"price": 9.99, "minutes": 4},
        },
        "stands_g": {slot: pick.choice([200, 300]) for slot in slots},
        "take_off_minutes": pick.choice([0, 5]),
        "labour_per_hour": pick.choice([0, 45, 47.5, 33.33]),
        "best": pick.sample(list(KEYS), pick.choice([1, 3, 5])),
        "more": pick.choice([0, 2, 6]),
    }


def _wish(pick: random.Random, bike: Json, shelf: list[Json], slots: list[str]) -> Json:
    wish: Json = {"allow_unmeasured": pick.random() < 0.5}
    wished = [
        (slot, row["part"]["attrs"])
        for row in shelf
        for slot in row["slots"]
        if slot in slots and "also" not in row["part"]
    ]
    for slot, attrs in pick.sample(wished, min(len(wished), pick.choice([0, 1, 1, 2]))):
        names = [name for name, value in attrs.items() if not isinstance(value, (dict, list, bool))]
        if "teeth" in attrs:
            op = pick.choice(["max>=", "max<=", "min<=", "len=="])
            value = len(attrs["teeth"]) if op == "len==" else max(attrs["teeth"])
            row = {"slot": slot, "attr": "teeth", "op": op, "value": value}
        elif names:
            name = pick.choice(names)
            row = {"slot": slot, "attr": name, "op": pick.choice(["==", "==", "!="]), "value": attrs[name]}
        else:
            continue
        wish.setdefault("require", []).append(row)
    if pick.random() < 0.4:
        wish["keep"] = pick.sample([*bike["parts"], "motor"], 1)
    if pick.random() < 0.2:
        wish["fit"] = [pick.choice(shelf)["id"]]
    if pick.random() < 0.2:
        wish["empty"] = [pick.choice([*slots, "front_derailleur"])]
    if pick.random() < 0.2:
        wish["gears"] = {"lowest_development_m_max": pick.choice([1.2, 2.0, 3.0])}
    if pick.random() < 0.2:
        wish["price_max"] = pick.choice([10, 30.5, 60])
    if pick.random() < 0.15:
        wish["ready_in_days_max"] = pick.choice([0, 2])
    return wish
