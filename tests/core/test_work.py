"""Job sheets: what holds of every sheet over the demo's plans and random ones, and sheets worked out by hand.

That a sheet can be done is proved by `replay`, which walks it over the bike and knows nothing of the planner.
"""

from __future__ import annotations

import functools
import json
import random
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import pytest
from attrs import evolve

from tests.cases import each
from tests.depth import many
from unkett.core.bike.overlay import with_changes
from unkett.core.build import Build
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.intake.inspection import TICKS
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS, slots_of_kind
from unkett.core.work.custom_steps import OwnStep, with_own
from unkett.core.work.defect import Defect
from unkett.core.work.package_steps import is_for
from unkett.core.work.packages import shipped_packages
from unkett.core.work.parsing import can_have, replay_from, sheet_from, work_from
from unkett.core.work.replay import Goal, Walked, replay
from unkett.core.work.scope import Scope
from unkett.core.work.sheet import job_steps
from unkett.core.work.step import DOES, JobSheet, times

DEMO = Path(__file__).resolve().parents[2] / "src/unkett/web/demo"
BIKES = json.loads((DEMO / "bikes.json").read_text())
CATALOGUE = [row for row in json.loads((DEMO / "catalogue.json").read_text()) if not row.get("also")]
Json = dict[str, Any]
REACH = {
    "front_hub": ("front_rotor", "front_tyre"), "rear_hub": ("cassette", "rear_rotor", "rear_tyre"),
    "front_rim": ("front_tyre",), "rear_rim": ("rear_tyre",), "headset": ("fork", "stem"), "fork": ("stem",),
    "bottom_bracket": ("crank",),
}  # fmt: skip
BRAKES = ("brake_lever", "brake_line", "caliper", "rotor", "brake_adapter")
STEERING = {"fork", "headset", "stem", "handlebar"}
FIRST_THEN = (
    ("headset", "fork"), ("fork", "stem"), ("stem", "handlebar"), ("handlebar", "front_brake_lever"),
    ("handlebar", "rear_shifter"), ("bottom_bracket", "crank"), ("rear_derailleur", "rear_shift_line"),
    ("rear_shifter", "rear_shift_line"), ("cassette", "chain"), ("chainrings", "chain"), ("rear_derailleur", "chain"),
    *((f"{end}_{one}", f"{end}_tyre") for end in ("front", "rear") for one in ("rim", "spokes", "hub")),
)  # fmt: skip


def swapped(build: Json, swaps: dict[str, Json | None]) -> Json:
    """A bike with other parts laid over it, as a plan is exported."""
    now = build_from(build)
    return with_changes(
        now, {slot: part and build_from({"parts": {slot: part}}).parts[slot] for slot, part in swaps.items()}
    ).to_json()


def demo_plans() -> list[tuple[str, Json]]:
    by_name = {(part["kind"], part["name"]): part for part in CATALOGUE}
    found = []
    for row in BIKES:
        for plan in row["plans"]:
            swaps = {
                slot: None if name is None else part_of(by_name[SLOTS[slot].kind, name])
                for slot, name in plan["swaps"].items()
            }
            work = {"build": row["build"], "planned": swapped(row["build"], swaps)}
            found.append((plan["name"], {**work, "packages": plan.get("packages", [])}))
    return found


def part_of(row: Json) -> Json:
    return {"kind": row["kind"], "name": row["name"], "attrs": row["attrs"]}


def random_work(seed: int) -> Json:
    """A bike with a few parts of the catalogue in its slots, some emptied, and a few defects."""
    pick = random.Random(seed)
    build = pick.choice(BIKES)["build"]
    swaps: dict[str, Json | None] = {}
    for row in pick.sample(CATALOGUE, pick.randint(1, 14)):
        slot = pick.choice(slots_of_kind(row["kind"])).name
        swaps[slot] = part_of(row) if pick.random() < 0.9 else None
    swaps = {slot: part for slot, part in swaps.items() if part is not None or slot in build["parts"]}
    codes = pick.sample(sorted(TICKS), pick.randint(0, 6))
    planned = swapped(build, swaps)
    then = build_from(planned)
    defects = [
        {"slot": slot, "defect": code, "do": pick.choice(["must", "should", "may"])}
        for code in codes
        for slot in [pick.choice(TICKS[code].slots)]
        if can_have(then, Defect(slot=slot, defect=code))
    ]
    skip = pick.choice([[], [], ["may"], ["may", "should"]])
    return {"build": build, "planned": planned, "defects": defects, "skip": skip}


