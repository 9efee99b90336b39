"""Runs the looks of the rules over a build, and tells two checks apart.

The engine, not the rule, says `unmeasured` where a reading is missing, says nothing where a slot is not
filled, and lets a certain No go stand whatever else is missing, so that no rule can forget any of it.
"""

from __future__ import annotations

import functools
import itertools
from collections.abc import Iterable, Iterator, Mapping
from types import SimpleNamespace
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.build import Build, one_piece, values_in
from unkett.core.errors import InputError
from unkett.core.finding import Finding, Verdict, worst
from unkett.core.openslots import open_slots
from unkett.core.rules import RULES
from unkett.core.rules.base import Rule, Site
from unkett.core.rules.outcome import Outcome
from unkett.core.rules.view import Lack, Seen, Stands, looked_at, run_look
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS, describe, kind_of, measured_by, slots_of_kind
from unkett.core.vocabulary.double_readings import MISREAD
from unkett.core.vocabulary.types import AttributeType, Bool, Choice, Either, ListOf, Whole
from unkett.core.words import a, in_sentence, listed, told

FORMAT = "unkett.check/1"
_NOTHING: Mapping[str, Any] = {}
BRANCH_DEPTH = 4  # missing codes that are tried together
FEW = 5  # counts of so small a range are tried like codes
Asked = tuple[str, "str | None"]  # a slot and what is missing there; None: whether a part is fitted at all


@frozen(kw_only=True)
class Check:
    """All findings of a build in fixed order, its verdict and what a complete bike still wants."""

    findings: tuple[Finding, ...]
    open_slots: tuple[str, ...] = ()

    @property
    def verdict(self) -> Verdict:
        return worst([finding.verdict for finding in self.findings])

    def accepting(self, words: Mapping[str, str]) -> Check:
        """The same where a person took findings as they are, words by `ref`: they count as Goes and ask for nothing.

        Only what may be accepted is; a No go, an Unmeasured and whatever concerns safety stand as they are.
        """
        findings = [
            evolve(finding, verdict=Verdict.GOES, needs=(), ways_out=(), accepted=words[finding.ref])
            if finding.ref in words and finding.may_be_accepted
            else finding
            for finding in self.findings
        ]
        return evolve(self, findings=_sorted(findings))

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "verdict": self.verdict.value,
            "findings": [finding.to_json() for finding in self.findings],
            "open_slots": list(self.open_slots),
        }


def _rules_by_slot() -> dict[str, tuple[Rule, ...]]:
    return {slot: tuple(rule for rule in RULES.values() if slot in rule.slots()) for slot in SLOTS}


RULES_BY_SLOT = _rules_by_slot()


@frozen(kw_only=True)
class Standing:
    """What stands on a bike as looks read it: values by filled slot, the bike's own under 'bike', and the
    empty slots.
    """

    values: Mapping[str, Mapping[str, Any]]
    empty: frozenset[str]
    _stands: dict[str, Stands] = field(factory=dict, init=False, eq=False)

    def stands(self, slot: str) -> Stands:
        """What stands in a slot, made once for all looks."""
        found = self._stands.get(slot)
        if found is None:
            values = self.values.get(slot)
            found = Stands(slot=slot, values=values, known_empty=values is None and slot in self.empty)
            self._stands[slot] = found
        return found

    @classmethod
    def of(cls, build: Build) -> Standing:
        values: dict[str, Mapping[str, Any]] = {
            slot: values_in(slot, part) for slot, part in build.filled().items()
        }
        values["bike"] = {name: value for name, value in build.bike_attrs().items() if value is not None}
        return cls(values=values, empty=build.empty)

    def state(self, slot: str) -> object:
        """What tells two bikes apart in a slot: the part's values, or whether it is known to be empty."""
        return self.values.get(slot, slot in self.empty)

    def with_values(self, slot: str, values: Mapping[str, Any]) -> Standing:
        """The same bike with other values in a slot, as `Kind.read` gives them."""
        return self._but(slot, Standing(values={**self.values, slot: values}, empty=self.empty - {slot}))

    def reread(self, slot: str, attrs: Mapping[str, Any]) -> Standing:
        """The same bike with a part read as `attrs` has it; what is derived from it is worked out again."""
        kind = kind_of(slot)
        own = {name: value for name, value in attrs.items() if name not in kind.derived}
        return self.with_values(slot, kind.read(own))

    def emptied(self, slot: str) -> Standing:
        """The same bike, known to have nothing in a slot."""
        left = {name: values for name, values in self.values.items() if name != slot}
        return self._but(slot, Standing(values=left, empty=self.empty | {slot}))

    def _but(self, slot: str, other: Standing) -> Standing:
        """Another bike that differs in one slot, with what was made of the others."""
        other._stands.update(self._stands)
        other._stands.pop(slot, None)
        return other


