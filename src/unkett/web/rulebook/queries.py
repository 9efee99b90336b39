"""Reads for the rule book: codes, bench names, who changed what."""

from __future__ import annotations

import functools
from collections import defaultdict

from attrs import frozen

from unkett.core.settings import SETTINGS, Setting
from unkett.core.vocabulary import enums
from unkett.web.rulebook.models import ShopName
from unkett.web.workshop.models import LogEntry, User


@functools.cache
def known_codes() -> dict[str, str]:
    """Return every code of the vocabulary with its long name."""
    lists = [value for value in vars(enums).values() if isinstance(value, enums.Enumeration)]
    return {code: title for codes in lists for code, title in codes.codes.items() if code != "none"}


def bench_names_of(actor: User) -> dict[str, list[str]]:
    """Return the workshop's own names by code."""
    names: dict[str, list[str]] = defaultdict(list)
    for row in ShopName.objects.filter(workshop_id=actor.workshop_id):
        names[row.code].append(row.name)
    return dict(names)


def codes_called(workshop_id: int, word: str) -> list[str]:
    """Return the codes that the workshop calls by this word."""
    rows = ShopName.objects.filter(workshop_id=workshop_id, name__icontains=word)
    return sorted(set(rows.values_list("code", flat=True)))


@frozen(kw_only=True)
class SettingShown:
    """A setting with its value here, and the line of the log of its last change."""

    setting: Setting
    value: float | str
    last: LogEntry | None


def settings_shown(actor: User) -> list[SettingShown]:
    """Return every setting with its value, its default and who changed it last."""
    lines = LogEntry.objects.filter(workshop_id=actor.workshop_id, verb="set", about="workshop")
    last = {name: line for line in lines.select_related("actor").order_by("at") for name in line.after or {}}
    own = actor.workshop.settings
    return [
        SettingShown(setting=setting, value=own.get(name, setting.default), last=last.get(name))
        for name, setting in SETTINGS.items()
    ]
