"""Limits stand once, in their table: rules read them by code and quote them in their texts."""

import ast
import re
from pathlib import Path

import pytest

from unkett.core import rules
from unkett.core.errors import CoreError
from unkett.core.rules.base import rule
from unkett.core.standards import limit_of, table, with_limits
from unkett.core.vocabulary import Area

CORE = Path(rules.__file__).parents[1]
SOURCES = {path: path.read_text() for path in CORE.rglob("*.py")}


def _typed_numbers(source: str) -> list[str]:
    """The names of a module that hold a number which is typed there."""
    return [
        ast.unparse(node.targets[0])
        for node in ast.parse(source).body
        if isinstance(node, ast.Assign)
        and any(
            isinstance(part, ast.Constant)
            and isinstance(part.value, (int, float))
            and part.value not in (0, 1)
            for part in [node.value, *getattr(node.value, "elts", [])]
        )
    ]


def test_no_rule_types_a_limit_of_its_own() -> None:
    typed = {path.name: _typed_numbers(text) for path, text in SOURCES.items() if path.parent.name == "rules"}
    assert not {name: found for name, found in typed.items() if found}
    assert _typed_numbers("A = 0.5\nB = (20.0, 22.0)\nC = 1") == ["A", "B"]


def test_every_limit_is_read_or_quoted() -> None:
    source = "\n".join(SOURCES.values())
    named = set(re.findall(r'limit_of\("(\w+)"\)', source)) | set(re.findall(r"\{(\w+)\}", source))
    assert not {row["code"] for row in table("limits").rows} - named


def test_texts_quote_limits_and_cells_and_keep_other_braces() -> None:
    assert with_limits("up to {lockring_holds_mm} mm, {spacer_mm:.2f}") == "up to 0.7 mm, {spacer_mm:.2f}"
    assert with_limits("{hookless.hookless.max_bar} bar") == "5 bar"


def test_what_is_not_there_is_reported_by_name() -> None:
    with pytest.raises(CoreError, match='no limit lockring_holds; did you mean "lockring_holds_mm"'):
        limit_of("lockring_holds")
    with pytest.raises(CoreError, match="no row hooked with max_bar in the table hookless"):
        with_limits("{hookless.hooked.max_bar}")
    with pytest.raises(
        CoreError, match=r"rule new: nothing fills the braces of its text: \{lockring_hold\} mm"
    ):
        rule(
            "new", title="", plain="{lockring_hold} mm", why="w", area=Area.WHEELS, joint="cassette", parts={},
            messages={},
            sources=("axles",),
        )  # fmt: skip
