"""The tables of complaints, causes and checks, joined for the search; a workshop may put its own figures over them."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.errors import CoreError, nearest
from unkett.core.standards import Row, lookup, table

WORDS = ("shows", "strong", "weak", "against", "clears")  # what a result may say of a cause
NO_WORD = "none"
WEIGHTS = {"usual": 3, "sometimes": 2, "rare": 1}
ENDS = ("front", "rear")


def at_ends(slot: str, end: str | None = None) -> tuple[str, ...]:
    """Return the slots that a table's slot names at one end of the bike, or at both."""
    if "{end}" not in slot:
        return (slot,)
    return tuple(slot.replace("{end}", one) for one in (ENDS if end is None else (end,)))


@frozen(kw_only=True)
class Complaint:
    """What a rider says: `stop` is why the bike is not ridden, `weights` the causes with 3 usual to 1 rare."""

    code: str
    area: str
    title: str
    stop: str
    by_end: bool
    weights: Mapping[str, float]
    words: tuple[str, ...] = ()  # in which riders tell of it


@frozen(kw_only=True)
class Cause:
    """A cause: where it sits, what settles it, what proves it (`on`, `read`) or excludes it (`off`, `only`)."""

    code: str
    slot: str
    title: str
    also: str = ""
    defect: str = ""
    plan: str = ""
    stop: bool = False
    only: str = ""
    rule: str = ""
    on: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    read: str = ""

    def slots(self, end: str | None) -> tuple[str, ...]:
        """Return every slot that it may sit in, at one end or at both."""
        return tuple(
            dict.fromkeys([*at_ends(self.slot, end), *(at_ends(self.also, end) if self.also else ())])
        )

    @property
    def new(self) -> bool:
        """Whether its defect is one that only a search leads to, not the walk round the bike."""
        return bool(self.defect) and bool(lookup("look_over", "code")[self.defect].get("searched"))

    @property
    def not_ridden(self) -> str:
        """Why the bike is not ridden while this cause, one with a stop, is held."""
        return f"{self.title}: not ridden until it is mended and tried."

    def settles(self, end: str | None) -> dict[str, Any]:
        """Return what is done about it: a defect of the inspection, or the part that a plan changes."""
        if self.defect:
            return {"defect": self.defect, "new": self.new}
        plans = at_ends(self.plan, end)
        return {"plan": plans[0] if len(plans) == 1 else self.plan}


@frozen(kw_only=True)
class Check:
    """Something asked, looked at, felt, tried or measured, with what may come out; `words` by result and cause."""

    code: str
    does: str
    title: str
    reads: str
    minutes: float
    results: tuple[str, ...]
    tool: str | None
    even: bool
    words: Mapping[str, Mapping[str, str]]
    mends: tuple[str, ...] = ()  # causes that are mended by doing it

    @property
    def by_end(self) -> bool:
        """Whether it is done at one end of the bike, so that an answer may say which."""
        return "{end}" in self.reads

    def word(self, result: str, cause: str) -> str:
        """Return what a result says of a cause."""
        return self.words.get(result, {}).get(cause, NO_WORD)

    def shows(self, cause: str) -> bool:
        """Return whether any result is the cause itself, seen or measured."""
        return any(said.get(cause) == "shows" for said in self.words.values())


@frozen(kw_only=True)
class Tables:
    """Everything the search weighs by."""

    complaints: Mapping[str, Complaint]
    causes: Mapping[str, Cause]
    checks: Mapping[str, Check]
    figures: Mapping[str, float]  # the words' likelihood figures and the figures of the model
    _chances: dict[tuple[str, str | None], tuple[float, ...]] = field(
        factory=dict, init=False, eq=False, repr=False
    )

    def usual(self, check: Check) -> tuple[float, ...]:
        """Return how often each result comes where a cause has nothing to do with it."""
        count = len(check.results)
        if check.even:
            return (1 / count,) * count
        nothing = self.figures["nothing_found"]
        return (nothing, *((1 - nothing) / (count - 1) for _ in check.results[1:]))

    def chances(self, check: Check, cause: str | None) -> tuple[float, ...]:
        """Return how likely each result is where this is the cause (None: something that no table knows).

        P(r | c) = b(r)·f(c, r) / Σ b(s)·f(c, s), worked out once.
        """
        found = self._chances.get((check.code, cause))
        if found is None:
            usual = self.usual(check)
            shares = [
                share * (1.0 if cause is None else self.figures[check.word(result, cause)])
                for share, result in zip(usual, check.results, strict=True)
            ]
            found = tuple(one / sum(shares) for one in shares)
            self._chances[check.code, cause] = found
        return found

    def with_own(
        self, weights: Mapping[str, Mapping[str, float]], figures: Mapping[str, float] | None = None
    ) -> Tables:
        """The same with a workshop's own weights (by complaint and cause) and figures. Raises CoreError for a name that
        is in no table.
        """
        complaints = dict(self.complaints)
        for code, own in weights.items():
            if code not in complaints or not set(own) <= set(self.causes):
                raise CoreError(f"weights of {code}: a name that is in no table")
            complaints[code] = evolve(complaints[code], weights={**complaints[code].weights, **own})
        if not set(figures or {}) <= set(self.figures):
            raise CoreError("figures: a name that is in no table")
        return evolve(self, complaints=complaints, figures={**self.figures, **(figures or {})})