def _slot_title(slot: str) -> str:
    return "bike" if slot == "bike" else SLOTS[slot].title.lower()


def _whose(slot: str) -> str:
    title = _slot_title(slot)
    return f"the {title}'" if title.endswith("s") else f"the {title}'s"


NAMED_MOST = 3  # missing readings named in a sentence; the finding lists all


def _measure(asked: Asked) -> dict[str, Any]:
    slot, attr = asked
    if attr is None:
        return {"slot": slot, "attr": None, "title": "Is one fitted?", "how": "Look."}
    declared = describe(slot, attr)
    return {"slot": slot, "attr": attr, "title": declared.title, "how": declared.how}


def _attributes(standing: Standing, slot: str, name: str | None) -> list[Asked]:
    """What must be measured for a name that a look reads: the attribute, or what a derived value still wants."""
    if name is None:
        return [(slot, None)]
    own = measured_by(slot, name)
    values = standing.values.get(slot, _NOTHING)
    lacking = [attr for attr in own if values.get(attr) is None]
    return [(slot, attr) for attr in (lacking or own)[:1]]


def _says_missing(asked: list[Asked]) -> str:
    fitted = [a(_slot_title(slot)) for slot, attr in asked if attr is None]
    names = [f"{_whose(slot)} {in_sentence(describe(slot, attr).title)}" for slot, attr in asked if attr]
    if len(names) > NAMED_MOST:
        names = [*names[: NAMED_MOST - 1], f"{len(names) - NAMED_MOST + 1} more"]
    says = [f"Not measured: {listed(names)}."] if names else []
    return " ".join(
        [*says, *([f"Not recorded: whether {listed(fitted, 'or')} is fitted."] if fitted else [])]
    )


def trial_values(kind: AttributeType, name: str, standing: Standing) -> list[Any]:
    """Every value that a missing code or yes/no may have, those that stand on the bike first; nothing for a size.

    Of a list of codes: none, each alone, all together. An open family of codes is tried with a code of its own.
    Of codes by ring: one for all, and every row that can be made of the rows standing on the bike.
    """
    if isinstance(kind, Bool):
        return [True, False]
    if isinstance(kind, Whole) and kind.high - kind.low <= FEW:
        return list(range(kind.low, kind.high + 1))
    if isinstance(kind, Either):
        alike = trial_values(kind.one, name, standing)
        return [*alike, *_rows_of(kind.one, standing)] if alike else []
    if isinstance(kind, ListOf):
        each = trial_values(kind.item, name, standing)
        return [tuple(each), *((item,) for item in each), *([()] if kind.least == 0 else [])] if each else []
    if not isinstance(kind, Choice):
        return []
    seen = [
        value
        for values in standing.values.values()
        for value in values.values()
        if isinstance(value, str) and kind.of.has(value)
    ]
    other = [f"{kind.of.open_prefix}of_its_own"] if kind.of.open_prefix else []
    return list(dict.fromkeys([*seen, *kind.of.codes, *other]))


def _rows_of(kind: AttributeType, standing: Standing) -> list[Any]:
    """Every row of two codes or more that the rows of such codes on the bike are long enough for."""
    rows = [
        value
        for values in standing.values.values()
        for value in values.values()
        if isinstance(kind, Choice)
        and isinstance(value, tuple)
        and value
        and all(isinstance(code, str) and kind.of.has(code) for code in value)
    ]
    made = (p for row in rows for long in range(2, len(row) + 1) for p in itertools.permutations(row, long))
    return list(dict.fromkeys(made))


