"""Only a Goes if on which nobody's safety hangs can be taken as it is."""

from attrs import evolve

from unkett.core.check.engine import Check
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.vocabulary import Area

PLAIN = Finding(
    rule="a", key="k", verdict=Verdict.GOES_IF, area=next(iter(Area)), joint="j", slots=("chain",), says="if"
)


def test_what_is_accepted_counts_as_goes_and_nothing_else_does() -> None:
    rows = [
        (Verdict.GOES_IF, False, Verdict.GOES),
        (Verdict.GOES_IF, True, Verdict.GOES_IF),
        (Verdict.NO_GO, False, Verdict.NO_GO),
        (Verdict.UNMEASURED, False, Verdict.UNMEASURED),
        (Verdict.GOES, False, Verdict.GOES),
    ]
    for given, safety, wanted in rows:
        found = Check(findings=(evolve(PLAIN, verdict=given, safety=safety),))
        accepted = found.accepting({PLAIN.ref: "by Rona"})
        assert accepted.verdict is wanted, (given, safety)
        assert bool(accepted.findings[0].accepted) is (wanted is not given)
        assert found.accepting({"b:chain": "by Rona"}) == found


def test_the_worst_stands_first_again() -> None:
    other = evolve(PLAIN, rule="b")
    found = Check(findings=(PLAIN, other)).accepting({PLAIN.ref: "by Rona"})
    assert [finding.rule for finding in found.findings] == ["b", "a"]
    assert found.verdict is Verdict.GOES_IF
