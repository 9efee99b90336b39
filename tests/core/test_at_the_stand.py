"""At the stand: any lawful order can be done, packages name every bolt, wheels move whole, every coat is a step."""

from __future__ import annotations

import random
import re
from decimal import Decimal
from typing import Any

import pytest

from tests.cases import each
from tests.core.test_work import BIKES, demo_plans
from tests.depth import many
from unkett.core.build import Build, Part
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.standards import table
from unkett.core.work.open_facts import Did, open_words
from unkett.core.work.package_steps import torque_row
from unkett.core.work.packages import Package, shipped_packages
from unkett.core.work.parsing import replay_from, sheet_from, work_from
from unkett.core.work.price import Money, quote_of_sheet
from unkett.core.work.quote_reader import finished_from
from unkett.core.work.readings import Expected, judge
from unkett.core.work.replay import Walked, replay
from unkett.core.work.scope import Scope
from unkett.core.work.sheet import job_steps
from unkett.core.work.step import JobSheet
from unkett.core.work.templates import shipped

Json = dict[str, Any]
PACKAGES = tuple(shipped_packages())


def any_lawful_order(sheet: JobSheet, seed: int) -> list[Walked]:
    """The steps as several hands might take them: each once all that must come before it is done."""
    pick, left = random.Random(seed), {step.id: step for step in sheet.steps}
    done: list[Walked] = []
    while left:
        ready = [step for step in left.values() if not left.keys() & set(step.lawful)]
        step = pick.choice(ready)
        done.append(Walked(id=step.id, along=step.along))
        del left[step.id]
    return done


def scope_of(work: Json) -> Scope:
    asked = work_from(work)
    then = asked.planned if asked.planned is not None else asked.build
    cuts = any(step.id == "prepare:fork:cut" for step in sheet_from(work).steps)
    return Scope.of(asked.build, then, replaced=asked.replaced, cuts=cuts, packages=asked.packages)


def works() -> list[tuple[str, Json]]:
    services = [
        (f"{bike['build']['name']}, {name}", {"build": bike["build"], "packages": [name]})
        for bike in BIKES
        for name in PACKAGES
    ]
    return [*demo_plans(), *services]


def test_any_lawful_order_of_a_sheet_can_be_done() -> None:
    """Two mechanics need no order but the facts': random orders of every demo plan and every package replay."""

    def examine(row: tuple[str, Json]) -> None:
        name, work = row
        sheet, scope = sheet_from(work), scope_of(work)
        for seed in range(many(3)):
            walked = replay(scope, any_lawful_order(sheet, seed))
            assert walked.ok, (name, seed, walked.step, walked.why)

    each(works(), examine)


def test_the_sheets_own_order_is_one_of_the_lawful_ones() -> None:
    for _name, work in works():
        sheet = sheet_from(work)
        place = {step.id: n for n, step in enumerate(sheet.steps)}
        assert all(place[first] < place[step.id] for step in sheet.steps for first in step.lawful)
        assert replay_from({"work": work, "job": sheet.to_json()}).ok


def test_a_full_service_reads_every_bolt_of_the_bike() -> None:
    """Whatever the tables give a torque when it is fitted has a step with that torque."""
    for bike in BIKES:
        sheet = sheet_from({"build": bike["build"], "packages": ["full_service"]})
        build = build_from(bike["build"])
        error = {step.slot for step in sheet.steps if step.torque is not None and step.reading}
        for slot in build.parts:
            end = slot.partition("_")[0]
            general = slot.replace(f"{end}_", "{end}_", 1)
            rows = [
                row
                for row in shipped()
                if row.does == "fit" and row.slot in (slot, general) and row.word in ("", "left", "drive")
                and row.fits(end, build)
            ]  # fmt: skip
            if rows and torque_row(rows[0]) is not None and (rows[0].torque or slot not in ("crank",)):
                assert slot in error, (bike["build"]["name"], slot)


def test_a_package_is_a_line_of_the_quote_by_the_minute_or_at_its_price() -> None:
    build = build_from(BIKES[0]["build"])
    shipped_one = shipped_packages()["wheel_true"]
    hour, thirty = Decimal(60), Decimal(30)
    fixed = Package(
        code="wheel_true", title="Wheels trued", steps=shipped_one.steps, brings=("new inner",), price=thirty
    )
    dear = Money(labour_per_hour=hour, fixed={fixed.cause: thirty}, small_parts={"new inner": Decimal(4)})
    for package, money, price, parts in (
        (shipped_one, Money(labour_per_hour=hour), None, 0),
        (fixed, dear, thirty, 4),
    ):
        sheet = job_steps(build, packages=[package])
        quote = quote_of_sheet(sheet, money)
        line = next(line for line in quote.lines if line.cause == package.cause)
        assert (line.says, line.minutes) == ("Wheels trued", sum(step.minutes for step in sheet.steps
                                                                  if step.causes[0] == package.cause))  # fmt: skip
        assert line.price == (line.minutes if price is None else price)  # 60 an hour is 1 a minute
        assert quote.parts == parts
        assert quote.minutes == sheet.minutes


