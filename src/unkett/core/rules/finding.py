"""Verdicts and findings: what a rule says of a joint."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from typing import Any

from attrs import field, frozen

from unkett.core.build import plain
from unkett.core.vocabulary import Area


class Verdict(Enum):
    """The four verdicts; `order` 0 is the worst."""

    NO_GO = "no_go"
    UNMEASURED = "unmeasured"
    GOES_IF = "goes_if"
    GOES = "goes"

    order: int

    @property
    def title(self) -> str:
        return _TITLES[self]


for _n, _verdict in enumerate(Verdict):
    _verdict.order = _n
_TITLES = {
    Verdict.NO_GO: "No-go",
    Verdict.UNMEASURED: "Not measured",
    Verdict.GOES_IF: "Go if…",
    Verdict.GOES: "Go",
}


def worst(verdicts: list[Verdict]) -> Verdict:
    """The worst of several verdicts. Where nothing was said nothing was checked: that is unmeasured, never Goes."""
    return min(verdicts, key=lambda verdict: verdict.order, default=Verdict.UNMEASURED)


@frozen(kw_only=True)
class Finding:
    """What one rule says of one joint, with its numbers, its way out and its source.

    `accepted` says who took a "Goes if" as it is, why and until when; empty where nobody did.
    """

    rule: str
    key: str
    verdict: Verdict
    area: Area
    joint: str
    slots: tuple[str, ...]
    says: str
    because: Mapping[str, Any] = field(factory=dict)
    needs: tuple[Mapping[str, Any], ...] = ()
    measure: tuple[Mapping[str, Any], ...] = ()
    ways_out: tuple[Mapping[str, Any], ...] = ()
    safety: bool = False
    school: str | None = None
    source: str = ""
    accepted: str = ""

    @property
    def may_be_accepted(self) -> bool:
        """Whether a person may take it as it is: a Goes if where nobody's safety hangs on it."""
        return self.verdict is Verdict.GOES_IF and not self.safety

    @property
    def about(self) -> tuple[str, tuple[str, ...]]:
        """What makes two findings speak of the same thing."""
        return self.rule, self.slots

    @property
    def ref(self) -> str:
        """A word for what it is about, to ask for it again."""
        return ":".join((self.rule, *self.slots))

    def to_json(self) -> dict[str, Any]:
        return {
            "rule": self.rule,
            "verdict": self.verdict.value,
            "slots": list(self.slots),
            "says": self.says,
            "because": plain(self.because),
            "needs": plain(self.needs),
            "measure": plain(self.measure),
            "ways_out": plain(self.ways_out),
            "safety": self.safety,
            "school": self.school,
            "source": self.source,
        }