def alike(one: Json | None, other: Json | None) -> bool:
    """Whether a part is the same piece of metal: a frame that turns and spokes to be laced again are."""
    if one is None or other is None:
        return one is other
    return (one["kind"], one["name"]) == (other["kind"], other["name"]) and (
        one["kind"] in ("frame", "spokes") or one["attrs"] == other["attrs"]
    )


def holds(work: Json, sheet: Json) -> None:
    """Asserts the eight promises of a sheet."""
    steps = sheet["steps"]
    ids = [step["id"] for step in steps]
    place = {name: n for n, step in enumerate(steps) for name in [step["id"]]}
    now, then = work["build"]["parts"], work.get("planned", work["build"])["parts"]
    changed = [slot for slot in SLOTS if not alike(now.get(slot), then.get(slot))]

    def of(does: str, slot: str) -> list[int]:
        return [n for n, step in enumerate(steps) if step["does"] == does and step["slot"] == slot]

    # 1
    assert len(ids) == len(set(ids))
    for step in steps:
        assert all(place[name] < place[step["id"]] for name in step["after"]), step
        assert step["does"] in DOES
        assert step["id"].split(":")[:2] == [step["does"], step["slot"]]
    # 2
    for slot in changed:
        if slot in now:
            assert of("take_off", slot), slot
        if slot in then:
            assert of("fit", slot), slot
            assert all(off < on for off in of("take_off", slot) for on in of("fit", slot))
        else:
            assert not [n for n in of("fit", slot) if not steps[n]["needs"]], slot
    for slot in (slot for one in changed for slot in REACH.get(one, ())):
        if slot in now and slot in then and slot not in changed:
            along = [n for n, step in enumerate(steps) if slot in step["with"]]
            assert min([*of("take_off", slot), *along]) < max([*of("fit", slot), *along])
            assert along or now[slot]["name"] in {steps[n]["part"] for n in of("fit", slot)}
    # 3
    for one, other in FIRST_THEN:
        assert all(first < n for first in of("fit", one) for n in of("fit", other)
                   if ids[n].count(":") < 2 or steps[n]["needs"] == []
                   if not ids[first].endswith(":wheel")), (one, other)  # fmt: skip
    for end in ("front", "rear"):
        wheel = place.get(f"fit:{end}_hub:wheel")
        if wheel is not None:
            for slot in (f"{end}_tyre", f"{end}_rotor", *(["cassette"] if end == "rear" else [])):
                assert all(n < wheel for n in of("fit", slot)), [ids[n] for n in of("fit", slot)]
            assert all(wheel < n for n in of("adjust", f"{end}_caliper") if not steps[n]["defects"])
    assert all(n < m for n in of("adjust", "rear_derailleur") for m in of("adjust", "front_derailleur"))
    assert all(n < m for n in of("fit", "rear_shift_line") for m in of("adjust", "rear_derailleur"))
    # 4
    work_done = [
        n for n, step in enumerate(steps) if step["does"] in ("take_off", "prepare", "fit", "adjust")
    ]
    for what, slots in (
        ("brakes", {f"{end}_{kind}" for end in ("front", "rear") for kind in BRAKES}),
        ("steering", STEERING),
    ):
        if slots & set(changed):
            checks = [n for slot in slots for n in of("check", slot) if steps[n]["safety"]]
            assert checks, what
            assert max(checks) > max(work_done)
    assert ids[-1] == "hand_over:bike"
    assert len(of("hand_over", "bike")) == 1
    # 5
    said = {(row["rule"], tuple(row["slots"]), row["says"]) for row in checked(work["build"])}
    settled = {what for step in steps for what in step["needs"]}
    for row in checked(work.get("planned", work["build"])):
        if row["verdict"] == "goes_if" and (row["rule"], tuple(row["slots"]), row["says"]) not in said:
            assert {need["what"] for need in row["needs"]} <= settled, row
    for step in steps:
        if {"cut the steerer", "tapping the shell"} & set(step["needs"]) or "cold-set" in step["id"]:
            assert step["caution"]
            assert any(name.startswith("measure:") for name in step["after"])
    for one in work.get("defects", []):
        ref = f"{one['slot']}:{one['defect']}"
        assert sum(ref in step["defects"] for step in steps) == (one["do"] not in work.get("skip", [])), ref
    # every step says why it is done; what serves another never owns the minutes
    for step in steps:
        assert step["causes"], step["id"]
        assert step["causes"][0] not in ("access", "proof"), step
        assert [step["does"], bool(step["part"])] == [step["does"], is_part_step(step)], step
    # 6: the clock by another way: every end by itself
    assert sheet["minutes"] == sum(step["minutes"] for step in steps)
    clock, ends = 0, {}
    for step in steps:
        for name in step["after"]:
            clock = max(clock, ends[name])
        clock += step["minutes"]
        ends[step["id"]] = clock + step["wait_minutes"]
    assert sheet["ready_minutes"] == max(ends.values())
    # 7
    early = {step["id"] for step in steps if step["wait_minutes"] >= 60}
    for step in reversed(steps):
        early |= set(step["after"]) if step["id"] in early else set()
    assert {step["id"] for step in steps[: len(early)]} == early
    # torque and compound
    for step in steps:
        assert step["passes"] >= 1
        if step["torque_nm"] is None:
            assert step["torque_from"] is None
        else:
            low, high = step["torque_nm"]
            assert low <= high
            assert low <= step["target_nm"] <= high or step["torque_from"] == "part"
        assert step["compound"] is None or step["compound"] in lookup("compounds", "code")


