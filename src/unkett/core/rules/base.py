"""How a rule is declared: what it reads, what it may say, and the registry of all rules.

A rule is a pure function over the parts named in `reads`. The engine hands it one `View` per
role, which gives only the attributes the rule declared. It returns an `Outcome`, or None where
it does not apply. A required attribute is never missing inside the function.
"""

from __future__ import annotations

import functools
import string
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.calc.base import SLACK
from unkett.core.errors import CoreError
from unkett.core.finding import Verdict
from unkett.core.settings import SETTINGS
from unkett.core.standards import SOURCES
from unkett.core.vocabulary import SLOTS, Area, describe

Says = str
RuleFunction = Callable[..., "Outcome | None"]


@frozen
class optional:  # noqa: N801 - reads like a word inside a declaration
    """Marks an attribute that the rule can do without."""

    name: str


@frozen(kw_only=True, slots=False)
class Reads:
    """What a rule asks of one slot: role attribute -> the slot's own attribute name."""

    slot: str
    required: Mapping[str, str]
    optional: Mapping[str, str]
    may_be_empty: bool = False

    @functools.cached_property
    def all(self) -> dict[str, str]:
        """Required and optional attributes together."""
        return {**self.required, **self.optional}

    @functools.cached_property
    def pairs(self) -> tuple[tuple[str, str], ...]:
        """Role attribute and own attribute, for the engine's inner loop."""
        return tuple(self.all.items())

    @functools.cached_property
    def must(self) -> tuple[str, ...]:
        """Own names of the required attributes, for the engine's inner loop."""
        return tuple(self.required.values())


def at(slot: str, *attrs: str | optional, may_be_empty: bool = False, **renamed: str | optional) -> Reads:
    """Attributes read from a slot. `name="other"` reads the slot's `other` under the role's `name`."""
    required: dict[str, str] = {}
    loose: dict[str, str] = {}
    pairs = [(attr.name if isinstance(attr, optional) else attr, attr) for attr in attrs]
    for role_name, attr in [*pairs, *renamed.items()]:
        if isinstance(attr, optional):
            loose[role_name] = attr.name
        else:
            required[role_name] = attr
    return Reads(slot=slot, required=required, optional=loose, may_be_empty=may_be_empty)


class View:
    """One part as a rule sees it: `view.mount` gives a declared attribute or None."""

    slot: str
    empty: bool

    def __init__(self, reads: Reads, values: Mapping[str, Any], empty: bool = False) -> None:
        get = values.get
        own: dict[str, Any] = {name: get(attr) for name, attr in reads.pairs}
        own["slot"] = reads.slot
        own["empty"] = empty
        own["_reads"] = reads
        self.__dict__ = own

    def __getattr__(self, name: str) -> Any:
        raise AttributeError(f"the rule does not declare that it reads {name} of {self.__dict__['slot']}")

    def own_name(self, name: str) -> str:
        """The slot's own name of an attribute that the role calls `name`."""
        reads: Reads = self.__dict__["_reads"]
        return reads.all[name]


@frozen(kw_only=True)
class Outcome:
    """What a rule function returns; the engine makes a Finding of it."""

    verdict: Verdict
    key: str
    because: Mapping[str, Any] = field(factory=dict)
    needs: tuple[Mapping[str, Any], ...] = ()
    asks: tuple[tuple[View, str], ...] = ()
    ways_out: tuple[Mapping[str, Any], ...] = ()
    school: str | None = None


def goes(key: str, **because: Any) -> Outcome:
    return Outcome(verdict=Verdict.GOES, key=key, because=because)


def goes_if(key: str, *needs: Mapping[str, Any], **because: Any) -> Outcome:
    """Goes if something is added or done; `needs` names it."""
    if not needs:
        raise CoreError(f"goes_if({key}) names nothing that is needed")
    return Outcome(verdict=Verdict.GOES_IF, key=key, because=because, needs=needs)


def no_go(key: str, *ways_out: Mapping[str, Any], **because: Any) -> Outcome:
    return Outcome(verdict=Verdict.NO_GO, key=key, because=because, ways_out=ways_out)


def unmeasured(key: str, *asks: tuple[View, str], **because: Any) -> Outcome:
    """The attributes in `asks` (view, role attribute) are missing and the verdict hangs on them."""
    if not asks:
        raise CoreError(f"unmeasured({key}) asks for nothing")
    return Outcome(verdict=Verdict.UNMEASURED, key=key, because=because, asks=asks)


def missing(*pairs: tuple[View, str]) -> list[tuple[View, str]]:
    """Those of the (view, role attribute) pairs that have no value: what `unmeasured` asks for."""
    return [(view, name) for view, name in pairs if getattr(view, name) is None]


def need(what: str, **more: Any) -> Mapping[str, Any]:
    """Something to add or do: `what` in words, with its size and place."""
    return {"what": what, **more}


