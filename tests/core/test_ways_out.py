"""A way out leads out: it names what the part has not, and what the shelf offers for it removes the finding."""

import json
from pathlib import Path

import pytest

from tests.cases.all import CASES
from unkett.core.build import part_attrs_for
from unkett.core.check.engine import check
from unkett.core.formats.reader import build_from
from unkett.core.rules.finding import Verdict
from unkett.core.vocabulary import describe, slots_of_kind
from unkett.core.vocabulary.types import ListOf
from unkett.core.ways.fixes import fixes
from unkett.core.ways.parsing import question_from
from unkett.core.ways.wish import Requirement

DEMO = Path(__file__).resolve().parents[2] / "src/unkett/web/demo"
BIKES = [build_from(row["build"]) for row in json.loads((DEMO / "bikes.json").read_text())]
CATALOGUE = [row for row in json.loads((DEMO / "catalogue.json").read_text()) if not row.get("also")]
STEPS_MOST = 12


def no_gos(build):
    return [one for one in check(build).findings if one.verdict is Verdict.NO_GO]


@pytest.mark.parametrize("end", ["front", "rear"])
@pytest.mark.parametrize(("works", "wanted"), [("electronic", "electronic"), ("cable", "indexed")])
def test_a_shifter_is_asked_for_that_works_the_derailleur(end, works, wanted) -> None:
    parts = {
        f"{end}_shifter": {"attrs": {"mode": "indexed" if works == "electronic" else "electronic"}},
        f"{end}_derailleur": {"attrs": {"actuation": works}},
    }
    found = [one for one in check(build_from({"parts": parts})).findings if one.key == "cable_and_wire"]
    ways = [(way["slot"], way["attr"], way["value"]) for one in found for way in one.ways_out]
    assert ways == [(f"{end}_shifter", "mode", wanted)]


def test_no_way_out_is_what_the_part_is_already() -> None:
    vain = {
        (one.rule, one.key, way["slot"], way["attr"], way["op"], str(way["value"]))
        for build in (*BIKES, *(case.build for case in CASES))
        for one in check(build).findings
        for way in one.ways_out
        if way["slot"] in build.filled()
        and Requirement(slot=way["slot"], attr=way["attr"], op=way["op"], value=way["value"]).met_by(
            part_attrs_for(way["slot"], build.filled()[way["slot"]])
        )
    }
    assert vain == set()


@pytest.fixture(scope="module")
def shelf():
    rows = [
        {
            "id": str(n),
            "slots": [slot.name for slot in slots_of_kind(row["kind"])],
            "part": {"kind": row["kind"], "name": row["name"], "attrs": row["attrs"]},
        }
        for n, row in enumerate(CATALOGUE)
    ]
    return question_from({"build": {"parts": {}}, "shelf": rows}).shelf


@pytest.mark.long
def test_every_fix_removes_its_finding_and_adds_no_other(shelf) -> None:
    for build in BIKES:
        before = check(build)
        for finding in (one for one in before.findings if one.verdict is Verdict.NO_GO):
            refused = {one.about for one in no_gos(build)}
            for fix in fixes(build, before, finding, shelf):
                then = build
                for slot, part in fix.parts:
                    then = then.with_part(slot, part.part)
                after = {one.about for one in no_gos(then)}
                assert finding.about not in after, (build.name, finding.says)
                assert after < refused, (build.name, finding.says)


@pytest.mark.long
def test_fixes_taken_one_after_another_never_lead_in_a_circle(shelf) -> None:
    for build in BIKES:
        seen = []
        for _ in range(STEPS_MOST):
            found = check(build)
            left = [one for one in found.findings if one.verdict is Verdict.NO_GO]
            fix = next((fix for one in left for fix in fixes(build, found, one, shelf)), None)
            if fix is None:
                break
            seen.append(len(left))
            for slot, part in fix.parts:
                build = build.with_part(slot, part.part)
        assert seen == sorted(set(seen), reverse=True), build.name


def test_a_way_out_asks_a_list_for_its_length_its_ends_or_a_member() -> None:
    """One figure is never held against a whole list: no part could ever meet that."""
    vain = {
        (one.rule, one.key, way["slot"], way["attr"], way["op"], str(way["value"]))
        for case in CASES
        for one in check(case.build).findings
        for way in one.ways_out
        if way["slot"] != "bike"
        and isinstance(describe(way["slot"], way["attr"]).type, ListOf)
        and way["op"] in ("==", ">=", "<=")
        and not isinstance(way["value"], (list, tuple))
    }
    assert vain == set()