def is_part_step(step: Json) -> bool:
    """Whether a step takes a part off its place or puts it on, by its id."""
    word = step["id"].split(":")[2:]
    return step["does"] in ("take_off", "fit") and word in (
        [],
        ["left"],
        ["right"],
        ["drive"],
        ["other"],
        ["back"],
    )


@functools.cache
def _checked(text: str) -> tuple[Json, ...]:
    return tuple(finding.to_json() for finding in check(build_from(json.loads(text))).findings)


def checked(build: Json) -> tuple[Json, ...]:
    return _checked(json.dumps(build))


@pytest.mark.parametrize(("name", "work"), demo_plans(), ids=[name for name, _ in demo_plans()])
def test_every_plan_of_the_demo_keeps_the_promises(name, work) -> None:
    sheet = sheet_from(work).to_json()
    holds(work, sheet)
    assert sheet_from(json.loads(json.dumps(work))).to_json() == sheet
    assert replay_from({"work": work, "job": sheet}).ok


@pytest.mark.parametrize(("name", "work"), demo_plans(), ids=[name for name, _ in demo_plans()])
def test_a_sheet_turned_round_or_shortened_is_refused(name, work) -> None:
    """What has to be out of the way comes back before it, a needed step is missing, a foreign one is there."""
    sheet = sheet_from(work).to_json()
    steps = sheet["steps"]
    ids = [step["id"] for step in steps]
    work_steps = [
        n for n, one in enumerate(ids) if one.startswith(("take_off:", "fit:")) and not steps[n]["needs"]
    ]
    assert not replay_from({"work": work, "job": {"steps": steps[::-1]}}).ok
    for n in work_steps:
        shorter = [*steps[:n], *steps[n + 1 :]]
        assert not replay_from({"work": work, "job": {"steps": shorter}}).ok, ids[n]
    foreign = [*steps[:3], {"id": "fit:chain:sideways", "with": []}, *steps[3:]]
    found = replay_from({"work": work, "job": {"steps": foreign}})
    assert (found.ok, found.step) == (False, "fit:chain:sideways")


@pytest.mark.long
@pytest.mark.parametrize("bike", BIKES, ids=[row["build"]["name"] for row in BIKES])
def test_every_finding_on_every_bike_is_mended_by_a_sheet_that_can_be_done(bike) -> None:
    build = build_from(bike["build"])
    for code, tick in TICKS.items():
        for slot in tick.slots:
            defect = Defect(slot=slot, defect=code)
            if (slot == "bike" or slot in build.filled()) and can_have(build, defect):
                walk(build, build, defects=[defect])


@pytest.mark.long
@pytest.mark.parametrize("bike", BIKES, ids=[row["build"]["name"] for row in BIKES])
def test_every_part_alone_and_every_frame_is_changed_by_a_sheet_that_can_be_done(bike) -> None:
    now = build_from(bike["build"])
    for slot in now.parts:
        walk(now, now, replaced=[slot])
        walk(now, with_changes(now, {slot: None}))
    for other in BIKES[::3]:
        frame = build_from(other["build"]).parts["frame"]
        walk(now, with_changes(now, {"frame": evolve(frame, name=f"{frame.name}, another")}))


def walk(now: Build, then: Build, *, done: Sequence[str] = (), **more: Any) -> JobSheet:
    """The sheet of a job, walked by replay."""
    sheet = job_steps(now, then, done=done, **more)
    cuts = any(step.id == "prepare:fork:cut" for step in sheet.steps)
    scope = Scope.of(now, then, replaced=more.get("replaced", ()), cuts=cuts)
    steps = [Walked(id=step.id, along=step.along) for step in sheet.steps]
    found = replay(scope, steps, Goal(defects=tuple(more.get("defects", ())), done=frozenset(done)))
    assert found.ok, (found, more)
    return sheet


