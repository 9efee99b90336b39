"""The pages of the work on one bike, in its order, each with the worst verdict of its rules."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme

from unkett.core.build import Build
from unkett.core.drawing.bicycle import Gear
from unkett.core.engine import Check
from unkett.core.figures import GearFigures
from unkett.core.finding import Finding, Verdict, worst
from unkett.core.joints import Judged, judged, of_page
from unkett.core.next_measure import next_measures
from unkett.core.settings import Settings
from unkett.core.sheets import PAGES, Sheet
from unkett.core.skeleton import Skeleton
from unkett.core.vocabulary import describe


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
    address = reverse(f"{of}:work", args=[pk, "PAGE"])  # asked for once, a page has seven of them
    return [
        *first,
        *[
            _tab(
                page.name,
                page.title.split(" and ")[0],
                address.replace("PAGE", page.name),
                of_page(shown.findings, page.name),
                here,
            )
            for page in PAGES.values()
        ],
    ]


GROUP_FIRST = 12  # findings of a group that a page brings at once


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
    return [
        {
            "verdict": verdict,
            "title": title,
            "findings": of,
            "first": of[:GROUP_FIRST],
            "more": of[GROUP_FIRST:],
        }
        for verdict, title, of in groups
        if of
    ]


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


def joint_context(
    request: HttpRequest,
    here: str,
    now: Build,
    then: Build | None,
    findings: Iterable[Finding],
    settings: Settings,
) -> dict[str, Any]:
    """The joints of a bike as it stands or as planned; the chosen one with its section, else everything there is to say."""
    found = list(findings)
    joints = judged(found)
    asked = request.GET.get("joint", "")
    chosen = next((one for one in joints if one.joint.name == asked), None)
    context: dict[str, Any] = {
        "joints": joints,
        "here_url": here,
        "chosen": chosen,
        "chosen_name": asked if chosen else "",
        "groups": by_verdict(chosen.findings if chosen else found),
        "next_measures": [] if chosen else next_measures(found)[:NEXT_SHOWN],
    }
    if chosen is not None:
        places = [one.joint.name for one in joints]
        at = places.index(chosen.joint.name)
        context |= {
            "before": joints[at - 1].joint,
            "after": joints[(at + 1) % len(joints)].joint,
            "section": _section(chosen, then or now, settings),
            "work_page": PAGES[chosen.joint.page],
        }
    return context


NEXT_SHOWN = 4


def folded_findings(request: HttpRequest, context: dict[str, Any]) -> tuple[str, dict[str, Any]] | None:
    """The template of a folded part of the findings and what it shows; None for a part that is none of these.

    `goes` and `more-` with a verdict are findings; `where` is what stands behind the one called `finding`.
    """
    part = request.GET["part"]
    for group in context["groups"]:
        if part == "goes" and group["verdict"] is Verdict.GOES:
            return "_findings.html", {**context, "findings": group["findings"]}
        if part == f"more-{group['verdict'].value}":
            return "_findings.html", {**context, "findings": group["more"]}
        for finding in group["findings"]:
            if part == "where" and finding.ref == request.GET.get("finding"):
                return "_where.html", {**context, "finding": finding}
    return None


def _section(one: Judged, build: Build, settings: Settings) -> Sheet | None:
    """The sheet that shows a joint in section."""
    if not one.joint.sheet:
        return None
    sheets = PAGES[one.joint.page].sheets(build, settings)
    return next((sheet for sheet in sheets if sheet.name == one.joint.sheet and sheet.scene), None)


def assumed_of(bones: Skeleton) -> list[dict[str, Any]]:
    """What the side view had to assume: the number in words, with where it would be measured."""
    return [
        {"slot": one.slot, "attr": one.attr, "declared": describe(one.slot, one.attr), "value": one.value}
        for one in bones.assumed
    ]


def chosen_gear(request: HttpRequest, figures: GearFigures) -> Gear | None:
    """The gear asked for as ring-sprocket, else the largest ring with the middle sprocket."""
    if figures.gears is None:
        return None
    pairs = [(gear.ring, gear.sprocket) for gear in figures.gears.gears]
    asked = request.GET.get("gear", "")
    named = next((pair for pair in pairs if f"{pair[0]}-{pair[1]}" == asked), None)
    ring = max(pair[0] for pair in pairs)
    on_ring = [pair for pair in pairs if pair[0] == ring]
    chosen = named or on_ring[len(on_ring) // 2]
    return Gear(ring=chosen[0], sprocket=chosen[1])


def back(request: HttpRequest, bike_id: int) -> HttpResponse:
    """To the page that a form was on, or the Stand."""
    target = request.POST.get("next", "")
    if target.startswith("/") and url_has_allowed_host_and_scheme(target, allowed_hosts=None):
        return HttpResponseRedirect(target)
    return redirect("bikes:stand", bike_id)
