"""One part judged in a slot: what it adds, what it cures, what is not its doing, how near it is."""

import pytest

from unkett.core.check.engine import check
from unkett.core.check.part_effect import Chooser
from unkett.core.formats.reader import build_from, stored_part
from unkett.core.rules.finding import Verdict

NINE = {"speeds": 9, "mount": "spline9", "teeth": [11, 12, 14, 16, 18, 21, 24, 28, 32]}
BIKE = {
    "cassette": {"attrs": NINE},
    "chain": {"attrs": {"speeds": 9, "links": 110}},
    "chainrings": {"attrs": {"teeth": [44], "speeds": [9]}},
    "rear_derailleur": {"attrs": {"capacity_teeth": 45}},
    "frame": {"attrs": {"chainstay_mm": 435}},
}


def chooser(slot: str, **changed) -> Chooser:
    parts = {**BIKE, **changed}
    return Chooser(build_from({"format": "unkett.build/1", "parts": parts}), slot)


def as_read(attrs):
    return stored_part("cassette", "", attrs).attrs


def said(chosen, rule: str):
    return next(finding for finding in chosen.check.findings if finding.rule == rule)


def test_a_chain_too_short_for_a_cassette_is_cut_anew() -> None:
    # by hand: the way round 44/42 on 435 mm is 2 × 435 + 43 × 12.7 = 1416.1 mm and a trifle, 111.5 links: 112 + 2
    wide = {**NINE, "teeth": [11, 13, 15, 18, 21, 24, 28, 34, 42]}
    found = said(chooser("cassette").choose(wide), "chain-length")
    assert (found.verdict, found.because["low"]) == (Verdict.GOES_IF, 114)
    assert [(need["what"], need["links"]) for need in found.needs] == [("new chain", 114)]
    # the check of the bike itself still says that this chain is too short
    build = build_from({"format": "unkett.build/1", "parts": {**BIKE, "cassette": {"attrs": wide}}})
    assert {f.verdict for f in check(build).findings if f.rule == "chain-length"} == {Verdict.NO_GO}
    # and a chain is judged as it is
    alone = chooser("chain", cassette={"attrs": wide}).choose({"speeds": 9, "links": 108})
    assert said(alone, "chain-length").verdict is Verdict.NO_GO


def test_what_a_part_cures_and_adds() -> None:
    bike = chooser("chain", chain={"attrs": {"speeds": 6, "links": 108}})
    right = bike.choose({"speeds": 9, "links": 112})
    assert "Chain runs between the sprockets" in right.cured
    assert not right.adds
    wrong = chooser("chain").choose({"speeds": 6, "links": 108})
    assert {finding.rule for finding in wrong.adds} >= {"chain-width"}
    assert not wrong.cured


def test_what_the_bike_is_reported_anyway_is_not_the_part_s() -> None:
    # 90 links never go round 44/32 on 435, whatever derailleur hangs there
    short = {"chain": {"attrs": {"speeds": 9, "links": 90}}}
    found = chooser("rear_derailleur", **short).choose({"capacity_teeth": 45})
    assert not [one for one in found.check.findings if one.key == "never_round"]
    assert found.verdict is not Verdict.NO_GO


@pytest.mark.parametrize(
    ("nearer", "farther"),
    [
        ({**NINE}, {**NINE, "teeth": [11, 12, 13, 14, 16, 18, 20, 22, 25]}),
        ({**NINE, "teeth": [11, 12, 13, 14, 16, 18, 20, 22, 25]}, {**NINE, "speeds": 8, "teeth": [11, 28]}),
        ({"speeds": 9, "mount": "spline9"}, {"speeds": 12, "mount": "fine23", "teeth": NINE["teeth"]}),
    ],
)
def test_what_asks_least_and_is_most_alike_comes_first(nearer, farther) -> None:
    shifted = {"rear_shifter": {"attrs": {"mode": "indexed", "speeds": 9}}}
    bike = chooser("cassette", rear_hub={"attrs": {"freehub": "spline9"}}, **shifted)
    assert bike.rank(as_read(nearer)) < bike.rank(as_read(farther))