@pytest.mark.long
@pytest.mark.parametrize("first", range(0, many(20), 10))
def test_a_sheet_made_again_in_mid_work_goes_on_from_there(first) -> None:
    """The same goal asks for the same steps; a goal that is gone has what was done for it taken back."""
    for seed in range(first, first + 10):
        pick = random.Random(seed)
        work = work_from(random_work(seed))
        then = work.planned or work.build
        todo = [one for one in work.defects if one.do not in work.skip]
        ids = [step.id for step in job_steps(work.build, then, defects=todo).steps]
        done = ids[: pick.randint(0, len(ids) - 1)]
        again = walk(work.build, then, done=done, defects=todo)
        assert {step.id for step in again.steps} == set(ids)
        assert [step.id for step in again.steps[: len(done)]] == done
        assert [step.done for step in again.steps] == [True] * len(done) + [False] * (len(ids) - len(done))
        walk(work.build, work.build, done=done)


@pytest.mark.long
@pytest.mark.parametrize("first", range(0, many(40), 10))
def test_random_plans_keep_the_promises(first) -> None:
    for seed in range(first, first + 10):
        work = random_work(seed)
        sheet = sheet_from(work)
        holds(work, sheet.to_json())
        assert replay_from({"work": work, "job": sheet.to_json()}).ok, seed
        longest = by_brute_force(sheet)
        assert sheet.path_minutes == longest <= sheet.ready_minutes


def by_brute_force(sheet: Any) -> int:
    """The longest path by another way: relaxing every link until nothing moves."""
    long = {step.id: step.minutes + step.wait_minutes for step in sheet.steps}
    own = dict(long)
    for _ in sheet.steps:
        for step in sheet.steps:
            for name in step.after:
                long[step.id] = max(long[step.id], long[name] + own[step.id])
    return max(long.values())


def steps_of(parts: Json, planned: Json | None = None, **more: Any) -> dict[str, Json]:
    work: Json = {"build": {"parts": parts}, **more}
    if planned is not None:
        work["planned"] = {"parts": planned}
    return {step["id"]: step for step in sheet_from(work).to_json()["steps"]}


def stem(name: str, **attrs: Any) -> Json:
    return {"kind": "stem", "name": name, "attrs": {"mount": "threadless", **attrs}}


CARBON = {"kind": "fork", "name": "f", "attrs": {"steerer_material": "carbon"}}
STEEL = {"kind": "fork", "name": "f", "attrs": {"steerer_material": "steel"}}


@pytest.mark.parametrize(
    ("fork", "attrs", "range_nm", "target", "said_by"),
    [
        (STEEL, {}, [5, 6], 5.5, "table"),  # the middle of the table's 5 to 6
        (CARBON, {}, [5, 5], 5, "table"),  # carbon in its paste: the lower end
        (STEEL, {"steerer_bolt_nm": [4, 6]}, [4, 6], 5, "part"),  # a printed range in its middle
        (CARBON, {"steerer_bolt_nm": 5}, [5, 5], 4.5, "part"),  # a printed single figure is a most: 90 %
    ],
)
def test_a_torque_is_the_parts_own_or_the_tables(fork, attrs, range_nm, target, said_by) -> None:
    step = steps_of({"stem": stem("old"), "fork": fork}, {"stem": stem("new", **attrs), "fork": fork})[
        "fit:stem"
    ]
    assert (step["torque_nm"], step["target_nm"], step["torque_from"]) == (range_nm, target, said_by)
    assert (step["thread"], step["passes"], step["reading"]) == ("right", 4, {"word": "torque", "unit": "Nm"})


@pytest.mark.parametrize(
    ("shell", "threads"),
    [("bsa", ["left", "right"]), ("t47", ["left", "right"]), ("swiss", ["left", "right"]), ("italian", ["right"] * 2),
     ("french", ["right"] * 2), ("pf30", [None])],
)  # fmt: skip
def test_cups_turn_as_their_shell_has_them(shell, threads) -> None:
    bracket = {"kind": "bottom_bracket", "name": "b", "attrs": {"shell": shell, "spindle": "d24"}}
    found = [
        step
        for step in steps_of({}, {"bottom_bracket": bracket}).values()
        if step["slot"] == "bottom_bracket"
    ]
    assert [step["thread"] for step in found if step["does"] == "fit"] == threads
    cure = [step["wait_minutes"] for step in found if step["does"] == "wait"]
    assert cure == ([720] if shell == "pf30" else [])  # retaining compound: 12 hours at the least


