"""How a rule is declared: the joint it speaks of, the parts there, its clauses, what it may say.

A rule is a set of clauses about one joint. Every clause is a small pure function that declares what it reads:

    SEAT = rule("freehub-seat", joint="cassette", parts={"cassette": "cassette", "hub": "rear_hub"}, …)

    @SEAT.clause("cassette.mount hub.freehub", asks="cassette.dished_mm", may="hub.freehub_swaps")
    def stack(cassette: View, hub: View) -> Outcome | None: …

- what stands first is needed: the clause runs once all of it is there, else what is missing is asked for;
- `given` is needed too, but nobody is asked for it: the clause runs where it is there;
- `asks` is read as the clause goes on, by `require(cassette).dished_mm`: where it is missing the clause stops there and
  it is asked for; read plainly it is None there;
- `may` may be missing and is None then;
- `shows` may be missing too: no verdict and no need hangs on it, only the figures beside them do.

The engine runs every clause whose readings are there. A No-go of any clause is the rule's; else what is
missing is asked for; else Goes if, then Goes. While a part that the rule wants is absent,
it says nothing but a No-go of those that are there: a look that presumes the part names its role. A part
declared `beside` may be absent: its view is `empty`, and `require(view).there` asks whether one is fitted where that
is not recorded. A look that finds nothing to say returns None; one that finds that the rule does not apply to this
bike is declared with `silences=True` and returns SILENT; the clauses declared after it are not run.

All this is held against the source of the clauses when the rules are loaded (`declared.py`).
"""

from __future__ import annotations

import functools
import inspect
import string
from collections.abc import Callable, Mapping

from attrs import frozen

from unkett.core.errors import CoreError
from unkett.core.rules.joints import JOINTS
from unkett.core.rules.outcome import check_known
from unkett.core.rules.roles import REQUIRED, Parts, Role
from unkett.core.rules.site import Clause, Reading, Site, SiteClause
from unkett.core.rules.view import ClauseFunction, Seen
from unkett.core.settings import SETTINGS
from unkett.core.standards import SOURCES, limits_quoted, with_limits
from unkett.core.vocabulary import SLOTS, Area

Quotes = tuple[tuple[str, tuple[str, ...]], ...]  # what a message quotes: by role, the attributes


@frozen(kw_only=True, slots=False)
class Rule:
    """A declared rule: everything the engine, the rule book and the search need to know of it."""

    id: str
    title: str
    plain: str
    why: str
    limits: tuple[str, ...]  # codes of standards/limits.toml that its texts quote
    area: Area
    sites: tuple[Site, ...]
    safety: bool
    messages: Mapping[str, str]
    figures: Mapping[str, tuple[str, str]]
    settings: tuple[str, ...]
    sources: tuple[str, ...]
    source: str
    quotes: Mapping[str, Quotes]

    @functools.cached_property
    def fixed(self) -> Mapping[str, str]:
        """The messages that quote nothing."""
        return {key: says for key, says in self.messages.items() if "{" not in says}

    def slots(self) -> set[str]:
        """Return every slot that this rule looks at."""
        return {slot for site in self.sites for slot in site.slots}

    def clause(
        self,
        needs: str = "",
        *,
        given: str = "",
        asks: str = "",
        may: str = "",
        shows: str = "",
        silences: bool = False,
    ) -> Callable[[ClauseFunction], ClauseFunction]:
        """Declare a clause by what it reads, as `role.attribute` words; a part that need only be there, as `role`.

        `silences` says that it may return SILENT.

        Raises CoreError for a role the rule does not have or an attribute its part does not carry.
        """

        def register(function: ClauseFunction) -> ClauseFunction:
            taken = list(inspect.signature(function).parameters)
            parts = [name for name in taken if name != "settings"]
            sorts = [words.split() for words in (needs, given, asks, may, shows)]
            readings = self._readings(*sorts)
            if {reading.role for reading in readings} != set(parts) or "settings" in taken[:-1]:
                raise CoreError(f"rule {self.id}, {function.__name__}: takes other parts than it reads")
            in_order = tuple(sorted(readings, key=lambda reading: parts.index(reading.role)))
            clause = Clause(
                function=function, readings=in_order, settings="settings" in taken, silences=silences
            )
            for site in self.sites:
                seen = tuple(_seen(self.id, site, reading) for reading in clause.readings)
                site.clauses.append(SiteClause.of(clause, seen))
            return function

        return register

    def _readings(self, *by_sort: list[str]) -> tuple[Reading, ...]:
        found: dict[str, tuple[list[str], ...]] = {}
        there = {word for word in by_sort[0] if "." not in word}
        for n, words in enumerate(by_sort):
            for word in words:
                role, _, name = word.partition(".")
                lists = found.setdefault(role, tuple([] for _ in by_sort))
                if name:
                    lists[n].append(name)
        return tuple(
            Reading(
                role=role,
                needs=tuple(needs),
                given=tuple(given),
                asks=tuple(asks),
                may=tuple(may),
                shows=tuple(shows),
                there=role in there,
            )
            for role, (needs, given, asks, may, shows) in found.items()
        )