def test_an_unknown_package_is_reported_by_its_path() -> None:
    with pytest.raises(InputError, match=r"packages\[0\]"):
        sheet_from({"build": BIKES[0]["build"], "packages": ["ful_service"]})
    with pytest.raises(InputError, match="given twice"):
        sheet_from({"build": BIKES[0]["build"], "packages": ["wheel_true", "wheel_true"]})


# tubulars


def tubular(rim: Json) -> Build:
    parts = {
        "frame": {"kind": "frame"}, "fork": {"kind": "fork"},
        "front_hub": {"kind": "hub", "attrs": {"axle_kind": "quick_release"}}, "front_rim": rim,
        "front_spokes": {"kind": "spokes"}, "front_tyre": {"kind": "tyre", "name": "Old", "attrs": {"type": "tubular"}},
    }  # fmt: skip
    return build_from({"parts": parts})


def test_a_tubular_is_glued_coat_by_coat_each_with_its_wait() -> None:
    rim = {"kind": "rim", "name": "Sprint rim"}
    now = tubular(rim)
    new_tyre = now.with_part("front_tyre", Part(kind="tyre", name="New", attrs={"type": "tubular"}))
    sheet = job_steps(now, new_tyre)
    glue = [
        "take_off:front_tyre", "clean:front_rim:glue", "prepare:front_tyre:stretch", "prepare:front_tyre:coat_one",
        "prepare:front_tyre:coat_two", "fit:front_tyre", "wait:front_tyre:glue", "check:bike:ride",
    ]  # fmt: skip
    ids = [step.id for step in sheet.steps]
    assert [name for name in ids if name in glue] == glue
    waits = {step.id: step.wait_minutes for step in sheet.steps}
    assert [waits[name] for name in glue[3:7]] == [480, 480, 0, 1440]
    assert "prepare:front_rim:coat_three" not in ids
    new_rim = new_tyre.with_part("front_rim", Part(kind="rim", name="Another rim"))
    ids = [step.id for step in job_steps(now, new_rim).steps]
    assert ids.index("prepare:front_tyre:coat_two") < ids.index("prepare:front_rim:coat_three")
    assert ids.index("prepare:front_rim:coat_three") < ids.index("fit:front_tyre")


def test_a_crown_that_carries_its_bearing_gets_no_race() -> None:
    """Recorded it has none; recorded that it has not, the race is set; not recorded, the step asks."""
    now = build_from({"parts": {"frame": {"kind": "frame"}, "headset": {"kind": "headset"}, "fork": {"kind": "fork"},
                                "stem": {"kind": "stem"}}})  # fmt: skip
    error = {}
    for known in (True, False, None):
        attrs = {} if known is None else {"crown_bearing": known}
        sheet = job_steps(now, now.with_part("fork", Part(kind="fork", name="New", attrs=attrs)))
        error[known] = next((step.says for step in sheet.steps if step.id == "prepare:fork:race"), "")
    assert error[True] == ""
    assert error[False].startswith("Set the crown race")
    assert "record it" in error[None]


# wheels


def with_wheel(build: Json) -> Json:
    """The bike with its front wheel as one ready-built piece."""
    parts = dict(build["parts"])
    hub, rim, spokes = (parts.pop(f"front_{kind}") for kind in ("hub", "rim", "spokes"))
    attrs = {**spokes["attrs"], **rim["attrs"], **hub["attrs"]}
    also = ["front_rim", "front_spokes"]
    return {
        **build,
        "parts": {**parts, "front_hub": {"kind": "hub", "name": "Ready wheel", "also": also, "attrs": attrs}},
    }