def test_pedals_are_two_steps_and_the_left_one_turns_left() -> None:
    steps = steps_of({}, {"pedals": {"kind": "pedals", "name": "p", "attrs": {}}})
    assert steps["fit:pedals:right"]["thread"] == "right"
    assert steps["fit:pedals:left"]["thread"] == "left"
    assert {steps[f"fit:pedals:{side}"]["target_nm"] for side in ("left", "right")} == {37.5}  # 35 to 40


def test_a_headset_that_is_greased_in_place_has_its_fork_out_and_back() -> None:
    parts = {
        "headset": {"kind": "headset", "name": "h", "attrs": {}},
        "fork": {"kind": "fork", "name": "f", "attrs": {}},
        "stem": stem("s"),
    }
    order = list(steps_of(parts, defects=[{"slot": "headset", "defect": "headset_dry", "do": "should"}]))
    names = ["take_off:stem", "take_off:fork", "clean:headset:headset_dry", "fit:fork", "fit:stem"]
    assert sorted(names, key=order.index) == names
    assert "take_off:headset" not in order


BIKE = {row["build"]["name"]: row["build"] for row in BIKES}
TRAIL, AUDAX, FERRY = "Moor trail", "Coast audax", "Ferry commuter"

# bike, what is asked, steps that stand in this order, steps that are not there (handbook of the trade, third round, 1)
ORDERS = [
    (TRAIL, {"replaced": ["front_rotor"]},
     ["take_off:front_hub:wheel", "take_off:front_rotor", "fit:front_rotor", "fit:front_hub:wheel",
      "adjust:front_caliper:centre", "check:front_caliper:brake", "check:bike:ride", "hand_over:bike"],
     ["take_off:front_caliper", "adjust:front_brake_line:bleed"]),
    (TRAIL, {"replaced": ["rear_derailleur"]},
     ["take_off:rear_shift_line:release", "take_off:rear_derailleur", "measure:rear_derailleur:hanger",
      "fit:rear_derailleur", "prepare:rear_derailleur:limits", "fit:rear_shift_line:join",
      "adjust:rear_derailleur:index", "check:bike:gears"],
     ["take_off:rear_hub:wheel", "take_off:chain"]),
    (TRAIL, {"replaced": ["fork"]},
     ["take_off:stem", "take_off:spacers", "take_off:fork", "prepare:fork:race", "prepare:fork:stack",
      "measure:fork:steerer", "prepare:fork:unstack", "fit:fork", "fit:spacers", "fit:stem",
      "adjust:front_caliper:centre", "check:stem:steering"],
     ["take_off:handlebar", "take_off:front_brake_line:release", "adjust:front_brake_line:bleed", "take_off:headset"]),
    (TRAIL, {"replaced": ["seatpost"]},
     ["take_off:dropper_line:release", "take_off:saddle", "take_off:seatpost", "fit:seatpost", "fit:saddle",
      "measure:seatpost:height"],
     ["take_off:dropper_line", "check:stem:steering"]),
    (TRAIL, {"replaced": ["front_brake_lever"]},
     ["take_off:grips", "take_off:front_brake_lever", "fit:front_brake_lever", "fit:front_brake_line:join",
      "adjust:front_brake_line:bleed", "adjust:front_caliper:centre", "check:front_caliper:brake"],
     ["take_off:front_caliper", "take_off:handlebar"]),
    (FERRY, {"replaced": ["front_caliper"]},
     ["take_off:front_brake_line:release", "take_off:front_caliper", "fit:front_caliper", "fit:front_brake_line:join",
      "adjust:front_caliper:pads", "check:front_caliper:brake"],
     ["adjust:front_brake_line:bleed", "take_off:front_hub:wheel"]),
    (AUDAX, {"replaced": ["crank"]},
     ["take_off:pedals:left", "take_off:crank", "fit:chainrings", "fit:crank", "fit:pedals:right",
      "adjust:front_derailleur:index", "check:bike:gears"],
     ["take_off:chain", "take_off:front_derailleur", "take_off:bottom_bracket:drive"]),
    (AUDAX, {"replaced": ["chain"]},
     ["take_off:chain", "fit:chain", "adjust:rear_derailleur:index", "check:bike:gears"],
     ["take_off:rear_derailleur", "take_off:crank"]),
    (TRAIL, {"defects": [{"slot": "rear_rim", "defect": "spoke_broken"}]},
     ["take_off:rear_hub:wheel", "take_off:rear_tyre", "fit:rear_rim:spoke_broken", "adjust:rear_rim:true",
      "fit:rear_tyre", "fit:rear_hub:wheel", "check:rear_hub:wheel"],
     ["take_off:rear_spokes"]),
    (TRAIL, {"defects": [{"slot": "frame", "defect": "hanger_bent"}]},
     ["take_off:rear_derailleur", "adjust:frame:hanger_bent", "measure:rear_derailleur:hanger", "fit:rear_derailleur",
      "adjust:rear_derailleur:index"],
     ["take_off:rear_hub:wheel"]),
    (TRAIL, {"defects": [{"slot": "front_brake_line", "defect": "brake_air"}]},
     ["adjust:front_brake_line:bleed", "adjust:front_caliper:centre", "check:front_caliper:brake"],
     ["adjust:front_brake_line:brake_air", "take_off:front_caliper"]),
    (TRAIL, {"defects": [{"slot": "front_caliper", "defect": "pads_through"}]},
     ["take_off:front_hub:wheel", "fit:front_caliper:pads_through", "fit:front_hub:wheel",
      "adjust:front_caliper:centre", "check:front_caliper:brake", "check:bike:ride"],
     ["take_off:front_caliper"]),
]  # fmt: skip


