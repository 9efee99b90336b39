"""Every setting changes something, and only what declares that it reads it."""

import functools

import pytest

from tests.cases.all import CASES
from tests.core.test_sheets import bike
from unkett.core.bike.wear import limit_of, sorts
from unkett.core.check.engine import said_by
from unkett.core.formats.reader import build_from
from unkett.core.panels import PAGES
from unkett.core.rules import RULES
from unkett.core.settings import DEFAULTS, SETTINGS, Settings
from unkett.core.ways.money import Priced, totals
from unkett.web.show.words import in_money


def others(setting) -> list[Settings]:
    if setting.letters:
        return [Settings.of({setting.name: "€"})]
    values = list(setting.schools) if setting.schools else [setting.low, setting.high]
    return [Settings.of({setting.name: value}) for value in values if value != setting.default]


def error(rule, build, settings) -> list[tuple]:
    found = said_by(rule, build, settings)
    return [(one.verdict, one.says, one.needs, one.school) for one in found]


def shown(build, settings):
    """What pages, quotes and the wear log show by these settings."""
    quote = totals(
        [Priced(price=10000, minutes=60), Priced(price=round(settings.number("consumables") * 100))], settings
    )
    chains = [
        build_from({"parts": {"cassette": {"attrs": {"speeds": n, "teeth": [14] * n}}}}) for n in (1, 9, 12)
    ]
    limits = [limit_of(sorts()["chain_pct"], one, "chain", settings) for one in chains]
    rotor = build_from({"parts": {"front_rotor": {"attrs": {"thickness_mm": 1.8}}}})
    limits += [limit_of(sort, rotor, slot, settings) for sort in sorts().values() for slot in sort.slots]
    return [page.sheets(build, settings) for page in PAGES.values()], in_money(quote.gross, settings), limits


@functools.cache
def usual_findings() -> list[list[tuple]]:
    return [error(RULES[case.rule], case.build, DEFAULTS) for case in CASES]


@pytest.mark.parametrize("setting", SETTINGS.values(), ids=lambda one: one.name)
def test_every_setting_changes_what_declares_it_and_nothing_else(setting) -> None:
    changed = set()
    for case, usual in zip(CASES, usual_findings(), strict=True):
        rule = RULES[case.rule]
        if rule.id not in changed and any(error(rule, case.build, own) != usual for own in others(setting)):
            changed.add(rule.id)
    declared = {rule.id for rule in RULES.values() if setting.name in rule.settings}
    assert changed == declared
    if not declared:  # read by a page alone
        build = bike()
        assert any(shown(build, own) != shown(build, DEFAULTS) for own in others(setting))
