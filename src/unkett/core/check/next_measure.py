"""What to measure next: the readings that settle most of what is unmeasured."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import frozen

from unkett.core.rules.finding import Finding, Verdict
from unkett.core.vocabulary import SLOTS

Asked = tuple[str, "str | None"]


@frozen(kw_only=True)
class NextMeasure:
    """One reading, how many findings it settles by itself and how many wait for it among others."""

    slot: str
    attr: str | None  # None: whether a part is fitted there at all
    title: str
    how: str
    settles: int
    touches: int
    safety: bool

    @property
    def of_part(self) -> bool:
        """Whether a part is read, not the bike or its rider."""
        return self.slot in SLOTS


def next_measures(findings: Iterable[Finding]) -> list[NextMeasure]:
    """Return every missing reading, the one that settles most findings first.

    A finding is settled by a reading that is the only one it still asks for; one that asks for more is
    touched. Ties: safety first, then what touches more, then the order of the findings.
    """
    settles: dict[Asked, int] = {}
    touches: dict[Asked, int] = {}
    safety: dict[Asked, bool] = {}
    words: dict[Asked, tuple[str, str]] = {}
    for finding in findings:
        if finding.verdict is not Verdict.UNMEASURED:
            continue
        asked: list[Asked] = [(reading["slot"], reading["attr"]) for reading in finding.measure]
        for item, key in zip(finding.measure, asked, strict=True):
            words.setdefault(key, (str(item["title"]), str(item["how"])))
            touches[key] = touches.get(key, 0) + 1
            settles[key] = settles.get(key, 0) + (len(asked) == 1)
            safety[key] = safety.get(key, False) or finding.safety
    found = [
        NextMeasure(
            slot=slot,
            attr=attr,
            title=words[slot, attr][0],
            how=words[slot, attr][1],
            settles=settles[slot, attr],
            touches=touches[slot, attr],
            safety=safety[slot, attr],
        )
        for slot, attr in words
    ]
    return sorted(found, key=lambda item: (-item.settles, not item.safety, -item.touches))
