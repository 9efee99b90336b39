"""The engine: order, open slots, differences, and what it does for every rule by itself."""

import pytest

from unkett.core.check.difference import difference
from unkett.core.check.engine import check
from unkett.core.errors import CoreError
from unkett.core.formats.reader import build_from
from unkett.core.rules.base import RULES, rule
from unkett.core.rules.finding import Verdict
from unkett.core.rules.outcome import goes, goes_if, need, unmeasured
from unkett.core.rules.roles import required
from unkett.core.settings import Settings
from unkett.core.standards import table, table_names
from unkett.core.vocabulary import KINDS, SLOTS, Area


def bike(use=None, **parts):
    whole = {"use": use, "parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}}
    return build_from(whole)


DRIVE = {
    "cassette": {"speeds": 9, "teeth": [11, 13, 15, 17, 20, 23, 26, 30, 34], "mount": "spline9"},
    "rear_hub": {"freehub": "spline9_road11"},
    "rear_shifter": {"mode": "indexed", "speeds": 8, "pull_per_click_mm": 2.8},
    "rear_derailleur": {
        "sprocket_max_teeth": 36,
        "sprocket_min_teeth": 11,
        "shift_ratio": 1.7,
        "actuation": "cable",
    },
}


def test_findings_stand_worst_first_then_by_area_and_rule() -> None:
    found = check(bike(**DRIVE)).findings
    keys = [(f.verdict.order, f.area.order, f.rule, f.slots) for f in found]
    assert keys == sorted(keys)
    assert found[0].rule == "click-count"


def test_an_empty_build_says_nothing_and_wants_a_bike() -> None:
    result = check(bike())
    assert result.verdict is Verdict.UNMEASURED
    assert not result.findings
    assert {"frame", "fork", "rear_derailleur", "front_caliper"} <= set(result.open_slots)


OPEN = [
    ("track", {}, set(), {"rear_derailleur", "rear_shifter", "rear_caliper", "front_brake_lever"}),
    (
        "city",
        {"chainrings": {"teeth": [44, 32]}},
        {"front_derailleur", "front_shifter", "front_shift_line"},
        set(),
    ),
    ("city", {"chainrings": {"teeth": [40]}}, set(), {"front_derailleur", "front_shifter"}),
    ("city", {"cassette": {"teeth": [18]}}, set(), {"rear_derailleur", "rear_shifter"}),
    ("road", {"rear_derailleur": {"actuation": "electronic"}}, {"rear_shifter"}, {"rear_shift_line"}),
    ("trail", {"front_caliper": {"type": "disc"}}, {"front_rotor"}, {"rear_rotor", "front_caliper"}),
    ("trail", {"frame": {"rear_brake_mount": "post"}}, {"rear_rotor"}, {"front_rotor"}),
    ("trail", {"frame": {"shock_eye_to_eye_mm": 190}}, {"shock"}, set()),
]


@pytest.mark.parametrize(("use", "parts", "wanted", "not_wanted"), OPEN)
def test_open_slots_by_kind_of_bike(use, parts, wanted, not_wanted) -> None:
    slots = set(check(bike(use, **parts)).open_slots)
    assert wanted <= slots
    assert not not_wanted & slots


def test_a_difference_names_the_changed_slot_behind_each_finding() -> None:
    before = check(bike(**DRIVE))
    swapped = {**DRIVE, "rear_shifter": {"mode": "indexed", "speeds": 9, "pull_per_click_mm": 2.5}}
    change = difference(before, check(bike(**swapped)), ["rear_shifter"])
    new = {f.rule for f in change.new}
    assert new == {"click-count", "index-alignment"}
    assert all(change.causes[f.about] == ("rear_shifter",) for f in change.new)
    assert {"freehub-seat", "largest-sprocket", "smallest-sprocket"} <= {f.rule for f in change.stay}
    emptied = {slot: attrs for slot, attrs in DRIVE.items() if slot != "rear_shifter"}
    gone = difference(before, check(bike(**emptied)), ["rear_shifter"]).gone
    assert {f.rule for f in gone} == {"click-count", "index-alignment"}


def test_a_workshop_setting_moves_a_threshold() -> None:
    noisy = {**DRIVE, "rear_shifter": {"mode": "indexed", "speeds": 9, "pull_per_click_mm": 2.65}}
    verdicts = {
        limit: next(
            f
            for f in check(bike(**noisy), Settings.of({"index_noisy_mm": limit})).findings
            if f.rule == "index-alignment"
        ).verdict
        for limit in (0.8, 0.6)
    }
    assert verdicts == {0.8: Verdict.GOES_IF, 0.6: Verdict.NO_GO}


def test_a_school_moves_the_recommended_length() -> None:
    # window 112 to 116; 120 links: 8 over the lower end, 4 over the upper
    parts = {
        "chain": {"links": 120},
        "frame": {"chainstay_mm": 432},
        "chainrings": {"teeth": [40]},
        "cassette": {"teeth": [11, 42]},
        "rear_derailleur": {"capacity_teeth": 39},
    }
    for school, out in (("lower", 8), ("upper", 4)):
        found = check(bike(**parts), Settings.of({"chain_length_school": school})).findings
        finding = next(f for f in found if f.rule == "chain-length")
        assert (finding.school, finding.needs[0]["links"]) == (school, out)


GOOD = {
    "title": "t",
    "plain": "p",
    "why": "w",
    "area": Area.DRIVETRAIN,
    "joint": "chain",
    "parts": {"chain": "chain"},
    "messages": {"fine": "{chain.links} links."},
    "sources": ("chain-iso",),
}
WRONG = [
    ({}, "freehub-seat", "chain.links", "declared twice"),
    ({}, "made-up", "chain.length", "chain has no attribute length"),
    ({}, "made-up", "hub.freehub", "takes other parts"),
    ({"parts": {"chain": "chian"}}, "made-up", "chain.links", "unknown slot chian"),
    ({"joint": "chian"}, "made-up", "chain.links", "chian"),
    ({"messages": {"fine": "{links} links."}}, "made-up", "chain.links", "nothing fills {links}"),
    (
        {"messages": {"fine": "{chain.length} links."}},
        "made-up",
        "chain.links",
        "chain has no attribute length",
    ),
    ({"sources": ("hearsay",)}, "made-up", "chain.links", "unknown hearsay"),
    ({"settings": ("mood",)}, "made-up", "chain.links", "unknown mood"),
]


@pytest.mark.parametrize(("more", "rule_id", "reads", "says"), WRONG, ids=str)
def test_a_wrong_declaration_is_refused(more, rule_id, reads, says) -> None:
    before = dict(RULES)
    try:
        with pytest.raises(CoreError, match=says):
            rule(rule_id, **{**GOOD, **more}).clause(reads)(lambda chain: goes("fine"))
    finally:
        RULES.pop("made-up", None)
    assert before == RULES


def test_outcomes_that_say_too_little_are_refused() -> None:
    with pytest.raises(CoreError):
        goes_if("fine")
    with pytest.raises(CoreError):
        unmeasured("fine")
    with pytest.raises(CoreError, match="no 'a bit of luck'"):
        need("a bit of luck")
    assert required("chain", sprockets="links").own("sprockets") == "links"


def test_a_slot_left_empty_is_not_a_slot_nobody_looked_at() -> None:
    unknown = bike("trail", frame={"chainstay_mm": 432})
    assert "seatpost" in check(unknown).open_slots
    bare = unknown.with_part("seatpost", None)
    assert bare.empty == {"seatpost"}
    assert "seatpost" not in check(bare).open_slots


def test_every_table_row_has_its_source() -> None:
    for name in table_names():
        assert all(row["source"] and row["sure"] for row in table(name).rows), name


def test_tables_know_every_code_of_the_vocabulary() -> None:
    from unkett.core.vocabulary import enums

    assert {row["code"] for row in table("freehub_bodies").rows} == set(enums.FREEHUB.codes)
    assert {row["code"] for row in table("ring_mounts").rows} == {
        code for code in enums.RING_MOUNT.codes if not code.startswith("direct_")
    }


def test_pull_families_move_the_chain_by_their_pitch() -> None:
    """Second method: pull × ratio of every published row comes to its pitch within the rounding."""
    for row in table("pull_families").rows:
        assert row["pull_mm"] * row["ratio"] == pytest.approx(row["pitch_mm"], abs=0.11), row["code"]


def test_the_vocabulary_is_whole() -> None:
    for kind in KINDS.values():
        for attribute in kind.attributes.values():
            assert attribute.title, attribute.name
            assert attribute.how[-1] in ".?", (kind.name, attribute.name)
            for usual in attribute.usual:
                item = getattr(attribute.type, "item", attribute.type)
                kind_of = getattr(item, "value", item)
                kind_of.check(usual, attribute.name)
    assert len(SLOTS) == 68
    wheels = [slot for slot in SLOTS.values() if slot.kind == "hub"]
    assert [slot.name for slot in wheels] == ["front_hub", "rear_hub"]


def test_a_lever_that_pulls_nothing_skips_and_divides_nothing() -> None:
    parts = {
        "cassette": {"attrs": {"sprocket_pitch_mm": 3.4}},
        "rear_derailleur": {"attrs": {"shift_ratio": 1.0}},
        "rear_shifter": {"attrs": {"mode": "indexed", "speeds": 3, "pull_per_click_mm": 0}},
    }
    found = check(build_from({"format": "unkett.build/1", "parts": parts})).findings
    assert ("index-alignment", "skips") in {(one.rule, one.key) for one in found}