def _judged(rule: Rule, site: Site, standing: Standing, settings: Settings) -> Finding | None:
    """What a rule says at one place; where two readings of a part do not agree, once with each of them.

    A No go with both is one; else neither reading wins, and both are measured again.
    """
    values = standing.values
    if site.one_piece and one_piece(values.get(slot) for slot in site.wanted):
        return _finding(rule, site, Outcome(verdict=Verdict.GOES, key=site.one_piece), standing)
    doubts = [
        (slot, one.pair)
        for slot, pairs in site.read_twice.items()
        if slot in values
        for one in values[slot].get(MISREAD, ())
        if one.pair in pairs
    ]
    if not doubts:
        return _run(rule, site, standing, settings)
    branches = [standing]
    for slot, pair in doubts:
        branches = [
            branch.reread(slot, attrs) for branch in branches for attrs in pair.readings(branch.values[slot])
        ]
    said = [_run(rule, site, branch, settings) for branch in branches]
    found = [finding for finding in said if finding is not None]
    if not found:
        return None
    if len(found) == len(said) and all(finding.verdict is Verdict.NO_GO for finding in found):
        return found[0]
    if not site.wanted <= values.keys():
        return None
    asks = tuple(dict.fromkeys((slot, name) for slot, pair in doubts for name in pair.names))
    outcome = Outcome(verdict=Verdict.UNMEASURED, key="two_readings", asks=asks)
    slot, pair = doubts[0]
    first, again = (describe(slot, name).title for name in pair.names)
    whose = _slot_title(slot).capitalize()
    says = f"{whose}: {in_sentence(first)} and {in_sentence(again)} do not agree; one of the two is misread."
    return _finding(rule, site, outcome, standing, says)


def _run(
    rule: Rule, site: Site, standing: Standing, settings: Settings, depth: int = BRANCH_DEPTH
) -> Finding | None:
    said: list[Outcome] = []
    asked: list[Asked] = []
    beyond: tuple[InputError, tuple[Seen, ...]] | None = None
    stands = standing.stands
    for look, seen in site.looks:
        views = [looked_at(one, stands(one.slot)) for one in seen]
        outcome = run_look(look.function, views, (settings,) if look.settings else ())
        if outcome is None:
            continue
        if isinstance(outcome, Lack):
            if outcome.beyond is not None:
                beyond = (outcome.beyond, seen)
            for slot, name in outcome.asked:
                asked += _attributes(standing, slot, name)
            continue
        if outcome.verdict is Verdict.NO_GO:
            return _finding(rule, site, outcome, standing)
        if outcome.verdict is None:
            return None
        said.append(outcome)
    if asked and depth:
        certain = _certain(rule, site, standing, settings, asked, depth)
        if certain is not None:
            return certain
    if not site.wanted <= standing.values.keys():
        return None
    if beyond is not None:
        return _beyond(rule, site, standing, *beyond)
    if asked:
        return _missing(rule, site, standing, said, asked)
    return _mildest(rule, site, standing, said)


def _certain(
    rule: Rule, site: Site, standing: Standing, settings: Settings, asked: list[Asked], depth: int
) -> Finding | None:
    """The No go that stays one whatever a missing code or yes/no turns out to be; None where one of them may save it.

    Codes and answers are few, so all are tried, and a slot of which nothing is recorded both ways; a size is never
    guessed. The first that is missing is tried, what is missing beyond it in each branch.
    """
    for slot, attr in asked:
        branches = _branches(standing, slot, attr)
        if not branches:
            continue
        said: list[Finding] = []
        for tried in branches:
            found = _run(rule, site, tried, settings, depth - 1)
            if found is None or found.verdict is not Verdict.NO_GO:
                return None
            said.append(found)
        return _whatever(said, slot, attr)
    return None


