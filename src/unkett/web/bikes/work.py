"""The pages of the work on one bike: Gears, Chain and the sheets, as it stands and as planned, with their files."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from attrs import frozen
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.core.build import Build
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.drawing.chain import chain_scene
from unkett.core.drawing.gears import gear_scene
from unkett.core.drawing.scene import Scene
from unkett.core.errors import InputError
from unkett.core.figures import (
    SETUPS_MOST,
    SetUp,
    chain_of,
    gears_of,
    hill_of,
    setup_of,
    top_speed,
    with_gears,
)
from unkett.core.joints import of_page
from unkett.core.sheets import PAGES, Page
from unkett.web.bikes.forms import GearsForm
from unkett.web.bikes.pages import by_verdict, compared
from unkett.web.site.files import download
from unkett.web.workout.tools import make_tool

Rows = list[list[Any]]


@frozen(kw_only=True)
class Made:
    """What a page's maker hands back: its template, what it shows, its picture and its table."""

    template: str
    context: dict[str, Any]
    scene: Scene | None = None
    rows: Rows
    name: str


def page_named(name: str) -> Page:
    """A page of the work, or 404."""
    if name not in PAGES:
        raise Http404
    return PAGES[name]


def work_response(
    request: HttpRequest, page: Page, context: dict[str, Any], now: Build, then: Build | None
) -> HttpResponse:
    """The page, its table as CSV (`?as=csv`) or its picture as SVG (`?as=svg`, with `&sheet=…` where it has several)."""
    made = MAKERS.get(page.name, _sheets)(request, page, context, now, then)
    file = download(request, made.name, made.scene, made.rows)
    if file is not None:
        return file
    found = of_page(context["check"].findings, page.name)
    kept = context["bike"].kept
    tools = [
        make_tool(CALCULATIONS[name], {}, now=now, then=then, kept=kept.get(name)) for name in page.tools
    ]
    context |= made.context
    context |= {
        "page": page,
        "groups": by_verdict(found),
        "compares": then is not None,
        "tools": tools,
        "planned_slots": set(context["planned"].changes) if then is not None else set(),
    }
    return render(request, made.template, context)


def _sheets(
    request: HttpRequest, page: Page, context: dict[str, Any], now: Build, then: Build | None
) -> Made:
    """Sheets of numbers with their pictures; a plan adds the sheets of what it changes."""
    findings, settings = context["check"].findings, context["settings"]
    sheets = compared(
        page.sheets(now, settings),
        None if then is None else page.sheets(then, settings),
        context["origins"],
        findings,
    )
    changes = [] if then is None else compared(page.compares(now, then), None, {}, findings)
    every = [*changes, *sheets]
    asked = request.GET.get("sheet")
    scene = next((one["sheet"].scene for one in every if one["sheet"].name == asked), None)
    return Made(
        template="bikes/work.html",
        context={
            "sheets": sheets,
            "changes": changes,
            "asked_beside": {(lack.slot, lack.attr) for one in every for lack in one["sheet"].missing},
        },
        scene=scene,
        rows=_sheet_rows(every, then is not None),
        name=asked if scene is not None and asked else page.name,
    )


def _sheet_rows(sheets: list[dict[str, Any]], compares: bool) -> Rows:
    rows: Rows = [["sheet", "number", *(["now", "planned"] if compares else ["value"]), "unit", "origin"]]
    for one in sheets:
        for row in one["rows"]:
            number = row["number"]
            values = [row["was"], number.value] if compares else [number.value]
            shown = ["" if value is None else value for value in values]
            rows.append([one["sheet"].title, number.title, *shown, number.unit, row["origin"]])
        for table in one["tables"]:
            for row, _verdict in table["rows"]:
                cells = zip(table["table"].columns, row.cells, strict=True)
                rows += [
                    [one["sheet"].title, f"{row.title}, {column}", *([""] if compares else []), "" if cell is None else cell, "", "computed"]
                    for column, cell in cells
                ]  # fmt: skip
    return rows


