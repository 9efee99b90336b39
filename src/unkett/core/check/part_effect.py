"""What one part does to a bike in one slot: its own verdict, what it adds and what it cures, how near it is.

The engine's check of a slot speaks of the bike; here the part is judged. What is said of the bike without it,
in the same words, is not held against it, and a chain that is too short for it is cut again: a need, not a refusal.
"""

from __future__ import annotations

import functools
from collections.abc import Iterator, Mapping
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.check.engine import Check, SlotChecker
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.rules.outcome import need
from unkett.core.settings import DEFAULTS, Settings

CUT_ANEW = "chain-length"
Rank = tuple[int, ...]


@frozen(kw_only=True)
class PartEffect:
    """A part judged in a slot: every finding of its own, and against what stands there now what it adds and cures."""

    check: Check
    adds: tuple[Finding, ...] = ()
    cures: tuple[Finding, ...] = ()

    @property
    def verdict(self) -> Verdict:
        return self.check.verdict

    @property
    def asking(self) -> tuple[Finding, ...]:
        """What keeps it from simply going, worst first."""
        return tuple(finding for finding in self.check.findings if finding.verdict is not Verdict.GOES)

    @property
    def cured(self) -> tuple[str, ...]:
        """The titles of what it cures."""
        return tuple(dict.fromkeys(RULES[finding.rule].title for finding in self.cures))


class Chooser(SlotChecker):
    """Judges candidates for one slot of a build against the part that stands there."""

    def __init__(self, build: Build, slot: str, settings: Settings = DEFAULTS) -> None:
        super().__init__(build, slot, settings)
        self._anyway = {
            (finding.rule, finding.joint): (finding.verdict, finding.says) for finding in self.without()
        }
        part = build.filled().get(slot)
        self._attrs: Mapping[str, Any] = {} if part is None else part_attrs_for(slot, part)
        self._filled = part is not None

    @functools.cached_property
    def _now(self) -> list[Finding]:
        """What the slot's rules say as it stands."""
        return list(super()._findings(self._attrs)) if self._filled else self.without()

    def _findings(self, attrs: Mapping[str, Any]) -> Iterator[Finding]:
        for finding in super()._findings(attrs):
            said = (finding.verdict, finding.says)
            if finding.verdict in (Verdict.NO_GO, Verdict.GOES_IF) and said == self._anyway.get(
                (finding.rule, finding.joint)
            ):
                continue  # the bike has this finding whatever goes here
            yield finding if self._slot == "chain" else recut(finding)

    def choose(self, attrs: Mapping[str, Any]) -> PartEffect:
        """Return a part with these attributes, as the core reads them."""
        found = self.check(attrs)
        was = {(finding.rule, finding.joint): finding.verdict for finding in self._now}
        then = {(finding.rule, finding.joint): finding.verdict for finding in super()._findings(attrs)}
        adds = [
            finding
            for finding in found.findings
            if finding.verdict.order < was.get((finding.rule, finding.joint), Verdict.GOES).order
        ]
        cures = [
            finding
            for finding in self._now
            if then.get((finding.rule, finding.joint), Verdict.GOES).order > finding.verdict.order
        ]
        return PartEffect(check=found, adds=tuple(adds), cures=tuple(cures))

    def rank(self, attrs: Mapping[str, Any]) -> Rank:
        """How near a part is, the nearest first: its verdict, how much of each sort asks, how unlike the old one."""
        counts = dict.fromkeys(Verdict, 0)
        for finding in self._findings(attrs):
            counts[finding.verdict] += 1
        worst = next((verdict for verdict in Verdict if counts[verdict]), Verdict.UNMEASURED)
        unlike = sum(self._attrs.get(name) != attrs.get(name) for name in {*self._attrs, *attrs})
        return (
            -worst.order,
            counts[Verdict.NO_GO],
            counts[Verdict.UNMEASURED],
            counts[Verdict.GOES_IF],
            unlike if self._attrs else 0,
        )


def recut(finding: Finding) -> Finding:
    """Return the finding of a chain too short for another part: a need, since a chain is cut to the bike."""
    if finding.rule != CUT_ANEW or finding.verdict is not Verdict.NO_GO or "low" not in finding.because:
        return finding
    has, low = finding.because["has"], finding.because["low"]
    says, needed = f"The chain is cut anew, longer than the {has} links on the bike.", need("new chain")
    if finding.key == "too_short":
        says = f"The chain is cut anew: {low} links or more, {has} are on the bike."
        needed = need("new chain", links=low)
    return evolve(finding, verdict=Verdict.GOES_IF, key="cut_anew", says=says, needs=(needed,), ways_out=())