def _branches(standing: Standing, slot: str, attr: str | None) -> list[Standing]:
    """The bike with each answer that a missing reading may have; none where it is a size."""
    if attr is None:
        return [standing.emptied(slot), standing.with_values(slot, _NOTHING)]
    if slot not in standing.values:
        return []
    known = standing.values[slot]
    values = trial_values(describe(slot, attr).type, attr, standing)
    return [standing.reread(slot, {**known, attr: value}) for value in values]


def _whatever(branches: list[Finding], slot: str, attr: str | None) -> Finding:
    """A No go of every branch, told without the answer that was tried: in one branch's words where all say the same."""
    found = branches[-1]
    same = {
        name: value
        for name, value in found.because.items()
        if all(name in branch.because and branch.because[name] == value for branch in branches)
    }
    ways = tuple(way for way in found.ways_out if (way["slot"], way["attr"]) != (slot, attr))
    slots = branches[0].slots if attr is None else found.slots
    found = evolve(found, because=same, ways_out=ways or found.ways_out, slots=slots)
    if len({branch.says for branch in branches}) == 1:
        return found
    if attr is None:
        says = f"It does not go, with {a(_slot_title(slot))} or without."
    else:
        says = f"It does not go, whatever {_whose(slot)} {in_sentence(describe(slot, attr).title)} is."
    return evolve(found, key="whatever", says=says)


def _mildest(rule: Rule, site: Site, standing: Standing, said: list[Outcome]) -> Finding | None:
    """The worst of what was said, the first where several are as bad; what they need is gathered."""
    if len(said) == 1:
        return _finding(rule, site, said[0], standing)
    alike: list[Outcome] = []
    for verdict in (Verdict.UNMEASURED, Verdict.GOES_IF, Verdict.GOES):
        alike = [finding for finding in said if finding.verdict is verdict]
        if alike:
            break
    if not alike:
        return None
    chosen = alike[0]
    if len(alike) > 1:
        chosen = evolve(
            chosen,
            needs=tuple(n for finding in alike for n in finding.needs),
            asks=tuple(dict.fromkeys(ask for finding in alike for ask in finding.asks)),
            because={name: value for finding in reversed(alike) for name, value in finding.because.items()},
        )
    return _finding(rule, site, chosen, standing)


def _missing(rule: Rule, site: Site, standing: Standing, said: list[Outcome], asked: list[Asked]) -> Finding:
    """Unmeasured: a look's own words where one had any, with everything that is missing."""
    own = [finding for finding in said if finding.verdict is Verdict.UNMEASURED]
    every = list(dict.fromkeys([*(ask for reading in own for ask in reading.asks), *asked]))
    outcome = own[0] if own else Outcome(verdict=Verdict.UNMEASURED, key="missing")
    says = None if own else _says_missing(every)
    return _finding(rule, site, evolve(outcome, asks=tuple(every)), standing, says)


def _beyond(rule: Rule, site: Site, standing: Standing, error: InputError, seen: tuple[Seen, ...]) -> Finding:
    """A reading that no calculation takes, such as a pull of 300 mm: measured again, never guessed."""
    read = [
        (seen_part.slot, attr)
        for seen_part in seen
        for name in seen_part.names.values()
        for attr in measured_by(seen_part.slot, name)
    ]
    given = [(slot, attr) for slot, attr in read if standing.values.get(slot, _NOTHING).get(attr) is not None]
    named = [(slot, attr) for slot, attr in given if any(attr in fault.path for fault in error.faults)]
    outcome = Outcome(verdict=Verdict.UNMEASURED, key="beyond", asks=tuple(dict.fromkeys(named or given)))
    return _finding(rule, site, outcome, standing, f"Cannot be worked out, measure again: {error.faults[0]}.")


def _quoted(rule: Rule, site: Site, key: str, standing: Standing) -> dict[str, Any]:
    """The parts that a message quotes, their values in words."""
    parts: dict[str, Any] = {}
    quotes = rule.quotes[key]
    if not quotes:
        return parts
    for role, names in quotes:
        one = site.roles[role]
        values, attributes = standing.values.get(one.slot, _NOTHING), kind_of(one.slot).attributes
        quoted = {}
        for name in names:
            own = one.own(name)
            declared = attributes.get(own) or attributes[measured_by(one.slot, own)[0]]
            quoted[name] = told(values.get(own), declared.type)
        parts[role] = SimpleNamespace(**quoted)
    return parts


