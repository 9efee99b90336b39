"""The pages of the work on one bike, in its order, each with the worst verdict of its rules."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.urls import reverse

from unkett.core.engine import Check
from unkett.core.finding import Finding, Verdict, worst
from unkett.core.sheets import PAGES, Sheet


@frozen(kw_only=True)
class Tab:
    """One page in the second line: its address, its worst verdict and how many findings ask for work."""

    name: str
    title: str
    url: str
    verdict: Verdict
    count: int
    here: bool


def _tab(name: str, title: str, url: str, findings: Iterable[Finding], here: str) -> Tab:
    found = list(findings)
    count = sum(one.verdict is not Verdict.GOES for one in found)
    return Tab(
        name=name,
        title=title,
        url=url,
        verdict=worst([f.verdict for f in found]),
        count=count,
        here=name == here,
    )


def tabs(bike: Any, stands: Check, here: str, plan: Any = None, planned: Check | None = None) -> list[Tab]:
    """Stand · Plan · Gears · Chain · Bracket · Brakes · Wheels · Steering for a bike as it stands, or for a plan of it."""
    shown = planned or stands
    of = "plans" if plan is not None else "bikes"
    pk = plan.pk if plan is not None else bike.pk
    first = [_tab("stand", "Stand", reverse("bikes:stand", args=[bike.pk]), stands.findings, here)]
    if plan is not None and planned is not None:
        first.append(_tab("plan", "Plan", reverse("plans:show", args=[plan.pk]), planned.findings, here))
    return [
        *first,
        *[
            _tab(
                page.name,
                page.title.split(" and ")[0],
                reverse(f"{of}:work", args=[pk, page.name]),
                [f for f in shown.findings if f.rule in page.rules],
                here,
            )
            for page in PAGES.values()
        ],
    ]


def by_verdict(findings: Iterable[Finding]) -> list[dict[str, Any]]:
    """Findings in the four groups a page shows, worst first; empty groups are left out."""
    titles = {
        Verdict.NO_GO: "What is wrong",
        Verdict.GOES_IF: "What it needs",
        Verdict.UNMEASURED: "Measure next",
        Verdict.GOES: "What goes",
    }
    found = list(findings)
    groups = [
        (verdict, title, [f for f in found if f.verdict is verdict]) for verdict, title in titles.items()
    ]
    return [{"verdict": verdict, "title": title, "findings": of} for verdict, title, of in groups if of]


def compared(
    now: list[Sheet],
    then: list[Sheet] | None,
    origins: Mapping[str, Mapping[str, str]],
    findings: Iterable[Finding],
) -> list[dict[str, Any]]:
    """Sheets side by side: each number as it stands and, with a plan, as planned, with where it comes from.

    A table's row that names a rule carries the worst verdict of that rule at the sheet's end of the bike.
    """
    before = {sheet.name: sheet for sheet in now}
    found = list(findings)
    out = []
    for sheet in then if then is not None else now:
        old = before.get(sheet.name) if then is not None else None
        rows = [
            {
                "number": one,
                "was": old.value(one.name) if old is not None else None,
                "origin": one.origin
                if one.given is None
                else origins.get(one.given[0], {}).get(one.given[1], "stated"),
            }
            for one in sheet.numbers
        ]
        changed = old is not None and old.scene is not None and old.scene != sheet.scene
        tables = [
            {"table": table, "rows": [(row, _verdict(row.rule, sheet.name, found)) for row in table.rows]}
            for table in sheet.tables
        ]
        out.append(
            {
                "sheet": sheet,
                "rows": rows,
                "tables": tables,
                "was_scene": old.scene if changed and old else None,
            }
        )
    return out


def _verdict(rule: str, sheet: str, findings: list[Finding]) -> Verdict | None:
    """The worst verdict of a rule among the parts of this end of the bike."""
    end = sheet.partition("_")[0]
    hits = [
        one.verdict
        for one in findings
        if rule and one.rule == rule and any(slot.startswith(f"{end}_") for slot in one.slots)
    ]
    return worst(hits) if hits else None