def test_a_ready_built_wheel_comes_and_goes_as_one_piece() -> None:
    laced = BIKES[0]["build"]
    ready = with_wheel(laced)
    sheet = sheet_from({"build": laced, "planned": ready})
    steps = {step.id: step for step in sheet.steps}
    for name in ("take_off:front_hub", "fit:front_hub"):
        assert steps[name].along == ("front_rim", "front_spokes")
    gone = {"take_off:front_rim", "take_off:front_spokes", "fit:front_spokes", "adjust:front_rim:true"}
    assert not gone & steps.keys()  # nothing is laced
    order = list(steps)
    for over in ("tyre", "rotor"):  # what goes over from the old wheel
        assert order.index(f"take_off:front_{over}") < order.index("fit:front_hub")
        assert order.index("fit:front_hub") < order.index(f"fit:front_{over}")
    assert replay_from({"work": {"build": laced, "planned": ready}, "job": sheet.to_json()}).ok
    back = {"build": ready, "planned": laced}
    again = sheet_from(back)
    assert {"fit:front_spokes", "adjust:front_rim:true"} <= {step.id for step in again.steps}
    assert replay_from({"work": back, "job": again.to_json()}).ok
    after = finished_from({"work": {"build": laced, "planned": ready}}).to_json()
    assert after["parts"]["front_hub"]["also"] == ["front_rim", "front_spokes"]
    cause = [line.cause for line in quote_of_sheet(sheet, Money()).lines if line.cause.startswith("change:")]
    assert cause == ["change:front_hub"]


# threads

WITHOUT_A_HAND = re.compile(
    r"^(look|wait|check|measure|clean|hand_over|adjust:(rear|front)_derailleur|prepare:(rear|front)_derailleur|"
    r"adjust:.*_hub:axle_loose|adjust:headset|fit:frame|fit:.*_axle|take_off:.*_axle|take_off:frame|prepare:fork|"
    r"fit:headset|take_off:headset|fit:.*_hub|adjust:.*:bleed|fit:cassette|fit:captain|take_off:captain)"
)


def test_every_step_with_a_thread_says_which_way_it_turns() -> None:
    """Where the sort is not recorded the step asks for it, and says so instead."""
    for row in shipped():
        screws = re.search(r"screw|\bbolts?\b|\bnuts?\b|lockring|clamp", row.says, re.IGNORECASE)
        if screws and row.thread is None and not WITHOUT_A_HAND.match(row.id):
            assert "record" in row.says or row.slot == "stem", (row.code, row.says)
    assert {row.thread for row in shipped() if row.torque} <= {"left", "right"}


# readings and what is open


def test_a_torque_beside_another_reading_is_not_taken_for_it() -> None:
    assert judge(Expected(unit="mm", torque=(6.0, 8.0), most=0.2), [0.1]).taken
    assert not judge(Expected(unit="mm", torque=(6.0, 8.0), most=0.2), [0.3]).taken
    assert not judge(Expected(unit="Nm", torque=(50.0, 70.0)), [5]).taken
    far = judge(Expected(unit="Nm", torque=(5.0, 6.0)), [600])
    assert (far.taken, far.possible) == (False, False)


def test_a_wear_reading_past_its_limit_is_outside() -> None:
    """A rotor stamped 1.5 mm is worn at 1.5; a chain for eight sprockets at the 0.75 % of the settings."""
    assert [judge(Expected(unit="mm", worn=("down", 1.5)), [value]).taken for value in (1.6, 1.5, 1.4)] == [
        True, False, False,
    ]  # fmt: skip
    assert [judge(Expected(unit="%", worn=("up", 0.75)), [value]).taken for value in (0.7, 0.75)] == [
        True,
        False,
    ]
    rotor = {"kind": "rotor", "attrs": {"thickness_min_mm": 1.5}}
    parts = {"front_hub": {"kind": "hub"}, "front_rotor": rotor, "fork": {"kind": "fork"}}
    sheet = sheet_from({"build": {"format": "unkett.build/1", "parts": parts}, "packages": ["safety_check"]})
    steps = {step.id: step for step in sheet.steps}
    assert steps["measure:front_rotor:thickness"].worn == ("down", 1.5)
    assert "measure:rear_rotor:thickness" not in steps  # no step for a part that the bike has not


def test_what_is_open_forbids_riding_until_it_is_made_again() -> None:
    off = Did(gives=(), ends=("on:stem", "steering_proved", "rear_gears"))
    on = Did(gives=("on:stem",), ends=("steering_proved",))
    proved = Did(gives=("steering_proved",), ends=())
    to_come = {"on:stem", "steering_proved", "rear_gears"}
    assert open_words([off], to_come) == ["stem off", "steering not proved"]
    assert open_words([off, on], to_come) == ["steering not proved"]
    assert open_words([off, on, proved], to_come) == []
    assert open_words([off], set()) == []  # a part that stays off forbids nothing
    assert all(
        "open" in row for row in table("work_facts").rows if row.get("safety") and "set" not in row["title"]
    )