@pytest.mark.parametrize(("bike", "asked", "order", "absent"), ORDERS)
def test_what_is_in_the_way_goes_first_and_comes_back(bike, asked, order, absent) -> None:
    ids = [step["id"] for step in sheet_from({"build": BIKE[bike], **asked}).to_json()["steps"]]
    assert [name for name in order if name not in ids] == []
    assert sorted(order, key=ids.index) == order
    assert [name for name in absent if name in ids] == []


def test_a_frame_swap_takes_groups_whole_and_opens_no_joint_twice() -> None:
    now = build_from(BIKE[TRAIL])
    frame = build_from(BIKE["Beacon hill dropper"]).parts["frame"]
    sheet = walk(now, with_changes(now, {"frame": frame}))
    by_id = {step.id: step for step in sheet.steps}
    assert len(by_id) == len(sheet.steps) <= 60
    assert set(by_id["take_off:stem"].along) >= {
        "handlebar",
        "front_brake_lever",
        "front_brake_line",
        "grips",
    }
    assert by_id["take_off:stem"].along == by_id["fit:stem"].along
    assert by_id["take_off:crank"].along == ("chainrings", "pedals")
    assert by_id["take_off:seatpost"].along == ("saddle",)
    assert not {"take_off:front_brake_line:release", "take_off:rear_brake_line:release"} & by_id.keys()


# sort of a part, the step, its words and its torque
SORTS = [
    ("crank", {"spindle": "d24"}, "adjust:crank:crank_loose", "preload cap", [12, 14]),
    ("crank", {"spindle": "square_jis"}, "adjust:crank:crank_loose", "bore", [35, 45]),
    ("crank", {}, "adjust:crank:crank_loose", "record it", None),
    ("chainrings", {"mount": "direct_3bolt"}, "fit:chainrings", "Three small bolts", [8, 10]),
    ("chainrings", {"mount": "direct_spline"}, "fit:chainrings", "look it up", [40, 60]),
    ("chainrings", {}, "fit:chainrings", "record it", None),
    ("front_hub", {"axle_kind": "solid"}, "fit:front_hub:wheel", "axle nuts", [25, 35]),
    ("rear_hub", {"axle_kind": "solid"}, "fit:rear_hub:wheel", "axle nuts", [35, 45]),
    ("rear_hub", {}, "fit:rear_hub:wheel", "record it", None),
    ("headset", {"upper": "IS42/28.6"}, "fit:headset", "Lay the bearings", None),
    ("headset", {"upper": "ZS44/28.6"}, "fit:headset", "Press the cups", None),
    ("stem", {"mount": "threadless", "faceplate_gap": "closed_top"}, "fit:handlebar", "upper gap fully first", [4, 6]),
    ("front_brake_line", {"type": "brake_housing"}, "fit:front_brake_line", "stainless inner", [6, 8]),
    ("front_brake_line", {"type": "hose"}, "fit:front_brake_line", "Hose", None),
    ("front_brake_line", {}, "fit:front_brake_line", "hose or cable", None),
]  # fmt: skip


def test_each_sort_of_part_has_its_own_words_and_an_unknown_one_is_asked_for() -> None:
    def examine(row: tuple[str, Json, str, str, list[float] | None]) -> None:
        slot, attrs, name, words, torque = row
        part = {"kind": SLOTS[slot].kind, "name": "x", "attrs": attrs}
        bar = {"handlebar": {"kind": "handlebar", "name": "b", "attrs": {}}}
        build = {"parts": {slot: part, **bar}}
        defects = [{"slot": slot, "defect": name.split(":")[2]}] if "crank_loose" in name else []
        sheet = sheet_from(
            {"build": build, "replaced": [slot, "handlebar"][bool(defects) :], "defects": defects}
        )
        step = {one["id"]: one for one in sheet.to_json()["steps"]}[name]
        assert words in step["says"]
        assert step["torque_nm"] == torque

    each(SORTS, examine)


