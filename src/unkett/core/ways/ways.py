"""Ways from the bike that stands there to the bike that is wished for: the one function, and its JSON."""

from __future__ import annotations

import gc
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from attrs import frozen

from unkett.core.build import plain
from unkett.core.check.difference import difference
from unkett.core.rules.finding import Verdict
from unkett.core.ways.changes import Baseline, Way
from unkett.core.ways.parsing import question_from
from unkett.core.ways.search import Listed, Search, Watch, listed_ways
from unkett.core.ways.stuck import Stuck, stuck_of
from unkett.core.ways.wish import Question

FORMAT = "unkett.ways/1"


@frozen(kw_only=True, eq=False)
class Ways:
    """The ways of a question, or what keeps it from having any; neither where time ran out."""

    question: Question
    baseline: Baseline
    ways: tuple[Listed, ...]
    stuck: Stuck | None = None

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "ways": [way_json(self.question, self.baseline, listed) for listed in self.ways],
            "stuck": None if self.stuck is None else self.stuck.to_json(),
        }


def find_ways(question: Question, watch: Watch | None = None) -> Ways:
    """The best ways by every objective asked for, then further ones; where there is none, the smallest conflict."""
    with _uncollected():
        search = Search.of(question, watch)
        ways, proven = listed_ways(search)
        stuck = stuck_of(search) if not ways and proven else None
    return Ways(question=question, baseline=search.baseline, ways=tuple(ways), stuck=stuck)


@contextmanager
def _uncollected() -> Iterator[None]:
    """Without the collector of cycles: a search drops hardly any, and looking for them takes a sixth of its time."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def ways_json(value: Any) -> dict[str, Any]:
    """`unkett.ways/1` for a parsed `unkett.wish/1`. Raises InputError with every fault."""
    return find_ways(question_from(value)).to_json()


def money(hundredths: int) -> float:
    return hundredths / 100


def way_json(question: Question, baseline: Baseline, listed: Listed) -> dict[str, Any]:
    way = listed.way
    out: dict[str, Any] = {"best": list(listed.best), "proven": listed.proven}
    if not listed.proven and listed.bound is not None:
        first = listed.best[0] if listed.best else question.best[0]
        out["bound"] = money(listed.bound) if first == "cheapest" else listed.bound
    stands = question.build.parts
    return {
        **out,
        "changes": [
            {
                "slot": slot,
                "out": stands[slot].name if slot in stands else None,
                "in": part.id if part else None,
            }
            for slot, part in way.changes.items()
        ],
        "needs": [
            {
                **plain(dict(need.need)),
                "price": money(need.effort.price),
                "minutes": need.effort.minutes,
                "rule": need.rule,
            }
            for need in way.needs
        ],
        "unpriced": list(dict.fromkeys(need.what for need in way.needs if not need.priced)),
        "measure": measures(way),
        "price": money(way.charged),
        "minutes": way.minutes,
        "days": way.days,
        "grams": way.grams,
        "verdict": way.check.verdict.value,
        "findings": [finding.to_json() for finding in difference(baseline.check, way.check, way.changes).new],
    }


def measures(way: Way) -> list[Mapping[str, Any]]:
    """Return what to measure first, each once."""
    found: dict[tuple[str, str | None], Mapping[str, Any]] = {}
    for finding in way.check.findings:
        if finding.verdict is Verdict.UNMEASURED:
            for asked in finding.measure:
                found.setdefault((asked["slot"], asked["attr"]), asked)
    return [plain(asked) for asked in found.values()]