def _finding(
    rule: Rule, site: Site, outcome: Outcome, standing: Standing, says: str | None = None
) -> Finding:
    assert outcome.verdict is not None
    if says is None:
        parts = _quoted(rule, site, outcome.key, standing)
        says = rule.messages[outcome.key].format(**parts, **outcome.because)
    return Finding(
        rule=rule.id,
        key=outcome.key,
        verdict=outcome.verdict,
        area=rule.area,
        joint=site.joint,
        slots=tuple([slot for slot in site.slots if slot in standing.values]),
        says=says,
        because=outcome.because,
        needs=outcome.needs,
        measure=tuple(_measure(asked) for asked in outcome.asks) if outcome.asks else (),
        ways_out=outcome.ways_out,
        safety=rule.safety,
        school=outcome.school,
        source=rule.source,
    )


def _sorted(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda f: (f.verdict.order, f.area.order, f.rule, f.slots)))


def _concerns(site: Site, values: Mapping[str, Mapping[str, Any]]) -> bool:
    """Whether a rule has anything to look at here: a part, and one of the readings that call it up."""
    if site.triggers:
        return any(slot in values and name in values[slot] for slot, name in site.triggers)
    return not values.keys().isdisjoint(site.slots)


def said_at(rule: Rule, site: Site, standing: Standing, settings: Settings = DEFAULTS) -> Finding | None:
    """What a rule says at one place of a bike."""
    return _judged(rule, site, standing, settings) if _concerns(site, standing.values) else None


def _findings(rules: Iterable[Rule], standing: Standing, settings: Settings) -> tuple[Finding, ...]:
    found = (said_at(rule, site, standing, settings) for rule in rules for site in rule.sites)
    return _sorted(finding for finding in found if finding is not None)


def said_by(rule: Rule, build: Build, settings: Settings = DEFAULTS) -> tuple[Finding, ...]:
    """What one rule says of a build."""
    return _findings([rule], Standing.of(build), settings)


def check(build: Build, settings: Settings = DEFAULTS) -> Check:
    """Every finding of a build, in the order verdict, area, rule."""
    return Check(
        findings=_findings(RULES.values(), Standing.of(build), settings), open_slots=open_slots(build)
    )


def check_again(before: Check, old: Build, new: Build, settings: Settings = DEFAULTS) -> Check:
    """The check of a build that differs little from one checked already: equal to `check(new)`.

    Rules are pure over the slots they read, so that only those which read a slot that differs run again.
    """
    was, now = Standing.of(old), Standing.of(new)
    changed = {slot for slot in SLOTS if was.state(slot) != now.state(slot)}
    ids = {rule.id for slot in changed for rule in RULES_BY_SLOT[slot]}
    if was.values["bike"] != now.values["bike"]:
        ids = set(RULES)
    again = [rule for rule in RULES.values() if rule.id in ids]
    stay = [finding for finding in before.findings if finding.rule not in ids]
    fresh = _findings(again, now, settings)
    return Check(findings=_sorted([*stay, *fresh]), open_slots=open_slots(new))


@functools.cache
def read_of(slot: str) -> tuple[str, ...]:
    """What any rule reads of the part in `slot`, attributes and derived values; parts alike in these are
    alike to all rules.
    """
    return tuple(
        sorted({name for rule in RULES_BY_SLOT[slot] for site in rule.sites for name in site.reads(slot)})
    )


def kind_reads(kind: str) -> tuple[str, ...]:
    """The attributes that any rule reads of a part of this kind, in any slot it may fill, itself or by a
    derived value.
    """
    return tuple(
        sorted(
            {
                attr
                for slot in slots_of_kind(kind)
                for name in read_of(slot.name)
                for attr in measured_by(slot.name, name)
            }
        )
    )


