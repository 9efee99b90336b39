"""The search for ways: against trying everything on small shelves, and timed on large ones.

`./unkett bench ways [COUNT]` compares so many small random shelves (300) with the answer of trying every combination.
`python -m bench.ways times` prints seconds per objective with 4,000 parts, and the growth from 500 to 16,000.
"""

from __future__ import annotations

import json
import random
import resource
import statistics
import subprocess
import sys
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

from tests.core.ways_oracle import KEYS, compare, small_question

from unkett.core.vocabulary import SLOTS, slots_of_kind
from unkett.core.ways.parsing import question_from
from unkett.core.ways.ways import find_ways, ways_json

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "src/unkett/web/demo"
PARTS = 4_000
GROWTH = (500, 1_000, 2_000, 4_000, 8_000, 16_000)
SMALL = 300
Json = dict[str, Any]

WISHES: tuple[Json, ...] = (
    {"require": [{"slot": "cassette", "attr": "speeds", "op": "==", "value": 11}]},
    {
        "require": [{"slot": "cassette", "attr": "teeth", "op": "max>=", "value": 42}],
        "keep": ["frame", "fork"],
    },
    {"require": [{"slot": "front_rotor", "attr": "diameter_mm", "op": "==", "value": 180}]},
    {"require": [{"slot": "rear_tyre", "attr": "width_mm", "op": ">=", "value": 45}], "keep": ["frame"]},
    {"gears": {"lowest_development_m_max": 1.6, "highest_development_m_min": 6.5}},
    {"require": [{"slot": "chainrings", "attr": "teeth", "op": "len==", "value": 1}], "price_max": 300},
    {"require": [{"slot": "rear_hub", "attr": "freehub", "op": "!=", "value": "spline9"}]},
    {"require": [{"slot": "stem", "attr": "length_mm", "op": "<=", "value": 60}], "ready_in_days_max": 2},
    {
        "require": [
            {"slot": "cassette", "attr": "speeds", "op": "==", "value": 12},
            {"slot": "rear_tyre", "attr": "width_mm", "op": ">=", "value": 40},
        ]
    },
    {"require": [{"slot": "crank", "attr": "arm_mm", "op": "<=", "value": 165}], "allow_unmeasured": True},
)


def demo() -> tuple[list[Json], list[Json]]:
    bikes = [row["build"] for row in json.loads((DEMO / "bikes.json").read_text())]
    catalogue = json.loads((DEMO / "catalogue.json").read_text())
    return bikes, [row for row in catalogue if not row.get("also")]


def varied(pick: random.Random, part: Json, seen: dict[str, list[Any]]) -> Json:
    """A part like another in most and different in some of its sizes, as others of its kind have them."""
    attrs = dict(part["attrs"])
    for name in pick.sample(sorted(attrs), min(len(attrs), pick.choice([0, 1, 1, 2]))):
        attrs[name] = pick.choice(seen[name])
    if "teeth" in attrs:
        change = pick.randint(-4, 8)
        teeth = list(attrs["teeth"])
        at = -1 if part["kind"] == "cassette" else 0
        teeth[at] = max(teeth[at] + change, *teeth) if len(teeth) > 1 else max(11, teeth[at] + change)
        attrs["teeth"] = teeth
        if part["kind"] == "cassette":
            attrs["speeds"] = max(len(teeth), attrs.get("speeds", 0))
    for name, low, high in (("width_mm", -8, 20), ("arm_mm", -10, 5), ("length_mm", -30, 30)):
        if name in attrs:
            attrs[name] = max(10, attrs[name] + pick.randint(low, high))
    if "links" in attrs:
        attrs["links"] = 2 * pick.randint(50, 64)
    return {"kind": part["kind"], "name": part["name"], "attrs": attrs}