def _seen(rule_id: str, site: Site, reading: Reading) -> Seen:
    role = site.roles.get(reading.role)
    if role is None:
        raise CoreError(f"rule {rule_id}: a clause reads {reading.role}, which is no part of the joint")
    names = {name: role.own(name) for name in reading.all}
    for own in names.values():
        check_known(rule_id, role.slot, own)
    return Seen(
        role=reading.role,
        slot=role.slot,
        stops=bool(reading.needs or reading.given) or (role.presence == REQUIRED and reading.there),
        names=names,
        renamed=role.names,
        must=reading.needs,
        given=reading.given,
        asks=frozenset(reading.asks),
        shows=frozenset(reading.shows),
        needed=frozenset(names[name] for name in (*reading.needs, *reading.given)),
    )


RULES: dict[str, Rule] = {}


def _quoted(says: str) -> Quotes:
    names = [name for _, name, _, _ in string.Formatter().parse(says) if name and "." in name]
    pairs = [name.partition(".")[::2] for name in names]
    return tuple((role, tuple(n for of, n in pairs if of == role)) for role in dict(pairs))


def _check_placeholders(
    rule_id: str, key: str, says: str, roles: Mapping[str, Role], figures: Mapping[str, tuple[str, str]]
) -> None:
    for _, name, _, _ in string.Formatter().parse(says):
        if name is None or name in figures:
            continue
        role, _, attr = name.partition(".")
        if role not in roles or not attr:
            raise CoreError(f'rule {rule_id}, message "{key}": nothing fills {{{name}}}')
        check_known(rule_id, roles[role].slot, roles[role].own(attr))


def _roles(rule_id: str, given: Parts) -> dict[str, Role]:
    """Return the parts of a joint by role. Raises CoreError for a slot there is not."""
    roles = {role: item if isinstance(item, Role) else Role(slot=item) for role, item in given.items()}
    for item in roles.values():
        if item.slot != "bike" and item.slot not in SLOTS:
            raise CoreError(f"rule {rule_id}: unknown slot {item.slot}")
    return roles


def _filled(rule_id: str, plain: str) -> str:
    filled = with_limits(plain)
    if "{" in filled:
        raise CoreError(
            f"rule {rule_id}: nothing fills the braces of its text: {filled[filled.index('{') :][:40]}"
        )
    return filled


def rule(
    rule_id: str,
    *,
    title: str,
    plain: str,
    why: str,
    area: Area,
    joint: str | tuple[str, ...],
    parts: Parts | tuple[Parts, ...],
    messages: Mapping[str, str],
    figures: Mapping[str, tuple[str, str]] | None = None,
    settings: tuple[str, ...] = (),
    sources: tuple[str, ...],
    safety: bool = False,
    one_piece: str = "",
) -> Rule:
    """Register a rule. Raises CoreError on a doubled id, an unknown name or joint, or an unfilled placeholder.

    `plain` says what it checks and `why` what goes wrong otherwise, for the rule book. Texts and messages quote limits
    as `{limit}` and cells of other tables as `{table.code.column}`; `figures` names the numbers that messages may quote
    beside, with their units. `parts` are those of one joint, or of several with the same roles; `joint` names each, or
    all; `one_piece` is the message of a joint within one part, which is not looked at.
    """
    quoted = limits_quoted(plain, *messages.values())
    places = parts if isinstance(parts, tuple) else (parts,)
    joints = joint if isinstance(joint, tuple) else (joint,) * len(places)
    messages = {key: with_limits(says) for key, says in messages.items()}
    figures = {name: (with_limits(title), unit) for name, (title, unit) in (figures or {}).items()}
    if rule_id in RULES:
        raise CoreError(f"rule {rule_id} is declared twice")
    unknown = [name for name in joints if name not in JOINTS]
    unknown += [name for name in settings if name not in SETTINGS]
    unknown += [name for name in sources if name not in SOURCES]
    unknown += [one_piece] if one_piece not in ("", *messages) else []
    if unknown or len(joints) != len(places):
        raise CoreError(f"rule {rule_id}: unknown {', '.join(unknown) or 'number of joints'}")
    sites = []
    for name, given in zip(joints, places, strict=True):
        roles = _roles(rule_id, given)
        for key, says in messages.items():
            _check_placeholders(rule_id, key, says, roles, figures)
        sites.append(Site(joint=name, roles=roles, one_piece=one_piece))
    made = Rule(
        id=rule_id,
        title=title,
        plain=_filled(rule_id, plain),
        why=why,
        limits=quoted,
        area=area,
        sites=tuple(sites),
        safety=safety,
        messages=messages,
        figures=figures,
        settings=settings,
        sources=sources,
        source="; ".join(SOURCES[name]["title"] for name in sources),
        quotes={key: _quoted(says) for key, says in messages.items()},
    )
    RULES[rule_id] = made
    return made


def refuse_unfinished() -> None:
    """Called once all rules are declared. Raises CoreError for a rule that looks at nothing, saying what to write."""
    for made in RULES.values():
        if not made.sites or not made.sites[0].clauses:
            raise CoreError(
                f'rule {made.id}: it has no clause; declare one with @RULE.clause("role.attribute …")'
            )
