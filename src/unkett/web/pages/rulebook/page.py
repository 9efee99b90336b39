"""What the rule book shows: rules and tables in words, made from their declarations; settings; bench names."""

from __future__ import annotations

import functools
import json
from functools import cached_property
from pathlib import Path
from typing import Any

from attrs import frozen
from django import forms

from unkett.core.errors import Fault
from unkett.core.rules import RULES
from unkett.core.rules.base import Rule
from unkett.core.settings import SETTINGS, Setting
from unkett.core.standards import OF_EVERY_ROW, SOURCES, Table, lookup, table, table_names
from unkett.core.vocabulary import Area, Attribute, describe
from unkett.web.rulebook.models import ShopName
from unkett.web.rulebook.queries import SettingShown, bench_names_of, known_codes, settings_shown
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may

EXAMPLES = Path(__file__).with_name("examples.json")


@functools.cache
def examples() -> dict[str, list[dict[str, Any]]]:
    """Worked cases by rule, taken from the rules' case tables."""
    return dict(json.loads(EXAMPLES.read_text(encoding="utf-8")))


@frozen(kw_only=True)
class BookPage:
    """All rules by area and all tables, found by words."""

    words: str

    @property
    def areas(self) -> list[tuple[Area, list[Rule]]]:
        by_area = [(area, [rule for rule in RULES.values() if rule.area is area]) for area in Area]
        found = [(area, [rule for rule in rules if self._speaks(rule)]) for area, rules in by_area]
        return [(area, rules) for area, rules in found if rules]

    def _speaks(self, rule: Rule) -> bool:
        return self.words in f"{rule.id} {rule.title} {rule.plain}".lower()

    @property
    def tables(self) -> list[Table]:
        in_order = sorted(map(table, table_names()), key=lambda found: found.title)
        return [found for found in in_order if self.words in f"{found.title} {found.says}".lower()]


@frozen(kw_only=True)
class RulePage:
    """One rule: what it reads, its figures, thresholds, examples and sources."""

    rule: Rule

    @property
    def reads(self) -> list[tuple[str, Attribute, bool]]:
        """Slot and attribute, and whether it is asked for where it is missing."""
        asked = {pair: asked for site in self.rule.sites for pair, asked in site.measured.items()}
        return [(slot, describe(slot, attr), wanted) for (slot, attr), wanted in asked.items()]

    @property
    def settings(self) -> list[Setting]:
        return [SETTINGS[name] for name in self.rule.settings]

    @property
    def limits(self) -> list[dict[str, Any]]:
        """The limits that the rule quotes, each with its source and how sure it is."""
        rows = lookup("limits", "code")
        return [{**rows[code], "source": SOURCES[rows[code]["source"]]["title"]} for code in self.rule.limits]

    @property
    def schools(self) -> list[Setting]:
        """The settings by which a workshop chooses between schools."""
        return [one for one in self.settings if one.schools]

    @property
    def thresholds(self) -> list[Setting]:
        """The figures that a workshop may set."""
        return [one for one in self.settings if not one.schools]

    @property
    def examples(self) -> list[dict[str, Any]]:
        return examples().get(self.rule.id, [])

    @property
    def sources(self) -> list[dict[str, str]]:
        return [SOURCES[name] for name in self.rule.sources]


@frozen(kw_only=True)
class TableLine:
    """A row of a table as the page shows it."""

    code: Any
    called: list[str]
    cells: list[Any]
    source: str
    sure: str


@frozen(kw_only=True, slots=False)
class TablePage:
    """One table of standards, every row with its source and how sure it is."""

    actor: User
    table: Table

    @property
    def key(self) -> str:
        """The column that leads: the code, or the first there is."""
        own = [column for column in self.table.rows[0] if column not in OF_EVERY_ROW]
        return "code" if "code" in own else own[0]

    @cached_property
    def columns(self) -> list[str]:
        there = dict.fromkeys(column for row in self.table.rows for column in row)
        return [column for column in there if column not in OF_EVERY_ROW and column != self.key]

    @property
    def lines(self) -> list[TableLine]:
        names = bench_names_of(self.actor)
        leads = [row[self.key] for row in self.table.rows]
        codes = [", ".join(lead) if isinstance(lead, (list, tuple)) else lead for lead in leads]
        return [
            TableLine(
                code=code,
                called=names.get(code, []),
                cells=[row.get(column) for column in self.columns],
                source=SOURCES[row["source"]]["title"],
                sure=row["sure"],
            )
            for row, code in zip(self.table.rows, codes, strict=True)
        ]


@frozen(kw_only=True)
class SettingsPage:
    """The workshop's settings; `fault` is what is wrong with the one that was typed."""

    actor: User
    fault: Fault | None = None

    @property
    def settings(self) -> list[SettingShown]:
        return settings_shown(self.actor)

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-settings")


@frozen(kw_only=True)
class NamesPage:
    """What the workshop itself calls the codes, and the form to add a name."""

    actor: User
    form: forms.Form

    @property
    def names(self) -> list[tuple[ShopName, str]]:
        codes = known_codes()
        own = ShopName.objects.filter(workshop_id=self.actor.workshop_id)
        return [(name, codes.get(name.code, name.code)) for name in own]

    @property
    def codes(self) -> dict[str, str]:
        return known_codes()

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-settings")