def _setups(asked: dict[str, Any], context: dict[str, Any], now: Build, then: Build | None) -> list[SetUp]:
    """As it stands, as planned, other plans of this bike and typed ones: at most four."""
    pairs = [("as it stands", "stands", now)]
    if then is not None:
        pairs.append(("as planned", "planned", then))
    pairs += [(name, "", build) for name, build in context["other_plans"](asked["beside"])]
    if asked["rings"] and asked["sprockets"]:
        pairs.append(("typed", "", with_gears(then or now, asked["rings"], asked["sprockets"])))
    found = [one for label, state, build in pairs if (one := setup_of(build, label, state)) is not None]
    spare = iter(("third", "fourth") if then is not None else ("planned", "third", "fourth"))
    out = []
    for one in found[:SETUPS_MOST]:
        out.append(
            one
            if one.state
            else SetUp(label=one.label, state=next(spare), table=one.table, angles=one.angles)
        )
    return out


def _gears(request: HttpRequest, page: Page, context: dict[str, Any], now: Build, then: Build | None) -> Made:
    """Gears of up to four set-ups beside each other, the hill and the top speed of the shown bike."""
    form = GearsForm(request.GET)
    asked = form.asked()
    faults = dict(form.faults)
    try:
        setups = _setups(asked, context, now, then)
    except InputError as error:
        faults["typed"] = str(error)
        setups = _setups({**asked, "rings": None}, context, now, then)
    shown = gears_of(then or now)
    scene = gear_scene(setups, context["settings"]) if setups else None
    more: dict[str, Any] = {
        "setups": setups,
        "figures": shown,
        "asked": asked,
        "faults": faults,
        "scene": scene,
    }
    if shown.gears is not None:
        hill = hill_of(then or now, shown.gears, grade_pct=asked["grade"], power_w=asked["power"])
        more |= {
            "hill": hill,
            "hill_rows": list(zip(shown.gears.gears, hill.cadences_rpm, strict=True)),
            "easy": None if hill.easy is None else shown.gears.gears[hill.easy],
            "top_kmh": top_speed(shown.gears, asked["cadence"]),
        }
    return Made(template="bikes/gears.html", context=more, scene=scene, rows=_gear_rows(setups), name="gears")


def _gear_rows(setups: list[SetUp]) -> Rows:
    """Gear tables as rows for a CSV file."""
    head = ["state", "ring", "sprocket", "ratio", "development_m", "gear_inches", "speed_kmh", "step_pct", "chain_angle_deg"]  # fmt: skip
    rows: Rows = [head] if setups else []
    for one in setups:
        for row in one.rows():
            g = row["gear"]
            rows.append(
                [
                    *(one.label, g.ring, g.sprocket, round(g.ratio, 4), round(g.development_m, 3)),
                    *(round(g.gear_inches, 2), round(g.speed_kmh, 2)),
                    *("" if row[key] is None else round(row[key], 2) for key in ("step", "angle")),
                ]
            )
    return rows


def _chain(request: HttpRequest, page: Page, context: dict[str, Any], now: Build, then: Build | None) -> Made:
    """The chain's window with the four ways beside each other, and the label of the chain that comes off."""
    stands, shown = chain_of(now, context["settings"]), chain_of(then or now, context["settings"])
    was = stands if then is not None else None
    scene = chain_scene(shown, was) if shown and shown.window else None
    parts = now.filled()
    label = {
        "links": stands.links if stands else None,
        "chain": parts.get("chain"),
        "cassette": parts.get("cassette"),
        "rings": parts.get("chainrings"),
    }
    more = {"chain": shown, "was": was, "scene": scene, "label": label}
    if request.GET.get("label"):
        return Made(template="bikes/chain_label.html", context=more, rows=[], name="chain")
    rows: Rows = [["way", "links"]] if shown and shown.window else []
    if shown and shown.window:
        window = shown.window
        rows += [
            ["lower end", window.min_links],
            ["upper end", "" if window.max_links is None else window.max_links],
            ["chain on the bike", "" if shown.links is None else shown.links],
            ["simple formula", window.simple_formula_links],
        ]
    return Made(template="bikes/chain.html", context=more, scene=scene, rows=rows, name="chain")


Maker = Callable[[HttpRequest, Page, dict[str, Any], Build, "Build | None"], Made]
MAKERS: dict[str, Maker] = {"gears": _gears, "chain": _chain}
