"""The files made from rules, cases and vocabulary; CONTRIBUTING.md names the command that writes them again."""

from __future__ import annotations

import json
from typing import Any

from tests.cases import Case
from tests.cases.all import CASES
from unkett.core.check.engine import check
from unkett.core.formats.schema import build_schema
from unkett.core.vocabulary import SLOTS, describe
from unkett.local.state import PROJECT
from unkett.web.pages.rulebook.page import EXAMPLES
from unkett.web.show.words import plain_value


def given(case: Case) -> str:
    """What stands on the bike in a case, in words."""
    parts = []
    for slot, part in case.build.parts.items():
        words = [
            f"{describe(slot, name).title.lower()} {plain_value(value, describe(slot, name).type)}"
            for name, value in part.attrs.items()
        ]
        titles = " + ".join(SLOTS[name].title for name in (slot, *part.also))
        parts.append(f"{titles}: {', '.join(words) or 'nothing measured'}")
    if case.empty:
        parts.append(f"No part fitted: {', '.join(SLOTS[slot].title.lower() for slot in case.empty)}")
    return "; ".join(parts)


def examples() -> dict[str, list[dict[str, Any]]]:
    """The first case of every message of every rule."""
    out: dict[str, list[dict[str, Any]]] = {}
    seen = set()
    for case in CASES:
        if (case.rule, case.key) in seen:
            continue
        seen.add((case.rule, case.key))
        found = [one for one in check(case.build).findings if (one.rule, one.key) == (case.rule, case.key)]
        row = {"given": given(case), "verdict": case.verdict, "says": found[0].says if found else ""}
        out.setdefault(case.rule, []).append(row)
    return out


def text() -> str:
    return json.dumps(examples(), ensure_ascii=False, indent=1) + "\n"


def write() -> None:
    """The rule book's worked cases and the published schema."""
    EXAMPLES.write_text(text(), encoding="utf-8")
    schema = json.dumps(build_schema(), ensure_ascii=False, indent=1) + "\n"
    (PROJECT / "docs/unkett.build.schema.json").write_text(schema, encoding="utf-8")
