"""The order that the facts give: who makes one before who requires it, who requires it before who ends it."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from unkett.core.work.facts import Literal, starts_false
from unkett.core.work.operations import Operation
from unkett.core.work.templates import STAGES


def precedence(steps: Mapping[str, Operation], start: Collection[str]) -> dict[str, set[str]]:
    """Return by step the steps before it, from what each requires, gives and ends.

    `start` holds as the work begins. A check of one thing waits for that thing only; what comes first, the bolts, the
    ride and the hand-over stand before or after everything else.
    """
    enders, givers = _by_fact(steps)
    links: dict[str, set[str]] = {name: set() for name in steps}
    for fact in enders.keys() | givers.keys():
        first, then = (givers, enders) if fact in starts_false() else (enders, givers)
        for name in then.get(fact, ()):
            links[name] |= set(first.get(fact, ())) - {name}
    for one in steps.values():
        for wanted in one.requires:
            _link(links, one, start, wanted, enders.get(wanted.fact, []), givers.get(wanted.fact, []))
    staged: dict[str, set[str]] = {stage: set() for stage in STAGES}
    for name, one in steps.items():
        staged[one.stage].add(name)
    lower: set[str] = set()
    for stage in STAGES:
        before = staged["first"] if stage == "check" else lower
        for name in staged[stage]:
            links[name] |= before
        lower = lower | staged[stage]
    return links


def checks_last(links: Mapping[str, set[str]], steps: Mapping[str, Operation]) -> dict[str, set[str]]:
    """Return the links of a sheet that one mechanic goes through: its checks stand after all of the work."""
    work = {name for name, one in steps.items() if one.stage == "work"}
    return {
        name: before | work if name in steps and steps[name].stage == "check" else set(before)
        for name, before in links.items()
    }


def _by_fact(steps: Mapping[str, Operation]) -> tuple[dict[str, list[str]], dict[str, list[str]]]:
    enders: dict[str, list[str]] = {}
    givers: dict[str, list[str]] = {}
    for name, one in steps.items():
        for fact in one.ends:
            enders.setdefault(fact, []).append(name)
        for fact in one.gives:
            givers.setdefault(fact, []).append(name)
    return enders, givers


def _link(
    links: Mapping[str, set[str]],
    one: Operation,
    start: Collection[str],
    wanted: Literal,
    enders: list[str],
    givers: list[str],
) -> None:
    """Put one requirement's step where its fact holds: before who ends it, or after who makes it (again)."""
    name = one.id
    others = [end for end in enders if end != name]
    makers = [give for give in givers if give != name]
    begins = wanted.fact in start
    if wanted.holds:
        if begins and others and (one.takes_off or not makers):
            for end in others:
                links[end].add(name)
        elif not begins or others:
            links[name] |= set(makers)
            if wanted.fact in starts_false():
                for end in others:
                    if end not in makers:
                        links[end].add(name)
    elif begins:
        links[name] |= set(others)
        for give in makers:
            links[give].add(name)
    elif not enders:
        for give in makers:
            links[give].add(name)


def ring(links: Mapping[str, set[str]]) -> list[str]:
    """Steps that wait for each other in a ring, or none."""
    left = {name: set(before) & links.keys() for name, before in links.items()}
    while True:
        free = {name for name, before in left.items() if not before}
        if not free:
            break
        left = {name: before - free for name, before in left.items() if name not in free}
    if not left:
        return []
    path, at = [], min(left)
    while at not in path:
        path.append(at)
        at = min(left[at])
    return [*path[path.index(at) :], at]