def test_a_motor_wheel_comes_out_with_its_plug_and_its_battery_out_first() -> None:
    build = {
        "parts": {
            "motor": {"kind": "motor", "attrs": {"type": "hub_rear"}},
            "rear_hub": {"kind": "hub", "attrs": {"axle_kind": "solid"}},
            "rear_tyre": {"kind": "tyre", "attrs": {}},
        }
    }
    steps = {
        step["id"]: step
        for step in sheet_from({"build": build, "replaced": ["rear_tyre"]}).to_json()["steps"]
    }
    assert "plug parted" in steps["take_off:rear_hub:wheel"]["says"]
    assert steps["take_off:rear_hub:wheel"]["tools"] == ["spanner of the axle nut"]
    assert list(steps).index("look:motor") < list(steps).index("take_off:rear_hub:wheel")


def test_a_defect_that_the_sort_of_part_cannot_have_is_refused_by_path() -> None:
    rim = {
        "parts": {
            "front_caliper": {"kind": "caliper", "attrs": {"type": "linear_pull", "actuation": "cable"}}
        }
    }
    with pytest.raises(InputError) as error:
        sheet_from({"build": rim, "defects": [{"slot": "front_caliper", "defect": "caliper_off"}]})
    assert "defects[0].defect: caliper_off given" in str(error.value)


def test_long_waits_come_first_and_work_goes_on_meanwhile() -> None:
    """Six rotor bolts cure 240 min; a saddle and two pedals are fitted meanwhile, so that they cost no time."""
    new = {
        "front_hub": {"kind": "hub", "name": "h", "attrs": {}},
        "front_rotor": {"kind": "rotor", "name": "r", "attrs": {"mount": "six_bolt"}},
        "saddle": {"kind": "saddle", "name": "s", "attrs": {}},
    }
    sheet = sheet_from({"build": {"parts": {}}, "planned": {"parts": new}})
    at = times(sheet.steps)
    assert at["wait:front_rotor:cure"][1] - at["fit:front_rotor"][1] == 240
    assert at["fit:front_rotor"][1] <= at["fit:saddle"][0] < at["wait:front_rotor:cure"][1]
    order = [step.id for step in sheet.steps]
    assert order.index("wait:front_rotor:cure") < order.index("fit:saddle")


@pytest.mark.parametrize(
    ("work", "says"),
    [
        ([], "a job's work (unkett.work/1) is an object"),
        ({}, "build: missing"),
        ({"build": {"parts": {"chian": {}}}}, "build.parts.chian"),
        (
            {"build": {"parts": {}}, "planned": {"parts": {"chain": {"attrs": {"links": "x"}}}}},
            "planned.parts.chain",
        ),
        ({"build": {"parts": {}}, "format": "unkett.wish/1"}, "format:"),
        (
            {"build": {"parts": {}}, "defects": [{"slot": "chain", "defect": "chain_wurn"}]},
            "defects[0].defect",
        ),
        ({"build": {"parts": {}}, "defects": [{"slot": "stem", "defect": "chain_worn"}]}, "defects[0].slot"),
        (
            {"build": {"parts": {}}, "defects": [{"slot": "chain", "defect": "chain_worn", "do": "now"}]},
            "defects[0].do",
        ),
        ({"build": {"parts": {}}, "defects": [{"slot": "chain", "defect": "chain_worn"}] * 2}, "given twice"),
        ({"build": {"parts": {}}, "defects": {}}, "defects:"),
        ({"build": {"parts": {}}, "skip": ["never"]}, "skip[0]"),
        ({"build": {"parts": {}}, "hurry": True}, "hurry"),
    ],
)
def test_bad_work_is_reported_by_its_path(work, says) -> None:
    with pytest.raises(InputError) as error:
        sheet_from(work)
    assert says in str(error.value)


def test_the_command_prints_the_sheet_and_refuses_bad_input(tmp_path) -> None:
    def job(text: str, *args: str) -> Any:
        (tmp_path / "w.json").write_text(text)
        command = [sys.executable, "-m", "unkett.cli", "job", *(args or [str(tmp_path / "w.json")])]
        return subprocess.run(command, capture_output=True, text=True, check=False)

    good = job(json.dumps({"build": {"parts": {}}}))
    assert good.returncode == 0
    assert json.loads(good.stdout)["format"] == "unkett.job/1"
    bad = job('{"build": 7}')
    assert (bad.returncode, bad.stdout) == (2, "")
    assert "build" in bad.stderr
    rows = json.loads(job("", "--defects").stdout)
    assert {"slot": "rear_derailleur", "defect": "pivot_sticky", "says": "Pivot or spring sticky"} in rows