def _check(row: Row, words: Mapping[str, Mapping[str, str]]) -> Check:
    return Check(
        code=row["code"],
        does=row["does"],
        title=row["title"],
        reads=row["reads"],
        minutes=row["minutes"],
        results=tuple(row["results"]),
        tool=row.get("tool"),
        even=row.get("even", False),
        mends=tuple(row.get("mends", ())),
        words=words,
    )


def _links() -> dict[str, dict[str, dict[str, str]]]:
    """By check and result the word for each cause. Raises CoreError for a result that the check does not have."""
    results = {row["code"]: row["results"] for row in table("complaint_checks").rows}
    found: dict[str, dict[str, dict[str, str]]] = {}
    for n, row in enumerate(table("complaint_links").rows, start=1):
        check, result = row["check"], row["result"]
        place = f"standards/complaint_links.toml, row {n} ({check})"
        if result not in results[check]:
            raise CoreError(f"{place}: {result!r} is no result of it{nearest(result, results[check])}")
        said = found.setdefault(check, {}).setdefault(result, {})
        for word in WORDS:
            for cause in row.get(word, ()):
                if said.setdefault(cause, word) != word:
                    raise CoreError(f"{place}: two words for {cause}")
    return found


@functools.cache
def shipped() -> Tables:
    """Return the tables as they ship, read and joined once."""
    names = ("code", "slot", "title", "also", "defect", "plan", "stop", "only", "rule", "read")
    causes = {
        row["code"]: Cause(
            **{name: row[name] for name in names if name in row},
            on=tuple(row.get("on", ())),
            off=tuple(row.get("off", ())),
        )
        for row in table("complaint_causes").rows
    }
    complaints = {
        row["code"]: Complaint(
            code=row["code"],
            area=row["area"],
            title=row["title"],
            stop=row.get("stop", ""),
            by_end=row.get("by_end", False),
            words=tuple(row["words"]),
            weights={cause: weight for name, weight in WEIGHTS.items() for cause in row.get(name, ())},
        )
        for row in table("complaints").rows
    }
    links = _links()
    checks = {row["code"]: _check(row, links.get(row["code"], {})) for row in table("complaint_checks").rows}
    figures = {row["code"]: float(row["value"]) for row in table("complaint_model").rows}
    return Tables(complaints=complaints, causes=causes, checks=checks, figures=figures)


def tables_json(tables: Tables) -> dict[str, Any]:
    """Complaints, causes, checks and what their results say, for `diagnose --tables`."""
    return {
        "complaints": [
            {
                "code": one.code,
                "area": one.area,
                "title": one.title,
                "stop": one.stop or None,
                "by_end": one.by_end,
                "causes": dict(one.weights),
            }
            for one in tables.complaints.values()
        ],
        "causes": [
            {
                "cause": one.code,
                "title": one.title,
                "slot": one.slot,
                "stop": one.stop,
                "settles": one.settles(None),
            }
            for one in tables.causes.values()
        ],
        "checks": [
            {
                "check": one.code,
                "does": one.does,
                "title": one.title,
                "reads": one.reads,
                "minutes": one.minutes,
                "tool": one.tool,
                "even": one.even,
                "results": {result: dict(one.words.get(result, {})) for result in one.results},
            }
            for one in tables.checks.values()
        ],
        "figures": dict(tables.figures),
    }