def told_by(rule: Rule, site: Site, slot: str) -> tuple[str, ...]:
    """The names of a slot that what a rule says at a place may hang on: its looks read or its sentences quote them."""
    quoted = {
        site.roles[role].own(name)
        for quotes in rule.quotes.values()
        for role, names in quotes
        if site.roles[role].slot == slot
        for name in names
    }
    return tuple(sorted(quoted.union(site.reads(slot))))


@functools.cache
def told_of(slot: str) -> tuple[str, ...]:
    """Every name that anything said of a bike may hang on in a slot: parts alike in these are told the same."""
    return tuple(
        sorted(
            {
                name
                for rule in RULES_BY_SLOT[slot]
                for site in rule.sites
                for name in told_by(rule, site, slot)
            }
        )
    )


def signs(values: Mapping[str, Any] | None, known_empty: bool, names: Iterable[str]) -> Any:
    """What tells two states of a slot apart in these names; `values` None: nothing stands there."""
    return known_empty if values is None else tuple([_hashable(values.get(name)) for name in names])


@functools.cache
def _sites_of(slot: str) -> tuple[tuple[Rule, Site, tuple[str, ...]], ...]:
    """Every rule and place that looks at a slot, with what it reads there; fewest first."""
    found = [
        (rule, site, site.reads(slot))
        for rule in RULES_BY_SLOT[slot]
        for site in rule.sites
        if slot in site.slots
    ]
    return tuple(sorted(found, key=lambda finding: len(finding[2])))


def _hashable(value: Any) -> Any:
    return repr(value) if isinstance(value, (dict, list, tuple)) else value


class SlotChecker:
    """Checks candidates for one slot of a build, given a part's attributes as the core reads them.

    It runs only the rules that look at the slot, and each only once for every set of values it reads
    there, so that a whole catalogue costs little more than its distinct values.
    """

    def __init__(self, build: Build, slot: str, settings: Settings = DEFAULTS) -> None:
        self._standing = Standing.of(build.with_part(slot, None))
        self._kind = kind_of(slot)
        self._slot = slot
        self._settings = settings
        self._sites: list[tuple[Rule, Site, tuple[str, ...], dict[Any, Finding | None]]] = [
            (rule, site, names, {}) for rule, site, names in _sites_of(slot)
        ]

    def _findings(self, attrs: Mapping[str, Any]) -> Iterator[Finding]:
        values = self._kind.read(attrs)
        get = values.get
        standing: Standing | None = None
        for rule, site, names, memo in self._sites:
            key = tuple([_hashable(get(name)) for name in names])
            if key not in memo:
                # a copy of its own: threads share the checker
                standing = standing or self._standing.with_values(self._slot, values)
                memo[key] = _judged(rule, site, standing, self._settings)
            finding = memo[key]
            if finding is not None:
                yield finding

    def without(self) -> list[Finding]:
        """What the same rules say with nothing in the slot."""
        values = self._standing.values
        found = [
            _judged(rule, site, self._standing, self._settings)
            for rule, site, _, _ in self._sites
            if _concerns(site, values)
        ]
        return [finding for finding in found if finding is not None]

    @staticmethod
    def reads(slot: str) -> frozenset[str]:
        """The slots that the rules of a slot look at, itself and the bike's own words ('bike') among them."""
        return frozenset(seen for _, site, _ in _sites_of(slot) for seen in (*site.slots, "bike"))

    def check(self, attrs: Mapping[str, Any]) -> Check:
        """Every finding that names the slot: those of `check` on the build with this part in it."""
        return Check(findings=_sorted(self._findings(attrs)))

    def verdict(self, attrs: Mapping[str, Any]) -> Verdict:
        """The worst verdict only; stops at the first No go."""
        worst_yet: Verdict | None = None
        for finding in self._findings(attrs):
            if finding.verdict is Verdict.NO_GO:
                return Verdict.NO_GO
            if worst_yet is None or finding.verdict.order < worst_yet.order:
                worst_yet = finding.verdict
        return worst_yet or Verdict.UNMEASURED
