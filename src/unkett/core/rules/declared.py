"""Holds the source of every clause against what its rule declares, when the rules are loaded.

Found here, with file, line and rule, instead of on the one bike that comes to the line: a reading that the clause does
not declare, `require` of a reading that it may do without, a message key or figure that the rule lacks, a need that
the table lacks, a way out by an attribute that the part lacks, SILENT from a look that does not say `silences`.

Helpers of the same file are followed with the parts they are handed. What was found good is remembered beside the
compiled files, by the contents of the sources, so that it costs nothing at the next start.
"""

from __future__ import annotations

import ast
import contextlib
import hashlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from attrs import field, frozen

from unkett.core.errors import CoreError
from unkett.core.rules.base import RULES, Rule
from unkett.core.rules.site import Clause
from unkett.core.standards import lookup
from unkett.core.vocabulary import kind_of

VIEW = frozenset(
    {"slot", "empty", "recorded", "there", "own_name", "with_reading"}
)  # what every part has beside its readings
OUTCOMES = frozenset({"goes", "goes_if", "no_go", "unmeasured"})
FOLDER = Path(__file__).parent
REMEMBERED = FOLDER / "__pycache__" / "declared.good"
Parts = Mapping[str, str]  # by the name of a variable, the role whose part it is


def refuse_undeclared() -> None:
    """Called once all rules are declared. Raises CoreError naming every place where a clause differs from its rule."""
    sources = {path: path.read_bytes() for path in sorted(FOLDER.glob("*.py"))}
    tables = (FOLDER.parent / "standards" / "needs.toml", FOLDER.parent / "vocabulary")
    digest = hashlib.sha256(b"".join(sources.values()))
    for path in sorted(file for one in tables for file in ([one] if one.is_file() else one.glob("*.py"))):
        digest.update(path.read_bytes())
    mark = digest.hexdigest()
    with contextlib.suppress(OSError):
        if REMEMBERED.read_text() == mark:
            return
    faults = [fault for path, source in sources.items() for fault in faults_of(path, source.decode())]
    if faults:
        raise CoreError("\n".join(faults))
    with contextlib.suppress(OSError):  # a folder that cannot be written is checked at every start
        REMEMBERED.write_text(mark)


def faults_of(path: Path, source: str, rules: Mapping[str, Rule] = RULES) -> Iterator[str]:
    """Yield what is wrong with the clauses of one file, a sentence each."""
    tree = ast.parse(source)
    functions = {one.name: one for one in tree.body if isinstance(one, ast.FunctionDef)}
    for made in tree.body:
        if isinstance(made, ast.ClassDef):
            for one in made.body:
                if isinstance(one, ast.FunctionDef) and one.name == "__init__":
                    functions[made.name] = one
    module = f"unkett.core.rules.{path.stem}"
    for rule in rules.values():
        for clause in (one.clause for one in rule.sites[0].clauses):
            node = functions.get(clause.function.__name__)
            if clause.function.__module__ == module and node is not None:
                roles = {reading.role: reading.role for reading in clause.readings}
                yield from _Reader(path=path, rule=rule, clause=clause, functions=functions).faults(
                    node, roles
                )


@frozen(kw_only=True)
class _Reader:
    """Reads one clause and the helpers it calls."""

    path: Path
    rule: Rule
    clause: Clause
    functions: Mapping[str, ast.FunctionDef]
    seen: set[tuple[str, tuple[tuple[str, str], ...]]] = field(factory=set)

    def faults(self, node: ast.FunctionDef, parts: Parts) -> Iterator[str]:
        """What is wrong with a function that is handed these parts."""
        if (place := (node.name, tuple(sorted(parts.items())))) in self.seen:
            return
        self.seen.add(place)
        for one in ast.walk(node):
            if isinstance(one, ast.Attribute):
                yield from self._reading(one, parts)
            elif isinstance(one, ast.Call) and isinstance(one.func, ast.Name):
                yield from self._call(one, one.func.id, parts)
            elif isinstance(one, ast.Name) and one.id == "SILENT" and not self.clause.silences:
                yield self._at(one, "may return SILENT and does not say silences=True")

    def _at(self, node: ast.expr, says: str) -> str:
        return f"{self.path}:{node.lineno}: rule {self.rule.id}, {self.clause.function.__name__}: {says}"

    def _reading(self, node: ast.Attribute, parts: Parts) -> Iterator[str]:
        value, required = node.value, False
        if isinstance(value, ast.Call) and isinstance(value.func, ast.Name) and value.func.id == "require":
            value, required = value.args[0], True
        if isinstance(value, ast.Name) and value.id in parts:
            yield from self._declared(node, parts[value.id], node.attr, required=required)

    def _declared(self, node: ast.expr, role: str, name: str, *, required: bool) -> Iterator[str]:
        if name in VIEW:
            return
        reading = next(one for one in self.clause.readings if one.role == role)
        if name not in reading.all:
            yield self._at(node, f"reads {role}.{name}, which it does not declare")
        elif required and name in (*reading.may, *reading.shows):
            yield self._at(node, f"requires {role}.{name}, which it declares as what may be missing")

    def _call(self, node: ast.Call, called: str, parts: Parts) -> Iterator[str]:
        if called in OUTCOMES and node.args:
            yield from self._outcome(node)
        elif called == "need" and node.args:
            for phrase in _texts(node.args[0]):
                if phrase not in lookup("needs", "what"):
                    yield self._at(node, f'the table of needs has no "{phrase}"')
        elif (
            called in ("way_out", "require")
            and isinstance(node.args[0], ast.Name)
            and node.args[0].id in parts
        ):
            role = parts[node.args[0].id]
            for name in (
                text for arg in node.args[1 : 2 if called == "way_out" else None] for text in _texts(arg)
            ):
                yield from self._known(node, role, name, called)
        elif called in self.functions:
            yield from self.faults(self.functions[called], self._handed(node, called, parts))

    def _known(self, node: ast.expr, role: str, name: str, called: str) -> Iterator[str]:
        if called == "require":
            yield from self._declared(node, role, name, required=True)
            return
        for site in self.rule.sites:
            kind, own = kind_of(site.roles[role].slot), site.roles[role].own(name)
            if own not in kind.attributes and own not in kind.derived:
                yield self._at(
                    node, f"a way out by {role}.{name}: {site.roles[role].slot} has no attribute {own}"
                )

    def _outcome(self, node: ast.Call) -> Iterator[str]:
        for key in _texts(node.args[0]):
            if key not in self.rule.messages:
                yield self._at(node, f'the rule has no message "{key}"')
        for given in node.keywords:
            if given.arg is not None and given.arg not in self.rule.figures:
                yield self._at(node, f"the rule declares no figure {given.arg}")

    def _handed(self, node: ast.Call, called: str, parts: Parts) -> dict[str, str]:
        """Return which parts a helper gets, by its own names."""
        names = [arg.arg for arg in self.functions[called].args.args if arg.arg != "self"]
        pairs: list[tuple[str | None, Any]] = [*zip(names, node.args, strict=False)]
        pairs += [(one.arg, one.value) for one in node.keywords]
        return {
            name: parts[value.id]
            for name, value in pairs
            if name is not None and isinstance(value, ast.Name) and value.id in parts
        }


def _texts(node: ast.expr) -> list[str]:
    """Return the texts that an argument may be: itself, or those of the branches of a condition."""
    if isinstance(node, ast.Constant):
        return [node.value] if isinstance(node.value, str) else []
    return [*_texts(node.body), *_texts(node.orelse)] if isinstance(node, ast.IfExp) else []
