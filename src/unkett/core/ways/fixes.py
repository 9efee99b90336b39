"""The ways out of a finding tried as changes: parts that cure it, alone or two that go together, with all they do."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from attrs import frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.check.difference import site_of
from unkett.core.check.engine import Check, check_again
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS
from unkett.core.ways.wish import Requirement, ShelfPart

SINGLES_MOST, PAIRS_MOST, SHOWN_MOST = 60, 90, 6  # checks of one part and of two, and fixes that are shown
FIXED = ("frame", "fork")  # what a way out is not looked for in, unless the finding names it
NEED_KINDS = {
    "adapter": "brake_adapter",
    "new chain": "chain",
    "order a rotor": "rotor",
    "chain guide": "chain_guide",
    "narrow-wide ring with a clutch derailleur": "chainrings",
}
Change = tuple[str, ShelfPart]


@frozen(kw_only=True, eq=False)
class Fix:
    """One or two parts put on the bike: what is cured, what the joint still asks and what is worse elsewhere."""

    parts: tuple[Change, ...]
    check: Check
    cured: tuple[Finding, ...]
    left: Finding | None  # what the finding's own joint says then
    worse: tuple[Finding, ...]

    @property
    def asking(self) -> tuple[Finding, ...]:
        """All that is asked for beside what the bike asks anyway."""
        own = () if self.left is None or self.left.verdict is Verdict.GOES else (self.left,)
        return (*own, *self.worse)

    @property
    def price(self) -> int:
        """Of the parts, in hundredths."""
        return sum(part.price for _, part in self.parts)

    @property
    def order(self) -> tuple[int, int, int]:
        worst = min((finding.verdict.order for finding in self.asking), default=Verdict.GOES.order)
        return -worst, len(self.asking), self.price


def targets(finding: Finding) -> list[tuple[str, Requirement | None]]:
    """Return the slots in which another part may be the way out, with what it must state."""
    found: list[tuple[str, Requirement | None]] = [
        (
            way["slot"],
            Requirement(slot=way["slot"], attr=way["attr"], op=way["op"], value=way["value"]),
        )
        for way in finding.ways_out
    ]
    here = site_of(finding).slots
    for need in finding.needs:
        kind = NEED_KINDS.get(need["what"])
        found += [(slot, None) for slot in here if SLOTS[slot].kind == kind][:1]
    if not found and finding.verdict is Verdict.NO_GO:
        found = [(slot, None) for slot in finding.slots if slot not in FIXED]
    return found


def fixes(
    build: Build,
    check: Check,
    finding: Finding,
    shelf: Sequence[ShelfPart],
    settings: Settings = DEFAULTS,
) -> list[Fix]:
    """Parts of the shelf that cure a finding and make nothing a No-go that was none, the best first.

    A part that makes another joint a No-go is tried with a second one in that joint; the two count as one. Where no
    part states what the way out names, all of the slot are tried.
    """
    trial = _Trial(build, check, finding, shelf, settings)
    found = [one for slot, wanted in targets(finding) for one in trial.in_slot(slot, wanted)]
    if not found:
        slots = dict.fromkeys(slot for slot, _ in targets(finding))
        found = [one for slot in slots for one in trial.in_slot(slot, None)]
    return sorted(found, key=lambda one: one.order)[:SHOWN_MOST]


class _Trial:
    """Parts put on a bike and checked, so many at most."""

    def __init__(
        self, build: Build, check: Check, finding: Finding, shelf: Sequence[ShelfPart], settings: Settings
    ) -> None:
        self._build, self._check, self._finding, self._settings = build, check, finding, settings
        self._shelf = sorted(shelf, key=lambda part: (part.price, part.id))
        self._was = {found.about: found for found in check.findings}
        self._singles, self._pairs = SINGLES_MOST, PAIRS_MOST

    def in_slot(self, slot: str, wanted: Requirement | None) -> Iterator[Fix]:
        for part in self._suiting(slot, wanted):
            if self._singles <= 0:
                return
            self._singles -= 1
            fix = self._put(((slot, part),))
            if fix is None:
                continue
            refused = [found for found in fix.worse if found.verdict is Verdict.NO_GO]
            second = self._second(slot, part, refused) if refused else fix
            if second is not None:
                yield second

    def _suiting(self, slot: str, wanted: Requirement | None) -> list[ShelfPart]:
        parts = [part for part in self._shelf if slot in part.slots]
        if wanted is None:
            return parts
        return [part for part in parts if wanted.met_by(part_attrs_for(slot, part.part))]

    def _put(self, parts: tuple[Change, ...]) -> Fix | None:
        """Return the bike with these parts; None where the finding is no better then."""
        then = self._build
        for slot, part in parts:
            then = then.with_part(slot, part.part)
        after = check_again(self._check, self._build, then, self._settings)
        now = {found.about: found for found in after.findings}
        own = now.get(self._finding.about)
        if own is not None and own.verdict.order <= self._finding.verdict.order:
            return None
        cured = tuple(
            found
            for about, found in self._was.items()
            if found.verdict is not Verdict.GOES and _order(now, about) > found.verdict.order
        )
        worse = tuple(
            found for found in after.findings if found.verdict.order < _order(self._was, found.about)
        )
        return Fix(parts=parts, check=after, cured=cured, left=own, worse=worse)

    def _second(self, slot: str, part: ShelfPart, refused: list[Finding]) -> Fix | None:
        """Return a second part by which nothing that was none is a No-go; None where there is no such part."""
        places = dict.fromkeys(
            place for found in refused for place in found.slots if place != slot and place not in FIXED
        )
        for place in places:
            for other in self._suiting(place, None):
                if self._pairs <= 0:
                    return None
                self._pairs -= 1
                both = self._put(((slot, part), (place, other)))
                if both is not None and all(found.verdict is not Verdict.NO_GO for found in both.worse):
                    return both
        return None


def _order(
    findings: Mapping[tuple[str, tuple[str, ...]], Finding], about: tuple[str, tuple[str, ...]]
) -> int:
    found = findings.get(about)
    return Verdict.GOES.order if found is None else found.verdict.order