def large_question(count: int, wish: Json, seed: int = 1) -> Json:
    """A complete bike with so many parts on the shelf, spread over all its slots."""
    pick = random.Random(seed)  # noqa: S311 - repeatable, no secret
    bikes, catalogue = demo()
    parts: dict[str, list[Json]] = defaultdict(list)
    seen: dict[str, dict[str, list[Any]]] = defaultdict(lambda: defaultdict(list))
    for row in [*catalogue, *(part for bike in bikes for part in bike["parts"].values())]:
        if row["attrs"]:
            parts[row["kind"]].append(row)
        for name, value in row["attrs"].items():
            seen[row["kind"]][name].append(value)
    bike = next(bike for bike in bikes if bike["name"] == "Ferry commuter")
    kinds = sorted({SLOTS[slot].kind for slot in bike["parts"]})
    heavy = [kind for kind in ("cassette", "chainrings", "tyre") for _ in range(3)]
    shelf = []
    for n in range(count):
        kind = (kinds + heavy)[n % (len(kinds) + len(heavy))]
        part = varied(pick, pick.choice(parts[kind]), seen[kind])
        shelf.append(
            {
                "id": f"p{n:05d}",
                "slots": [slot.name for slot in slots_of_kind(kind) if slot.name in bike["parts"]],
                "part": part,
                "price": pick.randint(200, 20000) / 100,
                "minutes": pick.randint(2, 60),
                "days": pick.choice([0, 0, 0, 1, 2, 5, 9]),
                "grams": pick.randint(20, 900),
                "from": pick.choice(["bin", "stock", "supplier", "supplier"]),
                "count": pick.choice([1, 1, 2, 4]),
            }
        )
    return {
        "build": bike,
        "wish": wish,
        "shelf": shelf,
        "needs": {"spacer": {"price": 2.0, "minutes": 1}, "new chain": {"price": 20, "minutes": 10}},
        "stands_g": dict.fromkeys(bike["parts"], 300),
        "take_off_minutes": 5,
        "labour_per_hour": 45,
    }


def against_everything(count: int) -> Json:
    bikes, catalogue = demo()
    tried = ways = stuck = 0
    for seed in range(count):
        q = small_question(seed, bikes, catalogue)
        answer = ways_json(q)
        tried += compare(q, answer)
        ways += len(answer["ways"])
        stuck += not answer["ways"]
    return {"shelves": count, "combinations": tried, "ways": ways, "no_way": stuck, "different": 0}


def timed(count: int, wish: Json, best: str) -> tuple[float, bool]:
    """Seconds of a search, and whether its answer is proven: the best way, or that there is none."""
    question = question_from({**large_question(count, wish), "best": [best], "seconds": 60})
    begin = time.perf_counter()
    found = find_ways(question)
    took = time.perf_counter() - begin
    proven = all(listed.proven for listed in found.ways) if found.ways else found.stuck is not None
    return took, proven


def times() -> Json:
    """Seconds per objective and wish with 4,000 parts; the growth of one wish."""
    seconds: dict[str, list[float]] = defaultdict(list)
    unproven = 0
    for wish in WISHES:
        for best in KEYS:
            took, proven = timed(PARTS, wish, best)
            seconds[best].append(took)
            unproven += not proven
    every = [took for row in seconds.values() for took in row]
    small = json.dumps(small_question(1, *demo()))
    command = [str(ROOT / "unkett"), "plan", "-"]
    begin = time.perf_counter()
    subprocess.run(command, input=small, text=True, capture_output=True, check=False)  # noqa: S603
    whole = time.perf_counter() - begin
    return {
        "parts": PARTS,
        "wishes": len(WISHES),
        "median_s": {best: round(statistics.median(row), 2) for best, row in seconds.items()},
        "median_of_all_s": round(statistics.median(every), 2),
        "worst_s": {best: round(max(row), 2) for best, row in seconds.items()},
        "unproven": unproven,
        "memory_mb": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024),
        "growth_s": {
            count: round(statistics.median(timed(count, wish, "cheapest")[0] for wish in WISHES[:3]), 2)
            for count in GROWTH
        },
        "plan_command_s": round(whole, 2),
    }


def main(args: list[str]) -> int:
    print(json.dumps(times() if args[:1] == ["times"] else against_everything(int((args or [SMALL])[0]))))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