def way_out(view: View, attr: str, op: str, value: Any) -> Mapping[str, Any]:
    """A property another part in this slot would need; `op` as in a wish (==, <=, >=, in, has)."""
    return {"slot": view.slot, "attr": view.own_name(attr), "op": op, "value": value}


def fill(slot: str, attr: str, op: str, value: Any) -> Mapping[str, Any]:
    """A part with this property put into a slot that stands empty, or replaced there."""
    return {"slot": slot, "attr": attr, "op": op, "value": value}


def worst_outcome(outcomes: Iterable[Outcome | None]) -> Outcome | None:
    """The worst of several; the first where two are as bad. For rules that look at one joint in several ways."""
    said = [outcome for outcome in outcomes if outcome is not None]
    return min(said, key=lambda outcome: outcome.verdict.order, default=None)


def near(a: float, b: float, within: float) -> bool:
    """Whether two sizes count as equal, the tolerance included."""
    return abs(a - b) <= within + SLACK


@frozen(kw_only=True)
class Rule:
    """A declared rule: everything the engine, the rule book and the search need to know of it."""

    id: str
    title: str
    plain: str
    area: Area
    joints: tuple[Mapping[str, Reads], ...]
    safety: bool
    messages: Mapping[str, Says]
    figures: Mapping[str, str]
    settings: tuple[str, ...]
    sources: tuple[str, ...]
    function: RuleFunction
    source: str

    def slots(self) -> set[str]:
        """Every slot that this rule looks at."""
        return {reads.slot for joint in self.joints for reads in joint.values() if reads.slot != "bike"}


RULES: dict[str, Rule] = {}


def _check_reads(rule_id: str, reads: Reads) -> None:
    if reads.slot != "bike" and reads.slot not in SLOTS:
        raise CoreError(f"rule {rule_id}: unknown slot {reads.slot}")
    for attr in reads.all.values():
        try:
            describe(reads.slot, attr)
        except KeyError:
            raise CoreError(f"rule {rule_id}: {reads.slot} has no attribute {attr}") from None


def _check_placeholders(
    rule_id: str, key: str, says: str, joint: Mapping[str, Reads], figures: Mapping[str, str]
) -> None:
    for _, name, _, _ in string.Formatter().parse(says):
        if name is None:
            continue
        role, _, attr = name.partition(".")
        if attr and role in joint and (attr in joint[role].all or attr == "slot"):
            continue
        if not attr and name in figures:
            continue
        raise CoreError(f'rule {rule_id}, message "{key}": nothing fills {{{name}}}')


def rule(
    rule_id: str,
    *,
    title: str,
    plain: str,
    area: Area,
    reads: Mapping[str, Reads | tuple[str | optional, ...]] | tuple[Mapping[str, Reads], ...],
    messages: Mapping[str, Says],
    figures: Mapping[str, str] | None = None,
    settings: tuple[str, ...] = (),
    sources: tuple[str, ...],
    safety: bool = False,
) -> Callable[[RuleFunction], RuleFunction]:
    """Register a rule. Raises CoreError on a doubled id, an unknown name or an unfilled placeholder.

    `plain` describes it for the rule book; `figures` names the numbers it computes, which the
    messages may quote; `reads` is one joint, or one per end of the bike with the same roles.
    """
    joints = reads if isinstance(reads, tuple) else (reads,)
    declared = tuple(
        {role: spec if isinstance(spec, Reads) else at(role, *spec) for role, spec in joint.items()}
        for joint in joints
    )
    figures = figures or {}

    def register(function: RuleFunction) -> RuleFunction:
        if rule_id in RULES:
            raise CoreError(f"rule {rule_id} is declared twice")
        for joint in declared:
            for one in joint.values():
                _check_reads(rule_id, one)
            for key, says in messages.items():
                _check_placeholders(rule_id, key, says, joint, figures)
        unknown = [name for name in settings if name not in SETTINGS] + [
            name for name in sources if name not in SOURCES
        ]
        if unknown:
            raise CoreError(f"rule {rule_id}: unknown {', '.join(unknown)}")
        RULES[rule_id] = Rule(
            id=rule_id,
            title=title,
            plain=plain,
            area=area,
            joints=declared,
            safety=safety,
            messages=messages,
            figures=figures,
            settings=settings,
            sources=sources,
            function=function,
            source="; ".join(SOURCES[name]["title"] for name in sources),
        )
        return function

    return register


def both_ends(**roles: Reads | Mapping[str, Reads]) -> tuple[Mapping[str, Reads], ...]:
    """The same joint at both wheels: slots written `{end}_hub`, or one Reads per end."""
    joints = []
    for end in ("front", "rear"):
        joint = {}
        for role, spec in roles.items():
            reads = spec[end] if isinstance(spec, Mapping) else spec
            joint[role] = Reads(
                slot=reads.slot.replace("{end}", end),
                required=reads.required,
                optional=reads.optional,
                may_be_empty=reads.may_be_empty,
            )
        joints.append(joint)
    return tuple(joints)
