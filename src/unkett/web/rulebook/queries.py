"""Reads for the rule book: codes, bench names, who changed what."""

from __future__ import annotations

import functools
import json
from collections import defaultdict
from pathlib import Path
from typing import Any

from unkett.core.settings import SETTINGS
from unkett.core.vocabulary import enums
from unkett.web.rulebook.models import BenchName
from unkett.web.workshop.models import LogLine, User

EXAMPLES = Path(__file__).with_name("examples.json")


@functools.cache
def known_codes() -> dict[str, str]:
    """Every code of the vocabulary with its long name."""
    lists = [value for value in vars(enums).values() if isinstance(value, enums.Enumeration)]
    return {code: title for one in lists for code, title in one.codes.items() if code != "none"}


@functools.cache
def examples() -> dict[str, list[dict[str, Any]]]:
    """Worked cases by rule, taken from the rules' case tables."""
    return dict(json.loads(EXAMPLES.read_text(encoding="utf-8")))


def bench_names_of(actor: User) -> dict[str, list[str]]:
    """The workshop's own names by code."""
    names: dict[str, list[str]] = defaultdict(list)
    for row in BenchName.objects.filter(workshop_id=actor.workshop_id):
        names[row.code].append(row.name)
    return dict(names)


def codes_called(workshop_id: int, word: str) -> list[str]:
    """The codes that the workshop calls by this word."""
    rows = BenchName.objects.filter(workshop_id=workshop_id, name__icontains=word)
    return sorted(set(rows.values_list("code", flat=True)))


def settings_shown(actor: User) -> list[dict[str, Any]]:
    """Every setting with its value, its default and who changed it last."""
    lines = LogLine.objects.filter(workshop_id=actor.workshop_id, verb="set", about="workshop")
    last = {}
    for line in lines.select_related("actor").order_by("at"):
        for name in line.after or {}:
            last[name] = line
    own = actor.workshop.settings
    return [
        {
            "setting": one,
            "value": own.get(one.name, one.default),
            "own": one.name in own,
            "last": last.get(one.name),
        }
        for one in SETTINGS.values()
    ]