def own(code: str = "take_off:chain", **more: Any) -> OwnStep:
    row = {"does": "take_off", "slot": "chain", "says": "Our way.", "minutes": 3, **more}
    return OwnStep(code=code, **row)


def test_a_workshops_own_steps_stand_over_those_that_ship() -> None:
    chain = {"chain": {"kind": "chain", "name": "c", "attrs": {}}}
    now, then = build_from({"parts": chain}), build_from({"parts": {}, "empty": ["chain"]})
    templates = with_own([
        own(),
        own("check:bike:our-eye", does="check", slot="bike", says="Another pair of eyes.", after=("take_off:chain",)),
        own("look:bike", does="look", slot="bike", left_out=False, says="Look twice.", minutes=8),
    ])  # fmt: skip
    steps = {step.id: step for step in job_steps(now, then, templates=templates).steps}
    assert (steps["take_off:chain"].says, steps["take_off:chain"].minutes) == ("Our way.", 3)
    assert steps["look:bike"].minutes == 8
    assert "check:bike:our-eye" in steps
    gone = job_steps(
        now, then, templates=with_own([own("check:bike:gears", does="check", slot="bike", left_out=True)])
    )
    assert "check:bike:gears" not in {step.id for step in gone.steps}


@pytest.mark.parametrize(
    ("steps", "says"),
    [
        ([own(minutes=-1)], "take_off:chain.minutes: -1 given"),
        ([own(wait_minutes=-5)], "take_off:chain.wait_minutes"),
        ([own(slot="")], "take_off:chain.slot: no slot given"),
        ([own(does="hammer")], "take_off:chain.does"),
        ([own(says=" ")], "take_off:chain.says"),
        ([own(after=("fit:chian",))], "take_off:chain.after: fit:chian is no step"),
        ([own(after=("fit:chain",))], "wait for each other"),  # the chain goes on after the old one is off
        ([own("fit:bike:a", does="fit", slot="bike", after=("fit:bike:b",)),
          own("fit:bike:b", does="fit", slot="bike", after=("fit:bike:a",))], "wait for each other"),
    ],
)  # fmt: skip
def test_own_steps_that_cannot_be_are_reported_by_name(steps, says) -> None:
    with pytest.raises(InputError) as error:
        with_own(steps)
    assert says in str(error.value)


def test_doubted_readings_are_taken_again_before_the_joint_is_worked_on() -> None:
    now = {"chain": {"attrs": {"speeds": 9, "outer_width_mm": 6.6}}, "cassette": {"attrs": {"speeds": 10}}}
    new = {**now, "chain": {"attrs": {"speeds": 10, "outer_width_mm": 7.1, "links": 114}}}
    sheet = job_steps(build_from({"parts": now}), build_from({"parts": new}))
    (again,) = [step for step in sheet.steps if step.id == "measure:chain:misread"]
    assert "10" in again.says
    assert "7.1 mm" in again.says
    assert again.reading == {"slot": "chain", "attr": "outer_width_mm", "unit": "mm"}
    fitted = [step for step in sheet.steps if step.id == "fit:chain"]
    assert fitted
    assert all(again.id in step.after for step in fitted)
    agrees = {**now, "chain": {"attrs": {"speeds": 10, "outer_width_mm": 6.0, "links": 114}}}
    other = job_steps(build_from({"parts": now}), build_from({"parts": agrees}))
    assert not [step for step in other.steps if step.id == "measure:chain:misread"]


def test_a_package_is_offered_where_the_bike_has_what_it_serves() -> None:
    plain = build_from({"parts": {"fork": {"attrs": {"travel_mm": 0}}, "seatpost": {}, "chain": {}}})
    sprung = build_from(
        {
            "parts": {
                "fork": {"attrs": {"travel_mm": 120}},
                "seatpost": {"attrs": {"dropper_travel_mm": 150}},
                "shock": {},
            }
        }
    )
    suspension = {"fork_lowers", "fork_air_spring", "shock_can", "dropper_service"}
    on_plain, on_sprung = (
        {code for code, one in shipped_packages().items() if is_for(one, build)} for build in (plain, sprung)
    )
    assert not on_plain & {*suspension, "linkage_bearings", "wheel_true"}
    assert {"safety_check", "full_service"} <= on_plain
    assert suspension <= on_sprung
